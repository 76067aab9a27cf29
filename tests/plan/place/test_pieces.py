"""What the shop cuts and drills: every piece and every hole, as the promises on the Plan's JSON have it."""

from typing import Any

import pytest

from riktig.files.plan_json import plan_to_dict
from riktig.plan.place.pieces import LID_GAP_MM, TAP_DRILL_MM, waste_mm
from riktig.plan.plan import Plan
from support import HEAD, STARTER, plan_of, small_text

DRIVE = '[starter.M3]\nkw = 30\nkind = "drive"\nsupply = "C1"\n'


@pytest.fixture(params=["iec", "ul", "drive"], scope="module")
def plan(request: pytest.FixtureRequest) -> Plan:
    if request.param == "drive":
        return plan_of(
            HEAD.replace("width = 800\nheight = 1200", "width = 1000\nheight = 2000\ndepth = 500") + STARTER + DRIVE
        )
    return plan_of(small_text(request.param))


@pytest.fixture(scope="module")
def sheet(plan: Plan) -> dict[str, Any]:
    found: dict[str, Any] = plan_to_dict(plan)["plate"]
    return found


def test_every_rail_and_duct_has_two_holes_or_more_on_its_own_line(plan: Plan, sheet: dict[str, Any]) -> None:
    for rail in sheet["rails"]:
        holes = [h for h in sheet["holes"] if h["for"] == rail["code"]]
        assert len(holes) >= 2 and all(abs(h["y"] - rail["y"]) < 0.06 for h in holes)
        assert all(rail["x"] < h["x"] < rail["x"] + rail["length"] for h in holes)
    for duct in sheet["ducts"]:
        holes = [h for h in sheet["holes"] if h["for"] == duct["code"]]
        assert len(holes) >= 2
        assert all(
            duct["x"] < h["x"] < duct["x"] + duct["w"] and duct["y"] < h["y"] < duct["y"] + duct["h"] for h in holes
        )


def test_holes_are_never_further_apart_than_their_pitch(plan: Plan) -> None:
    """A rail is screwed down every 400 mm at most: common practice, no source."""
    for rail in plan.plate.rails:
        xs = sorted(h.x for h in plan.holes if h.target == rail.code)
        assert all(b - a <= 400.1 for a, b in zip(xs, xs[1:], strict=False))


def test_bars_hold_their_pieces_and_cuts_as_promised(sheet: dict[str, Any]) -> None:
    """k pieces of a bar cost k-1 kerfs; bars count from 1 within a profile."""
    bars: dict[tuple[str, int], list[float]] = {}
    for cut in sheet["cuts"]:
        bars.setdefault((cut["profile"], cut["bar"]), []).append(cut["length"])
    for lengths in bars.values():
        used = sum(lengths) + (len(lengths) - 1) * sheet["kerf_mm"]
        assert used <= sheet["stock_mm"] + 1e-6 or len(lengths) == 1
    for profile in {p for p, _ in bars}:
        assert sorted(n for p, n in bars if p == profile) == list(range(1, 1 + sum(p == profile for p, _ in bars)))


def test_lids_of_uprights_run_through_and_those_between_leave_a_gap(plan: Plan) -> None:
    """Verticals through, horizontals butted between them without bowing: common practice, no source."""
    lengths = {cut.code: cut.length for cut in plan.cuts}
    for duct in plan.plate.ducts:
        gap = 0.0 if duct.is_vertical else LID_GAP_MM
        assert lengths[f"L{duct.code[1:]}"] == pytest.approx(lengths[duct.code] - gap)


def test_each_part_of_the_plate_has_one_entry_and_its_holes_lie_within_it(plan: Plan, sheet: dict[str, Any]) -> None:
    tags = [part["tag"] for part in sheet["parts"]]
    assert len(tags) == len(set(tags)) == len(plan.plate.boxes)
    boxes = {part["tag"]: part for part in sheet["parts"]}
    for hole in sheet["holes"]:
        box = boxes.get(hole["for"])
        if box is not None:
            assert box["x"] < hole["x"] < box["x"] + box["w"] and box["y"] < hole["y"] < box["y"] + box["h"]
    screwed = {plan.tags[i.id] for i in plan.plate.items.values() if not i.on_rail}
    assert screwed and screwed <= {hole["for"] for hole in sheet["holes"]}


@pytest.mark.parametrize(
    ("fixing", "standard", "rail", "diameter"),
    [
        ("tapped", "iec", "tap M5", 4.2),
        ("tapped", "ul", "tap 10-32", 4.0),
        ("self-drilling", "iec", "self-drilling ST4.8, pilot", 3.3),
        ("self-drilling", "ul", "self-drilling #10, pilot", 3.3),
    ],
)
def test_schools_of_fixing_have_their_own_holes(fixing: str, standard: str, rail: str, diameter: float) -> None:
    """M5 0.8 pitch: 5 - 0.8 = 4.2 mm (ISO 2306); 10-32: 4.83 - 25.4 / 32 = 4.0 mm; pilots: common practice, no source."""
    assert TAP_DRILL_MM["M5"] == pytest.approx(5 - 0.8) and TAP_DRILL_MM["M6"] == pytest.approx(6 - 1.0)
    assert TAP_DRILL_MM["10-32"] == pytest.approx(4.826 - 25.4 / 32, abs=0.06)
    text = small_text(standard).replace("[practice]", f'[practice]\nfixing = "{fixing}"')
    if "[practice]" not in text:
        text = text.replace("[supply]", f'[practice]\nfixing = "{fixing}"\n[supply]')
    holes = [h for h in plan_of(text).holes if h.target == "R1"]
    assert {(h.fix, h.diameter) for h in holes} == {(rail, diameter)}


def test_longer_stock_needs_fewer_bars_and_what_is_left_over_is_what_was_not_used() -> None:
    """By hand: bars times stock less all pieces."""
    text = HEAD.replace("[supply]", "[practice]\n{}\n[supply]") + STARTER
    bars = {}
    for stock in (2000, 3000, 6000):
        plan = plan_of(text.format(f"stock = {stock}\nkerf = 2"))
        bars[stock] = len({(c.profile, c.bar) for c in plan.cuts})
        for profile, left in waste_mm(plan.job, plan.cuts).items():
            pieces = [c for c in plan.cuts if c.profile == profile]
            assert left == pytest.approx(max(c.bar for c in pieces) * stock - sum(c.length for c in pieces))
    assert bars[2000] >= bars[3000] >= bars[6000]
