"""What was found, in the order an engineer would ask: level, lows, highs, dynamics, what a filter cannot give back."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from low_tide.core.comparing.comparison import Held, TakeDynamics
from low_tide.core.comparing.loud_spectra import SpectrumDifference, reach
from low_tide.core.comparing.what_a_filter_can_do import FilterShare
from low_tide.core.units import figure, level_figure

LEAST_DB = 0.5
"""Less than this is not worth a word."""
NEAR_NOISE_DB = 3.0
DEEP_DB = 50.0
"""What is left so far down is not heard, and may as well be the filter's own length."""
LEAST_SHARE = 0.5
LEAST_MS = 0.01


@dataclass(frozen=True)
class Said:
    """A sentence; `first`: one of those to be read if only one is."""

    text: str
    first: bool = False


def _more(value: float, where: str) -> str:
    return f"{figure(abs(value), 2)} dB {'more' if value > 0 else 'less'} {where}"


def _level(held: Held, name: str) -> Iterator[Said]:
    if held.level is None:
        return
    lu, about = held.level.lu, f" (± {figure(held.level.spread, 2)})" if held.relation == "again" else ""
    if abs(lu) < LEAST_DB and abs(lu) < 3 * max(held.level.spread, 0.1):
        yield Said(f"{name} is as loud as the reference.", True)
    else:
        yield Said(f"{name} is {figure(abs(lu), 2)} dB{about} {'louder' if lu > 0 else 'quieter'}.", True)


def _tone(spectrum: SpectrumDifference) -> Iterator[str]:
    if spectrum.bass is not None and spectrum.bass_hz is not None and _stands_out(spectrum.bass, spectrum.bass_spread):
        yield _more(spectrum.bass, f"at {figure(spectrum.bass_hz, 2)} Hz")
    if spectrum.presence is not None and _stands_out(spectrum.presence, spectrum.presence_spread):
        yield _more(spectrum.presence, "from 2 to 5 kHz")


def _stands_out(value: float, spread: float) -> bool:
    return abs(value) >= max(LEAST_DB, spread)


def _dynamics(ours: TakeDynamics, theirs: TakeDynamics) -> Iterator[str]:
    """Ours is the take's."""
    if ours.attack_db is not None and theirs.attack_db is not None:
        by = ours.attack_db - theirs.attack_db
        if abs(by) >= LEAST_DB:
            yield f"its attacks stand {figure(abs(by), 2)} dB {'higher' if by > 0 else 'lower'} over the sustain"
    if ours.range_db is not None and theirs.range_db is not None:
        by = ours.range_db - theirs.range_db
        if abs(by) >= 2 * LEAST_DB:
            yield f"it moves {figure(abs(by), 2)} dB {'more' if by > 0 else 'less'} between soft and loud"


def percent(share: float) -> str:
    """A share as a percentage that does not round up to all of it."""
    if share >= 0.9995:
        return "99.9 % and more"
    return f"{figure(int(share * 1000) / 10, 3)} %"


def _filter(found: FilterShare, twice: float | None) -> Said:
    left = f"{figure(-found.left, 2)} dB down"
    over = found.over_noise if twice is None else found.left - twice
    floor = "the noise" if twice is None else "what recording the reference twice leaves"
    if -found.left >= DEEP_DB:
        return Said(f"An equaliser makes one of the other: what is left is {left}, too little to hear.", True)
    if found.share < LEAST_SHARE:
        return Said(
            f"An equaliser gives only {percent(found.share)} of it: they have little in common but the notes.", True
        )
    told = f"An equaliser can give {percent(found.share)} of it;"
    if over is not None and over <= NEAR_NOISE_DB:
        is_it = "is noise" if twice is None else f"is no more than {floor}"
        return Said(f"{told} what is left, {left}, {is_it}.", True)
    if over is None:
        return Said(
            f"{told} what is left, {left}, is what none gives back, and noise: there is no quiet part to tell them"
            " apart by.",
            True,
        )
    return Said(
        f"{told} what is left, {left}, is {figure(over, 2)} dB over {floor}: how the amp reacted, which none gives"
        " back.",
        True,
    )


