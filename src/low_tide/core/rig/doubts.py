"""Doubts: a rig as it may be in truth where nobody knows what a step takes."""

from __future__ import annotations

from low_tide.core.gear.attenuator import NEARLY_ALL_DB, Reckoned
from low_tide.core.inventory import Amp, Attenuator, ReAmp
from low_tide.core.rig.rig import Rig
from low_tide.core.units import in_db_down

BETWEEN_DB = (1.5, 3.0, 4.5, 6.0, 8.0, 11.0, 15.0)
"""Where a pad on a source of voltage may take more than at either end: P is its part of V²/Z, and both move."""


def on_unknown_steps(rig: Rig) -> tuple[str, ...]:
    """Attenuators in use that stand on a step nobody knows the dB of."""
    return tuple(
        unit
        for unit, gear in rig.units()
        if isinstance(gear, Attenuator)
        and rig.plugged(unit)
        and "step" not in gear.dead(rig.settings(unit))
        and gear.is_unknown(rig.settings(unit)["step"])
    )


def doubted(rig: Rig) -> tuple[Rig, ...]:
    """The rig with what its steps of unknown dB take reckoned as nearly all, one unit at a time and all together.

    The rig itself reckons it as nothing. What an amp sees and what gets through lie between the two, since an L-pad
    goes from the load behind it to its own ohms in one direction; what it takes itself may be most between them where
    something drives it with a voltage of its own, so there some values between are reckoned too. Empty where every
    step is known.
    """
    unknown = [u for u, g in rig.units() if isinstance(g, Attenuator) and g.has_unknown() and rig.plugged(u)]
    if any(isinstance(rig.gear[u], Reckoned) for u in unknown):
        return ()
    together = [tuple(unknown)] if len(unknown) > 1 else []
    taken = (*(BETWEEN_DB if _has_source_of_voltage(rig) else ()), NEARLY_ALL_DB)
    return tuple(_reckoned(rig, units, db) for units in [*((u,) for u in unknown), *together] for db in taken)


def _has_source_of_voltage(rig: Rig) -> bool:
    return any(isinstance(g, ReAmp) or (isinstance(g, Amp) and g.technology != "valve") for _, g in rig.units())


def _reckoned(rig: Rig, units: tuple[str, ...], taken_db: float) -> Rig:
    own = {u: Reckoned.of(g, taken_db) for u in units if isinstance(g := rig.gear[u], Attenuator)}
    return Rig(rig.hookup, {**rig.gear, **own}, rig.known)


def doubt_in_words(rig: Rig) -> str:
    """'“half” of Sandbag 30 takes nearly all' for a rig that `doubted` gave."""
    said = []
    for _, gear in rig.units():
        if isinstance(gear, Reckoned):
            names = " or ".join(f"“{m.at}”" for m in gear.marks if m.down_db is None)
            much = "nearly all" if gear.taken_db == NEARLY_ALL_DB else f"about {in_db_down(gear.taken_db)}"
            said.append(f"{names} of {gear.name} takes {much}")
    return " and ".join(said)
