"""Bodies, queries and answers of the API. Answers are the use cases' own values, wrapped, not written again."""

from __future__ import annotations

from typing import Annotated, Any, Generic, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, RootModel

from low_tide.app.audition import Rendered, RenderProgress, Source
from low_tide.app.bench import BenchState, HookupEntry
from low_tide.app.feel import Corrected, FeelState
from low_tide.app.locker import Imported, LockerEntry
from low_tide.app.log import LogLine, Session, Take, TakeNote, TakePage
from low_tide.app.loudness import LoudnessState, ThinCurve
from low_tide.app.readings import Ears, ReadingState
from low_tide.app.running import RunState
from low_tide.core.acoustics import Weighting
from low_tide.core.amplifier import Readings, TwoReading
from low_tide.core.calibration import Pair
from low_tide.core.choices import Choice
from low_tide.core.feel import RESISTOR, PadSet
from low_tide.core.gear.attenuator import Mark
from low_tide.core.heat import Fit
from low_tide.core.hookup import End, Hookup
from low_tide.core.planner import Answer, GoalInfo, Progress, Wish
from low_tide.core.preferences import Preferences
from low_tide.core.slips import Slip
from low_tide.core.spec import Spec
from low_tide.core.spectra import Spectra
from low_tide.formats.curves import ReadCurve
from low_tide.formats.documents import ChangeDoc
from low_tide.stand_ins.meter import Shown

MAX_CHANGES = 60


Root = TypeVar("Root")


class Model(BaseModel):
    """Built when it is first used: building them all would double the time the server takes to start."""

    model_config = ConfigDict(defer_build=True)


class Whole(RootModel[Root], Generic[Root]):
    """A value that is the whole body or answer."""

    model_config = ConfigDict(defer_build=True)


class Strict(Model):
    model_config = ConfigDict(extra="forbid")


class GearPath(Model):
    gear_id: Annotated[str, Field(max_length=64)]


class HookupPath(Model):
    hookup_id: Annotated[str, Field(max_length=64)]


class TakePath(Model):
    take_id: int


class SessionPath(Model):
    session_id: int


class GearQuery(Model):
    search: Annotated[str, Field(max_length=200)] = ""
    kind: Annotated[str, Field(max_length=30)] = ""
    archived: bool = False


class SearchQuery(Model):
    search: Annotated[str, Field(max_length=200)] = ""


class TakesQuery(Model):
    session: int | None = None
    search: Annotated[str, Field(max_length=200)] = ""
    page: Annotated[int, Field(ge=1, le=1_000_000)] = 1
    audio: bool = False


class LogQuery(Model):
    session: int | None = None


class AudioQuery(Model):
    name: Annotated[str, Field(max_length=300)] = "take"


class ImportQuery(Model):
    replace: bool = False


class KindQuery(Model):
    kind: Annotated[str, Field(max_length=30)]


class CurveQuery(Model):
    to: Literal["zma", "csv"] = "zma"


class ResponseQuery(Model):
    """Which output's curve, by the amp's id (the first one if empty), and as what."""

    amp: Annotated[str, Field(max_length=64)] = ""
    to: Literal["zma", "csv", "frd"] = "zma"


class TwoReadings(Whole[Readings]):
    pass


class GearBody(Whole[dict[str, Any]]):
    """A unit's record. The locker validates it by kind and keeps fields that are not known here."""


class PreferencesBody(Whole[Preferences]):
    pass


class NoteBody(Whole[TakeNote]):
    pass


class GearEdit(Strict):
    revision: int
    unit: dict[str, Any]


class NewHookup(Strict):
    """A new hook-up: empty, or one that was proposed."""

    name: Annotated[str, Field(min_length=1, max_length=120)] = "New hook-up"
    hookup: Hookup | None = None


class FindBody(Strict):
    """A wish, and the hook-up on the bench that proposals are held against."""

    wish: Wish
    now: Annotated[str, Field(max_length=64)] = ""


class GoalList(Model):
    goals: tuple[GoalInfo, ...]


class FindLine(Model):
    """One line of the answer to a wish: how far the search is, or, last, what it found."""

    progress: Progress | None = None
    answer: Answer | None = None


class ChangesBody(Strict):
    saves: int
    changes: Annotated[tuple[ChangeDoc, ...], Field(min_length=1, max_length=MAX_CHANGES)]


