"""The Load feel section: what every load does to an amp, heard and corrected."""

from __future__ import annotations

import hashlib
import os
import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import BinaryIO

import numpy as np

from low_tide.app import bench
from low_tide.app.errors import Invalid, NotFound
from low_tide.app.locker import GearName
from low_tide.core.amplifier import DAMPING_NAMES, DAMPING_PRESETS
from low_tide.core.audio import true_peak
from low_tide.core.correction import Equalisation, fit_bands, minimum_phase_fir
from low_tide.core.feel import RESISTOR, Contender, Feel, FeelSet, PadSet, contenders, feel_set, jack_response, pad_set
from low_tide.core.feel import tap_for as nearest_tap
from low_tide.core.gear import Amp, Attenuator
from low_tide.core.hookup import Rig
from low_tide.core.render import RATE, cab_filter, coloured, power_stage, riff
from low_tide.core.response import Real, frequency_grid
from low_tide.formats.recording import loudness, read_dry, write_wav
from low_tide.formats.sentences import FormatError
from low_tide.formats.tables import write_csv
from low_tide.store.files import Home

SHOWN_EVERY = 4
"""Curves are drawn from every fourth point of the grid."""

MOST_CHOICES = 12
MOST_FILES = 60
TAKE_SECONDS = 10.5
TARGET_LUFS = -20.0
MOST_TRUE_PEAK = 10 ** (-1 / 20)
USUAL_TAPS = (4.0, 8.0, 16.0)


@dataclass(frozen=True)
class AmpChoice:
    """An amp of the locker. `damping_factor` is typical where it was not measured."""

    id: str
    name: str
    damping_factor: float
    typical: bool


@dataclass(frozen=True)
class Damping:
    """A usual damping factor, by kind of feedback."""

    name: str
    factor: float


@dataclass(frozen=True)
class FeelState:
    """All contenders on one amp. `here`: ids of those that the hook-up on the bench uses."""

    amp: str
    amps: tuple[AmpChoice, ...]
    damping_typical: bool
    feels: FeelSet
    here: tuple[str, ...]
    pads: tuple[GearName, ...]
    dampings: tuple[Damping, ...]


@dataclass(frozen=True)
class Corrected:
    """A correction, and which contender it makes sound like which. `frequency` in Hz goes with its curves."""

    source: str
    like: str
    frequency: tuple[float, ...]
    correction: Equalisation


@dataclass(frozen=True)
class RenderProgress:
    """How far a rendering is."""

    done: int
    of: int
    name: str


@dataclass(frozen=True)
class Track:
    """A rendered take. `lufs` as it is now; `gain_db` is what matching its level took."""

    choice: str
    name: str
    file: str
    lufs: float
    gain_db: float


@dataclass(frozen=True)
class Rendered:
    """All tracks of a rendering, matched to within 0.1 LU, and their length."""

    tracks: tuple[Track, ...]
    seconds: float


@dataclass(frozen=True)
class Source:
    """An uploaded direct track."""

    id: str
    name: str
    seconds: float


def _amps(rig: Rig) -> list[Amp]:
    own = [amp for _, amp in rig.amps()]
    return own + [g for g in rig.gear.values() if isinstance(g, Amp) and not g.archived and g not in own]


def _chosen(rig: Rig, amp_id: str, damping: float | None) -> tuple[str, tuple[float, ...], float, bool]:
    """(amp id, its taps, damping factor, whether that is typical) of the amp asked for, or the hook-up's first."""
    amps = _amps(rig)
    amp = next((a for a in amps if a.id == amp_id), None)
    if amp_id and amp is None:
        raise NotFound(f"There is no amp “{amp_id}”.")
    amp = amp or (amps[0] if amps else None)
    if amp is None:
        return "", USUAL_TAPS, damping or DAMPING_PRESETS["moderate"], damping is None
    taps = tuple(t.impedance for t in amp.taps)
    return amp.id, taps, damping or amp.damping(), damping is None and amp.damping_factor is None


def _find(found: tuple[Contender, ...], wanted: str, field: str) -> Contender:
    each = next((c for c in found if c.id == wanted), None)
    if each is None:
        raise NotFound(f"{field}: there is no load “{wanted}” in the locker.")
    return each


