"""The bench: hook-ups with their revisions, edits, undo, what-ifs, socket choices, files."""

from __future__ import annotations

from collections import Counter, OrderedDict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from math import isfinite
from typing import Any

from low_tide.app import locker
from low_tide.app.errors import Conflict, Invalid, NotFound, SwitchedOn
from low_tide.app.locker import all_gear, new_id, numbered
from low_tide.app.picks import picked_switches
from low_tide.app.preferences import preferences
from low_tide.app.readings import known
from low_tide.app.turns import first, give_way
from low_tide.core.circuit.network import input_impedance
from low_tide.core.finder import Answer, Progress, Wish, search
from low_tide.core.finder.other_amp import OtherAmp, with_other_amps
from low_tide.core.finder.socket_options import Choice, choices, in_between, preview
from low_tide.core.finder.wished import read_down
from low_tide.core.frequency import frequency_grid
from low_tide.core.gear.base import Control, Setting, Socket
from low_tide.core.inventory import Unit
from low_tide.core.judging.checks import REGISTRY, Case
from low_tide.core.judging.findings import Finding
from low_tide.core.judging.judge import judge
from low_tide.core.judging.slips import Slip, slips
from low_tide.core.power.over_frequency import Spectra, spectra
from low_tide.core.power.shares import seen_by
from low_tide.core.power.speaker_network import real_network
from low_tide.core.presentation.analysis import Analysis, at_a_glance, with_their_fixes
from low_tide.core.presentation.layout import layout
from low_tide.core.rig.changes import Change, PutOn, apply_all, changed, describe, speaker_side
from low_tide.core.rig.hookup import MOST_SCENES, End, Hookup, HookupError
from low_tide.core.rig.known import Known
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.scenes import pedals_in_series, stands_now
from low_tide.core.rig.validation import checked
from low_tide.core.rig.worth import without_papers
from low_tide.formats.curves import write_curve_csv, write_frd, write_zma
from low_tide.formats.documents import Json, dump, keep_unknown, load_hookup, load_unit, write_hookup_file
from low_tide.formats.sentences import FormatError
from low_tide.formats.spice import write_netlist
from low_tide.store import gear as gear_records
from low_tide.store import hookups
from low_tide.store.database import database
from low_tide.store.home import now
from low_tide.store.hookups import HookupRecord, RevisionRecord


@dataclass(frozen=True)
class HookupEntry:
    """A hook-up as it is listed. `scenes`: their names; `scene`: the one it is set like now, empty for none."""

    id: str
    name: str
    severity: str
    words: str
    scenes: tuple[str, ...]
    scene: str
    is_on: bool
    updated: str


@dataclass(frozen=True)
class SocketView:
    """A socket in the picture, and the lead in it."""

    socket: Socket
    lead: str | None


@dataclass(frozen=True)
class ControlView:
    """A control in the picture, where it stands, and whether it is taped there or could be. `picked`: the position one
    has picked for what is played."""

    control: Control
    value: Setting
    taped: bool
    can_be_taped: bool
    picked: Setting | None = None


@dataclass(frozen=True)
class UnitView:
    """A unit in the picture."""

    id: str
    name: str
    kind: str
    summary: str
    column: int
    row: int
    sockets: tuple[SocketView, ...]
    controls: tuple[ControlView, ...]
    pinned: bool


@dataclass(frozen=True)
class LinkView:
    """A lead in the picture; `level` is that of its near end."""

    lead: str
    name: str
    summary: str
    construction: str
    level: str
    a: End
    b: End | None
    reach: float | None
    tight: bool


