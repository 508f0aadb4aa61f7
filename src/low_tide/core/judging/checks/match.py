"""Match: what the amp sees against what its tap wants, on the nominal network."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache

from low_tide.core.circuit.impedance import MeasuredCurve, driver_impedance, lowest_in_rating_band
from low_tide.core.frequency import frequency_grid
from low_tide.core.gear.amp import NOT_KNOWN
from low_tide.core.gear.base import Curve
from low_tide.core.inventory import Amp, Cabinet, Load, PowerStage, ReAmp
from low_tide.core.judging.checks.load import amp_of, is_open
from low_tide.core.judging.checks.moves import to_other_tap
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, School, SchoolView, Severity
from low_tide.core.power.shares import Seen
from low_tide.core.preferences import MATCH_NAMES
from low_tide.core.units import figure, in_ohms

FAMILY = "Match"
FINE = (0.8, 1.25)
FINE_TOLERANCE = 0.02
LISTED = 0.1
EDGE_TOLERANCE = 0.002
"""Room at 2:1 and 1.5:1 for what a bridging tap of 10 kΩ or more beside the load takes off."""


def is_fine(ratio: float) -> bool:
    """Whether a school is content with a ratio of seen to wanted."""
    return FINE[0] * (1 - FINE_TOLERANCE) <= ratio <= FINE[1] * (1 + FINE_TOLERANCE)


def severity_of(ratio: float, school: str) -> Severity:
    """How a school judges what the amp sees over what the tap wants."""
    if is_fine(ratio):
        return "fine"
    up = 1 + EDGE_TOLERANCE
    if school == "exact":
        return "caution" if 1 < ratio <= 1.5 * up else "stop"
    lowest = 0.5 / up if school == "either_way" else 1.0
    return "caution" if lowest <= ratio <= 2 * up else "stop"


def is_listed(ohms: float, loads: tuple[float, ...]) -> bool:
    """Whether a maker's list of permitted loads holds these ohms, each listed value ±10 %."""
    return any(abs(ohms / load - 1) <= LISTED * (1 + 1e-9) for load in loads)


def beyond_every_school(ohms: float, wanted: float, loads: tuple[float, ...]) -> bool:
    """Whether a valve amp would see what no school accepts: beyond 2:1, or, where there is a list, not on it."""
    if loads:
        return not is_listed(ohms, loads)
    return all(severity_of(ohms / wanted, school) == "stop" for school in MATCH_NAMES)


def permitted(seen: Seen) -> bool | None:
    """Whether the maker's list holds this load; None where there is no list."""
    if not seen.output.permitted:
        return None
    return is_listed(seen.impedance, seen.output.permitted)


def _school(seen: Seen, chosen: str) -> School:
    others = tuple(SchoolView(name, severity_of(seen.ratio, key)) for key, name in MATCH_NAMES.items() if key != chosen)
    return School("impedance match", MATCH_NAMES[chosen], others)


def _what_it_means(ratio: float) -> str:
    if ratio < 1:
        return "A load this low makes valves and transformer carry extra current."
    return "A load this high makes the voltage in the output stage rise."


@check(
    "mismatch",
    FAMILY,
    "What the amp sees differs from what its tap wants; the school sets how far it may.",
    reads=("seen",),
    may_stop=True,
    asks=("taps",),
)
def mismatch(case: Case) -> Iterator[Finding]:
    for seen in case.seen:
        amp = amp_of(case, seen)
        if is_open(seen) or amp.technology != "valve":
            continue
        output = seen.output
        if output.doubtful:
            yield Finding(
                id="mismatch",
                severity="stop",
                text=f"Where the tap selector of {amp.name} stands is not known.",
                reason=f"It sees {in_ohms(seen.impedance)} by rating. Read the selector off with the amp switched off;"
                " between two marks it may be connected to nothing.",
                units=(output.amp,),
                fixes=tuple(to_other_tap(case.rig, output)),
            )
            continue
        sees, wants = figure(seen.impedance), figure(output.wanted)
        text = f"{amp.name} sees {sees} Ω on its {in_ohms(output.tap)} tap."
        if output.wanted != output.tap:
            text = f"{amp.name} sees {sees} Ω where this mode wants {wants} Ω."
        listed = permitted(seen)
        if listed is not None:
            loads = ", ".join(figure(z) for z in output.permitted)
            yield Finding(
                id="mismatch",
                severity="fine" if listed else "stop",
                text=text,
                reason=f"The maker permits {loads} Ω here; that list stands above every school.",
                units=(output.amp,),
                fixes=() if listed else tuple(to_other_tap(case.rig, output)),
            )
            continue
        severity = severity_of(seen.ratio, case.preferences.match)
        if severity == "fine":
            yield Finding(
                id="mismatch",
                severity="fine",
                text=text,
                reason="That matches, by rated impedance.",
                units=(output.amp,),
            )
            continue
        # One more digit where three would say that it stands on the very edge it lies beyond.
        digits = 4 if figure(seen.ratio) in ("1.5", "2", "0.5") else 3
        way = (
            f"{figure(seen.ratio, digits)} times what is wanted"
            if seen.ratio > 1
            else (f"{figure(100 * seen.ratio, digits)} % of what is wanted")
        )
        yield Finding(
            id="mismatch",
            severity=severity,
            text=text,
            reason=f"By rated impedance that is {way}. {_what_it_means(seen.ratio)}",
            units=(output.amp,),
            school=_school(seen, case.preferences.match),
            fixes=tuple(to_other_tap(case.rig, output)),
        )


