"""Owns which terminals are joined directly: the chain of each potential. Must not know lengths or routes."""

from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import replace
from itertools import pairwise
from typing import Any

from riktig.catalogue.model import CONSUMER_KINDS, CONTACT_KINDS, ElementKind
from riktig.job.entries import WirePlace
from riktig.job.ids import TerminalId
from riktig.job.ledger import Choice, Choices
from riktig.pipeline.rows import by_row
from riktig.plan.basis.union import UnionFind
from riktig.plan.circuit.model import DOOR, EARTH_BAR, PLATE
from riktig.plan.circuit.zones import INCOMING, device_of, is_drop, mark_of
from riktig.plan.net.runs import Runs, zone_of_run
from riktig.plan.net.strips import Clamp
from riktig.plan.wiring.capacities import BarClamps, Bars, Capacities
from riktig.plan.wiring.links import HINGE, Link, Means, where_between
from riktig.plan.wiring.shortest import join_shortest
from riktig.plan.wiring.sites import Site, leads_on

BRIDGE_POLES = 10
"""Terminals that one bridge joins at most (common practice, no source)."""
_CHAINED = CONSUMER_KINDS - {ElementKind.PRIMARY, ElementKind.WINDING} | CONTACT_KINDS
Held = tuple[TerminalId, TerminalId, Choice[WirePlace]]
"""A link of the ledger: its two terminals, and who holds it."""
Lengths = Callable[[str, str, list[TerminalId]], Any]
"""Number, zone and terminals -> mm between each two, n x n, or None where they are not known."""


def allocate_links(
    sites: Mapping[str, Site], bars: Bars, kept: Choices, lengths: Lengths | None = None
) -> tuple[Link, ...]:
    """Return all direct joins: every potential connected, each clamp within its limit as far as one can be.

    Links in the ledger stay while both of their terminals are still on one potential and, where nobody holds them, take them; what is not
    yet connected is chained in drawing order, or with `lengths` by the shortest tree, where these are known. The clamps of bars and blocks
    are taken of `bars`.
    """
    index: defaultdict[str, list[tuple[TerminalId, TerminalId, Choice[WirePlace]]]] = defaultdict(list)
    for choice in kept.values():
        a, b = choice.value.ends
        index[a].append((a, b, choice))
    links: list[Link] = []
    for number, site in sites.items():
        held = tuple(row for end in site.ends for row in index.get(end, ()))
        if site.is_earth:
            links.extend(_Chain(site, held, bars.earth, None).build())
        else:
            block = bars.of(site.potential)
            clamps = (block.bar, tuple(block.labels.items())) if block is not None else None
            made, used = _chained(number, site, held, clamps, lengths)
            if block is not None:
                block.take(used)
            links.extend(made)
    return tuple(links)


@by_row
def _chained(
    _: str,
    site: Site,
    held: tuple[Held, ...],
    clamps: tuple[str, tuple[tuple[str, str], ...]] | None,
    lengths: Lengths | None,
) -> tuple[tuple[Link, ...], Mapping[str, TerminalId]]:
    """Return the links of a potential that is not earth, and the clamps of its block that they take, if it has one."""
    block = BarClamps(*clamps) if clamps is not None else None
    made = tuple(_Chain(site, held, block, lengths).build())
    return made, block.used if block is not None else {}


def _rank(zone: str) -> int:
    """Order the zones from the plate outward."""
    return {PLATE: 0, DOOR: 1}.get(zone, 2)


_MEANS = tuple(Means)


def _end_key(terminal: TerminalId, place: Mapping[TerminalId, tuple[int, int]]) -> tuple[int, int]:
    """Return what orders ends: clamps of a bar or block first, then as they stand in the drawing, from the plate outward."""
    return place.get(terminal) or (-1, int(mark_of(terminal)))


def _turned(link: Link, place: Mapping[TerminalId, tuple[int, int]]) -> Link:
    """Return a wire that leads from its first end to its second; what comes with the parts lies as it is made."""
    if not link.is_wired or _end_key(link.a, place) <= _end_key(link.b, place):
        return link
    return replace(link, a=link.b, b=link.a)


