"""A hand-over folder for whoever mixes: takes that all begin at one place in the song, named, with a text."""

from __future__ import annotations

import json
import tempfile
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal, TypeAlias

from low_tide.app import blend_sound, blends, log, recordings, session_sheet
from low_tide.app.blend_sound import ExportChoice
from low_tide.app.errors import Invalid, Refusal
from low_tide.app.heard_on import of_take
from low_tide.app.log import Take
from low_tide.core.rig.hookup import HookupError
from low_tide.core.units import level_figure
from low_tide.formats import markdown
from low_tide.formats.file_names import on_any_disk
from low_tide.formats.recording import write_later
from low_tide.formats.sentences import FormatError
from low_tide.store import archives
from low_tide.store import takes as kept
from low_tide.store.backups import ask_free
from low_tide.store.home import WORK, Home, audio_file

MOST_FILES = 200
MOST_APART_S = 3600.0
"""Takes further apart in the song than this are hardly of one song; silence fills up a disk."""
FileKind: TypeAlias = Literal["dry", "bare", "speaker", "unknown", "blended"]
KIND_WORDS: dict[str, str] = {
    "dry": "dry: no amp lies before it",
    "bare": "bare: an amp and no speaker; it wants one",
    "speaker": "with its speaker",
    "unknown": "what lies before it is not known",
    "blended": "through the blend: its speaker is in it",
}


@dataclass(frozen=True)
class HandedFile:
    """A file of the folder: of which take, of which kind, where in the song it begins to sound (s, None where nobody
    said: it begins with the file), and the silence before (s)."""

    name: str
    take: int
    kind: FileKind
    song_start: float | None
    silence: float
    seconds: float


@dataclass(frozen=True)
class HandOver:
    """What goes out. `begins`: where in the song every file begins, s; `left_out`: takes and why."""

    files: tuple[HandedFile, ...]
    begins: float
    left_out: tuple[str, ...]
    seconds: float


def _kind(take: Take) -> FileKind:
    """What lies before a take, by its hook-up."""
    try:
        return recordings.way_to(take.id)
    except (FormatError, HookupError):
        return "unknown"


def _name(take: Take, kind: FileKind) -> str:
    said = [f"{take.number:02d} {take.note.name}", take.note.part, kind if kind != "unknown" else ""]
    return on_any_disk(" - ".join(each for each in said if each), 120)


def _chosen(session_id: int, wanted: Sequence[int]) -> list[Take]:
    there = [log.told(row) for row in kept.each(session_id)]
    if wanted:
        there = [take for take in there if take.id in wanted]
    else:
        there = [take for take in there if take.note.rating != "no"]
    return [take for take in there if take.audio and take.measures]


def plan(session_id: int, wanted: Sequence[int] = (), blend: int | None = None) -> HandOver:
    """What a hand-over folder of a session would hold: the takes that are named, or all with a recording that are not
    rated 'no'. Invalid where they are too many, or too far apart in the song."""
    log.session(session_id)
    takes = _chosen(session_id, wanted)
    if len(takes) > MOST_FILES:
        raise Invalid(f"Takes: at most {MOST_FILES} go out in one folder, these are {len(takes)}. Choose fewer.")
    starts = [take.note.song_start for take in takes if take.note.song_start is not None]
    begins = min(starts, default=0.0)
    if starts and max(starts) - begins > MOST_APART_S:
        raise Invalid("Takes: they lie over an hour apart in the song. Choose those of one song.")
    files, left_out = list[HandedFile](), list[str]()
    if blend is not None:
        blends.row_of(blend)
    for take in takes:
        start, kind = take.note.song_start, _kind(take)
        silence = 0.0 if start is None else start - begins
        assert take.measures is not None
        made = HandedFile(f"{_name(take, kind)}.wav", take.id, kind, start, silence, take.measures.seconds)
        files.append(made)
        if blend is None:
            continue
        row = kept.find(take.id)
        warning = of_take(row).warning if row else ""
        if kind in ("dry", "unknown"):
            left_out.append(f"{take.number}. {take.note.name}, through the blend: {KIND_WORDS[kind]}.")
        elif warning:
            left_out.append(f"{take.number}. {take.note.name}, through the blend: {warning}")
        else:
            files.append(replace(made, name=f"{_name(take, 'blended')}.wav", kind="blended"))
    return HandOver(tuple(_apart(files)), begins, tuple(left_out), sum(f.seconds + f.silence for f in files))


def _apart(files: Sequence[HandedFile]) -> Iterator[HandedFile]:
    """No two under one name, on disks that tell capitals apart and on those that do not."""
    used = set[str]()
    for each in files:
        name, n = each.name, 2
        while name.lower() in used:
            name, n = f"{each.name.removesuffix('.wav')} ({n}).wav", n + 1
        used.add(name.lower())
        yield replace(each, name=name)


