"""Owns arranging the plate on purpose: the search for the order of parts that keeps the rules of the trade and needs the least wire.

Must not know how wires are counted (`arrange_cost`) nor how rows become rails and ducts (`stack`). The same seed gives the same plate.
Source of the rules: common practice, no source.
"""

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from math import exp
from typing import Any

from riktig.job.model import Job
from riktig.plan.arrange_cost import Cost, Pull
from riktig.plan.plate import PlateLayout, plate_size
from riktig.plan.plate_items import PART_GAP_MM, Band, PlateItem
from riktig.plan.stack import DuctSizes, Row, gap_between, inner_span, rows_height

SEED = 1
TRIES, MOST_TRIES = 250, 40_000
"""Changes that are tried for each part in one search, and at most."""
CHAINS = 8
"""Searches from the beginning."""
_MIXED = frozenset({Band.SUPPLY, Band.STARTER, Band.ENTRY})
_COOLING = 1e-3
Progress = Callable[[float, float], bool]
"""Is told the share that is done and the best cost so far, and says whether to go on."""


Mark = tuple[Any, Any, Any, Any, list[tuple[float, float]]]
"""Left edges, rows, runs and whether these have more than one, by item; what the slots ask for above and below."""


class Cancelled(Exception):  # noqa: N818 a person's wish, no error
    """The person does not want to wait for the arrangement."""


@dataclass(slots=True)
class Slot:
    """A stretch of a row while parts are put into it: on its rail, and screwed to the plate beside it.

    `row` counts from the top; `y` is its centre line where that stands, `up` and `down` the room it then has to the ducts; `tall` is
    what its parts ask for above and below.
    """

    row: int
    span: tuple[float, float]
    most: float
    bands: frozenset[Band]
    rail: list[int] = field(default_factory=list)
    fixed: list[int] = field(default_factory=list)
    to_right: bool = False
    fixed_left: bool = False
    y: float | None = None
    up: float = 0.0
    down: float = 0.0
    tall: tuple[float, float] = (0.0, 0.0)


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
        self._ducts, self._job = ducts, job
        self._from_top = job.supply.entry == "bottom"
        self._height = plate_size(job)[1]
        self._cost = Cost(items, pulls, entry_below=self._from_top, loom_left=job.enclosure.hinge == "left")
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
        self._frame = frame
        self._keys = [keys.get(item.id, "") for item in items]
        side = ducts.upright[0] / 2
        self._sides = (side, plate_size(job)[0] - side)
        if frame is not None:
            self._take_frame(frame)
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
        """Return whether a slot keeps the rules: wide and high enough, its bands, and extra-low voltage together at one end."""
        between = PART_GAP_MM if slot.rail and slot.fixed else 0.0
        if self.width_of(slot.rail) + self.width_of(slot.fixed) + between > slot.most + 1e-6:
            return False
        if slot.y is not None:
            for k in slot.rail:
                if self._ups[k] > slot.up + 1e-6 or self._downs[k] > slot.down + 1e-6:
                    return False
        for k in (*slot.rail, *slot.fixed):
            if self.items[k].band not in slot.bands:
                return False
        return Band.LOW not in slot.bands or self.changes_of_voltage(slot) <= 1

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
        """Return mm times mm2 of the wires as the parts stand; infinite where the rows no longer fit the plate."""
        if self._frame is None:
            ups, downs = [slot.tall[0] for slot in self.slots], [slot.tall[1] for slot in self.slots]
            total = sum(ups) + sum(downs) + sum(self._ducts.at(k)[0] for k in range(len(ups) + 1))
            if total > self.low_most + 1e-6:
                return float("inf")
            self._level(ups, downs, total)
        else:
            for slot in self.slots:
                if slot.y is not None:
                    for k in slot.rail:
                        self._y[k] = slot.y
        return self._cost.of(self._x, self._y, self._row, self._run, self._many, self._levels, self._sides)

    def _level(self, ups: Sequence[float], downs: Sequence[float], total: float) -> None:
        """Work out the centre lines of rows and ducts, as `stack.centre_lines` does."""
        import numpy as np

        y = self._height if self._from_top else total
        lines, levels = [], []
        for place, (up, down) in enumerate(zip(ups, downs, strict=True)):
            size = self._ducts.at(place)[0]
            levels.append(y - size / 2)
            lines.append(y - size - up)
            y -= size + up + down
        levels.append(y - self._ducts.at(len(ups))[0] / 2)
        self._levels = np.array(levels)
        self._y = np.array(lines)[self._row] if lines else self._y

    def places(self, layout: PlateLayout) -> dict[str, str]:
        """Return the place of every part as the ledger has it, on the rails of a plate that stays as it is."""
        found = {}
        for k, item in enumerate(self.items):
            code = layout.rail_of.get(item.id)
            slot_rail = next((r.code for r in layout.rails for s in self.slots if k in s.rail and s.y == r.y), code)
            box = layout.boxes[item.id]
            x = float(self._x[k])
            found[item.id] = f"{slot_rail} {x:g}" if slot_rail else f"plate {box.x:g} {box.y:g}"
        return found


