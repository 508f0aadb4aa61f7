"""Mistakes between the amp and what takes its power."""

from __future__ import annotations

from collections.abc import Iterator
from math import log2

from low_tide.core.drills.mistakes.registry import Twist, mistake
from low_tide.core.drills.mistakes.ways import (
    free_speaker_ends,
    hanging,
    is_cabinet,
    moved,
    moved_to,
    plugged_in,
    pulled,
    set_to,
    up,
)
from low_tide.core.inventory import Amp, Attenuator, Cabinet, Lead, Load, ReAmp, TapBox
from low_tide.core.rig.changes import Connect, Disconnect
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig

OVERLOADS = ("load-rating", "load-may-open", "reamp-over-speaker", "load-mode-tap")


@mistake(
    "tap-moved",
    "The tap",
    "The tap, or the jack, must want the ohms that hang on it.",
    "two-networks",
    ("mismatch", "below-minimum"),
    "a valve amp with more than one impedance tap",
)
def tap_moved(rig: Rig) -> Iterator[Twist]:
    """The selector turned, or the lead in the jack of another tap."""
    for unit, amp in rig.amps():
        control = rig.control(unit, "tap")
        if control is not None:
            now = float(rig.settings(unit)["tap"]) if rig.settings(unit)["tap"] != "?" else 0.0
            for tap in amp.taps:
                if now and tap.impedance != now:
                    yield _sized(set_to(rig, unit, control, f"{tap.impedance:g}"), tap.impedance / now)
            continue
        by_jack = {jack: tap.impedance for tap, _, jacks in amp.tap_sockets() for jack in jacks}
        for link in rig.speaker_links:
            for end in (e for e in link.ends() if e.unit == unit and e.socket in by_jack):
                for jack, ohms in by_jack.items():
                    if ohms != by_jack[end.socket]:
                        made = moved_to(rig, link, end, End(unit, jack))
                        if made:
                            yield _sized(made, ohms / by_jack[end.socket])


def _sized(twist: Twist, ratio: float) -> Twist:
    return Twist(twist.changes, twist.at, twist.undo, abs(log2(ratio)))


@mistake(
    "load-selector",
    "The load's selector",
    "A load's impedance switch counts as much as the amp's: both must say the same.",
    "two-networks",
    ("mismatch", "below-minimum"),
    "a load box, or a cabinet, with an impedance switch",
)
def load_selector(rig: Rig) -> Iterator[Twist]:
    """The impedance switch of a load, or the halves of a cabinet, in another position."""
    return moved(rig, lambda u, c: isinstance(u, Load | Cabinet) and c.affects == "speaker" and c.id != "curve")


@mistake(
    "switched-out",
    "A plug that takes the load out",
    "A plug in a switching socket takes the load out: only what hangs on that plug then counts.",
    "other-ways-into-the-network",
    ("switched-out-load", "open-output", "inner-speaker-off"),
    "a load or amp with a switching socket, and a free speaker lead",
)
def switched_out(rig: Rig) -> Iterator[Twist]:
    """A lead hung into a free speaker socket."""
    for end in free_speaker_ends(rig):
        if isinstance(rig.gear[end.unit], Load | Amp):
            yield from hanging(rig, end)


@mistake(
    "reversed",
    "An attenuator the wrong way round",
    "Power goes into an attenuator by its amp socket alone; backwards its arms are no load.",
    "speakers-loads-pads",
    ("reversed-attenuator",),
    "an attenuator or re-amplifier between an amp and a cabinet",
)
def reversed_way(rig: Rig) -> Iterator[Twist]:
    """The plugs at the two sides of a box exchanged."""
    for unit, gear in rig.units():
        if not isinstance(gear, Attenuator | ReAmp):
            continue
        into, out = End(unit, "in"), End(unit, "out")
        first, last = rig.link_at(into), rig.link_at(out)
        if not first or not last or not isinstance(rig.conductor(first), Lead):
            continue
        ends = (rig.far_end(into), rig.far_end(out))
        if ends[0] is None or ends[1] is None or not isinstance(rig.conductor(last), Lead):
            continue
        off = (Disconnect(first.lead), Disconnect(last.lead))
        yield Twist(
            (*off, Connect(first.lead, ends[0], out), Connect(last.lead, into, ends[1])),
            (unit, first.lead, last.lead),
            (*off, Connect(first.lead, first.a, first.b), Connect(last.lead, last.a, last.b)),
        )


