"""A better order by annealing: some of it is taken out and put in again, what was left out tried with it; what comes of
it is kept where it helps, and now and then where it does not.

Counted in steps and drawn from a seed, so the same problem gives the same plan however fast the machine is.
"""

from __future__ import annotations

from collections.abc import Iterator
from math import exp
from random import Random

from low_tide.core.planning.decode import Days, Decoder, worth_of

STEPS, MOST_STEPS = 200, 1_500
STEPS_IN_ALL = 30_000
"""Steps are fewer the more jobs there are, since each costs more."""
TELL_EVERY = 50
HOT, COLD = 10.0, 0.2
"""The first and the last temperature, in plugs moved."""
MOST_OUT, MOST_TRIED = 8, 6
"""How many jobs are taken out in a step, and how many of those that were left out are tried with them."""
BLINK = 0.05
"""How often a good place is not seen."""


class Annealer:
    """Takes out and puts in, by lots."""

    def __init__(self, decoder: Decoder, lots: Random) -> None:
        self.decoder, self.lots = decoder, lots
        self.jobs = decoder.problem.jobs
        self.able = [i for i, starts in enumerate(decoder.problem.starts) if any(starts)]

    def _some(self, days: Days) -> set[int]:
        """Jobs to take out: a stretch of a day, of one set-up, or any."""
        there = [job for day in days for job in day.order]
        if not there:
            return set()
        most = self.lots.randint(1, min(MOST_OUT, len(there)))
        how = self.lots.random()
        if how < 0.45:
            day = self.lots.choice([d for d in days if d.order])
            at = self.lots.randrange(len(day.order))
            return set(day.order[at : at + most])
        if how < 0.75:
            setup = self.jobs[self.lots.choice(there)].setup
            return set([job for job in there if self.jobs[job].setup == setup][:most])
        return set(self.lots.sample(there, most))

    def _with_what_follows(self, days: Days, gone: set[int]) -> set[int]:
        """Some jobs, and those there that come after them."""
        size = 0
        while size != len(gone):
            size = len(gone)
            gone = gone | {i for day in days for i in day.order if gone.intersection(self.jobs[i].after)}
        return gone

    def next_to(self, days: Days) -> Days | None:
        """Days near these."""
        there = {job for day in days for job in day.order}
        gone = self._with_what_follows(days, self._some(days))
        less = self.decoder.days(tuple(tuple(job for job in day.order if job not in gone) for day in days))
        out = [job for job in self.able if job not in there]
        tried = [job for job in out if self.jobs[job].must]
        rest = [job for job in out if not self.jobs[job].must]
        tried += self.lots.sample(rest, min(MOST_TRIED, len(rest)))
        again = sorted(gone | set(tried), key=lambda job: (not self.jobs[job].must, self.lots.random()))
        return None if less is None else self._put_in(less, again)

    def _put_in(self, days: Days, jobs: list[int]) -> Days:
        """Each where it costs least, once everything it comes after is there."""
        there = {job for day in days for job in day.order}
        waiting = list(jobs)
        while True:
            ready = next((j for j in waiting if there.issuperset(self.jobs[j].after)), None)
            if ready is None:
                return days
            waiting.remove(ready)
            found = self._best_place(days, ready)
            if found is not None:
                days = found
                there.add(ready)

    def _best_place(self, days: Days, job: int) -> Days | None:
        best, least = None, 0.0
        for day, place in self.decoder.places(days, job):
            if self.lots.random() < BLINK:
                continue
            made = self.decoder.with_job(days, job, day, place)
            if made is not None and (best is None or cost(made) < least):
                best, least = made, cost(made)
        return best


def cost(days: Days) -> float:
    """What annealing weighs, in plugs."""
    return sum(day.cost for day in days)


def annealed(decoder: Decoder, days: Days, seed: int = 1) -> Iterator[tuple[float, Days]]:
    """Part of it that is done (0 to 1), and the best days so far; begins with those it is given."""
    lots = Random(seed)
    annealer = Annealer(decoder, lots)
    steps = max(STEPS, min(MOST_STEPS, STEPS_IN_ALL // max(1, len(annealer.jobs))))
    now, best, most = cost(days), days, worth_of(days).key
    yield 0.0, best
    for step in range(steps):
        found = annealer.next_to(days)
        if found is not None:
            heat = HOT * (COLD / HOT) ** (step / steps)
            then = cost(found)
            if then <= now or lots.random() < exp((now - then) / heat):
                days, now = found, then
                if worth_of(found).key < most:
                    best, most = found, worth_of(found).key
        if step % TELL_EVERY == TELL_EVERY - 1:
            yield (step + 1) / steps, best
    yield 1.0, best
