"""Every finding that asks for a fact leads to the field that settles it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import fields, is_dataclass, replace
from typing import Any, get_type_hints

import pytest

from low_tide.core.inventory import Unit
from low_tide.core.judging.judge import judge
from low_tide.core.presentation.asked import asks_of, is_open
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.validation import checked
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS

OF_NO_RESULT = {"id", "name", "kind", "notes", "typical", "inferred", "papers", "archived"}


def forgotten(record: Any) -> Iterator[Any]:
    """A record with one thing of it not known, for everything that may be so; of its parts as well."""
    hints = get_type_hints(type(record))
    for each in fields(record):
        if each.name in OF_NO_RESULT:
            continue
        value, hint = getattr(record, each.name), str(hints[each.name])
        found = [None] if "None" in hint and value is not None else []
        if "unknown" in hint and isinstance(value, str) and value != "unknown":
            found.append("unknown")  # type: ignore[arg-type]
        if isinstance(value, tuple):
            for i, part in enumerate(value):
                made = forgotten(part) if is_dataclass(part) else ()
                found += [(*value[:i], other, *value[i + 1 :]) for other in made]  # type: ignore[list-item]
        elif is_dataclass(value):
            found += list(forgotten(value))
        for other in found:
            try:
                yield replace(record, **{each.name: other})
            except ValueError:
                continue


def hookups_with_something_forgotten(name: str) -> Iterator[dict[str, Unit]]:
    hookup = HOOKUPS[name]
    for unit in {p.unit for p in hookup.units} | {k.lead for k in hookup.links}:
        for other in forgotten(GEAR[unit]):
            yield {**GEAR, unit: other}


@pytest.mark.parametrize("name", sorted(set(HOOKUPS) - {"whole-ship"}))
def test_a_finding_that_says_something_is_not_known_leads_to_its_field(name: str) -> None:
    tried = 0
    for gear in hookups_with_something_forgotten(name):
        try:
            here = checked(HOOKUPS[name], gear)
        except HookupError:
            continue
        judged = judge(here)
        asks = {ask.finding: ask for ask in asks_of(here, judged.findings)}
        for finding in judged.findings:
            said = f"{finding.text} {finding.reason}".lower()
            if finding.severity in ("stop", "caution") and ("is not known" in said or "nobody can say" in said):
                assert finding.key in asks, finding.text
                tried += 1
        for ask in asks.values():
            assert any(f.key == ask.finding and ask.unit in f.units for f in judged.findings)
    assert tried > 0


def test_a_field_of_a_part_is_open_where_one_part_misses_it() -> None:
    cab = GEAR["turnstone-212"]
    assert not is_open(cab, "drivers.sensitivity")
    drivers = cab.drivers  # type: ignore[attr-defined]
    one = replace(cab, drivers=(replace(drivers[0], sensitivity=None), *drivers[1:]))  # type: ignore[call-arg]
    assert is_open(one, "drivers.sensitivity")
    assert is_open(replace(cab, typical=("Sensitivity",)), "drivers.sensitivity")  # type: ignore[call-arg]
    assert not is_open(GEAR["groyne-r8"], "drivers.sensitivity")