@mistake(
    "cabinet-added",
    "One more in parallel",
    "Every box on a parallel jack lowers the ohms the amp sees: two of the same make half.",
    "two-networks",
    ("mismatch", "below-minimum", "inner-speaker-off", "switched-out-load", "uneven-split", "jack-unknown"),
    "a second cabinet, and a free jack for it",
)
def cabinet_added(rig: Rig) -> Iterator[Twist]:
    """A cabinet of the locker on a free speaker socket."""
    for end in free_speaker_ends(rig):
        if rig.socket(end).flow == "out":
            yield from plugged_in(rig, end, is_cabinet)


@mistake(
    "two-taps",
    "Two taps at once",
    "One tap at a time: two loaded together are no match for either.",
    "the-amp",
    ("two-taps-used",),
    "an amp with a jack for each tap, and a second cabinet or load",
)
def two_taps(rig: Rig) -> Iterator[Twist]:
    """Something on the jack of a second tap."""
    for end in free_speaker_ends(rig):
        gear = rig.gear[end.unit]
        if isinstance(gear, Amp) and gear.tap_choice != "selector":
            yield from plugged_in(rig, end, lambda unit: is_cabinet(unit) or isinstance(unit, Load))


@mistake(
    "nothing-behind",
    "A lead that leads nowhere",
    "A valve amp never plays without a load: look along every speaker lead to both of its plugs.",
    "two-networks",
    ("open-output", "switched-out-load"),
    "a valve amp with a load or a cabinet",
)
def nothing_behind(rig: Rig) -> Iterator[Twist]:
    """A plug of a speaker lead out."""
    return pulled(rig)


@mistake(
    "left-in-load",
    "A tap box left in load",
    "A tap box passes the signal by; in its load mode it takes a few watts and is a load of its own.",
    "speakers-loads-pads",
    ("load-mode-tap", "mismatch", "load-rating"),
    "a tap box with a load mode",
)
def left_in_load(rig: Rig) -> Iterator[Twist]:
    """The mode of a tap box switched."""
    return moved(rig, lambda unit, control: isinstance(unit, TapBox) and control.id == "mode")


@mistake(
    "unpowered",
    "A box that wants its mains",
    "A box that needs mains for its load, or for the speaker behind it, is on before the amp and off after it.",
    "speakers-loads-pads",
    ("unpowered-reamp",),
    "a re-amplifier with a mains switch",
)
def unpowered(rig: Rig) -> Iterator[Twist]:
    """The mains of a re-amplifier off."""
    return moved(rig, lambda unit, control: isinstance(unit, ReAmp) and control.id == "mains")


@mistake(
    "over-rating",
    "Over a rating",
    "What an amp can give, not what its label says, is held against what a box stands.",
    "power-and-margin",
    OVERLOADS,
    "an amp that gives more than a box or cabinet stands",
)
def over_rating(rig: Rig) -> Iterator[Twist]:
    """More watts from the amp, fewer dB in the box."""
    for unit, amp in rig.amps():
        control, now = rig.control(unit, "mode"), amp.mode(rig.settings(unit))
        for mode in amp.modes if control else ():
            if control and mode.jack_power() > now.jack_power():
                yield set_to(rig, unit, control, mode.name)
    yield from moved(rig, lambda unit, c: isinstance(unit, Amp | Attenuator) and c.id in ("flat_out", "bypass"), up)
    yield from moved(rig, lambda unit, c: isinstance(unit, Attenuator) and c.id == "step")
    yield from moved(rig, lambda unit, c: isinstance(unit, ReAmp) and c.id == "volume", up)
