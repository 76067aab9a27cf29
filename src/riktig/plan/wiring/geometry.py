"""Owns where terminals are on plate, door and side walls, and which duct each one's wire goes into. Must not know how wires are joined."""

from collections.abc import Mapping, Sequence
from itertools import combinations, pairwise
from statistics import median
from typing import Any

from riktig.catalogue.model import Part, Side
from riktig.job.model import Job
from riktig.plan.circuit.incoming import WAY_IN
from riktig.plan.circuit.model import DOOR, EARTH_BAR, PLATE, is_bar, place_of_block
from riktig.plan.circuit.zones import device_of, mark_of
from riktig.plan.net.strips import Clamp
from riktig.plan.place.depth import PLATE_OFF_MM
from riktig.plan.place.door import Cutout, DoorLayout
from riktig.plan.place.layout import EDGE_MM, Box, PlateLayout
from riktig.plan.place.reach import Access, Reach
from riktig.plan.place.routes import DuctNetwork
from riktig.plan.place.walls import WallLayout
from riktig.plan.wiring.links import Link

TAIL_MM = 60.0
"""Dressing at each end inside the duct and at the clamp (common practice, no source)."""
LANDING_MM = 20.0
"""At each end of a wire that lies in no duct (common practice, no source)."""
BEND_MM = 30.0
"""Out of its clamp and back, of a lead that goes straight to the next device (common practice, no source)."""
STRAIGHT_MM = 200.0
"""How far a lead may go straight to the next device (common practice, no source)."""


