"""Owns parts in slots while an arrangement is searched: which slots a part may go into, where it then stands, what it all costs.

Must not know how arrangements are searched (`arrange`). A *slot* is a stretch of a row in which parts stand beside each other.
"""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Any

from riktig.job.entries import OnPlate, OnRail, Place
from riktig.job.model import Job
from riktig.plan.arrange.cost import Cost, Pull
from riktig.plan.circuit.incoming import MAIN_SWITCH
from riktig.plan.place.arresters import EARTHS
from riktig.plan.place.columns import Member, straight_places
from riktig.plan.place.heights import handle_reach
from riktig.plan.place.items import PART_GAP_MM, Band, PlateItem
from riktig.plan.place.layout import PlateLayout, plate_size
from riktig.plan.place.stack import DuctSizes, Row, gap_between, inner_span, rows_height, shift_into

MIXED = frozenset({Band.SUPPLY, Band.STARTER, Band.TAP, Band.ENTRY})
"""Bands whose parts may share a row."""
ENTRY_ROWS = 2
"""How many rows the incoming switch may stand from the one beside the cables' entry (common practice, no source)."""
_MOST_KNOWN = 1000
"""How many pairs of rows are remembered as they stand straight."""
Mark = tuple[Any, Any, Any, Any, list[tuple[float, float]]]
"""Left edges, rows, runs and whether these have more than one, by item; what the slots ask for above and below."""


@dataclass(slots=True)
class Slot:
    """A stretch of a row while parts are put into it: on its rail, and screwed to the plate beside it.

    `row` counts from the top; where its rail stands, `rail_code` is its code, `y` its centre line, `up` and `down` the room it then
    has to the ducts; `tall` is what its parts ask for above and below; `only` are the ids of what alone may stand in it, none for all.
    """

    row: int
    span: tuple[float, float]
    most: float
    bands: frozenset[Band]
    rail: list[int] = field(default_factory=list)
    fixed: list[int] = field(default_factory=list)
    to_right: bool = False
    fixed_left: bool = False
    rail_code: str = ""
    y: float | None = None
    up: float = 0.0
    down: float = 0.0
    tall: tuple[float, float] = (0.0, 0.0)
    only: frozenset[str] = frozenset()


