"""One dry track through many hook-ups: in which order, what is moved from one to the next, and what of it is loud."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf, isfinite

from low_tide.core.acoustics.exposure import dose, duration
from low_tide.core.judging.findings import Finding
from low_tide.core.judging.judge import judge
from low_tide.core.loudness.sound_level import levels_as_set, listening_level
from low_tide.core.preferences import Preferences
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.words import replugged
from low_tide.core.session.change_over import change_over
from low_tide.core.signal_path.levels import levels
from low_tide.core.units import dbu, figure, level_figure

MOST_IN_LIST = 8
LOUD_DBA = 60.0
"""As loud as talk: what is quieter at every place keeps nobody up."""
TRYING_S = 60.0
"""Before it is recorded it is played for so long, to set the level."""
OFF = "Amp off, and dark, before anything on its speaker side is moved"
"""Leads, and what a hand must not turn while it is on: taps, modes, selectors of loads."""


@dataclass(frozen=True)
class LoudAt:
    """A place that hears it: about how loud (dBA), and how far over its limit at the edge of what is sure (dB)."""

    name: str
    dba: float
    over: float | None


@dataclass(frozen=True)
class ShootOutStep:
    """One recording of the list: which hook-up (by its place among those asked for), what is done before it.

    `moves`: settings and leads, the amp off first where its speaker side is among them. `loud`: where a cabinet sounds.
    """

    which: int
    moves: tuple[str, ...]
    leads: int
    loud: tuple[LoudAt, ...]


@dataclass(frozen=True)
class LoudWindow:
    """What is loud, together: how long (min), the places over their limits, and the part of a day's dose it uses."""

    first: int
    last: int
    minutes: float
    over: tuple[str, ...]
    dose: float | None
    words: str


@dataclass(frozen=True)
class ShootOutPlan:
    """The list in its order; what is loud of it; those that are not on it, and why; the level the dry track is sent at.

    `leads`: how many speaker leads are moved in all.
    """

    steps: tuple[ShootOutStep, ...]
    loud: LoudWindow | None
    left_out: tuple[tuple[int, str], ...]
    leads: int
    send: str


def speaker_leads_moved(before: Rig, after: Rig) -> int:
    """How many speaker leads have another place, or none, in the second."""
    return sum(1 for each in change_over(before, after).leads if each.speaker and each.move != "kept")


def moves(before: Rig, after: Rig) -> tuple[str, ...]:
    """What is done to get from one hook-up to another, in words: leads first, the amp off before its speaker side."""
    plugs = replugged(before, after)
    sentences = tuple(f"{plug[:1].upper()}{plug[1:]}" for plug in plugs)
    found = change_over(before, after)
    off = (OFF,) if found.needs_off else ()
    turned = (f"{after.name(each.unit)}: {each.words}" for each in found.settings)
    return (*off, *sentences, *turned)


def _effort(before: Rig, after: Rig) -> float:
    """Speaker leads first, then other leads, then settings."""
    found = change_over(before, after)
    moved = [each for each in found.leads if each.move != "kept"]
    speaker = sum(1 for each in moved if each.speaker)
    return speaker + 0.01 * len(moved) + 0.0001 * len(found.settings)


def loud_at(rig: Rig) -> tuple[LoudAt, ...]:
    """Places at which a cabinet of this hook-up is heard over 60 dBA, or over their limit."""
    return tuple(
        LoudAt(each.name, each.dba, each.over)
        for each in levels_as_set(rig)
        if each.dba is not None and (each.most >= LOUD_DBA or (each.over is not None and each.over > 0))
    )


