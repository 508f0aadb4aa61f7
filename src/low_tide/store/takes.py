"""Sessions, takes with what was seen at them, and lines that belong to no take."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields, replace

from low_tide.store import playing, rows, take_words
from low_tide.store.rows import Json, Row

NO_LIMIT = -1


@dataclass(frozen=True)
class SessionRecord:
    """A session of the log."""

    id: int
    name: str
    notes: str
    started: str


@dataclass(frozen=True)
class TakeRecord:
    """A take. `saves` counts what was said of it, so two tabs cannot overwrite each other unseen.

    `recorded_at`: the input ('unit.socket'), empty where nobody said; `song_start`: where in the song it begins, s.
    `scene`: that of the hook-up it was played in, empty for none.
    `replaces`: the guide it takes the place of, None for none; `gear`: the names of the units it was made with;
    `clipped`: how many runs of its recording are.
    """

    session_id: int
    number: int
    name: str
    part: str
    notes: str
    controls: list[Json]
    measured_peak: float | None
    hookup_name: str
    hookup_id: str
    verdict: str
    expected_peak: float | None
    accepted: list[Json]
    at: str
    audio: str | None = None
    audio_name: str | None = None
    measures: Json | None = None
    recorded_at: str = ""
    song_start: float | None = None
    simulated: bool = False
    scene: str = ""
    rating: str = ""
    guide: bool = False
    replaces: int | None = None
    guitar: str = ""
    pickup: str = ""
    guitar_volume: str = ""
    tuning: str = ""
    afterwards: str = ""
    gear: str = ""
    clipped: int = 0
    saves: int = 1
    id: int = 0


@dataclass(frozen=True)
class TakeFilter:
    """What takes are asked for; what is left empty asks for nothing.

    `search`: every word of it begins a word of the take. `guide`: 'guide' for guides, 'open' for those that no take has
    replaced. `rating`: 'none' for takes without one. `verdict`: 'clear' for those that were clear to switch on.
    """

    session: int | None = None
    search: str = ""
    audio: bool = False
    hookup: str = ""
    part: str = ""
    verdict: str = ""
    rating: str = ""
    guide: str = ""
    clipped: bool = False


@dataclass(frozen=True)
class LineRecord:
    """A line in the log that belongs to no take: what was picked, what was noticed.

    `kind`: 'complaint' or 'none' where it says what neighbours said, at a place, at a level there (dBA). `blend`: the
    one that was taken by it, which may be gone since.
    """

    session_id: int
    text: str
    at: str
    kind: str = ""
    place: str = ""
    level: float | None = None
    blend: int | None = None
    id: int = 0


DOCUMENTS = ("controls", "accepted", "measures")
NAMES = tuple(field.name for field in fields(TakeRecord))
COLUMNS = ", ".join(f"take.{name}" for name in NAMES)
_FLAGS = tuple(NAMES.index(name) for name in ("simulated", "guide"))
_AS_TEXT = tuple(NAMES.index(name) for name in DOCUMENTS)


def _take(row: Row) -> TakeRecord:
    values = list(row[: len(NAMES)])
    for place in _AS_TEXT:
        values[place] = rows.plain(values[place])
    for place in _FLAGS:
        values[place] = bool(values[place])
    return TakeRecord(*values)


def _columns(values: Json) -> Json:
    return {name: rows.text(value) if name in DOCUMENTS else value for name, value in values.items()}


def sessions() -> list[tuple[SessionRecord, int]]:
    """Sessions, newest first, each with how many takes it has."""
    sql = (
        "SELECT session.id, session.name, session.notes, session.started, count(take.id) FROM session"
        " LEFT JOIN take ON take.session_id = session.id GROUP BY session.id ORDER BY session.id DESC"
    )
    return [(SessionRecord(*row[:4]), row[4]) for row in rows.every(sql)]


def count(session_id: int) -> int:
    """How many takes a session has."""
    row = rows.one("SELECT count(*) FROM take WHERE session_id = ?", session_id)
    return int(row[0]) if row else 0


def session(session_id: int | None = None) -> SessionRecord | None:
    """A session; without a number the newest."""
    where, values = ("WHERE id = ?", (session_id,)) if session_id is not None else ("", ())
    row = rows.one(f"SELECT id, name, notes, started FROM session {where} ORDER BY id DESC", *values)
    return SessionRecord(*row) if row else None


def begin(name: str, started: str, notes: str = "") -> SessionRecord:
    """A new session."""
    number = rows.insert("session", {"name": name, "notes": notes, "started": started})
    return SessionRecord(number, name, notes, started)


def edit_session(session_id: int, name: str, notes: str) -> None:
    """Its name, and what is said of it."""
    rows.update("session", {"name": name, "notes": notes}, "id = ?", session_id)


def delete_session(session_id: int) -> None:
    """Delete a session that has no takes any more, with its lines."""
    rows.write("DELETE FROM note WHERE session_id = ?", session_id)
    rows.write("DELETE FROM session WHERE id = ?", session_id)


def find(take_id: int) -> TakeRecord | None:
    """A take."""
    row = rows.one(f"SELECT {COLUMNS} FROM take WHERE id = ?", take_id)
    return _take(row) if row else None


NOT_REPLACED = "guide AND NOT EXISTS (SELECT 1 FROM take AS later WHERE later.replaces = take.id)"
WORST = {"clear": ("note", "fine")}
"""What was clear to switch on was so with notes or without."""
GUIDES = {"guide": "guide", "open": NOT_REPLACED}


def _asked(of: TakeFilter) -> tuple[str, list[object]]:
    """What a filter asks for as SQL, and its values."""
    by_value = {"session_id": of.session, "hookup_id": of.hookup, "part": of.part}
    asked: list[tuple[str, list[object]]] = [(f"{c} = ?", [v]) for c, v in by_value.items() if v not in (None, "")]
    if of.verdict:
        worst = WORST.get(of.verdict, (of.verdict,))
        asked.append((f"verdict IN ({rows.marks(worst)})", list(worst)))
    if of.rating:
        asked.append(("rating = ?", ["" if of.rating == "none" else of.rating]))
    if of.guide:
        asked.append((GUIDES[of.guide], []))
    if of.audio:
        asked.append(("audio IS NOT NULL", []))
    if of.clipped:
        asked.append(("clipped > 0", []))
    if of.search.strip():
        found = f"id IN (SELECT rowid FROM {take_words.INDEX} WHERE {take_words.INDEX} MATCH ?)"
        asked.append((found, [take_words.wanted(of.search)]))
    where = " AND ".join(said for said, _ in asked)
    return where or "1", [value for _, values in asked for value in values]


def page(of: TakeFilter, size: int, number: int) -> tuple[int, int, list[TakeRecord]]:
    """How many takes there are, the page that is shown (from 1, the last where there are fewer), and its takes, newest
    first."""
    where, values = _asked(of)
    source, number_of = "take", "id"
    if of.search.strip() and of == TakeFilter(search=of.search):
        # Words alone are asked of their index alone: it gives the newest first, and need not be read to its end.
        source, number_of = take_words.INDEX, "rowid"
        where, values = f"{take_words.INDEX} MATCH ?", [take_words.wanted(of.search)]
    counted = rows.one(f"SELECT count(*) FROM {source} WHERE {where}", *values)
    total = int(counted[0]) if counted else 0
    at = min(max(1, number), max(1, -(-total // size)))
    some = f"SELECT {number_of} FROM {source} WHERE {where} ORDER BY {number_of} DESC LIMIT ? OFFSET ?"
    sql = f"SELECT {COLUMNS} FROM take WHERE id IN ({some}) ORDER BY id DESC"
    return total, at, [_take(r) for r in rows.every(sql, *values, size, (at - 1) * size)]


def open_guides(most: int = 200) -> list[TakeRecord]:
    """Guides that no take has replaced yet, the oldest first."""
    return [_take(r) for r in rows.every(f"SELECT {COLUMNS} FROM take WHERE {NOT_REPLACED} ORDER BY id LIMIT ?", most)]


def between(start: str, stop: str) -> list[TakeRecord]:
    """Takes made from one instant on and before another, in their order."""
    sql = f"SELECT {COLUMNS} FROM take WHERE at >= ? AND at < ? ORDER BY at, id"
    return [_take(r) for r in rows.every(sql, start, stop)]


def hours() -> list[tuple[int, str]]:
    """Session and instant of takes, one of each hour at the most: what days there is something on."""
    sql = "SELECT session_id, min(at) FROM take GROUP BY session_id, substr(at, 1, 13)"
    return [(int(session), str(at)) for session, at in rows.every(sql)]


def hookups_named() -> list[tuple[str, str]]:
    """Every hook-up that a take is of: its id, and its name at the newest of them."""
    sql = "SELECT hookup_id, hookup_name FROM take WHERE id IN (SELECT max(id) FROM take GROUP BY hookup_id)"
    return sorted(((str(i), str(n)) for i, n in rows.every(sql)), key=lambda each: each[1].lower())


def decided(most: int = 200) -> list[TakeRecord]:
    """Takes at which cautions stood that were accepted with a word, newest first."""
    sql = f"SELECT {COLUMNS} FROM take WHERE accepted <> '[]' ORDER BY id DESC LIMIT ?"
    return [_take(r) for r in rows.every(sql, most)]


def parts() -> list[str]:
    """Every part that a take is of, by name."""
    return [str(row[0]) for row in rows.every("SELECT DISTINCT part FROM take WHERE part <> '' ORDER BY part")]


def names_and_parts() -> list[tuple[str, str]]:
    """Name and part of every take that was not turned down, once each."""
    return [(str(r[0]), str(r[1])) for r in rows.every("SELECT DISTINCT name, part FROM take WHERE rating <> 'no'")]


def next_number(session_id: int) -> int:
    """The number of the next take of a session."""
    row = rows.one("SELECT coalesce(max(number), 0) + 1 FROM take WHERE session_id = ?", session_id)
    return int(row[0]) if row else 1


def insert(record: TakeRecord, seen: Json) -> int:
    """A new take, with what was seen at it; its number in the log."""
    values = {name: getattr(record, name) for name in NAMES if name != "id"}
    number = rows.insert("take", _columns(values))
    rows.insert("snapshot", {"take_id": number, "doc": rows.text(seen)})
    take_words.keep(number)
    return number


def update(take_id: int, **values: object) -> None:
    """Set columns of a take."""
    rows.update("take", _columns(values), "id = ?", take_id)
    take_words.keep(take_id)


def delete(take_id: int) -> None:
    """Delete a take and what was seen at it."""
    take_words.forget(take_id)
    # By itself, though it would go with the take: what was worked out of a table is kept until it is written.
    playing.forget(take_id)
    rows.write("UPDATE take SET replaces = NULL WHERE replaces = ?", take_id)
    rows.write("DELETE FROM take WHERE id = ?", take_id)


def latest_of(hookup_id: str) -> str | None:
    """When the latest take of a hook-up was made; None without one."""
    row = rows.one("SELECT max(at) FROM take WHERE hookup_id = ?", hookup_id)
    return str(row[0]) if row and row[0] else None


def newest_with_audio(hookup_id: str) -> TakeRecord | None:
    """The latest take of a hook-up that has its recording; None without one."""
    sql = f"SELECT {COLUMNS} FROM take WHERE hookup_id = ? AND audio IS NOT NULL ORDER BY id DESC LIMIT 1"
    row = rows.one(sql, hookup_id)
    return _take(row) if row else None


def with_audio(most: int = 200) -> list[TakeRecord]:
    """The newest takes that have a recording."""
    sql = f"SELECT {COLUMNS} FROM take WHERE audio IS NOT NULL ORDER BY id DESC LIMIT ?"
    return [_take(row) for row in rows.every(sql, most)]


def of_audio(name: str) -> TakeRecord | None:
    """The first take that has a recording."""
    row = rows.one(f"SELECT {COLUMNS} FROM take WHERE audio = ? ORDER BY id", name)
    return _take(row) if row else None


def has_audio(name: str) -> bool:
    """Whether some take has this file."""
    return rows.one("SELECT 1 FROM take WHERE audio = ?", name) is not None


def some(take_ids: Sequence[int]) -> dict[int, TakeRecord]:
    """Takes by their number; those that are gone are left out."""
    sql = f"SELECT {COLUMNS} FROM take WHERE id IN ({rows.marks(take_ids)})"
    return {found.id: found for found in map(_take, rows.every(sql, *take_ids))}


def is_simulated(audio: str) -> bool:
    """Whether a take that has this file was recorded by a stand-in."""
    return rows.one("SELECT 1 FROM take WHERE audio = ? AND simulated", audio) is not None


def seen_at(take_id: int) -> Json:
    """The hook-up, gear and results as they were at a take."""
    row = rows.one("SELECT doc FROM snapshot WHERE take_id = ?", take_id)
    found: Json = rows.plain(row[0]) if row else {}
    return found


def each(session_id: int | None = None) -> Iterator[TakeRecord]:
    """Takes of a session or all, the oldest first."""
    where, values = ("WHERE session_id = ?", (session_id,)) if session_id is not None else ("", ())
    return (_take(r) for r in rows.each(f"SELECT {COLUMNS} FROM take {where} ORDER BY id", *values))


def each_with_what_was_seen(session_id: int) -> Iterator[tuple[TakeRecord, str]]:
    """Takes of a session in their order, each with what was seen at it as the JSON text it lies as."""
    sql = (
        f"SELECT {COLUMNS}, snapshot.doc FROM take JOIN snapshot ON snapshot.take_id = take.id"
        " WHERE take.session_id = ? ORDER BY take.number"
    )
    return ((_take(r), r[-1]) for r in rows.each(sql, session_id))


LINE = ", ".join(field.name for field in fields(LineRecord))


def lines(session_id: int | None, most: int | None) -> list[LineRecord]:
    """Lines that belong to no take, newest first."""
    where, values = ("WHERE session_id = ?", (session_id,)) if session_id is not None else ("", ())
    sql = f"SELECT {LINE} FROM note {where} ORDER BY id DESC LIMIT ?"
    return [LineRecord(*r) for r in rows.every(sql, *values, NO_LIMIT if most is None else most)]


def of_neighbours() -> list[LineRecord]:
    """What neighbours said, the oldest first."""
    return [LineRecord(*r) for r in rows.every(f"SELECT {LINE} FROM note WHERE kind <> '' ORDER BY at, id")]


def write_line(record: LineRecord) -> LineRecord:
    """A new line; with its number."""
    values = {name: value for name, value in vars(record).items() if name != "id"}
    return replace(record, id=rows.insert("note", values))


def delete_line(line_id: int) -> bool:
    """Delete a line for good; whether there was one."""
    return rows.write("DELETE FROM note WHERE id = ?", line_id) > 0