HEADS = ("File", "What it is", "Begins to sound", "Hook-up", "Played on", "Said")


def _row(each: HandedFile, begins: float, told: session_sheet.SheetTake) -> tuple[str, ...]:
    start = each.song_start
    at = "with the file; its place in the song is not known" if start is None else f"{start - begins:.3f} s in"
    return each.name, KIND_WORDS[each.kind], at, told.hookup, told.played_on, told.said


def _text(home: Home, session_id: int, found: HandOver, blend: int | None) -> str:
    session = log.session(session_id)
    known = any(each.song_start is not None for each in found.files)
    begins = f"Every file begins {found.begins:.3f} s into the song. Lay them all at one place, and they are in time."
    about = [begins if known else "Of none of the files is it known where in the song it begins.", session.notes]
    told = {t.id: session_sheet.of_take(t) for t in _chosen(session_id, [f.take for f in found.files])}
    table = list(markdown.table(HEADS, [_row(each, found.begins, told[each.take]) for each in found.files]))
    parts = [("Files", table), ("Not here", [f"- {markdown.plain(said)}\n" for said in found.left_out])]
    if blend is not None:
        made = blend_sound.recipe(home, blend, ExportChoice())
        lines = [f"{part['of']['name']}: {level_figure(part['settings']['gain'])} dB" for part in made["parts"]]
        rights = sorted({(part["of"]["source"], part["of"]["licence"]) for part in made["parts"]})
        lines += [f"From {source or 'nobody knows where'}: {rule or 'licence not known'}" for source, rule in rights]
        parts.append((f"The blend “{made['name']}”", [f"- {markdown.plain(line)}\n" for line in lines]))
    return "".join(markdown.document(f"{session.name}, to be mixed", [a for a in about if a], parts))


def prepare(home: Home, session_id: int, wanted: Sequence[int] = (), blend: int | None = None) -> Iterator[bytes]:
    """The folder as a ZIP, piece by piece as it is sent. Invalid before anything is sent where nothing would be in it,
    or where a recording is gone."""
    found = plan(session_id, wanted, blend)
    if not found.files:
        raise Invalid("Takes: none of them has a recording that is not rated “no”; choose some.")
    by_id = {take.id: take for take in _chosen(session_id, [f.take for f in found.files])}
    gone = [take.number for take in by_id.values() if audio_file(home, take.audio or "") is None]
    if gone:
        raise Invalid(f"The recordings of takes {', '.join(map(str, gone))} are not in the data folder any more.")
    # The longest lies on the disk for a moment, at eight bytes a sample and two channels at the most.
    longest = max(f.seconds + f.silence for f in found.files)
    ask_free(home.folder, round(longest * 96_000 * 16), "The longest file takes")
    return _writing(home, session_id, found, by_id, blend)


def _writing(
    home: Home, session_id: int, found: HandOver, by_id: dict[int, Take], blend: int | None
) -> Iterator[bytes]:
    pipe, left_out = archives.Pipe(), list(found.left_out)
    sent = list[HandedFile]()
    with (
        zipfile.ZipFile(pipe, "w", zipfile.ZIP_DEFLATED) as archive,
        tempfile.TemporaryDirectory(dir=home.folder, prefix=WORK) as work,
    ):
        for each in found.files:
            target = Path(work) / "sound.wav"
            try:
                _sound(home, each, by_id[each.take], blend, target)
            except (FormatError, Refusal) as error:
                left_out.append(f"{each.name}: {error}")
                continue
            sent.append(each)
            with target.open("rb") as source, archive.open(zipfile.ZipInfo(each.name), "w", force_zip64=True) as out:
                while block := source.read(archives.BLOCK):
                    out.write(block)
                    yield pipe.taken()
        there = replace(found, files=tuple(sent), left_out=tuple(left_out))
        archive.writestr("read me.md", _text(home, session_id, there, blend))
        if blend is not None:
            made = blend_sound.recipe(home, blend, ExportChoice())
            archive.writestr("blend.json", json.dumps(made, ensure_ascii=False, indent=1))
    yield pipe.taken()


def _sound(home: Home, each: HandedFile, take: Take, blend: int | None, target: Path) -> None:
    if each.kind != "blended" or blend is None:
        file = audio_file(home, take.audio or "")
        assert file is not None
        write_later(file, target, each.silence)
        return
    made = target.with_name("blended.wav")
    made.write_bytes(blend_sound.rendered(home, blend, take.id, anyway=False)[0])
    write_later(made, target, each.silence)
