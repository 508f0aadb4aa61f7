"""What every unit of gear offers the rest: sockets, controls and its part of the speaker network."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, fields, replace
from functools import cached_property
from math import inf
from typing import Annotated, Any, Literal, Protocol, TypeAlias, TypeVar

import numpy as np

from low_tide.core.audio.correction import Band
from low_tide.core.circuit.elements import Lumped, Resistor, Scaled, Tabled
from low_tide.core.circuit.impedance import DriverModel, MeasuredCurve, driver_impedance, typical_driver
from low_tide.core.circuit.network import GROUND, Element, Parts
from low_tide.core.frequency import Complex, Real
from low_tide.core.gear.ids import ID
from low_tide.core.gear.papers import Papers
from low_tide.core.spec import Spec
from low_tide.core.thermal.heating import Thermal

Setting: TypeAlias = str | float | bool
Level: TypeAlias = Literal["speaker", "line", "instrument", "microphone", "phones", "digital", "air"]
Signal: TypeAlias = Literal["line", "instrument", "microphone"]
Flow: TypeAlias = Literal["out", "in"]
Connector: TypeAlias = Literal["jack", "trs", "xlr", "locking", "rca", "combi", "optical"]
Answer: TypeAlias = Literal["yes", "no", "unknown"]
Hand: TypeAlias = Literal["", "turned", "switched"]
"""How a hand moves a control on the speaker side: steps, knobs and speaker switches are there to be turned; bypass,
mute, mode, load selector and mains are switched. Empty: it reaches no state (a line pot, a tap selector)."""

Affects: TypeAlias = Literal["speaker", "signal"]

CONNECTOR_NAMES = {
    "jack": "6.35 mm jack",
    "trs": "6.35 mm jack, balanced",
    "xlr": "XLR",
    "locking": "locking speaker plug",
    "rca": "RCA",
    "combi": "XLR or jack",
    "optical": "optical",
}
ANSWER_NAMES = {"yes": "yes", "no": "no", "unknown": "not known"}
SIGNAL_NAMES = {"line": "line level", "instrument": "instrument level", "microphone": "microphone level"}
AIR: Literal["air"] = "air"
"""What stands for a connector where sound goes through the air, from a cabinet to a microphone."""

STAGE = "stage"
"""The power stage inside an amp, as an end of its signal paths; its speaker jacks hang on it."""
FITS: Mapping[str, frozenset[str]] = {
    "jack": frozenset({"jack", "trs"}),
    "trs": frozenset({"jack", "trs"}),
    "combi": frozenset({"jack", "trs", "xlr"}),
    "xlr": frozenset({"xlr"}),
    "locking": frozenset({"locking"}),
    "rca": frozenset({"rca"}),
    "optical": frozenset({"optical"}),
    AIR: frozenset(),
}
"""Plugs that go into a socket, by the socket's connector."""


@dataclass(frozen=True)
class Socket:
    """One jack. `speaker_rated`: made for power-stage level. `own_lead`: not a jack but a fixed lead (m).

    `ohms`: source impedance of an output, input impedance of an input; 0 where it does not matter.
    `max_dbu`: what an input takes cleanly, as the RMS level of a sine; None where that is not known.
    """

    id: str
    label: str
    flow: Flow
    level: Level
    connector: Connector | Literal["air"]
    speaker_rated: bool = False
    own_lead: float | None = None
    ohms: float = 0.0
    max_dbu: float | None = None


@dataclass(frozen=True)
class Transfer:
    """Signal inside a unit, from one end to another: socket ids, or `STAGE`.

    `gain_db` None: not known. `limit_v`: a hard bound in peak V. `speaker`: what in it does a speaker's
    work, in words; `tails`: what makes tails; `rolled_off`: only the top is rolled off; `down`: what turns
    down; `control`: what switches it off; `tone`: what an equaliser does in it.
    """

    a: str
    b: str
    gain_db: float | None = 0.0
    limit_v: float = inf
    speaker: str = ""
    tails: str = ""
    rolled_off: bool = False
    down: str = ""
    control: str = ""
    tone: tuple[Band, ...] = ()


@dataclass(frozen=True)
class Option:
    """A position of a control, and how it is called."""

    value: str
    label: str


