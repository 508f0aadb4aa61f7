"""A guitar in a mix: how it is heard through a blend, what of the short list is heard best, and the sound of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal, TypeAlias

import numpy as np

from low_tide.app import blends, heard_on, impulses, mixes
from low_tide.app.blend_sound import MOST_TRUE_PEAK, TAIL_S, TARGET_LUFS, through
from low_tide.app.blends import BlendDoc
from low_tide.app.errors import Conflict, Invalid
from low_tide.app.mixes import BUILT_IN, MixDoc, MixTrack
from low_tide.app.turns import give_way
from low_tide.core.audio.loudness import loudness
from low_tide.core.audio.metering import true_peak
from low_tide.core.audio.rendering import RATE, Samples
from low_tide.core.cab.blend import BlendPart, mono
from low_tide.core.cab.in_the_mix import HeardInMix, heard_in_mix, loud_parts
from low_tide.formats.recording import read_section, write_wav
from low_tide.stand_ins import backing
from low_tide.store import blends as kept_blends
from low_tide.store import impulses as kept
from low_tide.store.database import database
from low_tide.store.home import Home, audio_file

MOST_RANKED_BLENDS = 12
What: TypeAlias = Literal["both", "guitar", "backing"]


@dataclass(frozen=True)
class RankedSpeaker:
    """A blend, or an impulse response of the short list alone, by how it is heard in a mix."""

    kind: Literal["blend", "impulse"]
    id: int
    name: str
    heard: int
    over: float
    words: str


@dataclass(frozen=True)
class Ranking:
    """All of the short list and the newest blends, what is heard in most bands first. `left_out`: what could not be
    tried, in words; `of`: how many bands there are."""

    speakers: tuple[RankedSpeaker, ...]
    left_out: tuple[str, ...]
    of: int


def _track(home: Home, track: MixTrack, start: float, stop: float) -> Samples:
    begins = mixes.begins_at(track.source, track.at)
    start, stop = start - begins, stop - begins
    if track.source in BUILT_IN:
        return heard_on.within(backing.backing(BUILT_IN[track.source]), start, stop)
    audio = mixes.audio_of(track)
    path = audio_file(home, audio) if audio else None
    if path is None:
        return np.zeros(0)
    with heard_on.told_with(track.name or "A track"):
        return read_section(path, start, stop)


def _backing(home: Home, doc: MixDoc) -> Samples:
    total = np.zeros(round((doc.stop - doc.start) * RATE))
    for track in doc.tracks:
        if not track.mute:
            sound = _track(home, track, doc.start, doc.stop)[: len(total)]
            total[: len(sound)] += 10 ** (track.gain / 20) * sound
    return total


@dataclass(frozen=True, eq=False)
class _Section:
    """A section of a mix: its backing with its loudness (LUFS), the bare guitar with what was played before, and
    where it is loud."""

    backing: Samples
    loudness: float
    bare: Samples
    before: int
    loud: np.ndarray[Any, np.dtype[np.bool_]]

    def guitar(self, stereo: blends.Stereo, level: float) -> Samples:
        """The guitar through a speaker, so far (LU) over the backing."""
        made = through(self.bare, mono(stereo)[:, None])[self.before :, 0]
        own = loudness(made, RATE)
        if own is None:
            raise Invalid("Guitar: it is silent in this section.")
        return made * 10 ** ((self.loudness + level - own) / 20)


def _section(home: Home, doc: MixDoc) -> _Section:
    sound = _backing(home, doc)
    level = loudness(sound, RATE)
    if level is None:
        raise Invalid("Backing: nothing of it sounds in this section; put tracks in, or choose another section.")
    start = doc.start - mixes.begins_at(doc.guitar, doc.at)
    bare = heard_on.section_of(home, doc.guitar, start - TAIL_S, start + doc.stop - doc.start)
    lead = len(bare) - len(sound)
    try:
        loud = loud_parts(bare[lead:])
    except ValueError as error:
        raise Invalid(f"Guitar: {error}.") from None
    return _Section(sound, level, bare, lead, loud)


def heard(home: Home, mix_id: int, blend_id: int) -> HeardInMix:
    """How a guitar is heard in a mix through a blend."""
    doc = mixes.doc_of(mixes.row_of(mix_id))
    stereo = blends.sound_of(home, blends.doc_of(blends.row_of(blend_id)), whole=True)
    section = _section(home, doc)
    return heard_in_mix(section.guitar(stereo, doc.level), section.backing, section.loud)


def rank(home: Home, mix_id: int) -> Iterator[float | Ranking]:
    """All of the short list and the newest blends by how they are heard in a mix; yields the part that is done."""
    with database.connection_context():
        doc = mixes.doc_of(mixes.row_of(mix_id))
        section = _section(home, doc)
        wanted: list[tuple[Literal["blend", "impulse"], int, str, BlendDoc]] = [
            ("impulse", each.id, impulses.called(each), BlendDoc((BlendPart(each.id),)))
            for each in kept.every()
            if each.doc.get("listed")
        ]
        wanted += [
            ("blend", each.id, each.name, blends.doc_of(each)) for each in kept_blends.every()[:MOST_RANKED_BLENDS]
        ]
        if not wanted:
            raise Invalid("There is nothing to rank: put impulse responses on the short list, or make a blend.")
        found, left_out = [], []
        for number, (kind, number_of, name, what) in enumerate(wanted):
            yield number / len(wanted)
            give_way()
            try:
                made = section.guitar(blends.sound_of(home, what, whole=True), doc.level)
            except (Invalid, Conflict) as error:
                left_out.append(f"“{name}”: {error.problems[0]}")
                continue
            told = heard_in_mix(made, section.backing, section.loud)
            found.append(RankedSpeaker(kind, number_of, name, told.heard, round(told.over, 2), told.words[0]))
    ranked = sorted(found, key=lambda s: (-s.heard, -s.over))
    yield Ranking(tuple(ranked), tuple(left_out), len(told.bands) if found else 0)


def sound(home: Home, mix_id: int, blend_id: int, what: What) -> bytes:
    """The section of a mix as it is heard, 24-bit: with the guitar through a blend, or one of both alone, each as loud
    as it is in both."""
    doc = mixes.doc_of(mixes.row_of(mix_id))
    stereo = blends.sound_of(home, blends.doc_of(blends.row_of(blend_id)), whole=True)
    section = _section(home, doc)
    guitar = section.guitar(stereo, doc.level)
    both = guitar + section.backing
    gain = 10 ** ((TARGET_LUFS - (loudness(both, RATE) or TARGET_LUFS)) / 20)
    gain *= min(1.0, MOST_TRUE_PEAK / max(1e-9, gain * true_peak(both[:, None].astype(np.float32))))
    return write_wav({"both": both, "guitar": guitar, "backing": section.backing}[what] * gain, RATE)
