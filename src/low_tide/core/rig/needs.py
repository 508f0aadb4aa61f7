"""What a verdict needs of a unit, and whether it is known."""

from __future__ import annotations

from dataclasses import dataclass, fields, is_dataclass
from typing import Any

from low_tide.core.inventory import Amp, Attenuator, Cabinet, Unit
from low_tide.core.spec import specs_of


@dataclass(frozen=True)
class Need:
    """A field a verdict rests on, and whether it is known: not missing, unknown, typical or inferred."""

    field: str
    label: str
    known: bool


def _needed(kind: type) -> tuple[tuple[str, str], ...]:
    """Names and labels of the fields of a record, or of a part of one, that a verdict rests on."""
    return tuple((name, spec.label) for name, spec in specs_of(kind).items() if spec.needed)


def labels_present(record: Any) -> frozenset[str]:
    """Labels of the fields a record has, those of its parts that are there included."""
    found = {spec.label for spec in specs_of(type(record)).values()}
    for each in fields(record):
        held = getattr(record, each.name)
        for part in held if isinstance(held, tuple) else (held,):
            if is_dataclass(part):
                found |= labels_present(part)
    return frozenset(found)


def is_needed(kind: type, field: str) -> bool:
    """Whether a verdict rests on a field of a kind of record."""
    return field in {name for name, _ in _needed(kind)}


def label_of(kind: type, field: str) -> str:
    """What a field of a record is called in its form."""
    spec = specs_of(kind).get(field)
    return spec.label if spec else field


def inferred_of(unit: Unit) -> tuple[str, ...]:
    """Labels of the fields of a unit that were inferred from a reading."""
    return unit.inferred if isinstance(unit, Cabinet) else ()


def needs(unit: Unit) -> tuple[Need, ...]:
    """What a verdict needs of a unit, in the order of its record, each with whether it is known."""
    guessed = (*unit.typical, *inferred_of(unit))
    return tuple(
        Need(name, label, _is_known(getattr(unit, name), label, guessed))
        for name, label in _needed(type(unit))
        if _matters(unit, name)
    )


def _matters(unit: Unit, name: str) -> bool:
    """Whether a field bears on a verdict as the rest of the record stands."""
    if isinstance(unit, Amp):
        if name == "minimum_load":
            return unit.technology != "valve"
        if name == "jack_wiring":
            return max(t.jacks for t in unit.taps) > 1
    if isinstance(unit, Cabinet):
        if name == "jack_wiring":
            return unit.jacks > 1
        if name == "rating":
            return any(d.rating is None for d in unit.drivers)
        if name == "wiring":
            return len(unit.drivers) > 1
    if isinstance(unit, Attenuator):
        if name == "steps":
            return bool(unit.steps and not unit.marks)
        if name == "marks":
            return bool(unit.marks)
    return True


def _is_known(value: Any, label: str, guessed: tuple[str, ...]) -> bool:
    if value is None or value == "unknown" or label in guessed:
        return False
    if isinstance(value, tuple):
        return all(_is_known(each, "", guessed) for each in value)
    if is_dataclass(value):
        return all(_is_known(getattr(value, name), own, guessed) for name, own in _needed(type(value)))
    return True
