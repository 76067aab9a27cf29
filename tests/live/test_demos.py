"""Each rest that the demos come to in their scripts, against ngspice: the volts of every node, AC and DC."""

import shutil
from collections.abc import Iterator

import networkx as nx
import pytest

from live.spice import Branch, ask_spice
from riktig.live.network import Network
from riktig.live.simulation import Simulation
from support import demo_text, plan_of

pytestmark = pytest.mark.skipif(shutil.which("ngspice") is None, reason="ngspice is not installed")
STEPS = {
    "iec": (
        "",
        "E1.SB push",
        "M2.S1 push",
        "20",
        "M1.S1 push",
        "M3.S1 push",
        "M5.SL turn hand",
        "A1.S turn test",
        "10",
        "E1.S1 press",
    ),
    "ul": ("", "E1.SB push", "M1.S1 push", "20", "M3.S1 push", "M4.S1 push", "B8 close", "10", "Q0 open"),
}


def branches_of(network: Network, *, is_dc: bool) -> Iterator[Branch]:
    """Yield the network as plain branches: each pair of terminals of an element, and what it drives, as a source behind 1 S.

    What a transformer couples is no branch; its two sides are taken as they are, with what the other gives them as a source.
    """
    volts = network.solve()
    now = volts.dc if is_dc else volts.ac
    for nodes, law in zip(network.elements, network.laws, strict=True):
        matrix, drive = (law.dc, law.dc_drive) if is_dc else (law.ac, law.ac_drive)
        for i, a in enumerate(nodes):
            for j in range(i + 1, len(nodes)):
                siemens = -matrix[i, j]
                if (i, j) in {(0, 2), (0, 3), (1, 2), (1, 3)} and len(law.joins) == 2 and len(nodes) == 4:
                    continue
                if siemens:
                    given = -complex(drive[i]) / complex(siemens) if len(nodes) == 2 else 0j
                    if len(nodes) == 4 and len(law.joins) == 2 and (i, j) in {(0, 1), (2, 3)}:
                        far = (2, 3) if i == 0 else (0, 1)
                        given = complex(
                            matrix[i, far[0]] * now[nodes[far[0]]] + matrix[i, far[1]] * now[nodes[far[1]]]
                        ) / complex(siemens)
                    yield Branch(a, nodes[j], complex(siemens), given)


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_every_rest_of_a_demo_has_the_volts_of_ngspice(world: str) -> None:
    """Within 0.1 % of the largest."""
    live = Simulation(plan_of(demo_text(world)))
    for step in STEPS[world]:
        device, _, verb = step.partition(" ")
        if verb == "push":
            for half in ("press", "release"):
                live.act(device, half)
                live.rest()
        elif verb:
            live.act(device, *verb.split())
            live.rest()
        elif step:
            live.run(float(step))
        for is_dc in (False, True):
            compare(live.network, is_dc=is_dc)


def prepared(network: Network, *, is_dc: bool) -> tuple[list[Branch], dict[int, int], list[list[int]]]:
    """Return the branches for ngspice, with what holds islands that nothing joins to earth, the root of each node, and the islands."""
    graph = nx.Graph()
    graph.add_nodes_from(range(network.count))
    graph.add_edges_from(network.switches[n] for n, closed in enumerate(network.closed) if closed)
    root = {node: min(group) for group in nx.connected_components(graph) for node in group}
    branches = [
        Branch(root[b.a], root[b.b], b.siemens, b.volts)
        for b in branches_of(network, is_dc=is_dc)
        if root[b.a] != root[b.b]
    ]
    joined = nx.Graph((b.a, b.b) for b in branches)
    joined.add_nodes_from(root.values())
    islands = [sorted(group) for group in nx.connected_components(joined)]
    anchors = [Branch(0, island[0], 1.0) for island in islands if 0 not in island]
    return [*branches, *anchors, *(Branch(0, n, 1.0) for n in root if root[n] != n)], root, islands


def compare(network: Network, *, is_dc: bool) -> None:
    branches, _, islands = prepared(network, is_dc=is_dc)
    theirs = ask_spice(network.count, branches, is_dc=is_dc)
    ours = network.solve().dc if is_dc else network.solve().ac
    scale = max(1.0, *(abs(v) for v in theirs))
    for island in islands:
        ground = 0 if 0 in island else island[0]
        for node in island:
            assert abs(ours[node] - ours[ground] - (theirs[node] - theirs[ground])) <= 1e-3 * scale, node
