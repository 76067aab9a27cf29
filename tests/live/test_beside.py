"""Ways beside a wire that hide that it is open: bridges of networkx, and the resistance of the dead panel as oracle."""

import networkx as nx
import pytest

from effort import examples
from panels import panel_text
from riktig.catalogue.model import CONTACT_KINDS
from riktig.live.beside import LITTLE_OHM, THE_PLATE, ways_beside
from riktig.live.built import Built
from riktig.live.resistance import build_network, resistance_between
from riktig.plan.plan import Plan
from support import demo_text, plan_of


@pytest.fixture(scope="module", params=["iec", "ul", *range(examples(10))])
def plan(request: pytest.FixtureRequest) -> Plan:
    return plan_of(demo_text(request.param) if isinstance(request.param, str) else panel_text(request.param))


def test_what_the_plate_joins_is_lifted_and_nothing_else_of_a_tree(plan: Plan) -> None:
    """Each potential is wired as a tree; the plate joins earth terminals of its rails, its stud and the bar. Else two contacts that are
    closed side by side hide each other's wires.
    """
    found = ways_beside(plan)
    earths = {c.id for c in plan.conductors if c.is_wired and c.number == "PE"}
    by_plate = {wire for wire, over in found.items() if THE_PLATE in over}
    assert by_plate and by_plate <= earths
    contacts = {d.id for d in plan.circuit.devices if any(e.kind in CONTACT_KINDS for e in plan.parts[d.id].elements)}
    assert all(contacts & {*over, *(end.rpartition(":")[0] for end in wire.split(" ")[:2])}
               for wire, over in found.items() if wire not in by_plate)  # fmt: skip


def test_a_wire_that_is_no_bridge_of_the_graph_is_one_with_a_way_beside(plan: Plan) -> None:
    """networkx as oracle, without the plate: then nothing lies beside any wire of a tree, and of a doubled wire both do."""
    graph = nx.Graph((r.a, r.b) for r in build_network(plan) if r.ohms <= LITTLE_OHM)
    alone = {frozenset(edge) for edge in nx.bridges(graph)}
    beside = {c.id for c in plan.conductors if c.is_wired and frozenset((c.a, c.b)) not in alone}
    assert beside <= ways_beside(plan).keys()


def test_an_open_wire_with_nothing_beside_it_reads_open(plan: Plan) -> None:
    beside = ways_beside(plan)
    wires = [c for c in plan.conductors if c.is_wired and c.id not in beside]
    for wire in wires[:: max(1, len(wires) // examples(200))]:
        network = build_network(plan, Built(ends={wire.id: None}))
        assert resistance_between(network, wire.a, wire.b) > LITTLE_OHM / 4, wire.id
