"""Documents: what is written can be read, what is not known survives, what is broken is refused in words."""

from __future__ import annotations

import json
import re
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from low_tide.core.inventory import KINDS, Amp
from low_tide.core.judging.judge import judge
from low_tide.core.presentation.analysis import analyse
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.validation import checked
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.formats.documents import (
    dump,
    keep_unknown,
    load_unit,
    read_hookup_file,
    read_json,
    write_hookup_file,
)
from low_tide.formats.sentences import FormatError
from low_tide.formats.tables import analysis_csv, write_csv
from tests.examples import many


def a_file(name: str = "silent-night", **changes: Any) -> dict[str, Any]:
    hookup = HOOKUPS[name]
    data = write_hookup_file(dump(hookup), [dump(GEAR[i]) for i in hookup.gear_ids()])
    return {**json.loads(data), **changes}


def refused(document: Any) -> str:
    data = document if isinstance(document, bytes) else json.dumps(document).encode()
    with pytest.raises((FormatError, HookupError)) as caught:
        read_hookup_file(data)
    return " ".join(caught.value.problems)


@pytest.mark.parametrize("unit", GEAR.values(), ids=lambda u: u.id)
def test_gear_round_trip(unit: Any) -> None:
    assert load_unit(dump(unit)) == unit


@pytest.mark.parametrize("name", HOOKUPS)
def test_hookup_file_round_trip(name: str) -> None:
    rig, _ = read_hookup_file(json.dumps(a_file(name)).encode())
    assert rig.hookup == HOOKUPS[name]
    assert judge(rig).findings == judge(checked(HOOKUPS[name], rig.gear)).findings


def test_every_kind_has_a_demo_unit() -> None:
    assert {u.kind for u in GEAR.values()} == set(KINDS)


def test_unknown_fields_survive() -> None:
    before = {"name": "x", "colour": "blue", "units": [{"unit": "a", "shelf": 3}, {"unit": "b"}], "tags": [1]}
    after = {"name": "y", "units": [{"unit": "b"}, {"unit": "a"}]}
    kept = keep_unknown(before, after)
    assert kept == {
        "name": "y",
        "colour": "blue",
        "tags": [1],
        "units": [{"unit": "b"}, {"unit": "a", "shelf": 3}],
    }


def test_what_a_hookup_file_must_be() -> None:
    assert "not a hook-up file" in refused([1, 2])
    assert "not a hook-up file" in refused(a_file(format="something/else"))
    assert "version 2; this program reads up to 1" in refused(a_file(version=2))
    assert "Version" in refused(a_file(version="new"))
    whole = json.dumps(a_file()).encode()
    assert "It looks cut off" in refused(whole[: len(whole) // 2])
    assert "UTF-8" in refused(b"\xff\xfe\x00")
    assert "NaN" in refused(b'{"format": NaN}')
    assert "nested too deeply: more than 64 levels" in refused(b"[" * 100_000)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        (b"[" * 65 + b"]" * 65, "nested too deeply"),
        (b'{"a":' * 65 + b"1" + b"}" * 65, "nested too deeply"),
        (b"[9007199254740992]", "9007199254740992 is outside"),
        (b"[-9007199254740992]", "-9007199254740992 is outside"),
        (b"[" + b"9" * 5000 + b"]", "is outside"),
        (b"[1e999]", "1e999 is too large a number"),
        (b"[-1e999]", "-1e999 is too large a number"),
        (b"[Infinity]", "Infinity is not a number that JSON allows"),
        (rb'["\ud800"]', "half a character"),
        (rb'{"a": [[{"b\udc00": 1}]]}', "half a character"),
        (rb'"\ud800"', "half a character"),
    ],
)
def test_what_other_programs_would_read_otherwise_is_refused(text: bytes, says: str) -> None:
    with pytest.raises(FormatError, match=re.escape(says)):
        read_json(text)


@pytest.mark.parametrize(
    ("text", "value"),
    [
        (b"[" * 64 + b"]" * 64, None),
        (b'["' + b"[{" * 500 + b'"]', ["[{" * 500]),
        (rb'["\"[[[", "' + b"[" * 70 + rb'\\"]', ['"[[[', "[" * 70 + "\\"]),
        (b"[9007199254740991, -9007199254740991, 1e308]", [2**53 - 1, 1 - 2**53, 1e308]),
        (rb'["\ud83c\udfb8", "\\ud800"]', ["\U0001f3b8", "\\ud800"]),
        (b"\xef\xbb\xbf{}", {}),
    ],
)
def test_what_is_within_the_bounds_is_read(text: bytes, value: object) -> None:
    found = read_json(text)
    assert value is None or found == value


