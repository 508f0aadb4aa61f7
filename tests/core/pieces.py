"""Pieces played on strings that nobody recorded: notes drawn by lot, each performance with timing of its own."""

from __future__ import annotations

import numpy as np

from low_tide.core.audio.rendering import Samples, picked_up, pluck
from low_tide.core.comparing.aligning import RATE

NOISE_DBFS = -70.0


def piece(seconds: float, notes: int, performance: int = 0, jitter: float = 0.0) -> Samples:
    """So many seconds at 48 kHz, peaks at 1. `notes` and `performance` are seeds; `jitter`: timing, s RMS."""
    score, hand = np.random.default_rng(notes), np.random.default_rng(10_000 + performance)
    whole, at = np.zeros(round((seconds + 3) * RATE)), 0.5
    while at < seconds - 0.5:
        start = round((at + hand.normal() * jitter) * RATE)
        string = pluck(82.4 * 2 ** (score.integers(0, 30) / 12), 1.5, hand)
        whole[start : start + len(string)] += string * (0.5 + hand.random() / 2)
        at += 0.3 * (1 + score.integers(0, 3) * 0.5)
    return picked_up(whole[: round(seconds * RATE)])


def noisy(samples: Samples, snr: float, seed: int = 1) -> Samples:
    """With white noise so many dB under it."""
    noise = np.random.default_rng(seed).normal(size=len(samples))
    return samples + noise * np.sqrt(np.square(samples).mean()) * 10 ** (-snr / 20)


def taken(samples: Samples, seed: int, noise: float = NOISE_DBFS) -> Samples:
    """As a take is: two quiet seconds on either side, and noise (dBFS) over all."""
    silence = np.zeros(2 * RATE)
    whole = np.concatenate((silence, samples * 0.3, silence))
    return whole + np.random.default_rng(seed).normal(size=len(whole)) * 10 ** (noise / 20)
