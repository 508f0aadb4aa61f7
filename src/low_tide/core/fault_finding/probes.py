"""Tests that part the causes in two: by where a cause lies on the signal's way, and by what it does."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from low_tide.core.fault_finding.causes import CAUSES, EFFORT, STRETCHES, TOUCHES_LEADS, Cause, Way
from low_tide.core.fault_finding.situation import Situation, anywhere

YES, NO, HALF, SELDOM = 0.97, 0.03, 0.5, 0.2
"""A test that tells says so in all but three of a hundred; one that tells nothing of a cause is a coin. What comes and
goes lets something through now and then."""

FRONT, PREAMP, LOOP, POWER, LOAD, LINE, INPUT, SOFTWARE, HEARING = (
    STRETCHES.index(each)
    for each in ("front", "preamp", "loop", "power", "load", "line", "input", "software", "hearing")
)


@dataclass(frozen=True)
class Probe:
    """A question with yes and no for answers. `yes`: how likely it is yes under a cause; `symptoms`: those it is asked
    of, empty for all; `of`: the cause it tells by itself, empty for one that parts many."""

    id: str
    asks: Callable[[Situation], str]
    way: Way
    yes: Callable[[Cause], float]
    symptoms: frozenset[str] = frozenset()
    there: Callable[[Situation], bool] = anywhere
    of: str = ""

    def likely(self, cause: Cause) -> float:
        """How likely its answer is yes under a cause: as that says itself, or by its place and effect."""
        found = cause.shows.get(self.id)
        return self.yes(cause) if found is None else found

    def touches_a_lead(self) -> bool:
        """Whether a plug is moved for it; then it is done with the amp off and dark."""
        return self.way in TOUCHES_LEADS

    def effort(self, situation: Situation) -> float:
        """How much work it is: 1 for a look to 5 for leads, and the minutes waited for where leads are touched."""
        return EFFORT[self.way] + (situation.waiting_min if self.touches_a_lead() else 0.0)


def _goes(here: bool) -> float:
    return YES if here else NO


def _old_take(c: Cause) -> float:
    if c.at == "hearing":
        return YES
    if c.does == "side" and c.at == "software":
        return HALF
    return HALF if c.id in ("small-buffer", "clocks") else NO


def _input_meter(c: Cause) -> float:
    if c.does in ("loss", "breaks") and c.place <= INPUT:
        return NO if c.does == "loss" else SELDOM
    return HALF if c.does == "side" and c.place <= INPUT else YES


def _sounds_there(c: Cause) -> float:
    """Whether power comes to the speaker or the box."""
    if c.does == "loss" and c.place <= LOAD:
        return HALF if c.id in ("step-deep", "low-power", "reversed") else NO
    return SELDOM if c.does == "breaks" and c.place <= LOAD else YES


def _direct(c: Cause) -> float:
    if c.at == "hearing":
        return HALF
    return _goes(c.place <= INPUT)


def _track_meter(c: Cause) -> float:
    return _goes(c.at == "hearing") if c.does in ("loss", "breaks") else YES


def _master_down(c: Cause) -> float:
    return _goes(c.place <= LOOP)


def _record_hear(c: Cause) -> float:
    if c.at == "hearing" or c.at == "software":
        return NO if c.does in ("time", "side") and c.at == "software" and c.does == "time" else HALF
    return YES


WAVES = frozenset({"hum", "buzz", "hiss"})
LOSS = frozenset({"nothing", "quiet"})
TONE = frozenset({"harsh", "thin", "boomy", "hollow", "distorted", "tails"})

HALVING: tuple[Probe, ...] = (
    Probe(
        "old_take",
        lambda s: "Play a good older take: is the same wrong with it?",
        "listen",
        _old_take,
        there=lambda s: s.has_line,
    ),
    Probe(
        "input_meter",
        lambda s: f"Does the meter of {s.input_label} come up as expected while you play?",
        "look",
        _input_meter,
        LOSS | {"crackle", "fades", "one_side"},
        lambda s: s.has_line,
    ),
    Probe(
        "sounds_there",
        lambda s: f"Played softly, a step away from {s.speakers_side[0]}: does it sound, or faintly sing?",
        "listen",
        _sounds_there,
        LOSS | {"fades"},
    ),
    Probe(
        "lamp",
        lambda s: f"Is the mains lamp of {s.amp_name} lit?",
        "look",
        lambda c: YES,
        frozenset({"nothing", "fades", "box_noise"}),
    ),
    Probe(
        "guitar_down",
        lambda s: "The guitar’s own volume at nothing: is it gone?",
        "turn",
        lambda c: YES if c.at == "guitar" else NO if c.does in ("noise", "breaks") else HALF,
        WAVES | {"crackle"},
    ),
    Probe(
        "pedals_off",
        lambda s: "Every pedal bypassed: is it gone?",
        "turn",
        lambda c: _goes(c.at == "front"),
        WAVES | LOSS | TONE | {"crackle", "fades"},
        lambda s: s.in_front,
    ),
    Probe(
        "loop_off",
        lambda s: "The effects loop switched out, or everything in it bypassed: is it gone?",
        "turn",
        lambda c: _goes(c.at == "loop"),
        WAVES | LOSS | TONE | {"crackle"},
        lambda s: s.in_loop,
    ),
    Probe(
        "master_down",
        lambda s: f"Volume and master of {s.amp_name} at nothing: is it gone?",
        "turn",
        _master_down,
        WAVES | {"crackle"},
    ),
    Probe(
        "gain_up",
        lambda s: f"The gain of {s.input_label} up by 6 dB: does the noise rise as much as the guitar does?",
        "turn",
        lambda c: YES if c.place <= LINE else NO,
        WAVES,
        lambda s: s.has_line,
    ),
    Probe(
        "softly",
        lambda s: "Played softly: is it there too?",
        "listen",
        lambda c: NO if c.does == "overload" else YES,
        frozenset({"distorted", "crackle", "harsh", "boomy"}),
    ),
    Probe(
        "first_minute",
        lambda s: "Was it there from the first minute?",
        "look",
        lambda c: 0.15 if c.grows else 0.92,
        frozenset({"fades", "crackle", "hiss", "nothing", "distorted"}),
    ),
    Probe(
        "mono",
        lambda s: "In mono, or one of the two ways muted: does the body change by a lot?",
        "listen",
        lambda c: _goes(c.phase),
        frozenset({"thin", "hollow"}),
        lambda s: s.has_line,
    ),
    Probe(
        "direct",
        lambda s: f"Heard at the phones of {s.interface} directly, the recorder’s track silent: is it there too?",
        "listen",
        _direct,
        TONE | {"late", "crackle", "one_side", "hum", "buzz", "hiss"},
        lambda s: s.has_line,
    ),
    Probe(
        "track_meter",
        lambda s: "Does the track’s own meter in the recorder move as you play?",
        "look",
        _track_meter,
        frozenset({"nothing"}),
        lambda s: s.has_line,
    ),
    Probe(
        "plug_ins_off",
        lambda s: "Every plug-in and effect in the recorder off: does it change by a lot?",
        "turn",
        lambda c: YES if c.at == "software" and c.does in ("tone", "overload") else NO,
        TONE | {"late"},
        lambda s: s.has_line,
    ),
    Probe(
        "in_room",
        lambda s: "In the room, in front of the speaker or the box: is it there too?",
        "listen",
        lambda c: _goes(c.place <= LOAD),
        WAVES | TONE | {"crackle", "box_noise"},
        lambda s: s.has_cabinet,
    ),
    Probe(
        "follows_playing",
        lambda s: "Does it come and go with what is played?",
        "listen",
        lambda c: NO if c.does == "noise" else YES,
        frozenset({"box_noise", "buzz", "crackle"}),
    ),
    Probe(
        "tuner",
        lambda s: "Does a tuner before the amp show the note?",
        "look",
        lambda c: NO if c.at == "guitar" and c.does in ("loss", "breaks") else YES,
        LOSS,
    ),
    Probe(
        "record_hear",
        lambda s: "Ten seconds recorded and heard back: is it in there?",
        "listen",
        _record_hear,
        frozenset({"hollow", "late", "harsh"}),
        lambda s: s.has_line,
    ),
    Probe(
        "both_meters",
        lambda s: "Do both sides of the recorder’s own meter move?",
        "look",
        lambda c: _goes(c.at == "hearing"),
        frozenset({"one_side"}),
        lambda s: s.has_line,
    ),
    Probe(
        "ohms",
        lambda s: f"Off and dark, at the plug of {s.speaker_leads[0]}: ohms as the run sheet expects?",
        "measure",
        lambda c: 0.08 if c.ohms else YES,
        LOSS | {"thin", "crackle", "fades", "boomy", "distorted"},
        lambda s: bool(s.speaker_leads),
    ),
    Probe(
        "other_guitar",
        lambda s: "Another guitar on another lead: is it gone?",
        "swap",
        lambda c: _goes(c.at == "guitar"),
        LOSS | WAVES | {"crackle", "distorted"},
    ),
    Probe(
        "other_input",
        lambda s: f"The same line in another input of {s.interface}: is it gone?",
        "re_plug",
        lambda c: _goes(c.at == "input" and c.id != "gain-lifts-noise"),
        LOSS | {"distorted", "hiss", "crackle"},
        lambda s: s.has_line,
    ),
)
"""Each parts many causes at once."""


def _own(cause: Cause) -> Probe:
    own = cause.own
    return Probe(
        f"own:{cause.id}",
        lambda s: own.asks,
        own.way,
        lambda c: own.sure if c.id == cause.id else own.false,
        of=cause.id,
    )


OWN: dict[str, Probe] = {cause.id: _own(cause) for cause in CAUSES.values()}
BY_ID: dict[str, Probe] = {probe.id: probe for probe in (*HALVING, *OWN.values())}


def off_first(situation: Situation, asks: str) -> tuple[str, ...]:
    """A test that moves a lead, as it is done: off, wait, re-plug, on."""
    wait = max(60.0, 60 * situation.waiting_min / 2)
    return (
        f"Volume of {situation.amp_name} down, standby, mains off.",
        f"Wait {wait:.0f} s, until it is dark.",
        f"Then: {asks}",
        "Every plug fully in before it is on again, by the run sheet.",
    )
