"""Owns the search for the order of parts on the plate that keeps the rules of the trade and needs the least wire.

Must not know how wires are counted (`arrange_cost`) nor where parts stand (`arrangement`). The same seed gives the same plate.
Source of the rules: common practice, no source.
"""

import random
from collections.abc import Callable, Iterator
from math import exp

from riktig.plan.arrange.moves import Column, Moves, Undo
from riktig.plan.arrange.slots import Arrangement, Mark, Slot

SEED = 1
LEAST_TRIES, TRIES, MOST_TRIES = 10_000, 450, 100_000
"""Changes that are tried in one search: at least, for each part, and at most."""
CHAINS = 5
"""Searches from the beginning."""
_COOLING = 1e-4
Progress = Callable[[float, float], bool]
"""Is told the share that is done and the best cost so far, and says whether to go on."""


class Cancelled(Exception):  # noqa: N818 a person's wish, no error
    """The person does not want to wait for the arrangement."""


def _part_of(progress: Progress, start: float, share: float, best: float) -> Progress:
    """Return a progress that tells of one part of the work."""
    return lambda done, cost: progress(start + share * done, min(cost, best))


class Search:
    """Simulated annealing over an arrangement, then every single move and swap until none helps."""

    def __init__(self, arrangement: Arrangement, *, seed: int = SEED, effort: float = 1.0) -> None:
        self._made = arrangement
        self._chance = random.Random(seed)
        self._effort = effort
        self._moves = Moves(arrangement)
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
        if self._moves.count < 2:
            return cost
        steps = int(min(max(TRIES * self._moves.count, LEAST_TRIES), MOST_TRIES) * self._effort)
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
        self._moves.put_back(changed)
        if self._mark is not None:
            self._made.take_back(self._mark)
            self._mark = None

    def _copy(self) -> Undo:
        return self._moves.remember(*self._made.slots)

    def _restore(self, kept: Undo) -> None:
        self._moves.put_back([(slot, list(rail), list(fixed), a, b) for slot, rail, fixed, a, b in kept])
        self._made.place(self._made.slots)

    def _change(self) -> Undo | None:
        """Make one random change, and return what it was before."""
        chance = self._chance
        if len(self._moves.columns) > 1 and chance.random() * self._moves.count > len(self._moves.single):
            one, two = chance.sample(self._moves.columns, 2)
            is_swap, is_after = chance.random() < 0.5, chance.random() < 0.5
            return (
                self._moves.swap_columns(one, two) if is_swap else self._moves.move_column(one, two, is_after=is_after)
            )
        if not self._moves.single:
            return None
        sort = chance.random()
        k = chance.choice(self._moves.single)
        slot = self._moves.at[k]
        if sort < 0.45:
            target = chance.choice(self._moves.targets(k))
            return self._moves.move(k, target, chance.randint(0, len(self._moves.members(target, k))))
        if sort < 0.75:
            other = chance.choice(self._moves.single)
            same_way = self._made.items[k].on_rail == self._made.items[other].on_rail
            return self._moves.swap(k, other) if other != k and same_way else None
        if sort < 0.93:
            return self._moves.move_run(k, chance)
        if sort < 0.95:
            return self._moves.swap_rows(slot, chance.choice(self._moves.targets(k)))
        if sort < 0.97 and self._moves.holds_columns(slot):
            return None
        if sort >= 0.97 and (sort < 0.985 or not slot.fixed):
            return self._moves.change_side(slot)
        before = self._moves.remember(slot)
        if sort < 0.97:
            slot.rail.reverse()
        else:
            slot.fixed_left = not slot.fixed_left
        return before

    # -- columns: all that stands in them goes together, what protects and what switches each into its row

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
            for done, k in enumerate(self._moves.single):
                if not progress(0.95 + 0.03 * done / len(self._moves.single), best):
                    raise Cancelled
                best = self._best_place(k, best)
            for done, column in enumerate(self._moves.columns):
                if not progress(0.98 + 0.02 * done / len(self._moves.columns), best):
                    raise Cancelled
                best = self._best_column(column, best)
            for slot in self._made.slots:
                best = self._best_sides(slot, best)
            if best > before - 1e-6:
                return best

    def _best_place(self, k: int, best: float) -> float:
        for target in self._moves.targets(k):
            places = len(self._moves.members(target, k)) + (target is not self._moves.at[k])
            for place in range(places):
                changed = self._moves.move(k, target, place)
                best = self._take_or_undo(changed, best)
        for other in self._moves.single:
            if other > k and self._made.items[k].on_rail == self._made.items[other].on_rail:
                best = self._take_or_undo(self._moves.swap(k, other), best)
        return best

    def _best_column(self, column: Column, best: float) -> float:
        for other in self._moves.columns:
            for is_after in (True, False) if other is not column else ():
                best = self._take_or_undo(self._moves.move_column(column, other, is_after=is_after), best)
            if other > column:
                best = self._take_or_undo(self._moves.swap_columns(column, other), best)
        return best

    def _best_sides(self, slot: Slot, best: float) -> float:
        best = self._take_or_undo(self._moves.change_side(slot), best)
        changed = self._moves.remember(slot)
        slot.fixed_left = not slot.fixed_left
        return self._take_or_undo(changed, best)

    def _take_or_undo(self, changed: Undo | None, best: float) -> float:
        if changed is None:
            return best
        new = self._try(changed)
        if new < best - 1e-6:
            return new
        self._undo(changed)
        return best
