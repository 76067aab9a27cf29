"""Owns where devices sit on the door, its cut-outs, and what they meet behind it. Must not know wires.

Frame: mm, origin at the lower left corner of the door seen from the front, x right, y up.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from riktig.catalogue.model import Mounting, Part
from riktig.job.ledger import Choices
from riktig.job.model import Job
from riktig.plan.circuit import DOOR, DOOR_STUD, Circuit
from riktig.plan.depth import DepthFault, Solid, depth_behind, door_solids, find_meetings, plate_solids, shaft_mm
from riktig.plan.plate import EDGE_MM, Box, PlateLayout
from riktig.plan.zones import zones_of

PITCH_X_MM, PITCH_Y_MM = 60.0, 80.0
"""Centre distances; IEC 60947-5-1 asks for 30 x 40 mm at least for 22 mm devices (from memory), the rest is for
legends and fingers."""
SMALL_W_MM, SMALL_H_MM = 30.0, 40.0
MARGIN_MM = 80.0
MOST_ROWS = 5
HANDLE_ROOM_MM = 80.0
HANDLE_HOLE_MM = 22.5
HANDLE_TOLERANCE_MM = 3.0
"""How far the shaft may be out of the middle of its handle (common practice; the handle's sheet decides)."""
WINDOW = "window"
"""What the cut-out of the door's window is called; its place in the ledger is kept like that of a device."""
WINDOW_FRAME_MM, WINDOW_DEPTH_MM = 20.0, 15.0
"""How wide the frame of a window is around its cut-out, and how deep it reaches in (common practice, no source)."""


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
    how long the shaft of the main switch is, None without one.
    """

    width: float
    height: float
    cutouts: tuple[Cutout, ...]
    boxes: Mapping[str, Box]
    meetings: tuple[DepthFault, ...] = ()
    shaft: float | None = None


def _door_devices(job: Job, circuit: Circuit) -> list[str]:
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


def allocate_door(
    job: Job, circuit: Circuit, kept: Choices, plate: PlateLayout, parts: Mapping[str, Part]
) -> dict[str, str]:
    """Return device -> `door X Y` (centre in mm): starters side by side in columns, kept places stay.

    Args:
        job: the Job.
        circuit: its circuit.
        kept: places in the ledger.
        plate: the plate, from which the handle of the main switch is carried over.
        parts: the parts of the devices.
    """
    handle = _handle(job, plate)
    behind = plate_solids(plate, parts)
    grid = [spot for spot in _grid(job) if handle is None or _is_clear(spot, handle)]
    owner = {d.id: d.owner for d in circuit.devices}
    devices, parts = _door_devices(job, circuit), with_window(job, parts)
    result: dict[str, str] = {}
    placed: list[Box] = []
    taken: list[Box] = []
    for device in devices:
        choice = kept.get(device)
        if choice is not None and (choice.is_held or _still_fits(choice.value, job, parts[device], handle, behind)):
            result[device] = choice.value
            _, x_text, y_text = choice.value.split()
            placed.append(_room(float(x_text), float(y_text), parts[device]))
    open_spots = [spot for spot in grid if not any(_covers(box, spot) for box in placed)]
    last_owner: str | None = None
    for device in devices:
        if device in result:
            continue
        mine = owner.get(device)
        begins = mine != last_owner and last_owner is not None and mine is not None
        after = _last_x(result) if begins else -1.0
        last_owner = mine
        near = [*placed, *taken] if _is_large(parts[device]) else placed
        found = _first_free(open_spots, parts[device], near, job, after, behind)
        x, y = found or _first_free(open_spots, parts[device], near, job, after) or _beyond(job, len(result))
        room = _room(x, y, parts[device])
        (placed if _is_large(parts[device]) else taken).append(room)
        open_spots = [spot for spot in open_spots if not _covers(room, spot)]
        result[device] = f"door {x:g} {y:g}"
    return {device: result[device] for device in devices}


def _still_fits(place: str, job: Job, part: Part, handle: tuple[float, float] | None, behind: Sequence[Solid]) -> bool:
    """Return whether a device may stay where it is: on the door, clear of the handle, and of what stands behind it."""
    _, x, y = place.split()
    spot = float(x), float(y)
    is_clear = handle is None or _is_clear(spot, handle)
    return is_clear and _is_on_door(place, job) and not _is_in_the_way(spot, job, part, behind)


def _is_in_the_way(spot: tuple[float, float], job: Job, part: Part, behind: Sequence[Solid]) -> bool:
    box = _box_of(part, *spot)
    return bool(find_meetings([Solid(name="", box=box, depth=depth_behind(part))], behind, job.enclosure))


def _box_of(part: Part, x: float, y: float) -> Box:
    return Box(x=x - part.width / 2, y=y - part.height / 2, w=part.width, h=part.height)


def _first_free(
    spots: Sequence[tuple[float, float]],
    part: Part,
    placed: Sequence[Box],
    job: Job,
    after: float,
    behind: Sequence[Solid] = (),
) -> tuple[float, float] | None:
    """Return the first spot right of `after` where a part meets nothing, else the first of all, None if there is none."""
    for wanted in (after, -1.0) if after > 0 else (-1.0,):
        for spot in spots:
            x, y = _anchored(spot, part)
            if x > wanted + 1 and _is_on_door(f"door {x:g} {y:g}", job):
                room = _room(x, y, part)
                if not any(min(room.overlap(box)) > 1e-6 for box in placed) and not _is_in_the_way(
                    (x, y), job, part, behind
                ):
                    return x, y
    return None


def _covers(box: Box, spot: tuple[float, float]) -> bool:
    """Return whether the middle of a spot lies in a box."""
    return box.x < spot[0] < box.x + box.w and box.y < spot[1] < box.y + box.h


def _anchored(spot: tuple[float, float], part: Part) -> tuple[float, float]:
    """Return the centre of a device whose upper left corner stands where a small one's would."""
    return spot[0] + max(part.width - SMALL_W_MM, 0) / 2, spot[1] - max(part.height - SMALL_H_MM, 0) / 2


def _room(x: float, y: float, part: Part) -> Box:
    """Return the room that a device takes, with its legend and finger room."""
    w, h = part.width + PITCH_X_MM - SMALL_W_MM, part.height + PITCH_Y_MM - SMALL_H_MM
    return Box(x=x - w / 2, y=y - h / 2, w=w, h=h)


def _is_large(part: Part) -> bool:
    """Return whether a device takes more than one spot of the grid; small ones meet each other on none."""
    return part.width > SMALL_W_MM or part.height > SMALL_H_MM


def _is_on_door(place: str, job: Job) -> bool:
    _, x, y = place.split()
    return float(x) <= job.enclosure.width - MARGIN_MM / 2 and float(y) <= job.enclosure.height - MARGIN_MM / 2


def _handle(job: Job, plate: PlateLayout) -> tuple[float, float] | None:
    """Return where the shaft of the main switch comes through the door, None without one."""
    if job.incoming.switch != "door" or "Q0" not in plate.boxes:
        return None
    x, y = plate.boxes["Q0"].centre
    return x + EDGE_MM / 2, y + EDGE_MM / 2


def _is_clear(spot: tuple[float, float], handle: tuple[float, float]) -> bool:
    return abs(spot[0] - handle[0]) >= HANDLE_ROOM_MM or abs(spot[1] - handle[1]) >= HANDLE_ROOM_MM


def _last_x(result: Mapping[str, str]) -> float:
    return float(list(result.values())[-1].split()[1]) if result else -1.0


def _grid(job: Job) -> list[tuple[float, float]]:
    """Return spots column by column from the upper left, from eye level down."""
    width, height = job.enclosure.width, job.enclosure.height
    top = height - MARGIN_MM - PITCH_Y_MM
    columns = max(1, int((width - 2 * MARGIN_MM) // PITCH_X_MM) + 1)
    rows = max(1, min(MOST_ROWS, int((top - MARGIN_MM) // PITCH_Y_MM) + 1))
    return [(MARGIN_MM + c * PITCH_X_MM, top - r * PITCH_Y_MM) for c in range(columns) for r in range(rows)]


def _beyond(job: Job, count: int) -> tuple[float, float]:
    """Return a spot right of the door: it does not fit, and the finding says so."""
    return job.enclosure.width + PITCH_X_MM * (1 + count // 8), job.enclosure.height - PITCH_Y_MM * (1 + count % 8)


def read_door(job: Job, circuit: Circuit, parts: Mapping[str, Part], plate: PlateLayout, places: Choices) -> DoorLayout:
    """Return the door as the ledger has it; a door handle carries the centre of the main switch over from the plate."""
    cutouts: list[Cutout] = []
    boxes: dict[str, Box] = {}
    parts = with_window(job, parts)
    for device in _door_devices(job, circuit):
        _, x_text, y_text = places[device].value.split()
        x, y, part = float(x_text), float(y_text), parts[device]
        boxes[device] = _box_of(part, x, y)
        if part.rating("hole_mm") or part.rating("cut_w"):
            cutouts.append(
                Cutout(
                    device=device,
                    x=x,
                    y=y,
                    diameter=part.rating("hole_mm"),
                    w=part.rating("cut_w"),
                    h=part.rating("cut_h"),
                )
            )
    behind = plate_solids(plate, parts)
    handle, shaft = _handle(job, plate), None
    if handle is not None:
        shaft = shaft_mm(job.enclosure, next(solid for solid in behind if solid.name == "Q0"))
        cutouts.append(
            Cutout(device="Q0", x=handle[0], y=handle[1], diameter=HANDLE_HOLE_MM, tolerance=HANDLE_TOLERANCE_MM)
        )
    meetings = find_meetings(door_solids(boxes, parts), behind, job.enclosure)
    boxes[DOOR_STUD] = Box(x=15, y=30, w=20, h=20)
    return DoorLayout(
        width=job.enclosure.width, height=job.enclosure.height, cutouts=tuple(cutouts), boxes=boxes, meetings=meetings, shaft=shaft
    )  # fmt: skip
