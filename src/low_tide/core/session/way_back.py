"""How to get a hook-up back: every lead and where it goes, and every setting that counts."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.core.rig.rig import Rig
from low_tide.core.session.change_over import at_speaker_level, ends_words, lead_name, settings_in_use


@dataclass(frozen=True)
class WayBack:
    """Leads, those at speaker level first, and settings by unit, each as it is said."""

    leads: tuple[str, ...]
    settings: tuple[str, ...]


def way_back(rig: Rig) -> WayBack:
    """What to plug and to set to have a hook-up as it was."""
    links = sorted(rig.hookup.links, key=lambda link: not at_speaker_level(rig, link))
    said: dict[str, list[str]] = {}
    for unit, _, words in settings_in_use(rig):
        said.setdefault(unit, []).append(words)
    return WayBack(
        tuple(f"{lead_name(rig, link)}: {ends_words(rig, link)}" for link in links),
        tuple(f"{rig.name(unit)}: {', '.join(words)}" for unit, words in said.items()),
    )
