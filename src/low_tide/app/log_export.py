"""The log as tables and plain data, piece by piece, since it is large."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from low_tide.app import log
from low_tide.app.log import Take
from low_tide.formats.documents import dump
from low_tide.formats.tables import log_csv
from low_tide.store import takes as kept

COLUMNS = (
    "session",
    "number",
    "name",
    "part",
    "at",
    "hookup",
    "verdict",
    "expected peak, dBFS",
    "measured peak, dBFS",
    "true peak, dBTP",
    "loudness, LUFS",
    "RMS, dBFS",
    "crest, dB",
    "clipped runs",
    "controls",
    "accepted",
    "recorded at",
    "starts in the song at, s",
    "simulated",
    "rating",
    "guide",
    "guitar",
    "pickup",
    "volume on the guitar",
    "tuning",
    "done afterwards",
    "notes",
)


def _two(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def _line(each: Take, names: dict[int, str]) -> dict[str, Any]:
    m = each.measures
    return {
        "session": names[each.session],
        "number": each.number,
        "name": each.note.name,
        "part": each.note.part,
        "at": each.at,
        "hookup": each.hookup,
        "verdict": each.severity,
        "expected peak, dBFS": _two(each.expected_peak),
        "measured peak, dBFS": _two(m.peak_dbfs if m else each.note.measured_peak),
        "true peak, dBTP": _two(m.true_peak_dbtp if m else None),
        "loudness, LUFS": _two(m.loudness_lufs if m else None),
        "RMS, dBFS": _two(m.rms_dbfs if m else None),
        "crest, dB": _two(m.crest_db if m else None),
        "clipped runs": m.clipped_runs if m else None,
        "controls": "; ".join(f"{c.name} {c.value}" for c in each.note.controls),
        "accepted": "; ".join(f"{a.caution} ({a.word})" for a in each.accepted),
        "recorded at": each.note.recorded_at,
        "starts in the song at, s": _two(each.note.song_start),
        "simulated": "yes" if each.simulated else "",
        "rating": each.note.rating,
        "guide": "yes" if each.note.guide else "",
        "guitar": each.note.guitar,
        "pickup": each.note.pickup,
        "volume on the guitar": each.note.guitar_volume,
        "tuning": each.note.tuning,
        "done afterwards": each.note.afterwards,
        "notes": each.note.notes,
    }


def export_csv(session: int | None = None) -> Iterator[str]:
    """The log as CSV, oldest take first, line by line."""
    names = {s.id: s.name for s in log.sessions()}
    yield from log_csv((_line(log.told(r), names) for r in kept.each(session)), COLUMNS)


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
