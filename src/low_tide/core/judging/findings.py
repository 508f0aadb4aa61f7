"""Findings, severities and the verdict."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal, TypeAlias

from low_tide.core.rig.changes import Change

Severity: TypeAlias = Literal["stop", "caution", "note", "fine"]

RANK: dict[str, int] = {"fine": 0, "note": 1, "caution": 2, "stop": 3}

VERDICTS: dict[str, str] = {
    "stop": "Do not switch on",
    "caution": "Check first",
    "note": "Clear to switch on",
    "fine": "Clear to switch on",
}


@dataclass(frozen=True)
class Fix:
    """A change that the program can make: what its button says, and what it does."""

    label: str
    changes: tuple[Change, ...]


@dataclass(frozen=True)
class SchoolView:
    """What one school says of a finding."""

    name: str
    severity: Severity


@dataclass(frozen=True)
class School:
    """The school a finding rests on, and the word of the others."""

    question: str
    chosen: str
    others: tuple[SchoolView, ...]


@dataclass(frozen=True, kw_only=True)
class Finding:
    """What one check says about a hook-up.

    `fixes` are best first: as a check proposes them, or, after `judge.with_fixes`, only those that mend it
    without making anything as bad elsewhere; `fix` is then the first. `sought`: fixes for it are still to be tried.
    `scenes`: those it was found in, where the hook-up as it stands has it not.
    `typical` lists estimates it rests on. `which` tells apart what one check finds about the same units. `key` names
    what was found, numbers and all: an accepted caution holds only while it stays the same.
    """

    id: str
    severity: Severity
    text: str
    reason: str
    units: tuple[str, ...] = ()
    leads: tuple[str, ...] = ()
    school: School | None = None
    fix: Fix | None = None
    fixes: tuple[Fix, ...] = ()
    typical: tuple[str, ...] = ()
    which: str = ""
    scenes: tuple[str, ...] = ()
    sought: bool = False
    key: str = field(init=False, default="")

    def __post_init__(self) -> None:
        key = "|".join((self.id, ",".join(self.units), ",".join(self.leads), self.text))
        object.__setattr__(self, "key", key)


@dataclass(frozen=True)
class Verdict:
    """The worst finding, in words; `remark` says what is left to do about it."""

    severity: Severity
    words: str
    stops: int
    cautions: int
    remark: str

    @property
    def exit_code(self) -> int:
        """0 clear, 1 caution, 2 stop."""
        return max(0, RANK[self.severity] - 1)


def verdict(findings: tuple[Finding, ...]) -> Verdict:
    """The verdict over all findings."""
    worst: Severity = max((f.severity for f in findings), key=lambda s: RANK[s], default="fine")
    count = {s: sum(f.severity == s for f in findings) for s in RANK}
    return Verdict(worst, VERDICTS[worst], count["stop"], count["caution"], _remark(count["stop"], count["caution"]))


def counted(findings: Iterable[Finding]) -> str:
    """'2 cautions, 1 note': how many of each, the worst first; what is fine only where there is nothing else."""
    count = dict.fromkeys(sorted(RANK, key=lambda s: -RANK[s]), 0)
    for each in findings:
        count[each.severity] += 1
    said = [f"{n} {s}{'' if n == 1 else 's'}" for s, n in count.items() if n and s != "fine"]
    return ", ".join(said) or ("nothing to mend" if count["fine"] else "")


def _remark(stops: int, cautions: int) -> str:
    def many(n: int, word: str) -> str:
        return f"{n} {word}{'' if n == 1 else 's'}"

    if stops:
        return f"{many(stops, 'stop')}{', ' + many(cautions, 'caution') if cautions else ''} to clear first"
    return f"{many(cautions, 'caution')} to look at first" if cautions else "every check that applies is content"
