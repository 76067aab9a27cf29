"""Owns how rows of parts become rails and ducts: how high each row is, what it is cut to, where each part stands in it.

Must not choose which part stands in which row. Frame and mm as the plate.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from riktig.job.entries import DUCT_KEY, RAIL_KEY, OnPlate, OnRail, Place
from riktig.job.model import Job
from riktig.plan.circuit.incoming import MAIN_SWITCH
from riktig.plan.place.heights import handle_reach
from riktig.plan.place.items import PART_GAP_MM, STRIP_RESERVE_MM, PlateItem
from riktig.plan.place.layout import Box, Duct, Rail, plate_size

SIDE_GAP_MM = 10.0
RAIL_GAP_MM = 5.0
"""Between a rail and the upright duct beside it."""
ROW_FILL = 0.8
"""Share of a row that is used when parts are first put there; the rest is reserve (common practice, no source)."""
DUCT_SERIES_MM = (
    (25.0, 60.0), (40.0, 60.0), (60.0, 60.0), (60.0, 80.0), (80.0, 80.0), (100.0, 80.0), (120.0, 80.0), (120.0, 100.0),
    (150.0, 100.0), (200.0, 100.0),
)  # fmt: skip
"""Width and depth of wiring ducts, rising (DIN 43659 and common practice, from memory)."""
UPRIGHTS = ("D1", "D2")
"""Codes of the upright ducts of stacked rows; the horizontal ones follow from the top."""
_WIDE_FROM_MM = 800.0


@dataclass(frozen=True, slots=True)
class DuctSizes:
    """Width and depth in mm of the upright ducts, of the horizontal ones, and of single ones by their place from the top; one of no width
    is left out. `right` is that of the right upright where it is another one than the left has.
    """

    upright: tuple[float, float]
    level: tuple[float, float]
    single: Mapping[int, tuple[float, float]] = field(default_factory=dict)
    right: tuple[float, float] | None = None

    @property
    def sides(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """The sizes of the left and the right upright."""
        return self.upright, self.right or self.upright

    def at(self, place: int) -> tuple[float, float]:
        """Return the size of the horizontal duct at a place, 0 the highest."""
        return self.single.get(place, self.level)


def least_sizes(ducts: Iterable[tuple[str, float, float]]) -> DuctSizes | None:
    """Return codes, widths and depths of ducts of stacked rows as the sizes that are asked for, None of none."""
    sizes = {code: (width, depth) for code, width, depth in ducts}
    levels = {place_of_level(code): size for code, size in sizes.items() if code not in UPRIGHTS}
    left, right = (sizes.get(code, (0.0, 0.0)) for code in UPRIGHTS)
    return DuctSizes(left, (0.0, 0.0), levels, right) if sizes else None


def wider(one: DuctSizes, least: DuctSizes) -> DuctSizes:
    """Return the sizes of ducts where each is as large as it was and as another one asks."""
    single = {k: max(one.at(k), size, key=inside_mm2) for k, size in least.single.items()}
    left, right = (max(pair, key=inside_mm2) for pair in zip(one.sides, least.sides, strict=True))
    return DuctSizes(left, one.level, {**one.single, **single}, right)


def inside_mm2(size: tuple[float, float]) -> float:
    """Return what a duct of a width and depth holds, in mm2."""
    return size[0] * size[1]


def usual_ducts(job: Job) -> DuctSizes:
    """Return the ducts to begin with: larger in a wide enclosure, which has more in each (common practice, no source)."""
    size = (60.0, 80.0) if job.enclosure.width >= _WIDE_FROM_MM else (40.0, 60.0)
    return DuctSizes(size, size)


NARROWER_DUCTS = (DuctSizes((40.0, 60.0), (40.0, 60.0)), DuctSizes((25.0, 60.0), (25.0, 60.0)))
"""Ducts for plates that are too low for the usual ones."""


@dataclass(frozen=True)
class Row:
    """A row of parts: what sits on its rail and what is screwed to the plate beside it, each from left to right.

    `fixed_left`: what is screwed on stands left of the rail; `to_right`: what is on the rail stands together at its right end, else
    `indent` mm from its left end.
    """

    rail: tuple[PlateItem, ...] = ()
    fixed: tuple[PlateItem, ...] = ()
    fixed_left: bool = False
    to_right: bool = False
    indent: float = 0.0

    @cached_property
    def items(self) -> tuple[PlateItem, ...]:
        """All of them."""
        return (*self.rail, *self.fixed)

    @cached_property
    def up(self) -> float:
        """From its centre line to the duct above it, in mm."""
        return max((item.up + item.room for item in self.items), default=0.0)

    @cached_property
    def down(self) -> float:
        """From its centre line to the duct below it, in mm."""
        return max((item.down + item.room for item in self.items), default=0.0)

    @cached_property
    def width(self) -> float:
        """What its parts take beside each other, in mm, reserves included."""
        both = packed_width(self.rail) + packed_width(self.fixed) + (PART_GAP_MM if self.rail and self.fixed else 0.0)
        return self.indent + both

    @cached_property
    def begin(self) -> float:
        """From its left end to its rail, in mm: what is screwed to the plate there."""
        return packed_width(self.fixed) + PART_GAP_MM if self.fixed and self.fixed_left else 0.0

    def plus(self, item: PlateItem) -> "Row":
        """Return the row with one more part at its end."""
        return replace(self, rail=(*self.rail, item)) if item.on_rail else replace(self, fixed=(*self.fixed, item))


def gap_between(left: PlateItem, right: PlateItem) -> float:
    """Return the mm between two neighbours: none where a comb or bridge joins them."""
    return 0.0 if left.snug and left.snug == right.snug else PART_GAP_MM


def packed_width(items: Sequence[PlateItem]) -> float:
    """Return what parts take that stand as close as they may, in mm."""
    gaps = (gap_between(a, b) for a, b in zip(items, items[1:], strict=False))
    return sum(item.span for item in items) + sum(gaps)


def pack(items: Sequence[PlateItem], x: float) -> Iterator[tuple[PlateItem, float]]:
    """Yield each part with its own left edge, from x on as close as they may."""
    before: PlateItem | None = None
    for item in items:
        if before is not None:
            x += gap_between(before, item)
        yield item, x + item.left
        x += item.span
        before = item


@dataclass(frozen=True, slots=True)
class Stack:
    """Rows made to measure: rails, ducts, and the place of each part as the ledger has it. `lowest` and `highest` are the outer
    edges of the rows with their ducts, and may lie beyond the plate.
    """

    rails: tuple[Rail, ...]
    ducts: tuple[Duct, ...]
    places: Mapping[str, Place]
    lowest: float
    highest: float

    def values(self) -> dict[str, Any]:
        """Return all of it as the ledger has it."""
        return {
            **{f"{RAIL_KEY}{rail.code}": rail.place for rail in self.rails},
            **{f"{DUCT_KEY}{duct.code}": duct.place for duct in self.ducts},
            **self.places,
        }


def inner_span(job: Job, ducts: DuctSizes) -> tuple[float, float]:
    """Return where parts may begin and end between the upright ducts, in mm."""
    width, _ = plate_size(job)
    (left, _), (right, _) = ducts.sides
    return left + SIDE_GAP_MM, width - right - SIDE_GAP_MM


def strip_room(job: Job) -> float:
    """Return how wide a strip may be that stands on a rail of its own, in mm."""
    left, right = inner_span(job, usual_ducts(job))
    return right - left - STRIP_RESERVE_MM


def centre_lines(
    rows: Sequence[Row], height: float, ducts: DuctSizes, *, from_top: bool
) -> tuple[list[float], list[float]]:
    """Return the y of each row's centre line and the lower edge of each horizontal duct, from the top, in mm.

    The rows are as high as their parts and clearances ask, and begin at the end that is far from the cables; what is left over
    is free where the cables enter.
    """
    y = height if from_top else rows_height(rows, ducts)
    lines, edges = [], []
    for place, row in enumerate(rows):
        y -= ducts.at(place)[0]
        edges.append(y)
        y -= row.up
        lines.append(y)
        y -= row.down
    edges.append(y - ducts.at(len(rows))[0])
    return lines, edges


def shift_into(reach: tuple[float, float], y: float, free: float, *, from_top: bool) -> float:
    """Return by how many mm rows are moved towards the cables, down or up, so that what stands at `y` comes into a reach: no further than
    the plate is free there; 0 where that is not enough, or not asked for.
    """
    shift = min(0.0, reach[1] - y) if from_top else max(0.0, reach[0] - y)
    return shift if abs(shift) <= free and reach[0] <= y + shift <= reach[1] else 0.0


def lines_in_reach(job: Job, rows: Sequence[Row], ducts: DuctSizes) -> tuple[list[float], list[float]]:
    """Return the same as `centre_lines`, moved so that the handle of a main switch can be reached, where the plate has the room."""
    from_top, height = job.supply.entry == "bottom", plate_size(job)[1]
    lines, edges = centre_lines(rows, height, ducts, from_top=from_top)
    place = next((k for k, row in enumerate(rows) if any(item.id == MAIN_SWITCH for item in row.items)), None)
    if place is None or job.incoming.switch != "door":
        return lines, edges
    free = height - rows_height(rows, ducts)
    shift = shift_into(handle_reach(job), lines[place], free, from_top=from_top)
    return [y + shift for y in lines], [y + shift for y in edges]


def stack_rows(job: Job, rows: Sequence[Row], ducts: DuctSizes) -> Stack:
    """Return rails, ducts and places of rows from the top: D1 and D2 upright, D3 over the first row, one more below each."""
    width, height = plate_size(job)
    lines, edges = lines_in_reach(job, rows, ducts)
    (left, _), (right, _) = ducts.sides
    sizes = [ducts.at(k) for k in range(len(edges))]
    low, high = (edges[-1], edges[0] + sizes[0][0]) if rows else (0.0, height)
    bottom, top = min(0.0, low), max(height, high)
    made = [
        Duct(
            code=code,
            box=Box(x=x, y=bottom, w=w, h=top - bottom),
            is_vertical=True,
            depth=depth,
        )
        for code, x, (w, depth) in zip(UPRIGHTS, (0.0, width - right), ducts.sides, strict=True)
    ]
    made.extend(
        Duct(
            code=level_code(k),
            box=Box(x=left, y=y, w=width - left - right, h=sizes[k][0]),
            is_vertical=False,
            depth=sizes[k][1],
        )
        for k, y in enumerate(edges if rows else ())
        if sizes[k][0]
    )
    rails: list[Rail] = []
    places: dict[str, Place] = {}
    span = inner_span(job, ducts)
    for number, (row, line) in enumerate(zip(rows, lines, strict=True), start=1):
        for item, x in row_places(row, span):
            places[item.id] = OnRail(f"R{number}", x) if item.on_rail else OnPlate(x, line - item.height / 2)
        if row.rail:
            start, end = rail_span(row, span)
            rails.append(Rail(code=f"R{number}", x=start, y=line, length=end - start))
    return Stack(tuple(rails), tuple(made), places, low, high)


def level_code(place: int) -> str:
    """Return what the horizontal duct at a place from the top of stacked rows is called, 0 the highest."""
    return f"D{place + 3}"


def place_of_level(code: str) -> int:
    """Return the place from the top of a horizontal duct of stacked rows, 0 the highest."""
    return int(code.removeprefix("D")) - 3


def rail_span(row: Row, span: tuple[float, float]) -> tuple[float, float]:
    """Return where the rail of a row begins and ends: all that is not taken by what is screwed to the plate beside it."""
    start, end = span[0] - RAIL_GAP_MM, span[1] + RAIL_GAP_MM
    taken = packed_width(row.fixed) + PART_GAP_MM if row.fixed else 0.0
    return (span[0] + taken, end) if row.fixed_left and taken else (start, end if not taken else span[1] - taken)


def row_places(row: Row, span: tuple[float, float]) -> Iterator[tuple[PlateItem, float]]:
    """Yield each part of a row with its left edge."""
    wide, fixed = packed_width(row.rail), packed_width(row.fixed)
    start, end = span
    if row.fixed:
        yield from pack(row.fixed, start if row.fixed_left or not row.rail else max(start, end - fixed))
        taken = fixed + PART_GAP_MM
        start, end = (start + taken, end) if row.fixed_left else (start, end - taken)
    if row.rail:
        yield from pack(row.rail, max(start, end - wide) if row.to_right else start + row.indent)


def rows_height(rows: Sequence[Row], ducts: DuctSizes) -> float:
    """Return what rows take with the ducts between, above and below them, in mm."""
    return sum(row.up + row.down for row in rows) + sum(ducts.at(k)[0] for k in range(len(rows) + 1))