class CopyBody(Strict):
    revision: int
    changes: Annotated[tuple[ChangeDoc, ...], Field(min_length=1, max_length=MAX_CHANGES)]


class PreviewBody(Strict):
    changes: Annotated[tuple[ChangeDoc, ...], Field(min_length=1, max_length=MAX_CHANGES)]
    held: Annotated[tuple[ChangeDoc, ...], Field(max_length=MAX_CHANGES)] = ()


class ChoicesBody(Strict):
    end: End
    held: Annotated[tuple[ChangeDoc, ...], Field(max_length=MAX_CHANGES)] = ()


class HeldBody(Strict):
    """Changes that are held and not made; none shows the hook-up as it stands."""

    changes: Annotated[tuple[ChangeDoc, ...], Field(max_length=MAX_CHANGES)] = ()


class SavesBody(Strict):
    saves: int


class TickBody(Strict):
    step: Annotated[str, Field(max_length=40)]
    done: bool


class AcceptBody(Strict):
    key: Annotated[str, Field(max_length=1000)]
    word: Annotated[str, Field(max_length=400)]


class SwitchBody(Strict):
    on: bool


class NewSession(Strict):
    name: Annotated[str, Field(max_length=400)]
    notes: Annotated[str, Field(max_length=8000)] = ""


class NewTake(Strict):
    hookup: Annotated[str, Field(max_length=64)]
    note: TakeNote


class About(Model):
    name: str
    version: str
    demo: bool


class KindInfo(Model):
    """A kind of gear: its names, whether it is a unit of hook-ups, and the JSON Schema its form is drawn from."""

    kind: str
    name: str
    plural: str
    placeable: bool
    form: dict[str, Any]


class CheckInfo(Model):
    id: str
    family: str
    when: str


class Consequence(Model):
    severity: str
    text: str


class Found(Model):
    """A hit of the search over everything."""

    type: Literal["gear", "hookup", "take"]
    id: str
    name: str
    detail: str


class PreferencesOut(Model):
    preferences: Preferences
    form: dict[str, Any]


class GearList(Model):
    entries: list[LockerEntry]


class HookupList(Model):
    entries: list[HookupEntry]


class SlipList(Model):
    slips: tuple[Slip, ...]


class ChoiceList(Model):
    end: End
    choices: tuple[Choice, ...]


class SessionList(Model):
    sessions: list[Session]


class FoundList(Model):
    found: list[Found]


class KindList(Model):
    kinds: list[KindInfo]


class CheckList(Model):
    checks: list[CheckInfo]


class ImportedOut(Whole[Imported]):
    pass


class ReadCurveOut(Whole[ReadCurve]):
    pass


class TwoReadingOut(Whole[TwoReading]):
    pass


class EntryOut(Whole[LockerEntry]):
    pass


class SpectraOut(Whole[Spectra]):
    pass


class BenchOut(Whole[BenchState]):
    pass


class RunOut(Whole[RunState]):
    pass


class TakeOut(Whole[Take]):
    pass


class TakePageOut(Whole[TakePage]):
    pass


class SessionOut(Whole[Session]):
    pass


Decibels = Annotated[float, Spec("Level", "dBA", 0, 140)]
PlaceId = Annotated[str, Spec("Place", ge=1, le=64)]
LoadId = Annotated[str, Spec("Load", ge=1, le=160)]


class ReadingPath(Model):
    reading_id: int


class LinePath(Model):
    line_id: int


class RenderPath(Model):
    name: Annotated[str, Field(max_length=80)]


class WishQuery(Model):
    """What is wished for, where; left out: as the hook-up's occasion says."""

    place: Annotated[str, Field(max_length=64)] = ""
    wanted: Annotated[float | None, Spec("Wanted level", "dBA", 0, 140)] = None


class ReadingsQuery(Model):
    place: Annotated[str, Field(max_length=64)] = ""


class NewReading(Strict):
    """A reading; `at` is a local time, now where it is left out."""

    reading: dict[str, Any]
    at: Annotated[str, Spec("When", le=40)] = ""


class UseBody(Strict):
    used: bool


class MeterBody(Strict):
    place: PlaceId
    weighting: Weighting = "A"
    response: Literal["slow", "fast"] = "slow"
    distance: Annotated[float | None, Spec("Distance", "m", 0.02, 5000)] = None


