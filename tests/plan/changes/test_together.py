"""What moves together by hand: a starter, a row with its duct, and rows that give way to a new one."""

import pytest

from riktig.job.faults import JobError
from riktig.plan.changes import plate as plate_edits
from riktig.plan.changes import together
from riktig.plan.making.release import issue_revision
from riktig.plan.place.faults import FaultKind, find_faults
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, job_of

TALL = HEAD.replace("width = 800", "width = 1200").replace("height = 1200", "height = 2000")
MOTORS = "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 9))
JOB = job_of(TALL + MOTORS)
PLAN = compute_plan(JOB)
PLATE = PLAN.plate


def kept(moves: tuple[plate_edits.Move, ...]) -> Plan:
    return compute_plan(settle(plate_edits.keep_moves(JOB, plate_edits.places_of(moves))))


def test_a_starter_goes_as_one_along_its_rails() -> None:
    """Eight in columns: the last one, dragged to the right by its contactor past what stands there, and its breaker after it."""
    box = PLATE.boxes["M8.K"]
    moves = together.try_together(PLATE, "M8.K", box.x + 400, box.y + 3)
    assert {move.key for move in moves} == {"M8.Q", "M8.K"} and all(move.is_legal for move in moves)
    plan = kept(moves)
    for name in ("M8.Q", "M8.K", "M8.F"):
        assert plan.plate.boxes[name].x == pytest.approx(PLATE.boxes[name].x + 400)
        assert plan.plate.boxes[name].y == PLATE.boxes[name].y
    assert all(plan.plate.boxes[n] == b for n, b in PLATE.boxes.items() if not n.startswith("M8."))
    assert not find_faults(plan.plate)


def test_a_starter_that_meets_its_neighbour_with_one_part_stays_where_it_is() -> None:
    moves = together.nudge_together(PLATE, "M7.Q", 30.0, 0.0)
    assert {f.kind for f in moves[-1].faults} == {FaultKind.OVERLAP}


def test_a_row_goes_up_and_down_with_its_duct_and_what_is_screwed_on_beside_it() -> None:
    last = PLATE.levels[-1]
    moves = together.try_together(PLATE, last.code, last.box.x, last.box.y - 40)
    assert all(move.is_legal for move in moves)
    plan = kept(moves)
    rail = PLATE.rails[-1]
    moved = {name for name, box in plan.plate.boxes.items() if box != PLATE.boxes[name]}
    row = {n for n, b in PLATE.boxes.items() if abs(b.centre[1] - rail.y) < 1}
    assert moved == row and "PE.bar" in row
    assert all(plan.plate.boxes[n].y == pytest.approx(PLATE.boxes[n].y - 40) for n in moved)
    assert plan.plate.levels[-1].level == pytest.approx(last.level - 40) and not find_faults(plan.plate)
    by_rail = together.try_together(PLATE, rail.code, rail.x, rail.box.y - 40)
    assert {m.key: m.box for m in by_rail} == {m.key: m.box for m in moves}


@pytest.mark.parametrize("which", [0, 2, -1])
def test_a_row_is_put_in_and_the_others_give_way_without_being_held(which: int) -> None:
    at = PLATE.levels[which]
    moves = together.insert_row(JOB, PLATE, at.level + 3)
    assert not moves[-1].faults
    places, new = together.row_of(moves)
    plan = compute_plan(settle(together.keep_row(JOB, places, new)))
    assert len(plan.plate.rails) == len(PLATE.rails) + 1 and len(plan.plate.levels) == len(PLATE.levels) + 1
    assert not find_faults(plan.plate) and plan.plate.boxes.keys() == PLATE.boxes.keys()
    by = 140 + 60
    for name, box in PLATE.boxes.items():
        lower = by if box.centre[1] < at.level else 0
        assert plan.plate.boxes[name].y == pytest.approx(box.y - lower), name
    held = {key for key, choice in plan.job.ledger.places.items() if choice.is_held}
    assert held == set(new)


def test_where_nothing_is_free_below_what_is_above_gives_way_and_without_room_it_says_by_how_much() -> None:
    top = compute_plan(job_of(TALL.replace("volts = 400", 'volts = 400\nentry = "top"') + MOTORS))
    moves = together.insert_row(top.job, top.plate, top.plate.levels[2].level)
    assert not moves[-1].faults and moves[-1].layout.levels[0].level > top.plate.levels[0].level
    low = compute_plan(job_of(HEAD + MOTORS))
    moves = together.insert_row(low.job, low.plate, 0.0)
    outside = [f.missing for f in moves[-1].faults if f.kind is FaultKind.OUTSIDE]
    assert max(outside) == pytest.approx(140 + 60 - min(d.box.y for d in low.plate.levels))


def test_what_a_release_holds_gives_no_way() -> None:
    released = issue_revision(JOB, "A")
    plan = compute_plan(released)
    places, new = together.row_of(together.insert_row(released, plan.plate, plan.plate.levels[1].level))
    with pytest.raises(JobError, match="was released where it is"):
        together.keep_row(released, places, new)
