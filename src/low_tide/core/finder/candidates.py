"""Candidates: amp, tap, mode and box put together on paper, quickly screened by the rules of match and rating.

Closed forms of the nominal network of each way stand in for the whole hook-up here; whatever is proposed in
the end is built as a real one and judged by every check.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from math import inf, log10

from low_tide.core.circuit.attenuator import l_pad
from low_tide.core.finder.wish import Way
from low_tide.core.gear.abilities import IsRated
from low_tide.core.gear.amp import PowerMode, Tap
from low_tide.core.gear.base import Setting
from low_tide.core.inventory import Amp, Attenuator, Cabinet, Load, Pedal, ReAmp, Unit
from low_tide.core.judging.checks.match import is_listed
from low_tide.core.judging.checks.match import severity_of as match_severity
from low_tide.core.judging.checks.power import severity_of as rating_severity
from low_tide.core.judging.findings import RANK, Severity
from low_tide.core.power.shares import Share
from low_tide.core.preferences import Preferences
from low_tide.core.units import db, from_db_power, in_ohms, in_watts, parallel

HARDLY_OFF_DB = 3.0
"""A step further off than this is no answer to a wished-for level."""


@dataclass(frozen=True)
class Take:
    """Watts that a unit gets, against its rating."""

    unit: Unit
    label: float
    flat: float
    rating: float | None
    kind: str


@dataclass(frozen=True)
class Candidate:
    """One way to hook an amp up. `seen`: Ω by rating. `down_db`: at the speaker under full, None without one."""

    way: Way
    amp: Amp
    tap: Tap
    mode: PowerMode
    seen: float
    takes: tuple[Take, ...]
    down_db: float | None
    box: Unit | None = None
    cabinet: Cabinet | None = None
    settings: Mapping[str, Setting] = field(default_factory=dict)

    def margin_db(self) -> float:
        """Least room to a rating, flat out, in dB; −inf where one is not known."""
        return min((db(t.rating / t.flat) if t.rating and t.flat > 0 else -inf for t in self.takes), default=0.0)


@dataclass(frozen=True)
class Screened:
    """A candidate and the severity the rules of match and rating give it; `why` says what is against it.

    `match`: it is the match that is against it, which another tap may mend.
    """

    candidate: Candidate
    severity: Severity
    why: str
    blames: str
    match: bool = False


def powers_into(amp: Amp, mode: PowerMode, tap: Tap, seen: float) -> tuple[float, float]:
    """Label and flat-out watts at the jack into `seen` Ω, as ratings count them, a built-in attenuator's part taken."""
    factor = tap.impedance / seen if amp.is_source_of_voltage() and seen > 0 else 1.0
    factor *= mode.stage_power() * padded(tap.impedance, mode.attenuation, seen)[1]
    return factor, factor * amp.flat_out_factor()


def screen(c: Candidate, preferences: Preferences) -> Screened:
    """Match and rating of a candidate, by the same rules as the checks."""
    wanted = c.tap.impedance * c.mode.load_factor
    severity: Severity = "fine"
    if c.amp.technology == "valve":
        ratio = padded(c.tap.impedance, c.mode.attenuation, c.seen)[0] / wanted
        severity = match_severity(ratio, preferences.match)
        if c.tap.permitted:
            severity = "fine" if _listed(c) else "stop"
        if severity == "stop":
            why = f"{c.amp.name} would see {in_ohms(c.seen)} on its {in_ohms(c.tap.impedance)} tap"
            return Screened(c, "stop", why, _blamed(c), match=True)
    else:
        if c.amp.minimum_load is None:
            severity = "caution"
        elif c.seen < c.amp.minimum_load * 0.998:
            why = f"{c.amp.name} would see {in_ohms(c.seen)}, under its minimum of {in_ohms(c.amp.minimum_load)}"
            return Screened(c, "stop", why, _blamed(c), match=True)
    worst, why, blames = severity, "", ""
    for t in c.takes:
        # A proposal is meant to be played on, so the watts flat out count, not only the label's.
        share = Share(t.unit.id, "", t.flat, t.label, t.flat, t.flat, "", t.rating, t.kind, None)
        found = rating_severity(share, preferences.margin)
        if RANK[found] > RANK[worst] or (RANK[found] == RANK[worst] and found != "fine" and not why):
            worst, blames = found, t.unit.id
            stands = "its rating is not known" if t.rating is None else f"it stands {in_watts(t.rating)}"
            why = f"{stands}; flat out it gets {in_watts(t.flat)} from {c.amp.name}"
    return Screened(c, worst, why, blames)