class Arrangement:
    """Parts in slots, and what that costs. Changes are made in place, and taken back by the caller."""

    def __init__(
        self,
        job: Job,
        items: Sequence[PlateItem],
        pulls: Sequence[Pull],
        slots: Sequence[Slot],
        ducts: DuctSizes,
        keys: Mapping[str, str],
        frame: PlateLayout | None = None,
    ) -> None:
        import numpy as np

        self.items, self.slots = tuple(items), list(slots)
        self._ducts = ducts
        self._from_top = job.supply.entry == "bottom"
        self._height = plate_size(job)[1]
        edge = int(frame is None and not ducts.at(len(self.slots) if self._from_top else 0)[0])
        self._cost = Cost(job, items, pulls, edge=edge)
        count = len(self.items)
        self._x, self._y = np.zeros(count), np.zeros(count)
        self._row, self._run = np.zeros(count, dtype=int), np.full(count, -1)
        self._many = np.zeros(count, dtype=bool)
        self._ups = [item.up + item.room for item in self.items]
        self._downs = [item.down + item.room for item in self.items]
        self._spans = [item.span for item in self.items]
        self._lefts = [item.left for item in self.items]
        self._gaps = [[gap_between(a, b) for b in self.items] for a in self.items]
        self._is_low = [item.band is Band.LOW for item in self.items]
        self._handle = next(
            (k for k, item in enumerate(self.items) if item.id == MAIN_SWITCH and job.incoming.switch == "door"), None
        )
        self._reach, self._was_in_reach = handle_reach(job), False
        self._frame = frame
        whole = _whole(self.slots)
        self.columns = {} if job.practice.layout == "free" else _columns_of(self.items, whole)
        self._pairs = {
            id(slot): pair
            for pair in pairwise(whole)
            if pair[1].row == pair[0].row + 1
            and set.intersection(*({self.columns[k] for k in s.rail if k in self.columns} for s in pair))
            for slot in pair
        }
        self._known: dict[Any, tuple[list[float], list[float]]] = {}
        self._beside: dict[tuple[int, int], Member] = {}
        self._keys = [keys.get(item.id, "") for item in items]
        (left, _), (right, _) = ducts.sides
        self._sides = (left / 2, plate_size(job)[0] - right / 2)
        if frame is not None:
            self._take_frame(frame)
            if not all(self.fits(slot) for slot in self.slots):  # a hand has left them otherwise than straight
                self.columns, self._pairs = {}, {}
        self.low_most = max(self._height, self.height)

    def _take_frame(self, frame: PlateLayout) -> None:
        """Put what does not move where it stands, and take the ducts as they are."""
        import numpy as np

        self._levels = np.array([duct.level for duct in frame.levels])
        if frame.uprights:
            self._sides = (frame.uprights[0].level, frame.uprights[-1].level)
        free = {k for slot in self.slots for k in (*slot.rail, *slot.fixed)}
        for k, item in enumerate(self.items):
            if k not in free:
                box = frame.boxes[item.id]
                self._x[k], self._y[k], self._row[k] = box.x, box.centre[1], frame.row_of[item.id]

    @property
    def height(self) -> float:
        """What the rows take with their ducts, in mm."""
        return rows_height(self.rows(), self._ducts)

    def rows(self) -> list[Row]:
        """Return the rows as they stand."""
        return [
            Row(
                rail=tuple(self.items[k] for k in slot.rail),
                fixed=tuple(self.items[k] for k in slot.fixed),
                fixed_left=slot.fixed_left,
                to_right=slot.to_right,
            )
            for slot in self.slots
        ]

    def width_of(self, members: Sequence[int]) -> float:
        """Return what parts take beside each other, in mm."""
        spans, gaps, wide, before = self._spans, self._gaps, 0.0, -1
        for k in members:
            wide += spans[k] + (gaps[before][k] if before >= 0 else 0.0)
            before = k
        return wide

    def fits(self, slot: Slot) -> bool:
        """Return whether a slot keeps the rules: wide and high enough, its bands, extra-low voltage and starters each together."""
        between = PART_GAP_MM if slot.rail and slot.fixed else 0.0
        free = slot.most + 1e-6 - self.width_of(slot.rail) - self.width_of(slot.fixed) - between
        if free < 0:
            return False
        if slot.y is not None:
            for k in slot.rail:
                if self._ups[k] > slot.up + 1e-6 or self._downs[k] > slot.down + 1e-6:
                    return False
        for k in (*slot.rail, *slot.fixed):
            if self.items[k].band not in slot.bands or (slot.only and self.items[k].id not in slot.only):
                return False
        if Band.LOW in slot.bands and self.changes_of_voltage(slot) > 1:
            return False
        if not self._pairs:
            return True
        are_columns = [k in self.columns for k in slot.rail]
        return sum(b and not a for a, b in pairwise((False, *are_columns))) <= 1 and self._aside(slot) <= free

    def with_pairs(self, slots: Sequence[Slot]) -> list[Slot]:
        """Return slots, and those that their columns are straight with."""
        return list({id(s): s for slot in slots for s in self.pair_of(slot)}.values())

    def _aside(self, slot: Slot) -> float:
        """Return how much wider the rail of a slot is for columns that stand straight, in mm."""
        if id(slot) not in self._pairs or not slot.rail:
            return 0.0
        return self._rail_end(slot) - self._begin_of(slot) - self.width_of(slot.rail)

    def _straight(self, slot: Slot) -> list[float]:
        """Return the left edges on the rail of a slot that is one of a pair."""
        pair = self._pairs[id(slot)]
        begins = (self._begin_of(pair[0]), self._begin_of(pair[1]))
        key = (tuple(pair[0].rail), tuple(pair[1].rail), begins)
        if key not in self._known:
            above, below = ([self._member(k, before) for before, k in pairwise((-1, *s.rail))] for s in pair)
            if len(self._known) >= _MOST_KNOWN:
                self._known.clear()
            self._known[key] = straight_places(above, below, begins)
        return self._known[key][0 if slot is pair[0] else 1]

    def _straight_to_right(self, slot: Slot) -> list[float]:
        """Return the same with both rows of the pair as far right as the fuller one lets them."""
        free = min(one.span[1] - self._rail_end(one) - self._fixed_on_right(one) for one in self._pairs[id(slot)])
        return [x + max(0.0, free) for x in self._straight(slot)]

    def _rail_end(self, slot: Slot) -> float:
        """Return where what stands on the rail of a slot of a pair ends, as far left as it may stand, in mm."""
        if not slot.rail:
            return self._begin_of(slot)
        last = slot.rail[-1]
        return self._straight(slot)[-1] - self._lefts[last] + self._spans[last]

    def _fixed_on_right(self, slot: Slot) -> float:
        """Return what is taken beyond the rail of a slot by what is screwed to the plate there, in mm."""
        return self.width_of(slot.fixed) + PART_GAP_MM if slot.fixed and not slot.fixed_left else 0.0

    def pair_of(self, slot: Slot) -> tuple[Slot, ...]:
        """Return a slot, and the one that its columns are straight with."""
        return self._pairs.get(id(slot), (slot,))

    def _member(self, k: int, before: int) -> Member:
        if (k, before) not in self._beside:
            gap = self._gaps[before][k] if before >= 0 else 0.0
            self._beside[k, before] = Member(
                self.columns.get(k), self._lefts[k], self._spans[k], gap, stays=before >= 0 and not gap
            )
        return self._beside[k, before]

    def _begin_of(self, slot: Slot) -> float:
        """Return where the rail of a slot begins, in mm."""
        is_taken = slot.fixed and slot.fixed_left
        return slot.span[0] + (self.width_of(slot.fixed) + PART_GAP_MM if is_taken else 0.0)

    def changes_of_voltage(self, slot: Slot) -> int:
        """Return how often extra-low voltage and other parts alternate on the rail of a slot."""
        kinds = [self._is_low[k] for k in slot.rail]
        return sum(a is not b for a, b in zip(kinds, kinds[1:], strict=False))

    def place(self, slots: Sequence[Slot]) -> None:
        """Work out where the parts of some slots stand."""
        members: list[int] = []
        lefts: list[float] = []
        rows: list[int] = []
        runs: list[int] = []
        for slot in slots:
            start, end = slot.span
            if slot.fixed:
                wide = self.width_of(slot.fixed)
                at = start if slot.fixed_left or not slot.rail else max(start, end - wide)
                members.extend(slot.fixed)
                lefts.extend(self._packed(slot.fixed, at))
                runs.extend([-1] * len(slot.fixed))
                taken = wide + PART_GAP_MM
                start, end = (start + taken, end) if slot.fixed_left else (start, end - taken)
            at = max(start, end - self.width_of(slot.rail)) if slot.to_right else start
            members.extend(slot.rail)
            if id(slot) in self._pairs:
                lefts.extend(self._straight_to_right(slot) if slot.to_right else self._straight(slot))
            else:
                lefts.extend(self._packed(slot.rail, at))
            runs.extend(self._runs(slot.rail))
            rows.extend([slot.row] * (len(members) - len(rows)))
            both = (*slot.rail, *slot.fixed)
            slot.tall = (
                max((self._ups[k] for k in both), default=0.0),
                max((self._downs[k] for k in both), default=0.0),
            )
        if members:
            self._x[members], self._row[members], self._run[members] = lefts, rows, runs
            counts: dict[int, int] = {}
            for number in runs:
                counts[number] = counts.get(number, 0) + 1
            self._many[members] = [number >= 0 and counts[number] > 1 for number in runs]

    def _packed(self, members: Sequence[int], x: float) -> list[float]:
        """Return the left edges of parts that stand as close as they may from x on."""
        spans, own, gaps, found, before = self._spans, self._lefts, self._gaps, [], -1
        for k in members:
            if before >= 0:
                x += gaps[before][k]
            found.append(x + own[k])
            x += spans[k]
            before = k
        return found

    def _runs(self, members: Sequence[int]) -> list[int]:
        """Return for each part on a rail the first of the run of neighbours that are joined with it, -1 for none."""
        keys, found, before, number = self._keys, [], -1, -1
        for k in members:
            if before < 0 or keys[k] != keys[before]:
                number = k
            found.append(number if keys[k] else -1)
            before = k
        return found

    def mark(self) -> Mark:
        """Return where everything stands, to be taken back to."""
        return (
            self._x.copy(), self._row.copy(), self._run.copy(), self._many.copy(), [slot.tall for slot in self.slots],
        )  # fmt: skip

    def take_back(self, mark: Mark) -> None:
        """Put everything where it stood; what the slots hold is left alone."""
        self._x, self._row, self._run, self._many, heights = mark
        for slot, tall in zip(self.slots, heights, strict=True):
            slot.tall = tall

    def cost(self) -> float:
        """Return mm times mm2 of the wires as the parts stand; infinite where the rows no longer fit the plate, or the handle of the main
        switch gets out of reach.
        """
        if self._frame is None:
            ups, downs = [slot.tall[0] for slot in self.slots], [slot.tall[1] for slot in self.slots]
            total = sum(ups) + sum(downs) + sum(self._ducts.at(k)[0] for k in range(len(ups) + 1))
            if total > self.low_most + 1e-6:
                return float("inf")
            self._level(ups, downs, total)
            if self._leaves_reach():
                return float("inf")
        else:
            for slot in self.slots:
                if slot.y is not None:
                    for k in slot.rail:
                        self._y[k] = slot.y
        return self._cost.of(self._x, self._y, self._row, self._run, self._many, self._levels, self._sides)

    def _leaves_reach(self) -> bool:
        """Return whether the handle of the main switch was in reach above the floor before and is not now."""
        if self._handle is None:
            return False
        is_in_reach = self._reach[0] <= self._y[self._handle] <= self._reach[1]
        leaves, self._was_in_reach = self._was_in_reach and not is_in_reach, self._was_in_reach or is_in_reach
        return leaves

    def _level(self, ups: Sequence[float], downs: Sequence[float], total: float) -> None:
        """Work out the centre lines of rows and ducts, as `stack.lines_in_reach` does."""
        import numpy as np

        y = self._height if self._from_top else total
        lines, levels = [], []
        for place, (up, down) in enumerate(zip(ups, downs, strict=True)):
            size = self._ducts.at(place)[0]
            levels.append(y - size / 2)
            lines.append(y - size - up)
            y -= size + up + down
        levels.append(y - self._ducts.at(len(ups))[0] / 2)
        shift = 0.0
        if self._handle is not None:
            at = lines[self._row[self._handle]]
            shift = shift_into(self._reach, at, self._height - total, from_top=self._from_top)
        self._levels = np.array(levels) + shift
        self._y = np.array(lines)[self._row] + shift if lines else self._y

    def places(self, layout: PlateLayout) -> dict[str, Place]:
        """Return the place of every part as the ledger has it, on the rails of a plate that stays as it is."""
        found: dict[str, Place] = {}
        for k, item in enumerate(self.items):
            code = next((slot.rail_code for slot in self.slots if k in slot.rail), layout.rail_of.get(item.id))
            box = layout.boxes[item.id]
            x = float(self._x[k])
            found[item.id] = OnRail(code, x) if code else OnPlate(box.x, box.y)
        return found


