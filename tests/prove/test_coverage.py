"""Which faults the dead tests reveal, against a resistance calculation of its own."""

from math import inf

import networkx as nx
import pytest

from effort import examples
from riktig.job.scripts import Script
from riktig.job.scripts import Step as ScriptStep
from riktig.live.built import AS_PLANNED, Built
from riktig.live.derive import derive_tests
from riktig.live.names import Names
from riktig.live.resistance import element_resistors
from riktig.live.rig import WiringState
from riktig.live.scripts import play_on
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.prove.coverage import cover_by_functions, cover_faults, report_faults
from riktig.prove.faults import Fault, Slip, list_faults
from riktig.prove.program import list_steps
from riktig.prove.steps import Phase, Step
from riktig.standards.iec_60228 import resistance_ohm_per_m
from support import HEAD, STARTER, demo_text, plan_of

DEAD = {Phase.THROUGH, Phase.BOND, Phase.APART}


def measured_as_it_stands(step: Step) -> bool:
    """Return whether a step is measured with all earth links out."""
    return step.phase in DEAD and not (step.phase is Phase.BOND and step.prepare)


def far_of(wire: Conductor, device: str) -> str:
    return wire.b if wire.a.startswith(f"{device}:") else wire.a


class Independent:
    """A panel as networkx sees it: each conductor as it ends, each thing that conducts at rest."""

    def __init__(self, plan: Plan, built: Built) -> None:
        self.plan, self.built = plan, built
        motors = {d.id for d in plan.circuit.devices if d.kind == "motor"}
        self.graph = nx.MultiGraph()
        for c in plan.conductors:
            ends = built.ends.get(c.id, (c.a, c.b))
            if ends is not None:
                self.graph.add_edge(*ends, ohms=resistance_ohm_per_m(c.size.mm2) * c.length_mm / 1000 + 0.01)
        for a, b in built.extra:
            self.graph.add_edge(a, b, ohms=0.005)
        for one in element_resistors(plan, built):
            if one.of not in motors and one.a != one.b:
                self.graph.add_edge(one.a, one.b, ohms=one.ohms)

    def reads(self, step: Step) -> float:
        if step.prepare and step.phase is Phase.THROUGH:
            ends = self.built.ends.get(step.wire or "", (step.a[0], step.b[0]))
            return 0.0 if ends is not None and set(ends) == {step.a[0], step.b[0]} else inf
        sides = dict.fromkeys(step.a, "side a") | dict.fromkeys(step.b, "side b")
        if not set(step.a).isdisjoint(step.b):
            return 0.0
        graph = nx.relabel_nodes(self.graph, {k: v for k, v in sides.items() if k in self.graph}, copy=True)
        if "side a" not in graph or "side b" not in graph or not nx.has_path(graph, "side a", "side b"):
            return inf
        part = nx.Graph(graph.subgraph(nx.node_connected_component(graph, "side a")))
        for a, b in part.edges:
            part[a][b]["ohms"] = 1 / sum(1 / e["ohms"] for e in graph[a][b].values())
        return float(nx.resistance_distance(part, "side a", "side b", "ohms", invert_weight=True))


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_what_is_said_to_be_revealed_fails_in_the_reference_library(world: str) -> None:
    """networkx.resistance_distance as oracle, faults drawn over the whole list: the first step that reveals a fault fails there."""
    plan = plan_of(demo_text(world))
    steps = list_steps(plan)
    covers = [c for c in cover_faults(plan, steps, list_faults(plan)) if c.fault.built is not None]
    for cover in covers[:: max(1, len(covers) // examples(14))]:
        dead = [s for s in cover.steps if s.phase in DEAD]
        if dead:
            assert not dead[0].is_passed(Independent(plan, cover.fault.built or AS_PLANNED).reads(dead[0]) + 0.1), (
                cover.fault.words
            )


def test_no_dead_test_reveals_what_is_said_to_be_hidden_and_each_has_a_reason() -> None:
    plan = plan_of(HEAD + STARTER)
    steps = list_steps(plan)
    hidden = [c for c in cover_faults(plan, steps, list_faults(plan)) if not c.steps]
    for cover in hidden:
        panel = Independent(plan, cover.fault.built or AS_PLANNED)
        assert cover.because
        assert all(s.is_passed(panel.reads(s) + 0.1) for s in steps if measured_as_it_stands(s)), cover.fault.words


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_nearly_every_slip_is_revealed_before_the_supply_is_switched_on(world: str) -> None:
    plan = plan_of(demo_text(world))
    covers = cover_faults(plan, list_steps(plan), list_faults(plan))
    assert {c.fault.slip for c in covers} >= {
        Slip.OPEN,
        Slip.SWAPPED,
        Slip.BESIDE,
        Slip.LIKE,
        Slip.TURNED,
        Slip.DIAL,
        Slip.EXTRA_BRIDGE,
    }
    hidden = [c for c in covers if not c.steps]
    assert len(hidden) <= 0.02 * len(covers)
    assert not [c for c in hidden if c.fault.slip in {Slip.OPEN, Slip.DIAL, Slip.TURNED, Slip.POSITION}]


def test_a_function_test_shows_a_stop_that_is_bridged_and_nothing_measured_does() -> None:
    """What bridges a closed contact reads as it does: only a stop that stops nothing tells."""
    plan = plan_of(HEAD + STARTER)
    bridged = Fault(
        key="x", slip=Slip.EXTRA_BRIDGE, words="stop bridged", built=Built(extra=(("M1.S0:11", "M1.S0:12"),)), at=("M1.S0:11",), mend=""
    )  # fmt: skip
    assert cover_faults(plan, list_steps(plan), [bridged])[0].steps == ()
    steps = (ScriptStep(do=("push M1.S1",), expect=("M1.K on",)), ScriptStep(do=("press M1.S0",), expect=("M1.K off",)))
    assert list(cover_by_functions(plan, Script(steps=steps), [bridged])) == [(bridged, 2)]


def test_two_ends_exchanged_about_one_contact_work_the_same_and_are_found_by_their_numbers() -> None:
    """A contact has no direction: with both ends of a stop exchanged every kept script of the demo comes out as it should."""
    plan = plan_of(demo_text("iec"))
    (one,), (other,) = (plan.conductors_at[f"M1.S0:{mark}"] for mark in ("11", "12"))
    ends = {one.id: (far_of(one, "M1.S0"), "M1.S0:12"), other.id: (far_of(other, "M1.S0"), "M1.S0:11")}
    for script in plan.job.scripts:
        panel = Simulation(plan, WiringState(built=Built(ends=ends)))
        assert not [miss for played in play_on(panel, Names(panel), script) for miss in played.misses]
    crossed = [f for f in list_faults(plan) if f.slip is Slip.CROSSED]
    assert crossed and all(f.built is None for f in crossed)
    assert all(
        c.first is not None and c.first.phase is Phase.LOOK for c in cover_faults(plan, list_steps(plan), crossed)
    )


STATIONED = HEAD + STARTER.replace("[starter.M1]\n", '[starter.M1]\nkind = "reversing"\nbuttons_at = ["door", "st1"]\n')


def test_functions_reveal_what_no_dead_measurement_does_and_each_is_told_with_its_first_step() -> None:
    """A start beside a stop at a second station: exchanged about the stop it starts while that is pressed."""
    plan = plan_of(STATIONED)
    script = derive_tests(plan).script
    faults, steps = list_faults(plan), list_steps(plan)
    rest = [c.fault for c in cover_faults(plan, steps, faults) if DEAD.isdisjoint(s.phase for s in c.steps)]
    shown = [fault for fault, step in cover_by_functions(plan, script, rest) if step]
    assert any(fault.slip is Slip.SWAPPED for fault in shown)
    assert len(shown) >= 0.95 * len([fault for fault in rest if fault.built is not None])
    report = report_faults(plan, steps, (script,))
    assert report.count == len(faults) and all(one.first and one.count for one in report.revealed)
    assert sum(report.first.values()) == len(report.revealed)