def _label(c: Contender | Feel) -> str:
    return f"{c.name}, {c.mode}" if c.mode else c.name


def _in_use(rig: Rig, found: tuple[Contender, ...]) -> tuple[str, ...]:
    here = []
    for c in found:
        if not c.unit or not rig.has(c.unit):
            continue
        at = rig.settings(c.unit)
        if at.get("curve", "") == c.switch and float(at.get("impedance", c.nominal)) == c.nominal:
            here.append(c.id)
    return tuple(here)


def _thinned(values: tuple[float, ...]) -> tuple[float, ...]:
    return values[::SHOWN_EVERY]


def state(hookup_id: str, reference: str = RESISTOR, amp: str = "", damping: float | None = None) -> FeelState:
    """Curves and summaries of every contender, against a reference, on the hook-up's amp or another."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    found = contenders(rig.gear)
    _find(found, reference, "Reference")
    amp_id, taps, factor, typical = _chosen(rig, amp, damping)
    made = feel_set(found, taps, factor, reference)
    feels = tuple(replace(f, difference=_thinned(f.difference), magnitude=_thinned(f.magnitude)) for f in made.feels)
    return FeelState(
        amp_id,
        tuple(AmpChoice(a.id, a.name, a.damping(), a.damping_factor is None) for a in _amps(rig)),
        typical,
        replace(made, frequency=_thinned(made.frequency), feels=feels),
        _in_use(rig, found),
        tuple(GearName(g.id, g.name) for g in rig.gear.values() if isinstance(g, Attenuator) and not g.archived),
        tuple(Damping(DAMPING_NAMES[kind], factor) for kind, factor in DAMPING_PRESETS.items()),
    )


def pads(hookup_id: str, pad: str, cabinet: str, amp: str = "", damping: float | None = None) -> PadSet:
    """How an attenuator takes a cabinet's own curve away."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    box = rig.gear.get(pad)
    if not isinstance(box, Attenuator):
        raise NotFound(f"There is no attenuator “{pad}” in the locker.")
    each = _find(contenders(rig.gear), cabinet, "Cabinet")
    made = pad_set(box, each, _chosen(rig, amp, damping)[2])
    steps = tuple(replace(s, response=_thinned(s.response)) for s in made.steps)
    return replace(made, frequency=_thinned(made.frequency), steps=steps)


def _target(rig: Rig, source: str, like: str, amp: str, damping: float | None) -> tuple[Contender, Contender, Real]:
    if source == like:
        raise Invalid("Like: it is the same as the one to be corrected; choose another.")
    found = contenders(rig.gear)
    first, second = _find(found, source, "From"), _find(found, like, "Like")
    _, taps, factor, _ = _chosen(rig, amp, damping)
    f = frequency_grid()
    h1, h2 = (jack_response(c, nearest_tap(c.nominal, taps), factor, f) for c in (first, second))
    return first, second, 20 * np.log10(np.abs(h2 / h1))


def correction(hookup_id: str, source: str, like: str, amp: str = "", damping: float | None = None) -> Corrected:
    """Bands that make one contender sound like another on this amp, at low level."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    first, second, target = _target(rig, source, like, amp, damping)
    made = fit_bands(target)
    shown = replace(made, target=_thinned(made.target), fitted=_thinned(made.fitted))
    frequency = tuple(frequency_grid()[::SHOWN_EVERY].tolist())
    return Corrected(_label(first), _label(second), frequency, shown)


def correction_csv(found: Corrected) -> str:
    """A correction's bands as CSV."""
    made = found.correction
    rows = [(b.kind, round(b.frequency, 1), round(b.gain, 2), round(b.q, 2)) for b in made.bands]
    return write_csv(
        ("kind", "frequency, Hz", "gain, dB", "Q"), [*rows, ("gain over all", None, round(made.gain, 2), None)]
    )


