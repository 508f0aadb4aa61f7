"""What the Locker shows beside its forms: a unit's picture, what saving it would do, and which amp goes into what."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from low_tide.app.bench import rig_of
from low_tide.app.errors import Invalid, NotFound
from low_tide.app.locker import all_gear, read_form, read_unit, uses_gear
from low_tide.app.preferences import preferences
from low_tide.app.readings import known
from low_tide.app.turns import give_way
from low_tide.core.finder.pairs import AmpIntoBox, goes_on_an_amp, pairs
from low_tide.core.inventory import Surrounding, Unit
from low_tide.core.judging.findings import RANK, Verdict
from low_tide.core.judging.judge import Judgement, judge
from low_tide.core.presentation.back import Back, back
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.store import hookups
from low_tide.store.hookups import HookupRecord


@dataclass(frozen=True)
class Effect:
    """What an edit of a unit does to a hook-up: severity and words now and then, and what changes, in a sentence."""

    hookup: str
    name: str
    before: str
    after: str
    words: str


def picture(doc: Mapping[str, Any]) -> Back:
    """The working picture of a unit as it stands in its form. Invalid where it cannot be read."""
    return back(read_form(doc))


def amps_into_boxes(beside: str = "") -> tuple[AmpIntoBox, ...]:
    """Every amp straight into every load and cabinet, or into each and the one `beside` it; each on its best tap, by
    one's schools."""
    other = all_gear().get(beside)
    if beside and other is None:
        raise NotFound(f"There is no unit “{beside}” in the locker.")
    if other and (other.archived or not goes_on_an_amp(other)):
        raise Invalid(f"Together with: {other.name} is no load or cabinet that goes on an amp.")
    return pairs(all_gear(), preferences(), give_way, beside)


def effects(gear_id: str, doc: Mapping[str, Any]) -> tuple[Effect, ...]:
    """What saving a unit as it stands in its form would do to every hook-up whose verdict or findings change by it.

    Hook-ups that keep an older copy of it are left out: nothing changes there.
    """
    unit = read_unit({**doc, "id": gear_id})
    found, measured = [], known()
    for row in hookups.listed():
        give_way()
        if any(kept["id"] == gear_id for kept in row.pinned):
            continue
        try:
            rig = rig_of(row, measured)
        except (Invalid, NotFound):
            continue
        if isinstance(unit, Surrounding) or uses_gear(row, gear_id):
            effect = _effect(row, rig, unit)
            if effect is not None:
                found.append(effect)
    return tuple(sorted(found, key=lambda e: -RANK.get(e.after, 0)))


def _effect(row: HookupRecord, rig: Rig, unit: Unit) -> Effect | None:
    before = judge(rig, preferences())
    try:
        made = checked(rig.hookup, {**rig.gear, unit.id: unit})
    except HookupError as error:
        words = f"could no longer be laid out: {error.problems[0]}"
        return Effect(row.id, row.name, before.verdict.severity, "stop", words)
    after = judge(Rig(made.hookup, made.gear, rig.known), preferences())
    words = _words(before, after)
    return Effect(row.id, row.name, before.verdict.severity, after.verdict.severity, words) if words else None


def _words(before: Judgement, after: Judgement) -> str:
    """What changes, in a sentence; empty where nothing that warns does."""
    known_before = {f.key for f in before.findings}
    new = [f for f in after.findings if f.key not in known_before and RANK[f.severity] >= RANK["caution"]]
    said = _verdicts(before.verdict, after.verdict)
    if new:
        return f"{said}: {new[0].text.rstrip('.')}" + (f", and {len(new) - 1} more" if len(new) > 1 else "")
    known_after = {f.key for f in after.findings}
    gone = [f for f in before.findings if f.key not in known_after and RANK[f.severity] >= RANK["caution"]]
    if gone:
        return f"{said}; no longer: {gone[0].text.rstrip('.')}"
    return said if before.verdict.severity != after.verdict.severity else ""


def _verdicts(before: Verdict, after: Verdict) -> str:
    if before.words == after.words:
        return f"stays “{after.words}”"
    return f"from “{before.words}” to “{after.words}”"
