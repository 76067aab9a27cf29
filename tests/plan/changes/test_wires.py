"""Wires that a person leads: the rest follows, nothing is doubled, and what does not fit is refused."""

import networkx as nx
import pytest

from riktig.files.brief_reader import parse_brief
from riktig.files.brief_writer import write_brief
from riktig.job import edits
from riktig.job.faults import JobError
from riktig.plan.changes.wires import hold_link, release_link, rewire
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.plan.wiring.links import link_key
from support import HEAD, STARTER, TWO_STATIONS, job_of

THREE = HEAD + "".join(STARTER.replace("M1", f"M{n}") for n in (1, 2, 3))


def ends(plan: Plan, number: str) -> set[str]:
    return {link_key(c.a, c.b) for c in plan.conductors if c.number == number}


def test_a_wire_of_a_person_stays_and_one_that_it_makes_needless_goes() -> None:
    job = job_of(THREE)
    before = ends(compute_plan(job), "L3")
    assert before == {"M1.Q:5 Q0:6/T3", "M1.Q:5 M2.Q:5", "M2.Q:5 M3.Q:5"}
    held = hold_link(job, "M3.Q:5", "Q0:6/T3")
    after = ends(compute_plan(held), "L3")
    assert "M3.Q:5 Q0:6/T3" in after and len(after) == 3 and len(before - after) == 1
    for again in (rewire(held), settle(edits.change_starter(held, "M1", kw=4)), parse_brief(write_brief(held))):
        graph = nx.Graph(tuple(key.split()) for key in ends(compute_plan(again), "L3"))
        assert graph.has_edge("M3.Q:5", "Q0:6/T3") and nx.is_tree(graph)


def test_a_wire_of_a_person_is_left_to_riktig_again() -> None:
    held = hold_link(job_of(THREE), "M3.Q:5", "Q0:6/T3")
    loose = release_link(held, "Q0:6/T3", "M3.Q:5")
    assert ends(compute_plan(loose), "L3") == ends(compute_plan(held), "L3"), "until wires are chained anew"
    assert ends(compute_plan(rewire(loose)), "L3") == ends(compute_plan(job_of(THREE)), "L3")
    with pytest.raises(JobError, match="nobody holds this wire"):
        release_link(loose, "Q0:6/T3", "M3.Q:5")


def test_a_wire_may_be_led_from_a_strip_and_through_the_hinge() -> None:
    job = job_of(TWO_STATIONS)
    plan = compute_plan(job)
    clamp = next(c.id for c in plan.clamps if c.number == "1")
    made = compute_plan(hold_link(job, clamp, "C1.F:2"))
    assert any({c.a, c.b} == {clamp, "C1.F:2"} and c.location == "plate" for c in made.conductors)
    job = job_of(HEAD + STARTER)
    lamp = hold_link(job, "M1.K:14", "M1.S1:14")
    wire = next(c for c in compute_plan(lamp).conductors if {c.a, c.b} == {"M1.K:14", "M1.S1:14"})
    assert wire.location == "hinge"


@pytest.mark.parametrize(
    ("a", "b", "said"),
    [
        ("M1.Q:5", "M1.Q:5", "both ends are one terminal"),
        ("M1.Q:5", "M1.Q:3", "a wire joins terminals of one number"),
        ("M1.Q:5", "K77:1", "there is no terminal K77:1 in use"),
    ],
)
def test_a_wire_that_cannot_be_is_refused(a: str, b: str, said: str) -> None:
    with pytest.raises(JobError, match=said):
        hold_link(job_of(THREE), a, b)


def test_a_released_wire_is_chained_by_nothing() -> None:
    job = issue_revision(job_of(THREE), "A")
    assert rewire(job).ledger.links == job.ledger.links
