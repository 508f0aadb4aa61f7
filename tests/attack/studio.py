"""What a person does in a studio, as requests to a running server, and what must be there afterwards.

Each of `DEEDS` sends requests and says what the records are once they are acknowledged: a plain picture of everything,
without ids and times, that can be compared with what a server finds when it starts again.
"""

from __future__ import annotations

import contextlib
import copy
import hashlib
import http.client
import json
import random
import sqlite3
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any

from low_tide.demo.sound import Recipe, encoded, take
from low_tide.store.home import audio_file, home_at

Picture = dict[str, Any]
SOUNDS = [encoded(take(Recipe((110.0 + 10 * i,), 2.0, -10.0), seed=i)[:6000], "WAV") for i in range(6)]
POT = ("caisson-120", "line.pot")


def ask(url: str, method: str, path: str, body: Any = None) -> Any:
    """The answer's JSON; HTTPError for a refusal, OSError where the server is gone."""
    data = body if isinstance(body, bytes) else None if body is None else json.dumps(body).encode()
    kind = "application/octet-stream" if isinstance(body, bytes) else "application/json"
    request = urllib.request.Request(url + path, data, {"content-type": kind}, method=method)
    with urllib.request.urlopen(request, timeout=60) as answer:
        try:
            text = answer.read().decode()
        except http.client.HTTPException as error:
            raise ConnectionError("the answer was cut off") from error
        if answer.headers.get_content_type() == "application/x-ndjson":
            return [json.loads(line) for line in text.splitlines()]
        return json.loads(text) if text else None


def picture(folder: Path) -> Picture:
    """Everything a data folder holds, without ids and times; the server may run or not."""
    home = home_at(folder)
    with contextlib.closing(sqlite3.connect(f"{home.database.as_uri()}?mode=ro", uri=True)) as db:
        takes = db.execute("select number, saves, name, audio from take order by id").fetchall()
        hookups = db.execute(
            "select h.id, h.name, h.archived, h.saves, r.doc from hookup h join revision r"
            " on r.hookup_id = h.id and r.number = h.current order by h.id"
        ).fetchall()
        return {
            "takes": [list(row) for row in takes],
            "gear": [list(r) for r in db.execute("select name, revision, archived from gear order by name, rowid")],
            "hookups": [[*row[:4], _pot(json.loads(row[4]))] for row in hookups],
            "lines": [row[0] for row in db.execute("select text from note order by id")],
            "sessions": [row[0] for row in db.execute("select name from session order by id")],
            "readings": [row[0] for row in db.execute("select minutes from reading order by id")],
            "name": json.loads(db.execute("select doc from preference").fetchone()[0])["session_name"],
        }


def _pot(hookup: dict[str, Any]) -> Any:
    return next((u["settings"].get(POT[1]) for u in hookup["units"] if u["unit"] == POT[0]), None)


def unsound(folder: Path) -> list[str]:
    """What is not as it should be in a data folder whose server was killed and has started again."""
    home, found = home_at(folder), []
    with contextlib.closing(sqlite3.connect(f"{home.database.as_uri()}?mode=ro", uri=True)) as db:
        found += [f"integrity: {r[0]}" for r in db.execute("pragma integrity_check") if r[0] != "ok"]
        found += [f"belongs to nothing: {row}" for row in db.execute("pragma foreign_key_check")]
        of_takes = "select audio from take where audio is not null"
        of_others = "select audio from compared_file union select audio from impulse"
        named = {row[0] for row in db.execute(f"{of_takes} union {of_others}")}
        words = db.execute("select count(*) from take_words").fetchone()[0]
        if words != db.execute("select count(*) from take").fetchone()[0]:
            found.append("the index of words is not of these takes")
    there = {path.name for path in home.audio.iterdir()}
    found += [f"audio left over: {name}" for name in there - named]
    for name in named:
        file = audio_file(home, name)
        if file is None or hashlib.sha256(file.read_bytes()).hexdigest() != name.partition(".")[0]:
            found.append(f"audio lost: {name}")
    known = {"lock", "current", "installation", home.generation, "audio", "renders", "waves", "backups"}
    left = [p.name for p in folder.iterdir() if p.name not in known and not p.name.startswith("low-tide.db")]
    found += [f"left over: {name}" for name in left if not name.startswith("work-upload-")]
    return found


