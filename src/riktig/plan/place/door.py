"""Owns where devices sit on the door as the ledger has it, its cut-outs, and what they meet behind it. Must not choose a place.

Frame: mm, origin at the lower left corner of the door seen from the front, x right, y up.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from riktig.catalogue.model import Mounting, Part
from riktig.job.entries import OnDoor
from riktig.job.ledger import Choices
from riktig.job.model import Job
from riktig.plan.circuit.model import DOOR, DOOR_STUD, Circuit
from riktig.plan.circuit.zones import zones_of
from riktig.plan.place.depth import DepthFault, door_solids, find_meetings, plate_solids, shaft_mm
from riktig.plan.place.door_groups import ROOM_X_MM, ROOM_Y_MM, DoorGroup
from riktig.plan.place.layout import EDGE_MM, Box, PlateLayout

HANDLE_HOLE_MM = 22.5
HANDLE_TOLERANCE_MM = 3.0
"""How far the shaft may be out of the middle of its handle (common practice; the handle's sheet decides)."""
WINDOW = "window"
"""What the cut-out of the door's window is called; its place in the ledger is kept like that of a device."""
WINDOW_FRAME_MM, WINDOW_DEPTH_MM = 20.0, 15.0
"""How wide the frame of a window is around its cut-out, and how deep it reaches in (common practice, no source)."""


WEB_MM = 10.0
"""Sheet that stays between two cut-outs of no standard size (common practice, no source)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Cutout:
    """A hole in the door: its centre, and its diameter, or 0 and its width and height, in mm; `device` is what it is for.

    `tolerance` is how many mm it may be out of place.
    """

    device: str
    x: float
    y: float
    diameter: float
    w: float = 0.0
    h: float = 0.0
    tolerance: float = 1.0

    @property
    def box(self) -> Box:
        """What it takes out of the door."""
        w, h = (self.diameter, self.diameter) if self.diameter else (self.w, self.h)
        return Box(x=self.x - w / 2, y=self.y - h / 2, w=w, h=h)


@dataclass(frozen=True, slots=True, kw_only=True)
class DoorLayout:
    """The door: size, cut-outs, and the box of each device behind and in front of it, in mm; what it meets when it is shut or swings;
    how long the shaft of the main switch is, None without one; `groups` which devices stand together.
    """

    width: float
    height: float
    cutouts: tuple[Cutout, ...]
    boxes: Mapping[str, Box]
    meetings: tuple[DepthFault, ...] = ()
    shaft: float | None = None
    groups: tuple[DoorGroup, ...] = ()

    @property
    def frames(self) -> dict[str, Box]:
        """What each group of a motor or module takes of the door, with the room of its devices, by its owner; the panel's own has none.
        Those beside each other are as high as the highest, so that their names stand in one line, where nothing else is above them.
        """
        found = {}
        for group in self.groups:
            rooms = [room_of(self.boxes[device]) for device in group.devices if device in self.boxes]
            if group.owner and rooms:
                x, y = min(room.x for room in rooms), min(room.y for room in rooms)
                w, h = max(room.right for room in rooms) - x, max(room.top for room in rooms) - y
                found[group.owner] = Box(x=x, y=y, w=w, h=h)
        taken = [(device, room_of(box)) for device, box in self.boxes.items()]
        taken += [
            (c.device, c.box) for c in self.cutouts if c.device not in self.boxes
        ]  # the handle of the main switch
        inside = {group.owner: frozenset(group.devices) for group in self.groups}
        return {owner: _raised(own, found, taken, inside[owner]) for owner, own in found.items()}


def _raised(own: Box, frames: Mapping[str, Box], taken: Sequence[tuple[str, Box]], inside: frozenset[str]) -> Box:
    """Return a frame with its upper edge at the height of those beside it, as it is where something stands there."""
    top = max(f.top for f in frames.values() if 2 * own.overlap(f)[1] > min(own.h, f.h))
    if top <= own.top:
        return own
    above = Box(x=own.x, y=own.top, w=own.w, h=top - own.top)
    is_free = all(device in inside or min(above.overlap(box)) <= 0 for device, box in taken)
    return replace(own, h=top - own.y) if is_free else own


def room_of(box: Box) -> Box:
    """Return what a device on the door takes with its legend and room for the hand, by what it covers."""
    return Box(x=box.x - ROOM_X_MM / 2, y=box.y - ROOM_Y_MM / 2, w=box.w + ROOM_X_MM, h=box.h + ROOM_Y_MM)


def door_devices(job: Job, circuit: Circuit) -> list[str]:
    """Return what has a place on the door: its devices in drawing order, then the window."""
    zones = zones_of(circuit)
    devices = [d.id for d in circuit.devices if zones[d.id] == DOOR and d.id != DOOR_STUD]
    return [*devices, WINDOW] if job.enclosure.window is not None else devices


def with_window(job: Job, parts: Mapping[str, Part]) -> Mapping[str, Part]:
    """Return the parts with that of the window, if there is one: its cut-out with a frame around it."""
    if job.enclosure.window is None:
        return parts
    w, h = job.enclosure.window
    window = Part(
        code=WINDOW, kind=WINDOW, title="Window", width=w + 2 * WINDOW_FRAME_MM, height=h + 2 * WINDOW_FRAME_MM, depth=WINDOW_DEPTH_MM,
        mounting=Mounting.DOOR, elements=(), terminals=(), ratings={"cut_w": w, "cut_h": h}, traits={},
    )  # fmt: skip
    return {**parts, WINDOW: window}


def handle_of(job: Job, plate: PlateLayout) -> tuple[float, float] | None:
    """Return where the shaft of the main switch comes through the door in mm, None without one."""
    if job.incoming.switch != "door" or "Q0" not in plate.boxes:
        return None
    x, y = plate.boxes["Q0"].centre
    return x + EDGE_MM / 2, y + EDGE_MM / 2


def box_on_door(part: Part, x: float, y: float) -> Box:
    """Return what a part covers of the door with its centre at a point in mm."""
    return Box(x=x - part.width / 2, y=y - part.height / 2, w=part.width, h=part.height)


def cutout_of(device: str, part: Part, x: float, y: float) -> Cutout:
    """Return what is cut for a part with its centre at a point in mm."""
    return Cutout(
        device=device, x=x, y=y, diameter=part.rating("hole_mm"), w=part.rating("cut_w"), h=part.rating("cut_h")
    )


def read_door(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    plate: PlateLayout,
    groups: tuple[DoorGroup, ...],
    places: Choices,
) -> DoorLayout:
    """Return the door as the ledger has it; a door handle carries the centre of the main switch over from the plate."""
    cutouts: list[Cutout] = []
    boxes: dict[str, Box] = {}
    parts = with_window(job, parts)
    for device in door_devices(job, circuit):
        place, part = places[device].value, parts[device]
        if not isinstance(place, OnDoor):
            raise KeyError(device)
        x, y = place.x, place.y
        boxes[device] = box_on_door(part, x, y)
        if part.rating("hole_mm") or part.rating("cut_w"):
            cutouts.append(cutout_of(device, part, x, y))
    behind = plate_solids(plate, parts)
    handle, shaft = handle_of(job, plate), None
    if handle is not None:
        shaft = shaft_mm(job.enclosure, next(solid for solid in behind if solid.name == "Q0"))
        cutouts.append(
            Cutout(device="Q0", x=handle[0], y=handle[1], diameter=HANDLE_HOLE_MM, tolerance=HANDLE_TOLERANCE_MM)
        )
    meetings = find_meetings(door_solids(boxes, parts), behind, job.enclosure)
    x = 25.0 if job.enclosure.hinge == "left" else job.enclosure.width - 25.0
    boxes[DOOR_STUD] = Box(x=x - 10, y=30, w=20, h=20)
    if DOOR_STUD in parts:
        cutouts.append(cutout_of(DOOR_STUD, parts[DOOR_STUD], x, 40.0))
    return DoorLayout(
        width=job.enclosure.width, height=job.enclosure.height, cutouts=tuple(cutouts), boxes=boxes, meetings=meetings, shaft=shaft,
        groups=groups,
    )  # fmt: skip
