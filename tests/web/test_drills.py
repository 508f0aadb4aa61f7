"""Drills through the API: sittings of every kind answered right and wrong, hints, bad input, two windows, the clock."""

from __future__ import annotations

from typing import Any

import pytest
from flask.testing import FlaskClient

from low_tide.app import drills as app_drills
from low_tide.app.drill_documents import Question
from low_tide.app.drill_schedule import Review, replayed
from low_tide.core.drills.cards import CARDS, KINDS
from low_tide.demo import drills as demo
from low_tide.formats.documents import dump
from low_tide.store import drills
from low_tide.store.database import database
from low_tide.store.home import Home
from low_tide.web.server import create_app
from tests.web.test_finding import refused

ALL = [*KINDS]


@pytest.fixture
def client(client: FlaskClient) -> FlaskClient:
    """The lightship before anybody drilled."""
    assert client.delete("/api/drills").status_code == 204
    return client


def begin(client: FlaskClient, source: str = "lightship", kinds: tuple[str, ...] = ()) -> dict[str, Any]:
    made = client.post("/api/drills/sittings", json={"source": source, "kinds": list(kinds)})
    assert made.status_code == 201, made.text
    found: dict[str, Any] = made.json
    return found


def question(client: FlaskClient, drill_id: int) -> dict[str, Any]:
    found: dict[str, Any] = client.get(f"/api/drills/questions/{drill_id}").json
    return found


def asked(drill_id: int) -> Question:
    """What is asked, with its truth, from where it is kept."""
    with database.connection_context():
        return app_drills.question_of(app_drills.row_of(drill_id))


def right(drill_id: int) -> dict[str, Any]:
    """A right answer to a question, from what is kept of it."""
    return dump(demo.right(asked(drill_id)))


def wrong(drill_id: int) -> dict[str, Any]:
    """A wrong answer to a question."""
    return dump(demo.wrong(asked(drill_id)))


def give(client: FlaskClient, drill_id: int, answer: dict[str, Any]) -> dict[str, Any]:
    given = client.post(f"/api/drills/questions/{drill_id}/answer", json={"answer": answer})
    assert given.status_code == 200, given.text
    found: dict[str, Any] = given.json
    return found


def sit(client: FlaskClient, answers: Any = right, **how: Any) -> list[tuple[str, dict[str, Any]]]:
    """A whole sitting: each question's kind with what was told after its answer."""
    now, found = begin(client, **how), []
    while now["ended"] is None:
        found.append((question(client, now["at"])["kind"], give(client, now["at"], answers(now["at"]))))
        now = client.post(f"/api/drills/sittings/{now['id']}/next").json
    return found


def test_a_sitting_has_ten_questions_of_all_kinds(client: FlaskClient) -> None:
    told = sit(client)
    assert len(told) == 10
    assert {kind for kind, _ in told} == set(ALL)
    assert all(result["is_right"] and result["counts"] for _, result in told)
    assert all(result["rule"] and result["page"] for _, result in told)
    state = client.get("/api/drills").json
    assert state["answered"] == 10
    assert state["open"] is None
    assert sum(kind["score"]["of"] for kind in state["kinds"] if kind["score"]) == 10


@pytest.mark.parametrize("kind", ALL)
def test_wrong_answers_are_wrong_and_say_why(client: FlaskClient, kind: str) -> None:
    told = sit(client, wrong, kinds=(kind,))
    assert len(told) == 10
    assert not any(result["is_right"] for _, result in told)
    assert all(result["rule"] for _, result in told)
    for _, result in told:
        assert result["finding"] or result["worked"] or result["harmless"]


def test_the_question_tells_nothing_of_its_answer(client: FlaskClient) -> None:
    now = begin(client, kinds=("order",))
    assert set(question(client, now["at"])["steps"][0]) == {"id", "text"}
    now = begin(client, kinds=("spot",))
    found = question(client, now["at"])
    assert found["result"] is None
    assert "severity" not in str(found["picture"])
    name = CARDS[asked(now["at"]).card].name
    assert name not in str(found)
    now = begin(client, kinds=("ear",))
    sounds = [client.get(f"/api/drills/questions/{now['at']}/sounds/{letter}") for letter in "ab"]
    assert [s.status_code for s in sounds] == [200, 200]
    assert len(sounds[0].data) == len(sounds[1].data)
    assert sounds[0].data != sounds[1].data


