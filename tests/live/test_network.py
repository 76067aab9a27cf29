"""The solver against ngspice, on networks drawn at random: loads of any angle, DC, sources, transformers, switches, floating islands."""

import cmath
import random
import shutil

import networkx as nx
import numpy as np
import pytest

from effort import examples
from live.spice import Branch, ask_spice
from riktig.live import laws
from riktig.live.network import Network

pytestmark = pytest.mark.skipif(shutil.which("ngspice") is None, reason="ngspice is not installed")


def draw(seed: int) -> tuple[Network, list[Branch], int]:
    """Return a network with half of its switches closed, and the same as branches: DC for odd seeds, AC for even ones."""
    rng, is_dc = random.Random(seed), seed % 2 == 1
    nodes = rng.randint(3, 60)
    pairs = [(rng.randrange(nodes), rng.randrange(nodes)) for _ in range(rng.randint(2, 2 * nodes))]
    pairs = [(a, b) for a, b in pairs if a != b]
    switches = [(rng.randrange(nodes), rng.randrange(nodes)) for _ in range(nodes // 3)]
    network = Network(nodes, switches, pairs)
    merged = nx.Graph()
    merged.add_nodes_from(range(nodes))
    for n, (a, b) in enumerate(switches):
        if rng.random() < 0.5:
            network.switch(n, is_closed=True)
            merged.add_edge(a, b)
    root = {node: min(group) for group in nx.connected_components(merged) for node in group}
    branches = []
    for n, (a, b) in enumerate(pairs):
        siemens = 10 ** rng.uniform(-4, 1) * (1 if is_dc else cmath.exp(1j * rng.uniform(-1.4, 1.4)))
        volts = rng.choice([0, 0, 0, 24, 230]) * (1 if is_dc else cmath.exp(1j * rng.uniform(-3, 3)))
        if is_dc:
            network.put(n, laws.source(0j, volts, 0j, siemens))
        else:
            network.put(n, laws.source(volts, 0.0, siemens, 0.0))
        if root[a] != root[b]:
            branches.append(Branch(root[a], root[b], siemens, volts))
    return network, branches, nodes


def islands_of(network: Network, branches: list[Branch]) -> list[list[int]]:
    graph = nx.Graph()
    graph.add_nodes_from(range(network.count))
    graph.add_edges_from((branch.a, branch.b) for branch in branches)
    graph.add_edges_from(network.switches[n] for n, closed in enumerate(network.closed) if closed)
    return [sorted(group) for group in nx.connected_components(graph)]


@pytest.mark.parametrize("first", range(0, 300, 25))
def test_volts_are_those_of_ngspice(first: int) -> None:
    """Within 0.1 % of the largest; where nothing joins to earth, between the nodes of the island."""
    for seed in range(first, first + 25):
        network, branches, nodes = draw(seed)
        volts = network.solve()
        ours = volts.dc if seed % 2 else volts.ac
        islands = islands_of(network, branches)
        merged = {branch_end for branch in branches for branch_end in (branch.a, branch.b)}
        anchors = [Branch(0, island[0], 1.0) for island in islands if 0 not in island]
        lone = [Branch(0, node, 1.0) for node in range(1, nodes) if node not in merged]
        theirs = ask_spice(nodes, [*branches, *anchors, *lone], is_dc=seed % 2 == 1)
        graph = nx.Graph(network.switches[n] for n, closed in enumerate(network.closed) if closed)
        graph.add_nodes_from(range(nodes))
        root = {node: min(group) for group in nx.connected_components(graph) for node in group}
        scale = max(1.0, *(abs(v) for v in theirs))
        for island in islands:
            ground = 0 if 0 in island else island[0]
            for node in island:
                wanted = theirs[root[node]] - theirs[root[ground]]
                assert abs(ours[node] - ours[ground] - wanted) <= 1e-3 * scale, (seed, node)


def test_a_switch_that_moves_gives_what_a_network_made_anew_gives() -> None:
    """What is kept of blocks and hubs must not differ from what is computed afresh."""
    for seed in range(examples(250)):
        network, _, _ = draw(seed)
        rng = random.Random(seed)
        for _ in range(30):
            index = rng.randrange(len(network.switches)) if network.switches else None
            if index is not None:
                network.switch(index, is_closed=not network.closed[index])
            fresh = Network(network.count, network.switches, network.elements)
            for n, closed in enumerate(network.closed):
                fresh.switch(n, is_closed=closed)
            for n, law in enumerate(network.laws):
                fresh.put(n, law)
            kept, anew = network.solve(), fresh.solve()
            assert np.allclose(kept.ac, anew.ac, rtol=1e-6, atol=1e-6) and np.allclose(
                kept.dc, anew.dc, rtol=1e-6, atol=1e-6
            )


def test_a_transformer_sags_by_its_leakage_and_its_secondary_floats_until_it_is_bonded() -> None:
    """By hand: 400/230 V, 160 VA, 6 % of 331 ohm in series: at its load of 331 ohm 230/1.06 = 217 V, at no load 230 V."""
    z = 230**2 / 160
    network = Network(4, [(0, 3)], [(0, 1), (0, 1, 3, 2), (2, 3)])
    network.put(0, laws.source(400 + 0j, 0.0, 1e6 + 0j, 0.0))
    network.put(1, laws.transformer(400 / 230, 1 / (0.06 * z) + 0j, 0j, (0.0, 0.0)))
    volts = network.solve().ac
    assert abs(volts[2] - volts[3]) == pytest.approx(230, rel=1e-3)
    network.put(2, laws.admittance(1 / z + 0j, 0.0))
    network.switch(0, is_closed=True)
    volts = network.solve().ac
    assert abs(volts[2]) == pytest.approx(230 / 1.06, rel=1e-3) and volts[3] == 0
