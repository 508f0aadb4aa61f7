"""From hook-ups, places and people to what may be done when, and what it does to ears and boxes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from math import ceil

import pytest

from low_tide.core.acoustics.exposure import allowed_hours
from low_tide.core.inventory import Place
from low_tide.core.judging.judge import judge
from low_tide.core.loudness.sound_level import levels_as_set, listening_level
from low_tide.core.planning.facts import CalendarDay, Facts, Known, Through, clock_at, facts, slot_at
from low_tide.core.planning.layout import laid_out
from low_tide.core.planning.problem import ALLOWANCE, NO_SETUP, JobStretch
from low_tide.core.planning.project import Block, Day, Here, Hours, Laid, Part, Person, Project, Song, Spared
from low_tide.core.planning.reasons import reasons
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import Hookup
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.core.session.change_over import change_over
from low_tide.core.units import figure
from low_tide.core.venue.place import Limit
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS

DATE = "2026-12-03"
CLOCK = tuple((240 + 5 * slot) % 1440 for slot in range(288))


def _rig(name: str, **places: Place) -> Rig:
    return checked(HOOKUPS[name], {**GEAR, **places})


def _known(parts: Mapping[str, str], days: int = 1, schools: Preferences = Preferences(), **more: object) -> Known:  # noqa: B008
    found = {part: Through(name, name, _rig(name), _rig(name), name) for part, name in parts.items()}
    calendar = tuple(CalendarDay(f"2026-12-{3 + n:02d}", 740_000 + n, CLOCK) for n in range(days))
    known = Known(found, calendar, checked(Hookup("Nothing"), dict(GEAR)), schools)
    return replace(known, **more)  # type: ignore[arg-type]


def _project(*parts: Part, days: int = 1, people: tuple[Person, ...] = (), **day: object) -> Project:
    dates = [f"2026-12-{3 + n:02d}" for n in range(days)]
    windows = {"windows": (Hours("10:00", "23:00"),), **day}
    made = tuple(Day(date, **windows) for date in dates)  # type: ignore[arg-type]
    return Project("Fog", songs=(Song("cue", "Cue", parts),), people=people, days=made)


def _allowed(found: Facts, job: int = 0, day: int = 0) -> tuple[str, ...]:
    """From when to when a job may be under way, as the clock shows it."""
    slots, calendar, spans = found.problem.jobs[job].allowed(day), found.calendar[day], []
    for slot in range(289):
        now, before = slots >> slot & 1, slots >> slot - 1 & 1 if slot else 0
        if now != before:
            spans.append(clock_at(calendar, slot))
    return tuple(spans)


def test_a_loud_part_keeps_every_limit_and_a_silent_one_none() -> None:
    found = facts(
        _project(Part("loud", "l"), Part("silent", "s")), _known({"loud": "quiet-hold", "silent": "silent-night"})
    )
    assert _allowed(found, 0) == ("10:00", "21:00")
    assert _allowed(found, 1) == ("10:00", "23:00")
    assert [job.loud for job in found.problem.jobs] == [True, False]
    boat = next(h for h in levels_as_set(_rig("quiet-hold")) if h.place == "next-boat")
    assert f"this comes to {figure(boat.most, 2)} dBA" in found.jobs[0].rules["limit:next-boat"]


def test_a_limit_that_is_spared_on_a_day_does_not_hold_on_it() -> None:
    spared = tuple(Spared(place, Hours("21:00", "22:00")) for place in ("bunks", "next-boat"))
    found = facts(_project(Part("loud", "l"), spared=spared), _known({"loud": "quiet-hold"}))
    assert _allowed(found) == ("10:00", "22:00")


def test_where_nobody_can_say_how_loud_it_gets_it_keeps_out_of_every_limit() -> None:
    cabinet = next(unit for unit, _ in _rig("quiet-hold").cabinets())
    bare = replace(
        HOOKUPS["quiet-hold"],
        units=tuple(replace(p, room="") if p.unit == cabinet else p for p in HOOKUPS["quiet-hold"].units),
    )
    rig = checked(bare, dict(GEAR))
    known = replace(_known({}), through={"p": Through("x", "x", rig, rig)})
    found = facts(_project(Part("p", "p")), known)
    # The next boat has a limit at every hour of the day, so there is none at which it is known to be kept.
    assert _allowed(found) == ()
    assert "nobody can say how loud" in found.jobs[0].rules["limit:next-boat"]
    assert found.problem.jobs[0].loud


def test_what_is_only_said_to_be_loud_keeps_out_of_the_quieter_hours_and_says_so() -> None:
    found = facts(_project(Part("p", "p", sounds="loud"), Part("q", "q")), _known({}))
    assert _allowed(found, 0) == ("10:00", "18:00")  # the hall has a limit from then on
    assert _allowed(found, 1) == ("10:00", "23:00")
    assert found.problem.jobs[0].setup == NO_SETUP
    assert found.jobs[0].notes[0].check


def test_somebody_who_plays_is_heard_and_is_there_when_they_are_there() -> None:
    drummer = Person("d", "The drummer", 100.0, "hold", "by-the-amp", (Here(DATE, Hours("10:00", "23:00")),))
    part = Part("p", "p", people=("d",))
    found = facts(_project(part, people=(drummer,)), _known({"p": "silent-night"}))
    assert _allowed(found) == ("10:00", "21:00")
    early = replace(drummer, here=(Here(DATE, Hours("11:00", "12:30")),))
    assert _allowed(facts(_project(part, people=(early,)), _known({"p": "silent-night"}))) == ("11:00", "12:30")
    quiet = replace(drummer, level=None)
    assert _allowed(facts(_project(part, people=(quiet,)), _known({"p": "silent-night"}))) == ("10:00", "23:00")
    nowhere = replace(drummer, room="")
    assert _allowed(facts(_project(part, people=(nowhere,)), _known({"p": "silent-night"}))) == ()
    # What they play themselves is not theirs to hear less of; whoever records hears it where they sit.
    assert found.problem.jobs[0].dose[1] == 0
    assert found.problem.jobs[0].dose[0] > 0


@pytest.mark.parametrize("school", ["85_3", "90_5", "80_week"])
def test_the_share_of_the_ears_is_by_the_school_and_rounded_up(school: str) -> None:
    schools = replace(Preferences(), listening=school)  # type: ignore[arg-type]
    known = _known({"p": "tap-on-lead"}, schools=schools)
    found = facts(_project(Part("p", "p", find=10, play=50)), known)
    level, _ = listening_level(_rig("tap-on-lead"))
    assert level is not None
    assert found.problem.jobs[0].dose[0] == ceil(ALLOWANCE / allowed_hours(level, school))
    assert found.problem.span == (7 if school == "80_week" else 1)


def test_what_is_logged_leaves_less_for_the_day() -> None:
    known = _known({"p": "tap-on-lead"})
    used = replace(known, calendar=tuple(replace(day, used=0.9) for day in known.calendar))
    assert facts(_project(Part("p", "p")), used).problem.budget[0] == (10_000,)
    out = replace(known, calendar=tuple(replace(day, used=3.0) for day in known.calendar))
    assert facts(_project(Part("p", "p")), out).problem.budget[0] == (0,)


def test_what_is_done_has_used_up_what_it_was_planned_at_unless_more_is_logged() -> None:
    part = Part("p", "p", find=10, play=50)
    share = facts(_project(part), _known({"p": "tap-on-lead"})).problem.jobs[0].dose[0]
    block = Block("p", False, DATE, 72, 0, (JobStretch("play", 12),))
    done = replace(_project(replace(part, done=True)), laid=Laid((block,)))
    known = _known({"p": "tap-on-lead"})
    assert facts(done, known).problem.budget[0] == (ALLOWANCE - share,)
    logged = replace(known, calendar=tuple(replace(day, used=0.9) for day in known.calendar))
    assert facts(done, logged).problem.budget[0] == (10_000,)
    assert facts(replace(done, laid=Laid()), known).problem.budget[0] == (ALLOWANCE,)


def test_over_115_dba_is_never_planned() -> None:
    near = replace(GEAR["by-the-amp"], ears=True, distance=0.3)  # type: ignore[call-arg]
    rig = checked(HOOKUPS["tap-on-lead"], {**GEAR, "by-the-amp": near})
    known = replace(_known({}), through={"p": Through("x", "x", rig, rig)})
    found = facts(_project(Part("p", "p")), known)
    assert "over 115 dBA is never planned" in found.problem.jobs[0].never
    *_, last = laid_out(found.problem)
    assert last.placed == ()


def test_change_overs_are_those_of_the_run_sheet_and_a_morning_warms_up() -> None:
    found = facts(_project(Part("a", "a"), Part("b", "b")), _known({"a": "silent-night", "b": "quiet-hold"}))
    a, b = _rig("silent-night"), _rig("quiet-hold")
    there = change_over(a, b, True)
    way = found.problem.way(0, 1)
    assert (way.plugs, way.slots) == (there.plugs, ceil(there.minutes / 5))
    assert found.problem.way(-1, 0).plugs == sum(len(link.ends()) for link in a.hookup.links)
    same = found.problem.way(0, 0)
    assert (same.plugs, same.slots) == (0, 0)
    assert same.cold >= 1


def test_both_schools_of_choosing() -> None:
    part = Part("p", "p", find=20, play=30, choose=15)
    known = _known({"p": "silent-night"})
    commit = facts(_project(part), known)
    later = facts(replace(_project(part), school="later"), known)
    assert [[(s.doing, s.slots) for s in job.stretches] for job in commit.problem.jobs] == [[("find", 4), ("play", 6)]]
    assert [[(s.doing, s.slots) for s in job.stretches] for job in later.problem.jobs] == [
        [("play", 6)],
        [("choose", 3)],
    ]
    assert later.problem.jobs[1].after == (0,)
    played = facts(replace(_project(replace(part, done=True)), school="later"), known)
    assert [(each.choosing, job.after) for each, job in zip(played.jobs, played.problem.jobs, strict=True)] == [
        (True, ())
    ]
    chosen = facts(replace(_project(replace(part, done=True, chosen=True)), school="later"), known)
    assert chosen.jobs == ()
    assert later.problem.jobs[1].dose[0] == ceil(ALLOWANCE * 0.25 / allowed_hours(75.0, "85_3"))


def test_a_part_that_is_done_is_nothing_to_do_and_nothing_waits_for_it() -> None:
    parts = (Part("a", "a", done=True), Part("b", "b", after=("a",), double_of="a", role="double"))
    found = facts(_project(*parts), _known({"a": "silent-night", "b": "silent-night"}))
    assert [known.part for known in found.jobs] == ["b"]
    assert (found.problem.jobs[0].after, found.problem.jobs[0].main) == ((), None)


def test_why_it_cannot_go_through_its_hookup_leaves_it_out() -> None:
    known = replace(_known({}), through={"p": "Its hook-up is not there any more. Choose another."})
    found = facts(_project(Part("p", "p")), known)
    assert found.problem.jobs[0].never == "Its hook-up is not there any more. Choose another."


@pytest.mark.parametrize(("slots", "again"), [(276, False), (300, True)])
def test_a_day_on_which_the_clocks_change_has_its_own_length(slots: int, again: bool) -> None:
    """Clocks go forward from 02:00 to 03:00, or back from 03:00 to 02:00, in the night of the day before."""
    clock = []
    minute = 240
    for slot in range(slots):
        clock.append(minute % 1440)
        minute += 5
        if not again and slot == 263:  # 02:00 of the night
            minute += 60
        if again and slot == 275:  # 03:00 for the first time
            minute -= 60
    day = CalendarDay(DATE, 1, tuple(clock))
    known = replace(_known({"p": "silent-night"}), calendar=(day,))
    found = facts(_project(Part("p", "p"), windows=(Hours("22:00", "04:00"),)), known)
    window = found.problem.days[0].windows[0]
    assert window.stop - window.start == (7 if again else 5) * 12
    assert found.problem.days[0].slots == slots
    assert clock_at(day, slot_at(day, "03:30")) == "03:30"


def test_every_hour_a_limit_touches_is_closed() -> None:
    place = Place("p", "P", room="wheelhouse", limits=(Limit("12:02", "12:08", 20.0, "somebody"),))
    gear = {**{k: v for k, v in GEAR.items() if v.kind != "place"}, "p": place}
    rig = checked(HOOKUPS["quiet-hold"], gear)
    known = Known({"x": Through("x", "x", rig, rig)}, _known({}).calendar, checked(Hookup("N"), gear), Preferences())
    assert _allowed(facts(_project(Part("x", "x")), known)) == ("10:00", "12:00", "12:10", "23:00")


@pytest.mark.parametrize("name", [name for name in HOOKUPS if name != "whole-ship"])
def test_the_hours_a_part_may_be_in_are_those_the_judge_has_nothing_over_a_limit_in(name: str) -> None:
    rig = _rig(name)
    windows = (Hours("04:00", "04:00"),)
    found = facts(_project(Part("p", "p"), windows=windows), _known({"p": name}))
    allowed = found.problem.jobs[0].allowed(0)
    for slot in range(0, 288, 6):
        hour = clock_at(found.calendar[0], slot)
        occasion = replace(rig.hookup.occasion, hour=hour, hours=0.25)
        judged = judge(replace(rig, hookup=replace(rig.hookup, occasion=occasion), like=rig))
        over = [f for f in judged.findings if f.id == "over-limit" and f.severity in ("caution", "stop")]
        may = all(allowed >> each & 1 for each in range(slot, slot + 3))
        assert may == (not over), (hour, over)


def test_what_holds_a_block_is_what_would_be_broken_elsewhere() -> None:
    parts = (Part("a", "a", play=60), Part("b", "b", after=("a",)), Part("c", "c", role="double", double_of="a"))
    project = _project(*parts)
    found = facts(project, _known({"a": "quiet-hold", "b": "silent-night", "c": "quiet-hold"}))
    *_, last = laid_out(found.problem)
    said = {job: reasons(found, project, last.placed, job) for job in range(3)}
    assert any("so before 21:00" in each for each in said[0])
    assert "After Cue, a." in said[1]
    assert "Same hook-up as Cue, a before it: no lead moves." in said[2]
    assert any(each.startswith("Set up for it:") for each in said[1])
