"""Curves as text: ZMA (impedance) and FRD (response) as measuring programs write them, and CSV.

ZMA and FRD: a line a frequency, Hz, then Ω or dB, then phase in degrees; `*`, `#` and `;` begin a comment.
CSV: a header line that names the columns, in any order and any of the usual words for them.
"""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from low_tide.core.circuit.impedance import MOST_NEGATIVE, MeasuredCurve, minimum_phase, phase_doubt
from low_tide.core.frequency import Complex
from low_tide.formats.documents import MEBIBYTE, within
from low_tide.formats.sentences import FormatError

MOST_LINES = 20_000
MOST_BYTES = 2 * MEBIBYTE
COMMENT = re.compile(r"[*#;]")
FEWEST = 2

FREQUENCY_WORDS = ("frequency", "freq", "f", "hz")
MAGNITUDE_WORDS = ("magnitude", "mag", "impedance", "z", "ohm", "ohms")
PHASE_WORDS = ("phase", "deg", "degrees", "angle")
REAL_WORDS = ("real", "re", "resistance", "r")
IMAGINARY_WORDS = ("imaginary", "imag", "im", "reactance", "x")


@dataclass(frozen=True)
class ReadCurve:
    """An impedance curve that was read, and what had to be done to it, in sentences."""

    curve: MeasuredCurve
    warnings: tuple[str, ...]


@dataclass(frozen=True)
class Response:
    """A response: level in dB and phase in degrees over frequency (Hz), the same length each."""

    frequency: tuple[float, ...]
    level: tuple[float, ...]
    phase: tuple[float, ...]


Numbered = tuple[int, list[float]]


def _text(data: bytes) -> str:
    within(data, MOST_BYTES, "a curve")
    if b"\x00" in data:
        raise FormatError(["This is not a text file."])
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _number(word: str, line: int) -> float:
    try:
        value = float(word)
    except ValueError:
        raise FormatError([f"Line {line}: “{word[:30]}” is not a number."]) from None
    if not math.isfinite(value):
        raise FormatError([f"Line {line}: “{word[:30]}” is not a finite number."])
    return value


def _lines(text: str) -> Iterator[tuple[int, str]]:
    """Lines with something on them, numbered from 1, comments cut off."""
    for number, line in enumerate(text.splitlines(), 1):
        if number > MOST_LINES:
            raise FormatError([f"The file has more than {MOST_LINES} lines."])
        plain = COMMENT.split(line, maxsplit=1)[0].strip()
        if plain:
            yield number, plain


def _columns(text: str) -> list[Numbered]:
    """Rows of two or three numbers, separated by blanks, tabs or commas; a first line of words is passed over."""
    rows: list[Numbered] = []
    for number, line in _lines(text):
        words = [w for w in re.split(r"[\s,]+", line) if w]
        if not words:
            raise FormatError([f"Line {number}: there is no number in it."])
        if not rows and not re.match(r"[-+.\d]", words[0]):
            continue
        if len(words) < 2:
            raise FormatError([f"Line {number}: a frequency and a value are wanted, and only “{line[:30]}” is there."])
        rows.append((number, [_number(w, number) for w in words[:3]]))
    if rows and len({len(r) for _, r in rows}) > 1:
        width = len(rows[0][1])
        odd = next(n for n, r in rows if len(r) != width)
        raise FormatError([f"Line {odd}: it has another number of columns than the lines before it."])
    return rows


def _ordered(rows: Sequence[Numbered]) -> None:
    if len(rows) < FEWEST:
        raise FormatError(["The file holds no curve: at least two lines with a frequency and a value are wanted."])
    for (_, before), (number, row) in pairwise(rows):
        if row[0] <= before[0]:
            raise FormatError([f"Line {number}: the frequency {row[0]:g} Hz does not rise from the line before."])
    number, first = rows[0]
    if first[0] <= 0:
        raise FormatError([f"Line {number}: the frequency must be over 0 Hz."])


def _curve(numbers: Sequence[int], frequency: Sequence[float], z: Complex, reconstructed: bool) -> ReadCurve:
    """The curve, small negative real parts set to 0 and said so; a larger one is refused with its line."""
    warnings = []
    if reconstructed:
        off = phase_doubt(np.asarray(frequency, np.float64), np.abs(z))
        doubt = (
            f" It begins at {frequency[0]:g} Hz, so near there it may be off by up to {off:.0f}°." if off >= 1 else ""
        )
        warnings.append(
            f"The file has no phase: the minimum phase of its magnitude was taken, and is marked so.{doubt}"
        )
    size = np.abs(z)
    for number, value, mag in zip(numbers, z, size, strict=True):
        if mag <= 0:
            raise FormatError([f"Line {number}: the impedance must be over 0 Ω."])
        if value.real < -MOST_NEGATIVE * mag:
            raise FormatError([f"Line {number}: the real part is {value.real:.3g} Ω; no load gives power back."])
    negative = [n for n, value in zip(numbers, z, strict=True) if value.real < 0]
    if negative:
        warnings.append(f"A real part a little under 0 was set to 0, first on line {negative[0]}.")
        z = np.maximum(z.real, 0) + 1j * z.imag
    real, imaginary = (tuple(float(v) for v in part) for part in (z.real, z.imag))
    return ReadCurve(MeasuredCurve(tuple(frequency), real, imaginary, reconstructed), tuple(warnings))


