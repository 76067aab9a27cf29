"""Owns which devices stand together on the door, and how each group is built up. Must not know where on the door a group goes.

Frame of a block: mm from its upper left corner, x right, y down.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum

from riktig.catalogue.model import Part
from riktig.job.paths import refs_of
from riktig.plan.circuit.model import Circuit
from riktig.plan.circuit.power import STARTER_ROLES, PowerCircuit

ROOM_X_MM, ROOM_Y_MM = 30.0, 40.0
"""What a device on the door takes beside and above itself for its legend and the hand: 22 mm devices stand 60 x 80 mm apart, where
IEC 60947-5-1 asks for 30 x 40 mm at least (from memory)."""
FREE_MM = 60.0
"""How much more stays free on each side of an emergency stop, so that nothing beside it is hit for it (common practice, no source)."""
_READ_OUTS = frozenset({"hmi", "meter", "window"})
_INDICATORS = frozenset({"lamp", "beacon", "horn"})
_CHOSEN = frozenset({"selector", "key-switch", "potentiometer"})
_COIL = frozenset({None, "coil", "A1-A2"})
OPERATED_KINDS = frozenset({*_CHOSEN, "pushbutton", "emergency-stop"})
"""What people press or turn."""
_OF_THE_PANEL = frozenset({"emergency-stop", "hmi", "window"})


class DoorRow(IntEnum):
    """Where a device stands in its group, from the top: what is read above what is pressed, start above stop (common practice)."""

    READ_OUT = 0
    LAMP = 1
    START = 2
    CHOICE = 3
    STOP = 4
    RESET = 5
    OTHER = 6
    EMERGENCY = 7

    @property
    def is_read(self) -> bool:
        """Whether people look at it rather than touch it."""
        return self <= DoorRow.LAMP


def row_of(kind: str, colour: str | None) -> DoorRow:
    """Return the row of a device of a kind and colour."""
    if kind in _READ_OUTS:
        return DoorRow.READ_OUT
    if kind in _INDICATORS:
        return DoorRow.LAMP
    if kind in _CHOSEN:
        return DoorRow.CHOICE
    if kind == "pushbutton":
        return {"red": DoorRow.STOP, "blue": DoorRow.RESET}.get(colour or "", DoorRow.START)
    return DoorRow.EMERGENCY if kind == "emergency-stop" else DoorRow.OTHER


@dataclass(frozen=True, slots=True)
class DoorGroup:
    """Devices that stand together, in their order: those of a motor or module, `owner`, or of the panel as a whole, then it is ""."""

    owner: str
    devices: tuple[str, ...]


def door_groups(circuit: Circuit, power: Mapping[str, PowerCircuit], devices: Sequence[str]) -> tuple[DoorGroup, ...]:
    """Return the groups of a door: motors in their order, then modules, the panel last.

    A person's own devices stand with the motor whose contactor is on their paths, where that is one. A module of one device on the
    door, phase lamps, emergency stops with what lets in after them, and operator panels belong to the panel as a whole.
    """
    index = circuit.index
    served = _served(circuit, power)
    motors = list(dict.fromkeys(device.owner or device.id for device in circuit.devices if device.kind == "motor"))
    of_panel = {device.owner for device in circuit.devices if device.kind in _OF_THE_PANEL}
    by_owner: dict[str, list[str]] = {}
    for device in devices:
        owner = index[device].owner if device in index else None
        by_owner.setdefault(owner or served.get(device, ""), []).append(device)
    panel, own = by_owner.pop("", []), dict[str, list[str]]()
    for owner, members in by_owner.items():
        is_apart = owner in motors or (len(members) > 1 and owner not in of_panel and _is_operated(members, circuit))
        (own.setdefault(owner, []) if is_apart else panel).extend(members)
    ordered = sorted(own, key=lambda owner: motors.index(owner) if owner in motors else len(motors))
    groups = [DoorGroup(owner, tuple(own[owner])) for owner in ordered]
    return (*groups, *([DoorGroup("", tuple(panel))] if panel else ()))


def _served(circuit: Circuit, power: Mapping[str, PowerCircuit]) -> dict[str, str]:
    """Return device of a person's own -> motor, of those on whose control paths the contactors of one motor are, coils before contacts."""
    motor_of = {
        device: load for load, way in power.items() if way.is_motor for device in way.of_role(*STARTER_ROLES)
    }  # fmt: skip
    met: dict[str, set[str]] = {}
    for path in circuit.paths:
        if path.is_power:
            continue
        refs = refs_of(path.items)
        coils = {motor_of[ref.device] for ref in refs if ref.device in motor_of and ref.what in _COIL}
        motors = coils or {motor_of[ref.device] for ref in refs if ref.device in motor_of}
        for ref in refs:
            met.setdefault(ref.device, set()).update(motors)
    return {
        device: next(iter(motors))
        for device, motors in met.items()
        if len(motors) == 1 and device in circuit.index and circuit.index[device].owner is None
    }


