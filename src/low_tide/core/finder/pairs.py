"""Which of one's amps goes into which load or cabinet: the best tap of each pair, judged by itself."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from low_tide.core.finder.leads import missing_lead
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


def pairs(
    gear: GearById, preferences: Preferences | None = None, pause: Callable[[], None] = lambda: None
) -> tuple[AmpIntoBox, ...]:
    """Every amp with every load, re-amplifier and cabinet that is owned. `pause` is called between one and the next."""
    units = [u for u in gear.values() if not u.archived]
    amps = [u for u in units if isinstance(u, Amp)]
    boxes = [u for u in units if isinstance(u, Load | ReAmp | Cabinet) and not getattr(u, "own_lead", None)]
    found = []
    for amp in amps:
        for box in boxes:
            pause()
            found.append(_pair(amp, box, preferences))
    return tuple(found)


def _pair(amp: Amp, box: Unit, preferences: Preferences | None) -> AmpIntoBox:
    judged = [(tap, judge(rig, preferences)) for tap, rig in _rigs(amp, box)]
    tap, best = min(judged, key=lambda tj: (tj[1].verdict.stops, tj[1].verdict.cautions, -(_spare(tj[1]) or 0.0)))
    worst = best.findings[0]
    why = worst.text.rstrip(".") if worst.severity in ("stop", "caution") else ""
    return AmpIntoBox(amp.id, box.id, tap, best.verdict.severity, _spare(best), why)


def _spare(judged: Judgement) -> float | None:
    left = [share.rating - share.flat for share in judged.case.shares if share.rating is not None]
    return min(left, default=None)


def _rigs(amp: Amp, box: Unit) -> Iterator[tuple[float, Rig]]:
    """The two alone with a speaker lead between, on each tap."""
    into = next(s for s in box.sockets() if s.level == "speaker" and s.flow == "in")
    for tap, _, jacks in amp.tap_sockets():
        out = next(s for s in amp.sockets() if s.id == jacks[0])
        lead = missing_lead({}, out, into)
        settings: dict[str, Setting] = {}
        if any(c.id == "tap" for c in amp.controls()):
            settings["tap"] = f"{tap.impedance:g}"
        hookup = Hookup(
            f"{amp.name} into {box.name}",
            units=(Placed(amp.id, settings), Placed(box.id)),
            links=(Link(lead.id, End(amp.id, jacks[0]), End(box.id, into.id)),),
        )
        yield tap.impedance, Rig(hookup, {amp.id: amp, box.id: box, lead.id: lead})
