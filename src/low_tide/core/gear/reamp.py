"""Load boxes with an amplifier inside that drives the speaker again, at any level."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal

from low_tide.core.circuit.network import GROUND, Parts
from low_tide.core.gear import line_out as line_outs
from low_tide.core.gear.base import (
    AIR_AROUND,
    STAGE,
    Control,
    CutOut,
    DirectCurrent,
    DriverData,
    Identity,
    Name,
    Notes,
    OptionalWatts,
    OwnNoise,
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
from low_tide.core.units import in_ohms, in_watts


@dataclass(frozen=True)
class ReAmp(Passive):
    """A load, and an inner transistor amplifier that drives the speaker: the amp sees only the load."""

    id: Identity
    name: Name
    kind: Literal["reamp"] = "reamp"
    notes: Notes = ""
    typical: TypicalNames = ()
    impedance: Annotated[float, Spec("Load impedance", "Ω", 1, 64, typical=8, needed=True)] = 8.0
    behaviour: Annotated[Literal["resistive", "reactive"], Spec("Load behaves")] = "reactive"
    curve: Annotated[DriverData, Spec("Curve, reactive only")] = field(default_factory=DriverData)
    rating: OptionalWatts = None
    rating_kind: RatingKind = "unknown"
    inner_power: Annotated[float, Spec("Inner amplifier", "W", 0.5, 2000, typical=50, needed=True)] = 50.0
    inner_into: Annotated[float, Spec("Those watts are into", "Ω", 1, 64, typical=8)] = 8.0
    inner_minimum: Annotated[float | None, Spec("Inner amplifier's minimum load", "Ω", 0.5, 64, needed=True)] = None
    load_needs_mains: Annotated[
        Literal["yes", "no", "unknown"],
        Spec(
            "Without mains its load",
            names={"yes": "is switched off: the amp is open", "no": "stays", "unknown": "not known"},
            needed=True,
        ),
    ] = "unknown"
    effects_loop: Annotated[bool, Spec("Loop between load and inner amplifier")] = False
    line_in: Annotated[bool, Spec("Line in")] = False
    line_out: Annotated[LineOut | None, Spec("Line out")] = None
    warms: Warms = field(default_factory=Thermal)
    own_noise: OwnNoise = None
    connector: SpeakerSockets = "jack"
    cutout: CutOut = "unknown"
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    # As a power stage its inner amplifier is a transistor amp of one tap.
    technology: ClassVar[str] = "transistor"
    safe_without_load: ClassVar[str] = "yes"
    several_taps: ClassVar[bool] = False

    @property
    def minimum_load(self) -> float | None:
        """The least its inner amplifier may see, Ω; None where that is not known."""
        return self.inner_minimum

    @once
    def sockets(self) -> tuple[Socket, ...]:
        found = [
            Socket("in", "amp in", "in", "speaker", self.connector, speaker_rated=True),
            Socket("out", "speaker out", "out", "speaker", self.connector, speaker_rated=True),
        ]
        if self.line_in:
            found.append(Socket("linein", "line in", "in", "line", "trs", ohms=20e3))
        if self.effects_loop:
            found.append(Socket("return", "return", "in", "line", "jack", ohms=20e3))
            found.append(Socket("send", "send", "out", "line", "jack", ohms=600))
        return (*found, *((self.line_out.socket(),) if self.line_out else ()))

    @once
    def controls(self) -> tuple[Control, ...]:
        return (
            Control("mains", "Mains", "switch", True, hand="switched", affects="speaker"),
            Control(
                "volume",
                "Speaker volume",
                "range",
                -20.0,
                low=-60.0,
                high=0.0,
                unit="dB",
                hand="turned",
                affects="speaker",
            ),
            *(self.line_out.controls() if self.line_out else ()),
            AIR_AROUND,
        )

    def is_powered(self, site: Site) -> bool:
        """Whether its mains are on."""
        return bool(site.settings["mains"])

    def load_is_out(self, site: Site) -> bool:
        """Whether the load has gone with the mains. What nobody knows is taken as the worse."""
        return not self.is_powered(site) and self.load_needs_mains != "no"

    def parts(self, site: Site) -> Parts:
        if self.load_is_out(site):
            return Parts()
        if self.behaviour == "reactive":
            curve = self.curve.curve(self.impedance)
            return Parts((site.driver("load", "in", GROUND, curve, self.impedance),))
        return Parts((site.resistor("load", "in", GROUND, self.impedance),))

    def ratings(self, site: Site) -> tuple[Rating, ...]:
        return () if self.load_is_out(site) else (whole(self.rating, self.rating_kind),)

    def reach(self, control: Control) -> tuple[Setting, ...]:
        # The more it is turned up, the more watts everywhere behind it: its end is enough.
        return (control.high,) if control.id == "volume" else control.positions()

    def dead(self, settings: Mapping[str, Setting]) -> tuple[str, ...]:
        return () if settings.get("mains") else ("volume",)

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        looped = self.effects_loop and "return" in site.plugged
        found = []
        if self.is_powered(site):
            if self.effects_loop:
                found += [Transfer("in", "send", None), Transfer("return", STAGE, None)]
            if not looped:
                found.append(Transfer("in", STAGE, None))
            if self.line_in:
                found.append(Transfer("linein", STAGE, None))
        return (*found, *line_outs.of(self.line_out, "in", site))

    def direct_current(self) -> DirectCurrent:
        return self.curve.direct_current() if self.behaviour == "reactive" else "known"

    def assumptions(self) -> tuple[str, ...]:
        if self.behaviour == "reactive" and not self.curve.complete():
            return (f"{self.name}: curve typical, not measured",)
        return ()

    def summary(self) -> str:
        return f"load {in_ohms(self.impedance)} and re-amplifier, {in_watts(self.inner_power)}"
