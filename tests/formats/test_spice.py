"""The netlist against ngspice: every node of every demo hook-up, and of generated ones."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from low_tide.cli import main
from low_tide.core.circuit.impedance import MeasuredCurve, driver_impedance, typical_driver
from low_tide.core.frequency import frequency_grid
from low_tide.core.gear.base import DriverData
from low_tide.core.gear.cabinet import Driver
from low_tide.core.inventory import Cabinet, Load
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.formats.spice import node_name, result_json, write_netlist
from tests.core.build import LOAD, PAD, rig
from tests.examples import many

needs_ngspice = pytest.mark.skipif(shutil.which("ngspice") is None, reason="ngspice is not installed")
MOST_DB, MOST_DEGREES = 0.01, 0.1


def simulated(netlist: str, folder: Path) -> dict[str, np.ndarray]:
    """Complex voltages by node name, as ngspice computes them from the netlist as it is."""
    (folder / "hookup.cir").write_text(netlist)
    done = subprocess.run(["ngspice", "-b", "hookup.cir"], cwd=folder, capture_output=True, text=True, timeout=60)
    written = folder / "hookup.dat"
    assert written.exists(), done.stdout[-2000:] + done.stderr[-2000:]
    lines = written.read_text().splitlines()
    names = [word for word in lines[0].split()[1:] if word.startswith("v(")]
    table = np.array([[float(x) for x in line.split()] for line in lines[1:]])
    written.unlink()
    assert table[:, 0] == pytest.approx(frequency_grid(), rel=1e-6)
    parts = list(dict.fromkeys(name[2:-1] for name in names))
    return {name: table[:, 1 + 2 * i] + 1j * table[:, 2 + 2 * i] for i, name in enumerate(parts)}


def agrees(case: Rig, folder: Path) -> int:
    """Compares every node that has a voltage; returns how many there were."""
    nodes = result_json(case)["nodes"]["voltages"]
    found = simulated(write_netlist(case), folder)
    assert set(found) == set(nodes)
    compared = 0
    for name, parts in nodes.items():
        ours = np.array(parts["real"]) + 1j * np.array(parts["imaginary"])
        if np.abs(ours).max() < 1e-9:
            assert np.abs(found[name]).max() < 1e-6
            continue
        off = found[name] / ours
        assert np.abs(20 * np.log10(np.abs(off))).max() < MOST_DB, name
        assert np.abs(np.degrees(np.angle(off))).max() < MOST_DEGREES, name
        compared += 1
    return compared


@needs_ngspice
@pytest.mark.parametrize("name", HOOKUPS)
def test_every_demo_hookup_agrees_with_ngspice(name: str, tmp_path: Path) -> None:
    assert agrees(checked(HOOKUPS[name], GEAR), tmp_path) >= 2


OHMS = st.sampled_from([2.0, 4.0, 8.0, 16.0])


@st.composite
def networks(draw: st.DrawFn) -> Rig:
    """An amp into a load, a pad and a cabinet in some order, resistive, reactive or measured."""
    ohms = draw(OHMS)
    z = driver_impedance(typical_driver(ohms), frequency_grid()[::8])
    curve = MeasuredCurve(tuple(frequency_grid()[::8]), tuple(z.real), tuple(z.imag))
    data = draw(st.sampled_from([DriverData(), DriverData(f_s=60, q_es=1.2), DriverData(measured=curve)]))
    load: Load = replace(
        LOAD,
        impedances=(ohms,),
        behaviour=draw(st.sampled_from(["resistive", "reactive"])),
        curve=data,
        through="parallel",
    )
    wiring = draw(st.sampled_from(["series", "parallel", "series_parallel"]))
    cab = Cabinet("cab", "Cab", drivers=(Driver(ohms, 60, data=data),) * 4, wiring=wiring)
    pad = replace(PAD, behaviour=draw(st.sampled_from(["resistive", "reactive"])), impedance=ohms)
    links = draw(
        st.sampled_from(
            [
                "lead1: amp/out1 > load/in; lead2: load/through > cab/in1",
                "lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1; thin: amp/out2 > load/in",
                "thin: amp/out1 > pad/in; lead2: pad/out > load/in; lead3: load/through > cab/in1",
                "lead1: amp/out1 > box/in; lead2: box/through > cab/in1",
            ]
        )
    )
    step = draw(st.sampled_from(["3", "20"]))
    return rig(links, load, cab, pad, **({"pad": {"step": step}} if "pad" in links else {}))


@needs_ngspice
@settings(max_examples=many(12), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(case=networks())
def test_generated_hookups_agree_with_ngspice(case: Rig, tmp_path: Path) -> None:
    assert agrees(case, tmp_path) >= 3


def test_names_of_nodes_are_told_apart() -> None:
    for name, hookup in HOOKUPS.items():
        nodes = result_json(checked(hookup, GEAR))["nodes"]["voltages"]
        sockets = {f"{u.unit}.{s.id}" for u in hookup.units for s in GEAR[u.unit].sockets() if s.level == "speaker"}
        assert len({node_name(s) for s in sockets}) == len(sockets), name
        assert all(n.replace("_", "").isalnum() for n in nodes)


HOSTILE = "x\n.control\nshell touch owned\nwrdata owned2 all\n.endc\n*# shell touch owned3\r*ng"


def hostile(id: str, name: str) -> Rig:
    """A load of an amp with a given id, in a hook-up with a given name."""
    case = rig("lead1: amp/out1 > load/in")
    units = tuple(replace(p, unit=id if p.unit == "load" else p.unit) for p in case.hookup.units)
    links = tuple(replace(k, b=End(id, "in")) for k in case.hookup.links)
    gear = {**case.gear, id: replace(case.gear["load"], id=id, name=name)}
    return checked(replace(case.hookup, name=name, units=units, links=links), gear)


@given(id=st.text(min_size=1, max_size=64).filter(lambda x: x != "amp"), name=st.text(min_size=1, max_size=80))
@example(id=HOSTILE, name=HOSTILE)
def test_no_name_adds_a_line_to_a_netlist(id: str, name: str) -> None:
    netlist = write_netlist(hostile(id, name))
    assert len(netlist.splitlines()) == len(write_netlist(hostile("load", "Load")).splitlines())
    assert netlist.isascii()
    commands = netlist[netlist.index(".control") :]
    assert not set(commands) & set("`$!|<>&\\\"'")
    assert all(re.fullmatch(r"\* [A-Za-z0-9 .,:;()_-]*", x) for x in netlist.splitlines() if x.startswith("*"))


@needs_ngspice
def test_a_hostile_name_commands_nothing(tmp_path: Path) -> None:
    assert simulated(write_netlist(hostile(HOSTILE, HOSTILE)), tmp_path)
    assert {f.name for f in tmp_path.iterdir()} == {"hookup.cir"}


def test_the_command_writes_it(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    main(["example", "split-fog"])
    file = tmp_path / "x.json"
    file.write_text(capsys.readouterr().out)
    assert main(["export", str(file), "--to", "spice"]) == 0
    netlist = capsys.readouterr().out
    assert "ac dec 160 20 20k" in netlist
    assert netlist.rstrip().endswith(".end")
    assert main(["export", str(file), "--to", "json"]) == 0
    result = json.loads(capsys.readouterr().out)
    assert len(result["nodes"]["frequency"]) == 481
    assert set(result["nodes"]["voltages"]) >= {"gabion_40__in", "turnstone_212__in1", "godwit_45__out1"}
