"""The Load feel section: what every load does to an amp, as curves, and what corrects it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from low_tide.app import bench, picks
from low_tide.app.errors import Invalid, NotFound
from low_tide.app.locker import GearName
from low_tide.app.picks import Pick
from low_tide.core.audio.correction import Equalisation, correction_words, fit_bands, fit_graphic, minimum_phase_fir
from low_tide.core.circuit.amplifier import DAMPING_NAMES, DAMPING_PRESETS
from low_tide.core.frequency import Real, frequency_grid
from low_tide.core.gear.pedal import band_control
from low_tide.core.inventory import Amp, Attenuator, Pedal
from low_tide.core.power.load_feel import (
    RESISTOR,
    Contender,
    FeelSet,
    PadSet,
    contenders,
    feel_set,
    jack_response,
    pad_set,
)
from low_tide.core.power.load_feel import tap_for as nearest_tap
from low_tide.core.rig.changes import Change, SetControl
from low_tide.core.rig.rig import Rig
from low_tide.formats.recording import write_wav
from low_tide.formats.tables import bands_csv

SHOWN_EVERY = 4
"""Curves are drawn from every fourth point of the grid."""

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
    """All contenders on one amp. `here`: ids of those that the hook-up on the bench uses; `first`: of those to draw
    before anybody has picked. `playing`: amp, mode and guitar in words; `picked`: what one has picked for them."""

    amp: str
    amps: tuple[AmpChoice, ...]
    damping_typical: bool
    feels: FeelSet
    here: tuple[str, ...]
    first: tuple[str, ...]
    pads: tuple[GearName, ...]
    dampings: tuple[Damping, ...]
    playing: str = ""
    picked: Pick | None = None
    equalisers: tuple[GearName, ...] = ()


@dataclass(frozen=True)
class BandSetting:
    """A control of an equaliser, and where it goes, dB."""

    label: str
    value: float


@dataclass(frozen=True)
class PedalSetting:
    """An owned equaliser set to a correction: its controls, and as changes where it is in the hook-up."""

    unit: str
    name: str
    settings: tuple[BandSetting, ...]
    changes: tuple[Change, ...]


@dataclass(frozen=True)
class Corrected:
    """A correction, and which contender it makes sound like which. `frequency` in Hz goes with its curves; `pedal` is
    the equaliser it is fitted to, where one was named."""

    source: str
    like: str
    frequency: tuple[float, ...]
    correction: Equalisation
    words: str
    pedal: PedalSetting | None = None


def _amps(rig: Rig) -> list[Amp]:
    own = [amp for _, amp in rig.amps()]
    return own + [g for g in rig.gear.values() if isinstance(g, Amp) and not g.archived and g not in own]


def chosen_amp(rig: Rig, amp_id: str, damping: float | None) -> tuple[str, tuple[float, ...], float, bool]:
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


def find(found: tuple[Contender, ...], wanted: str, field: str) -> Contender:
    """The contender of that id; NotFound, with the field it was asked for in, without one."""
    each = next((c for c in found if c.id == wanted), None)
    if each is None:
        raise NotFound(f"{field}: there is no load “{wanted}” in the locker.")
    return each


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
    find(found, reference, "Reference")
    amp_id, taps, factor, typical = chosen_amp(rig, amp, damping)
    made = feel_set(found, taps, factor, reference)
    feels = tuple(replace(f, difference=_thinned(f.difference), magnitude=_thinned(f.magnitude)) for f in made.feels)
    here = _in_use(rig, found)
    return FeelState(
        amp_id,
        tuple(AmpChoice(a.id, a.name, a.damping(), a.damping_factor is None) for a in _amps(rig)),
        typical,
        replace(made, frequency=_thinned(made.frequency), feels=feels),
        here,
        _first(made, here),
        tuple(GearName(g.id, g.name) for g in rig.gear.values() if isinstance(g, Attenuator) and not g.archived),
        tuple(Damping(DAMPING_NAMES[kind], factor) for kind, factor in DAMPING_PRESETS.items()),
        (what := picks.playing(rig, amp_id)).words,
        picks.picked(what),
        tuple(GearName(g.id, g.name) for g in rig.gear.values() if _is_equaliser(g)),
    )


def pick(hookup_id: str, choice: str, amp: str = "") -> None:
    """Pick a load for what is played in a hook-up; an empty one takes the pick back."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    amp_id = chosen_amp(rig, amp, None)[0]
    if not amp_id:
        raise Invalid("Pick: there is no amp in this hook-up to pick it for.")
    each = find(contenders(rig.gear), choice, "Pick") if choice else None
    picks.keep(picks.playing(rig, amp_id), each)


