"""Gear of the lightship. Everything here is invented."""

from __future__ import annotations

from dataclasses import replace

from low_tide.core.gear.amp import Loop, PowerMode, Tap
from low_tide.core.gear.attenuator import Mark
from low_tide.core.gear.base import DriverData
from low_tide.core.gear.cabinet import Driver, OwnLead
from low_tide.core.gear.interface import Input, Output, PhonesOut
from low_tide.core.gear.line_out import LineOut
from low_tide.core.gear.load import CurveMode
from low_tide.core.inventory import (
    Amp,
    Attenuator,
    Cabinet,
    Guitar,
    Headphones,
    Interface,
    Lead,
    LineBox,
    Load,
    Microphone,
    Mount,
    Partition,
    Pedal,
    Place,
    Processor,
    ReAmp,
    Room,
    Switcher,
    TapBox,
    Unit,
)
from low_tide.core.thermal.heating import Thermal
from low_tide.core.venue.partition import Surface
from low_tide.core.venue.place import Limit
from low_tide.demo.papers import PAPERS

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
        loop=Loop(send_dbu=0, return_max=6),
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
        loop=Loop("parallel", send_dbu=4),
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
        loop=Loop(send_dbu=0),
    ),
    Amp(
        "greenshank-30",
        "Greenshank 30",
        mains_earth="yes",
        jack_wiring="switching",
        form="combo",
        inner_speaker="greenshank-speaker",
        modes=(PowerMode("full", 30), PowerMode("one watt", 1, attenuation=14.8)),
        taps=(Tap(8, 2),),
        feedback="moderate",
        safe_without_load="no",
        own_tails=True,
        line_out=LineOut(ratio_db=-32, pot=False, filter="fixed", isolated="yes", phantom="tolerates"),
        notes="A plug in its second jack cuts its own speaker off. Its one watt counts after its attenuator.",
    ),
    Amp(
        "phalarope-50",
        "Phalarope 50",
        mains_earth="yes",
        jack_wiring="parallel",
        technology="transistor",
        modes=(PowerMode("full", 50),),
        taps=(Tap(8, 1),),
        feedback="current",
        crank=1.0,
        minimum_load=8.0,
        floating="yes",
        safe_without_load="yes",
        line_out=LineOut(ratio_db=-10, origin="preamp", phantom="tolerates"),
        notes="Bridged output: its sleeve must not meet earth.",
    ),
    Amp(
        "stint-10",
        "Stint 10",
        mains_earth="yes",
        form="combo",
        inner_speaker="stint-speaker",
        technology="transistor",
        modes=(PowerMode("full", 10),),
        taps=(Tap(8, 1),),
        feedback="transistor",
        crank=1.0,
        minimum_load=4.0,
        safe_without_load="yes",
        master=False,
        notes="Small, loud enough for the wheelhouse.",
    ),
)

LOADS: tuple[Unit, ...] = (
    Load(
        "groyne-r8",
        "Groyne R8",
        impedances=(8.0,),
        behaviour="reactive",
        curve=DriverData(r_e=6.7, f_s=98, q_ms=3.2, q_es=0.7, l_1=0.12, l_2=0.62, r_2=48),
        rating=100,
        rating_kind="continuous",
        through="switching",
        cutout="none",
        line_out=LineOut(ratio_db=-20, filter="switchable", earth_lift=True, isolated="no", phantom="tolerates"),
        warms=Thermal(0.9, 25, 65),
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
        modes=(
            CurveMode("closed 4×12", DriverData(f_s=110, q_ms=4, q_es=0.6)),
            CurveMode("open back", DriverData(f_s=80, q_ms=6, q_es=0.9)),
            CurveMode("bright", DriverData(f_s=95, l_2=1.2, r_2=90)),
            CurveMode("soft", DriverData(f_s=95, l_2=0.35, r_2=30)),
        ),
        own_noise=28,
        rating=150,
        rating_kind="continuous",
        cutout="none",
        line_out=LineOut(ratio_db=-30, connector="xlr", isolated="yes", phantom="tolerates"),
    ),
)

REAMPS: tuple[Unit, ...] = (
    ReAmp(
        "dolos-50",
        "Dolos 50",
        impedance=8.0,
        rating=100,
        rating_kind="amp_label",
        inner_power=50,
        inner_into=8,
        inner_minimum=4,
        load_needs_mains="yes",
        effects_loop=True,
        line_in=True,
        cutout="opens",
        line_out=LineOut(ratio_db=-26, filter="switchable", isolated="yes", phantom="tolerates"),
        notes="A relay takes the load away when the mains goes.",
    ),
)

