"""The insulation tests: every circuit once, at its volts, with what is taken off before."""

import networkx as nx
import pytest

from panels import panel_text
from riktig.catalogue.model import ElementKind
from riktig.live.built import Built
from riktig.plan.plan import Plan
from riktig.prove.insulation import list_insulation
from riktig.standards.colours import ConductorFunction
from riktig.standins.panel import SimulatedPanel
from support import HEAD, STARTER, demo_text, plan_of

SIGNALS = {
    ElementKind.INPUT, ElementKind.OUTPUT, ElementKind.ENABLE, ElementKind.ANALOG_IN, ElementKind.ANALOG_OUT, ElementKind.SENSOR,
}  # fmt: skip
LIGHT = '[excepted.X1]\nload = "light"\n'
DC = '[control.C2]\nkind = "psu"\n[device.K9]\nkind = "relay"\n[[rung]]\npath = "C2+ > K9:coil > C2-"\n'
PANELS = {"iec": demo_text("iec"), "ul": demo_text("ul"), **{str(n): panel_text(n) for n in (1, 2, 3)}}


def circuits(plan: Plan) -> nx.Graph:
    """Return what a tester goes through: wires, and inside devices all but signals, main switches, links and from winding to winding."""
    graph = nx.Graph()
    for potential in plan.potentials:
        if potential.net.function is not ConductorFunction.EARTH:
            clamps = (clamp.id for clamp in plan.clamps if clamp.number == potential.number)
            nx.add_path(graph, (potential.number, *potential.net.terminals, *clamps))
    switches = {"Q0", "link", *(f"{extra.name}.Q" for extra in plan.job.extra_supplies)}
    for device in plan.circuit.devices:
        for element in plan.parts[device.id].elements:
            ends = [f"{device.id}:{mark}" for mark in element.marks]
            if element.kind not in {*SIGNALS, ElementKind.EARTH} and switches.isdisjoint((device.id, device.kind)):
                nx.add_path(graph, [end for end in ends if end in graph])
    return graph


@pytest.mark.parametrize("name", PANELS)
def test_every_potential_is_tested_once_and_what_is_not_are_signals(name: str) -> None:
    """Power and control conductors to the protective conductor: IEC 60204-1 18.3, from memory; networkx says what hangs together."""
    plan = plan_of(PANELS[name])
    steps = list_insulation(plan)
    signals = {
        f"{d.id}:{m}"
        for d in plan.circuit.devices
        for e in plan.parts[d.id].elements
        if e.kind in SIGNALS
        for m in e.marks
    }
    for circuit in nx.connected_components(circuits(plan)):
        tested = [step.key for step in steps if not circuit.isdisjoint(step.a)]
        assert len(tested) == 1 or (not tested and not circuit.isdisjoint(signals)), (tested, sorted(circuit)[:5])


@pytest.mark.parametrize("name", PANELS)
def test_whatever_is_joined_with_earth_fails_one_test_and_a_sound_panel_none(name: str) -> None:
    plan = plan_of(PANELS[name])
    steps = list_insulation(plan)
    sound = SimulatedPanel(plan)
    assert all(step.is_passed(sound.read(step)) for step in steps)
    graph = circuits(plan)
    for potential in [p for p in plan.potentials if p.number in graph][::7]:
        circuit = nx.node_connected_component(graph, potential.number)
        wanted = {step.key for step in steps if not circuit.isdisjoint(step.a)}
        panel = SimulatedPanel(plan, Built(extra=((potential.net.terminals[0], steps[0].b[0]),)))
        assert {step.key for step in steps if not step.is_passed(panel.read(step))} == wanted, potential.number


def test_what_stays_live_is_tested_apart_with_the_supply_taken_off() -> None:
    """Excepted circuits lie ahead of the main switch: IEC 60204-1 5.3.5, from memory."""
    three = HEAD.replace('"3ph+n"', '"3ph"')
    apart = {step.key: step for step in list_insulation(plan_of(three + STARTER + LIGHT))}
    assert {"insulation:ahead", "insulation:power", "insulation:C1", "insulation:X1"} == set(apart)
    assert "taken off at Q0" in apart["insulation:ahead"].prepare and "closed" in apart["insulation:ahead"].do
    assert "link" in apart["insulation:X1"].prepare


def test_a_neutral_that_no_switch_breaks_is_taken_off_where_it_comes_in() -> None:
    """It is earthed at its source: the tester would read that earth (common practice, no source)."""
    steps = {step.key: step for step in list_insulation(plan_of(HEAD + STARTER + "[way.W1]\n"))}
    assert "taken off at X0:1" in steps["insulation:power"].prepare
    joined = list_insulation(plan_of(HEAD + STARTER + "[way.W1]\n" + LIGHT))
    assert [step.key for step in joined] == ["insulation:power", "insulation:C1"] and "main switch on" in joined[0].do


def test_extra_low_voltage_is_tested_at_250_volts_with_its_electronics_off() -> None:
    """IEC 60364-6 table 6.1, from memory."""
    plan = plan_of(HEAD + STARTER + DC)
    steps = {step.key: step for step in list_insulation(plan)}
    low, high = steps["insulation:C2"], steps["insulation:C1"]
    assert ("250 V" in low.title, low.low) == (True, 0.5) and ("500 V" in high.title, high.low) == (True, 1.0)
    assert plan.tags["C2.G"] in low.prepare and plan.tags["C2.G"] in steps["insulation:power"].prepare
