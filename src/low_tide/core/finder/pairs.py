"""Which of one's amps goes into which load or cabinet: the best tap of each pair, judged by itself."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from low_tide.core.finder.leads import missing_lead
from low_tide.core.gear.amp import Tap
from low_tide.core.gear.base import Setting
from low_tide.core.inventory import Amp, Cabinet, Load, ReAmp, Unit
from low_tide.core.judging.judge import Judgement, judge
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import End, Hookup, Link, Placed
from low_tide.core.rig.rig import GearById, Rig


@dataclass(frozen=True)
class AmpIntoBox:
    """An amp straight into a box: the tap on which least is found, the verdict there, watts to spare flat out.

    `tap` in Ω. `spare` in W, negative where it is too little, None where no rating is known. `why`: the worst finding,
    empty where there is none that warns. Rooms, lines and people are left out: it is about match and power.
    """

    amp: str
    box: str
    tap: float
    severity: str
    spare: float | None
    why: str


def goes_on_an_amp(unit: Unit) -> bool:
    """Whether a unit is a box that any amp may be plugged into: not the speaker inside a combo."""
    return isinstance(unit, Load | ReAmp) or (isinstance(unit, Cabinet) and unit.own_lead is None)


def pairs(
    gear: GearById,
    preferences: Preferences | None = None,
    pause: Callable[[], None] = lambda: None,
    beside: str = "",
) -> tuple[AmpIntoBox, ...]:
    """Every amp with every load, re-amplifier and cabinet that is owned, or with each and the one `beside` it.

    Two that find no way to be plugged at one time are left out. `pause` is called between one and the next.
    """
    units = [u for u in gear.values() if not u.archived]
    amps = [u for u in units if isinstance(u, Amp)]
    boxes = [u for u in units if goes_on_an_amp(u)]
    other = next((b for b in boxes if b.id == beside), None)
    found = []
    for amp in amps:
        for box in boxes:
            pause()
            if box.id != beside:
                found.append(_pair(amp, box, other, preferences))
    return tuple(pair for pair in found if pair)


def _pair(amp: Amp, box: Unit, other: Unit | None, preferences: Preferences | None) -> AmpIntoBox | None:
    rigs = _both(amp, box, other) if other else _rigs(amp, box)
    judged = [(tap, judge(rig, preferences)) for tap, rig in rigs]
    if not judged:
        return None
    tap, best = min(judged, key=lambda tj: (tj[1].verdict.stops, tj[1].verdict.cautions, -(_spare(tj[1]) or 0.0)))
    worst = best.findings[0]
    why = worst.text.rstrip(".") if worst.severity in ("stop", "caution") else ""
    return AmpIntoBox(amp.id, box.id, tap, best.verdict.severity, _spare(best), why)


def _spare(judged: Judgement) -> float | None:
    left = [share.rating - share.flat for share in judged.case.shares if share.rating is not None]
    return min(left, default=None)


def _rigs(amp: Amp, box: Unit) -> Iterator[tuple[float, Rig]]:
    """The two alone with a speaker lead between, on each tap."""
    for tap, _, jacks in amp.tap_sockets():
        yield tap.impedance, _rig(amp, tap, (box,), ((End(amp.id, jacks[0]), _in(box)),))


def _both(amp: Amp, box: Unit, other: Unit) -> Iterator[tuple[float, Rig]]:
    """Both boxes on each tap: on two of its jacks, or one behind the other where there is but one."""
    for tap, _, jacks in amp.tap_sockets():
        start = End(amp.id, jacks[0])
        if len(jacks) > 1:
            ways = [((start, _in(box)), (End(amp.id, jacks[1]), _in(other)))]
        else:
            through = ((a, b, _onward(a)) for a, b in ((box, other), (other, box)))
            ways = [((start, _in(a)), (on, _in(b))) for a, b, on in through if on]
        for way in ways:
            yield tap.impedance, _rig(amp, tap, (box, other), way)


def _in(box: Unit) -> End:
    return End(box.id, next(s.id for s in box.sockets() if s.level == "speaker" and s.flow == "in"))


def _onward(box: Unit) -> End | None:
    """Where a second box goes on behind a first and both take power: a through socket, a second jack."""
    if isinstance(box, Load) and box.through in ("parallel", "unknown"):
        return End(box.id, "through")
    return End(box.id, "in2") if isinstance(box, Cabinet) and box.jacks > 1 and not box.splits() else None


def _rig(amp: Amp, tap: Tap, boxes: tuple[Unit, ...], ways: tuple[tuple[End, End], ...]) -> Rig:
    gear: dict[str, Unit] = {unit.id: unit for unit in (amp, *boxes)}
    links = []
    for a, b in ways:
        one, two = (next(s for s in gear[end.unit].sockets() if s.id == end.socket) for end in (a, b))
        lead = missing_lead(gear, one, two)
        gear[lead.id] = lead
        links.append(Link(lead.id, a, b))
    has_selector = any(c.id == "tap" for c in amp.controls())
    settings: dict[str, Setting] = {"tap": f"{tap.impedance:g}"} if has_selector else {}
    units = (Placed(amp.id, settings), *(Placed(box.id) for box in boxes))
    name = f"{amp.name} into {' and '.join(box.name for box in boxes)}"
    return Rig(Hookup(name[:120], units=units, links=tuple(links)), gear)
