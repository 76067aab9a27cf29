"""Owns the search for the order of parts on the plate that keeps the rules of the trade and needs the least wire.

Must not know how wires are counted (`arrange_cost`) nor where parts stand (`arrangement`). The same seed gives the same plate.
Source of the rules: common practice, no source.
"""

import random
from collections.abc import Callable, Iterator, Sequence
from itertools import takewhile
from math import exp

from riktig.plan.arrange.slots import Arrangement, Mark, Slot

SEED = 1
LEAST_TRIES, TRIES, MOST_TRIES = 10_000, 700, 100_000
"""Changes that are tried in one search: at least, for each part, and at most."""
CHAINS = 3
"""Searches from the beginning."""
_COOLING = 1e-4
Progress = Callable[[float, float], bool]
"""Is told the share that is done and the best cost so far, and says whether to go on."""


class Cancelled(Exception):  # noqa: N818 a person's wish, no error
    """The person does not want to wait for the arrangement."""


def _part_of(progress: Progress, start: float, share: float, best: float) -> Progress:
    """Return a progress that tells of one part of the work."""
    return lambda done, cost: progress(start + share * done, min(cost, best))


Column = tuple[int, ...]
"""All parts of one motor that stand in its column."""
Layer = tuple[str, bool]
"""Which row of a column parts stand in, and whether on a rail."""
Undo = list[tuple[Slot, list[int], list[int], bool, bool]]
"""Slots as they were: on the rail, screwed on, and the two sides."""


def _in_place_of(k: int, ours: Sequence[int], theirs: Sequence[int]) -> Sequence[int]:
    """Return what stands in the place of a part once two groups have changed places: all of the other group for the first of one."""
    for group, instead in ((ours, theirs), (theirs, ours)):
        if k in group:
            return instead if k == group[0] else ()
    return (k,)


