"""The run sheet in use: from what stands, ticks, readings, cautions accepted with a word, switched on and off."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from math import inf, isfinite
from typing import Any

from low_tide.app import loudness, timers
from low_tide.app.bench import rig_at, rig_of, row_of
from low_tide.app.clock import ago, local
from low_tide.app.errors import Invalid, NotFound, NotReady
from low_tide.app.preferences import preferences
from low_tide.app.readings import known
from low_tide.core.judging.findings import VERDICTS, Finding, Verdict
from low_tide.core.judging.judge import Judgement, judge
from low_tide.core.rig.rig import Rig
from low_tide.core.session.by_the_clock import Ending, limit_at, quiet_ahead, when_off, while_it_plays
from low_tide.core.session.change_over import change_over
from low_tide.core.session.expected import KINDS, Expected, HeldReading, drift, held
from low_tide.core.session.run_sheet import Standing, run_sheet
from low_tide.core.session.steps import FIRST, PHASES, Step
from low_tide.core.units import figure
from low_tide.formats import markdown
from low_tide.store import hookups, step_readings, switched, takes
from low_tide.store.database import database
from low_tide.store.home import now
from low_tide.store.hookups import HookupRecord
from low_tide.store.step_readings import StepReadingRecord

LEFT_ON_MIN = 60.0
"""On for longer than this without a take, it is asked whether it still is."""


@dataclass(frozen=True)
class StepReading:
    """What was read off at a step, None over the meter's range, and what it says; `drift` where the unit has moved."""

    value: float | None
    held: HeldReading
    drift: str
    simulated: bool
    at: str


@dataclass(frozen=True)
class StepState:
    """A step, whether it is done, and what was read off there last."""

    step: Step
    phase_name: str
    done: bool
    reading: StepReading | None = None


@dataclass(frozen=True)
class CautionState:
    """A caution, and the word it was accepted with."""

    finding: Finding
    word: str | None


@dataclass(frozen=True)
class Stands:
    """A hook-up that stands, and what it costs to get from it to this one. `plugs`: how many are moved; `minutes`, the
    waits among them; `off`: its amp goes off for it."""

    hookup: str
    name: str
    is_on: bool
    plugs: int
    minutes: float
    off: bool


@dataclass(frozen=True)
class RunState:
    """The run sheet as it stands. `blocked` says why it must not be marked as on yet, worst first, and `unticked` how
    many steps before that are left; empty where none is.

    `revision` and `round`: the state of the hook-up that the ticks are of, and how often they began anew.
    `begins`: the hook-up whose leads it goes on from, None where it begins with nothing; `stands`: what it could go on
    from. `quiet`: limits that it would not keep, and min until they hold. `left_on`: min it has been on without a take,
    where that is to be asked about.
    """

    hookup: str
    name: str
    revision: int
    round: int
    is_on: bool
    since: str | None
    verdict: Verdict
    steps: tuple[StepState, ...]
    stops: tuple[Finding, ...]
    cautions: tuple[CautionState, ...]
    blocked: tuple[str, ...]
    unticked: str
    begins: Stands | None
    stands: Stands | None
    quiet: tuple[Ending, ...]
    left_on: float | None


@dataclass(frozen=True)
class Made:
    """What does not depend on ticks, words and readings."""

    rig: Rig
    judged: Judgement
    sheet: tuple[Step, ...]
    begins: Stands | None


def _count(n: int, what: str) -> str:
    return f"{n} {what}{'s' if n > 1 else ''}"


def _blocked(
    steps: tuple[StepState, ...], stops: tuple[Finding, ...], cautions: tuple[CautionState, ...]
) -> tuple[str, ...]:
    if not steps:
        return ("There is no amp in this hook-up: nothing to switch on.",)
    found = [stop.text for stop in stops]
    found += [f"{s.step.text}: {s.reading.held.words}" for s in _far_off(steps) if s.reading]
    open_cautions = sum(c.word is None for c in cautions)
    if open_cautions:
        found.append(f"{_count(open_cautions, 'caution')} to look at and accept with a word.")
    return tuple(found)


def _unticked(steps: tuple[StepState, ...]) -> str:
    left = sum(not s.done for s in steps if s.step.phase in FIRST)
    return f"{_count(left, 'step')} before switching on to tick." if left else ""


def _far_off(steps: tuple[StepState, ...]) -> list[StepState]:
    """Steps before switching on whose reading means stop."""
    return [s for s in steps if s.step.phase in FIRST and s.reading and s.reading.held.answer == "stop"]


