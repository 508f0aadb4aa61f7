"""From one hook-up to another: which leads and settings move, whether the amp goes off, and how long it takes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal, TypeAlias

from low_tide.core.gear.amp import DARK_TYPICAL_S, WARM_UP_TYPICAL_S
from low_tide.core.gear.base import Control
from low_tide.core.inventory import Amp, Cabinet, Interface
from low_tide.core.rig.changes import speaker_side
from low_tide.core.rig.hookup import Link
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.words import control_words, shown

Move: TypeAlias = Literal["put_away", "moved", "added", "kept"]

PLUG_MIN, SETTING_MIN, MEASURE_MIN = 0.5, 0.2, 1.0
"""Minutes that moving a plug, a setting, and measuring at a plug usually take."""


@dataclass(frozen=True)
class LeadMove:
    """What happens to a lead: put away, moved, added, or kept. `ends`: where it goes from and to, as it stands after
    (before, where it is put away). `plugs`: how many plugs are moved. `speaker`: it is at speaker level."""

    lead: str
    name: str
    move: Move
    ends: str
    plugs: int
    speaker: bool
    units: tuple[str, ...]


@dataclass(frozen=True)
class SettingMove:
    """A setting that stands otherwise in the second. `live`: it may be moved while the amp is on."""

    unit: str
    control: str
    words: str
    live: bool


@dataclass(frozen=True)
class ChangeOver:
    """What it takes to get from one hook-up to another, in the order it is done.

    `needs_off`: something at speaker level changes, so the amps go off first. `plugs` and `minutes`: what it costs,
    the waits among them.
    """

    leads: tuple[LeadMove, ...]
    settings: tuple[SettingMove, ...]
    needs_off: bool
    plugs: int
    minutes: float

    def that(self, move: Move) -> tuple[LeadMove, ...]:
        """Leads to which one thing happens."""
        return tuple(each for each in self.leads if each.move == move)


def settings_in_use(rig: Rig) -> Iterator[tuple[str, Control, str]]:
    """Every setting that counts in a hook-up, and how it is said beside its unit's name: those of sockets nothing is
    plugged into are left out, and so is how an amp is played."""
    for unit, gear in rig.units():
        used = rig.plugged(unit)
        for control in gear.controls():
            socket = control.id.split(".")[0]
            if control.id == "flat_out" or control.folded or (isinstance(gear, Interface) and socket not in used):
                continue
            if control.id.startswith("line.") and "line" not in used:
                continue
            yield unit, control, f"{control_words(control)} {shown(control, rig.settings(unit)[control.id])}"


def lead_name(rig: Rig, link: Link) -> str:
    """A lead as it is called; the fixed one of a cabinet by its cabinet."""
    name = rig.conductor(link).name
    return f"The own lead of {name}" if isinstance(rig.conductor(link), Cabinet) else name


def ends_words(rig: Rig, link: Link) -> str:
    """'Godwit 45, speaker 1 → Groyne R8, amp in': where a lead goes."""
    return f"{rig.label(link.a)} → {rig.label(link.b) if link.b else 'nothing'}"


def at_speaker_level(rig: Rig, link: Link) -> bool:
    """Whether one of its plugs is in a socket at speaker level."""
    return any(rig.socket(end).level == "speaker" for end in link.ends())


def _lead(rig: Rig, link: Link, move: Move, plugs: int, speaker: bool) -> LeadMove:
    units = tuple(dict.fromkeys(e.unit for e in link.ends()))
    return LeadMove(link.lead, lead_name(rig, link), move, ends_words(rig, link), plugs, speaker, units)


def _leads(before: Rig, after: Rig) -> tuple[LeadMove, ...]:
    """A lead may be in use twice: as a cabinet's own, or as the air before several microphones."""
    was: dict[str, list[Link]] = {}
    for link in before.hookup.links:
        was.setdefault(link.lead, []).append(link)
    found = []
    for link in after.hookup.links:
        speaker, mine = at_speaker_level(after, link), was.get(link.lead, [])
        same = next((k for k in mine if set(k.ends()) == set(link.ends())), None)
        if same is not None:
            mine.remove(same)
            found.append(_lead(after, link, "kept", 0, speaker))
        elif mine:
            old = mine.pop(0)
            plugs = len(set(link.ends()) - set(old.ends())) or 1
            found.append(_lead(after, link, "moved", plugs, speaker or at_speaker_level(before, old)))
        else:
            found.append(_lead(after, link, "added", len(link.ends()), speaker))
    gone = [
        _lead(before, k, "put_away", len(k.ends()), at_speaker_level(before, k)) for left in was.values() for k in left
    ]
    order: tuple[Move, ...] = ("put_away", "moved", "added", "kept")
    return tuple(sorted([*gone, *found], key=lambda each: (not each.speaker, order.index(each.move))))


def _settings(before: Rig, after: Rig) -> tuple[SettingMove, ...]:
    stood = {(unit, control.id): said for unit, control, said in settings_in_use(before)}
    moved = [
        SettingMove(unit, control.id, said, control.safe_live)
        for unit, control, said in settings_in_use(after)
        if stood.get((unit, control.id)) != said
    ]
    return tuple(sorted(moved, key=lambda each: each.live))


def warm_up_s(amp: Amp) -> float:
    """How long (s) an amp warms on standby: its own time, or the usual one of valves; none without them."""
    if amp.technology == "transistor":
        return 0.0
    return WARM_UP_TYPICAL_S if amp.warm_up is None else amp.warm_up


def dark_s(amp: Amp) -> float:
    """How long (s) after mains off nothing on its speaker side is touched: its own time, or the usual one."""
    if amp.dark is not None:
        return amp.dark
    return 0.0 if amp.technology == "transistor" else DARK_TYPICAL_S


def change_over(before: Rig, after: Rig, is_on: bool = True) -> ChangeOver:
    """What it takes to get from one hook-up to another. `is_on`: the first is playing when it begins."""
    leads, settings = _leads(before, after), _settings(before, after)
    needs_off = speaker_side(before) != speaker_side(after)
    plugs = sum(each.plugs for each in leads)
    minutes = PLUG_MIN * plugs + SETTING_MIN * len(settings)
    if needs_off:
        if is_on:
            minutes += max((dark_s(amp) for _, amp in before.amps()), default=0.0) / 60
        minutes += max((warm_up_s(amp) for _, amp in after.amps()), default=0.0) / 60
        minutes += MEASURE_MIN * sum(1 for _ in after.amps())
    return ChangeOver(leads, settings, needs_off, plugs, minutes)
