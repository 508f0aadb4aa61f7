"""Small hook-ups for tests: one amp, what hangs on it, and the leads between."""

from __future__ import annotations

from low_tide.core.gear import Amp, Attenuator, Cabinet, Interface, Lead, Load, TapBox, Unit
from low_tide.core.gear.amp import PowerMode, Tap
from low_tide.core.gear.cabinet import Driver
from low_tide.core.gear.interface import Input
from low_tide.core.gear.line_out import LineOut
from low_tide.core.hookup import End, Hookup, Link, Placed, Rig, checked

AMP = Amp(
    "amp",
    "Amp",
    modes=(PowerMode("full", 50),),
    taps=(Tap(4, 2), Tap(8, 2), Tap(16, 2)),
    mains_earth="yes",
    jack_wiring="parallel",
)
LOAD = Load(
    "load",
    "Load",
    rating=100,
    rating_kind="continuous",
    line_out=LineOut(ratio_db=-20, phantom="tolerates"),
    cutout="none",
)
PAD = Attenuator("pad", "Pad", rating=100, rating_kind="continuous", steps=(3.0, 20.0), bypass=True)
BOX = TapBox("box", "Box", load_ohms=15, load_watts=5, line_out=LineOut(ratio_db=-20, connector="trs"))
CAB = Cabinet("cab", "Cab", drivers=(Driver(16, 60), Driver(16, 60)), rating=120, jacks=2, jack_wiring="parallel")
DESK = Interface("desk", "Desk", inputs=(Input("input 1", max_level=18, most_gain=50, pad=10, phantom=True),))
LEADS = tuple(Lead(f"lead{i}", f"Lead {i}", length=float(i)) for i in range(1, 5))
SCREENED = Lead("thin", "Thin lead", construction="screened", length=1.0, gauge=24)
LINE = Lead("line", "Line lead", construction="balanced", gauge=24, plug_a="trs", plug_b="trs")
UNITS: tuple[Unit, ...] = (AMP, LOAD, PAD, BOX, CAB, DESK, *LEADS, SCREENED, LINE)


def rig(links: str, *units: Unit, **settings: dict) -> Rig:
    """A rig from 'lead1: amp/out1 > load/in; lead2: load/through' and units that replace the usual ones."""
    gear = {u.id: u for u in (*UNITS, *units)}
    placed: dict[str, None] = {}
    found = []
    for each in filter(None, (part.strip() for part in links.split(";"))):
        lead, _, way = each.partition(":")
        ends = [End(*e.strip().split("/")) for e in way.split(">")]
        placed |= dict.fromkeys(e.unit for e in ends)
        found.append(Link(lead.strip(), ends[0], ends[1] if len(ends) > 1 else None))
    placed |= dict.fromkeys(settings)
    units_in = tuple(Placed(u, settings.get(u, {})) for u in placed)
    return checked(Hookup("test", units=units_in, links=tuple(found)), gear)
