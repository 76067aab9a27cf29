"""Who is joined to whom: chains in drawing order, earth to the bar, factory joins, the hinge."""

from riktig.job import edits
from riktig.job.entries import WirePlace
from riktig.job.ids import TerminalId
from riktig.job.ledger import Choice
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, TWO_STATIONS, job_of, plan_of


def joins(plan: Plan, number: str) -> set[tuple[str, str, str]]:
    return {
        (plan.terminal_label(c.a), plan.terminal_label(c.b), c.location) for c in plan.conductors if c.number == number
    }


def test_a_potential_is_chained_in_drawing_order() -> None:
    plan = plan_of(HEAD + STARTER + STARTER.replace("M1", "M2"))
    assert joins(plan, "L3") == {("Q0:6/T3", "Q1:5", "plate"), ("Q1:5", "Q2:5", "plate")}


def test_one_wire_of_each_potential_goes_through_the_hinge() -> None:
    plan = plan_of(HEAD + STARTER)
    crossing = [c.number for c in plan.conductors if c.location == "hinge"]
    assert len(crossing) == len(set(crossing))


def test_an_overload_plugged_on_its_contactor_needs_no_wire() -> None:
    plan = plan_of(HEAD + STARTER)
    links = {(c.a, c.b) for c in plan.conductors if c.kind == "link" and c.number.endswith(("L1", "L2", "L3"))}
    assert links == {("M1.K:2/T1", "M1.F:1/L1"), ("M1.K:4/T2", "M1.F:3/L2"), ("M1.K:6/T3", "M1.F:5/L3")}
    assert all(c.length_mm == 0 for c in plan.conductors if c.kind == "link")


def test_every_earth_conductor_has_a_clamp_of_its_own_on_the_bar() -> None:
    """One conductor in each earth clamp, never looped through a removable part: common practice, no source."""
    plan = plan_of(HEAD + STARTER)
    wires = [c for c in plan.conductors if c.number == "PE" and c.kind == "wire"]
    bar = [t for c in wires for t in (c.a, c.b) if t.startswith("PE.bar:")]
    assert len(bar) == len(set(bar)) == len(wires)
    others = [t for c in wires for t in (c.a, c.b) if not t.startswith("PE.bar:")]
    assert len(others) == len(set(others))


def test_the_earth_terminals_of_a_strip_are_joined_by_their_rail() -> None:
    plan = plan_of(HEAD + STARTER + STARTER.replace("M1", "M2"))
    assert ("X1:4", "X1:8", "plate") in joins(plan, "PE")


def test_links_of_a_person_come_first_and_the_rest_follows() -> None:
    job = job_of(TWO_STATIONS)
    links = {k: v for k, v in job.ledger.links.items() if "C1.F:2" not in k and "X2:1" not in k}
    links["C1.F:2 X2:1"] = Choice(WirePlace((TerminalId("C1.F:2"), TerminalId("X2:1")), "plate"))
    again = settle(edits.replace(job, ledger=edits.replace(job.ledger, links=links)))
    assert ("F2:2", "X2:1", "plate") in joins(compute_plan(again), "1")


def test_a_link_stays_when_a_terminal_is_added_behind_it() -> None:
    job = job_of(TWO_STATIONS)
    more = settle(edits.add_rung(job, "C1+ > K1:no > P1 > C1-"))
    assert set(job.ledger.links) <= set(more.ledger.links)


def test_an_added_part_chains_to_the_end_and_never_between() -> None:
    job = job_of(HEAD + STARTER)
    more = settle(edits.duplicate_starter(job, "M1"))
    kept = [key for key in job.ledger.links if key in more.ledger.links]
    assert len(kept) == len(job.ledger.links)