def _listed(c: Candidate) -> bool:
    return is_listed(padded(c.tap.impedance, c.mode.attenuation, c.seen)[0], c.tap.permitted)


def _blamed(c: Candidate) -> str:
    unit = c.box or c.cabinet
    return unit.id if unit else c.amp.id


def taken(unit: Unit, label: float, flat: float) -> Take:
    """Watts into a unit as a whole, with the rating it has for them."""
    if isinstance(unit, Cabinet):
        ratings = [d.rating for d in unit.drivers]
        whole = unit.rating
        if whole is None and None not in ratings:
            whole = sum(r or 0.0 for r in ratings)
        return Take(unit, label, flat, whole, "continuous")
    if isinstance(unit, IsRated):
        return Take(unit, label, flat, unit.rating, unit.rating_kind)
    return Take(unit, label, flat, None, "continuous")


def amps_and_taps(gear: Iterator[Unit] | tuple[Unit, ...], amp: str) -> Iterator[tuple[Amp, Tap, PowerMode]]:
    """Every amp that may be meant, with each of its taps and power modes; modes a technician must confirm are left."""
    for unit in gear:
        if isinstance(unit, Amp) and not unit.archived and (not amp or unit.id == amp):
            for mode in unit.modes:
                if not mode.technician or mode.confirmed:
                    yield from ((unit, tap, mode) for tap in unit.taps)


def cabinets_for(gear: tuple[Unit, ...], amp: Amp, chosen: str) -> Iterator[Cabinet]:
    """Cabinets that can be driven by this amp: not the speaker inside another combo."""
    for unit in gear:
        if not isinstance(unit, Cabinet) or unit.archived or (chosen and unit.id != chosen):
            continue
        if unit.own_lead is None or amp.inner_speaker == unit.id:
            yield unit


Base = tuple[Amp, Tap, PowerMode]


def loads(base: Base, gear: tuple[Unit, ...]) -> Iterator[Candidate]:
    """Load boxes of the locker that are not put away."""
    amp, tap, mode = base
    for unit in gear:
        if not isinstance(unit, Load) or unit.archived:
            continue
        for ohms in unit.impedances:
            label, flat = powers_into(amp, mode, tap, ohms)
            settings = {"impedance": f"{ohms:g}"} if len(unit.impedances) > 1 else {}
            yield Candidate("load", amp, tap, mode, ohms, (taken(unit, label, flat),), None, unit, None, settings)


def padded(z: float, step: float, load: float) -> tuple[float, float]:
    """Input impedance (Ω) of an L-pad of `step` dB into `z` Ω with `load` Ω behind it, and the part of the power
    that reaches the load."""
    if step == 0:
        return load, 1.0
    series, shunt = l_pad(step, z)
    behind = parallel(shunt, load)
    return series + behind, behind / (series + behind) * (behind / load)


def attenuators(base: Base, gear: tuple[Unit, ...], cabinet: str, wanted_db: float) -> Iterator[Candidate]:
    """Attenuators of the locker that are not put away."""
    amp, tap, mode = base
    for unit in gear:
        if not isinstance(unit, Attenuator) or unit.archived:
            continue
        for cab in cabinets_for(gear, amp, cabinet):
            step = unit.nearest(wanted_db)
            if step is None:
                continue  # nobody knows what any of its positions takes
            seen, part = padded(unit.impedance, unit.decibels(step), cab.nominal())
            label, flat = powers_into(amp, mode, tap, seen)
            takes = [_attenuator_take(unit, cab, label, flat)]
            # A hand can reach every step: the cabinet counts the most it can get. A bypass switch is taped.
            most = _most_through(unit, cab)
            takes.append(taken(cab, label * most, flat * most))
            yield Candidate(
                "attenuator",
                amp,
                tap,
                mode,
                seen,
                tuple(takes),
                -db(part),
                unit,
                cab,
                {"step": step},
            )


