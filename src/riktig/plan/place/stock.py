"""Owns cutting pieces out of bars of one length: as few bars as can be. Must not know what the pieces are."""

from collections.abc import Sequence
from math import ceil, inf
from typing import Any

_MOST_PATTERNS = 20_000
"""Ways to cut one bar, up to which all of them are looked through."""
_MOST_LENGTHS = 60
"""Different lengths, up to which fewer bars are looked for; among more, first fit leaves hardly anything over."""
_NODES, _STEPS = 2000, 200
"""Nodes and new patterns after which the search for fewer bars gives up; the best so far is then taken."""
_MOST_PIECES, _MOST_STEPS = 60, 5000
"""Of so many pieces all ways are tried to do with a bar less, up to so many steps, before SciPy is asked, which takes 0.2 s to load."""
_SLACK = 1e-9


def pack_bars(lengths: Sequence[float], stock: float, kerf: float) -> tuple[tuple[int, ...], ...]:
    """Return which pieces come out of which bar, by their place in `lengths`; as few bars as can be, the fullest first.

    k pieces of a bar cost k-1 cuts. A piece longer than a bar gets one of its own. First fit, longest first, is taken where it
    reaches the lower bound; of few pieces all ways are tried; else the bars are chosen by integer programming over the ways to cut one
    bar. That gives the fewest where all ways can be looked through, and hardly ever one more than that beyond.

    Args:
        lengths: mm of each piece.
        stock: mm of a bar.
        kerf: mm that a cut takes.

    Source:
        Martello and Toth, Knapsack Problems (1990), ch. 8: lower bound L2; Gilmore and Gomory, Operations Research 9 (1961): patterns
        and their prices; from memory.
    """
    sizes = [length + kerf for length in lengths]
    room = stock + kerf
    order = sorted(range(len(sizes)), key=lambda k: (-sizes[k], k))
    long = [k for k in order if sizes[k] > room + _SLACK]
    rest = [k for k in order if sizes[k] <= room + _SLACK]
    best = _first_fit(rest, sizes, room)
    least = _lower_bound([sizes[k] for k in rest], room)
    if len(best) > least:
        best = _fewer(rest, sizes, room, best)
    bars = [*([k] for k in long), *best]
    return tuple(tuple(bar) for bar in sorted(bars, key=lambda bar: (-sum(sizes[k] for k in bar), bar)))


def _first_fit(order: Sequence[int], sizes: Sequence[float], room: float) -> list[list[int]]:
    bars: list[list[int]] = []
    left: list[float] = []
    for k in order:
        bar = next((b for b, free in enumerate(left) if sizes[k] <= free + _SLACK), None)
        if bar is None:
            bars.append([])
            left.append(room)
            bar = len(bars) - 1
        bars[bar].append(k)
        left[bar] -= sizes[k]
    return bars


def _fewer(order: Sequence[int], sizes: Sequence[float], room: float, best: list[list[int]]) -> list[list[int]]:
    """Return the fewest bars: those there are where trying all ways shows that one less cannot do, else by integer programming."""
    if len(order) <= _MOST_PIECES:
        search = _Search(order, sizes, [room] * (len(best) - 1))
        if search.fill(0):
            return _fewer(order, sizes, room, search.bars)
        if search.is_whole:
            return best
    return _fill_by_patterns(order, sizes, room, len(best)) or best


class _Search:
    """Whether pieces, the longest first, fit into some bars: every way is tried, up to so many steps."""

    def __init__(self, order: Sequence[int], sizes: Sequence[float], free: list[float]) -> None:
        self._order, self._sizes, self._free = order, sizes, free
        self.bars: list[list[int]] = [[] for _ in free]
        self._steps = 0

    @property
    def is_whole(self) -> bool:
        """Whether all ways were tried."""
        return self._steps < _MOST_STEPS

    def fill(self, place: int) -> bool:
        """Return whether the pieces from a place on fit into what is free; `bars` then has them."""
        if place == len(self._order):
            return True
        piece = self._order[place]
        size, tried = self._sizes[piece], set()
        for bar, free in enumerate(self._free):
            self._steps += 1
            if size > free + _SLACK or free in tried:
                continue
            if not self.is_whole:
                return False
            tried.add(free)
            self._free[bar] -= size
            self.bars[bar].append(piece)
            if self.fill(place + 1):
                return True
            self._free[bar] = free
            self.bars[bar].pop()
        return False


