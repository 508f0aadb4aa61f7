"""Gear and hook-ups of the lightship. Everything here is invented."""

from __future__ import annotations

from low_tide.core.gear import Amp, Attenuator, Cabinet, Interface, Lead, Load, TapBox, Unit
from low_tide.core.gear.amp import PowerMode, Tap
from low_tide.core.gear.cabinet import Driver, OwnLead
from low_tide.core.gear.interface import Input
from low_tide.core.gear.line_out import LineOut
from low_tide.core.hookup import End, Hookup, Link, Placed

AMPS: tuple[Unit, ...] = (
    Amp(
        "godwit-45",
        "Godwit 45",
        mains_earth="yes",
        jack_wiring="parallel",
        modes=(PowerMode("full", 45),),
        taps=(Tap(4, 2), Tap(8, 2), Tap(16, 2)),
        feedback="moderate",
        safe_without_load="no",
        effects_loop=True,
        notes="The head in the hold. Two jacks in parallel behind one selector.",
    ),
    Amp(
        "redshank-100",
        "Redshank 100",
        mains_earth="yes",
        jack_wiring="parallel",
        modes=(PowerMode("full", 100), PowerMode("half", 50), PowerMode("low", 10)),
        taps=(Tap(4, 2), Tap(8, 1), Tap(16, 1)),
        tap_choice="sockets",
        feedback="strong",
        damping_factor=1.4,
        safe_without_load="no",
        effects_loop=True,
    ),
    Amp(
        "dunlin-18",
        "Dunlin 18",
        mains_earth="yes",
        jack_wiring="parallel",
        form="combo",
        inner_speaker="dunlin-speaker",
        modes=(PowerMode("full", 18),),
        taps=(Tap(8, 1),),
        tap_choice="sockets",
        feedback="none",
        safe_without_load="unknown",
        notes="Its speaker lead is 40 cm long and reaches nothing but its own jack.",
    ),
    Amp(
        "dotterel-60",
        "Dotterel 60",
        mains_earth="yes",
        jack_wiring="parallel",
        technology="transistor",
        modes=(PowerMode("full", 60),),
        taps=(Tap(8, 2),),
        feedback="transistor",
        crank=1.0,
        minimum_load=4.0,
        safe_without_load="yes",
        effects_loop=True,
    ),
)

LOADS: tuple[Unit, ...] = (
    Load(
        "groyne-r8",
        "Groyne R8",
        impedances=(8.0,),
        behaviour="reactive",
        rating=100,
        rating_kind="continuous",
        through="switching",
        cutout="none",
        line_out=LineOut(ratio_db=-20, filter="switchable", earth_lift=True, phantom="tolerates"),
        notes="A plug in the through socket takes the load out.",
    ),
    Load(
        "gabion-40",
        "Gabion 40",
        impedances=(8.0,),
        rating=40,
        rating_kind="continuous",
        through="parallel",
        cutout="opens",
        line_out=LineOut(ratio_db=-24, phantom="tolerates"),
    ),
    Load(
        "revetment-16",
        "Revetment 16",
        impedances=(8.0, 16.0),
        behaviour="reactive",
        rating=150,
        rating_kind="continuous",
        cutout="none",
        line_out=LineOut(ratio_db=-30, connector="xlr", phantom="tolerates"),
    ),
)

ATTENUATORS: tuple[Unit, ...] = (
    Attenuator(
        "riprap-50",
        "Riprap 50",
        rating=50,
        rating_kind="amp_label",
        steps=(8.0, 16.0, 24.0),
        bypass=True,
        cutout="none",
        notes="Three steps, far apart.",
    ),
    Attenuator(
        "caisson-120",
        "Caisson 120",
        behaviour="reactive",
        rating=120,
        rating_kind="continuous",
        steps=(),
        lowest=3.0,
        highest=30.0,
        bypass=True,
        cutout="opens",
        line_out=LineOut(ratio_db=-20, phantom="tolerates"),
    ),
)

