"""What to try against hum, in order of effort, from what a hook-up has. Mains earth is never a part of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from low_tide.core.inventory import Guitar, LineBox, Pedal
from low_tide.core.judging.checks.earth import cut_lead_fixes, lifts_to, route_to
from low_tide.core.judging.checks.registry import Case
from low_tide.core.judging.findings import Fix
from low_tide.core.rig.changes import SetControl
from low_tide.core.rig.hookup import End


@dataclass(frozen=True)
class Lift:
    """An audio-earth lift on the way to an input: whose it is, and whether it is on."""

    unit: str
    control: str
    name: str
    on: bool


@dataclass(frozen=True)
class HumStep:
    """Something to try: in words, and as a change to the hook-up where it is one."""

    text: str
    fix: Fix | None = None


MAINS_EARTH = "Mains earth stays connected, always: an earth-lift switch is for the audio screen only."


def lifts(case: Case, recorded_at: End) -> tuple[Lift, ...]:
    """The audio-earth lifts on the way to an input."""
    return tuple(
        Lift(unit, control, case.rig.name(unit), bool(case.rig.settings(unit)[control]))
        for unit, control in lifts_to(case, recorded_at)
    )


def hum_steps(case: Case, recorded_at: End) -> tuple[HumStep, ...]:
    """What to try, the least effort first."""
    return tuple(_steps(case, recorded_at))


def _steps(case: Case, recorded_at: End) -> Iterator[HumStep]:
    rig = case.rig
    for lift in lifts(case, recorded_at):
        label = f"Put the lift of {lift.name} off" if lift.on else f"Lift the audio earth at {lift.name}"
        yield HumStep(f"{label}, and compare.", Fix(label, (SetControl(lift.unit, lift.control, not lift.on),)))
    route = route_to(case, recorded_at)
    for fix in list(cut_lead_fixes(case, route))[:1] if route else ():
        yield HumStep(f"{fix.label}: its screen is cut at one end.", fix)
    boxes = [gear for u in route.units() if isinstance(gear := rig.gear[u], LineBox)] if route else []
    if route and not any(box.isolated == "yes" for box in boxes):
        owned = next((box for box in rig.free(LineBox) if box.isolated == "yes"), None)
        yield HumStep(
            f"Put {owned.name} into the line: its transformer parts the two earths."
            if owned
            else "Put a box with a transformer into the line: it parts the two earths."
        )
    yield HumStep("Take the mains of the amp and of the interface from outlets of one strip, each with its earth.")
    if any(isinstance(gear, Pedal) for _, gear in rig.units()):
        yield HumStep("Give each pedal a supply of its own, or batteries, and hear whether the hum goes.")
    if any(isinstance(gear, Guitar) for _, gear in rig.units()):
        yield HumStep("Turn the guitar by a quarter circle, and step away from the amp's transformer: pickups hear it.")
    else:
        yield HumStep("Turn the guitar by a quarter circle, and step away from transformers and screens.")
