"""Plans over HTTP: projects and their parts, laid out beside everything else, asked about, taken out as files."""

from __future__ import annotations

import csv
import io
import subprocess
import sys
import time
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import icalendar
import pytest
from flask.testing import FlaskClient

from low_tide.store.database import database
from tests.web.test_finding import refused

FOG = "/api/plans/fog-signal"


def plan(client: FlaskClient, url: str = FOG) -> Any:
    return client.get(url).json


def change(client: FlaskClient, *changes: dict[str, Any], url: str = FOG) -> Any:
    return client.post(f"{url}/changes", json={"saves": plan(client, url)["saves"], "changes": list(changes)})


def lines(client: FlaskClient, text: str, url: str = FOG) -> Any:
    return client.post(f"{url}/lines", json={"saves": plan(client, url)["saves"], "text": text})


def part(state: Any, part_id: str) -> Any:
    return next(p for song in state["project"]["songs"] for p in song["parts"] if p["id"] == part_id)


def blocks(state: Any) -> dict[str, Any]:
    return {b["part"]: (day["date"], b) for day in state["days"] for b in day["blocks"] if not b["choosing"]}


def lay_out(client: FlaskClient, url: str = FOG, **body: Any) -> Any:
    assert client.post(f"{url}/work", json=body).status_code == 200
    until = time.monotonic() + 60
    while not (found := client.get(f"{url}/work").json["working"])["over"]:
        assert time.monotonic() < until
        time.sleep(0.1)
        # Of many parts the search for the best goes on for long; what it has improved by then will do.
        if found["stage"] == "searched" and found["parts"] > 3:
            found = client.post(f"{url}/work/stop").json["working"]
            break
    assert found["failed"] == ""
    return plan(client, url)


def small(client: FlaskClient, text: str = "Cue 1 main, 30 min, through silent after 21:00") -> str:
    """A project of one day and a few parts."""
    days = [{"date": "2031-03-05", "windows": [{"start": "10:00", "end": "23:00"}]}]
    made = client.post("/api/plans", json={"project": {"name": "Small", "days": days}})
    assert made.status_code == 201
    url = f"/api/plans/{made.json['id']}"
    assert lines(client, text, url).status_code == 200
    return url


def test_the_lightship_has_a_plan_that_holds(client: FlaskClient) -> None:
    state = plan(client)
    assert client.get("/api/plans").json["plans"][0]["parts"] == state["parts"] == 16
    assert [b["wrong"] for _, b in blocks(state).values()] == [[]] * 15
    assert state["stale"] == ""
    assert [each["part"] for each in state["left_out"]] == ["cue-5-lead"]
    guides = [b for _, b in blocks(state).values() if b["role"] == "guide"]
    assert all(b["start"] + 4 * 12 >= 10 * 12 and b["start"] + b["slots"] <= (13 - 4) * 12 for b in guides)
    for day in state["days"]:
        for block in day["blocks"]:
            assert not block["loud"] or all(
                block["start"] + block["slots"] <= q["start"] or block["start"] >= q["stop"] for q in day["quiet"]
            )
            assert block["why"]


def test_parts_days_and_people_are_edited_undone_and_done_again(client: FlaskClient) -> None:
    url = small(client)
    state = lines(client, "Cue 1 lead, loud, 40 min, after main\nCue 2 main, silent", url).json
    assert [p["name"] for song in state["project"]["songs"] for p in song["parts"]] == ["main", "lead", "main"]
    assert state["undo"] == "Add 2 parts"
    assert part(state, "cue-1-main")["hookup"] == "silent-night"
    undone = client.post(f"{url}/step", json={"by": -1, "saves": state["saves"]}).json
    assert (undone["parts"], undone["redo"]) == (1, "Add 2 parts")
    again = client.post(f"{url}/step", json={"by": 1, "saves": undone["saves"]}).json
    assert again["project"] == state["project"]
    old = client.post(f"{url}/changes", json={"saves": 1, "changes": [{"op": "drop_day", "date": "2031-03-05"}]})
    refused(old, "was changed in another window", 409)
    assert plan(client, url)["project"] == state["project"]