def slots_of(job: Job, rows: Sequence[Row], items: Sequence[PlateItem], ducts: DuctSizes, share: float) -> list[Slot]:
    """Return a slot for each row, filled as the row is; a slot takes the bands that it has, and what goes with them."""
    index = {item.id: k for k, item in enumerate(items)}
    span = inner_span(job, ducts)
    found = []
    for number, row in enumerate(rows):
        bands = {item.band for item in row.items}
        if bands & _MIXED:
            bands |= _MIXED
        found.append(
            Slot(
                row=number,
                span=span,
                most=max(share * (span[1] - span[0]), row.width),
                bands=frozenset(bands),
                rail=[index[item.id] for item in row.rail],
                fixed=[index[item.id] for item in row.fixed],
                to_right=row.to_right,
                fixed_left=row.fixed_left,
            )  # fmt: skip
        )
    return found


def _part_of(progress: Progress, start: float, share: float, best: float) -> Progress:
    """Return a progress that tells of one part of the work."""
    return lambda done, cost: progress(start + share * done, min(cost, best))


Undo = list[tuple[Slot, list[int], list[int], bool, bool]]
"""Slots as they were: on the rail, screwed on, and the two sides."""


class Search:
    """Simulated annealing over an arrangement, then every single move and swap until none helps."""

    def __init__(self, arrangement: Arrangement, *, seed: int = SEED, effort: float = 1.0) -> None:
        self._made = arrangement
        self._chance = random.Random(seed)
        self._effort = effort
        self._at = {k: slot for slot in arrangement.slots for k in (*slot.rail, *slot.fixed)}
        self._free = sorted(self._at)
        self._mark: Mark | None = None

    def run(self, progress: Progress = lambda share, cost: True) -> float:
        """Leave the best arrangement found in place and return its cost: several searches from the beginning, each with a chance of its
        own, then a cooler one from the best of them, and last whatever single change still helps.

        Raises:
            Cancelled: the progress said no; the arrangement is then whatever it was last.
        """
        made = self._made
        made.place(made.slots)
        cost, start = made.cost(), self._copy()
        if len(self._free) < 2:
            return cost
        steps = int(min(TRIES * len(self._free), MOST_TRIES) * self._effort)
        heat = self._first_heat(cost)
        best, kept = cost, start
        for chain in range(CHAINS):
            self._restore(start)
            found = self._anneal(cost, heat, steps, _part_of(progress, 0.8 * chain / CHAINS, 0.8 / CHAINS, best))
            if found < best - 1e-6:
                best, kept = found, self._copy()
        self._restore(kept)
        best = self._anneal(best, heat / 10, 2 * steps, _part_of(progress, 0.8, 0.15, best))
        return self._descend(best, progress)

    def _anneal(self, cost: float, heat: float, steps: int, progress: Progress) -> float:
        """Leave the best arrangement met while cooling down in place and return its cost."""
        best, kept = cost, self._copy()
        factor = _COOLING ** (1 / max(1, steps))
        for step in range(steps):
            if step % 200 == 0 and not progress(step / steps, best):
                raise Cancelled
            changed = self._change()
            if changed is not None:
                new = self._try(changed)
                if new <= cost or self._chance.random() < exp((cost - new) / heat):
                    cost = new
                    if cost < best - 1e-6:
                        best, kept = cost, self._copy()
                else:
                    self._undo(changed)
            heat *= factor
        self._restore(kept)
        return best

    # -- single changes

    def _try(self, changed: Undo) -> float:
        slots = [entry[0] for entry in changed]
        self._mark = None
        if not all(self._made.fits(slot) for slot in slots):
            return float("inf")
        self._mark = self._made.mark()
        self._made.place(slots)
        return self._made.cost()

    def _undo(self, changed: Undo) -> None:
        self._put_back(changed)
        if self._mark is not None:
            self._made.take_back(self._mark)
            self._mark = None

    def _put_back(self, changed: Undo) -> None:
        for slot, rail, fixed, to_right, fixed_left in changed:
            slot.rail, slot.fixed, slot.to_right, slot.fixed_left = rail, fixed, to_right, fixed_left
            for k in (*rail, *fixed):
                self._at[k] = slot

    def _remember(self, *slots: Slot) -> Undo:
        unique = list({id(slot): slot for slot in slots}.values())
        return [(s, list(s.rail), list(s.fixed), s.to_right, s.fixed_left) for s in unique]

    def _copy(self) -> Undo:
        return self._remember(*self._made.slots)

    def _restore(self, kept: Undo) -> None:
        self._put_back([(slot, list(rail), list(fixed), a, b) for slot, rail, fixed, a, b in kept])
        self._made.place(self._made.slots)

    def _members(self, slot: Slot, k: int) -> list[int]:
        return slot.rail if self._made.items[k].on_rail else slot.fixed

    def _change(self) -> Undo | None:
        """Make one random change, and return what it was before."""
        chance = self._chance
        sort = chance.random()
        k = chance.choice(self._free)
        slot = self._at[k]
        if sort < 0.45:
            target = chance.choice(self._targets(k))
            return self._move(k, target, chance.randint(0, len(self._members(target, k))))
        if sort < 0.75:
            other = chance.choice(self._free)
            same_way = self._made.items[k].on_rail == self._made.items[other].on_rail
            return self._swap(k, other) if other != k and same_way else None
        if sort < 0.93:
            return self._move_run(k)
        if sort < 0.95:
            return self._swap_rows(slot, chance.choice(self._targets(k)))
        before = self._remember(slot)
        if sort < 0.97:
            slot.rail.reverse()
        elif sort < 0.985 or not slot.fixed:
            slot.to_right = not slot.to_right
        else:
            slot.fixed_left = not slot.fixed_left
        return before

    def _swap_rows(self, a: Slot, b: Slot) -> Undo | None:
        """Exchange all that stands in two slots; whether it may stand there is asked afterwards."""
        if a is b:
            return None
        before = self._remember(a, b)
        a.rail, b.rail, a.fixed, b.fixed = b.rail, a.rail, b.fixed, a.fixed
        for slot in (a, b):
            for member in (*slot.rail, *slot.fixed):
                self._at[member] = slot
        return before

    def _targets(self, k: int) -> list[Slot]:
        band = self._made.items[k].band
        return [slot for slot in self._made.slots if band in slot.bands] or [self._at[k]]

    def _move(self, k: int, target: Slot, place: int) -> Undo:
        """Move a part to a place among the members of a slot, counted without itself."""
        source = self._at[k]
        before = self._remember(source, target)
        self._members(source, k).remove(k)
        row = self._members(target, k)
        row.insert(place, k)
        self._at[k] = target
        return before

    def _swap(self, k: int, other: int) -> Undo:
        a, b = self._at[k], self._at[other]
        before = self._remember(a, b)
        one, two = self._members(a, k), self._members(b, other)
        i, j = one.index(k), two.index(other)
        one[i], two[j] = other, k
        self._at[k], self._at[other] = b, a
        return before

    def _move_run(self, k: int) -> Undo:
        """Move two to five neighbours together to another place, turned round or not."""
        source, chance = self._at[k], self._chance
        row = self._members(source, k)
        start = row.index(k)
        run = row[start : start + chance.randint(2, 5)]
        target = chance.choice(self._targets(k))
        before = self._remember(source, target)
        del row[start : start + len(run)]
        to = self._members(target, k)
        place = chance.randint(0, len(to))
        to[place:place] = run[::-1] if chance.random() < 0.5 else run
        for member in run:
            self._at[member] = target
        return before

    def _first_heat(self, cost: float) -> float:
        """Return a heat at which a usual change for the worse is taken about as often as not."""
        rises = []
        for _ in range(100):
            changed = self._change()
            if changed is not None:
                new = self._try(changed)
                if cost < new < float("inf"):
                    rises.append(new - cost)
                self._undo(changed)
        rises.sort()
        return rises[len(rises) // 3] if rises else 1.0

    def _descend(self, best: float, progress: Progress) -> float:
        """Try every part at every place and every swap, and take what helps, until nothing does."""
        while True:
            before = best
            for done, k in enumerate(self._free):
                if not progress(0.95 + 0.05 * done / len(self._free), best):
                    raise Cancelled
                best = self._best_place(k, best)
            for slot in self._made.slots:
                best = self._best_sides(slot, best)
            if best > before - 1e-6:
                return best

    def _best_place(self, k: int, best: float) -> float:
        for target in self._targets(k):
            places = len(self._members(target, k)) + (target is not self._at[k])
            for place in range(places):
                changed = self._move(k, target, place)
                best = self._take_or_undo(changed, best)
        for other in self._free:
            if other > k and self._made.items[k].on_rail == self._made.items[other].on_rail:
                best = self._take_or_undo(self._swap(k, other), best)
        return best

    def _best_sides(self, slot: Slot, best: float) -> float:
        for side in ("to_right", "fixed_left"):
            changed = self._remember(slot)
            setattr(slot, side, not getattr(slot, side))
            best = self._take_or_undo(changed, best)
        return best

    def _take_or_undo(self, changed: Undo, best: float) -> float:
        new = self._try(changed)
        if new < best - 1e-6:
            return new
        self._undo(changed)
        return best
