"""Owns how full each duct is, wires and field cables together. Must not judge it."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from math import pi

from riktig.plan.place.layout import Duct
from riktig.plan.place.routes import Leg
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.entries import CableWay
from riktig.standards.wire_diameters import outer_diameter_mm

FILL_LIMIT = 0.6
"""Share of a duct that may be full at its fullest place (common practice, no source)."""
FILL_TARGET = 0.45
"""Share that a duct is chosen for, so that wires can be added (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class DuctLoad:
    """What lies in a duct at its fullest place: the area of wires and cables in mm2, and how many power circuits there are."""

    area: float
    circuits: int


def duct_loads(conductors: tuple[Conductor, ...], cables: Iterable[CableWay]) -> dict[str, DuctLoad]:
    """Return what lies in each duct at its fullest place.

    Args:
        conductors: all of them; what takes no duct counts nothing.
        cables: ways of field cables through the ducts.
    """
    events: defaultdict[str, list[tuple[float, int, float, bool]]] = defaultdict(list)
    for way in cables:
        _lay(events, way.legs, way.diameter, is_power=False)
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
        loads[duct] = DuctLoad(most_area, -(-most_lines // 3))
    return loads


def _lay(
    events: defaultdict[str, list[tuple[float, int, float, bool]]], legs: tuple[Leg, ...], d: float, *, is_power: bool
) -> None:
    for leg in legs:
        low, high = sorted((leg.start, leg.end))
        events[leg.duct].append((low, 1, d * d * pi / 4, is_power))
        events[leg.duct].append((high, -1, -d * d * pi / 4, is_power))


def fill_percent(ducts: Iterable[Duct], loads: Mapping[str, DuctLoad]) -> dict[str, float]:
    """Return the fill of each duct in percent of its inside at its fullest place."""
    return {d.code: round(100 * loads[d.code].area / (d.width * d.depth), 1) if d.code in loads else 0.0 for d in ducts}
