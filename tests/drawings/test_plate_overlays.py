"""What is laid over the plate, sections of depth, and full-size templates: recorded primitives."""

import pytest

from riktig.drawings.display import Circle, Line, Rect, Text, Tone
from riktig.drawings.plate import plate_origin
from riktig.drawings.plate_overlays import Overlay, draw_hand, draw_overlay
from riktig.drawings.section import draw_section
from riktig.drawings.template import plate_template
from riktig.plan.answers.plate_figures import COPPER_KG_PER_DM3, plate_figures
from riktig.plan.changes import plate as plate_edits
from riktig.plan.place.depth import clear_depth
from riktig.plan.plan import Plan
from support import HEAD, STARTER, plan_of, small_text


@pytest.fixture(params=["iec", "ul"], scope="module")
def plan(request: pytest.FixtureRequest) -> Plan:
    return plan_of(small_text(request.param))


def test_fill_says_each_duct_with_its_percent(plan: Plan) -> None:
    texts = {item.text for item in draw_overlay(plan, Overlay.FILL) if isinstance(item, Text)}
    assert texts == {f"{code}  {percent:.0f} %" for code, percent in plan.fill_percent.items()}


def test_a_duct_that_is_too_full_says_so_in_words_too() -> None:
    """State is never colour alone. The plate is too low for wider ducts."""
    plan = plan_of(HEAD + "".join(STARTER.replace("M1", f"M{n}").replace("1.5", "7.5") for n in range(1, 15)))
    texts = [item.text for item in draw_overlay(plan, Overlay.FILL) if isinstance(item, Text)]
    full = {code for code, percent in plan.fill_percent.items() if percent > 60}
    assert full and {t.split()[0] for t in texts if t.endswith("too full")} == full


def test_losses_are_discs_in_proportion_with_their_watts(plan: Plan) -> None:
    items = draw_overlay(plan, Overlay.LOSSES)
    radii = {item.ref: item.r for item in items if isinstance(item, Circle)}
    lost = {n: plan.parts[n].losses_w for n in plan.plate.boxes if n in plan.parts and plan.parts[n].losses_w >= 0.5}
    assert radii.keys() == lost.keys()
    large = [n for n in lost if radii[n] > 9.0]
    assert all(radii[n] ** 2 / lost[n] == pytest.approx(5.2**2) for n in large)


def test_every_wire_lies_over_the_plate_in_its_own_colour_and_each_terminal_reaches_a_duct(plan: Plan) -> None:
    wires = [c for c in plan.conductors if c.kind == "wire" and c.legs]
    drawn = [item for item in draw_overlay(plan, Overlay.WIRES) if isinstance(item, Line)]
    assert len(drawn) == len(wires)
    assert {item.tone for item in drawn} == {Tone(f"wire {c.colour}") for c in wires}
    reach = [item for item in draw_overlay(plan, Overlay.REACH) if isinstance(item, Line)]
    assert len(reach) > len(plan.plate.items) and not any(item.is_dashed for item in reach)


def test_a_part_in_the_hand_is_ticked_or_crossed(plan: Plan) -> None:
    item = next(i for i in plan.plate.items.values() if i.on_rail and i.id in plan.tags)
    box = plan.plate.boxes[item.id]
    legal = plate_edits.try_move(plan.plate, item.id, box.x, box.y)
    duct = plan.plate.levels[0].box
    crossed = plate_edits.with_item(plan.plate, item, plate_edits.Box(x=box.x, y=duct.y, w=box.w, h=box.h), "", "R1")
    for move, mark in ((legal, "✓"), (crossed, "✗")):
        items = draw_hand(plan, (move,), plan.name_of)
        assert [t.text for t in items if isinstance(t, Text)] == [f"{plan.tags[item.id]} {mark}"]
        frame = next(r for r in items if isinstance(r, Rect))
        assert (frame.x - plate_origin(plan)[0], frame.w) == pytest.approx((move.box.x, move.box.w))


def test_the_figures_are_those_of_the_wires(plan: Plan) -> None:
    """By hand: kilograms of copper are mm by mm2 by 8.96 kg/dm3."""
    figures = plate_figures(plan)
    wires = [c for c in plan.conductors if c.kind == "wire"]
    assert figures.wire_m == pytest.approx(sum(c.length_mm for c in wires) / 1000)
    assert figures.copper_kg == pytest.approx(sum(c.length_mm * c.size.mm2 for c in wires) * COPPER_KG_PER_DM3 / 1e6)
    assert figures.longest is not None and figures.longest.length_mm == max(c.length_mm for c in wires if c.legs)
    for reserve in figures.reserves:
        rail = plan.plate.rail(reserve.code)
        assert rail is not None
        taken = sum(plan.plate.items[n].width for n, code in plan.plate.rail_of.items() if code == rail.code)
        assert 0 <= reserve.free_mm <= rail.length - taken + 1e-6


def test_the_section_has_every_body_as_deep_as_it_is(plan: Plan) -> None:
    drawing = draw_section(plan)
    widths = {
        item.ref: item.w
        for item in drawing.items
        if isinstance(item, Rect) and item.ref in plan.parts and item.ref in plan.plate.boxes
    }
    assert widths
    texts = {item.text for item in drawing.items if isinstance(item, Text)}
    assert f"{clear_depth(plan.job.enclosure):g} mm clear" in texts
    for device in plan.door.boxes:
        words = {item.text for item in draw_section(plan, device).items if isinstance(item, Text)}
        named = plan.tags.get(device)
        assert device not in plan.parts or f"From the side, at {named}" in words


def test_a_template_is_as_large_as_the_plate_with_its_datum_at_the_origin(plan: Plan) -> None:
    drawing = plate_template(plan)
    assert (drawing.width, drawing.height) == (plan.plate.width, plan.plate.height)
    assert sum(isinstance(item, Circle) for item in drawing.items) == len(plan.holes)
    corners = [p for item in drawing.items if isinstance(item, Line) for p in item.points]
    assert (0, 0) in corners and (plan.plate.width, plan.plate.height) in corners
