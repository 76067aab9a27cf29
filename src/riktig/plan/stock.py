"""Owns cutting pieces out of bars of one length: as few bars as can be. Must not know what the pieces are."""

from collections.abc import Sequence
from math import ceil

_NODES = 200_000
"""Steps after which the search for fewer bars gives up; the best so far is then taken."""
_SLACK = 1e-9


def pack_bars(lengths: Sequence[float], stock: float, kerf: float) -> tuple[tuple[int, ...], ...]:
    """Return which pieces come out of which bar, by their place in `lengths`; as few bars as can be, the fullest first.

    k pieces of a bar cost k-1 cuts. A piece longer than a bar gets one of its own. First fit, longest first, is taken where it
    reaches the lower bound; else bars are filled by branch and bound, longest piece first.

    Args:
        lengths: mm of each piece.
        stock: mm of a bar.
        kerf: mm that a cut takes.

    Source:
        Martello and Toth, Knapsack Problems (1990), ch. 8: lower bound L2 and branch and bound, from memory.
    """
    sizes = [length + kerf for length in lengths]
    room = stock + kerf
    order = sorted(range(len(sizes)), key=lambda k: (-sizes[k], k))
    long = [k for k in order if sizes[k] > room + _SLACK]
    rest = [k for k in order if sizes[k] <= room + _SLACK]
    best = _first_fit(rest, sizes, room)
    least = _lower_bound([sizes[k] for k in rest], room)
    if len(best) > least:
        best = _Branching(rest, sizes, room, best, least).run()
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


class _Branching:
    """Depth first: the longest piece that is left goes into each bar that is open and differs, last into a new one."""

    def __init__(
        self, order: Sequence[int], sizes: Sequence[float], room: float, best: list[list[int]], least: int
    ) -> None:
        self._order, self._sizes, self._room, self._least = order, sizes, room, least
        self._best = best
        self._nodes = 0
        self._after = [0.0] * (len(order) + 1)
        for place in range(len(order) - 1, -1, -1):
            self._after[place] = self._after[place + 1] + sizes[order[place]]

    def run(self) -> list[list[int]]:
        self._go(0, [], [])
        return self._best

    def _go(self, place: int, bars: list[list[int]], left: list[float]) -> bool:
        """Fill from the piece at `place` on; return whether nothing better can be found or the search is at its end."""
        self._nodes += 1
        if place == len(self._order):
            self._best = [list(bar) for bar in bars]
            return len(bars) <= self._least
        usable = sum(free for free in left if free >= self._sizes[self._order[-1]] - _SLACK)
        needed = len(bars) + max(0, ceil((self._after[place] - usable) / self._room - 1e-9))
        if needed >= len(self._best):
            return False
        k = self._order[place]
        size = self._sizes[k]
        tried: set[float] = set()
        for b in sorted(range(len(bars)), key=lambda b: left[b]):
            free = round(left[b], 6)
            if size <= left[b] + _SLACK and free not in tried:
                tried.add(free)
                if self._put(place, k, b, bars, left):
                    return True
                if abs(left[b] - size) < 1e-6:
                    return False  # a perfect fit is never worse
        if len(bars) + 1 < len(self._best):
            bars.append([])
            left.append(self._room)
            is_done = self._put(place, k, len(bars) - 1, bars, left)
            bars.pop()
            left.pop()
            return is_done
        return False

    def _put(self, place: int, k: int, b: int, bars: list[list[int]], left: list[float]) -> bool:
        bars[b].append(k)
        left[b] -= self._sizes[k]
        is_done = self._go(place + 1, bars, left) or self._nodes > _NODES
        bars[b].pop()
        left[b] += self._sizes[k]
        return is_done
