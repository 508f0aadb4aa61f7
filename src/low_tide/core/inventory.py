"""Kinds of gear, registered here and nowhere else: a new kind is a module and its lines below."""

from __future__ import annotations

from typing import TypeAlias

from low_tide.core.gear.amp import Amp
from low_tide.core.gear.attenuator import Attenuator
from low_tide.core.gear.cabinet import Cabinet
from low_tide.core.gear.guitar import Guitar
from low_tide.core.gear.headphones import Headphones
from low_tide.core.gear.interface import Interface
from low_tide.core.gear.lead import Lead
from low_tide.core.gear.line_box import LineBox
from low_tide.core.gear.load import Load
from low_tide.core.gear.microphone import Microphone
from low_tide.core.gear.pedal import Pedal
from low_tide.core.gear.processor import Processor
from low_tide.core.gear.reamp import ReAmp
from low_tide.core.gear.switcher import Switcher
from low_tide.core.gear.tap_box import TapBox
from low_tide.core.venue.mount import Mount
from low_tide.core.venue.partition import Partition
from low_tide.core.venue.place import Place
from low_tide.core.venue.room import Room
from low_tide.core.venue.surrounding import Surrounding

Unit: TypeAlias = (
    Guitar
    | Pedal
    | Processor
    | Amp
    | Load
    | Attenuator
    | ReAmp
    | TapBox
    | Switcher
    | Cabinet
    | Microphone
    | LineBox
    | Interface
    | Headphones
    | Lead
    | Room
    | Partition
    | Place
    | Mount
)

PowerStage: TypeAlias = Amp | ReAmp
"""What drives a speaker: an amp, or the amplifier inside a re-amplifier."""

KINDS: dict[str, tuple[type[Unit], str, str]] = {
    "guitar": (Guitar, "Guitar", "Guitars"),
    "pedal": (Pedal, "Pedal", "Pedals"),
    "processor": (Processor, "Processor", "Processors"),
    "amp": (Amp, "Amp", "Amps"),
    "load": (Load, "Load box", "Load boxes"),
    "attenuator": (Attenuator, "Attenuator", "Attenuators"),
    "reamp": (ReAmp, "Re-amplifier", "Re-amplifiers"),
    "tap_box": (TapBox, "Tap box", "Tap boxes"),
    "switcher": (Switcher, "Switch", "Switches"),
    "cabinet": (Cabinet, "Cabinet", "Cabinets"),
    "microphone": (Microphone, "Microphone", "Microphones"),
    "line_box": (LineBox, "Line box", "Line boxes"),
    "interface": (Interface, "Interface or desk", "Interfaces and desks"),
    "headphones": (Headphones, "Headphones", "Headphones"),
    "lead": (Lead, "Lead", "Leads"),
    "room": (Room, "Room", "Rooms"),
    "partition": (Partition, "Partition", "Partitions"),
    "place": (Place, "Place", "Places"),
    "mount": (Mount, "Mount", "Mounts"),
}
"""kind → class, name, plural; in the order the signal meets them."""

__all__ = [
    "KINDS",
    "Amp",
    "Attenuator",
    "Cabinet",
    "Guitar",
    "Headphones",
    "Interface",
    "Lead",
    "LineBox",
    "Load",
    "Microphone",
    "Mount",
    "Partition",
    "Pedal",
    "Place",
    "PowerStage",
    "Processor",
    "ReAmp",
    "Room",
    "Surrounding",
    "Switcher",
    "TapBox",
    "Unit",
]