def order(efforts: Sequence[Sequence[float]], loud: Sequence[bool]) -> tuple[int, ...]:
    """The order with the least effort from each to the next in which all that is loud comes in one piece.

    By dynamic programming over sets (Held and Karp, 1962); of equals the one that is nearest to how they were given.
    """
    count = len(efforts)
    if not count:
        return ()
    every = (1 << count) - 1
    loud_set = sum(1 << i for i in range(count) if loud[i])
    best: dict[tuple[int, int], tuple[float, tuple[int, ...]]] = {(1 << i, i): (0.0, (i,)) for i in range(count)}
    for been in range(1, every + 1):
        for last in range(count):
            here = best.get((been, last))
            if here is None:
                continue
            for following in range(count):
                if been >> following & 1:
                    continue
                # Loud work is neither left before all of it is done, nor come back to.
                if loud[last] and not loud[following] and loud_set & ~been:
                    continue
                if not loud[last] and loud[following] and loud_set & been:
                    continue
                key = (been | 1 << following, following)
                found = (here[0] + efforts[last][following], (*here[1], following))
                if key not in best or found < best[key]:
                    best[key] = found
    return min(best[(every, last)] for last in range(count) if (every, last) in best)[1]


def _window(
    rigs: Sequence[Rig], steps: Sequence[ShootOutStep], seconds: float, preferences: Preferences
) -> LoudWindow | None:
    places = [n for n, step in enumerate(steps) if step.loud]
    if not places:
        return None
    each = (seconds + TRYING_S) / 60
    minutes = each * len(places)
    heard = [listening_level(rigs[steps[n].which])[0] for n in places]
    used = None if None in heard else dose(((level or 0.0, each / 60) for level in heard), preferences.listening)
    over = sorted({p.name for n in places for p in steps[n].loud if p.over is not None and p.over > 0})
    first, last = places[0] + 1, places[-1] + 1
    which = f"Number {first} is" if first == last else f"Numbers {first} to {last} are"
    said = f"{which} loud, about {duration(minutes / 60)} in all"
    said += f"; over the limit at {', '.join(over)}" if over else ""
    if used is not None:
        part = f"{figure(100 * used, 2)} % of" if isfinite(used) else "more than"
        said += f"; {part} what one's ears may have in a day, at the edge of what is sure"
    return LoudWindow(first, last, minutes, tuple(over), used if used is None or isfinite(used) else inf, f"{said}.")


def send_words(rig: Rig) -> str:
    """The level the dry track leaves the interface at, where one plays it; empty where none does."""
    there = levels(rig)
    for link in rig.hookup.links:
        for end in link.ends():
            unit = rig.gear[end.unit]
            if unit.kind == "interface" and end.socket.startswith("out"):
                peak = there.at(end).normal
                trim = rig.settings(end.unit).get(f"{end.socket}.trim")
                if not peak:
                    continue
                at = f" (its level at {level_figure(float(trim))} dB)" if isinstance(trim, int | float) else ""
                level = level_figure(dbu(peak / 2**0.5))
                return f"Send the dry track from {rig.label(end)} with peaks at {level} dBu{at}."
    return ""


def plan(rigs: Sequence[Rig], seconds: float, preferences: Preferences, as_given: bool = False) -> ShootOutPlan:
    """The list for these hook-ups and a dry track of so many seconds. What must not be switched on is not on it.

    `as_given`: they stay in the order they are in.
    """
    left_out, there = [], []
    for n, rig in enumerate(rigs):
        judged = judge(rig, preferences)
        if judged.verdict.severity == "stop":
            left_out.append((n, _why(judged.findings)))
        else:
            there.append(n)
    efforts = [[_effort(rigs[a], rigs[b]) for b in there] for a in there]
    loud = [loud_at(rigs[n]) for n in there]
    steps: list[ShootOutStep] = []
    for i in range(len(there)) if as_given else order(efforts, [bool(each) for each in loud]):
        rig, before = rigs[there[i]], rigs[steps[-1].which] if steps else None
        done = moves(before, rig) if before else ()
        leads = speaker_leads_moved(before, rig) if before else 0
        steps.append(ShootOutStep(there[i], done, leads, loud[i]))
    send = next(filter(None, (send_words(rigs[s.which]) for s in steps)), "")
    return ShootOutPlan(
        tuple(steps), _window(rigs, steps, seconds, preferences), tuple(left_out), sum(s.leads for s in steps), send
    )


def _why(findings: Sequence[Finding]) -> str:
    return next((f.text for f in findings if f.severity == "stop"), "It must not be switched on.")
