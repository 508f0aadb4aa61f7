"""Sound in rooms, through partitions and into the open, in octave bands from 63 Hz to 8 kHz."""

from __future__ import annotations

from functools import lru_cache
from math import log10, pi, sqrt
from typing import Literal, TypeAlias

import numpy as np

from low_tide.core.frequency import Real, frequency_grid, programme_weights

Weighting: TypeAlias = Literal["A", "C", "Z"]

OCTAVES = (63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0)
"""Centres of the octave bands, Hz. Arrays over bands have this length and order."""

DIRECTIVITY = (2.0, 2.0, 2.0, 3.0, 5.0, 8.0, 10.0, 10.0)
"""Q of a guitar cabinet over `OCTAVES`: it beams the more the higher. An estimate."""

ROOM_BANDS = np.array([0.5, 0.6, 0.8, 0.9, 1.0, 1.1, 1.1, 1.2])
"""Room constant over `OCTAVES` against that at 1 kHz: an estimate."""

FACING: dict[str, tuple[str, tuple[float, ...]]] = {
    "at": ("at it", (0, 0, 0, 0, 0, 0, 0, 0)),
    "beside": ("past it, a quarter turn off", (0, 0, 1, 3, 6, 10, 13, 15)),
    "away": ("away from it", (0, 1, 2, 5, 9, 13, 17, 20)),
}
"""How much less than on axis a cabinet sends (dB, over `OCTAVES`) towards what it does not face: estimates."""

SPACING_M = 0.6
"""How far apart two cabinets stand where nobody said."""
SPEED_OF_SOUND = 343.0
GRAVITY = 9.81

ABSORPTION: dict[str, float] = {"bare": 0.08, "furnished": 0.2, "treated": 0.4, "hall": 0.25}
"""Mean absorption coefficient by how damped a room is: estimates."""

REDUCTION: dict[str, tuple[str, tuple[float, ...]]] = {
    "opening": ("open doorway or hatch", (0, 0, 0, 0, 0, 0, 0, 0)),
    "louvred_door": ("louvred door", (6, 8, 9, 10, 11, 12, 12, 12)),
    "hollow_door": ("hollow door", (9, 12, 14, 16, 18, 20, 21, 22)),
    "solid_door": ("solid door", (14, 18, 22, 25, 27, 29, 31, 33)),
    "stud_wall": ("stud wall, lightly built", (15, 24, 32, 37, 40, 39, 40, 43)),
    "brick_wall": ("brick wall, plastered", (28, 33, 36, 41, 48, 54, 57, 58)),
    "bulkhead": ("steel bulkhead", (20, 26, 31, 35, 38, 36, 38, 42)),
    "cupboard": ("cupboard full of clothes", (3, 6, 9, 12, 15, 18, 20, 20)),
}
"""Sound reduction index R (dB) over `OCTAVES` by construction, with its name: estimates, for where none is known."""


def weighting_db(kind: Weighting, frequency: Real) -> Real:
    """Frequency weighting in dB at `frequency` (Hz, any shape); IEC 61672-1, annex E. Z weighs nothing."""
    f2 = np.asarray(frequency, np.float64) ** 2
    if kind == "Z":
        return np.zeros_like(f2)
    low, high = 20.598997**2, 12194.217**2
    c = high * f2 / ((f2 + low) * (f2 + high))
    if kind == "C":
        return np.asarray(20 * np.log10(c) + 0.0619)
    a = c * f2 / np.sqrt((f2 + 107.65265**2) * (f2 + 737.86223**2))
    return np.asarray(20 * np.log10(a) + 1.9997)


@lru_cache(maxsize=3)
def octave_weighting(kind: Weighting) -> Real:
    """The weighting in dB at the exact octave centres, 1000·10^(0.3·n) Hz, shape (8,); read-only."""
    found = weighting_db(kind, np.asarray(1000 * 10 ** (0.3 * np.arange(-4.0, 4.0)), np.float64))
    found.setflags(write=False)
    return found