def correction_wav(
    hookup_id: str, source: str, like: str, rate: int, amp: str = "", damping: float | None = None
) -> bytes:
    """A correction as a minimum-phase impulse response in a WAV file of 32-bit floats."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    return write_wav(minimum_phase_fir(_target(rig, source, like, amp, damping)[2], rate), rate, "FLOAT")


def _keep(home: Home, data: bytes, stem: str) -> str:
    """Write a sound under its own hash, and let the oldest go where there are many."""
    home.renders.mkdir(exist_ok=True)
    name = f"{stem}-{hashlib.sha256(data).hexdigest()[:24]}.wav"
    part = home.renders / f"{name}.part"
    part.write_bytes(data)
    os.replace(part, home.renders / name)
    old = sorted(home.renders.glob("*.wav"), key=lambda p: p.stat().st_mtime)[:-MOST_FILES]
    for file in old:
        file.unlink(missing_ok=True)
    return name


def bring_source(home: Home, name: str, stream: BinaryIO) -> Source:
    """Take a direct track in for rendering; Invalid where it cannot serve."""
    home.renders.mkdir(exist_ok=True)
    handle, path = tempfile.mkstemp(dir=home.renders, prefix="incoming-")
    incoming = Path(path)
    try:
        with os.fdopen(handle, "wb") as out:
            while block := stream.read(1 << 20):
                out.write(block)
        try:
            dry = read_dry(incoming)
        except FormatError as error:
            raise Invalid(*error.problems) from None
    finally:
        incoming.unlink(missing_ok=True)
    kept = _keep(home, write_wav(dry * 0.98, RATE), "direct")
    return Source(kept, Path(name.replace("\\", "/")).name[:200], len(dry) / RATE)


def file_of(home: Home, name: str) -> Path:
    """Where a rendered sound lies. Names are only ever those that were given out."""
    found = next((p for p in home.renders.glob("*.wav") if p.name == name), None)
    if found is None:
        raise NotFound("This sound has gone; render it again.")
    return found


def render(
    home: Home,
    hookup_id: str,
    choices: Sequence[str],
    source: str = "",
    drive_db: float = 6.0,
    amp: str = "",
    damping: float | None = None,
) -> Iterator[RenderProgress | Rendered]:
    """Render a take through each choice and match the levels. What is read from the store is read before it begins."""
    if not 1 <= len(set(choices)) <= MOST_CHOICES:
        raise Invalid(f"Choices: 1 to {MOST_CHOICES} are rendered together, these are {len(set(choices))}.")
    rig = bench.rig_of(bench.row_of(hookup_id))
    found = contenders(rig.gear)
    chosen = [_find(found, c, "Choice") for c in dict.fromkeys(choices)]
    _, taps, factor, _ = _chosen(rig, amp, damping)
    path = file_of(home, source) if source else None
    return _render(home, chosen, taps, factor, path, drive_db)


def _render(
    home: Home, chosen: list[Contender], taps: tuple[float, ...], factor: float, source: Path | None, drive_db: float
) -> Iterator[RenderProgress | Rendered]:
    steps = len(chosen) + 1
    yield RenderProgress(0, steps, "the amp")
    dry = read_dry(source) if source else riff(TAKE_SECONDS)
    driven = power_stage(dry, drive_db)
    made = []
    for i, c in enumerate(chosen):
        yield RenderProgress(i + 1, steps, _label(c))
        tap = nearest_tap(c.nominal, taps)
        sound = coloured(driven, lambda f, c=c, tap=tap: jack_response(c, tap, factor, f) * cab_filter(f))  # type: ignore[misc]
        level = loudness(sound, RATE)
        if level is None:
            raise Invalid("There is nothing to hear in this take once it went through the amp.")
        made.append((c, sound, level))
    # The loudest peak decides how high all may stand together.
    room = min(
        20
        * np.log10(MOST_TRUE_PEAK / true_peak(np.asarray(s * 10 ** ((TARGET_LUFS - lufs) / 20), np.float32)[:, None]))
        for _, s, lufs in made
    )
    target = TARGET_LUFS + min(0.0, float(room))
    tracks = []
    for c, sound, level in made:
        gain = target - level
        matched = sound * 10 ** (gain / 20)
        file = _keep(home, write_wav(matched, RATE), "take")
        tracks.append(Track(c.id, _label(c), file, loudness(matched, RATE) or target, gain))
    yield Rendered(tuple(tracks), len(dry) / RATE)