def _clock(held: Held) -> Iterator[Said]:
    alignment = held.alignment
    if alignment is None or held.relation not in ("same", "identical"):
        return
    if alignment.inverted:
        yield Said("Its polarity is inverted; it was turned round to compare.")
    if alignment.drift:
        yield Said(
            f"Its clock ran {figure(abs(alignment.drift), 2)} parts in a million"
            f" {'slow' if alignment.drift > 0 else 'fast'}; that was taken back."
        )


def _reach(rates: tuple[int, int]) -> Iterator[Said]:
    low = min(rates)
    if low < max(rates) and low < 40_000:
        yield Said(
            f"One of them was recorded at {figure(low / 1000, 3)} kHz: they are compared up to"
            f" {figure(reach(rates) / 1000, 2)} kHz."
        )


def where_it_lies(held: Held) -> str:
    """How a take lies beside the reference, in a few words."""
    alignment = held.alignment
    if held.relation == "unusable":
        return "cannot be compared"
    if held.relation == "other":
        return "another piece, not compared"
    if held.relation == "again" or alignment is None:
        return "played again, as it came"
    by = alignment.delay * 1000
    lies = "in line" if abs(by) < LEAST_MS else f"{'late' if by > 0 else 'early'} by {figure(abs(by))} ms, taken back"
    return f"{lies}, inverted" if alignment.inverted else lies


def as_load_feel_says(held: Held) -> str:
    """The differences as they came, weighed as those are that Load feel predicts; empty where there are none."""
    spectrum, level = held.spectrum, held.level
    if spectrum is None or level is None:
        return ""
    found = [
        (spectrum.programme, "over all"),
        (spectrum.bass, f"at {figure(spectrum.bass_hz or 0.0, 2)} Hz"),
        (spectrum.presence, "from 2 to 5 kHz"),
    ]
    said = [f"{level_figure(value + level.lu)} dB {where}" for value, where in found if value is not None]
    return f"As it came, weighed as in Load feel: {', '.join(said)}." if said else ""


def sentences(held: Held, name: str, rates: tuple[int, int], twice: float | None = None) -> tuple[Said, ...]:
    """What a take (by its name) is against the reference, of recordings at two rates (Hz).

    `twice`: what is left (dB) when the reference is recorded a second time and filtered, where that was tried: no
    hook-up is to blame for it.
    """
    if held.relation == "unusable":
        return (Said(f"{name} cannot be compared: {held.why}.", True),)
    if held.relation == "other":
        return (Said(f"{name} is not compared: {held.why}.", True),)
    if held.relation == "identical":
        gain = held.level.lu if held.level else 0.0
        apart = f", {level_figure(gain)} dB in level apart" if abs(gain) >= 0.01 else ""
        return (
            Said(f"{name} is the very same recording{apart}: nothing is left when one is taken from the other.", True),
        )
    found = list(_level(held, name))
    tone = list(_tone(held.spectrum)) if held.spectrum else []
    moves = list(_dynamics(held.dynamics, held.beside)) if held.dynamics and held.beside else []
    if tone:
        has = f"Matched, it has {' and '.join(tone)}"
        found.append(Said(f"{has}; {', and '.join(moves)}." if moves else f"{has}."))
    elif moves:
        found.append(Said(f"Matched, its tone is the same in the bass and from 2 to 5 kHz; {', and '.join(moves)}."))
    elif held.spectrum:
        found.append(Said(f"Matched, no difference over {figure(LEAST_DB)} dB in the bass or from 2 to 5 kHz."))
    if held.filter:
        found.append(_filter(held.filter, twice))
    if held.relation == "again":
        why = held.why[:1].upper() + held.why[1:]
        found.append(
            Said(f"{why}: what is told is level, tone and dynamics, with how far it varies; no filter, no null.")
        )
    found += [*_clock(held), *_reach(rates)]
    return tuple(found)
