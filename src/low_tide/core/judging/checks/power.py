"""Power: every rating against what the amp can deliver there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from low_tide.core.inventory import Attenuator, Cabinet, Load, ReAmp, TapBox
from low_tide.core.judging.checks.load import amp_of, feeding_input, harmed_when_open
from low_tide.core.judging.checks.moves import tape
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import RANK, Finding, Fix, School, SchoolView, Severity
from low_tide.core.power.shares import Share, powers, shares
from low_tide.core.preferences import MARGIN_NAMES, MARGINS
from low_tide.core.rig.changes import AddUnit, Change, Connect, Guard, RemoveUnit, SetControl, changed
from low_tide.core.rig.doubts import on_unknown_steps
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig
from low_tide.core.units import db, figure, in_watts, level_figure

FAMILY = "Power"
HARDLY_ANY = 0.01
"""A share under this is a bridging tap, not a second load."""
LITTLE_MARGIN_DB = 0.5


def severity_of(share: Share, school: str) -> Severity:
    """How a rating stands against the watts, by the margin a school asks for.

    Over the label is a stop in every school, and so are continuous watts that are exceeded as it is played.
    """
    if share.rating is None:
        return "caution"
    if share.label > share.rating * (1 + 1e-9):
        return "stop"
    if share.rating_kind == "continuous" and share.played > share.rating * (1 + 1e-9):
        return "stop"
    if share.rating < MARGINS[school] * share.label * (1 - 1e-9):
        return "caution"
    return "caution" if share.rating_kind == "unknown" and share.flat > share.rating * (1 + 1e-9) else "fine"


def rated_name(rig: Rig, share: Share) -> str:
    """'Turnstone 2×12, driver 1': the unit and the part of it that is rated."""
    return rig.name(share.unit) + (f", {share.part}" if share.part else "")


def _bigger_load(rig: Rig, unit: str, share: Share) -> Iterator[Fix]:
    """Loads in the locker with the same impedance and a higher rating, put in this one's place."""
    old = rig.gear[unit]
    if not isinstance(old, Load):
        return
    ohms = old.nominal(rig.site(unit))
    spare = [g for g in rig.free(Load) if (g.rating or 0) > (share.rating or 0)]
    for load in sorted(spare, key=lambda g: g.rating or 0):
        matching = next((z for z in load.impedances if z == ohms), None)
        names = {s.id for s in load.sockets()}
        if matching is None or not rig.plugged(unit) <= names:
            continue
        moved: list[Change] = []
        for link in rig.hookup.links:
            if unit in {e.unit for e in link.ends()}:
                a, b = (End(load.id, e.socket) if e and e.unit == unit else e for e in (link.a, link.b))
                assert a is not None
                moved.append(Connect(link.lead, a, b))
        setting = (SetControl(load.id, "impedance", f"{matching:g}"),) if len(load.impedances) > 1 else ()
        label = f"Use {load.name} instead, {in_watts(load.rating or 0)}"
        yield Fix(label, (RemoveUnit(unit), AddUnit(load.id), *setting, *moved))


def _worth_telling(shares: tuple[Share, ...], school: str) -> Iterator[Share]:
    """Units, and of the parts of one the tightest where it is judged harder, or is tighter, than the whole.

    The load mode of a tap box is left to load-mode-tap.
    """

    def hard(share: Share) -> tuple[int, float]:
        # Equal but for rounding is equal: the first of them is told then, whichever way a lead was drawn.
        return RANK[severity_of(share, school)], -round(share.margin_db or 0.0, 2)

    by_unit: dict[str, list[Share]] = {}
    for share in shares:
        if share.part != "load mode":
            by_unit.setdefault(share.unit, []).append(share)
    for own in by_unit.values():
        wholes = [s for s in own if not s.part]
        yield from wholes
        parts = [s for s in own if s.part]
        if not parts:
            continue
        if are_idle_loads(parts):
            yield from parts
            continue
        tightest = max(parts, key=hard)
        whole = next((hard(s) for s in wholes), None)
        if whole is None or hard(tightest)[0] > whole[0] or hard(tightest)[1] > whole[1] + 0.05:
            yield tightest


def are_idle_loads(parts: list[Share]) -> bool:
    """Whether these are the idle loads of a switch, each a thing of its own."""
    return all(s.part.startswith("idle load") for s in parts)


def _held(rig: Rig, share: Share) -> Iterator[Fix]:
    """What was moved to get to the worst case taped where it stands: one alone, or all of it."""
    tapes = [tape(rig, move.unit, move.control) for move in share.moves]
    yield from tapes
    if len(tapes) > 1:
        yield Fix("Tape them all where they stand", tuple(c for t in tapes for c in t.changes))


