"""Load boxes."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Annotated, Literal

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
    Ohms,
    Option,
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
from low_tide.core.units import figure


@dataclass(frozen=True)
class CurveMode:
    """A position of a reactive load's curve switch: what it changes of the load's own curve."""

    name: Annotated[str, Spec("Position", ge=1, le=40)] = "flat"
    changes: Annotated[DriverData, Spec("Changes")] = field(default_factory=DriverData)


@dataclass(frozen=True)
class Load(Passive):
    """A resistive or reactive load box. Several impedances mean a selector on the box."""

    id: Identity
    name: Name
    kind: Literal["load"] = "load"
    notes: Notes = ""
    typical: TypicalNames = ()
    impedances: Annotated[tuple[Ohms, ...], Spec("Impedance", "Ω", 1, 4, needed=True)] = (8.0,)
    behaviour: Annotated[Literal["resistive", "reactive"], Spec("Behaves", needed=True)] = "resistive"
    curve: Annotated[DriverData, Spec("Curve, reactive only")] = field(default_factory=DriverData)
    modes: Annotated[tuple[CurveMode, ...], Spec("Curve switch, positions", le=8)] = ()
    curve_live: Annotated[bool, Spec("Curve switch may be moved while on", help="Only where its maker says so.")] = (
        False
    )
    rating: OptionalWatts = None
    rating_kind: RatingKind = "unknown"
    connector: SpeakerSockets = "jack"
    through: Annotated[
        Literal["none", "parallel", "switching", "unknown"],
        Spec(
            "Through socket",
            names={
                "none": "none",
                "parallel": "in parallel with the load",
                "switching": "switches the load out when a plug goes in",
                "unknown": "there, but what it does is not known",
            },
            needed=True,
        ),
    ] = "none"
    cutout: CutOut = "unknown"
    line_out: Annotated[LineOut | None, Spec("Line out")] = None
    warms: Warms = field(default_factory=Thermal)
    own_noise: OwnNoise = None
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    def __post_init__(self) -> None:
        if len({f"{z:g}" for z in self.impedances}) < len(self.impedances):
            raise ValueError("Impedance: two of them are the same.")
        if len({m.name for m in self.modes}) < len(self.modes):
            raise ValueError("Curve switch: two positions have the same name.")

    @once
    def sockets(self) -> tuple[Socket, ...]:
        found = [Socket("in", "amp in", "in", "speaker", self.connector, speaker_rated=True)]
        if self.through != "none":
            found.append(Socket("through", "through", "out", "speaker", self.connector, speaker_rated=True))
        return (*found, *((self.line_out.socket(),) if self.line_out else ()))

    @once
    def controls(self) -> tuple[Control, ...]:
        found = []
        if len(self.impedances) > 1:
            options = tuple(Option(f"{z:g}", f"{z:g}") for z in self.impedances)
            ohms = Control(
                "impedance", "Load", "choice", options[0].value, options, unit="Ω", safe_live=False, affects="speaker"
            )
            found.append(replace(ohms, hand="switched"))
        if self.behaviour == "reactive" and self.modes:
            options = tuple(Option(m.name, m.name) for m in self.modes)
            found.append(
                Control(
                    "curve",
                    "Curve",
                    "choice",
                    options[0].value,
                    options,
                    safe_live=self.curve_live,
                    affects="speaker",
                )
            )
        return (*found, *(self.line_out.controls() if self.line_out else ()), AIR_AROUND)

    def data(self, mode: Setting | None) -> DriverData:
        """What makes its curve in a position of its switch."""
        chosen = next((m for m in self.modes if m.name == mode), None)
        return self.curve.with_changes(chosen.changes) if chosen else self.curve

    def nominal(self, site: Site) -> float:
        """Its rated impedance as it stands, Ω."""
        return float(site.settings.get("impedance", self.impedances[0]))

    def load_is_out(self, site: Site) -> bool:
        """A plug in the switching through socket has taken the inner load out."""
        return self.through == "switching" and "through" in site.plugged

    def parts(self, site: Site) -> Parts:
        nominal = self.nominal(site)
        joints = ((site.node("in"), site.node("through")),) if self.through != "none" else ()
        if self.load_is_out(site):
            return Parts((), joints)
        if self.behaviour == "reactive":
            element = site.driver("load", "in", GROUND, self.data(site.settings.get("curve")).curve(nominal), nominal)
        else:
            element = site.resistor("load", "in", GROUND, nominal)
        return Parts((element,), joints)

    def ratings(self, site: Site) -> tuple[Rating, ...]:
        return () if self.load_is_out(site) else (whole(self.rating, self.rating_kind),)

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        return line_outs.of(self.line_out, "in", site)

    def direct_current(self) -> DirectCurrent:
        return self.curve.direct_current() if self.behaviour == "reactive" else "known"

    def assumptions(self) -> tuple[str, ...]:
        if self.behaviour == "reactive" and not self.curve.complete():
            return (f"{self.name}: curve typical, not measured",)
        return ()

    def summary(self) -> str:
        ohms = " / ".join(figure(z) for z in self.impedances)
        return f"{self.behaviour} load, {ohms} Ω"