def _order(link: Link, place: Mapping[TerminalId, tuple[int, int]]) -> tuple[tuple[int, int], tuple[int, int], int]:
    return _end_key(link.a, place), _end_key(link.b, place), _MEANS.index(link.means)


class _Chain:
    """Builds the links of one potential; `bar` is the earth bar, or the block that distributes it."""

    def __init__(self, site: Site, kept: tuple[Held, ...], bar: BarClamps | None, lengths: Lengths | None) -> None:
        self._number = site.potential.number
        self._is_earth = site.is_earth
        self._parted = dict(site.zones)
        self._clamps = site.clamps
        self._parts = site.parts
        self._capacities = Capacities(site.parts, site.clamps, site.twins)
        self._bar = bar
        self._block = bar if not site.is_earth else None
        self._kept = kept
        self._runs = Runs(site.runs)
        self._beside = site.beside
        self._short = site.short
        self._lengths = lengths
        self._joined = UnionFind[str]()
        self._links: list[Link] = []

    def build(self) -> list[Link]:
        """Return its links in an order that does not tell which of them the ledger had."""
        zone_nodes = {zone: list(nodes) for zone, nodes in self._parted.items()}
        zone_nodes.setdefault(PLATE, []).extend(clamp.id for clamp in self._clamps)
        self._build(zone_nodes)
        ends = [(_rank(zone), t) for zone, nodes in zone_nodes.items() for t in nodes]
        place = {t: (rank, n) for n, (rank, t) in enumerate(ends)}
        return sorted((_turned(link, place) for link in self._links), key=lambda link: _order(link, place))

    def _build(self, zone_nodes: dict[str, list[TerminalId]]) -> None:
        plate = zone_nodes[PLATE]
        self._add_factory_links()
        self._keep_links(zone_nodes, is_held=True)
        if not self._is_earth:
            self._add_bridges()
            self._add_combs()
        self._keep_links(zone_nodes, is_held=False)
        if self._is_earth:
            self._build_earth(zone_nodes)
            return
        if self._block is None:
            self._lead_short()
        for zone, nodes in zone_nodes.items():
            if zone != PLATE or self._block is None:
                self._chain(zone, nodes)
        if self._block is not None:
            self._build_star(self._block, plate, zone_nodes.get(DOOR, []))
        elif DOOR in zone_nodes and plate and all(clamp.drop != DOOR for clamp in self._clamps):
            self._cross(HINGE, plate, zone_nodes[DOOR])
        for clamp in self._clamps:
            if clamp.drop == DOOR:
                self._cross(HINGE, [clamp.id], zone_nodes[DOOR])
            elif clamp.drop != INCOMING:
                self._cross(f"cable:{clamp.drop}", [clamp.id], zone_nodes[zone_of_run(clamp.drop)])
        for run in self._runs.direct(self._number):
            self._cross(f"cable:{run.key}", plate, zone_nodes[run.zone])
        self._cross_locally(zone_nodes)

    def _cross_locally(self, zone_nodes: dict[str, list[TerminalId]]) -> None:
        """Lead from isolators in the field on to what hangs behind them."""
        for run in self._runs.local(self._number):
            begin = next(
                (n for n in zone_nodes[run.origin] if self._capacities.left(n) > 0), zone_nodes[run.origin][-1]
            )
            self._cross(f"cable:{run.key}", [begin], zone_nodes[run.zone])

    def _add(self, link: Link) -> None:
        self._links.append(link)
        self._joined.join(link.a, link.b)
        self._capacities.use(link)

    def _add_factory_links(self) -> None:
        """Join what is plugged together."""
        places = {terminal: zone for zone, terminals in self._parted.items() for terminal in terminals}
        for a, b, means in self._beside:
            if means is Means.FACTORY:
                self._add(Link(a=a, b=b, number=self._number, where=places.get(a, PLATE), means=means))

    def _add_bridges(self) -> None:
        """Bridge strip terminals that stand beside each other, as many as a bridge has; then a wire feeds the next one."""
        poles = 1
        for one, other in pairwise(self._clamps):
            is_beside = one.piece == other.piece and int(other.label) == int(one.label) + 1
            poles = poles + 1 if is_beside and poles < BRIDGE_POLES else 1
            if poles > 1 and self._joined.find(one.id) != self._joined.find(other.id):
                self._add(Link(a=one.id, b=other.id, number=self._number, where=PLATE, means=Means.BRIDGE))

    def _add_combs(self) -> None:
        """Join devices that stand beside each other by the comb or bridge that lies over them."""
        for a, b, means in self._beside:
            if self._joined.find(a) != self._joined.find(b):
                self._add(Link(a=a, b=b, number=self._number, where=PLATE, means=means))

    def _lead_short(self) -> None:
        """Lead from the main switch straight to what protects a surge arrester, and from one end of a signal to the other, where both still
        take a wire and one of them one more, so that the rest can go on from there.
        """
        for main, terminal in self._short:
            rooms = [self._capacities.left(end) for end in (main, terminal)]
            if min(rooms) > 0 and sum(rooms) > 2 and self._joined.find(main) != self._joined.find(terminal):
                self._add(Link(a=main, b=terminal, number=self._number, where=PLATE))

    def _keep_links(self, zone_nodes: dict[str, list[TerminalId]], *, is_held: bool) -> None:
        """Lay the links of the ledger that a person or a release holds, or those that nobody holds."""
        place = {terminal: zone for zone, nodes in zone_nodes.items() for terminal in nodes}
        order = {terminal: index for index, terminal in enumerate(place)}
        for a, b, choice in self._kept:
            if b not in place:
                continue
            if choice.is_held is not is_held or (
                self._block is not None and not is_held and place[a] == place[b] == PLATE
            ):
                continue
            where = choice.value.where
            if self._joined.find(a) == self._joined.find(b):
                continue
            if not is_held and min(map(self._capacities.left, (a, b))) <= 0:
                continue  # the clamp took two of the thinner wire that was there before
            if where == where_between(place[a], place[b], self._number, self._runs):
                first, second = sorted((a, b), key=lambda t: (_rank(place[t]), order[t]))
                self._add(Link(a=first, b=second, number=self._number, where=where))

    def _chain(self, zone: str, nodes: list[TerminalId]) -> None:
        """Join the nodes of one zone in order, each to the nearest one before it that has room; what takes one wire more comes last, for
        nothing goes on from it.
        """
        clusters: dict[str, list[TerminalId]] = {}
        for node in nodes:
            clusters.setdefault(self._joined.find(node), []).append(node)
        if self._lengths is not None and len(nodes) > 2 and self._join_shortest(zone, nodes, list(clusters.values())):
            return
        roots = {node: root for root, members in clusters.items() for node in members}
        inside = set(clusters.pop(roots[nodes[0]])) if nodes else set()
        places = {node: place for place, node in enumerate(nodes)}
        room = {root: sum(self._capacities.left(node) for node in members) for root, members in clusters.items()}
        for node in sorted(nodes, key=lambda node: room.get(roots[node], 2) < 2):
            mine, place = clusters.pop(roots[node], None), places[node]
            if mine is None:
                continue
            target = self._nearest(nodes, place, inside)
            source = next((n for n in mine if self._capacities.left(n) > 0), mine[0])
            self._add(Link(a=target, b=source, number=self._number, where=zone))
            inside.update(mine)

    def _join_shortest(self, zone: str, nodes: list[TerminalId], clusters: list[list[TerminalId]]) -> bool:
        """Join the nodes of a zone by the shortest tree, if lengths are known there; return whether they are."""
        assert self._lengths is not None
        lengths = self._lengths(self._number, zone, nodes)
        if lengths is None:
            return False
        place = {node: at for at, node in enumerate(nodes)}
        groups = [[place[node] for node in cluster] for cluster in clusters]
        for a, b in join_shortest(lengths, groups, [self._capacities.left(node) for node in nodes]):
            self._add(Link(a=nodes[min(a, b)], b=nodes[max(a, b)], number=self._number, where=zone))
        return True

    def _nearest(self, nodes: list[TerminalId], place: int, inside: set[TerminalId]) -> TerminalId:
        """Return the node of `inside` that is nearest before a place, else behind it, and has room; else the nearest."""
        around: tuple[int, ...] = (*range(place - 1, -1, -1), *range(place + 1, len(nodes)))
        there = (nodes[at] for at in around if nodes[at] in inside)
        with_room = next((node for node in there if self._capacities.left(node) > 0), None)
        return with_room or next(nodes[at] for at in around if nodes[at] in inside)

    def _cross(self, where: str, inside: list[TerminalId], outside: list[TerminalId]) -> None:
        if self._joined.find(inside[0]) == self._joined.find(outside[0]):
            return
        if where.startswith("cable:"):
            source = inside[0]
        else:
            source = next((n for n in reversed(inside) if self._capacities.left(n) > 0), inside[-1])
        target = next((n for n in outside if self._capacities.left(n) > 0), outside[0])
        self._add(Link(a=source, b=target, number=self._number, where=where))

    def _build_star(self, block: BarClamps, plate: list[TerminalId], door: list[TerminalId]) -> None:
        """Take every device that switches or protects to the block by itself, coils and lamps in a chain, and the door once."""
        self._chain(PLATE, [node for node in plate if not self._has_own_wire(node)])
        clusters: dict[str, list[TerminalId]] = {}
        for node in plate:
            clusters.setdefault(self._joined.find(node), []).append(node)
        for members in clusters.values():
            ready = [n for n in members if self._capacities.left(n) > 0] or members
            end = next((n for n in ready if n in block.labels), ready[0])
            self._add(Link(a=block.clamp_for(end), b=end, number=self._number, where=PLATE))
        if door and all(clamp.drop != DOOR for clamp in self._clamps):
            self._add(Link(a=block.clamp_for(door[0]), b=door[0], number=self._number, where=HINGE))
        self._join_bar(block)

    def _has_own_wire(self, terminal: str) -> bool:
        part = self._parts.get(device_of(terminal))
        mark = mark_of(terminal)
        if part is None or part.kind == "surge":
            return True
        return any(e.kind not in _CHAINED and mark in e.marks for e in part.elements)

    def _join_bar(self, bar: BarClamps) -> None:
        for one, other in pairwise(bar.in_a_row):
            self._add(Link(a=one, b=other, number=self._number, where=PLATE, means=Means.FACTORY))

    def _build_earth(self, zone_nodes: dict[str, list[TerminalId]]) -> None:
        """Take every earth to the bar by itself, or to the earth terminal beside its device; the earth terminals of one strip are joined
        by their rail. In a box the cable lands on its stud, and from there each device has an earth of its own.
        """
        strips: dict[str, list[Clamp]] = {}
        for clamp in self._clamps:
            strips.setdefault(clamp.piece, []).append(clamp)
        for row in strips.values():
            for left, right in pairwise(row):
                self._add(Link(a=left.id, b=right.id, number=self._number, where=PLATE, means=Means.FACTORY))
        ends = [t for t in self._parted.get(PLATE, ()) if device_of(t) != EARTH_BAR]
        ends.extend(row[0].id for row in strips.values())
        for terminal in ends:
            beside = TerminalId(f"{device_of(terminal)}.PE:out")
            if beside in ends:
                if self._joined.find(beside) != self._joined.find(terminal):
                    self._add(Link(a=beside, b=terminal, number=self._number, where=PLATE))
            elif not leads_on(self._parts.get(device_of(terminal)), terminal):
                self._to_bar(terminal, PLATE)
        for terminal in zone_nodes.get(DOOR, []):
            self._to_bar(terminal, HINGE)
        served = {zone_of_run(clamp.drop): clamp for clamp in self._clamps}
        local = {run.zone for run in self._runs.local(self._number)}
        for zone, nodes in zone_nodes.items():
            if not is_drop(zone):
                continue
            nodes = sorted(nodes, key=lambda terminal: not self._is_stud(terminal))
            self._chain(zone, nodes)
            if zone in local:
                continue
            where = f"cable:{self._runs.key_for(zone, self._number)}"
            if zone in served:
                self._cross(where, [served[zone].id], nodes)
            else:
                self._to_bar(nodes[0], where)
        self._cross_locally(zone_nodes)
        assert self._bar is not None
        self._join_bar(self._bar)

    def _is_stud(self, terminal: str) -> bool:
        part = self._parts.get(device_of(terminal))
        return part is not None and part.kind == "earth-stud"

    def _to_bar(self, terminal: TerminalId, where: str) -> None:
        assert self._bar is not None
        self._add(Link(a=self._bar.clamp_for(terminal), b=terminal, number=self._number, where=where))