class Search:
    """Simulated annealing over an arrangement, then every single move and swap until none helps."""

    def __init__(self, arrangement: Arrangement, *, seed: int = SEED, effort: float = 1.0) -> None:
        self._made = arrangement
        self._chance = random.Random(seed)
        self._effort = effort
        self._at = {k: slot for slot in arrangement.slots for k in (*slot.rail, *slot.fixed)}
        self._columns = list(
            dict.fromkeys(arrangement.columns[k] for k in sorted(self._at) if k in arrangement.columns)
        )
        self._single = sorted(self._at.keys() - arrangement.columns.keys())
        self._count = len(self._single) + len(self._columns)
        self._mark: Mark | None = None
        self._met: list[Undo] = []

    def run(self, progress: Progress = lambda share, cost: True) -> float:
        """Leave the best arrangement found in place and return its cost: several searches from the beginning, each with a chance of its
        own, then a cooler one from the best of them, and last whatever single change still helps.

        Raises:
            Cancelled: the progress said no; the arrangement is then whatever it was last.
        """
        made = self._made
        made.place(made.slots)
        cost, start = made.cost(), self._copy()
        if self._count < 2:
            return cost
        steps = int(min(max(TRIES * self._count, LEAST_TRIES), MOST_TRIES) * self._effort)
        heat = self._first_heat(cost)
        best, kept = cost, start
        for chain in range(CHAINS):
            self._restore(start)
            found = self._anneal(cost, heat, steps, _part_of(progress, 0.8 * chain / CHAINS, 0.8 / CHAINS, best))
            self._met.append(self._copy())
            if found < best - 1e-6:
                best, kept = found, self._met[-1]
        self._restore(kept)
        best = self._anneal(best, heat / 10, 2 * steps, _part_of(progress, 0.8, 0.15, best))
        best = self._descend(best, progress)
        self._met.append(self._copy())
        return best

    def candidates(self) -> Iterator[None]:
        """Put the best of each search in place, one after another, the best of all first."""
        for kept in reversed(self._met):
            self._restore(kept)
            yield

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
        slots = self._made.with_pairs([entry[0] for entry in changed])
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
        if len(self._columns) > 1 and chance.random() * self._count > len(self._single):
            one, two = chance.sample(self._columns, 2)
            is_swap, is_after = chance.random() < 0.5, chance.random() < 0.5
            return self._swap_columns(one, two) if is_swap else self._move_column(one, two, is_after=is_after)
        if not self._single:
            return None
        sort = chance.random()
        k = chance.choice(self._single)
        slot = self._at[k]
        if sort < 0.45:
            target = chance.choice(self._targets(k))
            return self._move(k, target, chance.randint(0, len(self._members(target, k))))
        if sort < 0.75:
            other = chance.choice(self._single)
            same_way = self._made.items[k].on_rail == self._made.items[other].on_rail
            return self._swap(k, other) if other != k and same_way else None
        if sort < 0.93:
            return self._move_run(k)
        if sort < 0.95:
            return self._swap_rows(slot, chance.choice(self._targets(k)))
        before, is_kept = self._remember(slot), self._holds_columns(slot)
        if is_kept and (sort < 0.97 or not slot.fixed):
            return None
        if sort < 0.97:
            slot.rail.reverse()
        elif not is_kept and (sort < 0.985 or not slot.fixed):
            slot.to_right = not slot.to_right
        else:
            slot.fixed_left = not slot.fixed_left
        return before

    def _swap_rows(self, a: Slot, b: Slot) -> Undo | None:
        """Exchange all that stands in two slots; whether it may stand there is asked afterwards."""
        if a is b or self._holds_columns(a) or self._holds_columns(b):
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

    # -- columns: all that stands in them goes together, what protects and what switches each into its row

    def _holds_columns(self, slot: Slot) -> bool:
        return any(k in self._made.columns for k in (*slot.rail, *slot.fixed))

    def _parted(self, column: Column) -> dict[Layer, list[int]]:
        """Return the parts of a column by its rows: those of what protects and what switches, or the one of both."""
        sorts = {k: "protects" if self._made.items[k].is_protection else "switches" for k in column}
        is_one_row = len(set(sorts.values())) > 1 and len({id(self._at[k]) for k in column}) == 1
        found: dict[Layer, list[int]] = {}
        for k in column:
            found.setdefault(("both" if is_one_row else sorts[k], self._made.items[k].on_rail), []).append(k)
        return found

    def _move_column(self, column: Column, beside: Column, *, is_after: bool) -> Undo | None:
        """Move a column beside another one; None where that has no row for some of its parts."""
        mine, theirs = self._parted(column), self._parted(beside)
        if column is beside or not mine.keys() <= theirs.keys():
            return None
        homes = {layer: self._at[theirs[layer][0]] for layer in mine}
        before = self._remember(*(self._at[k] for k in column), *homes.values())
        for k in column:
            self._members(self._at[k], k).remove(k)
        for layer, members in mine.items():
            row = self._members(homes[layer], members[0])
            place = row.index(theirs[layer][-1]) + 1 if is_after else row.index(theirs[layer][0])
            row[place:place] = members
            self._at.update(dict.fromkeys(members, homes[layer]))
        return before

    def _swap_columns(self, one: Column, other: Column) -> Undo | None:
        """Exchange two columns; None where they do not have parts in the same rows."""
        first, second = self._parted(one), self._parted(other)
        if first.keys() != second.keys():
            return None
        before = self._remember(*(self._at[k] for k in (*one, *other)))
        for layer, ours in first.items():
            theirs = second[layer]
            home, there = self._at[ours[0]], self._at[theirs[0]]
            for slot in {id(home): home, id(there): there}.values():
                row = self._members(slot, ours[0])
                row[:] = [k for old in row for k in _in_place_of(old, ours, theirs)]
            self._at.update({**dict.fromkeys(ours, there), **dict.fromkeys(theirs, home)})
        return before

    def _move_run(self, k: int) -> Undo:
        """Move two to five neighbours together to another place, turned round or not."""
        source, chance = self._at[k], self._chance
        row = self._members(source, k)
        start = row.index(k)
        run = row[start : start + chance.randint(2, 5)]
        run = list(takewhile(lambda member: member not in self._made.columns, run))
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
        return rises[2 * len(rises) // 3] if rises else 1.0

    def _descend(self, best: float, progress: Progress) -> float:
        """Try every part at every place and every swap, and take what helps, until nothing does."""
        while True:
            before = best
            for done, k in enumerate(self._single):
                if not progress(0.95 + 0.03 * done / len(self._single), best):
                    raise Cancelled
                best = self._best_place(k, best)
            for done, column in enumerate(self._columns):
                if not progress(0.98 + 0.02 * done / len(self._columns), best):
                    raise Cancelled
                best = self._best_column(column, best)
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
        for other in self._single:
            if other > k and self._made.items[k].on_rail == self._made.items[other].on_rail:
                best = self._take_or_undo(self._swap(k, other), best)
        return best

    def _best_column(self, column: Column, best: float) -> float:
        for other in self._columns:
            for is_after in (True, False) if other is not column else ():
                best = self._take_or_undo(self._move_column(column, other, is_after=is_after), best)
            if other > column:
                best = self._take_or_undo(self._swap_columns(column, other), best)
        return best

    def _best_sides(self, slot: Slot, best: float) -> float:
        for side in ("fixed_left",) if self._holds_columns(slot) else ("to_right", "fixed_left"):
            changed = self._remember(slot)
            setattr(slot, side, not getattr(slot, side))
            best = self._take_or_undo(changed, best)
        return best

    def _take_or_undo(self, changed: Undo | None, best: float) -> float:
        if changed is None:
            return best
        new = self._try(changed)
        if new < best - 1e-6:
            return new
        self._undo(changed)
        return best
