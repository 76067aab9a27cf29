"""Owns where field cables come into the enclosure and their ways through the ducts to their terminals. Must not size cables.

Frame of the entry wall: mm, x as the front of the enclosure, z from its back wall to its door.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import islice
from math import hypot, sqrt

from riktig.job.ids import terminal_id
from riktig.job.model import Enclosure, Job
from riktig.plan.circuit.incoming import SUPPLY, supplies_in
from riktig.plan.circuit.model import bar_for
from riktig.plan.circuit.zones import INCOMING, device_of
from riktig.plan.net.numbers import Potential
from riktig.plan.net.strips import Clamp
from riktig.plan.place.layout import EDGE_MM, PlateLayout
from riktig.plan.place.routes import Leg
from riktig.plan.sizes.sections import Sections
from riktig.plan.wiring.cables import Cable
from riktig.plan.wiring.conductors import Conductor, Ways
from riktig.standards import cable_entries, nec
from riktig.standards.wire_diameters import outer_diameter_mm
from riktig.units.conductor_size import ConductorSize

WALL_EDGE_MM = 40.0
"""Free edge of the entry wall (common practice, no source)."""
NUT_SHARE = 1.45
"""Across the corners of a gland's nut, over its hole (common practice, no source)."""
SPANNER_MM = 6.0
"""Between two nuts, for a spanner (common practice, no source)."""
_ROUNDED_MM = 0.11
"""Places are said to a tenth."""
_STEP_MM = 5.0


