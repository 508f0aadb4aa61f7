"""One search, from a symptom to its end: what is left, what to test next and why, what mends it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from low_tide.core.fault_finding.causes import Cause
from low_tide.core.fault_finding.chances import Answers, Share, after, candidates, offered, ranked
from low_tide.core.fault_finding.probes import Probe, off_first
from low_tide.core.fault_finding.situation import Situation
from low_tide.core.fault_finding.symptoms import BY_ID, DANGER, DANGER_STEPS, MISWIRED
from low_tide.core.judging.findings import Fix
from low_tide.core.power.speaker_network import outputs
from low_tide.core.rig.changes import describe
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig
from low_tide.core.session.meter import meter_ohms, meter_words

SURE = 0.85
"""From this share on a cause is mended before anything else is tested."""
MOST_TESTS = 14


@dataclass(frozen=True)
class NextTest:
    """A test to do: the question, its steps where a lead is touched, its effort, and what its answers would say."""

    id: str
    asks: str
    way: str
    steps: tuple[str, ...]
    effort: float
    why: str


@dataclass(frozen=True)
class Suspicion:
    """A cause that is left: its share (0 to 1), what mends it, in words and as a change, and why it is thought of."""

    id: str
    name: str
    share: float
    remedy: str
    off_first: bool
    technician: bool
    fix: Fix | None
    why: str


@dataclass(frozen=True)
class Search:
    """What is known so far. `test` None: nothing more can be told apart. `mend`: a cause is likely enough to be mended
    now. `caution`: what comes before any test. `steps`: what to do where the symptom is no puzzle, and `measure`: which
    ohms to measure then. `suspects`: ids of units that may have been hurt."""

    symptom: str
    left: tuple[Suspicion, ...]
    test: NextTest | None
    others: tuple[NextTest, ...]
    mend: bool
    danger: bool
    steps: tuple[str, ...]
    measure: tuple[str, ...]
    suspects: tuple[str, ...]
    caution: str = ""


NO_LOAD = (
    "Volume down first. If neither the speaker nor the load makes a sound, switch off before you look further: a valve"
    " amp may be without a load."
)


def search(
    situation: Situation,
    symptom: str,
    answers: Answers = (),
    set_aside: Sequence[str] = (),
    counts: Mapping[str, int] | None = None,
) -> Search:
    """Where a search stands. ValueError for a symptom that is not known."""
    if symptom not in BY_ID:
        raise ValueError(f"Symptom: “{symptom}” is not known.")
    if symptom == DANGER:
        return Search(symptom, (), None, (), False, True, DANGER_STEPS, (), _speaker_units(situation))
    if symptom == MISWIRED:
        return _hooked_up_wrong(situation)
    before = candidates(situation, symptom, set_aside, counts)
    probes = offered(situation, symptom, before)
    shares = after(before, answers, probes)
    tests = [_test(situation, probe, shares, gain) for probe, gain in ranked(situation, shares, answers, probes)]
    over = len(answers) >= MOST_TESTS
    first = None if over else next(iter(tests), None)
    sure = bool(shares) and (shares[0].share >= SURE or first is None)
    left = tuple(_suspicion(situation, s, _why(s.cause, situation, before, answers, probes)) for s in shares)
    caution = NO_LOAD if situation.has_valves and any(s.cause.ohms for s in shares) else ""
    return Search(symptom, left, first, tuple(tests[1:6]), sure, False, (), (), (), caution)


def _test(situation: Situation, probe: Probe, shares: Sequence[Share], gain: float) -> NextTest:
    asks = probe.asks(situation)
    steps = off_first(situation, asks) if probe.touches_a_lead() else ()
    if probe.of:
        name = next(s.cause.name for s in shares if s.cause.id == probe.of)
        why = f"Yes would mean: {name[0].lower()}{name[1:]}."
    else:
        yes = [s for s in shares if probe.likely(s.cause) > 0.7]
        no = [s for s in shares if probe.likely(s.cause) < 0.3]
        parts = [round(100 * sum(s.share for s in each)) for each in (yes, no)]
        why = f"It parts what is left: {parts[0]} % speak for yes, {parts[1]} % for no."
    return NextTest(probe.id, asks, probe.way, steps, probe.effort(situation), why)


SPEAKS_FOR = 1.5
"""An answer speaks for a cause that makes it so many times likelier than the causes do together."""


def _why(
    cause: Cause, situation: Situation, before: Sequence[Share], answers: Answers, probes: Mapping[str, Probe]
) -> str:
    """What speaks for a cause: a check that tells of it, or else the answer that raised it most above the others."""
    told = next((situation.found[c].text for c in cause.checks if c in situation.found), "")
    if told:
        return told
    best, said_so = SPEAKS_FOR, ""
    for probe_id, said in answers:
        probe = probes.get(probe_id)
        if probe is None or said == "unknown":
            continue
        yes = sum(each.share * probe.likely(each.cause) for each in before)
        likely = probe.likely(cause)
        ratio = likely / yes if said == "yes" else (1 - likely) / max(1 - yes, 1e-9)
        if ratio > best:
            best, said_so = ratio, f"You said {said}: {probe.asks(situation)}"
    return said_so


def _suspicion(situation: Situation, share: Share, why: str) -> Suspicion:
    cause = share.cause
    return Suspicion(
        cause.id,
        cause.name,
        share.share,
        cause.remedy,
        cause.at in ("power", "load") or cause.own.way in ("swap", "re_plug", "measure"),
        cause.technician,
        _fix(situation, cause),
        why,
    )


def _fix(situation: Situation, cause: Cause) -> Fix | None:
    """What mends it as a change: its own, or that of the check that tells of it."""
    changes = cause.fix(situation)
    if changes:
        return Fix(describe(changes[0], situation.rig), changes)
    return next((f.fix for c in cause.checks if (f := situation.found.get(c)) and f.fix), None)


def _speaker_units(situation: Situation) -> tuple[str, ...]:
    """Ids of everything at speaker level: what an error there may have hurt."""
    rig = situation.rig
    ends = {e.unit for link in rig.hookup.links for e in link.ends() if rig.socket(e).level == "speaker"}
    return tuple(unit for unit, _ in rig.units() if unit in ends)


def _at_the_amp(rig: Rig) -> Iterator[str]:
    """Ohms at the plug of every lead that comes from an amp."""
    amps = {output.amp for output in outputs(rig)}
    for link in rig.hookup.links:
        for end in link.ends():
            found = None
            if end.unit in amps and rig.socket(end).level == "speaker":
                found = meter_ohms(rig, link, end)
            if found:
                yield f"At the plug of {rig.conductor(link).name}, out of the amp: {meter_words(found)}."


def _by_itself(rig: Rig, units: Sequence[str]) -> Iterator[str]:
    """Ohms of every load and cabinet with nothing plugged into it."""
    for unit in units:
        socket = next((s for s in rig.gear[unit].sockets() if s.level == "speaker"), None)
        if socket is not None and rig.gear[unit].kind in ("load", "attenuator", "cabinet"):
            where = rig.label(End(unit, socket.id))
            yield f"{where}, nothing else plugged: near its rated ohms, neither a short nor open."


def _hooked_up_wrong(situation: Situation) -> Search:
    """Off; which ohms to measure with everything unplugged; who must look at it."""
    rig, suspects = situation.rig, _speaker_units(situation)
    measure = [*_at_the_amp(rig), *_by_itself(rig, suspects)]
    names = ", ".join(rig.name(unit) for unit in suspects)
    steps = (
        f"Volume of {situation.amp_name} down, standby, mains off. Nothing is switched on to see.",
        "Leave everything as it is until it is dark; then unplug the speaker side.",
        f"Look and smell, outside only: {names or 'the amp and its load'}. The cases stay closed.",
        "Measure what is below with everything unplugged, the amp off.",
        f"A qualified technician looks at {situation.amp_name} if it ran without a load, into a short, or smells."
        " An output transformer may be hurt and still play.",
        "What was in it is marked as suspect, and every hook-up with it says so, until somebody clears it with a word.",
    )
    return Search(MISWIRED, (), None, (), False, False, steps, tuple(dict.fromkeys(measure)), suspects)
