"""How late one hears oneself through software, what the most of it is, and what would mend it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

from low_tide.core.cab.blend import SOUND_M_S
from low_tide.core.spec import Spec
from low_tide.core.units import figure

FELT_MS = 10.0
"""Over this most players feel it."""
BUFFERS = (32, 64, 128, 256, 512, 1024, 2048)
"""Those there are to choose from, as a rule."""
LEAST_TOLD_MS = 0.5


@dataclass(frozen=True)
class MonitoringPath:
    """From the string to the ear through software: its buffer (samples, both ways) and rate, the converters, plug-ins,
    the impulse response's own beginning, and how far the monitors are. `direct`: the interface lets the input through
    beside it."""

    buffer: Annotated[int, Spec("Buffer", "samples", 16, 8192)] = 128
    rate: Annotated[int, Spec("Sample rate", "Hz", 8_000, 192_000)] = 48_000
    converters: Annotated[float, Spec("Converters", "ms", 0, 50)] = 1.0
    plug_ins: Annotated[float, Spec("Plug-ins", "ms", 0, 500)] = 0.0
    impulse: Annotated[float, Spec("Impulse response", "ms", 0, 500)] = 0.0
    distance: Annotated[float, Spec("Distance of the monitors", "m", 0, 50)] = 0.0
    direct: Annotated[bool, Spec("Direct monitoring as well")] = False


@dataclass(frozen=True)
class DelayPart:
    """A part of the delay, ms."""

    name: str
    ms: float


@dataclass(frozen=True)
class MonitoringDelay:
    """The delay, ms, with its parts; the way sound goes through air in it, m; what there is to say of it, the verdict
    first. `late`: most players feel it. `comb`: where what comes direct and what comes late first cancel, Hz; None
    where only one is heard."""

    parts: tuple[DelayPart, ...]
    total: float
    metres: float
    late: bool
    comb: float | None
    words: tuple[str, ...]


def _buffer_ms(path: MonitoringPath) -> float:
    return 2000 * path.buffer / path.rate


def _mended(path: MonitoringPath, largest: str, over: float) -> str:
    if largest == "buffer":
        smaller = [b for b in BUFFERS if b < path.buffer]
        saved = {b: _buffer_ms(path) - _buffer_ms(replace(path, buffer=b)) for b in smaller}
        # The largest that is enough, or the smallest there is.
        wanted = next((b for b in reversed(smaller) if saved[b] >= over), smaller[0] if smaller else None)
        if wanted is None:
            return "The buffer is as small as buffers get: monitor directly while tracking."
        return (
            f"The buffer is the most of it: {wanted} samples take {figure(saved[wanted], 2)} ms off. Where the mix is"
            " too heavy for that, monitor directly through a box's own filter, and keep the impulse response for later."
        )
    return {
        "plug-ins": "Plug-ins are the most of it: switch off what looks ahead, and freeze heavy tracks while tracking.",
        "converters": "The converters are the most of it: monitor directly while tracking.",
        "impulse response": "The impulse response begins late: send it out with minimum phase.",
        "way through the air": "The way from the monitors is the most of it: headphones, or nearer monitors.",
    }[largest]


def monitoring_delay(path: MonitoringPath) -> MonitoringDelay:
    """How late one hears oneself: 2·buffer/rate + converters + plug-ins + the impulse response's onset + distance/c.

    Together with direct monitoring both sum to a comb, whose first notch lies at 1/(2τ) with τ the delay but for the
    air, which both go through.
    """
    parts = tuple(
        DelayPart(name, ms)
        for name, ms in (
            ("buffer", _buffer_ms(path)),
            ("converters", path.converters),
            ("plug-ins", path.plug_ins),
            ("impulse response", path.impulse),
            ("way through the air", path.distance / SOUND_M_S * 1000),
        )
    )
    total = sum(p.ms for p in parts)
    late = total > FELT_MS
    metres = total / 1000 * SOUND_M_S
    feel = f"over {FELT_MS:g} ms most players feel it" if late else f"under {FELT_MS:g} ms most players do not feel it"
    words = [f"{figure(total)} ms, as if the amp stood {figure(metres, 2)} m away: {feel}."]
    largest = max(parts, key=lambda p: p.ms)
    if largest.ms > LEAST_TOLD_MS:
        words.append(_mended(path, largest.name, total - FELT_MS) if late else f"The most of it: {largest.name}.")
    apart = total - parts[-1].ms
    comb = 500 / apart if path.direct and apart > 0 else None
    if comb is not None:
        words.append(f"Direct and through software together first cancel at {figure(comb, 3)} Hz: mute one of them.")
    return MonitoringDelay(parts, total, metres, late, comb, tuple(words))
