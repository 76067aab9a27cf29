"""Where potentials are drawn, piece by piece, and the busbars of a sheet."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from riktig.drawings.circuit.geometry import SheetGeometry
from riktig.drawings.circuit.pieces import Numbers, Piece, Pieces
from riktig.drawings.frame import LEFT
from riktig.drawings.shapes import POLE_PITCH
from riktig.plan.plan import Plan
from riktig.plan.sheets.figures import LANES
from strategies import panels
from support import demo_text, plan_of


def chain_of(plan: Plan, start: str) -> list[Piece]:
    """Follow the pieces of a potential from the id of its first one."""
    pieces = Pieces(plan, Numbers(plan))
    found, at = [], start
    while (behind := pieces.neighbours(at).behind) is not None:
        found.append(behind)
        at = behind.id
    return found


def test_the_chain_of_a_supply_leads_over_all_its_sheets_in_their_order() -> None:
    """L1 of the demo begins at the way in on sheet 10 and is met on every power sheet that takes from it."""
    plan = plan_of(demo_text("iec"))
    places = [(p.place.sheet, p.place.lane) for p in chain_of(plan, "bus:10:head:L1")]
    order = {sheet: n for n, sheet in enumerate(plan.sheets.sheets())}
    assert [order[s] for s, _ in places] == sorted(order[s] for s, _ in places)
    assert {sheet for sheet, _ in places} == {11}


@settings(max_examples=examples(25))
@given(panels(), st.sampled_from(["columns", "rungs"]))
def test_busbars_of_one_level_lie_apart_and_tap_two_lanes_or_more(text: str, school: str) -> None:
    plan = plan_of(text.replace("[practice]", f'[practice]\ndrawing = "{school}"', 1))
    pieces = Pieces(plan, Numbers(plan))
    for buses in pieces.buses.values():
        for found in (buses.heads, buses.feet):
            for bus in found.values():
                assert 0 <= bus.first < bus.last < LANES
                same = [b for b in found.values() if b.level == bus.level and b is not bus]
                assert all(b.last < bus.first or b.first > bus.last for b in same)


def test_a_neighbour_sees_the_piece_that_sees_it() -> None:
    plan = plan_of(demo_text("ul"))
    pieces = Pieces(plan, Numbers(plan))
    seen = 0
    for sheet in plan.sheets.sheets():
        for number in (*pieces.buses[sheet].heads, *pieces.buses[sheet].feet):
            for side in ("head", "foot"):
                own = f"bus:{sheet}:{side}:{number}"
                behind = pieces.neighbours(own).behind
                if behind is not None:
                    before = pieces.neighbours(behind.id).before
                    assert before is not None and before.id == own
                    seen += 1
    assert seen > 5


@pytest.mark.parametrize(("is_rung", "is_power"), [(False, False), (True, False), (False, True)])
@pytest.mark.parametrize("heads", [0, 1, 3])
@pytest.mark.parametrize("feet", [0, 1, 2])
def test_paths_lie_between_the_busbars_and_lanes_inside_the_frame(
    is_rung: bool, is_power: bool, heads: int, feet: int
) -> None:
    geometry = SheetGeometry(is_rung=is_rung, is_power=is_power, heads=heads, feet=feet)
    assert geometry.head(max(heads, 1) - 1) < geometry.start < geometry.end
    if not is_power:
        assert geometry.end < geometry.foot(max(feet, 1) - 1)
    for lane in range(LANES):
        (x, y), (x2, y2) = (
            geometry.at(geometry.axis(lane, 1), geometry.start),
            geometry.at(geometry.axis(lane, 1), geometry.end),
        )
        assert min(x, x2) >= LEFT and max(x, x2) <= 410 and min(y, y2) >= 34 and max(y, y2) <= 287
        assert (y == y2) is is_rung


def test_longer_numbers_push_the_conductor_away_from_the_edge_of_its_lane_but_no_further_than_texts_need() -> None:
    axes = [SheetGeometry(is_rung=False, is_power=False, heads=1, feet=1, letters=n).axis(0, 1) for n in (1, 4, 6, 9)]
    assert axes == sorted(axes) and axes[0] == axes[1] < axes[2] < axes[3] < 22
    wide = SheetGeometry(is_rung=False, is_power=True, heads=3, feet=0).axes(2, 3)
    assert [b - a for a, b in zip(wide, wide[1:], strict=False)] == [POLE_PITCH, POLE_PITCH]
