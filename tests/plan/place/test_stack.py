"""Rows made to measure: heights from parts and clearances, bands from the top, small rows together, reserve kept."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.job.entries import OnPlate, OnRail
from riktig.plan.place.first_rows import band_order, first_rows
from riktig.plan.place.items import FINGER_MM, Band, PlateItem
from riktig.plan.place.row_room import width_with, with_items
from riktig.plan.place.stack import ROW_FILL, Row, inner_span, packed_width, rows_height, stack_rows, usual_ducts
from support import HEAD, demo_text, job_of, plan_of

JOB = job_of(HEAD.replace("height = 1200", "height = 9000"))
DUCTS = usual_ducts(JOB)


def part(name: str, band: Band, width: float = 45, height: float = 90, **more: object) -> PlateItem:
    values = {"depth": 60.0, "on_rail": True, **more}
    return PlateItem(id=name, band=band, width=width, height=height, **values)  # type: ignore[arg-type]


def test_a_row_is_as_high_as_its_tallest_part_what_hangs_below_and_its_clearance() -> None:
    """By hand: 90 high, 60 below it: 45 and 30 up, 45, 60 and 30 down; a clearance of 100 takes the place of 30."""
    row = Row(rail=(part("K1", Band.STARTER, hung=("F1", 45.0, 60.0)), part("F2", Band.SUPPLY, 18, 80)))
    assert (row.up, row.down) == (45 + FINGER_MM, 45 + 60 + FINGER_MM)
    assert Row(fixed=(part("T1", Band.HEAT, 100, 200, on_rail=False, clearance=100.0),)).up == 200


def test_neighbours_of_one_comb_touch_and_others_stand_four_millimetres_apart() -> None:
    pair = (part("F1", Band.SUPPLY, 18, snug="comb 18"), part("F2", Band.SUPPLY, 18, snug="comb 18"))
    assert packed_width(pair) == 36 and packed_width((pair[0], part("K1", Band.SUPPLY))) == 18 + 4 + 45


@given(
    st.lists(st.tuples(st.sampled_from(band_order(JOB)), st.sampled_from([18, 45, 90, 150])), min_size=1, max_size=30)
)
def test_rows_keep_their_share_and_bands_their_order(parts: list[tuple[Band, int]]) -> None:
    """About a fifth of each row stays free while the plate is high enough: common practice, no source."""
    items = [part(f"P{n}", band, width) for n, (band, width) in enumerate(parts)]
    rows = first_rows(JOB, items, DUCTS)
    left, right = inner_span(JOB, DUCTS)
    assert sorted(i.id for row in rows for i in row.items) == sorted(i.id for i in items)
    order = [band for row in rows for band in sorted({i.band for i in row.items})]
    assert order == sorted(order)
    assert all(row.width <= ROW_FILL * (right - left) + 1e-6 or len(row.items) == 1 for row in rows)
    low = job_of(HEAD.replace("height = 1200", "height = 300"))
    squeezed = first_rows(low, items, DUCTS)
    assert rows_height(squeezed, DUCTS) <= rows_height(rows, DUCTS)
    assert all(row.width <= right - left + 1e-6 for row in squeezed)


def test_what_is_screwed_on_stands_beside_a_rail_that_is_cut_to_the_rest() -> None:
    fixed = part("T1", Band.SUPPLY, 100, 120, on_rail=False)
    row = Row(rail=(part("K1", Band.SUPPLY),), fixed=(fixed,))
    stack = stack_rows(JOB, [row], DUCTS)
    (rail,) = stack.rails
    screwed, on_rail = stack.places["T1"], stack.places["K1"]
    assert isinstance(screwed, OnPlate) and rail.x + rail.length <= screwed.x
    assert isinstance(on_rail, OnRail) and on_rail.rail == "R1"
    other = stack_rows(JOB, [Row(rail=row.rail, fixed=row.fixed, fixed_left=True)], DUCTS)
    moved = other.places["T1"]
    assert isinstance(moved, OnPlate) and other.rails[0].x >= moved.x + fixed.width


def test_rows_begin_far_from_the_cables() -> None:
    row = Row(rail=(part("K1", Band.STARTER),))
    below = stack_rows(JOB, [row], DUCTS)
    above = stack_rows(
        job_of(HEAD.replace("height = 1200", "height = 9000").replace("volts = 400", 'volts = 400\nentry = "top"')),
        [row],
        DUCTS,
    )
    assert below.highest == 8950 and above.lowest == 0


def test_what_a_row_takes_with_more_is_what_it_takes_once_they_stand_in_it() -> None:
    plan = plan_of(demo_text("iec"))
    items = tuple(plan.plate.items.values())
    for count in (0, 1, 5, 20):
        row = with_items(Row(), items[:count])
        for more in (items[count : count + 1], items[count : count + 7], items[-3:], ()):
            assert width_with(row, more) == pytest.approx(with_items(row, more).width)
