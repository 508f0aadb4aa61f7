"""A comparison as it is shown: its recordings, what was found of each, in words."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from low_tide.app.compared import (
    TOP_DBFS,
    Compared,
    ComparisonDoc,
    HeldFiles,
    Known,
    ShootOut,
    TrackState,
    between,
    doc_of,
    is_done,
    known_of,
    render_name,
    row_of,
)
from low_tide.core.audio.dynamics import SoundPart
from low_tide.core.comparing.comparison import Held
from low_tide.core.comparing.words import Said, as_load_feel_says, sentences, where_it_lies
from low_tide.store import hookups, inspections, renders, takes
from low_tide.store.home import Home


@dataclass(frozen=True)
class ComparedTrack:
    """A recording of a comparison as it is shown. `called`: by what differs between them; `about`: what else is known.

    `match_db`: the gain that brings it to the reference's loudness. `held` None until it was held against it, or where
    its recording is gone; `lies`: how it lies beside it, `as_it_came`: its differences before it was matched, in words.
    """

    take: int | None
    audio: str
    called: str
    about: str
    simulated: bool
    seconds: float
    rate: int
    state: TrackState
    held: Held | None
    match_db: float
    lies: str
    as_it_came: str
    said: tuple[Said, ...]
    heard: bool


@dataclass(frozen=True)
class ComparisonState:
    """A comparison. `wanting`: something is still to be worked out. `top_db`: the gain over all when it is heard.

    `seconds`: how long the reference is. `saves` must come back with a change. `has_list`: it comes from a shoot-out;
    `bias`: for which of them the amp was set.
    """

    id: int
    name: str
    saves: int
    tracks: tuple[ComparedTrack, ...]
    sections: tuple[SoundPart, ...]
    suggested: tuple[SoundPart, ...]
    seconds: float
    wanting: bool
    top_db: float
    has_list: bool
    bias: str


def state(home: Home, comparison_id: int) -> ComparisonState:
    """A comparison with everything that was found so far, and which of it can be heard."""
    row = row_of(comparison_id)
    doc, known = doc_of(row), known_of(doc_of(row))
    reference = known[0].audio if known else ""
    founds = [between(reference, k.audio) if k.audio and reference else None for k in known]
    twice = _twice(doc, founds)
    top = max((f.peak_dbfs for f in founds if f), default=TOP_DBFS)
    first = founds[0] if founds else None
    tracks = tuple(
        _track(home, reference, t, k, f, first if n else None, None if n == twice[0] else twice[1])
        for n, (t, k, f) in enumerate(zip(doc.tracks, known, founds, strict=True))
    )
    return ComparisonState(
        row.id,
        row.name,
        row.saves,
        tracks,
        doc.sections,
        first.suggested if first else (),
        first.seconds if first else 0.0,
        len(known) > 1 and any(k.audio and not is_done(home, reference, k.audio) for k in known),
        min(0.0, TOP_DBFS - top),
        doc.shoot_out is not None,
        _bias(doc.shoot_out),
    )


def _twice(doc: ComparisonDoc, founds: list[HeldFiles | None]) -> tuple[int, float | None]:
    """Which track is the reference recorded a second time (−1 for none), and what a filter leaves of it, dB.

    The same hook-up, word for word, and nobody set the amp anew.
    """
    first = doc.tracks[0].take if doc.tracks else None
    if first is None:
        return -1, None
    anew = {item.take for item in doc.shoot_out.items if item.again} if doc.shoot_out else set()
    rows = takes.some([t.take for t in doc.tracks if t.take is not None])
    hookup = rows[first].hookup_id if first in rows else ""
    seen: Any = None
    for place, (track, found) in enumerate(zip(doc.tracks, founds, strict=True)):
        if place == 0 or track.take is None or track.take in anew or not found or not found.held.filter:
            continue
        if track.take not in rows or rows[track.take].hookup_id != hookup:
            continue
        seen = seen or takes.seen_at(first).get("hookup")
        if found.held.relation == "same" and seen and takes.seen_at(track.take).get("hookup") == seen:
            return place, found.held.filter.left
    return -1, None


def _bias(listed: ShootOut | None) -> str:
    """For which of them the amp was set: said wherever they are compared, since it favours that one."""
    if listed is None:
        return ""
    name = hookups.names().get(listed.set_on)
    again = any(item.again for item in listed.items)
    if name is None:
        return "Nobody said on which of them the amp’s controls were set; that one is favoured."
    rest = "; the second pass has them set anew for each" if again else ""
    return f"The amp’s controls were set on “{name}”, which favours it{rest}."


def _track(
    home: Home,
    reference: str,
    track: Compared,
    known: Known,
    found: HeldFiles | None,
    first: HeldFiles | None,
    twice: float | None,
) -> ComparedTrack:
    """`first`: what is known of the reference, None for itself."""
    state: TrackState = "held" if found else "to do" if known.audio else "gone"
    said: tuple[Said, ...] = ()
    if found and first:
        said = (*sentences(found.held, known.called, (first.rate, found.rate), twice), *_faults(known))
    elif state == "gone":
        said = (Said(f"{known.called}: its recording is gone. Take it off the list, or bring it in again.", True),)
    return ComparedTrack(
        track.take,
        known.audio,
        known.called,
        known.about,
        known.simulated,
        found.seconds if found else 0.0,
        found.rate if found else 0,
        state,
        found.held if found else None,
        found.held.match_db if found else 0.0,
        where_it_lies(found.held) if found else "",
        as_load_feel_says(found.held) if found and first else "",
        said,
        found is not None and renders.find(home, render_name(reference, known.audio)) is not None,
    )


def _faults(known: Known) -> Iterator[Said]:
    """What a recording has that makes it differ whatever it was recorded through."""
    found = inspections.find(known.audio)
    if found is None:
        return
    clips = sum(c["runs"] for c in found["clips"] if c["by"] == "converter")
    if clips:
        often = "once" if clips == 1 else f"{clips:,} times"
        yield Said(f"It is clipped {often}: what stood above is gone, and counts here as if the amp had done it.", True)
    if found["channels"] in ("left only", "right only"):
        yield Said("One of its channels is empty; the other one is compared.")