@dataclass(frozen=True)
class BenchState:
    """A hook-up on the bench, with everything computed but fixes and curves, which are asked for by themselves.

    `saves` must come back with the next edit, `revision` with a copy of what was seen. `in_series`: pedals that a
    scene may put in another order, a row each; `scenes_left`: how many may still be added. `held`: in a few words
    each, the changes that are only tried out.
    """

    id: str
    name: str
    notes: str
    saves: int
    revision: int
    is_on: bool
    undo: str | None
    redo: str | None
    units: tuple[UnitView, ...]
    links: tuple[LinkView, ...]
    in_series: tuple[tuple[str, ...], ...]
    scenes_left: int
    analysis: Analysis
    held: tuple[str, ...] = ()


def row_of(hookup_id: str) -> HookupRecord:
    """The stored hook-up; NotFound where there is none."""
    row = hookups.find(hookup_id)
    if row is None:
        raise NotFound(f"There is no hook-up “{hookup_id}”.")
    return row


def _revision(row: HookupRecord, number: int) -> RevisionRecord:
    found = hookups.revision(row.id, number)
    if found is None:
        raise NotFound(f"“{row.name}” has no revision {number}.")
    return found


def gear_for(row: HookupRecord) -> dict[str, Unit]:
    """The locker, with the gear that came pinned to this hook-up (a file, a recalled take) above it."""
    if not row.pinned:
        return dict(all_gear())
    return {**all_gear(), **{unit.id: unit for unit in (load_unit(doc) for doc in row.pinned)}}


_edits: Counter[str] = Counter()
"""How often each hook-up was edited since the program began."""

MOST_BENCHES = 24

_last: OrderedDict[str, Rig] = OrderedDict()
"""Hook-up → the rig it was last: a rig made like it takes over what did not change. Of a few, the latest."""


def _like_the_last(hookup_id: str, rig: Rig) -> Rig:
    """The same rig with what was worked out for the hook-up before and still holds."""
    rig = replace(rig, like=_last.get(hookup_id))
    _last[hookup_id] = rig
    _last.move_to_end(hookup_id)
    while len(_last) > MOST_BENCHES:
        _last.popitem(last=False)
    return rig


def rig_of(row: HookupRecord, what_is_known: Known | None = None) -> Rig:
    """The hook-up as it stands, checked, with what readings taught. Invalid says why gear edited since forbids it."""
    try:
        rig = checked(load_hookup(_revision(row, row.current).doc), gear_for(row))
    except (HookupError, FormatError) as error:
        raise Invalid(*error.problems) from None
    return _like_the_last(row.id, replace(rig, known=what_is_known or known()))


def rig_in(row: HookupRecord, scene: str) -> Rig:
    """The hook-up set as a scene says; as it stands for no scene. Invalid says why it cannot be."""
    rig = rig_of(row)
    try:
        return changed(rig, [PutOn(scene)]) if scene else rig
    except HookupError as error:
        raise Invalid(*(f"Scene: {said}" for said in error.problems), fields=[("scene",)]) from None


def rig_at(row: HookupRecord, number: int) -> Rig | None:
    """The hook-up as it was at a revision, with the gear of today; None where that no longer goes together."""
    found = hookups.revision(row.id, number)
    try:
        return replace(checked(load_hookup(found.doc), gear_for(row)), known=known()) if found else None
    except (HookupError, FormatError):
        return None


def unit_views(rig: Rig, pinned: set[str]) -> tuple[UnitView, ...]:
    """The units of a hook-up as they stand in its picture."""
    spots = {spot.unit: spot for spot in layout(rig)}
    picked = picked_switches(rig)
    found = []
    for unit, gear in rig.units():
        sockets = []
        for socket in gear.sockets():
            end = End(unit, socket.id)
            # Before a cabinet several microphones may stand: none of them is in its front, but something is there.
            link = rig.link_at(end) or next((k for k in rig.hookup.links if end in k.ends()), None)
            sockets.append(SocketView(socket, link.lead if link else None))
        controls = tuple(
            ControlView(
                c,
                rig.settings(unit)[c.id],
                rig.is_guarded(unit, c.id),
                c.can_be_taped(),
                picked.get(unit) if c.id == "curve" else None,
            )
            for c in gear.controls()
        )
        spot = spots[unit]
        found.append(
            UnitView(
                unit,
                gear.name,
                gear.kind,
                gear.summary(),
                spot.column,
                spot.row,
                tuple(sockets),
                controls,
                unit in pinned,
            )
        )
    return tuple(found)


