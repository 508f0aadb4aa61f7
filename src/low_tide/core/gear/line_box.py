"""Boxes that bring one signal level to another: DI boxes, and level matchers for playing a track into an amp."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

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
    OwnPapers,
    Passive,
    PhantomAnswer,
    Signal,
    Site,
    Socket,
    Transfer,
    TypicalNames,
    once,
)
from low_tide.core.spec import Spec


@dataclass(frozen=True)
class LineBox(Passive):
    """A DI box (instrument to microphone level) or a level matcher (line to instrument level)."""

    id: Identity
    name: Name
    kind: Literal["line_box"] = "line_box"
    notes: Notes = ""
    typical: TypicalNames = ()
    level_in: Annotated[Signal, Spec("In", names=SIGNAL_NAMES)] = "line"
    level_out: Annotated[Signal, Spec("Out", names=SIGNAL_NAMES)] = "instrument"
    plug_in: Annotated[Connector, Spec("Socket, in", names=CONNECTOR_NAMES)] = "trs"
    plug_out: Annotated[Connector, Spec("Socket, out", names=CONNECTOR_NAMES)] = "jack"
    gain_db: Annotated[float, Spec("In to out, level at full", "dB", -60, 20, typical=-20)] = -20.0
    pot: Annotated[bool, Spec("Level pot")] = True
    through: Annotated[bool, Spec("Parallel through socket")] = False
    max_in: Annotated[float | None, Spec("Takes cleanly", "dBu", -20, 40, typical=20)] = None
    input_impedance: Annotated[float, Spec("Input impedance", "Ω", 500, 20_000_000, typical=10_000)] = 10_000.0
    source_impedance: Annotated[float, Spec("Source impedance", "Ω", 1, 100_000, typical=10_000)] = 10_000.0
    isolated: Annotated[Answer, Spec("Isolated by a transformer", names=ANSWER_NAMES)] = "unknown"
    earth_lift: Annotated[bool, Spec("Audio-earth lift switch")] = False
    phantom: PhantomAnswer = "unknown"
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    @once
    def sockets(self) -> tuple[Socket, ...]:
        found = [
            Socket("in", "in", "in", self.level_in, self.plug_in, ohms=self.input_impedance, max_dbu=self.max_in),
            Socket("out", "out", "out", self.level_out, self.plug_out, ohms=self.source_impedance),
        ]
        if self.through:
            found.append(Socket("through", "through", "out", self.level_in, self.plug_in, ohms=1))
        return tuple(found)

    @once
    def controls(self) -> tuple[Control, ...]:
        found = []
        if self.pot:
            found.append(Control("level", "Level", "range", 0.0, low=-40.0, high=0.0, unit="dB"))
        if self.earth_lift:
            found.append(Control("lift", "Audio-earth lift", "switch", False))
        return tuple(found)

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        found = [Transfer("in", "out", self.gain_db + float(site.settings.get("level", 0.0)))]
        return (*found, Transfer("in", "through")) if self.through else tuple(found)

    def summary(self) -> str:
        return f"{self.level_in} to {self.level_out} level"
