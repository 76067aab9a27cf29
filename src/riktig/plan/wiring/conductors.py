"""Owns every conductor: ends, size, colour, route, length, marks, stage and batch. Must not decide who joins whom."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import ceil
from typing import Any

from riktig.catalogue.model import Part, Side
from riktig.job.ids import TerminalId, WireId
from riktig.job.model import Job, Standard
from riktig.pipeline.rows import by_row
from riktig.plan.circuit.incoming import WAY_IN
from riktig.plan.circuit.model import DOOR, EARTH_BAR, PLATE, is_bar, place_of_block
from riktig.plan.circuit.zones import device_of, mark_of
from riktig.plan.net.numbers import Potential, natural_key
from riktig.plan.net.runs import Band, Runs, zone_of_run
from riktig.plan.net.signals import Signals
from riktig.plan.net.strips import Clamp
from riktig.plan.place.door import DoorLayout
from riktig.plan.place.layout import Box, PlateLayout
from riktig.plan.place.reach import Access, Reach
from riktig.plan.place.routes import DuctNetwork, Leg
from riktig.plan.sizes.sections import Sections
from riktig.plan.wiring.links import HINGE, Link
from riktig.standards.colours import ConductorFunction, conductor_colour
from riktig.units.conductor_size import ConductorSize

LOCAL_MM = 2000.0
"""A cable from an isolator to the motor beside it (common practice, no source)."""
TAIL_MM = 60.0
"""Dressing at each end inside the duct and at the clamp (common practice, no source)."""
BEND_MM, STRAIGHT_MM = 30.0, 200.0
"""A lead that goes straight to the next device: out of its clamp and back, and how far it may go (common practice, no source)."""
HINGE_LOOP_MM = 250.0
BOX_PITCH_MM = 60.0
_STAGES = (
    "incoming", "distribution", "feeds", "earth", "control", "signals", "field", "door",
)  # fmt: skip
STAGE_TITLES = {
    "incoming": "Incoming mains",
    "distribution": "Distribution and neutrals",
    "feeds": "Feeds and motor circuits",
    "earth": "Earth",
    "control": "Control",
    "signals": "Signals, screened",
    "field": "Field side",
    "door": "Door loom",
}
"""Stages in working order; field side and door come last so that they lie on top (common practice, no source)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Conductor:
    """A direct join of two terminals. `id` is the unordered pair of terminal ids and an ordinal.

    `kind` is wire, core, bridge, comb or link; `location` plate, door, hinge, a location, or the cable's name. Lengths in mm;
    a link, bridge or comb has none. `legs` is its way through the ducts; `screened` are the numbers of a signal that lie with it under
    one screen, "" where it has none.
    """

    id: WireId
    number: str
    kind: str
    a: TerminalId
    b: TerminalId
    location: str
    size: ConductorSize
    colour: str
    length_mm: float
    legs: tuple[Leg, ...]
    stage: str
    batch: str
    screened: str = ""

    @property
    def is_wired(self) -> bool:
        """Whether it is cut and landed: a wire or a core."""
        return self.kind in {"wire", "core"}

    @property
    def is_inside_one(self) -> bool:
        """Whether it is a join inside one bar, block or rail, of which nobody makes anything."""
        return self.kind == "link" and device_of(self.a) == device_of(self.b)

    @property
    def laid_mm(self) -> float:
        """Its length once it is landed, without the dressing at its ends, in mm."""
        return max(self.length_mm - 2 * TAIL_MM, 0.0)

    @property
    def route(self) -> tuple[str, ...]:
        """The duct codes in order."""
        return tuple(leg.duct for leg in self.legs)


