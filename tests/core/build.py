"""Small hook-ups for tests: one amp, what hangs on it, and the leads between."""

from __future__ import annotations

from low_tide.core.gear.amp import Loop, PowerMode, Tap
from low_tide.core.gear.cabinet import Driver
from low_tide.core.gear.interface import Input
from low_tide.core.gear.line_out import LineOut
from low_tide.core.inventory import (
    Amp,
    Attenuator,
    Cabinet,
    Guitar,
    Interface,
    Lead,
    LineBox,
    Load,
    Microphone,
    Pedal,
    Processor,
    ReAmp,
    Switcher,
    TapBox,
    Unit,
)
from low_tide.core.rig.hookup import End, Hookup, Link, Placed
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked

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
BOX = TapBox("box", "Box", load_ohms=33, load_watts=3, line_out=LineOut(ratio_db=-20, connector="trs"))
CAB = Cabinet("cab", "Cab", drivers=(Driver(16, 60), Driver(16, 60)), rating=120, jacks=2, jack_wiring="parallel")
DESK = Interface("desk", "Desk", inputs=(Input("input 1", max_level=18, most_gain=50, pad=10, phantom=True),))
LEADS = tuple(Lead(f"lead{i}", f"Lead {i}", length=float(i)) for i in range(1, 5))
SCREENED = Lead("thin", "Thin lead", construction="screened", length=1.0, gauge=24)
LINE = Lead("line", "Line lead", construction="balanced", gauge=24, plug_a="trs", plug_b="trs")
LOOPED = Amp(
    "looped",
    "Looped",
    modes=(PowerMode("full", 50),),
    taps=(Tap(8, 2),),
    mains_earth="yes",
    jack_wiring="parallel",
    loop=Loop(send_dbu=0, return_max=6),
    own_tails=True,
)
GUITAR = Guitar("guitar", "Guitar", source_impedance=10)
DRIVE = Pedal("drive", "Drive", gain_db=20, max_in=8)
DELAY = Pedal("delay", "Delay", does="tails", max_in=20)
REVERB = Pedal("reverb", "Reverb", does="tails", level="line", stereo="out", max_in=20)
LOOP_BOX = Pedal("loopbox", "Loop box", does="loop_volume", level="line")
PROCESSOR = Processor("proc", "Processor", max_in=12, max_return=12)
REAMP = ReAmp(
    "reamp",
    "Re-amp",
    rating=100,
    rating_kind="continuous",
    inner_power=50,
    inner_minimum=4,
    cutout="none",
    load_needs_mains="yes",
    line_out=LineOut(ratio_db=-20, phantom="tolerates"),
)
SWITCH = Switcher("switch", "Switch", inputs=2, idle="loaded", idle_ohms=8, idle_rating=200, gap="none")
MIC = Microphone("mic", "Mic", sensitivity=2.0, max_level=150)
MATCHER = LineBox("matcher", "Matcher", gain_db=-20, max_in=20, isolated="yes")
CORDS = tuple(Lead(f"cord{i}", f"Cord {i}", construction="screened", length=3.0, gauge=24) for i in range(1, 7))
LINES = tuple(
    Lead(f"line{i}", f"Line {i}", construction="balanced", gauge=24, plug_a="trs", plug_b="trs") for i in range(1, 5)
)
XLR = Lead("xlr", "XLR", construction="balanced", gauge=24, plug_a="xlr", plug_b="xlr")
UNITS: tuple[Unit, ...] = (
    AMP,
    LOAD,
    PAD,
    BOX,
    CAB,
    DESK,
    *LEADS,
    SCREENED,
    LINE,
    LOOPED,
    GUITAR,
    DRIVE,
    DELAY,
    REVERB,
    LOOP_BOX,
    PROCESSOR,
    REAMP,
    SWITCH,
    MIC,
    MATCHER,
    *CORDS,
    *LINES,
    XLR,
)


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
