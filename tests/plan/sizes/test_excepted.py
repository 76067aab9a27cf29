"""What stays live with the main switch off: transformers of its own, the fan in the door with its outlet, and their holes."""

import pytest

from riktig.checks.run import find_all
from riktig.plan.plan import Plan
from support import HEAD, plan_of

LOADS = "".join(f'[excepted.X{n}]\nload = "{load}"\n' for n, load in enumerate(("light", "socket", "heater", "fan"), 1))
UL_480 = (
    HEAD.replace("3ph+n", "3ph")
    .replace("volts = 400", 'volts = 480\n[practice]\nstandard = "ul"')
    .replace("= 230", "= 120")
)
IEC_400 = HEAD.replace("3ph+n", "3ph")


def rating(plan: Plan, device: str) -> float:
    return plan.parts[device].rating("amps")


def test_in_north_america_both_sides_of_an_excepted_transformer_go_by_the_part_taken() -> None:
    """15 A · 120 V = 1800 VA, made is 2500: primary 5.21 A, 167 % = 8.70 A to ride through, 250 % = 13.0 A: 10 A. 250 VA at 120 V is
    2.08 A, below 9 A 167 % = 3.48 A: 3 A; primary 0.521 A, 0.87 to 1.30 A: 1 A. NEC Table 450.3(B), from memory.
    """
    plan = plan_of(UL_480 + LOADS)
    assert [plan.parts[f"X{n}.T"].rating("va") for n in (1, 2)] == [250, 2500]
    assert [rating(plan, d) for d in ("X1.FP", "X1.F", "X2.FP", "X2.F")] == [1, 3, 10, 15]


def test_without_a_neutral_the_secondary_is_guarded_by_no_more_than_its_rated_current() -> None:
    """250 VA / 230 V = 1.09 A: 1 A; 16 A · 230 V = 3680 VA: the socket's own 16 A below what its transformer gives. IEC 61558-1."""
    plan = plan_of(IEC_400 + LOADS)
    assert rating(plan, "X1.F") == 1
    assert rating(plan, "X2.F") == 16 <= plan.parts["X2.T"].rating("va") / 230


@pytest.mark.parametrize("head", [HEAD, UL_480])
def test_a_fan_sits_low_in_the_door_and_its_outlet_high_with_cut_outs_alike(head: str) -> None:
    plan = plan_of(head + LOADS)
    cut = {c.device: c for c in plan.door.cutouts}
    fan, outlet = cut["X4.E"], cut["X4.OF"]
    assert (fan.w, fan.h, fan.diameter) == (outlet.w, outlet.h, 0) and fan.w > 0
    assert fan.y < plan.door.height / 4 and outlet.y > 3 * plan.door.height / 4
    assert plan.parts["X4.E"].rating("m3h") == plan.parts["X4.OF"].rating("m3h")
    assert {c.location for c in plan.conductors if "X4.E:L" in (c.a, c.b)} == {"hinge"}


def test_what_is_screwed_to_the_plate_has_holes_and_what_clips_on_a_rail_none() -> None:
    text = (
        HEAD
        + LOADS
        + '[device.B7]\nkind = "thermostat"\nat = "plate"\n[[rung]]\npath = "C1+ > B7:no > P9 > C1-"\n[device.P9]\nkind = "lamp"\n'
    )
    plan = plan_of(text)
    holes = [hole.target for hole in plan.holes]
    assert [holes.count(name) for name in ("X1.E", "X1.S", "X3.BT", "X4.BT", "B7")] == [2, 2, 0, 0, 4]
    assert {plan.plate.rail_of.get(name, "") == "" for name in ("X3.BT", "X4.BT")} == {False}


@pytest.mark.parametrize(
    ("stated", "is_found"),
    [
        ("IP54", False),
        ("IP44", False),
        ("IP65", True),
        ("IP55", True),
        ("type 12", False),
        ("Type 4X", True),
        ("NEMA 3R", True),
        ("1", False),
    ],
)
def test_a_fan_in_a_door_that_keeps_more_out_than_it_does_is_found_once(stated: str, is_found: bool) -> None:
    plan = plan_of(HEAD.replace("height = 1200", f'height = 1200\nrating = "{stated}"') + LOADS)
    found = [f.evidence for f in find_all(plan) if f.rule == "opening-rating"]
    assert found == ["IP54 or type 12"] * is_found
