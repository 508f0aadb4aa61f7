"""Level at the converter, damage to inputs, phantom power."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import floor

from low_tide.core.gear.base import STAGE, Control
from low_tide.core.inventory import Interface, Lead, Microphone, Pedal
from low_tide.core.judging.checks.moves import other_lead
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, Fix
from low_tide.core.rig.changes import Change, Guard, SetControl
from low_tide.core.rig.hookup import End, Link
from low_tide.core.signal_path.gain_staging import as_it_stands
from low_tide.core.signal_path.levels import TARGET_DBFS, WINDOW_DBFS, InPoint, LinePoint, input_gain_db, phantom_source
from low_tide.core.units import figure, level_figure

FAMILY = "Level"


def _moved(control: Control | None, now: float, by: float) -> float | None:
    """The control's value nearest to `now + by` in whole dB; None where it cannot move at all."""
    if control is None:
        return None
    value = min(control.high, max(control.low, float(round(now + by))))
    return None if value == now else value


@dataclass(frozen=True)
class _Knob:
    """A control that moves the level at the converter dB for dB: where it stands, and how to move it."""

    name: str
    unit: str
    control: Control | None
    now: float

    def moved(self, by: float) -> float | None:
        return _moved(self.control, self.now, by)

    def set(self, value: float) -> Change:
        assert self.control is not None
        return SetControl(self.unit, self.control.id, value)

    def said(self, value: float) -> str:
        return f"{self.name} to {value:g} dB".replace("-", "−")


def _pot(case: Case, point: LinePoint) -> _Knob:
    unit = point.source.unit
    control = case.rig.control(unit, "line.pot") or case.rig.control(unit, "level")
    now = case.rig.settings(unit).get(control.id, 0.0) if control else 0.0
    return _Knob("the line level", unit, control, float(now))


def _gain(case: Case, point: LinePoint) -> _Knob:
    unit, control = point.input.unit, f"{point.input.socket}.gain"
    now = case.rig.settings(unit).get(control, 0.0)
    return _Knob("gain", unit, case.rig.control(unit, control), float(now))


def level_fixes(case: Case, point: LinePoint) -> Iterator[Fix]:
    """Ways to bring the peaks to the target: one knob, the other, both, the pad."""
    if point.dbfs is None:
        return
    want = TARGET_DBFS - point.dbfs
    knobs = (_gain(case, point), _pot(case, point))
    # Too hot: gain first, what is left at the pot. Too low: the pot first, its noise comes after it.
    first, second = knobs if want < 0 else reversed(knobs)
    for knob in (first, second):
        if (value := knob.moved(want)) is not None:
            yield Fix(f"Set {knob.said(value)}", (knob.set(value),))
    if (one := first.moved(want)) is not None and (rest := second.moved(want - (one - first.now))) is not None:
        yield Fix(f"Set {first.said(one)} and {second.said(rest)}", (first.set(one), second.set(rest)))
    pad = case.rig.control(point.input.unit, f"{point.input.socket}.pad")
    if pad is not None and bool(case.rig.settings(point.input.unit)[pad.id]) != (want < 0):
        label = "Switch the pad in" if want < 0 else "Switch the pad out"
        yield Fix(label, (SetControl(point.input.unit, pad.id, want < 0),))


def _lowered(case: Case, point: LinePoint, *steps: float) -> Iterator[Fix]:
    """The line level turned down by each of these steps (dB, negative), as far as it can be."""
    pot = _pot(case, point)
    for by in steps:
        if (value := pot.moved(by)) is not None:
            yield Fix(f"Set {pot.said(value)}", (pot.set(value),))


def limiter_fixes(case: Case, point: LinePoint) -> Iterator[Fix]:
    """Less line level and as much more gain: the peak stays, and what lies between is reached no more."""
    pot, gain = _pot(case, point), _gain(case, point)
    for by in (-3.0, -6.0, -10.0):
        down = pot.moved(by)
        up = None if down is None else gain.moved(pot.now - down)
        if down is not None and up is not None and up - gain.now == pot.now - down:
            yield Fix(f"Set {pot.said(down)} and {gain.said(up)}", (pot.set(down), gain.set(up)))


