"""The first proposal of a plate: the way in, breakers above contactors, arresters below what protects them."""

import re
from pathlib import Path

import pytest

from riktig.checks.finding import Severity
from riktig.checks.run import find_all
from riktig.checks.wiring import check_taps
from riktig.drawings.plate import geometry_of
from riktig.plan.arrange.edit import arrange_plate
from riktig.plan.place.faults import find_faults
from riktig.plan.plan import compute_plan
from support import HEAD, STARTER, demo_text, job_of, plan_of

PLATES = Path(__file__).parents[2] / "data" / "plates"


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
    """Its leads are short, IEC 60364-5-53 534.4.8: with 0.15 m of earth at most a metre from the first layout on."""
    text = HEAD.replace("volts = 400", f'volts = 400\nentry = "{entry}"').replace(
        "width = 800\nheight = 1200", "width = 2000\nheight = 2400"
    )
    motors = "".join(f'[starter.M{n}]\nkw = 15\nsupply = "C1"\n' for n in range(1, 6))
    plan = plan_of(text + f"[incoming]\n{incoming}[surge.F20]\n" + motors)
    guard = {c.b: c.laid_mm for c in plan.conductors if c.is_wired and c.b.startswith("F20.Q:") and "F20:" not in c.a}
    behind = [c for c in plan.conductors if c.is_wired and {c.a.split(":")[0], c.b.split(":")[0]} == {"F20.Q", "F20"}]
    assert len(guard) == len(behind) == 3
    assert max(guard.values()) + max(c.laid_mm for c in behind) <= 850
    assert plan.plate.boxes["F20"].y < plan.plate.boxes["F20.Q"].y or entry == "bottom"


def test_the_light_of_a_panel_stands_with_what_is_at_the_top() -> None:
    """Where it shines on the plate, common practice, no source; with the cables below, that is the first row."""
    text = HEAD.replace("height = 1200", "height = 2000") + '[excepted.X1]\nload = "light"\n'
    drives = "".join(f'[starter.M{n}]\nkind = "drive"\nkw = 4\nsupply = "C1"\n' for n in (1, 2))
    plate = plan_of(text + drives + STARTER.replace("M1", "M3")).plate
    assert plate.row_of["X1.E"] == plate.row_of["M1.A"] == min(plate.row_of.values())


@pytest.mark.parametrize(
    ("name", "width", "entry"),
    [
        ("gatehouse", 700, "bottom"), ("gatehouse", 800, "top"), ("ropeworks", 1200, "bottom"), ("ropeworks", 1200, "top"),
        ("cannery", 1200, "top"), ("tannery", 1200, "top"),
    ],
)  # fmt: skip
def test_on_every_plate_that_is_large_enough_the_leads_of_an_arrester_are_at_most_a_metre(
    name: str, width: int, entry: str
) -> None:
    """IEC 60364-5-53 534.4.8, from memory; panels that are as full as they may be, and their cables from the other side."""
    text = (Path(__file__).parents[2] / "oracle" / f"{name}.toml").read_text()
    text = re.sub(r"(?m)^entry *=.*$", "", text).replace("[supply]", f'[supply]\nentry = "{entry}"', 1)
    text = re.sub(r"(?ms)(^\[enclosure\].*?^width *= *)\d+", rf"\g<1>{width}", text)
    plan = plan_of(text)
    assert plan.plate.width == width - 50 and plan.job.supply.entry == entry and plan.job.surges
    assert {"plate-too-small", "arrester-leads"}.isdisjoint(
        finding.rule for finding in find_all(plan) if finding.severity is not Severity.NOTE
    )


def test_a_low_plate_parts_its_narrowest_row_among_the_others() -> None:
    """Eight direct starters beside each other take three rows, from the switch down: common practice, no source."""
    text = HEAD.replace("volts = 400", 'volts = 400\nentry = "top"').replace("height = 1200", "height = 950")
    plan = plan_of(text + "[surge.F20]\n" + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 9)))
    assert not [f.message for f in find_all(plan) if f.rule == "plate-too-small"]
    rows = [plan.plate.row_of[name] for name in ("Q0", "F20.Q", "F20")]
    assert rows == [rows[0], rows[0] + 1, rows[0] + 2]


@pytest.mark.parametrize("entry", ["top", "bottom"])
def test_a_heater_stands_low_and_the_light_high_wherever_the_cables_enter(entry: str) -> None:
    """Warm air rises past what must stay dry, and a light shines down: common practice, no source."""
    text = HEAD.replace("height = 1200", "height = 2000").replace("[supply]", f'[supply]\nentry = "{entry}"')
    text += '[excepted.X1]\nload = "light"\n[excepted.X2]\nload = "heater"\n'
    drives = "".join(f'[starter.M{n}]\nkind = "drive"\nkw = 4\nsupply = "C1"\n' for n in (1, 2))
    boxes = plan_of(text + drives + STARTER.replace("M1", "M3")).plate.boxes
    assert boxes["X1.E"].centre[1] >= max(box.centre[1] for box in boxes.values()) - 60
    assert boxes["X2.E"].y <= min(boxes[f"M{n}.A"].centre[1] for n in (1, 2))


