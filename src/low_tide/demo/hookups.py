"""Hook-ups of the lightship, from the six cues and around them. Everything here is invented."""

from __future__ import annotations

from dataclasses import replace

from low_tide.core.rig.hookup import ControlSetting, End, Hookup, Link, Occasion, Placed, Scene, SetAt
from low_tide.core.rig.standing import stands
from low_tide.demo.gear import GEAR


def _link(lead: str, a: str, b: str = "") -> Link:
    """A lead between 'unit/socket' and 'unit/socket'; without the second its far end hangs free."""
    return Link(lead, End(*a.split("/")), End(*b.split("/")) if b else None)


OCCASIONS: dict[str, Occasion] = {
    "silent-night": Occasion("22:00", 3, "riff", 19),
    "quiet-hold": Occasion("16:00", 2, "riff", 19, "at-the-desk", 62),
    "combo-bunks": Occasion("21:30", 1, "rests", 19, "bunks", 32),
    "re-amplified": Occasion("22:30", 2, "riff", 19, "bunks", 32),
    "split-fog": Occasion("14:00", 2, "riff", 19),
    "tap-on-lead": Occasion("11:00", 1, "held", 19),
    "harbour-hall": Occasion("20:00", 2, "rests", 24),
    "tap-behind-pad": Occasion("20:30", 1, "riff", 19),
}
"""When some of them are played; the others have no hour yet."""


def _aboard(name: str, hookup: Hookup) -> Hookup:
    """The same with what stands anywhere standing in the hold, and its hour."""
    units = tuple(
        replace(p, room="harbour-hall" if name == "harbour-hall" else "hold") if stands(GEAR[p.unit]) else p
        for p in hookup.units
    )
    return replace(hookup, units=units, occasion=OCCASIONS.get(name, Occasion()))


SCENES = (
    Scene(
        "Under the voice",
        (SetAt("bosun", "volume", -12.0), SetAt("bladderwrack", "on", False), SetAt("samphire", "on", False)),
        knobs=(ControlSetting("Channel", "clean"),),
    ),
    Scene("Answer", (SetAt("bosun", "volume", 0.0), SetAt("bladderwrack", "on", True), SetAt("samphire", "on", False))),
    Scene(
        "Bell, far off",
        (SetAt("bosun", "volume", -3.0), SetAt("bladderwrack", "on", True), SetAt("samphire", "on", True)),
        knobs=(ControlSetting("Channel", "lead"),),
    ),
)
"""Of the pedals in front: what a foot does between two lines of the song."""