def _where(case: Case, point: LinePoint) -> tuple[tuple[str, ...], tuple[str, ...]]:
    return (point.source.unit, *point.through, point.input.unit), (point.lead,)


def _heard_by(case: Case, point: LinePoint) -> tuple[str, ...]:
    """What a microphone at the beginning of a path stands before."""
    far = case.rig.far_end(End(point.source.unit, "capsule"))
    return (far.unit,) if far and isinstance(case.rig.gear[point.source.unit], Microphone) else ()


def _recorded(case: Case) -> Iterator[tuple[Link, End, End]]:
    """Leads into interface inputs: lead, output end, input end."""
    for end in case.signal_paths.recorded:
        for edge in case.signal_paths.into(end):
            if edge.link:
                yield edge.link, edge.a, end


@check(
    "converter-clips",
    FAMILY,
    "Peaks go over full scale, or over the top of the window (−6 dBFS).",
    reads=("line_points",),
    asks=("drivers.sensitivity",),
)
def converter_clips(case: Case) -> Iterator[Finding]:
    for point in case.line_points:
        where = case.rig.label(point.input)
        units, leads = _where(case, point)
        if point.dbfs is None:
            yield Finding(
                id="converter-clips",
                severity="caution",
                text=f"The level at {where} cannot be computed.",
                reason=f"{point.why[:1].upper()}{point.why[1:]}. Start with gain and line level"
                " down, and watch the meter.",
                units=(*_heard_by(case, point), *units),
                leads=leads,
            )
            continue
        if point.dbfs <= WINDOW_DBFS[1]:
            if point.dbfs >= WINDOW_DBFS[0]:
                yield Finding(
                    id="converter-clips",
                    severity="fine",
                    text=f"Peaks at {where} reach about {level_figure(point.dbfs)} dBFS.",
                    reason="That lies in the window from −18 to −6 dBFS.",
                    units=units,
                    leads=leads,
                )
            continue
        clips = point.dbfs > 0
        yield Finding(
            id="converter-clips",
            severity="caution",
            text=f"Peaks clip at {where}: about {level_figure(point.dbfs)} dBFS."
            if clips
            else f"Little headroom at {where}: peaks about {level_figure(point.dbfs)} dBFS.",
            reason=f"The line brings {level_figure(point.peak_dbu)} dBu at its peaks; aim for −12 dBFS.",
            units=units,
            leads=leads,
            fixes=tuple(level_fixes(case, point)),
        )


@check(
    "converter-low",
    FAMILY,
    "Peaks stay under the bottom of the window (−18 dBFS).",
    reads=("line_points",),
)
def converter_low(case: Case) -> Iterator[Finding]:
    for point in case.line_points:
        if point.dbfs is None or point.dbfs >= WINDOW_DBFS[0]:
            continue
        units, leads = _where(case, point)
        yield Finding(
            id="converter-low",
            severity="caution",
            text=f"Quiet at {case.rig.label(point.input)}: peaks about {level_figure(point.dbfs)} dBFS.",
            reason=f"The line brings {level_figure(point.peak_dbu)} dBu at its peaks. Gain added afterwards lifts the"
            " noise with it; aim for −12 dBFS.",
            units=units,
            leads=leads,
            fixes=tuple(level_fixes(case, point)),
        )


ASSUMED_MAXIMUM_SPREAD_DB = 3.0
"""How far an absolute maximum that nobody stated may be off, and still be told from what it would stop."""