def is_below_minimum(amp: PowerStage, ohms: float) -> bool:
    """Whether these ohms are under an amp's least load, where that is known."""
    return amp.minimum_load is not None and ohms < amp.minimum_load * (1 - EDGE_TOLERANCE)


@check(
    "mode-unconfirmed",
    FAMILY,
    "A power mode for which valves are pulled has not been confirmed by a technician.",
    reads=("leads", "speaker"),
    asks=("modes",),
)
def mode_unconfirmed(case: Case) -> Iterator[Finding]:
    for unit, amp in case.rig.amps():
        mode = amp.mode(case.rig.settings(unit))
        if mode.technician and not mode.confirmed:
            yield Finding(
                id="mode-unconfirmed",
                severity="caution",
                text=f"Nobody has confirmed the “{mode.name}” mode of {amp.name}.",
                reason="With valves pulled the output stage wants another load, and which of them"
                " may go is a technician’s"
                " to say. Have it confirmed, then note that in the Locker.",
                units=(unit,),
            )


@check(
    "below-minimum",
    FAMILY,
    "An amp without output transformer sees less than its minimum load.",
    reads=("seen",),
    may_stop=True,
    asks=("minimum_load", "inner_minimum"),
)
def below_minimum(case: Case) -> Iterator[Finding]:
    for seen in case.seen:
        amp = amp_of(case, seen)
        if is_open(seen) or amp.technology == "valve":
            continue
        sees = f"{amp.name} sees {in_ohms(seen.impedance)}"
        if amp.minimum_load is None:
            yield Finding(
                id="below-minimum",
                severity="caution",
                text=f"The minimum load of {amp.name} is not known.",
                reason=f"It sees {in_ohms(seen.impedance)}. Look the least permitted load up and enter it.",
                units=(seen.output.amp,),
            )
        elif is_below_minimum(amp, seen.impedance):
            yield Finding(
                id="below-minimum",
                severity="stop",
                text=f"{sees}, under its minimum of {in_ohms(amp.minimum_load)}.",
                reason="Its output transistors would have to carry more current than they are made for.",
                units=(seen.output.amp,),
            )
        else:
            yield Finding(
                id="below-minimum",
                severity="fine",
                text=f"{sees}; its minimum is {in_ohms(amp.minimum_load)}.",
                reason="Such an amp asks for no match, only for its least load.",
                units=(seen.output.amp,),
            )


@check(
    "jack-unknown",
    FAMILY,
    "Two jacks are in use and nobody has said whether they are parallel.",
    reads=("leads", "speaker"),
    asks=("jack_wiring", "through"),
)
def jack_unknown(case: Case) -> Iterator[Finding]:
    for unit, gear in case.rig.units():
        plugged = len({s.id for s in gear.sockets() if s.level == "speaker"} & case.rig.plugged(unit))
        doubtful = (isinstance(gear, Amp | Cabinet) and gear.jack_wiring == "unknown" and plugged > 1) or (
            isinstance(gear, Load) and gear.through == "unknown" and "through" in case.rig.plugged(unit)
        )
        if doubtful:
            yield Finding(
                id="jack-unknown",
                severity="caution",
                text=f"How the jacks of {gear.name} are wired is not known.",
                reason="They were reckoned as parallel. Look it up before switching on: in series, or with a"
                " switching jack, the amp sees something else.",
                units=(unit,),
            )
        if isinstance(gear, Cabinet) and case.rig.settings(unit).get("halves") == NOT_KNOWN and plugged:
            yield Finding(
                id="jack-unknown",
                severity="caution",
                text=f"Whether {gear.name} is switched to mono or stereo is not known.",
                reason=f"It was reckoned as mono, {in_ohms(gear.nominal())}; in stereo each jack"
                " has half of it to itself.",
                units=(unit,),
            )


@lru_cache(maxsize=256)
def _least(curve: Curve) -> float:
    """Least |Z| (Ω) in the rating band; kept, since a judgement is made many times over the same curves."""
    grid = frequency_grid()
    seen = curve.impedance(grid) if isinstance(curve, MeasuredCurve) else driver_impedance(curve, grid)
    return lowest_in_rating_band(seen, grid)


@check(
    "dips-low",
    FAMILY,
    "A curve goes under 80 % of its rated impedance between 80 Hz and 5 kHz (IEC 60268-5).",
    reads=("leads", "speaker"),
)
def dips_low(case: Case) -> Iterator[Finding]:
    for unit, gear in case.rig.units():
        if isinstance(gear, Cabinet):
            models = {(d.impedance, gear.curve(d)) for d in gear.drivers}
        elif isinstance(gear, Load | ReAmp) and gear.behaviour == "reactive":
            rated = gear.nominal(case.rig.site(unit)) if isinstance(gear, Load) else gear.impedance
            models = {(rated, gear.curve.curve(rated))}
        else:
            continue
        for rated, model in models:
            least = _least(model)
            if least < 0.8 * rated:
                yield Finding(
                    id="dips-low",
                    severity="note",
                    text=f"{gear.name} dips to {in_ohms(least)}, under 80 % of its rated {in_ohms(rated)}.",
                    reason="Its rated value is optimistic between 80 Hz and 5 kHz. The match is still judged by it.",
                    units=(unit,),
                )
