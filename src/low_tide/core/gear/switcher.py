"""Speaker and amp switches."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.circuit.network import GROUND, Parts
from low_tide.core.gear.base import (
    Control,
    Identity,
    Name,
    Notes,
    Option,
    OptionalWatts,
    OwnPapers,
    Passive,
    Rating,
    Site,
    Socket,
    SpeakerSockets,
    TypicalNames,
    once,
)
from low_tide.core.spec import Spec

BOTH = "all"


def _idle_load(socket: str) -> str:
    return f"idle load {socket.removeprefix('in')}"


@dataclass(frozen=True)
class Switcher(Passive):
    """Connects one of several amps to one of several speaker outputs."""

    id: Identity
    name: Name
    kind: Literal["switcher"] = "switcher"
    notes: Notes = ""
    typical: TypicalNames = ()
    inputs: Annotated[int, Spec("Amp inputs", "", 1, 4)] = 2
    outputs: Annotated[int, Spec("Speaker outputs", "", 1, 4, neutral=True)] = 1
    together: Annotated[bool, Spec("All outputs at once is a position", help="They then lie in parallel.")] = False
    idle: Annotated[
        Literal["loaded", "open", "unknown"],
        Spec(
            "An amp that is not selected",
            names={"loaded": "gets a load in the box", "open": "is left without load", "unknown": "not known"},
            needed=True,
        ),
    ] = "unknown"
    idle_ohms: Annotated[float, Spec("Load in the box", "Ω", 1, 1000, typical=8)] = 8.0
    idle_rating: OptionalWatts = None
    gap: Annotated[
        Literal["none", "open", "unknown"],
        Spec(
            "While it switches",
            names={"none": "no moment without load", "open": "a moment without load", "unknown": "not known"},
            needed=True,
        ),
    ] = "unknown"
    connector: SpeakerSockets = "jack"
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    @once
    def sockets(self) -> tuple[Socket, ...]:
        ins = (f"in{i + 1}" for i in range(self.inputs))
        outs = (f"out{i + 1}" for i in range(self.outputs))
        return (
            *(Socket(s, f"amp {s[2:]}", "in", "speaker", self.connector, speaker_rated=True) for s in ins),
            *(Socket(s, f"speaker {s[3:]}", "out", "speaker", self.connector, speaker_rated=True) for s in outs),
        )

    @once
    def controls(self) -> tuple[Control, ...]:
        found = []
        for mark, label, count in (("input", "Amp", self.inputs), ("output", "Speaker", self.outputs)):
            options = tuple(Option(str(i + 1), str(i + 1)) for i in range(count))
            if mark == "output" and self.together and count > 1:
                options = (*options, Option(BOTH, "all"))
            if len(options) > 1:
                found.append(
                    Control(
                        mark,
                        label,
                        "choice",
                        "1",
                        options,
                        safe_live=self.gap == "none",
                        hand="turned",
                        affects="speaker",
                    )
                )
        return tuple(found)

    def selected(self, site: Site) -> tuple[str, tuple[str, ...]]:
        """The amp input in use and the speaker outputs it goes to, as socket ids."""
        chosen = str(site.settings.get("output", "1"))
        outs = range(1, self.outputs + 1) if chosen == BOTH else (int(chosen),)
        return f"in{site.settings.get('input', '1')}", tuple(f"out{i}" for i in outs)

    def parts(self, site: Site) -> Parts:
        source, outs = self.selected(site)
        idle = [f"in{i + 1}" for i in range(self.inputs) if f"in{i + 1}" != source]
        loads = tuple(site.resistor(_idle_load(s), s, GROUND, self.idle_ohms) for s in idle)
        joints = tuple((site.node(source), site.node(out)) for out in outs)
        return Parts(loads if self.idle == "loaded" else (), joints)

    def ratings(self, site: Site) -> tuple[Rating, ...]:
        if self.idle != "loaded":
            return ()
        parts = (_idle_load(f"in{i + 1}") for i in range(self.inputs))
        return tuple(Rating(part, self.idle_rating, "continuous", (part,)) for part in parts)

    def summary(self) -> str:
        return f"switch, {self.inputs} amp{'s' if self.inputs > 1 else ''} to {self.outputs}"