class Geometry:
    """Positions of terminals on plate, door and in boxes."""

    def __init__(
        self, job: Job, parts: Mapping[str, Part], plate: PlateLayout, door: DoorLayout, clamps: tuple[Clamp, ...],
        clamp_parts: Mapping[str, Part],
    ) -> None:  # fmt: skip
        self._parts = parts
        self.plate = plate
        self._door = door
        self._clamp_x = _clamp_centres(plate, clamps, clamp_parts)
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
        item, mark = device_of(terminal), mark_of(terminal)
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

    def middle(self, terminal: str, access: Access) -> float:
        """Return the coordinate along its duct of the middle of what a terminal belongs to; for one of a block that of all blocks of its
        side of the main switch.
        """
        item = device_of(terminal)
        if item not in self._middles:
            self._middles[item] = self._middles_of(item)
        return next((found.at for found in self._middles[item] if found.duct == access.duct), access.at)

    def _middles_of(self, item: str) -> tuple[Access, Access]:
        """Return where the middle of an item meets the ducts above and below it."""
        boxes = self.plate.boxes
        own = self._blocks[place_of_block(item)] if item in self._distributing else [boxes[item]]
        x, box = sum(one.centre[0] for one in own) / len(own), boxes[item]
        above = self.reach.access(x, box.top, is_top=True, item=item)
        return above, self.reach.access(x, box.y, is_top=False, item=item)

    def are_beside(self, link: Link, a: Access, b: Access) -> bool:
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
        return (x if not self._hinge_x else self._door.width - x) + abs(y - height)

    def lengths(self, zone: str, terminals: list[str], network: DuctNetwork) -> Any:
        """Return the mm to cut between each two terminals of a zone, n x n, None where places are not known (in boxes)."""
        import numpy as np

        if zone == PLATE:
            at = [self.access(terminal) for terminal in terminals]
            tails = np.array([access.tail + TAIL_MM for access in at])
            return network.lengths([(access.duct, access.at) for access in at]) + tails[:, None] + tails[None, :]
        if zone == DOOR:
            points = np.array([self.door_point(terminal) for terminal in terminals])
            return np.abs(points[:, None, :] - points[None, :, :]).sum(axis=2) + 2 * TAIL_MM
        return None

    def _hinge(self) -> tuple[str, float]:
        """Return where the door loom leaves the ducts: the upright nearest to the hinges, half way up; any duct where none stands."""
        ducts = [d for d in self.plate.ducts if d.is_vertical] or list(self.plate.ducts)
        if not ducts:
            return "", 0.0
        duct = min(ducts, key=lambda d: (abs(d.box.centre[0] - self._hinge_x), d.code))
        return duct.code, duct.box.centre[1 if duct.is_vertical else 0]


def _clamp_centres(plate: PlateLayout, clamps: tuple[Clamp, ...], clamp_parts: Mapping[str, Part]) -> dict[str, float]:
    centres: dict[str, float] = {}
    edge: dict[str, float] = {}
    for clamp in clamps:
        x = edge.get(clamp.strip, plate.boxes[clamp.strip].x + 8.0)
        width = clamp_parts[clamp.id].width
        centres[clamp.id] = x + width / 2
        edge[clamp.strip] = x + width
    return centres


@dataclass(frozen=True, slots=True)
class Ways:
    """Where terminals are, and the ducts between them."""

    geometry: Geometry
    network: DuctNetwork


def size_links(
    links: tuple[Link, ...], sections: Sections, runs: Runs, taps: Mapping[str, ConductorSize]
) -> tuple[ConductorSize, ...]:
    """Return the size of each link.

    Args:
        links: who is joined to whom.
        sections: sizes by potential and drop.
        runs: which run a potential takes to a place; a jumper there is of the size of the cable's cores.
        taps: size by the key of the link, where it is not that of its potential.
    """
    found = []
    for link in links:
        run = _drop_of(link)
        if run is None and link.where not in {PLATE, DOOR, HINGE}:
            run = runs.key_for(link.where, link.number)
        core = sections.core_of(run) if run is not None else None
        found.append(core if core is not None else taps.get(link.key, sections.inside[link.number]))
    return tuple(found)


def build_conductors(
    job: Job,
    links: tuple[Link, ...],
    sizes: tuple[ConductorSize, ...],
    potentials: tuple[Potential, ...],
    ways: Ways,
    cables: Mapping[str, str],
    signals: Signals,
) -> tuple[Conductor, ...]:
    """Return all conductors in working order: by stage, batch, then number.

    Args:
        job: its supply, practice, locations and excepted circuits.
        links: who is joined to whom.
        sizes: the size of each link.
        potentials: all potentials.
        ways: where terminals are, and the ducts.
        cables: cable name by run.
        signals: what is led in screened pairs.
    """
    screened = _screened(links, signals)
    by_number = {p.number: p for p in potentials}
    distances = {place.name: place.distance for place in job.locations}
    excepted = frozenset(circuit.name for circuit in job.excepted)
    grounded = job.supply.grounded_line
    ordinals: Counter[str] = Counter()
    made: list[tuple[tuple[int, str, tuple[Any, ...]], Conductor]] = []
    for link, size in zip(links, sizes, strict=True):
        key, drop = link.key, _drop_of(link)
        ordinals[key] += 1
        colour = (excepted, job.practice.standard, grounded)
        ends = _ends_of(link, ways, distances)
        cable = cables[drop] if drop is not None else None
        within = (cable, screened.get(key, ""))
        row = _row((key, ordinals[key]), link, size, by_number[link.number], colour, ends, within)
        made.append(row)
    made.sort(key=lambda row: row[0])
    return tuple(conductor for _, conductor in made)


