"""Whatever is sent, the answer is a sentence: no trace, no 500, nothing half-written."""

from __future__ import annotations

import contextlib
import json
import sqlite3
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from low_tide.core.judging.judge import judge
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.validation import checked
from low_tide.core.session.run_sheet import run_sheet
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.formats.documents import dump, load_unit
from low_tide.formats.sentences import FormatError
from low_tide.store.home import Home
from tests.examples import many
from tests.written import WRITTEN

QUIET = settings(max_examples=many(12), suppress_health_check=[HealthCheck.function_scoped_fixture])
SCALARS = st.none() | st.booleans() | st.integers(-(10**20), 10**20) | st.floats() | st.text(max_size=12)
JSON = st.recursive(
    SCALARS,
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=10), inner, max_size=4),
    max_leaves=10,
)
UNITS = st.sampled_from([*sorted(GEAR), "nobody", ""])
SOCKETS = st.sampled_from(["in", "in1", "out", "out1", "out2", "tap8.1", "through", "line", "in3", "hole"])
ENDS = st.fixed_dictionaries({"unit": UNITS, "socket": SOCKETS})
CHANGES = st.one_of(
    st.fixed_dictionaries({"op": st.sampled_from(["add", "remove"]), "unit": UNITS}),
    st.fixed_dictionaries({"op": st.just("connect"), "lead": UNITS, "a": ENDS, "b": st.none() | ENDS}),
    st.fixed_dictionaries({"op": st.just("disconnect"), "lead": UNITS}),
    st.fixed_dictionaries({"op": st.just("stand"), "unit": UNITS, "room": UNITS | st.none(), "mount": UNITS}),
    st.fixed_dictionaries(
        {
            "op": st.just("plan"),
            "occasion": st.fixed_dictionaries(
                {},
                optional={
                    "hour": st.sampled_from(["", "21:00", "25:00", "noon"]),
                    "hours": SCALARS,
                    "playing": st.sampled_from(["riff", "loud"]),
                    "place": UNITS,
                    "level": SCALARS,
                },
            ),
        }
    ),
    st.fixed_dictionaries(
        {
            "op": st.just("set"),
            "unit": UNITS,
            "control": st.sampled_from(["tap", "mode", "step", "bypass", "line.pot", "in3.gain", "flat_out", "x"]),
            "value": st.sampled_from(["4", "8", "full", "bridging", True, False, -6, 0, 1e9, "16", None]),
        }
    ),
)


@pytest.fixture
def commits(lightship: Home) -> Iterator[Callable[[], int]]:
    """A number that changes whenever somebody saves anything."""
    with contextlib.closing(sqlite3.connect(lightship.database)) as probe:
        yield lambda: int(probe.execute("pragma data_version").fetchone()[0])


def sound(answer: Any) -> None:
    assert answer.status_code < 500, answer.text
    if answer.status_code >= 400:
        assert answer.content_type == "application/problem+json"
        assert all(isinstance(p, str) and p for p in answer.json["problems"])
        assert "Traceback" not in answer.text


WRITES = [
    (method, path)
    for path, item in WRITTEN["paths"].items()
    for method in ("post", "put")
    if method in item and "audio" not in path
]


@pytest.mark.parametrize(("method", "path"), WRITES)
@QUIET
@given(body=JSON)
def test_any_json_anywhere(client: FlaskClient, method: str, path: str, body: Any) -> None:
    numbers = (
        "take_id",
        "session_id",
        "reading_id",
        "line_id",
        "comparison_id",
        "run_id",
        "impulse_id",
        "blend_id",
        "mix_id",
        "timer_id",
        "fault_id",
        "attachment_id",
        "other_id",
        "sitting_id",
        "drill_id",
    )
    words = (
        "date",
        "plan_id",
        "place_id",
        "gear_id",
        "hookup_id",
        "test_id",
        "upload",
        "audio",
        "token",
        "which",
        "letter",
    )
    filled = path.format(**dict.fromkeys(numbers, 999), **dict.fromkeys(words, "nobody"))
    sound(getattr(client, method)(filled, data=json.dumps(body), content_type="application/json"))