@check(
    "input-damage",
    FAMILY,
    "Flyback peaks could pass the input's absolute maximum, with no limiter between.",
    reads=("line_points",),
    may_stop=True,
)
def input_damage(case: Case) -> Iterator[Finding]:
    for point in case.line_points:
        most = point.absolute_max
        sure = most + (ASSUMED_MAXIMUM_SPREAD_DB if point.absolute_assumed else 0.0)
        unsure = most - (ASSUMED_MAXIMUM_SPREAD_DB if point.absolute_assumed else 0.0)
        where, (units, leads) = case.rig.label(point.input), _where(case, point)
        is_stop = point.damage_dbu > sure
        reason = ""
        if point.damage_dbu > unsure or point.most_dbu > most:
            brought = point.damage_dbu if point.damage_dbu > unsure else point.most_dbu
            reason = (
                f"Flyback from a cranked output stage can bring {level_figure(brought)} dBu here with the line level up"
                f" and the steps before it at their least; it stands {level_figure(most)} dBu."
            )
        elif point.switched_dbu > most:
            reason = (
                "With one switch moved, flyback from a cranked output stage can bring"
                f" {level_figure(point.switched_dbu)} dBu here; it stands {level_figure(most)} dBu."
            )
        if not reason:
            continue
        if point.absolute_assumed:
            reason += " That maximum is not known; 6 dB over full scale was taken. Look it up and enter it."
        yield Finding(
            id="input-damage",
            severity="stop" if is_stop else "caution",
            text=f"{where} could be damaged.",
            reason=reason,
            units=units,
            leads=leads,
            fixes=tuple(_safely_low(case, point, unsure)),
            typical=("absolute maximum assumed",) if point.absolute_assumed else (),
        )


def _safely_low(case: Case, point: LinePoint, most: float) -> Iterator[Fix]:
    """The line level brought to where nothing gets over `most` (dBu) any more, and taped there."""
    pot = _pot(case, point)
    if pot.control is None:
        return
    over = max(point.damage_dbu, point.most_dbu, point.switched_dbu) - most
    value = max(pot.control.low, min(pot.now, float(floor(pot.control.high - over))))
    changes = () if value == pot.now else (pot.set(value),)
    taped = f"Set {pot.said(value)} and tape it" if changes else f"Tape {pot.said(value)}"
    yield Fix(taped, (*changes, Guard(pot.unit, pot.control.id)))


@check(
    "phantom-on",
    FAMILY,
    "48 V is on where a passive tap or an unbalanced line is connected.",
    reads=("signal_paths",),
    may_stop=True,
    asks=("line_out.phantom", "phantom"),
)
def phantom_on(case: Case) -> Iterator[Finding]:
    for link, source, target in _recorded(case):
        line, control = phantom_source(case.rig, source), f"{target.socket}.phantom"
        on = case.rig.settings(target.unit).get(control, False)
        if not on or (line is not None and line.phantom in ("needs", "tolerates")):
            continue
        harmed = line is not None and line.phantom == "harmed"
        yield Finding(
            id="phantom-on",
            severity="stop" if harmed else "caution",
            text=f"48 V phantom is on at {case.rig.label(target)}.",
            reason=f"{case.rig.name(source.unit)} "
            + ("is harmed by it, its maker says." if harmed else "is not known to stand it."),
            units=(source.unit, target.unit),
            leads=(link.lead,),
            fixes=(Fix("Switch phantom off", (SetControl(target.unit, control, False),)),),
        )


@check(
    "phantom-needed",
    FAMILY,
    "A box that runs on 48 V phantom gets none.",
    reads=("signal_paths",),
)
def phantom_needed(case: Case) -> Iterator[Finding]:
    for link, source, target in _recorded(case):
        line = phantom_source(case.rig, source)
        gear = case.rig.gear[target.unit]
        if line is None or line.phantom != "needs" or not isinstance(gear, Interface):
            continue
        control = f"{target.socket}.phantom"
        if case.rig.settings(target.unit).get(control, False):
            lead = case.rig.conductor(link)
            if isinstance(lead, Lead) and lead.screen_is_cut:
                yield Finding(
                    id="phantom-needed",
                    severity="caution",
                    text=f"{case.rig.name(source.unit)} needs 48 V phantom, and {lead.name} does not bring it.",
                    reason="Its screen is cut at one end, and the screen is the way back of the 48 V.",
                    units=(source.unit, target.unit),
                    leads=(link.lead,),
                    fixes=tuple(other_lead(case.rig, link, "balanced")),
                )
            continue
        can = case.rig.control(target.unit, control) is not None
        yield Finding(
            id="phantom-needed",
            severity="caution",
            text=f"{case.rig.name(source.unit)} needs 48 V phantom and gets none.",
            reason="Without it there is no signal." if can else f"{case.rig.label(target)} has no phantom power.",
            units=(source.unit, target.unit),
            leads=(link.lead,),
            fixes=(Fix("Switch phantom on", (SetControl(target.unit, control, True),)),) if can else (),
        )


