"""Owns what is joined with what, directly or through others. Must not know what it is."""

from collections.abc import Hashable
from typing import Generic, TypeVar

Point = TypeVar("Point", bound=Hashable)


class UnionFind(Generic[Point]):
    """Sets of points that are one; a point never seen stands alone."""

    def __init__(self) -> None:
        self._parent: dict[Point, Point] = {}

    def find(self, point: Point) -> Point:
        """Return the point that stands for the set of `point`."""
        parent = self._parent
        root = point
        while parent.setdefault(root, root) != root:
            root = parent[root]
        while parent[point] != root:
            parent[point], point = root, parent[point]
        return root

    def join(self, a: Point, b: Point) -> None:
        """Make the sets of both points one."""
        root_a, root_b = self.find(a), self.find(b)
        if root_a != root_b:
            self._parent[root_b] = root_a
