"""What every unit of gear offers the rest: sockets, controls and its part of the speaker network."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, Literal, Protocol, TypeAlias, TypeVar

import numpy as np

from low_tide.core.impedance import DriverModel, driver_impedance, typical_driver
from low_tide.core.network import GROUND, Element, Parts
from low_tide.core.response import Complex, Real
from low_tide.core.spec import Spec

Setting: TypeAlias = str | float | bool
Level: TypeAlias = Literal["speaker", "line", "instrument", "microphone"]
Flow: TypeAlias = Literal["out", "in"]
Connector: TypeAlias = Literal["jack", "trs", "xlr", "locking", "rca", "combi"]
Answer: TypeAlias = Literal["yes", "no", "unknown"]

CONNECTOR_NAMES = {
    "jack": "6.35 mm jack",
    "trs": "6.35 mm jack, balanced",
    "xlr": "XLR",
    "locking": "locking speaker plug",
    "rca": "RCA",
    "combi": "XLR or jack",
}
ANSWER_NAMES = {"yes": "yes", "no": "no", "unknown": "not known"}
FITS: Mapping[str, frozenset[str]] = {
    "jack": frozenset({"jack", "trs"}),
    "trs": frozenset({"jack", "trs"}),
    "combi": frozenset({"jack", "trs", "xlr"}),
    "xlr": frozenset({"xlr"}),
    "locking": frozenset({"locking"}),
    "rca": frozenset({"rca"}),
}
"""Plugs that go into a socket, by the socket's connector."""


@dataclass(frozen=True)
class Socket:
    """One jack. `speaker_rated`: made for power-stage level. `own_lead`: not a jack but a fixed lead (m)."""

    id: str
    label: str
    flow: Flow
    level: Level
    connector: Connector
    speaker_rated: bool = False
    own_lead: float | None = None


@dataclass(frozen=True)
class Option:
    value: str
    label: str


@dataclass(frozen=True)
class Control:
    """A switch, knob or selector on a unit as it stands in a hook-up.

    `safe_live`: may be moved while the amp is on. `reaches_levels`: its positions set how much power goes
    where, so ratings count the worst of them.
    """

    id: str
    label: str
    kind: Literal["choice", "range", "switch"]
    default: Setting
    options: tuple[Option, ...] = ()
    low: float = 0.0
    high: float = 0.0
    step: float = 1.0
    unit: str = ""
    safe_live: bool = True
    reaches_levels: bool = False

    def positions(self) -> tuple[Setting, ...]:
        """Every position that matters for the worst case: all choices, or both ends of a range."""
        if self.kind == "choice":
            return tuple(option.value for option in self.options)
        return (self.low, self.high) if self.kind == "range" else (False, True)

    def refuses(self, value: Setting) -> str | None:
        """A sentence that says why `value` cannot be set here, or None."""
        if self.kind == "switch":
            return None if isinstance(value, bool) else f"{self.label}: on or off is wanted."
        if self.kind == "choice":
            if value in {option.value for option in self.options}:
                return None
            return f"{self.label}: “{value}” is not one of {', '.join(o.label for o in self.options)}."
        if isinstance(value, bool) or not isinstance(value, int | float) or not self.low <= value <= self.high:
            bounds = f"{self.low:g} to {self.high:g} {self.unit}".strip().replace("-", "−")
            return f"{self.label}: {value} is outside {bounds}."
        return None


@dataclass(frozen=True)
class Site:
    """Where a unit stands: its id, settings, the sockets that hold a plug, and the view asked for.

    `frequency` None is the nominal view: every curve is its rated resistance.
    """

    unit: str
    settings: Mapping[str, Setting]
    plugged: frozenset[str]
    frequency: Real | None

    def node(self, name: str) -> str:
        return f"{self.unit}.{name}"

    def resistor(self, part: str, a: str, b: str, ohms: float) -> Element:
        """A resistor of this unit; node names are the unit's own, `GROUND` stays ground."""
        points = 1 if self.frequency is None else len(self.frequency)
        return self.element(part, a, b, np.full(points, ohms, dtype=np.complex128))

    def element(self, part: str, a: str, b: str, impedance: Complex) -> Element:
        first, second = (n if n == GROUND else self.node(n) for n in (a, b))
        return Element(self.unit, part, first, second, impedance)

    def curve(self, model: DriverModel, nominal: float) -> Complex:
        """The model's impedance in the real view, the rated resistance in the nominal one."""
        if self.frequency is None:
            return np.full(1, nominal, dtype=np.complex128)
        return driver_impedance(model, self.frequency)


