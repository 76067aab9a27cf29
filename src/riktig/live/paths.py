"""Owns the ways of a current through contacts and poles: what is closed now, what could be. Must not know volts or time."""

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import permutations
from typing import Protocol

from riktig.live.laws import Law
from riktig.live.rig import EARTH, Rig
from riktig.plan.circuit.zones import device_of

_MORE = 3
"""So many more contacts than the fewest are tried where these would bridge what they are to feed."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Gap:
    """A contact or pole: its two terminals (ids) and their nodes, and whether it is closed now."""

    a: str
    b: str
    nodes: tuple[int, int]
    is_closed: bool
    place: tuple[str, int]
    """Which switch or element of the network it is."""

    @property
    def device(self) -> str:
        """The device that it belongs to."""
        return device_of(self.a)


class Standing(Protocol):
    """How switches and elements of a network stand: now, or as it was kept."""

    @property
    def closed(self) -> Sequence[bool]:
        """Whether each switch is closed."""
        ...

    @property
    def laws(self) -> Sequence[Law]:
        """How each element conducts."""
        ...


class Ways:
    """All contacts and poles of a rig as they are now, and what feeds."""

    def __init__(self, rig: Rig, network: Standing) -> None:
        self.gaps = tuple(gaps_of(rig, network))
        self.sources = rig.sources
        self.beside: dict[int, list[Gap]] = {}
        for gap in self.gaps:
            for node in gap.nodes:
                self.beside.setdefault(node, []).append(gap)

    @cached_property
    def poles(self) -> frozenset[int]:
        """The nodes at which anything feeds."""
        return frozenset(node for _, nodes in self.sources for node in nodes)

    def reached(self) -> frozenset[int]:
        """Return the nodes that closed gaps join to what feeds, earth among them."""
        found, front = set(self.poles) | {EARTH}, [*self.poles, EARTH]
        for node in front:
            for gap in self.beside.get(node, ()):
                other = gap.nodes[0] if gap.nodes[1] == node else gap.nodes[1]
                if gap.is_closed and other not in found:
                    found.add(other)
                    front.append(other)
        return frozenset(found)

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

    def sets_of(self, start: int, goal: int, count: int, barred: frozenset[int]) -> set[frozenset[Gap]]:
        """Return the sets of so many open gaps that, once they close, join one node to another by a way that keeps out of some nodes."""
        back = self.distances(goal, _open_is_long)
        found: set[frozenset[Gap]] = set()
        stack: list[tuple[int, frozenset[Gap], frozenset[int]]] = [(start, frozenset(), frozenset({start}))]
        seen: set[tuple[int, frozenset[Gap]]] = set()
        while stack:
            node, used, passed = stack.pop()
            if node == goal and len(used) == count:
                found.add(used)
            if node == goal or (node, used) in seen:
                continue
            seen.add((node, used))
            for gap in self.beside.get(node, ()):
                other = gap.nodes[0] if gap.nodes[1] == node else gap.nodes[1]
                more = used if gap.is_closed else used | {gap}
                if other not in passed and other not in barred and len(more) + back.get(other, 1 << 30) <= count:
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
        joined = [frozenset(node for node, far in found.items() if far == 0) for found in (a, b)]
        costs = [
            (a[p] + b[q], p, q)
            for p, q in self.pairs()
            if p in a and q in b and p not in joined[1] and q not in joined[0]
        ]
        least = min((cost for cost, *_ in costs), default=0)
        for count in range(least, least + _MORE):
            found = {
                one | other
                for cost, p, q in costs
                if cost <= count
                for part in range(a[p], count - b[q] + 1)
                for one in self.sets_of(ends[0], p, part, joined[1])
                for other in self.sets_of(ends[1], q, count - part, joined[0])
                if len(one | other) == count and not self._are_joined(ends, one | other)
            }
            if found:
                return tuple(sorted(found, key=lambda gaps: sorted(gap.a for gap in gaps)))
        return ()

    def _are_joined(self, ends: tuple[int, int], closed: frozenset[Gap]) -> bool:
        """Return whether something would be bridged once some gaps close."""
        return ends[1] in self.distances(ends[0], lambda gap: 0 if gap.is_closed or gap in closed else -1)

    def feeding(self, ends: tuple[int, int], opened: frozenset[Gap]) -> list[Gap] | None:
        """Return the gaps by which something between two nodes could be fed while some are open and all others may close, None where it
        can by no means be.
        """

        def length(gap: Gap) -> int:
            return -1 if gap in opened else 1

        a, b = (self.distances(end, length) for end in ends)
        pairs = [(a[p] + b[q], p, q) for p, q in self.pairs() if p in a and q in b]
        if not pairs:
            return None
        _, p, q = min(pairs)
        return [*self.shortest(ends[0], p, length), *self.shortest(ends[1], q, length)]

    def cuts(self, ends: tuple[int, int], most: int = 4) -> tuple[frozenset[Gap], ...]:
        """Return all smallest sets of gaps that must open so that something between two nodes can by no means be fed; none where more
        than `most` would have to, or where it hangs on what feeds it with nothing between.
        """
        tried: set[frozenset[Gap]] = {frozenset()}
        for _ in range(most + 1):
            found: set[frozenset[Gap]] = set()
            more: set[frozenset[Gap]] = set()
            for opened in tried:
                way = self.feeding(ends, opened)
                if way is None:
                    found.add(opened)
                else:
                    more |= {opened | {gap} for gap in way}
            if found:
                return tuple(sorted(found, key=lambda gaps: sorted(gap.a for gap in gaps)))
            tried = more
        return ()

    def in_rings(self) -> frozenset[Gap]:
        """Return the closed gaps whose two ends stay joined when they open, since others are closed beside them."""
        up: dict[int, tuple[int, Gap]] = {}
        depth: dict[int, int] = {}
        rings: set[Gap] = set()
        for start in self.beside:
            if start in depth:
                continue
            depth[start] = 0
            front = [start]
            for node in front:
                for gap in self.beside[node]:
                    other = gap.nodes[0] if gap.nodes[1] == node else gap.nodes[1]
                    if gap.is_closed and other not in depth:
                        depth[other], up[other] = depth[node] + 1, (node, gap)
                        front.append(other)
        tree = {gap for _, gap in up.values()}
        for gap in self.gaps:
            if gap.is_closed and gap not in tree:
                rings |= {gap, *_between(*gap.nodes, up, depth)}
        return frozenset(rings)


def _between(a: int, b: int, up: dict[int, tuple[int, Gap]], depth: dict[int, int]) -> list[Gap]:
    """Return the gaps between two nodes of one tree."""
    way = []
    while a != b:
        if depth[a] < depth[b]:
            a, b = b, a
        a, gap = up[a]
        way.append(gap)
    return way


def _open_is_long(gap: Gap) -> int:
    return 0 if gap.is_closed else 1


def closed_only(gap: Gap) -> int:
    """Return the length of a gap where only closed ones lead on; the fewer the better."""
    return 1 if gap.is_closed else -1


def gaps_of(rig: Rig, network: Standing) -> Iterator[Gap]:
    """Yield all contacts and poles as they stand."""
    for index, (a, b) in enumerate(rig.switch_ends):
        yield Gap(a=a, b=b, nodes=rig.switches[index], is_closed=network.closed[index], place=("switch", index))
    for element, (a, b) in rig.pole_ends.items():
        first, second, *_ = rig.elements[element]
        yield Gap(
            a=a, b=b, nodes=(first, second), is_closed=bool(network.laws[element].joins), place=("element", element)
        )
