"""Strip terminals moved by a person and ordered by practice: wires follow, nothing is lost, a release stays."""

import networkx as nx
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from riktig.drawings.strips import draw_strips
from riktig.files.brief_reader import parse_brief
from riktig.files.tables import all_tables
from riktig.job import edits
from riktig.job.faults import JobError
from riktig.job.ledger import ChoiceState
from riktig.plan.changes.strips import move_clamp, reorder_strips
from riktig.plan.making.bom import build_bom
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.record.operations import list_operations
from strategies import panels
from support import HEAD, STARTER, job_of, plan_of, small_text

TWO = HEAD + STARTER + STARTER.replace("M1", "M2")


def row(plan: Plan, strip: str) -> list[str]:
    return [clamp.number for clamp in plan.clamps if clamp.strip == strip]


def landed(plan: Plan) -> set[tuple[str, str]]:
    """Return (number and drop of a strip terminal, what a wire leads to from it), whatever its label is."""
    name = {clamp.id: f"{clamp.number} {clamp.drop}" for clamp in plan.clamps}
    ends = [(c.a, c.b) for c in plan.conductors if c.kind != "link"]
    return {(name.get(a, a), name.get(b, b)) for pair in ends for a, b in (pair, pair[::-1]) if a in name}


def test_a_terminal_is_moved_its_wires_follow_and_it_stays_there() -> None:
    job = job_of(TWO)
    before = compute_plan(job)
    order = row(before, "X1")
    moved = move_clamp(job, "X1:1", 2)
    after = compute_plan(moved)
    assert row(after, "X1") == [order[1], order[2], order[0], *order[3:]]
    assert {(n, t) for n, t in landed(after) if not t.startswith("PE.bar")} == {
        (n, t) for n, t in landed(before) if not t.startswith("PE.bar")
    }
    held = [key for key, c in moved.ledger.clamps.items() if c.state is ChoiceState.KEPT]
    assert len(held) == 1 and str(moved.ledger.clamps[held[0]].value) == "X1:3"
    more = row(compute_plan(settle(edits.duplicate_starter(moved, "M1"))), "X1")
    assert more[: order.index("")] == row(after, "X1")[: order.index("")], "what is used stays, spares are taken"


def test_a_terminal_stops_at_the_end_of_its_strip() -> None:
    job = job_of(TWO)
    order = row(compute_plan(job), "X1")
    assert row(compute_plan(move_clamp(job, "X1:1", -5)), "X1") == order
    assert row(compute_plan(move_clamp(job, "X1:1", 99)), "X1") == [*order[1:], order[0]]


def test_order_by_practice_comes_back_and_a_release_stays() -> None:
    job = job_of(TWO)
    loose = settle(edits.remove(edits.duplicate_starter(job, "M1"), "starters", "M1"))
    fresh = reorder_strips(loose)
    labels = [int(c.label) for c in compute_plan(fresh).clamps if c.strip == "X1"]
    assert labels == list(range(1, len(labels) + 1)), "no gap is left"
    released = issue_revision(job, "A")
    assert reorder_strips(released).ledger.clamps == released.ledger.clamps
    with pytest.raises(JobError, match="was released: it stays"):
        move_clamp(released, "X1:1", 1)
    with pytest.raises(JobError, match="there is no terminal X9:1"):
        move_clamp(job, "X9:1", 1)


@settings(max_examples=15)
@given(panels(), st.integers(0, 30), st.integers(-3, 3))
def test_any_move_keeps_every_wire_and_both_laws_of_the_ledger(text: str, place: int, step: int) -> None:
    job = parse_brief(text)
    clamps = compute_plan(job).clamps
    assume(clamps)
    moved = move_clamp(job, clamps[place % len(clamps)].id, step)
    before, after = compute_plan(job), compute_plan(moved)
    assert settle(moved) is moved
    assert len(before.conductors) == len(after.conductors)
    assert {(c.number, c.drop) for c in before.clamps} == {(c.number, c.drop) for c in after.clamps}
    for strip in {c.strip for c in clamps}:
        assert sorted(c.label for c in after.clamps if c.strip == strip) == sorted(
            c.label for c in clamps if c.strip == strip
        )


