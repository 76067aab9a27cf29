"""Depth: what of the door meets what of the plate, shut and while it swings, against rotated boxes of a geometry library."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import box as rectangle

from effort import examples
from riktig.catalogue.loader import find_part
from riktig.checks.run import find_all
from riktig.job import edits
from riktig.job.model import Enclosure
from riktig.plan.place.depth import (
    AIR_MM,
    BEND_MM,
    FRAME,
    Solid,
    block_places,
    clear_depth,
    depth_behind,
    find_meetings,
)
from riktig.plan.place.layout import Box
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, job_of, plan_of

BOX = Enclosure(width=600, height=800, depth=250)


def solid(name: str, x: float, w: float, depth: float, y: float = 100.0) -> Solid:
    return Solid(name=name, box=Box(x=x, y=y, w=w, h=40), depth=depth)


def meets_when_turned(door: Solid, plate: Solid, enclosure: Enclosure) -> bool:
    """Turn the door part step by step around the hinges and look whether it cuts the plate part, seen from above."""
    clear = clear_depth(enclosure)
    standing = rectangle(plate.box.x, clear - plate.depth - AIR_MM, plate.box.right, clear)
    shut = rectangle(door.box.x, 0, door.box.right, door.depth)
    is_left = enclosure.hinge == "left"
    hinge = (0.0, 0.0) if is_left else (enclosure.width, 0.0)
    turned = (affinity.rotate(shut, (-1 if is_left else 1) * k / 20, origin=hinge) for k in range(90 * 20))
    return any(part.intersection(standing).area > 1e-3 for part in turned)


@settings(max_examples=examples(120))
@given(
    st.integers(30, 480), st.integers(20, 120), st.integers(40, 180), st.integers(30, 480), st.integers(20, 120), st.integers(20, 200),
    st.sampled_from(["left", "right"]),
)  # fmt: skip
def test_a_meeting_is_found_where_a_turned_box_cuts_another(
    x: int, w: int, d: int, px: int, pw: int, pd: int, hinge: str
) -> None:
    """shapely as oracle: the door part rotated in steps of a twentieth of a degree."""
    enclosure = BOX.model_copy(update={"hinge": hinge})
    door, plate = solid("S1", x, w, d), solid("K1", px, pw, pd)
    found = [f for f in find_meetings([door], [plate], enclosure) if f.plate != FRAME]
    slim = Solid(name="S1", box=door.box, depth=d - 0.5)
    fat = Solid(name="S1", box=door.box, depth=d + 0.5)
    if meets_when_turned(slim, plate, enclosure):
        assert found, "missed"
    if not meets_when_turned(fat, plate, enclosure):
        assert not found, "false alarm"


def test_one_that_hits_only_while_it_swings_is_found_with_its_angle() -> None:
    """By hand: far edge 130 and 150 deep turn on a radius of 198.5; a part from 135 on whose front lies 105 behind the door is met."""
    clear = clear_depth(BOX)
    plate = solid("K1", 135, 40, clear - 110)
    (fault,) = find_meetings([solid("S1", 100, 30, 150)], [plate], BOX)
    assert (fault.door, fault.plate) == ("S1", "K1") and 0 < fault.angle < 5
    assert find_meetings([solid("S1", 100, 30, 150 - fault.missing - 0.1)], [plate], BOX) == ()
    assert find_meetings([solid("S1", 100, 30, 150, y=300)], [plate], BOX) == (), "another height"


def test_what_is_missing_is_enough_and_a_millimetre_less_is_not() -> None:
    plate = solid("K1", 90, 60, 130)
    (fault,) = find_meetings([solid("S1", 100, 30, 120)], [plate], BOX)
    assert fault.angle == 0.0
    assert find_meetings([solid("S1", 100, 30, 120 - fault.missing)], [plate], BOX) == ()
    assert find_meetings([solid("S1", 100, 30, 120 - fault.missing + 1)], [plate], BOX)


def test_stacked_contact_blocks_and_the_bend_of_wires_make_a_device_deeper() -> None:
    """Three blocks abreast, the fourth behind them, 20 mm more; a lamp takes the middle: common practice, no source."""
    one, four, six = (find_part(f"pb22-{v}") for v in ("10", "22", "33"))
    assert depth_behind(one) == one.depth + BEND_MM
    assert depth_behind(four) == depth_behind(six) == four.depth + 20 + BEND_MM
    assert [(p.layer, p.slot) for p in block_places(four)] == [(1, "left"), (1, "right"), (1, "middle"), (2, "left")]
    lit = find_part("pi22-green-11@230AC")
    assert {p.slot for p in block_places(lit) if p.element != "lamp"} == {"left", "right"}


def test_a_shallow_enclosure_is_found_with_its_door_parts_and_a_deep_one_is_sound() -> None:
    """Find the first depth at which nothing meets; the door parts avoid what stands behind where they can."""
    text = HEAD + "".join(STARTER.replace("M1", f"M{n}").replace("kw = 1.5", "kw = 15") for n in range(1, 5))
    job = job_of(text)
    rules = {}
    for depth in (130, 400):
        plan = compute_plan(settle(edits.change_part(job, "enclosure", depth=float(depth))))
        rules[depth] = {f.rule for f in find_all(plan) if f.rule in {"door-depth", "shaft-too-short"}}
    assert rules[130] and not rules[400]


@pytest.mark.parametrize("hinge", ["left", "right"])
def test_the_door_loom_leaves_at_the_hinges_and_the_shaft_spans_what_is_left(hinge: str) -> None:
    """By hand: 250 mm deep, 20 behind the plate: 230 to the front, less rail of 7.5 and the switch itself."""
    plan = plan_of(HEAD.replace("height = 1200", f'height = 1200\nhinge = "{hinge}"') + STARTER)
    loom = {c.route[-1] for c in plan.conductors if c.location == "hinge"}
    assert loom == {"D1" if hinge == "left" else "D2"}
    assert plan.door.shaft == 230 - 7.5 - plan.parts["Q0"].depth


def test_what_stands_beyond_the_edge_on_the_side_of_the_hinges_is_judged_without_a_crash() -> None:
    """By hand: with the hinges right, a plate part over the right edge lies behind them."""
    enclosure = BOX.model_copy(update={"hinge": "right"})
    assert find_meetings([solid("S1", 560, 120, 180)], [solid("K1", 590, 200, 190)], enclosure)
    assert find_meetings([solid("S1", 640, 30, 180)], [solid("K1", 600, 30, 190)], enclosure) is not None