@check(
    "power-stage-not-recorded",
    FAMILY,
    "The recorded output lies before the power stage.",
    reads=("signal_paths",),
)
def power_stage_not_recorded(case: Case) -> Iterator[Finding]:
    for end in case.signal_paths.recorded:
        upstream = case.signal_paths.upstream(end)
        before = [
            (unit, amp)
            for unit, amp in case.rig.amps()
            if End(unit, "input") in upstream or End(unit, "send") in upstream or End(unit, "line") in upstream
        ]
        if any(e.socket == STAGE for e in upstream):
            continue
        for unit, amp in before:
            out = "its effects send" if End(unit, "send") in upstream else "its line out"
            yield Finding(
                id="power-stage-not-recorded",
                severity="note",
                text=f"What {case.rig.label(end)} records of {amp.name} comes before its power stage.",
                reason=f"It is {out}. Load, tap and power mode will not change this take.",
                units=(unit, end.unit),
            )


def _over(case: Case, point: InPoint) -> float | None:
    """By how many dB the peaks at an input are over what it takes cleanly; None where that is not known."""
    most = case.rig.socket(point.input).max_dbu
    return None if most is None or point.peak_dbu is None else point.peak_dbu - most


def _turned_down(case: Case, point: InPoint, by: float) -> Iterator[Fix]:
    """The level control before this input turned down by `by` dB, if it goes that far."""
    unit = point.source.unit
    for control_id in ("line.pot", "level", f"{point.source.socket}.trim", "volume"):
        control = case.rig.control(unit, control_id)
        if control is None or control.kind != "range":
            continue
        value = _moved(control, float(case.rig.settings(unit)[control_id]), -by - 1)
        if value is not None:
            name = control.label[:1].lower() + control.label[1:]
            label = f"Set the {name} of {case.rig.name(unit)} to {value:g} dB".replace("-", "−")
            yield Fix(label, (SetControl(unit, control_id, value),))


@check(
    "pedal-clips",
    FAMILY,
    "A pedal or line box gets more than it takes cleanly.",
    reads=("inputs",),
    asks=("max_in",),
)
def pedal_clips(case: Case) -> Iterator[Finding]:
    yield from _clips(case, "pedal-clips", returns=False)


@check(
    "return-clips",
    FAMILY,
    "A return, of an amp's loop or of a processor, gets more than it takes cleanly.",
    reads=("inputs",),
)
def return_clips(case: Case) -> Iterator[Finding]:
    yield from _clips(case, "return-clips", returns=True)


def _clips(case: Case, check_id: str, returns: bool) -> Iterator[Finding]:
    for point in case.inputs:
        over = _over(case, point)
        if over is None or over <= 0 or (point.input.socket == "return") != returns:
            continue
        if isinstance(case.rig.gear[point.input.unit], Interface):
            continue
        yield Finding(
            id=check_id,
            severity="caution",
            text=f"{case.rig.label(point.input)} gets {figure(over, 2)} dB more than it takes cleanly.",
            reason=f"Peaks bring {level_figure(point.peak_dbu or 0.0)} dBu; it takes"
            f" {level_figure(case.rig.socket(point.input).max_dbu or 0.0)} dBu.",
            units=(point.source.unit, point.input.unit),
            leads=(point.lead,),
            fixes=tuple(_turned_down(case, point, over)),
        )


@check(
    "loop-level-mismatch",
    FAMILY,
    "A pedal made for an instrument sits at line level, or the other way round.",
    reads=("inputs",),
    asks=("max_in",),
)
def loop_level_mismatch(case: Case) -> Iterator[Finding]:
    for point in case.inputs:
        gear, source = case.rig.gear[point.input.unit], case.rig.socket(point.source)
        into = case.rig.socket(point.input)
        if (
            not isinstance(gear, Pedal)
            or gear.max_in is not None
            or (source.level, into.level) != ("line", "instrument")
        ):
            continue
        yield Finding(
            id="loop-level-mismatch",
            severity="caution",
            text=f"{gear.name} is made for a guitar and gets line level.",
            reason="How much it takes is not known. Turn down what feeds it"
            f" ({case.rig.label(point.source)}) and listen, or"
            " find its figure and enter it.",
            units=(point.source.unit, point.input.unit),
            leads=(point.lead,),
        )


