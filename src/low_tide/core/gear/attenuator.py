"""Attenuators between amp and speaker."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields
from math import inf
from typing import Annotated, Literal

import numpy as np

from low_tide.core.circuit.attenuator import l_pad
from low_tide.core.circuit.network import GROUND, Parts
from low_tide.core.gear import line_out as line_outs
from low_tide.core.gear.base import (
    AIR_AROUND,
    Control,
    CutOut,
    DirectCurrent,
    DriverData,
    Identity,
    Name,
    Notes,
    Option,
    OptionalWatts,
    OwnPapers,
    Passive,
    Rating,
    RatingKind,
    Setting,
    Site,
    Socket,
    SpeakerSockets,
    Transfer,
    TypicalNames,
    Warms,
    once,
    whole,
)
from low_tide.core.gear.line_out import LineOut
from low_tide.core.spec import Spec
from low_tide.core.thermal.heating import Thermal
from low_tide.core.units import figure, in_db_down, in_ohms


@dataclass(frozen=True)
class Mark:
    """A position of a knob or step that carries no dB, and what readings showed it to be; None where nobody read it."""

    at: Annotated[str, Spec("Position", ge=1, le=20)] = "half"
    down_db: Annotated[float | None, Spec("Down by", "dB", 0, 80, needed=True)] = None
    spread: Annotated[float, Spec("Give or take", "dB", 0, 20)] = 1.0

    def number(self) -> float | None:
        """The position as a number, where it is one."""
        try:
            return float(self.at.replace(",", "."))
        except ValueError:
            return None


def monotone(at: Sequence[float], down: Sequence[float], weights: Sequence[float] | None = None) -> list[float]:
    """dB at positions of a knob, brought to the nearest values that go one way: least squares, monotone regression.

    A knob goes up or down all the way; where readings say otherwise, that is their noise. Barlow et al. (1972).
    """
    order = sorted(range(len(at)), key=lambda i: at[i])
    sorted_down = [down[i] for i in order]
    if sorted_down in (sorted(down), sorted(down, reverse=True)):
        return list(down)
    from scipy.optimize import isotonic_regression

    own = None if weights is None else [float(weights[i]) for i in order]
    ways = [isotonic_regression(sorted_down, weights=own, increasing=up).x for up in (True, False)]
    best = min(ways, key=lambda x: float(np.average((x - sorted_down) ** 2, weights=own)))
    found = [0.0] * len(at)
    for i, value in zip(order, best.tolist(), strict=True):
        found[i] = value
    return found


NEARLY_ALL_DB = 60.0
"""What a step of unknown dB takes at the most: a thousandth of the volts is left, and no rating tells more apart."""


def _in_words(mark: Mark) -> str:
    return "dB not known" if mark.down_db is None else f"about {in_db_down(mark.down_db)}"


@dataclass(frozen=True)
class Attenuator(Passive):
    """A passive attenuator: an L-pad of resistors, or of arms that follow a speaker's curve."""

    id: Identity
    name: Name
    kind: Literal["attenuator"] = "attenuator"
    notes: Notes = ""
    typical: TypicalNames = ()
    impedance: Annotated[float, Spec("Impedance", "Ω", 1, 64, typical=8, needed=True)] = 8.0
    behaviour: Annotated[Literal["resistive", "reactive"], Spec("Arms are")] = "resistive"
    curve: Annotated[DriverData, Spec("Curve, reactive only")] = field(default_factory=DriverData)
    rating: OptionalWatts = None
    rating_kind: RatingKind = "unknown"
    steps: Annotated[
        tuple[Annotated[float, Spec("Step", "dB", 0, 60)], ...],
        Spec("Fixed steps", "dB down", le=24, help="Empty: a knob over the range below.", needed=True),
    ] = (3.0, 6.0, 9.0, 12.0)
    lowest: Annotated[float, Spec("Knob from", "dB down", 0, 60)] = 3.0
    highest: Annotated[float, Spec("Knob to", "dB down", 0, 60)] = 30.0
    marks: Annotated[
        tuple[Mark, ...],
        Spec(
            "Positions without dB",
            le=24,
            help="“half”, or the numbers on a knob; what readings showed each to be. They stand above the steps in dB.",
            needed=True,
        ),
    ] = ()
    marks_are: Annotated[
        Literal["knob", "steps"],
        Spec(
            "These positions are",
            names={"knob": "marks on a knob, where they are numbers", "steps": "steps of a switch"},
        ),
    ] = "knob"
    bypass: Annotated[bool, Spec("Bypass switch")] = False
    mute: Annotated[
        Literal["none", "loaded", "open"],
        Spec(
            "Silent switch",
            names={
                "none": "none",
                "loaded": "the box takes all of the load",
                "open": "only cuts the speaker off",
            },
        ),
    ] = "none"
    connector: SpeakerSockets = "jack"
    cutout: CutOut = "unknown"
    line_out: Annotated[LineOut | None, Spec("Line out")] = None
    warms: Warms = field(default_factory=Thermal)
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    def __post_init__(self) -> None:
        if not self.steps and self.lowest >= self.highest:
            raise ValueError("Knob: “from” must be less than “to”.")
        if len({f"{s:g}" for s in self.steps}) < len(self.steps):
            raise ValueError("Fixed steps: two of them are the same.")
        if len({m.at for m in self.marks}) < len(self.marks):
            raise ValueError("Positions without dB: two of them are the same.")

    @property
    def unknown_db(self) -> float:
        """What a position of unknown dB is reckoned to take: nothing, the worst for all that is behind it."""
        return 0.0

    def is_unknown(self, position: Setting) -> bool:
        """Whether nobody knows the dB of a position."""
        return any(m.at == position and m.down_db is None for m in self.marks)

    def has_unknown(self) -> bool:
        """Whether nobody knows the dB of one of its positions."""
        return any(m.down_db is None for m in self.marks)

    def is_marked_knob(self) -> bool:
        """Whether its calibrated positions are numbers on a knob, with something between them."""
        return (
            self.marks_are == "knob"
            and len(self.marks) > 1
            and all(m.number() is not None and m.down_db is not None for m in self.marks)
        )

    @once
    def _table(self) -> tuple[tuple[float, float, float], ...]:
        rows = sorted((m.number() or 0.0, m.down_db or 0.0, m.spread) for m in self.marks)
        at, down, spread = zip(*rows, strict=True)
        return tuple(zip(at, monotone(at, down), spread, strict=True))

    @once
    def sockets(self) -> tuple[Socket, ...]:
        return (
            Socket("in", "amp in", "in", "speaker", self.connector, speaker_rated=True),
            Socket("out", "speaker out", "out", "speaker", self.connector, speaker_rated=True),
            *((self.line_out.socket(),) if self.line_out else ()),
        )

    @once
    def controls(self) -> tuple[Control, ...]:
        if self.is_marked_knob():
            at = [position for position, *_ in self._table()]
            knob = Control(
                "step", "Knob at", "range", at[0], low=at[0], high=at[-1], step=0.5, hand="turned", affects="speaker"
            )
        elif self.marks:
            options = tuple(Option(m.at, f"{m.at} ({_in_words(m)})") for m in self.marks)
            knob = Control("step", "Step", "choice", self.marks[-1].at, options, hand="turned", affects="speaker")
        elif self.steps:
            options = tuple(Option(f"{s:g}", f"−{s:g}" if s else "0") for s in self.steps)
            knob = Control(
                "step", "Step", "choice", options[-1].value, options, unit="dB", hand="turned", affects="speaker"
            )
        else:
            knob = Control(
                "step",
                "Down by",
                "range",
                self.highest,
                low=self.lowest,
                high=self.highest,
                unit="dB",
                hand="turned",
                affects="speaker",
            )
        switch = (
            (Control("bypass", "Bypass", "switch", False, hand="switched", affects="speaker"),) if self.bypass else ()
        )
        silent = (
            (Control("mute", "Silent", "switch", False, safe_live=False, hand="switched", affects="speaker"),)
            if self.mute != "none"
            else ()
        )
        return (knob, *switch, *silent, *(self.line_out.controls() if self.line_out else ()), AIR_AROUND)

    def attenuation(self, site: Site) -> float:
        """dB down into the rated impedance, as set."""
        return 0.0 if site.settings.get("bypass") else self.decibels(site.settings["step"])

    def decibels(self, position: Setting) -> float:
        """dB down into the rated impedance at a position of its knob or steps.

        Between the calibrated positions of a knob the straight line from one to the next: it never turns round.
        """
        if self.is_marked_knob():
            at, down, _ = zip(*self._table(), strict=True)
            return float(np.interp(float(position), at, down))
        if self.marks:
            found = next((m.down_db for m in self.marks if m.at == position), 0.0)
            return self.unknown_db if found is None else found
        return float(position)

    def doubt_db(self, position: Setting) -> float:
        """± dB of a position that was calibrated; 0 for one that is marked in dB."""
        if self.is_marked_knob():
            at = float(position)
            return max(s for _, _, s in sorted(self._table(), key=lambda row: abs(row[0] - at))[:2])
        return next((m.spread for m in self.marks if m.at == position and m.down_db is not None), 0.0)

    def positions(self) -> tuple[Setting, ...]:
        """Every step, or for a knob the positions a hand can tell apart: 1 dB, or half a mark."""
        if self.is_marked_knob():
            at = [position for position, *_ in self._table()]
            return tuple(at[0] + i / 2 for i in range(int((at[-1] - at[0]) * 2) + 1))
        if self.marks:
            return tuple(m.at for m in self.marks)
        if self.steps:
            return tuple(f"{s:g}" for s in self.steps)
        return tuple(dict.fromkeys((*np.arange(self.lowest, self.highest, 1.0).tolist(), float(self.highest))))

    def reach(self, control: Control) -> tuple[Setting, ...]:
        return self.positions() if control.id == "step" else control.positions()

    def dead(self, settings: Mapping[str, Setting]) -> tuple[str, ...]:
        if settings.get("mute"):
            return ("step", "bypass")
        return ("step",) if settings.get("bypass") else ()

    @once
    def levels(self) -> tuple[tuple[float, Setting], ...]:
        """(dB down, position) of every position whose dB are known."""
        return tuple((self.decibels(p), p) for p in self.positions() if not self.is_unknown(p))

    def range_db(self) -> tuple[float, float]:
        """Least and most dB down that its knob or steps reach, bypass aside; what is not known may be anything."""
        if not self.steps and not self.marks:
            return self.lowest, self.highest
        found = [down for down, _ in self.levels()]
        found += [0.0, NEARLY_ALL_DB] if self.has_unknown() else []
        return min(found), max(found)

    def nearest(self, wanted_db: float) -> Setting | None:
        """The position whose dB come nearest to those wanted; None where those of none are known."""
        return min(self.levels(), key=lambda level: abs(level[0] - wanted_db), default=(0.0, None))[1]

    def is_stepped(self) -> bool:
        """Whether it has steps rather than a knob."""
        if self.marks:
            return self.marks_are == "steps" or any(m.number() is None for m in self.marks)
        return bool(self.steps)

    def is_muted(self, site: Site) -> bool:
        """Whether its speaker side is switched silent."""
        return bool(site.settings.get("mute"))

    def parts(self, site: Site) -> Parts:
        if self.is_muted(site):
            if self.mute == "open":
                return Parts()
            return Parts((site.resistor("silent load", "in", GROUND, self.impedance),))
        series, shunt = l_pad(self.attenuation(site), 1.0)
        if shunt == inf:
            return Parts((), ((site.node("in"), site.node("out")),))
        arms = (("series arm", "in", "out", series), ("shunt arm", "out", GROUND, shunt))
        if self.behaviour == "reactive":
            curve = self.curve.curve(self.impedance)
            return Parts(tuple(site.driver(part, a, b, curve, self.impedance, k) for part, a, b, k in arms))
        return Parts(tuple(site.resistor(part, a, b, self.impedance * k) for part, a, b, k in arms))

    def ratings(self, site: Site) -> tuple[Rating, ...]:
        return (whole(self.rating, self.rating_kind),)

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        return line_outs.of(self.line_out, "in", site)

    def direct_current(self) -> DirectCurrent:
        return self.curve.direct_current() if self.behaviour == "reactive" else "known"

    def assumptions(self) -> tuple[str, ...]:
        found = []
        if self.behaviour == "reactive" and not self.curve.complete():
            found.append(f"{self.name}: curve typical, not measured")
        if any(m.down_db is not None for m in self.marks):
            found.append(f"{self.name}: dB of its positions by calibration")
        if self.has_unknown():
            names = ", ".join(f"“{m.at}”" for m in self.marks if m.down_db is None)
            found.append(f"{self.name}: dB of {names} not known")
        return tuple(found)

    def summary(self) -> str:
        count = len(self.marks or self.steps)
        what = "position" if self.has_unknown() else "calibrated position" if self.marks else "step"
        found = f"{count} {what}{'s' if count > 1 else ''}"
        if not count:
            found = f"{figure(self.lowest)} to {figure(self.highest)} dB"
        return f"{self.behaviour} attenuator, {in_ohms(self.impedance)}, {found}"


@dataclass(frozen=True)
class Reckoned(Attenuator):
    """The same unit with what it takes in a position of unknown dB reckoned as so many."""

    taken_db: float = NEARLY_ALL_DB

    @property
    def unknown_db(self) -> float:
        return self.taken_db

    @staticmethod
    def of(unit: Attenuator, taken_db: float) -> Reckoned:
        """A unit, reckoned so."""
        return Reckoned(**{each.name: getattr(unit, each.name) for each in fields(unit)}, taken_db=taken_db)
