"""Checks that circuits go round a full upright duct, whole, and no further than a tap may be led."""

from collections import defaultdict
from dataclasses import replace

import pytest

from panels import roomy_panel_text
from riktig.plan.circuit.zones import device_of
from riktig.plan.place.layout import PlateLayout
from riktig.plan.place.routes import DuctNetwork
from riktig.plan.plan import Plan
from riktig.plan.wiring.balance import shun_full_uprights
from riktig.plan.wiring.conductors import Ways, led_round
from riktig.plan.wiring.duct_fill import FILL_TARGET, duct_loads
from riktig.plan.wiring.geometry import Geometry
from riktig.plan.wiring.taps import LONGEST_TAP_MM
from support import plan_of

SEEDS = (2, 6, 14, 31)


def _narrow(plan: Plan) -> tuple[Plan, Ways]:
    """Return a Plan as it goes by the shortest ways, on a plate whose upright ducts together hold twice what lies in them."""
    short = led_round(
        plan.conductors, replace(_ways(plan, plan.plate), shunned=dict.fromkeys(plan.shunned, frozenset())), {}
    )
    loads = duct_loads(short, plan.cable_ways, {d.code for d in plan.plate.uprights})
    share = 2 * sum(load.area for load in loads.values()) / sum(d.width * d.depth for d in plan.plate.uprights)
    ducts = tuple(replace(d, depth=d.depth * (share if d.is_vertical else 4)) for d in plan.plate.ducts)
    return replace(plan, conductors=short), _ways(plan, replace(plan.plate, ducts=ducts))


def _ways(plan: Plan, layout: PlateLayout) -> Ways:
    geometry = Geometry(plan.job, plan.parts, layout, plan.door, plan.clamps, plan.clamp_parts, plan.walls)
    return Ways(geometry, DuctNetwork(layout.ducts), {})


@pytest.mark.parametrize("seed", SEEDS)
def test_a_full_upright_gives_to_one_that_has_room(seed: int) -> None:
    plan, ways = _narrow(plan_of(roomy_panel_text(seed)))
    uprights = {d.code: d.width * d.depth for d in ways.geometry.plate.ducts if d.is_vertical}
    led = led_round(plan.conductors, ways, shun_full_uprights(plan.conductors, plan.cable_ways, ways))

    def fullest(conductors: tuple) -> list[float]:  # type: ignore[type-arg]
        loads = duct_loads(conductors, plan.cable_ways, uprights)
        return sorted(loads[code].area / inside for code, inside in uprights.items() if code in loads)

    before, after = fullest(plan.conductors), fullest(led)
    assert after == before if before[-1] <= FILL_TARGET else after[-1] < before[-1] and after[0] > before[0]


@pytest.mark.parametrize("seed", SEEDS)
def test_what_goes_round_goes_whole_and_no_tap_gets_too_long_by_it(seed: int) -> None:
    """Conductors of one circuit lie together: IEC 60204-1:2016 13.1.3 and NEC 300.3(B); taps 3 m: IEC 60364-4-43 434.2.1; from memory."""
    plan, ways = _narrow(plan_of(roomy_panel_text(seed)))
    led = led_round(plan.conductors, ways, shun_full_uprights(plan.conductors, plan.cable_ways, ways))
    uprights = {d.code for d in ways.geometry.plate.ducts if d.is_vertical}
    taken = defaultdict(set)
    for c in led:
        if c.legs and c.stage in {"distribution", "feeds"}:
            taken[frozenset((device_of(c.a), device_of(c.b)))].add(frozenset(c.route) & uprights)
    assert taken and all(len(ways_taken) == 1 for ways_taken in taken.values())
    longer = [c for old, c in zip(plan.conductors, led, strict=True) if c.length_mm > old.length_mm]
    assert all(c.laid_mm <= LONGEST_TAP_MM for c in longer if c.stage in {"incoming", "distribution"})
