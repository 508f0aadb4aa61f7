"""CSV: a hook-up's results, and the log."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from low_tide.core.audio.correction import Equalisation
from low_tide.core.presentation.analysis import Analysis
from low_tide.core.rig.rig import Rig
from low_tide.core.units import figure

_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def cell(value: Any) -> str:
    """A cell as text. Text that a spreadsheet would run as a formula gets an apostrophe in front."""
    if value is None:
        return ""
    if isinstance(value, bool | int | float):
        return str(value)
    text = str(value)
    return f"'{text}" if text.startswith(_FORMULA) else text


AT_ONCE = 200


def csv_pieces(header: Iterable[str], rows: Iterable[Iterable[Any]]) -> Iterator[str]:
    """CSV (RFC 4180) with a header line, some hundred lines at a time, so that a long one need not lie in memory."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(header)
    for n, row in enumerate(rows, 1):
        writer.writerow([cell(value) for value in row])
        if n % AT_ONCE == 0:
            yield out.getvalue()
            out.seek(0)
            out.truncate()
    yield out.getvalue()


def write_csv(header: Iterable[str], rows: Iterable[Iterable[Any]]) -> str:
    """CSV (RFC 4180) with a header line."""
    return "".join(csv_pieces(header, rows))


def analysis_csv(rig: Rig, analysis: Analysis) -> str:
    """Every result as a line: section, unit, quantity, value, unit of measure."""

    def name(unit: str) -> str:
        return rig.name(unit) if unit in rig.gear else unit

    rows: list[tuple[Any, ...]] = [("verdict", "", analysis.verdict.severity, analysis.verdict.words, "")]
    for f in analysis.findings:
        rows.append(("finding", ", ".join(name(u) for u in f.units), f"{f.severity} {f.id}", f.text, ""))
    for a in analysis.amps:
        rows += [
            ("amp", name(a.unit), "tap", figure(a.tap), "Ω"),
            ("amp", name(a.unit), "sees, by rating", "open" if a.sees is None else figure(a.sees, 6), "Ω"),
            ("amp", name(a.unit), "label power", figure(a.label_power), "W"),
            ("amp", name(a.unit), "flat out, about", figure(a.flat_power), "W"),
        ]
    for s in analysis.shares:
        unit = name(s.unit) + (f", {s.part}" if s.part else "")
        rows.append(("power", unit, "worst, flat out", figure(s.flat, 6), "W"))
        rows.append(("power", unit, f"rating, {s.rating_kind}", s.rating, "W"))
        rows.append(("power", unit, "to spare", None if s.margin_db is None else round(s.margin_db, 2), "dB"))
    for p in analysis.speakers:
        rows.append(("speaker", name(p.unit), "flat out", figure(p.watts, 6), "W"))
        rows.append(("speaker", name(p.unit), "against direct, clipped", round(p.clipped_db, 2), "dB"))
        clean = None if p.clean_db is None else round(p.clean_db, 2)
        rows.append(("speaker", name(p.unit), "against direct, clean", clean, "dB"))
    for line in analysis.lines:
        rows.append(("line", line.name, "peak", None if line.peak_dbu is None else round(line.peak_dbu, 2), "dBu"))
        rows.append(("line", line.name, "peak", None if line.dbfs is None else round(line.dbfs, 2), "dBFS"))
    for c in analysis.curves:
        for f_hz, re, im in zip(c.frequency, c.real, c.imaginary, strict=True):
            rows.append(("impedance", name(c.unit), f"{f_hz:.3f} Hz", f"{re:.6g}{im:+.6g}j", "Ω"))
    return write_csv(("section", "unit", "quantity", "value", "unit of measure"), rows)


def bands_csv(made: Equalisation) -> str:
    """The bands of an equaliser as CSV."""
    rows = [(b.kind, round(b.frequency, 1), round(b.gain, 2), round(b.q, 2)) for b in made.bands]
    return write_csv(
        ("kind", "frequency, Hz", "gain, dB", "Q"),
        [*rows, ("gain over all", None, round(made.gain, 2), None), ("at a rate of, Hz", made.rate, None, None)],
    )


def log_csv(records: Iterable[Mapping[str, Any]], columns: Iterable[str]) -> Iterator[str]:
    """Records of the log as CSV, a line each, in pieces."""
    names = list(columns)
    return csv_pieces(names, ([record.get(n) for n in names] for record in records))