def _verdict(judged: Verdict, steps: tuple[StepState, ...]) -> Verdict:
    """What the hook-up comes to with what was measured on it: a meter that says stop is never clear to switch on."""
    count = len(_far_off(steps))
    if not count:
        return judged
    stops = judged.stops + count
    return Verdict(
        "stop", VERDICTS["stop"], stops, judged.cautions, f"{_count(count, 'reading')} far off: see the step"
    )


def _standing(row: HookupRecord) -> Standing | None:
    """What the sheet goes on from, as it was when that was said; None where it begins with nothing."""
    begins = row.run.get("begins")
    if not begins:
        return None
    there = hookups.find(begins["hookup"])
    rig = rig_at(there, begins["revision"]) if there else None
    if there is None or rig is None:
        return None
    # Once this plays, what it came from is off; how it was then is what the sheet was made by.
    return Standing(rig, begins["is_on"] if row.is_on else there.is_on)


def _stands(row: HookupRecord, rig: Rig, standing: Standing) -> Stands:
    found = change_over(standing.rig, rig, standing.is_on)
    return Stands(row.id, row.name, standing.is_on, found.plugs, found.minutes, found.needs_off)


MOST_SHEETS = 24
_sheets: OrderedDict[str, tuple[Any, Made]] = OrderedDict()
"""Hook-up → what its sheet rests on, and the sheet: ticks come fast, and nothing of it changes by them. Of a few."""


def made_of(row: HookupRecord) -> Made:
    """The sheet as it was made last, as long as nothing that it rests on has changed."""
    begins = row.run.get("begins")
    there = hookups.find(begins["hookup"]) if begins else None
    version = database.version("gear", "preference")
    stands = begins and (begins, there and there.is_on, row.is_on)
    rests_on = (version, row.current, row.saves, row.pinned, row.name, known(), stands)
    last = _sheets.get(row.id)
    if version is not None and last is not None and last[0] == rests_on:
        return last[1]
    made = _make(row)
    if version is not None:
        _sheets[row.id] = rests_on, made
        _sheets.move_to_end(row.id)
        while len(_sheets) > MOST_SHEETS:
            _sheets.popitem(last=False)
    return made


def _make(row: HookupRecord) -> Made:
    rig, schools = rig_of(row), preferences()
    standing = _standing(row)
    begins = None
    if standing is not None and (there := hookups.find(row.run["begins"]["hookup"])) is not None:
        begins = _stands(there, rig, standing)
    return Made(rig, judge(rig, schools), run_sheet(rig, schools, standing), begins)


def _could_go_on_from(row: HookupRecord, rig: Rig) -> Stands | None:
    """What was marked as on last, if that is another: its leads are where it left them."""
    there = next((each for each in hookups.that_stood() if each.id != row.id), None)
    newest = max((each.run.get("stood", {}).get("at", "") for each in (row, there) if each), default="")
    if there is None or row.is_on or there.run["stood"]["at"] != newest:
        return None
    stood = rig_at(there, there.run["stood"]["revision"] if not there.is_on else there.current)
    return _stands(there, rig, Standing(stood, there.is_on)) if stood else None


def accepted_words(row: HookupRecord) -> dict[str, str]:
    """Finding key → the word it was accepted with."""
    return dict(row.run.get("accepted", {}))


def accepted(row: HookupRecord) -> list[Finding]:
    """Cautions of a hook-up as it stands that were accepted with a word."""
    words = accepted_words(row)
    return [f for f in made_of(row).judged.findings if f.severity == "caution" and f.key in words]


def _minute(stamp: str) -> int:
    """Minute of the local day."""
    clock = local(stamp)
    return 60 * clock.hour + clock.minute


def _expected(reads: Expected, rig: Rig, at: str) -> Expected:
    """What a reading should come to at an hour: a limit that holds then bounds it, whatever hour was planned."""
    limit = limit_at(rig, reads.of, _minute(at)) if reads.quantity == "dba" else None
    return reads if limit is None else reads.at_most(limit)


def _reading(step: Step, rig: Rig, record: StepReadingRecord) -> StepReading | None:
    if step.reads is None:
        return None
    value = inf if record.value is None else record.value
    was = step_readings.first_of(step.reads.quantity, step.reads.of, step.reads.state) if step.reads.of else None
    moved = ""
    if step.reads.quantity == "ohms" and was and was.value is not None and was.id != record.id and isfinite(value):
        moved = drift(value, was.value)
    said = held(_expected(step.reads, rig, record.at), value)
    return StepReading(record.value, said, moved, record.simulated, record.at)


