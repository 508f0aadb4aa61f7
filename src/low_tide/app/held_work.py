"""What a device held while it had no network: ticks and readings of a run sheet, put in where they still are true."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from low_tide.app.bench import row_of
from low_tide.app.clock import ago
from low_tide.app.errors import Invalid
from low_tide.app.running import Made, RunState, is_known, made_of, read_at, remembering, state_of, ticked
from low_tide.core.session.steps import Step
from low_tide.store import hookups, step_readings
from low_tide.store.database import database
from low_tide.store.hookups import HookupRecord


@dataclass(frozen=True)
class HeldWork:
    """A tick (`done`), or a reading (`value`, None over the meter's range), of a step.

    `key` is its own alone; `revision` and `round` are those of the sheet it was done on, `age_s` how long ago.
    """

    key: str
    kind: Literal["tick", "reading"]
    step: str
    revision: int
    round: int
    age_s: float
    done: bool = True
    value: float | None = None


@dataclass(frozen=True)
class NotPutIn:
    """What is shown instead of being put in, by its key, and why."""

    key: str
    why: str


@dataclass(frozen=True)
class PutIn:
    """The sheet with what was held, and what of it was not put in."""

    state: RunState
    left_out: tuple[NotPutIn, ...]


class _LeftOut(Exception):
    pass


def put_in(hookup_id: str, held: Sequence[HeldWork]) -> PutIn:
    """Put in what was held, in the order it was done in. What is of another state of the hook-up, or older than what
    was done since, is given back; a reading that means stop is put in wherever its step is still on the sheet."""
    with database.atomic():
        row = row_of(hookup_id)
        made = made_of(row)
        left_out = []
        for each in sorted(held, key=lambda work: -work.age_s):
            if is_known(row, each.key):
                continue
            try:
                row = remembering(_put_in(row, made, each), each.key)
            except _LeftOut as error:
                left_out.append(NotPutIn(each.key, str(error)))
        hookups.update(row)
        return PutIn(state_of(row, made), tuple(left_out))


def _put_in(row: HookupRecord, made: Made, work: HeldWork) -> HookupRecord:
    step = next((each for each in made.sheet if each.id == work.step), None)
    same = (work.revision, work.round) == (row.current, row.run.get("round", 0))
    if step is None:
        raise _LeftOut("The hook-up has changed since: this step is not on the sheet any more.")
    at = ago(seconds=work.age_s)
    if work.kind == "tick":
        if not same:
            raise _LeftOut("It was ticked on another state of the hook-up, or before it was switched off.")
        if row.run.get("ticked", {}).get(step.id, "") > at:
            raise _LeftOut("Somebody has ticked this step, or taken the tick back, since then.")
        return ticked(row, made.sheet, step, work.done, work.age_s)
    _read(row, made, work, step, same, at)
    return row


def _read(row: HookupRecord, made: Made, work: HeldWork, step: Step, same: bool, at: str) -> None:
    try:
        record = read_at(row, made.rig, step, work.value, at)
    except Invalid as error:
        raise _LeftOut(str(error)) from None
    # Whatever has happened since: what said stop is looked at before anything is switched on.
    if record.answer != "stop":
        if not same:
            raise _LeftOut("It was read on another state of the hook-up, or before it was switched off. Read it again.")
        since = step_readings.latest(row.id).get(step.id)
        if since is not None and since.at > at:
            raise _LeftOut("This was read again since then.")
    step_readings.insert(record)
