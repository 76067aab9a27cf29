"""Owns how full each duct is, wires and field cables together. Must not judge it."""

from collections import defaultdict
from collections.abc import Container, Iterable, Mapping, Sequence
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


def duct_loads(
    conductors: Iterable[Conductor], cables: Iterable[CableWay], ducts: Container[str] | None = None
) -> dict[str, DuctLoad]:
    """Return what lies in each duct at its fullest place.

    Args:
        conductors: all of them; what takes no duct counts nothing.
        cables: ways of field cables through the ducts.
        ducts: codes of the only ones that are asked for, None for all.
    """
    ends: defaultdict[str, list[_End]] = defaultdict(list)
    for way in cables:
        _lay(ends, _legs_in(way.legs, ducts), way.diameter, 0)
    for conductor in conductors:
        if legs := _legs_in(conductor.legs, ducts):
            lines = 1 if conductor.stage in _POWER_STAGES else 0
            _lay(ends, legs, outer_diameter_mm(conductor.size.mm2), lines)
    return {duct: _fullest(tuple(sorted(found))) for duct, found in ends.items()}


def loads_after(
    loads: Mapping[str, DuctLoad], old: Iterable[Conductor], now: Sequence[Conductor], cables: Iterable[CableWay]
) -> dict[str, DuctLoad]:
    """Return what lies in the ducts where some conductors lie otherwise: looked at anew only where they lay and lie.

    Args:
        loads: as it was.
        old: the conductors as they were.
        now: the same as they are, in the same order.
        cables: ways of field cables, none of which changed.
    """
    others = [pair for pair in zip(old, now, strict=True) if pair[0] is not pair[1]]
    touched = {leg.duct for pair in others for conductor in pair for leg in conductor.legs}
    kept = {duct: load for duct, load in loads.items() if duct not in touched}
    return kept | duct_loads(now, cables, touched)


def round_area_mm2(diameter: float) -> float:
    """Return what a round of a diameter in mm takes of a duct, in mm2."""
    return diameter * diameter * pi / 4


def wire_area_mm2(conductor: Conductor) -> float:
    """Return what a wire takes of a duct, in mm2."""
    return round_area_mm2(outer_diameter_mm(conductor.size.mm2))


def _legs_in(legs: tuple[Leg, ...], ducts: Container[str] | None) -> tuple[Leg, ...]:
    return legs if ducts is None else tuple(leg for leg in legs if leg.duct in ducts)


_POWER_STAGES = frozenset({"feeds", "distribution"})
_End = tuple[float, int, float, int]
"""Where along a duct a wire begins or ends, -1 or 1 for that, so that what begins is there before anything ends, by how much the area
grows, and the lines.
"""


def _fullest(ends: tuple[_End, ...]) -> DuctLoad:
    area = most_area = 0.0
    lines = most_lines = 0
    for _, _, change, step in ends:
        area += change
        lines += step
        if area > most_area:
            most_area = area
        if lines > most_lines:
            most_lines = lines
    return DuctLoad(most_area, -(-most_lines // 3))


def _lay(ends: defaultdict[str, list[_End]], legs: tuple[Leg, ...], d: float, lines: int) -> None:
    area = round_area_mm2(d)
    for leg in legs:
        low, high = (leg.start, leg.end) if leg.start <= leg.end else (leg.end, leg.start)
        there = ends[leg.duct]
        there.append((low, -1, area, lines))
        there.append((high, 1, -area, -lines))


def fill_percent(ducts: Iterable[Duct], loads: Mapping[str, DuctLoad]) -> dict[str, float]:
    """Return the fill of each duct in percent of its inside at its fullest place."""
    return {d.code: round(100 * loads[d.code].area / (d.width * d.depth), 1) if d.code in loads else 0.0 for d in ducts}