class Studio:
    """A server's address, the picture of what was acknowledged, and a way to go on at random."""

    def __init__(self, url: str, folder: Path, seed: int) -> None:
        self.url, self.folder, self.by_lot = url, folder, random.Random(seed)
        self.now = picture(folder)
        self.then: Picture | None = None
        self.kept: dict[str, Picture] = {}

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        return ask(self.url, method, path, body)

    def do(self, deed: Deed) -> None:
        """Do something; `then` is what must be there if it was done, `now` if it was not."""
        self.then = copy.deepcopy(self.now)
        deed(self, self.then)
        self.now, self.then = self.then, None

    def some_take(self) -> tuple[dict[str, Any], int]:
        """A take by lot, and its place in the picture (oldest first)."""
        total = len(self.now["takes"])
        place = self.by_lot.randrange(total)
        number, name = self.now["takes"][place][0], self.now["takes"][place][2]
        for page in range(1, total // 50 + 2):
            for each in self.ask("GET", f"api/takes?page={page}")["takes"]:
                if each["number"] == number and each["note"]["name"] == name:
                    return each, place
        raise AssertionError("a take that was acknowledged is not listed")


Deed = Callable[[Studio, Picture], None]


def _turn(studio: Studio, then: Picture) -> None:
    row = next(row for row in then["hookups"] if row[0] == "quiet-hold")
    value = -studio.by_lot.randrange(1, 40)
    row[3], row[4] = row[3] + (row[4] != value), value
    change = {"op": "set", "unit": POT[0], "control": POT[1], "value": value}
    studio.ask("POST", "api/hookups/quiet-hold/changes", {"saves": _saves(studio), "changes": [change]})


def _saves(studio: Studio) -> int:
    return int(next(row[3] for row in studio.now["hookups"] if row[0] == "quiet-hold"))


def _put_away(studio: Studio, then: Picture) -> None:
    row = next(row for row in then["hookups"] if row[0] == "quiet-hold")
    row[2] = 1
    studio.ask("DELETE", f"api/hookups/quiet-hold?saves={row[3]}")


def _take_back(studio: Studio, then: Picture) -> None:
    next(row for row in then["hookups"] if row[0] == "quiet-hold")[2] = 0
    studio.ask("POST", "api/hookups/quiet-hold/unarchive")


def _log(studio: Studio, then: Picture) -> None:
    name = f"Take {studio.by_lot.random()}"
    then["takes"].append([max((row[0] for row in then["takes"]), default=0) + 1, 1, name, None])
    session = studio.ask("GET", "api/sessions")["sessions"][-1]["id"]
    studio.ask("POST", f"api/sessions/{session}/takes", {"hookup": "quiet-hold", "note": {"name": name}})


def _say(studio: Studio, then: Picture) -> None:
    take, place = studio.some_take()
    name = f"Said {studio.by_lot.random()}"
    then["takes"][place][1:3] = [take["saves"] + 1, name]
    studio.ask("PUT", f"api/takes/{take['id']}?saves={take['saves']}", {"name": name})


def _attach(studio: Studio, then: Picture) -> None:
    take, place = studio.some_take()
    sound = studio.by_lot.choice(SOUNDS)
    then["takes"][place][3] = f"{hashlib.sha256(sound).hexdigest()}.wav"
    studio.ask("POST", f"api/takes/{take['id']}/audio?name=a.wav&replaced={take['audio'] or ''}", sound)


def _delete(studio: Studio, then: Picture) -> None:
    if len(then["takes"]) > 3:
        # Not the newest: its number would be given again, and a picture has no other name for a take.
        take, place = studio.some_take()
        if place < len(then["takes"]) - 1:
            del then["takes"][place]
            studio.ask("DELETE", f"api/takes/{take['id']}?saves={take['saves']}")


def _add_gear(studio: Studio, then: Picture) -> None:
    name = f"Lead {studio.by_lot.random()}"
    then["gear"] = sorted([*then["gear"], [name, 1, 0]], key=lambda row: row[0])
    studio.ask("POST", "api/gear", {"kind": "lead", "name": name})


def _bring_gear(studio: Studio, then: Picture) -> None:
    names = [f"Brought {studio.by_lot.random()}" for _ in range(300)]
    then["gear"] = sorted([*then["gear"], *([name, 1, 0] for name in names)], key=lambda row: row[0])
    file = {"format": "low-tide/locker", "version": 1, "gear": [{"kind": "lead", "name": name} for name in names]}
    studio.ask("POST", "api/locker/import", json.dumps(file).encode())


def _note(studio: Studio, then: Picture) -> None:
    then["lines"].append(f"Noted {studio.by_lot.random()}")
    studio.ask("POST", "api/lines", {"text": then["lines"][-1]})


def _begin(studio: Studio, then: Picture) -> None:
    then["sessions"].append(f"Session {studio.by_lot.random()}")
    studio.ask("POST", "api/sessions", {"name": then["sessions"][-1]})


def _choose(studio: Studio, then: Picture) -> None:
    then["name"] = f"Night {studio.by_lot.randrange(1000)}"
    before = studio.ask("GET", "api/preferences")
    body = {**before["preferences"], "session_name": then["name"]}
    studio.ask("PUT", f"api/preferences?saves={before['saves']}", body)


def _listen(studio: Studio, then: Picture) -> None:
    then["readings"].append(float(studio.by_lot.randrange(1, 60)))
    body = {"what": "mussel-64", "level": 70, "minutes": then["readings"][-1]}
    studio.ask("POST", "api/ears", body)


def _keep(studio: Studio, then: Picture) -> None:
    lines = studio.ask("POST", "api/backups", {})
    studio.kept[lines[-1]["kept"]["name"]] = copy.deepcopy(then)


def _restore(studio: Studio, then: Picture) -> None:
    if studio.kept:
        name = studio.by_lot.choice(sorted(studio.kept))
        then.clear()
        then.update(copy.deepcopy(studio.kept[name]))
        studio.ask("POST", "api/restore", {"copy_name": name})


DEEDS: dict[str, Deed] = {
    "turn a control": _turn,
    "put a hook-up away": _put_away,
    "take it back": _take_back,
    "log a take": _log,
    "say something of a take": _say,
    "attach audio": _attach,
    "delete a take": _delete,
    "add gear": _add_gear,
    "bring 300 units in": _bring_gear,
    "note a line": _note,
    "begin a session": _begin,
    "choose preferences": _choose,
    "log listening": _listen,
    "keep a copy": _keep,
    "restore a copy": _restore,
}
