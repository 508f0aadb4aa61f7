"""How hard each amp is played, learned from takes: what counts, and what is asked about first."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from low_tide.app.errors import NotFound
from low_tide.core.audio.inspection import Inspection
from low_tide.core.judging.takes import input_of, recorded_inputs
from low_tide.core.rig.known import Played
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.playing_level import TakeLevel, disagrees, learned, learned_words, level_of_take
from low_tide.store import playing as kept
from low_tide.store.database import database, remembered
from low_tide.store.playing import PlayedRecord


@dataclass(frozen=True)
class Counting:
    """Whether a take counts for how hard its amp is played; `asks` why not by itself, `others` what the others say."""

    counts: bool
    asks: str
    others: str


def _level(record: PlayedRecord) -> TakeLevel:
    return TakeLevel(record.amp, record.mode, record.offset, record.playing_range)


def _together(records: list[PlayedRecord]) -> Played | None:
    """What records of one amp in one mode say: real takes, and simulated ones only where there is no other."""
    real = [r for r in records if not r.simulated]
    counted = real or records
    return learned([_level(r) for r in counted], not real) if counted else None


@remembered("played")
def played() -> Mapping[tuple[str, str], Played]:
    """Amp and power mode → how hard it is played, by the takes that count."""
    gathered: dict[tuple[str, str], list[PlayedRecord]] = {}
    for record in kept.used():
        gathered.setdefault((record.amp, record.mode), []).append(record)
    return {key: made for key, records in gathered.items() if (made := _together(records)) is not None}


def without(take_id: int) -> Mapping[tuple[str, str], Played]:
    """The same by every other take."""
    mine = kept.find(take_id)
    if mine is None:
        return played()
    key = (mine.amp, mine.mode)
    found = _together([r for r in kept.of(*key) if r.used and r.take_id != take_id])
    rest = {k: v for k, v in played().items() if k != key}
    return rest if found is None else {**rest, key: found}


def learn(take_id: int, rig: Rig, recorded_at: str, inspection: Inspection, simulated: bool) -> None:
    """Keep what a take says, in the transaction that gives it its recording. `rig`: as it was, knowing of no takes.

    One that disagrees with the others does not count before somebody says so.
    """
    said = level_of_take(rig, input_of(recorded_inputs(rig), recorded_at), inspection)
    kept.forget(take_id)
    if said is None:
        return
    others = [r.offset for r in kept.of(said.amp, said.mode) if r.used and r.simulated == simulated]
    counts = not disagrees(said.offset, others)
    kept.keep(PlayedRecord(take_id, said.amp, said.mode, said.offset, said.playing_range, simulated, counts))


def counting(take_id: int) -> Counting | None:
    """Whether a take counts; None where it says nothing of how hard its amp was played."""
    mine = kept.find(take_id)
    if mine is None:
        return None
    others = [r for r in kept.of(mine.amp, mine.mode) if r.take_id != take_id and r.used]
    together = _together(others)
    far = disagrees(mine.offset, [r.offset for r in others if r.simulated == mine.simulated])
    asks = (
        "It is far from what the others say: was another volume set, or another guitar played?"
        if far and others
        else "It is far from the prediction, and the only one: is everything where the hook-up has it?"
        if far
        else ""
    )
    return Counting(mine.used, asks, learned_words(together) if together else "")


def count(take_id: int, counts: bool) -> None:
    """Let a take count, or leave it out."""
    with database.atomic():
        if not kept.use(take_id, counts):
            raise NotFound("This take says nothing of how hard its amp was played.")
