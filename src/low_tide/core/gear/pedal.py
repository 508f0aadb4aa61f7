"""Pedals and other boxes with one thing to do: drive, tails, volume, a cab filter."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.gear.base import (
    CONNECTOR_NAMES,
    SIGNAL_NAMES,
    Connector,
    Control,
    Identity,
    Name,
    Notes,
    OwnPapers,
    Passive,
    Site,
    Socket,
    Transfer,
    TypicalNames,
    once,
)
from low_tide.core.spec import Spec

LOWEST_VOLUME_DB = -60.0

DOES_NAMES = {
    "drive": "drive, boost or other tone",
    "tails": "delay or reverb",
    "volume": "volume",
    "loop_volume": "volume made for an effects loop",
    "cab_filter": "cab filter",
}


@dataclass(frozen=True)
class Pedal(Passive):
    """A pedal or other single effect, in mono or with stereo sockets."""

    id: Identity
    name: Name
    kind: Literal["pedal"] = "pedal"
    notes: Notes = ""
    typical: TypicalNames = ()
    does: Annotated[
        Literal["drive", "tails", "volume", "loop_volume", "cab_filter"], Spec("Does", names=DOES_NAMES)
    ] = "drive"
    level: Annotated[Literal["instrument", "line"], Spec("Made for", names=SIGNAL_NAMES)] = "instrument"
    stereo: Annotated[
        Literal["mono", "out", "both"],
        Spec("Sockets", names={"mono": "mono", "out": "mono in, stereo out", "both": "stereo in and out"}),
    ] = "mono"
    connector: Annotated[Connector, Spec("Sockets are", names=CONNECTOR_NAMES)] = "jack"
    gain_db: Annotated[float, Spec("Gain when on", "dB", -40, 40, typical=0)] = 0.0
    max_in: Annotated[float | None, Spec("Takes cleanly", "dBu", -20, 28, typical=8)] = None
    input_impedance: Annotated[float, Spec("Input impedance", "Ω", 500, 20_000_000, typical=1_000_000)] = 1_000_000.0
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    def _sides(self, stereo: bool) -> tuple[tuple[str, str], ...]:
        return (("L", " left"), ("R", " right")) if stereo else (("", ""),)

    @once
    def sockets(self) -> tuple[Socket, ...]:
        found = []
        for mark, side in self._sides(self.stereo == "both"):
            found.append(
                Socket(
                    f"in{mark}",
                    f"in{side}",
                    "in",
                    self.level,
                    self.connector,
                    ohms=self.input_impedance,
                    max_dbu=self.max_in,
                )
            )
        for mark, side in self._sides(self.stereo != "mono"):
            found.append(Socket(f"out{mark}", f"out{side}", "out", self.level, self.connector, ohms=1000))
        return tuple(found)

    @once
    def controls(self) -> tuple[Control, ...]:
        if self.does in ("volume", "loop_volume"):
            return (Control("volume", "Volume", "range", 0.0, low=LOWEST_VOLUME_DB, high=0.0, unit="dB"),)
        if self.does == "tails":
            return (
                Control("on", "On", "switch", True, role="tails"),
                Control("on_purpose", "Before the drive on purpose", "switch", False, folded=True),
            )
        return (Control("on", "On", "switch", True, role="speaker" if self.does == "cab_filter" else ""),)

    def is_on(self, site: Site) -> bool:
        """Whether it works, or is bypassed."""
        return bool(site.settings.get("on", True))

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        volume = float(site.settings.get("volume", 0.0))
        on = self.is_on(site)
        found = []
        for source, _ in self._sides(self.stereo == "both"):
            for target, _ in self._sides(self.stereo != "mono"):
                if source and target and source != target:
                    continue
                found.append(
                    Transfer(
                        f"in{source}",
                        f"out{target}",
                        volume + (self.gain_db if on else 0.0),
                        speaker=self.name if on and self.does == "cab_filter" else "",
                        tails=self.name if on and self.does == "tails" else "",
                        down=self.name if volume < 0 else "",
                        control="on" if self.does in ("tails", "cab_filter") else "",
                    )
                )
        return tuple(found)

    def summary(self) -> str:
        return f"{DOES_NAMES[self.does]}{', stereo' if self.stereo != 'mono' else ''}"
