"""What differs between two takes: hook-up, settings, controls, levels and measures, and nothing that does not."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, fields
from typing import Literal, TypeAlias

from low_tide.core.audio.metering import Measures
from low_tide.core.inventory import Unit
from low_tide.core.rig.rig import Rig
from low_tide.core.session.change_over import change_over, settings_in_use
from low_tide.core.units import figure, level_figure

Group: TypeAlias = Literal["said", "units", "leads", "settings", "controls", "levels", "measures"]
GROUP_NAMES: dict[str, str] = {
    "said": "What was said",
    "units": "Units",
    "leads": "Leads",
    "settings": "Settings",
    "controls": "Controls on the amp",
    "levels": "Levels",
    "measures": "Measured",
}
ALIKE_DB = 0.05
"""Levels nearer than this are written the same."""
NOTHING = "—"


@dataclass(frozen=True)
class Logged:
    """A take as far as two are held against each other: its hook-up and gear as they were, what was said, set and
    measured. `said`: what a person wrote, by what it is called; `controls`: the amp's, by name."""

    rig: Rig
    said: Mapping[str, str]
    controls: Mapping[str, str]
    expected_peak: float | None
    measured_peak: float | None
    measures: Measures | None


@dataclass(frozen=True)
class Difference:
    """One thing that is not the same: what, and how it was in the first and in the second."""

    group: Group
    what: str
    one: str
    other: str


def difference(one: Logged, other: Logged) -> tuple[Difference, ...]:
    """Everything that differs, group by group; empty where nothing does."""
    return tuple(
        each
        for part in (
            _named("said", one.said, other.said),
            _units(one.rig, other.rig),
            _leads(one.rig, other.rig),
            _settings(one.rig, other.rig),
            _named("controls", one.controls, other.controls),
            _levels(one, other),
            _measures(one.measures, other.measures),
        )
        for each in part
    )


def _named(group: Group, one: Mapping[str, str], other: Mapping[str, str]) -> Iterator[Difference]:
    for name in dict.fromkeys([*one, *other]):
        a, b = one.get(name, ""), other.get(name, "")
        if a != b:
            yield Difference(group, name, a or NOTHING, b or NOTHING)


def _units(one: Rig, other: Rig) -> Iterator[Difference]:
    first, second = dict(one.units()), dict(other.units())
    for unit, gear in first.items():
        if unit not in second:
            yield Difference("units", gear.name, "in it", NOTHING)
        elif gear != second[unit]:
            said = (_record(gear, second[unit]), _record(second[unit], gear))
            yield Difference("units", f"{gear.name}, its record", *said)
    for unit, gear in second.items():
        if unit not in first:
            yield Difference("units", gear.name, NOTHING, "in it")


def _record(unit: Unit, against: Unit) -> str:
    """A unit as its record says, and the fields of it that are not as in another record of it."""
    if unit.kind != against.kind:
        return unit.summary()
    names = [f.name for f in fields(unit) if getattr(unit, f.name) != getattr(against, f.name)]
    return f"{unit.summary()} ({', '.join(name.replace('_', ' ') for name in names)})"


def _leads(one: Rig, other: Rig) -> Iterator[Difference]:
    back = {each.lead: each.ends for each in change_over(other, one).leads if each.move != "kept"}
    for each in change_over(one, other).leads:
        if each.move == "moved":
            yield Difference("leads", each.name, back.get(each.lead, NOTHING), each.ends)
        elif each.move == "added":
            yield Difference("leads", each.name, NOTHING, each.ends)
        elif each.move == "put_away":
            yield Difference("leads", each.name, each.ends, NOTHING)


def _settings(one: Rig, other: Rig) -> Iterator[Difference]:
    """Of units in both: a unit that is in one alone is told as a unit."""
    both = {unit for unit, _ in one.units()} & {unit for unit, _ in other.units()}
    first, second = (
        {(unit, control.id): (rig.name(unit), control.label, said) for unit, control, said in settings_in_use(rig)}
        for rig in (one, other)
    )
    for key in dict.fromkeys([*first, *second]):
        if key[0] not in both:
            continue
        a, b = first.get(key), second.get(key)
        if (a and a[2]) != (b and b[2]):
            name, label, _ = a or b or ("", "", "")
            yield Difference("settings", f"{name}: {label}", a[2] if a else NOTHING, b[2] if b else NOTHING)


def _db(value: float | None, unit: str) -> str:
    return NOTHING if value is None else f"{level_figure(value)} {unit}"


def _apart(one: float | None, other: float | None) -> bool:
    if one is None or other is None:
        return one is not other
    return abs(one - other) >= ALIKE_DB


def _levels(one: Logged, other: Logged) -> Iterator[Difference]:
    pairs = (
        ("Peak, expected", one.expected_peak, other.expected_peak),
        ("Peak, read off", one.measured_peak, other.measured_peak),
    )
    for what, a, b in pairs:
        if _apart(a, b):
            yield Difference("levels", what, _db(a, "dBFS"), _db(b, "dBFS"))


MEASURED: Sequence[tuple[str, str, str]] = (
    ("Peak", "peak_dbfs", "dBFS"),
    ("True peak", "true_peak_dbtp", "dBTP"),
    ("RMS", "rms_dbfs", "dBFS"),
    ("Loudness", "loudness_lufs", "LUFS"),
    ("Crest factor", "crest_db", "dB"),
)
COUNTED: Sequence[tuple[str, str, str]] = (
    ("Clipped runs", "clipped_runs", ""),
    ("Length", "seconds", "s"),
    ("Rate", "rate", "Hz"),
    ("Channels", "channels", ""),
)


def _measures(one: Measures | None, other: Measures | None) -> Iterator[Difference]:
    if one is None and other is None:
        return
    if one is None or other is None:
        yield Difference("measures", "Recording", *("there" if m else NOTHING for m in (one, other)))
        return
    for what, name, unit in MEASURED:
        a, b = getattr(one, name), getattr(other, name)
        if _apart(a, b):
            yield Difference("measures", what, _db(a, unit), _db(b, unit))
    for what, name, unit in COUNTED:
        a, b = getattr(one, name), getattr(other, name)
        if figure(float(a), 4) != figure(float(b), 4):
            yield Difference("measures", what, *(f"{figure(float(v), 4)} {unit}".strip() for v in (a, b)))
