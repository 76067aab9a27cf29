"""Each wire and core of a motor's way carries what flows through it: the currents of the motors that it alone leads to, found by taking
it out of the whole panel as a graph (networkx), against tables typed in again in `recalculate`, and those without any factor but the
best: a wire that fails here is wrong in any air and company.
"""

from collections.abc import Iterator
from math import inf, sqrt

import networkx as nx
import pytest

from effort import examples
from oracle.recalculate import B1, NEC_FIELD, UL_INSIDE, E
from panels import roomy_panel_text
from riktig.catalogue.model import LANE_KINDS
from riktig.plan.circuit.zones import device_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from support import HEAD, plan_of

COLD = 1.15
"""IEC 60204-1 Table D.1 at 30 degC, from memory."""
JOINING = {"KS", "KR"}
"""Star and reversing contactors join the phases, and are left open."""
BETWEEN = """[incoming]
main_contactor = true
[phase_relay.K10]
[starter.M1]
kw = 22
supply = "C1"
"""


def carries_a(wire: Conductor, *, is_metric: bool) -> float:
    """Return the most that a wire or core carries in the best circumstances, infinite beyond the tables."""
    if is_metric:
        return COLD * (E if wire.kind == "core" else B1).get(wire.size.mm2, inf)
    return (NEC_FIELD if wire.kind == "core" else UL_INSIDE).get(wire.size.label().split()[0], inf)


def graph_of(plan: Plan) -> nx.Graph:
    graph = nx.Graph()
    for device, part in plan.parts.items():
        if device.rpartition(".")[2] not in JOINING:
            poles = (e.marks for e in part.elements if e.kind in LANE_KINDS and len(e.marks) == 2)
            graph.add_edges_from((f"{device}:{a}", f"{device}:{b}") for a, b in poles)
    for conductor in plan.conductors:
        graph.add_edge(conductor.a, conductor.b, wire=conductor)
    return graph


def flows(plan: Plan) -> Iterator[tuple[Conductor, float]]:
    """Yield each wire and core that leads to motors alone, with their current in A: the sum where all may run, else the largest."""
    graph = graph_of(plan)
    may_all_run = not any(starter.never_with for starter in plan.job.starters)
    for line in plan.job.supply.lines:
        way_in = next(p for p in plan.potentials if f"in.{line}" in p.net.names or p.number in {f"in.{line}", line})
        entry = [c.id for c in plan.clamps if c.number == way_in.number and c.drop == "incoming"]
        source = next(end for end in (*entry, *way_in.net.terminals) if end in graph)
        there = nx.node_connected_component(graph, source)
        phase = graph.subgraph(there).copy()
        ends = {name: [t for t in there if device_of(t) == name] for name in plan.motors}
        for a, b in list(nx.bridges(phase)):
            wire = phase.edges[a, b].get("wire")
            if wire is None or not wire.is_wired:
                continue
            data = phase.edges[a, b]
            phase.remove_edge(a, b)
            lost = there - nx.node_connected_component(phase, source)
            phase.add_edge(a, b, **data)
            amps = [
                plan.motors[name].current / (1.0 if lost.issuperset(found) else sqrt(3.0))
                for name, found in ends.items()
                if not lost.isdisjoint(found)
            ]
            if amps:
                yield wire, sum(amps) if may_all_run else max(amps)


def overloaded(plan: Plan) -> tuple[int, list[str]]:
    found = list(flows(plan))
    thin = [
        f"{wire.number} {wire.a} {wire.b} {wire.size.label()} for {amps:.1f} A"
        for wire, amps in found
        if carries_a(wire, is_metric=plan.laid_inside.metric) < 0.999 * amps
    ]
    return len(found), thin


@pytest.mark.parametrize("seed", range(0, 300, 300 // examples(60)))
def test_no_wire_is_too_thin_for_the_motors_behind_it(seed: int) -> None:
    count, thin = overloaded(plan_of(roomy_panel_text(seed)))
    assert count and thin == []


def test_what_is_tapped_between_main_switch_and_main_contactor_leaves_the_main_conductors_as_they_are() -> None:
    """A phase relay behind 2 A is tapped there; 22 kW draws 41 A through the same potential."""
    plan = plan_of(HEAD + BETWEEN)
    count, thin = overloaded(plan)
    assert count and thin == []
    main = plan.sections.inside["L1"].mm2
    ends = {"Q0:2/T1", "incoming.K:1/L1"}
    assert {c.size.mm2 for c in plan.conductors if c.is_wired and ends & {c.a, c.b}} == {main}
