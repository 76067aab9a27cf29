"""Arranging the plate: never illegal, close to the best there is, the same for the same seed, pinned parts where they are."""

import re
from dataclasses import replace
from itertools import pairwise, permutations, product

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from shapely.geometry import box as rectangle
from shapely.strtree import STRtree

from effort import EFFORT, examples
from riktig.job.model import Job
from riktig.plan.arrange.cost import GLAND, Pull, pulls_of, run_keys, weight, weighted_length
from riktig.plan.arrange.edit import arrange_plate
from riktig.plan.arrange.search import Cancelled, Search
from riktig.plan.arrange.slots import Arrangement, Slot, slots_of
from riktig.plan.changes import plate as plate_edits
from riktig.plan.changes.plate import pin_all
from riktig.plan.net.numbers import natural_key
from riktig.plan.place.faults import FaultKind, find_faults
from riktig.plan.place.first_rows import first_rows, straightened
from riktig.plan.place.items import FINGER_MM, Band, PlateItem
from riktig.plan.place.layout import PlateLayout, make_layout
from riktig.plan.place.reach import Reach
from riktig.plan.place.stack import RAIL_GAP_MM, ROW_FILL, Row, inner_span, stack_rows, usual_ducts
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, job_of, small_text

FRAME = HEAD.replace("width = 800\nheight = 1200", "width = {w}\nheight = {h}").replace(
    "volts = 400", 'volts = 400\nentry = "{entry}"'
)


def frame(width: int, height: int, entry: str) -> Job:
    return job_of(FRAME.format(w=width, h=height, entry=entry))


@st.composite
def part_lists(draw: st.DrawFn) -> tuple[PlateItem, ...]:
    """Draw parts of all sorts: on rail and screwed on, with and without clearance, with something hung below, strips."""
    found = []
    for n in range(draw(st.integers(1, 40))):
        on_rail = draw(st.booleans()) or draw(st.booleans())
        width, height = (
            draw(st.sampled_from([5.2, 18, 22.5, 36, 45, 54, 90, 165])),
            draw(st.sampled_from([16, 48, 80, 90, 125, 240])),
        )
        hung = (
            (f"F{n}", draw(st.sampled_from([width, width + 8])), 60.0)
            if on_rail and draw(st.integers(0, 4)) == 0
            else None
        )
        found.append(
            PlateItem(
                id=f"P{n}", band=draw(st.sampled_from(list(Band))), width=width, height=height, depth=60, on_rail=on_rail,
                clearance=draw(st.sampled_from([0, 0, 0, 40, 100])), reserve=draw(st.sampled_from([0, 0, 30])) if on_rail else 0,
                hung=hung, snug="comb" if width == 54 else "", load=draw(st.sampled_from(["", "M1", "M2", "M3", "M4", "M5"])),
                is_protection=draw(st.booleans()),
            )
        )  # fmt: skip
    return tuple(found)


def check_legal(layout: PlateLayout) -> None:
    """Hold a plate against the rules with another library: no overlap, clearances and finger room kept, every side reaches a duct."""
    solids = {**layout.boxes, **{d.code: d.box for d in layout.ducts}}
    shapes = [rectangle(b.x, b.y, b.right, b.top) for b in solids.values()]
    for k, found in enumerate(STRtree(shapes).query(shapes, predicate="intersects").T if shapes else []):
        del k
        i, j = int(found[0]), int(found[1])
        assert i == j or shapes[i].intersection(shapes[j]).area < 1e-6, (list(solids)[i], list(solids)[j])
    for item in layout.items.values():
        b = layout.boxes[item.id]
        low = layout.boxes[item.hung[0]].y if item.hung is not None else b.y
        room = max(FINGER_MM, item.clearance)
        band = rectangle(b.x, low - room + 1e-6, b.right, b.top + room - 1e-6)
        for duct in layout.levels:
            assert band.intersection(rectangle(duct.box.x, duct.box.y, duct.box.right, duct.box.top)).area < 1e-6, (
                item.id,
                duct.code,
            )
        if item.on_rail:
            rail = layout.rail(layout.rail_of[item.id])
            assert rail is not None and rail.x <= b.x + 5.1 and b.right <= rail.x + rail.length + 5.1
    reach = Reach(layout)
    for name, b in layout.boxes.items():
        for is_top in reach.sides(name):
            assert reach.straight(b.centre[0], b.top if is_top else b.y, is_top=is_top, item=name).duct is not None, (
                name
            )


