"""How hard an amp is played, learned from its takes: what they measured less what was predicted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from low_tide.core.audio.inspection import Inspection
from low_tide.core.gear.base import STAGE
from low_tide.core.rig.known import Played, learned_spread
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.levels import LinePoint, levels, mode_of, played_by
from low_tide.core.units import figure, level_figure

DISAGREES_DB = 6.0
"""A take that is further than this from the others is asked about before it counts."""
LONELY_DB = 10.0
"""And a lone one that is further than this from the prediction."""
LEAST_RANGE_DB = 3.0


@dataclass(frozen=True)
class TakeLevel:
    """What one take says of how hard its amp was played: dB over the prediction, and its range (dB) where known."""

    amp: str
    mode: str
    offset: float
    playing_range: float | None


def level_of_take(rig: Rig, point: LinePoint | None, inspection: Inspection) -> TakeLevel | None:
    """What a take says, with a rig that knows nothing of takes; None where it says nothing.

    Nothing is played, it is clipped or limited, its level was not predicted, something was turned down by an amount
    nobody knows, or no power stage is on its way.
    """
    peak = inspection.measures.peak_dbfs
    if point is None or point.dbfs is None or peak is None or inspection.loud_dbfs is None or inspection.clips:
        return None
    way = levels(rig).loudest_way(point.input)
    if not way or way[0].a.socket != STAGE or point.limited:
        return None
    amp = way[0].a.unit
    if rig.settings(amp).get("master_down"):
        return None
    return TakeLevel(amp, mode_of(rig, amp), peak - point.dbfs, inspection.dynamics.range_db)


def disagrees(offset: float, others: Sequence[float]) -> bool:
    """Whether a take has to be asked about: far from the others, or alone and far from the prediction (dB)."""
    return abs(offset - median(others)) > DISAGREES_DB if others else abs(offset) > LONELY_DB


def learned(takes: Sequence[TakeLevel], simulated: bool) -> Played:
    """What takes of one amp in one mode say together: their median, with the ± of `learned_spread`.

    ValueError for none.
    """
    offsets = [take.offset for take in takes]
    ranges = [take.playing_range for take in takes if take.playing_range is not None]
    span = max(LEAST_RANGE_DB, median(ranges)) if ranges else None
    return Played(median(offsets), learned_spread(offsets), len(takes), span, simulated)


def learned_words(played: Played) -> str:
    """'learned from 4 takes, +2.9 ± 1.6 dB', simulated ones said so."""
    kind = "simulated take" if played.simulated else "take"
    many = "" if played.takes == 1 else "s"
    return f"learned from {played.takes} {kind}{many}, {level_figure(played.offset)} ± {figure(played.spread, 2)} dB"


def played_at(rig: Rig, point: LinePoint) -> Played | None:
    """What was learned of the amp whose level reaches an input; None where nothing was."""
    way = levels(rig).loudest_way(point.input) if rig.known.played else ()
    return played_by(rig, way[0].a.unit) if way and way[0].a.socket == STAGE else None


def learned_at(rig: Rig, point: LinePoint) -> str:
    """That the level at an input rests on takes, in words; empty where it does not."""
    played = played_at(rig, point)
    return learned_words(played) if played else ""
