"""Counts again, from places alone, how many loaded circuits lie together: intervals of shapely against the sweep of the product."""

import random

import pytest
from shapely.geometry import LineString

from riktig.checks.run import find_all
from riktig.plan.plan import Plan
from support import HEAD, plan_of

B1 = {1.5: 13.5, 2.5: 18.3, 4: 24, 6: 31, 10: 44, 16: 59, 25: 77}
"""A at 40 degC: IEC 60204-1 Table 6, B1, from memory."""
D2 = {1: 1.0, 2: 0.8, 4: 0.65, 6: 0.57, 9: 0.5}
"""IEC 60204-1 Table D.2, B1, from memory; between two rows the next larger number, nine and more alike."""
AT_45 = 0.91


def panel_of(seed: int) -> Plan:
    rng = random.Random(seed)
    size = f"width = {rng.choice([1000, 1200, 1600])}\nheight = {rng.choice([1400, 1800, 2000])}"
    kws = [rng.choice([0.37, 1.5, 3, 4, 5.5, 7.5, 11]) for _ in range(rng.randint(5, 16))]
    starters = "".join(f'[starter.M{n}]\nkw = {kw}\nsupply = "C1"\n' for n, kw in enumerate(kws, 1))
    return plan_of(HEAD.replace("width = 800\nheight = 1200", size) + starters)


def loaded_ways(plan: Plan) -> dict[str, list[tuple[str, LineString]]]:
    """Return by duct the motor and the way of each wire of a motor's circuit that is loaded over 30 % and lies there for 600 mm."""
    ways: dict[str, list[tuple[str, LineString]]] = {}
    for wire in plan.conductors:
        names = {end.split(".")[0].split(":")[0] for end in (wire.a, wire.b)} & set(plan.starters)
        net = plan.potential_of(wire.a) or plan.potential_of(wire.b)
        if len(names) != 1 or not wire.legs or net is None or net.net.function != "power":
            continue
        (name,) = names
        if plan.starters[name].motor.current > 0.3 * B1[wire.size.mm2] * AT_45:
            for leg in wire.legs:
                if abs(leg.end - leg.start) >= 600:
                    ways.setdefault(leg.duct, []).append((name, LineString([(leg.start, 0), (leg.end, 0)])))
    return ways


@pytest.mark.parametrize("seed", range(12))
def test_each_motor_is_sized_for_at_least_as_many_as_lie_with_it(seed: int) -> None:
    """IEC 60204-1 Table D.2: what carries too little where it really lies would be a wire too thin."""
    plan = panel_of(seed)
    stated = {v.subject: v for v in plan.sizing if v.quantity == "conductor_section"}
    for ways in loaded_ways(plan).values():
        for name, way in ways:
            places = [LineString([(x, -1), (x, 1)]) for x, _ in {pt for _, other in ways for pt in other.coords}]
            together = max(
                len({n for n, other in ways if other.crosses(p) or other.touches(p)})
                for p in places
                if way.intersects(p)
            )
            factor = next(f for count, f in D2.items() if count >= min(together, 9))
            amps = plan.starters[name].motor.current
            assert B1[stated[name].value] * AT_45 * factor >= amps - 1e-6, (name, together)
    assert not [f for f in find_all(plan) if f.rule == "duct-grouping" and f.subject != "Q0"]
