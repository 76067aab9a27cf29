"""How full ducts are: wires and field cables together, at their fullest place."""

from math import pi

import pytest

from riktig.checks.run import find_all
from riktig.plan.circuit.incoming import SUPPLY
from riktig.plan.place.routes import Leg
from riktig.plan.plan import Plan
from riktig.plan.wiring.duct_fill import duct_loads
from riktig.plan.wiring.entries import NUT_SHARE, CableWay
from riktig.standards import cable_entries
from support import HEAD, STARTER, plan_of, small_text


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(small_text())


def test_field_cables_and_the_supply_count_beside_the_wires(plan: Plan) -> None:
    """Each cable and the supply have a way from the duct at the entry wall; ducts with cables in them are fuller than their wires."""
    assert {way.cable for way in plan.cable_ways} == {SUPPLY, *(cable.name for cable in plan.cables)}
    wires = {code: load.area for code, load in duct_loads(plan.conductors, ()).items()}
    both = {code: load.area for code, load in plan.duct_loads.items()}
    crossed = {leg.duct for way in plan.cable_ways for leg in way.legs if leg.start != leg.end}
    assert all(both[code] >= wires.get(code, 0.0) - 1e-9 for code in both)
    assert any(both[code] > wires.get(code, 0.0) + 1 for code in crossed)
    outer = plan.plate.levels[-1].code
    assert all(way.legs[0].duct == outer for way in plan.cable_ways), "cables come in below"


def test_the_fill_is_the_area_of_circles_over_width_by_depth(plan: Plan) -> None:
    """By hand: a cable of 20 mm alone in a duct 60 x 80 mm fills 314.2 of 4800 mm2, 6.5 %."""
    cable = CableWay(cable="W1", legs=(Leg(duct="D4", start=0, end=100),), length=100.0, diameter=20.0)
    assert duct_loads((), [cable])["D4"].area == pytest.approx(pi * 100)
    areas = {code: load.area for code, load in plan.duct_loads.items()}
    for duct in plan.plate.ducts:
        assert plan.fill_percent[duct.code] == pytest.approx(
            100 * areas.get(duct.code, 0.0) / (duct.width * duct.depth), abs=0.06
        )


@pytest.mark.parametrize(("isolated", "ahead"), [("here", "in.P.L1"), ("elsewhere", "P.L1")])
def test_a_second_supply_has_a_gland_of_its_own_and_a_way_to_where_it_is_landed(isolated: str, ahead: str) -> None:
    """It comes in through the same wall: common practice, no source. Three lines and earth of the size that leads to its switch."""
    text = HEAD + f'[extra_supply.P]\nsystem = "3ph"\nvolts = 400\nisolated = "{isolated}"\n' + STARTER
    plan = plan_of(text.replace('supply = "C1"', 'supply = "C1"\npower = "P"'))
    assert {e.cable for e in plan.entries} == {SUPPLY, f"{SUPPLY} P", *(c.name for c in plan.cables)}
    item = "P.Q" if isolated == "here" else "X0"
    (way,) = [way for way in plan.cable_ways if way.cable == f"{SUPPLY} P"]
    last = plan.plate.duct(way.legs[-1].duct)
    row = plan.plate.row_of[item]
    assert last is not None and plan.plate.levels.index(last) in {row, row + 1}
    mm2 = plan.sections.inside[ahead].mm2
    assert way.diameter == cable_entries.cable_diameter_mm(4, mm2)


def test_glands_stand_beside_each_other_with_room_for_a_spanner_and_what_has_none_is_said() -> None:
    text = HEAD.replace("width = 800", "width = 700") + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 9))
    plan = plan_of(text)
    rows: dict[float, list[tuple[float, float]]] = {}
    for entry in plan.entries:
        rows.setdefault(entry.z, []).append((entry.x, entry.diameter * NUT_SHARE / 2))
    for row in rows.values():
        row.sort()
        assert all(b - rb - a - ra > 5.9 for (a, ra), (b, rb) in zip(row, row[1:], strict=False))
    assert {e.cable for e in plan.entries} == {SUPPLY, *(c.name for c in plan.cables)}
    crowded = plan_of(text.replace("width = 700", "width = 200").replace("height = 1200", "height = 1200\ndepth = 100"))
    assert any(f.rule == "entry-wall-full" and "has no room for W" in f.message for f in find_all(crowded))
