"""Parts from lines and tables, and what a project may be."""

from __future__ import annotations

from dataclasses import replace

import pytest

from low_tide.core.planning.changes import (
    AddParts,
    CopySong,
    DropParts,
    DropPerson,
    MovePart,
    PinBlock,
    ProjectChange,
    RenameSong,
    SetDay,
    SetPart,
    SetPerson,
    changed,
    describe,
)
from low_tide.core.planning.part_lines import read_line, read_lines
from low_tide.core.planning.progress import by_role, first_to_go
from low_tide.core.planning.project import Day, Here, Hours, Part, Person, Pin, PlanError, Project, Spared
from low_tide.formats.part_table import parts_csv, read_parts

DAY = Day("2026-12-03")


EMPTY = Project("Fog", days=(DAY,))


def _project(text: str, project: Project = EMPTY) -> Project:
    return changed(project, [AddParts(read_lines(text, [song.name for song in project.songs]))])


def _part(project: Project, part_id: str) -> Part:
    return project.part(part_id)[1]


@pytest.mark.parametrize(
    ("line", "song", "name", "role", "more"),
    [
        ("Cue 3 lead, loud, 40 min", "Cue 3", "lead", "lead", {"sounds": "loud", "play": 40, "find": 15}),
        ("Cue 3 main left, 10 + 45 min, must", "Cue 3", "main left", "main", {"find": 10, "play": 45, "must": True}),
        ("Low bells: answer, silent, pan 30 left", "Low bells", "answer", "other", {"sounds": "silent", "pan": -30}),
        (
            "Cue 1 double, tails before on purpose",
            "Cue 1",
            "double",
            "double",
            {"tails": "before_on_purpose", "find": 0},
        ),
        (
            "Cue 1 guide, tuning B standard, panned right",
            "Cue 1",
            "guide",
            "guide",
            {"tuning": "B standard", "pan": 100},
        ),
    ],
)
def test_a_line_is_read(line: str, song: str, name: str, role: str, more: dict[str, object]) -> None:
    read = read_line(line)
    assert (read.song, read.part.name, read.part.role) == (song, name, role)
    assert {key: getattr(read.part, key) for key in more} == more


def test_a_known_song_ends_where_it_ends() -> None:
    assert read_line("Fog main theme strings", ["Fog main theme"]).part.name == "strings"
    assert read_line("Fog main theme strings").song == "Fog"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("Cue 3 lead, very loud", "Line 1: “very loud” is not understood. A line is the song"),
        ("Strings", "Line 1: “Strings”: where does the song end?"),
        ("Cue 3 lead\nCue 3 lead, 0 min", "Line 2: minutes: 1 to 720"),
        ("Cue 3 lead, pan 130 left", "Line 1: pan: 130 is over the most, 100."),
        ("\n".join(["Cue 3 lead"] * 5000), "Parts: 5000 lines are over the most at one time, 400."),
        (f"{'x' * 90} lead", "Line 1: the song’s name has 90 letters; 80 is the most."),
    ],
)
def test_a_line_that_is_none_says_so(text: str, said: str) -> None:
    with pytest.raises(PlanError) as refused:
        read_parts(text)
    assert any(problem.startswith(said) for problem in refused.value.problems), refused.value.problems


def test_what_a_line_names_is_found_or_refused_with_what_there_is() -> None:
    drummer = Person("d", "The drummer")
    project = _project(
        "Cue 1 main\nCue 1 lead, after main\nCue 2 main, after Cue 1 lead, with the drummer",
        Project("Fog", people=(drummer,), days=(DAY,)),
    )
    assert _part(project, "cue-1-lead").after == ("cue-1-main",)
    assert _part(project, "cue-2-main").after == ("cue-1-lead",)
    assert _part(project, "cue-2-main").people == ("d",)
    for line, said in (
        ("Cue 1 harmony, after bells", "there is no part “bells” to come after or to double; there is “main”, “lead”"),
        ("Cue 1 harmony, with the cook", "with “the cook” is nobody of this project; there is “The drummer”"),
    ):
        with pytest.raises(PlanError, match=said):
            _project(line, project)


def test_a_table_goes_out_and_comes_in_the_same() -> None:
    project = _project(
        "Cue 1 main, 20 + 40 min, must, pan 40 left, guitar =SUM, tails before on purpose\n"
        "Cue 1 double, double of main\nCue 2 lead, loud, after Cue 1 main"
    )
    project = changed(
        project, [SetPart(replace(_part(project, "cue-2-lead"), hookup="quiet", sounds="", notes="-3 dB"))]
    )
    text = parts_csv(project, lambda hookup: hookup.title())
    assert "'=SUM" in text
    again = changed(Project("Fog", days=(DAY,)), [AddParts(read_parts(text))])
    assert again.songs == changed(project, [SetPart(replace(_part(project, "cue-2-lead"), hookup=""))]).songs
    assert [read.through for read in read_parts(text)] == ["", "", "Quiet"]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("song;part;key\nCue 1;main;E", "Columns: “key” is none of song, part"),
        ("song,part,role\nCue 1,main,bass", "Line 2: role: “bass” is none of main"),
        ('song,part,"play, min"\nCue 1,main,long', "Line 2: play, min: “long” is no whole number."),
        ('song,part,"play, min"\nCue 1,main,9000', "720"),
        ("song,part\n,main", "Line 2: a song and a part are wanted."),
    ],
)
def test_a_table_that_is_none_says_where(text: str, said: str) -> None:
    with pytest.raises(PlanError) as refused:
        read_parts(text)
    assert said in " ".join(refused.value.problems)


