"""Shoot-outs: the list of recordings of one dry track, each recorded or brought back, and opened in Compare."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Annotated

from low_tide.app import bench, recorder, recordings
from low_tide.app.audition import direct_track
from low_tide.app.compared import MOST_TRACKS, Compared, ComparisonDoc, ShootOut, ShootOutItem, doc_of, row_of, save
from low_tide.app.comparison import ComparisonState, state
from low_tide.app.errors import Invalid, NotFound
from low_tide.app.log import Take, TakeNote
from low_tide.app.preferences import preferences
from low_tide.app.recorder import Recording
from low_tide.app.turns import give_way
from low_tide.core.audio.rendering import RATE
from low_tide.core.comparing.whose import whose
from low_tide.core.gear.base import Control
from low_tide.core.rig.changes import Describe, SetControl, changed
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.words import shown
from low_tide.core.session.shoot_out import MOST_IN_LIST, LoudAt, LoudWindow, ShootOutStep, plan
from low_tide.core.spec import Spec
from low_tide.formats.documents import dump
from low_tide.formats.file_names import file_name, numbered_in
from low_tide.formats.recording import read_one_channel
from low_tide.formats.sentences import FormatError
from low_tide.store import comparisons, hookups, takes, uploads
from low_tide.store.database import database
from low_tide.store.home import Home, now

LONGEST_S = 180.0
BEGIN = "Begin here: hook it up by its run sheet"
AGAIN = "Set the amp anew for this load, by ear; the level matched afterwards"


@dataclass(frozen=True)
class NewShootOut:
    """What a shoot-out is to be of: hook-ups by their ids, and one dry track.

    `set_on`: the hook-up on which the amp's controls were set. `second_pass`: each once more, the amp set anew for it.
    """

    name: Annotated[str, Spec("Name", ge=1, le=120)]
    hookups: Annotated[tuple[str, ...], Spec("Hook-ups", ge=2, le=MOST_IN_LIST)]
    set_on: Annotated[str, Spec("Controls set on", le=64)] = ""
    second_pass: bool = False
    direct: Annotated[str, Spec("Direct track", le=80)] = ""
    direct_name: Annotated[str, Spec("Direct track's name", le=200)] = ""
    seconds: Annotated[float, Spec("Length", "s", 3, LONGEST_S)] = 10.5
    drive: Annotated[float, Spec("Drive", "dB", -40, 40)] = 10.0


@dataclass(frozen=True)
class ListedRecording:
    """One line of the list: what it is called, what is done before it, what is loud in it, and what came of it.

    `stop`: why its hook-up must not be switched on as it stands now, or that it is gone; empty where it may.
    """

    number: int
    hookup: str
    name: str
    again: bool
    file_name: str
    moves: tuple[str, ...]
    loud: tuple[LoudAt, ...]
    take: int | None
    stop: str


@dataclass(frozen=True)
class ShootOutState:
    """The list as it stands. `left_out`: what must not be switched on, and why. `leads`: moved in all."""

    comparison: int
    items: tuple[ListedRecording, ...]
    loud: LoudWindow | None
    leads: int
    send: str
    left_out: tuple[str, ...]
    bias: str
    missing: int
    played: str


@dataclass(frozen=True)
class Variant:
    """A control whose positions can be held against each other, and how its positions are called."""

    unit: str
    control: str
    label: str
    positions: tuple[str, ...]


def _rig(hookup_id: str) -> Rig:
    return bench.rig_of(bench.row_of(hookup_id))


def _choices(rig: Rig) -> Iterator[tuple[str, Control]]:
    for unit, gear in rig.units():
        if gear.kind in ("amp", "load", "attenuator", "reamp", "tapbox"):
            for control in gear.controls():
                if control.kind == "choice" and 2 <= len(control.options) <= MOST_IN_LIST and control.id != "air":
                    yield unit, control


def variants(hookup_id: str) -> list[Variant]:
    """Controls of a hook-up's amps and boxes whose positions can be held against each other."""
    rig = _rig(hookup_id)
    return [
        Variant(
            unit,
            control.id,
            f"{control.label} of {rig.name(unit)}",
            tuple(shown(control, option.value) for option in control.options),
        )
        for unit, control in _choices(rig)
    ]


