"""What a reading at a step should come to, and what it means where it does not.

Three answers: inside, outside by a little (look), outside by far (stop). The bounds are the step's own; what being far
off usually means is told beside them.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import isnan
from typing import Literal, TypeAlias

from low_tide.core.acoustics.exposure import NO_ALLOWANCE_DBA
from low_tide.core.units import figure, in_ohms, level_figure

Quantity: TypeAlias = Literal["ohms", "dbfs", "dba", "celsius"]
Answer: TypeAlias = Literal["inside", "look", "stop"]


@dataclass(frozen=True)
class Kind:
    """A quantity that is read off: what it is called, its unit, and the least and most that can be typed."""

    label: str
    unit: str
    least: float
    most: float


KINDS: dict[Quantity, Kind] = {
    "ohms": Kind("Ohms at the plug", "Ω", 0.0, 100_000_000.0),
    "dbfs": Kind("Peak", "dBFS", -144.0, 24.0),
    "dba": Kind("Level", "dBA", 0.0, 150.0),
    "celsius": Kind("Case", "°C", -30.0, 250.0),
}

SHORT_OHMS = 0.5
"""What a multimeter shows of its own probes and a short together."""
OPEN_FACTOR = 4.0
"""So many times what is expected is as good as nothing connected; no way to wire what is there wrong comes to more."""
DRIFT = 0.1
"""A unit whose ohms have moved by more than this part is told of."""
CLIPS_DBFS = -0.1


@dataclass(frozen=True)
class Expected:
    """About `value`; from `low` to `high` it is as it should be, under `stop_low` or over `stop_high` it is a stop.

    A bound that is None is none. `of`: what the reading is kept for, a unit, place or input by its id, empty for
    nothing; `state`: how that was set, since readings of two states are not held against each other.
    """

    quantity: Quantity
    value: float
    low: float | None
    high: float | None
    stop_low: float | None
    stop_high: float | None
    of: str = ""
    state: str = ""

    def __post_init__(self) -> None:
        order = [bound for bound in (self.stop_low, self.low, self.high, self.stop_high) if bound is not None]
        if order != sorted(order):
            raise ValueError("Expected: what is a stop lies within what is as it should be.")

    def at_most(self, bound: float) -> Expected:
        """The same where over `bound` is a stop, whatever is predicted."""
        stop = bound if self.stop_high is None else min(bound, self.stop_high)
        high = stop if self.high is None else min(self.high, stop)
        low = None if self.low is None else min(self.low, high)
        stop_low = None if self.stop_low is None else min(self.stop_low, high if low is None else low)
        return replace(self, low=low, high=high, stop_low=stop_low, stop_high=stop)


@dataclass(frozen=True)
class HeldReading:
    """What a reading says, and in words what that usually means."""

    answer: Answer
    words: str


def answer(expected: Expected, reading: float) -> Answer:
    """Inside, look or stop. `reading` in the unit of its quantity; inf for a meter that shows no end of ohms.

    ValueError for what is no number.
    """
    if isnan(reading):
        raise ValueError("Reading: a number is wanted.")
    if expected.stop_low is not None and reading < expected.stop_low:
        return "stop"
    if expected.stop_high is not None and reading > expected.stop_high:
        return "stop"
    if expected.quantity == "ohms" and reading <= SHORT_OHMS:
        return "stop"
    low = expected.low is None or reading >= expected.low
    high = expected.high is None or reading <= expected.high
    return "inside" if low and high else "look"


def held(expected: Expected, reading: float) -> HeldReading:
    """A reading against what is expected, with what it usually means; `reading` as for `answer`."""
    found = answer(expected, reading)
    words = {"ohms": _ohms, "dbfs": _dbfs, "dba": _dba, "celsius": _celsius}[expected.quantity]
    return HeldReading(found, "As it should be." if found == "inside" else words(expected, reading, found))


def _ohms(expected: Expected, reading: float, found: Answer) -> str:
    if found == "look":
        if reading < expected.value:
            return "A little low. Take off what the meter's own leads show when they touch, and measure again."
        return "A little high. A worn or half-seated plug adds ohms: turn it, and measure again."
    if reading <= SHORT_OHMS:
        return (
            "That is a short: a plug that touches, a lead cut through, a coil that is gone. Nothing is switched on into"
            " it."
        )
    part = reading / expected.value
    if part >= OPEN_FACTOR:
        return (
            "As good as nothing is connected: a lead out at its far end, a socket that switches it out, an open coil or"
            " a cut-out. A valve amp is not switched on into it."
        )
    if part < 0.75:
        usual = "something else hangs in parallel, or a selector stands lower than on this sheet"
    elif part > 1.25:
        usual = "one of two is missing, two are in series, or a selector stands higher than on this sheet"
    else:
        usual = "another unit or another position of a selector than on this sheet is behind the plug"
    return f"{in_ohms(reading)} where {in_ohms(expected.value)} was expected: {usual}."


def _dbfs(expected: Expected, reading: float, found: Answer) -> str:
    far = f"{level_figure(reading)} dBFS where {level_figure(expected.value)} was expected"
    if reading > CLIPS_DBFS:
        return "It clips. Turn down where the line begins, then the gain, and play the loudest part again."
    if found == "look":
        up = reading > expected.value
        return f"{far}: {'hotter' if up else 'quieter'} than predicted, within what playing and an unmarked gain do."
    if reading > expected.value:
        return f"{far}. Volume down: a pad is out, a tap is in another mode, or a hotter jack feeds this input."
    return (
        f"{far}. Volume down before you look: a plug that goes in with it up is how inputs go. A lead in another"
        " socket, a pad or a mute is the usual reason."
    )


def _dba(expected: Expected, reading: float, found: Answer) -> str:
    if reading > NO_ALLOWANCE_DBA:
        return f"Over {figure(NO_ALLOWANCE_DBA)} dBA there is no time one may listen. Turn down now."
    if found == "stop":
        return "Louder by far than it should be here, or over the limit. Turn down first, then look for why."
    if reading > expected.value:
        return "Louder than predicted, or near the limit. Turn down a step, and measure again where people are."
    return "Quieter than predicted. A meter on A and slow, at the place itself? Then log it as a reading of the place."


def _celsius(expected: Expected, reading: float, found: Answer) -> str:
    if found == "stop":
        return "At its limit. Stop playing, leave the load plugged in, and let it cool with air all round."
    return "Near its limit. A rest now keeps it from cutting out in the middle of a take."


def drift(reading: float, before: float) -> str:
    """What to say of a unit's ohms that are no longer what they were (Ω); empty while they are within 10 %."""
    if before <= 0 or abs(reading - before) <= DRIFT * before:
        return ""
    way = "up" if reading > before else "down"
    return (
        f"{in_ohms(before)} when it was first measured like this, {in_ohms(reading)} now: {way} by"
        f" {figure(100 * abs(reading / before - 1), 2)} %. Have it looked at before it carries full power."
    )