@pytest.mark.parametrize(
    ("body", "said"),
    [
        (
            {"op": "set_day", "day": {"date": "2031-03-05", "windows": [{"start": "10:00", "end": "9:00"}]}},
            "before it begins at 10:00",
        ),
        ({"op": "set_day", "day": {"date": "2031-02-30"}}, "“2031-02-30” is no date"),
        (
            {"op": "set_day", "day": {"date": "2031-03-05", "windows": [{"start": "25:00", "end": "9:00"}]}},
            "00:00 to 23:59",
        ),
        (
            {"op": "set_part", "part": {"id": "cue-1-main", "name": "main", "play": 0}},
            "Playing: 0 min is under the least allowed, 1 min",
        ),
        (
            {"op": "set_part", "part": {"id": "cue-1-main", "name": "main", "pan": 300}},
            "Pan: 300 % is over the most allowed, 100 %",
        ),
        (
            {"op": "set_part", "part": {"id": "cue-1-main", "name": "main", "after": ["cue-1-main"]}},
            "it cannot come after itself",
        ),
        (
            {"op": "pin", "pin": {"part": "cue-1-main", "choosing": False, "date": "2031-03-09", "start": "10:00"}},
            "this day is not in the project",
        ),
        ({"op": "set_project", "name": ""}, "Project: it must not be empty"),
        (
            {"op": "set_person", "person": {"id": "d", "name": "D", "level": 200}},
            "Plays at: 200 dBA is over the most allowed, 130 dBA",
        ),
        ({"op": "paint"}, "op"),
    ],
)
def test_what_cannot_be_is_refused_in_a_sentence_and_nothing_is_written(
    client: FlaskClient, body: Any, said: str
) -> None:
    url = small(client)
    before = plan(client, url)
    refused(change(client, body, url=url), said)
    assert plan(client, url) == before


def test_lines_that_are_not_understood_are_all_named_and_none_is_taken(client: FlaskClient) -> None:
    url = small(client)
    answer = lines(client, "Cue 2 main\nCue 2 lead, sideways\nbells\nCue 2 double, through nothing", url)
    refused(answer, "Line 2: “sideways” is not understood")
    assert any(said.startswith("Line 3:") for said in answer.json["problems"])
    refused(lines(client, "Cue 2 main, through nothing there", url), "there is no hook-up “nothing there”")
    refused(lines(client, "Cue 2 main, through dry track", url), "hook-ups; say more of it")
    refused(lines(client, "\n \n", url), "Parts: there is no line in it.")
    refused(lines(client, "\n".join(["Cue 2 main"] * 5000), url), "5000 lines are over the most at one time, 400")
    assert plan(client, url)["parts"] == 1


def test_it_is_laid_out_beside_edits_and_put_in_as_one_step(client: FlaskClient) -> None:
    url = small(
        client,
        "A main, 10 + 30 min, through silent after 21:00\nA double, 30 min, through silent after 21:00, double of main",
    )
    assert client.post(f"{url}/work", json={}).json["working"]["over"] is False
    assert change(client, {"op": "set_project", "name": "Small, renamed"}, url=url).status_code == 200
    state = lay_out(client, url)
    assert state["name"] == "Small, renamed"
    assert state["undo"] == "Lay it out"
    assert state["proven"] is True
    assert [b["at"] for _, b in blocks(state).values()] == ["10:10 to 10:50", "10:50 to 11:20"]
    assert client.post(f"{url}/step", json={"by": -1, "saves": state["saves"]}).json["days"][0]["blocks"] == []
    refused(client.get("/api/plans/none/work"), "There is no such project", 404)
    refused(client.post("/api/plans/none/work", json={}), "There is no such project", 404)


def test_what_there_is_nothing_of_is_not_laid_out(client: FlaskClient) -> None:
    made = client.post("/api/plans", json={"project": {"name": "Bare"}}).json
    url = f"/api/plans/{made['id']}"
    refused(client.post(f"{url}/work", json={}), "Parts: there is none to be laid out.")
    lines(client, "Cue 1 main", url)
    refused(client.post(f"{url}/work", json={}), "Days: there is none to lay anything out on.")
    refused(client.post(f"{url}/work/stop"), "Nothing is being laid out for this project.", 404)


