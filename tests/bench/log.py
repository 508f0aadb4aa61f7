"""How long the log takes once it is long: 50,000 takes over two hundred days, through the API without a network."""

from __future__ import annotations

import sqlite3
import tempfile
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

from flask.testing import FlaskClient

from low_tide.demo.fill import fill
from low_tide.store import take_words
from low_tide.store.database import database
from low_tide.store.files import open_home
from low_tide.web.server import create_app

TAKES, SESSIONS, A_DAY = 50_000, 100, 250


def lengthen(path: Path) -> str:
    """Copy the lightship's takes until there are 50,000, each with what was seen at it; the date of one of the days."""
    begun = datetime.now(UTC).replace(hour=8, minute=0, second=0, microsecond=0) - timedelta(days=TAKES // A_DAY + 2)
    with sqlite3.connect(path) as kept:
        columns = [row[1] for row in kept.execute("pragma table_info(take)") if row[1] not in ("id", "session_id")]
        there = kept.execute(f"select {', '.join(columns)} from take order by id").fetchall()
        seen = [row[0] for row in kept.execute("select doc from snapshot order by take_id")]
        for n in range(SESSIONS):
            kept.execute(
                "insert into session (name, notes, started) values (?, '', ?)", (f"Night {n}", begun.isoformat())
            )
        first = kept.execute("select max(id) from session").fetchone()[0] - SESSIONS + 1
        marks = ", ".join("?" * (len(columns) + 1))
        for n in range(TAKES - len(there)):
            take = dict(zip(columns, there[n % len(there)], strict=True))
            at = begun + timedelta(days=n // A_DAY, minutes=3 * (n % A_DAY))
            take |= {"number": 1000 + n, "name": f"{take['name']}, try {n}", "at": at.isoformat(timespec="seconds")}
            values = (first + n * SESSIONS // TAKES, *(take[c] for c in columns))
            made = kept.execute(f"insert into take (session_id, {', '.join(columns)}) values ({marks})", values)
            kept.execute("insert into snapshot values (?, ?)", (made.lastrowid, seen[n % len(seen)]))
        kept.execute(f"drop table {take_words.INDEX}")
    return (begun + timedelta(days=3)).astimezone().date().isoformat()


def _ask(client: FlaskClient, path: str) -> object:
    answer = client.get(path)
    assert answer.status_code == 200, answer.text
    return answer.data


def log(median_ms: Callable[..., float], line: Callable[..., None]) -> None:
    """The first page, a search, narrowed lists, and a day."""
    with tempfile.TemporaryDirectory() as folder:
        home = open_home(Path(folder))
        fill(home)
        database.close()
        date = lengthen(home.database)
        client = create_app(open_home(Path(folder))).test_client()
        asked = (
            ("the first page", "/api/takes", "aim ≤ 50 ms"),
            ("the page in the middle", "/api/takes?page=500", ""),
            ("a search for one", "/api/takes?search=drone%204004", "aim ≤ 100 ms"),
            ("a search for many, by gear and a knob", "/api/takes?search=skerry%20middle", "aim ≤ 100 ms"),
            ("clipped, with audio, one part", "/api/takes?clipped=true&audio=true&part=drone", "aim ≤ 100 ms"),
            ("clear and not rated", "/api/takes?verdict=clear&rating=none", "aim ≤ 100 ms"),
            ("guides to be replaced, and what there is", "/api/log/narrowing", "aim ≤ 100 ms"),
            ("sessions and their days", "/api/sessions", ""),
            (f"a day of {A_DAY} takes", f"/api/log/days/{date}", "aim ≤ 50 ms"),
            ("cautions accepted", "/api/log/decisions", ""),
        )
        for what, path, aim in asked:
            line(f"of {TAKES} takes: {what}", median_ms(lambda path=path: _ask(client, path), 9), "ms", aim)
        database.close()