def test_gear_missing_from_a_file() -> None:
    document = a_file()
    document["gear"] = document["gear"][1:]
    assert "“godwit-45” is not in the locker and not in the file" in refused(document)
    twice = a_file()
    twice["gear"] = [*twice["gear"], twice["gear"][0]]
    assert "same id" in refused(twice)


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"rating": 1e9}, "Rating: 1000000000 W is over the most allowed, 5000 W."),
        ({"rating": -3}, "Rating: −3 W is under the least allowed, 0.05 W."),
        ({"impedances": [0.1]}, "Impedance 1: 0.1 Ω is under the least allowed, 1 Ω."),
        ({"impedances": []}, "Impedance: at least 1 needed."),
        ({"behaviour": "magic"}, "Behaves: “magic” is not one of 'resistive' or 'reactive'."),
        ({"name": ""}, "Name: it must not be empty."),
        ({"name": "x" * 90}, "Name: at most 80 characters, this has 90."),
        ({"line_out": {"ratio_db": 5}}, "Line out, Speaker to line: 5 dB is over the most allowed, 0 dB."),
        ({"rating": "plenty"}, "Rating: “plenty” is not a number."),
    ],
)
def test_refusals_name_the_field_and_the_bound(changes: dict[str, Any], says: str) -> None:
    with pytest.raises(FormatError) as caught:
        load_unit({"kind": "load", "id": "x", "name": "X", **changes})
    assert caught.value.problems == [says]


@pytest.mark.parametrize(
    ("doc", "says"),
    [
        ({"kind": "amp", "taps": [{"impedance": 8}, {"impedance": 8}]}, "same impedance"),
        ({"kind": "amp", "modes": [{"name": "a"}, {"name": "a"}]}, "same name"),
        ({"kind": "attenuator", "steps": [], "lowest": 20, "highest": 10}, "less than"),
        ({"kind": "cabinet", "wiring": "series_parallel", "drivers": [{}, {}]}, "four, six or eight"),
        ({"kind": "interface", "inputs": [{"least_gain": 9, "most_gain": 3}]}, "must not be less"),
    ],
)
def test_fields_that_contradict_each_other(doc: dict[str, Any], says: str) -> None:
    with pytest.raises(FormatError, match=says):
        load_unit({"id": "x", "name": "X", **doc})


JSON = st.recursive(
    st.none() | st.booleans() | st.floats(allow_nan=False) | st.text(max_size=8) | st.integers(),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner, max_size=4),
    max_leaves=12,
)


@settings(max_examples=many(150))
@given(st.sampled_from(sorted(GEAR)), st.data())
def test_mangled_gear_is_refused_or_sound(gear_id: str, data: st.DataObject) -> None:
    document = dump(GEAR[gear_id])
    document[data.draw(st.sampled_from(sorted(document)))] = data.draw(JSON)
    try:
        unit = load_unit(document)
    except FormatError as error:
        said = error.problems
        assert said
        assert all(p.endswith(".") for p in said)
    else:
        assert load_unit(dump(unit)) == unit
        unit.sockets()
        unit.controls()


@settings(max_examples=many(60))
@given(JSON)
def test_any_json_is_answered_in_words(value: Any) -> None:
    assert refused(value)
    try:
        rig, _ = read_hookup_file(json.dumps(a_file(hookup=value)).encode())
    except (FormatError, HookupError) as error:
        said = error.problems
        assert said
    else:
        assert not rig.hookup.units  # nothing but an empty hook-up can come of chance


def test_results_as_json_say_everything() -> None:
    result = dump(analyse(checked(HOOKUPS["split-fog"], GEAR)))
    finding = result["findings"][0]
    assert (finding["id"], finding["severity"]) == ("mismatch", "stop")
    assert finding["fix"]["changes"][0] == {"unit": "godwit-45", "control": "tap", "value": "4", "op": "set"}
    assert finding["school"]["chosen"]
    assert len(result["curves"][0]["frequency"]) == len(result["curves"][0]["imaginary"]) == 481
    assert result["shares"][0]["rating_kind"] == "continuous"
    assert result["lines"][0]["dbfs"] < 0
    assert "Infinity" not in json.dumps(dump(analyse(checked(HOOKUPS["empty-through"], GEAR))))


def test_results_as_csv() -> None:
    rig = checked(HOOKUPS["quiet-hold"], GEAR)
    text = analysis_csv(rig, analyse(rig))
    assert "amp,Godwit 45,tap,8,Ω" in text
    assert sum(line.startswith("impedance,") for line in text.splitlines()) == 481


def test_cells_cannot_become_formulas() -> None:
    assert write_csv(["a"], [["=1+1"], ["-x"], [-1.5]]).split() == ["a", "'=1+1", "'-x", "-1.5"]


def test_an_amp_from_before_its_attenuator_was_named_keeps_its_watts() -> None:
    old = {"id": "a", "name": "A", "kind": "amp", "modes": [{"name": "quiet", "power": 50, "soak": 10.0}]}
    amp = load_unit(old)
    assert isinstance(amp, Amp)
    (mode,) = amp.modes
    assert (mode.attenuation, mode.stage_power(), mode.jack_power()) == (10.0, 50, pytest.approx(5))
    again = load_unit(dump(amp))
    assert again == amp
    new = load_unit({**old, "modes": [{"name": "quiet", "power": 5, "attenuation": 10.0}]})
    assert isinstance(new, Amp)
    assert new.modes[0].stage_power() == pytest.approx(50)
