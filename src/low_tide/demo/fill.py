"""Fills a data folder with the lightship, through the same use cases a person's work goes through."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Literal

from low_tide.app import bench, blends, impulses, locker, log, mixes, readings, recorder, recordings, running, shoot_out
from low_tide.app.blends import BlendDoc
from low_tide.app.log import Take, TakeNote
from low_tide.app.preferences import choose
from low_tide.app.recorder import Recording
from low_tide.app.shoot_out import NewShootOut
from low_tide.core.cab.blend import BlendPart
from low_tide.core.cab.speaker_filter import SpeakerFilter
from low_tide.core.rig.hookup import ControlSetting
from low_tide.core.session.steps import FIRST
from low_tide.demo import drills, plan
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS, SHOOT_OUT
from low_tide.demo.sound import Recipe, encoded, take
from low_tide.formats.documents import dump
from low_tide.formats.recording import write_wav
from low_tide.stand_ins.impulses import MADE, RATE, impulse
from low_tide.store import switched
from low_tide.store.database import database
from low_tide.store.home import Home

LOW, HIGH = (82.4, 123.5, 164.8, 123.5, 82.4, 110.0), (329.6, 392.0, 493.9, 392.0, 329.6)
TAKES: tuple[tuple[str, str, str, Recipe | None, str], ...] = (
    ("silent-night", "Fog theme, low strings", "main", Recipe(LOW, 16.0, -14.6), "WAV"),
    ("silent-night", "Fog theme, doubled", "double left", Recipe(LOW[::-1], 12.0, -15.2, hum=-58.0), "FLAC"),
    ("quiet-hold", "Bell answer", "lead", Recipe(HIGH, 18.0, -14.3, speakers=2), "WAV"),
    ("tap-on-lead", "Engine drone", "drone", Recipe((55.0, 82.4, 110.0), 22.0, 2.5), "AIFF"),
    ("guide-track", "Guide for the drummer", "guide", None, ""),
    ("cupboard", "Bell answer, in the cupboard", "lead", Recipe(HIGH, 14.0, -12.3, speakers=1), "WAV"),
)
"""A bare tap, one with hum, one with two speakers in it, one too hot, one without a file, and a good one."""
CONTROLS = (("Gain", "6"), ("Bass", "4"), ("Middle", "6.5"), ("Treble", "5"), ("Master", "7"))


SAID: tuple[dict[str, object], ...] = (
    {"notes": "Volume full.", "guitar": "Bosun's guitar", "pickup": "neck", "rating": "keep"},
    {"guitar": "Bosun's guitar", "pickup": "neck", "rating": "maybe", "afterwards": "Hum notched at 100 Hz."},
    {"guitar": "Bosun's guitar", "pickup": "bridge", "guitar_volume": "7"},
    {"guitar": "Baritone guitar", "tuning": "B standard", "rating": "no", "notes": "Too hot at the converter."},
    {"guide": True, "measured_peak": -16.0},
    {"guitar": "Bosun's guitar", "pickup": "bridge", "guitar_volume": "7", "rating": "keep"},
)
"""What is said of each take beside its name, its part and the amp's controls."""
LISTENED = ((75, 40.0, 79.0), (180, 30.0, 84.0), (265, 25.0, 76.0))
"""Stretches of listening at the desk: when each ended (min after the session began), how long (min), how loud (dBA)."""
DESK = "at-the-desk"
ON = (("silent-night", 0, 95), ("quiet-hold", 102, 145), ("tap-on-lead", 150, 196), ("cupboard", 245, 290))
"""What was on from when to when, min after the session began."""


MINUTES = (10, 60, 110, 160, 210, 260)
"""When each take was made, after the session began: time to re-plug and to listen lies between them."""


TAKES_IN_ALL = len(TAKES) + len(SHOOT_OUT)
SHOOT_OUT_TAKE = "Dry track, sent back"
SHOOT_OUT_S, SHOOT_OUT_DRIVE = 7.0, 8.0
SHOOT_OUT_MINUTES = (-330, -280, -230, -180)
"""In the afternoon before, while it may be loud."""


STANDS = "cupboard"

CLOSED = "Sanderling closed 1x12"
TRUSTED = (
    f"{CLOSED}, condenser, 5 cm, on axis",
    f"{CLOSED}, moving coil, 2 cm, on axis",
    "Turnstone open 2x12, ribbon, 10 cm, off axis",
    "Whimbrel closed 4x12, moving coil, 2 cm, on axis",
    "Whimbrel closed 4x12, ribbon, 20 cm, off axis",
    "Phalarope open 2x10, moving coil, 2 cm, on axis",
)
BLENDS: tuple[tuple[str, Literal["recorded", ""], tuple[tuple[str, BlendPart], ...]], ...] = (
    (
        "Drone, near and dark",
        "",
        (
            ("Whimbrel closed 4x12, moving coil, 2 cm, on axis", BlendPart(1)),
            ("Whimbrel closed 4x12, ribbon, 20 cm, off axis", BlendPart(1, gain=8.0, delay=-0.52)),
        ),
    ),
    (
        "Fog, wide",
        "recorded",
        (
            (f"{CLOSED}, condenser, 5 cm, on axis", BlendPart(1)),
            (f"{CLOSED}, condenser, 1 m", BlendPart(1, gain=12.0, pan=-0.2)),
            (f"{CLOSED}, moving coil, 5 cm, off axis", BlendPart(1, gain=0.0)),
        ),
    ),
)
"""The second as it was recorded: a metre late, and one of them wired the other way round."""


SOLO, SOLO_LU = SpeakerFilter(bass_gain=6.0, presence_gain=-6.0, low_pass=2_000.0), -8.0
"""The lead as somebody liked it alone: dark, and not very loud."""


