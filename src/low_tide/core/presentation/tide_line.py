"""The tide line: how far every limit on the way is from being reached, stage by stage."""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite

import numpy as np

from low_tide.core.acoustics.exposure import level_left
from low_tide.core.inventory import Amp
from low_tide.core.judging.findings import Finding
from low_tide.core.judging.judge import Judgement
from low_tide.core.power.shares import Seen, Share
from low_tide.core.presentation.facts import MATCH_CHECKS, POWER_CHECKS, severity_about, tone
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.levels import WINDOW_DBFS
from low_tide.core.thermal.heating import DUTY
from low_tide.core.units import db, figure, in_ohms, in_watts, level_figure


@dataclass(frozen=True)
class Stage:
    """A column of the tide line: dB relative to its limit (0 = at the limit), and its floor if it has one."""

    id: str
    name: str
    value: str
    spare: str
    level_db: float
    floor_db: float | None
    severity: str
    units: tuple[str, ...]
    tone: str


def _stage(
    id: str,
    name: str,
    value: str,
    spare: str,
    level_db: float,
    floor_db: float | None,
    severity: str,
    units: tuple[str, ...],
) -> Stage:
    return Stage(id, name, value, spare, level_db, floor_db, severity, units, tone(severity, level_db > 0))


def _match_stage(rig: Rig, seen: Seen, findings: tuple[Finding, ...]) -> Stage:
    severity = severity_about(findings, MATCH_CHECKS, seen.output.amp)
    off = abs(db(seen.ratio)) if 0 < seen.ratio < np.inf else 12.0
    if not isfinite(seen.impedance):
        value, spare = "no load", "fix first"
    else:
        wanted = "a tap not known" if seen.output.doubtful else in_ohms(seen.output.wanted)
        value = f"{in_ohms(seen.impedance)} on {wanted}"
        spare = {"stop": "fix first", "caution": "look first"}.get(severity, "matches")
    # The limit is 2:1, 3 dB off; severity, not the height, tells what a school makes of it.
    level = min(off - db(2.0), 12.0) if off > 0.01 else -24.0
    if severity == "stop":
        level = max(level, 0.5)
    return _stage(
        f"match:{seen.output.amp}:{seen.output.tap:g}",
        f"{rig.name(seen.output.amp)} match",
        value,
        spare,
        level,
        None,
        severity,
        (seen.output.amp,),
    )


def _is_tightest(share: Share, shares: tuple[Share, ...]) -> bool:
    """Whether a share is the one to tell: of a cabinet and its drivers that with least room, the whole if equal."""
    rivals = [s for s in shares if s.unit == share.unit and s.margin_db is not None]
    return share is min(rivals, key=lambda s: (round(s.margin_db or 0.0, 2), s.part))


NOTHING_LEFT_DB = 60.0
"""How far over its limit a level stands where nothing is allowed any more."""


def _ears_stages(judged: Judgement) -> list[Stage]:
    """The place that is nearest its limit, or furthest over it; and the loudest place one's own ears are at."""
    found = []
    limited = [h for h in judged.case.sound_levels if h.over is not None]
    worst = max(limited, key=lambda h: h.over or 0.0, default=None)
    units = tuple(s.unit for s in judged.case.soundings)
    if worst is not None and worst.limit is not None and worst.dba is not None and worst.over is not None:
        spare = f"{abs(worst.over):.1f} dB {'over' if worst.over > 0 else 'spare'}"
        found.append(
            _stage(
                f"place:{worst.place}",
                f"{worst.name} from {worst.limit.start}",
                f"{figure(worst.dba, 2)} / {figure(worst.limit.level)} dBA",
                spare,
                worst.over,
                None,
                "fine" if worst.over <= 0 else "caution" if worst.hour_said else "note",
                units,
            )
        )
    ears = max(
        (h for h in judged.case.sound_levels if h.ears and h.dba is not None), key=lambda h: h.dba or 0, default=None
    )
    if ears is not None and ears.dba is not None:
        occasion, used = judged.case.rig.hookup.occasion, judged.case.rig.known.dose
        bound = level_left(occasion.hours * DUTY[occasion.playing][1], judged.case.preferences.listening, used)
        level = min(ears.most - bound, NOTHING_LEFT_DB)
        found.append(
            _stage(
                f"ears:{ears.place}",
                f"Ears, {ears.name}",
                f"{figure(ears.dba, 2)} / {figure(bound, 2)} dBA" if isfinite(bound) else f"{figure(ears.dba, 2)} dBA",
                f"{abs(level):.1f} dB {'over' if level > 0 else 'spare'}" if isfinite(bound) else "no time left",
                level,
                None,
                "caution" if level > 0 else "fine",
                units,
            )
        )
    return found


def tide_words(stages: tuple[Stage, ...]) -> str:
    """What the line says as a whole: what is over its limit, or what is too low."""
    over = [s.name for s in stages if s.level_db > 0]
    low = [s.name for s in stages if s.floor_db is not None and s.level_db < s.floor_db]
    if over:
        return f"Over the line: {', '.join(over)}."
    if low:
        return f"Nothing floods; too low: {', '.join(low)}."
    return "Nothing floods and nothing runs aground." if stages else ""


def stages_of(rig: Rig, judged: Judgement) -> tuple[Stage, ...]:
    """The stages of a judged rig, in the order of the signal: match, power, ears, line."""
    found = []
    for seen in judged.case.seen:
        amp = rig.gear[seen.output.amp]
        if isinstance(amp, Amp) and amp.technology == "valve":
            found.append(_match_stage(rig, seen, judged.findings))
    for share in judged.case.shares:
        if share.rating is None or share.margin_db is None or not _is_tightest(share, judged.case.shares):
            continue
        part = f", {share.part}" if share.part.startswith("driver") else ""
        found.append(
            _stage(
                f"power:{share.unit}:{share.part}",
                f"{rig.name(share.unit)}{part} power",
                f"{figure(share.flat)} / {in_watts(share.rating)}",
                f"{level_figure(share.margin_db)} dB spare",
                -share.margin_db,
                None,
                severity_about(judged.findings, POWER_CHECKS, share.unit),
                (share.unit,),
            )
        )
    found += _ears_stages(judged)
    for point in judged.case.line_points:
        if point.dbfs is not None:
            checks = {"converter-clips", "converter-low", "input-damage"}
            found.append(
                _stage(
                    f"line:{point.input.unit}:{point.input.socket}",
                    f"{rig.label(point.input)} peak",
                    f"{level_figure(point.dbfs)} dBFS",
                    f"{abs(point.dbfs):.1f} dB {'to clip' if point.dbfs <= 0 else 'clipped'}",
                    point.dbfs,
                    WINDOW_DBFS[0],
                    severity_about(judged.findings, checks, point.input.unit),
                    (point.source.unit, point.input.unit),
                )
            )
    return tuple(found)