def _attenuator_take(unit: Attenuator, cab: Cabinet, label: float, flat: float) -> Take:
    if unit.rating_kind == "amp_label":
        return taken(unit, label, flat)
    heat = 1 - padded(unit.impedance, unit.range_db()[1], cab.nominal())[1]
    return taken(unit, label * heat, flat * heat)


def _most_through(unit: Attenuator, cab: Cabinet) -> float:
    return padded(unit.impedance, unit.range_db()[0], cab.nominal())[1]


def splits(base: Base, gear: tuple[Unit, ...], cabinet: str) -> Iterator[Candidate]:
    """A load beside the cabinet: on two jacks of one tap, or through the load's parallel socket."""
    amp, tap, mode = base
    for unit in gear:
        if not isinstance(unit, Load) or unit.archived:
            continue
        if unit.through != "parallel" and (tap.jacks < 2 or amp.jack_wiring != "parallel"):
            continue
        for ohms in unit.impedances:
            for cab in cabinets_for(gear, amp, cabinet):
                z = cab.nominal()
                seen = parallel(ohms, z)
                label, flat = powers_into(amp, mode, tap, seen)
                part = ohms / (ohms + z)
                settings = {"impedance": f"{ohms:g}"} if len(unit.impedances) > 1 else {}
                takes = (taken(unit, label * (1 - part), flat * (1 - part)), taken(cab, label * part, flat * part))
                yield Candidate("split", amp, tap, mode, seen, takes, -db(part), unit, cab, settings)


def reamps(base: Base, gear: tuple[Unit, ...], cabinet: str, wanted_db: float | None) -> Iterator[Candidate]:
    """Loads with an amplifier behind them that are not put away."""
    amp, tap, mode = base
    for unit in gear:
        if not isinstance(unit, ReAmp) or unit.archived:
            continue
        for cab in cabinets_for(gear, amp, cabinet):
            label, flat = powers_into(amp, mode, tap, unit.impedance)
            full = unit.inner_power * unit.inner_into / cab.nominal()
            if unit.inner_minimum is not None and cab.nominal() < unit.inner_minimum * 0.998:
                continue
            goal = flat * from_db_power(-(20.0 if wanted_db is None else wanted_db))
            volume = float(round(min(0.0, max(-60.0, 10 * log10(goal / full)))))
            out = full * from_db_power(volume)
            # Turned up it gives more; where that is over the cabinet's rating the volume is taped where it stands.
            stands = taken(cab, full, full)
            takes = (taken(unit, label, flat), stands if full <= (stands.rating or 0) else taken(cab, out, out))
            settings = {"volume": volume}
            yield Candidate("reamp", amp, tap, mode, unit.impedance, takes, -db(out / flat), unit, cab, settings)


def bare(base: Base, gear: tuple[Unit, ...], cabinet: str, way: Way, down_db: float | None) -> Iterator[Candidate]:
    """The cabinet straight on the amp, turned down by other means or not at all."""
    amp, tap, mode = base
    for cab in cabinets_for(gear, amp, cabinet):
        z = cab.nominal()
        label, flat = powers_into(amp, mode, tap, z)
        takes = (taken(cab, label, flat),)
        yield Candidate(way, amp, tap, mode, z, takes, down_db, None, cab)


def mode_down_db(amp: Amp, mode: PowerMode) -> float:
    """dB under this amp's strongest mode, at the jack."""
    strongest = max(m.jack_power() for m in amp.modes)
    return -db(mode.jack_power() / strongest)


def loop_boxes(gear: tuple[Unit, ...]) -> tuple[Pedal, ...]:
    """Volume boxes made for an effects loop."""
    return tuple(u for u in gear if isinstance(u, Pedal) and u.does == "loop_volume" and not u.archived)


def volume_boxes(gear: tuple[Unit, ...]) -> tuple[Pedal, ...]:
    """Volume boxes that go before an amp."""
    return tuple(u for u in gear if isinstance(u, Pedal) and u.does == "volume" and not u.archived)