@settings(max_examples=examples(200), deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(
    part_lists(),
    st.sampled_from([(600, 800), (800, 1200), (1200, 2000), (500, 3000)]),
    st.sampled_from(["top", "bottom"]),
)
def test_any_part_list_is_laid_out_legally_or_said_not_to_fit(
    items: tuple[PlateItem, ...], size: tuple[int, int], entry: str
) -> None:
    """shapely as oracle. What does not fit is said with its millimetres: too high by what the rows lack, too wide by what a row lacks."""
    job = frame(*size, entry)
    ducts = usual_ducts(job)
    rows = first_rows(job, items, ducts)
    pulls = [
        Pull(a=a.id, a_x=2, a_y=a.up, a_top=True, b=b.id, b_x=2, b_y=-b.up, b_top=False, mm2=1.5)
        for a, b in pairwise(items)
    ]
    made = Arrangement(
        job, items, pulls, slots_of(job, rows, items, ducts, ROW_FILL), ducts, {i.id: i.snug for i in items}
    )
    Search(made, effort=0.01).run()
    rows = straightened(made.rows(), inner_span(job, ducts))
    stack = stack_rows(job, rows, ducts)
    layout = make_layout(job, items, stack.values())
    assert set(layout.items) == {item.id for item in items}
    faults = find_faults(layout)
    wide = [f for f in faults if f.kind in {FaultKind.OVERLAP, FaultKind.RAIL, FaultKind.REACH}]
    inner = layout.levels[0].box.w - 20
    if any(row.width > inner for row in rows):
        assert wide and max(f.missing for f in wide) > 0
        return
    assert not [f for f in faults if f.kind is not FaultKind.OUTSIDE]
    check_legal(layout)
    over = layout.height_used - layout.height
    outside = [f.missing for f in faults if f.kind is FaultKind.OUTSIDE]
    assert (max(outside) == pytest.approx(over)) if over > 1e-6 else not outside


@pytest.mark.parametrize("school", ["columns", "rows"])
def test_arranging_moves_columns_and_leaves_them_straight(school: str) -> None:
    """What switches a motor stands below what protects it, at most 5 mm aside, and motors in one order in both rows; `free` lets go."""
    motors = "".join(
        f'[starter.M{n}]\nkind = "{kind}"\nkw = 1.5\nsupply = "C1"\n'
        for n, kind in enumerate(("dol", "reversing", "dol", "pump", "reversing", "dol"), 1)
    )
    text = re.sub(r'(width|height) = ".*"', r"\1 = 1400", small_text("ul").partition("[starter.")[0])
    text = text.replace("[practice]", f'[practice]\nlayout = "{school}"') + motors
    job = job_of(text)
    assert job.practice.layout == school
    plan = compute_plan(arrange_plate(job, effort=0.05))
    boxes, rows = plan.plate.boxes, plan.plate.row_of
    for n in range(1, 7):
        upper, lower = f"M{n}.Q", f"M{n}.K"
        assert rows[upper] < rows[lower] and abs(boxes[upper].x - boxes[lower].x) <= 5, n
    orders = []
    for part in ("Q", "K"):
        stood = sorted((rows[f"M{n}.{part}"], boxes[f"M{n}.{part}"].x, n) for n in range(1, 7))
        orders.append([n for _, _, n in stood])
    assert orders[0] == orders[1]
    free = compute_plan(arrange_plate(job_of(text.replace(school, "free")), effort=0.05))
    assert weighted_length(free) < weighted_length(compute_plan(job))


def small_panel(count: int, seed: int) -> tuple[Job, tuple[PlateItem, ...], tuple[Pull, ...], list[Slot]]:
    """Return a panel of a few parts in two rows, with pulls between them and to the cables."""
    import random

    chance = random.Random(seed)
    items = tuple(
        PlateItem(
            id=f"P{n}", band=Band.STARTER, width=chance.choice([18, 45, 90, 140]), height=chance.choice([80, 90, 120]), depth=60,
            on_rail=True, snug=chance.choice(["", "comb"]),
        )
        for n in range(count)
    )  # fmt: skip
    pulls = []
    for _ in range(3 * count):
        a, b = chance.sample(items, 2)
        pulls.append(
            Pull(a=a.id, a_x=a.width / 2, a_y=a.up, a_top=True, b=b.id, b_x=b.width / 3, b_y=-b.up, b_top=False,
                 mm2=chance.choice([1, 1.5, 4, 10]), is_comb=bool(a.snug and a.snug == b.snug))
        )  # fmt: skip
    last = items[-1]
    pulls.append(Pull(a=last.id, a_x=9, a_y=-last.up, a_top=False, b=GLAND, b_x=0, b_y=0, b_top=False, mm2=6))
    job = frame(600, 900, "bottom")
    half = count // 2
    rows = [Row(rail=items[:half]), Row(rail=items[half:])]
    return job, items, tuple(pulls), slots_of(job, rows, items, usual_ducts(job), 1.0)


@pytest.mark.parametrize(
    ("count", "seed"), [(5, 2), (6, 4), (4, 1), (5, 3), (6, 5), (6, 6)][: round(6 * max(EFFORT, 0.34))]
)
def test_a_small_panel_is_within_one_percent_of_the_best_of_all(count: int, seed: int) -> None:
    """Every order of every part list in two rows, packed to either side, as oracle."""
    job, items, pulls, slots = small_panel(count, seed)
    keys = {item.id: item.snug for item in items}
    made = Arrangement(job, items, pulls, slots, usual_ducts(job), keys)
    found = Search(made, effort=0.5).run()
    best = float("inf")
    tried = Arrangement(job, items, pulls, slots, usual_ducts(job), keys)
    one, two = tried.slots
    for order in permutations(range(count)):
        for cut in range(count + 1):
            one.rail, two.rail = list(order[:cut]), list(order[cut:])
            for one.to_right, two.to_right in product((False, True), repeat=2):
                if tried.fits(one) and tried.fits(two):
                    tried.place((one, two))
                    best = min(best, tried.cost())
    assert best <= found + 1e-6 and found <= 1.01 * best


def by_tag(plan: Plan) -> Job:
    """Return the Job with its parts in rows in the order of their tags, as somebody would who goes through the list."""
    from riktig.plan.arrange.edit import with_places

    ducts = usual_ducts(plan.job)
    most = ROW_FILL * (plan.plate.levels[0].box.w - 20)
    rows: list[Row] = [Row()]
    for item in sorted(plan.plate.items.values(), key=lambda i: natural_key(plan.tags.get(i.id, i.id))):
        if rows[-1].items and rows[-1].plus(item).width > most:
            rows.append(Row())
        rows[-1] = rows[-1].plus(item)
    return with_places(plan.job, stack_rows(plan.job, rows, ducts).values())


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_a_panel_needs_much_less_wire_than_in_the_order_of_tags_and_the_seed_decides(world: str) -> None:
    """At most 85 % of arranging by tag order, wire weighted by section; what the model says is what the routes come to."""
    job = job_of(small_text(world))
    plan = compute_plan(job)
    arranged = arrange_plate(job, effort=0.05)
    after = compute_plan(arranged)
    assert weighted_length(after) <= 0.85 * weighted_length(compute_plan(by_tag(plan)))
    assert arrange_plate(job, effort=0.05) == arranged and settle(arranged) is arranged
    assert [f for f in find_faults(after.plate) if f.kind is not FaultKind.OUTSIDE] == []
    check_legal(after.plate)


@pytest.mark.parametrize("is_apart", [False, True])
@pytest.mark.parametrize("jumpers", [0, 150])
def test_the_model_of_the_search_counts_what_the_routes_come_to(is_apart: bool, jumpers: int) -> None:
    """Every wire between two parts of the plate: its routed length less 60 mm to dress at each end, rounded up to 10 mm; also where power
    and extra-low voltage go up and down in different ducts, and where short ones go straight.
    """
    text = HEAD + STARTER + STARTER.replace("M1", "M2").replace("kw = 1.5", "kw = 7.5")
    uprights = "apart" if is_apart else "shared"
    text = text.replace("[supply]", f'[practice]\nuprights = "{uprights}"\njumpers = {jumpers}\n[supply]')
    if is_apart:
        text += STARTER.replace("M1", "M3").replace('"C1"', '"C2"')
        text += '[control.C2]\nkind = "psu"\nfrom = "L1 N"\nvolts = 24\n'
    job = job_of(text)
    plan = compute_plan(job)
    items, ducts = tuple(plan.plate.items.values()), usual_ducts(job)
    inside = [p for p in pulls_of(plan) if p.b in plan.plate.items]
    joined = {frozenset((p.a, p.b)) for p in inside if p.is_comb or p.run_mm2}
    pulls = [p for p in inside if frozenset((p.a, p.b)) not in joined]
    made = Arrangement(
        job, items, pulls, slots_of(job, first_rows(job, items, ducts), items, ducts, 1.0), ducts, run_keys(plan)
    )
    made.place(made.slots)
    host = {item.hung[0]: item.id for item in items if item.hung is not None}
    wires = [c for c in plan.conductors if c.kind == "wire" and c.location == "plate"]
    ends = [(c, {host.get(d, d) for d in (c.a.rpartition(":")[0], c.b.rpartition(":")[0])}) for c in wires]
    between = [c for c, devices in ends if len(devices) == 2 and frozenset(devices) not in joined]
    assert len(between) == len(pulls) > 20
    exact = sum((c.length_mm - 120.0) * weight(c.size.mm2) for c in between)
    rounding = sum(10.0 * weight(c.size.mm2) for c in between)
    assert exact - rounding <= made.cost() <= exact


def test_what_is_pinned_stays_and_rails_and_ducts_with_it() -> None:
    job = job_of(HEAD + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 4)))
    before = compute_plan(job).plate
    pinned = settle(plate_edits.keep_moves(job, {"M1.K": job.ledger.places["M1.K"].value}))
    after = compute_plan(arrange_plate(pinned, effort=0.05)).plate
    assert after.boxes["M1.K"] == before.boxes["M1.K"]
    assert (after.rails, after.ducts) == (before.rails, before.ducts)
    check_legal(after)
    free = pin_all(pinned, ["M1.K"], is_held=False)
    assert not free.ledger.places["M1.K"].is_held