def link_views(rig: Rig) -> tuple[LinkView, ...]:
    """The leads of a hook-up as they lie in its picture."""
    found = []
    for link in rig.hookup.links:
        conductor = rig.conductor(link)
        own = conductor.kind == "cabinet"
        found.append(
            LinkView(
                link.lead,
                f"own lead of {conductor.name}" if own else conductor.name,
                "fixed lead" if own else conductor.summary(),
                "speaker" if own else getattr(conductor, "construction", "speaker"),
                rig.socket(link.a).level,
                link.a,
                link.b,
                link.reach,
                link.tight,
            )
        )
    return tuple(found)


def _state(row: HookupRecord, rig: Rig) -> BenchState:
    current = _revision(row, row.current)
    redo = _revision(row, row.redo[-1]).label if row.redo else None
    return BenchState(
        id=row.id,
        name=rig.hookup.name,
        notes=rig.hookup.notes,
        saves=row.saves,
        revision=row.current,
        is_on=row.is_on,
        undo=None if current.parent is None else current.label,
        redo=redo,
        units=unit_views(rig, {doc["id"] for doc in row.pinned}),
        links=link_views(rig),
        in_series=pedals_in_series(rig),
        scenes_left=MOST_SCENES - len(rig.hookup.scenes),
        analysis=at_a_glance(rig, preferences()),
    )


@first()
def state(hookup_id: str) -> BenchState:
    """A hook-up as it stands, computed."""
    row = row_of(hookup_id)
    return _state(row, rig_of(row))


@dataclass(frozen=True)
class _Listed:
    """What a list says of a hook-up as it stands."""

    severity: str
    words: str
    scenes: tuple[str, ...] = ()
    scene: str = ""


_verdicts: dict[str, tuple[Any, _Listed]] = {}
"""Hook-up → what its verdict rests on, and the verdict: a list shows many, of which one or none has changed."""


def _listed(row: HookupRecord, measured: Known) -> _Listed:
    version = database.version("gear", "preference")
    rests_on = (version, row.current, row.saves, row.pinned, measured)
    kept = _verdicts.get(row.id)
    if version is not None and kept is not None and kept[0] == rests_on:
        return kept[1]
    try:
        rig = rig_of(row, measured)
        verdict, scenes = judge(rig, preferences()).verdict, rig.hookup.scenes
        now = next((scene.name for scene in scenes if stands_now(rig, scene)), "")
        found = _Listed(verdict.severity, verdict.words, tuple(scene.name for scene in scenes), now)
    except Invalid as error:
        found = _Listed("stop", error.problems[0])
    if version is not None:
        _verdicts[row.id] = rests_on, found
    return found


def listed(search: str = "") -> list[HookupEntry]:
    """Hook-ups by name, each with its verdict now; those that hold the words as they were typed come first."""
    measured, found = known(), []
    for row in hookups.listed():
        if not all(word in row.name.lower() for word in search.lower().split()):
            continue
        of = _listed(row, measured)
        found.append(HookupEntry(row.id, row.name, of.severity, of.words, of.scenes, of.scene, row.is_on, row.updated))
    return sorted(found, key=lambda entry: search.strip().lower() not in entry.name.lower())


def create(
    name: str = "New hook-up",
    hookup: Hookup | None = None,
    pinned: Sequence[Json] = (),
    id: str = "",
    raw: Json | None = None,
) -> BenchState:
    """A new hook-up, empty or as given; gear in `pinned` counts for it above the locker.

    `raw` is the plain data it was read from: fields of it that are not known here are kept.
    """
    hookup = Hookup(name=name) if hookup is None else hookup
    doc = keep_unknown(raw, dump(hookup))
    with database.atomic():
        row = HookupRecord(id or new_id(hookup.name), hookup.name, now(), pinned=tuple(pinned))
        hookups.insert(row, "new", doc)
        return _state(row, rig_of(row))


