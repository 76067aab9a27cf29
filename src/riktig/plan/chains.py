"""Owns which terminals are joined directly: the chain of each potential. Must not know lengths or routes."""

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from typing import Any

from riktig.catalogue.model import Mounting, Part
from riktig.job.ledger import Choice, Choices
from riktig.plan.circuit import DOOR, EARTH_BAR, PLATE, Circuit
from riktig.plan.combs import Comb
from riktig.plan.netlist import UnionFind
from riktig.plan.numbers import Potential
from riktig.plan.runs import Runs, zone_of_run
from riktig.plan.shortest import join_shortest
from riktig.plan.strips import Clamp
from riktig.plan.zones import INCOMING, by_zone, device_of, is_drop, mark_of, zones_of
from riktig.standards.colours import ConductorFunction

HINGE = "hinge"
DEFAULT_CAPACITY = 2
BRIDGE_POLES = 10
"""Terminals that one bridge joins at most (common practice, no source)."""
Lengths = Callable[[str, list[str]], Any]
"""Zone and terminals -> mm between each two, n x n, or None where they are not known."""


class Means(StrEnum):
    """What joins two terminals: a wire or core; what comes with the parts (an overload plugged on its contactor, clamps on one
    earthed rail); a bridge plugged into neighbours, which takes no room in a clamp; a tooth of a comb, which takes the room of a
    conductor.
    """

    WIRE = "wire"
    FACTORY = "link"
    BRIDGE = "bridge"
    COMB = "comb"


@dataclass(frozen=True, slots=True, kw_only=True)
class Link:
    """A direct join of two terminals of one potential. `where` is a zone, `hinge`, or `cable:RUN`; `means` is what joins them."""

    a: str
    b: str
    number: str
    where: str
    means: Means = Means.WIRE

    @property
    def is_wired(self) -> bool:
        """Whether it is a conductor that is cut and landed."""
        return self.means is Means.WIRE

    @property
    def key(self) -> str:
        """The unordered pair of terminals, as the ledger keys it."""
        return " ".join(sorted((self.a, self.b)))


class Capacities:
    """How many more conductors each clamp takes. A strip terminal has an inside and an outside."""

    def __init__(self, parts: Mapping[str, Part], clamps: Iterable[Clamp]) -> None:
        self._parts = parts
        self._clamps = {clamp.id: clamp for clamp in clamps}
        self._used: Counter[tuple[str, bool]] = Counter()
        self._teeth: set[str] = set()

    def limit(self, terminal: str, *, is_outside: bool = False) -> int:
        """Return the number of conductors that a clamp takes on one side."""
        clamp = self._clamps.get(terminal)
        if clamp is not None:
            return 1 if is_outside or clamp.is_earth else DEFAULT_CAPACITY
        part = self._parts.get(device_of(terminal))
        spec = part.terminal(mark_of(terminal)) if part is not None else None
        return spec.capacity if spec is not None else 1 if device_of(terminal) == EARTH_BAR else DEFAULT_CAPACITY

    def left(self, terminal: str, *, is_outside: bool = False) -> int:
        """Return how many conductors the side still takes."""
        return self.limit(terminal, is_outside=is_outside) - self._used[(terminal, is_outside)]

    def use(self, link: Link) -> None:
        """Count a link at both of its ends; rail, bar and bridge need no clamp, a comb has one tooth in each."""
        for end in (link.a, link.b):
            is_rail_or_bar = end in self._clamps or device_of(end) == EARTH_BAR
            if link.means is Means.COMB:
                self._used[(end, False)] += end not in self._teeth
                self._teeth.add(end)
            elif link.is_wired or (link.means is Means.FACTORY and not is_rail_or_bar):
                self._used[(end, self._is_outside(link, end))] += 1

    def _is_outside(self, link: Link, end: str) -> bool:
        clamp = self._clamps.get(end)
        return clamp is not None and (link.where.startswith("cable:") or (link.where == HINGE and clamp.drop == DOOR))


