"""What a hook-up has, as far as a fault needs to know."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

from low_tide.core.inventory import (
    Amp,
    Attenuator,
    Cabinet,
    Interface,
    Load,
    Microphone,
    Pedal,
    Processor,
    ReAmp,
    TapBox,
)
from low_tide.core.judging.checks.earth import lifts_to
from low_tide.core.judging.checks.registry import Case
from low_tide.core.judging.findings import Finding
from low_tide.core.judging.judge import judge
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig
from low_tide.core.session.change_over import at_speaker_level, dark_s, warm_up_s


@dataclass(frozen=True)
class Situation:
    """A hook-up that stands and is, or was, switched on."""

    rig: Rig
    preferences: Preferences = field(default_factory=Preferences)

    @cached_property
    def case(self) -> Case:
        """The hook-up as checks see it."""
        return Case(self.rig, self.preferences)

    @cached_property
    def found(self) -> dict[str, Finding]:
        """What the judge says of it, the worst of each check."""
        return {f.id: f for f in reversed(judge(self.rig, self.preferences).findings)}

    @cached_property
    def amp(self) -> tuple[str, Amp] | None:
        """The amp; the first where there are several."""
        return next(self.rig.amps(), None)

    @property
    def amp_name(self) -> str:
        """The amp as it is called."""
        return self.amp[1].name if self.amp else "the amp"

    @property
    def has_valves(self) -> bool:
        """Whether its amp has valves."""
        return self.amp is not None and self.amp[1].technology != "transistor"

    @cached_property
    def recorded(self) -> tuple[End, ...]:
        """Inputs of interfaces that hold a plug."""
        return tuple(
            End(unit, socket.id)
            for unit, gear in self.rig.units()
            if isinstance(gear, Interface)
            for socket in gear.sockets()
            if socket.flow == "in" and socket.level != "digital" and socket.id in self.rig.plugged(unit)
        )

    @property
    def has_line(self) -> bool:
        """Whether anything goes to an interface."""
        return bool(self.recorded)

    @cached_property
    def interface(self) -> str:
        """The interface's name."""
        return self.rig.name(self.recorded[0].unit) if self.recorded else "the interface"

    @cached_property
    def input_label(self) -> str:
        """The first recorded input as it is called."""
        return self.rig.label(self.recorded[0]) if self.recorded else "the input"

    def kinds(self, kind: type) -> list[str]:
        """Names of units of a kind that hold a plug."""
        return [gear.name for unit, gear in self.rig.units() if isinstance(gear, kind) and self.rig.plugged(unit)]

    @cached_property
    def pedals(self) -> list[Pedal]:
        """Pedals in use, in front or in the loop."""
        return [gear for unit, gear in self.rig.units() if isinstance(gear, Pedal) and self.rig.plugged(unit)]

    @cached_property
    def in_loop(self) -> bool:
        """Whether the effects loop is used."""
        return any({"send", "return"} & self.rig.plugged(unit) for unit, _ in self.rig.amps())

    @cached_property
    def in_front(self) -> bool:
        """Whether anything but a guitar lies before an amp's input."""
        for unit, _ in self.rig.amps():
            before = self.rig.far_end(End(unit, "input"))
            if before is not None and not isinstance(self.rig.gear[before.unit], Interface):
                return self.rig.gear[before.unit].kind != "guitar"
        return False

    @property
    def has_cabinet(self) -> bool:
        """Whether a cabinet sounds."""
        return bool(self.kinds(Cabinet))

    @property
    def cabinets(self) -> int:
        """How many cabinets sound."""
        return len(self.kinds(Cabinet))

    @property
    def boxes(self) -> list[str]:
        """Loads, attenuators and re-amplifiers in use."""
        return [name for kind in (Load, Attenuator, ReAmp) for name in self.kinds(kind)]

    @property
    def speakers_side(self) -> list[str]:
        """What hangs on the amp, by name."""
        return [*self.boxes, *self.kinds(Cabinet)] or ["the load"]

    @cached_property
    def microphones(self) -> int:
        """How many microphones are in use."""
        used = {e.unit for link in self.rig.hookup.links for e in link.ends()}
        return sum(isinstance(gear, Microphone) and unit in used for unit, gear in self.rig.units())

    @property
    def has_tap(self) -> bool:
        """Whether a line is taken by a box or an amp's own line out rather than by a microphone."""
        return any("line" in self.rig.plugged(unit) for unit, _ in self.rig.units()) or bool(self.kinds(TapBox))

    @cached_property
    def lifts(self) -> tuple[tuple[str, str], ...]:
        """Audio-earth lifts on the way to what is recorded."""
        return tuple(dict.fromkeys(each for end in self.recorded for each in lifts_to(self.case, end)))

    @cached_property
    def has_digital(self) -> bool:
        """Whether a digital link is in use."""
        return any(self.rig.socket(e).level == "digital" for link in self.rig.hookup.links for e in link.ends())

    @property
    def has_processor(self) -> bool:
        """Whether a processor is in use."""
        return bool(self.kinds(Processor))

    @cached_property
    def in_software(self) -> bool:
        """Whether an impulse response in software stands for a speaker."""
        return any(
            key.endswith(".ir") and value is True and key.split(".")[0] in self.rig.plugged(unit)
            for unit, gear in self.rig.units()
            if isinstance(gear, Interface)
            for key, value in self.rig.settings(unit).items()
        )

    @property
    def heard_by_software(self) -> bool:
        """Whether one hears oneself through software, wholly or too."""
        return any(
            self.rig.settings(unit).get("monitor") in ("software", "both")
            for unit, gear in self.rig.units()
            if isinstance(gear, Interface)
        )

    @property
    def several_inputs(self) -> bool:
        """Whether more than one input is recorded."""
        return len(self.recorded) > 1

    @cached_property
    def waiting_min(self) -> float:
        """Minutes that off, dark and warm again take."""
        times = [dark_s(amp) + warm_up_s(amp) for _, amp in self.rig.amps()]
        return max(times, default=0.0) / 60

    @cached_property
    def speaker_leads(self) -> list[str]:
        """Names of the leads on the speaker side."""
        return [self.rig.conductor(k).name for k in self.rig.hookup.links if at_speaker_level(self.rig, k)]

    @cached_property
    def line_leads(self) -> list[str]:
        """Names of the leads that end at an interface."""
        ends = set(self.recorded)
        return [self.rig.conductor(k).name for k in self.rig.hookup.links if ends & set(k.ends())]


def anywhere(_: Situation) -> bool:
    """It can be in any hook-up."""
    return True
