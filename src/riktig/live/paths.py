"""Owns the ways of a current through contacts and poles: what is closed now, what could be. Must not know volts or time."""

from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from itertools import permutations, product

from riktig.live.network import Network
from riktig.live.rig import Rig
from riktig.plan.circuit.zones import device_of


@dataclass(frozen=True, slots=True, kw_only=True)
class Gap:
    """A contact or pole: its two terminals (ids) and their nodes, and whether it is closed now."""

    a: str
    b: str
    nodes: tuple[int, int]
    is_closed: bool

    @property
    def device(self) -> str:
        """The device that it belongs to."""
        return device_of(self.a)


class Ways:
    """All contacts and poles of a rig as they are now, and what feeds."""

    def __init__(self, rig: Rig, network: Network) -> None:
        self._rig = rig
        self.gaps = tuple(_gaps(rig, network))
        self.sources = rig.sources
        self.beside: dict[int, list[Gap]] = {}
        for gap in self.gaps:
            for node in gap.nodes:
                self.beside.setdefault(node, []).append(gap)

    @cached_property
    def poles(self) -> frozenset[int]:
        """The nodes at which anything feeds."""
        return frozenset(node for _, nodes in self.sources for node in nodes)

    def distances(self, start: int, length: Callable[[Gap], int]) -> dict[int, int]:
        """Return how far each node is that can be reached from one, each gap being 0 or 1 long; one of less than 0 bars the way."""
        far, front = {start: 0}, deque([start])
        while front:
            node = front.popleft()
            for gap in self.beside.get(node, ()):
                step = length(gap)
                other = gap.nodes[0] if gap.nodes[1] == node else gap.nodes[1]
                if step >= 0 and far[node] + step < far.get(other, 1 << 30):
                    far[other] = far[node] + step
                    (front.append if step else front.appendleft)(other)
        return far

    def shortest(self, start: int, goal: int, length: Callable[[Gap], int]) -> list[Gap]:
        """Return the gaps of a shortest way from one node to another, empty where there is none."""
        back = self.distances(goal, length)
        way: list[Gap] = []
        node, seen = start, {start}
        while node != goal and node in back:
            for gap in self.beside.get(node, ()):
                other = gap.nodes[0] if gap.nodes[1] == node else gap.nodes[1]
                if other not in seen and length(gap) >= 0 and back.get(other, 1 << 30) + length(gap) == back[node]:
                    way.append(gap)
                    seen.add(other)
                    node = other
                    break
            else:
                return []
        return way if node == goal else []

    def all_shortest(self, start: int, goal: int) -> set[frozenset[Gap]]:
        """Return the sets of open gaps of all ways from one node to another that need fewest of them closed."""
        back = self.distances(goal, _open_is_long)
        if start not in back:
            return set()
        found: set[frozenset[Gap]] = set()
        stack: list[tuple[int, frozenset[Gap], frozenset[int]]] = [(start, frozenset(), frozenset({start}))]
        seen: set[tuple[int, frozenset[Gap]]] = set()
        while stack:
            node, used, passed = stack.pop()
            if node == goal:
                found.add(used)
                continue
            if (node, used) in seen:
                continue
            seen.add((node, used))
            for gap in self.beside.get(node, ()):
                other = gap.nodes[0] if gap.nodes[1] == node else gap.nodes[1]
                more = used if gap.is_closed else used | {gap}
                if other not in passed and len(more) + back.get(other, 1 << 30) == back[start]:
                    stack.append((other, more, passed | {other}))
        return found

    def pairs(self) -> Iterator[tuple[int, int]]:
        """Yield the poles between which anything feeds, two and two."""
        for _, poles in self.sources:
            yield from permutations(poles, 2)

    def what_closes(self, ends: tuple[int, int]) -> tuple[frozenset[Gap], ...]:
        """Return all smallest sets of open gaps that feed something between two nodes when they close; one empty set where it is fed,
        none where nothing can.
        """
        a, b = (self.distances(end, _open_is_long) for end in ends)
        costs = [(a[p] + b[q], p, q) for p, q in self.pairs() if p in a and q in b]
        found: set[frozenset[Gap]] = set()
        least = min((cost for cost, *_ in costs), default=0)
        for cost, p, q in costs:
            if cost == least:
                pairs = product(self.all_shortest(ends[0], p), self.all_shortest(ends[1], q))
                found |= {one | other for one, other in pairs if not one & other}
        return tuple(sorted(found, key=lambda gaps: sorted(gap.a for gap in gaps)))


def _open_is_long(gap: Gap) -> int:
    return 0 if gap.is_closed else 1


def closed_only(gap: Gap) -> int:
    """Return the length of a gap where only closed ones lead on; the fewer the better."""
    return 1 if gap.is_closed else -1


def _gaps(rig: Rig, network: Network) -> Iterator[Gap]:
    for index, (a, b) in enumerate(rig.switch_ends):
        yield Gap(a=a, b=b, nodes=rig.switches[index], is_closed=network.closed[index])
    for element, (a, b) in rig.pole_ends.items():
        first, second, *_ = rig.elements[element]
        yield Gap(a=a, b=b, nodes=(first, second), is_closed=bool(network.laws[element].joins))