class ThermometerBody(Strict):
    unit: Annotated[str, Spec("Box", ge=1, le=64)]
    minutes: Annotated[float, Spec("After", "min", 0, 1440)]


class Celsius(Model):
    celsius: float


class ListenBody(Strict):
    """A stretch of listening, at a place or in headphones; `at` is a local time, now where it is left out."""

    what: Annotated[str, Spec("Where", ge=1, le=64)]
    level: Annotated[float, Spec("Level", "dBA", 30, 140)]
    minutes: Annotated[float, Spec("Listened", "min", 0.1, 1440)]
    at: Annotated[str, Spec("When", le=40)] = ""


class EarsQuery(Model):
    hookup: Annotated[str, Field(max_length=64)] = ""


class ThinQuery(Model):
    loud: Annotated[float, Spec("Loud", "dB", 30, 130)]
    quiet: Annotated[float, Spec("Quiet", "dB", 10, 130)]


class KnobBody(Strict):
    """Readings at positions of a knob; `reference` is the position that counts as 0 dB."""

    pairs: Annotated[tuple[Pair, ...], Spec("Readings", ge=1, le=100)]
    reference: Annotated[str, Spec("Position of 0 dB", ge=1, le=20)]
    unit: Literal["V", "dB"] = "V"


class HeatReading(Strict):
    minutes: Annotated[float, Spec("After", "min", 0.1, 1440)]
    celsius: Annotated[float, Spec("Case", "°C", -20, 300)]


class HeatBody(Strict):
    ambient: Annotated[float, Spec("Room temperature", "°C", -20, 60)]
    watts: Annotated[float, Spec("Mean heat", "W", 0.1, 5000)]
    first: HeatReading
    second: HeatReading


class AmpQuery(Model):
    """The amp whose output is looked at (the hook-up's first if empty), and its damping factor (its own if none)."""

    amp: Annotated[str, Field(max_length=64)] = ""
    damping: Annotated[float | None, Spec("Damping factor", "", 0.02, 2000)] = None


class FeelQuery(AmpQuery):
    reference: LoadId = RESISTOR


class PadQuery(AmpQuery):
    pad: Annotated[str, Spec("Attenuator", ge=1, le=64)]
    cabinet: LoadId


class CorrectionQuery(AmpQuery):
    source: LoadId
    like: LoadId


class FirQuery(CorrectionQuery):
    rate: Literal["44100", "48000", "96000"] = "48000"


class SourceQuery(Model):
    name: Annotated[str, Field(max_length=300)] = "track"


class RenderBody(Strict):
    """What to render: ids of loads, a direct track that was brought (the built-in take if empty), drive in dB."""

    choices: Annotated[tuple[LoadId, ...], Spec("Choices", ge=1, le=12)]
    source: Annotated[str, Field(max_length=80)] = ""
    drive_db: Annotated[float, Spec("Drive", "dB", -20, 40)] = 6.0
    amp: Annotated[str, Field(max_length=64)] = ""
    damping: Annotated[float | None, Spec("Damping factor", "", 0.02, 2000)] = None


class RenderLine(Model):
    """One line of a rendering: how far it is, what it made, or, where it fails half-way, why."""

    progress: RenderProgress | None = None
    rendered: Rendered | None = None
    problem: str | None = None


class NewLine(Strict):
    text: Annotated[str, Spec("Note", le=1000)]
    session: int | None = None


class LoudnessOut(Whole[LoudnessState]):
    pass


class ReadingOut(Whole[ReadingState]):
    pass


class ReadingList(Model):
    readings: tuple[ReadingState, ...]


class ShownOut(Whole[Shown]):
    pass


class EarsOut(Whole[Ears]):
    pass


class ThinOut(Whole[ThinCurve]):
    pass


class MarkList(Model):
    marks: tuple[Mark, ...]


class FitOut(Whole[Fit]):
    pass


class FeelOut(Whole[FeelState]):
    pass


class PadOut(Whole[PadSet]):
    pass


class CorrectedOut(Whole[Corrected]):
    pass


class SourceOut(Whole[Source]):
    pass


class LineList(Model):
    lines: tuple[LogLine, ...]


class LogLineOut(Whole[LogLine]):
    pass


class Problem(Model):
    """A refusal, RFC 9457 problem details. `problems` are sentences, `fields` the paths they are about."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    problems: list[str]
    fields: list[list[str | int]]
