"""Changes of the plate by hand: what a drag would do, what is wrong with it and by how much, and what is kept."""

from collections.abc import Callable

import pytest

from riktig.job.faults import JobError
from riktig.job.model import Job
from riktig.plan.changes import plate as plate_edits
from riktig.plan.making.release import issue_revision
from riktig.plan.place.faults import FaultKind, find_faults
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, job_of

JOB = job_of(HEAD + STARTER + STARTER.replace("M1", "M2"))
PLAN = compute_plan(JOB)
PLATE = PLAN.plate


def after(edit: Callable[[Job], Job]) -> Plan:
    return compute_plan(settle(edit(JOB)))


def test_a_part_goes_onto_the_nearest_rail_and_beside_a_neighbour_it_comes_near() -> None:
    """By hand: the right neighbour of a contactor stands 4 mm from its edge, and the nearest one wins within 12 mm."""
    last = max((b.right, n) for n, b in PLATE.boxes.items() if PLATE.rail_of.get(n) == PLATE.rail_of["M2.K"])[1]
    box = PLATE.boxes[last]
    move = plate_edits.try_move(PLATE, "M1.K", box.right + 10, box.y + 17)
    assert move.box.x == pytest.approx(box.right + 4) and move.place.rail == PLATE.rail_of[last]
    assert move.is_legal


def test_what_is_illegal_says_the_distance_that_is_missing() -> None:
    """By hand: moved 10 mm over its neighbour's edge, the two overlap by 10 mm."""
    one, other = "M1.Q", "M2.Q"
    target = PLATE.boxes[other]
    item = PLATE.items[one]
    move = plate_edits.with_item(
        PLATE, item, plate_edits.Box(x=target.right - 10, y=target.y, w=item.width, h=item.height), "", "R1"
    )
    overlaps = {(f.item, f.other): f.missing for f in move.faults if f.kind is FaultKind.OVERLAP}
    assert overlaps[min(one, other), max(one, other)] == pytest.approx(10)


def test_a_kept_move_stays_where_a_person_put_it_and_nothing_else_moves() -> None:
    rail = PLATE.rails[0]
    move = plate_edits.try_move(PLATE, "M1.Q", rail.x + rail.length - 60, rail.y - 40)
    plan = after(lambda job: plate_edits.keep_move(job, move))
    assert plan.plate.boxes["M1.Q"] == move.box
    others = {n for n in PLATE.boxes if n != "M1.Q"}
    assert all(plan.plate.boxes[n] == PLATE.boxes[n] for n in others)
    assert plan.job.ledger.places["M1.Q"].is_held


def test_a_rail_takes_along_what_sits_on_it() -> None:
    rail = PLATE.rails[0]
    move = plate_edits.try_move(PLATE, rail.code, rail.x, rail.box.y - 5)
    plan = after(lambda job: plate_edits.keep_move(job, move))
    on_it = [n for n, code in PLATE.rail_of.items() if code == rail.code]
    assert on_it and all(plan.plate.boxes[n].y == pytest.approx(PLATE.boxes[n].y - 5) for n in on_it)


def test_two_parts_change_places() -> None:
    first, second = plate_edits.try_swap(PLATE, "M1.Q", "M2.Q")
    assert second.is_legal
    plan = after(lambda job: plate_edits.keep_moves(job, {m.key: m.place for m in (first, second)}))
    assert plan.plate.boxes["M1.Q"] == PLATE.boxes["M2.Q"] and plan.plate.boxes["M2.Q"] == PLATE.boxes["M1.Q"]


def test_a_duct_across_the_parts_is_illegal_and_one_in_free_room_opens_a_shorter_way() -> None:
    low = PLATE.levels[-1].box.y
    across = plate_edits.new_duct(JOB, PLATE, PLATE.width / 2, PLATE.boxes["M1.Q"].centre[1], is_vertical=False)
    assert {f.kind for f in across.faults} >= {FaultKind.OVERLAP}
    free = plate_edits.new_duct(JOB, PLATE, PLATE.width / 2, low / 2, is_vertical=False)
    assert free.is_legal and free.key not in {d.code for d in PLATE.ducts}
    plan = after(lambda job: plate_edits.keep_move(job, free))
    made = plan.plate.duct(free.key)
    assert made is not None and made.box == free.box
    assert any(cut.code == free.key for cut in plan.cuts) and any(hole.target == free.key for hole in plan.holes)


def test_a_duct_that_touches_no_other_is_loose_by_the_distance_it_lacks() -> None:
    level = PLATE.levels[-1]
    move = plate_edits.with_duct(
        PLATE, plate_edits.replace(level, box=plate_edits.replace(level.box, x=level.box.x + 30, w=100))
    )
    loose = [f for f in move.faults if f.kind is FaultKind.LOOSE]
    assert loose and loose[0].missing == pytest.approx(30)


def test_a_rail_that_is_taken_away_leaves_nothing_illegal_behind() -> None:
    plan = after(lambda job: plate_edits.take_away(job, PLATE.rails[0].code))
    assert [f for f in find_faults(plan.plate) if f.kind is not FaultKind.OUTSIDE] == []
    assert PLATE.rails[0].code not in {rail.code for rail in plan.plate.rails}


def test_what_a_release_holds_is_not_moved() -> None:
    released = issue_revision(JOB, "A")
    move = plate_edits.try_move(PLATE, "M1.Q", 400, 500)
    with pytest.raises(JobError, match="released where it is"):
        plate_edits.keep_move(released, move)