def _reason(share: Share, kind: str) -> str:
    flat, label = figure(share.flat), figure(share.label)
    words = {
        "continuous": f"{in_watts(share.rating or 0)} continuous",
        "amp_label": f"“for amps up to {in_watts(share.rating or 0)}”",
        "unknown": f"{in_watts(share.rating or 0)} of a kind not known",
    }
    at = f" {share.at}" if share.at else ""
    return f"It gets {label} W at the amp's label and about {flat} W flat out{at}; it stands {words[kind]}."


def _from_the_label(share: Share) -> tuple[str, ...]:
    """The mark of what a valve amp gives flat out; one of another kind gives its label, and that is stated."""
    return ("flat out is an estimate from the label",) if share.flat > share.label else ()


@check(
    "load-rating",
    FAMILY,
    "A unit, or one driver in it, gets more than its rating, or than its margin allows.",
    reads=("shares",),
    may_stop=True,
    asks=("rating", "rating_kind", "idle_rating", "drivers.rating"),
)
def load_rating(case: Case) -> Iterator[Finding]:
    chosen = case.preferences.margin
    for share in _worth_telling(case.shares, chosen):
        name = rated_name(case.rig, share)
        if share.rating is None:
            yield Finding(
                id="load-rating",
                severity="caution",
                text=f"The rating of {name} is not known.",
                reason=f"It gets {in_watts(share.label)} at the amp's label and about {in_watts(share.flat)} flat out."
                " Find its rating on the box or in its manual and enter it.",
                units=(share.unit,),
            )
            continue
        severity = severity_of(share, chosen)
        spare = share.margin_db or 0.0
        if severity == "fine":
            text = (
                f"{name} has {level_figure(spare).lstrip('+')} dB to spare."
                if spare > 0
                else (f"{name} stands the amp's label.")
            )
        elif severity == "stop":
            over = share.played if share.label <= share.rating else share.label
            text = f"{name} would get {in_watts(over)}, over its {in_watts(share.rating)}."
        else:
            text = f"{name} has little to spare: {level_figure(spare)} dB flat out."
        others = tuple(
            SchoolView(label, severity_of(share, key)) for key, label in MARGIN_NAMES.items() if key != chosen
        )
        differs = any(o.severity != severity for o in others)
        yield Finding(
            id="load-rating",
            severity=severity,
            text=text,
            reason=_reason(share, share.rating_kind),
            units=(share.unit,),
            school=School("power margin of a load", MARGIN_NAMES[chosen], others)
            if severity != "fine" or differs
            else None,
            fixes=(*_held(case.rig, share), *_bigger_load(case.rig, share.unit, share)) if severity != "fine" else (),
            typical=(*_from_the_label(share), *((share.assumed,) if share.assumed else ())),
        )


@check(
    "step-unknown",
    FAMILY,
    "An attenuator stands on a step, or can be turned to one, whose dB nobody knows.",
    reads=("leads", "speaker"),
    asks=("marks",),
)
def step_unknown(case: Case) -> Iterator[Finding]:
    standing = on_unknown_steps(case.rig)
    for unit, gear in case.rig.units():
        if not isinstance(gear, Attenuator) or not gear.has_unknown() or not case.rig.plugged(unit):
            continue
        now, stands = case.rig.settings(unit), unit in standing
        if not stands and case.rig.is_guarded(unit, "step"):
            continue
        names = [m.at for m in gear.marks if m.down_db is None]
        name = f"“{now['step']}”" if stands else " or ".join(f"“{n}”" for n in names)
        yield Finding(
            id="step-unknown",
            severity="caution" if stands else "note",
            text=f"How far {name} of {gear.name} turns down is not known.",
            reason="What is behind it is judged as if it took nothing, and the box itself as if it took nearly all."
            " Two readings of the same note tell: calibrate it.",
            units=(unit,),
        )


@check(
    "load-mode-tap",
    FAMILY,
    "A tap box in its few-watt load mode sits on more power than that mode takes.",
    reads=("shares",),
    asks=("load_watts",),
)
def load_mode_tap(case: Case) -> Iterator[Finding]:
    for share in case.shares:
        gear = case.rig.gear[share.unit]
        if share.part != "load mode" or not isinstance(gear, TapBox):
            continue
        bridge = Fix(f"Switch {gear.name} to bridging", (SetControl(share.unit, "mode", "bridging"),))
        finding = Finding(
            id="load-mode-tap",
            severity="fine",
            text=f"{gear.name} in load mode takes {in_watts(share.flat)}.",
            reason=_reason(share, "continuous"),
            units=(share.unit,),
        )
        if share.rating is None:
            yield replace(
                finding,
                severity="caution",
                text=f"What {gear.name} takes in load mode is not known.",
                reason=f"It gets about {in_watts(share.flat)} flat out. Find its load rating and enter it.",
                fixes=(bridge,),
            )
        else:
            severity = severity_of(share, case.preferences.margin)
            text = f"{gear.name} is in load mode with {in_watts(max(share.label, share.played))} coming."
            yield replace(
                finding,
                severity=severity,
                text=finding.text if severity == "fine" else text,
                fixes=(bridge, *_held(case.rig, share)) if severity != "fine" else (),
            )


