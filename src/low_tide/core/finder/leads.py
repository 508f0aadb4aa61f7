"""Which lead joins two sockets: the best one that is free, or the one that would have to be there."""

from __future__ import annotations

from itertools import count
from typing import Literal

from low_tide.core.gear.base import CONNECTOR_NAMES, Connector, Socket
from low_tide.core.inventory import Lead
from low_tide.core.rig.rig import GearById, Rig
from low_tide.core.rig.validation import fits

CONSTRUCTION: dict[str, Literal["speaker", "screened", "balanced", "optical"]] = {
    "speaker": "speaker",
    "line": "balanced",
    "instrument": "screened",
    "microphone": "balanced",
    "phones": "balanced",
    "digital": "screened",
    "air": "screened",
}
PLUGS: dict[str, Connector] = {
    "jack": "jack",
    "trs": "trs",
    "combi": "xlr",
    "xlr": "xlr",
    "locking": "locking",
    "rca": "rca",
    "optical": "optical",
}
"""The plug one would buy for a socket."""
NAMES = {"speaker": "Speaker lead", "screened": "Screened lead", "balanced": "Balanced lead", "optical": "Optical lead"}


def best_lead(rig: Rig, a: Socket, b: Socket | None, but: frozenset[str] = frozenset()) -> Lead | None:
    """The free lead to use between two sockets: right construction first, then the shortest that fits.

    `but`: ids of leads that are spoken for.
    """
    wanted = CONSTRUCTION[a.level]
    signal = {"balanced": 0, "screened": 1, "optical": 2, "speaker": 3}

    def order(lead: Lead) -> tuple[int, float]:
        if wanted == "speaker":
            return (0 if lead.construction == "speaker" else 1, lead.length)
        return (signal[lead.construction], lead.length)

    spare = [g for g in rig.free(Lead) if g.id not in but and fits(g, a, b)]
    # One whose screen is cut mends an earth loop; elsewhere it is no lead to choose.
    return min(spare, key=lambda lead: (lead.screen_is_cut, *order(lead)), default=None)


def is_wrong(lead: Lead, a: Socket) -> bool:
    """Whether a lead is of no construction for what it would carry: a screened one at speaker level."""
    return (a.level == "speaker") != (lead.construction == "speaker")


def missing_lead(gear: GearById, a: Socket, b: Socket) -> Lead:
    """The lead two sockets ask for, as it would lie in the locker: id and name free, length and gauge typical."""
    level = "speaker" if "speaker" in (a.level, b.level) else a.level
    construction = "optical" if "optical" in (a.connector, b.connector) else CONSTRUCTION[level]
    one, other = PLUGS[a.connector], PLUGS[b.connector]
    if construction == "screened":
        one, other = ("jack" if plug == "trs" else plug for plug in (one, other))
    name = f"{NAMES[construction]}, {lead_words(one, other)}"
    names = {unit.name for unit in gear.values()}
    for n in count(1):
        said, lead_id = name if n == 1 else f"{name}, {n}", f"lead-{construction}-{one}-{other}-{n}"
        if said not in names and lead_id not in gear:
            break
    return Lead(lead_id, said, typical=("Length", "Conductor"), construction=construction, plug_a=one, plug_b=other)


def lead_words(one: Connector, other: Connector) -> str:
    """'6.35 mm jack to XLR': the plugs of a lead."""
    return f"{CONNECTOR_NAMES[one]} to {CONNECTOR_NAMES[other]}"
