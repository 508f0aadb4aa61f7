"""Typical units to begin with, by kind and without a name on them: every figure is marked typical until confirmed."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, fields, is_dataclass, replace
from functools import cache
from typing import Any

from low_tide.core.gear.amp import Loop, PowerMode, Tap
from low_tide.core.gear.attenuator import Mark
from low_tide.core.gear.cabinet import Driver, OwnLead
from low_tide.core.gear.ids import slug
from low_tide.core.gear.interface import Input, Output, PhonesOut
from low_tide.core.gear.line_out import LineOut
from low_tide.core.inventory import (
    Amp,
    Attenuator,
    Cabinet,
    Guitar,
    Interface,
    Lead,
    LineBox,
    Load,
    Microphone,
    Pedal,
    ReAmp,
    Switcher,
    TapBox,
    Unit,
)
from low_tide.core.spec import specs_of

TAPS = (Tap(4, 2), Tap(8, 2), Tap(16, 2))


def _head(watts: float) -> Amp:
    half = PowerMode("half", watts / 2)
    return Amp("", f"{watts:g} W valve head", modes=(PowerMode("full", watts), half), taps=TAPS, loop=Loop())


def _cabinet(name: str, count: int, driver: Driver, **how: Any) -> Cabinet:
    return Cabinet("", name, drivers=(driver,) * count, **how)


def _lead(name: str, construction: Any, length: float, one: Any, other: Any, gauge: Any = 24) -> Lead:
    return Lead("", name, construction=construction, length=length, gauge=gauge, plug_a=one, plug_b=other)


def _inputs(count: int, level: Any, connector: Any, phantom: bool) -> tuple[Input, ...]:
    name = "input" if level == "microphone" else "line"
    gain = 50.0 if level == "microphone" else 12.0
    return tuple(
        Input(f"{name} {i + 1}", level=level, connector=connector, phantom=phantom, most_gain=gain)
        for i in range(count)
    )


OUTPUTS = (Output("output 1"), Output("output 2"))
COMBO_SPEAKER = "Speaker of the 20 W valve combo"

_POINTS: tuple[tuple[Unit, ...], ...] = (
    (Guitar("", "Guitar"),),
    (_head(100),),
    (_head(50),),
    (_head(20),),
    (
        Amp(
            "",
            "20 W valve combo",
            form="combo",
            modes=(PowerMode("full", 20),),
            taps=(Tap(8, 2),),
            own_tails=True,
            inner_speaker=slug(COMBO_SPEAKER),
        ),
        _cabinet(COMBO_SPEAKER, 1, Driver(8, 30, 98), own_lead=OwnLead()),
    ),
    (
        Amp(
            "",
            "60 W transistor head",
            technology="transistor",
            feedback="transistor",
            modes=(PowerMode("full", 60),),
            taps=(Tap(8, 1),),
            minimum_load=4,
        ),
    ),
    (
        Load(
            "",
            "8 Ω reactive load with line out",
            behaviour="reactive",
            rating=100,
            through="unknown",
            line_out=LineOut(filter="switchable"),
        ),
    ),
    (Load("", "8 Ω resistive load with line out", rating=50, line_out=LineOut()),),
    (Attenuator("", "8 Ω attenuator in steps", rating=100, steps=(3.0, 6.0, 9.0, 12.0, 16.0, 20.0), bypass=True),),
    (Attenuator("", "8 Ω attenuator with a knob", rating=50, steps=()),),
    (
        Attenuator(
            "",
            "8 Ω attenuator that says full, half and low",
            rating=50,
            steps=(),
            marks=(Mark("full", 0.0, 0.0), Mark("half"), Mark("low")),
            marks_are="steps",
        ),
    ),
    (ReAmp("", "8 Ω load and re-amplifier", rating=100, line_out=LineOut(), line_in=True),),
    (TapBox("", "Tap box for a speaker lead"),),
    (Switcher("", "Switch, two amps to one cabinet"),),
    (_cabinet("1×12 cabinet, 8 Ω", 1, Driver(8, 65, 98)),),
    (_cabinet("2×12 cabinet, 8 Ω", 2, Driver(16, 60, 98), jacks=2),),
    (_cabinet("4×12 cabinet, 16 Ω", 4, Driver(16, 30, 98), wiring="series_parallel", enclosure="closed"),),
    (Microphone("", "Dynamic microphone", max_level=150),),
    (Microphone("", "Condenser microphone", sensitivity=20, max_level=135, phantom="needs"),),
    (LineBox("", "DI box", level_in="instrument", level_out="microphone", plug_in="jack", plug_out="xlr"),),
    (
        Interface(
            "",
            "Interface, 2 inputs",
            inputs=_inputs(2, "microphone", "combi", phantom=True),
            outputs=OUTPUTS,
            phones=(PhonesOut(),),
        ),
    ),
    (
        Interface(
            "",
            "Interface, 8 line inputs",
            inputs=_inputs(8, "line", "trs", phantom=False),
            outputs=OUTPUTS,
            phones=(PhonesOut(),),
        ),
    ),
    (Pedal("", "Drive pedal", gain_db=20),),
    (Pedal("", "Delay or reverb pedal", does="tails"),),
    (_lead("Speaker lead, 1.5 m", "speaker", 1.5, "jack", "jack", 14),),
    (_lead("Guitar lead, 5 m", "screened", 5, "jack", "jack"),),
    (_lead("Line lead, balanced jack to XLR, 3 m", "balanced", 3, "trs", "xlr"),),
    (_lead("Line lead, balanced jacks, 3 m", "balanced", 3, "trs", "trs"),),
    (_lead("Microphone lead, XLR, 5 m", "balanced", 5, "xlr", "xlr"),),
)


@dataclass(frozen=True)
class StartingPoint:
    """A unit to begin with, and what comes with it: a combo brings its speaker, which it names by id."""

    units: tuple[Unit, ...]

    @property
    def name(self) -> str:
        """As it is offered."""
        return self.units[0].name


def _figures(value: Any) -> Iterator[str]:
    """Labels of all fields of a record, and of its parts, that hold a number which says more than "none"."""
    specs = specs_of(type(value))
    for each in fields(value):
        held, spec = getattr(value, each.name), specs.get(each.name)
        if spec is not None and not spec.neutral and _is_figure(held):
            yield spec.label
        for part in held if isinstance(held, tuple) else (held,):
            if is_dataclass(part):
                yield from _figures(part)


def _is_figure(value: Any) -> bool:
    if isinstance(value, tuple):
        return bool(value) and all(_is_figure(each) for each in value)
    return isinstance(value, int | float) and not isinstance(value, bool)


def _typical(units: Iterable[Unit]) -> tuple[Unit, ...]:
    return tuple(replace(unit, id=slug(unit.name), typical=tuple(dict.fromkeys(_figures(unit)))) for unit in units)


@cache
def starting_points() -> Mapping[str, StartingPoint]:
    """Every starting point by its name, in the order the signal meets them."""
    return {units[0].name: StartingPoint(_typical(units)) for units in _POINTS}
