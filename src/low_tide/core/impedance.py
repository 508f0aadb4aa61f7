"""Impedance curves of drivers, closed boxes and reactive loads."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import pi, sqrt

import numpy as np

from low_tide.core.response import Complex, Real

BOX_LOSS_Q = 7.0
"""Q of a closed box's own losses, in parallel with the driver's mechanical Q."""


@dataclass(frozen=True)
class DriverModel:
    """Electrical equivalent of a moving-coil driver, or of a load built like one.

    Ω, Hz, H. `r_e` coil resistance, `f_s` resonance, `q_ms` and `q_es` its mechanical and electrical Q,
    `l_1` series inductance, `l_2` with `r_2` across it the lossy inductance that flattens in the treble.
    """

    r_e: float
    f_s: float
    q_ms: float
    q_es: float
    l_1: float
    l_2: float
    r_2: float


def typical_driver(nominal_impedance: float) -> DriverModel:
    """A usual guitar driver of the given rated impedance (Ω), for where nothing is known: an estimate."""
    scale = nominal_impedance / 8
    return DriverModel(
        r_e=0.82 * nominal_impedance,
        f_s=85.0,
        q_ms=5.0,
        q_es=0.75,
        l_1=0.15e-3 * scale,
        l_2=0.7e-3 * scale,
        r_2=7.5 * nominal_impedance,
    )


def driver_impedance(model: DriverModel, frequency: Real) -> Complex:
    """Impedance in Ω, shape of `frequency` (Hz): R_e + jωL_1 + (R_2 ∥ jωL_2) + (R_es ∥ jωL_ces ∥ 1/jωC_mes).

    The motional branch is Small (1972), Direct-Radiator Loudspeaker System Analysis:
    R_es = R_e·Q_ms/Q_es, C_mes = Q_es/(2πF_s·R_e), L_ces = R_e/(2πF_s·Q_es).
    """
    s = 2j * pi * frequency
    r_es = model.r_e * model.q_ms / model.q_es
    c_mes = model.q_es / (2 * pi * model.f_s * model.r_e)
    l_ces = model.r_e / (2 * pi * model.f_s * model.q_es)
    motional = 1 / (1 / r_es + 1 / (s * l_ces) + s * c_mes)
    coil = model.r_2 * s * model.l_2 / (model.r_2 + s * model.l_2)
    return np.asarray(model.r_e + s * model.l_1 + coil + motional)


def closed_box(model: DriverModel, compliance_ratio: float) -> DriverModel:
    """The same driver in a closed box with α = n·V_as/V_b = `compliance_ratio` (Small 1972).

    F_s and the Qs rise by √(1+α), which leaves R_es and C_mes alone and divides L_ces by 1+α;
    the box's own losses then lie in parallel with Q_ms.
    """
    if compliance_ratio < 0:
        raise ValueError("compliance_ratio must not be negative")
    rise = sqrt(1 + compliance_ratio)
    q_ms = 1 / (1 / (model.q_ms * rise) + 1 / BOX_LOSS_Q)
    return replace(model, f_s=model.f_s * rise, q_ms=q_ms, q_es=model.q_es * rise)


def lowest_in_rating_band(impedance: Complex, frequency: Real) -> float:
    """Least |Z| in Ω between 80 Hz and 5 kHz, which IEC 60268-5 holds to at least 80 % of the rated value."""
    band = (frequency >= 80) & (frequency <= 5000)
    return float(np.abs(impedance[band]).min())
