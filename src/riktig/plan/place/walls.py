"""Owns what sits in the side walls of the enclosure: fans, filters and whatever else has a cut-out there. Must not know wires.

Frame: mm of a wall seen from outside, x from its left edge, y from below: x of the left wall begins at the back wall, that of the right one
at the door.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from riktig.catalogue.model import Part
from riktig.job.model import Enclosure, Job
from riktig.plan.circuit.model import Circuit, CircuitDevice
from riktig.plan.place.depth import AIR_MM, DOOR_SKIN_MM, PLATE_OFF_MM, Solid, depth_behind, door_solids, plate_solids
from riktig.plan.place.door import Cutout, DoorLayout, box_on_door, cutout_of
from riktig.plan.place.layout import Box, PlateLayout

WALL_EDGE_MM = 40.0
"""Free edge of a side wall (common practice, no source)."""
WEB_MM = 40.0
"""Between two cut-outs, for their frames and for the hand (common practice, no source)."""
_STEP_MM = 10.0
_SIDES = ("left", "right")


@dataclass(frozen=True, slots=True, kw_only=True)
class WallFault:
    """What in a wall meets what inside, and by how many mm it reaches in too far."""

    device: str
    other: str
    missing: float


@dataclass(frozen=True, slots=True, kw_only=True)
class WallLayout:
    """A side wall with its cut-outs: `side` left or right, `width` the depth of the enclosure; what they meet inside."""

    side: str
    width: float
    height: float
    cutouts: tuple[Cutout, ...]
    meetings: tuple[WallFault, ...] = ()

    def from_back(self, hole: Cutout) -> float:
        """Return how far the middle of a cut-out is from the back wall, in mm."""
        return hole.x if self.side == "left" else self.width - hole.x


@dataclass(frozen=True, slots=True)
class Inside:
    """Something inside, seen through a wall, and how far it stands from that in mm."""

    name: str
    box: Box
    gap: float


def inside_of(
    enclosure: Enclosure, side: str, parts: Mapping[str, Part], plate: PlateLayout, door: DoorLayout
) -> tuple[Inside, ...]:
    """Return what stands on the plate and hangs in the door as seen through a side wall."""
    plate_face, door_face = PLATE_OFF_MM, enclosure.depth - DOOR_SKIN_MM
    behind = [(solid, plate_face, plate_face + solid.depth) for solid in plate_solids(plate, parts)]
    behind += [(solid, door_face - solid.depth, door_face) for solid in door_solids(door.boxes, parts)]
    return tuple(_through(solid, enclosure, side, back, front) for solid, back, front in behind)


def _through(solid: Solid, enclosure: Enclosure, side: str, back: float, front: float) -> Inside:
    x = back if side == "left" else enclosure.depth - front
    gap = solid.box.x if side == "left" else enclosure.width - solid.box.right
    return Inside(solid.name, Box(x=x, y=solid.box.y, w=front - back, h=solid.box.h), gap)


def meetings_of(cutout: Cutout, part: Part, inside: Iterable[Inside]) -> Iterator[WallFault]:
    """Yield what a device in a wall would meet inside with its wires, air kept."""
    body = box_on_door(part, cutout.x, cutout.y)
    for one in inside:
        missing = _missing(part, one)
        if missing > 0 and min(body.overlap(one.box)) > 0:
            yield WallFault(device=cutout.device, other=one.name, missing=missing)


def _missing(part: Part, one: Inside) -> float:
    """Return how many mm too far a part would reach in before something inside."""
    return depth_behind(part) + AIR_MM - one.gap


def build_walls(
    job: Job, circuit: Circuit, parts: Mapping[str, Part], plate: PlateLayout, door: DoorLayout
) -> tuple[WallLayout, ...]:
    """Return the side walls that have cut-outs: fans low, filters high, all else in the middle, where nothing inside is met if there is
    such a place; what somebody holds stays.
    """
    found = []
    for side in _SIDES:
        devices = [d for d in circuit.devices if d.wall == side]
        if devices:
            inside = inside_of(job.enclosure, side, parts, plate, door)
            cutouts = _cutouts(job, devices, parts, inside)
            meetings = [fault for c in cutouts for fault in meetings_of(c, parts[c.device], inside)]
            found.append(
                WallLayout(
                    side=side, width=job.enclosure.depth, height=job.enclosure.height, cutouts=tuple(cutouts), meetings=tuple(meetings)
                )
            )  # fmt: skip
    return tuple(found)


def _cutouts(
    job: Job, devices: Sequence[CircuitDevice], parts: Mapping[str, Part], inside: Sequence[Inside]
) -> list[Cutout]:
    kept = {key: choice.value for key, choice in job.ledger.holes.items() if choice.is_held}
    placed = {d.id: _cutout(d, parts, kept[d.id].x, kept[d.id].y) for d in devices if d.id in kept}
    for device in (d for d in devices if d.id not in kept):
        part = parts[device.id]
        near = [one for one in inside if _missing(part, one) > 0]
        spots = [_cutout(device, parts, *spot) for spot in _spots(job.enclosure, device, part)]
        free = (c for c in spots if _badness(c, parts, placed, near) == (0.0, 0.0))
        placed[device.id] = next(free, None) or min(spots, key=lambda c: _badness(c, parts, placed, near))
    return [placed[device.id] for device in devices]


def _badness(
    cutout: Cutout, parts: Mapping[str, Part], placed: Mapping[str, Cutout], inside: Sequence[Inside]
) -> tuple[float, float]:
    """Return by how many mm a spot overlaps others, and what is inside."""
    part = parts[cutout.device]
    own = box_on_door(part, cutout.x, cutout.y)
    others = (box_on_door(parts[other.device], other.x, other.y) for other in placed.values())
    crowded = sum(max(0.0, min(own.overlap(other)) + WEB_MM) for other in others)
    return crowded, float(sum(fault.missing for fault in meetings_of(cutout, part, inside)))


def _spots(enclosure: Enclosure, device: CircuitDevice, part: Part) -> Iterator[tuple[float, float]]:
    """Yield centres from where a device is wanted on: as near to its height, and to the middle of the wall, as may be."""
    low, high = WALL_EDGE_MM + part.height / 2, enclosure.height - WALL_EDGE_MM - part.height / 2
    wanted = {"fan": low, "outlet-filter": high}.get(device.kind, (low + high) / 2)
    middle, aside = enclosure.depth / 2, max(0.0, enclosure.depth / 2 - WALL_EDGE_MM - part.width / 2)
    ys = sorted({wanted, *_grid(low, high)}, key=lambda y: abs(y - wanted))
    xs = sorted({middle, *_grid(middle - aside, middle + aside)}, key=lambda x: abs(x - middle))
    yield from ((x, y) for y in ys for x in xs)


def _grid(low: float, high: float) -> list[float]:
    return [low + _STEP_MM * k for k in range(int((high - low) // _STEP_MM) + 1)] if high >= low else [(low + high) / 2]


def _cutout(device: CircuitDevice, parts: Mapping[str, Part], x: float, y: float) -> Cutout:
    return cutout_of(device.id, parts[device.id], round(x, 1), round(y, 1))
