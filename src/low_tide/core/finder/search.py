"""The search itself: screens candidates, builds and judges the best of each way, ranks them with reasons."""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import count

import numpy as np

from low_tide.core.circuit.network import Network, NetworkError, input_impedance
from low_tide.core.finder.assemble import NoWay, assemble
from low_tide.core.finder.candidates import HARDLY_OFF_DB, Candidate, Screened, amps_and_taps, screen
from low_tide.core.finder.direct import direct
from low_tide.core.finder.ways import CON, PRO, WAY_NAMES, candidates_of, missing
from low_tide.core.finder.wish import WAYS_OF, Proposal, RuledOut, Specification, Way, WayAdvice, Wish
from low_tide.core.frequency import frequency_grid, programme_weights
from low_tide.core.gear.base import Site
from low_tide.core.inventory import Amp, Attenuator, Cabinet, Lead, Unit
from low_tide.core.judging.findings import RANK
from low_tide.core.judging.judge import Judgement, judge, mends
from low_tide.core.power.speaker_network import outputs, real_network
from low_tide.core.preferences import MARGIN_NAMES, MARGINS, Preferences
from low_tide.core.rig.changes import changed
from low_tide.core.rig.hookup import Hookup, HookupError
from low_tide.core.rig.known import Known
from low_tide.core.rig.rig import GearById, Rig
from low_tide.core.rig.words import control_words
from low_tide.core.rig.worth import in_money, worth, worth_words
from low_tide.core.units import db, figure, in_ohms, in_watts, level_figure

BUILT_OF_EACH_WAY = 8
MOST_PROPOSED = 12
MOST_ALIKE = 3
MOST_RULED_OUT = 12
WORSE_BY_A_LEAD = 0.5
"""What a lead that has to be got first adds to a proposal's score."""
TELL_EVERY = 250
TARGET_DBFS = -12.0
NO_DIFFERENCE_DB = 0.05
LIGHT_WAYS: tuple[Way, ...] = ("loop", "master", "inline", "barely", "direct")
"""Ways in which the power stage works less, or there is none: ranked after those that keep it working."""


@dataclass(frozen=True)
class Progress:
    """How far the search is: candidates looked at, and what it is doing."""

    looked_at: int
    doing: str


@dataclass(frozen=True)
class Answer:
    """What was found: proposals best first, what was ruled out, advice on the ways, and what would do it."""

    looked_at: int
    proposals: tuple[Proposal, ...]
    ruled_out: tuple[RuledOut, ...]
    ways: tuple[WayAdvice, ...]
    specification: Specification | None
    stopped: bool = False


NOTHING_MEASURED = Known()


def search(
    wish: Wish,
    gear: GearById,
    preferences: Preferences | None = None,
    now: Hookup | None = None,
    stop: Callable[[], bool] = lambda: False,
    known: Known = NOTHING_MEASURED,
) -> Iterator[Progress | Answer]:
    """Look for hook-ups that fulfil a wish; tells how far it is and ends with one Answer.

    `stop` is asked now and then; once true, the answer holds what was found so far. `known`: what readings
    taught, which counts for proposals as it does on the bench.
    """
    schools = preferences or Preferences()
    units = tuple(gear.values())
    best: dict[Way, list[tuple[float, int, Screened]]] = {}
    refused: dict[str, RuledOut] = {}
    passed: set[str] = set()
    order, looked, stopped = count(), 0, False
    for base in amps_and_taps(units, wish.amp):
        for way in WAYS_OF[wish.goal]:
            for candidate in candidates_of(way, base, units, wish):
                looked += 1
                found = screen(candidate, schools)
                _note(found, wish, refused, passed)
                if found.severity != "stop" and _is_near(candidate, wish):
                    heap = best.setdefault(way, [])
                    heapq.heappush(heap, (-_rough(found, wish), next(order), found))
                    if len(heap) > BUILT_OF_EACH_WAY:
                        heapq.heappop(heap)
                if looked % TELL_EVERY == 0:
                    yield Progress(looked, "looking through what you own")
        if stop():
            stopped = True
            break
    yield Progress(looked, "building and judging the best of each way")
    proposals: list[Proposal] = []
    unbuilt: dict[Way, str] = {}
    for way, heap in best.items():
        for _, _, found in sorted(heap, key=lambda item: -item[0]):
            if stop():
                stopped = True
                break
            made = _propose(found.candidate, wish, gear, schools, now, known)
            if isinstance(made, NoWay):
                unbuilt.setdefault(way, made.why)
            else:
                proposals.append(made)
        yield Progress(looked, f"{len(proposals)} judged")
    if "direct" in WAYS_OF[wish.goal] and (wish.goal == "direct" or not wish.amp):
        for rig in direct(gear, now):
            looked += 1
            made = rig if isinstance(rig, NoWay) else _without_amp(rig, gear, schools, now, known)
            if isinstance(made, NoWay):
                unbuilt.setdefault("direct", made.why)
            else:
                proposals.append(made)
    ranked = _varied(sorted(proposals, key=lambda p: p.score))
    yield Answer(
        looked,
        ranked,
        tuple(r for unit, r in refused.items() if unit not in passed)[:MOST_RULED_OUT],
        _advice(wish, units, tuple(sorted(proposals, key=lambda p: p.score)), best, unbuilt),
        None if ranked else specification(wish, units, schools),
        stopped,
    )


