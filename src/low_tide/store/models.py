"""Tables. Documents are JSON text; what lists filter and sort by stands in columns of its own."""

from __future__ import annotations

import json
from typing import Any

from peewee import (
    AutoField,
    BlobField,
    BooleanField,
    CharField,
    CompositeKey,
    FloatField,
    ForeignKeyField,
    IntegerField,
    Model,
    TextField,
)

from low_tide.store.database import database


class JsonField(TextField):
    """JSON text in the column, plain data in Python."""

    def db_value(self, value: Any) -> str | None:
        return None if value is None else json.dumps(value, ensure_ascii=False)

    def python_value(self, value: str | None) -> Any:
        return None if value is None else json.loads(value)


class Table(Model):
    class Meta:
        database = database


class GearRow(Table):
    """A unit of the locker. `revision` counts its edits, so two tabs cannot overwrite each other unseen."""

    id = CharField(primary_key=True, max_length=64)
    kind = CharField(index=True)
    name = CharField()
    archived = BooleanField(default=False)
    revision = IntegerField(default=1)
    doc = JsonField()
    updated = CharField()

    class Meta:
        table_name = "gear"


class HookupRow(Table):
    """A hook-up: which revision it stands at, whether it is on, and its run sheet's state.

    `redo` holds the revisions that undo came from, the nearest last. `saves` counts every move.
    """

    id = CharField(primary_key=True, max_length=64)
    name = CharField()
    archived = BooleanField(default=False)
    current = IntegerField(default=1)
    newest = IntegerField(default=1)
    redo = JsonField(default=list)
    saves = IntegerField(default=1)
    is_on = BooleanField(default=False)
    run = JsonField(default=dict)
    pinned = JsonField(default=list)
    updated = CharField()

    class Meta:
        table_name = "hookup"


class RevisionRow(Table):
    """One state of a hook-up and the one it was made from. Numbers are never used again and rows never
    deleted, so a window that saw a state can always come back to it."""

    id = AutoField()
    hookup = ForeignKeyField(HookupRow, backref="revisions", on_delete="CASCADE")
    number = IntegerField()
    parent = IntegerField(null=True)
    label = CharField()
    doc = JsonField()
    at = CharField()

    class Meta:
        table_name = "revision"
        indexes = ((("hookup", "number"), True),)


class SessionRow(Table):
    id = AutoField()
    name = CharField()
    notes = TextField(default="")
    started = CharField()

    class Meta:
        table_name = "session"


class TakeRow(Table):
    """A take. `saves` counts what was said of it, so two tabs cannot overwrite each other unseen."""

    id = AutoField()
    session = ForeignKeyField(SessionRow, backref="takes", on_delete="CASCADE")
    session_id: int
    number = IntegerField()
    saves = IntegerField(default=1)
    name = CharField()
    part = CharField(default="")
    notes = TextField(default="")
    controls = JsonField(default=list)
    measured_peak = FloatField(null=True)
    hookup_name = CharField()
    hookup_id = CharField()
    verdict = CharField()
    expected_peak = FloatField(null=True)
    accepted = JsonField(default=list)
    audio = CharField(null=True, index=True)
    audio_name = CharField(null=True)
    measures = JsonField(null=True)
    at = CharField()
    recorded_at = CharField(default="")
    song_start = FloatField(null=True)
    simulated = BooleanField(default=False)
    scene = CharField(default="")
    rating = CharField(default="")
    guide = BooleanField(default=False)
    replaces = IntegerField(null=True)
    guitar = CharField(default="")
    pickup = CharField(default="")
    guitar_volume = CharField(default="")
    tuning = CharField(default="")
    afterwards = TextField(default="")
    gear = TextField(default="")
    clipped = IntegerField(default=0)

    class Meta:
        table_name = "take"
        indexes = ((("session", "number"), True),)


class SnapshotRow(Table):
    """The hook-up, gear and results as they were at a take; never written again. It is large, and no list needs it."""

    take = ForeignKeyField(TakeRow, primary_key=True, on_delete="CASCADE")
    doc = JsonField()

    class Meta:
        table_name = "snapshot"


class AttachmentRow(Table):
    """A photo or a preset file that belongs to a take; `size` in bytes."""

    id = AutoField()
    take = ForeignKeyField(TakeRow, on_delete="CASCADE")
    kind = CharField()
    name = CharField()
    size = IntegerField()
    content = BlobField()
    at = CharField()

    class Meta:
        table_name = "attachment"


class InspectionRow(Table):
    """What a recording was found to hold, by its file's name; `version` says in which way it was inspected."""

    audio = CharField(primary_key=True)
    version = IntegerField()
    doc = JsonField()

    class Meta:
        table_name = "inspection"


