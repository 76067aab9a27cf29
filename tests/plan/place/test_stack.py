"""Rows made to measure: heights from parts and clearances, bands from the top, small rows together, reserve kept."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.plan.place.items import FINGER_MM, Band, PlateItem
from riktig.plan.place.stack import (
    ROW_FILL,
    Row,
    first_rows,
    inner_span,
    packed_width,
    rows_height,
    stack_rows,
    usual_ducts,
)
from support import HEAD, STARTER, job_of, plan_of

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


@given(st.lists(st.tuples(st.sampled_from(list(Band)), st.sampled_from([18, 45, 90, 150])), min_size=1, max_size=30))
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


@pytest.mark.parametrize("entry", ["top", "bottom"])
def test_breakers_stand_above_their_contactors_and_the_way_in_from_the_left_in_the_order_of_the_current(
    entry: str,
) -> None:
    """Common practice, no source. A feeder of a person's own stands among the motors."""
    own = '[device.M9]\nkind = "motor"\nkw = 1.5\nat = "field"\n' + "".join(
        f'[device.{name}]\nkind = "{kind}"\n'
        for name, kind in (("Q9", "breaker"), ("K9", "contactor"), ("F9", "overload"))
    )
    text = HEAD.replace("height = 1200", "height = 2400").replace("[supply]", f'[supply]\nentry = "{entry}"')
    text += '[incoming]\nprotection = "breaker"\nmain_contactor = true\n[surge.F20]\n'
    motors = "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 5))
    plate = plan_of(text + motors + own + '[[feeder]]\npath = "L1 L2 L3 > Q9 > K9 > F9 > M9"\n').plate
    pairs = [*((f"M{n}.Q", f"M{n}.K") for n in range(1, 5)), ("Q9", "K9")]
    assert len({plate.row_of[upper] for upper, _ in pairs}) == len({plate.row_of[lower] for _, lower in pairs}) == 1
    assert all(plate.row_of[upper] + 1 == plate.row_of[lower] for upper, lower in pairs)
    for names in (*zip(*pairs, strict=True), ("Q0", "incoming.FP", "incoming.K")):
        lefts = [plate.boxes[name].x for name in names]
        assert lefts == sorted(lefts), names
    assert plate.row_of["F20"] == plate.row_of["F20.Q"] + 1
    few = plan_of(HEAD + STARTER).plate
    assert few.row_of["M1.Q"] == few.row_of["M1.K"]


@pytest.mark.parametrize("entry", ["top", "bottom"])
@pytest.mark.parametrize("incoming", ["", 'protection = "fuse"\n', 'switch = "none"\n', "main_contactor = true\n"])
def test_an_arrester_stands_below_what_protects_it_and_that_where_the_supply_is_to_be_had(
    entry: str, incoming: str
) -> None:
    """Its leads are short, IEC 60364-5-53 534.4.8: about a metre from the first layout on, common practice, no source."""
    text = HEAD.replace("volts = 400", f'volts = 400\nentry = "{entry}"').replace(
        "width = 800\nheight = 1200", "width = 2000\nheight = 2400"
    )
    motors = "".join(f'[starter.M{n}]\nkw = 15\nsupply = "C1"\n' for n in range(1, 6))
    plan = plan_of(text + f"[incoming]\n{incoming}[surge.F20]\n" + motors)
    guard = {c.b: c.laid_mm for c in plan.conductors if c.is_wired and c.b.startswith("F20.Q:") and "F20:" not in c.a}
    behind = [c for c in plan.conductors if c.is_wired and {c.a.split(":")[0], c.b.split(":")[0]} == {"F20.Q", "F20"}]
    assert len(guard) == len(behind) == 3
    assert max(guard.values()) + max(c.laid_mm for c in behind) <= 1200
    assert plan.plate.boxes["F20"].y < plan.plate.boxes["F20.Q"].y or entry == "bottom"


def test_what_is_screwed_on_stands_beside_a_rail_that_is_cut_to_the_rest() -> None:
    fixed = part("T1", Band.SUPPLY, 100, 120, on_rail=False)
    row = Row(rail=(part("K1", Band.SUPPLY),), fixed=(fixed,))
    stack = stack_rows(JOB, [row], DUCTS)
    (rail,) = stack.rails
    word, x, _ = stack.places["T1"].split()
    assert word == "plate" and rail.x + rail.length <= float(x) and stack.places["K1"].startswith("R1 ")
    other = stack_rows(JOB, [Row(rail=row.rail, fixed=row.fixed, fixed_left=True)], DUCTS)
    assert other.rails[0].x >= float(other.places["T1"].split()[1]) + fixed.width


def test_rows_begin_far_from_the_cables() -> None:
    row = Row(rail=(part("K1", Band.STARTER),))
    below = stack_rows(JOB, [row], DUCTS)
    above = stack_rows(
        job_of(HEAD.replace("height = 1200", "height = 9000").replace("volts = 400", 'volts = 400\nentry = "top"')),
        [row],
        DUCTS,
    )
    assert below.highest == 8950 and above.lowest == 0
