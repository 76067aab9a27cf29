"""Wire numbers and conductor counts: the worked checks of the trade, and circuits worked by hand."""

import networkx as nx
import pytest

from riktig.job import edits
from riktig.plan.changes.numbers import renumber
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import GROUPS, HEAD, TWO_STATIONS, cores, job_of, plan_of

STATION = HEAD.replace("[supply]", '[practice]\noverload_contact = "return"\n[supply]') + (
    '[starter.M1]\nkw = 1.5\nsupply = "C1"\nbuttons_at = "st1"\n'
)


def number_at(plan: Plan, terminal: str) -> str:
    potential = plan.potential_of(terminal)
    assert potential is not None
    return potential.number


def test_a_start_stop_circuit_needs_the_numbers_one_to_five() -> None:
    """Common practice, no source: 1 before stop, 2 to start and seal-in, 3 to coil, 4 to overload, 5 behind it."""
    plan = plan_of(STATION)
    ends = [
        "M1.S0:11",
        "M1.S0:12",
        "M1.S1:13",
        "M1.K:13",
        "M1.S1:14",
        "M1.K:14",
        "M1.K:A1",
        "M1.K:A2",
        "M1.F:95",
        "M1.F:96",
    ]
    assert [number_at(plan, end) for end in ends] == ["1", "2", "2", "2", "3", "3", "3", "4", "4", "5"]


def test_the_remote_station_takes_three_control_conductors_and_one_jumper() -> None:
    """Common practice, no source: 3 to the motor, 1 2 3 to the station, 4 and 5 stay inside, 2 joins 2 there."""
    plan = plan_of(STATION)
    assert cores(plan, "st1") == ["1", "2", "3"]
    assert len(cores(plan, "M1")) == 3
    assert [(c.number, c.kind) for c in plan.conductors if c.location == "st1"] == [("2", "wire")]
    mains = [c for c in plan.conductors if {c.a[:3], c.b[:3]} == {"Q0:", "M1."}]
    assert len(mains) == 3


def test_two_stations_in_series_and_parallel_worked_by_hand() -> None:
    """By hand: 1 feeds both rungs, 2 between the stops, 3 to the starts, 4 to the coil, 5 the return, 6 to the lamp."""
    plan = plan_of(TWO_STATIONS)
    ends = ["S0a:12", "S0b:12", "S1a:13", "S1b:14", "K1:A1", "K1:A2", "P1:X1", "P1:X2"]
    assert [number_at(plan, end) for end in ends] == ["2", "3", "3", "4", "4", "5", "6", "5"]
    assert (cores(plan, "st1"), cores(plan, "st2")) == (["1", "2", "3", "4"], ["2", "3", "4"])
    assert [c.number for c in plan.conductors if c.location in {"st1", "st2"}] == ["3"]


def test_groups_in_groups_a_named_potential_and_an_explicit_contact_worked_by_hand() -> None:
    """By hand: the exit 4 of the outer group is met at the end of its first branch, before 5 inside the second."""
    plan = plan_of(GROUPS)
    ends = ["S1:12", "S2:14", "S3:14", "S4:14", "K1:13", "K1:14", "S5:11", "S5:12", "K1:A1", "K1:A2", "P1:X1"]
    assert [number_at(plan, end) for end in ends] == ["2", "3", "4", "5", "2", "5", "5", "4", "4", "6", "7"]
    assert (cores(plan, "st1"), sorted(cores(plan, "st2"))) == (["2", "4"], ["2", "4", "5"])


@pytest.mark.parametrize("text", [STATION, TWO_STATIONS, GROUPS])
def test_the_conductors_join_exactly_the_potentials(text: str) -> None:
    """networkx.connected_components as oracle."""
    plan = plan_of(text)
    graph = nx.Graph((c.a, c.b) for c in plan.conductors)
    graph.add_nodes_from(t for p in plan.potentials for t in p.net.terminals)
    strip = {clamp.id for clamp in plan.clamps}
    found = {
        frozenset(t for t in component if t not in strip and not t.startswith("PE.bar:"))
        for component in nx.connected_components(graph)
    }
    assert found == {frozenset(p.net.terminals) for p in plan.potentials}


def test_a_number_stays_with_its_anchor_when_circuits_split_and_join() -> None:
    job = issue_revision(job_of(TWO_STATIONS), "A")
    split = settle(edits.change_rung(job, "rung1", "C1+ > S0a:nc > S0b:nc > P1 > (S1a:no | S1b:no) > K1:coil > C1-"))
    plan = compute_plan(settle(edits.remove(split, "rungs", "rung2")))
    assert [number_at(plan, t) for t in ("S0b:12", "K1:A1", "K1:A2")] == ["3", "4", "5"]
    assert number_at(plan, "S1a:13") == "8", "7 is the unprotected side of the transformer"
    assert "6" not in {p.number for p in plan.potentials}, "rung 2 is gone, its number retired"


def test_renumbering_on_purpose_gives_the_sequence_again() -> None:
    job = settle(edits.remove(job_of(TWO_STATIONS), "rungs", "rung1"))
    assert {number_at(compute_plan(job), t) for t in ("P1:X1", "P1:X2")} == {"6", "5"}
    assert {number_at(compute_plan(renumber(job)), t) for t in ("P1:X1", "P1:X2")} == {"2", "3"}


def test_the_ends_of_a_control_transformer_are_one_and_two_where_a_shop_wants_it_so() -> None:
    """1 (X1) behind its fuse, 2 (X2): common practice of North America, no source. A direct return keeps its neutral."""
    ends = '[practice]\ncontrol_ends = "first"\n[supply]'
    text = HEAD.replace("[supply]", ends) + '[starter.M1]\nkw = 1.5\nsupply = "C1"\nlamps = ["run"]\n'
    direct = (
        '[control.C2]\nkind = "direct"\nfrom = "L1"\n[device.P9]\nkind = "lamp"\n[[rung]]\npath = "C2+ > P9 > C2-"\n'
    )
    plan = plan_of(text + direct)
    assert [number_at(plan, end) for end in ("C1.F:2", "C1.T:X2", "C2.F:2")] == ["1", "2", "3"]
    as_met = plan_of(text.replace(ends, "[supply]"))
    assert number_at(as_met, "C1.F:2") == "1" and number_at(as_met, "C1.T:X2") != "2"
    assert len({p.number for p in plan.potentials}) == len(plan.potentials)
