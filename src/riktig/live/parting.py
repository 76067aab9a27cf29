"""Owns where a network is parted: a few nodes at which everything meets, and what hangs between them. Must not know numbers or states."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

_MOST_INNER = 16
"""So many nodes a block may have inside: one starter's power circuit, or its rungs."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A block: its inner nodes, the hubs that it touches as (place among the hubs, node), its switches and elements by index."""

    inner: list[int]
    hubs: tuple[tuple[int, int], ...]
    switches: tuple[int, ...]
    elements: tuple[int, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Parted:
    """The hubs, earth first, the blocks, and in which of these each switch and element lies."""

    hubs: tuple[int, ...]
    parts: tuple[Part, ...]
    part_of_switch: tuple[int, ...]
    part_of_element: tuple[int, ...]


def part_network(nodes: int, switches: Sequence[tuple[int, int]], elements: Sequence[tuple[int, ...]]) -> Parted:
    """Part a network: whatever hangs together with more nodes than a block may have gives up its most used one as a hub."""
    beside: dict[int, set[int]] = {node: set() for node in range(nodes)}
    for members in (*switches, *elements):
        for a, b in combinations(set(members), 2):
            beside[a].add(b)
            beside[b].add(a)
    hubs = [0]
    blocks: list[list[int]] = []
    rest = _pieces(set(range(nodes)) - {0}, beside)
    while rest:
        piece = rest.pop()
        if len(piece) <= _MOST_INNER:
            blocks.append(sorted(piece))
            continue
        hub = max(piece, key=lambda node: (len(beside[node] & piece), -node))
        hubs.append(hub)
        rest.extend(_pieces(piece - {hub}, beside))
    return _collect(hubs, sorted(blocks), switches, elements)


def _pieces(members: set[int], beside: Mapping[int, set[int]]) -> list[set[int]]:
    """Return the sets of nodes that hang together."""
    left, found = set(members), []
    while left:
        front = {left.pop()}
        piece = set(front)
        while front:
            front = {other for node in front for other in beside[node]} & left
            left -= front
            piece |= front
        found.append(piece)
    return found


def _collect(
    hubs: Sequence[int],
    blocks: Sequence[list[int]],
    switches: Sequence[tuple[int, int]],
    elements: Sequence[tuple[int, ...]],
) -> Parted:
    """Return the blocks with what lies in each; what joins hubs alone is a block of its own."""
    place = {hub: n for n, hub in enumerate(hubs)}
    block_of = {node: n for n, block in enumerate(blocks) for node in block}
    inner = [*blocks]

    def where(members: Iterable[int]) -> int:
        for node in members:
            if node in block_of:
                return block_of[node]
        inner.append([])
        return len(inner) - 1

    of_switch = tuple(where(members) for members in switches)
    of_element = tuple(where(members) for members in elements)
    touched: list[set[int]] = [set() for _ in inner]
    held: list[tuple[list[int], list[int]]] = [([], []) for _ in inner]
    for sort, (lists, blocks_of) in enumerate(((switches, of_switch), (elements, of_element))):
        for index, (members, block) in enumerate(zip(lists, blocks_of, strict=True)):
            touched[block] |= {node for node in members if node in place}
            held[block][sort].append(index)
    parts = tuple(
        Part(
            inner=nodes, hubs=tuple(sorted((place[node], node) for node in touched[n])),
            switches=tuple(held[n][0]), elements=tuple(held[n][1]),
        )
        for n, nodes in enumerate(inner)
    )  # fmt: skip
    return Parted(hubs=tuple(hubs), parts=parts, part_of_switch=of_switch, part_of_element=of_element)
