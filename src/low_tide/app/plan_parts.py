"""Parts brought into a project: lines of words, or a table."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from low_tide.app.errors import Invalid
from low_tide.app.plans import change, project_of, row_of
from low_tide.core.planning.changes import AddParts
from low_tide.core.planning.part_lines import ReadPart
from low_tide.core.planning.project import PlanError
from low_tide.formats.part_table import read_parts
from low_tide.store import hookups
from low_tide.store.plans import PlanRecord


def _through(read: ReadPart, by_name: Mapping[str, str]) -> ReadPart:
    """The part with its hook-up found: by its name, or by words that only one of them has."""
    said = read.through.casefold()
    if not said:
        return read
    exact = [by_name[name] for name in by_name if name.casefold() == said]
    near = [by_name[name] for name in by_name if said in name.casefold()]
    found = exact or near
    here = f"{read.song}, {read.part.name}"
    if not found:
        raise PlanError([f"{here}: there is no hook-up “{read.through}”."])
    if len(found) > 1:
        raise PlanError([f"{here}: “{read.through}” is in the names of {len(found)} hook-ups; say more of it."])
    return replace(read, part=replace(read.part, hookup=found[0]))


def add(plan_id: str, text: str, saves: int) -> PlanRecord:
    """Add parts to a project, or refuse them all with what is wrong in each line."""
    project = project_of(row_of(plan_id))
    by_name = {row.name: row.id for row in hookups.listed()}
    try:
        read = tuple(_through(each, by_name) for each in read_parts(text, [song.name for song in project.songs]))
    except PlanError as error:
        raise Invalid(*error.problems, fields=[("text",)]) from None
    if not read:
        raise Invalid("Parts: there is no line in it. A line is a song and a part: “Cue 3 lead, loud, 40 min”.")
    return change(plan_id, [AddParts(read)], saves)