@QUIET
@given(changes=st.lists(CHANGES, min_size=1, max_size=4), name=st.sampled_from(sorted(HOOKUPS)))
def test_any_change_is_made_whole_or_refused(client: FlaskClient, changes: list[dict], name: str) -> None:
    path = f"/api/hookups/{name}"
    before = client.get(path).json
    answer = client.post(f"{path}/changes", json={"saves": before["saves"], "changes": changes})
    sound(answer)
    now = client.get(path).json
    if answer.status_code != 200:
        assert now == before
    else:
        assert now["saves"] - before["saves"] in (0, 1)
        undone = client.post(f"{path}/undo", json={"saves": now["saves"]})
        if now["saves"] > before["saves"]:
            assert undone.json["units"] == before["units"]
            assert undone.json["links"] == before["links"]


@QUIET
@given(data=st.binary(max_size=300))
def test_any_bytes_as_a_hookup_file(client: FlaskClient, commits: Callable[[], int], data: bytes) -> None:
    before = commits()
    answer = client.post("/api/hookups/import", data=data)
    sound(answer)
    assert answer.status_code == 422
    assert commits() == before


@QUIET
@given(name=st.sampled_from(sorted(HOOKUPS)), cut=st.floats(0, 1), where=st.data())
def test_a_mangled_hookup_file(client: FlaskClient, name: str, cut: float, where: st.DataObject) -> None:
    data = client.get(f"/api/hookups/{name}/file").data
    sound(client.post("/api/hookups/import", data=data[: int(len(data) * cut)]))
    mangled = json.loads(data)
    part = mangled["hookup"] if where.draw(st.booleans()) else mangled["gear"][0]
    part[where.draw(st.sampled_from(sorted(part)))] = where.draw(JSON)
    sound(client.post("/api/hookups/import", data=json.dumps(mangled)))


def mangled(gear_id: str, data: st.DataObject) -> dict[str, Any]:
    """A unit of the lightship with anything at all in one of its fields."""
    unit = dump(GEAR[gear_id])
    unit[data.draw(st.sampled_from(sorted(unit)))] = data.draw(JSON)
    return unit


@QUIET
@given(gear_id=st.sampled_from(sorted(GEAR)), data=st.data())
def test_a_mangled_unit_is_refused_or_judged(gear_id: str, data: st.DataObject) -> None:
    try:
        unit = load_unit({**mangled(gear_id, data), "id": gear_id})
    except FormatError:
        return
    for hookup in [h for h in HOOKUPS.values() if gear_id in h.gear_ids()][:2]:
        try:
            rig = checked(hookup, {**GEAR, gear_id: unit})
        except HookupError:
            continue
        judged = judge(rig)
        assert judged.verdict.severity in ("fine", "note", "caution", "stop")
        assert run_sheet(rig, Preferences())


@settings(QUIET, max_examples=many(10))
@given(gear_id=st.sampled_from(sorted(GEAR)), data=st.data())
def test_a_mangled_unit(client: FlaskClient, gear_id: str, data: st.DataObject) -> None:
    revision = client.get(f"/api/gear/{gear_id}").json["revision"]
    answer = client.put(f"/api/gear/{gear_id}", json={"revision": revision, "unit": mangled(gear_id, data)})
    sound(answer)
    if answer.status_code == 422:
        assert client.get(f"/api/gear/{gear_id}").json["revision"] == revision
    using = [name for name, hookup in HOOKUPS.items() if gear_id in hookup.gear_ids()]
    for name in using[:1]:  # an edit may make a hook-up impossible; it must still be answered
        sound(client.get(f"/api/hookups/{name}"))
        sound(client.get(f"/api/hookups/{name}/run"))


@QUIET
@given(query=st.text(max_size=40))
def test_any_words_to_find(client: FlaskClient, query: str) -> None:
    for path in ("/api/find", "/api/gear", "/api/hookups", "/api/takes"):
        sound(client.get(path, query_string={"search": query}))