def test_a_hint_makes_it_hard(client: FlaskClient) -> None:
    now = begin(client, kinds=("number",))
    assert client.post(f"/api/drills/questions/{now['at']}/hint").json["hint"]
    assert question(client, now["at"])["hint"]
    assert "hard" in give(client, now["at"], right(now["at"]))["counts"]


def test_the_same_again_does_not_count(client: FlaskClient) -> None:
    now = begin(client, kinds=("number",))
    first = now["at"]
    refused(client.post(f"/api/drills/questions/{first}/once-more"), "Answer it first", 409)
    give(client, first, wrong(first))
    before = client.get("/api/drills").json
    again = client.post(f"/api/drills/questions/{first}/once-more")
    assert again.status_code == 201
    now = again.json
    assert (now["asked"], now["is_open"]) == (1, True)
    assert question(client, now["at"])["n"] == 0
    assert asked(now["at"]).card == asked(first).card
    assert give(client, now["at"], right(now["at"]))["counts"] == ""
    after = client.get("/api/drills").json
    assert [c["due"] for c in before["cards"]] == [c["due"] for c in after["cards"]]


def test_two_windows_answer_once(client: FlaskClient) -> None:
    now = begin(client)
    give(client, now["at"], right(now["at"]))
    answer = {"answer": right(now["at"])}
    refused(client.post(f"/api/drills/questions/{now['at']}/answer", json=answer), "another window", 409)
    one = client.post(f"/api/drills/sittings/{now['id']}/next").json
    other = client.post(f"/api/drills/sittings/{now['id']}/next").json
    assert one == other
    open_now = one["at"]
    answer = {"answer": right(open_now)}
    begin(client)
    refused(client.post(f"/api/drills/questions/{open_now}/answer", json=answer), "no such question", 404)
    ended = client.post(f"/api/drills/sittings/{now['id']}/next").json
    assert ended["ended"]
    assert len(ended["done"]) == 1


@pytest.mark.parametrize("step", ["next", "once more"])
def test_a_sitting_that_ends_while_a_question_is_made_gets_none(
    client: FlaskClient, monkeypatch: pytest.MonkeyPatch, step: str
) -> None:
    now = begin(client, kinds=("number",))
    give(client, now["at"], right(now["at"]))
    made = app_drills.drill_making.made

    def ended_meanwhile(*args: Any) -> Any:
        with database.atomic():
            drills.end(app_drills.moment())
        return made(*args)

    monkeypatch.setattr(app_drills.drill_making, "made", ended_meanwhile)
    path = f"sittings/{now['id']}/next" if step == "next" else f"questions/{now['at']}/once-more"
    after = client.post(f"/api/drills/{path}").json
    assert after["ended"]
    assert not after["is_open"]
    assert len(after["done"]) == after["asked"] == 1


def test_gear_changed_and_deleted_in_the_middle(client: FlaskClient) -> None:
    now = begin(client, source="own", kinds=("spot",))
    before = question(client, now["at"])
    assert before["since"] == []
    for unit in before["picture"]["units"]:
        doc = client.get(f"/api/gear/{unit['id']}").json
        anew = {"revision": doc["revision"], "unit": {**doc["unit"], "name": f"{unit['name']} anew"}}
        changed = client.put(f"/api/gear/{unit['id']}", json=anew)
        assert changed.status_code == 200, changed.text
    after = question(client, now["at"])
    assert after["picture"] == before["picture"]
    assert all("was changed in the locker" in said for said in after["since"])
    assert after["since"]
    assert give(client, now["at"], right(now["at"]))["is_right"]


