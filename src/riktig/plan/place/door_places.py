"""Owns the ledger's places on the door: what sits well stays, what is new takes the first free spot. Must not know wires.

Frame and mm as the door. Settling twice gives the same places: who found no good spot stays where it was put until one is free.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from riktig.catalogue.model import Part
from riktig.job.entries import OnDoor
from riktig.job.model import Job
from riktig.plan.circuit.model import Circuit
from riktig.plan.place.depth import (
    AIR_MM,
    Solid,
    clear_depth,
    depth_behind,
    pairs_that_meet,
    passes_frame,
    plate_solids,
)
from riktig.plan.place.door import box_on_door, door_devices, handle_of, with_window
from riktig.plan.place.layout import Box, PlateLayout

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
    """What of the plate the door must mind: where the handle of the main switch comes through, None without one, and what is deep
    enough that something on the door could meet it.
    """

    handle: Spot | None
    solids: tuple[Solid, ...]


def behind_door(job: Job, circuit: Circuit, plate: PlateLayout, parts: Mapping[str, Part]) -> Behind:
    """Return what of the plate the door must mind."""
    parts = with_window(job, parts)
    sorts = {parts[device].code: parts[device] for device in door_devices(job, circuit)}
    deepest = max(map(depth_behind, sorts.values()), default=0.0)
    free = clear_depth(job.enclosure) - AIR_MM - deepest
    solids = tuple(solid for solid in plate_solids(plate, parts) if solid.depth > free)
    return Behind(handle=handle_of(job, plate), solids=solids)


def allocate_door(job: Job, circuit: Circuit, behind: Behind, parts: Mapping[str, Part]) -> dict[str, OnDoor]:
    """Return device -> place: starters side by side in columns, kept places stay while they are good.

    Args:
        job: its enclosure, and the places on the door in its ledger.
        circuit: its circuit.
        behind: what of the plate it must mind.
        parts: the parts of the devices.
    """
    kept = job.ledger.places
    parts, devices = with_window(job, parts), door_devices(job, circuit)
    filling = _Filling(job, behind, parts)
    stood = {device: kept[device].value for device in devices if device in kept}
    known = {device: (place.x, place.y) for device, place in stood.items() if isinstance(place, OnDoor)}
    good = filling.are_good([(device, spot) for device, spot in known.items() if not kept[device].is_held])
    for device, spot in known.items():
        if kept[device].is_held or good[device]:
            filling.put(device, spot)
    last_owner: str | None = None
    for device in devices:
        if device in filling.places:
            continue
        mine = circuit.index[device].owner if device in circuit.index else None
        begins = mine != last_owner and last_owner is not None and mine is not None
        filling.find_place(device, after=filling.last_x if begins else -1.0, old=known.get(device))
        last_owner = mine
    return {device: filling.places[device] for device in devices}


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
        self._handle, self._behind = behind.handle, behind.solids
        self._grid = _grid(job)
        self._sorts: dict[tuple[float, float, float, str], _Sort] = {}
        self._rooms = _Rooms()
        self.places: dict[str, OnDoor] = {}
        self.last_x = -1.0
        self._beyond = 0

    def put(self, device: str, spot: Spot) -> None:
        """Let a device sit with its centre at a spot."""
        self.places[device] = OnDoor(*spot)
        if self._parts[device].kind not in _AIR:
            self.last_x = spot[0]
        room = _rooms_of([_room(self._parts[device], *spot)])
        self._rooms.add(room)
        for sort in self._sorts.values():
            sort.take(room)

    def are_good(self, wanted: Sequence[tuple[str, Spot]]) -> dict[str, bool]:
        """Return for devices at spots whether they may stay there: on the door, clear of the handle and of what stands behind it."""
        solids = [self._solid(self._parts[device], spot) for device, spot in wanted]
        is_behind = pairs_that_meet(solids, self._behind, self._job.enclosure).any(axis=1)
        return {
            device: not hit and passes_frame(solid, self._job.enclosure) and self._is_clear(self._parts[device], spot)
            for (device, spot), solid, hit in zip(wanted, solids, is_behind, strict=True)
        }

    def find_place(self, device: str, *, after: float, old: Spot | None) -> None:
        """Put a device on the first good spot right of `after`, else the first of all; where there is none it stays where it was, else
        goes where nothing but what stands behind is against it, else beside the door, which a finding says.
        """
        sort = self._sort(self._parts[device])
        spot = _first(sort, sort.is_free & sort.is_legal, after)
        if spot is None and old is not None and not self._is_taken(device, old):
            spot = old
        self.put(device, spot or _first(sort, sort.is_free, after) or self._beside(device))

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
        spots = _air_spots(self._job, part) if part.kind in _AIR else list(in_columns)
        spots = [spot for spot in spots if self._is_clear(part, spot)]
        solids = [self._solid(part, spot) for spot in spots]
        hit = pairs_that_meet(solids, self._behind, self._job.enclosure).any(axis=1)
        swings = np.array([passes_frame(solid, self._job.enclosure) for solid in solids], dtype=bool)
        rooms = _rooms_of([_room(part, *spot) for spot in spots])
        return _Sort(
            centres=np.array(spots).reshape(-1, 2), rooms=rooms, is_legal=~hit & swings,
            is_free=~_meet_rooms(rooms, self._rooms.taken), right=float(rooms[:, 2].max(initial=0.0)),
        )  # fmt: skip

    def _solid(self, part: Part, spot: Spot) -> Solid:
        return Solid(name="", box=box_on_door(part, *spot), depth=depth_behind(part))

    def _is_clear(self, part: Part, spot: Spot) -> bool:
        """Return whether a part at a spot is on the door and leaves room for the hand at the main switch."""
        box = self._job.enclosure
        if spot[0] > box.width - MARGIN_MM / 2 or spot[1] > box.height - MARGIN_MM / 2:
            return False
        if self._handle is None:
            return True
        w, h = max(part.width - SMALL_W_MM, 0) / 2, max(part.height - SMALL_H_MM, 0) / 2
        return (
            abs(spot[0] - self._handle[0]) >= HANDLE_ROOM_MM + w or abs(spot[1] - self._handle[1]) >= HANDLE_ROOM_MM + h
        )

    def _beside(self, device: str) -> Spot:
        """Return a spot right of the door that nothing has taken yet."""
        box = self._job.enclosure
        while True:
            column, row = divmod(self._beyond, _BEYOND_ROWS)
            spot = (box.width + PITCH_X_MM * (1 + column), box.height - PITCH_Y_MM * (1 + row))
            if not self._is_taken(device, spot):
                return spot
            self._beyond += 1


def _first(sort: _Sort, mask: Any, after: float) -> Spot | None:
    """Return the first spot of a mask right of `after`, else the first of all, None if there is none."""
    if not mask.any():
        return None
    behind = mask & (sort.centres[:, 0] > after + 1)
    x, y = sort.centres[int((behind if behind.any() else mask).argmax())].tolist()
    return x, y


def _meet_rooms(rooms: Any, taken: Any) -> Any:
    """Return which of some rooms (n x 4: left, low, right, high) overlap one of those that are taken (m x 4)."""
    import numpy as np

    left, low, right, high = taken.T
    beside = np.minimum(rooms[:, 2, None], right) - np.maximum(rooms[:, 0, None], left) > _SLACK
    above = np.minimum(rooms[:, 3, None], high) - np.maximum(rooms[:, 1, None], low) > _SLACK
    return (beside & above).any(axis=1)


def _rooms_of(boxes: Sequence[Box]) -> Any:
    """Return boxes as an array n x 4: left, low, right, high."""
    import numpy as np

    return np.array([(box.x, box.y, box.right, box.top) for box in boxes]).reshape(-1, 4)


def _anchored(spot: Spot, part: Part) -> Spot:
    """Return the centre of a device whose upper left corner stands where a small one's would."""
    return spot[0] + max(part.width - SMALL_W_MM, 0) / 2, spot[1] - max(part.height - SMALL_H_MM, 0) / 2


def _room(part: Part, x: float, y: float) -> Box:
    """Return the room that a device takes, with its legend and finger room."""
    w, h = part.width + PITCH_X_MM - SMALL_W_MM, part.height + PITCH_Y_MM - SMALL_H_MM
    return Box(x=x - w / 2, y=y - h / 2, w=w, h=h)


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