SIXTY_FOUR_MIB = 64 * 1024 * 1024
LARGE = {
    "zeros": b"\x00" * SIXTY_FOUR_MIB,
    "brackets": b"[" * SIXTY_FOUR_MIB,
    "digits": b"9" * SIXTY_FOUR_MIB,
    "list": b"[" + b"1," * (SIXTY_FOUR_MIB // 2 - 1) + b"1",
    "rows": b"kind,name\n" + b"lead,x\n" * (SIXTY_FOUR_MIB // 7 - 2),
    "many digits": b'{"format": "low-tide/locker", "version": ' + b"9" * 5000 + b"}",
    "deep": b'{"format": "low-tide/locker", "version": 1, "gear": ' + b"[" * 100_000,
}


@pytest.mark.parametrize("name", LARGE)
def test_anything_large_is_refused_in_words(client: FlaskClient, commits: Callable[[], int], name: str) -> None:
    before = commits()
    for path in ("/api/hookups/import", "/api/locker/import", "/api/curves/read"):
        answer = client.post(path, data=LARGE[name])
        sound(answer)
        assert answer.status_code == 422
    assert commits() == before


@QUIET
@given(data=st.data())
def test_a_mangled_locker_file(client: FlaskClient, commits: Callable[[], int], data: st.DataObject) -> None:
    unit = dump(GEAR[data.draw(st.sampled_from(sorted(GEAR)))])
    unit[data.draw(st.sampled_from(sorted(unit)))] = data.draw(JSON)
    before = commits()
    body = {"format": "low-tide/locker", "version": 1, "gear": [dump(GEAR["xlr-1"]), unit]}
    answer = client.post("/api/locker/import?replace=true", data=json.dumps(body))
    sound(answer)
    if answer.status_code == 422:
        assert commits() == before


@QUIET
@given(data=st.data())
def test_any_held_changes_are_shown_or_refused(
    client: FlaskClient, commits: Callable[[], int], data: st.DataObject
) -> None:
    name = data.draw(st.sampled_from(["split-fog", "processor-around", "two-amps", "re-amplified"]))
    hookup = HOOKUPS[name]
    unit = data.draw(st.sampled_from([p.unit for p in hookup.units]))
    control = data.draw(st.sampled_from([c.id for c in GEAR[unit].controls()] or ["none"]))
    change = {"op": "set", "unit": unit, "control": control, "value": data.draw(JSON)}
    before = commits()
    for path in ("what-if", "curves"):
        sound(client.post(f"/api/hookups/{name}/{path}", json={"changes": [change]}))
    assert commits() == before


PARTS = st.sampled_from(["cue-1-main", "cue-5-lead", "nobody", ""])
DATES = st.sampled_from(["2026-12-03", "2026-02-30", "soon", ""]) | SCALARS
SPANS = st.fixed_dictionaries({"start": st.sampled_from(["10:00", "23:00", "4:00", "25:00"]), "end": SCALARS})
PROJECT_CHANGES = st.one_of(
    st.fixed_dictionaries({"op": st.just("drop_parts"), "parts": st.lists(PARTS, max_size=3)}),
    st.fixed_dictionaries({"op": st.just("move_part"), "part": PARTS, "before": PARTS}),
    st.fixed_dictionaries({"op": st.sampled_from(["copy_song", "rename_song"]), "song": PARTS, "name": SCALARS}),
    st.fixed_dictionaries(
        {"op": st.just("set_part")},
        optional={
            "part": st.fixed_dictionaries(
                {"id": PARTS, "name": st.text(max_size=5)},
                optional={"play": SCALARS, "after": st.lists(PARTS, max_size=3), "double_of": PARTS, "hookup": UNITS},
            )
        },
    ),
    st.fixed_dictionaries(
        {
            "op": st.just("set_day"),
            "day": st.fixed_dictionaries({"date": DATES}, optional={"windows": st.lists(SPANS, max_size=3)}),
        }
    ),
    st.fixed_dictionaries({"op": st.just("drop_day"), "date": DATES}),
    st.fixed_dictionaries({"op": st.just("unpin"), "part": PARTS, "choosing": SCALARS}),
)


@QUIET
@given(changes=st.lists(PROJECT_CHANGES, min_size=1, max_size=4))
def test_any_change_of_a_project_is_made_whole_or_refused(client: FlaskClient, changes: list[dict]) -> None:
    before = client.get("/api/plans/fog-signal").json
    answer = client.post("/api/plans/fog-signal/changes", json={"saves": before["saves"], "changes": changes})
    sound(answer)
    after = client.get("/api/plans/fog-signal")
    assert after.status_code == 200
    if answer.status_code != 200:
        assert after.json["project"] == before["project"]
