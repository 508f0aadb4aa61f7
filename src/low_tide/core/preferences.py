"""Where practitioners differ: the schools a user chooses between. The first of each is the default."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, TypeAlias

from low_tide.core.spec import Spec

MatchSchool: TypeAlias = Literal["exact", "one_step_high", "either_way"]
ListeningSchool: TypeAlias = Literal["85_3", "90_5", "80_week"]
LoadSchool: TypeAlias = Literal["reactive", "resistive"]
MarginSchool: TypeAlias = Literal["one_and_a_half", "label", "double"]

MATCH_NAMES: dict[str, str] = {
    "exact": "match the tap",
    "one_step_high": "a load one step (2:1) higher is accepted",
    "either_way": "one step either way is accepted",
}
MARGIN_NAMES: dict[str, str] = {
    "one_and_a_half": "1.5 × the amp's label",
    "label": "the amp's label is enough",
    "double": "twice the amp's label",
}
LISTENING_NAMES: dict[str, str] = {
    "85_3": "85 dBA for 8 h, halved every 3 dB",
    "90_5": "90 dBA for 8 h, halved every 5 dB (a legal limit, not a safe level)",
    "80_week": "80 dBA for 40 h a week, halved every 3 dB",
}
LOAD_NAMES: dict[str, str] = {
    "reactive": "reactive: the amp's output rises as a speaker would have it",
    "resistive": "resistive, and equalised after the fact",
}
MARGINS: dict[str, float] = {"one_and_a_half": 1.5, "label": 1.0, "double": 2.0}


@dataclass(frozen=True)
class LevelMark:
    """A level one knows by ear, dBA."""

    name: Annotated[str, Spec("Mark", ge=1, le=40)]
    level: Annotated[float, Spec("Level", "dBA", 0, 140)]


@dataclass(frozen=True)
class Preferences:
    """The user's schools. None of them turns a stop for no load, over the rating or speaker level off."""

    match: Annotated[MatchSchool, Spec("Impedance match", names=MATCH_NAMES)] = "exact"
    margin: Annotated[MarginSchool, Spec("A load should stand", names=MARGIN_NAMES)] = "one_and_a_half"
    listening: Annotated[ListeningSchool, Spec("Listening limit", names=LISTENING_NAMES)] = "85_3"
    load: Annotated[LoadSchool, Spec("A load is", names=LOAD_NAMES)] = "reactive"
    marks: Annotated[tuple[LevelMark, ...], Spec("Own marks of loudness", le=12)] = ()
    currency: Annotated[str, Spec("Prices are in", ge=1, le=8)] = "EUR"
    session_name: Annotated[str, Spec("Session shown above", le=80)] = ""
