"""A speaker in the sound: once, not never and not twice."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from low_tide.core.gear.base import Transfer
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, Fix
from low_tide.core.rig.changes import SetControl
from low_tide.core.rig.hookup import End
from low_tide.core.signal_path.graph import Route

FAMILY = "Speaker sound and monitoring"


@dataclass(frozen=True)
class Way:
    """One way from a power stage to a recorded input, and what on it does a speaker's work."""

    input: End
    route: Route
    speakers: tuple[tuple[str, Transfer], ...]


def ways_in(case: Case) -> Iterator[Way]:
    """For every recorded input: its way with most speakers in it, and its way with fewest where that has none."""
    for end, routes in case.signal_paths.takes:
        found = [Way(end, r, tuple((u, t) for u, t in r.transfers() if t.speaker)) for r in routes if _is_level(r)]
        if not found:
            continue
        most = max(found, key=lambda w: len(w.speakers))
        least = min(found, key=lambda w: len(w.speakers))
        yield most
        if len(most.speakers) > 1 and not least.speakers:
            yield least


def _is_level(route: Route) -> bool:
    """Whether signal gets through; what lies before the power stage is told by another check."""
    return all(t.gain_db is None or t.gain_db > -200 for _, t in route.transfers())


@dataclass(frozen=True)
class OnTheWay:
    """How many speakers lie in series before what is recorded, whether an IR in software hangs on its track, which is
    no part of the recording, and whether a tone roll-off lies before it."""

    before: int
    on_track: bool
    rolled_off: bool


def speakers_on_the_way(case: Case, recorded_at: End) -> OnTheWay | None:
    """What the hook-up says of speakers before an input; None where no power stage comes there."""
    ways = [way for way in ways_in(case) if way.input == recorded_at]
    if not ways:
        return None
    most = max(ways, key=lambda way: len(way.speakers))
    before = [unit for unit, _ in most.speakers if unit != recorded_at.unit]
    rolled_off = any(t.rolled_off for _, t in most.route.transfers())
    return OnTheWay(len(before), len(before) < len(most.speakers), rolled_off)


def switches(case: Case, way: Way, to: bool) -> Iterator[Fix]:
    """Switching what does a speaker's work on (`to` True) or off, from the track back to the amp."""
    on = {(unit, t.control) for unit, t in way.speakers}
    for unit in reversed(way.route.units()):
        for control in case.rig.gear[unit].controls():
            if control.role != "speaker" or ((unit, control.id) in on) == to:
                continue
            if control.id.endswith(".ir"):
                if control.id != f"{way.input.socket}.ir":
                    continue
                label = "Load an IR on this track" if to else "Take the IR off this track"
            else:
                what = control.label[:1].lower() + control.label[1:]
                label = f"Switch {'on' if to else 'off'} the {what} of {case.rig.name(unit)}"
            yield Fix(label, (SetControl(unit, control.id, to),))


@check(
    "no-speaker-sound",
    FAMILY,
    "Neither cab filter, IR nor cabinet lies between the power stage and the monitors; a roll-off alone is a note.",
    reads=("signal_paths",),
)
def no_speaker_sound(case: Case) -> Iterator[Finding]:
    for way in ways_in(case):
        where, units, leads = case.rig.label(way.input), way.route.units(), way.route.leads()
        if len(way.speakers) == 1:
            what = way.speakers[0][1].speaker
            yield Finding(
                id="no-speaker-sound",
                severity="fine",
                text=f"One speaker in the sound at {where}.",
                reason=f"It is {what}.",
                units=units,
                leads=leads,
            )
        elif not way.speakers:
            rolled = any(t.rolled_off for _, t in way.route.transfers())
            yield Finding(
                id="no-speaker-sound",
                severity="note" if rolled else "caution",
                text=f"No speaker in the sound at {where}" + (", only a roll-off." if rolled else "."),
                reason="A roll-off takes the harshest off; it is not yet a speaker with a box and a microphone."
                if rolled
                else "The bare tap is harsh: a guitar speaker passes little over 5 kHz, and nothing here does that.",
                units=units,
                leads=leads,
                fixes=tuple(switches(case, way, True)),
            )


@check(
    "doubled-speaker-sound",
    FAMILY,
    "Two of cab filter, IR and cabinet are in series.",
    reads=("signal_paths",),
)
def doubled_speaker_sound(case: Case) -> Iterator[Finding]:
    for way in ways_in(case):
        if len(way.speakers) < 2:
            continue
        yield Finding(
            id="doubled-speaker-sound",
            severity="caution",
            text=f"{'Two' if len(way.speakers) == 2 else len(way.speakers)} speakers in the sound at"
            f" {case.rig.label(way.input)}.",
            reason=f"In series: {' and '.join(t.speaker for _, t in way.speakers)}. That is dull,"
            " and not what an IR is made"
            " for.",
            units=way.route.units(),
            leads=way.route.leads(),
            fixes=tuple(reversed(tuple(switches(case, way, False)))),
        )
