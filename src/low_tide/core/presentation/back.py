"""A unit's back and front as a working picture: its sockets, what a plug in each does, its controls, its inside."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Literal

from low_tide.core.gear.base import CONNECTOR_NAMES, Control, Socket
from low_tide.core.inventory import Amp, Attenuator, Cabinet, Interface, Load, ReAmp, Switcher, TapBox, Unit
from low_tide.core.presentation.plugs import Contact, plug
from low_tide.core.rig.needs import Need, needs
from low_tide.core.units import figure, in_ohms, in_watts

Core = Literal["resistor", "curve", "arms", "stage", "re_amplifier", "cones", "switch", "box"]
"""What is drawn inside."""


@dataclass(frozen=True)
class Jack:
    """A socket as it sits on the unit. `fields`: of the record, those that say what it is and does.

    `passes_by`: it is joined to what comes in, not to what is inside.
    """

    socket: str
    label: str
    flow: str
    level: str
    connector: str
    face: Literal["front", "back"]
    contact: Contact
    says: str
    fields: tuple[str, ...]
    passes_by: bool


@dataclass(frozen=True)
class Knob:
    """A control as it sits on the unit, with its positions in words and the one it is found in."""

    control: str
    label: str
    positions: tuple[str, ...]
    stands: str
    fields: tuple[str, ...]


@dataclass(frozen=True)
class Back:
    """What the picture of a unit shows. `inside`: in one line; `core`: what is drawn there."""

    jacks: tuple[Jack, ...]
    knobs: tuple[Knob, ...]
    core: Core
    inside: str
    inside_fields: tuple[str, ...]
    needs: tuple[Need, ...]


def back(unit: Unit) -> Back:
    """The working picture of a unit. Fields that no socket or control speaks of are those of its inside."""
    jacks = tuple(_jack(unit, socket) for socket in unit.sockets() if socket.level != "air")
    knobs = tuple(_knob(unit, control) for control in unit.controls() if control.id != "air")
    core, inside = _inside(unit)
    spoken_for = {f for jack in jacks for f in jack.fields} | {f for knob in knobs for f in knob.fields}
    rest = tuple(f.name for f in fields(unit) if f.name not in spoken_for | NOT_OF_THE_INSIDE)
    return Back(jacks, knobs, core, inside, rest, needs(unit))


NOT_OF_THE_INSIDE = {"id", "name", "kind", "notes", "typical", "inferred", "archived"}


def _jack(unit: Unit, socket: Socket) -> Jack:
    contact, says, own = plug(unit, socket)
    front = isinstance(unit, Amp) and socket.id == "input"
    connector = "its own fixed lead" if socket.own_lead is not None else CONNECTOR_NAMES.get(socket.connector, "")
    return Jack(
        socket.id,
        socket.label,
        socket.flow,
        socket.level,
        connector,
        "front" if front else "back",
        contact,
        says,
        own,
        socket.id == "through",
    )


CONTROL_FIELDS = {
    "tap": ("taps", "tap_choice"),
    "mode": ("modes", "load_ohms", "load_watts"),
    "flat_out": ("crank",),
    "master_down": ("master",),
    "tails": ("own_tails",),
    "impedance": ("impedances",),
    "curve": ("curve", "modes", "curve_live"),
    "step": ("steps", "lowest", "highest", "marks", "marks_are"),
    "bypass": ("bypass",),
    "mute": ("mute",),
    "mains": ("load_needs_mains",),
    "halves": ("jack_wiring", "mono_joins"),
    "input": ("inputs",),
    "output": ("outputs", "together"),
    "level": ("pot", "gain_db"),
    "lift": ("earth_lift",),
}
"""Fields that make a control what it is, by its id; of those the kind has."""


def _knob(unit: Unit, control: Control) -> Knob:
    first = control.id.split(".")[0]
    own = ("line_out",) if first == "line" else CONTROL_FIELDS.get(control.id, ())
    if isinstance(unit, Interface):
        own = ("inputs" if first.startswith("in") else "outputs" if first.startswith("out") else "phones",)
    has = {f.name for f in fields(unit)}
    return Knob(
        control.id,
        f"{control.of}, {control.label}" if control.of else control.label,
        _positions(control),
        _stands(control),
        tuple(name for name in own if name in has),
    )


def _said(value: float, unit: str) -> str:
    return f"{value:g}{' ' + unit if unit else ''}".replace("-", "−")


def _positions(control: Control) -> tuple[str, ...]:
    if control.kind == "choice":
        return tuple(f"{o.label} {control.unit}".strip() for o in control.options)
    if control.kind == "switch":
        return ("off", "on")
    return (f"{_said(control.low, control.unit)} to {_said(control.high, control.unit)}",)


def _stands(control: Control) -> str:
    if control.kind == "choice":
        label = next(o.label for o in control.options if o.value == control.default)
        return f"{label} {control.unit}".strip()
    if control.kind == "switch":
        return "on" if control.default else "off"
    return _said(float(control.default), control.unit)


def _watts(rating: float | None) -> str:
    return "rating not known" if rating is None else in_watts(rating)


def _inside(unit: Unit) -> tuple[Core, str]:
    if isinstance(unit, Amp):
        out = "output transformer" if unit.technology == "valve" else "no output transformer"
        taps = " / ".join(figure(t.impedance) for t in unit.taps)
        return "stage", f"power stage, {in_watts(unit.modes[0].power)} by its label; {out}, {taps} Ω"
    if isinstance(unit, Load):
        how = "a curve like a speaker's" if unit.behaviour == "reactive" else "a resistor"
        core: Core = "curve" if unit.behaviour == "reactive" else "resistor"
        return core, f"the load: {how}, {' / '.join(figure(z) for z in unit.impedances)} Ω, {_watts(unit.rating)}"
    if isinstance(unit, Attenuator):
        how = "that follow a speaker's curve" if unit.behaviour == "reactive" else "of resistors"
        return "arms", f"a series and a shunt arm {how}, for {in_ohms(unit.impedance)}, {_watts(unit.rating)}"
    if isinstance(unit, ReAmp):
        watts = f"{in_watts(unit.inner_power)} into {in_ohms(unit.inner_into)}"
        return "re_amplifier", f"a load of {in_ohms(unit.impedance)}, {_watts(unit.rating)}; an amplifier of {watts}"
    if isinstance(unit, TapBox):
        own = f" or, as a load, {in_ohms(unit.load_ohms)}" if unit.load_ohms else ""
        return "resistor", f"bridges the speaker lead with {figure(unit.bridging_impedance / 1000)} kΩ{own}"
    if isinstance(unit, Switcher):
        return "switch", f"joins one of {unit.inputs} amps to one of {unit.outputs} outputs"
    if isinstance(unit, Cabinet):
        count = len(unit.drivers)
        wired = {"parallel": " in parallel", "series": " in series", "series_parallel": ", pairs in series"}
        drivers = f"{count} drivers{wired[unit.wiring]}, together" if count > 1 else "one driver,"
        return "cones", f"{drivers} {in_ohms(unit.nominal())}; {unit.enclosure} back"
    return "box", unit.summary()