def vary(hookup_id: str, unit: str, control_id: str) -> list[str]:
    """A hook-up of its own for every other position of a control; the ids of all, the one that stands first."""
    with database.atomic():
        row = bench.row_of(hookup_id)
        rig = bench.rig_of(row)
        found = next((c for u, c in _choices(rig) if (u, c.id) == (unit, control_id)), None)
        if found is None:
            raise NotFound("There is no such control in this hook-up whose positions could be compared.")
        made = [hookup_id]
        for option in found.options:
            if option.value == rig.settings(unit)[control_id]:
                continue
            name = f"{row.name}, {shown(found, option.value)}"[:120]
            try:
                after = changed(rig, (SetControl(unit, control_id, option.value), Describe(name=name)))
            except HookupError as error:
                raise Invalid(*error.problems) from None
            made.append(bench.create(hookup=after.hookup, pinned=row.pinned).id)
        return made


def begin(home: Home, wanted: NewShootOut) -> ComparisonState:
    """Write the list: what must not be switched on is not on it."""
    count = len(wanted.hookups) * (2 if wanted.second_pass else 1)
    if count > MOST_TRACKS:
        raise Invalid(f"Hook-ups: at most {MOST_TRACKS} recordings are compared, this is {count} with the second pass.")
    if len(set(wanted.hookups)) < len(wanted.hookups):
        raise Invalid("Hook-ups: one of them is named twice.")
    seconds = wanted.seconds
    if wanted.direct:
        seconds = min(LONGEST_S, len(direct_track(home, wanted.direct)) / RATE)
    with database.atomic():
        rows = [bench.row_of(h) for h in wanted.hookups]
        rigs = [bench.rig_of(row) for row in rows]
        made = plan(rigs, seconds, preferences())
        if len(made.steps) < 2:
            raise Invalid("Hook-ups: fewer than two of them may be switched on; clear their stops on the Bench first.")
        passes = (False, True) if wanted.second_pass else (False,)
        items = tuple(ShootOutItem(rows[step.which].id, again) for step in made.steps for again in passes)
        left_out = tuple(f"{rows[n].name}: {why}" for n, why in made.left_out)
        listed = ShootOut(items, wanted.set_on, wanted.direct, wanted.direct_name, seconds, wanted.drive, left_out)
        number = comparisons.insert(wanted.name.strip(), dump(ComparisonDoc(shoot_out=listed)), now())
    return state(home, number)


def _listed(doc: ComparisonDoc) -> ShootOut:
    if doc.shoot_out is None:
        raise NotFound("This comparison has no list of recordings.")
    return doc.shoot_out


def list_of(home: Home, comparison_id: int) -> ShootOutState:
    """The list as it stands, with the moves between hook-ups as they are now."""
    doc = doc_of(row_of(comparison_id))
    listed = _listed(doc)
    there = takes.some([i.take for i in listed.items if i.take is not None])
    found = {i: hookups.find(i) for i in dict.fromkeys(item.hookup for item in listed.items)}
    standing = [i for i, row in found.items() if row is not None and not row.archived]
    made = plan([_rig(i) for i in standing], listed.seconds, preferences(), as_given=True)
    stops = {standing[n]: why for n, why in made.left_out}
    stops |= {i: "This hook-up was put away or is gone." for i in found if i not in standing}
    by_hookup = {standing[step.which]: step for step in made.steps}
    if made.steps:
        by_hookup[standing[made.steps[0].which]] = replace(made.steps[0], moves=(BEGIN,))
    items = tuple(
        _line(n, item, by_hookup.get(item.hookup), found, there, stops) for n, item in enumerate(listed.items, 1)
    )
    return ShootOutState(
        comparison_id,
        items,
        made.loud,
        made.leads,
        made.send,
        listed.left_out,
        state(home, comparison_id).bias,
        sum(item.take is None for item in items),
        listed.direct_name or ("a direct track" if listed.direct else "the built-in take"),
    )


def _line(
    number: int,
    item: ShootOutItem,
    step: ShootOutStep | None,
    found: dict[str, hookups.HookupRecord | None],
    there: dict[int, takes.TakeRecord],
    stops: dict[str, str],
) -> ListedRecording:
    row = found[item.hookup]
    name = row.name if row else "a hook-up that was deleted"
    called = f"{name}, set anew" if item.again else name
    moves = (AGAIN,) if item.again else (step.moves if step else ())
    take = item.take if item.take in there else None
    loud = step.loud if step else ()
    stop = stops.get(item.hookup, "")
    return ListedRecording(
        number, item.hookup, called, item.again, file_name(number, called), () if stop else moves, loud, take, stop
    )