def _screened(links: tuple[Link, ...], signals: Signals) -> dict[str, str]:
    """Return by the key of each link that is a signal in the panel the numbers that lie with it under one screen."""
    together: dict[frozenset[str], list[Link]] = {}
    for link in links:
        if link.is_wired and link.where in {PLATE, HINGE} and signals.is_led(link.number, link.a, link.b):
            together.setdefault(frozenset((device_of(link.a), device_of(link.b))), []).append(link)
    return {
        link.key: " ".join(sorted({one.number for one in members}, key=natural_key))
        for members in together.values()
        for link in members
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class _Ends:
    """What the way of a link depends on: where its ends are, in which row each stands, and the ducts; in a cable its
    length in mm. `middles` are where along their ducts the things are that its ends belong to.
    """

    places: tuple[Any, ...]
    rows: tuple[int | None, int | None]
    network: DuctNetwork | None
    cable_mm: float = 0.0
    middles: tuple[float, float] | None = None


def _ends_of(link: Link, ways: Ways, distances: Mapping[str, float]) -> _Ends:
    geometry, rows = ways.geometry, ways.geometry.plate.row_of
    drop = _drop_of(link)
    if drop is not None:
        if drop.endswith(f"~{Band.LOCAL.value}"):
            return _Ends(places=(), rows=(None, None), network=None, cable_mm=LOCAL_MM)
        place = zone_of_run(drop).split("/")[0]
        return _Ends(places=(), rows=(None, None), network=None, cable_mm=1000.0 * distances.get(place, 20.0))
    standing = rows.get(device_of(link.a)), rows.get(device_of(link.b))
    if link.where == PLATE and link.is_wired:
        at_a, at_b = geometry.access(link.a), geometry.access(link.b)
        if geometry.are_beside(link, at_a, at_b):
            return _Ends(places=(at_a, at_b), rows=standing, network=None)
        middles = (geometry.middle(link.a, at_a), geometry.middle(link.b, at_b))
        return _Ends(places=(at_a, at_b), rows=standing, network=ways.network, middles=middles)
    if link.where == HINGE and link.is_wired:
        hinge = geometry.hinge
        places = (geometry.access(link.a), hinge, geometry.from_hinge(link.b, hinge[1]))
        return _Ends(places=places, rows=standing, network=ways.network)
    if link.where == DOOR and link.is_wired:
        return _Ends(places=(geometry.door_point(link.a), geometry.door_point(link.b)), rows=standing, network=None)
    return _Ends(places=(), rows=standing, network=None)


@by_row
def _row(
    name: tuple[str, int],
    link: Link,
    size: ConductorSize,
    potential: Potential,
    colour: tuple[frozenset[str], Standard, str | None],
    ends: _Ends,
    within: tuple[str | None, str],
) -> tuple[tuple[int, str, tuple[Any, ...]], Conductor]:
    """Return a conductor, before it what orders it: stage, batch, number; `within` are its cable, and the numbers
    under one screen in the panel.
    """
    (key, ordinal), (cable, screened) = name, within
    excepted, standard, grounded = colour
    stage = "signals" if screened and link.where == PLATE else _stage_of(link, potential)
    batch = f"{stage} screened {screened}" if screened else _batch_of(link, stage, ends.rows, cable)
    legs, length = _measure(link, ends)
    conductor = Conductor(
        id=WireId(f"{key} {ordinal}"), number=link.number, a=link.a, b=link.b, kind=_kind_of(link), location=cable or link.where, size=size,
        colour=conductor_colour(_function_of(link, potential, excepted, grounded), standard), length_mm=length, legs=legs, stage=stage,
        batch=batch, screened=screened,
    )  # fmt: skip
    return (_STAGES.index(stage), batch, natural_key(link.number)), conductor


def _drop_of(link: Link) -> str | None:
    """Return the run of a link in a cable, None of another."""
    return link.where.removeprefix("cable:") if link.where.startswith("cable:") else None


def _kind_of(link: Link) -> str:
    is_core = link.is_wired and link.where.startswith("cable:")
    return "core" if is_core else link.means.value


def _function_of(link: Link, potential: Potential, excepted: frozenset[str], grounded: str | None) -> ConductorFunction:
    """Return what a conductor is for: one that leads a line from ahead of the switch to an excepted circuit is excepted, its neutral or
    grounded return too; a line that is grounded at its source is one all the way.
    """
    function = potential.net.function
    owners = {owner for end in (link.a, link.b) if (owner := device_of(end).rpartition(".")[0])}
    if function is ConductorFunction.EXCEPTED and any(f"@{name}_2" in potential.net.names for name in excepted):
        return ConductorFunction.EXCEPTED_RETURN
    if function is ConductorFunction.NEUTRAL and owners & excepted:
        return ConductorFunction.EXCEPTED_NEUTRAL
    if function is not ConductorFunction.POWER:
        return function
    lines = {name.removeprefix("in.") for name in potential.net.names if not name.startswith("@")}
    if grounded is not None and (grounded in lines or (not lines and potential.net.phase == grounded)):
        return ConductorFunction.GROUNDED_LINE
    return ConductorFunction.EXCEPTED if owners & excepted else function


def _measure(link: Link, ends: _Ends) -> tuple[tuple[Leg, ...], float]:
    """Return the way through the ducts, none outside the plate, and the length to cut in mm."""
    if not link.is_wired:
        return (), 0.0
    if link.where.startswith("cable:"):
        return (), _round_up(ends.cable_mm)
    if link.where == DOOR:
        (ax, ay), (bx, by) = ends.places
        return (), _round_up(abs(ax - bx) + abs(ay - by) + 2 * TAIL_MM)
    if link.where not in {PLATE, HINGE}:
        return (), _round_up(BOX_PITCH_MM + 2 * TAIL_MM)
    if ends.network is None:
        a, b = ends.places
        bends = 0.0 if _are_opposite(a, b) else 2 * BEND_MM
        return (), _round_up(abs(a.x - b.x) + abs(a.y - b.y) + bends + 2 * TAIL_MM)
    if link.where == PLATE:
        a, b = ends.places
        route, beyond = ends.network.route((a.duct, a.at), (b.duct, b.at), ends.middles), b.tail
    else:
        a, hinge, across = ends.places
        route, beyond = ends.network.route((a.duct, a.at), hinge), HINGE_LOOP_MM + across
    return route.legs, _round_up(route.length + a.tail + beyond + 2 * TAIL_MM)


def measure_again(conductors: tuple[Conductor, ...], ways: Ways, moved: frozenset[str] | None) -> tuple[Conductor, ...]:
    """Return the same conductors with their ways and lengths on another plate or door; cores stay as long as their cables.

    Args:
        conductors: all of them.
        ways: where their ends are now, and the ducts now.
        moved: the devices that moved while the ducts stayed, None where anything may have.
    """
    made = []
    for c in conductors:
        is_touched = moved is None or device_of(c.a) in moved or device_of(c.b) in moved
        if is_touched and c.kind == "wire" and c.location in {PLATE, DOOR, HINGE}:
            link = Link(a=c.a, b=c.b, number=c.number, where=c.location)
            legs, length = _measure(link, _ends_of(link, ways, {}))
            if (length, legs) != (c.length_mm, c.legs):
                c = replace(c, length_mm=length, legs=legs)  # noqa: PLW2901 the same conductor, measured again
        made.append(c)
    return tuple(made)


def bend_between(a: Access, b: Access, box: Box) -> list[tuple[float, float]]:
    """Return the corners in mm of a lead from one device straight to the next, out of the side of `box` that its first end is on."""
    beyond = max(a.y, b.y) + BEND_MM if a.y >= box.centre[1] else min(a.y, b.y) - BEND_MM
    level = (a.y + b.y) / 2 if _are_opposite(a, b) else beyond
    return [(a.x, level), (b.x, level)]


def _are_opposite(a: Access, b: Access) -> bool:
    """Return whether two ends face each other across the duct that both meet."""
    return abs(abs(a.y - b.y) - a.tail - b.tail) < 1e-6


def _round_up(mm: float) -> float:
    return float(ceil(mm / 10) * 10)


def _stage_of(link: Link, potential: Potential) -> str:
    function = potential.net.function
    if link.where.startswith("cable:"):
        return "field"
    if link.where in {HINGE, DOOR}:
        return "door"
    if link.where != PLATE:
        return "field"
    if function is ConductorFunction.EARTH:
        return "earth"
    if any(name.startswith("in.") for name in potential.net.names) and potential.number.startswith("in."):
        return "incoming"
    if potential.net.is_line and function in {ConductorFunction.POWER, ConductorFunction.NEUTRAL}:
        return "distribution"
    return "feeds" if function in {ConductorFunction.POWER, ConductorFunction.NEUTRAL} else "control"


def _batch_of(link: Link, stage: str, rows: tuple[int | None, int | None], cable: str | None) -> str:
    """Return the bundle a conductor is cut and laid with: same stage, same two rows."""
    if cable is not None:
        return f"{stage} {cable}"
    elsewhere = link.where if link.where != HINGE else "door"
    first, second = sorted(f"row {row + 1}" if row is not None else elsewhere for row in rows)
    return f"{stage} {first} - {second}"
