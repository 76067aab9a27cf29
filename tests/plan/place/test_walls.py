"""Side walls: where fans and filters go, what they meet inside, how they are wired, moved and written."""

import pytest
import shapely

from riktig.checks.run import find_all
from riktig.drawings.display import Rect
from riktig.drawings.template import wall_templates
from riktig.drawings.wall import WALL_CORNER, draw_wall
from riktig.files.brief_reader import BriefError
from riktig.files.brief_writer import write_brief
from riktig.plan.changes.door import edit_of, movable_holes, try_hole_move, wall_face
from riktig.plan.making.release import issue_revision
from riktig.plan.place.depth import DOOR_SKIN_MM, PLATE_OFF_MM, door_solids, plate_solids
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.record.cutouts import list_cutouts
from support import HEAD, STARTER, job_of, plan_of

FAN = (
    '[device.V1]\nkind = "fan"\nat = "{}_wall"\n[device.F9]\nkind = "breaker"\n[[feeder]]\npath = "L1 > F9 > V1 > N"\n'
)
DEEP = HEAD.replace("height = 1200", "height = 1200\ndepth = 350")


@pytest.fixture(params=["left", "right"], scope="module")
def plan(request: pytest.FixtureRequest) -> Plan:
    return plan_of(DEEP + STARTER + STARTER.replace("M1", "M2") + FAN.format(request.param))


def test_a_fan_sits_low_in_its_wall_and_its_filter_high_in_the_other_one(plan: Plan) -> None:
    """Air comes in low and leaves high on the other side: common practice, no source."""
    fan, outlet = (next((w, c) for w in plan.walls for c in w.cutouts if c.device == name) for name in ("V1", "V1.OF"))
    assert {fan[0].side, outlet[0].side} == {"left", "right"} and fan[1].y < 0.3 * fan[0].height < 0.7 * fan[
        0
    ].height < outlet[1].y
    assert (fan[0].width, fan[0].height) == (350, 1200) and "V1" not in plan.plate.items and "V1" not in plan.door.boxes
    assert not [f for f in find_all(plan) if f.rule.startswith("wall")]


def test_the_air_of_a_fan_counts_in_a_wall_as_in_the_door() -> None:
    carried = []
    for fan in (FAN.format("left"), FAN.format("left").replace("left_wall", "door"), ""):
        values = {v.quantity: v.value for v in plan_of(DEEP + STARTER + fan).panel.heat.values}
        carried.append(values["losses"] / values["temperature_rise"])
    assert carried[0] == pytest.approx(carried[1]) and carried[0] > 1.3 * carried[2], "W for each K"


def test_no_wall_device_meets_what_is_inside_by_solids_of_shapely(plan: Plan) -> None:
    """Each body as a box of its three extents, worked out here from the front: x across, y up, z from the back wall."""
    depth, width = plan.job.enclosure.depth, plan.job.enclosure.width
    inside = [(s.box, PLATE_OFF_MM, PLATE_OFF_MM + s.depth) for s in plate_solids(plan.plate, plan.parts)]
    front = depth - DOOR_SKIN_MM
    inside += [(s.box, front - s.depth, front) for s in door_solids(plan.door.boxes, plan.parts)]
    for wall in plan.walls:
        for hole in wall.cutouts:
            part, z = plan.parts[hole.device], wall.from_back(hole)
            x = (0.0, part.depth) if wall.side == "left" else (width - part.depth, width)
            from_front = shapely.box(x[0], hole.y - part.height / 2, x[1], hole.y + part.height / 2)
            from_above = shapely.box(x[0], z - part.width / 2, x[1], z + part.width / 2)
            for box, back, face in inside:
                one = shapely.box(box.x, box.y, box.right, box.top)
                above = shapely.box(box.x, back, box.right, face)
                assert from_front.intersection(one).area == 0 or from_above.intersection(above).area == 0


def test_it_is_wired_like_what_is_on_the_plate_from_the_upright_on_its_side(plan: Plan) -> None:
    (wall,) = [w for w in plan.walls if any(c.device == "V1" for c in w.cutouts)]
    uprights = sorted(plan.plate.uprights, key=lambda duct: duct.level)
    own = uprights[0 if wall.side == "left" else -1].code
    wires = [c for c in plan.conductors_of["V1"] if c.is_wired]
    assert len(wires) == 3 and all(c.location == "plate" and own in c.route for c in wires)
    assert all(c.length_mm > sum(abs(leg.end - leg.start) for leg in c.legs) + 120 for c in wires), (
        "the tail along the wall besides"
    )


def test_a_hand_moves_it_a_release_holds_it_and_papers_have_it(plan: Plan) -> None:
    side = next(w.side for w in plan.walls if any(c.device == "V1" for c in w.cutouts))
    face = wall_face(side)
    hole = next(c for w in plan.walls for c in w.cutouts if c.device == "V1")
    assert movable_holes(plan, face) == {"V1"}
    assert "over the edge" in try_hole_move(plan, face, "V1", 5, hole.y, snap=False).problems[0]
    back = 60.0 if side == "left" else 290.0
    assert any("meets" in p for p in try_hole_move(plan, face, "V1", back, 600, snap=False).problems), (
        "a duct stands there"
    )
    move = try_hole_move(plan, face, "V1", hole.x, hole.y + 50, snap=False)
    assert move.is_legal
    moved = compute_plan(settle(edit_of(plan, face, move)(plan.job)))
    wall = next(w for w in moved.walls if w.side == side)
    assert (wall.cutouts[0].x, wall.cutouts[0].y) == (hole.x, hole.y + 50)
    assert job_of(write_brief(moved.job)).ledger.holes == moved.job.ledger.holes
    issued = issue_revision(moved.job, "A")
    assert compute_plan(issued).walls == moved.walls and issued.ledger.holes["V1"].state == "frozen"
    assert {f"{w.side} wall" for w in moved.walls} <= {c.where for c in list_cutouts(moved)}
    frame = next(i for i in draw_wall(moved, wall).items if isinstance(i, Rect) and i.ref == "V1")
    assert frame.x + frame.w / 2 - WALL_CORNER[0] == pytest.approx(hole.x)
    assert [(t.width, t.height) for t in wall_templates(moved)] == [(350, 1200)] * 2


def test_what_does_not_fit_is_found_and_what_has_no_cutout_refused() -> None:
    shallow = plan_of(DEEP.replace("depth = 350", "depth = 150") + STARTER + FAN.format("left"))
    assert "wall-depth" in {f.rule for f in find_all(shallow)}
    beyond = plan_of(DEEP + FAN.format("left") + '[kept.holes]\n"V1" = "20 300"\n')
    assert "wall-too-small" in {f.rule for f in find_all(beyond)}
    with pytest.raises(BriefError, match="held in no cut-out: put it on the plate"):
        plan_of(DEEP + '[device.R9]\nkind = "relay"\nat = "left_wall"\n')
    with pytest.raises(BriefError, match="left_wall"):
        plan_of(DEEP + "[location.left_wall]\n")
