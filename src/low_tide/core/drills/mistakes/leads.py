"""Mistakes with leads: the wrong kind, or the right one into the wrong socket."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.drills.mistakes.registry import Twist, mistake
from low_tide.core.drills.mistakes.ways import moved_to, swapped
from low_tide.core.inventory import Amp
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig


@mistake(
    "screened-twin",
    "The screened twin",
    "Speaker power goes through two thick conductors, never through a screened lead, however alike they look.",
    "speakers-loads-pads",
    ("screened-speaker-lead",),
    "a screened lead with the plugs of a speaker lead",
)
def screened_twin(rig: Rig) -> Iterator[Twist]:
    """A speaker lead swapped for a screened one."""
    return swapped(rig, lambda level: level == "speaker", lambda lead: lead.construction == "screened")


@mistake(
    "speaker-lead-on-a-line",
    "A speaker lead in a line",
    "What is small is carried screened: a speaker lead in a line picks up hum and radio.",
    "along-the-signal",
    ("speaker-lead-as-signal",),
    "a free speaker lead with the plugs of a line",
)
def speaker_lead_on_a_line(rig: Rig) -> Iterator[Twist]:
    """A lead of a line swapped for a speaker lead."""
    return swapped(rig, lambda level: level not in ("speaker", "air"), lambda lead: lead.construction == "speaker")


@mistake(
    "cut-screen",
    "A lead whose screen is cut",
    "A lead with its screen cut at one end is for balanced lines alone: elsewhere the screen is the way back.",
    "hum",
    ("screen-cut",),
    "a lead whose screen is cut, and a line that is not balanced",
)
def cut_screen(rig: Rig) -> Iterator[Twist]:
    """A line's lead swapped for one whose screen is cut."""
    return swapped(rig, lambda level: level not in ("speaker", "air"), lambda lead: lead.screen_is_cut)


@mistake(
    "power-into-an-input",
    "Speaker level into an input",
    "What comes from a power stage goes only into what is made for speaker level.",
    "down-to-the-speaker",
    ("speaker-into-input",),
    "an input that takes the plug of a speaker lead",
)
def power_into_an_input(rig: Rig) -> Iterator[Twist]:
    """The far plug of a speaker lead in an input made for less."""
    free = [
        End(unit, socket.id)
        for unit, gear in rig.units()
        for socket in gear.sockets()
        if socket.flow == "in" and socket.level not in ("speaker", "air", "digital", "phones")
    ]
    for link in rig.speaker_links:
        far = next((e for e in link.ends() if rig.socket(e).flow == "in"), None)
        for to in free if far else ():
            made = moved_to(rig, link, far, to) if far else None
            if made:
                yield made


@mistake(
    "before-the-power-stage",
    "A line from before the power stage",
    "What is recorded before the power stage has neither its sound nor that of its load.",
    "up-to-the-converter",
    ("power-stage-not-recorded",),
    "an amp with a line out or a send before its power stage",
    least="note",
)
def before_the_power_stage(rig: Rig) -> Iterator[Twist]:
    """The near plug of a line in the line out or send of the amp."""
    outs = [
        End(unit, socket.id)
        for unit, gear in rig.units()
        if isinstance(gear, Amp)
        for socket in gear.sockets()
        if socket.flow == "out" and socket.level == "line"
    ]
    for link in rig.hookup.links:
        near = next((e for e in link.ends() if rig.socket(e).flow == "out" and rig.socket(e).level == "line"), None)
        for to in outs if near else ():
            made = moved_to(rig, link, near, to) if near else None
            if made:
                yield made