def _evening() -> datetime:
    """Yesterday at half past six, where this runs: the session was over before anybody looks at it."""
    return (datetime.now().astimezone() - timedelta(days=1)).replace(hour=18, minute=30, second=0)


def _said(time: datetime) -> str:
    return time.astimezone(UTC).isoformat(timespec="seconds")


STEPS = 1 + len(TAKES) + len(SHOOT_OUT) + len(drills.DAYS_AGO) + 3
"""How many steps `_filled` takes, all of them about as long."""


def fill(home: Home) -> None:
    """Locker, hook-ups and one session. The folder should be empty."""
    for _ in filling(home):
        pass


def filling(home: Home) -> Iterator[float]:
    """The same step by step: the part of it that is done, up to 1."""
    with database.connection_context():
        for done, _ in enumerate(_filled(home), 1):
            yield done / STEPS


def _filled(home: Home) -> Iterator[None]:
    choose({"session_name": "Lightship, “Fog Signal”"})
    for unit in GEAR.values():
        locker.add(dump(unit))
    for name, hookup in HOOKUPS.items():
        bench.create(hookup=hookup, id=name)
    began = _evening()
    notes = "Harbour quiet from 21:00. Crew asleep aft."
    session = log.new_session("Fog Signal, first night", notes, _said(began))
    _accept("guide-track", "a guide only, at the level it was tried at")
    yield
    for i in range(len(TAKES)):
        _take(home, i, session.id, began)
        yield
    _evening_at_the_desk(began)
    yield from _shoot_out(home, session.id, began)
    _mix(home)
    _speakers(home)
    yield
    plan.lay_out()
    yield
    yield from drills.a_week()
    _left_standing()
    yield


def _take(home: Home, i: int, session: int, began: datetime) -> None:
    hookup, name, part, recipe, kind = TAKES[i]
    controls = [{"name": n, "value": v} for n, v in CONTROLS]
    note = {"name": name, "part": part, "controls": controls, **SAID[i]}
    logged = log.log_take(session, hookup, note, _said(began + timedelta(minutes=MINUTES[i])))
    if recipe:
        file = f"{name.lower().replace(' ', '-').replace(',', '')}.{kind.lower()}"
        recordings.attach(home, logged.id, file, io.BytesIO(encoded(take(recipe, seed=i), kind)))


def _evening_at_the_desk(began: datetime) -> None:
    """What was on when, and what was listened to: the day as it was."""
    for ended, minutes, level in LISTENED:
        readings.listen(DESK, level, minutes, _said(began + timedelta(minutes=ended)))
    with database.atomic():
        for hookup, since, until in ON:
            switched.on(hookup, _said(began + timedelta(minutes=since)))
            switched.off(hookup, _said(began + timedelta(minutes=until)))


def _accept(hookup: str, word: str) -> None:
    for caution in running.state(hookup).cautions:
        running.accept(hookup, caution.finding.key, word)


def _left_standing() -> None:
    """What was played last is off and still hooked up: the next hook-up can go on from its leads."""
    _accept(STANDS, "as last night")
    for each in running.state(STANDS).steps:
        if each.step.reads and each.step.reads.quantity == "ohms":
            running.read(STANDS, each.step.id, round(each.step.reads.value, 1))
        if each.step.phase in FIRST:
            running.tick(STANDS, each.step.id, True)
    running.switch(STANDS, True)
    running.switch(STANDS, False)


def _speakers(home: Home) -> None:
    """Impulse responses made from formulas, some of them trusted, and two blends: one as recorded, out of phase."""
    numbers = {}
    for name, speaker, placing in MADE:
        data = write_wav(impulse(speaker, placing), RATE, "FLOAT")
        (made,) = impulses.bring(home, data, f"{name}.wav", "made")
        note = replace(made.note, source="made by the program", licence="free to use", listed=name in TRUSTED)
        impulses.edit(made.id, dump(note))
        numbers[name] = made.id
    for called, line_up, parts in BLENDS:
        made_of = tuple(replace(part, impulse=numbers[name]) for name, part in parts)
        blends.begin(home, called, dump(BlendDoc(made_of, line_up)))


def _mix(home: Home) -> None:
    """A solo through a filter that is too dark for its backing: nothing of it is heard where it would have to be."""
    blends.begin(home, "Solo, under the deck", dump(BlendDoc(school="filter", filter=SOLO)))
    backed = mixes.begin(home, "Fog Signal, cue 3", tuple(mixes.BUILT_IN), "driven")
    mixes.edit(home, backed.id, backed.name, dump(replace(backed.doc, level=SOLO_LU)))


def _shoot_out(home: Home, session: int, began: datetime) -> Iterator[None]:
    """One dry track through four loads, by the simulated interface, and a comparison of what came back."""
    wanted = NewShootOut("Fog theme, one dry track, four loads", tuple(SHOOT_OUT), "dry-groyne", seconds=SHOOT_OUT_S)
    listed = shoot_out.begin(home, replace(wanted, drive=SHOOT_OUT_DRIVE))
    for place, minutes in enumerate(SHOOT_OUT_MINUTES):
        item = shoot_out.list_of(home, listed.id).items[place]
        note = TakeNote(SHOOT_OUT_TAKE, "main", controls=tuple(ControlSetting(n, v) for n, v in CONTROLS))
        recording = Recording(note, drive=SHOOT_OUT_DRIVE, seconds=SHOOT_OUT_S)
        *_, last = recorder.record(home, item.hookup, recording, session, _said(began + timedelta(minutes=minutes)))
        assert isinstance(last, Take)
        shoot_out.came(listed.id, place, last)
        yield