def _varied(proposals: list[Proposal]) -> tuple[Proposal, ...]:
    """The best, but no more than a few that differ only in the cabinet."""
    found: list[Proposal] = []
    seen: dict[tuple[Way, tuple[str, ...]], int] = {}
    for proposal in proposals:
        key = (proposal.way, tuple(p.unit for p in proposal.hookup.units[:2]))
        seen[key] = seen.get(key, 0) + 1
        if seen[key] <= MOST_ALIKE and len(found) < MOST_PROPOSED:
            found.append(proposal)
    return tuple(found)


def _note(found: Screened, wish: Wish, refused: dict[str, RuledOut], passed: set[str]) -> None:
    """Keep why gear will not do, rating before match; gear that does somewhere is not ruled out."""
    candidate = found.candidate
    if found.severity == "stop":
        unit = candidate.box if candidate.box and candidate.box.id == found.blames else candidate.cabinet
        unit = unit or candidate.box
        if unit and (unit.id not in refused or not found.match):
            refused[unit.id] = RuledOut(unit.id, unit.name, f"{found.why}.")
        return
    if not _is_near(candidate, wish) and candidate.box and candidate.down_db is not None:
        off = f"the nearest it comes is {figure(candidate.down_db, 2)} dB down"
        refused[candidate.box.id] = RuledOut(candidate.box.id, candidate.box.name, f"{off[:1].upper()}{off[1:]}.")
        return
    passed.update(u.id for u in (candidate.box, candidate.cabinet) if u)


def _is_near(candidate: Candidate, wish: Wish) -> bool:
    wanted = wish.wanted_db()
    if wanted is None or candidate.down_db is None:
        return True
    return abs(candidate.down_db - wanted) <= HARDLY_OFF_DB


def _rough(found: Screened, wish: Wish) -> float:
    """A score before building: cautions, distance from the wish, little margin. Lower is better."""
    candidate, wanted = found.candidate, wish.wanted_db()
    off = abs(candidate.down_db - wanted) if wanted is not None and candidate.down_db is not None else 0.0
    margin = candidate.margin_db()
    return (found.severity == "caution") + off / 3 + max(0.0, 3 - margin if np.isfinite(margin) else 3.0) / 3


def _propose(
    candidate: Candidate, wish: Wish, gear: GearById, preferences: Preferences, now: Hookup | None, known: Known
) -> Proposal | NoWay:
    name = _name(candidate)
    rig = assemble(candidate, gear, now, wish.wants_line(), name)
    if isinstance(rig, NoWay):
        return rig
    judged = taped(_levelled(judge(replace(rig, known=known), preferences)))
    if judged.verdict.severity == "stop":
        return NoWay(judged.findings[0].text.rstrip("."))
    wanted = wish.wanted_db()
    off = abs(candidate.down_db - wanted) if wanted is not None and candidate.down_db is not None else None
    chosen = gear.get(wish.cabinet)
    likeness = likeness_db(judged.case.rig, chosen) if isinstance(chosen, Cabinet) else None
    built = _built(judged, gear, now)
    made = _proposal(candidate.way, name, judged, built, candidate.down_db)
    more = (
        (off or 0.0) / 3
        + (likeness or 0.0) / 6 * (preferences.load == "reactive")
        + (1.0 if candidate.amp.technology == "transistor" and not wish.amp else 0.0)
    )
    return replace(
        made,
        score=round(made.score + more, 3),
        off_db=off,
        likeness_db=likeness,
        why=_why(candidate, built.margin, built.dbfs, off, likeness, built.differing, now),
        costs=(*_costs(candidate, judged), *made.costs),
    )