def weighted_level(bands: Real, kind: Weighting) -> float:
    """Total level in dB of octave-band levels `bands` (dB, shape (8,)), weighted."""
    return float(10 * np.log10(np.sum(10 ** ((bands + octave_weighting(kind)) / 10))))


@lru_cache(maxsize=1)
def programme_octaves() -> Real:
    """Octave-band levels of the programme in dB under its whole, shape (8,): what an electric guitar sends out."""
    f, w = frequency_grid(), programme_weights()
    power = np.array([w[(f >= c / sqrt(2)) & (f < c * sqrt(2))].sum() for c in OCTAVES])
    found = np.asarray(10 * np.log10(power))
    found.setflags(write=False)
    return found


def surface(volume: float) -> float:
    """About the inner surface (m²) of a room of this volume (m³): that of a cube, the least it can be."""
    return float(6 * volume ** (2 / 3))


def room_constant(volume: float, absorption: float) -> float:
    """Room constant R_c = S·ᾱ/(1−ᾱ) in m² (Hopkins and Stryker 1948)."""
    return surface(volume) * absorption / (1 - absorption)


def room_constants(constant: float) -> Real:
    """Room constant (m²) over the octaves, shape (8,), from that at 1 kHz. An estimate of how it goes."""
    return constant * ROOM_BANDS


def absorption_area(volume: float, constant: Real) -> Real:
    """Equivalent absorption area A = S·ᾱ in m² of a room with these room constants (m², any shape)."""
    whole = surface(volume)
    return whole * constant / (whole + constant)


def power_level(at_one_metre: Real, directivity: Real) -> Real:
    """Sound power level from the level at 1 m on axis (dB), band by band: L_W = L + 11 − 10·log10 Q."""
    return np.asarray(at_one_metre + 11 - 10 * np.log10(directivity))


def room_level(power: Real, distance: float, constant: Real, directivity: Real) -> Real:
    """Level (dB) at `distance` (m) in a room, band by band: L_W + 10·log10(Q/(4πd²) + 4/R_c).

    Hopkins and Stryker (1948). `directivity`: Q towards there. `distance` inf gives the reverberant field alone.
    ValueError for a distance or constant not over 0.
    """
    if distance <= 0 or np.any(np.asarray(constant) <= 0):
        raise ValueError("distance and room constant must be over 0")
    return np.asarray(power + 10 * np.log10(directivity / (4 * pi * distance**2) + 4 / np.asarray(constant)))


def towards(directivity: Real, facing: str) -> Real:
    """Q of a cabinet towards a place that it faces, stands beside or turns away from: a key of `FACING`."""
    return np.asarray(directivity * 10 ** (-np.array(FACING[facing][1]) / 10))


ONE_DRIVER_M, ALL_DRIVERS_M = 0.3, 1.0
"""Up to the first distance a microphone hears the driver it stands before, from the second on all of a cabinet's."""


def near_factor(distance: float, radius: float) -> float:
    """Pressure at `distance` (m) on the axis of a cone of `radius` (m) over that at 1 m, far from it, by 1/r.

    2·(√(z² + a²) − z)/a², the rigid piston's on-axis field at low frequencies (Rayleigh); it goes over into 1/z.
    """
    if distance <= 0 or radius <= 0:
        raise ValueError("distance and radius must be over 0")
    return 2 * (sqrt(distance**2 + radius**2) - distance) / radius**2


def before_a_cabinet(distance: float, radius: float, drivers: int) -> float:
    """Pressure at a microphone over the cabinet's own at 1 m, for `drivers` equal ones that share its power.

    Near the cone one of them counts, from a metre on all; between, the straight line of dB over log distance.
    An estimate.
    """
    one, all_ = 20 * log10(near_factor(distance, radius) / drivers), -20 * log10(distance)
    share = (log10(distance) - log10(ONE_DRIVER_M)) / (log10(ALL_DRIVERS_M) - log10(ONE_DRIVER_M))
    part = min(1.0, max(0.0, share))
    return float(10 ** ((one * (1 - part) + all_ * part) / 20))


