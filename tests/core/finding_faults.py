"""Searches played through: who answers, how many tests, and whether the true cause is among the first two."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from low_tide.core.fault_finding.causes import Cause
from low_tide.core.fault_finding.chances import Said, after, candidates, offered, ranked
from low_tide.core.fault_finding.probes import Probe
from low_tide.core.fault_finding.situation import Situation
from low_tide.core.fault_finding.symptoms import PUZZLES
from low_tide.core.rig.validation import checked
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from tests.core.faults_by_hand import said

Answerer = Callable[[Situation, Cause, Probe], Said]


@dataclass(frozen=True)
class Played:
    """A search that was played: how much its fault counts, and whether it was found."""

    hookup: str
    symptom: str
    cause: str
    weight: float
    found: bool


def situations(names: tuple[str, ...] = tuple(HOOKUPS)) -> dict[str, Situation]:
    """Hook-ups of the lightship with an amp in them."""
    rigs = {name: Situation(checked(HOOKUPS[name], GEAR)) for name in names}
    return {name: each for name, each in rigs.items() if each.amp}


def by_hand(situation: Situation, cause: Cause, probe: Probe) -> Said:
    """Answers worked out by physics, or written down, apart from the finder's tables."""
    return said(situation, cause, probe)


def by_table(rng: random.Random, disturbed: float = 0.0) -> Answerer:
    """Answers drawn from the finder's own tables, their odds, or the tables themselves, disturbed by a part."""

    def drawn(_: Situation, cause: Cause, probe: Probe) -> Said:
        likely = probe.likely(cause)
        if disturbed:
            odds = likely / (1 - likely) * rng.uniform(1 - disturbed, 1 + disturbed)
            likely = odds / (1 + odds)
        return "yes" if rng.random() < likely else "no"

    return drawn


def play(
    each: dict[str, Situation], tests: int, answerer: Answerer, wrong: float = 0.0, seed: int = 1
) -> Iterator[Played]:
    """Every cause of every symptom of every hook-up, with so many tests; a part of the answers is wrong."""
    rng = random.Random(seed)
    for name, situation in each.items():
        for symptom in PUZZLES:
            before = candidates(situation, symptom)
            probes = offered(situation, symptom, before)
            for share in before:
                answers: list[tuple[str, Said]] = []
                shares = before
                for _ in range(tests):
                    best = ranked(situation, shares, answers, probes)
                    if not best:
                        break
                    told = answerer(situation, share.cause, best[0][0])
                    if told != "unknown" and rng.random() < wrong:
                        told = "no" if told == "yes" else "yes"
                    answers.append((best[0][0].id, told))
                    shares = after(before, answers, probes)
                found = share.cause.id in {s.cause.id for s in shares[:2]}
                yield Played(name, symptom, share.cause.id, share.share, found)


def rate(played: list[Played]) -> float:
    """Part of the faults that were found, each as often as it is met."""
    return sum(p.weight for p in played if p.found) / sum(p.weight for p in played)