def test_stopped_it_keeps_the_best_so_far(client: FlaskClient) -> None:
    client.post(f"{FOG}/work", json={"keep_looking": True})
    until = time.monotonic() + 60
    while not (found := client.get(f"{FOG}/work").json)["best"]:
        assert time.monotonic() < until
        time.sleep(0.05)
    assert blocks(found["best"])
    over = client.post(f"{FOG}/work/stop").json["working"]
    assert over["over"] is True
    assert over["said"] == "stopped; the best so far is put in"
    assert len(blocks(plan(client))) == over["parts"] >= 14


def test_a_pin_holds_and_the_rest_is_laid_around_it(client: FlaskClient) -> None:
    state = plan(client)
    last = state["days"][3]["date"]
    pin = {"part": "cue-1-main", "choosing": False, "date": last, "start": "18:30"}
    moved = change(client, {"op": "pin", "pin": pin}).json
    assert any("not where it is pinned" in said for said in blocks(moved)["cue-1-main"][1]["wrong"])
    assert moved["stale"].startswith("Something has changed since this was laid out, and it no longer holds")
    state = lay_out(client)
    date, block = blocks(state)["cue-1-main"]
    assert (date, block["at"].split(" ")[0], block["pinned"]) == (last, "18:30", True)
    assert block["why"][0] == "Pinned here by hand: the rest is laid around it."
    assert blocks(state)["cue-1-double"][0] == last
    was = client.get(f"{FOG}/before").json
    assert blocks(was)["cue-1-main"][0] != last
    loose = change(client, {"op": "unpin", "part": "cue-1-main", "choosing": False}).json
    assert blocks(loose)["cue-1-main"][1]["pinned"] is False


def test_a_part_that_does_not_fit_says_why_and_is_freed_with_one_key(client: FlaskClient) -> None:
    found = client.post(f"{FOG}/asked", json={"part": "cue-5-lead"}).json
    assert found["alone"] is True
    assert found["sure"] is True
    assert any(said.startswith("Next boat: at most 40 dBA") for said in found["words"])
    way = found["ways"][0]
    body = {"part": "cue-5-lead", "words": way["words"], "saves": plan(client)["saves"]}
    state = client.post(f"{FOG}/free", json=body).json
    assert state["left_out"] == []
    _, block = blocks(state)["cue-5-lead"]
    assert state["stale"] == ""
    assert way["where"].endswith(block["at"].split(" ")[0])
    assert all(not b["wrong"] for _, b in blocks(state).values())
    refused(
        client.post(f"{FOG}/free", json={**body, "saves": state["saves"], "words": "Through the sky"}),
        "no longer makes room",
    )
    for gone in ("gone", ""):
        refused(client.post(f"{FOG}/asked", json={"part": gone}), "not in the project any more")
        stale = {**body, "part": gone, "saves": state["saves"]}
        refused(client.post(f"{FOG}/free", json=stale), "not in the project any more")
    assert client.post(f"{FOG}/step", json={"by": -1, "saves": state["saves"]}).json["left_out"] != []


def test_no_way_is_offered_through_a_hookup_that_is_stopped(client: FlaskClient) -> None:
    stopped = {e["name"] for e in client.get("/api/hookups").json["entries"] if e["severity"] == "stop"}
    ways = client.post(f"{FOG}/asked", json={"part": "cue-5-lead"}).json["ways"]
    assert stopped
    assert not any(f"Through {name}" == way["words"] for name in stopped for way in ways)


def test_a_hookup_that_changes_or_goes_under_a_plan_is_told(client: FlaskClient) -> None:
    assert plan(client)["stale"] == ""
    bench = client.get("/api/hookups/silent-night").json
    client.post("/api/hookups/silent-night/archive", json={"saves": bench["saves"]})
    client.delete(f"/api/hookups/silent-night?saves={bench['saves']}")
    state = plan(client)
    assert state["stale"].startswith("Something has changed")
    wrong = blocks(state)["cue-1-main"][1]["wrong"]
    assert any("was put away. Bring it back, or choose another." in said for said in wrong)
    after = lay_out(client)
    assert "cue-1-main" in [each["part"] for each in after["left_out"]]
    why = client.post(f"{FOG}/asked", json={"part": "cue-1-main"}).json
    assert "was put away" in why["words"][0]