MOST_AT_FIRST = 4
LIVELY_DB = 1.0
"""A load whose curve lifts 2 to 5 kHz by more than this is a telling one to show beside a resistor."""


def _first(feels: FeelSet, here: tuple[str, ...]) -> tuple[str, ...]:
    """The reference, what is on the bench, a load with a curve, and a cabinet."""
    load = next((f.id for f in feels.feels if f.kind == "load" and f.presence > LIVELY_DB), None)
    cabinet = next((f.id for f in feels.feels if f.kind == "cabinet"), None)
    wanted = (feels.reference, *here, load, cabinet)
    return tuple(dict.fromkeys(id for id in wanted if id is not None))[:MOST_AT_FIRST]


def pads(hookup_id: str, pad: str, cabinet: str, amp: str = "", damping: float | None = None) -> PadSet:
    """How an attenuator takes a cabinet's own curve away."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    box = rig.gear.get(pad)
    if not isinstance(box, Attenuator):
        raise NotFound(f"There is no attenuator “{pad}” in the locker.")
    each = find(contenders(rig.gear), cabinet, "Cabinet")
    made = pad_set(box, each, chosen_amp(rig, amp, damping)[2])
    steps = tuple(replace(s, response=_thinned(s.response)) for s in made.steps)
    return replace(made, frequency=_thinned(made.frequency), steps=steps)


def _target(rig: Rig, source: str, like: str, amp: str, damping: float | None) -> tuple[Contender, Contender, Real]:
    if source == like:
        raise Invalid("Like: it is the same as the one to be corrected; choose another.")
    found = contenders(rig.gear)
    first, second = find(found, source, "From"), find(found, like, "Like")
    _, taps, factor, _ = chosen_amp(rig, amp, damping)
    f = frequency_grid()
    h1, h2 = (jack_response(c, nearest_tap(c.nominal, taps), factor, f) for c in (first, second))
    return first, second, 20 * np.log10(np.abs(h2 / h1))


def _is_equaliser(unit: object) -> bool:
    return isinstance(unit, Pedal) and unit.does == "equaliser" and not unit.archived


def _pedal(rig: Rig, pedal_id: str) -> Pedal:
    found = rig.gear.get(pedal_id)
    if not isinstance(found, Pedal) or found.does != "equaliser":
        raise NotFound(f"There is no equaliser “{pedal_id}” in the locker.")
    return found


def _set_to(rig: Rig, pedal: Pedal, made: Equalisation) -> PedalSetting:
    """A pedal's controls for a correction; its output level keeps the level as it was, as far as that goes."""
    gains = {band.frequency: band.gain for band in made.bands}
    level = round(min(pedal.output_reach, max(-pedal.output_reach, made.gain)) * 2) / 2
    controls = [(band_control(f), f"{f:g} Hz", gains.get(f, 0.0)) for f in pedal.bands]
    controls.append(("volume", "output level", level))
    return PedalSetting(
        pedal.id,
        pedal.name,
        tuple(BandSetting(label, value) for _, label, value in controls),
        tuple(SetControl(pedal.id, control, value) for control, _, value in controls) if rig.has(pedal.id) else (),
    )


def correction(
    hookup_id: str,
    source: str,
    like: str,
    rate: int,
    amp: str = "",
    damping: float | None = None,
    pedal_id: str = "",
) -> Corrected:
    """Bands at a rate (Hz), or those of an owned equaliser, that make one contender sound like another on this amp, at
    low level."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    first, second, target = _target(rig, source, like, amp, damping)
    pedal = _pedal(rig, pedal_id) if pedal_id else None
    made = fit_graphic(target, pedal.bands, pedal.band_reach) if pedal else fit_bands(target, rate)
    shown = replace(made, target=_thinned(made.target), fitted=_thinned(made.fitted))
    frequency = tuple(frequency_grid()[::SHOWN_EVERY].tolist())
    words = correction_words(made, first.label, second.label)
    if pedal:
        words = f"{words.partition(', as digital')[0]}, on {pedal.name}."
    return Corrected(first.label, second.label, frequency, shown, words, _set_to(rig, pedal, made) if pedal else None)


def correction_csv(found: Corrected) -> str:
    """A correction's bands as CSV."""
    return bands_csv(found.correction)


def correction_wav(
    hookup_id: str, source: str, like: str, rate: int, amp: str = "", damping: float | None = None
) -> bytes:
    """A correction as a minimum-phase impulse response in a WAV file of 32-bit floats."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    return write_wav(minimum_phase_fir(_target(rig, source, like, amp, damping)[2], rate), rate, "FLOAT")
