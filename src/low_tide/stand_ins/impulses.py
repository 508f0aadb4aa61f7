"""Impulse responses of speakers that do not exist: driver, cabinet, microphone and a little room, from formulas."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

Samples: TypeAlias = NDArray[np.float64]
Microphone: TypeAlias = Literal["moving coil", "ribbon", "condenser"]

RATE = 48_000
SOUND_M_S = 343.0
SIZE = 1 << 14
EARLY_S = 0.0004
CONE_M = {10: 0.1, 12: 0.13}
NEAR_M = 0.05
ROOM = ((1.31, -0.42), (2.17, 0.3), (3.4, -0.22), (5.1, 0.17), (7.9, 0.11))
"""What comes back from floor and walls: how much longer its way is (m), and how much of it there is."""


@dataclass(frozen=True)
class Speaker:
    """A cabinet of so many drivers (inch), open or closed at its back; `breakup` Hz where the cone begins to break up,
    `bright` dB by which it does."""

    drivers: int
    inch: int
    open_back: bool
    breakup: float
    bright: float


@dataclass(frozen=True)
class Placing:
    """A microphone before it: its kind, how far (m), how far from the middle of a cone (0 on axis to 1 at its edge),
    and whether it is wired the other way round."""

    kind: Microphone
    metres: float
    off: float = 0.0
    inverted: bool = False


def _second(s: NDArray[Any], f0: float, q: float) -> NDArray[Any]:
    return np.asarray((s / f0) ** 2 + s / (f0 * q) + 1)


def _peak(s: NDArray[Any], f0: float, gain_db: float, q: float) -> NDArray[Any]:
    a = 10 ** (gain_db / 40)
    return _second(s, f0, q / a) / _second(s, f0, q * a)


def _speaker(s: NDArray[Any], hz: NDArray[Any], speaker: Speaker) -> NDArray[Any]:
    f0, q = (115.0, 0.75) if speaker.open_back else (92.0 - 6.0 * speaker.drivers**0.5, 1.15)
    found = (s / f0) ** 2 / _second(s, f0, q)
    if speaker.open_back:
        # What leaves the back comes round the edge, turned over.
        found = found * (1 - 0.45 * np.exp(-2j * np.pi * hz * 0.0021) / (1 + s / 500))
    b = speaker.breakup
    found = found * _peak(s, b, speaker.bright, 1.6) * _peak(s, 0.52 * b, -2.5, 1.2) * _peak(s, 1.55 * b, 3.0, 3.0)
    return np.asarray(found / (_second(s, 1.75 * b, 0.9) * _second(s, 2.3 * b, 0.8)))


def _microphone(s: NDArray[Any], hz: NDArray[Any], placing: Placing) -> NDArray[Any]:
    if placing.kind == "moving coil":
        found = _peak(s, 5_200.0, 4.0, 1.2) * (s / 55) / (1 + s / 55) / _second(s, 14_000.0, 0.7)
    elif placing.kind == "ribbon":
        found = (s / 35) / (1 + s / 35) / (1 + s / 7_500.0)
    else:
        found = _peak(s, 9_000.0, 2.0, 0.9) * (s / 20) / (1 + s / 20)
    # A capsule that hears the difference of pressure hears the bend of near waves too.
    near = {"ribbon": 1.0, "moving coil": 0.5, "condenser": 0.4}[placing.kind]
    return np.asarray(
        found * (1 + near * 0.25 * SOUND_M_S / (2j * np.pi * np.maximum(hz, 20.0) * (placing.metres + 0.12)))
    )


def _aside(hz: NDArray[Any], inch: int, off: float) -> NDArray[Any]:
    """A piston heard from the side: 2·J1(x)/x."""
    from scipy.special import j1

    x = 2 * np.pi * hz / SOUND_M_S * CONE_M[inch] * np.sin(off * np.pi / 6)
    return np.asarray(np.where(x < 1e-6, 1.0, 2 * j1(np.maximum(x, 1e-6)) / np.maximum(x, 1e-6)))


def impulse(speaker: Speaker, placing: Placing) -> Samples:
    """An impulse response at 48 kHz, shape (n,), as it would be recorded: later by the way through the air."""
    hz = np.fft.rfftfreq(SIZE, 1 / RATE)
    s = 1j * hz
    metres = placing.metres
    direct = np.exp(-2j * np.pi * hz * (EARLY_S + metres / SOUND_M_S))
    # Where the edge of a cone is heard it does not fall to nothing anywhere, since no cone is a piston there.
    aside = 0.7 * _aside(hz, speaker.inch, placing.off) + 0.3 / (1 + s / 6_000.0)
    found = _speaker(s, hz, speaker) * _microphone(s, hz, placing) * aside * direct
    for way, part in ROOM:
        there = part * metres / (metres + way) * min(1.0, metres / 0.3)
        found = found + found * there * np.exp(-2j * np.pi * hz * way / SOUND_M_S) / (1 + s / 3_500.0)
    sound = np.fft.irfft(found, SIZE) * NEAR_M / (metres + NEAR_M) * (-1 if placing.inverted else 1)
    length = round((0.06 + 0.1 * min(1.0, metres)) * RATE)
    sound = sound[:length]
    fade = length // 3
    sound[-fade:] *= 0.5 + 0.5 * np.cos(np.pi * np.arange(fade) / fade)
    return np.asarray(sound)


CLOSED_1, CLOSED_4 = Speaker(1, 12, False, 2_700.0, 5.0), Speaker(4, 12, False, 2_400.0, 6.0)
OPEN_12, OPEN_10 = Speaker(2, 12, True, 3_100.0, 4.0), Speaker(2, 10, True, 3_600.0, 5.5)

MADE: tuple[tuple[str, Speaker, Placing], ...] = (
    ("Sanderling closed 1x12, condenser, 5 cm, on axis", CLOSED_1, Placing("condenser", 0.05)),
    ("Sanderling closed 1x12, condenser, 1 m", CLOSED_1, Placing("condenser", 1.0)),
    ("Sanderling closed 1x12, moving coil, 2 cm, on axis", CLOSED_1, Placing("moving coil", 0.02)),
    ("Sanderling closed 1x12, moving coil, 5 cm, off axis", CLOSED_1, Placing("moving coil", 0.05, 0.6, True)),
    ("Sanderling closed 1x12, ribbon, 15 cm, on axis", CLOSED_1, Placing("ribbon", 0.15)),
    ("Sanderling closed 1x12, ribbon, 16 cm, on axis", CLOSED_1, Placing("ribbon", 0.16)),
    ("Turnstone open 2x12, condenser, 5 cm, on axis", OPEN_12, Placing("condenser", 0.05)),
    ("Turnstone open 2x12, condenser, 2 m", OPEN_12, Placing("condenser", 2.0)),
    ("Turnstone open 2x12, moving coil, 2 cm, edge", OPEN_12, Placing("moving coil", 0.02, 1.0)),
    ("Turnstone open 2x12, ribbon, 10 cm, off axis", OPEN_12, Placing("ribbon", 0.1, 0.5)),
    ("Whimbrel closed 4x12, condenser, 30 cm, on axis", CLOSED_4, Placing("condenser", 0.3)),
    ("Whimbrel closed 4x12, moving coil, 2 cm, on axis", CLOSED_4, Placing("moving coil", 0.02)),
    ("Whimbrel closed 4x12, moving coil, 3 cm, on axis", CLOSED_4, Placing("moving coil", 0.03)),
    ("Whimbrel closed 4x12, moving coil, 2 cm, edge", CLOSED_4, Placing("moving coil", 0.02, 1.0)),
    ("Whimbrel closed 4x12, ribbon, 20 cm, off axis", CLOSED_4, Placing("ribbon", 0.2, 0.4)),
    ("Phalarope open 2x10, condenser, 5 cm, on axis", OPEN_10, Placing("condenser", 0.05)),
    ("Phalarope open 2x10, moving coil, 2 cm, on axis", OPEN_10, Placing("moving coil", 0.02)),
    ("Phalarope open 2x10, ribbon, 50 cm", OPEN_10, Placing("ribbon", 0.5)),
)
"""Eighteen of them, and what their files are called."""
