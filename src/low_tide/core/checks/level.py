"""Level at the converter, damage to inputs, phantom power."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.capture import TARGET_DBFS, WINDOW_DBFS, LinePoint, input_gain_db, line_links, line_out_of
from low_tide.core.changes import Change, SetControl
from low_tide.core.checks.registry import Case, check
from low_tide.core.finding import Finding, Fix
from low_tide.core.gear import Interface
from low_tide.core.gear.base import Control
from low_tide.core.units import figure, level_figure

FAMILY = "Level"


def _moved(control: Control | None, now: float, by: float) -> float | None:
    """The control's value nearest to `now + by` in whole dB; None where it cannot move at all."""
    if control is None:
        return None
    value = min(control.high, max(control.low, float(round(now + by))))
    return None if value == now else value


def level_fixes(case: Case, point: LinePoint) -> Iterator[Fix]:
    """Ways to bring the peaks to the target: gain alone, pot alone, pot and gain, pad."""
    if point.dbfs is None:
        return
    rig, want = case.rig, TARGET_DBFS - point.dbfs
    gain_id = f"{point.input.socket}.gain"
    gain, pot = rig.control(point.input.unit, gain_id), rig.control(point.source.unit, "line.pot")
    gain_now = float(rig.settings(point.input.unit).get(gain_id, 0.0))
    pot_now = float(rig.settings(point.source.unit).get("line.pot", 0.0))

    def gain_to(value: float) -> Change:
        return SetControl(point.input.unit, gain_id, value)

    def pot_to(value: float) -> Change:
        return SetControl(point.source.unit, "line.pot", value)

    def said(value: float) -> str:
        return f"{value:g} dB".replace("-", "−")

    new_gain, new_pot = _moved(gain, gain_now, want), _moved(pot, pot_now, want)
    # Too hot: gain first, what is left at the pot. Too low: the pot first, its noise comes after it.
    first, second = (new_gain, new_pot) if want < 0 else (new_pot, new_gain)
    one, other = (
        ((gain_to, "gain"), (pot_to, "the line level"))
        if want < 0
        else (
            (pot_to, "the line level"),
            (gain_to, "gain"),
        )
    )
    if first is not None:
        yield Fix(f"Set {one[1]} to {said(first)}", (one[0](first),))
    if second is not None:
        yield Fix(f"Set {other[1]} to {said(second)}", (other[0](second),))
    if first is not None:
        start = gain_now if want < 0 else pot_now
        left = want - (first - start)
        rest = _moved(pot, pot_now, left) if want < 0 else _moved(gain, gain_now, left)
        if rest is not None:
            label = f"Set {one[1]} to {said(first)} and {other[1]} to {said(rest)}"
            yield Fix(label, (one[0](first), other[0](rest)))
    pad = rig.control(point.input.unit, f"{point.input.socket}.pad")
    if pad is not None:
        on = want < 0
        if bool(rig.settings(point.input.unit)[pad.id]) != on:
            label = "Switch the pad in" if on else "Switch the pad out"
            yield Fix(label, (SetControl(point.input.unit, pad.id, on),))


def _where(case: Case, point: LinePoint) -> tuple[tuple[str, ...], tuple[str, ...]]:
    return (point.source.unit, point.input.unit), (point.lead,)


@check("converter-clips", FAMILY, "Peaks go over full scale, or over the top of the window (−6 dBFS).")
def converter_clips(case: Case) -> Iterator[Finding]:
    for point in case.line_points:
        where = case.rig.label(point.input)
        units, leads = _where(case, point)
        if point.dbfs is None:
            yield Finding(
                "converter-clips",
                "caution",
                f"The level at {where} cannot be computed.",
                f"{point.why[:1].upper()}{point.why[1:]}. Start with gain and line level down, and watch the meter.",
                units,
                leads,
            )
            continue
        if point.dbfs <= WINDOW_DBFS[1]:
            if point.dbfs >= WINDOW_DBFS[0]:
                yield Finding(
                    "converter-clips",
                    "fine",
                    f"Peaks at {where} reach about {level_figure(point.dbfs)} dBFS.",
                    "That lies in the window from −18 to −6 dBFS.",
                    units,
                    leads,
                )
            continue
        clips = point.dbfs > 0
        yield Finding(
            "converter-clips",
            "caution",
            f"Peaks clip at {where}: about {level_figure(point.dbfs)} dBFS."
            if clips
            else f"Little headroom at {where}: peaks about {level_figure(point.dbfs)} dBFS.",
            f"The line brings {level_figure(point.peak_dbu)} dBu at its peaks; aim for −12 dBFS.",
            units,
            leads,
            fixes=tuple(level_fixes(case, point)),
        )


@check("converter-low", FAMILY, "Peaks stay under the bottom of the window (−18 dBFS).")
def converter_low(case: Case) -> Iterator[Finding]:
    for point in case.line_points:
        if point.dbfs is None or point.dbfs >= WINDOW_DBFS[0]:
            continue
        units, leads = _where(case, point)
        yield Finding(
            "converter-low",
            "caution",
            f"Quiet at {case.rig.label(point.input)}: peaks about {level_figure(point.dbfs)} dBFS.",
            f"The line brings {level_figure(point.peak_dbu)} dBu at its peaks. Gain added afterwards lifts the"
            " noise with it; aim for −12 dBFS.",
            units,
            leads,
            fixes=tuple(level_fixes(case, point)),
        )