def test_a_clock_set_back_counts_as_the_answer_before(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    now = begin(client, kinds=("number",))
    give(client, now["at"], right(now["at"]))
    later = client.get("/api/drills").json["sittings"][0]["at"]
    monkeypatch.setattr(app_drills, "moment", lambda: "2020-01-01T10:00:00.000+00:00")
    monkeypatch.setattr("low_tide.app.drill_score.moment", lambda: "2020-01-01T10:00:00.000+00:00")
    assert "before the last answer" in client.get("/api/drills").json["set_back"]
    now = client.post(f"/api/drills/sittings/{now['id']}/next").json
    monkeypatch.setattr(app_drills, "moment", lambda: "2020-01-01T09:00:00.000+00:00")
    told = give(client, now["at"], right(now["at"]))
    assert len(told["notes"]) == 2
    assert told["seconds"] is None
    with database.connection_context():
        assert drills.answered()[-1].answered == later


def test_replaying_the_answers_gives_the_schedule(client: FlaskClient) -> None:
    for n in range(3):
        sit(client, (right, wrong, right)[n], kinds=("number", "order"))
    with database.connection_context():
        reviews = [Review(d.card, d.rating, d.answered) for d in drills.answered() if d.rating and d.answered]  # type: ignore[arg-type]
        stored = drills.cards()
    assert len(reviews) > 20
    assert replayed(reviews) == stored


def test_bad_input(client: FlaskClient) -> None:
    refused(client.post("/api/drills/sittings", json={"source": "the moon"}), "neither own nor lightship")
    refused(client.post("/api/drills/sittings", json={"source": "own", "kinds": ["riddle"]}), "no kind “riddle”")
    refused(client.get("/api/drills/sittings/99"), "no such sitting", 404)
    refused(client.get("/api/drills/questions/99"), "no such question", 404)
    now = begin(client, kinds=("number",))["at"]
    at = f"/api/drills/questions/{now}"
    refused(client.post(f"{at}/answer", json={"answer": {"by": "letter", "letter": "a"}}), "no answer to this question")
    refused(client.post(f"{at}/answer", json={"answer": {"by": "number", "value": 1e12}}), "Your answer")
    refused(client.get(f"{at}/sounds/a"), "no sounds", 404)
    refused(client.post(f"{at}/picture", json={}), "about no hook-up")
    now = begin(client, kinds=("order",))["at"]
    steps = {"by": "order", "steps": ["nothing"]}
    refused(client.post(f"/api/drills/questions/{now}/answer", json={"answer": steps}), "each of them is wanted once")
    now = begin(client, kinds=("spot",))["at"]
    nowhere = {"by": "pointing", "at": "nowhere"}
    refused(client.post(f"/api/drills/questions/{now}/answer", json={"answer": nowhere}), "no such unit or lead")
    now = begin(client, kinds=("mend",))["at"]
    at = f"/api/drills/questions/{now}"
    first = question(client, now)["picture"]["units"][0]
    end = {"unit": first["id"], "socket": "nothing"}
    refused(client.post(f"{at}/acts", json={"end": end}), "no socket nothing")
    two = [{"op": "remove", "unit": unit["id"]} for unit in question(client, now)["picture"]["units"][:2]]
    refused(client.post(f"{at}/answer", json={"answer": {"by": "changes", "changes": two}}), "One change is asked for")
    assert question(client, now)["result"] is None


def test_what_may_be_done_at_a_socket_says_nothing_of_what_comes_of_it(client: FlaskClient) -> None:
    now = begin(client, kinds=("mend",))["at"]
    found = question(client, now)
    link = found["picture"]["links"][0]
    acts = client.post(f"/api/drills/questions/{now}/acts", json={"end": link["a"]}).json["acts"]
    assert acts
    assert all(set(act) == {"group", "label", "detail", "changes"} for act in acts)
    tried = client.post(f"/api/drills/questions/{now}/picture", json={"changes": acts[0]["changes"]})
    assert tried.status_code == 200
    assert tried.json["did"]
    assert question(client, now)["picture"] == found["picture"]


def test_drills_touch_neither_bench_nor_log_nor_locker(client: FlaskClient) -> None:
    def everything() -> list[Any]:
        return [client.get(path).json for path in ("/api/hookups?search=", "/api/gear", "/api/sessions")]

    before = everything()
    sit(client, source="own")
    assert everything() == before


def test_an_empty_locker_says_what_is_missing(home: Home) -> None:
    empty_client = create_app(home).test_client()
    state = empty_client.get("/api/drills").json
    by = {kind["id"]: kind["lacks"]["own"] for kind in state["kinds"]}
    assert "an amp, a load box, an attenuator or a cabinet and a speaker lead" in by["spot"]
    assert "an interface" in by["level"]
    assert by["number"] == ""
    refused(empty_client.post("/api/drills/sittings", json={"source": "own", "kinds": ["spot"]}), "It takes an amp")
    assert len(sit(empty_client, source="own")) == 10
    assert len(sit(empty_client, source="lightship")) == 10


def test_the_score_goes_out_and_can_be_forgotten(client: FlaskClient) -> None:
    sit(client, kinds=("number",))
    lines = client.get("/api/drills/answers.csv").text.splitlines()
    assert lines[0].startswith("answered,sitting,kind,card,level,right")
    assert len(lines) == 11
    assert client.delete("/api/drills").status_code == 204
    state = client.get("/api/drills").json
    assert (state["answered"], state["due"], state["sittings"]) == (0, 0, [])
