"""Owns the measures of a circuit sheet: where lanes, cells and busbars lie. Must not know what is drawn.

A point is (v, u): v across the lanes, u along the current, both in mm. In columns u runs down and v to the right, on a ladder u runs
to the right and v down.
"""

from dataclasses import dataclass

from riktig.drawings.display import Point
from riktig.drawings.frame import COLUMN_WIDTH, LEFT
from riktig.drawings.shapes import POLE_PITCH
from riktig.plan.sheets.figures import CONTROL_CELLS, LETTER_MM

TOP = 276.0
LINE_HEIGHT = 24.0
RAIL_LEFT = 34.0
BUS_STEP = 5.0
SINGLE_AXIS, WIDE_AXIS, MOST_AXIS = 13.0, 5.5, 21.5
BESIDE_NUMBER = 2.6
"""Left of a conductor stand its numbers, this far from the edge of the lane and from the conductor."""
MOST_TOP, MOST_TOP_POWER, MOST_BOTTOM = 3, 5, 2
"""Busbars that find room at the head of a sheet and at its foot."""
MOST_POWER_CELL = 38.0
_HEAD, _HEAD_POWER, _HEAD_RUNG = 6.0, 24.0, 4.0
_BELOW_BUS, _BELOW_RAIL = 13.0, 17.0
_FOOT, _FOOT_POWER, _FOOT_RUNG = 204.0, 224.0, 318.0
_ABOVE_BUS = 12.0


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetGeometry:
    """Measures of one sheet with so many busbars at its head and foot; `letters` of its longest wire number,
    `cells` that a lane is long.
    """

    is_rung: bool
    is_power: bool
    heads: int
    feet: int
    letters: int = 4
    cells: float = CONTROL_CELLS

    def at(self, v: float, u: float) -> Point:
        """Return a point on the sheet in mm."""
        return (RAIL_LEFT + u, TOP - v) if self.is_rung else (LEFT + v, TOP - u)

    @property
    def lane_width(self) -> float:
        """How wide a lane is."""
        return LINE_HEIGHT if self.is_rung else COLUMN_WIDTH

    def axis(self, lane: int, width: int) -> float:
        """Return the v of the first conductor of a lane."""
        if width > 1:
            return lane * self.lane_width + WIDE_AXIS
        number = 0.0 if self.is_rung else self.letters * LETTER_MM + BESIDE_NUMBER
        return lane * self.lane_width + min(max(SINGLE_AXIS, number), MOST_AXIS)

    def axes(self, lane: int, width: int) -> tuple[float, ...]:
        """Return the v of each conductor of a lane."""
        first = self.axis(lane, width)
        return tuple(first + i * POLE_PITCH for i in range(width))

    def head(self, level: int) -> float:
        """Return the u of a busbar at the head."""
        first = _HEAD_POWER if self.is_power else _HEAD_RUNG if self.is_rung else _HEAD
        return first + BUS_STEP * level

    def foot(self, level: int) -> float:
        """Return the u of a busbar at the foot."""
        last = _FOOT_RUNG if self.is_rung else _FOOT
        return last - BUS_STEP * level

    @property
    def start(self) -> float:
        """The u at which paths begin."""
        return self.head(max(self.heads, 1) - 1) + (_BELOW_RAIL if self.is_rung else _BELOW_BUS)

    @property
    def end(self) -> float:
        """The u at which paths end."""
        return _FOOT_POWER if self.is_power else self.foot(max(self.feet, 1) - 1) - _ABOVE_BUS

    @property
    def cell(self) -> float:
        """The least length of a cell."""
        return (self.end - self.start) / self.cells
