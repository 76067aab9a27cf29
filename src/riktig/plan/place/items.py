"""Owns what needs a place on the plate and what each thing asks of it. Must not know where anything stands."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from enum import IntEnum

from riktig.catalogue.model import Mounting, Part
from riktig.catalogue.side_by_side import snug_key
from riktig.job.paths import Nodes, Ref
from riktig.plan.circuit.incoming import WAY_IN
from riktig.plan.circuit.model import (
    EARTH_BAR,
    PLATE,
    PLATE_STUD,
    Circuit,
    CircuitDevice,
    bar_for,
    is_bar,
    place_of_block,
)
from riktig.plan.circuit.plugged import plugged_on
from riktig.plan.circuit.power import PowerCircuit, sharing
from riktig.plan.circuit.zones import zones_of
from riktig.plan.net.strips import SUPPLY_STRIP, Clamp, clamp_part, strip_width_mm

FINGER_MM = 30.0
"""Room between a duct and the parts beside it (common practice, no source)."""
PART_GAP_MM = 4.0
STRIP_DEPTH_MM = 50.0
"""How far terminals stand out from their rail (common practice, no source)."""
STRIP_RESERVE_MM = 30.0
"""Free rail beside a strip, for terminals to come (common practice, no source)."""
HOT_W = 15.0
"""What loses so many watts goes to the top of the plate (common practice, no source)."""
LOW_VOLTS = 50.0
"""Highest extra-low voltage, AC (IEC 61140; IEC 60364-4-41 414, from memory)."""
_LOCKED_ROLES = frozenset({"K", "MI", "KR"})
_SIGNAL_KINDS = frozenset({"plc", "network", "hmi", "meter"})
_COIL_KINDS = frozenset({"relay", "timer", "safety-relay", "thermistor-relay"})
_PROTECTIVE_KINDS = frozenset({"breaker", "fuse", "rcd"})
_ENTRY_KINDS = frozenset({"surge", "disconnect"})
_FEELING_KINDS = frozenset({"thermostat"})
"""What does not stand beside what it switches."""


class Band(IntEnum):
    """Which part of the plate a thing belongs to, counted from the end that is far from where the cables enter: heat-givers, what works
    at extra-low voltage, control supplies and their distribution, starters, what else is tapped from the mains, the way in, strips and
    earth; wherever cables enter, the light under the roof and heaters low, so that their warm air rises past all else (common practice).
    """

    HEAT = 0
    LOW = 1
    SUPPLY = 2
    STARTER = 3
    TAP = 4
    ENTRY = 5
    FIELD = 6
    LIGHT = 7
    WARM = 8


_BY_HEIGHT = {"light": Band.LIGHT, "heater": Band.WARM}


@dataclass(frozen=True, slots=True, kw_only=True)
class PlateItem:
    """A thing that is placed: a device, with what is plugged below it, or a strip. Lengths in mm.

    `clearance` is the free room that its maker wants above and below; `reserve` the rail beside it that should stay free; `hung`
    the id, width and height of what hangs below; `snug` what it may touch side by side; `unit` what it must stand in
    one row with; `depth` how far it stands out. `load` is the motor or load that it alone belongs to, "" for none, and `is_protection`
    whether it is what protects that, or a surge arrester; `stays_live` whether it is live with the main switch off.
    """

    id: str
    band: Band
    width: float
    height: float
    depth: float
    on_rail: bool
    clearance: float = 0.0
    losses_w: float = 0.0
    reserve: float = 0.0
    hung: tuple[str, float, float] | None = None
    snug: str = ""
    unit: str = ""
    load: str = ""
    is_protection: bool = False
    stays_live: bool = False

    @property
    def up(self) -> float:
        """From its centre line to its upper edge."""
        return self.height / 2

    @property
    def down(self) -> float:
        """From its centre line to its lower edge, what hangs below it included."""
        return self.height / 2 + (self.hung[2] if self.hung is not None else 0.0)

    @property
    def room(self) -> float:
        """Free room above and below to a duct: for fingers, or as its maker asks."""
        return max(FINGER_MM, self.clearance)

    @property
    def left(self) -> float:
        """How far what hangs below reaches over its left edge; to the right alike."""
        return max(0.0, (self.hung[1] - self.width) / 2) if self.hung is not None else 0.0

    @property
    def span(self) -> float:
        """What it takes of the rail, what hangs below and its reserve included."""
        return self.width + 2 * self.left + self.reserve


def _tapped(circuit: Circuit) -> frozenset[str]:
    """Return what protects a circuit that begins at the mains: at a block, or where the main switch and what follows it lead to."""
    paths = [path.items for path in circuit.paths if path.is_power]
    led = {
        name
        for items in paths
        for before, item, after in zip(items, items[1:], items[2:], strict=False)
        if isinstance(item, Ref) and item.device in WAY_IN
        for nodes in (before, after)
        if isinstance(nodes, Nodes)
        for name in nodes.names
    }
    found = set()
    for items in paths:
        begin, first = items[0], items[1]
        if isinstance(begin, Nodes) and isinstance(first, Ref) and first.device not in WAY_IN:
            is_mains = any(name in led or bar_for(name) in circuit.index for name in begin.names)
            found |= {first.device} if is_mains and circuit.device(first.device).kind in _PROTECTIVE_KINDS else set()
    return frozenset(found)


def _band(device: CircuitDevice, part: Part, load: str, arresters: Collection[str], tapped: Collection[str]) -> Band:
    if device.id in {EARTH_BAR, PLATE_STUD}:
        return Band.FIELD
    is_block = is_bar(device.id) and not device.id.startswith("in.")
    is_switch = device.id in WAY_IN or (device.kind in _ENTRY_KINDS and not load)
    if is_switch or is_block or device.owner in arresters:
        return Band.ENTRY
    if part.kind in _BY_HEIGHT:
        return _BY_HEIGHT[part.kind]
    if part.losses_w >= HOT_W:
        return Band.HEAT
    volts = part.rating("volts")
    if device.kind in _SIGNAL_KINDS or device.kind in _COIL_KINDS and 0 < volts <= LOW_VOLTS:
        return Band.LOW
    is_tap = device.id in tapped or is_bar(device.id) or (device.owner in tapped and device.kind not in _FEELING_KINDS)
    return Band.STARTER if load else Band.TAP if is_tap else Band.SUPPLY


def _loads(circuits: Mapping[str, PowerCircuit], circuit: Circuit) -> dict[str, tuple[str, str]]:
    """Return device -> (motor or load, role) of what leads the current of one alone, and of what locks its contactors."""
    leads = sharing(circuits.values())
    found = {
        device: (name, role)
        for name, one in circuits.items()
        for device, role in one.devices
        if leads[device] == (name,)
    }
    return found | {d.id: (d.owner, "MI") for d in circuit.devices if d.kind == "interlock" and d.owner is not None}


def _held_as(device: CircuitDevice, part: Part, parts: Mapping[str, Part]) -> Part:
    """Return the part whose mounting decides how a device is held: an interlock hangs between its contactors."""
    return parts.get(f"{device.owner}.K", part) if device.kind == "interlock" else part


def plate_items(
    circuit: Circuit,
    parts: Mapping[str, Part],
    circuits: Mapping[str, PowerCircuit],
    strip_widths: Mapping[str, float],
    strip_height: float,
) -> tuple[PlateItem, ...]:
    """Return what needs a place on the plate, in drawing order, the strips last.

    Args:
        circuit: devices in drawing order.
        parts: part by device.
        circuits: the power circuit of each motor and load.
        strip_widths: mm by strip, or piece of one.
        strip_height: mm, of all strips.
    """
    zones = zones_of(circuit)
    hung = {host: overload for overload, host in plugged_on(circuit, parts).items()}
    taken = frozenset(hung.values())
    loads = _loads(circuits, circuit)
    arresters = {d.id for d in circuit.devices if d.kind == "surge"}
    excepted = {path.owner for path in circuit.paths if path.is_excepted and path.owner is not None}
    tapped = _tapped(circuit) | excepted
    locked = {d.owner for d in circuit.devices if d.kind == "interlock" and d.owner is not None}
    found = []
    for device in circuit.devices:
        part = parts[device.id]
        if zones[device.id] != PLATE or device.id in taken or device.wall:
            continue
        below = hung.get(device.id)
        load, role = loads.get(device.id, ("", ""))
        found.append(
            PlateItem(
                id=device.id,
                band=_band(device, _held_as(device, part, parts), load, arresters, tapped),
                width=part.width,
                height=part.height,
                depth=part.depth,
                on_rail=_held_as(device, part, parts).mounting in {Mounting.RAIL, Mounting.PLUGGED},
                clearance=part.clearance,
                losses_w=part.losses_w,
                snug=snug_key(part),
                unit=device.owner or ""
                if device.owner in arresters or (device.owner in locked and device.role in _LOCKED_ROLES)
                else "",
                hung=(below, parts[below].width, parts[below].height) if below is not None else None,
                load=load,
                is_protection=role == "Q" or (device.owner in arresters and device.role == "Q"),
                stays_live=device.owner in excepted
                or (bool(excepted) and is_bar(device.id) and place_of_block(device.id) == "in"),
            )  # fmt: skip
        )
    found.extend(
        PlateItem(
            id=strip, band=Band.FIELD, width=width, height=strip_height, depth=STRIP_DEPTH_MM, on_rail=True, reserve=STRIP_RESERVE_MM,
            stays_live=strip == SUPPLY_STRIP and bool(excepted),
        )
        for strip, width in strip_widths.items()
    )  # fmt: skip
    return tuple(found)


def strip_widths(clamps: tuple[Clamp, ...], mm2: Mapping[str, float]) -> tuple[dict[str, float], float]:
    """Return the width of each strip, or piece of one, and the height of all of them, in mm."""
    strips: dict[str, list[Clamp]] = {}
    for clamp in clamps:
        strips.setdefault(clamp.piece, []).append(clamp)
    widths = {strip: strip_width_mm(members, mm2) for strip, members in strips.items()}
    height = max((clamp_part(c, mm2[c.id]).height for c in clamps), default=48.0)
    return widths, height
