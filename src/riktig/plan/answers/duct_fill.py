"""Owns how full each duct is, wires and field cables together. Must not judge it."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from math import pi

from riktig.plan.place.routes import Leg
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.standards.wire_diameters import outer_diameter_mm

FILL_LIMIT = 0.6
"""Share of a duct that may be full at its fullest place (common practice, no source)."""
FILL_TARGET = 0.45
"""Share that a duct is chosen for, so that wires can be added (common practice, no source)."""


def duct_loads(
    conductors: tuple[Conductor, ...], cables: Iterable[tuple[tuple[Leg, ...], float]] = ()
) -> dict[str, tuple[float, int]]:
    """Return by duct the largest area in mm2 of wires and cables at any place along it, and the most power circuits there.

    Args:
        conductors: all of them; what takes no duct counts nothing.
        cables: ways of field cables through the ducts with their outside diameter in mm.
    """
    events: defaultdict[str, list[tuple[float, int, float, bool]]] = defaultdict(list)
    for legs, d in cables:
        _lay(events, legs, d, is_power=False)
    for conductor in conductors:
        is_power = conductor.stage in {"feeds", "distribution"}
        _lay(events, conductor.legs, outer_diameter_mm(conductor.size.mm2), is_power=is_power)
    loads = {}
    for duct, changes in events.items():
        area = most_area = 0.0
        lines = most_lines = 0
        for _, step, change, is_power in sorted(changes, key=lambda c: (c[0], -c[1])):
            area += change
            lines += step if is_power else 0
            most_area, most_lines = max(most_area, area), max(most_lines, lines)
        loads[duct] = (most_area, -(-most_lines // 3))
    return loads


def _lay(
    events: defaultdict[str, list[tuple[float, int, float, bool]]], legs: tuple[Leg, ...], d: float, *, is_power: bool
) -> None:
    for leg in legs:
        low, high = sorted((leg.start, leg.end))
        events[leg.duct].append((low, 1, d * d * pi / 4, is_power))
        events[leg.duct].append((high, -1, -d * d * pi / 4, is_power))


def loads_of(plan: Plan) -> dict[str, tuple[float, int]]:
    """Return the loads of the ducts of a Plan, as `duct_loads` has them."""
    return duct_loads(plan.conductors, ((way.legs, way.diameter) for way in plan.cable_ways))


def duct_areas(plan: Plan) -> dict[str, float]:
    """Return the largest area in mm2 of wires and cables by duct."""
    return {code: area for code, (area, _) in loads_of(plan).items()}


def fill_percent(plan: Plan, loads: Mapping[str, tuple[float, int]] | None = None) -> dict[str, float]:
    """Return the fill of each duct in percent of its inside at its fullest place.

    Args:
        plan: what is asked about.
        loads: its loads, where they are known already.
    """
    known = loads_of(plan) if loads is None else loads
    return {d.code: round(100 * known.get(d.code, (0.0, 0))[0] / (d.width * d.depth), 1) for d in plan.plate.ducts}
