"""Owns how far apart probe points are, and in which order they are visited with the least walking. Must not know what is measured."""

from collections.abc import Sequence
from math import hypot

from riktig.plan.circuit.model import DOOR
from riktig.plan.circuit.zones import device_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.geometry import Geometry

Points = tuple[str, str]
"""The two terminals of a measurement."""
_GAP_MM = 80.0
"""Between the enclosure and its open door (common practice, no source)."""
_FIELD_M = 20.0
"""To what stands in the field at no declared place: the distance that a brief takes too."""


class Reach:
    """Where the hands must go to probe a terminal: on the plate and the open door in mm, and how many mm away from the panel."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._geometry = Geometry(
            plan.job, plan.parts, plan.plate, plan.door, plan.clamps, plan.clamp_parts, plan.walls
        )
        self._away = {place.name: 1000.0 * place.distance for place in plan.job.locations}
        self._in_walls = {hole.device for wall in plan.walls for hole in wall.cutouts}
        self._known: dict[str, tuple[float, float, float]] = {}

    def place(self, terminal: str) -> tuple[float, float, float]:
        """Return x and y in mm from the lower left corner of the plate, the open door beside it, and the way from the panel in mm."""
        if terminal not in self._known:
            self._known[terminal] = self._find(terminal)
        return self._known[terminal]

    def _find(self, terminal: str) -> tuple[float, float, float]:
        plan, device = self._plan, device_of(terminal)
        if device in plan.door.boxes:
            x, y = self._geometry.door_point(terminal)
            inside = plan.door.width - x
            return (-_GAP_MM - x if plan.job.enclosure.hinge == "left" else plan.plate.width + _GAP_MM + inside), y, 0.0
        if device in plan.plate.boxes or terminal in plan.clamp_by_id or device in self._in_walls:
            access = self._geometry.access(terminal)
            return access.x, access.y, 0.0
        known = plan.circuit.index.get(device)
        place = known.location if known is not None else DOOR
        return 0.0, 0.0, self._away.get(place, 1000.0 * _FIELD_M)

    def apart(self, one: str, other: str) -> float:
        """Return how far a hand goes from one terminal to another in mm; between places the way there and back to the panel."""
        a, b = self.place(one), self.place(other)
        return hypot(a[0] - b[0], a[1] - b[1]) + abs(a[2] - b[2])


def travel_mm(reach: Reach, order: Sequence[Points]) -> float:
    """Return how far both probes go in mm; the first terminal of each pair is touched by the same hand."""
    pairs = zip(order, order[1:], strict=False)
    return sum(reach.apart(one[0], other[0]) + reach.apart(one[1], other[1]) for one, other in pairs)


def walk(reach: Reach, points: Sequence[Points]) -> list[tuple[int, bool]]:
    """Return an order of measurements with little travel: the place of each, and whether its probes change hands.

    The next one is always the nearest, counting both hands, so that one probe stays where it can while the other walks.

    Source:
        Nearest neighbour, as for a travelling salesman.
    """
    import numpy as np
    from scipy.spatial import cKDTree

    if not points:
        return []
    at = np.array([[reach.place(a), reach.place(b)] for a, b in points])
    pairs = np.concatenate((at, at[:, ::-1]))  # each as it is, then with its probes in the other hands
    count = len(points)
    flat = pairs.reshape(2 * count, 6)
    _, near = cKDTree(flat).query(flat, k=min(_NEAR, 2 * count), p=1)
    is_left = np.ones(2 * count, dtype=bool)
    here = int(np.lexsort((-at[:, 0, 1], at[:, 0, 0], at[:, 0, 2]))[0])
    order = [(here, False)]
    while len(order) < count:
        is_left[[here % count, here % count + count]] = False
        rest = near[here][is_left[near[here]]]
        if not rest.size:
            rest = np.flatnonzero(is_left)
        off = pairs[rest] - pairs[here]
        ways = np.hypot(off[:, :, 0], off[:, :, 1]) + np.abs(off[:, :, 2])
        here = int(rest[np.argmin(ways.sum(axis=1))])
        order.append((here % count, here >= count))
    return order


_NEAR = 40
"""Among so many neighbours the nearest is looked for first."""