TAP_BOXES: tuple[Unit, ...] = (
    TapBox(
        "winkle-1",
        "Winkle 1",
        load_ohms=15.0,
        load_watts=5.0,
        line_out=LineOut(
            ratio_db=-30, pot=False, filter="switchable", connector="xlr", earth_lift=True, phantom="unknown"
        ),
    ),
    TapBox(
        "marram-2",
        "Marram 2",
        bridging_impedance=100_000,
        line_out=LineOut(
            ratio_db=-24, limiter_v=4.0, connector="xlr", earth_lift=True, source_impedance=150, phantom="needs"
        ),
    ),
)

_DRIVER_16 = Driver(16.0, 60, 99.0)

CABINETS: tuple[Unit, ...] = (
    Cabinet("turnstone-212", "Turnstone 2×12", drivers=(_DRIVER_16,) * 2, rating=120, jacks=2, jack_wiring="parallel"),
    Cabinet(
        "whimbrel-412",
        "Whimbrel 4×12",
        drivers=(_DRIVER_16,) * 4,
        wiring="series_parallel",
        rating=240,
        enclosure="closed",
    ),
    Cabinet("sanderling-112", "Sanderling 1×12", drivers=(Driver(8.0, 80, 98.0),)),
    Cabinet(
        "dunlin-speaker",
        "Dunlin 18 speaker",
        drivers=(Driver(8.0, 30, 97.0),),
        own_lead=OwnLead(0.4),
        notes="Lives in the Dunlin 18.",
    ),
)

LEADS: tuple[Unit, ...] = (
    Lead("speaker-a", "Speaker lead A", length=1.5, gauge=14),
    Lead("speaker-b", "Speaker lead B", length=3.0, gauge=14),
    Lead("speaker-c", "Speaker lead C", length=1.0, gauge=16),
    Lead("speaker-d", "Speaker lead D", length=6.0, gauge=12),
    Lead(
        "lookalike-1",
        "Black lead 1",
        construction="screened",
        length=1.5,
        gauge=24,
        notes="Looks just like speaker lead A. It is not.",
    ),
    Lead("lookalike-2", "Black lead 2", construction="screened", length=3.0, gauge=24),
    Lead("line-1", "Line lead 1", construction="balanced", length=3.0, gauge=24, plug_a="trs", plug_b="trs"),
    Lead("line-2", "Line lead 2", construction="balanced", length=5.0, gauge=24, plug_a="trs", plug_b="trs"),
    Lead("xlr-1", "XLR lead 1", construction="balanced", length=3.0, gauge=24, plug_a="xlr", plug_b="xlr"),
    Lead("xlr-2", "XLR lead 2", construction="balanced", length=6.0, gauge=24, plug_a="xlr", plug_b="xlr"),
)

INTERFACES: tuple[Unit, ...] = (
    Interface(
        "skerry-4",
        "Skerry 4",
        inputs=(
            Input("input 1", max_level=18, most_gain=50, phantom=True, absolute_max=26),
            Input("input 2", max_level=18, most_gain=50, phantom=True, absolute_max=26),
            Input("line 3", connector="trs", max_level=20, most_gain=12, absolute_max=28),
            Input("line 4", connector="trs", max_level=20, most_gain=12, absolute_max=28),
        ),
    ),
    Interface(
        "shingle-2",
        "Shingle 2",
        inputs=(
            Input("input 1", max_level=12, most_gain=56, pad=12, phantom=True),
            Input("input 2", max_level=12, most_gain=56, pad=12, phantom=True),
        ),
    ),
)

GEAR: dict[str, Unit] = {
    unit.id: unit for group in (AMPS, LOADS, ATTENUATORS, TAP_BOXES, CABINETS, LEADS, INTERFACES) for unit in group
}


def _link(lead: str, a: str, b: str = "") -> Link:
    """A lead between 'unit/socket' and 'unit/socket'; without the second its far end hangs free."""
    return Link(lead, End(*a.split("/")), End(*b.split("/")) if b else None)