def bring_in(rig: Rig, raw: Json, name: str = "") -> BenchState:
    """A hook-up from a file. Gear that the locker has word for word is the locker's; the rest is pinned."""
    docs = {doc["id"]: doc for doc in raw["gear"]}
    with database.atomic():
        owned = all_gear()
        pinned = [
            keep_unknown(docs[u.id], dump(u))
            for u in rig.gear.values()
            if u.id not in owned or without_papers(owned[u.id]) != without_papers(u)
        ]
        called = numbered(name or rig.hookup.name, set(hookups.names().values()))
        return create(hookup=replace(rig.hookup, name=called), pinned=pinned, raw=raw["hookup"])


def _fresh(row: HookupRecord, saves: int | None) -> None:
    if saves is not None and row.saves != saves:
        raise Conflict(
            f"“{row.name}” was changed in another window. Nothing was lost: look at it as it is now,"
            " or keep your version as a copy."
        )


def _refuse_while_on(row: HookupRecord, rig: Rig, changes: Sequence[Change]) -> None:
    if not row.is_on:
        return
    case = Case(rig, preferences(), live_changes=tuple(changes))
    refused = list(REGISTRY["re-plug-live"].run(case))
    if refused:
        raise SwitchedOn(f"“{row.name}” is marked as switched on. {refused[0].reason}")


def _save(row: HookupRecord, rig: Rig, label: str) -> HookupRecord:
    before = _revision(row, row.current)
    _edits[row.id] += 1
    doc = keep_unknown(before.doc, dump(rig.hookup))
    return hookups.save(replace(row, name=rig.hookup.name, updated=now()), label, doc)


@first()
def change(hookup_id: str, changes: Sequence[Change], saves: int) -> BenchState:
    """Carry changes out together as one revision, or refuse them all."""
    with database.atomic():
        row = row_of(hookup_id)
        _fresh(row, saves)
        rig = rig_of(row)
        _refuse_while_on(row, rig, changes)
        try:
            after = changed(rig, changes)
        except HookupError as error:
            raise Invalid(*error.problems) from None
        if after.hookup != rig.hookup:
            label = describe(changes[0], rig) + (" and more" if len(changes) > 1 else "")
            row = _save(row, after, label)
        return _state(row, _like_the_last(hookup_id, after))


def copy_with(hookup_id: str, changes: Sequence[Change], revision: int) -> BenchState:
    """A hook-up of its own from the state a window saw, with its edit: what was overtaken, or a wanted copy."""
    with database.atomic():
        row = row_of(hookup_id)
        if not 1 <= revision <= row.newest:
            raise NotFound(f"“{row.name}” has no revision {revision}.")
        hookup = load_hookup(_revision(row, revision).doc)
        try:
            after = apply_all(hookup, changes, gear_for(row))
        except HookupError as error:
            raise Invalid(*error.problems) from None
        named = after.hookup.name != hookup.name
        name = after.hookup.name if named else f"{after.hookup.name} (copy)"[:120]
        return create(hookup=replace(after.hookup, name=name), pinned=row.pinned)


@first()
def step(hookup_id: str, by: int, saves: int) -> BenchState:
    """Undo (−1) or redo (+1). Nothing happens at either end."""
    with database.atomic():
        row = row_of(hookup_id)
        _fresh(row, saves)
        back = _revision(row, row.current).parent
        target = back if by < 0 else next(iter(row.redo[-1:]), None)
        if target is not None:
            before, after = (load_hookup(_revision(row, n).doc) for n in (row.current, target))
            gear = gear_for(row)
            sides = [speaker_side(checked(each, gear)) for each in (before, after)]
            if row.is_on and sides[0] != sides[1]:
                raise SwitchedOn(f"“{row.name}” is on, and this would change its speaker side. Switch off first.")
            _edits[hookup_id] += 1
            redo = (*row.redo, row.current) if by < 0 else row.redo[:-1]
            moved = replace(row, redo=redo, current=target, saves=row.saves + 1, updated=now(), name=after.name)
            hookups.update(moved)
        return state(hookup_id)


