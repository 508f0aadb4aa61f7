"""Mistakes of level, earth and tone, from the guitar to the converter."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.drills.mistakes.registry import Twist, mistake
from low_tide.core.drills.mistakes.ways import down, moved, positions, put_between, set_to, up
from low_tide.core.gear.abilities import line_out_of
from low_tide.core.gear.base import Control
from low_tide.core.inventory import Amp, Interface, LineBox, Microphone, Pedal, Processor, Unit
from low_tide.core.rig.rig import Rig


def _of_level(unit: Unit, control: Control) -> bool:
    """Whether a control makes the line louder when it is turned up: pots, gains, volumes."""
    last = control.id.split(".")[-1]
    return last in ("pot", "gain", "level", "trim") or (control.id == "volume" and control.unit == "dB")


def _pad(unit: Unit, control: Control) -> bool:
    return control.id.split(".")[-1] == "pad"


def _lift(unit: Unit, control: Control) -> bool:
    return control.id.split(".")[-1] == "lift"


def _phantom(unit: Unit, control: Control) -> bool:
    return control.id.split(".")[-1] == "phantom"


def _louder(rig: Rig) -> Iterator[Twist]:
    yield from moved(rig, _of_level, up)
    yield from moved(rig, _pad, down)


def _harder(rig: Rig) -> Iterator[Twist]:
    yield from moved(rig, lambda unit, control: isinstance(unit, Amp) and control.id == "mode")
    yield from moved(rig, lambda unit, control: control.id == "flat_out", up)


@mistake(
    "over-full-scale",
    "Over full scale",
    "Peaks stay at −6 dBFS or under: over full scale there is no sound, only its clipping.",
    "up-to-the-converter",
    ("converter-clips", "input-damage"),
    "a line into an interface whose level can be turned up that far",
)
def over_full_scale(rig: Rig) -> Iterator[Twist]:
    """A pot, gain or pad moved."""
    return _louder(rig)


@mistake(
    "into-the-noise",
    "Down in the noise",
    "Peaks come over −18 dBFS, by turning up early in the line: what is lifted late lifts its noise with it.",
    "up-to-the-converter",
    ("converter-low", "noise-lift"),
    "a line into an interface whose level can be turned down that far",
)
def into_the_noise(rig: Rig) -> Iterator[Twist]:
    """A pot, gain or pad moved."""
    yield from moved(rig, _of_level, down)
    yield from moved(rig, _pad, up)


@mistake(
    "phantom-on",
    "Phantom power where it hurts",
    "48 V goes to what asks for it; into a passive tap or an unbalanced line it goes nowhere good.",
    "along-the-signal",
    ("phantom-on",),
    "a passive tap or an unbalanced line into an input with phantom power",
)
def phantom_on(rig: Rig) -> Iterator[Twist]:
    """A phantom switch moved."""
    return moved(rig, _phantom, up)


@mistake(
    "phantom-missing",
    "No phantom power",
    "A box or microphone with electronics of its own that has no phantom power gives next to nothing.",
    "along-the-signal",
    ("phantom-needed",),
    "a box or microphone that runs on phantom power",
)
def phantom_missing(rig: Rig) -> Iterator[Twist]:
    """A phantom switch moved."""
    return moved(rig, _phantom, down)


@mistake(
    "limiter-reached",
    "The limiter reached",
    "A limiter protects the input and clips the take: before it the level must be lower.",
    "up-to-the-converter",
    ("limiter-works",),
    "a line out with a limiter, and an amp that reaches it",
)
def limiter_reached(rig: Rig) -> Iterator[Twist]:
    """More watts from the amp, or a pot up."""
    lines = (line_out_of(gear) for _, gear in rig.units())
    if any(line is not None and line.limiter_v is not None for line in lines):
        yield from _harder(rig)
        yield from _louder(rig)


@mistake(
    "pedal-clips",
    "A pedal or return too hot",
    "Every input along the way has a most it takes cleanly: turn down what comes before it.",
    "along-the-signal",
    ("pedal-clips", "return-clips"),
    "a pedal, line box or return, and something that overdrives it",
)
def pedal_clips(rig: Rig) -> Iterator[Twist]:
    """A level moved, or a pedal put into the way."""
    if not any(isinstance(gear, Pedal | Processor | LineBox) or rig.plugged(u) & {"return"} for u, gear in rig.units()):
        return
    yield from _louder(rig)
    yield from moved(rig, lambda unit, control: isinstance(unit, Pedal) and control.id == "on")
    for link in rig.hookup.links:
        if rig.socket(link.a).level in ("instrument", "line") and link.b is not None:
            yield from put_between(rig, link, lambda unit: isinstance(unit, Pedal))


@mistake(
    "too-near",
    "A microphone too near",
    "Half the distance is 6 dB more: a microphone has a most it stands.",
    "in-the-room",
    ("mic-overload", "converter-clips"),
    "a microphone before a driven cabinet",
)
def too_near(rig: Rig) -> Iterator[Twist]:
    """A microphone moved."""
    return moved(rig, lambda unit, control: isinstance(unit, Microphone) and control.id == "distance", down)


@mistake(
    "doubled-speaker",
    "The speaker's sound twice",
    "One cab filter, impulse response or cabinet in a line, never two in series.",
    "what-a-load-does-to-the-sound",
    ("doubled-speaker-sound",),
    "two of cab filter, impulse response and cabinet in one line",
)
def doubled_speaker(rig: Rig) -> Iterator[Twist]:
    """A cab filter or impulse response switched."""
    return moved(rig, lambda unit, control: control.role == "speaker", up)


@mistake(
    "no-speaker",
    "No speaker in the sound",
    "A power stage alone is harsh: something must do a speaker's work before the monitors.",
    "what-a-load-does-to-the-sound",
    ("no-speaker-sound",),
    "a cab filter or impulse response in a line",
)
def no_speaker(rig: Rig) -> Iterator[Twist]:
    """A cab filter or impulse response switched."""
    return moved(rig, lambda unit, control: control.role == "speaker", down)


@mistake(
    "tails-first",
    "Tails before the drive",
    "Delay and reverb come after what distorts, or every repeat is distorted with the next note.",
    "along-the-signal",
    ("tails-before-drive",),
    "a delay or reverb, and an amp that distorts behind it",
)
def tails_first(rig: Rig) -> Iterator[Twist]:
    """Tails switched on, or a delay put before the amp."""
    yield from moved(rig, lambda unit, control: control.role == "tails" or control.id == "flat_out", up)
    for link in rig.hookup.links:
        if any(isinstance(rig.gear[e.unit], Amp) and e.socket == "input" for e in link.ends()):
            yield from put_between(rig, link, lambda u: any(c.role == "tails" for c in u.controls()))


@mistake(
    "late-monitoring",
    "Heard late",
    "Over 10 ms between the string and the ear one plays behind: a smaller buffer, or direct monitoring.",
    "up-to-the-converter",
    ("late-monitoring",),
    "an interface one hears oneself through",
)
def late_monitoring(rig: Rig) -> Iterator[Twist]:
    """The buffer, the rate or the way one hears oneself changed."""
    for unit, gear in rig.units():
        if isinstance(gear, Interface) and rig.settings(unit)["monitor"] in ("software", "both"):
            for name in ("buffer", "plug_ins"):
                control = rig.control(unit, name)
                for value in positions(control, rig.settings(unit)[name]) if control else ():
                    if control:
                        yield set_to(rig, unit, control, value)


@mistake(
    "two-at-once",
    "Heard twice",
    "Directly and through software at once combs: one of the two, and one with a speaker in it.",
    "up-to-the-converter",
    ("double-monitoring", "monitors-bare-tap"),
    "an interface one hears oneself through",
    least="note",
)
def two_at_once(rig: Rig) -> Iterator[Twist]:
    """The way one hears oneself changed."""
    return moved(rig, lambda unit, control: isinstance(unit, Interface) and control.id == "monitor")


@mistake(
    "earth-loop",
    "An earth loop",
    "Two earths in one path hum: lift the audio earth at the box that isolates, never the mains earth.",
    "hum",
    ("earth-loop",),
    "a line with an audio-earth lift between an earthed amp and an earthed interface",
    least="note",
)
def earth_loop(rig: Rig) -> Iterator[Twist]:
    """An audio-earth lift moved."""
    return moved(rig, _lift, down)


@mistake(
    "no-audio-earth",
    "No audio earth at all",
    "A line wants one audio earth: lifted at the box, with none at the interface, it floats and buzzes.",
    "hum",
    ("nothing-earthed",),
    "an audio-earth lift, and an interface without an audio earth",
)
def no_audio_earth(rig: Rig) -> Iterator[Twist]:
    """An audio-earth lift moved."""
    if any(isinstance(gear, Interface) and gear.earthed != "yes" for _, gear in rig.units()):
        yield from moved(rig, _lift, up)
