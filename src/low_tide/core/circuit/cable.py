"""Leads: resistance, capacitance."""

from __future__ import annotations

OHMS_PER_METRE = {12: 5.21e-3, 14: 8.29e-3, 16: 13.2e-3, 18: 21.0e-3, 20: 33.3e-3, 22: 53.0e-3, 24: 84.2e-3}
"""Copper at 20 °C by gauge (AWG), Ω/m of one conductor (ASTM B258)."""

PLUG_OHMS = 10e-3
"""Contact resistance of one plug, tip and sleeve together."""

SCREENED_FARADS_PER_METRE = 100e-12
COPPER_OHM_METRE = 1.724e-8


def loop_resistance(length: float, gauge: int, plugs: int = 2) -> float:
    """Resistance (Ω) there and back of a lead: 2·length (m)·Ω/m + 10 mΩ a plug.

    `gauge` in AWG as listed in `OHMS_PER_METRE`; another raises KeyError.
    """
    return 2 * length * OHMS_PER_METRE[gauge] + plugs * PLUG_OHMS


def ohms_per_metre(section_mm2: float) -> float:
    """Resistance (Ω/m) of one copper conductor from its cross-section (mm²)."""
    return COPPER_OHM_METRE / (section_mm2 * 1e-6)