@pytest.mark.parametrize("text", [small_text(), small_text("ul"), TWO])
def test_the_drawing_shows_every_terminal_with_what_lands_on_it(text: str) -> None:
    plan = plan_of(text)
    drawing = draw_strips(plan)
    words = {(item.ref, item.text) for item in drawing.items if hasattr(item, "text")}
    for clamp in plan.clamps:
        assert {(clamp.id, clamp.label), (clamp.id, clamp.number or "spare")} <= words
    for wire in plan.conductors:
        ends = [t for t in (wire.a, wire.b) if any(c.id == t for c in plan.clamps)]
        if wire.kind != "link" and len(ends) == 1:
            other = plan.terminal_label(wire.b if wire.a == ends[0] else wire.a)
            assert (f"wire:{wire.id}", other) in words
    assert all(
        0 <= item.x <= drawing.width and 0 <= item.y <= drawing.height
        for item in drawing.items
        if hasattr(item, "text")
    )


def test_a_panel_without_cables_says_so() -> None:
    drawing = draw_strips(plan_of('brief = 1\n[job]\nnumber = "E"\n[supply]\nsystem = "3ph"\nvolts = 400\n'))
    assert drawing.height > 0 and any("strip" in item.text for item in drawing.items if hasattr(item, "text"))


REPEATED = (
    HEAD
    + """[device.B1]
kind = "float"
at = "st1"
[device.B2]
kind = "float"
at = "st2"
[device.K1]
kind = "relay"
[device.K2]
kind = "relay"
[[rung]]
path = "C1+ > B1:no > K1:coil > C1-"
[[rung]]
path = "C1+ > B2:no > K2:coil > C1-"
"""
)


def test_terminals_of_one_number_beside_each_other_are_bridged_in_place_of_a_wire() -> None:
    """A bridge makes neighbours common: common practice, no source. By hand: 1 to both floats on X2:1 and X2:3; moved beside each
    other they need a bridge and one wire less.
    """
    job = job_of(REPEATED)
    plan = compute_plan(job)
    ones = [c for c in plan.clamps if c.number == "1"]
    assert [c.id for c in ones] == ["X2:1", "X2:3"] and plan.bridges == ()
    wires = sum(c.kind == "wire" for c in plan.conductors)
    moved = compute_plan(move_clamp(job, "X2:3", -1))
    assert moved.bridges == (("X2:1", "X2:2"),)
    assert sum(c.kind == "wire" for c in moved.conductors) == wires - 1
    graph = nx.Graph((c.a, c.b) for c in moved.conductors)
    for potential in (p for p in moved.potentials if len(p.net.terminals) > 1):
        assert set(potential.net.terminals) <= nx.node_connected_component(graph, potential.net.terminals[0])
    assert {line.code: line.quantity for line in build_bom(moved)}["bridge-2"] == 1
    strip = next(op for op in list_operations(moved) if op.key == "device:X2:mounted")
    assert strip.detail.endswith("; bridge 1 2")
    assert next(t for t in all_tables(moved) if t.name == "terminals").rows[0][-2] == "X2:1 X2:2"
    apart = compute_plan(move_clamp(move_clamp(job, "X2:3", -1), "X2:2", 1))
    assert apart.bridges == () and sum(c.kind == "wire" for c in apart.conductors) == wires


def test_a_bridge_has_ten_poles_and_a_fresh_feed_behind_it() -> None:
    floats = "".join(
        f'[device.B{n}]\nkind = "float"\nat = "st1"\n[device.K{n}]\nkind = "relay"\n' for n in range(1, 13)
    )
    rungs = "".join(f'[[rung]]\npath = "C1+ > B{n}:no > K{n}:coil > C1-"\n' for n in range(1, 13))
    job = job_of(HEAD + floats + rungs)
    for place in range(1, 13):
        ones = [c for c in compute_plan(job).clamps if c.number == "1"]
        job = move_clamp(job, ones[place - 1].id, place - int(ones[place - 1].label))
    plan = compute_plan(job)
    assert [len(run) for run in plan.bridges] == [10, 2]
    graph = nx.Graph((c.a, c.b) for c in plan.conductors if c.number == "1")
    assert nx.is_connected(graph)
