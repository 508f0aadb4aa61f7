"""What one hand may do at a socket of a hook-up that is to be mended, without a word of what comes of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from low_tide.core.finder.plugging import Proposal, between, meets, proposals
from low_tide.core.inventory import Lead
from low_tide.core.rig.changes import Change, Connect, Disconnect
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import fits

MOVED = "This plug goes to"
ROUND = "The box"


@dataclass(frozen=True)
class Act:
    """Something to do at a socket: under which heading, what, and in few words with which lead."""

    group: str
    label: str
    detail: str
    changes: tuple[Change, ...]


def acts(rig: Rig, end: End) -> tuple[Act, ...]:
    """Everything one may do at a socket with what is owned."""
    link = rig.link_at(end)
    found = [_act(p) for p in proposals(rig, end) if p.needs is None]
    if link is not None:
        found = [*found, *_moved(rig, end), *_turned_round(rig, end.unit)]
        found += [_act(p) for p in between(rig, link) if p.needs is None]
    return tuple(found)


def _act(proposal: Proposal) -> Act:
    return Act(proposal.group, proposal.label, proposal.detail, proposal.changes)


def _moved(rig: Rig, end: End) -> Iterator[Act]:
    """The plug that is here in another free socket of the hook-up."""
    link, far = rig.link_at(end), rig.far_end(end)
    if link is None or far is None or not isinstance(lead := rig.conductor(link), Lead):
        return
    for unit, gear in rig.units():
        for socket in gear.sockets():
            to = End(unit, socket.id)
            if to == end or unit == far.unit or rig.link_at(to) is not None:
                continue
            if meets(rig.socket(far), socket) and fits(lead, rig.socket(far), socket):
                changes = (Disconnect(link.lead), Connect(link.lead, far, to))
                yield Act(MOVED, f"{gear.name}, {socket.label}", f"{lead.name} from {rig.label(far)}", changes)


def _turned_round(rig: Rig, unit: str) -> Iterator[Act]:
    """The two leads at the speaker sockets of a box exchanged."""
    ends = [End(unit, s.id) for s in rig.gear[unit].sockets() if s.level == "speaker"]
    held = [(end, rig.link_at(end), rig.far_end(end)) for end in ends]
    plugged = [(end, link, far) for end, link, far in held if link is not None and far is not None]
    if len(plugged) != 2:
        return
    (one, first, a), (other, second, b) = plugged
    if not all(isinstance(rig.conductor(link), Lead) for link in (first, second)):
        return
    off = (Disconnect(first.lead), Disconnect(second.lead))
    changes = (*off, Connect(first.lead, a, other), Connect(second.lead, b, one))
    yield Act(ROUND, f"Turn {rig.name(unit)} round", "both plugs exchanged", changes)