def read_zma(data: bytes) -> ReadCurve:
    """An impedance curve from ZMA text. Raises FormatError with the number of the line it is about."""
    rows = _columns(_text(data))
    _ordered(rows)
    numbers = [n for n, _ in rows]
    table = np.array([r for _, r in rows])
    for number, row in rows:
        if row[1] <= 0:
            raise FormatError([f"Line {number}: the impedance must be over 0 Ω."])
    missing = table.shape[1] < 3
    # Phase may have been written past ±180°; a turn more or less changes nothing.
    phase = minimum_phase(table[:, 0], table[:, 1]) if missing else np.radians((table[:, 2] + 180) % 360 - 180)
    return _curve(numbers, table[:, 0].tolist(), table[:, 1] * np.exp(1j * phase), missing)


def read_frd(data: bytes) -> Response:
    """A response from FRD text; a missing phase counts as 0. Raises FormatError with the line it is about."""
    rows = _columns(_text(data))
    _ordered(rows)
    phase = tuple(r[2] if len(r) > 2 else 0.0 for _, r in rows)
    return Response(tuple(r[0] for _, r in rows), tuple(r[1] for _, r in rows), phase)


def _column(header: list[str], words: Sequence[str]) -> int | None:
    """The column whose heading is one of these words, units and case left aside."""
    plain = [re.sub(r"[^a-z]", " ", h.lower()).split() for h in header]
    return next((i for word in words for i, parts in enumerate(plain) if parts and parts[0] == word), None)


def read_curve_csv(data: bytes) -> ReadCurve:
    """An impedance curve from CSV: frequency with magnitude (and phase in degrees), or with real and imaginary part."""
    text = _text(data)
    sample = text[:2000]
    separator = ";" if sample.count(";") > sample.count(",") else ("\t" if "\t" in sample else ",")
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=separator))
    except csv.Error as error:
        raise FormatError([f"Not readable as CSV: {error}."]) from None
    if len(rows) > MOST_LINES:
        raise FormatError([f"The file has more than {MOST_LINES} lines."])
    at = next((i for i, row in enumerate(rows) if any(c.strip() for c in row)), None)
    if at is None:
        raise FormatError(["The file is empty."])
    header = rows[at]
    f = _column(header, FREQUENCY_WORDS)
    pair = (_column(header, REAL_WORDS), _column(header, IMAGINARY_WORDS))
    polar = (_column(header, MAGNITUDE_WORDS), _column(header, PHASE_WORDS))
    first, second = pair if None not in pair else polar
    if f is None or first is None:
        raise FormatError(
            [f"Line {at + 1}: a heading is wanted that names frequency, and magnitude or real and imaginary part."]
        )
    found: list[Numbered] = []
    for number, row in enumerate(rows[at + 1 :], at + 2):
        if not any(c.strip() for c in row):
            continue
        wanted = [f, first] + ([second] if second is not None else [])
        if len(row) <= max(wanted):
            raise FormatError([f"Line {number}: it has fewer columns than the heading."])
        found.append((number, [_number(row[i].strip().replace(",", "."), number) for i in wanted]))
    _ordered(found)
    numbers, table = [n for n, _ in found], np.array([r for _, r in found])
    frequency = table[:, 0].tolist()
    if None not in pair:
        return _curve(numbers, frequency, table[:, 1] + 1j * table[:, 2], False)
    for number, values in found:
        if values[1] <= 0:
            raise FormatError([f"Line {number}: the impedance must be over 0 Ω."])
    missing = second is None
    phase = minimum_phase(table[:, 0], table[:, 1]) if missing else np.radians((table[:, 2] + 180) % 360 - 180)
    return _curve(numbers, frequency, table[:, 1] * np.exp(1j * phase), missing)


def read_curve(data: bytes) -> ReadCurve:
    """An impedance curve from ZMA or CSV, told apart by whether the first line of words names columns."""
    for _, line in _lines(_text(data)):
        words = re.sub(r"[^a-z]", " ", line.lower()).split()
        if words and words[0] in FREQUENCY_WORDS and re.search(r"[,;\t]", line):
            return read_curve_csv(data)
        break
    return read_zma(data)


def write_zma(frequency: Sequence[float], z: Complex, title: str = "") -> str:
    """An impedance (Ω, complex) as ZMA text: Hz, Ω, degrees."""
    lines = [f"* {' '.join(title.split())}"] if title else []
    lines += [
        f"{f:.4f}\t{abs(v):.6g}\t{math.degrees(math.atan2(v.imag, v.real)):.4f}"
        for f, v in zip(frequency, z, strict=True)
    ]
    return "\n".join(lines) + "\n"


def write_frd(frequency: Sequence[float], response: Complex, title: str = "") -> str:
    """A complex response as FRD text: Hz, dB, degrees."""
    lines = [f"* {' '.join(title.split())}"] if title else []
    lines += [
        f"{f:.4f}\t{20 * math.log10(max(abs(v), 1e-12)):.4f}\t{math.degrees(math.atan2(v.imag, v.real)):.4f}"
        for f, v in zip(frequency, response, strict=True)
    ]
    return "\n".join(lines) + "\n"


def write_curve_csv(frequency: Sequence[float], z: Complex) -> str:
    """An impedance (Ω, complex) as CSV."""
    rows = [
        f"{f:.4f},{abs(v):.6g},{math.degrees(math.atan2(v.imag, v.real)):.4f},{v.real:.6g},{v.imag:.6g}"
        for f, v in zip(frequency, z, strict=True)
    ]
    return "\n".join(["frequency Hz,magnitude ohm,phase deg,real ohm,imaginary ohm", *rows]) + "\n"