@dataclass(frozen=True)
class Control:
    """A switch, knob or selector on a unit as it stands in a hook-up.

    `affects`: what moving it may change: the speaker side (who takes how much there, and all that follows), or
    nothing of that. `safe_live`: may be moved while the amp is on. `hand`: how a hand reaches other states of the
    speaker side by it.
    `role`: what it switches, for the checks that mend by it.
    `folded`: how the unit stands rather than how it is set; shown on request.
    `of`: the socket it belongs to, as that is called, where others of the unit have one like it.
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
    hand: Hand = ""
    affects: Affects = "signal"
    role: Literal["", "speaker", "tails"] = ""
    folded: bool = False
    of: str = ""

    def __post_init__(self) -> None:
        if self.affects != "speaker" and (self.hand or not self.safe_live):
            raise ValueError(f"{self.label}: what is moved by hand on the speaker side, or not while on, affects it.")

    def can_be_taped(self) -> bool:
        """Whether tape over it keeps anything from happening: it reaches other states, or sets a level on a line."""
        return self.hand != "" or not self.safe_live or (self.kind == "range" and self.unit == "dB")

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


Curve: TypeAlias = DriverModel | MeasuredCurve
"""An impedance over frequency: from a model, or as it was measured."""

AIR_AROUND = Control(
    "air",
    "Stands",
    "choice",
    "free",
    (Option("free", "with air all round"), Option("stacked", "stacked or covered")),
    folded=True,
)
"""How a box that gets hot stands."""


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
        """A node of this unit in the speaker network, by its own name for it."""
        return f"{self.unit}.{name}"

    def resistor(self, part: str, a: str, b: str, ohms: float) -> Element:
        """A resistor of this unit; node names are the unit's own, `GROUND` stays ground."""
        one = np.array([ohms], dtype=np.complex128)
        impedance = one if self.frequency is None else np.repeat(one, len(self.frequency))
        return self._element(part, a, b, impedance, Resistor(ohms))

    def _element(self, part: str, a: str, b: str, impedance: Complex, made_of: Lumped) -> Element:
        first, second = (n if n == GROUND else self.node(n) for n in (a, b))
        return Element(self.unit, part, first, second, impedance, made_of)

    def driver(self, part: str, a: str, b: str, curve: Curve, nominal: float, factor: float = 1.0) -> Element:
        """A curve times `factor`: in the real view its impedance, in the nominal one its rated resistance."""
        if self.frequency is None:
            return self.resistor(part, a, b, nominal * factor)
        if isinstance(curve, MeasuredCurve):
            made_of: Lumped = Tabled(curve.frequency, curve.real, curve.imaginary, factor)
            return self._element(part, a, b, factor * curve.impedance(self.frequency), made_of)
        return self._element(part, a, b, factor * driver_impedance(curve, self.frequency), Scaled(curve, factor))


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


@dataclass(frozen=True)
class Rating:
    """Watts that a unit, or one of its parts, stands.

    `part`: what is rated, empty for the unit as a whole. `counts`: names of its parts in the network whose heat is
    held against it, None for all of them; `fed`: and all that hangs behind the unit, since "for amps up to" speaks
    of the amp. `watts` None: not known. `assumed`: what of it nobody stated.
    """

    part: str
    watts: float | None
    kind: str
    counts: tuple[str, ...] | None = None
    fed: bool = False
    assumed: str = ""


@dataclass(frozen=True, eq=False)
class Face:
    """What a unit shows the nominal network as it stands: its parts, and what of them is rated."""

    parts: Parts
    ratings: tuple[Rating, ...]

    @cached_property
    def siemens(self) -> tuple[float, ...]:
        """Conductance of every element, S."""
        return tuple(1 / float(e.impedance[0].real) for e in self.parts.elements)

    @cached_property
    def shape(self) -> tuple[object, ...]:
        """What is the same whatever the ohms: who is connected to whom, and what is rated."""
        ends = tuple((e.part, e.a, e.b) for e in self.parts.elements)
        return ends, self.parts.joints, tuple((r.part, r.counts, r.fed) for r in self.ratings)


def whole(watts: float | None, kind: str) -> Rating:
    """The rating of a box as a whole."""
    return Rating("", watts, kind, fed=kind == "amp_label")


class Gear(Protocol):
    """The common face of every kind of gear.

    `parts` is its share of the speaker network, `ratings` what there has a rating, `reach` the positions of a
    control that a hand can bring it to, `dead` the controls that move nothing on the speaker side as it is set,
    `transfers` its signal paths, `emits` the peak volts by socket of what is a source of signal.
    """

    @property
    def id(self) -> str:
        """By which hook-ups refer to it."""

    @property
    def name(self) -> str:
        """As a person calls it."""

    @property
    def kind(self) -> str:
        """Its kind, a key of `inventory.KINDS`."""

    @property
    def typical(self) -> tuple[str, ...]:
        """Names of its fields that hold usual values, not measured ones."""

    @property
    def archived(self) -> bool:
        """Put away: not offered, but kept for what refers to it."""

    def sockets(self) -> tuple[Socket, ...]:
        """Every jack it has, and every end of its own leads."""

    def controls(self) -> tuple[Control, ...]:
        """Every switch, knob and selector that can be set in a hook-up."""

    def parts(self, site: Site) -> Parts:
        """Its elements and joints in the speaker network as it stands."""

    def ratings(self, site: Site) -> tuple[Rating, ...]:
        """What of it is rated as it stands there."""

    def reach(self, control: Control) -> tuple[Setting, ...]:
        """Positions of a control that a hand can bring it to."""

    def dead(self, settings: Mapping[str, Setting]) -> tuple[str, ...]:
        """Controls that move nothing on the speaker side as the others stand."""

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        """Its signal paths as it stands."""

    def emits(self, site: Site) -> Mapping[str, float]:
        """Peak volts by socket of what is a source of signal."""

    def assumptions(self) -> tuple[str, ...]:
        """What is taken for it because nobody said, in words."""

    def direct_current(self) -> DirectCurrent:
        """How well its resistance to direct current is known."""

    def summary(self) -> str:
        """What it is, in one line."""


