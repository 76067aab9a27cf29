"""The open panel as one stands before it: the door hangs at its hinges, left and right changed places, wires end where they are wired."""

import pytest

from riktig.drawings.display import Circle, Line, Rect, Text
from riktig.drawings.open_panel import draw_open_panel, draw_ways, open_shift, terminal_point
from riktig.drawings.plate import geometry_of, plate_origin
from riktig.plan.circuit.model import DOOR
from riktig.plan.plan import Plan
from riktig.plan.wiring.links import HINGE
from support import plan_of, small_text


@pytest.fixture(params=["left", "right"], scope="module")
def plan(request: pytest.FixtureRequest) -> Plan:
    text = small_text("iec")
    assert "[enclosure]" in text
    return plan_of(text.replace("[enclosure]", f'[enclosure]\nhinge = "{request.param}"'))


def test_what_is_near_the_hinges_hangs_near_the_enclosure(plan: Plan) -> None:
    drawing = draw_open_panel(plan)
    shift, enclosure = open_shift(plan), plan.job.enclosure
    left = plate_origin(plan)[0] + shift + (plan.plate.width - enclosure.width) / 2
    near = left if enclosure.hinge == "left" else left + enclosure.width
    door = next(item for item in drawing.items if isinstance(item, Rect) and item.ref == DOOR)
    assert (door.x + door.w < left) == (enclosure.hinge == "left") and door.w == plan.door.width
    hinge = door.x + door.w if enclosure.hinge == "left" else door.x
    assert abs(hinge - near) < 60
    behind = drawing.items[drawing.items.index(door) :]
    for cutout in plan.door.cutouts:
        drawn = next(item for item in behind if isinstance(item, Circle | Rect) and item.ref == cutout.device)
        x = drawn.x if isinstance(drawn, Circle) else drawn.x + drawn.w / 2
        from_hinge = cutout.x if enclosure.hinge == "left" else plan.door.width - cutout.x
        assert abs(x - hinge) == pytest.approx(from_hinge), "as far from the hinges as from the front"
    inside = [item for item in drawing.items if isinstance(item, Text)]
    assert all(0 <= item.x <= drawing.width and 0 <= item.y <= drawing.height for item in inside)


def test_a_wire_over_the_hinges_leads_from_its_clamp_to_its_contact(plan: Plan) -> None:
    geometry = geometry_of(plan)
    wires = [c for c in plan.conductors if c.location == HINGE]
    assert wires
    for wire in wires:
        (line,) = draw_ways(plan, (wire,))
        assert isinstance(line, Line)
        assert line.points[0] == terminal_point(plan, geometry, wire.a)
        assert line.points[-1] == terminal_point(plan, geometry, wire.b)
        assert all(a[0] == b[0] or a[1] == b[1] for a, b in zip(line.points[1:], line.points[2:], strict=False))
        (alone,) = draw_ways(plan, (wire,), with_door=False)
        assert isinstance(alone, Line) and line.points[: len(alone.points)] == alone.points