class PlayedRow(Table):
    """What a take says of how hard its amp was played: dB over the prediction. `used`: it counts."""

    take = ForeignKeyField(TakeRow, primary_key=True, on_delete="CASCADE")
    amp = CharField(index=True)
    mode = CharField()
    offset = FloatField()
    playing_range = FloatField(null=True)
    simulated = BooleanField(default=False)
    used = BooleanField(default=True)

    class Meta:
        table_name = "played"


class ComparisonRow(Table):
    """Recordings held against each other: `doc` says which, the reference first. `saves` counts its changes."""

    id = AutoField()
    name = CharField()
    doc = JsonField()
    saves = IntegerField(default=1)
    at = CharField()

    class Meta:
        table_name = "comparison"


class ComparedFileRow(Table):
    """Audio that was brought into a comparison and is no take."""

    comparison = ForeignKeyField(ComparisonRow, on_delete="CASCADE")
    audio = CharField(index=True)

    class Meta:
        table_name = "compared_file"
        primary_key = CompositeKey("comparison", "audio")


class HeldRow(Table):
    """What was found when one file was held against another; `version` says in which way."""

    reference = CharField()
    audio = CharField()
    version = IntegerField()
    doc = JsonField()

    class Meta:
        table_name = "held"
        primary_key = CompositeKey("reference", "audio")


class ListeningRow(Table):
    """A run of trials without knowing, from when it was begun; of blends where it belongs to no comparison."""

    id = AutoField()
    comparison = ForeignKeyField(ComparisonRow, backref="runs", null=True, on_delete="CASCADE")
    doc = JsonField()
    at = CharField()

    class Meta:
        table_name = "listening"


class ImpulseRow(Table):
    """An impulse response of the library: its file, and which channel of it, from 1; 0 where it has one. `doc` says
    what it is of, `analysis` what it is like, found in the way of `version`."""

    id = AutoField()
    audio = CharField(index=True)
    channel = IntegerField(default=0)
    doc = JsonField()
    analysis = JsonField()
    version = IntegerField()
    at = CharField()

    class Meta:
        table_name = "impulse"


class BlendRow(Table):
    """A blend of impulse responses. `saves` counts its changes."""

    id = AutoField()
    name = CharField()
    doc = JsonField()
    saves = IntegerField(default=1)
    at = CharField()

    class Meta:
        table_name = "blend"


class MixRow(Table):
    """What a guitar is heard against: `doc` says which tracks, how loud, and where. `saves` counts its changes."""

    id = AutoField()
    name = CharField()
    doc = JsonField()
    saves = IntegerField(default=1)
    at = CharField()

    class Meta:
        table_name = "mix"


class MixFileRow(Table):
    """Audio that was brought into a mix and is no take."""

    mix = ForeignKeyField(MixRow, on_delete="CASCADE")
    audio = CharField(index=True)

    class Meta:
        table_name = "mix_file"
        primary_key = CompositeKey("mix", "audio")


class ReadingRow(Table):
    """A level that was read off a meter, or listened to. `doc` says which and how.

    `hookup` and `revision`: what sounded, None where nobody said. `used`: it counts for the calibration.
    """

    id = AutoField()
    kind = CharField()
    place = CharField(index=True)
    hookup = CharField(null=True)
    revision = IntegerField(null=True)
    minutes = FloatField(default=0)
    level = FloatField()
    used = BooleanField(default=True)
    doc = JsonField()
    at = CharField(index=True)

    class Meta:
        table_name = "reading"


class NoteRow(Table):
    """A line in the log that belongs to no take: what was picked, what was noticed; of a `kind`, what neighbours said
    at a place, at a level (dBA)."""

    id = AutoField()
    session = ForeignKeyField(SessionRow, backref="lines", on_delete="CASCADE")
    text = TextField()
    at = CharField()
    kind = CharField(default="")
    place = CharField(default="")
    level = FloatField(null=True)
    blend = IntegerField(null=True)

    class Meta:
        table_name = "note"


class PreferenceRow(Table):
    """The user's schools, one row. `saves` counts their changes."""

    id = IntegerField(primary_key=True)
    doc = JsonField()
    saves = IntegerField(default=1)

    class Meta:
        table_name = "preference"


class PickRow(Table):
    """Which load was picked for an amp in a power mode with a guitar."""

    amp = CharField()
    mode = CharField()
    guitar = CharField()
    choice = CharField()
    unit = CharField()
    switch = CharField()
    label = CharField()
    at = CharField()

    class Meta:
        table_name = "pick"
        primary_key = CompositeKey("amp", "mode", "guitar")


class TimerRow(Table):
    """Something that runs by the clock: what for, of which hook-up, and when it ends."""

    id = AutoField()
    kind = CharField()
    hookup = CharField(default="")
    about = CharField(default="")
    label = TextField()
    started = CharField()
    ends = CharField()

    class Meta:
        table_name = "timer"