class Passive:
    """What a kind of gear has none of: parts in the speaker network, signal paths, a signal of its own."""

    def controls(self) -> tuple[Control, ...]:
        return ()

    def parts(self, site: Site) -> Parts:
        return Parts()

    def ratings(self, site: Site) -> tuple[Rating, ...]:
        return ()

    def reach(self, control: Control) -> tuple[Setting, ...]:
        return control.positions()

    def dead(self, settings: Mapping[str, Setting]) -> tuple[str, ...]:
        return ()

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        return ()

    def emits(self, site: Site) -> Mapping[str, float]:
        return {}

    def assumptions(self) -> tuple[str, ...]:
        return ()

    def direct_current(self) -> DirectCurrent:
        """How well its resistance to direct current is known; resistors are."""
        return "known"


Name: TypeAlias = Annotated[str, Spec("Name", ge=1, le=80)]


def identity(label: str, others: str = "", **more: Any) -> Spec:
    """What the id of some gear means in a field. `others`: what may stand there beside, as `|` and an expression."""
    wanted = "1 to 64 small letters, digits and hyphens, the first of them no hyphen"
    return Spec(label, ge=None if others else 1, le=64, pattern=ID + others, wanted=wanted, **more)


Identity: TypeAlias = Annotated[str, identity("Id")]
Notes: TypeAlias = Annotated[str, Spec("Notes", le=4000)]
Ohms: TypeAlias = Annotated[float, Spec("Impedance", "Ω", 1, 64)]
TypicalNames: TypeAlias = Annotated[tuple[str, ...], Spec("Typical, not measured", le=60)]
OptionalWatts: TypeAlias = Annotated[float | None, Spec("Rating", "W", 0.05, 5000, needed=True)]
CutOut: TypeAlias = Annotated[
    Literal["none", "opens", "unknown"],
    Spec(
        "Thermal cut-out or fuse",
        names={"none": "none", "opens": "opens the circuit", "unknown": "not known"},
        needed=True,
    ),
]
Warms: TypeAlias = Annotated[Thermal, Spec("How it warms")]
OwnPapers: TypeAlias = Annotated[Papers | None, Spec("Price, weight and papers")]
OwnNoise: TypeAlias = Annotated[
    float | None, Spec("Its own noise at 1 m", "dBA", 0, 90, typical=35, help="Fan and transformer, under power.")
]
PhantomAnswer: TypeAlias = Annotated[
    Literal["needs", "tolerates", "harmed", "unknown"],
    Spec(
        "48 V phantom",
        names={"needs": "needs it", "tolerates": "stands it", "harmed": "is harmed by it", "unknown": "not known"},
    ),
]
SpeakerSockets: TypeAlias = Annotated[Connector, Spec("Speaker sockets", names=CONNECTOR_NAMES)]
RatingKind: TypeAlias = Annotated[
    Literal["continuous", "amp_label", "unknown"],
    Spec(
        "Rating counts",
        names={
            "continuous": "continuous watts",
            "amp_label": "“for amps up to” watts",
            "unknown": "not known what kind",
        },
        needed=True,
    ),
]


DirectCurrent: TypeAlias = Literal["known", "typical", "unknown"]


def least_known(found: Iterable[DirectCurrent]) -> DirectCurrent:
    """What several in one circuit come to: no better than the least known of them."""
    order: tuple[DirectCurrent, ...] = ("known", "typical", "unknown")
    return max(found, key=order.index, default="known")


LEVEL_PART = 0.05
"""A curve is level at its low end where its real part changes by less than this part of itself."""


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

    measured: Annotated[
        MeasuredCurve | None, Spec("Measured curve", help="From a ZMA or CSV file; it stands above the figures.")
    ] = None

    def with_changes(self, other: DriverData) -> DriverData:
        """This data with what the other gives in place of its own."""
        return replace(self, **{f.name: value for f in fields(other) if (value := getattr(other, f.name)) is not None})

    def curve(self, nominal: float) -> Curve:
        """The measured curve, or else the model."""
        return self.measured or self.model(nominal)

    def model(self, nominal: float) -> DriverModel:
        """The model with these figures, typical ones for the rated impedance (Ω) where they are missing."""
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

    def direct_current(self) -> DirectCurrent:
        """Whether its resistance to direct current is known, typical, or not to be had from what is known.

        A measured curve gives it only where it begins at 20 Hz or under and is level there.
        """
        if self.measured is None:
            return "typical" if self.r_e is None else "known"
        low, real = self.measured.frequency[0], self.measured.real
        if low > 20:
            return "unknown"
        near = [r for f, r in zip(self.measured.frequency, real, strict=True) if f <= max(2 * low, low + 10)]
        return "known" if max(near) - min(near) <= LEVEL_PART * abs(real[0]) else "unknown"

    def complete(self) -> bool:
        """Whether nothing of it is taken as typical."""
        return self.measured is not None or None not in (
            self.r_e,
            self.f_s,
            self.q_ms,
            self.q_es,
            self.l_1,
            self.l_2,
            self.r_2,
        )