_HOOKUPS: dict[str, Hookup] = {
    "silent-night": Hookup(
        "Cue 1, silent after 21:00",
        "Everyone sleeps; the load box alone, IR in software.",
        (
            Placed("godwit-45", {"tap": "8"}),
            Placed("groyne-r8", {"line.pot": -4.0}),
            Placed("skerry-4", {"in3.ir": True, "monitor": "software", "buffer": "64"}),
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
            Placed("skerry-4", {"in3.ir": True, "monitor": "both"}),
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
            Placed("winkle-1", guarded=("mode",)),
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
    "pedals-in-front": Hookup(
        "Cue 1, pedals in front",
        "Drive and delay before a cranked amp. The delay smears.",
        (
            Placed("bosun"),
            Placed("bladderwrack"),
            Placed("samphire"),
            Placed("godwit-45", {"tap": "8", "flat_out": True}),
            Placed("groyne-r8", {"line.pot": -4.0}),
            Placed("skerry-4", {"in3.ir": True}),
        ),
        (
            _link("guitar-1", "bosun/out", "bladderwrack/in"),
            _link("patch-1", "bladderwrack/out", "samphire/in"),
            _link("guitar-2", "samphire/out", "godwit-45/input"),
            _link("speaker-a", "godwit-45/out1", "groyne-r8/in"),
            _link("line-1", "groyne-r8/line", "skerry-4/in3"),
        ),
        scenes=SCENES,
    ),
    "in-the-loop": Hookup(
        "Cue 2, turned down in the loop",
        "Volume and reverb in the loop, the cabinet at the end.",
        (
            Placed("bosun"),
            Placed("godwit-45", {"tap": "8"}),
            Placed("whelk", {"volume": -16.0}),
            Placed("samphire"),
            Placed("turnstone-212"),
        ),
        (
            _link("guitar-1", "bosun/out", "godwit-45/input"),
            _link("patch-1", "godwit-45/send", "whelk/in"),
            _link("patch-2", "whelk/out", "samphire/in"),
            _link("patch-3", "samphire/out", "godwit-45/return"),
            _link("speaker-a", "godwit-45/out1", "turnstone-212/in1"),
        ),
    ),
    "processor-around": Hookup(
        "Cue 3, processor around the amp",
        "Its send feeds the amp, its return takes the load's line; tails and cabinet come after.",
        (
            Placed("bosun"),
            Placed("strandline", {"cab": True}),
            Placed("godwit-45", {"tap": "8", "flat_out": True}),
            Placed("groyne-r8", {"line.pot": -10.0}),
            Placed("skerry-4"),
        ),
        (
            _link("guitar-1", "bosun/out", "strandline/in"),
            _link("patch-1", "strandline/send", "godwit-45/input"),
            _link("speaker-a", "godwit-45/out1", "groyne-r8/in"),
            _link("line-1", "groyne-r8/line", "strandline/return"),
            _link("line-2", "strandline/outL", "skerry-4/in3"),
            _link("line-3", "strandline/outR", "skerry-4/in4"),
        ),
    ),
    "cupboard": Hookup(
        "Cue 4, cabinet in the chart cupboard",
        "The real cabinet behind closed doors, two microphones before it.",
        (
            Placed("redshank-100", {"mode": "half"}, guarded=("mode",)),
            Placed("sanderling-112", {"place": "cupboard"}),
            Placed("limpet-1", {"distance": 10.0}),
            Placed("barnacle", {"distance": 100.0}),
            Placed("skerry-4", {"in1.gain": 17.0, "in2.gain": 18.0, "in2.phantom": True}),
        ),
        (
            _link("speaker-a", "redshank-100/tap8.1", "sanderling-112/in1"),
            _link("limpet-1", "limpet-1/capsule", "sanderling-112/front"),
            _link("barnacle", "barnacle/capsule", "sanderling-112/front"),
            _link("xlr-1", "limpet-1/out", "skerry-4/in1"),
            _link("xlr-2", "barnacle/out", "skerry-4/in2"),
        ),
    ),
    "dry-track": Hookup(
        "Cue 5, the dry track back through the amp",
        "Played from the interface through the matching box, caught from the load.",
        (
            Placed("skerry-4", {"out1.trim": -10.0, "in3.ir": True}),
            Placed("slipway"),
            Placed("godwit-45", {"tap": "8"}),
            Placed("groyne-r8", {"line.pot": -4.0}),
        ),
        (
            _link("line-1", "skerry-4/out1", "slipway/in"),
            _link("guitar-1", "slipway/out", "godwit-45/input"),
            _link("speaker-a", "godwit-45/out1", "groyne-r8/in"),
            _link("line-2", "groyne-r8/line", "skerry-4/in3"),
        ),
    ),
    "re-amplified": Hookup(
        "Cue 5, loaded and re-amplified",
        "The amp works into the load; the inner amplifier drives the cabinet quietly.",
        (
            Placed("redshank-100", {"mode": "half"}),
            Placed("dolos-50", {"volume": -24.0, "line.pot": -3.0}, guarded=("mains",)),
            Placed("sanderling-112"),
            Placed("skerry-4", {"in3.ir": True}),
        ),
        (
            _link("speaker-a", "redshank-100/tap8.1", "dolos-50/in"),
            _link("speaker-b", "dolos-50/out", "sanderling-112/in1"),
            _link("line-1", "dolos-50/line", "skerry-4/in3"),
        ),
    ),
    "two-amps": Hookup(
        "Cue 6, two amps, one cabinet",
        "The switch loads the amp that waits.",
        (
            Placed("bosun"),
            Placed("godwit-45", {"tap": "8"}),
            Placed("redshank-100", {"mode": "half"}),
            Placed("sluice-2", {"input": "1"}),
            Placed("turnstone-212"),
        ),
        (
            _link("guitar-1", "bosun/out", "godwit-45/input"),
            _link("speaker-a", "godwit-45/out1", "sluice-2/in1"),
            _link("speaker-b", "redshank-100/tap8.1", "sluice-2/in2"),
            _link("speaker-c", "sluice-2/out1", "turnstone-212/in1"),
        ),
    ),
    "stereo-tails": Hookup(
        "Cue 6, stereo reverb after the load",
        "The tails stay clean: they come after the power stage.",
        (
            Placed("bosun"),
            Placed("godwit-45", {"tap": "8", "flat_out": True}),
            Placed("groyne-r8", {"line.pot": -8.0, "line.filter": True}),
            Placed("eelgrass"),
            Placed("skerry-4"),
        ),
        (
            _link("guitar-1", "bosun/out", "godwit-45/input"),
            _link("speaker-a", "godwit-45/out1", "groyne-r8/in"),
            _link("line-1", "groyne-r8/line", "eelgrass/in"),
            _link("line-2", "eelgrass/outL", "skerry-4/in3"),
            _link("line-3", "eelgrass/outR", "skerry-4/in4"),
        ),
    ),
    "tap-behind-pad": Hookup(
        "Bunks, tap chained behind the attenuator",
        "After 24 dB the tap may even load: milliwatts are left.",
        (
            Placed("godwit-45", {"tap": "8"}),
            Placed("caisson-120", {"step": 24.0}),
            Placed("winkle-1", {"line.filter": True}),
            Placed("turnstone-212"),
            Placed("skerry-4"),
        ),
        (
            _link("speaker-a", "godwit-45/out1", "caisson-120/in"),
            _link("speaker-b", "caisson-120/out", "winkle-1/in"),
            _link("speaker-c", "winkle-1/through", "turnstone-212/in1"),
            _link("xlr-1", "winkle-1/line", "skerry-4/in1"),
        ),
    ),
    "combo-extension": Hookup(
        "Combo, its own speaker cut off",
        "The extension jack takes the load box; the combo's speaker falls silent by itself.",
        (
            Placed("greenshank-30", {"mode": "full"}),
            Placed("greenshank-speaker"),
            Placed("gabion-40", {"line.pot": -4.0}),
            Placed("skerry-4", {"in3.ir": True}),
        ),
        (
            _link("greenshank-speaker", "greenshank-30/out1", "greenshank-speaker/in1"),
            _link("speaker-d", "greenshank-30/out2", "gabion-40/in"),
            _link("line-1", "gabion-40/line", "skerry-4/in3"),
        ),
    ),
    "stereo-cabinet": Hookup(
        "Two heads on a stereo cabinet",
        "Each half is 16 Ω and has an amp to itself.",
        (
            Placed("godwit-45", {"tap": "16"}),
            Placed("redshank-100", {"mode": "half"}),
            Placed("spoonbill-412", {"halves": "stereo"}, guarded=("halves",)),
        ),
        (
            _link("speaker-a", "godwit-45/out1", "spoonbill-412/in1"),
            _link("speaker-b", "redshank-100/tap16.1", "spoonbill-412/in2"),
        ),
    ),
    "harbour-hall": Hookup(
        "Harbour hall, tap and microphone to the desk",
        "The cabinet on stage, a tap on its lead and a microphone before it, both to the desk.",
        (
            Placed("redshank-100", {"mode": "half"}),
            Placed("marram-2", {"line.pot": -12.0}),
            Placed("whimbrel-412"),
            Placed("limpet-2", {"distance": 10.0}),
            Placed("promenade-8", {"in1.phantom": True, "in1.ir": True}),
        ),
        (
            _link("speaker-a", "redshank-100/tap16.1", "marram-2/in"),
            _link("speaker-b", "marram-2/through", "whimbrel-412/in1"),
            _link("xlr-3", "marram-2/line", "promenade-8/in1"),
            _link("limpet-2", "limpet-2/capsule", "whimbrel-412/front"),
            _link("xlr-4", "limpet-2/out", "promenade-8/in2"),
        ),
    ),
    "whole-ship": Hookup(
        "The whole ship at once",
        "Everything that the last cue needs, left plugged in.",
        (
            Placed("bosun"),
            Placed("jetty"),
            Placed("bladderwrack"),
            Placed("thrift"),
            Placed("cockle"),
            Placed("godwit-45", {"tap": "8"}),
            Placed("whelk"),
            Placed("revetment-16", {"impedance": "8", "line.pot": -2.0}),
            Placed("baritone"),
            Placed("strandline", {"cab": True}),
            Placed("redshank-100", {"mode": "half"}),
            Placed("caisson-120", {"step": 18.0, "line.pot": -8.0}),
            Placed("winkle-1", {"line.filter": True}, guarded=("mode",)),
            Placed("whimbrel-412", {"place": "cupboard"}),
            Placed("limpet-1"),
            Placed("slipway"),
            Placed("dotterel-60"),
            Placed("marram-2", {"line.pot": -6.0}),
            Placed("sanderling-112"),
            Placed("limpet-2", {"distance": 30.0}),
            Placed("barnacle", {"distance": 200.0}),
            Placed("eelgrass"),
            Placed("skerry-4", {"in1.ir": True, "in2.phantom": True}),
            Placed("shingle-2"),
            Placed("promenade-8", {"in2.phantom": True, "in2.ir": True, "in4.phantom": True}),
        ),
        (
            _link("guitar-1", "bosun/out", "jetty/in"),
            _link("patch-1", "jetty/through", "bladderwrack/in"),
            _link("patch-2", "bladderwrack/out", "thrift/in"),
            _link("patch-3", "thrift/out", "cockle/in"),
            _link("guitar-2", "cockle/out", "godwit-45/input"),
            _link("patch-4", "godwit-45/send", "whelk/in"),
            _link("patch-5", "whelk/out", "godwit-45/return"),
            _link("speaker-a", "godwit-45/out1", "revetment-16/in"),
            _link("xlr-1", "revetment-16/line", "skerry-4/in1"),
            _link("guitar-3", "baritone/out", "strandline/in"),
            _link("patch-6", "strandline/send", "redshank-100/input"),
            _link("speaker-b", "redshank-100/tap8.1", "caisson-120/in"),
            _link("speaker-c", "caisson-120/out", "winkle-1/in"),
            _link("speaker-d", "winkle-1/through", "whimbrel-412/in1"),
            _link("line-1", "caisson-120/line", "strandline/return"),
            _link("line-2", "strandline/outL", "eelgrass/in"),
            _link("line-3", "eelgrass/outL", "skerry-4/in3"),
            _link("line-4", "eelgrass/outR", "skerry-4/in4"),
            _link("xlr-2", "winkle-1/line", "promenade-8/in1"),
            _link("limpet-1", "limpet-1/capsule", "whimbrel-412/front"),
            _link("xlr-3", "limpet-1/out", "promenade-8/in3"),
            _link("line-5", "skerry-4/out1", "slipway/in"),
            _link("patch-7", "slipway/out", "dotterel-60/input"),
            _link("speaker-e", "dotterel-60/out1", "marram-2/in"),
            _link("speaker-f", "marram-2/through", "sanderling-112/in1"),
            _link("xlr-4", "marram-2/line", "promenade-8/in2"),
            _link("limpet-2", "limpet-2/capsule", "sanderling-112/front"),
            _link("barnacle", "barnacle/capsule", "sanderling-112/front"),
            _link("xlr-5", "barnacle/out", "promenade-8/in4"),
        ),
    ),
}


def _dry_into(name: str, load: Placed, lead: str, at: str, gain: float, behind: str = "") -> Hookup:
    """One dry track into the small mode of an amp, and a load: what is compared with what. `at`: the input it has."""
    units = [
        Placed("skerry-4", {"out1.trim": -10.0, f"{at}.gain": gain, f"{at}.ir": True}),
        Placed("slipway"),
        Placed("redshank-100", {"mode": "low"}),
        load,
    ]
    links = [
        _link("line-1", "skerry-4/out1", "slipway/in"),
        _link("guitar-1", "slipway/out", "redshank-100/input"),
        _link("speaker-a", "redshank-100/tap8.1", f"{load.unit}/in"),
        _link(lead, f"{load.unit}/line", f"skerry-4/{at}"),
    ]
    if behind:
        units.append(Placed(behind))
        links.insert(3, _link("speaker-b", f"{load.unit}/through", f"{behind}/in1"))
    about = "One dry track and the same amp as it is set, into another load: held against each other in Compare."
    return Hookup(f"Dry track into {name}", about, tuple(units), tuple(links))


SHOOT_OUT: dict[str, Hookup] = {
    "dry-groyne": _dry_into(
        "Groyne R8", Placed("groyne-r8", {"line.pot": -4.0, "line.lift": True}), "line-2", "in3", 8.0
    ),
    "dry-revetment": _dry_into("Revetment 16", Placed("revetment-16", {"line.pot": -4.0}), "xlr-1", "in1", 16.0),
    "dry-gabion": _dry_into("Gabion 40", Placed("gabion-40", {"line.pot": -4.0}), "line-2", "in3", 12.0),
    "dry-cabinet": _dry_into(
        "Turnstone 2×12", Placed("winkle-1", {"line.lift": True}), "xlr-1", "in1", 12.0, "turnstone-212"
    ),
}
"""One dry track into four loads."""

HOOKUPS: dict[str, Hookup] = {name: _aboard(name, hookup) for name, hookup in (_HOOKUPS | SHOOT_OUT).items()}
