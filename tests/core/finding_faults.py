"""Searches played through: who answers, how many tests, and whether the true cause is among the first two."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cached_property

from low_tide.core.fault_finding.causes import Cause
from low_tide.core.fault_finding.chances import Said, Share, after, candidates, offered, ranked
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


@dataclass(frozen=True)
class Searches:
    """Searches in a hook-up for a symptom: where each stands after some answers is worked out once."""

    situation: Situation
    symptom: str
    kept: dict[tuple[tuple[str, Said], ...], tuple[tuple[Share, ...], Probe | None]] = field(default_factory=dict)

    @cached_property
    def before(self) -> tuple[Share, ...]:
        """Causes with their shares before any test."""
        return candidates(self.situation, self.symptom)

    @cached_property
    def probes(self) -> dict[str, Probe]:
        """Tests that can be done."""
        return offered(self.situation, self.symptom, self.before)

    def at(self, answers: tuple[tuple[str, Said], ...]) -> tuple[tuple[Share, ...], Probe | None]:
        """Shares after some answers, and the test that comes next."""
        if answers not in self.kept:
            shares = after(self.before, answers, self.probes)
            best = ranked(self.situation, shares, answers, self.probes)
            self.kept[answers] = shares, best[0][0] if best else None
        return self.kept[answers]


def searches(each: dict[str, Situation]) -> dict[str, list[Searches]]:
    """Searches for every symptom in every hook-up."""
    return {name: [Searches(situation, symptom) for symptom in PUZZLES] for name, situation in each.items()}


def play(
    each: dict[str, list[Searches]], tests: int, answerer: Answerer, wrong: float = 0.0, seed: int = 1
) -> Iterator[Played]:
    """Every cause of every symptom of every hook-up, with so many tests; a part of the answers is wrong."""
    rng = random.Random(seed)
    for name, there in each.items():
        for search in there:
            for share in search.before:
                answers: tuple[tuple[str, Said], ...] = ()
                for _ in range(tests):
                    probe = search.at(answers)[1]
                    if probe is None:
                        break
                    told = answerer(search.situation, share.cause, probe)
                    if told != "unknown" and rng.random() < wrong:
                        told = "no" if told == "yes" else "yes"
                    answers = (*answers, (probe.id, told))
                found = share.cause.id in {s.cause.id for s in search.at(answers)[0][:2]}
                yield Played(name, search.symptom, share.cause.id, share.share, found)


def rate(played: list[Played]) -> float:
    """Part of the faults that were found, each as often as it is met."""
    return sum(p.weight for p in played if p.found) / sum(p.weight for p in played)
