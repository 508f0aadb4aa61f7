"""A plan as files: calendar, tables, Markdown. Notes of one's own stay here but in the table of parts."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime, timedelta

from low_tide.app.clock import ears_day_of
from low_tide.app.plan_picture import BlockState, DayState, PlanState, state
from low_tide.app.plans import project_of, row_of
from low_tide.core.planning.problem import SLOT_MIN
from low_tide.formats import markdown
from low_tide.formats.calendar import Entry, write_calendar
from low_tide.formats.part_table import parts_csv as table_of_parts
from low_tide.formats.tables import write_csv
from low_tide.store import hookups


def _instant(day: DayState, slot: int) -> datetime:
    start, _, _ = ears_day_of(day.date, SLOT_MIN)
    return datetime.fromisoformat(start) + timedelta(minutes=slot * SLOT_MIN)


def _blocks(plan: PlanState) -> Iterator[tuple[DayState, BlockState]]:
    for day in plan.days:
        for block in day.blocks:
            yield day, block


def _title(block: BlockState) -> str:
    return f"{block.song}, {block.name}{': choose the sound' if block.choosing else ''}"


def as_calendar(plan_id: str) -> bytes:
    """The blocks of a plan as iCalendar."""
    plan = state(plan_id)
    entries = [
        Entry(
            f"{plan_id}-{block.part}{'-choose' if block.choosing else ''}@low-tide",
            _instant(day, block.start),
            _instant(day, block.start + block.slots),
            _title(block),
            f"Through {block.through}." if block.through else "",
        )
        for day, block in _blocks(plan)
    ]
    return write_calendar(plan.name, entries, datetime.fromisoformat(row_of(plan_id).updated))


def _length(block: BlockState, doing: str) -> int:
    return sum(each.slots for each in block.stretches if each.doing == doing) * SLOT_MIN


def as_csv(plan_id: str) -> str:
    """The blocks of a plan as CSV, in their order."""
    heads = ("date", "from", "to", "song", "part", "role", "find, min", "play, min", "rest, min", "choose, min")
    more = ("change-over before, min", "plugs moved", "hook-up", "scene", "loud", "done")
    rows = [
        (
            day.date,
            *block.at.split(" to "),
            block.song,
            block.name,
            block.role,
            *(_length(block, doing) for doing in ("find", "play", "rest", "choose")),
            block.change * SLOT_MIN,
            block.plugs,
            block.through,
            block.scene,
            "loud" if block.loud else "silent",
            "yes" if block.done else "",
        )
        for day, block in _blocks(state(plan_id))
    ]
    return write_csv((*heads, *more), rows)


def parts_csv(plan_id: str) -> str:
    """The parts of a project as CSV, which can be brought in again."""
    names = hookups.names()
    return table_of_parts(project_of(row_of(plan_id)), lambda hookup: names.get(hookup, hookup))


def as_markdown(plan_id: str) -> str:
    """A plan as Markdown: day by day, each block to tick, with what leads are moved before it."""
    plan = state(plan_id)
    parts = []
    for day in plan.days:
        lines = [markdown.ticked(block.done, f"{block.at}  {_title(block)}", _beneath(block)) for block in day.blocks]
        title = f"{day.name}{f', {day.note}' if day.note else ''}"
        parts.append((title, lines or ["Nothing is laid on this day.\n"]))
    left = [f"- {markdown.plain(each.name)}\n" for each in plan.left_out]
    about = [f"{plan.changes} change-overs, {plan.plugs} plugs moved. Ears by: {plan.school}."]
    return "".join(markdown.document(f"Plan: {plan.name}", about, [*parts, ("Not laid", left)]))


def _beneath(block: BlockState) -> str:
    doing = ", ".join(f"{each.doing} {each.slots * SLOT_MIN} min" for each in block.stretches)
    change = f" Before it {block.change * SLOT_MIN} min: {block.plugs} plugs are moved." if block.plugs else ""
    return (
        f"{'Loud' if block.loud else 'Silent'}: {doing}{f', through {block.through}' if block.through else ''}.{change}"
    )
