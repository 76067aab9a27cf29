"""What stays live with the main switch off stands together, behind a cover that is drawn: IEC 60204-1:2016 5.3.5, from memory."""

import pytest
from shapely import box

from riktig.drawings.display import Text
from riktig.drawings.plate import draw_plate
from riktig.plan.arrange.edit import arrange_plate
from riktig.plan.place.covers import covers
from riktig.plan.plan import Plan, compute_plan
from support import HEAD, STARTER, demo_text, plan_of

TWO_WAYS = '[excepted.X8]\nload = "socket"\n[excepted.X9]\nload = "heater"\n'


@pytest.fixture(params=["iec", "ul", "two"], scope="module")
def plan(request: pytest.FixtureRequest) -> Plan:
    if request.param == "two":
        return plan_of(HEAD.replace('system = "3ph"', 'system = "3ph+n"') + STARTER + TWO_WAYS)
    return plan_of(demo_text(request.param))


def check_covers(plan: Plan) -> int:
    """Check that covers lie over all that stays live and nothing else, and are drawn; return how many there are."""
    plate, made = plan.plate, covers(plan.plate)
    names = {one.name for one in plan.job.excepted}
    live = {d.id for d in plan.circuit.devices if d.owner in names} | {n for n in plate.boxes if n.startswith("in.")}
    live |= {"X0"} if names else set()
    shapes = [box(b.x, b.y, b.right, b.top) for _, b in made]
    assert sorted(name for members, _ in made for name in members) == sorted(live & plate.boxes.keys())
    for name, b in plate.boxes.items():
        part = box(b.x, b.y, b.right, b.top)
        inside = [shape.contains(part) for shape in shapes]
        assert sum(inside) == (name in live), name
        assert name in live or all(shape.intersection(part).area <= 2 * 2.0 * b.h for shape in shapes), name
    words = [item for item in draw_plate(plan).items if isinstance(item, Text) and item.text == "stays live"]
    assert len(words) == len(made)
    return len(made)


def test_what_stays_live_is_covered_and_nothing_else(plan: Plan) -> None:
    check_covers(plan)
    check_covers(compute_plan(arrange_plate(plan.job, effort=0.02)))


def test_a_proposal_has_what_stands_on_rails_together_but_for_the_light() -> None:
    plan = plan_of(demo_text("iec"))
    lights = {name for name in plan.plate.items if name in plan.parts and plan.parts[name].kind == "light"}
    on_rails = [members for members, _ in covers(plan.plate) if all(plan.plate.items[n].on_rail for n in members)]
    whole = [members for members in on_rails if not lights & set(members)]
    assert len(whole) == 1 and len(whole[0]) > 4


def test_where_no_circuit_is_excepted_nothing_is_covered() -> None:
    assert covers(plan_of(HEAD + STARTER).plate) == ()