def test_columns_stay_straight_around_what_is_pinned_in_another_row() -> None:
    job = job_of(
        HEAD.replace("width = 800", "width = 1000") + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 7))
    )
    pinned = pin_all(job, ["C1.T", "Q0"], is_held=True)
    before, after = compute_plan(pinned), compute_plan(arrange_plate(pinned, effort=0.1))
    boxes, rows = after.plate.boxes, after.plate.row_of
    assert (boxes["C1.T"], boxes["Q0"]) == (before.plate.boxes["C1.T"], before.plate.boxes["Q0"])
    assert weighted_length(after) < weighted_length(before)
    for n in range(1, 7):
        upper, lower = boxes[f"M{n}.Q"], boxes[f"M{n}.K"]
        assert rows[f"M{n}.Q"] + 1 == rows[f"M{n}.K"] and abs(upper.centre[0] - lower.centre[0]) <= 5, n
    check_legal(after.plate)


def test_on_two_rails_at_one_height_each_part_stays_on_its_own() -> None:
    """One rail is cut in two between its parts, and both pieces are held."""
    job = job_of(HEAD + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 7)))
    plate = compute_plan(job).plate
    rail = max(plate.rails, key=lambda r: sum(code == r.code for code in plate.rail_of.values()))
    on_it = sorted((plate.boxes[name].x, name) for name, code in plate.rail_of.items() if code == rail.code)
    cut = on_it[len(on_it) // 2][0] - 2
    left, right = replace(rail, length=cut - rail.x), replace(rail, code="R9", x=cut, length=rail.x + rail.length - cut)
    moves = {f"rail:{r.code}": r.place for r in (left, right)}
    moves |= {name: f"R9 {x + RAIL_GAP_MM + 2:g}" for x, name in on_it if x > cut}
    start = settle(plate_edits.keep_moves(job, moves))
    free = pin_all(start, [name for _, name in on_it], is_held=False)
    arranged = compute_plan(arrange_plate(free, effort=0.3))
    assert {"R9", rail.code} <= set(arranged.plate.rail_of.values())
    assert weighted_length(arranged) <= weighted_length(compute_plan(free))
    check_legal(arranged.plate)
    assert not find_faults(arranged.plate)


def test_arranging_tells_how_far_it_is_and_stops_when_it_is_told_to() -> None:
    told: list[float] = []

    def go_on(share: float, cost: float) -> bool:
        told.append(share)
        return len(told) < 3

    with pytest.raises(Cancelled):
        arrange_plate(job_of(HEAD + STARTER), progress=go_on)
    assert told == sorted(told) and len(told) == 3


def test_strips_and_the_way_in_stay_by_the_cables_heat_at_the_top_and_low_voltage_apart() -> None:
    """Common practice, no source."""
    plan = compute_plan(arrange_plate(job_of(small_text("iec")), effort=0.05))
    plate = plan.plate
    rows = max(plate.row_of.values())
    for item in plate.items.values():
        if item.band is Band.FIELD:
            assert plate.row_of[item.id] == rows
        if item.band is Band.ENTRY:
            assert rows - plate.row_of[item.id] <= 2
        if item.band is Band.HEAT:
            assert plate.row_of[item.id] == 0
    for rail in plate.rails:
        on_it = sorted((plate.boxes[n].x, n) for n, code in plate.rail_of.items() if code == rail.code)
        kinds = [plate.items[n].band is Band.LOW for _, n in on_it]
        assert sum(a is not b for a, b in pairwise(kinds)) <= 1
