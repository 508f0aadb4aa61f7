"""Listening without knowing: the server draws and counts, and says what it must not be asked."""

from __future__ import annotations

from collections import Counter

import pytest
from flask.testing import FlaskClient

from low_tide.app import blind
from low_tide.app.errors import Invalid, NotFound

NAMES = ("Groyne R8", "Revetment 16, 8 Ω", "straight on")


def test_every_take_lies_behind_one_letter_and_all_orders_come_up() -> None:
    seen = Counter(blind.begin(NAMES).order for _ in range(400))
    assert all(sorted(order) == [0, 1, 2] for order in seen)
    assert len(seen) == 6
    assert max(seen.values()) < 3 * min(seen.values())


def test_draws_are_even_and_the_score_counts() -> None:
    test = blind.begin(NAMES)
    drawn: Counter[int | None] = Counter()
    right = 0
    for n in range(1, 301):
        asked = blind.ask(test.id)
        drawn[asked.hidden] += 1
        told = blind.guess(test.id, 0)
        right += asked.hidden == 0
        assert (told.right, told.rounds, told.hidden) == (right, n, None)
        assert told.said.startswith("Right: it was Groyne R8." if asked.hidden == 0 else "It was ")
    assert set(drawn) == {0, 1, 2}
    assert min(drawn.values()) > 60
    assert told.score == f"{right} of 300 right; guessing would get about 100."
    assert blind.shuffle(test.id).rounds == 300


def test_what_cannot_be_guessed_is_refused() -> None:
    test = blind.begin(NAMES)
    with pytest.raises(Invalid, match="nothing is hidden"):
        blind.guess(test.id, 0)
    blind.ask(test.id)
    with pytest.raises(Invalid, match="0 to 2 is wanted, this is 3"):
        blind.guess(test.id, 3)
    with pytest.raises(Invalid, match="at least two"):
        blind.begin(NAMES[:1])
    with pytest.raises(NotFound, match="begin another"):
        blind.ask("gone")


def test_only_so_many_are_kept() -> None:
    first = blind.begin(NAMES)
    for _ in range(blind.MOST_DRAWS):
        blind.begin(NAMES)
    with pytest.raises(NotFound):
        blind.ask(first.id)


def test_a_pick_is_noted_by_its_name(client: FlaskClient) -> None:
    test = client.post("/api/feel/blind", json={"names": NAMES}).json
    at = f"/api/feel/blind/{test['id']}"
    client.post(f"{at}/ask")
    assert client.post(f"{at}/guess", json={"take": 9}).status_code == 422
    client.post(f"{at}/guess", json={"take": test["order"][0]})
    line = client.post(f"{at}/note", json={"letter": 1, "damping": 0.6}).json
    picked = NAMES[test["order"][1]]
    assert line["text"].startswith(f"Load feel, blind: picked {picked} over ")
    assert all(name in line["text"] for name in NAMES)
    assert "damping factor 0.6, matched in level; told apart" in line["text"]
    assert client.get("/api/lines").json["lines"][0]["text"] == line["text"]
    assert client.post(f"{at}/note", json={"letter": 3, "damping": 1}).status_code == 422
