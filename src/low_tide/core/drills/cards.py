"""What can be learned, a card each, and the kinds of question that ask for it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeAlias

from low_tide.core.drills.mistakes import MISTAKES, Mistake
from low_tide.core.drills.ordering import ORDERS
from low_tide.core.drills.sums import NUMBERS
from low_tide.core.judging.findings import RANK

KindId: TypeAlias = Literal["spot", "may", "mend", "number", "order", "level", "ear"]


@dataclass(frozen=True)
class Kind:
    """A kind of question: what it is called, and what one does."""

    id: KindId
    name: str
    does: str


KINDS: dict[KindId, Kind] = {
    kind.id: kind
    for kind in (
        Kind("spot", "Point at the fault", "One unit or lead is not as it should be."),
        Kind("may", "May it be switched on?", "Clear, check first or do not, and why."),
        Kind("mend", "Mend it", "One change of one hand makes it sound."),
        Kind("number", "A number", "Ohms, watts, decibels, hours, in the head."),
        Kind("order", "In order", "Steps as they must follow each other."),
        Kind("level", "Set the level", "Peaks into the window, without a meter."),
        Kind("ear", "By ear", "Two sounds: which is the one?"),
    )
}


@dataclass(frozen=True)
class Card:
    """Something to know: its name, the rule in one sentence, the section of the physics, and who asks for it."""

    id: str
    name: str
    rule: str
    page: str
    kinds: tuple[KindId, ...]


LEVEL_CARD = Card(
    "level-window",
    "The level window",
    "Peaks lie between −18 and −6 dBFS, by turning up early in the line and down late.",
    "up-to-the-converter",
    ("level",),
)
EARS = (
    Card(
        "ear-resistor",
        "Resistor or speaker",
        "A resistor has no resonance and no rise: the amp gives it less bottom and less bite.",
        "what-a-load-does-to-the-sound",
        ("ear",),
    ),
    Card(
        "ear-three-decibels",
        "Three decibels",
        "Half the power is 3 dB: heard beside each other a step, and by itself hardly anything.",
        "power-and-margin",
        ("ear",),
    ),
    Card(
        "ear-out-of-phase",
        "Out of phase",
        "Two sounds of one speaker against each other take the bottom out and leave something hollow.",
        "impulse-responses-and-blends",
        ("ear",),
    ),
    Card(
        "ear-loop-hum",
        "The hum of a loop",
        "A loop hums at the mains and its harmonics, and stays when nobody plays.",
        "hum",
        ("ear",),
    ),
)


def _asked_by(mistake: Mistake) -> tuple[KindId, ...]:
    shown: tuple[KindId, ...] = ("spot", "mend") if mistake.shows else ()
    return (*shown, "may") if RANK[mistake.least] >= RANK["caution"] else shown


def _of_mistakes() -> tuple[Card, ...]:
    return tuple(Card(each.id, each.name, each.rule, each.page, _asked_by(each)) for each in MISTAKES.values())


CARDS: dict[str, Card] = {
    card.id: card
    for card in (
        *_of_mistakes(),
        *(Card(n.id, n.name, n.rule, n.page, ("number",)) for n in NUMBERS.values()),
        *(Card(o.id, o.name, o.rule, o.page, ("order",)) for o in ORDERS.values()),
        LEVEL_CARD,
        *EARS,
    )
}
"""Every card by its id: mistakes, numbers, orders, the level window, what one hears."""
