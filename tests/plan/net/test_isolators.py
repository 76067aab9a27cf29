"""Local isolators: a box of their own in the field, a cable to it and one from it to the motor, screen and earth carried through."""

import pytest

from riktig.checks.run import find_all
from riktig.files.plan_json import plan_to_dict
from riktig.plan.making.bom import build_bom
from riktig.plan.net.runs import Screen
from riktig.plan.plan import Plan
from riktig.plan.wiring.cables import Cable
from support import HEAD, plan_of

STARTERS = "".join(
    f'[starter.{name}]\nkind = "{kind}"\nkw = 7.5\nsupply = "C1"\nmotor_at = "st1"\nisolator = true\n'
    for name, kind in (("M1", "dol"), ("M2", "drive"), ("M3", "star-delta"))
)
TEXT = HEAD + STARTERS


def between(plan: Plan, begin: str, end: str) -> list[Cable]:
    tags = plan.tags
    return [c for c in plan.cables if (c.begin, c.target) == (tags.get(begin, begin), tags[end])]


def cores(plan: Plan, cable: Cable) -> set[tuple[str, str]]:
    return {(c.a.partition(":")[0], c.b.partition(":")[0]) for c in plan.conductors if c.location == cable.name}


@pytest.mark.parametrize(("name", "power"), [("M1", 3), ("M2", 3), ("M3", 6)])
def test_one_cable_leads_to_the_isolator_and_one_on_to_the_motor_with_the_same_cores(name: str, power: int) -> None:
    """New potentials begin behind it; each line and the earth go on: common practice, no source."""
    plan = plan_of(TEXT)
    (there,) = [c for c in between(plan, "panel", f"{name}.QM") if "PE" in c.numbers]
    (on,) = between(plan, f"{name}.QM", name)
    assert len(there.numbers) == len(on.numbers) == power + 1 and there.size_label == on.size_label
    assert not (set(there.numbers) & set(on.numbers)) - {"PE"}
    assert cores(plan, on) <= {(f"{name}.QM", name), (name, f"{name}.QM")} and len(cores(plan, on)) >= 1
    assert not between(plan, "panel", name)


def test_the_screen_of_a_drives_cable_is_carried_through_the_box() -> None:
    plan = plan_of(TEXT)
    there = next(c for c in between(plan, "panel", "M2.QM") if "PE" in c.numbers)
    (on,) = between(plan, "M2.QM", "M2")
    assert (there.screen, on.screen) == (Screen.BOTH, Screen.BOTH)
    assert "metal box of the isolator" in there.screen_words[1] and "metal box of the isolator" in on.screen_words[0]
    assert all(c.screen is None for c in plan.cables if c not in {there, on})


def test_earth_comes_to_one_clamp_of_the_box_and_goes_on_from_the_other() -> None:
    plan = plan_of(TEXT)
    for name in ("M1", "M2", "M3"):
        landed = {
            t: len([c for c in plan.conductors_at[t] if c.kind == "core"])
            for t in (f"{name}.QM:PE1", f"{name}.QM:PE2", f"{name}:PE")
        }
        assert set(landed.values()) == {1}
    assert [f.message for f in find_all(plan) if f.severity == "must"] == []


def test_the_box_takes_a_gland_for_each_cable_and_the_entry_wall_of_the_panel_none_for_what_begins_there() -> None:
    """Two at a direct starter: to the box 2 ends, from it 1; the drive's and the isolator's own contact likewise."""
    plan = plan_of(TEXT)
    glands = sum(line.quantity for line in build_bom(plan) if line.code.startswith("gland-"))
    assert glands == sum(2 if c.is_to_isolator else 1 for c in plan.cables)
    assert {e.cable for e in plan.entries} & {c.name for c in plan.cables} == {
        c.name for c in plan.cables if not c.origin
    }
    titles = {line.title for line in build_bom(plan) for tag in line.tags if tag == plan.tags["M1.QM"]}
    assert any("in a metal box" in title for title in titles)


def test_an_isolator_in_a_feeder_of_ones_own_is_led_through_alike() -> None:
    own = "".join(f'[device.{n}]\nkind = "{k}"\n{more}' for n, k, more in (
        ("Q1", "breaker", ""), ("K1", "contactor", ""), ("F1", "overload", ""), ("S1", "disconnect", 'at = "st1"\n'),
        ("M1", "motor", 'kw = 4\nat = "st1"\n'),
    ))  # fmt: skip
    plan = plan_of(
        HEAD
        + own
        + '[[feeder]]\npath = "L1 L2 L3 > Q1 > K1 > F1 > S1 > M1"\n[[rung]]\npath = "C1+ > F1:nc > K1:coil > C1-"\n'
    )
    assert [len(between(plan, *ends)) for ends in (("panel", "S1"), ("S1", "M1"), ("panel", "M1"))] == [1, 1, 0]
    assert [f.message for f in find_all(plan) if f.severity == "must"] == []


def test_the_plan_as_json_says_where_each_cable_begins_and_names_locations_only() -> None:
    plan = plan_of(TEXT)
    data = plan_to_dict(plan)
    assert {(c["from"], c["to"]) for c in data["cables"]} >= {("panel", plan.tags["M1.QM"]), (plan.tags["M1.QM"], "M1")}
    places = {c["location"] for c in data["conductors"]} - {c["name"] for c in data["cables"]}
    assert places <= {"plate", "door", "hinge", "st1", "st2", "field"}