def _minutes_since(stamp: str | None) -> float:
    if not stamp:
        return 0.0
    return max(0.0, (datetime.now(UTC) - datetime.fromisoformat(stamp)).total_seconds() / 60)


def _left_on(row: HookupRecord) -> float | None:
    """Minutes since it was switched on, asked about or last had a take, where that is too long."""
    if not row.is_on:
        return None
    last = takes.latest_of(row.id)
    marks = [mark for mark in (row.run.get("since"), row.run.get("asked"), last) if mark]
    idle = min((_minutes_since(mark) for mark in marks), default=0.0)
    return idle if idle >= LEFT_ON_MIN else None


def state_of(row: HookupRecord, made: Made) -> RunState:
    ticks, words = set(row.run.get("ticks", [])), accepted_words(row)
    read = step_readings.latest(row.id)
    steps = tuple(
        StepState(s, PHASES[s.phase], s.id in ticks, _reading(s, made.rig, read[s.id]) if s.id in read else None)
        for s in made.sheet
    )
    findings = made.judged.findings
    stops = tuple(f for f in findings if f.severity == "stop")
    cautions = tuple(CautionState(f, words.get(f.key)) for f in findings if f.severity == "caution")
    return RunState(
        row.id,
        row.name,
        row.current,
        row.run.get("round", 0),
        row.is_on,
        row.run.get("since"),
        _verdict(made.judged.verdict, steps),
        steps,
        stops,
        cautions,
        () if row.is_on else _blocked(steps, stops, cautions),
        "" if row.is_on else _unticked(steps),
        made.begins,
        _could_go_on_from(row, made.rig),
        tuple(quiet_ahead(made.rig, _minute(now()))),
        _left_on(row),
    )


def state(hookup_id: str) -> RunState:
    """The run sheet of a hook-up as it stands."""
    row = row_of(hookup_id)
    return state_of(row, made_of(row))


def _anew(row: HookupRecord) -> dict[str, Any]:
    """Nothing ticked: what was ticked before is of another round."""
    return {"ticks": [], "ticked": {}, "round": row.run.get("round", 0) + 1}


def begin_from(hookup_id: str, standing: str) -> RunState:
    """Go on from the leads of another hook-up as they stand, or, where none is named, begin with nothing plugged."""
    with database.atomic():
        row = row_of(hookup_id)
        if row.is_on:
            raise NotReady("It is marked as switched on: where it came from is past.")
        begins = None
        if standing:
            if standing == hookup_id:
                raise Invalid("Go on from: a hook-up does not go on from itself.")
            there = row_of(standing)
            stood = there.run.get("stood")
            if not stood:
                raise Invalid(f"Go on from: “{there.name}” was never marked as switched on, so nothing of it stands.")
            revision = there.current if there.is_on else stood["revision"]
            begins = {"hookup": there.id, "revision": revision, "is_on": there.is_on}
        row = replace(row, run={**row.run, "begins": begins, **_anew(row)})
        hookups.update(row)
        return state_of(row, made_of(row))


def _step(made: Made, step_id: str) -> Step:
    found = next((s for s in made.sheet if s.id == step_id), None)
    if found is None:
        raise NotFound("This step is not on the sheet any more: the hook-up has changed. Look again.")
    return found


MOST_KEYS = 400
"""Of what was done, so many are remembered by their keys."""


def is_known(row: HookupRecord, key: str | None) -> bool:
    """Whether what has this key was done already: what is sent once more, since its answer was lost, is not done
    twice."""
    return key in row.run.get("held", [])


def remembering(row: HookupRecord, key: str | None) -> HookupRecord:
    """A hook-up that knows that what has this key was done."""
    keys = [*row.run.get("held", []), *([key] if key else [])]
    return replace(row, run={**row.run, "held": keys[-MOST_KEYS:]})


def tick(hookup_id: str, step_id: str, done: bool, key: str | None = None) -> RunState:
    """Tick a step off, or take the tick back, once for each key; what is waited for begins, or is forgotten."""
    with database.atomic():
        row = row_of(hookup_id)
        made = made_of(row)
        if not is_known(row, key):
            row = remembering(ticked(row, made.sheet, _step(made, step_id), done), key)
            hookups.update(row)
        return state_of(row, made)