def _lower_bound(sizes: Sequence[float], room: float) -> int:
    """Return how many bars are needed at least (L2): large pieces that share with no other, and what does not fit beside them."""
    best = ceil(sum(sizes) / room - 1e-9)
    for small in sorted({size for size in sizes if size <= room / 2}):
        alone = [s for s in sizes if s > room - small + _SLACK]
        half = [s for s in sizes if room / 2 + _SLACK < s <= room - small + _SLACK]
        rest = sum(s for s in sizes if small - _SLACK <= s <= room / 2 + _SLACK)
        over = rest - (len(half) * room - sum(half))
        best = max(best, len(alone) + len(half) + max(0, ceil(over / room - 1e-9)))
    return max(best, sum(size > room / 2 + _SLACK for size in sizes))


def _fill_by_patterns(order: Sequence[int], sizes: Sequence[float], room: float, most: int) -> list[list[int]] | None:
    """Return the fewest bars by integer programming over patterns: how many pieces of each length one bar gives. None where it finds
    no fewer than `most`.
    """
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp

    by_size: dict[float, list[int]] = {}
    for k in order:
        by_size.setdefault(sizes[k], []).append(k)
    lengths = tuple(by_size)
    if len(lengths) > _MOST_LENGTHS:
        return None
    counts = np.array([len(by_size[length]) for length in lengths])
    patterns = _all_patterns(lengths, counts.tolist(), room) or _grown_patterns(lengths, counts, room)
    table = np.array(patterns).T
    found = milp(
        np.ones(len(patterns)), constraints=LinearConstraint(table, counts, np.inf), integrality=np.ones(len(patterns)),
        bounds=Bounds(0, most - 1), options={"node_limit": _NODES},
    )  # fmt: skip
    if found.x is None or round(found.x.sum()) >= most:
        return None
    bars: list[list[int]] = []
    for pattern, times in zip(patterns, np.rint(found.x).astype(int).tolist(), strict=True):
        for _ in range(times):
            bar = [
                by_size[length].pop(0)
                for length, n in zip(lengths, pattern, strict=True)
                for _ in range(n)
                if by_size[length]
            ]
            bars.append(bar)
    return [bar for bar in bars if bar]


def _all_patterns(lengths: Sequence[float], counts: Sequence[int], room: float) -> list[tuple[int, ...]]:
    """Return every pattern to which no piece can be added, none at all where there are more than can be looked through."""
    found: list[tuple[int, ...]] = []
    open_ends: list[tuple[tuple[int, ...], float, float]] = [((), room, inf)]
    while open_ends:
        begun, left, unused = open_ends.pop()
        place = len(begun)
        if place == len(lengths):
            if left + _SLACK < unused:
                found.append(begun)
            if len(found) > _MOST_PATTERNS:
                return []
            continue
        most = min(counts[place], int((left + _SLACK) / lengths[place]))
        for n in range(most + 1):
            least = min(unused, lengths[place]) if n < counts[place] else unused
            open_ends.append(((*begun, n), left - n * lengths[place], least))
        if len(open_ends) > _MOST_PATTERNS:
            return []
    return found


def _grown_patterns(lengths: Sequence[float], counts: Any, room: float) -> list[tuple[int, ...]]:
    """Return patterns grown by column generation: each new one is the bar that the prices of the relaxed program pay most for."""
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, linprog, milp

    size = np.array(lengths)
    patterns = [tuple(int(k == j) * max(1, int(room / size[k])) for k in range(len(size))) for j in range(len(size))]
    for _ in range(_STEPS):
        table = np.array(patterns).T
        relaxed = linprog(np.ones(len(patterns)), A_ub=-table, b_ub=-counts, method="highs")
        prices = -relaxed.ineqlin.marginals
        best = milp(
            -prices, constraints=LinearConstraint(size[None, :], -np.inf, room + _SLACK), integrality=np.ones(len(size)),
            bounds=Bounds(0, counts),
        )  # fmt: skip
        if best.x is None or -best.fun <= 1 + 1e-7:
            break
        patterns.append(tuple(np.rint(best.x).astype(int).tolist()))
    return patterns
