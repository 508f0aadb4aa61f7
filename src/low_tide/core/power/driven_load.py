"""A power stage that feels its load: its limit acts on the jack, with the load's current inside the loop."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.rendering import OVERSAMPLING, Samples
from low_tide.core.circuit.impedance import DriverModel, driver_impedance, typical_driver
from low_tide.core.frequency import Complex, Real

Matrix = NDArray[np.float64]

RESISTIVE_WITHIN = 1.03
"""A load whose |Z| stays within this factor is a resistor."""
FIT_POINTS = 60
SEGMENTS = 512
LEAST_COIL_H = 1e-7
SETTLED_TIME_CONSTANTS = 11.0
MOST_WARM_UP_S = 0.4


@dataclass(frozen=True)
class StateSpace:
    """A load as dx/dt = A·x + B·v, i = C·x + D·v: its current (A) by the voltage across it (V)."""

    a: Matrix
    b: Matrix
    c: Matrix
    d: float


def of_resistor(ohms: float) -> StateSpace:
    """A resistance (Ω): no memory."""
    return StateSpace(np.zeros((0, 0)), np.zeros(0), np.zeros(0), 1 / ohms)


def of_driver(model: DriverModel) -> StateSpace:
    """A driver: states are the currents of both coils, the voltage of the motional branch and the current of its coil.

    The circuit is that of `driver_impedance`.
    """
    r_es = model.r_e * model.q_ms / model.q_es
    c_mes = model.q_es / (2 * pi * model.f_s * model.r_e)
    l_ces = model.r_e / (2 * pi * model.f_s * model.q_es)
    l_1, l_2 = max(model.l_1, LEAST_COIL_H), max(model.l_2, LEAST_COIL_H)
    a = np.array(
        [
            [-(model.r_e + model.r_2) / l_1, model.r_2 / l_1, -1 / l_1, 0],
            [model.r_2 / l_2, -model.r_2 / l_2, 0, 0],
            [1 / c_mes, 0, -1 / (r_es * c_mes), -1 / c_mes],
            [0, 0, 1 / l_ces, 0],
        ]
    )
    return StateSpace(a, np.array([1 / l_1, 0, 0, 0]), np.array([1.0, 0, 0, 0]), 0.0)


def fitted(impedance: Complex, frequency: Real) -> tuple[StateSpace, Complex]:
    """A load like the one with this impedance (Ω) over frequency (Hz), and its own impedance there.

    A resistor where |Z| hardly moves; else a driver's circuit fitted by least squares to magnitude and phase, whose
    parts cannot be negative, so that it is passive whatever comes.
    """
    from scipy.optimize import least_squares

    size = np.abs(impedance)
    if float(size.max()) <= RESISTIVE_WITHIN * float(size.min()):
        ohms = float(np.exp(np.log(size).mean()))
        return of_resistor(ohms), np.full(len(frequency), ohms, np.complex128)
    at = np.linspace(0, len(frequency) - 1, FIT_POINTS).astype(int)
    f, z = frequency[at], impedance[at]
    low = float(size.min())
    guess = typical_driver(low / 0.82)
    start = np.log([low, 85.0, guess.q_ms, guess.q_es, guess.l_1, guess.l_2, guess.r_2])

    def model(x: Real) -> DriverModel:
        r_e, f_s, q_ms, q_es, l_1, l_2, r_2 = (float(v) for v in np.exp(x))
        return DriverModel(r_e=r_e, f_s=f_s, q_ms=q_ms, q_es=q_es, l_1=l_1, l_2=l_2, r_2=r_2)

    def miss(x: Real) -> Real:
        ratio = np.log(driver_impedance(model(x), f) / z)
        return np.concatenate((ratio.real, ratio.imag))

    bounds = (start - 9, start + 9)
    best = model(least_squares(miss, start, bounds=bounds, max_nfev=200).x)
    return of_driver(best), driver_impedance(best, frequency)


def _bilinear(load: StateSpace, step: float) -> tuple[Matrix, Matrix]:
    """The load's states from one sample to the next, by the trapezoidal rule: x' = P·x + q·(v + v')."""
    identity = np.eye(len(load.b))
    half = load.a * step / 2
    inverse = np.linalg.inv(identity - half)
    return np.asarray(inverse @ (identity + half)), np.asarray(inverse @ load.b * step / 2)


def _warm_up(load: StateSpace, z_out: float) -> float:
    """How long (s) what came before is still felt: time constants of the slowest pole, driven through z_out (Ω)."""
    if not len(load.b):
        return 0.0
    closed = load.a - np.outer(load.b, load.c) * z_out / (1 + z_out * load.d)
    slowest = float(-np.linalg.eigvals(closed).real.max())
    return min(MOST_WARM_UP_S, SETTLED_TIME_CONSTANTS / slowest) if slowest > 0 else MOST_WARM_UP_S


def driven(source: Samples, z_out: float, limit: float, load: StateSpace, rate: int) -> Samples:
    """Volts at the jack of a power stage: a source (V, shape (n,), at `rate` Hz) behind `z_out` (Ω) on a load.

    The jack cannot go beyond `limit` (V), softly: v = u/(1 + (u/limit)⁴)^¼ where u is what it would be with the
    current that the load draws. Four times oversampled. Well under the limit it is the linear divider Z/(Z + z_out).
    The sound is cut into pieces that are worked out side by side, each begun early enough for what came before it to
    have died away.
    """
    import soxr

    wide = np.asarray(soxr.resample(source, rate, OVERSAMPLING * rate), np.float64)
    step = 1 / (OVERSAMPLING * rate)
    pieces = max(1, min(SEGMENTS, len(wide) // 64))
    length = -(-len(wide) // pieces)
    early = int(_warm_up(load, z_out) / step)
    padded = np.concatenate((np.zeros(early), wide, np.zeros(pieces * length - len(wide))))
    windows = np.lib.stride_tricks.sliding_window_view(padded, early + length)[::length]
    made = _run(np.ascontiguousarray(windows.T), z_out, limit, load, step)[early:]
    return np.asarray(soxr.resample(made.T.reshape(-1)[: len(wide)], OVERSAMPLING * rate, rate)[: len(source)])


def _run(source: Matrix, z_out: float, limit: float, load: StateSpace, step: float) -> Matrix:
    """The same sample by sample, all pieces (columns) at one time, in parts of the limit."""
    total, pieces = source.shape
    states = len(load.b)
    if not states:
        return _limited(source / (1 + z_out * load.d), limit)
    p, q = _bilinear(load, step)
    through = 1 + z_out * (float(load.c @ q) + load.d)
    felt = np.concatenate((load.c @ p, [float(load.c @ q)])) * z_out / through
    # From states, the volts before and the volts now: the states after it, and what is felt of them then.
    after = np.hstack((p, q[:, None], q[:, None]))
    now = np.zeros((1, states + 2))
    now[0, -1] = 1.0
    onward = np.vstack((after, felt @ np.vstack((after, now))))
    out = np.multiply(source, 1 / (through * limit))
    known, made, bent = np.zeros((states + 2, pieces)), np.zeros((states + 1, pieces)), np.empty(pieces)
    before, volts, drawn = known[states], known[states + 1], made[states]
    for n in range(total):
        u = out[n]
        np.subtract(u, drawn, out=u)
        np.multiply(u, u, out=bent)
        np.multiply(bent, bent, out=bent)
        np.add(bent, 1.0, out=bent)
        np.sqrt(bent, out=bent)
        np.sqrt(bent, out=bent)
        np.divide(u, bent, out=volts)
        u[:] = volts
        np.dot(onward, known, out=made)
        known[:states] = made[:states]
        before[:] = volts
    return np.asarray(out * limit)


def _limited(u: Matrix, limit: float) -> Matrix:
    return np.asarray(u / np.sqrt(np.sqrt(1 + (u / limit) ** 4)))