def test_blocks_ahead_of_the_main_switch_stand_beside_it_where_its_row_has_room() -> None:
    """What leads the whole current is short, common practice, no source."""
    text = HEAD.replace("width = 800\nheight = 1200", "width = 1200\nheight = 2000") + '[excepted.X1]\nload = "light"\n'
    motors = "".join(f'[starter.M{n}]\nkw = 15\nsupply = "C1"\n' for n in range(1, 4))
    plan = plan_of(text + '[excepted.X2]\nload = "socket"\n[incoming]\n' + motors)
    rows = {plan.plate.row_of[name] for name in ("Q0", "in.L1.bar")}
    assert len(rows) == 1
    mains = [c.laid_mm for c in plan.conductors if c.is_wired and c.b.startswith("Q0:") and c.a.startswith("in.")]
    assert mains and max(mains) <= 1000


@pytest.mark.parametrize("layout", ["columns", "rows"])
def test_a_large_plate_has_its_taps_within_their_length(layout: str) -> None:
    """3 m: IEC 60364-4-43 434.2.1, from memory. The way in stands between the starters, and none of these is parted for it."""
    text = (
        (PLATES / "12-malt-house.toml").read_text("utf-8").replace("[practice]\n", f'[practice]\nlayout = "{layout}"\n')
    )
    plan = plan_of(text)
    assert not list(check_taps(plan))
    rows = plan.plate.row_of
    if layout == "columns":
        assert all(rows[f"M{n}.K"] - rows[f"M{n}.Q"] in {0, 1} for n in range(1, 31) if f"M{n}.K" in rows)


@pytest.mark.parametrize("entry", ["top", "bottom"])
def test_what_is_tapped_from_the_mains_stands_beside_the_way_in_like_beside_like(entry: str) -> None:
    """Taps ahead of their protection are short (IEC 60364-4-43 434.2.1: 3 m at most), and a comb may lie over what is alike: common
    practice, no source. Past the starters of 30 and 55 kW they would be longer.
    """
    text = HEAD.replace("volts = 400", f'volts = 400\nentry = "{entry}"').replace(
        "width = 800\nheight = 1200", "width = 2000\nheight = 2000"
    )
    ways = "".join(f"[way.W{n}]\namps = 10\npoles = 1\n" for n in range(1, 5)) + '[excepted.X1]\nload = "light"\n'
    motors = "".join(f'[starter.M{n}]\nkw = {kw}\nsupply = "C1"\n' for n, kw in ((1, 55), (2, 30), (3, 4)))
    plan = plan_of(text + ways + motors)
    rows = plan.plate.row_of
    names = ("C1.FP", "X1.F", *(f"W{n}.F" for n in range(1, 5)))
    assert max(abs(rows[name] - rows["Q0"]) for name in names) <= 1
    lefts = [plan.plate.boxes[f"W{n}.F"].x for n in range(1, 5)]
    assert lefts == [lefts[0] + 18 * n for n in range(4)]


def test_where_the_row_below_is_full_something_of_no_motor_makes_room_for_the_arrester() -> None:
    """Its leads go before the place of a transformer: IEC 60364-5-53 534.4.8, from memory."""
    text = HEAD.replace("volts = 400", 'volts = 400\nentry = "top"').replace(
        "width = 800\nheight = 1200", "width = 900\nheight = 2000"
    )
    text += '[excepted.X1]\nload = "light"\n'
    motors = "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 13))
    drives = "".join(f'[starter.M{n}]\nkind = "drive"\nkw = 4\nsupply = "C1"\n' for n in (20, 21, 22))
    plan = plan_of(text + "[surge.F20]\n" + motors + drives)
    (found,) = [f for f in find_all(plan) if f.rule == "arrester-leads"] or [None]
    assert found is None or found.severity is Severity.NOTE
    assert plan.plate.row_of["F20"] == plan.plate.row_of["F20.Q"] + 1


@pytest.mark.parametrize("entry", ["bottom", "top"])
@pytest.mark.parametrize("powers", [(1.5,) * 6, (0.37, 1.5, 4, 11, 1.5, 4), (11, 0.37, 0.37, 11)])
def test_what_switches_a_motor_stands_straight_below_what_protects_it(entry: str, powers: tuple[float, ...]) -> None:
    """Columns straight within 5 mm, motors in the order of the brief: common practice, no source."""
    text = HEAD.replace("[supply]\n", f'[supply]\nentry = "{entry}"\n').replace("width = 800", "width = 1200")
    text = text.replace("height = 1200", "height = 1600")
    plan = plan_of(
        text + "".join(f'[starter.M{n}]\nkw = {kw}\nsupply = "C1"\n' for n, kw in enumerate(powers, start=1))
    )
    boxes = plan.plate.boxes
    assert all(abs(boxes[f"M{n}.Q"].x - boxes[f"M{n}.K"].x) <= 5 for n in range(1, len(powers) + 1))
    assert all(boxes[f"M{n}.Q"].y > boxes[f"M{n}.K"].top for n in range(1, len(powers) + 1))
    assert all(boxes[f"M{n}.Q"].x < boxes[f"M{n + 1}.Q"].x for n in range(1, len(powers)))


