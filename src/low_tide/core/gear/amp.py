"""Guitar amps."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from low_tide.core.amplifier import DAMPING_PRESETS
from low_tide.core.gear.base import (
    ANSWER_NAMES,
    CONNECTOR_NAMES,
    Answer,
    Connector,
    Control,
    Identity,
    Name,
    Notes,
    Ohms,
    Option,
    Setting,
    Site,
    Socket,
    TypicalNames,
    once,
)
from low_tide.core.gear.line_out import LineOut
from low_tide.core.network import Parts
from low_tide.core.spec import Spec
from low_tide.core.units import figure


@dataclass(frozen=True)
class Tap:
    """One output-transformer tap, or the output of a transistor amp, with its jacks."""

    impedance: Annotated[float, Spec("Tap", "Ω", 1, 64, typical=8)] = 8.0
    jacks: Annotated[int, Spec("Jacks on this tap", "", 1, 4)] = 1
    permitted: Annotated[
        tuple[Ohms, ...], Spec("Loads the maker permits", le=8, help="Empty: the maker gives no list.")
    ] = ()


@dataclass(frozen=True)
class PowerMode:
    """A position of the power switch: its label power, damping, and what it makes the output stage want."""

    name: Annotated[str, Spec("Mode", ge=1, le=40)] = "full"
    power: Annotated[float, Spec("Label power", "W", 0.05, 2000)] = 50.0
    load_factor: Annotated[
        float,
        Spec("Wanted load ×", "", 0.5, 4, help="1 as marked; 2 where half the valves are pulled."),
    ] = 1.0
    technician: Annotated[bool, Spec("A technician must confirm it")] = False


@dataclass(frozen=True)
class Amp:
    """A guitar amp, head or combo. A combo's own speaker is a cabinet with its own lead."""

    id: Identity
    name: Name
    kind: Literal["amp"] = "amp"
    notes: Notes = ""
    typical: TypicalNames = ()
    technology: Annotated[
        Literal["valve", "transistor", "transformerless", "hybrid"],
        Spec(
            "Power stage",
            names={
                "valve": "valve (tube)",
                "transistor": "transistor",
                "transformerless": "valve, transformerless",
                "hybrid": "hybrid, no output transformer",
            },
        ),
    ] = "valve"
    form: Annotated[Literal["head", "combo"], Spec("Form")] = "head"
    inner_speaker: Annotated[str, Spec("Combo's own speaker (a cabinet)", le=64)] = ""
    modes: Annotated[tuple[PowerMode, ...], Spec("Power modes", ge=1, le=8)] = (PowerMode(),)
    taps: Annotated[tuple[Tap, ...], Spec("Taps", ge=1, le=6)] = (Tap(),)
    tap_choice: Annotated[
        Literal["selector", "sockets"],
        Spec("Tap is chosen", names={"selector": "by a selector", "sockets": "by its own jack"}),
    ] = "selector"
    connector: Annotated[Connector, Spec("Speaker jacks", names=CONNECTOR_NAMES)] = "jack"
    jack_wiring: Annotated[
        Literal["parallel", "unknown"],
        Spec("Jacks of a tap are", names={"parallel": "in parallel", "unknown": "not known"}),
    ] = "unknown"
    several_taps: Annotated[bool, Spec("Maker allows two taps at once")] = False
    minimum_load: Annotated[
        float | None, Spec("Minimum load", "Ω", 0.5, 64, help="For amps without output transformer.")
    ] = None
    feedback: Annotated[
        Literal["none", "moderate", "strong", "transistor", "current"],
        Spec(
            "Feedback",
            names={
                "none": "valve, no negative feedback",
                "moderate": "valve, moderate feedback",
                "strong": "valve, strong feedback",
                "transistor": "transistor",
                "current": "transistor, current feedback",
            },
            help="Gives the typical damping factor where none was measured.",
        ),
    ] = "moderate"
    damping_factor: Annotated[
        float | None,
        Spec("Damping factor, measured", "", 0.02, 2000, help="Empty: typical for its feedback."),
    ] = None
    crank: Annotated[float, Spec("Flat out gives label ×", "", 1, 2.5, typical=1.5)] = 1.5
    safe_without_load: Annotated[Answer, Spec("Safe without a load", names=ANSWER_NAMES)] = "unknown"
    mains_earth: Annotated[Answer, Spec("Has mains earth", names=ANSWER_NAMES)] = "unknown"
    effects_loop: Annotated[bool, Spec("Effects loop")] = False
    line_out: Annotated[LineOut | None, Spec("Own line out")] = None
    archived: Annotated[bool, Spec("Archived")] = field(default=False)

    def __post_init__(self) -> None:
        if len({f"{t.impedance:g}" for t in self.taps}) < len(self.taps):
            raise ValueError("Taps: two of them have the same impedance; give one tap more jacks instead.")
        if len({m.name for m in self.modes}) < len(self.modes):
            raise ValueError("Power modes: two of them have the same name.")

    def tap_sockets(self) -> tuple[tuple[Tap, str, tuple[str, ...]], ...]:
        """Each tap with its node and the ids of its jacks; under a selector all share one node."""
        if self.tap_choice == "selector":
            jacks = tuple(f"out{i + 1}" for i in range(max(t.jacks for t in self.taps)))
            return tuple((tap, "out", jacks) for tap in self.taps)
        return tuple(
            (tap, f"tap{tap.impedance:g}", tuple(f"tap{tap.impedance:g}.{i + 1}" for i in range(tap.jacks)))
            for tap in self.taps
        )

    @once
    def sockets(self) -> tuple[Socket, ...]:
        found: dict[str, Socket] = {}
        for tap, _, jacks in self.tap_sockets():
            for i, jack in enumerate(jacks):
                marked = "speaker" if self.tap_choice == "selector" else f"{tap.impedance:g} Ω"
                label = (
                    (f"{marked} {i + 1}" if marked == "speaker" else f"{marked} ({i + 1})")
                    if len(jacks) > 1
                    else marked
                )
                found[jack] = Socket(jack, label, "out", "speaker", self.connector, speaker_rated=True)
        line = (self.line_out.socket(),) if self.line_out else ()
        return (*found.values(), *line)

    @once
    def controls(self) -> tuple[Control, ...]:
        found = []
        if self.tap_choice == "selector" and len(self.taps) > 1:
            options = tuple(Option(f"{t.impedance:g}", f"{t.impedance:g}") for t in self.taps)
            default = "8" if "8" in {o.value for o in options} else options[-1].value
            found.append(Control("tap", "Tap", "choice", default, options, unit="Ω", safe_live=False))
        if len(self.modes) > 1:
            options = tuple(Option(m.name, f"{m.name}, {figure(m.power)} W") for m in self.modes)
            found.append(Control("mode", "Power", "choice", self.modes[0].name, options, safe_live=False))
        found.append(Control("flat_out", "Run flat out", "switch", False))
        return (*found, *(self.line_out.controls() if self.line_out else ()))

    def mode(self, settings: dict[str, Setting]) -> PowerMode:
        return next((m for m in self.modes if m.name == settings.get("mode")), self.modes[0])

    def damping(self) -> float:
        """The measured damping factor, or the typical one for this kind of feedback."""
        return self.damping_factor or DAMPING_PRESETS[self.feedback]

    def parts(self, site: Site) -> Parts:
        joints = [(site.node(node), site.node(jack)) for _, node, jacks in self.tap_sockets() for jack in jacks]
        return Parts((), tuple(dict.fromkeys(joints)))

    def assumptions(self) -> tuple[str, ...]:
        found = [f"{self.name}: flat out taken as {figure(self.crank)} × the label"]
        if self.damping_factor is None:
            found.append(f"{self.name}: damping factor typical ({figure(self.damping())}), not measured")
        return tuple(found)

    def summary(self) -> str:
        watts = figure(self.modes[0].power)
        return f"{'valve' if self.technology == 'valve' else self.technology} {self.form}, {watts} W"
