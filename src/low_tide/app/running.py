"""The run sheet in use: ticks, cautions accepted with a word, switched on and off."""

from __future__ import annotations

from dataclasses import dataclass, replace

from low_tide.app.bench import rig_of, row_of
from low_tide.app.errors import Invalid, NotFound, NotReady
from low_tide.app.preferences import preferences
from low_tide.core.judging.findings import Finding, Verdict
from low_tide.core.judging.judge import Judgement, judge
from low_tide.core.session.run_sheet import PHASES, Step, run_sheet
from low_tide.store import hookups
from low_tide.store.database import database
from low_tide.store.home import now
from low_tide.store.hookups import HookupRecord


@dataclass(frozen=True)
class StepState:
    step: Step
    phase_name: str
    done: bool


@dataclass(frozen=True)
class CautionState:
    """A caution, and the word it was accepted with."""

    finding: Finding
    word: str | None


@dataclass(frozen=True)
class RunState:
    """The run sheet as it stands. `blocked` says why it must not be marked as on yet, worst first."""

    hookup: str
    name: str
    is_on: bool
    since: str | None
    verdict: Verdict
    steps: tuple[StepState, ...]
    stops: tuple[Finding, ...]
    cautions: tuple[CautionState, ...]
    blocked: tuple[str, ...]


def _blocked(
    steps: tuple[StepState, ...], stops: tuple[Finding, ...], cautions: tuple[CautionState, ...]
) -> tuple[str, ...]:
    if not steps:
        return ("There is no amp in this hook-up: nothing to switch on.",)
    found = [stop.text for stop in stops]
    open_cautions = sum(c.word is None for c in cautions)
    if open_cautions:
        found.append(f"{open_cautions} caution{'s' if open_cautions > 1 else ''} to look at and accept with a word.")
    left = sum(not s.done for s in steps if s.step.phase == "before")
    if left:
        found.append(f"{left} step{'s' if left > 1 else ''} before switching on to tick.")
    return tuple(found)


def _made(row: HookupRecord) -> tuple[Judgement, tuple[Step, ...]]:
    """What does not depend on ticks and words: the judgement and the steps, by the user's schools."""
    rig, schools = rig_of(row), preferences()
    return judge(rig, schools), run_sheet(rig, schools)


def accepted_words(row: HookupRecord) -> dict[str, str]:
    """Finding key → the word it was accepted with."""
    return dict(row.run.get("accepted", {}))


def _state(row: HookupRecord, judged: Judgement, sheet: tuple[Step, ...]) -> RunState:
    ticks, words = set(row.run.get("ticks", [])), accepted_words(row)
    steps = tuple(StepState(s, PHASES[s.phase], s.id in ticks) for s in sheet)
    stops = tuple(f for f in judged.findings if f.severity == "stop")
    cautions = tuple(CautionState(f, words.get(f.key)) for f in judged.findings if f.severity == "caution")
    return RunState(
        row.id,
        row.name,
        row.is_on,
        row.run.get("since"),
        judged.verdict,
        steps,
        stops,
        cautions,
        () if row.is_on else _blocked(steps, stops, cautions),
    )


def state(hookup_id: str) -> RunState:
    """The run sheet of a hook-up as it stands."""
    row = row_of(hookup_id)
    return _state(row, *_made(row))


def tick(hookup_id: str, step_id: str, done: bool) -> RunState:
    """Tick a step off, or take the tick back."""
    with database.atomic():
        row = row_of(hookup_id)
        judged, sheet = _made(row)
        known = {s.id for s in sheet}
        if step_id not in known:
            raise NotFound("This step is not on the sheet any more: the hook-up has changed. Look again.")
        ticks = (set(row.run.get("ticks", [])) & known) - {step_id}
        row = replace(row, run={**row.run, "ticks": sorted(ticks | {step_id} if done else ticks)})
        hookups.update(row)
        return _state(row, judged, sheet)


def accept(hookup_id: str, key: str, word: str) -> RunState:
    """Accept a caution with a word that is kept, or take that back with an empty one. Stops are not accepted."""
    word = word.strip()
    if len(word) > 200:
        raise Invalid(f"Your word: at most 200 characters, this has {len(word)}.")
    with database.atomic():
        row = row_of(hookup_id)
        judged, sheet = _made(row)
        current = {f.key for f in judged.findings if f.severity == "caution"}
        if key not in current:
            raise NotFound("This is not a caution of the hook-up as it stands now. Look again.")
        words = {k: v for k, v in accepted_words(row).items() if k in current and k != key}
        row = replace(row, run={**row.run, "accepted": {**words, key: word} if word else words})
        hookups.update(row)
        return _state(row, judged, sheet)


def switch(hookup_id: str, on: bool) -> RunState:
    """Mark as switched on, refused while anything blocks it; or as off, which clears the ticks."""
    with database.atomic():
        row = row_of(hookup_id)
        judged, sheet = _made(row)
        before = _state(row, judged, sheet)
        if on and before.blocked and not row.is_on:
            raise NotReady("Not yet: " + before.blocked[0], *before.blocked[1:])
        row = replace(row, is_on=on, run={**row.run, "since": now() if on else None} | ({} if on else {"ticks": []}))
        hookups.update(row)
        return _state(row, judged, sheet)
