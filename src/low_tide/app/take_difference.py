"""Two takes held against each other by what was kept with each."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.app import log
from low_tide.app.errors import Invalid
from low_tide.app.log import Take
from low_tide.app.recordings import rig_at
from low_tide.core.rig.hookup import HookupError
from low_tide.core.session.difference import GROUP_NAMES, Difference, Logged, difference
from low_tide.formats.sentences import FormatError


@dataclass(frozen=True)
class TakeDifference:
    """Two takes held against each other: what differs, and nothing else. `groups`: how its groups are called."""

    one: Take
    other: Take
    differs: tuple[Difference, ...]
    groups: dict[str, str]


def _logged(row: Take) -> Logged:
    note = row.note
    return Logged(
        rig_at(row.id),
        {
            "Take": note.name,
            "Part": note.part,
            "Hook-up": row.hookup,
            "Scene": note.scene,
            "Guitar": note.guitar,
            "Pickup": note.pickup,
            "Volume on the guitar": note.guitar_volume,
            "Tuning": note.tuning,
            "Rating": note.rating,
            "Done afterwards": note.afterwards,
            "Notes": note.notes,
        },
        {control.name: control.value for control in note.controls},
        row.expected_peak,
        None if row.measures else note.measured_peak,
        row.measures,
    )


def between(take_id: int, other_id: int) -> TakeDifference:
    """What differs between two takes, with hook-ups and gear as they were."""
    one, other = log.take(take_id), log.take(other_id)
    try:
        found = difference(_logged(one), _logged(other))
    except (HookupError, FormatError) as error:
        raise Invalid(*error.problems) from None
    return TakeDifference(one, other, found, GROUP_NAMES)
