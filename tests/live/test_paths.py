"""What closes, cuts and stays joined, against brute force over all subsets of contacts of small circuits drawn at random."""

import random
from dataclasses import dataclass, field
from itertools import combinations

import networkx as nx
import pytest

from riktig.live.paths import Gap, Ways


@dataclass
class Board:
    """A bare rig: contacts between nodes, one source, and a load between two nodes."""

    switches: list[tuple[int, int]]
    closed: list[bool]
    sources: list[tuple[str, tuple[int, ...]]]
    elements: tuple[()] = ()
    laws: tuple[()] = ()
    pole_ends: dict[int, tuple[str, str]] = field(default_factory=dict)

    @property
    def switch_ends(self) -> list[tuple[str, str]]:
        return [(f"K{n}:1", f"K{n}:2") for n in range(len(self.switches))]


def board(seed: int) -> Ways:
    rng = random.Random(seed)
    pairs = [(a, b) for a, b in ((rng.randrange(1, 8), rng.randrange(1, 8)) for _ in range(9)) if a != b]
    made = Board(pairs, [rng.random() < 0.35 for _ in pairs], [("C1", (1, 2))])
    return Ways(made, made)  # type: ignore[arg-type]


ENDS = (3, 4)


def graph(gaps: list[Gap]) -> nx.Graph:
    found = nx.Graph()
    found.add_nodes_from(range(1, 8))
    found.add_edges_from(gap.nodes for gap in gaps)
    return found


def is_fed(gaps: list[Gap]) -> bool:
    """Return whether the load hangs on both poles and is not bridged."""
    joined = graph(gaps)
    a, b = (nx.node_connected_component(joined, end) for end in ENDS)
    return b != a and ((1 in a and 2 in b) or (2 in a and 1 in b))


def smallest(candidates: list[Gap], is_right) -> set[frozenset[Gap]]:  # type: ignore[no-untyped-def]
    for count in range(len(candidates) + 1):
        found = {frozenset(some) for some in combinations(candidates, count) if is_right(some)}
        if found:
            return found
    return set()


@pytest.mark.parametrize("seed", range(200))
def test_what_closes_and_what_cuts_are_the_smallest_sets(seed: int) -> None:
    ways = board(seed)
    closed = [gap for gap in ways.gaps if gap.is_closed]
    wanted = smallest([gap for gap in ways.gaps if not gap.is_closed], lambda some: is_fed([*closed, *some]))
    assert set(ways.what_closes(ENDS)) == wanted

    def never(opened: tuple[Gap, ...]) -> bool:
        joined = graph([gap for gap in ways.gaps if gap not in opened])
        a, b = (nx.node_connected_component(joined, end) for end in ENDS)
        return not ((1 in a and 2 in b) or (2 in a and 1 in b))

    cuts = smallest(list(ways.gaps), never)
    assert set(ways.cuts(ENDS, most=9)) == cuts


@pytest.mark.parametrize("seed", range(100))
def test_what_is_redundant_is_no_bridge_of_what_is_closed(seed: int) -> None:
    ways = board(seed)
    closed = [gap for gap in ways.gaps if gap.is_closed]
    for gap in closed:
        rest = graph([other for other in closed if other is not gap])
        assert (gap in ways.in_rings()) == nx.has_path(rest, *gap.nodes)
