"""Owns what a circuit is: devices and paths. Must not know parts, numbers or places; `expand` makes it."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from riktig.catalogue.loader import parts_of_kind
from riktig.catalogue.model import Mounting, Part
from riktig.job.paths import Path
from riktig.pipeline.rows import by_row

PLATE, DOOR = "plate", "door"
_BAR = ".bar"
EARTH_BAR, PLATE_STUD, DOOR_STUD = "PE.bar", "PE.plate", "PE.door"
PASS_THROUGH = "pass_through"
NEXT_PANEL = f"{PASS_THROUGH}.E"
"""What the lines that are passed on lead to."""


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitDevice:
    """A device that the circuit needs. `id` is `Q0`, `M1.K`, `C1.F` or a person's own name; `owner` and `role`
    are the starter, module or control supply it belongs to and its part there.

    `contacts` are what a person asked for; `positions` those of a selector from left to right. `wants` are traits that
    its part must have, `least` ratings that it must reach, `settings` what is set at it, with units in the names; `draws` is what a
    person says that a load takes: one of kw, va or amps. `wall` is the side wall of the enclosure in which it sits, `left` or
    `right`, "" in none; what sits in one is wired like what is on the plate.
    """

    id: str
    kind: str
    location: str
    title: str = ""
    owner: str | None = None
    role: str | None = None
    poles: int | None = None
    colour: str | None = None
    contacts: tuple[str, ...] | None = None
    positions: tuple[str, ...] | None = None
    part: str | None = None
    wants: Mapping[str, str] = field(default_factory=dict)
    least: Mapping[str, float] = field(default_factory=dict)
    settings: Mapping[str, float] = field(default_factory=dict)
    draws: Mapping[str, float] = field(default_factory=dict)
    wall: str = ""

    @property
    def place(self) -> str:
        """Where it is, as people say it."""
        return f"{self.wall} wall" if self.wall else self.location

    @property
    def blows(self) -> bool:
        """Whether a fan or filter is one of the enclosure's: in its door or a side wall."""
        return self.location == DOOR or bool(self.wall)

    def held_va(self, part: Part, volts: float) -> float:
        """Return what it takes while it is on in VA (W on DC) at some volts: as a person says, else as its part states."""
        if self.draws:
            return self.draws.get("va") or 1000.0 * self.draws.get("kw", 0.0) or self.draws.get("amps", 0.0) * volts
        return part.rating("hold_va")


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitPath:
    """A path of the circuit with a stable key. `is_power` tells the power sheet from the control sheet.

    `owner` is the starter, module or supply it came from, None for a person's own; `supply` the control supply that it
    lies on, None where it lies on none; `is_excepted` that it stays live with the main switch off.
    """

    key: str
    title: str
    items: Path
    is_power: bool
    owner: str | None = None
    supply: str | None = None
    is_excepted: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Circuit:
    """Devices and paths in drawing order; `joins` are potentials that are one (pairs of names), `index` has the
    devices by id.
    """

    devices: tuple[CircuitDevice, ...]
    paths: tuple[CircuitPath, ...]
    joins: tuple[tuple[str, str], ...]
    index: Mapping[str, CircuitDevice]

    def device(self, device_id: str) -> CircuitDevice:
        """Return the device of that id.

        Raises:
            KeyError: there is none.
        """
        return self.index[device_id]


def without_titles(circuit: Circuit) -> Circuit:
    """Return a circuit without what people call its devices and paths, so that a title changes nothing but drawings and lists."""
    devices = tuple(_untitled(device.id, device) if device.title else device for device in circuit.devices)
    paths = tuple(_untitled_path(path.key, path) if path.title else path for path in circuit.paths)
    return replace(circuit, devices=devices, paths=paths, index={device.id: device for device in devices})


@by_row
def _untitled(_: str, device: CircuitDevice) -> CircuitDevice:
    return replace(device, title="")


@by_row
def _untitled_path(_: str, path: CircuitPath) -> CircuitPath:
    return replace(path, title="")


def with_titles(circuit: Circuit, titled: Circuit) -> Circuit:
    """Return a circuit with the titles of another one that it was made from; what it has more keeps its own."""
    devices = tuple(titled.index.get(device.id, device) for device in circuit.devices)
    return replace(circuit, devices=devices, paths=titled.paths, index={device.id: device for device in devices})


def stands_alone(device: CircuitDevice) -> bool:
    """Return whether a device in the field stands by itself, with a cable of its own, and not in a box."""
    return device.wants.get("use") == "field" or parts_of_kind(device.kind)[0].mounting is Mounting.FIELD


def bar_for(number: str) -> str:
    """Return the id of the bar or block that distributes a potential."""
    return f"{number}{_BAR}"


def is_bar(device: str) -> bool:
    """Return whether an id is that of a bar or block whose clamps are given out one by one."""
    return device.endswith(_BAR)


def place_of_block(block: str) -> str:
    """Return what the blocks of all lines at one place of the way in have in common: `in` ahead of the main switch, `@...` between it
    and what follows it, the name of a further supply, "" behind all that.
    """
    line = block.removesuffix(_BAR)
    return (
        line.partition("_")[0] if line.startswith("@") else "in" if line.startswith("in.") else line.rpartition(".")[0]
    )


def usual_place(kind: str) -> str:
    """Return where a device of a kind goes when nobody says: door, field or plate, by how its parts mount."""
    mounting = parts_of_kind(kind)[0].mounting
    return {Mounting.DOOR: DOOR, Mounting.FIELD: "field"}.get(mounting, PLATE)
