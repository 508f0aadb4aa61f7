"""Bodies, queries and answers of the API. Answers are the use cases' own values, wrapped, not written again."""

from __future__ import annotations

from typing import Annotated, Any, Generic, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, RootModel

from low_tide.app.bench import BenchState, HookupEntry
from low_tide.app.locker import Imported, LockerEntry
from low_tide.app.log import Session, Take, TakeNote, TakePage
from low_tide.app.running import RunState
from low_tide.core.amplifier import Readings, TwoReading
from low_tide.core.choices import Choice
from low_tide.core.hookup import End, Hookup
from low_tide.core.planner import Answer, GoalInfo, Progress, Wish
from low_tide.core.preferences import Preferences
from low_tide.core.slips import Slip
from low_tide.core.spectra import Spectra
from low_tide.formats.curves import ReadCurve
from low_tide.formats.documents import ChangeDoc

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
    """A kind of gear: its names, and the JSON Schema its form is drawn from."""

    kind: str
    name: str
    plural: str
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


class Problem(Model):
    """A refusal, RFC 9457 problem details. `problems` are sentences, `fields` the paths they are about."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    problems: list[str]
    fields: list[list[str | int]]
