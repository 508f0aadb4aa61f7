"""Speaker cabinets and the speakers inside combos."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import log10, sqrt
from typing import Annotated, Literal

import numpy as np

from low_tide.core.acoustics.rooms import DIRECTIVITY, OCTAVES
from low_tide.core.circuit.impedance import DriverModel, closed_box
from low_tide.core.circuit.network import GROUND, Element, Parts
from low_tide.core.frequency import Real
from low_tide.core.gear.base import (
    AIR,
    CONNECTOR_NAMES,
    Connector,
    Control,
    Curve,
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
    Setting,
    Site,
    Socket,
    Transfer,
    TypicalNames,
    least_known,
    once,
)
from low_tide.core.spec import Spec
from low_tide.core.units import in_ohms, parallel

REFERENCE_PASCAL = 20e-6
"""0 dB of sound pressure level."""

ROOM_OR_CUPBOARD = Control(
    "place",
    "Stands",
    "choice",
    "room",
    (Option("room", "in the room"), Option("cupboard", "in a closed cupboard")),
    folded=True,
)
HALVES = (Option("mono", "mono"), Option("stereo", "stereo"), Option("?", "?"))


def _drivers(group: Sequence[int]) -> tuple[str, ...]:
    """Names of drivers as parts of the network."""
    return tuple(f"driver {i + 1}" for i in group)


@dataclass(frozen=True)
class Driver:
    """One loudspeaker driver."""

    impedance: Annotated[float, Spec("Rated impedance", "Ω", 1, 64, typical=8, needed=True)] = 8.0
    rating: OptionalWatts = None
    sensitivity: Annotated[float | None, Spec("Sensitivity", "dB/W at 1 m", 70, 115, typical=98)] = None
    data: Annotated[DriverData, Spec("Measured data")] = field(default_factory=DriverData)
    v_as: Annotated[float | None, Spec("Vas", "l", 1, 1000)] = None
    cone: Annotated[float, Spec("Cone radius", "cm", 3, 25, typical=12.8)] = 12.8


@dataclass(frozen=True)
class OwnLead:
    """A lead fixed to a cabinet, as inside a combo."""

    length: Annotated[float, Spec("Length", "m", 0.05, 30, typical=0.4)] = 0.4
    soldered: Annotated[bool, Spec("Soldered at the amp")] = False


@dataclass(frozen=True)
class Cabinet(Passive):
    """A cabinet: drivers, how they are wired, its jacks.

    A split cabinet has two halves, each wired as `wiring` says: always apart, or by a mono and stereo switch.
    """

    id: Identity
    name: Name
    kind: Literal["cabinet"] = "cabinet"
    notes: Notes = ""
    typical: TypicalNames = ()
    inferred: Annotated[tuple[str, ...], Spec("Inferred from a reading", le=60)] = ()
    drivers: Annotated[tuple[Driver, ...], Spec("Drivers", ge=1, le=8, needed=True)] = (Driver(),)
    wiring: Annotated[
        Literal["parallel", "series", "series_parallel"],
        Spec(
            "Drivers are wired",
            names={
                "parallel": "in parallel",
                "series": "in series",
                "series_parallel": "pairs in series, the pairs in parallel",
            },
            needed=True,
        ),
    ] = "parallel"
    rating: OptionalWatts = None
    enclosure: Annotated[Literal["open", "closed"], Spec("Back")] = "open"
    volume: Annotated[float | None, Spec("Inner volume", "l", 5, 1000)] = None
    jacks: Annotated[int, Spec("Jacks", "", 1, 4, neutral=True)] = 1
    jack_wiring: Annotated[
        Literal["parallel", "series", "separate", "mono_stereo", "unknown"],
        Spec(
            "Jacks are",
            names={
                "parallel": "in parallel",
                "series": "in series: the second takes what is behind the drivers",
                "separate": "one for each half (stereo)",
                "mono_stereo": "by a mono and stereo switch",
                "unknown": "not known",
            },
            needed=True,
        ),
    ] = "unknown"
    mono_joins: Annotated[
        Literal["parallel", "series"],
        Spec("In mono the halves are", names={"parallel": "in parallel", "series": "in series"}),
    ] = "parallel"
    connector: Annotated[Connector, Spec("Jack type", names=CONNECTOR_NAMES)] = "jack"
    weight: Annotated[float | None, Spec("Weight", "kg", 1, 300)] = None
    directivity: Annotated[
        tuple[Annotated[float, Spec("Directivity Q", "", 0.5, 100)], ...],
        Spec("Directivity Q at 63, 125, 250, 500 Hz, 1, 2, 4, 8 kHz", le=8, help="Empty: usual for a guitar cabinet."),
    ] = ()
    own_lead: Annotated[OwnLead | None, Spec("Own fixed lead (combo speaker)")] = None
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    def __post_init__(self) -> None:
        if self.wiring == "series_parallel" and (len(self.drivers) % 2 or len(self.drivers) < 4):
            raise ValueError("Drivers: pairs in series need four, six or eight drivers.")
        if self.jack_wiring in ("series", "separate", "mono_stereo") and self.jacks != 2:
            raise ValueError("Jacks: wired like this there must be two.")
        if len(self.directivity) not in (0, len(OCTAVES)):
            raise ValueError(
                f"Directivity: eight values are wanted, one for each octave; these are {len(self.directivity)}."
            )
        if self.splits() and (len(self.drivers) % 2 or self.wiring == "series_parallel"):
            raise ValueError("Drivers: two halves need an even number, each half in parallel or in series.")

    @once
    def beaming(self) -> Real:
        """Q on axis over the octaves, shape (8,)."""
        return np.array(self.directivity or DIRECTIVITY)

    def splits(self) -> bool:
        """Whether it can be driven as two halves."""
        return self.jack_wiring in ("separate", "mono_stereo")

    @once
    def sockets(self) -> tuple[Socket, ...]:
        front = Socket("front", "in front", "out", "air", AIR)
        if self.own_lead:
            return (Socket("in1", "own lead", "in", "speaker", self.connector, True, self.own_lead.length), front)
        jacks = (
            Socket(
                f"in{i + 1}",
                self._jack_name(i),
                "in",
                "speaker",
                self.connector,
                speaker_rated=True,
            )
            for i in range(self.jacks)
        )
        return (*jacks, front)

    def _jack_name(self, i: int) -> str:
        if self.splits():
            return ("left, mono", "right")[i] if self.jack_wiring == "mono_stereo" else ("left", "right")[i]
        return f"jack {i + 1}" if self.jacks > 1 else "speaker in"

    @once
    def controls(self) -> tuple[Control, ...]:
        switch = Control(
            "halves", "Halves", "choice", "mono", HALVES, safe_live=False, hand="switched", affects="speaker"
        )
        return ((switch,) if self.jack_wiring == "mono_stereo" else ()) + (ROOM_OR_CUPBOARD,)

    def is_split(self, site: Site) -> bool:
        """Whether the halves are driven apart, as set. A switch nobody has read counts as mono."""
        return self.jack_wiring == "separate" or site.settings.get("halves") == "stereo"

    def strings(self, group: Sequence[int] | None = None) -> tuple[tuple[int, ...], ...]:
        """Drivers in series, string by string; the strings lie in parallel. `group`: of these drivers alone."""
        everyone = tuple(range(len(self.drivers)) if group is None else group)
        if self.wiring == "series":
            return (everyone,)
        if self.wiring == "series_parallel":
            return tuple(everyone[i : i + 2] for i in range(0, len(everyone), 2))
        return tuple((i,) for i in everyone)

    def halves(self) -> tuple[tuple[int, ...], tuple[int, ...]]:
        """Drivers of the left and of the right half."""
        middle = len(self.drivers) // 2
        return tuple(range(middle)), tuple(range(middle, len(self.drivers)))

    def drivers_behind_a_jack(self) -> int:
        """How many drivers one plug has before it: half of them where each half has a jack of its own."""
        return len(self.halves()[0]) if self.jack_wiring == "separate" else len(self.drivers)

    def _rated(self, group: Sequence[int] | None = None) -> float:
        return parallel(*(sum(self.drivers[i].impedance for i in string) for string in self.strings(group)))

    def nominal(self) -> float:
        """Rated impedance (Ω) from the drivers and their wiring, driven as one."""
        if not self.splits():
            return self._rated()
        left, right = (self._rated(half) for half in self.halves())
        return left + right if self.mono_joins == "series" else parallel(left, right)

    def model(self, driver: Driver) -> DriverModel:
        """The impedance of a driver in this enclosure, moved by a closed box from its free resonance."""
        free = driver.data.model(driver.impedance)
        if self.enclosure == "closed" and self.volume and driver.v_as:
            return closed_box(free, len(self.drivers) * driver.v_as / self.volume)
        return free

    def curve(self, driver: Driver) -> Curve:
        """A driver's measured curve as it stands in this box, or else its model in this box."""
        return driver.data.measured or self.model(driver)

    def groups(self, site: Site) -> tuple[tuple[tuple[int, ...], str, str], ...]:
        """Drivers wired as one, and the nodes above and below them, as the jacks and the switch stand."""
        everyone = tuple(range(len(self.drivers)))
        if self.splits():
            left, right = self.halves()
            if self.is_split(site):
                return (left, "in1", GROUND), (right, "in2", GROUND)
            if self.mono_joins == "series":
                return (left, "in1", "half"), (right, "half", GROUND)
            return (left, "in1", GROUND), (right, "in1", GROUND)
        behind = self.jack_wiring == "series" and "in2" in site.plugged
        return ((everyone, "in1", "in2" if behind else GROUND),)

    def parts(self, site: Site) -> Parts:
        elements: list[Element] = []
        for group, above, below in self.groups(site):
            for string in self.strings(group):
                for place, i in enumerate(string):
                    top = above if place == 0 else f"between{string[place - 1] + 1}"
                    bottom = below if place == len(string) - 1 else f"between{i + 1}"
                    driver = self.drivers[i]
                    elements.append(site.driver(f"driver {i + 1}", top, bottom, self.curve(driver), driver.impedance))
        joined = self.jack_wiring in ("parallel", "unknown") or (self.splits() and not self.is_split(site))
        jacks = [s.id for s in self.sockets() if s.level == "speaker"]
        return Parts(tuple(elements), tuple((site.node("in1"), site.node(j)) for j in jacks[1:]) if joined else ())

    def ratings(self, site: Site) -> tuple[Rating, ...]:
        each = [d.rating for d in self.drivers]
        found = []
        if self.rating is not None or None in each:
            found.append(Rating("", self.rating, "continuous"))
        if self.rating is not None and self.is_split(site):
            halves = zip(("left half", "right half"), self.halves(), strict=True)
            found += [
                Rating(name, self.rating / 2, "continuous", _drivers(half), assumed="half of the whole cabinet’s watts")
                for name, half in halves
            ]
        if len(self.drivers) == 1 and self.rating is None:
            return (Rating("", each[0], "continuous"),)
        found += [
            Rating(f"driver {i + 1}", r, "continuous", _drivers((i,))) for i, r in enumerate(each) if r is not None
        ]
        return tuple(found)

    def reach(self, control: Control) -> tuple[Setting, ...]:
        # Where nobody has read the switch is no position of it.
        return ("mono", "stereo") if control.id == "halves" else control.positions()

    def pascal_per_volt_db(self, group: Sequence[int]) -> float | None:
        """Sound pressure (Pa) at 1 m on axis over the voltage (V) across a group of drivers, in dB.

        L = 20·log10 Σ √P_i·10^(S_i/20), S_i the sensitivity in dB/W at 1 m and P_i what each driver takes by
        its rated impedance; for n equal ones that is S + 10·log10 P + 10·log10 n. None where one is not known.
        """
        total = 0.0
        for string in self.strings(group):
            whole = sum(self.drivers[i].impedance for i in string)
            for i in string:
                driver = self.drivers[i]
                if driver.sensitivity is None:
                    return None
                total += sqrt(driver.impedance) / whole * 10 ** (driver.sensitivity / 20)
        return 20 * log10(total * REFERENCE_PASCAL)

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        """From its jacks into the air. The volts at a jack are those across the whole it drives."""
        if self.is_split(site):
            pairs = list(zip(("in1", "in2"), self.halves(), strict=True))
            return tuple(Transfer(j, "front", self.pascal_per_volt_db(h), speaker=self.name) for j, h in pairs)
        everyone = range(len(self.drivers))
        gain = self.pascal_per_volt_db(everyone)
        if self.splits() and self.mono_joins == "series" and gain is not None:
            gain -= 20 * log10(2)
        jacks = [s.id for s in self.sockets() if s.level == "speaker"]
        return tuple(Transfer(j, "front", gain, speaker=self.name) for j in jacks)

    def direct_current(self) -> DirectCurrent:
        return least_known(d.data.direct_current() for d in self.drivers)

    def assumptions(self) -> tuple[str, ...]:
        found = []
        if any(not d.data.complete() for d in self.drivers):
            found.append(f"{self.name}: speaker curve typical, not measured")
        if self.enclosure == "closed" and any(not (self.volume and d.v_as) for d in self.drivers):
            found.append(f"{self.name}: closed box reckoned as open, volume or Vas is missing")
        return tuple(found)

    def summary(self) -> str:
        where = "combo speaker" if self.own_lead else "cabinet"
        return f"{where}, {in_ohms(self.nominal())}"