def test_a_louder_hookup_breaks_the_plan_it_was_laid_in(client: FlaskClient) -> None:
    cupboard = client.get("/api/hookups/cupboard").json
    settings = (
        ("sanderling-112", "place", "room"),
        ("redshank-100", "mode", "full"),
        ("redshank-100", "flat_out", True),
    )
    changes = [{"op": "set", "unit": unit, "control": control, "value": value} for unit, control, value in settings]
    body = {"saves": cupboard["saves"], "changes": changes}
    assert client.post("/api/hookups/cupboard/changes", json=body).status_code == 200
    state = plan(client)
    assert state["stale"].startswith("Something has changed")
    assert any(said.startswith("Next boat: at most") for said in blocks(state)["cue-3-main"][1]["wrong"])


def test_a_take_ticks_its_part_off_and_what_was_said_counts_before(client: FlaskClient) -> None:
    session = client.get("/api/sessions").json["sessions"][0]["id"]
    note = {"name": "Cue 2", "part": "main"}
    assert client.post(f"/api/sessions/{session}/takes", json={"hookup": "quiet-hold", "note": note}).status_code == 201
    state = plan(client)
    assert state["done"] == 1
    assert blocks(state)["cue-2-main"][1]["done"] is True
    assert state["stale"] == ""
    said = {**part(state, "cue-2-main"), "done": False}
    assert change(client, {"op": "set_part", "part": said}).json["done"] == 0
    no = {"name": "Cue 2", "part": "double", "rating": "no"}
    client.post(f"/api/sessions/{session}/takes", json={"hookup": "quiet-hold", "note": no})
    assert plan(client)["done"] == 0


def test_what_is_done_stays_where_it_lay_when_the_rest_is_laid_anew(client: FlaskClient) -> None:
    state = plan(client)
    date, block = blocks(state)["cue-2-main"]
    change(client, {"op": "set_part", "part": {**part(state, "cue-2-main"), "done": True, "took": 95}})
    after = lay_out(client)
    assert (blocks(after)["cue-2-main"][0], blocks(after)["cue-2-main"][1]["start"]) == (date, block["start"])
    assert after["done"] == 1


def test_a_project_that_is_behind_says_so_and_what_to_leave_out(client: FlaskClient) -> None:
    days = [{"date": "2020-03-05", "windows": [{"start": "10:00", "end": "18:00"}]}, {"date": "2031-03-05"}]
    made = client.post("/api/plans", json={"project": {"name": "Late", "days": days}}).json
    url = f"/api/plans/{made['id']}"
    lines(client, "A main, silent, must\nA double, silent, double of main", url)
    project = plan(client, url)["project"]
    block = {"part": "a-main", "choosing": False, "date": "2020-03-05", "start": 72, "change": 0}
    laid = {**project["laid"], "blocks": [{**block, "stretches": [{"doing": "play", "slots": 6}]}]}
    state = change(client, {"op": "lay_out", "laid": laid}, url=url).json
    assert state["late"] == ["A, main"]
    assert state["first_to_go"] == ["a-double"]
    after = lay_out(client, url)
    assert after["late"] == []
    assert {date for date, _ in blocks(after).values()} == {"2031-03-05"}


def test_files_go_out_that_others_read(client: FlaskClient) -> None:
    state = plan(client)
    change(client, {"op": "set_part", "part": {**part(state, "cue-2-main"), "notes": "between us"}})
    answer = client.get(f"{FOG}/plan.ics")
    assert answer.mimetype == "text/calendar"
    events = icalendar.Calendar.from_ical(answer.data).walk("VEVENT")
    assert len(events) == 15
    assert len({str(event["uid"]) for event in events}) == 15
    assert b"between us" not in answer.data
    assert client.get(f"{FOG}/plan.ics").data == answer.data
    first = min(events, key=lambda event: event.decoded("dtstart"))
    assert first.decoded("dtstart").utcoffset().total_seconds() == 0
    rows = list(csv.DictReader(io.StringIO(client.get(f"{FOG}/plan.csv").text)))
    assert [row["song"] for row in rows] == [b["song"] for day in state["days"] for b in day["blocks"]]
    parts = client.get(f"{FOG}/parts.csv").text
    assert "between us" in parts
    url = small(client)
    refused(lines(client, parts, url), "“The drummer” is nobody of this project")
    change(client, {"op": "set_person", "person": {"id": "drummer", "name": "The drummer"}}, url=url)
    change(client, {"op": "drop_parts", "parts": ["cue-1-main"]}, url=url)
    assert lines(client, parts, url).json["project"]["songs"] == plan(client)["project"]["songs"]
    markdown = client.get(f"{FOG}/plan.md").text
    assert markdown.count("- [ ]") == 15
    assert "between us" not in markdown


