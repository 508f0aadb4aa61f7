"""Attenuator arms."""

from __future__ import annotations

from math import inf


def l_pad(attenuation_db: float, impedance: float) -> tuple[float, float]:
    """Series and shunt arm (Ω) of an L-pad of `attenuation_db` into its rated `impedance` (Ω).

    R1 = Z·(K−1)/K in series, R2 = Z/(K−1) across the speaker, K = 10^(A/20): constant input resistance
    when the speaker is Z. 0 dB gives (0, inf). A negative attenuation raises ValueError.
    """
    if attenuation_db < 0:
        raise ValueError("attenuation_db must not be negative")
    k = 10 ** (attenuation_db / 20)
    if k == 1:  # also for dB too few for a number to hold
        return 0.0, inf
    return impedance * (k - 1) / k, impedance / (k - 1)
