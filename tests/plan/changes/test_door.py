"""The door: distances of holes, moves by hand, window, contact blocks, stations."""

from dataclasses import replace
from itertools import combinations

import pytest

from riktig.checks.run import find_all
from riktig.drawings.door import block_words, draw_door, draw_station
from riktig.job.faults import JobError
from riktig.plan.changes.door import (
    DOOR_FACE,
    ENTRY_FACE,
    edit_of,
    keep_door_place,
    letting_go,
    missing_between,
    movable_holes,
    station_face,
    try_hole_move,
)
from riktig.plan.making.release import issue_revision
from riktig.plan.place.door import Cutout
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, plan_of

TEXT = (
    HEAD.replace("height = 1200", "height = 1200\ndepth = 400\nwindow = [200, 120]")
    + STARTER
    + STARTER.replace("M1", "M2")
)
PLAN = plan_of(TEXT)


@pytest.mark.parametrize(
    ("dx", "dy", "missing"),
    [(30, 0, 0), (29, 0, 1), (0, 40, 0), (0, 38, 2), (20, 35, 5), (31, 5, -1)],
)
def test_holes_of_22_mm_stand_30_by_40_apart(dx: float, dy: float, missing: float) -> None:
    """IEC 60947-5-1 6.3: 30 mm one way and 40 mm the other between centres of D22, from memory."""
    one = Cutout(device="S1", x=100, y=100, diameter=22.3)
    other = Cutout(device="S2", x=100 + dx, y=100 + dy, diameter=22.3)
    assert missing_between(one, other)[0] == pytest.approx(missing)


def test_a_device_in_the_hand_goes_onto_the_centre_line_of_another_and_says_what_it_is_too_close_to() -> None:
    first, second = [c for c in PLAN.door.cutouts if c.device in {"M1.S0", "M2.S0"}]
    aligned = try_hole_move(PLAN, DOOR_FACE, "M1.S0", second.x + 3, second.y - 200)
    assert aligned.cutout.x == second.x
    near = try_hole_move(PLAN, DOOR_FACE, "M1.S0", second.x + 10, second.y, snap=False)
    assert any("too close to" in problem for problem in near.problems)
    assert try_hole_move(PLAN, DOOR_FACE, "M1.S0", -5, 300).problems[0].endswith("over the edge of the door")
    moved = compute_plan(settle(keep_door_place(PLAN.job, "M1.S0", 400, 500)))
    assert next((c.x, c.y) for c in moved.door.cutouts if c.device == first.device) == (400, 500)
    with pytest.raises(KeyError):
        try_hole_move(PLAN, DOOR_FACE, "Q0", 100, 100)


def test_a_window_is_cut_where_nothing_else_is_and_can_be_moved() -> None:
    window = next(c for c in PLAN.door.cutouts if c.device == "window")
    assert (window.w, window.h) == (200, 120) and window.box.x > 0
    assert [f for f in find_all(PLAN) if f.rule.startswith("door")] == []
    assert try_hole_move(PLAN, DOOR_FACE, "window", window.x, window.y).is_legal
    assert any(getattr(item, "ref", None) == "window" for item in draw_door(PLAN).items)


def test_contact_blocks_are_told_as_they_are_seen_from_behind() -> None:
    """Blocks can be snapped on the wrong way round; from behind left is right: common practice, no source."""
    text = (
        TEXT
        + '[device.S9]\nkind = "pushbutton"\ncontacts = ["no", "nc"]\n[[rung]]\npath = "C1+ > S9:no > M1.H > C1-"\n'
    )
    assert block_words(plan_of(text), "S9") == "From behind: 21-22 left, 13-14 right"
    assert block_words(PLAN, "M1.H") == ""