class SwitchedRow(Table):
    """A hook-up was on, since and until; `until` None: it is still."""

    id = AutoField()
    hookup = CharField()
    since = CharField()
    until = CharField(null=True)

    class Meta:
        table_name = "switched"


class StepReadingRow(Table):
    """What was read off at a step of a run sheet; `value` None: over the meter's range. `about` and `state`: of what,
    and how that was set, so that it can be held against what was read before."""

    id = AutoField()
    hookup = CharField(index=True)
    step = CharField()
    quantity = CharField()
    about = CharField(default="", index=True)
    state = TextField(default="")
    value = FloatField(null=True)
    answer = CharField()
    simulated = BooleanField(default=False)
    at = CharField()

    class Meta:
        table_name = "step_reading"


class KitRow(Table):
    """Which lines of the kit list for some hook-ups are packed, and lines of one's own."""

    hookups = CharField(primary_key=True)
    doc = JsonField()

    class Meta:
        table_name = "kit"


class FaultRow(Table):
    """A search for what is wrong with a hook-up: what was answered (`doc`), and how it ended. `saves` counts its
    changes."""

    id = AutoField()
    hookup = CharField(index=True)
    symptom = CharField()
    doc = JsonField()
    saves = IntegerField(default=1)
    ended = CharField(null=True)
    cause = CharField(null=True)
    at = CharField()

    class Meta:
        table_name = "fault"


class SuspectRow(Table):
    """A unit that may have been hurt: why, and once somebody has looked at it, when and with what word."""

    id = AutoField()
    unit = CharField(index=True)
    why = TextField()
    at = CharField()
    cleared = CharField(null=True)
    word = TextField(default="")

    class Meta:
        table_name = "suspect"


class PlanRow(Table):
    """A project and its plan: which revision it stands at. `redo` and `saves` as of a hook-up."""

    id = CharField(primary_key=True, max_length=64)
    name = CharField()
    archived = BooleanField(default=False)
    current = IntegerField(default=1)
    newest = IntegerField(default=1)
    redo = JsonField(default=list)
    saves = IntegerField(default=1)
    updated = CharField()

    class Meta:
        table_name = "plan"


class PlanRevisionRow(Table):
    """One state of a project and the one it was made from."""

    id = AutoField()
    plan = ForeignKeyField(PlanRow, backref="revisions", on_delete="CASCADE")
    number = IntegerField()
    parent = IntegerField(null=True)
    label = CharField()
    doc = JsonField()
    at = CharField()

    class Meta:
        table_name = "plan_revision"
        indexes = ((("plan", "number"), True),)


class DrillSittingRow(Table):
    """A sitting of drills: made from what, of which kinds, begun and ended."""

    id = AutoField()
    source = CharField()
    kinds = JsonField(default=list)
    began = CharField()
    ended = CharField(null=True)

    class Meta:
        table_name = "drill_sitting"


class DrillRow(Table):
    """A question (`doc`, gone once its sitting is long over) and its answer. `once_more`: asked for again, so that it
    does not count for its card; `rating`: how it did count."""

    id = AutoField()
    sitting = ForeignKeyField(DrillSittingRow, backref="drills", on_delete="CASCADE")
    kind = CharField()
    card = CharField()
    level = IntegerField()
    once_more = BooleanField(default=False)
    doc = JsonField(null=True)
    asked = CharField()
    hint = BooleanField(default=False)
    answered = CharField(null=True, index=True)
    answer = JsonField(null=True)
    is_right = BooleanField(null=True)
    seconds = FloatField(null=True)
    rating = CharField(null=True)

    class Meta:
        table_name = "drill"


class DrillCardRow(Table):
    """When a card is due, and what the schedule knows of it."""

    card = CharField(primary_key=True)
    doc = JsonField()
    due = CharField()
    in_a_row = IntegerField(default=0)

    class Meta:
        table_name = "drill_card"


TABLES = (
    GearRow,
    HookupRow,
    RevisionRow,
    SessionRow,
    TakeRow,
    SnapshotRow,
    AttachmentRow,
    InspectionRow,
    PlayedRow,
    PreferenceRow,
    ReadingRow,
    NoteRow,
    PickRow,
    ComparisonRow,
    ComparedFileRow,
    HeldRow,
    ListeningRow,
    ImpulseRow,
    BlendRow,
    MixRow,
    MixFileRow,
    TimerRow,
    SwitchedRow,
    StepReadingRow,
    KitRow,
    FaultRow,
    SuspectRow,
    PlanRow,
    PlanRevisionRow,
    DrillSittingRow,
    DrillRow,
    DrillCardRow,
)
