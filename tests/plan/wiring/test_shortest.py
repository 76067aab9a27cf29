"""The shortest wires under the limits of the clamps: against every tree, and against networkx's minimum spanning tree."""

from itertools import product

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from riktig.files.brief_reader import parse_brief
from riktig.job import edits
from riktig.plan.changes.wires import rewire
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.plan.wiring.capacities import Capacities
from riktig.plan.wiring.shortest import MOST_EXACT, join_shortest
from strategies import panels
from support import HEAD, STARTER, job_of


def manhattan(points: list[tuple[int, int]]) -> np.ndarray:
    array = np.array(points, dtype=float)
    return np.abs(array[:, None, :] - array[None, :, :]).sum(axis=2)


def least_of_all_trees(lengths: np.ndarray, room: list[int]) -> float:
    """Return the least total over all trees, read from Prüfer's codes by networkx."""
    best = np.inf
    for code in product(range(len(room)), repeat=len(room) - 2):
        tree = nx.from_prufer_sequence(list(code))
        if all(degree <= room[node] for node, degree in tree.degree):
            best = min(best, sum(lengths[a, b] for a, b in tree.edges))
    return float(best)


POINTS = st.tuples(st.integers(0, 900), st.integers(0, 60).map(lambda y: 25 * y))


@settings(max_examples=examples(40))
@given(st.lists(st.tuples(POINTS, st.sampled_from([1, 2, 2, 2, 3])), min_size=3, max_size=6))
def test_few_terminals_are_joined_by_the_least_tree_there_is(given_points: list[tuple[tuple[int, int], int]]) -> None:
    lengths, room = manhattan([p for p, _ in given_points]), [r for _, r in given_points]
    edges = join_shortest(lengths, [[n] for n in range(len(room))], room)
    exact = least_of_all_trees(lengths, room)
    assert nx.is_tree(nx.Graph(edges)) and len(edges) == len(room) - 1
    if np.isfinite(exact):
        degree = nx.Graph(edges).degree
        assert all(degree[n] <= room[n] for n in range(len(room)))
        assert sum(lengths[a, b] for a, b in edges) == pytest.approx(exact)


@settings(max_examples=examples(30))
@given(st.lists(POINTS, min_size=MOST_EXACT + 1, max_size=40, unique=True))
def test_many_terminals_keep_their_limits_near_the_bound_of_the_spanning_tree(points: list[tuple[int, int]]) -> None:
    """A chain of two in each clamp is never shorter than the minimum spanning tree (networkx), and here at most 1.6 times it."""
    lengths, room = manhattan(points), [2] * len(points)
    edges = join_shortest(lengths, [[n] for n in range(len(points))], room)
    graph = nx.Graph(edges)
    assert nx.is_tree(graph) and max(dict(graph.degree).values()) <= 2
    total = sum(lengths[a, b] for a, b in edges)
    complete = nx.Graph()
    complete.add_weighted_edges_from((a, b, lengths[a, b]) for a in range(len(points)) for b in range(a))
    bound = nx.minimum_spanning_tree(complete).size(weight="weight")
    assert bound - 1e-6 <= total <= 1.6 * bound


def test_what_is_joined_already_is_joined_no_more() -> None:
    lengths = manhattan([(0, 0), (10, 0), (20, 0), (30, 0), (1000, 0)])
    edges = join_shortest(lengths, [[0, 4], [1], [2, 3]], [1, 2, 2, 1, 1])
    assert len(edges) == 2 and nx.is_tree(nx.Graph([*edges, (0, 4), (2, 3)]))


def total_m(plan: Plan) -> float:
    return sum(c.length_mm for c in plan.conductors if c.kind == "wire") / 1000


@settings(max_examples=15)
@given(panels())
def test_shortest_wiring_is_whole_within_limits_and_never_longer(text: str) -> None:
    job = parse_brief(text)
    drawn = compute_plan(job)
    plan = compute_plan(rewire(edits.change_part(job, "practice", wiring="shortest")))
    capacities = Capacities(plan.parts, plan.clamps, plan.twins)
    for link in plan.links:
        capacities.use(link)
    assert all(capacities.left(t) >= 0 for link in plan.links for t in (link.a, link.b))
    graph = nx.Graph((c.a, c.b) for c in plan.conductors)
    for potential in plan.potentials:
        if len(potential.net.terminals) > 1:
            assert set(potential.net.terminals) <= nx.node_connected_component(graph, potential.net.terminals[0])
    assert len(plan.conductors) == len(drawn.conductors)
    assert total_m(plan) <= total_m(drawn) + 1.0


def test_the_choice_moves_no_wire_that_is_there_and_shortens_a_large_panel() -> None:
    head = HEAD.replace("[supply]", '[practice]\ndistribution = "chain"\n[supply]')
    job = job_of(head + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 13)))
    chosen = settle(edits.change_part(job, "practice", wiring="shortest"))
    assert chosen.ledger.links == job.ledger.links
    shorter = compute_plan(rewire(chosen))
    assert total_m(shorter) < 0.99 * total_m(compute_plan(job))
    wired = rewire(chosen)
    more = settle(edits.duplicate_starter(wired, "M1"))
    gone = set(wired.ledger.links) - set(more.ledger.links)
    assert gone == set(), "a new starter re-chains nothing between parts that did not move"
