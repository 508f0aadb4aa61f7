"""Where signal goes: from guitars and tracks through pedals, amps, loads, microphones, to what is recorded.

A directed graph over ends: sockets, the power stage inside an amp (`STAGE`), the track behind an input. Its
edges are transfers inside units, leads, and what a power stage drives through the speaker network.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from low_tide.core.circuit.network import Network
from low_tide.core.gear.base import STAGE, Transfer
from low_tide.core.gear.interface import track
from low_tide.core.inventory import Interface
from low_tide.core.power.speaker_network import Output, nominal_network, outputs
from low_tide.core.rig.hookup import End, Link
from low_tide.core.rig.kept import kept
from low_tide.core.rig.rig import Rig

MOST_ROUTES = 64
"""Ways from one end to another that are followed; a hook-up with more is not told apart further."""


@dataclass(frozen=True)
class Edge:
    """One step of the signal: inside a unit (`transfer`), along a lead (`link`), or from a power stage (`output`)."""

    a: End
    b: End
    transfer: Transfer | None = None
    link: Link | None = None
    output: Output | None = None


@dataclass(frozen=True)
class Route:
    """A way through the hook-up, edge after edge."""

    edges: tuple[Edge, ...]

    @property
    def ends(self) -> tuple[End, ...]:
        """Ends it passes, in order."""
        return (self.edges[0].a, *(e.b for e in self.edges)) if self.edges else ()

    def transfers(self) -> Iterator[tuple[str, Transfer]]:
        """Transfers on the way, each with its unit."""
        return ((e.a.unit, e.transfer) for e in self.edges if e.transfer)

    def units(self) -> tuple[str, ...]:
        """Units it passes, each once."""
        return tuple(dict.fromkeys(end.unit for end in self.ends))

    def leads(self) -> tuple[str, ...]:
        """Leads it takes."""
        return tuple(e.link.lead for e in self.edges if e.link)


@dataclass(frozen=True)
class SignalGraph:
    """The edges of a rig's signal paths."""

    rig: Rig

    @cached_property
    def network(self) -> Network:
        """The nominal speaker network, over which power stages drive what hangs on them."""
        return nominal_network(self.rig)

    @cached_property
    def edges(self) -> tuple[Edge, ...]:
        """All steps of the signal: inside units, along leads, from power stages."""
        return (*self._inside(), *self._leads(), *self._driven())

    def _inside(self) -> Iterator[Edge]:
        for unit, gear in self.rig.units():
            for transfer in gear.transfers(self.rig.site(unit)):
                yield Edge(End(unit, transfer.a), End(unit, transfer.b), transfer=transfer)

    def _leads(self) -> Iterator[Edge]:
        for link in self.rig.hookup.links:
            if link.b is None:
                continue
            for a, b in ((link.a, link.b), (link.b, link.a)):
                out, into = self.rig.socket(a), self.rig.socket(b)
                # Speaker leads belong to the network: what they drive is found there.
                # Digital leads carry no level: what comes by them is not followed.
                if "digital" in (out.level, into.level):
                    continue
                if out.flow == "out" and into.flow == "in" and not (out.level == into.level == "speaker"):
                    yield Edge(a, b, link=link)

    def _driven(self) -> Iterator[Edge]:
        for output in outputs(self.rig):
            reach = self.network.connected(output.node)
            for unit, gear in self.rig.units():
                for socket in gear.sockets():
                    node = self.network.find(f"{unit}.{socket.id}")
                    if socket.flow == "in" and socket.level == "speaker" and node in reach:
                        yield Edge(End(output.amp, STAGE), End(unit, socket.id), output=output)

    @cached_property
    def _from(self) -> dict[End, tuple[Edge, ...]]:
        found: dict[End, list[Edge]] = {}
        for edge in self.edges:
            found.setdefault(edge.a, []).append(edge)
        return {end: tuple(edges) for end, edges in found.items()}

    @cached_property
    def _into(self) -> dict[End, tuple[Edge, ...]]:
        found: dict[End, list[Edge]] = {}
        for edge in self.edges:
            found.setdefault(edge.b, []).append(edge)
        return {end: tuple(edges) for end, edges in found.items()}

    def into(self, end: End) -> tuple[Edge, ...]:
        """Edges that end here."""
        return self._into.get(end, ())

    def routes(self, start: End, goal: End) -> tuple[Route, ...]:
        """Ways from `start` to `goal` that pass no end twice, at most `MOST_ROUTES`."""
        found: list[Route] = []
        upstream = self.upstream(goal)

        def walk(at: End, path: tuple[Edge, ...], seen: frozenset[End]) -> None:
            if len(found) >= MOST_ROUTES:
                return
            if at == goal:
                found.append(Route(path))
                return
            for edge in self._from.get(at, ()):
                if edge.b not in seen and edge.b in upstream:
                    walk(edge.b, (*path, edge), seen | {edge.b})

        walk(start, (), frozenset({start}))
        return tuple(found)

    def upstream(self, end: End) -> frozenset[End]:
        """Every end whose signal arrives at `end`, itself included."""
        if end not in self._upstream:
            self._upstream[end] = self._found_upstream(end)
        return self._upstream[end]

    @cached_property
    def _upstream(self) -> dict[End, frozenset[End]]:
        return {}

    def _found_upstream(self, end: End) -> frozenset[End]:
        reach, todo = {end}, [end]
        while todo:
            for edge in self.into(todo.pop()):
                if edge.a not in reach:
                    reach.add(edge.a)
                    todo.append(edge.a)
        return frozenset(reach)

    def cycle(self) -> tuple[Edge, ...]:
        """Edges of a way that comes back to where it began; empty where there is none."""
        done: set[End] = set()
        for start in self._from:
            if start in done:
                continue
            path: list[Edge] = []
            on_path: dict[End, int] = {start: 0}
            stack = [(start, iter(self._from.get(start, ())))]
            while stack:
                at, edges = stack[-1]
                edge = next(edges, None)
                if edge is None:
                    stack.pop()
                    done.add(at)
                    on_path.pop(at, None)
                    if path:
                        path.pop()
                    continue
                if edge.b in on_path:
                    return (*path[on_path[edge.b] :], edge)
                if edge.b not in done:
                    path.append(edge)
                    on_path[edge.b] = len(path)
                    stack.append((edge.b, iter(self._from.get(edge.b, ()))))
        return ()

    @cached_property
    def recorded(self) -> tuple[End, ...]:
        """Interface inputs that something is plugged into."""
        return tuple(
            End(unit, socket.id)
            for unit, gear in self.rig.units()
            if isinstance(gear, Interface)
            for socket in gear.sockets()
            if socket.flow == "in" and self.into(End(unit, socket.id))
        )

    @cached_property
    def stages(self) -> tuple[End, ...]:
        """The power stages of this hook-up, as ends."""
        return tuple(dict.fromkeys(End(o.amp, STAGE) for o in outputs(self.rig)))

    @cached_property
    def takes(self) -> tuple[tuple[End, tuple[Route, ...]], ...]:
        """Each recorded input with every way that a power stage's signal takes to its track.

        Where one stage feeds another (a re-amplifier's), the way counts from the last.
        """
        found = []
        for end in self.recorded:
            goal = End(end.unit, track(end.socket))
            ways = [way for stage in self.stages for way in self.routes(stage, goal)]
            found.append((end, tuple(w for w in ways if not any(e in self.stages for e in w.ends[1:]))))
        return tuple(found)


@kept(nominal_network, outputs, "signal")
def signal_graph(rig: Rig) -> SignalGraph:
    """The signal paths of a rig."""
    return SignalGraph(rig)