def hole_key(name: str) -> str:
    """Return how the ledger calls the hole in the entry wall of a cable or supply."""
    return f"cable:{name}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """A hole in the entry wall: what comes in (a cable's name, `supply`, or `supply NAME` of an extra one), its thread or trade size,
    centre and diameter in mm. `fits` tells whether the wall has room for it.
    """

    cable: str
    fitting: str
    x: float
    z: float
    diameter: float
    fits: bool = True

    @property
    def key(self) -> str:
        """How the ledger calls it."""
        return hole_key(self.cable)

    def missing_to(self, other: "Entry") -> float:
        """Return how many mm it is too close to another one for both nuts and a spanner between them, 0 or less where it is not."""
        room = NUT_SHARE * (self.diameter + other.diameter) / 2 + SPANNER_MM
        return room - hypot(self.x - other.x, self.z - other.z)

    def is_within(self, enclosure: Enclosure) -> bool:
        """Return whether it has its place in the wall, free edges kept."""
        half = self.diameter * NUT_SHARE / 2
        across = (
            WALL_EDGE_MM + half <= self.x + _ROUNDED_MM
            and self.x - _ROUNDED_MM <= enclosure.width - WALL_EDGE_MM - half
        )
        deep = WALL_EDGE_MM + half <= self.z + _ROUNDED_MM
        return across and deep and self.z + half - _ROUNDED_MM <= enclosure.depth - WALL_EDGE_MM / 2

    @property
    def words(self) -> str:
        """What comes in, in a sentence."""
        return f"the {self.cable}" if self.cable.startswith(SUPPLY) else self.cable


@dataclass(frozen=True, slots=True, kw_only=True)
class CableWay:
    """The way of a field cable or a supply inside the panel, from beside its entry to its terminals; how long and thick, in mm."""

    cable: str
    legs: tuple[Leg, ...]
    length: float
    diameter: float


def landings(
    numbers: frozenset[str], potentials: Sequence[Potential], clamps: Sequence[Clamp], plate: PlateLayout
) -> Iterator[tuple[str, str, bool]]:
    """Yield where conductors of a supply are landed: number, terminal, and whether it is the outer side of a strip terminal, which
    goes before a block (clamp 0, beside all that lead on), and this before a device on the plate.
    """
    strip = {clamp.number: clamp.id for clamp in clamps if clamp.drop == INCOMING}
    for potential in potentials:
        if potential.number in strip and potential.number in numbers:
            yield potential.number, strip[potential.number], True
        elif potential.number in numbers and bar_for(potential.number) in plate.items:
            yield potential.number, terminal_id(bar_for(potential.number), "0"), False
        elif potential.number in numbers:
            ends = (t for t in potential.net.terminals if device_of(t) in plate.items)
            yield from ((potential.number, terminal, False) for terminal in islice(ends, 1))


def lay_cables(
    job: Job,
    conductors: Sequence[Conductor],
    cables: Sequence[Cable],
    potentials: Sequence[Potential],
    clamps: Sequence[Clamp],
    sections: Sections,
    ways: Ways,
) -> tuple[CableWay, ...]:
    """Return the ways of field cables and supplies: straight into the duct beside the entry wall, then the shortest way to where they
    are landed.
    """
    geometry = ways.geometry
    levels = geometry.plate.levels
    if not levels:
        return ()
    outer = levels[-1] if job.supply.entry == "bottom" else levels[0]
    ends: dict[str, list[tuple[str, bool]]] = {}
    shunned: dict[str, frozenset[str]] = {}
    for c in conductors:
        if c.kind == "core":
            shunned.setdefault(c.location, ways.shunned.get(c.number, frozenset()))
            ends.setdefault(c.location, []).extend(
                (t, True) for t in (c.a, c.b) if device_of(t) in geometry.plate.boxes
            )
    thick = {cable.name: cable.diameter_mm for cable in cables}
    for supply, numbers in supplies_in(job).items():
        landed = landings(numbers, potentials, clamps, geometry.plate)
        ends[supply] = [(terminal, is_outside) for _, terminal, is_outside in landed]
        shunned[supply] = next((ways.shunned[number] for number in numbers if number in ways.shunned), frozenset())
        thick[supply] = _supply_diameter(numbers, sections)
    found = []
    for cable, terminals in ends.items():
        if terminals:
            at = [geometry.access(terminal, is_outside=is_outside) for terminal, is_outside in terminals]
            middle = sorted(at, key=lambda access: (access.duct, access.x))[len(at) // 2]
            x = min(max(middle.x, outer.box.x), outer.box.right)
            route = ways.network.route((outer.code, x), (middle.duct, middle.at), None, shunned[cable])
            found.append(CableWay(cable=cable, legs=route.legs, length=route.length, diameter=thick[cable]))
    return tuple(found)


def _supply_size(numbers: frozenset[str], sections: Sections) -> ConductorSize | None:
    sizes = [sections.inside[number] for number in numbers if number in sections.inside]
    return max(sizes, key=lambda s: s.mm2, default=None)


def _supply_diameter(numbers: frozenset[str], sections: Sections) -> float:
    """Return how thick a supply is: a cable, or single conductors taken as a round of the same area."""
    size, cores = _supply_size(numbers, sections), len(numbers) + 1
    if size is None:
        return 0.0
    if size.metric:
        return cable_entries.cable_diameter_mm(cores, size.mm2)
    return outer_diameter_mm(size.mm2) * sqrt(cores)


def place_entries(job: Job, cables: Sequence[Cable], ways: Sequence[CableWay], sections: Sections) -> tuple[Entry, ...]:
    """Return the holes of the entry wall: each as near below or above its terminals as its neighbours let it, in rows from the
    back; those of the supplies among them. Those that somebody holds stay, and the others go around them.
    """
    near = {way.cable: way.legs[0].start + EDGE_MM / 2 for way in ways if way.legs}
    middle = job.enclosure.width / 2
    wanted = [
        (near.get(cable.name, middle), cable.name, cable.fitting, cable.hole_mm)
        for cable in cables
        if cable.hole_mm is not None and not cable.origin
    ]
    for name, numbers in supplies_in(job).items():
        fitting, hole = _supply_fitting(numbers, sections)
        if hole:
            wanted.append((near.get(name, middle), name, fitting, hole))
    held = []
    for _, name, fitting, hole in wanted:
        choice = job.ledger.holes.get(hole_key(name))
        if choice is not None and choice.is_held:
            entry = Entry(cable=name, fitting=fitting, x=choice.value.x, z=choice.value.y, diameter=hole)
            held.append(replace(entry, fits=entry.is_within(job.enclosure)))
    if held:
        names = {entry.cable for entry in held}
        return _around(held, sorted(one for one in wanted if one[1] not in names), job.enclosure)
    rows: list[list[Entry]] = []
    left, right = WALL_EDGE_MM, job.enclosure.width - WALL_EDGE_MM
    z = WALL_EDGE_MM
    waiting: Sequence[tuple[float, str, str, float]] = sorted(wanted)
    while waiting:
        deep = max(hole for *_, hole in waiting) * NUT_SHARE
        row, over = _row(waiting, left, right, z + deep / 2)
        fits = z + deep <= job.enclosure.depth - WALL_EDGE_MM / 2
        rows.append([entry if fits else replace(entry, fits=False) for entry in row])
        if len(over) == len(waiting):
            rows.append([replace(e, fits=False) for e in _row(over, left, float("inf"), z + deep / 2)[0]])
            break
        waiting, z = over, z + deep + SPANNER_MM
    return tuple(entry for row in rows for entry in row)


def _around(
    held: Sequence[Entry], wanted: Sequence[tuple[float, str, str, float]], enclosure: Enclosure
) -> tuple[Entry, ...]:
    """Return entries around those that are held, each in the first row from the back that has room and as near to where it is wanted as it
    has it there.
    """
    found = list(held)
    step = max((hole for *_, hole in wanted), default=0.0) * NUT_SHARE + SPANNER_MM
    asides = sorted(_steps(-enclosure.width, enclosure.width, _STEP_MM), key=abs)
    for x, name, fitting, hole in wanted:
        first = WALL_EDGE_MM + hole * NUT_SHARE / 2
        wish = Entry(cable=name, fitting=fitting, x=round(x, 1), z=round(first, 1), diameter=hole, fits=False)
        spots = (
            replace(wish, x=round(x + aside, 1), z=round(z, 1), fits=True)
            for z in _steps(first, enclosure.depth, step)
            for aside in asides
        )
        free = (s for s in spots if s.is_within(enclosure) and all(s.missing_to(other) <= 0 for other in found))
        found.append(next(free, wish))
    return tuple(found)


def _steps(begin: float, end: float, by: float) -> list[float]:
    return [begin + by * k for k in range(int((end - begin) // by) + 1)]


def _row(
    wanted: Sequence[tuple[float, str, str, float]], left: float, right: float, z: float
) -> tuple[list[Entry], list[tuple[float, str, str, float]]]:
    """Return the entries of one row, pushed apart as far as their nuts need, and what has no room in it."""
    chosen: list[tuple[float, str, str, float]] = []
    over: list[tuple[float, str, str, float]] = []
    used = 0.0
    for entry in wanted:
        takes = entry[3] * NUT_SHARE + SPANNER_MM
        if used + takes - SPANNER_MM <= right - left:
            chosen.append(entry)
            used += takes
        else:
            over.append(entry)
    places: list[float] = []
    edge = left
    for x, _, _, hole in chosen:
        half = hole * NUT_SHARE / 2
        places.append(max(x, edge + half))
        edge = places[-1] + half + SPANNER_MM
    limit = right
    for k in range(len(chosen) - 1, -1, -1):
        half = chosen[k][3] * NUT_SHARE / 2
        places[k] = min(places[k], limit - half)
        limit = places[k] - half - SPANNER_MM
    entries = [
        Entry(cable=name, fitting=fitting, x=round(x, 1), z=round(z, 1), diameter=hole)
        for x, (_, name, fitting, hole) in zip(places, chosen, strict=True)
    ]
    return entries, over


def _supply_fitting(numbers: frozenset[str], sections: Sections) -> tuple[str, float]:
    """Return thread or trade size and hole in mm of a supply: a cable, or single conductors in a conduit, of its lines, neutral and
    earth; 0 where none takes it.
    """
    size, cores = _supply_size(numbers, sections), len(numbers) + 1
    if size is None:
        return "", 0.0
    if not size.metric:
        trade = nec.conduit_trade_size(((size.awg, cores),)) if size.awg in nec.conduit_conductors() else None
        return ("", 0.0) if trade is None else (f'conduit {trade}"', cable_entries.knockout_mm(trade))
    gland = cable_entries.gland_for(_supply_diameter(numbers, sections))
    return ("", 0.0) if gland is None else (gland.thread, gland.hole_mm)
