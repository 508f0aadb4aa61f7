"""The session sheet: what was recorded, with which hook-up, and how to get it back."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from low_tide.app import log, recordings
from low_tide.app.clock import local
from low_tide.app.log import Accepted, LogLine, Session, Take
from low_tide.app.preferences import preferences
from low_tide.app.running import CAUTION
from low_tide.core.judging.findings import VERDICTS
from low_tide.core.rig.hookup import HookupError
from low_tide.core.session.way_back import WayBack, way_back
from low_tide.core.units import level_figure
from low_tide.formats import markdown
from low_tide.formats.sentences import FormatError
from low_tide.store import takes as kept

MOST_TAKES = 300
"""What one sheet tells of: more is no sheet any more."""
UNREADABLE = "Its record can no longer be read by this program."


@dataclass(frozen=True)
class SheetTake:
    """A take on the sheet: what was measured, played on, set, and said of it, in words, empty where there is none."""

    take: Take
    hookup: str
    peak: str
    played_on: str
    controls: str
    said: str


@dataclass(frozen=True)
class SheetHookup:
    """A hook-up as it was at some takes, by their numbers; `name` ends in a letter where it was changed in between."""

    name: str
    verdict: str
    takes: tuple[int, ...]
    accepted: tuple[Accepted, ...]
    leads: tuple[str, ...]
    settings: tuple[str, ...]
    trouble: str


@dataclass(frozen=True)
class SessionSheet:
    """All of one session. `who`: what stands above the program; `left_out`: takes that are too many for one sheet."""

    session: Session
    who: str
    takes: tuple[SheetTake, ...]
    hookups: tuple[SheetHookup, ...]
    lines: tuple[LogLine, ...]
    caution: str
    left_out: int


@dataclass
class _Stood:
    """A hook-up as it stood, while the takes of it are gathered."""

    name: str
    back: WayBack
    trouble: str
    first: Take
    takes: list[int] = field(default_factory=list)


def _back(take: Take) -> tuple[WayBack, str]:
    try:
        return way_back(recordings.rig_at(take.id)), ""
    except (HookupError, FormatError):
        return WayBack((), ()), UNREADABLE


def _gathered(takes: list[Take]) -> tuple[list[_Stood], dict[int, _Stood]]:
    """Hook-ups as they stood, each once, and which of them each take is of."""
    stood: dict[tuple[str, WayBack, str], _Stood] = {}
    by_take = {}
    for take in takes:
        back, trouble = _back(take)
        key = (take.hookup, back, trouble)
        found = stood.setdefault(key, _Stood(take.hookup, back, trouble, take))
        found.takes.append(take.number)
        by_take[take.id] = found
    every = list(stood.values())
    for each in every:
        alike = [other for other in every if other.first.hookup == each.first.hookup]
        if len(alike) > 1:
            each.name = f"{each.first.hookup} ({chr(ord('a') + alike.index(each) % 26)})"
    return every, by_take


def _peak(take: Take) -> str:
    value = take.measures.peak_dbfs if take.measures else take.note.measured_peak
    return "" if value is None else f"{level_figure(value)} dBFS"


def _take(take: Take, hookup: str) -> SheetTake:
    note = take.note
    hookup += note.scene and f", scene “{note.scene}”"
    guitar = [note.guitar, note.pickup, note.guitar_volume and f"volume {note.guitar_volume}", note.tuning]
    rated = [note.guide and "a guide", note.rating, note.afterwards, note.notes]
    return SheetTake(
        take,
        hookup,
        _peak(take),
        ", ".join(each for each in guitar if each),
        ", ".join(f"{c.name} {c.value}".strip() for c in note.controls),
        "; ".join(each.strip() for each in rated if each),
    )


def of_take(take: Take) -> SheetTake:
    """A take in words, of its hook-up by its name."""
    return _take(take, take.hookup)


def sheet(session_id: int) -> SessionSheet:
    """The sheet of a session."""
    session = log.session(session_id)
    takes = [log.told(row) for _, row in zip(range(MOST_TAKES), kept.each(session_id), strict=False)]
    stood, by_take = _gathered(takes)
    return SessionSheet(
        session,
        preferences().session_name,
        tuple(_take(take, by_take[take.id].name) for take in takes),
        tuple(
            SheetHookup(
                each.name,
                VERDICTS.get(each.first.severity, each.first.severity),
                tuple(each.takes),
                each.first.accepted,
                each.back.leads,
                each.back.settings,
                each.trouble,
            )
            for each in stood
        ),
        tuple(reversed(log.lines(session_id))),
        CAUTION,
        max(0, session.takes - MOST_TAKES),
    )


HEADS = ("Take", "Part", "When", "Hook-up", "Peak", "Played on", "Controls", "Said")


def _row(each: SheetTake) -> tuple[str, ...]:
    take = each.take
    when = f"{local(take.at):%Y-%m-%d %H:%M}"
    name = f"{take.number}. {take.note.name}"
    return name, take.note.part, when, each.hookup, each.peak, each.played_on, each.controls, each.said


def _numbers(numbers: tuple[int, ...]) -> str:
    return f"take{'s' if len(numbers) > 1 else ''} {', '.join(map(str, numbers))}"


def as_markdown(session_id: int) -> Iterator[str]:
    """The same as Markdown."""
    found = sheet(session_id)
    about = [found.who, found.session.notes, CAUTION]
    if found.left_out:
        about.append(f"{found.left_out} takes more are not on this sheet.")
    parts: list[tuple[str, list[str]]] = [("Takes", list(markdown.table(HEADS, map(_row, found.takes))))]
    for each in found.hookups:
        said = [
            f"{each.verdict}; {_numbers(each.takes)}",
            *(f"Accepted: {a.caution} “{a.word}”" for a in each.accepted),
        ]
        lines = [*said, *([each.trouble] if each.trouble else []), *each.leads, *each.settings]
        parts.append((f"To get it back: {each.name}", [f"- {markdown.plain(line)}\n" for line in lines]))
    noted = [f"- {local(line.at):%Y-%m-%d %H:%M} {markdown.plain(line.text)}\n" for line in found.lines]
    parts.append(("Noted", noted))
    return markdown.document(f"Session: {found.session.name}", [p for p in about if p], parts)
