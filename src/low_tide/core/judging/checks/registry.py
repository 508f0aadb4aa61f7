"""Where checks are registered, once; the run, the schema and the docs all read this list."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property

from low_tide.core.circuit.network import Network, NetworkError
from low_tide.core.judging.findings import RANK, Finding
from low_tide.core.loudness.sound_level import Heard, Phones, Sounding, heard, phones, soundings
from low_tide.core.power.shares import Seen, Share, seen_by, shares, switched_shares
from low_tide.core.power.speaker_network import nominal_network
from low_tide.core.power.worst_case import Reached, reached
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import Change
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.graph import SignalGraph
from low_tide.core.signal_path.levels import InPoint, Levels, LinePoint


@dataclass(frozen=True)
class Case:
    """Everything a check may look at: the rig, the schools, and the nominal network's results.

    `live_changes`: what is about to be changed while the amp is on; empty for a hook-up that is only looked at.
    """

    rig: Rig
    preferences: Preferences
    live_changes: tuple[Change, ...] = ()

    @cached_property
    def network(self) -> Network:
        return nominal_network(self.rig)

    @cached_property
    def seen(self) -> tuple[Seen, ...]:
        """What outputs see; a tap that nothing real hangs on, while its amp works on another, is left out."""
        return tuple(s for s in seen_by(self.rig) if not s.idle)

    @cached_property
    def shares(self) -> tuple[Share, ...]:
        return shares(self.rig)

    @cached_property
    def switched_shares(self) -> tuple[Share, ...]:
        return switched_shares(self.rig)

    @cached_property
    def reached(self) -> tuple[Reached, ...]:
        return reached(self.rig)

    @cached_property
    def signal(self) -> SignalGraph:
        return SignalGraph(self.rig, self.network)

    @cached_property
    def levels(self) -> Levels:
        return Levels(self.signal)

    @cached_property
    def inputs(self) -> tuple[InPoint, ...]:
        return self.levels.inputs

    @cached_property
    def soundings(self) -> tuple[Sounding, ...]:
        return soundings(self.rig)

    @cached_property
    def heard(self) -> tuple[Heard, ...]:
        return heard(self.rig)

    @cached_property
    def phones(self) -> tuple[Phones, ...]:
        return phones(self.rig)

    @cached_property
    def line_points(self) -> tuple[LinePoint, ...]:
        return self.levels.line_points


Run = Callable[[Case], Iterable[Finding]]


@dataclass(frozen=True)
class Check:
    """One rule: its id, its family, what makes it fire in one sentence, and the function.

    `speaker_side`: it reads leads and speaker side alone, so its findings stay while those stay as they are.
    """

    id: str
    family: str
    when: str
    run: Run
    speaker_side: bool


REGISTRY: dict[str, Check] = {}


SPEAKER_SIDE_FAMILIES = frozenset({"No or wrong load", "One movement away", "Match", "Power", "Leads"})


def check(id: str, family: str, when: str, reads_signal: bool = False) -> Callable[[Run], Run]:
    """Register a check under its id. `reads_signal`: it follows signal paths, whatever its family.

    A second one of the same id raises ValueError.
    """

    def register(run: Run) -> Run:
        if id in REGISTRY:
            raise ValueError(f"check {id} is registered twice")
        REGISTRY[id] = Check(id, family, when, run, family in SPEAKER_SIDE_FAMILIES and not reads_signal)
        return run

    return register


def run_all(case: Case, same_speaker_side: tuple[Finding, ...] | None = None) -> tuple[Finding, ...]:
    """Every finding of every check, worst first, then in the order of registration.

    `same_speaker_side`: findings about a rig with the same leads and speaker side; those that rest on nothing
    else are taken over. A check that meets a network without a solution says so, and what cannot be computed
    counts as "check first"; it never takes what the other checks found away.
    """
    found: list[Finding] = []
    failed: list[str] = []
    for each in REGISTRY.values():
        if same_speaker_side is not None and each.speaker_side:
            found += [f for f in same_speaker_side if f.id == each.id]
            continue
        try:
            found += each.run(case)
        except NetworkError as error:
            failed.append(f"{each.id}: {error}")
    if failed:
        found.append(
            Finding(
                "cannot-compute",
                "caution",
                "Not everything about this hook-up can be computed.",
                f"{'; '.join(failed)}. Take it back to something simpler.",
                tuple(u for u, _ in case.rig.units()),
            )
        )
    return tuple(sorted(found, key=lambda f: -RANK[f.severity]))
