"""Owns the ledger's places on the door: what sits well stays, what is new takes the first free spot. Must not know wires.

Frame and mm as the door. Settling twice gives the same places: who found no good spot stays where it was put until one is free.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from riktig.catalogue.model import Part
from riktig.job.entries import OnDoor
from riktig.job.model import Job
from riktig.job.practice import Standard
from riktig.plan.circuit.model import Circuit
from riktig.plan.circuit.power import PowerCircuit
from riktig.plan.place.depth import (
    AIR_MM,
    Solid,
    clear_depth,
    depth_behind,
    measures_of,
    plate_solids,
    which_meet,
    which_pass,
)
from riktig.plan.place.door import box_on_door, door_devices, handle_of, room_of, with_window
from riktig.plan.place.door_groups import ROOM_X_MM, ROOM_Y_MM, DoorGroup, build_block, door_groups
from riktig.plan.place.door_proposal import DoorTask, propose_door
from riktig.plan.place.layout import Box, PlateLayout
from riktig.standards.operator_heights import reach_of

PITCH_X_MM, PITCH_Y_MM = 60.0, 80.0
"""Centre distances; IEC 60947-5-1 asks for 30 x 40 mm at least for 22 mm devices (from memory), the rest is for
legends and fingers."""
SMALL_W_MM, SMALL_H_MM = 30.0, 40.0
MARGIN_MM = 80.0
AIR_MARGIN_MM = 50.0
"""How far the frame of a fan or outlet filter stays from the edge of the door (common practice, no source)."""
MOST_ROWS = 5
HANDLE_ROOM_MM = 80.0
_BEYOND_ROWS = 8
_AIR = frozenset({"fan", "outlet-filter"})
"""What lets air in low and out high, on the side of the door that buttons and lamps fill last (common practice, no source)."""
_SLACK = 1e-6
Spot = tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Behind:
    """What of the plate the door must mind: where the handle of the main switch comes through, None without one, what is deep enough that
    something on the door could meet it, and whether somebody laid the plate out.
    """

    handle: Spot | None
    solids: tuple[Solid, ...]
    is_arranged: bool = False


def behind_door(
    job: Job, circuit: Circuit, plate: PlateLayout, parts: Mapping[str, Part], *, is_arranged: bool = False
) -> Behind:
    """Return what of the plate the door must mind."""
    parts = with_window(job, parts)
    sorts = {parts[device].code: parts[device] for device in door_devices(job, circuit)}
    deepest = max(map(depth_behind, sorts.values()), default=0.0)
    free = clear_depth(job.enclosure) - AIR_MM - deepest
    solids = tuple(solid for solid in plate_solids(plate, parts) if solid.depth > free)
    return Behind(handle=handle_of(job, plate), solids=solids, is_arranged=is_arranged)


def groups_on_door(job: Job, circuit: Circuit, power: Mapping[str, PowerCircuit]) -> tuple[DoorGroup, ...]:
    """Return the groups in which the devices of the door stand; what lets air in and out is in none."""
    devices = door_devices(job, circuit)
    return door_groups(
        circuit, power, [d for d in devices if d not in circuit.index or circuit.index[d].kind not in _AIR]
    )


def allocate_door(
    job: Job, circuit: Circuit, groups: Sequence[DoorGroup], behind: Behind, parts: Mapping[str, Part]
) -> dict[str, OnDoor]:
    """Return device -> place. Until the plate is laid out, something on the door is moved or a revision issued, it is a proposal, laid out
    anew group by group; from then on kept places stay while they are good, a new group goes where it has room as a whole, and a new device
    as near to its group as may be.

    Args:
        job: its enclosure and standard, and the places on the door in its ledger.
        circuit: its circuit.
        groups: the groups in which the devices stand.
        behind: what of the plate it must mind.
        parts: the parts of the devices.
    """
    parts, devices = with_window(job, parts), door_devices(job, circuit)
    kept = {device: job.ledger.places[device] for device in devices if device in job.ledger.places}
    is_settled = bool(kept) and (behind.is_arranged or job.revision is not None)
    if not is_settled and not any(choice.is_held for choice in kept.values()):
        filling = _propose(job, circuit, groups, behind, parts)
    else:
        filling = _keep(job, circuit, groups, behind, parts)
    return {device: filling.places[device] for device in devices}


def _propose(
    job: Job, circuit: Circuit, groups: Sequence[DoorGroup], behind: Behind, parts: Mapping[str, Part]
) -> "_Filling":
    """Return a door laid out group by group; one that is too full for that, device by device, if fewer are in the way then."""
    grouped = _Filling(job, behind, parts)
    for device, spot in propose_door(_task(job, circuit, groups, grouped, parts)).items():
        if grouped.is_open(device, spot):
            grouped.put(device, spot)
    devices = door_devices(job, circuit)
    grouped.fill(devices, groups)
    if grouped.lost <= max(0, len(devices) - grouped.most):
        return grouped
    dense = _Filling(job, behind, parts)
    dense.fill([device for group in groups for device in group.devices], ())
    dense.fill(devices, ())
    return min(grouped, dense, key=lambda filling: filling.lost)


def _keep(
    job: Job, circuit: Circuit, groups: Sequence[DoorGroup], behind: Behind, parts: Mapping[str, Part]
) -> "_Filling":
    """Return a door on which all that is held or stands well stays."""
    kept, devices = job.ledger.places, door_devices(job, circuit)
    filling = _Filling(job, behind, parts)
    stood = {device: kept[device].value for device in devices if device in kept}
    known = {device: (place.x, place.y) for device, place in stood.items() if isinstance(place, OnDoor)}
    good = filling.are_good([(device, spot) for device, spot in known.items() if not kept[device].is_held])
    for device, spot in known.items():
        if kept[device].is_held or good[device]:
            filling.put(device, spot)
    task = _task(job, circuit, groups, filling, parts)
    for group in groups:
        if filling.places.keys().isdisjoint(group.devices):
            filling.put_block(task, group)
    filling.fill(devices, groups, known)
    return filling


def _task(
    job: Job, circuit: Circuit, groups: Sequence[DoorGroup], filling: "_Filling", parts: Mapping[str, Part]
) -> DoorTask:
    is_iec = job.practice.standard is Standard.IEC
    return DoorTask(
        box=job.enclosure, circuit=circuit, parts=parts, groups=groups, controls=reach_of("control", is_iec=is_iec),
        stops=reach_of("emergency stop", is_iec=is_iec),
        bad=filling.count_bad,
    )  # fmt: skip


@dataclass(slots=True)
class _Sort:
    """The spots of the grid for parts of one size: where the centre would be, the room taken there, and whether the spot is legal and
    not taken: NumPy arrays, spots x 2, spots x 4, spots, spots.
    """

    centres: Any
    rooms: Any
    is_legal: Any
    is_free: Any

    right: float
    """The right edge of the rightmost room."""

    def take(self, room: Any) -> None:
        """Note that a room (1 x 4) is taken; one beyond all spots of the grid takes none."""
        if room[0, 0] < self.right:
            self.is_free &= ~_meet_rooms(self.rooms, room)


class _Rooms:
    """The rooms that are taken, n x 4."""

    def __init__(self) -> None:
        import numpy as np

        self._all, self._count = np.zeros((64, 4)), 0

    def add(self, room: Any) -> None:
        """Take another room, 1 x 4."""
        import numpy as np

        if self._count == len(self._all):
            self._all = np.concatenate([self._all, np.zeros_like(self._all)])
        self._all[self._count] = room
        self._count += 1

    @property
    def taken(self) -> Any:
        """All of them."""
        return self._all[: self._count]


class _Filling:
    """The door while it is being filled."""

    def __init__(self, job: Job, behind: Behind, parts: Mapping[str, Part]) -> None:
        self._job, self._parts = job, parts
        self._handle, self._behind = behind.handle, measures_of(behind.solids, job.enclosure)
        self._sizes: dict[str, tuple[float, float, float]] = {}
        self._grid = _grid(job)
        self._sorts: dict[tuple[float, float, float, str], _Sort] = {}
        self._rooms = _Rooms()
        self.places: dict[str, OnDoor] = {}
        self.lost = 0
        """How many devices found no good spot."""
        self._beyond = 0

    @property
    def most(self) -> int:
        """How many devices have room on the grid at most."""
        return len(self._grid)

    def put(self, device: str, spot: Spot) -> None:
        """Let a device sit with its centre at a spot."""
        self.places[device] = OnDoor(*spot)
        room = _rooms_of([_room(self._parts[device], *spot)])
        self._rooms.add(room)
        for sort in self._sorts.values():
            sort.take(room)

    def are_good(self, wanted: Sequence[tuple[str, Spot]]) -> dict[str, bool]:
        """Return for devices at spots whether they may stay there: on the door, clear of the handle and of what stands behind it."""
        good = self._good([device for device, _ in wanted], [spot for _, spot in wanted])
        return {device: bool(is_good) for (device, _), is_good in zip(wanted, good, strict=True)}

    def _good(self, devices: Sequence[str], spots: Sequence[Spot]) -> Any:
        """Return for spots whether they are good, each for a device: a NumPy array of bool."""
        sizes, at = _table([self._size(device) for device in devices], 3), _table(spots, 2)
        return self._is_clear(sizes, at) & self._is_legal(sizes, at)

    def _is_clear(self, sizes: Any, at: Any) -> Any:
        """Return whether devices with their centres at points are on the door and leave room for the hand at the main switch."""
        import numpy as np

        box, (x, y) = self._job.enclosure, at
        clear = (x <= box.width - MARGIN_MM / 2) & (y <= box.height - MARGIN_MM / 2)
        if self._handle is not None:
            beside = HANDLE_ROOM_MM + np.maximum(sizes[0] - SMALL_W_MM, 0) / 2
            above = HANDLE_ROOM_MM + np.maximum(sizes[1] - SMALL_H_MM, 0) / 2
            clear &= (abs(x - self._handle[0]) >= beside) | (abs(y - self._handle[1]) >= above)
        return clear

    def _is_legal(self, sizes: Any, at: Any) -> Any:
        """Return whether devices with their centres at points meet nothing behind the door, and pass its frame."""
        import numpy as np

        box, (x, y), (w, h, deep) = self._job.enclosure, at, sizes
        low, high = (y - h / 2).min(initial=np.inf), (y + h / 2).max(initial=-np.inf)
        behind = self._behind[:, (self._behind[2] < high) & (self._behind[3] > low)]
        near = x - w / 2 if box.hinge == "left" else box.width - x - w / 2
        door = np.array([near, near + w, y - h / 2, y + h / 2, deep])
        return which_pass(door, box) & ~which_meet(door, behind, box).any(axis=1)

    def _size(self, device: str) -> tuple[float, float, float]:
        """Return width and height of a device, and how deep it reaches in, in mm."""
        if device not in self._sizes:
            part = self._parts[device]
            self._sizes[device] = (part.width, part.height, depth_behind(part))
        return self._sizes[device]

    def is_open(self, device: str, spot: Spot) -> bool:
        """Return whether a spot is good and nothing has taken it yet."""
        return not self.count_bad({device: spot}) and not self._is_taken(device, spot)

    def count_bad(self, spots: Mapping[str, Spot]) -> int:
        """Return how many devices would stand off the door or badly at spots."""
        sizes, at = _table([self._size(device) for device in spots], 3), _table(list(spots.values()), 2)
        box, (x, y) = self._job.enclosure, at
        w, h = (sizes[0] + ROOM_X_MM) / 2, (sizes[1] + ROOM_Y_MM) / 2
        is_on = (x >= w) & (x <= box.width - w) & (y >= h) & (y <= box.height - h)
        return len(spots) - int((is_on & self._is_clear(sizes, at) & self._is_legal(sizes, at)).sum())

    def put_block(self, task: DoorTask, group: DoorGroup) -> None:
        """Put a whole group where all of it has a good spot, as high and as far left as may be; nothing where there is none."""
        block = build_block(group, task.circuit, task.parts, 2 * PITCH_X_MM)
        width, height = task.box.width - block.width, block.upper + block.lower
        for top in _steps(task.box.height - MARGIN_MM, height, -PITCH_Y_MM / 2):
            for left in _steps(MARGIN_MM / 2, width, PITCH_X_MM / 2):
                spots = block.at(left, top)
                if all(self.is_open(device, spot) for device, spot in spots.items()):
                    for device, spot in spots.items():
                        self.put(device, spot)
                    return

    def fill(self, devices: Sequence[str], groups: Sequence[DoorGroup], old: Mapping[str, Spot] | None = None) -> None:
        """Put all devices somewhere that have no place yet, near to their groups; what finds no good spot stays where it was."""
        members = {device: group.devices for group in groups for device in group.devices}
        for device in devices:
            if device not in self.places:
                self.find_place(device, beside=members.get(device, ()), old=(old or {}).get(device))

    def find_place(self, device: str, *, beside: Sequence[str], old: Spot | None) -> None:
        """Put a device on the good spot that is nearest to what it belongs to, the first of all where that is nowhere; where there is none
        it stays where it was, else goes where nothing but what stands behind is against it, else beside the door, which a finding says.
        """
        sort = self._sort(self._parts[device])
        near = [self.places[other] for other in beside if other in self.places]
        middle = (sum(p.x for p in near) / len(near), sum(p.y for p in near) / len(near)) if near else None
        spot = _first(sort, sort.is_free & sort.is_legal, middle)
        self.lost += spot is None
        if spot is None and old is not None and not self._is_taken(device, old):
            spot = old
        self.put(device, spot or _first(sort, sort.is_free, middle) or self._beside(device))

    def _is_taken(self, device: str, spot: Spot) -> bool:
        return bool(_meet_rooms(_rooms_of([_room(self._parts[device], *spot)]), self._rooms.taken).any())

    def _sort(self, part: Part) -> _Sort:
        key = (part.width, part.height, depth_behind(part), part.kind if part.kind in _AIR else "")
        if key not in self._sorts:
            self._sorts[key] = self._make_sort(part)
        return self._sorts[key]

    def _make_sort(self, part: Part) -> _Sort:
        import numpy as np

        in_columns = (_anchored(spot, part) for spot in self._grid)
        spots = np.array(_air_spots(self._job, part) if part.kind in _AIR else list(in_columns)).reshape(-1, 2)
        sizes = np.array([[part.width], [part.height], [depth_behind(part)]])
        spots = spots[self._is_clear(sizes, spots.T)]
        rooms = _rooms_of([_room(part, *spot) for spot in spots.tolist()])
        return _Sort(
            centres=spots, rooms=rooms, is_legal=self._is_legal(sizes + 0 * spots[:, :1].T, spots.T),
            is_free=~_meet_rooms(rooms, self._rooms.taken), right=float(rooms[:, 2].max(initial=0.0)),
        )  # fmt: skip

    def _beside(self, device: str) -> Spot:
        """Return a spot right of the door that nothing has taken yet."""
        box = self._job.enclosure
        while True:
            column, row = divmod(self._beyond, _BEYOND_ROWS)
            spot = (box.width + PITCH_X_MM * (1 + column), box.height - PITCH_Y_MM * (1 + row))
            if not self._is_taken(device, spot):
                return spot
            self._beyond += 1


def _first(sort: _Sort, mask: Any, middle: Spot | None) -> Spot | None:
    """Return the spot of a mask that is nearest to a point, the first one where none is given, None if there is none."""
    import numpy as np

    if not mask.any():
        return None
    place = int(mask.argmax())
    if middle is not None:
        away = np.hypot(sort.centres[:, 0] - middle[0], sort.centres[:, 1] - middle[1])
        place = int(np.where(mask, away, np.inf).argmin())
    x, y = sort.centres[place].tolist()
    return x, y


def _steps(first: float, last: float, step: float) -> list[float]:
    """Return values from the first to the last, both among them where the steps meet it."""
    return [first + step * n for n in range(int((last - first) / step) + 1)] if (last - first) * step >= 0 else []


def _meet_rooms(rooms: Any, taken: Any) -> Any:
    """Return which of some rooms (n x 4: left, low, right, high) overlap one of those that are taken (m x 4)."""
    import numpy as np

    left, low, right, high = taken.T
    beside = np.minimum(rooms[:, 2, None], right) - np.maximum(rooms[:, 0, None], left) > _SLACK
    above = np.minimum(rooms[:, 3, None], high) - np.maximum(rooms[:, 1, None], low) > _SLACK
    return (beside & above).any(axis=1)


def _table(rows: Sequence[Sequence[float]], width: int) -> Any:
    """Return rows of values as NumPy arrays, one for each column."""
    import numpy as np

    return np.array(rows, dtype=float).reshape(-1, width).T


def _rooms_of(boxes: Sequence[Box]) -> Any:
    """Return boxes as an array n x 4: left, low, right, high."""
    import numpy as np

    return np.array([(box.x, box.y, box.right, box.top) for box in boxes]).reshape(-1, 4)


def _anchored(spot: Spot, part: Part) -> Spot:
    """Return the centre of a device whose upper left corner stands where a small one's would."""
    return spot[0] + max(part.width - SMALL_W_MM, 0) / 2, spot[1] - max(part.height - SMALL_H_MM, 0) / 2


