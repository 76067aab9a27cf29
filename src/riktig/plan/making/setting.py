"""Owns in which order the markers of a lot are set, so that few characters change from one to the next. Must not know wires.

A string is set character by character on a hand tool or a row of clip-on marks; each character that differs from the one before is a
set-up. What stands in the tool at first counts too.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

EXACT = 12
"""Up to so many strings the order is the best there is."""
_ROUNDS = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """Strings in the order in which they are set, each once, and how many characters are changed for all of them."""

    strings: tuple[str, ...]
    changes: int


def changed_characters(before: str, after: str) -> int:
    """Return how many characters of a string are set anew after another one; both begin at the left, and blanks are characters."""
    length = max(len(before), len(after))
    return sum(a != b for a, b in zip(before.ljust(length), after.ljust(length), strict=True))


def count_changes(strings: Sequence[str], start: str = "") -> int:
    """Return how many characters are changed to set strings in an order, from what stands in the tool at first."""
    return sum(changed_characters(a, b) for a, b in pairwise((start, *strings)))


def order_strings(strings: Sequence[str], start: str = "") -> Setting:
    """Return an order of strings in which few characters change: the best one up to twelve strings, else the best that exchanging finds.

    Args:
        strings: what is to be set; one that comes twice is set once.
        start: what stands in the tool at first.

    Source:
        Held and Karp (1962) for few; nearest neighbour, then 2-opt and moving strings singly (Lin 1965), for many.
    """
    wanted = list(dict.fromkeys(strings))
    if not wanted:
        return Setting(strings=(), changes=0)
    costs = [[changed_characters(a, b) for b in (start, *wanted)] for a in (start, *wanted)]
    order = _best_order(costs) if len(wanted) <= EXACT else _good_order(costs, wanted)
    ordered = tuple(wanted[k - 1] for k in order)
    return Setting(strings=ordered, changes=count_changes(ordered, start))


def _best_order(costs: list[list[int]]) -> list[int]:
    """Return the best way from node 0 through all others once."""
    count = len(costs) - 1
    best: dict[tuple[int, int], tuple[int, int]] = {(1 << k, k): (costs[0][k + 1], -1) for k in range(count)}
    for reached in range(1, 1 << count):
        for last in range(count):
            known = best.get((reached, last))
            if known is None:
                continue
            for following in range(count):
                if reached >> following & 1:
                    continue
                key = (reached | 1 << following, following)
                cost = known[0] + costs[last + 1][following + 1]
                if key not in best or cost < best[key][0]:
                    best[key] = (cost, last)
    whole = (1 << count) - 1
    last = min(range(count), key=lambda k: best[whole, k][0])
    order, reached = [], whole
    while last >= 0:
        order.append(last + 1)
        reached, last = reached ^ 1 << last, best[reached, last][1]
    return order[::-1]


def _good_order(costs: list[list[int]], wanted: Sequence[str]) -> list[int]:
    """Return a good way: the better of the nearest next and the sorted order, both made better by exchanging."""
    by_text = sorted(range(1, len(costs)), key=lambda k: wanted[k - 1])
    by_end = sorted(range(1, len(costs)), key=lambda k: wanted[k - 1][::-1])
    starts = (by_text, by_end, _nearest(costs))
    return min((_exchanged(costs, order) for order in starts), key=lambda order: _cost(costs, order))


def _nearest(costs: list[list[int]]) -> list[int]:
    left, order, at = set(range(1, len(costs))), [], 0
    while left:
        at = min(left, key=lambda k: (costs[at][k], k))
        left.remove(at)
        order.append(at)
    return order


def _cost(costs: list[list[int]], order: Sequence[int]) -> int:
    return sum(costs[a][b] for a, b in pairwise((0, *order)))


def _exchanged(costs: list[list[int]], order: list[int]) -> list[int]:
    """Return an order that neither turning a stretch round nor moving up to three strings elsewhere makes better."""
    for _ in range(_ROUNDS):
        before = _cost(costs, order)
        order = _moved(costs, _turned(costs, order))
        if _cost(costs, order) >= before:
            break
    return order


def _turned(costs: list[list[int]], order: list[int]) -> list[int]:
    way = [0, *order]
    for i in range(1, len(way)):
        for j in range(i + 1, len(way)):
            a, b, c = way[i - 1], way[i], way[j]
            d = way[j + 1] if j + 1 < len(way) else None
            now = costs[a][b] + (costs[c][d] if d is not None else 0)
            turned = costs[a][c] + (costs[b][d] if d is not None else 0)
            if turned < now:
                way[i : j + 1] = way[i : j + 1][::-1]
    return way[1:]


def _moved(costs: list[list[int]], order: list[int]) -> list[int]:
    way = [0, *order]
    for length in (1, 2, 3):
        for i in range(1, len(way) - length + 1):
            piece = way[i : i + length]
            rest = way[:i] + way[i + length :]
            best = _cost(costs, way[1:])
            place = min(range(1, len(rest) + 1), key=lambda k: _with(costs, rest, piece, k))
            found = rest[:place] + piece + rest[place:]
            if _cost(costs, found[1:]) < best:
                way = found
    return way[1:]


def _with(costs: list[list[int]], rest: list[int], piece: list[int], place: int) -> int:
    """Return by how much a piece between two neighbours makes a way longer."""
    before = rest[place - 1]
    after = rest[place] if place < len(rest) else None
    there = costs[before][after] if after is not None else 0
    return costs[before][piece[0]] + (costs[piece[-1]][after] if after is not None else 0) - there