Made = TypeVar("Made")
Self = TypeVar("Self")


def once(make: Callable[[Self], Made]) -> Callable[[Self], Made]:
    """Keeps what a method without arguments made of an immutable unit; a judgement asks for it often."""
    key = f"_{make.__name__}_made"

    def kept(self: Self) -> Made:
        values = vars(self)
        if key not in values:
            values[key] = make(self)
        found: Made = values[key]
        return found

    kept.__doc__ = make.__doc__
    return kept


class Gear(Protocol):
    """The common face of every kind of gear."""

    @property
    def id(self) -> str: ...
    @property
    def name(self) -> str: ...
    @property
    def kind(self) -> str: ...
    @property
    def typical(self) -> tuple[str, ...]: ...
    def sockets(self) -> tuple[Socket, ...]: ...
    def controls(self) -> tuple[Control, ...]: ...
    def parts(self, site: Site) -> Parts: ...
    def assumptions(self) -> tuple[str, ...]: ...
    def summary(self) -> str: ...


Name: TypeAlias = Annotated[str, Spec("Name", ge=1, le=80)]
Identity: TypeAlias = Annotated[str, Spec("Id", ge=1, le=64)]
Notes: TypeAlias = Annotated[str, Spec("Notes", le=4000)]
Ohms: TypeAlias = Annotated[float, Spec("Impedance", "Ω", 1, 64)]
TypicalNames: TypeAlias = Annotated[tuple[str, ...], Spec("Typical, not measured", le=60)]
OptionalWatts: TypeAlias = Annotated[float | None, Spec("Rating", "W", 0.05, 5000)]
RatingKind: TypeAlias = Annotated[
    Literal["continuous", "amp_label", "unknown"],
    Spec(
        "Rating counts",
        names={
            "continuous": "continuous watts",
            "amp_label": "“for amps up to” watts",
            "unknown": "not known what kind",
        },
    ),
]


@dataclass(frozen=True)
class DriverData:
    """Measured driver or curve data; what is left empty is taken as typical for the rated impedance."""

    r_e: Annotated[float | None, Spec("Coil resistance Re", "Ω", 0.3, 60)] = None
    f_s: Annotated[float | None, Spec("Resonance Fs", "Hz", 20, 400)] = None
    q_ms: Annotated[float | None, Spec("Mechanical Q, Qms", "", 0.1, 30)] = None
    q_es: Annotated[float | None, Spec("Electrical Q, Qes", "", 0.05, 10)] = None
    l_1: Annotated[float | None, Spec("Series inductance L1", "mH", 0.001, 20)] = None
    l_2: Annotated[float | None, Spec("Coil inductance L2", "mH", 0.001, 50)] = None
    r_2: Annotated[float | None, Spec("Damping across L2", "Ω", 0.5, 2000)] = None

    def model(self, nominal: float) -> DriverModel:
        base = typical_driver(nominal)
        return DriverModel(
            r_e=self.r_e or base.r_e,
            f_s=self.f_s or base.f_s,
            q_ms=self.q_ms or base.q_ms,
            q_es=self.q_es or base.q_es,
            l_1=self.l_1 * 1e-3 if self.l_1 else base.l_1,
            l_2=self.l_2 * 1e-3 if self.l_2 else base.l_2,
            r_2=self.r_2 or base.r_2,
        )

    def complete(self) -> bool:
        return None not in (self.r_e, self.f_s, self.q_ms, self.q_es, self.l_1, self.l_2, self.r_2)