def _room(part: Part, x: float, y: float) -> Box:
    """Return the room that a device takes, with its legend and finger room."""
    return room_of(box_on_door(part, x, y))


def _air_spots(job: Job, part: Part) -> list[Spot]:
    """Return spots for a fan from the lower edge of the door up, for its outlet from the upper edge down, from the right."""
    box = job.enclosure
    w, h = box.width - 2 * AIR_MARGIN_MM - part.width, box.height - 2 * AIR_MARGIN_MM - part.height
    if w < 0 or h < 0:
        return []
    lefts = [AIR_MARGIN_MM + w - PITCH_X_MM * n for n in range(int(w // PITCH_X_MM) + 1)]
    lows = [AIR_MARGIN_MM + PITCH_Y_MM * n for n in range(int(h // PITCH_Y_MM) + 1)]
    if part.kind != "fan":
        lows = [AIR_MARGIN_MM + h - (low - AIR_MARGIN_MM) for low in lows]
    return [(x + part.width / 2, y + part.height / 2) for y in lows for x in lefts]


def _grid(job: Job) -> list[Spot]:
    """Return spots column by column from the upper left, from eye level down."""
    width, height = job.enclosure.width, job.enclosure.height
    top = height - MARGIN_MM - PITCH_Y_MM
    columns = max(1, int((width - 2 * MARGIN_MM) // PITCH_X_MM) + 1)
    rows = max(1, min(MOST_ROWS, int((top - MARGIN_MM) // PITCH_Y_MM) + 1))
    return [(MARGIN_MM + c * PITCH_X_MM, top - r * PITCH_Y_MM) for c in range(columns) for r in range(rows)]
