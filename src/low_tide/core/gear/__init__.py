"""Kinds of gear, registered here and nowhere else: a new kind is a module and its line below."""

from __future__ import annotations

from typing import TypeAlias

from low_tide.core.gear.amp import Amp
from low_tide.core.gear.attenuator import Attenuator
from low_tide.core.gear.cabinet import Cabinet
from low_tide.core.gear.interface import Interface
from low_tide.core.gear.lead import Lead
from low_tide.core.gear.load import Load
from low_tide.core.gear.tap_box import TapBox

Unit: TypeAlias = Amp | Load | Attenuator | TapBox | Cabinet | Lead | Interface

KINDS: dict[str, tuple[type[Unit], str, str]] = {
    "amp": (Amp, "Amp", "Amps"),
    "load": (Load, "Load box", "Load boxes"),
    "attenuator": (Attenuator, "Attenuator", "Attenuators"),
    "tap_box": (TapBox, "Tap box", "Tap boxes"),
    "cabinet": (Cabinet, "Cabinet", "Cabinets"),
    "lead": (Lead, "Lead", "Leads"),
    "interface": (Interface, "Interface", "Interfaces"),
}
"""kind → class, name, plural; in the order the signal meets them."""

__all__ = [
    "KINDS",
    "Amp",
    "Attenuator",
    "Cabinet",
    "Interface",
    "Lead",
    "Load",
    "TapBox",
    "Unit",
]