def test_cells_of_a_spreadsheet_are_pasted() -> None:
    first, second = read_parts("Cue 1\tmain\t40 min\tmust\nCue 1\tlow bells\t\tsilent")
    assert (first.part.play, first.part.must) == (40, True)
    assert (second.song, second.part.name, second.part.sounds) == ("Cue 1", "low bells", "silent")


BOTH = "Cue 1 main\nCue 1 double, double of main\nCue 1 lead, after main"


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (
            SetDay(Day("2026-12-04", (Hours("10:00", "14:00"), Hours("13:00", "18:00")))),
            "10:00 to 14:00 and 13:00 to 18:00 overlap",
        ),
        (SetDay(Day("2026-12-04", (Hours("10:00", "09:00"),))), "it ends at 09:00, before it begins at 10:00"),
        (SetDay(Day("2026-12-04", spared=(Spared("p", Hours("12:00", "12:00")),))), "limit spared: it ends at 12:00"),
        (
            SetPerson(Person("d", "D", here=(Here("2026-12-03", Hours("18:00", "17:00")),))),
            "D, there on Thu 3 Dec: it ends at",
        ),
        (SetPart(Part("cue-1-main", "main", after=("cue-1-main",))), "Cue 1, main: it cannot come after itself."),
        (SetPart(Part("cue-1-main", "main", after=("cue-1-lead",))), "round in a circle"),
        (SetPart(Part("cue-1-lead", "lead", double_of="cue-1-double")), "it is a double of a double"),
        (SetPart(Part("cue-1-lead", "lead", people=("nobody",))), "“nobody” is nobody of this project"),
        (SetPart(Part("gone", "gone")), "This part is not in the project any more."),
        (PinBlock(Pin("cue-1-main", False, "2026-12-24", "10:00")), "2026-12-24: this day is not in the project."),
        (RenameSong("cue-9", "x"), "This song is not in the project any more."),
    ],
)
def test_what_a_project_cannot_be_is_refused_in_a_sentence(change: ProjectChange, said: str) -> None:
    with pytest.raises(PlanError) as refused:
        changed(_project(BOTH), [change])
    assert said in " ".join(refused.value.problems)


def test_a_night_belongs_to_its_day() -> None:
    assert (
        changed(_project(BOTH), [SetDay(Day("2026-12-04", (Hours("22:00", "03:30"),)))]).days[1].windows[0].end
        == "03:30"
    )


def test_what_is_taken_out_is_let_go_of() -> None:
    project = changed(_project(BOTH), [PinBlock(Pin("cue-1-main", False, DAY.date, "10:00"))])
    after = changed(project, [DropParts(("cue-1-main",))])
    assert [part.id for _, part in after.parts()] == ["cue-1-double", "cue-1-lead"]
    assert _part(after, "cue-1-double").double_of == ""
    assert _part(after, "cue-1-lead").after == ()
    assert after.pins == ()
    people = changed(
        project, [SetPerson(Person("d", "D")), SetPart(replace(_part(project, "cue-1-lead"), people=("d",)))]
    )
    assert _part(changed(people, [DropPerson("d")]), "cue-1-lead").people == ()
    assert changed(project, [DropParts(("cue-1-main", "cue-1-double", "cue-1-lead"))]).songs == ()


def test_a_song_is_copied_with_what_belongs_together() -> None:
    project = _project(BOTH)
    project = changed(
        project, [SetPart(replace(_part(project, "cue-1-main"), done=True, took=50)), CopySong("cue-1", "Cue 7")]
    )
    assert _part(project, "cue-7-double").double_of == "cue-7-main"
    assert _part(project, "cue-7-lead").after == ("cue-7-main",)
    assert (_part(project, "cue-7-main").done, _part(project, "cue-7-main").took) == (None, None)


def test_a_part_moves_among_its_own_and_every_change_has_a_name() -> None:
    project = changed(_project(BOTH), [MovePart("cue-1-lead", "cue-1-main")])
    assert [part.name for _, part in project.parts()] == ["lead", "main", "double"]
    assert describe(project, MovePart("cue-1-lead")) == "Move Cue 1, lead"
    assert describe(project, DropParts(("cue-1-lead", "cue-1-main"))) == "Take out 2 parts"


def test_what_two_of_a_role_took_tells_of_the_others() -> None:
    project = _project("A lead, 10+30 min\nB lead, 10+30 min\nC lead\nA main\nA double, double of main")
    for part_id, took in (("a-lead", 52), ("b-lead", 60)):
        project = changed(project, [SetPart(replace(_part(project, part_id), done=True, took=took))])
    assert by_role(project) == {"lead": pytest.approx(1.4)}
    assert first_to_go(project) == ("a-double", "c-lead", "a-main")