def ticked(row: HookupRecord, sheet: tuple[Step, ...], step: Step, done: bool, age_s: float = 0.0) -> HookupRecord:
    """A hook-up with a step ticked off or not, so many s ago; what is waited for after it has run for as long."""
    on_sheet = {s.id for s in sheet}
    ticks = (set(row.run.get("ticks", [])) & on_sheet) - {step.id}
    times = {id: at for id, at in row.run.get("ticked", {}).items() if id in on_sheet}
    if step.wait and done:
        timers.begin(step.wait.kind, row.id, step.id, step.wait.words, step.wait.seconds, age_s)
    elif step.wait:
        timers.forget(step.wait.kind, row.id, step.id)
    ticks = ticks | {step.id} if done else ticks
    return replace(row, run={**row.run, "ticks": sorted(ticks), "ticked": {**times, step.id: ago(seconds=age_s)}})


def read(
    hookup_id: str, step_id: str, value: float | None, from_device: bool = False, key: str | None = None
) -> RunState:
    """Keep what was read off at a step, None for over the meter's range, once for each key; `from_device`: from the
    simulated one."""
    with database.atomic():
        row = row_of(hookup_id)
        made = made_of(row)
        if is_known(row, key):
            return state_of(row, made)
        step = _step(made, step_id)
        if from_device and step.reads:
            value = _shown(row, step)
        step_readings.insert(replace(read_at(row, made.rig, step, value, now()), simulated=from_device))
        row = remembering(row, key)
        hookups.update(row)
        return state_of(row, made)


def read_at(row: HookupRecord, rig: Rig, step: Step, value: float | None, at: str) -> StepReadingRecord:
    """What was read off at a step, None for over the meter's range, and what it comes to. Invalid out of bounds."""
    if step.reads is None:
        raise Invalid("Reading: nothing is read off at this step.")
    kind = KINDS[step.reads.quantity]
    if value is None and step.reads.quantity != "ohms":
        raise Invalid(f"{kind.label}: a number in {kind.unit} is wanted.")
    if value is not None and not kind.least <= value <= kind.most:
        bounds = f"{figure(kind.least)} to {figure(kind.most)} {kind.unit}"
        raise Invalid(f"{kind.label}: {figure(value)} is outside {bounds}.")
    said = held(_expected(step.reads, rig, at), inf if value is None else value)
    reads = step.reads
    return StepReadingRecord(row.id, step.id, reads.quantity, reads.of, reads.state, value, said.answer, at)


def _shown(row: HookupRecord, step: Step) -> float:
    """What the simulated device for this quantity shows now."""
    reads = step.reads
    if reads is not None and reads.quantity == "dba":
        return round(loudness.meter_shows(row.id, reads.of, "A", "slow").level, 1)
    if reads is not None and reads.quantity == "celsius":
        return round(loudness.thermometer_shows(row.id, reads.of, _minutes_since(row.run.get("since"))), 1)
    raise Invalid("Reading: no simulated device shows this; type what yours shows.")


def take_back(hookup_id: str, step_id: str) -> RunState:
    """Take the latest reading at a step back."""
    with database.atomic():
        row = row_of(hookup_id)
        made = made_of(row)
        if not step_readings.take_back(row.id, _step(made, step_id).id):
            raise NotFound("There is no reading at this step to take back.")
        return state_of(row, made)


def accept(hookup_id: str, key: str, word: str) -> RunState:
    """Accept a caution with a word that is kept, or take that back with an empty one. Stops are not accepted."""
    word = word.strip()
    if len(word) > 200:
        raise Invalid(f"Your word: at most 200 characters, this has {len(word)}.")
    with database.atomic():
        row = row_of(hookup_id)
        made = made_of(row)
        current = {f.key for f in made.judged.findings if f.severity == "caution"}
        if key not in current:
            raise NotFound("This is not a caution of the hook-up as it stands now. Look again.")
        words = {k: v for k, v in accepted_words(row).items() if k in current and k != key}
        row = replace(row, run={**row.run, "accepted": {**words, key: word} if word else words})
        hookups.update(row)
        return state_of(row, made)


