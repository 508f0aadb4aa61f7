"""What a plug does in each socket of a unit: how it is drawn, in words, and which fields of its record say so."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

from low_tide.core.gear.base import Socket
from low_tide.core.inventory import (
    Amp,
    Attenuator,
    Cabinet,
    Interface,
    LineBox,
    Load,
    Processor,
    ReAmp,
    Switcher,
    TapBox,
    Unit,
)
from low_tide.core.units import figure, in_ohms

Contact = Literal["plain", "beside", "takes_out", "after", "cuts_off", "apart", "unknown"]
"""How a plug's work is drawn: nothing else moves, in parallel, a contact that opens, in series, a contact that cuts
another socket off, a half of its own, not known."""

Says = tuple[Contact, str, tuple[str, ...]]
"""Of a socket: how its plug's work is drawn, in words, and the fields of the record that say so."""


def plug(unit: Unit, socket: Socket) -> Says:
    """What a plug does in a socket of a unit."""
    return _TELLERS.get(type(unit), _plain)(unit, socket)


def _plain(unit: Unit, socket: Socket) -> Says:
    return "plain", "A plug here changes nothing else.", ("connector",) if hasattr(unit, "connector") else ()


def _line(unit: Any) -> Says:
    line = unit.line_out
    taken = "before the power stage" if line.origin == "preamp" else f"{figure(line.ratio_db)} dB, off the speaker side"
    return "plain", f"Takes a line {taken}; the amp notices nothing.", ("line_out",)


def _amp(unit: Amp, socket: Socket) -> Says:
    if socket.id == "line":
        return _line(unit)
    if socket.id == "input":
        return "plain", "The guitar, or what stands between it and the amp.", ()
    if socket.id == "send":
        return "plain", "Gives the preamp's signal to the loop.", ("loop",)
    if socket.id == "return":
        if unit.loop and unit.loop.wiring == "parallel":
            return "beside", "Mixes the loop in beside the amp's own way.", ("loop",)
        return "cuts_off", "Opens the amp's own way: all of the signal comes from here.", ("loop",)
    own = ("taps", "jack_wiring", "connector", "empty_shorts", "several_taps")
    tap, _, jacks = next(t for t in unit.tap_sockets() if socket.id in t[2])
    which = "the tap that is selected" if unit.tap_choice == "selector" else f"the {in_ohms(tap.impedance)} tap"
    if len(jacks) == 1:
        return "plain", f"What hangs here loads {which}.", own
    if unit.jack_wiring == "unknown":
        return "unknown", "How the jacks of a tap are wired is not known: using two counts as check first.", own
    if unit.jack_wiring == "switching" and socket.id != jacks[0]:
        return "cuts_off", "Cuts the first jack off: only what hangs here counts.", own
    if unit.empty_shorts and socket.id == jacks[0]:
        return "takes_out", "Shorts the tap while it is empty and another jack is used; a plug opens that.", own
    return "beside", f"Lies beside the other jack on {which}: both count, in parallel.", own


THROUGH: dict[str, Says] = {
    "parallel": ("beside", "Stands beside the load: both count, in parallel.", ("through",)),
    "switching": ("takes_out", "Takes the load out: only what hangs on it counts.", ("through",)),
    "unknown": ("unknown", "What a plug here does is not known: it counts as check first.", ("through",)),
}


def _load(unit: Load, socket: Socket) -> Says:
    if socket.id == "line":
        return _line(unit)
    if socket.id == "through":
        return THROUGH[unit.through]
    return "plain", "The amp goes here, and sees the load.", ("connector",)


def _attenuator(unit: Attenuator, socket: Socket) -> Says:
    if socket.id == "line":
        return _line(unit)
    if socket.id == "out":
        return "after", "The speaker gets what the arms leave; the rest stays in the box as heat.", ("connector",)
    return "plain", "The amp goes here, and sees the arms with the speaker behind them.", ("connector",)


def _reamp(unit: ReAmp, socket: Socket) -> Says:
    if socket.id == "line":
        return _line(unit)
    if socket.id == "out":
        own = ("inner_power", "inner_into", "inner_minimum")
        return "plain", "The inner amplifier drives the speaker; the amp sees only the load.", own
    if socket.id == "return":
        return "cuts_off", "Opens the inner way: the inner amplifier plays what comes from here.", ("effects_loop",)
    if socket.id == "send":
        return "plain", "Gives the load's signal to the loop.", ("effects_loop",)
    if socket.id == "linein":
        return "beside", "Plays a line through the inner amplifier.", ("line_in",)
    return "plain", "The amp goes here, and sees the load.", ("connector",)


def _tap_box(unit: TapBox, socket: Socket) -> Says:
    if socket.id == "line":
        return _line(unit)
    if socket.id == "through":
        return "beside", "Passes the speaker lead on, in parallel with the box.", ("through",)
    return "plain", "The speaker lead goes here; bridging, the box draws next to nothing.", ("connector",)


def _switcher(unit: Switcher, socket: Socket) -> Says:
    if socket.flow == "out":
        return "plain", "Joined to the amp that is selected.", ("outputs", "together", "connector")
    idle: dict[str, tuple[Contact, str]] = {
        "loaded": ("takes_out", "Joined to the speaker when selected; else it gets the load in the box."),
        "open": ("cuts_off", "Joined to the speaker when selected; else the amp is left without load."),
        "unknown": ("unknown", "What the amp gets when it is not selected is not known: check first."),
    }
    return *idle[unit.idle], ("inputs", "idle", "idle_ohms", "idle_rating", "gap")


def _cabinet(unit: Cabinet, socket: Socket) -> Says:
    own = ("jacks", "jack_wiring", "mono_joins", "connector")
    if unit.own_lead is not None:
        return "plain", "A lead of its own, as inside a combo.", ("own_lead",)
    wiring: dict[str, tuple[Contact, str]] = {
        "parallel": ("beside", "Lies in parallel with the other jack and all drivers."),
        "series": ("after", "The second jack takes what is behind the drivers: in series with them."),
        "separate": ("apart", "Drives its half alone."),
        "mono_stereo": ("apart", "Drives all drivers in mono, its half in stereo, by the switch."),
        "unknown": ("unknown", "How the jacks are wired is not known: using two counts as check first."),
    }
    if unit.jacks == 1 and not unit.splits():
        return "plain", "Drives all drivers.", own
    return *wiring[unit.jack_wiring], own


def _processor(unit: Processor, socket: Socket) -> Says:
    if socket.id == "return":
        return "cuts_off", "The outputs play what comes from here instead of the input.", ("max_return",)
    return "plain", "A plug here changes nothing else.", ("max_in",) if socket.id == "in" else ()


def _line_box(unit: LineBox, socket: Socket) -> Says:
    if socket.id == "through":
        return "beside", "Passes the input on as it is.", ("through",)
    if socket.id == "in":
        return "plain", "A plug here changes nothing else.", ("level_in", "plug_in", "max_in", "input_impedance")
    return "plain", "A plug here changes nothing else.", ("level_out", "plug_out", "source_impedance")


def _interface(unit: Interface, socket: Socket) -> Says:
    part = "inputs" if socket.id.startswith("in") else "outputs" if socket.id.startswith("out") else "phones"
    return "plain", "A plug here changes nothing else.", (part,)


_TELLERS: dict[type, Callable[[Any, Socket], Says]] = {
    Amp: _amp,
    Load: _load,
    Attenuator: _attenuator,
    ReAmp: _reamp,
    TapBox: _tap_box,
    Switcher: _switcher,
    Cabinet: _cabinet,
    Processor: _processor,
    LineBox: _line_box,
    Interface: _interface,
}
