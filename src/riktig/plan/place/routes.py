"""Owns shortest ways through the ducts. Must not know which wire takes them. Frame and mm as the plate."""

from dataclasses import dataclass
from math import inf
from typing import Any

from riktig.plan.place.faults import joints
from riktig.plan.place.layout import Duct

_FAR_MM = 10_000.0
"""What a way counts that no ducts lead."""
_SHUNNED = 1000.0
"""So many times its length a duct counts that a way keeps out of."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Leg:
    """A stretch in one duct, from and to a coordinate along it (x of a horizontal, y of a vertical), in mm."""

    duct: str
    start: float
    end: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Route:
    """A way through ducts: its length in mm along their centre lines, its legs in order, and whether they hang together."""

    length: float
    legs: tuple[Leg, ...]
    is_whole: bool = True

    @property
    def codes(self) -> tuple[str, ...]:
        """The duct codes in order."""
        return tuple(leg.duct for leg in self.legs)


class DuctNetwork:
    """The ducts of a plate as a graph: nodes are where two ducts meet, all pairs solved once."""

    def __init__(self, ducts: tuple[Duct, ...]) -> None:
        self._ducts = {duct.code: duct for duct in ducts}
        self._nodes = [(a, b, x, y) for (a, b), (x, y) in joints(ducts).items()]
        self._routes: dict[tuple[Any, ...], Route] = {}
        self._on: dict[str, list[int]] = {code: [] for code in self._ducts}
        for index, (a, b, _, _) in enumerate(self._nodes):
            self._on[a].append(index)
            self._on[b].append(index)
        for code, members in self._on.items():
            members.sort(key=lambda n: self._along(self._ducts[code], n))
        self._ways: dict[frozenset[str], tuple[Any, Any]] = {}
        self._solved(frozenset())

    def _along(self, duct: Duct, node: int) -> float:
        _, _, x, y = self._nodes[node]
        return y if duct.is_vertical else x

    def _solved(self, shunned: frozenset[str]) -> tuple[Any, Any]:
        if shunned not in self._ways:
            self._ways[shunned] = self._solve(shunned)
        return self._ways[shunned]

    def _solve(self, shunned: frozenset[str]) -> tuple[Any, Any]:
        """Return the least distance between each two nodes in mm, in shunned ducts counted as much more, and the node before the second one
        on that way, n x n each.

        Source:
            R. W. Floyd, Algorithm 97, Communications of the ACM 5 (1962); SciPy has it too, but takes 0.4 s of every start to load.
        """
        import numpy as np

        size = len(self._nodes)
        distance = np.full((size, size), inf)
        before = np.tile(np.arange(size)[:, None], (1, size))
        np.fill_diagonal(distance, 0.0)
        for code, members in self._on.items():
            for a, b in zip(members, members[1:], strict=False):
                gap = abs(self._along(self._ducts[code], a) - self._along(self._ducts[code], b))
                distance[a, b] = distance[b, a] = max(gap, 1e-6) * (_SHUNNED if code in shunned else 1.0)
        for node in range(size):
            through = distance[:, node, None] + distance[None, node, :]
            is_shorter = through < distance - 1e-9
            distance = np.where(is_shorter, through, distance)
            before = np.where(is_shorter, before[None, node, :], before)
        return distance.tolist(), before.tolist()

    def route(
        self,
        a: tuple[str, float],
        b: tuple[str, float],
        middles: tuple[float, float] | None = None,
        shunned: frozenset[str] = frozenset(),
    ) -> Route:
        """Return the shortest way between two places, each a duct code and a coordinate along it in mm; straight across, and not
        whole, where no ducts lead from one to the other. Answers are remembered.

        With `middles`, the coordinates of what the places belong to, it is the way that is shortest between these: so all conductors of
        one circuit take the same ducts. A shunned duct is taken where no other way leads there, or it is where the way begins or ends, no
        further than must be.
        """
        key = (a, b, middles, shunned)
        known = self._routes.get(key)
        if known is None:
            known = self._routes[key] = self._find_route(a, b, middles or (a[1], b[1]), shunned)
        return known

    def _find_route(
        self, a: tuple[str, float], b: tuple[str, float], middles: tuple[float, float], shunned: frozenset[str]
    ) -> Route:
        if a[0] == b[0]:
            leg = Leg(duct=a[0], start=a[1], end=b[1])
            return Route(length=abs(a[1] - b[1]), legs=(leg,) if a[0] else (), is_whole=bool(a[0]))
        duct_a, duct_b = self._ducts[a[0]], self._ducts[b[0]]
        distance, before = self._solved(shunned)
        begin, end = (_SHUNNED if code in shunned else 1.0 for code in (a[0], b[0]))
        best: tuple[float, int, int] | None = None
        for m in self._on[a[0]]:
            start = begin * abs(self._along(duct_a, m) - middles[0])
            for n in self._on[b[0]]:
                total = start + distance[m][n] + end * abs(self._along(duct_b, n) - middles[1])
                if total < inf and (best is None or total < best[0]):
                    best = (total, m, n)
        if best is None:
            legs = tuple(Leg(duct=code, start=at, end=at) for code, at in (a, b))
            return Route(length=self._across(a, b), legs=legs, is_whole=False)
        _, m, n = best
        legs = self._read_back(a, b, m, n, before)
        if shunned:
            return Route(length=sum(abs(leg.end - leg.start) for leg in legs), legs=legs)
        length = abs(self._along(duct_a, m) - a[1]) + distance[m][n] + abs(self._along(duct_b, n) - b[1])
        return Route(length=length, legs=legs)

    def _across(self, a: tuple[str, float], b: tuple[str, float]) -> float:
        (ax, ay), (bx, by) = (self.point(*place) for place in (a, b))
        return abs(ax - bx) + abs(ay - by)

    def point(self, code: str, at: float) -> tuple[float, float]:
        """Return where a coordinate along a duct is, in mm."""
        duct = self._ducts[code]
        return (duct.level, at) if duct.is_vertical else (at, duct.level)

    def lengths(self, places: list[tuple[str, float]], shunned: frozenset[str] = frozenset()) -> Any:
        """Return the length in mm of the shortest way between each two of several places, n x n; in shunned ducts it counts as much more.

        Args:
            places: a duct code and a coordinate along it in mm, each.
            shunned: the codes of ducts that are taken where no other way leads there.
        """
        import numpy as np

        codes = np.array([code for code, _ in places])
        along = np.array([at for _, at in places])
        same = codes[:, None] == codes[None, :]
        direct = np.abs(along[:, None] - along[None, :])
        if not self._nodes:
            return np.where(same, direct, direct + _FAR_MM)
        reach = np.full((len(places), len(self._nodes)), np.inf)
        for row, (code, at) in enumerate(places):
            for node in self._on.get(code, ()):
                reach[row, node] = abs(self._along(self._ducts[code], node) - at) * (
                    _SHUNNED if code in shunned else 1.0
                )
        distance = np.array(self._solved(shunned)[0])
        to_node = (reach[:, :, None] + distance[None, :, :]).min(axis=1)
        found = np.empty((len(places), len(places)))
        for row in range(len(places)):
            found[row] = (to_node[row][None, :] + reach).min(axis=1)
        return np.where(same, direct, np.where(np.isinf(found), direct + _FAR_MM, found))

    def _read_back(self, a: tuple[str, float], b: tuple[str, float], m: int, n: int, before: Any) -> tuple[Leg, ...]:
        chain = [n]
        while chain[-1] != m:
            chain.append(before[m][chain[-1]])
        chain.reverse()
        legs = [Leg(duct=a[0], start=a[1], end=self._along(self._ducts[a[0]], m))]
        for p, q in zip(chain, chain[1:], strict=False):
            code = next(c for c in self._nodes[p][:2] if c in self._nodes[q][:2])
            duct = self._ducts[code]
            if legs[-1].duct == code:
                legs[-1] = Leg(duct=code, start=legs[-1].start, end=self._along(duct, q))
            else:
                legs.append(Leg(duct=code, start=self._along(duct, p), end=self._along(duct, q)))
        last = legs[-1]
        if last.duct == b[0]:
            legs[-1] = Leg(duct=b[0], start=last.start, end=b[1])
        else:
            legs.append(Leg(duct=b[0], start=self._along(self._ducts[b[0]], n), end=b[1]))
        return tuple(legs)