def test_a_project_is_put_away_and_brought_back(client: FlaskClient) -> None:
    saves = plan(client)["saves"]
    assert client.post(f"{FOG}/away", json={"saves": saves}).status_code == 200
    assert client.get("/api/plans").json["plans"] == []
    assert client.post(f"{FOG}/back").status_code == 200
    assert len(client.get("/api/plans").json["plans"]) == 1
    refused(client.get("/api/plans/none"), "There is no such project", 404)


def test_a_wish_is_found_a_hookup_for_and_is_as_loud_as_that(client: FlaskClient) -> None:
    url = small(client)
    wish = {"goal": "silent"}
    said = {**part(plan(client, url), "cue-1-main"), "hookup": "", "wish": wish}
    state = change(client, {"op": "set_part", "part": said}, url=url).json
    assert state["left_out"][0]["why"] == ""
    block = blocks(lay_out(client, url))["cue-1-main"][1]
    assert block["through"].startswith("found: ")
    assert (block["hookup"], block["loud"]) == ("", False)
    assert block["verdict"]["severity"] != "stop"


def test_the_constraint_solver_is_loaded_where_a_plan_is_asked_for_and_nowhere_else(client: FlaskClient) -> None:
    code = (
        "import sys, low_tide.web.server, low_tide.web.api, low_tide.app.plan_work, low_tide.app.plan_asked\n"
        "print([name for name in sys.modules if name.split('.')[0] in ('ortools', 'pandas')])"
    )
    answer = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert answer.stdout.strip() == "[]"


def test_what_is_laid_out_does_not_end_in_other_data(client: FlaskClient) -> None:
    client.post(f"{FOG}/work", json={"keep_looking": True})
    while not client.get(f"{FOG}/work").json["best"]:
        time.sleep(0.05)
    before = plan(client)
    database.lies_at(Path(database.database.removeprefix("file://").split("?")[0]))
    over = client.post(f"{FOG}/work/stop").json["working"]
    assert over["failed"].startswith("Other data were put in place meanwhile")
    assert plan(client)["saves"] == before["saves"]


def test_what_has_passed_of_today_is_closed_and_makes_nothing_stale(client: FlaskClient) -> None:
    now = datetime.now().astimezone()
    today = (now - timedelta(hours=4)).date()  # a night belongs to the day before
    days = [{"date": str(today + timedelta(days=n)), "windows": [{"start": "04:00", "end": "04:00"}]} for n in (0, 1)]
    made = client.post("/api/plans", json={"project": {"name": "Today", "days": days}}).json
    url = f"/api/plans/{made['id']}"
    lines(client, "A main, silent, 5 + 10 min\nB main, silent, 5 + 10 min", url)
    state = lay_out(client, url)
    assert state["stale"] == ""
    assert state["left_out"] == []
    passed = state["days"][0]["now"]
    assert all(date != str(today) or block["start"] >= passed - 1 for date, block in blocks(state).values())


def test_a_verdict_is_of_the_hookup_as_it_stands_however_often_it_changes(client: FlaskClient) -> None:
    url = "/api/hookups/silent-night"
    off = {"op": "disconnect", "lead": "speaker-a"}
    for _ in range(4):
        assert blocks(plan(client))["cue-1-main"][1]["verdict"]["severity"] != "stop"
        saves = client.get(url).json["saves"]
        assert client.post(f"{url}/changes", json={"saves": saves, "changes": [off]}).status_code == 200
        assert blocks(plan(client))["cue-1-main"][1]["verdict"]["severity"] == "stop"
        assert client.post(f"{url}/undo", json={"saves": saves + 1}).status_code == 200