def _missing(listed: ShootOut) -> list[int]:
    there = takes.some([i.take for i in listed.items if i.take is not None])
    return [n for n, item in enumerate(listed.items) if item.take not in there]


def came(comparison_id: int, place: int, take: Take) -> None:
    """A recording of the list is there: it joins the comparison, in the list's order."""
    with database.atomic():
        row = row_of(comparison_id)
        doc = doc_of(row)
        listed = _listed(doc)
        items = tuple(replace(item, take=take.id) if n == place else item for n, item in enumerate(listed.items))
        # What the amp was set on is what the others are held against; the rest in the list's order.
        there = sorted((i for i in items if i.take is not None), key=lambda i: i.hookup != listed.set_on or i.again)
        of_list = [i.take for i in there]
        others = [t for t in doc.tracks if t.take is None or t.take not in of_list]
        tracks = (*(Compared(number) for number in of_list), *others)[:MOST_TRACKS]
        save(row, replace(doc, tracks=tracks, shoot_out=replace(listed, items=items)))


def _note(name: str, item: ListedRecording) -> TakeNote:
    return TakeNote(f"{name}, {item.name}"[:120], notes=f"{item.number} of a shoot-out.")


def _recording(listed: ShootOut, note: TakeNote) -> Recording:
    return Recording(
        note,
        source="direct" if listed.direct else "built-in",
        direct=listed.direct,
        seconds=min(listed.seconds, LONGEST_S),
        drive=listed.drive,
    )


def record(home: Home, comparison_id: int) -> Iterator[tuple[str, float] | ComparisonState]:
    """What is missing of the list through the simulated interface; what each is called and the part that is done."""
    with database.connection_context():
        row = row_of(comparison_id)
        listed = _listed(doc_of(row))
        lines = list_of(home, comparison_id).items
        missing = _missing(listed)
        for done, place in enumerate(missing):
            line = lines[place]
            for step in recorder.record(home, line.hookup, _recording(listed, _note(row.name, line))):
                if isinstance(step, Take):
                    came(comparison_id, place, step)
                else:
                    yield line.name, (done + step) / len(missing)
        yield state(home, comparison_id)


def _by_content(home: Home, listed: ShootOut, lines: Sequence[ListedRecording], upload: str) -> int | None:
    """Which of those that are missing sounds like this file, by what each is expected to sound like."""
    path, size = uploads.uploaded(home, upload)
    if path.stat().st_size < size:
        return None
    try:
        samples, _ = read_one_channel(path)
    except FormatError:
        return None  # what is wrong with it is told when it is brought in
    missing = [n for n in _missing(listed) if not listed.items[n].again]
    sounds, places = [], []
    for place in missing:
        sound = recorder.expected_sound(home, _rig(lines[place].hookup), _recording(listed, _note("", lines[place])))
        if sound is not None:
            sounds.append(sound)
            places.append(place)
        give_way()
    found = whose(samples, sounds)
    return None if found is None else places[found]


def bring(
    home: Home, comparison_id: int, upload: str, name: str, number: int | None = None
) -> Iterator[float | ComparisonState]:
    """A recording of the list made elsewhere, by its number or its file's name, as a take of its hook-up."""
    with database.connection_context():
        row = row_of(comparison_id)
        lines = list_of(home, comparison_id).items
        place = number - 1 if number else numbered_in(name, ((line.number - 1, line.file_name) for line in lines))
        if place is None:
            place = _by_content(home, _listed(doc_of(row)), lines, upload)
        if place is None or not 0 <= place < len(lines):
            raise Invalid(
                f"“{name[:80]}”: its name is that of none on the list, and its sound fits none of them, or several as"
                " well. Say which one it is."
            )
        line = lines[place]
        made: Take | None = None
        for step in recordings.bring(home, upload, name, line.hookup, dump(_note(row.name, line))):
            if isinstance(step, Take):
                made = step
            else:
                yield step
        if made is not None:
            came(comparison_id, place, made)
        yield state(home, comparison_id)