DIRECT_KINDS = ("load", "cabinet", "tap_box", "reamp")
UNEVEN_NOTE, UNEVEN_CAUTION = 1.05, 2.0


@check(
    "uneven-split",
    FAMILY,
    "Units side by side on one output take unequal shares; over 2:1 it is a caution.",
    reads=("network", "seen"),
)
def uneven_split(case: Case) -> Iterator[Finding]:
    taken = powers(case.rig)
    for seen in case.seen:
        node = case.network.find(seen.output.node)
        beside = {
            unit: flat
            for unit, gear in case.rig.units()
            if gear.kind in DIRECT_KINDS
            and node in (case.network.find(f"{unit}.in"), case.network.find(f"{unit}.in1"))
            and (flat := sum(w for (u, _), (_, w) in taken.items() if u == unit)) > HARDLY_ANY * seen.output.flat_power
        }
        if len(beside) < 2:
            continue
        ratio = max(beside.values()) / min(beside.values())
        if ratio < UNEVEN_NOTE:
            continue
        whole = sum(beside.values())
        shares = ", ".join(
            f"{case.rig.name(u)} {in_watts(w)} ({level_figure(db(w / whole))} dB)" for u, w in beside.items()
        )
        yield Finding(
            id="uneven-split",
            severity="caution" if ratio > UNEVEN_CAUTION * (1 + 1e-9) else "note",
            text=f"{case.rig.name(seen.output.amp)} is shared unevenly, {figure(ratio)} to 1.",
            reason=f"Flat out: {shares}.",
            units=(seen.output.amp, *beside),
        )


@check(
    "load-may-open",
    FAMILY,
    "A box with a cut-out or fuse that opens has little margin: once open, the amp has no load.",
    reads=("network", "seen", "shares"),
    asks=("cutout",),
)
def load_may_open(case: Case) -> Iterator[Finding]:
    for share in case.shares:
        gear = case.rig.gear[share.unit]
        if not any(harmed_when_open(amp_of(case, s)) for s in feeding_input(case, share.unit)):
            continue
        if not isinstance(gear, Load | Attenuator | ReAmp) or gear.cutout != "opens" or share.margin_db is None:
            continue
        if share.margin_db < LITTLE_MARGIN_DB:
            yield Finding(
                id="load-may-open",
                severity="caution",
                text=f"{gear.name} may cut out and leave the amp without a load.",
                reason=f"Its cut-out opens the circuit when it gets hot, and flat out it has"
                f" {level_figure(share.margin_db)} dB to spare. Play with rests, or use a bigger box.",
                units=(share.unit,),
                fixes=tuple(_bigger_load(case.rig, share.unit, share)),
            )


@check(
    "reamp-over-speaker",
    FAMILY,
    "A re-amplifier turned fully up gives more than the cabinet behind it stands.",
    reads=("leads", "speaker"),
)
def reamp_over_speaker(case: Case) -> Iterator[Finding]:
    for unit, gear in case.rig.units():
        if not isinstance(gear, ReAmp) or not gear.is_powered(case.rig.site(unit)):
            continue
        taped = case.rig.is_guarded(unit, "volume")
        loose = changed(case.rig, (Guard(unit, "volume", on=False),)) if taped else case.rig
        for share in shares(loose):
            turned = any((move.unit, move.control) == (unit, "volume") for move in share.moves)
            cabinet = case.rig.gear[share.unit]
            if not turned or not isinstance(cabinet, Cabinet) or share.rating is None or share.label <= share.rating:
                continue
            yield Finding(
                id="reamp-over-speaker",
                severity="note" if taped else "caution",
                text=f"{gear.name} can give {rated_name(case.rig, share)} more than it stands.",
                reason=f"Turned fully up it reaches {in_watts(share.label)} there, and it stands"
                f" {in_watts(share.rating)}. "
                + ("Leave the tape on its volume." if taped else "Tape the volume where it must stop."),
                units=(unit, share.unit),
                fixes=() if taped else (tape(case.rig, unit, "volume"),),
            )
            break
