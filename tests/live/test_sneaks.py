"""Sneak paths against brute force: every contact of small circuits drawn at random opened once, volts by a pseudo-inverse."""

import random

import networkx as nx
import numpy as np
import pytest

from effort import examples
from riktig.files.brief_reader import BriefError
from riktig.live.questions import sneak_paths
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan
from support import HEAD, plan_of

VOLTS, SHINES = 230.0, 0.05


def draw(seed: int) -> tuple[Plan, list[tuple[str, str, str]]] | None:
    """Return a circuit of lamps and closed switches between a supply and three points, and its elements as (device, node, node)."""
    rng = random.Random(seed)
    parts, edges, rungs = [], [], []
    for n in range(rng.randint(3, 7)):
        start, end = rng.sample(["C1+", "C1-", "@a", "@b", "@c"], 2)
        kind = rng.choice(["P", "S", "SP"])
        names = [f"{letter}{n}" for letter in kind]
        middle = f"#{n}"
        nodes = [start, end] if len(names) == 1 else [start, middle, end]
        for name, a, b in zip(names, nodes, nodes[1:], strict=False):
            edges.append((name, a, b))
            extra = 'kind = "lamp"' if name[0] == "P" else 'kind = "switch"\ncontacts = ["nc"]'
            parts.append(f"[device.{name}]\n{extra}\n")
        items = " > ".join(f"{name}:nc" if name[0] == "S" else name for name in names)
        rungs.append(f'[[rung]]\npath = "{start} > {items} > {end}"\n')
    closed = nx.Graph([("C1+", "C1+"), ("C1-", "C1-"), *((a, b) for name, a, b in edges if name[0] == "S")])
    if nx.has_path(closed, "C1+", "C1-"):
        return None
    try:
        return plan_of(HEAD + "".join(parts) + "".join(rungs)), edges
    except BriefError:
        return None


def by_force(edges: list[tuple[str, str, str]]) -> tuple[set[tuple[str, str]], bool]:
    """Return the pairs (opened, lamp that is fed through another), and whether any of them is too near the limit to tell."""
    found, is_near = set(), False
    for opened in (name for name, *_ in edges if name[0] == "S"):
        for state, is_before in ((edges, True), ([e for e in edges if e[0] != opened], False)):
            volts, reached = solve(state)
            for name, a, b in state:
                across = abs(volts[a] - volts[b])
                is_near |= 0.8 * SHINES * VOLTS < across < 1.25 * SHINES * VOLTS
                if name[0] == "P" and across >= SHINES * VOLTS and not (a in reached and b in reached):
                    found.discard((opened, name)) if is_before else found.add((opened, name))
                    if is_before:
                        found.add((opened, f"already {name}"))
    already = {(opened, name.removeprefix("already ")) for opened, name in found if name.startswith("already ")}
    return {pair for pair in found if not pair[1].startswith("already ")} - already, is_near


def solve(edges: list[tuple[str, str, str]]) -> tuple[dict[str, float], set[str]]:
    """Return the volts of each node to the return, and the nodes that closed contacts join to the supply."""
    closed = nx.Graph()
    closed.add_nodes_from({node for _, *ends in edges for node in ends} | {"C1+", "C1-"})
    closed.add_edges_from((a, b) for name, a, b in edges if name[0] == "S")
    group = {node: n for n, nodes in enumerate(nx.connected_components(closed)) for node in nodes}
    size = max(group.values()) + 1
    matrix = np.zeros((size, size))
    for name, a, b in edges:
        if name[0] == "P" and group[a] != group[b]:
            matrix[np.ix_([group[a], group[b]], [group[a], group[b]])] += [[1, -1], [-1, 1]]
    known = {group["C1+"]: VOLTS, group["C1-"]: 0.0}
    free = [n for n in range(size) if n not in known]
    volts = np.zeros(size)
    for n, value in known.items():
        volts[n] = value
    if free:
        volts[free] = np.linalg.pinv(matrix[np.ix_(free, free)]) @ -(
            matrix[np.ix_(free, list(known))] @ list(known.values())
        )
    reached = {node for node, n in group.items() if n in known}
    return {node: float(volts[n]) for node, n in group.items()}, reached


@pytest.mark.parametrize("first", range(0, examples(400), 20))
def test_sneak_paths_are_those_of_brute_force(first: int) -> None:
    tried = 0
    for seed in range(first, first + 20):
        drawn = draw(seed)
        if drawn is None:
            continue
        plan, edges = drawn
        wanted, is_near = by_force(edges)
        if is_near:
            continue
        tried += 1
        found = {(sneak.opened, sneak.load) for sneak in sneak_paths(Simulation(plan)) if sneak.opened[0] == "S"}
        assert found == wanted, seed
    assert tried >= 3
