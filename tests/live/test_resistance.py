"""The dead panel as a network of resistors, against networkx and by hand."""

import math

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from riktig.live.resistance import Resistor, build_network, resistance_between
from support import HEAD, STARTER, plan_of


@settings(max_examples=examples(40))
@given(st.lists(st.tuples(st.integers(0, 6), st.integers(0, 6), st.floats(0.1, 1000)), min_size=1, max_size=15))
def test_the_resistance_is_that_of_the_reference_library(edges: list[tuple[int, int, float]]) -> None:
    """networkx.resistance_distance as oracle; parallel resistors add as conductances there by hand."""
    network = tuple(Resistor(a=str(a), b=str(b), ohms=r) for a, b, r in edges if a != b)
    graph: nx.Graph = nx.Graph()
    for r in network:
        before = graph.get_edge_data(r.a, r.b, {"conductance": 0.0})["conductance"]
        graph.add_edge(r.a, r.b, conductance=before + 1 / r.ohms)
    for target in map(str, range(7)):
        got = resistance_between(network, "0", target)
        if target == "0":
            assert got == 0
        elif "0" in graph and target in graph and nx.has_path(graph, "0", target):
            part = graph.subgraph(nx.node_connected_component(graph, "0"))
            assert got == pytest.approx(
                nx.resistance_distance(part, "0", target, "conductance", invert_weight=False), rel=1e-6
            )
        else:
            assert math.isinf(got)


def test_a_coil_reads_by_the_volts_of_its_own_supply() -> None:
    """By hand: the same VA at 24 V instead of 230 V has (24 / 230)² of the ohms; a relay of 24 V DC beside a contactor of 230 V AC."""
    text = HEAD + '[control.C2]\nkind = "psu"\n' + STARTER + STARTER.replace("M1", "M2").replace('"C1"', '"C2"')
    plan = plan_of(text)
    network = build_network(plan)
    ohms = [next(r.ohms for r in network if {r.a, r.b} == {f"M{n}.K:A1", f"M{n}.K:A2"}) for n in (1, 2)]
    hold = [plan.parts[f"M{n}.K"].rating("hold_va") for n in (1, 2)]
    assert ohms[1] / ohms[0] == pytest.approx((24 / 230) ** 2 * hold[0] / hold[1])


def test_a_coil_reads_through_and_an_open_contact_does_not() -> None:
    plan = plan_of(HEAD + STARTER)
    network = build_network(plan)
    assert 100 < resistance_between(network, "M1.K:A1", "M1.K:A2") < 10_000
    assert math.isinf(resistance_between(network, "M1.Q:1", "M1.Q:2")), "breakers are open in the dead test"
    assert resistance_between(network, "M1.S0:11", "M1.S0:12") < 0.1