class BarClamps:
    """Which clamp of the earth bar each earth conductor takes; the first is for the incoming earth."""

    def __init__(self, kept: Choices) -> None:
        prefix = f"{EARTH_BAR}|"
        self.labels = {
            key.removeprefix(prefix): choice.value.rpartition(":")[2]
            for key, choice in kept.items()
            if key.startswith(prefix)
        }
        self._last = max((int(label) for label in self.labels.values()), default=1)
        self.used: dict[str, str] = {}

    def clamp_for(self, terminal: str) -> str:
        """Return the terminal id of the clamp that serves `terminal`, a new one if it has none."""
        if terminal not in self.labels:
            self._last += 1
            self.labels[terminal] = str(self._last)
        clamp = f"{EARTH_BAR}:{self.labels[terminal]}"
        self.used[f"{EARTH_BAR}|{terminal}"] = clamp
        return clamp


def allocate_links(
    circuit: Circuit,
    parts: Mapping[str, Part],
    potentials: tuple[Potential, ...],
    clamps: tuple[Clamp, ...],
    bar: BarClamps,
    kept: Choices,
    runs: Runs,
    combs: tuple[Comb, ...] = (),
    lengths: Lengths | None = None,
) -> list[Link]:
    """Return all direct joins: every potential connected, each clamp within its limit as far as one can be.

    Links in the ledger stay while both of their terminals are still on one potential; what is not yet connected is chained in
    drawing order, or with `lengths` by the shortest tree, where these are known.
    """
    zones = zones_of(circuit)
    capacities = Capacities(parts, clamps)
    links: list[Link] = []
    own: defaultdict[str, list[Clamp]] = defaultdict(list)
    for clamp in clamps:
        own[clamp.number].append(clamp)
    index: defaultdict[str, list[tuple[str, Choice]]] = defaultdict(list)
    for key, choice in kept.items():
        a, _, b = key.partition(" ")
        index[a].append((b, choice))
    beside: defaultdict[str, list[tuple[str, str, Means]]] = defaultdict(list)
    number_of = {t: p.number for p in potentials for t in p.net.terminals}
    for comb in combs:
        means = Means.BRIDGE if comb.is_bridge else Means.COMB
        for teeth in comb.bars:
            beside[number_of[teeth[0]]].extend((a, b, means) for a, b in pairwise(teeth))
    for potential in potentials:
        joins = beside[potential.number]
        builder = _Chain(potential, own[potential.number], parts, zones, capacities, bar, index, runs, joins, lengths)
        links.extend(builder.build(is_earth=potential.net.function is ConductorFunction.EARTH))
    return links


def where_between(zone_a: str, zone_b: str, number: str, runs: Runs) -> str:
    """Return where a link of a potential between two zones lies: the zone, the hinge, or a cable run."""
    if zone_a == zone_b:
        return zone_a
    drop = next((zone for zone in (zone_a, zone_b) if is_drop(zone)), None)
    return HINGE if drop is None else f"cable:{runs.key_for(drop, number)}"


def _rank(zone: str) -> int:
    """Order the zones from the plate outward."""
    return {PLATE: 0, DOOR: 1}.get(zone, 2)