@check(
    "mic-overload",
    FAMILY,
    "A microphone gets more sound than it stands.",
    reads=("signal_paths", "levels"),
    asks=("max_level", "drivers.sensitivity"),
)
def mic_overload(case: Case) -> Iterator[Finding]:
    for unit, gear in case.rig.units():
        if not isinstance(gear, Microphone) or not case.signal_paths.into(End(unit, "capsule")):
            continue
        cabinet = next(e.a.unit for e in case.signal_paths.into(End(unit, "capsule")))
        units, leads = (cabinet, unit), (unit,)
        peak = case.levels.at(End(unit, "out"))
        distance = case.rig.settings(unit)["distance"]
        if gear.max_level is None or peak.normal is None:
            what = "it stands" if gear.max_level is None else f"comes from {case.rig.name(cabinet)}"
            why = peak.why or "its maximum sound pressure level is missing"
            yield Finding(
                id="mic-overload",
                severity="note",
                text=f"How much sound {what}, at {gear.name}, is not known.",
                reason=f"{why[:1].upper()}{why[1:]}. Listen for distortion that the gain does not cure.",
                units=units,
                leads=leads,
            )
        elif peak.limited:
            yield Finding(
                id="mic-overload",
                severity="caution",
                text=f"{gear.name} gets more than the {figure(gear.max_level)} dB it stands.",
                reason=f"At {distance:g} cm from {case.rig.name(cabinet)}, flat out, its own capsule"
                " distorts. Move it back.",
                units=units,
                leads=leads,
                fixes=tuple(
                    Fix(f"Move {gear.name} to {at} cm", (SetControl(unit, "distance", float(at)),))
                    for at in (20, 30, 50, 100, 200)
                    if at > float(distance)
                ),
                typical=("sensitivity holds for small signals; flat out a speaker gives rather less",),
            )


MOST_GAIN_DB = 30.0
LIMITER_STEPS_DB = (-3.0, -6.0, -10.0, -15.0, -20.0, -30.0)


@check(
    "limiter-works",
    FAMILY,
    "The tap's limiter is reached: the take has its clipping in it.",
    reads=("line_points",),
)
def limiter_works(case: Case) -> Iterator[Finding]:
    for point in case.line_points:
        if not point.limited:
            continue
        units, leads = _where(case, point)
        yield Finding(
            id="limiter-works",
            severity="caution",
            text=f"The limiter of {case.rig.name(point.source.unit)} is at work.",
            reason="The loudest peaks reach it, so its clipping is in the take.",
            units=units,
            leads=leads,
            fixes=tuple(_lowered(case, point, *LIMITER_STEPS_DB)),
        )


LEAST_OVER_NOISE_DB = 50.0


@check(
    "noise-lift",
    FAMILY,
    "More than 30 dB of gain is needed after the tap, or the peaks come within 50 dB of the noise that is computed.",
    reads=("line_points",),
)
def noise_lift(case: Case) -> Iterator[Finding]:
    for point in case.line_points:
        gear = case.rig.gear[point.input.unit]
        if point.dbfs is None or not isinstance(gear, Interface):
            continue
        gain = input_gain_db(case.rig, point.input, gear.input(point.input.socket))
        line = as_it_stands(case.rig, point)
        close = line.over_noise is not None and line.over_noise < LEAST_OVER_NOISE_DB
        if line.noise is None or (gain <= MOST_GAIN_DB and not close):
            continue
        units, leads = _where(case, point)
        typical = tuple(dict.fromkeys(said for rung in line.rungs for said in rung.typical))
        yield Finding(
            id="noise-lift",
            severity="caution",
            text=f"{case.rig.label(point.input)} adds {figure(gain)} dB of gain."
            if gain > MOST_GAIN_DB
            else f"Little between the peaks and the noise at {case.rig.label(point.input)}.",
            reason=f"Noise comes to about {level_figure(line.noise)} dBFS there,"
            f" {figure(line.over_noise or 0.0, 2)} dB under the peaks; gain lifts both. Turn the line level up first.",
            units=units,
            leads=leads,
            typical=typical,
        )
