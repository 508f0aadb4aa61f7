"""How one hears oneself while playing: not too late, not twice, and with a speaker in it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from low_tide.core.cab.monitoring import BUFFERS, FELT_MS, MonitoringPath, monitoring_delay
from low_tide.core.gear.interface import CONVERTERS_MS, Interface
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.checks.speaker_sound import FAMILY, Way, ways_in
from low_tide.core.judging.findings import Finding, Fix
from low_tide.core.rig.changes import SetControl
from low_tide.core.units import figure


@dataclass(frozen=True)
class _Monitored:
    """An interface that an amp is recorded at, and how one hears oneself there."""

    unit: str
    how: str
    path: MonitoringPath
    ways: tuple[Way, ...]
    typical: tuple[str, ...]

    @property
    def direct(self) -> bool:
        return self.how in ("direct", "both")

    def bare(self) -> tuple[Way, ...]:
        """Ways on which nothing does a speaker's work before the interface: an IR in software is past it."""
        return tuple(way for way in self.ways if all(unit == way.input.unit for unit, _ in way.speakers))


def _monitored(case: Case) -> Iterator[_Monitored]:
    """Interfaces of which it is said how one hears oneself, as far as an amp comes there."""
    ways: dict[str, list[Way]] = {}
    for way in ways_in(case):
        ways.setdefault(way.input.unit, []).append(way)
    for unit, there in ways.items():
        gear, set_to = case.rig.gear[unit], case.rig.settings(unit)
        if not isinstance(gear, Interface) or set_to["monitor"] == "unsaid":
            continue
        path = MonitoringPath(
            buffer=int(set_to["buffer"]),
            rate=round(float(set_to["rate"]) * 1000),
            converters=CONVERTERS_MS if gear.converters is None else gear.converters,
            plug_ins=float(set_to["plug_ins"]),
            distance=float(set_to["monitors"]),
            direct=set_to["monitor"] == "both",
        )
        typical = () if gear.converters is not None else (f"{CONVERTERS_MS:g} ms for the converters is typical",)
        yield _Monitored(unit, str(set_to["monitor"]), path, tuple(there), typical)


def _to(unit: str, how: str, label: str) -> Fix:
    return Fix(label, (SetControl(unit, "monitor", how),))


def _smaller(heard: _Monitored) -> Iterator[Fix]:
    """The largest buffer that is enough; none where no buffer is."""
    for size in reversed([b for b in BUFFERS if b < heard.path.buffer]):
        made = monitoring_delay(replace(heard.path, buffer=size))
        if not made.late:
            label = f"Buffer of {size} samples: {figure(made.total, 2)} ms"
            yield Fix(label, (SetControl(heard.unit, "buffer", str(size)),))
            return


@check(
    "late-monitoring",
    FAMILY,
    f"Through software one hears oneself over {FELT_MS:g} ms late.",
    reads=("signal_paths", "signal"),
)
def late_monitoring(case: Case) -> Iterator[Finding]:
    for heard in _monitored(case):
        if heard.how != "software":
            continue
        found, name = monitoring_delay(heard.path), case.rig.name(heard.unit)
        by_itself = not heard.bare()
        direct = _to(heard.unit, "direct", f"Monitor directly at {name} while tracking")
        fixes = (*_smaller(heard), *((direct,) if by_itself else ()))
        yield Finding(
            id="late-monitoring",
            severity="caution" if found.late else "fine",
            text=f"One hears oneself {figure(found.total, 2)} ms late at {name}.",
            reason=f"As if the amp stood {figure(found.metres, 2)} m away; over {FELT_MS:g} ms most players feel it."
            + (f" {found.words[1]}" if found.late and len(found.words) > 1 else ""),
            units=(heard.unit,),
            typical=heard.typical,
            fixes=fixes if found.late else (),
        )


@check(
    "double-monitoring",
    FAMILY,
    "One hears oneself directly and through software at once, which combs.",
    reads=("signal_paths", "signal"),
)
def double_monitoring(case: Case) -> Iterator[Finding]:
    for heard in _monitored(case):
        found, name = monitoring_delay(heard.path), case.rig.name(heard.unit)
        if heard.how != "both" or found.comb is None:
            continue
        late = found.total - found.parts[-1].ms
        yield Finding(
            id="double-monitoring",
            severity="note",
            text=f"One hears oneself twice at {name}: directly, and {figure(late, 2)} ms later.",
            reason=f"Both together first cancel at {figure(found.comb, 2)} Hz, and at odd multiples of that: mute one.",
            units=(heard.unit,),
            typical=heard.typical,
            fixes=(
                _to(heard.unit, "software", f"Only through software at {name}"),
                _to(heard.unit, "direct", f"Only directly at {name}"),
            ),
        )


@check(
    "monitors-bare-tap",
    FAMILY,
    "Direct monitoring hears the amp before anything does a speaker's work.",
    reads=("signal_paths", "signal"),
)
def monitors_bare_tap(case: Case) -> Iterator[Finding]:
    for heard in _monitored(case):
        bare = heard.bare() if heard.direct else ()
        if not bare:
            continue
        name = case.rig.name(heard.unit)
        in_software = any(way.speakers for way in bare)
        yield Finding(
            id="monitors-bare-tap",
            severity="note",
            text=f"Direct monitoring at {name} hears the bare tap.",
            reason="The IR hangs on the track in software, past what is heard directly."
            if in_software
            else "Nothing before the interface does a speaker's work, and past it nothing is heard directly.",
            units=(heard.unit,),
            fixes=(_to(heard.unit, "software", f"Monitor through software at {name}"),) if in_software else (),
        )