def _without_amp(
    rig: Rig, gear: GearById, preferences: Preferences, now: Hookup | None, known: Known
) -> Proposal | NoWay:
    judged = _levelled(judge(replace(rig, known=known), preferences))
    if judged.verdict.severity == "stop":
        return NoWay(judged.findings[0].text.rstrip("."))
    made = _proposal("direct", rig.hookup.name, judged, _built(judged, gear, now), None)
    why = [PRO["direct"][:1].upper() + PRO["direct"][1:] + "."]
    if made.dbfs is not None:
        why.append(f"Peaks about {level_figure(made.dbfs)} dBFS at the converter.")
    return replace(made, why=tuple(why), costs=(CON["direct"][:1].upper() + CON["direct"][1:] + ".", *made.costs))


@dataclass(frozen=True)
class _Built:
    """What is told of a built hook-up: least room to a rating (dB), peaks at the converter (dBFS), leads to move from
    what is on the bench, leads it takes that nobody owns."""

    margin: float | None
    dbfs: float | None
    differing: int
    needs: tuple[Lead, ...]


def _built(judged: Judgement, gear: GearById, now: Hookup | None) -> _Built:
    rig = judged.case.rig
    used = (rig.gear[link.lead] for link in rig.hookup.links if link.lead not in gear)
    return _Built(
        min((s.margin_db for s in judged.case.shares if s.margin_db is not None), default=None),
        max((p.dbfs for p in judged.case.line_points if p.dbfs is not None), default=None),
        _differing(rig.hookup, now),
        tuple(lead for lead in used if isinstance(lead, Lead)),
    )


def _proposal(way: Way, name: str, judged: Judgement, built: _Built, down_db: float | None) -> Proposal:
    """What is the same for every proposal, with the score all have in common."""
    rig = judged.case.rig
    whole = worth(rig.gear[u] for u in (*(p.unit for p in rig.hookup.units), *(k.lead for k in rig.hookup.links)))
    score = (
        judged.verdict.cautions * 0.7
        + max(0.0, 3 - (built.margin if built.margin is not None else 0.0)) / 3
        + (abs(built.dbfs - TARGET_DBFS) / 12 if built.dbfs is not None else 0.0)
        + 0.08 * built.differing
        + WORSE_BY_A_LEAD * len(built.needs)
        + (1.5 if way in LIGHT_WAYS else 0.0)
    )
    return Proposal(
        way=way,
        name=name,
        hookup=rig.hookup,
        severity=judged.verdict.severity,
        words=judged.verdict.words,
        score=round(score, 3),
        margin_db=built.margin,
        down_db=down_db,
        off_db=None,
        dbfs=built.dbfs,
        likeness_db=None,
        changes=built.differing,
        figures=_figures(built.margin, down_db, built.dbfs),
        why=(),
        costs=tuple(f"wants a lead you do not have: {lead.name}" for lead in built.needs),
        needs=built.needs,
        worth=whole,
        worth_words=worth_words(whole, judged.case.preferences.currency),
    )


def _figures(margin: float | None, down: float | None, dbfs: float | None) -> tuple[str, ...]:
    found = (
        f"{level_figure(margin)} dB to spare" if margin is not None else "",
        f"{figure(down)} dB down" if down is not None and down > NO_DIFFERENCE_DB else "",
        f"{level_figure(dbfs)} dBFS" if dbfs is not None else "",
    )
    return tuple(said for said in found if said)


def _name(c: Candidate) -> str:
    mode = f" {c.mode.name}" if len(c.amp.modes) > 1 else ""
    tap = f", {in_ohms(c.tap.impedance)} tap" if len(c.amp.taps) > 1 else ""
    ohms = f" at {c.settings['impedance']} Ω" if "impedance" in c.settings else ""
    box = f" · {c.box.name}{ohms}" if c.box else ""
    cab = f" · {c.cabinet.name}" if c.cabinet else ""
    return f"{c.amp.name}{mode}{tap}{box}{cab}"


