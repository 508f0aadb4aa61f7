"""Attenuators between amp and speaker."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import inf
from typing import Annotated, Literal

from low_tide.core.attenuator import l_pad
from low_tide.core.gear import line_out as line_outs
from low_tide.core.gear.base import (
    AIR_AROUND,
    Control,
    CutOut,
    DriverData,
    Identity,
    Name,
    Notes,
    Option,
    OptionalWatts,
    Passive,
    RatingKind,
    Site,
    Socket,
    SpeakerSockets,
    Transfer,
    TypicalNames,
    once,
)
from low_tide.core.gear.line_out import LineOut
from low_tide.core.network import GROUND, Parts
from low_tide.core.spec import Spec
from low_tide.core.units import figure


@dataclass(frozen=True)
class Attenuator(Passive):
    """A passive attenuator: an L-pad of resistors, or of arms that follow a speaker's curve."""

    id: Identity
    name: Name
    kind: Literal["attenuator"] = "attenuator"
    notes: Notes = ""
    typical: TypicalNames = ()
    impedance: Annotated[float, Spec("Impedance", "Ω", 1, 64, typical=8)] = 8.0
    behaviour: Annotated[Literal["resistive", "reactive"], Spec("Arms are")] = "resistive"
    curve: Annotated[DriverData, Spec("Curve, reactive only")] = field(default_factory=DriverData)
    rating: OptionalWatts = None
    rating_kind: RatingKind = "unknown"
    steps: Annotated[
        tuple[Annotated[float, Spec("Step", "dB", 0, 60)], ...],
        Spec("Fixed steps", "dB down", le=24, help="Empty: a knob over the range below."),
    ] = (3.0, 6.0, 9.0, 12.0)
    lowest: Annotated[float, Spec("Knob from", "dB down", 0, 60)] = 3.0
    highest: Annotated[float, Spec("Knob to", "dB down", 0, 60)] = 30.0
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
    archived: Annotated[bool, Spec("Archived")] = False

    def __post_init__(self) -> None:
        if not self.steps and self.lowest >= self.highest:
            raise ValueError("Knob: “from” must be less than “to”.")
        if len({f"{s:g}" for s in self.steps}) < len(self.steps):
            raise ValueError("Fixed steps: two of them are the same.")

    @once
    def sockets(self) -> tuple[Socket, ...]:
        return (
            Socket("in", "amp in", "in", "speaker", self.connector, speaker_rated=True),
            Socket("out", "speaker out", "out", "speaker", self.connector, speaker_rated=True),
            *((self.line_out.socket(),) if self.line_out else ()),
        )

    @once
    def controls(self) -> tuple[Control, ...]:
        if self.steps:
            options = tuple(Option(f"{s:g}", f"−{s:g}" if s else "0") for s in self.steps)
            knob = Control("step", "Step", "choice", options[-1].value, options, unit="dB", reaches_levels=True)
        else:
            knob = Control(
                "step",
                "Down by",
                "range",
                self.highest,
                low=self.lowest,
                high=self.highest,
                unit="dB",
                reaches_levels=True,
            )
        switch = (Control("bypass", "Bypass", "switch", False, reaches_levels=True),) if self.bypass else ()
        silent = (Control("mute", "Silent", "switch", False, safe_live=False),) if self.mute != "none" else ()
        return (knob, *switch, *silent, *(self.line_out.controls() if self.line_out else ()), AIR_AROUND)

    def attenuation(self, site: Site) -> float:
        """dB down into the rated impedance, as set."""
        return 0.0 if site.settings.get("bypass") else float(site.settings["step"])

    def is_muted(self, site: Site) -> bool:
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

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        return line_outs.of(self.line_out, "in", site)

    def assumptions(self) -> tuple[str, ...]:
        if self.behaviour == "reactive" and not self.curve.complete():
            return (f"{self.name}: curve typical, not measured",)
        return ()

    def summary(self) -> str:
        span = f"{len(self.steps)} steps" if self.steps else f"{figure(self.lowest)} to {figure(self.highest)} dB"
        return f"{self.behaviour} attenuator, {figure(self.impedance)} Ω, {span}"