def test_stations_have_holes_legends_depth_and_glands() -> None:
    plan = plan_of(HEAD + STARTER.replace('supply = "C1"', 'supply = "C1"\nbuttons_at = "st1"'))
    (station,) = plan.stations
    assert {c.device for c in station.cutouts} >= {"M1.S0", "M1.S1"} and station.fits
    assert station.depth >= station.deepest and len(station.legends) == len(station.cutouts) - 1
    assert [g.cable for g in station.glands] == [c.name for c in plan.cables if c.target == "st1"]
    holes = sorted(station.cutouts, key=lambda c: -c.y)
    assert holes[-1].device == "st1.PE" and holes[-2].device != "M1.S1", "what stops sits below what starts"
    for one, other in zip(holes, holes[1:], strict=False):
        assert missing_between(one, other)[0] <= 0
    names = {item.text for item in draw_station(plan, station).primitives() if hasattr(item, "text")}
    assert {plan.tags[c.device] for c in station.cutouts} <= names


STATION = HEAD + STARTER.replace('supply = "C1"', 'supply = "C1"\nbuttons_at = "st1"')


def test_a_button_of_a_station_goes_where_a_hand_wants_it_and_the_others_stay() -> None:
    plan, face = plan_of(STATION), station_face("st1")
    (station,) = plan.stations
    before = {c.device: (c.x, c.y) for c in station.operators}
    x, y = before["M1.S0"]
    assert movable_holes(plan, face) == before.keys(), "the earth stud stays in its corner"
    assert any("too close to" in p for p in try_hole_move(plan, face, "M1.S1", x, y + 12, snap=False).problems)
    move = try_hole_move(plan, face, "M1.S1", x + 60, y)
    assert move.is_legal and (move.cutout.x, move.cutout.y) == (x + 60, y)
    moved = compute_plan(settle(edit_of(plan, face, move)(plan.job)))
    (now,) = moved.stations
    assert {c.device: (c.x, c.y) for c in now.operators} == {**before, "M1.S1": (x + 60, y)}
    assert now.fits and all(c.box.x > 0 and c.box.right < now.width and c.box.top < now.height for c in now.cutouts)
    legends = dict(zip((c.device for c in now.operators), now.legends, strict=True))
    assert legends["M1.S1"][1].centre[0] == x + 60, "its legend goes with it"
    loose = compute_plan(settle(letting_go(moved, face, "M1.S0")(moved.job)))
    assert loose.stations == plan.stations and loose.job.ledger.holes == {}


def test_a_gland_goes_where_a_hand_wants_it_and_the_others_around_it() -> None:
    plan = plan_of(HEAD + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 7)))
    one, other = plan.entries[:2]
    onto = try_hole_move(plan, ENTRY_FACE, one.key, other.x, other.z, snap=False)
    assert any(other.words in problem for problem in onto.problems)
    assert "at the edge" in try_hole_move(plan, ENTRY_FACE, one.key, 10, one.z).problems[0]
    taken = edit_of(plan, ENTRY_FACE, onto)(plan.job)
    moved = compute_plan(settle(taken))
    entries = {entry.cable: entry for entry in moved.entries}
    assert (entries[one.cable].x, entries[one.cable].z) == (onto.cutout.x, onto.cutout.y)
    assert entries.keys() == {entry.cable for entry in plan.entries} and all(entry.fits for entry in moved.entries)
    assert all(a.missing_to(b) <= 0.2 for a, b in combinations(moved.entries, 2)), "nuts and a spanner have their room"
    assert compute_plan(settle(letting_go(moved, ENTRY_FACE, one.key)(moved.job))).entries == plan.entries


def test_a_release_holds_the_holes_of_stations_and_entry_wall() -> None:
    plan = plan_of(STATION)
    issued = issue_revision(plan.job, "A")
    held = compute_plan(issued)
    assert [replace(s, needs="") for s in held.stations] == [replace(s, needs="") for s in plan.stations]
    assert {e.cable: e for e in held.entries} == {e.cable: e for e in plan.entries}
    for face in (ENTRY_FACE, station_face("st1")):
        key = min(movable_holes(held, face))
        with pytest.raises(JobError, match="released where it is"):
            edit_of(held, face, try_hole_move(held, face, key, 100, 100))(issued)
        assert settle(letting_go(held, face, key)(issued)).ledger.holes == issued.ledger.holes
