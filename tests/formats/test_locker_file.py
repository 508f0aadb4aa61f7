"""The locker as a file: every unit there and back, and what is not one refused."""

from __future__ import annotations

import json

import pytest

from low_tide.core.inventory import KINDS
from low_tide.demo.gear import GEAR
from low_tide.formats.documents import dump, load_unit
from low_tide.formats.locker import MOST_UNITS, read_locker, write_locker, write_locker_csv
from low_tide.formats.sentences import FormatError

DOCS = [dump(unit) for unit in GEAR.values()]


def test_json_there_and_back() -> None:
    odd = {**DOCS[0], "from_the_future": {"x": 1}}
    assert read_locker(write_locker([odd, *DOCS[1:]])) == [odd, *DOCS[1:]]


@pytest.mark.parametrize("kind", KINDS)
def test_csv_by_kind_there_and_back(kind: str) -> None:
    docs = [doc for doc in DOCS if doc["kind"] == kind]
    assert docs
    read = read_locker(("\ufeff" + write_locker_csv(docs)).encode())
    assert [load_unit(doc) for doc in read] == [load_unit(doc) for doc in docs]


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "neither JSON nor CSV"),
        (b"{}", "not a locker file"),
        (b'{"format": "low-tide/locker", "version": 2, "gear": []}', "version 2"),
        (b'{"format": "low-tide/locker", "version": true, "gear": []}', "a whole number"),
        (b'{"format": "low-tide/locker", "version": 1, "gear": [1]}', "a list of units"),
        (b'{"format": "low-tide/locker", "version": 1, "gear": [', "cut off"),
        (b"kind,name\nboat,Gig", "Line 2: “boat” is not a kind"),
        (b"kind,name\nlead", "Line 2: it has 1 columns"),
        (b"kind,name,name\nlead,a,b", "two columns have the same name"),
        (b"\xff\xfe", "UTF-8"),
    ],
)
def test_what_is_no_locker_is_refused(data: bytes, said: str) -> None:
    with pytest.raises(FormatError) as refused:
        read_locker(data)
    assert said in str(refused.value)


def test_too_many_units_are_refused() -> None:
    data = json.dumps({"format": "low-tide/locker", "version": 1, "gear": [{}] * (MOST_UNITS + 1)}).encode()
    with pytest.raises(FormatError, match="more than 5000 units"):
        read_locker(data)