ATTENUATORS: tuple[Unit, ...] = (
    Attenuator(
        "riprap-50",
        "Riprap 50",
        rating=50,
        rating_kind="amp_label",
        steps=(8.0, 16.0, 24.0),
        warms=Thermal(limit=60),
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
    Attenuator(
        "sandbag-30",
        "Sandbag 30",
        rating=60,
        rating_kind="continuous",
        steps=(),
        marks=(Mark("0", 0.0, 0.1), Mark("3", 4.2, 0.3), Mark("6", 11.0, 0.5), Mark("10", 26.5, 0.8)),
        cutout="none",
        notes="A knob from 0 to 10 that says nothing; its table is from volts on the bench.",
    ),
)

TAP_BOXES: tuple[Unit, ...] = (
    TapBox(
        "winkle-1",
        "Winkle 1",
        load_ohms=33.0,
        load_watts=3.0,
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

_DRIVER_16 = Driver(16.0, 60, 99.0, DriverData(r_e=13.0, f_s=78, q_ms=7, q_es=0.85, l_1=0.3, l_2=1.5, r_2=130), v_as=62)
_DRIVER_8 = Driver(8.0, 80, 98.0, DriverData(r_e=6.4, f_s=104, q_ms=8, q_es=0.6, l_1=0.1, l_2=0.5, r_2=75))

CABINETS: tuple[Unit, ...] = (
    Cabinet(
        "turnstone-212",
        "Turnstone 2×12",
        drivers=(_DRIVER_16,) * 2,
        rating=120,
        jacks=2,
        jack_wiring="parallel",
        weight=24,
    ),
    Cabinet(
        "whimbrel-412",
        "Whimbrel 4×12",
        drivers=(_DRIVER_16,) * 4,
        wiring="series_parallel",
        rating=240,
        enclosure="closed",
        volume=140,
        weight=41,
    ),
    Cabinet("sanderling-112", "Sanderling 1×12", drivers=(_DRIVER_8,), weight=14),
    Cabinet(
        "spoonbill-412",
        "Spoonbill 4×12",
        drivers=(Driver(8.0, 60, 98.0),) * 4,
        wiring="series",
        mono_joins="parallel",
        rating=240,
        enclosure="closed",
        jacks=2,
        jack_wiring="mono_stereo",
        notes="Mono 8 Ω, stereo 16 Ω a side.",
    ),
    Cabinet(
        "greenshank-speaker",
        "Greenshank 30 speaker",
        drivers=(Driver(8.0, 50, 99.0),),
        own_lead=OwnLead(0.5),
    ),
    Cabinet("stint-speaker", "Stint 10 speaker", drivers=(Driver(8.0, 20, 93.0),), own_lead=OwnLead(0.3, True)),
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
    *(
        Lead(f"line-{i}", f"Line lead {i}", construction="balanced", length=5.0, gauge=24, plug_a="trs", plug_b="trs")
        for i in (3, 4, 5, 6)
    ),
    *(
        Lead(f"xlr-{i}", f"XLR lead {i}", construction="balanced", length=8.0, gauge=24, plug_a="xlr", plug_b="xlr")
        for i in (3, 4, 5)
    ),
    Lead("speaker-e", "Speaker lead E", length=2.0, gauge=14, angled="one"),
    Lead("speaker-f", "Speaker lead F", length=1.5, gauge=16),
    *(Lead(f"guitar-{i}", f"Guitar lead {i}", construction="screened", length=5.0, gauge=24) for i in (1, 2, 3)),
    *(
        Lead(f"patch-{i}", f"Patch lead {i}", construction="screened", length=0.3, gauge=24, angled="both")
        for i in range(1, 9)
    ),
)

GUITARS: tuple[Unit, ...] = (
    Guitar("bosun", "Bosun's guitar", peak_level=0, notes="Two single coils."),
    Guitar("baritone", "Baritone guitar", peak_level=4),
)

PEDALS: tuple[Unit, ...] = (
    Pedal("bladderwrack", "Bladderwrack", gain_db=12, max_in=8, notes="Drive."),
    Pedal("thrift", "Thrift", gain_db=6, max_in=10, notes="Boost."),
    Pedal("samphire", "Samphire", does="tails", max_in=8, notes="Delay."),
    Pedal("eelgrass", "Eelgrass", does="tails", level="line", stereo="out", max_in=18, notes="Stereo reverb."),
    Pedal("cuttlebone", "Cuttlebone", does="equaliser", level="line", max_in=18, notes="Eight bands, line or loop."),
    Pedal("whelk", "Whelk", does="loop_volume", level="line", max_in=18, notes="Volume for an effects loop."),
    Pedal("cockle", "Cockle", does="volume", notes="Volume before the amp."),
)

PROCESSORS: tuple[Unit, ...] = (
    Processor("strandline", "Strandline", max_in=12, max_return=14, notes="Send to the amp, return from the load."),
)

SWITCHERS: tuple[Unit, ...] = (
    Switcher("sluice-2", "Sluice 2", inputs=2, idle="loaded", idle_ohms=8, idle_rating=100, gap="none"),
)

MICROPHONES: tuple[Unit, ...] = (
    Microphone("limpet-1", "Limpet 1", sensitivity=1.6, max_level=150, phantom="tolerates"),
    Microphone("limpet-2", "Limpet 2", sensitivity=1.6, max_level=150, phantom="tolerates"),
    Microphone("barnacle", "Barnacle", sensitivity=14, max_level=132, phantom="needs"),
)

LINE_BOXES: tuple[Unit, ...] = (
    LineBox("slipway", "Slipway", gain_db=-18, isolated="yes", max_in=20, notes="A dry track into an amp's input."),
    LineBox(
        "jetty",
        "Jetty",
        level_in="instrument",
        level_out="microphone",
        plug_in="jack",
        plug_out="xlr",
        gain_db=-24,
        pot=False,
        through=True,
        max_in=10,
        input_impedance=1_000_000,
        source_impedance=150,
        isolated="yes",
        earth_lift=True,
        phantom="tolerates",
        notes="Guitar in, desk out, and through to the amp.",
    ),
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
        outputs=(Output("output 1"), Output("output 2")),
        phones=(PhonesOut(max_volts=2.0, impedance=10),),
        earthed="yes",
    ),
    Interface(
        "shingle-2",
        "Shingle 2",
        inputs=(
            Input("input 1", max_level=12, most_gain=56, pad=12, phantom=True),
            Input("input 2", max_level=12, most_gain=56, pad=12, phantom=True),
        ),
        earthed="no",
        notes="Runs off a laptop on its battery.",
    ),
    Interface(
        "promenade-8",
        "Promenade 8",
        inputs=tuple(
            Input(f"channel {i}", connector="xlr", max_level=22, most_gain=60, phantom=True, absolute_max=28)
            for i in range(1, 9)
        ),
        earthed="yes",
        notes="The desk at the harbour hall.",
    ),
)

HEADPHONES: tuple[Unit, ...] = (
    Headphones("mussel-64", "Mussel 64", impedance=64, sensitivity=97, notes="Closed; for the guide."),
)

ROOMS: tuple[Unit, ...] = (
    Room(
        "hold", "the hold", volume=90, damping="treated", notes="Live room: carpets on steel, mattresses on the hull."
    ),
    Room("wheelhouse", "the wheelhouse", volume=26, notes="Control room."),
    Room("harbour-hall", "the harbour hall", volume=1200, damping="hall"),
    Room("bunk-room", "the crew's quarters", volume=32),
)

PARTITIONS: tuple[Unit, ...] = (
    Partition(
        "aft-bulkhead",
        "Aft bulkhead",
        between="hold",
        other="bunk-room",
        surfaces=(Surface("bulkhead", 12.0), Surface("solid_door", 1.6)),
    ),
    Partition(
        "deck",
        "Deck and hatch",
        between="hold",
        other="wheelhouse",
        surfaces=(Surface("bulkhead", 9.0), Surface("hollow_door", 1.2)),
    ),
    Partition("hull", "Hull side", between="hold", other="", surfaces=(Surface("bulkhead", 32.0),)),
)

PLACES: tuple[Unit, ...] = (
    Place("at-the-desk", "Wheelhouse desk", room="wheelhouse", ears=True),
    Place("by-the-amp", "By the amp", room="hold", distance=2.5, notes="Where the player stands in loud hours."),
    Place(
        "hall-desk",
        "Desk in the hall",
        room="harbour-hall",
        distance=14.0,
        ears=True,
        limits=(Limit("18:00", "23:30", 96, "the hall"),),
    ),
    Place("bunks", "Bunks", room="bunk-room", limits=(Limit("21:00", "07:00", 35, "the crew"),)),
    Place(
        "next-boat",
        "Next boat",
        distance=12.0,
        limits=(Limit("21:00", "07:00", 40, "harbour rules"), Limit("07:00", "21:00", 60, "harbour rules")),
    ),
)

MOUNTS: tuple[Unit, ...] = (
    Mount("cork-mat", "Cork mat", deflection=0.6, least_weight=2, most_weight=60),
    Mount("spring-feet", "Spring feet", deflection=6.0, least_weight=18, most_weight=45),
)

GEAR: dict[str, Unit] = {
    unit.id: replace(unit, papers=PAPERS[unit.id]) if unit.id in PAPERS else unit  # type: ignore[call-arg]
    for group in (
        GUITARS,
        PEDALS,
        PROCESSORS,
        AMPS,
        LOADS,
        ATTENUATORS,
        REAMPS,
        TAP_BOXES,
        SWITCHERS,
        CABINETS,
        MICROPHONES,
        LINE_BOXES,
        INTERFACES,
        HEADPHONES,
        LEADS,
        ROOMS,
        PARTITIONS,
        PLACES,
        MOUNTS,
    )
    for unit in group
}