class Geometry:
    """Positions of terminals on plate, door and in boxes."""

    def __init__(
        self, job: Job, parts: Mapping[str, Part], plate: PlateLayout, door: DoorLayout, clamps: tuple[Clamp, ...],
        clamp_parts: Mapping[str, Part], walls: Sequence[WallLayout],
    ) -> None:  # fmt: skip
        self._parts = parts
        self.plate = plate
        self._door = door
        self._piece: dict[str, str] = {clamp.id: clamp.piece for clamp in clamps}
        self._clamp_x = _clamp_centres(plate, clamps, clamp_parts)
        self._jumpers = job.practice.jumpers if job.practice.jumpers else -1.0
        self._walls = {hole.device: (wall, hole) for wall in walls for hole in wall.cutouts}
        self._inside_is_top = job.supply.entry == "bottom"
        self._hinge_x = 0.0 if job.enclosure.hinge == "left" else plate.width
        self.reach = Reach(plate)
        self.hinge = self._hinge()
        self._middles: dict[str, tuple[Access, Access]] = {}
        self._distributing = frozenset(name for name in plate.boxes if is_bar(name) and name != EARTH_BAR)
        self._blocks: dict[str, list[Box]] = {}
        for name in (name for name in plate.boxes if name in self._distributing):
            self._blocks.setdefault(place_of_block(name), []).append(plate.boxes[name])

    def access(self, terminal: str, *, is_outside: bool = False) -> Access:
        """Return where a terminal on the plate is and the duct above or below it.

        Args:
            terminal: its id; a strip terminal has an inside and an outside.
            is_outside: whether the field side of a strip terminal is meant.
        """
        item, mark = self._item_of(terminal), mark_of(terminal)
        if item in self._walls:
            return self._from_wall(*self._walls[item])
        box = self.plate.boxes[item]
        if terminal in self._clamp_x:
            x, is_top = self._clamp_x[terminal], self._inside_is_top != is_outside
        elif is_bar(item):
            x, is_top = box.x + min(8.0 + 10.0 * int(mark), box.w), self._inside_is_top
        else:
            spec = self._parts[item].terminal(mark)
            x = box.x + box.w * (spec.x_share if spec is not None else 0.5)
            is_top = spec is None or spec.side is Side.TOP
        return self.reach.access(x, box.top if is_top else box.y, is_top=is_top, item=item)

    def _item_of(self, terminal: str) -> str:
        return self._piece.get(terminal) or device_of(terminal)

    def _from_wall(self, wall: WallLayout, hole: Cutout) -> Access:
        """Return where the wires of what sits in a side wall meet the upright on that side, and how far it is along wall and plate."""
        y = hole.y - EDGE_MM / 2
        x = 0.0 if wall.side == "left" else self.plate.width
        uprights = self.plate.uprights
        if not uprights:
            return self.reach.nearest(x, y)
        duct = min(uprights, key=lambda upright: abs(upright.level - x))
        at = min(max(y, duct.box.y), duct.box.top)
        tail = abs(wall.from_back(hole) - PLATE_OFF_MM) + EDGE_MM / 2 + abs(duct.level - x) + abs(at - y)
        return Access(x=x, y=y, duct=duct.code, at=at, tail=tail)

    def middle(self, terminal: str, access: Access) -> float:
        """Return the coordinate along its duct of the middle of what a terminal belongs to; for one of a block that of all blocks of its
        side of the main switch.
        """
        item = self._item_of(terminal)
        if item not in self._middles:
            self._middles[item] = self._middles_of(item)
        return next((found.at for found in self._middles[item] if found.duct == access.duct), access.at)

    def _middles_of(self, item: str) -> tuple[Access, Access]:
        """Return where the middle of an item meets the ducts above and below it."""
        if item in self._walls:
            access = self._from_wall(*self._walls[item])
            return access, access
        boxes = self.plate.boxes
        own = self._blocks[place_of_block(item)] if item in self._distributing else [boxes[item]]
        x, box = sum(one.centre[0] for one in own) / len(own), boxes[item]
        above = self.reach.access(x, box.top, is_top=True, item=item)
        return above, self.reach.access(x, box.y, is_top=False, item=item)

    def is_direct(self, link: Link, a: Access, b: Access) -> bool:
        """Return whether a wire goes straight from clamp to clamp, through no duct: a short jumper, in the school that lays them so, or a
        lead of a surge arrester.
        """
        return self._is_jumper(link.a, link.b, a, b) or self._is_lead(link, a, b)

    def corners(self, one: str, other: str, a: Access, b: Access) -> list[tuple[float, float]]:
        """Return the corners in mm of a wire that goes straight from one terminal to another, out of its clamp and into the next one: past
        the clamps of one side, or on one device and between two that stand beside each other from above to below.
        """
        items = self._item_of(one), self._item_of(other)
        boxes = [self.plate.boxes[item] for item in items]
        if a.duct == b.duct:
            is_above = a.y >= boxes[0].centre[1]
            beyond = max(a.y, b.y) + BEND_MM if is_above else min(a.y, b.y) - BEND_MM
            level = (a.y + b.y) / 2 if _are_opposite(a, b) else beyond
            return [(a.x, level), (b.x, level)]
        left, right = sorted(boxes, key=lambda box: box.x)
        x = (left.right + right.x) / 2
        if left.right > right.x + 1e-6:  # one device, or what hangs below it: on its nearer side
            sides = min(left.x, right.x), max(left.right, right.right)
            x = min(sides, key=lambda side: abs(a.x - side) + abs(b.x - side))
        (at, to) = (
            access.y + (BEND_MM if access.y >= box.centre[1] else -BEND_MM)
            for access, box in zip((a, b), boxes, strict=True)
        )
        return [(a.x, at), (x, at), (x, to), (b.x, to)]

    def _is_jumper(self, one: str, other: str, a: Access, b: Access) -> bool:
        """Return whether a wire joins two clamps of one row that are near enough to go direct (common practice, no source): of one device
        as the wire is laid, of two by how far their middles are from each other, so that all lines of a circuit go one way.
        """
        items = self._item_of(one), self._item_of(other)
        rows = [self.plate.row_of.get(item, -1) for item in items]
        if rows[0] != rows[1] or rows[0] < 0 or abs(a.y - b.y) > self._jumpers:
            return False
        if items[0] != items[1]:
            x, u = (self.plate.boxes[item].centre[0] for item in items)
            return abs(x - u) + abs(a.y - b.y) <= self._jumpers
        xs = [a.x, *(x for x, _ in self.corners(one, other, a, b)), b.x]
        return sum(abs(u - x) for x, u in pairwise(xs)) + abs(a.y - b.y) <= self._jumpers

    def _is_lead(self, link: Link, a: Access, b: Access) -> bool:
        """Return whether a lead of a surge arrester goes straight from what stands beside it, both ends on one side: from the main switch
        or a block to what protects it, and from that to the arrester.

        Source:
            Its leads are as short as can be, IEC 60364-5-53 534.4.8; how far a bend may span is common practice, no source.
        """
        devices = [device_of(end) for end in (link.a, link.b)]
        owners = [device.partition(".")[0] for device in devices]
        own = [owner in self._parts and self._parts[owner].kind == "surge" for owner in owners]
        is_fed = any(own) and any(device in WAY_IN or device in self._distributing for device in devices)
        is_lead = is_fed or (all(own) and owners[0] == owners[1])
        return is_lead and a.duct == b.duct and abs(a.at - b.at) <= STRAIGHT_MM

    def door_point(self, terminal: str) -> tuple[float, float]:
        """Return where a door terminal is, in mm in the door's frame."""
        return self._door.boxes[device_of(terminal)].centre

    def from_hinge(self, terminal: str, height: float) -> float:
        """Return the mm from the hinges at a height to a door terminal."""
        x, y = self.door_point(terminal)
        return (x if not self._hinge_x else self._door.width - x) + abs(y - EDGE_MM / 2 - height)

    def lengths(self, zone: str, terminals: list[str], network: DuctNetwork, shunned: frozenset[str]) -> Any:
        """Return the mm to cut between each two terminals of a zone, n x n, None where places are not known (in boxes); a way through a
        shunned duct counts as much more.
        """
        import numpy as np

        if zone == PLATE:
            at = [self.access(terminal) for terminal in terminals]
            tails = np.array([access.tail + TAIL_MM for access in at])
            found = (
                network.lengths([(access.duct, access.at) for access in at], shunned) + tails[:, None] + tails[None, :]
            )
            for (i, a), (j, b) in combinations(enumerate(terminals), 2) if self._jumpers > 0 else ():
                if self._is_jumper(a, b, at[i], at[j]):
                    found[i, j] = found[j, i] = (
                        direct_mm(at[i], at[j], self.corners(a, b, at[i], at[j])) + 2 * LANDING_MM
                    )
            return found
        if zone == DOOR:
            points = np.array([self.door_point(terminal) for terminal in terminals])
            return np.abs(points[:, None, :] - points[None, :, :]).sum(axis=2) + 2 * TAIL_MM
        return None

    def _hinge(self) -> tuple[str, float]:
        """Return where the door loom leaves the ducts: the upright nearest to the hinges, half way from its middle to the height of what
        stands on the door (common practice, no source); any duct where none stands.
        """
        ducts = [d for d in self.plate.ducts if d.is_vertical] or list(self.plate.ducts)
        if not ducts:
            return "", 0.0
        duct = min(ducts, key=lambda d: (abs(d.box.centre[0] - self._hinge_x), d.code))
        if not duct.is_vertical:
            return duct.code, duct.box.centre[0]
        heights = [box.centre[1] - EDGE_MM / 2 for box in self._door.boxes.values()]
        at = (duct.box.centre[1] + median(heights)) / 2 if heights else duct.box.centre[1]
        return duct.code, min(max(at, duct.box.y), duct.box.top)


def direct_mm(a: Access, b: Access, corners: Sequence[tuple[float, float]]) -> float:
    """Return how long a wire is from clamp to clamp by its corners, in mm."""
    points = [(a.x, a.y), *corners, (b.x, b.y)]
    return sum(abs(x - u) + abs(y - v) for (x, y), (u, v) in pairwise(points))


def _are_opposite(a: Access, b: Access) -> bool:
    """Return whether two ends face each other across the duct that both meet."""
    return abs(abs(a.y - b.y) - a.tail - b.tail) < 1e-6


def _clamp_centres(plate: PlateLayout, clamps: tuple[Clamp, ...], clamp_parts: Mapping[str, Part]) -> dict[str, float]:
    centres: dict[str, float] = {}
    edge: dict[str, float] = {}
    for clamp in clamps:
        x = edge.get(clamp.piece, plate.boxes[clamp.piece].x + 8.0)
        width = clamp_parts[clamp.id].width
        centres[clamp.id] = x + width / 2
        edge[clamp.piece] = x + width
    return centres
