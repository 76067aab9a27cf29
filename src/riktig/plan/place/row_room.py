"""Owns how parts find room in rows that stand: what goes high or low, and rows that are parted among others. Must not know surge arresters.

Frame and mm as the plate.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import reduce

from riktig.plan.circuit.incoming import WAY_IN
from riktig.plan.circuit.model import is_bar
from riktig.plan.place.items import PART_GAP_MM, Band, PlateItem
from riktig.plan.place.stack import DuctSizes, Row, gap_between, rows_height


def with_items(row: Row, items: Iterable[PlateItem]) -> Row:
    """Return a row with more parts at its end."""
    return reduce(Row.plus, items, row)


def width_with(row: Row, items: Iterable[PlateItem]) -> float:
    """Return what a row takes with more parts at its end, in mm; the row is not packed again for it."""
    wide, last = row.width, {True: row.rail[-1:], False: row.fixed[-1:]}
    for item in items:
        before, beside = last[item.on_rail], last[not item.on_rail]
        gap = gap_between(before[0], item) if before else PART_GAP_MM if beside else 0.0
        wide, last[item.on_rail] = wide + gap + item.span, (item,)
    return wide


def leads_in(row: Row) -> bool:
    """Return whether the supply is led in in a row."""
    return any(item.id in WAY_IN for item in row.items)


def height_of(row: Row) -> float:
    """Return what a row asks between its ducts, in mm."""
    return row.up + row.down


@dataclass(frozen=True, slots=True)
class ByHeight:
    """What stands high or low wherever the cables enter: lights and heaters, put into rows for all else. Lengths in mm."""

    lights: Sequence[PlateItem]
    heaters: Sequence[PlateItem]
    span: float
    height: float
    ducts: DuctSizes

    def into(self, rows: list[Row]) -> list[Row]:
        """Return the rows with heaters in the lowest and lights in the highest that leaves the plate high enough, else where all gets
        least higher; in rows of their own where none has room, a light rather than below the highest. Never between the main switch and
        what it leads to.
        """
        for item in self.heaters:
            rows = self._first([*reversed(self._ways(rows, item)), [*rows, with_items(Row(), [item])]])
        for item in self.lights:
            ways = self._ways(rows, item)
            at_top = 1 if ways and ways[0][0] is not rows[0] else 0
            rows = self._first([*ways[:at_top], [with_items(Row(), [item]), *rows], *ways[at_top:]])
        return rows

    def _ways(self, rows: list[Row], item: PlateItem) -> list[list[Row]]:
        """Return the rows with a part in one that has room for it, right of its rail, for each of these."""
        wider = [replace(row, fixed_left=row.fixed_left and bool(row.fixed)).plus(item) for row in rows]
        open_to = [k for k, row in enumerate(rows) if not leads_in(row) and wider[k].width <= self.span]
        return [[*rows[:k], wider[k], *rows[k + 1 :]] for k in open_to]

    def _first(self, ways: Sequence[list[Row]]) -> list[Row]:
        return next((way for way in ways if self._fits(way)), min(ways, key=self._height_of))

    def takes(self, rows: list[Row]) -> float:
        """Return by how much they make the rows higher."""
        return self._height_of(self.into(rows)) - self._height_of(rows)

    def into_fewest(self, rows: list[Row]) -> list[Row]:
        """Return the rows with them, the narrowest parted among others while all is too high for the plate and that can mend it."""
        found = self.into(rows)
        most = sum(height_of(row) + self.ducts.level[0] for row in rows if _may_part(row))
        while self._height_of(found) - most <= self.height < self._height_of(found):
            ways = (_parted_up(rows, k, self.span) for k in sorted(range(len(rows)), key=lambda k: rows[k].width))
            fewer = next((way for way in ways if way is not None), None)
            if fewer is None:
                return found
            rows, found = fewer, self.into(fewer)
        return found

    def _fits(self, rows: list[Row]) -> bool:
        return self._height_of(rows) <= self.height

    def _height_of(self, rows: list[Row]) -> float:
        return rows_height(rows, self.ducts)


def _parted_up(rows: Sequence[Row], k: int, most: float) -> list[Row] | None:
    """Return the rows without one whose parts stand in the nearest others, strips right beside it; None where these lack room or height
    for them.
    """
    if not _may_part(rows[k]):
        return None
    others = [Taking.of(row) for n, row in enumerate(rows) if n != k]
    for item in rows[k].items:
        near = sorted(range(len(others)), key=lambda n: abs(n + 0.5 - k))[: 2 if item.band is Band.FIELD else None]
        place = next((n for n in near if others[n].takes(item, most)), None)
        if place is None:
            return None
        others[place].add(item)
    return [other.row for other in others]


@dataclass(slots=True)
class Taking:
    """A row that takes more parts as long as it gets no higher by them: its width, and whether its parts work at extra-low voltage."""

    row: Row
    width: float
    room: tuple[float, float]
    has_low: bool
    ends_low: bool

    @classmethod
    def of(cls, row: Row) -> "Taking":
        lows = [item.band is Band.LOW for item in row.items]
        return cls(row, row.width, (row.up, row.down), any(lows), lows[-1:] == [True])

    def takes(self, item: PlateItem, most: float) -> bool:
        """Return whether it has room for one more part, gets no higher by it, and keeps what works at extra-low voltage together."""
        is_sorted = self.ends_low if item.band is Band.LOW else not self.has_low
        is_low_enough = item.up + item.room <= self.room[0] and item.down + item.room <= self.room[1]
        return is_sorted and is_low_enough and self.width + PART_GAP_MM + item.span <= most

    def add(self, item: PlateItem) -> None:
        """Put one more part at its end."""
        self.row = self.row.plus(item)
        self.width += PART_GAP_MM + item.span


def _may_part(row: Row) -> bool:
    """Return whether nothing in a row must stand beside something else."""
    return not leads_in(row) and not any(item.unit or is_bar(item.id) for item in row.rail)
