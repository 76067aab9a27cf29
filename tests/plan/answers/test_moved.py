"""What is shown at once of a move by hand is what the settled Plan comes to, while the wires stay joined as they are."""

import pytest

from riktig.plan.answers.moved import with_layout
from riktig.plan.changes import plate as plate_edits
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, plan_of, small_text

PLANS = {
    "iec": plan_of(small_text()),
    "ul": plan_of(small_text("ul")),
    "two": plan_of(HEAD + STARTER + STARTER.replace("M1", "M2")),
}


def legal_moves(plan: Plan) -> list[plate_edits.Move]:
    """Return one legal move for each thing that has one: along its rail, a rail and a duct by a little."""
    found = []
    for name in (*plan.plate.items, *(r.code for r in plan.plate.rails), *(d.code for d in plan.plate.levels)):
        for dx, dy in ((60, 0), (25, 0), (0, -3), (-2, 0)):
            if name in plan.plate.items and dy:
                continue
            move = plate_edits.nudge(plan.plate, name, dx, dy)
            if move.is_legal:
                found.append(move)
                break
    return found


@pytest.mark.parametrize("name", list(PLANS))
def test_lengths_ways_and_fill_are_those_of_the_settled_plan(name: str) -> None:
    plan = PLANS[name]
    moves = legal_moves(plan)
    assert len(moves) >= 3
    compared = 0
    for move in moves:
        ahead = with_layout(plan, move.layout)
        settled = compute_plan(settle(plate_edits.keep_move(plan.job, move)))
        assert ahead.plate.boxes == settled.plate.boxes
        if {(c.id, c.kind) for c in ahead.conductors} != {(c.id, c.kind) for c in settled.conductors}:
            continue  # a comb came or went
        compared += 1
        assert {c.id: (c.length_mm, c.legs) for c in ahead.conductors} == {
            c.id: (c.length_mm, c.legs) for c in settled.conductors
        }
        assert ahead.fill_percent == settled.fill_percent
        assert (ahead.holes, ahead.cuts, ahead.entries) == (settled.holes, settled.cuts, settled.entries)
    assert compared >= 2


def test_a_comb_over_what_moved_is_no_longer_drawn() -> None:
    plan = plan_of(HEAD + "".join(f"[way.W{n}]\namps = 10\npoles = 3\n" for n in (1, 2, 3)))
    comb = plan.combs[0]
    item = plan.plate.items[comb.devices[-1]]
    box = plan.plate.boxes[item.id]
    rail = plan.plate.rail(plan.plate.rail_of[item.id])
    assert rail is not None
    away = plate_edits.try_move(plan.plate, item.id, rail.x + rail.length - box.w - 10, box.y)
    assert away.is_legal and comb not in with_layout(plan, away.layout).combs
    settled = compute_plan(settle(plate_edits.keep_move(plan.job, away)))
    assert not any(item.id in c.devices for c in settled.combs)
    assert any(
        c.kind == "wire" and item.id in {c.a.rpartition(":")[0], c.b.rpartition(":")[0]} for c in settled.conductors
    )