def in_the_open(at_one_metre: Real, distance: float, facing: str = "at") -> Real:
    """Level (dB) at `distance` (m) of a cabinet in the open: the direct sound alone, −20·log10 d."""
    if distance <= 0:
        raise ValueError("distance must be over 0")
    return np.asarray(at_one_metre - np.array(FACING[facing][1]) - 20 * log10(distance))


def composite_reduction(parts: tuple[tuple[float, tuple[float, ...]], ...]) -> Real:
    """R in dB of a partition of several parts, (area m², R over octaves): −10·log10(Σ S_i·10^(−R_i/10)/ΣS)."""
    areas = np.array([area for area, _ in parts])
    through = np.array([10 ** (-np.array(r) / 10) for _, r in parts])
    return np.asarray(-10 * np.log10(areas @ through / areas.sum()))


def through_partition(level: Real, reduction: Real, area: float, absorption: Real) -> Real:
    """Level behind a partition of `area` m² in a room of `absorption` m²: L − R + 10·log10(S/A) (ISO 12354-1)."""
    return np.asarray(level - reduction + 10 * np.log10(area / absorption))


def to_the_open(level: Real, reduction: Real, area: float, distance: float) -> Real:
    """Level in the open at `distance` m from a wall of `area` m² with `level` inside: ISO 12354-4.

    The wall radiates L_W = L − 6 − R + 10·log10 S into half the sphere: 8 dB and 20·log10 d are lost on the way, and
    it is nowhere louder than at the wall's outer face. What hard ground or water throws back, up to 3 dB, is left to
    the spread of the prediction.
    """
    if distance <= 0:
        raise ValueError("distance must be over 0")
    face = level - reduction - 6
    return np.asarray(np.minimum(face, face + 10 * log10(area) - 8 - 20 * log10(distance)))


REFERENCE_717 = (36.0, 45.0, 52.0, 55.0, 56.0)


def single_number(reduction: Real) -> int:
    """Weighted sound reduction index R_w (dB) from R over `OCTAVES`: ISO 717-1, octaves 125 Hz to 2 kHz."""
    measured, reference = np.asarray(reduction)[1:6], np.array(REFERENCE_717)
    shift = 40
    while np.maximum(reference + shift - measured, 0).sum() > 10:
        shift -= 1
    return int(reference[2] + shift)


def mount_resonance(deflection: float) -> float:
    """Resonance f0 = √(g/δ)/(2π) in Hz of a mount that gives way by `deflection` (m) under its load."""
    return sqrt(GRAVITY / deflection) / (2 * pi)


def isolates_from(deflection: float) -> float:
    """Frequency (Hz) above which a mount isolates, √2·f0; below it does nothing, or harm."""
    return sqrt(2) * mount_resonance(deflection)


def signal_sum(levels: list[Real], spacing: float = SPACING_M) -> Real:
    """Sum of octave levels (dB) of separate cabinets on one signal, `spacing` (m) apart.

    Their pressures add up to c/(2d), where half a wave fits between them; above, their energies.
    """
    if len(levels) == 1:
        return levels[0]
    together = np.array(OCTAVES) <= SPEED_OF_SOUND / (2 * spacing)
    pressures = 20 * np.log10(np.sum(10 ** (np.array(levels) / 20), axis=0))
    return np.where(together, pressures, energy_sum(levels))


def energy_sum(levels: list[Real]) -> Real:
    """Sum of levels (dB) that have nothing to do with each other, band by band."""
    if len(levels) == 1:
        return levels[0]
    return np.asarray(10 * np.log10(np.sum(10 ** (np.array(levels) / 10), axis=0)))