class _Chain:
    """Builds the links of one potential."""

    def __init__(
        self,
        potential: Potential,
        clamps: list[Clamp],
        parts: Mapping[str, Part],
        zones: dict[str, str],
        capacities: Capacities,
        bar: BarClamps,
        kept: Mapping[str, list[tuple[str, Choice]]],
        runs: Runs,
        beside: list[tuple[str, str, Means]],
        lengths: Lengths | None,
    ) -> None:
        self._number = potential.number
        self._parted = by_zone(potential.net.terminals, zones)
        self._clamps = clamps
        self._parts = parts
        self._capacities = capacities
        self._bar = bar
        self._kept = kept
        self._runs = runs
        self._beside = beside
        self._lengths = lengths
        self._joined = UnionFind()
        self._links: list[Link] = []

    def build(self, *, is_earth: bool) -> list[Link]:
        zone_nodes = {zone: list(nodes) for zone, nodes in self._parted.items()}
        plate = zone_nodes.setdefault(PLATE, [])
        plate.extend(clamp.id for clamp in self._clamps)
        self._add_factory_links()
        self._keep_links(zone_nodes, is_held=True)
        if not is_earth:
            self._add_bridges()
            self._add_combs()
        self._keep_links(zone_nodes, is_held=False)
        if is_earth:
            self._build_earth(zone_nodes)
            return self._links
        for zone, nodes in zone_nodes.items():
            self._chain(zone, nodes)
        if DOOR in zone_nodes and plate and all(clamp.drop != DOOR for clamp in self._clamps):
            self._cross(HINGE, plate, zone_nodes[DOOR])
        for clamp in self._clamps:
            if clamp.drop == DOOR:
                self._cross(HINGE, [clamp.id], zone_nodes[DOOR])
            elif clamp.drop != INCOMING:
                self._cross(f"cable:{clamp.drop}", [clamp.id], zone_nodes[zone_of_run(clamp.drop)])
        for run in self._runs.direct(self._number):
            self._cross(f"cable:{run.key}", plate, zone_nodes[run.zone])
        return self._links

    def _add(self, link: Link) -> None:
        self._links.append(link)
        self._joined.join(link.a, link.b)
        self._capacities.use(link)

    def _add_factory_links(self) -> None:
        """Join an overload to the contactor that it is plugged on: same owner, same potential."""
        plate = self._parted.get(PLATE, [])
        for terminal in plate:
            device = device_of(terminal)
            if self._parts[device].mounting is not Mounting.PLUGGED:
                continue
            host = device.rpartition(".")[0] + ".K"
            mate = next((t for t in plate if device_of(t) == host and "/T" in t), None)
            if mate is not None and "/L" in terminal:
                self._add(Link(a=mate, b=terminal, number=self._number, where=PLATE, means=Means.FACTORY))

    def _add_bridges(self) -> None:
        """Bridge strip terminals that stand beside each other, as many as a bridge has; then a wire feeds the next one."""
        poles = 1
        for one, other in pairwise(self._clamps):
            is_beside = one.strip == other.strip and int(other.label) == int(one.label) + 1
            poles = poles + 1 if is_beside and poles < BRIDGE_POLES else 1
            if poles > 1 and self._joined.find(one.id) != self._joined.find(other.id):
                self._add(Link(a=one.id, b=other.id, number=self._number, where=PLATE, means=Means.BRIDGE))

    def _add_combs(self) -> None:
        """Join devices that stand beside each other by the comb or bridge that lies over them."""
        for a, b, means in self._beside:
            if self._joined.find(a) != self._joined.find(b):
                self._add(Link(a=a, b=b, number=self._number, where=PLATE, means=means))

    def _keep_links(self, zone_nodes: dict[str, list[str]], *, is_held: bool) -> None:
        """Lay the links of the ledger that a person or a release holds, or those that nobody holds."""
        place = {terminal: zone for zone, nodes in zone_nodes.items() for terminal in nodes}
        order = {terminal: index for index, terminal in enumerate(place)}
        kept = [(a, b, choice) for a in place for b, choice in self._kept.get(a, ()) if b in place]
        for a, b, choice in kept:
            if choice.is_held is not is_held:
                continue
            where = choice.value
            if self._joined.find(a) == self._joined.find(b):
                continue
            if where == where_between(place[a], place[b], self._number, self._runs):
                first, second = sorted((a, b), key=lambda t: (_rank(place[t]), order[t]))
                self._add(Link(a=first, b=second, number=self._number, where=where))

    def _chain(self, zone: str, nodes: list[str]) -> None:
        """Join the nodes of one zone in order, each to the nearest one before it that has room."""
        clusters: dict[str, list[str]] = {}
        for node in nodes:
            clusters.setdefault(self._joined.find(node), []).append(node)
        if self._lengths is not None and len(nodes) > 2 and self._join_shortest(zone, nodes, list(clusters.values())):
            return
        roots = {node: root for root, members in clusters.items() for node in members}
        inside = set(clusters.pop(roots[nodes[0]])) if nodes else set()
        for place, node in enumerate(nodes):
            mine = clusters.pop(roots[node], None)
            if mine is None:
                continue
            target = self._nearest(nodes, place, inside)
            source = next((n for n in mine if self._capacities.left(n) > 0), mine[0])
            self._add(Link(a=target, b=source, number=self._number, where=zone))
            inside.update(mine)

    def _join_shortest(self, zone: str, nodes: list[str], clusters: list[list[str]]) -> bool:
        """Join the nodes of a zone by the shortest tree, if lengths are known there; return whether they are."""
        assert self._lengths is not None
        lengths = self._lengths(zone, nodes)
        if lengths is None:
            return False
        place = {node: at for at, node in enumerate(nodes)}
        groups = [[place[node] for node in cluster] for cluster in clusters]
        for a, b in join_shortest(lengths, groups, [self._capacities.left(node) for node in nodes]):
            self._add(Link(a=nodes[min(a, b)], b=nodes[max(a, b)], number=self._number, where=zone))
        return True

    def _nearest(self, nodes: list[str], place: int, inside: set[str]) -> str:
        """Return the node of `inside` that is nearest before a place, else behind it, and has room; else the nearest."""
        around: tuple[int, ...] = (*range(place - 1, -1, -1), *range(place + 1, len(nodes)))
        there = (nodes[at] for at in around if nodes[at] in inside)
        with_room = next((node for node in there if self._capacities.left(node) > 0), None)
        return with_room or next(nodes[at] for at in around if nodes[at] in inside)

    def _cross(self, where: str, inside: list[str], outside: list[str]) -> None:
        if self._joined.find(inside[0]) == self._joined.find(outside[0]):
            return
        if where.startswith("cable:"):
            source = inside[0]
        else:
            source = next((n for n in reversed(inside) if self._capacities.left(n) > 0), inside[-1])
        target = next((n for n in outside if self._capacities.left(n) > 0), outside[0])
        self._add(Link(a=source, b=target, number=self._number, where=where))

    def _build_earth(self, zone_nodes: dict[str, list[str]]) -> None:
        """Take every earth to the bar by itself; the earth terminals of one strip are joined by their rail."""
        strips: dict[str, list[Clamp]] = {}
        for clamp in self._clamps:
            strips.setdefault(clamp.strip, []).append(clamp)
        for row in strips.values():
            for left, right in pairwise(row):
                self._add(Link(a=left.id, b=right.id, number=self._number, where=PLATE, means=Means.FACTORY))
        ends = [t for t in self._parted.get(PLATE, []) if device_of(t) != EARTH_BAR]
        ends.extend(row[0].id for row in strips.values())
        for terminal in ends:
            self._to_bar(terminal, PLATE)
        for terminal in zone_nodes.get(DOOR, []):
            self._to_bar(terminal, HINGE)
        served = {zone_of_run(clamp.drop): clamp for clamp in self._clamps}
        for zone, nodes in zone_nodes.items():
            if not is_drop(zone):
                continue
            self._chain(zone, nodes)
            where = f"cable:{self._runs.key_for(zone, self._number)}"
            if zone in served:
                self._cross(where, [served[zone].id], nodes)
            else:
                self._to_bar(nodes[0], where)
        bar = sorted(self._bar.used.values(), key=lambda clamp: int(mark_of(clamp)))
        for one, other in pairwise(bar):
            self._add(Link(a=one, b=other, number=self._number, where=PLATE, means=Means.FACTORY))

    def _to_bar(self, terminal: str, where: str) -> None:
        self._add(Link(a=self._bar.clamp_for(terminal), b=terminal, number=self._number, where=where))
