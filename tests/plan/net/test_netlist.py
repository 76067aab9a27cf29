"""Potentials: what is one, what is not, and what each is for."""

import networkx as nx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.plan.basis.union import UnionFind
from riktig.plan.plan import Plan
from support import HEAD, STARTER, plan_of

FEEDER = (
    HEAD
    + '[device.Q7]\nkind = "breaker"\n[device.K7]\nkind = "contactor"\n[device.K8]\nkind = "contactor"\n'
    + '[device.M7]\nkind = "motor"\n[[feeder]]\npath = "L1 L2 L3 > Q7 > (K7 | K8[3 2 1]) > M7"\n'
)


def number(plan: Plan, terminal: str) -> str:
    potential = plan.potential_of(terminal)
    assert potential is not None
    return potential.number


@given(st.lists(st.tuples(st.integers(0, 20), st.integers(0, 20))))
def test_joined_points_are_the_components_of_the_graph(pairs: list[tuple[int, int]]) -> None:
    """networkx.connected_components as oracle."""
    joined = UnionFind()
    graph: nx.Graph = nx.Graph()
    graph.add_nodes_from(range(21))
    for a, b in pairs:
        joined.join(str(a), str(b))
        graph.add_edge(a, b)
    for component in nx.connected_components(graph):
        assert len({joined.find(str(n)) for n in component}) == 1
    assert len({joined.find(str(n)) for n in range(21)}) == nx.number_connected_components(graph)


def test_a_reversing_branch_changes_two_phases_on_its_outgoing_side() -> None:
    """One exchange on one side of one contactor: common practice, no source."""
    plan = plan_of(FEEDER)
    assert [number(plan, f"K8:{m}") for m in ("1/L1", "3/L2", "5/L3")] == [
        number(plan, f"K7:{m}") for m in ("1/L1", "3/L2", "5/L3")
    ]
    assert number(plan, "K8:2/T1") == number(plan, "K7:6/T3") == number(plan, "M7:W1")
    assert number(plan, "K8:4/T2") == number(plan, "K7:4/T2") == number(plan, "M7:V1")


def test_power_potentials_take_phase_names_with_a_running_group() -> None:
    plan = plan_of(HEAD + STARTER)
    assert [number(plan, f"M1.{t}") for t in ("Q:2", "Q:4", "Q:6", "K:2/T1", "F:2/T1")] == [
        "1L1",
        "1L2",
        "1L3",
        "2L1",
        "3L1",
    ]


def test_mains_keep_their_names_on_both_sides_of_the_switch() -> None:
    plan = plan_of(HEAD + STARTER)
    assert (number(plan, "Q0:1/L1"), number(plan, "Q0:2/T1"), number(plan, "C1.T:PE")) == ("in.L1", "L1", "PE")


def test_an_earth_link_is_a_device_and_merges_nothing() -> None:
    plan = plan_of(HEAD + STARTER)
    assert (number(plan, "C1.B:1"), number(plan, "C1.B:2")) == (number(plan, "C1.T:X2"), "PE")


def test_earth_joins_every_exposed_part() -> None:
    plan = plan_of(HEAD + STARTER + 'buttons_at = "st1"\n')
    earth = next(p for p in plan.potentials if p.number == "PE")
    assert {"M1:PE", "C1.T:PE", "st1.PE:PE", "PE.plate:PE", "PE.door:PE", "C1.B:2"} == set(earth.net.terminals)


@pytest.mark.parametrize(
    ("terminal", "colour"),
    [
        ("Q0:2/T1", "black"),
        ("M1:U1", "black"),
        ("M1.K:A1", "red"),
        ("C1.T:X2", "red"),
        ("M1:PE", "green-yellow"),
        ("C1.T:H1", "black"),
    ],
)
def test_each_potential_has_the_colour_of_its_function(terminal: str, colour: str) -> None:
    """IEC 60204-1:2016 13.2.4, from memory."""
    plan = plan_of(HEAD + STARTER)
    found = {c.colour for c in plan.conductors if c.number == number(plan, terminal)}
    assert found == {colour}


def test_the_neutral_of_a_direct_supply_is_light_blue_and_led_in_over_a_terminal() -> None:
    plan = plan_of(HEAD.replace('kind = "transformer"\nfrom = "L1 L2"\nvolts = 230', 'kind = "direct"') + STARTER)
    assert number(plan, "M1.K:A2") == "N"
    assert {c.colour for c in plan.conductors if c.number == "N"} == {"light blue"}
    assert [c.id for c in plan.clamps if c.drop == "incoming"] == ["X0:1"]


FREE_DRIVE = (
    HEAD
    + """
[control.C2]
kind = "psu"
[device.Q7]
kind = "breaker"
[device.A7]
kind = "drive"
[device.M7]
kind = "motor"
kw = 7.5
[device.K7]
kind = "relay"
[device.S7]
kind = "pushbutton"
[device.Q9]
kind = "breaker"
poles = 1
amps = 6
[device.E9]
kind = "light"
[[feeder]]
path = "L1 L2 L3 > Q7 > A7 > M7"
[[feeder]]
path = "L1 > Q9 > E9:L-N > N"
[[rung]]
path = "C1+ > S7:no > K7:coil > C1-"
[[rung]]
path = "@p > K7:no > @d"
[[rung]]
path = "@p > A7:P24-DI1 > @d"
"""
)


def test_a_wire_has_the_colour_of_what_feeds_it_however_far_that_is() -> None:
    """IEC 60204-1:2016 13.2.4: red AC control, blue DC control. A drive's own 24 V is DC, a transformer's secondary is AC, though the
    job has a DC supply as well; a DC supply that feeds nothing is DC.
    """
    plan = plan_of(FREE_DRIVE)
    colour = {t: c.colour for t, landed in plan.conductors_at.items() for c in landed if c.is_wired}
    assert {t: colour[t] for t in ("A7:P24", "A7:DI1", "C2.G:M24", "C2.F:1")} == dict.fromkeys(
        ("A7:P24", "A7:DI1", "C2.G:M24", "C2.F:1"), "blue"
    )
    assert {colour[t] for t in ("C1.T:X1", "C1.T:X2", "C1.F:1", "K7:A1")} == {"red"}


def test_the_wires_at_a_free_drives_inputs_are_control_wires_and_its_load_straight_on_the_mains_has_its_volts() -> None:
    """They were as thick as those of its motor; 400 V / √3 = 230 V; no protector for DC is put into an AC line."""
    plan = plan_of(FREE_DRIVE)
    sizes = {t: c.size.mm2 for t, landed in plan.conductors_at.items() for c in landed}
    assert sizes["A7:L1"] == 2.5
    assert sizes["A7:DI1"] == sizes["A7:P24"] == 1.0
    assert plan.parts["E9"].code == "lt-led@230AC"
    assert plan.parts["Q9"].traits["curve"] in {"B", "C"}