def _whole(slots: Sequence[Slot]) -> list[Slot]:
    """Return the slots that have a rail for themselves: nothing held parts it."""
    shared = Counter(slot.rail_code for slot in slots if slot.rail_code)
    return [slot for slot in slots if shared[slot.rail_code] <= 1]


def _columns_of(items: Sequence[PlateItem], slots: Iterable[Slot]) -> dict[int, tuple[int, ...]]:
    """Return for each part of a starter all that stands in its column, in their order; none of one whose protection, or contactors, are
    parted among rows.
    """
    columns: dict[str, list[int]] = {}
    homes: dict[str, set[tuple[bool, int]]] = {}
    for slot in slots:
        for k in (*slot.rail, *slot.fixed):
            item = items[k]
            if item.band is Band.STARTER and item.load:
                columns.setdefault(item.load, []).append(k)
                homes.setdefault(item.load, set()).add((item.is_protection, slot.row))
    whole = [load for load, rows in homes.items() if len({is_above for is_above, _ in rows}) == len(rows)]
    return {k: tuple(columns[load]) for load in whole for k in columns[load]}


def bands_for(job: Job, present: Iterable[Band], row: int, rows: int) -> frozenset[Band]:
    """Return the bands that a row takes, counted from the top: those that it has, and what goes with them."""
    bands = frozenset(present)
    if not bands & MIXED:
        return bands
    to_entry = rows - 1 - row if job.supply.entry == "bottom" else row
    return bands | (MIXED if to_entry <= ENTRY_ROWS else MIXED - {Band.ENTRY})


def slots_of(job: Job, rows: Sequence[Row], items: Sequence[PlateItem], ducts: DuctSizes, share: float) -> list[Slot]:
    """Return a slot for each row, filled as the row is; a slot takes the bands that it has, and what goes with them."""
    index = {item.id: k for k, item in enumerate(items)}
    span = inner_span(job, ducts)
    found = []
    for number, row in enumerate(rows):
        found.append(
            Slot(
                row=number,
                span=span,
                most=max(share * (span[1] - span[0]), row.width),
                bands=bands_for(job, (item.band for item in row.items), number, len(rows)),
                rail=[index[item.id] for item in row.rail],
                fixed=[index[item.id] for item in row.fixed],
                to_right=row.to_right,
                fixed_left=row.fixed_left,
                only=EARTHS if ducts.at(number)[0] == 0 or ducts.at(number + 1)[0] == 0 else frozenset(),
            )  # fmt: skip
        )
    return found
