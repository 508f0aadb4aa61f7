"""Pedals and other boxes with one thing to do: drive, tails, volume, a cab filter, an equaliser."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, TypeAlias

from low_tide.core.audio.correction import Band, graphic, programme_gain
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
    "equaliser": "equaliser of fixed bands",
}
OCTAVES = (63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0)

Hertz: TypeAlias = Annotated[float, Spec("Band", "Hz", 20, 20_000)]


def band_control(band: float) -> str:
    """The control of an equaliser's band at a frequency (Hz)."""
    return f"band.{band:g}"


@dataclass(frozen=True)
class Pedal(Passive):
    """A pedal or other single effect, in mono or with stereo sockets."""

    id: Identity
    name: Name
    kind: Literal["pedal"] = "pedal"
    notes: Notes = ""
    typical: TypicalNames = ()
    does: Annotated[
        Literal["drive", "tails", "volume", "loop_volume", "cab_filter", "equaliser"], Spec("Does", names=DOES_NAMES)
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
    bands: Annotated[tuple[Hertz, ...], Spec("Bands of an equaliser", ge=1, le=31)] = OCTAVES
    band_reach: Annotated[float, Spec("Each band up to ±", "dB", 1, 24, typical=12)] = 12.0
    output_reach: Annotated[float, Spec("Output level up to ±", "dB", 0, 40, typical=12)] = 12.0
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    def __post_init__(self) -> None:
        object.__setattr__(self, "bands", tuple(sorted(self.bands)))
        if len({f"{band:g}" for band in self.bands}) < len(self.bands):
            raise ValueError("Bands of an equaliser: two of them are at the same frequency.")

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
        if self.does == "equaliser":
            reach = self.output_reach
            return (
                Control("on", "On", "switch", True),
                Control("volume", "Output level", "range", 0.0, low=-reach, high=reach, step=0.5, unit="dB"),
                *(
                    Control(
                        band_control(band),
                        f"{band:g} Hz",
                        "range",
                        0.0,
                        low=-self.band_reach,
                        high=self.band_reach,
                        step=0.5,
                        unit="dB",
                        folded=True,
                    )
                    for band in self.bands
                ),
            )
        if self.does == "tails":
            return (
                Control("on", "On", "switch", True, role="tails"),
                Control("on_purpose", "Before the drive on purpose", "switch", False, folded=True),
            )
        return (Control("on", "On", "switch", True, role="speaker" if self.does == "cab_filter" else ""),)

    def is_on(self, site: Site) -> bool:
        """Whether it works, or is bypassed."""
        return bool(site.settings.get("on", True))

    def tone(self, site: Site) -> tuple[Band, ...]:
        """What an equaliser does as it is set."""
        if self.does != "equaliser" or not self.is_on(site):
            return ()
        return graphic(self.bands, tuple(float(site.settings[band_control(band)]) for band in self.bands))

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        on = self.is_on(site)
        volume = float(site.settings.get("volume", 0.0)) if on else 0.0
        tone = self.tone(site)
        found = []
        for source, _ in self._sides(self.stereo == "both"):
            for target, _ in self._sides(self.stereo != "mono"):
                if source and target and source != target:
                    continue
                found.append(
                    Transfer(
                        f"in{source}",
                        f"out{target}",
                        volume + (self.gain_db if on else 0.0) + programme_gain(tone),
                        speaker=self.name if on and self.does == "cab_filter" else "",
                        tails=self.name if on and self.does == "tails" else "",
                        down=self.name if volume < 0 else "",
                        control="on" if self.does in ("tails", "cab_filter", "equaliser") else "",
                        tone=tone,
                    )
                )
        return tuple(found)

    def summary(self) -> str:
        return f"{DOES_NAMES[self.does]}{', stereo' if self.stereo != 'mono' else ''}"