@check("input-damage", FAMILY, "Flyback peaks could pass the input's absolute maximum, with no limiter between.")
def input_damage(case: Case) -> Iterator[Finding]:
    for point in case.line_points:
        if point.damage_dbu <= point.absolute_max:
            continue
        pot = case.rig.control(point.source.unit, "line.pot")
        fixes = []
        if pot is not None:
            now = float(case.rig.settings(point.source.unit)["line.pot"])
            lower = _moved(pot, now, point.absolute_max - point.damage_dbu - 1)
            if lower is not None:
                label = f"Set the line level to {lower:g} dB".replace("-", "−")
                fixes.append(Fix(label, (SetControl(point.source.unit, "line.pot", lower),)))
        assumed = " The maker's maximum is not known; 6 dB over full scale was taken." if point.absolute_assumed else ""
        units, leads = _where(case, point)
        yield Finding(
            "input-damage",
            "stop",
            f"{case.rig.label(point.input)} could be damaged.",
            f"Flyback from a cranked output stage can bring {level_figure(point.damage_dbu)} dBu here, over the"
            f" {level_figure(point.absolute_max)} dBu it stands.{assumed}",
            units,
            leads,
            fixes=tuple(fixes),
            typical=("absolute maximum assumed",) if point.absolute_assumed else (),
        )


@check("phantom-on", FAMILY, "48 V is on where a passive tap or an unbalanced line is connected.")
def phantom_on(case: Case) -> Iterator[Finding]:
    for link, source, target in line_links(case.rig):
        line, control = line_out_of(case.rig, source.unit), f"{target.socket}.phantom"
        on = case.rig.settings(target.unit).get(control, False)
        if not on or line is None or line.phantom in ("needs", "tolerates"):
            continue
        harmed = line.phantom == "harmed"
        yield Finding(
            "phantom-on",
            "stop" if harmed else "caution",
            f"48 V phantom is on at {case.rig.label(target)}.",
            f"{case.rig.name(source.unit)} "
            + ("is harmed by it, its maker says." if harmed else "is not known to stand it."),
            (source.unit, target.unit),
            (link.lead,),
            fixes=(Fix("Switch phantom off", (SetControl(target.unit, control, False),)),),
        )


@check("phantom-needed", FAMILY, "A box that runs on 48 V phantom gets none.")
def phantom_needed(case: Case) -> Iterator[Finding]:
    for link, source, target in line_links(case.rig):
        line = line_out_of(case.rig, source.unit)
        gear = case.rig.gear[target.unit]
        if line is None or line.phantom != "needs" or not isinstance(gear, Interface):
            continue
        control = f"{target.socket}.phantom"
        if case.rig.settings(target.unit).get(control, False):
            continue
        can = case.rig.control(target.unit, control) is not None
        yield Finding(
            "phantom-needed",
            "caution",
            f"{case.rig.name(source.unit)} needs 48 V phantom and gets none.",
            "Without it the box is silent." if can else f"{case.rig.label(target)} has no phantom power.",
            (source.unit, target.unit),
            (link.lead,),
            fixes=(Fix("Switch phantom on", (SetControl(target.unit, control, True),)),) if can else (),
        )


@check("power-stage-not-recorded", FAMILY, "The recorded output lies before the power stage.")
def power_stage_not_recorded(case: Case) -> Iterator[Finding]:
    for link, source, target in line_links(case.rig):
        line = line_out_of(case.rig, source.unit)
        if line and line.origin == "preamp":
            yield Finding(
                "power-stage-not-recorded",
                "note",
                f"The line out of {case.rig.name(source.unit)} comes before its power stage.",
                "Load, tap and power mode will not change this take.",
                (source.unit, target.unit),
                (link.lead,),
            )


MOST_GAIN_DB = 30.0


@check("limiter-works", FAMILY, "The tap's limiter is reached: the take has its clipping in it.")
def limiter_works(case: Case) -> Iterator[Finding]:
    for point in case.line_points:
        if not point.limited:
            continue
        units, leads = _where(case, point)
        yield Finding(
            "limiter-works",
            "caution",
            f"The limiter of {case.rig.name(point.source.unit)} is at work.",
            "The loudest peaks reach it, so its clipping is in the take. It sits before the pot's end of travel:"
            " turn the amp or the mode down, or take the line elsewhere.",
            units,
            leads,
        )


@check("noise-lift", FAMILY, "More than 30 dB of gain is needed after the tap.")
def noise_lift(case: Case) -> Iterator[Finding]:
    for point in case.line_points:
        gear = case.rig.gear[point.input.unit]
        if point.dbfs is None or not isinstance(gear, Interface):
            continue
        gain = input_gain_db(case.rig, point.input, gear.input(point.input.socket))
        if gain <= MOST_GAIN_DB:
            continue
        units, leads = _where(case, point)
        yield Finding(
            "noise-lift",
            "caution",
            f"{case.rig.label(point.input)} adds {figure(gain)} dB of gain.",
            "Noise of the box and the line comes up by as much. Turn the line level up first.",
            units,
            leads,
        )