def socket_choices(hookup_id: str, end: End, held: Sequence[Change] = (), between: bool = False) -> tuple[Choice, ...]:
    """What may go into a socket, each with what would follow; with changes that are only held."""
    rig = _held(row_of(hookup_id), held)
    if not rig.knows(end):
        raise NotFound(f"There is no socket “{end.socket}” on “{end.unit}” in this hook-up.")
    if between:
        return in_between(rig, end, preferences(), _unless_overtaken(hookup_id))
    return choices(rig, end, preferences())


def other_amps(hookup_id: str, amp: str) -> tuple[OtherAmp, ...]:
    """The hook-up with each other amp that is owned in the place of one of its own. Conflict where it is edited."""
    go_on, rig = _unless_overtaken(hookup_id), rig_of(row_of(hookup_id))
    if amp not in dict(rig.amps()):
        raise NotFound(f"There is no amp “{amp}” in this hook-up.")
    return with_other_amps(rig, amp, preferences(), go_on)


@first()
def consequence(hookup_id: str, changes: Sequence[Change], held: Sequence[Change] = ()) -> tuple[str, str]:
    """Severity and sentence for changes, on top of those that are held, without making them."""
    try:
        return preview(_held(row_of(hookup_id), held), tuple(changes), preferences())
    except HookupError as error:
        raise Invalid(*error.problems) from None


@first()
def what_if(hookup_id: str, changes: Sequence[Change]) -> BenchState:
    """The hook-up as it would be with these changes, computed in full and not kept."""
    row = row_of(hookup_id)
    rig = _held(row, changes)
    return replace(_state(row, rig), held=tuple(describe(c, rig) for c in changes))


def _held(row: HookupRecord, changes: Sequence[Change]) -> Rig:
    try:
        return changed(rig_of(row), changes)
    except HookupError as error:
        raise Invalid(*error.problems) from None


@dataclass(frozen=True)
class Mended:
    """The findings of a hook-up as `saves` left it, each with the fix that mends it."""

    saves: int
    findings: tuple[Finding, ...]


def _unless_overtaken(hookup_id: str) -> Callable[[], None]:
    """What long work about a hook-up calls as it goes on: it gives way, and ends with Conflict once there was an edit,
    since nobody waits for it then."""
    began = _edits[hookup_id]

    def go_on() -> None:
        give_way()
        if _edits[hookup_id] != began:
            raise Conflict("The hook-up was changed meanwhile.")

    return go_on


def fixes(hookup_id: str, changes: Sequence[Change] = ()) -> Mended:
    """What mends each finding, tried out; with changes that are only held. Conflict where it is edited meanwhile."""
    go_on, row = _unless_overtaken(hookup_id), row_of(hookup_id)
    return Mended(row.saves, with_their_fixes(_held(row, changes), preferences(), go_on))


def curves(hookup_id: str, changes: Sequence[Change] = ()) -> Spectra:
    """What each amp sees over frequency and where its power goes, with changes that are only held."""
    return spectra(_held(row_of(hookup_id), changes))


