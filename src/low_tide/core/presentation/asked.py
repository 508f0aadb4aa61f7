"""What a finding asks for: the field of the unit's record that would settle it."""

from __future__ import annotations

from dataclasses import dataclass, fields, is_dataclass
from typing import Any

from low_tide.core.inventory import Unit
from low_tide.core.judging.checks import REGISTRY
from low_tide.core.judging.findings import Finding
from low_tide.core.rig.needs import inferred_of, is_needed, label_of, needs
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.worth import at_stake


@dataclass(frozen=True)
class Ask:
    """A field that a finding wants to know: of which finding (its key), of which unit, and as it is called."""

    finding: str
    unit: str
    name: str
    label: str


@dataclass(frozen=True)
class TypicalValue:
    """A value that is typical or estimated, in words; of which unit, and the label of its field where it is one."""

    text: str
    unit: str
    label: str


@dataclass(frozen=True)
class Stake:
    """What a stop puts at risk, where prices are known: of which finding (its key), in words."""

    finding: str
    text: str


def stakes_of(rig: Rig, findings: tuple[Finding, ...], currency: str) -> tuple[Stake, ...]:
    """What each stop puts at risk; nothing of a stop whose units have no price."""
    stops = (f for f in findings if f.severity == "stop")
    said = ((f.key, at_stake((rig.gear[u] for u in dict.fromkeys(f.units)), currency)) for f in stops)
    return tuple(Stake(key, text) for key, text in said if text)


def asks_of(rig: Rig, findings: tuple[Finding, ...]) -> tuple[Ask, ...]:
    """The first field each finding asks for that is not known of one of its units; most findings ask nothing."""
    found = []
    for finding in findings:
        check = REGISTRY.get(finding.id)
        if check is None or finding.severity == "fine":
            continue
        unknown = (
            Ask(finding.key, unit, rig.gear[unit].name, _label(rig.gear[unit], field))
            for field in check.asks
            for unit in finding.units
            if is_open(rig.gear[unit], field)
        )
        first = next(unknown, None)
        if first is not None:
            found.append(first)
    return tuple(found)


def is_open(unit: Unit, field: str) -> bool:
    """Whether a field of a unit is missing, not known, or only typical; of what a verdict needs, the needs say.

    'drivers.sensitivity' is that of any of its drivers.
    """
    kind = type(unit)
    whole, _, part = field.partition(".")
    if whole not in {each.name for each in fields(unit)}:
        return False
    if part:
        return any(_is_missing(each, part, unit) for each in _parts(unit, whole))
    if is_needed(kind, field):
        return any(need.field == field and not need.known for need in needs(unit))
    return _is_missing(unit, field, unit)


def _parts(unit: Unit, field: str) -> tuple[Any, ...]:
    """The parts that a field holds: several, one or none."""
    held = getattr(unit, field)
    return held if isinstance(held, tuple) else () if held is None else (held,)


def _is_missing(record: Any, field: str, unit: Unit) -> bool:
    value = getattr(record, field, False)
    guessed = (*unit.typical, *inferred_of(unit))
    return value is None or _unknown(value) or label_of(type(record), field) in guessed


def _label(unit: Unit, field: str) -> str:
    whole, _, part = field.partition(".")
    return label_of(type(_parts(unit, whole)[0]), part) if part else label_of(type(unit), field)


def _unknown(value: Any) -> bool:
    if isinstance(value, tuple):
        return any(_unknown(each) for each in value)
    if is_dataclass(value):
        return any(_unknown(getattr(value, each.name)) for each in fields(value))
    return bool(value == "unknown")


def typical_values(rig: Rig) -> tuple[TypicalValue, ...]:
    """Every typical or estimated value of the units in a rig, each once."""
    found = [TypicalValue(said, unit, "") for unit, gear in rig.units() for said in gear.assumptions()]
    found += [
        TypicalValue(f"{gear.name}: {label} typical, not measured", unit, label)
        for unit, gear in rig.units()
        for label in gear.typical
    ]
    found += [
        TypicalValue(f"{gear.name}: {label} inferred from ohms at the plug", unit, label)
        for unit, gear in rig.units()
        for label in inferred_of(gear)
    ]
    return tuple({value.text: value for value in found}.values())
