"""A unit's back as a picture: what it says a plug does is what the network does, and what a verdict needs is told."""

from __future__ import annotations

from dataclasses import fields, replace

import pytest

from low_tide.core.gear.base import Site
from low_tide.core.gear.cabinet import Driver
from low_tide.core.gear.line_out import LineOut
from low_tide.core.inventory import KINDS, Amp, Cabinet, Lead, Load, Surrounding, Unit
from low_tide.core.judging.checks import REGISTRY
from low_tide.core.presentation.analysis import at_a_glance
from low_tide.core.presentation.back import NOT_OF_THE_INSIDE, back
from low_tide.core.rig.completeness import gaps
from low_tide.core.rig.needs import needs
from low_tide.demo.gear import GEAR
from tests.core.build import AMP, CAB, LOAD, UNITS, rig

BOXES = [u for u in (*GEAR.values(), *UNITS) if not isinstance(u, Lead | Surrounding)]


def site(unit: Unit, *plugged: str) -> Site:
    return Site(unit.id, {c.id: c.default for c in unit.controls()}, frozenset(plugged), None)


def elements(unit: Unit, *plugged: str) -> set[str]:
    return {e.part for e in unit.parts(site(unit, *plugged)).elements}


def joined(unit: Unit, *plugged: str) -> set[frozenset[str]]:
    return {frozenset(pair) for pair in unit.parts(site(unit, *plugged)).joints}


@pytest.mark.parametrize("unit", BOXES, ids=lambda u: u.id)
def test_every_socket_and_control_is_in_the_picture(unit: Unit) -> None:
    found = back(unit)
    assert [j.socket for j in found.jacks] == [s.id for s in unit.sockets() if s.level != "air"]
    assert {k.control for k in found.knobs} == {c.id for c in unit.controls()} - {"air"}
    assert all(j.says.endswith(".") for j in found.jacks)
    assert all(k.stands in k.positions or "to" in k.positions[0] for k in found.knobs)
    own = {f.name for f in fields(unit)}
    told = {n for j in found.jacks for n in j.fields} | {n for k in found.knobs for n in k.fields}
    # Every field of the record is reached by some part of the picture, and none that the record lacks is named.
    assert told | set(found.inside_fields) | (NOT_OF_THE_INSIDE & own) == own


@pytest.mark.parametrize("unit", [u for u in BOXES if isinstance(u, Load)], ids=lambda u: u.id)
def test_what_a_plug_in_the_through_does_is_what_the_network_does(unit: Load) -> None:
    for through in ("parallel", "switching", "unknown"):
        load = replace(unit, through=through)  # type: ignore[arg-type]
        jack = next(j for j in back(load).jacks if j.socket == "through")
        stays = elements(load, "in", "through") == elements(load, "in")
        assert (jack.contact == "takes_out") == (not stays)
        assert jack.contact == {"parallel": "beside", "switching": "takes_out", "unknown": "unknown"}[through]
    assert not any(j.socket == "through" for j in back(replace(unit, through="none")).jacks)


@pytest.mark.parametrize("wiring", ["parallel", "switching", "unknown"])
def test_what_a_plug_in_the_second_jack_of_a_tap_does(wiring: str) -> None:
    amp: Amp = replace(AMP, jack_wiring=wiring)  # type: ignore[arg-type]
    jacks = {j.socket: j.contact for j in back(amp).jacks}
    both_on = {"amp.out1", "amp.out2"} <= {n for pair in joined(amp, "out1", "out2") for n in pair}
    assert (jacks["out2"] == "cuts_off") == (not both_on)
    assert jacks["out2"] == {"parallel": "beside", "switching": "cuts_off", "unknown": "unknown"}[wiring]
    lone = replace(amp, taps=tuple(replace(t, jacks=1) for t in amp.taps))
    assert {j.contact for j in back(lone).jacks if j.level == "speaker"} == {"plain"}


def test_jacks_of_a_cabinet_say_how_they_are_wired() -> None:
    for wiring, contact in {"parallel": "beside", "series": "after", "separate": "apart", "unknown": "unknown"}.items():
        cab: Cabinet = replace(CAB, jack_wiring=wiring)  # type: ignore[arg-type]
        assert {j.contact for j in back(cab).jacks} == {contact}
    assert back(CAB).inside == "2 drivers in parallel, together 8 Ω; open back"


def test_what_a_verdict_needs_is_told_until_it_is_known() -> None:
    known = {n.field: n.known for n in needs(replace(LOAD, through="none"))}
    assert known == dict.fromkeys(("impedances", "behaviour", "rating", "rating_kind", "through", "cutout"), True)
    assert not next(n for n in needs(replace(LOAD, rating=None)) if n.field == "rating").known
    assert not next(n for n in needs(replace(LOAD, cutout="unknown")) if n.field == "cutout").known
    # What is only typical is not known yet, and neither is what lies within a part.
    assert not next(n for n in needs(replace(LOAD, typical=("Impedance",))) if n.field == "impedances").known
    bare = replace(CAB, rating=None, drivers=(replace(CAB.drivers[0], rating=None),))
    assert {n.field: n.known for n in needs(bare)}["drivers"] is False
    # Of a valve amp nobody needs a minimum load, of one without transformer everybody.
    assert "minimum_load" not in {n.field for n in needs(AMP)}
    assert {n.field: n.known for n in needs(replace(AMP, technology="transistor"))}["minimum_load"] is False


@pytest.mark.parametrize("kind", KINDS)
def test_what_makes_every_hookup_check_first_is_among_the_needs(kind: str) -> None:
    """A gap that says "check first" goes away once the needs are known."""
    for unit in (u for u in BOXES if u.kind == kind):
        said = [gap for gap in gaps(unit) if "every hook-up with it is check first" in gap]
        assert not said or any(not n.known for n in needs(unit)), (unit.id, said)


ASKED = {
    "Rating": replace(LOAD, rating=None),
    "Rating counts": replace(LOAD, rating=60, rating_kind="unknown"),
}


@pytest.mark.parametrize("label", ASKED)
def test_a_finding_asks_for_the_fact_that_would_settle_it(label: str) -> None:
    assert not at_a_glance(rig("lead1: amp/out1 > load/in")).asks
    glance = at_a_glance(rig("lead1: amp/out1 > load/in", ASKED[label]))
    assert {(ask.unit, ask.name, ask.label) for ask in glance.asks} == {("load", "Load", label)}
    assert {ask.finding for ask in glance.asks} <= {f.key for f in glance.findings if f.severity in ("caution", "stop")}


def test_every_field_a_check_asks_for_is_a_field() -> None:
    records = [cls for cls, _, _ in KINDS.values()]
    names = {f.name for cls in records for f in fields(cls)}
    names |= {f"drivers.{f.name}" for f in fields(Driver)} | {f"line_out.{f.name}" for f in fields(LineOut)}
    asked = {field for check in REGISTRY.values() for field in check.asks}
    assert asked
    assert asked <= names
