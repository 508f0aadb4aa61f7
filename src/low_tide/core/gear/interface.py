"""Audio interfaces."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.cab.monitoring import BUFFERS
from low_tide.core.gear.base import (
    ANSWER_NAMES,
    CONNECTOR_NAMES,
    SIGNAL_NAMES,
    Answer,
    Connector,
    Control,
    Identity,
    Name,
    Notes,
    Option,
    OwnPapers,
    Passive,
    Signal,
    Site,
    Socket,
    Transfer,
    TypicalNames,
    once,
)
from low_tide.core.gear.digital import SAMPLE_RATE, DigitalPort, clock_controls, port_sockets
from low_tide.core.spec import Spec
from low_tide.core.units import peak_of_dbu


def track(socket: str) -> str:
    """The end where what came into an input is recorded."""
    return f"{socket}.track"


UNKNOWN_ABSOLUTE_OVER_FULL_SCALE_DB = 6.0
"""Where the maker gives no absolute maximum, this much over full scale is taken, and flagged."""


@dataclass(frozen=True)
class Input:
    """One input. `max_level` is the RMS level of the sine whose peak is 0 dBFS at the least gain."""

    name: Annotated[str, Spec("Input", ge=1, le=30)] = "input 1"
    level: Annotated[Signal, Spec("Made for", names=SIGNAL_NAMES)] = "line"
    connector: Annotated[Connector, Spec("Connector", names=CONNECTOR_NAMES)] = "combi"
    max_level: Annotated[float, Spec("Full scale at least gain", "dBu", -40, 40, typical=18)] = 18.0
    least_gain: Annotated[float, Spec("Gain from", "dB", -20, 40, neutral=True)] = 0.0
    most_gain: Annotated[float, Spec("Gain to", "dB", -20, 90)] = 40.0
    pad: Annotated[float | None, Spec("Pad", "dB", 5, 40)] = None
    phantom: Annotated[bool, Spec("48 V phantom can be switched on")] = False
    absolute_max: Annotated[float | None, Spec("Absolute maximum", "dBu", -40, 60)] = None
    impedance: Annotated[float, Spec("Input impedance", "Ω", 500, 10_000_000, typical=10_000)] = 10_000.0
    input_noise: Annotated[
        float, Spec("Equivalent input noise", "dBu", -140, -60, typical=-125, help="Of its preamp, over 20 kHz.")
    ] = -125.0
    converter_noise: Annotated[float, Spec("Noise at least gain", "dBFS", -150, -40, typical=-110)] = -110.0

    def __post_init__(self) -> None:
        if self.most_gain < self.least_gain:
            raise ValueError("Gain: “to” must not be less than “from”.")


@dataclass(frozen=True)
class Output:
    """One line output, for playing a dry track back. `max_level`: RMS level of a full-scale sine."""

    name: Annotated[str, Spec("Output", ge=1, le=30)] = "output 1"
    connector: Annotated[Connector, Spec("Connector", names=CONNECTOR_NAMES)] = "trs"
    max_level: Annotated[float, Spec("Full scale", "dBu", -20, 30, typical=18)] = 18.0
    impedance: Annotated[float, Spec("Source impedance", "Ω", 1, 10_000, typical=100)] = 100.0


@dataclass(frozen=True)
class PhonesOut:
    """A headphone output. `max_volts`: V RMS at full scale and the end of its travel, without headphones."""

    name: Annotated[str, Spec("Headphone output", ge=1, le=30)] = "headphones"
    max_volts: Annotated[float, Spec("At full travel", "V", 0.05, 30, typical=3)] = 3.0
    impedance: Annotated[float, Spec("Source impedance", "Ω", 0, 500, typical=10)] = 10.0


PLAYBACK_PEAK_DBFS = -6.0
"""Peaks of a dry track as it is played back."""
CONVERTERS_MS = 1.0
"""What converters usually take, in and out together."""
MONITORING = (
    Control(
        "monitor",
        "One hears oneself",
        "choice",
        "unsaid",
        (
            Option("unsaid", "not said"),
            Option("direct", "directly"),
            Option("software", "by software"),
            Option("both", "both ways"),
        ),
        folded=True,
    ),
    Control(
        "buffer",
        "Buffer",
        "choice",
        "128",
        tuple(Option(str(size), str(size)) for size in BUFFERS),
        unit="samples",
        folded=True,
    ),
    Control("plug_ins", "Plug-ins, IR", "range", 0.0, high=200.0, step=0.5, unit="ms", folded=True),
    Control("monitors", "Monitors at", "range", 0.0, high=20.0, step=0.1, unit="m", folded=True),
)
"""How one hears oneself while playing; monitors at 0 m are headphones."""


@dataclass(frozen=True)
class Interface(Passive):
    """An audio interface or a sound desk: its inputs, each with gain, pad and phantom power, and line outputs."""

    id: Identity
    name: Name
    kind: Literal["interface"] = "interface"
    notes: Notes = ""
    typical: TypicalNames = ()
    inputs: Annotated[tuple[Input, ...], Spec("Inputs", ge=1, le=32, needed=True)] = (Input(),)
    outputs: Annotated[tuple[Output, ...], Spec("Line outputs", le=16)] = ()
    phones: Annotated[tuple[PhonesOut, ...], Spec("Headphone outputs", le=4)] = ()
    earthed: Annotated[
        Answer,
        Spec("Its audio is earthed", names=ANSWER_NAMES, help="By its own plug, or the computer's on its plug."),
    ] = "unknown"
    converters: Annotated[
        float | None,
        Spec(
            "Converters, in and out together",
            "ms",
            0,
            50,
            help=f"What they add when one hears oneself through software. Where it is not known, {CONVERTERS_MS:g} ms.",
        ),
    ] = None
    digital: Annotated[tuple[DigitalPort, ...], Spec("Digital sockets", le=8)] = ()
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    @once
    def sockets(self) -> tuple[Socket, ...]:
        inputs = (
            Socket(f"in{i + 1}", each.name, "in", each.level, each.connector, ohms=each.impedance)
            for i, each in enumerate(self.inputs)
        )
        outputs = (
            Socket(f"out{i + 1}", each.name, "out", "line", each.connector, ohms=each.impedance)
            for i, each in enumerate(self.outputs)
        )
        phones = (
            Socket(f"phones{i + 1}", each.name, "out", "phones", "trs", ohms=each.impedance)
            for i, each in enumerate(self.phones)
        )
        return (*inputs, *outputs, *phones, *port_sockets(self.digital))

    def input(self, socket: str) -> Input:
        """The input behind a socket id of this interface."""
        return self.inputs[int(socket.removeprefix("in")) - 1]

    @once
    def controls(self) -> tuple[Control, ...]:
        found = []
        for i, each in enumerate(self.inputs):
            mark = f"in{i + 1}"
            if each.most_gain > each.least_gain:
                found.append(
                    Control(
                        f"{mark}.gain",
                        "Gain",
                        "range",
                        each.least_gain,
                        low=each.least_gain,
                        high=each.most_gain,
                        unit="dB",
                        of=each.name,
                    )
                )
            if each.pad:
                found.append(Control(f"{mark}.pad", f"Pad −{each.pad:g} dB", "switch", False, of=each.name))
            if each.phantom:
                found.append(Control(f"{mark}.phantom", "48 V phantom", "switch", False, of=each.name))
            found.append(Control(f"{mark}.ir", "IR in software", "switch", False, role="speaker", of=each.name))
        for i, out in enumerate(self.outputs):
            found.append(
                Control(f"out{i + 1}.trim", "Playback", "range", -12.0, low=-60.0, high=0.0, unit="dB", of=out.name)
            )
        for i, phones in enumerate(self.phones):
            label = "Headphones go up to" if len(self.phones) == 1 else f"{phones.name} goes up to"
            travel = Control(f"phones{i + 1}.stop", label, "range", 0.0, low=-60.0, high=0.0, unit="dB", folded=True)
            found.append(travel)
        rate = () if self.digital else (SAMPLE_RATE,)
        return (*found, *MONITORING, *rate, *clock_controls(self.digital))

    def phones_volts(self, socket: str, stop_db: float) -> tuple[float, float]:
        """Open V RMS at the end of a headphone output's travel, as far as it is let go, and its impedance (Ω)."""
        each = self.phones[int(socket.removeprefix("phones")) - 1]
        return each.max_volts * 10 ** (stop_db / 20), each.impedance

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        """From each input to its track, through the IR in software if one is loaded."""
        return tuple(
            Transfer(
                f"in{i + 1}",
                track(f"in{i + 1}"),
                speaker="the IR in software" if site.settings[f"in{i + 1}.ir"] else "",
                control=f"in{i + 1}.ir",
            )
            for i, _ in enumerate(self.inputs)
        )

    def emits(self, site: Site) -> Mapping[str, float]:
        """Peaks of a dry track played back, as trimmed."""
        found = {}
        for i, each in enumerate(self.outputs):
            mark = f"out{i + 1}"
            level = each.max_level + PLAYBACK_PEAK_DBFS + float(site.settings[f"{mark}.trim"])
            found[mark] = peak_of_dbu(level)
        return found

    def summary(self) -> str:
        count = len(self.inputs)
        return f"interface, {count} input{'s' if count > 1 else ''}"
