"""The log as tables and plain data, piece by piece, since it is large."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from typing import Any

from low_tide.app import log
from low_tide.app.log import Take
from low_tide.formats.documents import dump
from low_tide.formats.tables import log_csv
from low_tide.store import takes as kept


def _two(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


COLUMNS: dict[str, Callable[[Take], Any]] = {
    "number": lambda each: each.number,
    "name": lambda each: each.note.name,
    "part": lambda each: each.note.part,
    "at": lambda each: each.at,
    "hookup": lambda each: each.hookup,
    "verdict": lambda each: each.severity,
    "expected peak, dBFS": lambda each: _two(each.expected_peak),
    "measured peak, dBFS": lambda each: _two(each.measures.peak_dbfs if each.measures else each.note.measured_peak),
    "true peak, dBTP": lambda each: _two(each.measures.true_peak_dbtp if each.measures else None),
    "loudness, LUFS": lambda each: _two(each.measures.loudness_lufs if each.measures else None),
    "RMS, dBFS": lambda each: _two(each.measures.rms_dbfs if each.measures else None),
    "crest, dB": lambda each: _two(each.measures.crest_db if each.measures else None),
    "clipped runs": lambda each: each.measures and each.measures.clipped_runs,
    "controls": lambda each: "; ".join(f"{c.name} {c.value}" for c in each.note.controls),
    "accepted": lambda each: "; ".join(f"{a.caution} ({a.word})" for a in each.accepted),
    "recorded at": lambda each: each.note.recorded_at,
    "starts in the song at, s": lambda each: _two(each.note.song_start),
    "simulated": lambda each: "yes" if each.simulated else "",
    "scene": lambda each: each.note.scene,
    "rating": lambda each: each.note.rating,
    "guide": lambda each: "yes" if each.note.guide else "",
    "guitar": lambda each: each.note.guitar,
    "pickup": lambda each: each.note.pickup,
    "volume on the guitar": lambda each: each.note.guitar_volume,
    "tuning": lambda each: each.note.tuning,
    "done afterwards": lambda each: each.note.afterwards,
    "notes": lambda each: each.note.notes,
}
"""What a line says of a take, beside its session, by the name of its column."""


def _line(each: Take, names: dict[int, str]) -> dict[str, Any]:
    return {"session": names[each.session], **{name: of(each) for name, of in COLUMNS.items()}}


def export_csv(session: int | None = None) -> Iterator[str]:
    """The log as CSV, oldest take first, line by line."""
    names = {s.id: s.name for s in log.sessions()}
    yield from log_csv((_line(log.told(r), names) for r in kept.each(session)), ("session", *COLUMNS))


def export_json(session: int | None = None) -> Iterator[str]:
    """The log as JSON, whole: sessions, takes, snapshots; piece by piece, since it is large."""
    yield '{"format": "low-tide/log", "version": 1, "sessions": ['
    for n, each in enumerate(s for s in log.sessions() if session in (None, s.id)):
        told = {**dump(each), "lines": [{"text": line.text, "at": line.at} for line in log.lines(each.id)]}
        yield (",\n" if n else "\n") + json.dumps(told, ensure_ascii=False)[:-1] + ', "takes": ['
        # A snapshot is JSON already as it lies, and goes out as that.
        for m, (row, written) in enumerate(kept.each_with_what_was_seen(each.id)):
            yield (",\n" if m else "\n") + json.dumps(dump(log.told(row)), ensure_ascii=False)[:-1]
            yield f', "snapshot": {written}}}'
        yield "]}"
    yield "\n]}\n"
