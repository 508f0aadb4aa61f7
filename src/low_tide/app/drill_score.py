"""The score: by kind with its interval, over the sittings, how quick one is, what is due; and all of it as CSV."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median

from low_tide.app.drill_making import Material, gear_of, lacks
from low_tide.app.drills import SOURCES, moment
from low_tide.core.drills.cards import CARDS, KINDS
from low_tide.core.drills.mistakes import MISTAKES
from low_tide.core.drills.rating import LONGEST_S, PartRight, share, usual_time
from low_tide.formats.tables import write_csv
from low_tide.store import drills
from low_tide.store.database import database
from low_tide.store.drills import DrillRecord


@dataclass(frozen=True)
class KindScore:
    """A kind of question: how many of its cards are due, the part that was right with where it truly lies, one's usual
    time (s, None while there are few). `lacks`: by source, what it misses there, empty where nothing."""

    id: str
    name: str
    does: str
    due: int
    score: PartRight | None
    usual: float | None
    lacks: dict[str, str]


@dataclass(frozen=True)
class CardScore:
    """A card: its kinds, what gear it wants, in words, its score, and when it comes again, empty for a new one."""

    id: str
    name: str
    kinds: tuple[str, ...]
    wants: str
    score: PartRight | None
    due: str
    is_due: bool


@dataclass(frozen=True)
class SittingScore:
    """A sitting: when, how many were right, with the interval, and the median time (s)."""

    id: int
    at: str
    score: PartRight
    seconds: float | None


@dataclass(frozen=True)
class DrillsState:
    """All there is of drills. `open`: the sitting that has not ended. `set_back`: the clock stands before an answer."""

    kinds: tuple[KindScore, ...]
    cards: tuple[CardScore, ...]
    sittings: tuple[SittingScore, ...]
    due: int
    due_next: str
    answered: int
    open: int | None
    sources: dict[str, str]
    source: str
    set_back: str


def _share(answers: list[DrillRecord]) -> PartRight | None:
    return share(sum(bool(d.is_right) for d in answers), len(answers))


def state(lightship: Material) -> DrillsState:
    """What the Drills section shows first."""
    answers, cards, now = drills.answered(), drills.cards(), moment()
    last = max((d.answered or "" for d in answers), default="")
    day = max(now, last)
    gear = {source: gear_of(source, lightship) for source in SOURCES}
    due = {id for id, card in cards.items() if card.due <= day and id in CARDS}
    open_one = drills.open_sitting()
    return DrillsState(
        kinds=tuple(
            KindScore(
                kind.id,
                kind.name,
                kind.does,
                sum(kind.id in CARDS[id].kinds for id in due),
                _share([d for d in answers if d.kind == kind.id]),
                usual_time(d.seconds for d in answers if d.kind == kind.id and d.is_right and d.seconds is not None),
                {source: lacks(kind.id, gear[source]) for source in SOURCES},
            )
            for kind in KINDS.values()
        ),
        cards=tuple(
            CardScore(
                card.id,
                card.name,
                card.kinds,
                MISTAKES[card.id].wants if card.id in MISTAKES else "",
                _share([d for d in answers if d.card == card.id]),
                cards[card.id].due if card.id in cards else "",
                card.id in due,
            )
            for card in CARDS.values()
        ),
        sittings=_sittings(answers),
        due=len(due),
        due_next=min((c.due for id, c in cards.items() if id not in due and id in CARDS), default=""),
        answered=len(answers),
        open=open_one.id if open_one else None,
        sources=SOURCES,
        source=open_one.source if open_one else "lightship" if lacks("spot", gear["own"]) else "own",
        set_back=_set_back(now, last),
    )


def _set_back(now: str, last: str) -> str:
    if now >= last:
        return ""
    return (
        f"The clock stands before the last answer ({last[:10]}): until it has passed that, answers count as given then."
    )


def _sittings(answers: list[DrillRecord]) -> tuple[SittingScore, ...]:
    by: dict[int, list[DrillRecord]] = {}
    for each in answers:
        by.setdefault(each.sitting, []).append(each)
    found = []
    for id, its in by.items():
        part = _share(its)
        times = [d.seconds for d in its if d.seconds is not None and d.seconds <= LONGEST_S]
        if part is not None:
            found.append(SittingScore(id, its[0].answered or "", part, median(times) if times else None))
    return tuple(found)


COLUMNS = ("answered", "sitting", "kind", "card", "level", "right", "hint", "seconds", "counts", "once_more")


def table() -> str:
    """Every answer as CSV, in the order they were given."""
    return write_csv(COLUMNS, (_cells(each) for each in drills.answered()))


def _cells(d: DrillRecord) -> tuple[object, ...]:
    name = CARDS[d.card].name if d.card in CARDS else d.card
    kind = KINDS[d.kind].name if d.kind in KINDS else d.kind
    return d.answered, d.sitting, kind, name, d.level, d.is_right, d.hint, d.seconds, d.rating, d.once_more


def reset() -> None:
    """Forget every sitting, answer and card."""
    with database.atomic():
        drills.forget()