def _same_amp(row: HookupRecord, rig: Rig) -> list[tuple[HookupRecord, Rig | None]]:
    """Other hook-ups marked as on that an amp of this one is in, or that this one came from: they are no more."""
    amps, came_from = {unit for unit, _ in rig.amps()}, (row.run.get("begins") or {}).get("hookup")
    found = []
    for each in hookups.listed():
        if not each.is_on or each.id == row.id:
            continue
        there = rig_at(each, each.current)
        # One whose gear no longer goes together cannot say which amps are in it; it is not what plays now.
        if there is None or each.id == came_from or amps & {unit for unit, _ in there.amps()}:
            found.append((each, there))
    return found


def _off(row: HookupRecord, rig: Rig | None, cools: bool) -> HookupRecord:
    """A hook-up marked as off: its ticks are for next time, and what is hot cools."""
    played = _minutes_since(row.run.get("since"))
    switched.off(row.id, now())
    timers.begin_all("play", row.id, ())
    timers.begin_all("touch", row.id, when_off(rig, played) if cools and rig else ())
    return replace(row, is_on=False, run={**row.run, "since": None, "asked": None, "begins": None, **_anew(row)})


def _on(row: HookupRecord, made: Made) -> HookupRecord:
    """A hook-up marked as on. What it came from is off, and where the amp stayed on the time goes on."""
    stays = made.begins is not None and made.begins.is_on and not made.begins.off
    since = now()
    begins = row.run.get("begins")
    for other, its in _same_amp(row, made.rig):
        if stays and begins and other.id == begins["hookup"]:
            since = other.run.get("since") or since
        hookups.update(_off(other, its, cools=not stays))
    if begins and made.begins:
        begins = {**begins, "is_on": made.begins.is_on}
    timers.begin_all("touch", row.id, ())
    timers.begin_all("play", row.id, while_it_plays(made.rig, preferences(), _minutes_since(since)))
    switched.on(row.id, now())
    stood = {"at": now(), "revision": row.current}
    return replace(row, is_on=True, run={**row.run, "since": since, "begins": begins, "stood": stood})


def switch(hookup_id: str, on: bool) -> RunState:
    """Mark as switched on, refused while anything blocks it; or as off, which clears the ticks."""
    with database.atomic():
        row = row_of(hookup_id)
        made = made_of(row)
        before = state_of(row, made)
        if on and not row.is_on and (why := [*before.blocked, *filter(None, [before.unticked])]):
            raise NotReady("Not yet: " + why[0], *why[1:])
        if on and not row.is_on:
            row = _on(row, made)
        elif not on:
            stood = {"at": now(), "revision": row.current} if row.is_on else row.run.get("stood")
            row = _off(row, made.rig, cools=row.is_on)
            row = replace(row, run={**row.run, "stood": stood} if stood else row.run)
        hookups.update(row)
        return state_of(row, made_of(row))


def still_on(hookup_id: str) -> RunState:
    """Somebody says that it is meant to be on; it is not asked again for an hour."""
    with database.atomic():
        row = row_of(hookup_id)
        if not row.is_on:
            raise NotReady("It is not marked as switched on.")
        row = replace(row, run={**row.run, "asked": now()})
        hookups.update(row)
        return state_of(row, made_of(row))


CAUTION = (
    "Valve amps hold lethal voltages, also switched off: the case stays closed. A valve amp is never on without a load."
    " Makers’ manuals, local codes and a qualified technician stand above this sheet."
)


def as_markdown(hookup_id: str) -> str:
    """The run sheet as Markdown: verdict, what to look at, and every step to tick with what is expected there."""
    found = state(hookup_id)
    findings = [*found.stops, *(c.finding for c in found.cautions)]
    said = [f"- {markdown.plain(f'{f.severity.upper()}: {f.text} {f.reason}')}\n" for f in findings]
    phases = dict.fromkeys((s.step.phase, s.phase_name) for s in found.steps)
    parts = [
        (name, [markdown.ticked(s.done, s.step.text, _beneath(s)) for s in found.steps if s.step.phase == phase])
        for phase, name in phases
    ]
    begins = [f"It goes on from “{found.begins.name}”."] if found.begins else []
    about = [f"{found.verdict.words}", *begins, CAUTION]
    return "".join(markdown.document(f"Run sheet: {found.name}", about, [("To look at", said), *parts]))


def _beneath(state: StepState) -> str:
    if state.reading is None or state.step.reads is None:
        return state.step.expect
    unit = KINDS[state.step.reads.quantity].unit
    value = "over range" if state.reading.value is None else f"{figure(state.reading.value)} {unit}"
    simulated = ", simulated" if state.reading.simulated else ""
    return f"{state.step.expect} — read: {value}{simulated}. {state.reading.held.words}"
