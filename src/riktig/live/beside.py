"""Owns which wires of a dead panel have another way of little resistance beside them, which would hide that they are open. Must not know
tests.
"""

from collections import defaultdict, deque
from collections.abc import Iterator, Mapping

from riktig.live.resistance import build_network
from riktig.plan.circuit.model import EARTH_BAR, PLATE_STUD
from riktig.plan.circuit.zones import device_of
from riktig.plan.plan import Plan

LITTLE_OHM = 2.0
THE_PLATE = "the plate"
"""Ways of more than this are told from a wire by its reading."""
_Near = Mapping[str, list[tuple[str, int]]]


def ways_beside(plan: Plan) -> dict[str, tuple[str, ...]]:
    """Return, of each wire that has another way of little resistance beside it, the devices and strips over which that leads.

    Such a wire reads good while it is open: one of its ends is lifted for its measurement.
    """
    edges = [(r.a, r.b) for r in build_network(plan) if r.ohms <= LITTLE_OHM and r.a != r.b]
    edges += [(end, THE_PLATE) for end in _on_the_plate(plan)]
    near: defaultdict[str, list[tuple[str, int]]] = defaultdict(list)
    for n, (a, b) in enumerate(edges):
        near[a].append((b, n))
        near[b].append((a, n))
    alone = set(_bridges(near))
    place = {edge: n for n, edge in enumerate(edges)}
    found: dict[str, tuple[str, ...]] = {}
    for wire in plan.conductors:
        edge = place.get((wire.a, wire.b))
        if wire.is_wired and edge is not None and edge not in alone:
            way = _way(near, wire.a, wire.b, edge)
            over = dict.fromkeys(end if end == THE_PLATE else device_of(end) for end in way)
            found[wire.id] = tuple(name for name in over if name not in {device_of(wire.a), device_of(wire.b)})
    return found


def _on_the_plate(plan: Plan) -> Iterator[str]:
    """Yield the earth terminals that the plate joins: those on its rails, its stud and the earth bar.

    Source:
        A rail bonded by earth terminals counts as a join, and so does the metal that it is screwed to: common practice, no source.
    """
    yield from (clamp.id for clamp in plan.clamps if clamp.is_earth)
    for end in {end for wire in plan.conductors for end in (wire.a, wire.b)}:
        device = plan.circuit.index.get(device_of(end))
        if device is not None and (device.id in {EARTH_BAR, PLATE_STUD} or device.kind == "earth-terminal"):
            yield end


def _bridges(near: _Near) -> Iterator[int]:
    """Yield the edges without which their ends would not be joined.

    Source:
        Low links of a depth-first search: Tarjan 1974.
    """
    order: dict[str, int] = {}
    low: dict[str, int] = {}
    for root in near:
        if root in order:
            continue
        order[root] = low[root] = len(order)
        stack: list[tuple[str, int, Iterator[tuple[str, int]]]] = [(root, -1, iter(near[root]))]
        while stack:
            node, came, rest = stack[-1]
            for other, edge in rest:
                if edge == came:
                    continue
                if other in order:
                    low[node] = min(low[node], order[other])
                else:
                    order[other] = low[other] = len(order)
                    stack.append((other, edge, iter(near[other])))
                    break
            else:
                stack.pop()
                if stack:
                    above = stack[-1][0]
                    low[above] = min(low[above], low[node])
                    if low[node] > order[above]:
                        yield came


def _way(near: _Near, start: str, end: str, but: int) -> list[str]:
    """Return the terminals of the shortest other way between two."""
    came: dict[str, str] = {start: start}
    waiting = deque([start])
    while waiting and end not in came:
        node = waiting.popleft()
        for other, edge in near[node]:
            if edge != but and other not in came:
                came[other] = node
                waiting.append(other)
    path = [end]
    while path[-1] != start:
        path.append(came[path[-1]])
    return path[::-1]