@pytest.mark.parametrize("entry", ["bottom", "top"])
def test_in_the_school_of_rows_all_that_protects_motors_stands_above_all_that_switches_them(entry: str) -> None:
    """Two schools, common practice, no source; 20 motors take several rows in each."""
    text = HEAD.replace("height = 1200", "height = 2400").replace("[supply]\n", f'[supply]\nentry = "{entry}"\n')
    motors = "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 21))
    columns, rows = (
        plan_of(text + f'[practice]\nlayout = "{school}"\n' + motors).plate for school in ("columns", "rows")
    )
    for plate, is_parted in ((columns, False), (rows, True)):
        lowest_q = max(plate.row_of[f"M{n}.Q"] for n in range(1, 21))
        highest_k = min(plate.row_of[f"M{n}.K"] for n in range(1, 21))
        assert (lowest_q < highest_k) == is_parted
        assert all(plate.row_of[f"M{n}.Q"] <= plate.row_of[f"M{n}.K"] for n in range(1, 21))


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_short_jumpers_go_direct_and_none_where_each_wire_lies_in_a_duct(world: str) -> None:
    """Common practice, no source: both clamps in one row, by hand |dx| + |dy| from middle to middle at most as said, and at least so
    much to cut with 30 mm out of and into each clamp; all lines of a circuit go one way, and no other wire is changed.
    """
    text = demo_text(world)
    ducted, direct = (plan_of(text.replace("[practice]", f"[practice]\njumpers = {mm}")) for mm in (0, 150))
    geometry, rows = geometry_of(direct), direct.plate.row_of
    before = {c.id: c for c in ducted.conductors}
    jumpers = [c for c in direct.conductors if c.kind == "wire" and not c.legs and before[c.id].legs]
    assert len(jumpers) > 20 and ducted.plate.boxes == direct.plate.boxes
    levels = set()
    for c in jumpers:
        a, b = (geometry.access(end) for end in (c.a, c.b))
        assert len({rows[direct.item_of(end)] for end in (c.a, c.b)}) == 1 and c.way == "direct"
        one, other = (direct.plate.boxes[direct.item_of(end)].centre[0] for end in (c.a, c.b))
        assert abs(one - other) + abs(a.y - b.y) <= 150 and c.length_mm < before[c.id].length_mm
        assert c.length_mm >= abs(a.x - b.x) + abs(a.y - b.y) + 2 * 30 + 2 * 20
        levels.add(a.duct == b.duct)
    assert levels == {True, False}, "beside each other, and from above to below"
    ways: dict[tuple[object, ...], set[bool]] = {}
    for c in direct.conductors:
        if c.stage == "feeds" and c.kind == "wire" and c.location == "plate":
            ends = frozenset((direct.item_of(end), geometry.access(end).duct) for end in (c.a, c.b))
            ways.setdefault((ends,), set()).add(not c.legs)
    assert len(ways) > 5 and all(len(found) == 1 for found in ways.values())
    arresters = {surge.name for surge in direct.job.surges}
    straight = [c for c in ducted.conductors if c.way == "direct"]
    assert all(arresters & {end.partition(":")[0].partition(".")[0] for end in (c.a, c.b)} for c in straight)
    assert all(c == before[c.id] for c in direct.conductors if c not in jumpers and not before[c.id].legs)


@pytest.mark.parametrize("motors", [8, 10])
def test_an_earth_bar_that_has_a_row_for_itself_lies_at_the_edge_with_no_duct_beyond(motors: int) -> None:
    """By hand on 500 x 2000 mm: strips leave no 250 mm for the bar; it lies where cables enter (common practice, no source)."""
    text = HEAD.replace("width = 800\nheight = 1200", "width = 500\nheight = 2000")
    job = job_of(text + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, motors)))
    for plan in (compute_plan(job), compute_plan(arrange_plate(job, effort=0.05))):
        bar, lowest = plan.plate.boxes["PE.bar"], min(duct.box.y for duct in plan.plate.levels)
        assert bar.top < lowest and not find_faults(plan.plate)
        assert sum(plan.plate.row_of[name] == plan.plate.row_of["PE.bar"] for name in plan.plate.boxes) <= 2, (
            "but for the stud"
        )
        wires = [c for c in plan.conductors_of["PE.bar"] if c.kind == "wire"]
        assert wires and all(c.legs or "PE.plate" in c.a + c.b for c in wires)
        assert all(entry.fits for entry in plan.entries)