def _is_operated(members: Sequence[str], circuit: Circuit) -> bool:
    """Return whether something of a group is pressed or turned."""
    kinds = [(circuit.index[member].kind, circuit.index[member].colour) for member in members]
    return any(not row_of(*kind).is_read for kind in kinds)


@dataclass(frozen=True, slots=True)
class DoorBlock:
    """A group built up: width in mm, height of what is read and of what is pressed, and the centre of each device in its half."""

    group: DoorGroup
    width: float
    upper: float
    lower: float
    spots: Mapping[str, tuple[float, float]]
    is_read: Mapping[str, bool]

    def at(self, left: float, top: float, upper: float | None = None) -> dict[str, tuple[float, float]]:
        """Return the centres with its upper left corner at a point of the door; what is read ends `upper` mm below that, as it is high."""
        split = self.upper if upper is None else upper
        found = {}
        for device, (x, y) in self.spots.items():
            down = y + (split - self.upper if self.is_read[device] else split)
            found[device] = (left + x, top - down)
        return found


def build_block(group: DoorGroup, circuit: Circuit, parts: Mapping[str, Part], width: float) -> DoorBlock:
    """Return a group in rows, each sort of device in rows of its own, from the left, as many beside each other as the width has room
    for; a wider device makes the group wider.
    """
    rooms = {device: _room_of(device, circuit, parts) for device in group.devices}
    width = max([width, *(room[0] for room in rooms.values())])
    rows: dict[DoorRow, list[str]] = {}
    for device in group.devices:
        rows.setdefault(_row_of(device, circuit, parts), []).append(device)
    spots: dict[str, tuple[float, float]] = {}
    heights = {True: 0.0, False: 0.0}
    for row in sorted(rows):
        heights[row.is_read] += _flow(rows[row], rooms, width, heights[row.is_read], spots)
    is_read = {device: row.is_read for row, members in rows.items() for device in members}
    return DoorBlock(group, width, heights[True], heights[False], spots, is_read)


def _row_of(device: str, circuit: Circuit, parts: Mapping[str, Part]) -> DoorRow:
    found = circuit.index.get(device)
    return row_of(parts[device].kind, found.colour if found is not None else None)


def _room_of(device: str, circuit: Circuit, parts: Mapping[str, Part]) -> tuple[float, float]:
    part = parts[device]
    free = 2 * FREE_MM if _row_of(device, circuit, parts) is DoorRow.EMERGENCY else 0.0
    return part.width + ROOM_X_MM + free, part.height + ROOM_Y_MM + free


def _flow(
    members: Sequence[str],
    rooms: Mapping[str, tuple[float, float]],
    width: float,
    top: float,
    spots: dict[str, tuple[float, float]],
) -> float:
    """Give devices spots from the left, in as many rows as they take; return how high these are in mm."""
    x, y, height = 0.0, top, 0.0
    for member in members:
        w, h = rooms[member]
        if x and x + w > width:
            x, y, height = 0.0, y + height, 0.0
        spots[member] = (x + w / 2, y + h / 2)
        x, height = x + w, max(height, h)
    return y + height - top