def _levelled(judged: Judgement) -> Judgement:
    """The same with pot, gain or phantom set as the checks' own fixes say, where that mends and costs nothing."""
    for _ in range(3):
        finding = next((f for f in judged.findings if f.id in ("converter-low", "converter-clips") and f.fixes), None)
        if finding is None:
            return judged
        fix = next((f for f in finding.fixes if mends(f, finding, judged)), None)
        if fix is None:
            return judged
        try:
            judged = judge(changed(judged.case.rig, fix.changes), judged.case.preferences)
        except HookupError:
            return judged
    return judged


def taped(judged: Judgement) -> Judgement:
    """The same with all taped that is one movement from a stop, and a re-amplifier's volume where it must stop."""
    tapes = [
        change
        for f in judged.findings
        if f.id in ("one-movement", "reamp-over-speaker") and f.severity == "caution"
        for fix in f.fixes
        for change in fix.changes
    ]
    return judge(changed(judged.case.rig, tapes), judged.case.preferences) if tapes else judged


def _differing(hookup: Hookup, now: Hookup | None) -> int:
    """Leads to move or put away to get from the hook-up on the bench to this one."""
    before = {(k.lead, frozenset(k.ends())) for k in now.links} if now else set()
    after = {(k.lead, frozenset(k.ends())) for k in hookup.links}
    return len(before ^ after)


def cabinet_curve(cabinet: Cabinet) -> np.ndarray:
    """|Z| of a cabinet by itself on the usual grid, Ω, shape (F,)."""
    frequency = frequency_grid()
    settings = {c.id: c.default for c in cabinet.controls()}
    parts = cabinet.parts(Site(cabinet.id, settings, frozenset({"in1"}), frequency))
    return np.abs(input_impedance(Network(parts.elements, parts.joints, len(frequency)), f"{cabinet.id}.in1"))


def likeness_db(rig: Rig, cabinet: Cabinet) -> float | None:
    """How far the shape of the curve the amp sees strays from a cabinet's: programme-weighted RMS, dB; None when open.

    Shape alone: both curves are taken against their own programme mean.
    """
    frequency = frequency_grid()
    output = outputs(rig)[0]
    try:
        seen = np.abs(input_impedance(real_network(rig, frequency), output.node))
    except NetworkError:
        return None
    if not np.isfinite(seen).all() or (seen <= 0).any():
        return None
    weights = programme_weights(len(frequency))
    shapes = [20 * np.log10(curve) for curve in (seen, cabinet_curve(cabinet))]
    first, second = (shape - weights @ shape for shape in shapes)
    return float(np.sqrt(weights @ (first - second) ** 2))


def _why(
    c: Candidate,
    margin: float | None,
    dbfs: float | None,
    off: float | None,
    likeness: float | None,
    differing: int,
    now: Hookup | None,
) -> tuple[str, ...]:
    found = [f"{c.amp.name} sees {in_ohms(c.seen)} on its {in_ohms(c.tap.impedance)} tap."]
    if margin is not None:
        found.append(f"Least room to a rating, flat out: {level_figure(margin)} dB.")
    if c.down_db is not None and c.way not in LIGHT_WAYS:
        exact = "" if off is None else (", as wished" if off < 0.5 else f", {figure(off, 2)} dB off the wish")
        found.append(f"About {figure(c.down_db, 2)} dB down at the speaker{exact}.")
    if dbfs is not None:
        found.append(f"Peaks about {level_figure(dbfs)} dBFS at the converter.")
    if likeness is not None:
        found.append(f"The curve it sees strays {figure(likeness, 2)} dB from the chosen cabinet's.")
    if now and now.links:
        found.append(f"{differing} lead{'s' if differing != 1 else ''} to move from what is on the bench.")
    return tuple(found)


def _costs(c: Candidate, judged: Judgement) -> tuple[str, ...]:
    found = [CON[c.way][:1].upper() + CON[c.way][1:] + "."]
    if isinstance(c.box, Attenuator):
        deep = (c.down_db or 0) >= 10
        found = ["A curve of its own stands in for the cabinet's."] if c.box.behaviour == "reactive" else []
        if not found and deep:
            found = ["At this step the amp no longer feels the cabinet's own curve, only a resistor."]
    if c.amp.technology == "transistor":
        found.append("A transistor power stage has next to no sound of its own to catch.")
    rig = judged.case.rig
    guards = ((p.unit, rig.control(p.unit, key)) for p in rig.hookup.units for key in p.guarded)
    said = [f"{control_words(control)} of {rig.name(unit)}" for unit, control in guards if control]
    if said:
        found.append(f"Wants tape, so that no hand moves it by the way: {', '.join(said)}.")
    found += [f.text for f in judged.findings if RANK[f.severity] == RANK["caution"]]
    return tuple(found)


