"""Owns what can be reached in a graph, and where it hangs together by single nodes, and so what lies on the ways from a node to its root.
Must not know what edges are.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Ways:
    """For each node the block through which it goes on towards the root; edges and upper node of each block."""

    up: Mapping[int, int]
    edges: Sequence[tuple[int, ...]]
    tops: Sequence[int]

    def of(self, node: int) -> list[int]:
        """Return the edges that lie on any way from a node to the root that passes no node twice; none where no way leads there."""
        found: list[int] = []
        while node in self.up:
            block = self.up[node]
            found += self.edges[block]
            node = self.tops[block]
        return found


def spread(starts: Iterable[int], beside: Callable[[int], Iterable[int]]) -> set[int]:
    """Return the nodes that can be reached from some, these among them; `beside` tells where one leads."""
    seen = set(starts)
    front = list(seen)
    for node in front:
        for other in beside(node):
            if other not in seen:
                seen.add(other)
                front.append(other)
    return seen


def ways_to_root(ends: Sequence[tuple[int, int]], root: int) -> Ways:
    """Return the ways from all nodes to a root in a graph given by the two nodes of each edge.

    Source:
        Hopcroft and Tarjan, Algorithm 447 (1973): blocks of an undirected graph by one search in depth, here without recursion.
    """
    beside: dict[int, list[tuple[int, int]]] = {}
    for edge, (a, b) in enumerate(ends):
        if a != b:
            beside.setdefault(a, []).append((b, edge))
            beside.setdefault(b, []).append((a, edge))
    order, low = {root: 0}, {root: 0}
    up: dict[int, int] = {}
    blocks: list[tuple[int, ...]] = []
    tops: list[int] = []
    held: list[int] = []
    stack = [(root, -1, iter(beside.get(root, ())))]
    while stack:
        node, came_by, rest = stack[-1]
        step = next(rest, None)
        if step is None:
            stack.pop()
            if not stack:
                break
            above = stack[-1][0]
            low[above] = min(low[above], low[node])
            if low[node] >= order[above]:
                cut = held.index(came_by)
                block = tuple(held[cut:])
                del held[cut:]
                for member in {end for edge in block for end in ends[edge]} - {above}:
                    up[member] = len(blocks)
                blocks.append(block)
                tops.append(above)
            continue
        other, edge = step
        if edge == came_by:
            continue
        if other not in order:
            order[other] = low[other] = len(order)
            held.append(edge)
            stack.append((other, edge, iter(beside.get(other, ()))))
        elif order[other] < order[node]:
            held.append(edge)
            low[node] = min(low[node], order[other])
    return Ways(up=up, edges=blocks, tops=tops)
