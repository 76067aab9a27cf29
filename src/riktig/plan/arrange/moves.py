"""Owns the single changes of an arrangement: parts, rows and columns that change places, and how each is taken back.

Must not choose which change is made, nor know what it costs. A change returns what it was before, None where it cannot be made.
"""

import random
from collections.abc import Sequence
from itertools import takewhile

from riktig.plan.arrange.slots import Arrangement, Slot

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


class Moves:
    """Changes of one arrangement: `at` is the slot of each part, `columns` are what goes together, `single` all else."""

    def __init__(self, arrangement: Arrangement) -> None:
        self._made = arrangement
        self.at = {k: slot for slot in arrangement.slots for k in (*slot.rail, *slot.fixed)}
        self.columns = list(dict.fromkeys(arrangement.columns[k] for k in sorted(self.at) if k in arrangement.columns))
        self.single = sorted(self.at.keys() - arrangement.columns.keys())

    @property
    def count(self) -> int:
        """How many things can change places."""
        return len(self.single) + len(self.columns)

    def remember(self, *slots: Slot) -> Undo:
        """Return slots as they are now."""
        unique = list({id(slot): slot for slot in slots}.values())
        return [(s, list(s.rail), list(s.fixed), s.to_right, s.fixed_left) for s in unique]

    def put_back(self, changed: Undo) -> None:
        """Fill slots as they were."""
        for slot, rail, fixed, to_right, fixed_left in changed:
            slot.rail, slot.fixed, slot.to_right, slot.fixed_left = rail, fixed, to_right, fixed_left
            for k in (*rail, *fixed):
                self.at[k] = slot

    def members(self, slot: Slot, k: int) -> list[int]:
        """Return what stands in a slot as a part does: on its rail, or screwed to the plate."""
        return slot.rail if self._made.items[k].on_rail else slot.fixed

    def targets(self, k: int) -> list[Slot]:
        """Return the slots that a part may go into."""
        band = self._made.items[k].band
        return [slot for slot in self._made.slots if band in slot.bands] or [self.at[k]]

    def holds_columns(self, slot: Slot) -> bool:
        """Return whether columns stand in a slot."""
        return any(k in self._made.columns for k in (*slot.rail, *slot.fixed))

    def move(self, k: int, target: Slot, place: int) -> Undo:
        """Move a part to a place among the members of a slot, counted without itself."""
        source = self.at[k]
        before = self.remember(source, target)
        self.members(source, k).remove(k)
        row = self.members(target, k)
        row.insert(place, k)
        self.at[k] = target
        return before

    def swap(self, k: int, other: int) -> Undo:
        """Exchange two parts."""
        a, b = self.at[k], self.at[other]
        before = self.remember(a, b)
        one, two = self.members(a, k), self.members(b, other)
        i, j = one.index(k), two.index(other)
        one[i], two[j] = other, k
        self.at[k], self.at[other] = b, a
        return before

    def swap_rows(self, a: Slot, b: Slot) -> Undo | None:
        """Exchange all that stands in two slots; whether it may stand there is asked afterwards."""
        if a is b or self.holds_columns(a) or self.holds_columns(b):
            return None
        before = self.remember(a, b)
        a.rail, b.rail, a.fixed, b.fixed = b.rail, a.rail, b.fixed, a.fixed
        for slot in (a, b):
            for member in (*slot.rail, *slot.fixed):
                self.at[member] = slot
        return before

    def change_side(self, slot: Slot) -> Undo:
        """Let what stands on a rail stand at its other end, with the row that its columns are straight with."""
        both = self._made.pair_of(slot)
        before = self.remember(*both)
        for one in both:
            one.to_right = not one.to_right
        return before

    def move_run(self, k: int, chance: random.Random) -> Undo:
        """Move two to five neighbours together to another place, turned round or not."""
        source = self.at[k]
        row = self.members(source, k)
        start = row.index(k)
        run = row[start : start + chance.randint(2, 5)]
        run = list(takewhile(lambda member: member not in self._made.columns, run))
        target = chance.choice(self.targets(k))
        before = self.remember(source, target)
        del row[start : start + len(run)]
        to = self.members(target, k)
        place = chance.randint(0, len(to))
        to[place:place] = run[::-1] if chance.random() < 0.5 else run
        for member in run:
            self.at[member] = target
        return before

    def move_column(self, column: Column, beside: Column, *, is_after: bool) -> Undo | None:
        """Move a column beside another one; None where that has no row for some of its parts."""
        mine, theirs = self._parted(column), self._parted(beside)
        if column is beside or not mine.keys() <= theirs.keys():
            return None
        homes = {layer: self.at[theirs[layer][0]] for layer in mine}
        before = self.remember(*(self.at[k] for k in column), *homes.values())
        for k in column:
            self.members(self.at[k], k).remove(k)
        for layer, members in mine.items():
            row = self.members(homes[layer], members[0])
            place = row.index(theirs[layer][-1]) + 1 if is_after else row.index(theirs[layer][0])
            row[place:place] = members
            self.at.update(dict.fromkeys(members, homes[layer]))
        return before

    def swap_columns(self, one: Column, other: Column) -> Undo | None:
        """Exchange two columns; None where they do not have parts in the same rows."""
        first, second = self._parted(one), self._parted(other)
        if first.keys() != second.keys():
            return None
        before = self.remember(*(self.at[k] for k in (*one, *other)))
        for layer, ours in first.items():
            theirs = second[layer]
            home, there = self.at[ours[0]], self.at[theirs[0]]
            for slot in {id(home): home, id(there): there}.values():
                row = self.members(slot, ours[0])
                row[:] = [k for old in row for k in _in_place_of(old, ours, theirs)]
            self.at.update({**dict.fromkeys(ours, there), **dict.fromkeys(theirs, home)})
        return before

    def _parted(self, column: Column) -> dict[Layer, list[int]]:
        """Return the parts of a column by its rows: those of what protects and what switches, or the one of both."""
        sorts = {k: "protects" if self._made.items[k].is_protection else "switches" for k in column}
        is_one_row = len(set(sorts.values())) > 1 and len({id(self.at[k]) for k in column}) == 1
        found: dict[Layer, list[int]] = {}
        for k in column:
            found.setdefault(("both" if is_one_row else sorts[k], self._made.items[k].on_rail), []).append(k)
        return found