def _advice(
    wish: Wish,
    units: tuple[Unit, ...],
    proposals: tuple[Proposal, ...],
    best: dict[Way, list[tuple[float, int, Screened]]],
    unbuilt: dict[Way, str],
) -> tuple[WayAdvice, ...]:
    found = []
    leading = proposals[0].way if proposals else None
    for way in WAYS_OF[wish.goal]:
        serves = [p for p in proposals if p.way == way]
        if way == leading:
            standing = "recommended here"
        elif serves:
            standing = "possible"
        elif way in unbuilt:
            standing = f"not here: {unbuilt[way]}"
        elif way in best:
            standing = "not among the best"
        else:
            standing = f"not here: {_why_none(way, units, wish)}"
        found.append(WayAdvice(way, WAY_NAMES[way], bool(serves), standing, PRO[way], CON[way]))
    return tuple(found)


def _why_none(way: Way, units: tuple[Unit, ...], wish: Wish) -> str:
    some = [c for base in amps_and_taps(units, wish.amp) for c in candidates_of(way, base, units, wish)]
    if not some:
        return missing(way, units, wish)
    near = [c for c in some if _is_near(c, wish)]
    if not near and some[0].down_db is not None:
        nearest = min(some, key=lambda c: abs((c.down_db or 0.0) - (wish.wanted_db() or 0.0)))
        return f"the nearest it comes is {figure(nearest.down_db or 0.0, 2)} dB down"
    return "nothing owned matches the tap and stands the power"


def specification(wish: Wish, units: tuple[Unit, ...], preferences: Preferences) -> Specification | None:
    """What would do it, for the amp meant (or the strongest owned): ohms, watts of which kind, sockets, steps."""
    amps = [u for u in units if isinstance(u, Amp) and not u.archived and (not wish.amp or u.id == wish.amp)]
    if not amps:
        return None
    amp = max(amps, key=lambda a: a.modes[0].power)
    chosen = next((u for u in units if isinstance(u, Cabinet) and u.id == wish.cabinet), None)
    wanted = chosen.nominal() if chosen else 8.0
    tap = min(amp.taps, key=lambda t: abs(db(t.impedance / wanted)))
    label = amp.modes[0].power
    flat = label * amp.flat_out_factor()
    watts = max(flat, MARGINS[preferences.margin] * label)
    ohms = tap.impedance * amp.modes[0].load_factor
    kind = {
        "silent": "A load box",
        "reamped": "A load box with an amplifier behind it",
        "cupboard": "A cabinet",
        "loop": "A volume box for an effects loop",
    }.get(wish.goal, "An attenuator")
    steps = ""
    if wish.goal in ("down", "about_3"):
        down = wish.wanted_db() or 0.0
        steps = f"a step within {figure(HARDLY_OFF_DB)} dB of {figure(down)} dB, or a knob that covers it"
    line = ", a line out" if wish.wants_line() and wish.goal != "loop" else ""
    sockets = f"a speaker socket for the amp{'' if wish.goal == 'silent' else ', one for the cabinet'}{line}"
    reasons = f"{amp.name}: {in_watts(label)} on the label, about {in_watts(flat)} flat out"
    text = (
        f"{kind}: {in_ohms(ohms)}, at least {in_watts(watts)} continuous ({reasons}; your margin is"
        f" {MARGIN_NAMES[preferences.margin]}); {sockets}{'; ' + steps if steps else ''}."
    )
    bounds = [
        *([in_money(wish.most_price, preferences.currency)] if wish.most_price is not None else []),
        *([f"{figure(wish.most_weight)} kg"] if wish.most_weight is not None else []),
    ]
    if bounds:
        text = f"{text.removesuffix('.')}; at most {' and '.join(bounds)}."
    if wish.goal == "loop":
        text = f"{kind}, line level in and out, and an amp with an effects loop."
    return Specification(text, ohms, watts, "continuous", sockets, steps)