HOOKUPS: dict[str, Hookup] = {
    "silent-night": Hookup(
        "Cue 1, silent after 21:00",
        "Everyone sleeps; the load box alone, IR in software.",
        (
            Placed("godwit-45", {"tap": "8"}),
            Placed("groyne-r8", {"line.pot": -4.0}),
            Placed("skerry-4", {"in3.ir": True}),
        ),
        (
            _link("speaker-a", "godwit-45/out1", "groyne-r8/in"),
            _link("line-1", "groyne-r8/line", "skerry-4/in3"),
        ),
    ),
    "quiet-hold": Hookup(
        "Cue 2, quiet in the hold",
        "Turned down between amp and speaker, tapped for the desk.",
        (
            Placed("godwit-45", {"tap": "8"}),
            Placed("caisson-120", {"step": 18.0, "line.pot": -4.0}),
            Placed("turnstone-212"),
            Placed("skerry-4", {"in3.ir": True}),
        ),
        (
            _link("speaker-a", "godwit-45/out1", "caisson-120/in"),
            _link("speaker-b", "caisson-120/out", "turnstone-212/in1"),
            _link("line-1", "caisson-120/line", "skerry-4/in3"),
        ),
    ),
    "split-fog": Hookup(
        "Cue 3, load and cabinet together",
        "A box beside the cabinet takes half.",
        (
            Placed("godwit-45", {"tap": "8"}),
            Placed("gabion-40", {"line.pot": -4.0}),
            Placed("turnstone-212"),
            Placed("skerry-4"),
        ),
        (
            _link("speaker-a", "godwit-45/out1", "gabion-40/in"),
            _link("speaker-b", "godwit-45/out2", "turnstone-212/in1"),
            _link("line-1", "gabion-40/line", "skerry-4/in3"),
        ),
    ),
    "empty-through": Hookup(
        "Cue 4, what the night shift left",
        "As found in the morning, before anything was switched on.",
        (
            Placed("redshank-100", {"mode": "full"}),
            Placed("groyne-r8", {"line.pot": -10.0}),
            Placed("skerry-4", {"in3.ir": True}),
        ),
        (
            _link("lookalike-1", "redshank-100/tap8.1", "groyne-r8/in"),
            _link("speaker-b", "groyne-r8/through"),
            _link("line-1", "groyne-r8/line", "skerry-4/in3"),
        ),
    ),
    "tap-on-lead": Hookup(
        "Cue 5, real cabinet and a tap",
        "Loud hours: the cabinet is the load, the tap sits on its lead.",
        (
            Placed("redshank-100", {"mode": "half"}),
            Placed("winkle-1"),
            Placed("whimbrel-412"),
            Placed("shingle-2", {"in1.phantom": True}),
        ),
        (
            _link("speaker-a", "redshank-100/tap16.1", "winkle-1/in"),
            _link("speaker-b", "winkle-1/through", "whimbrel-412/in1"),
            _link("xlr-1", "winkle-1/line", "shingle-2/in1"),
        ),
    ),
    "combo-bunks": Hookup(
        "Cue 6, combo beside the bunks",
        "The combo's own speaker, through the coarse attenuator.",
        (
            Placed("dunlin-18"),
            Placed("dunlin-speaker"),
            Placed("riprap-50", {"step": "16"}),
        ),
        (
            _link("speaker-c", "dunlin-18/tap8.1", "riprap-50/in"),
            _link("dunlin-speaker", "riprap-50/out", "dunlin-speaker/in1"),
        ),
    ),
    "guide-track": Hookup(
        "Guide track, transistor",
        "For the drummer's run-through; replaced later.",
        (
            Placed("dotterel-60"),
            Placed("marram-2", {"line.pot": -4.0}),
            Placed("sanderling-112"),
            Placed("skerry-4", {"in1.phantom": True, "in1.ir": True}),
        ),
        (
            _link("speaker-a", "dotterel-60/out1", "marram-2/in"),
            _link("speaker-b", "marram-2/through", "sanderling-112/in1"),
            _link("xlr-1", "marram-2/line", "skerry-4/in1"),
        ),
    ),
}
