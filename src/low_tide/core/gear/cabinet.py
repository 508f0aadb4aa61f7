"""Speaker cabinets and the speakers inside combos."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from low_tide.core.gear.base import (
    CONNECTOR_NAMES,
    Connector,
    Control,
    DriverData,
    Identity,
    Name,
    Notes,
    OptionalWatts,
    Site,
    Socket,
    TypicalNames,
    once,
)
from low_tide.core.impedance import DriverModel, closed_box
from low_tide.core.network import GROUND, Element, Parts
from low_tide.core.spec import Spec
from low_tide.core.units import figure, parallel


@dataclass(frozen=True)
class Driver:
    """One loudspeaker driver."""

    impedance: Annotated[float, Spec("Rated impedance", "Ω", 1, 64, typical=8)] = 8.0
    rating: OptionalWatts = None
    sensitivity: Annotated[float | None, Spec("Sensitivity", "dB/W at 1 m", 70, 115, typical=98)] = None
    data: Annotated[DriverData, Spec("Measured data")] = field(default_factory=DriverData)
    v_as: Annotated[float | None, Spec("Vas", "l", 1, 1000)] = None


@dataclass(frozen=True)
class OwnLead:
    """A lead fixed to a cabinet, as inside a combo."""

    length: Annotated[float, Spec("Length", "m", 0.05, 30, typical=0.4)] = 0.4
    soldered: Annotated[bool, Spec("Soldered at the amp")] = False


@dataclass(frozen=True)
class Cabinet:
    """A cabinet: drivers, how they are wired, its jacks."""

    id: Identity
    name: Name
    kind: Literal["cabinet"] = "cabinet"
    notes: Notes = ""
    typical: TypicalNames = ()
    drivers: Annotated[tuple[Driver, ...], Spec("Drivers", ge=1, le=8)] = (Driver(),)
    wiring: Annotated[
        Literal["parallel", "series", "series_parallel"],
        Spec(
            "Drivers are wired",
            names={
                "parallel": "in parallel",
                "series": "in series",
                "series_parallel": "pairs in series, the pairs in parallel",
            },
        ),
    ] = "parallel"
    rating: OptionalWatts = None
    enclosure: Annotated[Literal["open", "closed"], Spec("Back")] = "open"
    volume: Annotated[float | None, Spec("Inner volume", "l", 5, 1000)] = None
    jacks: Annotated[int, Spec("Jacks", "", 1, 4)] = 1
    jack_wiring: Annotated[
        Literal["parallel", "unknown"],
        Spec("Jacks are", names={"parallel": "in parallel", "unknown": "not known"}),
    ] = "unknown"
    connector: Annotated[Connector, Spec("Jack type", names=CONNECTOR_NAMES)] = "jack"
    own_lead: Annotated[OwnLead | None, Spec("Own fixed lead (combo speaker)")] = None
    archived: Annotated[bool, Spec("Archived")] = False

    def __post_init__(self) -> None:
        if self.wiring == "series_parallel" and (len(self.drivers) % 2 or len(self.drivers) < 4):
            raise ValueError("Drivers: pairs in series need four, six or eight drivers.")

    @once
    def sockets(self) -> tuple[Socket, ...]:
        if self.own_lead:
            return (Socket("in1", "own lead", "in", "speaker", self.connector, True, self.own_lead.length),)
        return tuple(
            Socket(
                f"in{i + 1}",
                f"jack {i + 1}" if self.jacks > 1 else "speaker in",
                "in",
                "speaker",
                self.connector,
                speaker_rated=True,
            )
            for i in range(self.jacks)
        )

    def controls(self) -> tuple[Control, ...]:
        return ()

    def strings(self) -> tuple[tuple[int, ...], ...]:
        """Drivers in series, string by string; the strings lie in parallel."""
        everyone = tuple(range(len(self.drivers)))
        if self.wiring == "series":
            return (everyone,)
        if self.wiring == "series_parallel":
            return tuple(everyone[i : i + 2] for i in range(0, len(everyone), 2))
        return tuple((i,) for i in everyone)

    def nominal(self) -> float:
        """Rated impedance (Ω) from the drivers and their wiring."""
        return parallel(*(sum(self.drivers[i].impedance for i in string) for string in self.strings()))

    def model(self, driver: Driver) -> DriverModel:
        free = driver.data.model(driver.impedance)
        if self.enclosure == "closed" and self.volume and driver.v_as:
            return closed_box(free, len(self.drivers) * driver.v_as / self.volume)
        return free

    def parts(self, site: Site) -> Parts:
        elements: list[Element] = []
        for string in self.strings():
            for place, i in enumerate(string):
                top = "in1" if place == 0 else f"between{string[place - 1] + 1}"
                bottom = GROUND if place == len(string) - 1 else f"between{i + 1}"
                driver = self.drivers[i]
                curve = site.curve(self.model(driver), driver.impedance)
                elements.append(site.element(f"driver {i + 1}", top, bottom, curve))
        joints = tuple((site.node("in1"), site.node(s.id)) for s in self.sockets()[1:])
        return Parts(tuple(elements), joints)

    def assumptions(self) -> tuple[str, ...]:
        found = []
        if any(not d.data.complete() for d in self.drivers):
            found.append(f"{self.name}: speaker curve typical, not measured")
        if self.enclosure == "closed" and any(not (self.volume and d.v_as) for d in self.drivers):
            found.append(f"{self.name}: closed box reckoned as open, volume or Vas is missing")
        return tuple(found)

    def summary(self) -> str:
        where = "combo speaker" if self.own_lead else "cabinet"
        return f"{where}, {figure(self.nominal())} Ω"
