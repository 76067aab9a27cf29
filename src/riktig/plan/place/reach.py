"""Owns which duct the wires of a terminal go into. Must not know which wires there are. Frame and mm as the plate."""

from collections import defaultdict
from dataclasses import dataclass

from riktig.plan.place.layout import Duct, PlateLayout

_SLACK = 1e-6
_STRIP_MM = 100.0
_Column = tuple[float, float, float, float, str]
"""What stands on the plate: left, right, lower and upper edge in mm, and its id."""


@dataclass(frozen=True, slots=True)
class Straight:
    """The horizontal duct that lies straight above or below, None where none does, or what stands between."""

    duct: Duct | None
    blocked_by: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Access:
    """Where a terminal on the plate is, and where its wires meet a duct: position in mm, duct code ("" with no duct on the plate),
    coordinate along the duct's centre line, and mm from the terminal to that line.
    """

    x: float
    y: float
    duct: str
    at: float
    tail: float


class Reach:
    """What can be reached from where on one plate; answers are remembered."""

    def __init__(self, layout: PlateLayout) -> None:
        self._layout = layout
        self._levels = layout.levels
        self._uprights = layout.uprights
        hung = {item.hung[0]: item.id for item in layout.items.values() if item.hung is not None}
        self._host = {**hung, **{host: host for host in hung.values()}}
        self._below_host = {host: below for below, host in hung.items()}
        self._columns: dict[int, list[_Column]] = {}
        self._strips: defaultdict[tuple[int, int], list[_Column]] = defaultdict(list)
        """What stands in a row over each strip of the plate, so that few are asked whether they stand over a point."""
        for name, b in layout.boxes.items():
            row, column = layout.row_of[name], (b.x, b.right, b.y, b.top, name)
            self._columns.setdefault(row, []).append(column)
            for strip in range(int(b.x // _STRIP_MM), int(b.right // _STRIP_MM) + 1):
                self._strips[row, strip].append(column)
        levels = [duct.box for duct in self._levels]
        self._span = (min((box.x for box in levels), default=0.0), max((box.right for box in levels), default=0.0))
        self._known: dict[tuple[str, bool], Straight | None] = {}
        """By item and side (True: above) what all its terminals find straight there, None where not all find the same."""

    def sides(self, item: str) -> tuple[bool, ...]:
        """Return on which sides wires come to a part (True: above); where something hangs below it they come from above alone."""
        if item in self._below_host:
            return (True,)
        return (False,) if self._host.get(item, item) != item else (True, False)

    def straight(self, x: float, y: float, *, is_top: bool, item: str) -> Straight:
        """Return the nearest horizontal duct above or below a point of a part, if no other part stands between."""
        nearest: Duct | None = None
        for duct in self._levels if not is_top else reversed(self._levels):
            is_beyond = duct.box.y >= y - _SLACK if is_top else duct.box.top <= y + _SLACK
            if is_beyond and duct.box.x - _SLACK <= x <= duct.box.right + _SLACK:
                nearest = duct
                break
        edge = (nearest.box.y if is_top else nearest.box.top) if nearest is not None else None
        mine, row = self._host.get(item, item), self._layout.row_of[item]
        beside = self._levels[row : row + 2]
        rows = (row,) if nearest in beside else tuple(self._columns)
        strip = int(x // _STRIP_MM)
        for left, right, low, high, name in (column for r in rows for column in self._strips.get((r, strip), ())):
            if not left < x < right or self._host.get(name, name) == mine:
                continue
            ahead = low >= y - _SLACK if is_top else high <= y + _SLACK
            if ahead and (edge is None or (low < edge if is_top else high > edge)):
                return Straight(None, name)
        return Straight(nearest)

    def access(self, x: float, y: float, *, is_top: bool, item: str) -> Access:
        """Return where the wires of a terminal meet a duct: straight above or below, else the other way, else the nearest upright."""
        is_beside = not self._span[0] - _SLACK <= x <= self._span[1] + _SLACK
        for side in () if is_beside else (is_top, not is_top):
            duct = self._straight_from(x, item, is_top=side).duct
            if duct is not None:
                return Access(x=x, y=y, duct=duct.code, at=x, tail=abs(y - duct.level))
        if self._layout.ducts:
            return self.nearest(x, y)
        return Access(x=x, y=y, duct="", at=x, tail=0.0)

    def _straight_from(self, x: float, item: str, *, is_top: bool) -> Straight:
        """Return what a terminal of an item finds straight above or below it; asked once for all its terminals, where all find one."""
        box = self._layout.boxes[item]
        y = box.top if is_top else box.y
        key = (item, is_top)
        if key not in self._known:
            first, *others = (
                self.straight(at, y, is_top=is_top, item=item) for at in (box.x, box.centre[0], box.right)
            )
            is_one = not self._is_crowded(item) and all(other == first for other in others)
            self._known[key] = first if is_one else None
        return self._known[key] or self.straight(x, y, is_top=is_top, item=item)

    def _is_crowded(self, item: str) -> bool:
        """Return whether another part of its row stands above or below some of an item."""
        box, mine = self._layout.boxes[item], self._host.get(item, item)
        row = self._columns[self._layout.row_of[item]]
        return any(
            left < box.right and right > box.x and self._host.get(name, name) != mine for left, right, _, _, name in row
        )

    def nearest(self, x: float, y: float) -> Access:
        """Return where the nearest duct of any kind is met."""
        found = []
        for duct in self._layout.ducts:
            b = duct.box
            at = min(max(y, b.y), b.top) if duct.is_vertical else min(max(x, b.x), b.right)
            off = abs(x - duct.level) + abs(y - at) if duct.is_vertical else abs(y - duct.level) + abs(x - at)
            found.append((off, duct.code, at))
        off, code, at = min(found)
        return Access(x=x, y=y, duct=code, at=at, tail=off)
