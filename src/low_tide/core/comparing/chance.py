"""How likely a result of listening is by guessing alone."""

from __future__ import annotations

from math import comb


def at_least(right: int, trials: int) -> float:
    """Probability of so many or more of that many trials by tossing a coin: one-sided binomial. 12 of 16: 0.038."""
    return float(sum(comb(trials, k) for k in range(right, trials + 1)) / 2**trials)


def as_far_off(chosen: int, trials: int) -> float:
    """Probability of a preference as far off an even split, either way: two-sided binomial. 12 of 16: 0.077."""
    return min(1.0, 2 * at_least(max(chosen, trials - chosen), trials))
