"""Owns depth: what of the door meets what of the plate when the door is shut, and while it swings. Must not know wires.

Frame: mm, x and y as the door seen from the front, z from the inner face of the shut door into the enclosure; the hinges lie at x = 0
or at the door's width, z = 0.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import acos, asin, degrees, hypot, sqrt
from typing import Any

from riktig.catalogue.model import CONTACT_KINDS, ElementKind, Part
from riktig.job.model import Enclosure
from riktig.plan.place.items import STRIP_DEPTH_MM
from riktig.plan.place.layout import EDGE_MM, Box, PlateLayout

PLATE_OFF_MM = 20.0
"""Front face of the plate before the back wall of the enclosure (common practice; its drawing decides)."""
DOOR_SKIN_MM = 15.0
"""Inner face of the shut door behind the front of the enclosure (common practice; its drawing decides)."""
RAIL_HEIGHT_MM = 7.5
"""Mounting rail 35 x 7.5 (IEC 60715, from memory)."""
BEND_MM = 30.0
"""Room for wires to bend behind a contact block (common practice, no source)."""
BLOCK_MM = 20.0
"""By how much a second layer of contact blocks is deeper (common practice, no source)."""
AIR_MM = 5.0
"""What stays free between door and plate (common practice, no source)."""
FRAME, FRAME_MM = "frame", 20.0
"""The frame of the enclosure, and how far it reaches in on the side of the lock (common practice; its drawing decides)."""
_SLOTS = ("left", "right", "middle")


@dataclass(frozen=True, slots=True, kw_only=True)
class Solid:
    """Something behind the door or on the plate: seen from the front, and how deep it is from its own face, in mm."""

    name: str
    box: Box
    depth: float


@dataclass(frozen=True, slots=True, kw_only=True)
class DepthFault:
    """A door part that meets a plate part ("frame" for the frame of the enclosure): by how many mm it is too deep, and the angle in
    degrees at which the opening door meets it, 0 where the door does not even shut.
    """

    door: str
    plate: str
    missing: float
    angle: float


@dataclass(frozen=True, slots=True, kw_only=True)
class BlockPlace:
    """Where a contact sits behind a door device: its name, its layer from the front, and its slot seen from the front."""

    element: str
    layer: int
    slot: str


def clear_depth(enclosure: Enclosure) -> float:
    """Return the mm between the face of the plate and the inner face of the shut door."""
    return enclosure.depth - PLATE_OFF_MM - DOOR_SKIN_MM


def block_places(part: Part) -> tuple[BlockPlace, ...]:
    """Return where the contacts of a door device sit: left, right, then middle, which a lamp takes where it has one; three abreast,
    then a second layer behind them (common practice, no source).
    """
    has_lamp = any(e.kind is ElementKind.LAMP for e in part.elements)
    slots = [s for s in _SLOTS if not (has_lamp and s == "middle")]
    contacts = [e.name for e in part.elements if e.kind in CONTACT_KINDS]
    found = [BlockPlace(element="lamp", layer=1, slot="middle")] if has_lamp and contacts else []
    found.extend(
        BlockPlace(element=name, layer=1 + k // len(slots), slot=slots[k % len(slots)])
        for k, name in enumerate(contacts)
    )
    return tuple(found)


def depth_behind(part: Part) -> float:
    """Return how deep a door device reaches in, mm: itself, stacked contact blocks, and the bend of its wires."""
    layers = max((place.layer for place in block_places(part)), default=1)
    return part.depth + BLOCK_MM * (layers - 1) + BEND_MM


def plate_solids(layout: PlateLayout, parts: Mapping[str, Part]) -> list[Solid]:
    """Return what stands on the plate, in the door's frame; what sits on a rail stands on the rail's height besides.

    Args:
        layout: the plate.
        parts: those of the devices; what has none is a terminal strip.
    """
    found = []
    for name, box in layout.boxes.items():
        item = layout.items.get(name)
        depth = parts[name].depth if name in parts else STRIP_DEPTH_MM
        lift = RAIL_HEIGHT_MM if item is None or item.on_rail else 0.0
        found.append(Solid(name=name, box=_in_door(box), depth=depth + lift))
    found.extend(Solid(name=duct.code, box=_in_door(duct.box), depth=duct.depth) for duct in layout.ducts)
    return found


def door_solids(boxes: Mapping[str, Box], parts: Mapping[str, Part]) -> list[Solid]:
    """Return what hangs behind the door."""
    return [Solid(name=n, box=box, depth=depth_behind(parts[n])) for n, box in boxes.items() if n in parts]


def shaft_mm(enclosure: Enclosure, switch: Solid) -> float:
    """Return the mm from the front of the main switch to the outer face of the door, which its shaft spans."""
    return clear_depth(enclosure) + DOOR_SKIN_MM - switch.depth


def _in_door(box: Box) -> Box:
    return Box(x=box.x + EDGE_MM / 2, y=box.y + EDGE_MM / 2, w=box.w, h=box.h)


def find_meetings(door: Sequence[Solid], plate: Sequence[Solid], enclosure: Enclosure) -> tuple[DepthFault, ...]:
    """Return what of the door meets what of the plate, the worst for each door part and plate part once.

    The corner of a door part that is far from the hinges swings on a circle around them: it moves away from the hinges before it
    comes out, and meets what stands high beside it.
    """
    clear = clear_depth(enclosure)
    found = [fault for part in door for fault in _frame(part, _from_hinge(part.box, enclosure), enclosure)]
    for i, k in zip(*pairs_that_meet(door, plate, enclosure).nonzero(), strict=True):
        part, other = door[i], plate[k]
        own, theirs = _from_hinge(part.box, enclosure), _from_hinge(other.box, enclosure)
        found.append(_meet(part, own, other, theirs, clear - other.depth))
    return tuple(sorted(found, key=lambda f: (-f.missing, f.door, f.plate)))


def pairs_that_meet(door: Sequence[Solid], plate: Sequence[Solid], enclosure: Enclosure) -> Any:
    """Return which door part meets which plate part, shut or while it swings: a NumPy array of bool, door x plate."""
    return which_meet(measures_of(door, enclosure), measures_of(plate, enclosure), enclosure)


def which_meet(door: Any, plate: Any, enclosure: Enclosure) -> Any:
    """Return the same for parts by their measures."""
    import numpy as np

    x0, x1, y0, y1, deep = door[:, :, None]
    left, right, low, high, front = plate[:, None, :]
    level = clear_depth(enclosure) - front - AIR_MM
    reach = np.sqrt(np.maximum(x1**2 + deep**2 - np.maximum(level, 0.0) ** 2, 0.0))
    beside = np.minimum(y1, high) - np.maximum(y0, low) > 0
    return beside & (deep > level) & (right > x0) & ((left < x1) | (reach > left))


def which_pass(door: Any, enclosure: Enclosure) -> Any:
    """Return which door parts, by their measures, pass the frame of the enclosure while they swing: a NumPy array of bool."""
    import numpy as np

    body = door[4] - BEND_MM
    return (body <= 0) | (np.hypot(door[1], body) <= enclosure.width - FRAME_MM)


def measures_of(solids: Sequence[Solid], enclosure: Enclosure) -> Any:
    """Return near and far edge in mm from the hinges, lower and upper edge and depth of each: a NumPy array, 5 x solids."""
    import numpy as np

    rows = [(*_from_hinge(s.box, enclosure), s.box.y, s.box.top, s.depth) for s in solids]
    return np.array(rows).reshape(-1, 5).T


def _from_hinge(box: Box, enclosure: Enclosure) -> tuple[float, float]:
    """Return the near and far edge of a box, in mm from the hinges."""
    if enclosure.hinge == "left":
        return box.x, box.right
    return enclosure.width - box.right, enclosure.width - box.x


def _meet(part: Solid, own: tuple[float, float], other: Solid, theirs: tuple[float, float], front: float) -> DepthFault:
    """Return how a door part meets a plate part whose front lies `front` mm behind the door; one that does meet it."""
    level = front - AIR_MM
    if theirs[0] < own[1]:
        return DepthFault(door=part.name, plate=other.name, missing=part.depth - level, angle=0.0)
    allowed = sqrt(max(max(level, 0.0) ** 2 + theirs[0] ** 2 - own[1] ** 2, 0.0))
    radius = hypot(own[1], part.depth)
    angle = asin(part.depth / radius) - acos(min(1.0, theirs[0] / radius))
    return DepthFault(door=part.name, plate=other.name, missing=part.depth - allowed, angle=degrees(angle))


def _frame(part: Solid, own: tuple[float, float], enclosure: Enclosure) -> Iterator[DepthFault]:
    """Yield a door part that does not pass the frame of the enclosure on the side of the lock."""
    limit = enclosure.width - FRAME_MM
    body = part.depth - BEND_MM
    reach = hypot(own[1], body)
    if body > 0 and reach > limit:
        allowed = sqrt(max(0.0, limit**2 - own[1] ** 2))
        angle = 0.0 if own[1] > limit else degrees(asin(body / reach) - acos(limit / reach))
        yield DepthFault(door=part.name, plate=FRAME, missing=body - allowed, angle=angle)
