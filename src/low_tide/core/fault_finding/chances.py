"""How likely each cause is after what was answered, and which test tells most for its effort.

Naive Bayes: answers are taken as independent of each other once the cause is given. The next test is the one with the
greatest expected drop of entropy per effort (as in decision-theoretic troubleshooting: Heckerman, Breese and Rommelse,
1995).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, TypeAlias

import numpy as np

from low_tide.core.fault_finding.causes import CAUSES, Cause
from low_tide.core.fault_finding.probes import HALVING, OWN, Probe
from low_tide.core.fault_finding.situation import Situation
from low_tide.core.frequency import Real

Said: TypeAlias = Literal["yes", "no", "unknown"]
Answers: TypeAlias = Sequence[tuple[str, Said]]
"""Ids of probes with what was answered, in order."""

MOST_CAUSES = 12
"""So many plausible causes a symptom; what is left over is less likely than all of them."""
FOUND_BY_A_CHECK = {"stop": 6.0, "caution": 4.0, "note": 1.5, "fine": 1.0}
"""So much likelier a cause is that a check tells of in this very hook-up, by how grave it is."""
PRIOR_WEIGHT = 12.0
"""What is usual counts as much as so many cases of one's own."""


@dataclass(frozen=True)
class Share:
    """A cause and how much of the likelihood it has, 0 to 1."""

    cause: Cause
    share: float


def candidates(
    situation: Situation, symptom: str, set_aside: Sequence[str] = (), counts: Mapping[str, int] | None = None
) -> tuple[Share, ...]:
    """Causes that can be there and show the symptom, the likeliest first, with their shares before any test.

    `set_aside`: those that were mended and were not it. `counts`: how often each was found in this studio.
    """
    counts = counts or {}
    usual = sum(cause.prior for cause in CAUSES.values())
    found = []
    for cause in CAUSES.values():
        shows = cause.symptoms.get(symptom, 0.0)
        if shows <= 0 or cause.id in set_aside or not cause.there(situation):
            continue
        prior = PRIOR_WEIGHT * cause.prior / usual + counts.get(cause.id, 0)
        told = max((FOUND_BY_A_CHECK[f.severity] for c in cause.checks if (f := situation.found.get(c))), default=1.0)
        found.append((prior * shows * told, cause))
    best = sorted(found, key=lambda each: (-each[0], each[1].id))[:MOST_CAUSES]
    whole = sum(weight for weight, _ in best)
    return tuple(Share(cause, weight / whole) for weight, cause in best)


def after(shares: Sequence[Share], answers: Answers, probes: Mapping[str, Probe]) -> tuple[Share, ...]:
    """Shares after what was answered, the likeliest first; “unknown” changes nothing."""
    if not shares:
        return ()
    weight = np.log([max(s.share, 1e-300) for s in shares])
    for probe_id, said in answers:
        probe = probes.get(probe_id)
        if probe is None or said == "unknown":
            continue
        likely = np.array([probe.likely(s.cause) for s in shares])
        weight += np.log(likely if said == "yes" else 1 - likely)
    part = np.exp(weight - weight.max())
    part /= part.sum()
    pairs = sorted(zip(part.tolist(), shares, strict=True), key=lambda each: (-each[0], each[1].cause.id))
    return tuple(Share(s.cause, p) for p, s in pairs)


def _entropy(part: Real) -> float:
    there = part[part > 0]
    return float(-(there * np.log2(there)).sum())


def drop(shares: Sequence[Share], probe: Probe) -> float:
    """By how much a test is expected to lower the entropy of the causes, in bit; never under 0."""
    part = np.array([s.share for s in shares])
    likely = np.array([probe.likely(s.cause) for s in shares])
    yes = float(part @ likely)
    if not 0 < yes < 1:
        return 0.0
    left = yes * _entropy(part * likely / yes) + (1 - yes) * _entropy(part * (1 - likely) / (1 - yes))
    return max(0.0, _entropy(part) - left)


def offered(situation: Situation, symptom: str, shares: Sequence[Share]) -> dict[str, Probe]:
    """Every test that can be done in this hook-up and is about this symptom or one of these causes."""
    halving = {p.id: p for p in HALVING if (not p.symptoms or symptom in p.symptoms) and p.there(situation)}
    return halving | {OWN[s.cause.id].id: OWN[s.cause.id] for s in shares}


def ranked(
    situation: Situation, shares: Sequence[Share], answers: Answers, probes: Mapping[str, Probe]
) -> tuple[tuple[Probe, float], ...]:
    """Tests not done yet, by expected drop of entropy per effort, the best first, each with its drop (bit)."""
    done = {probe_id for probe_id, _ in answers}
    found = [(probe, drop(shares, probe)) for probe in probes.values() if probe.id not in done]
    useful = [each for each in found if each[1] > 1e-3]
    return tuple(sorted(useful, key=lambda each: (-each[1] / each[0].effort(situation), each[0].id)))
