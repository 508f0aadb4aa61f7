"""Kit lists: what to lay out or carry for hook-ups, what of it is packed, and lines of one's own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from low_tide.app.bench import rig_of, row_of
from low_tide.app.errors import Invalid, NotFound
from low_tide.core.session.kit import GROUPS, KitItem, Tag, item, kit_list, tags
from low_tide.formats import markdown
from low_tide.store import kits
from low_tide.store.database import database

MOST_HOOKUPS = 24
MOST_OWN = 60
MOST_WORDS = 120


@dataclass(frozen=True)
class PackedItem:
    """A line of a kit list, and whether it is packed."""

    item: KitItem
    group_name: str
    packed: bool


@dataclass(frozen=True)
class KitName:
    """A hook-up that a kit list is for."""

    id: str
    name: str


@dataclass(frozen=True)
class KitState:
    """A kit list as it stands. `kg`: what is known of its weight; `unweighed`: how many units have none."""

    hookups: tuple[KitName, ...]
    away: bool
    items: tuple[PackedItem, ...]
    tags: tuple[Tag, ...]
    kg: float
    unweighed: int


def _key(ids: Sequence[str]) -> str:
    if not 1 <= len(set(ids)) <= MOST_HOOKUPS:
        raise Invalid(f"Hook-ups: 1 to {MOST_HOOKUPS} are wanted, these are {len(set(ids))}.")
    return ",".join(sorted(set(ids)))


def state(ids: Sequence[str]) -> KitState:
    """The kit list for some hook-ups."""
    kept = kits.find(_key(ids))
    rows = [row_of(each) for each in dict.fromkeys(ids)]
    rigs = [rig_of(row) for row in rows]
    packed, away = set(kept.get("packed", [])), bool(kept.get("away", False))
    lines = [*kit_list(rigs, away), *(item("own", text) for text in kept.get("own", []))]
    units = [each for each in lines if each.group == "units"]
    return KitState(
        tuple(KitName(row.id, row.name) for row in rows),
        away,
        tuple(PackedItem(each, GROUPS[each.group], each.id in packed) for each in lines),
        tuple(dict.fromkeys(tag for rig in rigs for tag in tags(rig))),
        sum(each.kg or 0.0 for each in lines),
        sum(each.kg is None for each in units),
    )


def pack(ids: Sequence[str], item_id: str, packed: bool) -> KitState:
    """Tick a line of the list, or take the tick back."""
    with database.atomic():
        there = {each.item.id for each in state(ids).items}
        if item_id not in there:
            raise NotFound("This line is not on the list any more: a hook-up has changed. Look again.")
        kept = kits.find(_key(ids))
        ticks = (set(kept.get("packed", [])) & there) - {item_id} | ({item_id} if packed else set())
        kits.keep(_key(ids), {**kept, "packed": sorted(ticks)})
        return state(ids)


def settle(ids: Sequence[str], away: bool, own: Sequence[str]) -> KitState:
    """Say whether it goes to another place, and which lines of one's own are on it."""
    lines = [line.strip() for line in own if line.strip()]
    if len(lines) > MOST_OWN:
        raise Invalid(f"Your own lines: at most {MOST_OWN}, these are {len(lines)}.")
    long = next((line for line in lines if len(line) > MOST_WORDS), None)
    if long:
        raise Invalid(f"Your own lines: at most {MOST_WORDS} characters each, “{long[:40]}…” has {len(long)}.")
    with database.atomic():
        kits.keep(_key(ids), {**kits.find(_key(ids)), "away": away, "own": list(dict.fromkeys(lines))})
        return state(ids)


def as_markdown(ids: Sequence[str]) -> str:
    """The list as Markdown, with its tags."""
    found = state(ids)
    names = ", ".join(f"“{each.name}”" for each in found.hookups)
    parts = [
        (name, [markdown.ticked(p.packed, p.item.text, p.item.detail) for p in found.items if p.item.group == group])
        for group, name in GROUPS.items()
    ]
    lines = [f"- {markdown.plain(f'{tag.on}: {tag.says} ({tag.beneath})')}\n" for tag in found.tags]
    return "".join(markdown.document("Kit list", [f"For {names}."], [*parts, ("Tags", lines)]))
