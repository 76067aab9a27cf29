"""Owns how large ducts are to be for what lies in them. Must not lay out the plate.

Source: ducts are chosen to be less than half full, so that wires can be added (common practice, no source).
"""

from collections.abc import Mapping, Sequence
from itertools import pairwise

from riktig.job.model import Job
from riktig.plan.place.first_rows import first_layout
from riktig.plan.place.layout import Duct, PlateLayout
from riktig.plan.place.stack import DUCT_SERIES_MM, DuctSizes, Row, inside_mm2, least_sizes, level_code, place_of_level
from riktig.plan.wiring.duct_fill import FILL_LIMIT, FILL_TARGET, DuctLoad

_LEAST_DUCT_MM = (40.0, 60.0)
"""The smallest duct that is laid between rows (common practice, no source)."""
_ASKED_FILL = (FILL_TARGET + FILL_LIMIT) / 2
"""Share that a duct of a proposal is made larger for, less than what is too full."""
_APART = 2
"""Uprights have two sizes only where the series has them so far apart."""
_TRIES = 3
Sizes = tuple[tuple[str, float, float], ...]
"""Codes of ducts with width and depth in mm."""


def needed_ducts(plate: PlateLayout, loads: Mapping[str, DuctLoad], ducts: DuctSizes) -> DuctSizes:
    """Return the sizes of ducts that leave room at their fullest place: one for both uprights where the series has them beside each other,
    one for each horizontal duct; none is smaller than is usual for few wires, and what is left out stays so.
    """
    left, right = (_size_for(duct, loads) for duct in (plate.uprights[0], plate.uprights[-1]))
    if abs(DUCT_SERIES_MM.index(left) - DUCT_SERIES_MM.index(right)) < _APART:
        left = right = max(left, right, key=inside_mm2)
    single = {place_of_level(duct.code): _size_for(duct, loads) for duct in plate.levels}
    left_out = {k: s for k, s in ducts.single.items() if not s[0]}
    return DuctSizes(left, ducts.level, {**{k: s for k, s in single.items() if s != ducts.level}, **left_out}, right)


def _fill(duct: Duct, loads: Mapping[str, DuctLoad]) -> float:
    return loads[duct.code].area / (duct.width * duct.depth) if duct.code in loads else 0.0


def _size_for(duct: Duct, loads: Mapping[str, DuctLoad], most: float = FILL_TARGET) -> tuple[float, float]:
    area = loads[duct.code].area if duct.code in loads else 0.0
    fitting = (s for s in DUCT_SERIES_MM if s >= _LEAST_DUCT_MM and s[0] * s[1] * most >= area)
    return next(fitting, DUCT_SERIES_MM[-1])


def asked_of(plate: PlateLayout, loads: Mapping[str, DuctLoad], asked: Sizes) -> Sizes:
    """Return which ducts of a plate of stacked rows are to be larger than usual: those that are too full, an upright that is nearly so
    beside one that is, for it takes what leaves that one, and of those asked for before the ones that are not two sizes too large.

    Args:
        plate: the plate.
        loads: what lies in its ducts.
        asked: which ones were asked for, and how large.
    """
    known = {code: (width, depth) for code, width, depth in asked}
    wanted: dict[str, tuple[float, float]] = {}
    is_round = any(_fill(duct, loads) > FILL_LIMIT for duct in plate.uprights)
    for duct in (*plate.uprights, *plate.levels):
        code, needed = duct.code, _size_for(duct, loads, _ASKED_FILL)
        next_larger = DUCT_SERIES_MM[min(DUCT_SERIES_MM.index(needed) + 1, len(DUCT_SERIES_MM) - 1)]
        if _fill(duct, loads) > (_ASKED_FILL if is_round and duct.is_vertical else FILL_LIMIT):
            wanted[code] = max(needed, known.get(code, needed), key=inside_mm2)
        elif code in known and inside_mm2(known[code]) <= inside_mm2(next_larger):
            wanted[code] = known[code]
    return tuple((code, *size) for code, size in wanted.items())


def followed(job: Job, plate: PlateLayout, asked: Sizes) -> Sizes:
    """Return the sizes of ducts with the horizontal ones called as they will be in the rows that such ducts lead to: each between the rows
    in which most of the parts above and below it stand then.
    """
    items, found = tuple(plate.items.values()), asked
    for _ in range(_TRIES):
        rows, _ = first_layout(job, items, least_sizes(found))
        before, found = found, _renamed(plate, rows, asked)
        if found == before:
            break
    return found


def _renamed(plate: PlateLayout, rows: Sequence[Row], asked: Sizes) -> Sizes:
    names = [frozenset(item.id for item in row.items) for row in rows]
    between = [a | b for a, b in pairwise((frozenset[str](), *names, frozenset[str]()))]
    levels = sorted((duct.level, duct.code) for duct in plate.levels)
    found = []
    for code, width, depth in asked:
        place = next((k for k, (_, level) in enumerate(levels) if level == code), None)
        if place is not None:
            floor = levels[place - 1][0] if place else float("-inf")
            ceiling = levels[place + 1][0] if place + 1 < len(levels) else float("inf")
            beside = {name for name, box in plate.boxes.items() if floor < box.centre[1] < ceiling}
            alike = [len(one & beside) / (len(one | beside) or 1) for one in between]
            code = level_code(alike.index(max(alike)))  # noqa: PLW2901 as it is called then
        found.append((code, width, depth))
    return tuple(found)
