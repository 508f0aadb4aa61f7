"""The line of a hook-up from the jack to the converter, as it stands on the Bench."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.app import bench
from low_tide.app.preferences import preferences
from low_tide.core.circuit.network import NetworkError
from low_tide.core.judging.best_setting import judged_ladders
from low_tide.core.signal_path.gain_staging import LineLadder


@dataclass(frozen=True)
class CaptureState:
    """The lines to all inputs of a hook-up, at its count of saves; `why` there are none."""

    saves: int
    ladders: tuple[LineLadder, ...]
    why: str


def state(hookup_id: str) -> CaptureState:
    """Levels, noise and the best setting of every line of a hook-up."""
    row = bench.row_of(hookup_id)
    rig = bench.rig_of(row)
    try:
        found = judged_ladders(rig, preferences())
    except NetworkError as error:
        return CaptureState(row.saves, (), f"The levels cannot be computed: {error}.")
    return CaptureState(row.saves, found, "" if found else "Nothing is plugged into an input that records.")