def find(wish: Wish, now: str = "") -> Iterator[Progress | Answer]:
    """Look for hook-ups that fulfil a wish. What is read from the store is read before the search begins."""
    row = row_of(now) if now else None
    gear = all_gear()
    for gear_id, what in ((wish.amp, "amp"), (wish.cabinet, "cabinet")):
        if gear_id and (gear_id not in gear or gear[gear_id].kind != what):
            raise Invalid(f"There is no {what} “{gear_id}” in the locker.")
    if wish.down_said.strip():
        try:
            wish = replace(wish, down_db=read_down(wish.down_said))
        except ValueError as error:
            raise Invalid(str(error), fields=[("wish", "down_said")]) from None
    on_bench = load_hookup(_revision(row, row.current).doc) if row else None
    return _giving_way(search(wish, gear, preferences(), on_bench, known=known()))


def _giving_way(found: Iterator[Progress | Answer]) -> Iterator[Progress | Answer]:
    for each in found:
        give_way()
        yield each


def one_slip(hookup_id: str) -> tuple[Slip, ...]:
    """Single slips that would become stops, each with a guard. Conflict where it is edited meanwhile."""
    go_on = _unless_overtaken(hookup_id)
    return slips(rig_of(row_of(hookup_id)), preferences(), go_on)


def archive(hookup_id: str, saves: int | None = None) -> None:
    """Put a hook-up away; one that is on is refused, and one changed since `saves` (None asks for no such care)."""
    with database.atomic():
        row = row_of(hookup_id)
        _fresh(row, saves)
        if row.is_on:
            raise SwitchedOn(f"“{row.name}” is marked as switched on.")
        hookups.update(replace(row, archived=True))


def unarchive(hookup_id: str) -> BenchState:
    """Take an archived hook-up back."""
    with database.atomic():
        hookups.update(replace(row_of(hookup_id), archived=False))
        return state(hookup_id)


def documents(row: HookupRecord) -> tuple[Json, list[Json]]:
    """Plain data of the hook-up and of every unit it uses, unknown fields and all, but for papers: prices and serial
    numbers are nobody else's, and no result rests on them."""
    doc = _revision(row, row.current).doc
    pinned = {d["id"]: d for d in row.pinned}
    ids = load_hookup(doc).gear_ids()
    owned = gear_records.docs(ids)
    found = (pinned.get(i) or owned[i] for i in ids)
    return doc, [{name: value for name, value in unit.items() if name != "papers"} for unit in found]


def file_of(hookup_id: str) -> bytes:
    """The hook-up as a file with its gear."""
    return write_hookup_file(*documents(row_of(hookup_id)))


def curve_of(hookup_id: str, amp: str, to: str) -> str:
    """What an amp sees over frequency as ZMA or CSV, or the level at its jack as FRD (dB to its label)."""
    rig = rig_of(row_of(hookup_id))
    seen = next((s for s in seen_by(rig) if amp in ("", s.output.amp)), None)
    if seen is None:
        raise NotFound("There is no such amp in this hook-up.")
    if not isfinite(seen.impedance):
        raise Invalid(f"{rig.name(seen.output.amp)} has no load, so there is no curve.")
    output, frequency = seen.output, frequency_grid()
    z = input_impedance(real_network(rig, frequency), output.node)
    title = f"{rig.name(output.amp)} in {rig.hookup.name}"
    if to == "frd":
        z_out = output.tap / output.damping_factor
        return write_frd(frequency.tolist(), z / (z + z_out) * (1 + 1 / output.damping_factor), title)
    return write_curve_csv(frequency.tolist(), z) if to == "csv" else write_zma(frequency.tolist(), z, title)


def netlist_of(hookup_id: str) -> str:
    """The hook-up's real speaker network as a SPICE netlist."""
    return write_netlist(rig_of(row_of(hookup_id)))


def unpin(hookup_id: str, saves: int | None = None) -> BenchState:
    """Use the locker's record for every pinned unit it has; the others go into the locker."""
    with database.atomic():
        row = row_of(hookup_id)
        _fresh(row, saves)
        before = row.pinned
        for doc in before:
            if gear_records.find(doc["id"]) is None:
                locker.add(doc)
        hookups.unpin(row)
        return state(hookup_id)
