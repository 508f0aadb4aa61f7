"""What somebody hears, or does not hear."""

from __future__ import annotations

from dataclasses import dataclass

DANGER, MISWIRED = "danger", "miswired"
"""No puzzles: the first ends everything at once; the second asks for a multimeter and somebody who looks at it."""


@dataclass(frozen=True)
class Symptom:
    """What is noticed: `name` as a person says it, `more` to tell it from its neighbours."""

    id: str
    name: str
    more: str = ""


SYMPTOMS: tuple[Symptom, ...] = (
    Symptom("nothing", "Nothing at all", "no sound where it should arrive"),
    Symptom("quiet", "Much too quiet", "it arrives, far under what is expected"),
    Symptom("hum", "Hum", "low and steady, the mains and its first multiples"),
    Symptom("buzz", "Buzz", "the mains with a sharp edge to it"),
    Symptom("hiss", "Hiss", "a steady rush"),
    Symptom("crackle", "Crackle or drop-outs", "clicks, gaps, a sound that comes and goes"),
    Symptom("harsh", "Harsh, no body", "fizz and edge, like an insect in a tin"),
    Symptom("thin", "Thin, no low end", "the body is gone, the top is as it was"),
    Symptom("boomy", "Boomy", "too much low end, some notes far louder"),
    Symptom("distorted", "Distorted when it should be clean", "broken up, or clipped on the peaks"),
    Symptom("tails", "Dirty tails", "echoes and reverb are distorted"),
    Symptom("hollow", "Two at once, hollow", "as if through a pipe, or doubled"),
    Symptom("late", "Late", "it is heard after it is played"),
    Symptom("one_side", "One side only", "left or right is missing"),
    Symptom("fades", "It fades or stops after a while", "fine at first"),
    Symptom("box_noise", "Noise from a box", "a fan, a hum or a rattle in the room itself"),
    Symptom(MISWIRED, "It was hooked up wrong and switched on"),
    Symptom(DANGER, "A smell, smoke, a red-hot valve, a blown fuse"),
)
BY_ID: dict[str, Symptom] = {symptom.id: symptom for symptom in SYMPTOMS}
PUZZLES: tuple[str, ...] = tuple(s.id for s in SYMPTOMS if s.id not in (DANGER, MISWIRED))

DANGER_STEPS: tuple[str, ...] = (
    "Off at the mains, now. Pull the plug from the wall if you can reach it safely.",
    "Do not switch it on again, not even to see.",
    "Do not open it, and do not put another fuse in: it blew for a reason.",
    "Smoke or fire: out of the room, doors shut, call for help. No water on anything that is plugged in.",
    "A qualified technician looks at it before it plays again.",
)
"""What to do at a smell, smoke, a red-hot valve or a blown fuse. There is nothing to find out first."""
