"""Which boxes of a hook-up warm up, and how far."""

from __future__ import annotations

from low_tide.core.inventory import Attenuator, Load, ReAmp
from low_tide.core.power.shares import powers
from low_tide.core.rig.rig import Rig
from low_tide.core.thermal.heating import DUTY, Warming, warming

LEAST_WATTS = 0.5


def heat_in(rig: Rig, unit: str) -> float:
    """Watts that turn into heat in a unit, flat out, as set."""
    return sum(flat for (u, _), (_, flat) in powers(rig).items() if u == unit)


def warm_boxes(rig: Rig) -> tuple[tuple[str, Warming | None], ...]:
    """Every load, attenuator and re-amplifier that takes power, and how it warms on the hook-up's occasion.

    None where that cannot be told.
    """
    occasion = rig.hookup.occasion
    duty = DUTY[occasion.playing][1]
    return tuple(
        (
            unit,
            warming(
                gear.warms,
                gear.rating,
                watts,
                duty,
                occasion.ambient,
                gear.rating_kind == "amp_label",
                rig.settings(unit).get("air") == "stacked",
            ),
        )
        for unit, gear in rig.units()
        if isinstance(gear, Load | Attenuator | ReAmp) and (watts := heat_in(rig, unit)) >= LEAST_WATTS
    )
