"""What is to be recorded aboard the lightship: six cues over four days, with a drummer on one morning."""

from __future__ import annotations

from datetime import date, timedelta

from low_tide.app import plan_parts, plan_work, plans
from low_tide.core.planning.project import Day, Here, Hours, Person, Project, Spared

LINES = """\
Cue 1 guide, 25 min, through loaded and re-amplified, with The drummer, must
Cue 1 main, 20 + 60 min, through silent after 21:00, after guide, must, pan 40 left
Cue 1 double, 40 min, through silent after 21:00, double of main, pan 40 right
Cue 2 main, 20 + 60 min, through quiet in the hold, must
Cue 2 double, 40 min, through quiet in the hold, double of main
Cue 2 lead, 10 + 45 min, through quiet in the hold, after main, guitar Bosun's guitar
Cue 3 guide, 30 min, through loaded and re-amplified, with The drummer, must
Cue 3 main, 20 + 75 min, through cabinet in the chart cupboard, after guide, must
Cue 3 double, 45 min, through cabinet in the chart cupboard, double of main
Cue 4 lead, 15 + 50 min, through pedals in front, scene Answer
Cue 4 harmony, 35 min, through pedals in front, scene Under the voice, after lead
Cue 5 main, 15 + 60 min, through turned down in the loop, must
Cue 5 double, 40 min, through turned down in the loop, double of main
Cue 5 lead, 10 + 40 min, through real cabinet and a tap, after main
Cue 6 main, 20 + 75 min, through stereo reverb after the load, must, tuning B standard
Cue 6 double, 40 min, through stereo reverb after the load, double of main
"""


def begins() -> date:
    """The first day of it: the day after tomorrow."""
    return date.today() + timedelta(days=2)


def project() -> Project:
    """The project without its parts."""
    dates = [(begins() + timedelta(days=n)).isoformat() for n in range(4)]
    drummer = Person("drummer", "The drummer", 98.0, "hold", "by-the-amp", (Here(dates[0], Hours("10:00", "13:00")),))
    fest = Spared("next-boat", Hours("16:00", "19:00"))
    return Project(
        "Fog Signal",
        people=(drummer,),
        days=(
            Day(dates[0], (Hours("10:00", "14:00"), Hours("20:00", "23:30")), "drummer 10 to 13"),
            Day(dates[1], (Hours("10:00", "17:00"),)),
            Day(dates[2], (Hours("14:00", "22:30"),), "harbour fest, loud from 16:00", (fest,)),
            Day(dates[3], (Hours("17:00", "23:00"),), "from 17:00"),
        ),
    )


def lay_out() -> None:
    """Write the project down and lay it out, as far as a few seconds get."""
    row = plans.create(project())
    row = plan_parts.add(row.id, LINES, row.saves)
    plan_work.lay_out_now(row.id)
