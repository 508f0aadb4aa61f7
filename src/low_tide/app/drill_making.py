"""Making the next question: which card, of which kind, how hard, and from what."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from random import Random

from low_tide.app.drill_documents import Question
from low_tide.app.locker import all_gear
from low_tide.app.preferences import preferences
from low_tide.core.drills.bases import Stock, stock
from low_tide.core.drills.cards import CARDS, Card, KindId
from low_tide.core.drills.ears import ear
from low_tide.core.drills.ordering import ORDERS
from low_tide.core.drills.questions import about_hookup
from low_tide.core.drills.rating import level_of
from low_tide.core.drills.sums import NUMBERS
from low_tide.core.inventory import Amp, Attenuator, Cabinet, Interface, Lead, Load, ReAmp
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import Hookup
from low_tide.core.rig.rig import GearById
from low_tide.formats.documents import load_hookup
from low_tide.formats.sentences import FormatError
from low_tide.store import hookups
from low_tide.store.database import remembered
from low_tide.store.drills import CardRecord, DrillRecord

OF_A_HOOKUP: tuple[KindId, ...] = ("spot", "may", "mend", "order", "level")


@dataclass(frozen=True)
class Material:
    """What drills may be made from: gear and hook-ups by id."""

    gear: GearById
    hookups: Mapping[str, Hookup]


@remembered("gear", "hookup", "revision", "preference")
def own_stock() -> Stock:
    """One's own locker and hook-ups."""
    return stock(dict(all_gear()), dict(_own_hookups()), preferences())


def _own_hookups() -> Iterator[tuple[str, Hookup]]:
    for row in hookups.listed():
        revision = hookups.revision(row.id, row.current)
        if revision is None or row.pinned:
            continue
        try:
            yield row.id, load_hookup(revision.doc)
        except FormatError:
            continue


_of_others: dict[Preferences, Stock] = {}
"""What is made of gear that nobody edits, by the schools it is judged by."""


def gear_of(source: str, lightship: Material) -> GearById:
    """The gear of a source."""
    return all_gear() if source == "own" else lightship.gear


def stock_of(source: str, lightship: Material) -> Stock:
    """What a source's drills are made from."""
    if source == "own":
        return own_stock()
    schools = preferences()
    if schools not in _of_others:
        _of_others.clear()
        _of_others[schools] = stock(lightship.gear, lightship.hookups, schools)
    return _of_others[schools]


def lacks(kind: KindId, gear: GearById) -> str:
    """What a kind of question misses in a locker, as a sentence; empty where nothing is."""
    if kind not in OF_A_HOOKUP:
        return ""
    there = [g for g in gear.values() if not g.archived]
    wanted: list[str] = []
    if not any(isinstance(g, Amp) for g in there):
        wanted.append("an amp")
    if not any(isinstance(g, Load | Attenuator | ReAmp | Cabinet) for g in there):
        wanted.append("a load box, an attenuator or a cabinet")
    if not any(isinstance(g, Lead) and g.construction == "speaker" for g in there) and not any(
        isinstance(g, Cabinet) and g.own_lead for g in there
    ):
        wanted.append("a speaker lead")
    if kind == "level" and not any(isinstance(g, Interface) for g in there):
        wanted.append("an interface")
    return f"It takes {_listed(wanted)}, and there is none in the locker." if wanted else ""


def _listed(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def made(kind: KindId, card: str, of: Stock, level: int, lots: Random) -> Question | None:
    """A question; None where what is owned cannot be asked so."""
    plain = Question(kind, card, level, of.preferences)
    if kind == "number":
        return replace(plain, sum=NUMBERS[card].make(of.gear, of.preferences, level, lots))
    if kind == "order":
        ordering = next(ORDERS[card].make(of, lots), None)
        return replace(plain, ordering=ordering) if ordering else None
    if kind == "ear":
        pair = ear(card, of.gear, level, lots)
        return replace(plain, ear=pair) if pair else None
    about = about_hookup(kind, card, of, level, lots)
    return replace(plain, hookup=about) if about else None


def in_turn(
    kinds: Iterable[str], asked: list[DrillRecord], cards: Mapping[str, CardRecord], now: str, lots: Random
) -> Iterator[tuple[Card, KindId, int]]:
    """Cards to ask for, the best first, each with its kind and how hard: what is due, then what is new, then what comes
    due soonest; a kind that was asked less in this sitting comes before one that was asked more."""
    wanted = set(kinds)
    often = Counter(d.kind for d in asked)
    done = Counter(d.card for d in asked)
    able = [(card, [k for k in card.kinds if k in wanted]) for card in CARDS.values()]
    able = [(card, its) for card, its in able if its]
    drawn = lots.sample(able, len(able))

    def order(entry: tuple[Card, list[KindId]]) -> tuple[object, ...]:
        card, its = entry
        known = cards.get(card.id)
        due = known is not None and known.due <= now
        group = 0 if due else 1 if known is None else 2
        return done[card.id], group, min(often[k] for k in its), known.due if known else ""

    for card, its in sorted(drawn, key=order):
        least = min(often[k] for k in its)
        kind = lots.choice([k for k in its if often[k] == least])
        known = cards.get(card.id)
        level = level_of(known.in_a_row if known else 0)
        yield card, kind, level
        for other in its:
            if other != kind:
                yield card, other, level
