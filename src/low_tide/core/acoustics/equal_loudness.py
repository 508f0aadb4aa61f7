"""Equal-loudness contours, and why what was loud sounds thin when it is quiet."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from low_tide.core.frequency import Real
from low_tide.core.units import figure

# ISO 226:2003, table 1: frequency (Hz), exponent, magnitude of the linear transfer (dB), threshold (dB).
_TABLE = np.array(
    [
        (20, 0.532, -31.6, 78.5),
        (25, 0.506, -27.2, 68.7),
        (31.5, 0.480, -23.0, 59.5),
        (40, 0.455, -19.1, 51.1),
        (50, 0.432, -15.9, 44.0),
        (63, 0.409, -13.0, 37.5),
        (80, 0.387, -10.3, 31.5),
        (100, 0.367, -8.1, 26.5),
        (125, 0.349, -6.2, 22.1),
        (160, 0.330, -4.5, 17.9),
        (200, 0.315, -3.1, 14.4),
        (250, 0.301, -2.0, 11.4),
        (315, 0.288, -1.1, 8.6),
        (400, 0.276, -0.4, 6.2),
        (500, 0.267, 0.0, 4.4),
        (630, 0.259, 0.3, 3.0),
        (800, 0.253, 0.5, 2.2),
        (1000, 0.250, 0.0, 2.4),
        (1250, 0.246, -2.7, 3.5),
        (1600, 0.244, -4.1, 1.7),
        (2000, 0.243, -1.0, -1.3),
        (2500, 0.243, 1.7, -4.2),
        (3150, 0.243, 2.5, -6.0),
        (4000, 0.242, 1.2, -5.4),
        (5000, 0.242, -2.1, -1.5),
        (6300, 0.245, -7.1, 6.0),
        (8000, 0.254, -11.2, 12.6),
        (10000, 0.271, -10.7, 13.9),
        (12500, 0.301, -3.1, 12.3),
    ]
)
THIRDS: Real = _TABLE[:, 0]
"""Third-octave frequencies of the contours, Hz."""

LEAST_PHON = 20.0
MOST_PHON = np.where(THIRDS >= 5000, 80.0, 90.0)
"""What the contours are valid between; beyond they are held."""


def contour(phon: float) -> Real:
    """Sound pressure level (dB) at `THIRDS` that is as loud as `phon` dB at 1 kHz: ISO 226:2003, formula (1).

    Outside 20 to 90 phon, 80 from 5 kHz on, the nearest valid contour, moved by the rest.
    """
    _, exponent, transfer, threshold = _TABLE.T
    valid = np.clip(phon, LEAST_PHON, MOST_PHON)
    a = 4.47e-3 * (10 ** (0.025 * valid) - 1.15) + (0.4 * 10 ** ((threshold + transfer) / 10 - 9)) ** exponent
    return np.asarray(10 / exponent * np.log10(a) - transfer + 94 + (phon - valid))


@dataclass(frozen=True)
class Shelf:
    """A low shelf of first order: gain (dB) well below `corner` (Hz)."""

    gain: float
    corner: float


@dataclass(frozen=True)
class Thin:
    """What falls behind when `loud` (phon) is turned down to `quiet`: dB at `THIRDS`, 0 at 1 kHz.

    `shelf` makes up for it in the monitors; `words` say so. `held`: part of it lies outside what the contours are
    valid for.
    """

    loud: float
    quiet: float
    lost: tuple[float, ...]
    shelf: Shelf
    held: bool
    words: str


def shelf_gain(shelf: Shelf, frequency: Real) -> Real:
    """Gain in dB of a first-order low shelf at `frequency` (Hz): |(f_c·g + jf)/(f_c + jf)|."""
    g = 10 ** (shelf.gain / 20)
    ratio = ((shelf.corner * g) ** 2 + frequency**2) / (shelf.corner**2 + frequency**2)
    return np.asarray(10 * np.log10(ratio))


def thin(loud: float, quiet: float) -> Thin:
    """How a programme heard at `loud` dB changes at `quiet` dB, both taken as phon; ValueError if not quieter.

    At each third octave the contour rises more slowly than the level falls: what is missing is the difference
    of the contours less the difference of the levels.
    """
    if quiet > loud:
        raise ValueError("the quiet level must not be over the loud one")
    lost = (contour(quiet) - quiet) - (contour(loud) - loud)
    best = Shelf(0.0, 200.0)
    least = np.inf
    band = (THIRDS >= 63) & (THIRDS <= 1000)
    for corner in np.geomspace(40, 600, 60):
        for gain in np.arange(0, 30.5, 0.5):
            shelf = Shelf(float(gain), float(corner))
            miss = float(np.sum((shelf_gain(shelf, THIRDS[band]) - lost[band]) ** 2))
            if miss < least:
                best, least = shelf, miss
    held = bool(loud > MOST_PHON.min() or quiet < LEAST_PHON)
    return Thin(loud, quiet, tuple(float(x) for x in lost), best, held, _thin_words(lost, best))


TOLD_AT_HZ = 80.0
NEXT_TO_NOTHING_DB = 0.5
MOST_A_MONITOR_STANDS_DB = 10.0
"""A shelf of more than this asks for more travel than small monitors have: a rule of thumb."""


def _thin_words(lost: Real, shelf: Shelf) -> str:
    if shelf.gain < NEXT_TO_NOTHING_DB:
        return "At this level next to nothing is missing."
    missing = float(lost[int(np.argmin(np.abs(THIRDS - TOLD_AT_HZ)))])
    much = ", more than most monitors stand" if shelf.gain > MOST_A_MONITOR_STANDS_DB else ""
    return (
        f"{figure(missing, 2)} dB are missing at {figure(TOLD_AT_HZ)} Hz; a low shelf of +{figure(shelf.gain)} dB at"
        f" {figure(shelf.corner, 2)} Hz makes up for it{much}."
    )


def loudness_ratio(change_db: float) -> float:
    """How many times as loud a change of level (dB) sounds: 2^(ΔL/10)."""
    return float(2 ** (change_db / 10))


JUST_NOTICED_DB = 0.5
_PARTS = (
    (0.9, "nine tenths"),
    (0.8, "four fifths"),
    (2 / 3, "two thirds"),
    (0.5, "half"),
    (0.4, "two fifths"),
    (1 / 3, "a third"),
    (0.25, "a quarter"),
    (0.2, "a fifth"),
    (1 / 6, "a sixth"),
    (0.125, "an eighth"),
    (0.1, "a tenth"),
)


def loudness_words(change_db: float) -> str:
    """'about a quarter as loud' for a change of level in dB: the part that is nearest to 2^(ΔL/10)."""
    ratio = loudness_ratio(change_db)
    if abs(change_db) < JUST_NOTICED_DB:
        return "about as loud"
    if ratio > 1:
        return f"about {figure(ratio, 2)} times as loud"
    if ratio < _PARTS[-1][0] / 1.1:
        return f"about 1/{round(1 / ratio)} as loud"
    _, name = min(_PARTS, key=lambda each: abs(np.log(each[0] / ratio)))
    return f"about {name} as loud"
