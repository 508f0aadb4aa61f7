"""Where checks are registered, once; the run, the schema and the docs all read this list."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Literal, TypeAlias

from low_tide.core.circuit.network import Network, NetworkError
from low_tide.core.judging.findings import RANK, Finding
from low_tide.core.loudness.sound_level import Phones, Sounding, SoundLevel, levels_as_set, phones, soundings
from low_tide.core.power.shares import Seen, Share, seen_by, shares, switched_shares
from low_tide.core.power.speaker_network import nominal_network
from low_tide.core.power.worst_case import Reached, reached
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import Change
from low_tide.core.rig.doubts import doubt_in_words, doubted
from low_tide.core.rig.kept import ASPECTS, Aspect, Result
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.graph import SignalGraph, signal_graph
from low_tide.core.signal_path.levels import InPoint, Levels, LinePoint, levels


@dataclass(frozen=True)
class Case:
    """Everything a check may look at: the rig, the schools, and the nominal network's results.

    `live_changes`: what is about to be changed while the amp is on; empty for a hook-up that is only looked at.
    """

    rig: Rig
    preferences: Preferences
    live_changes: tuple[Change, ...] = ()

    @property
    def network(self) -> Network:
        """The nominal speaker network."""
        return nominal_network(self.rig)

    @property
    def seen(self) -> tuple[Seen, ...]:
        """What outputs see; a tap that nothing real hangs on, while its amp works on another, is left out."""
        return tuple(s for s in seen_by(self.rig) if not s.idle)

    @property
    def shares(self) -> tuple[Share, ...]:
        """Who takes how much, at the worst that turning reaches."""
        return shares(self.rig)

    @property
    def switched_shares(self) -> tuple[Share, ...]:
        """The same with one switch of another kind moved besides."""
        return switched_shares(self.rig)

    @property
    def reached(self) -> tuple[Reached, ...]:
        """All states of every speaker network that a hand can reach."""
        return reached(self.rig)

    @property
    def signal_paths(self) -> SignalGraph:
        """Where signal goes."""
        return signal_graph(self.rig)

    @property
    def levels(self) -> Levels:
        """Peak levels along the signal paths."""
        return levels(self.rig)

    @property
    def inputs(self) -> tuple[InPoint, ...]:
        """Levels at all inputs for a signal."""
        return self.levels.inputs

    @property
    def line_points(self) -> tuple[LinePoint, ...]:
        """Levels at the inputs of interfaces."""
        return self.levels.line_points

    @property
    def soundings(self) -> tuple[Sounding, ...]:
        """Cabinets that are driven, and how loud at 1 m."""
        return soundings(self.rig)

    @property
    def sound_levels(self) -> tuple[SoundLevel, ...]:
        """What is heard at every place."""
        return levels_as_set(self.rig)

    @property
    def phones(self) -> tuple[Phones, ...]:
        """Headphones that are plugged in, and how loud they can get."""
        return phones(self.rig)


Look: TypeAlias = Literal[
    "network",
    "seen",
    "shares",
    "switched_shares",
    "reached",
    "signal_paths",
    "levels",
    "inputs",
    "line_points",
    "soundings",
    "sound_levels",
    "phones",
]
"""What of a case is worked out from its rig, by the name it has there."""

RESTS_ON: Mapping[Look, Result[object]] = {
    "network": nominal_network,
    "seen": seen_by,
    "shares": shares,
    "switched_shares": switched_shares,
    "reached": reached,
    "signal_paths": signal_graph,
    "levels": levels,
    "inputs": levels,
    "line_points": levels,
    "soundings": soundings,
    "sound_levels": levels_as_set,
    "phones": phones,
}

Run: TypeAlias = Callable[[Case], Iterable[Finding]]
ByPreferences: TypeAlias = dict[Preferences, tuple[Finding, ...]]


@dataclass(frozen=True)
class Check:
    """One rule: its id, its family, what makes it fire in one sentence, and the function.

    `may_stop`: what it finds may be a stop; of any other it is a caution at the worst. `findings`: what it found about
    a rig, kept as long as nothing changes of what it reads. `asks`: fields of a unit's record that it wants to know.
    """

    id: str
    family: str
    when: str
    run: Run
    may_stop: bool
    findings: Result[ByPreferences]
    asks: tuple[str, ...] = ()

    def about(self, case: Case) -> tuple[Finding, ...]:
        """What it finds. Raises NetworkError."""
        if case.live_changes:
            return tuple(self.run(case))
        found = self.findings(case.rig)
        if case.preferences not in found:
            found[case.preferences] = tuple(self.run(case))
        return found[case.preferences]


REGISTRY: dict[str, Check] = {}


def check(
    id: str,
    family: str,
    when: str,
    reads: tuple[Aspect | Look, ...],
    may_stop: bool = False,
    asks: tuple[str, ...] = (),
) -> Callable[[Run], Run]:
    """Register a check under its id.

    `reads`: what it looks at of the case, beside preferences and gear: aspects of the rig, or what is worked out of
    it. Its findings are used again as long as nothing of that changes. `asks`: fields of a unit's record that may be
    what it misses. A second one of an id raises ValueError.
    """
    rests_on = ASPECTS.intersection(reads).union(*(RESTS_ON[each].reads for each in RESTS_ON if each in reads))

    def register(run: Run) -> Run:
        if id in REGISTRY:
            raise ValueError(f"check {id} is registered twice")
        run.__doc__ = run.__doc__ or when
        REGISTRY[id] = Check(id, family, when, run, may_stop, Result(_nothing_yet, rests_on), asks)
        return run

    return register


def _nothing_yet(rig: object) -> ByPreferences:
    return {}


def run_all(case: Case, only_stops: bool = False) -> tuple[Finding, ...]:
    """Every finding of every check, worst first, then in the order of registration.

    A check that meets a network without a solution says so, and what cannot be computed counts as "check first"; it
    never takes what the other checks found away. Where a rig is doubted, what is found of it in any way it may be
    counts, at its worst. `only_stops`: of the checks that may find one.
    """
    found = _run(case, only_stops)
    for there in doubted(case.rig):
        found = _at_worst(found, _run(replace(case, rig=there), only_stops), doubt_in_words(there))
    return tuple(sorted(found, key=lambda f: -RANK[f.severity]))


def _about(finding: Finding) -> tuple[object, ...]:
    return finding.id, finding.units, finding.leads, finding.which


def _at_worst(found: list[Finding], doubted_ones: list[Finding], doubt: str) -> list[Finding]:
    """Findings with those of a doubted rig that are a caution or a stop and worse than what is said of the same."""
    ranks: dict[object, int] = {}
    for each in found:
        ranks[_about(each)] = max(RANK[each.severity], ranks.get(_about(each), 0))
    worse = [
        f for f in doubted_ones if RANK[f.severity] >= RANK["caution"] and RANK[f.severity] > ranks.get(_about(f), 0)
    ]
    about = {_about(f) for f in worse}
    kept = [f for f in found if _about(f) not in about or f.severity == "note"]
    return kept + [replace(f, reason=f"That is if {doubt}, which nobody knows. {f.reason}") for f in worse]


def _run(case: Case, only_stops: bool) -> list[Finding]:
    found: list[Finding] = []
    failed: list[str] = []
    for each in REGISTRY.values():
        if only_stops and not each.may_stop:
            continue
        try:
            found += each.about(case)
        except NetworkError as error:
            failed.append(f"{each.id}: {error}")
    if failed:
        found.append(
            Finding(
                id="cannot-compute",
                severity="caution",
                text="Not everything about this hook-up can be computed.",
                reason=f"{'; '.join(failed)}. Take it back to something simpler.",
                units=tuple(u for u, _ in case.rig.units()),
            )
        )
    return found
