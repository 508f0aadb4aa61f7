"""Cautions for people."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.checks.registry import Case, check
from low_tide.core.finding import Finding


@check("case-closed", "Heat and hands", "A valve amp is in the hook-up: its case stays closed.")
def case_closed(case: Case) -> Iterator[Finding]:
    valves = [(u, a) for u, a in case.rig.amps() if a.technology != "transistor"]
    if valves:
        yield Finding(
            "case-closed",
            "note",
            "The case stays closed.",
            "Valve (tube) amps hold lethal voltages, also switched off. Bias, valves and anything inside are"
            " a qualified technician's.",
            tuple(u for u, _ in valves),
        )
