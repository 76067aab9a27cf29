"""Owns where field cables come into the enclosure and their ways through the ducts to their terminals. Must not size cables.

Frame of the entry wall: mm, x as the front of the enclosure, z from its back wall to its door.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

from riktig.job.model import Job
from riktig.plan.cables import Cable
from riktig.plan.conductors import Conductor, Geometry
from riktig.plan.incoming import supply_names
from riktig.plan.numbers import Potential
from riktig.plan.plate import EDGE_MM
from riktig.plan.routes import DuctNetwork, Leg
from riktig.plan.sections import Sections
from riktig.plan.zones import device_of
from riktig.standards import cable_entries, nec
from riktig.standards.wire_diameters import outer_diameter_mm
from riktig.units.conductor_size import ConductorSize

SUPPLY = "supply"
WALL_EDGE_MM = 40.0
"""Free edge of the entry wall (common practice, no source)."""
NUT_SHARE = 1.45
"""Across the corners of a gland's nut, over its hole (common practice, no source)."""
SPANNER_MM = 6.0
"""Between two nuts, for a spanner (common practice, no source)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """A hole in the entry wall: what comes in (a cable's name, or `supply`), its thread or trade size, centre and diameter in mm.

    `fits` tells whether the wall has room for it.
    """

    cable: str
    fitting: str
    x: float
    z: float
    diameter: float
    fits: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class CableWay:
    """The way of a field cable or the supply inside the panel, from beside its entry to its terminals; how long and thick, in mm."""

    cable: str
    legs: tuple[Leg, ...]
    length: float
    diameter: float


def lay_cables(
    job: Job,
    conductors: Sequence[Conductor],
    cables: Sequence[Cable],
    potentials: Sequence[Potential],
    sections: Sections,
    geometry: Geometry,
    network: DuctNetwork,
) -> tuple[CableWay, ...]:
    """Return the ways of field cables and supply: straight into the duct beside the entry wall, then the shortest way to where they
    are landed.
    """
    levels = geometry.plate.levels
    if not levels:
        return ()
    outer = levels[-1] if job.supply.entry == "bottom" else levels[0]
    ends: dict[str, list[str]] = {}
    for c in conductors:
        if c.kind == "core":
            ends.setdefault(c.location, []).extend(t for t in (c.a, c.b) if device_of(t) in geometry.plate.boxes)
    ends[SUPPLY] = [
        next(t for t in p.net.terminals if device_of(t) in geometry.plate.items)
        for p in potentials
        if p.number in supply_names(job) and any(device_of(t) in geometry.plate.items for t in p.net.terminals)
    ]
    thick = {cable.name: cable.diameter_mm for cable in cables}
    thick[SUPPLY] = _supply_diameter(job, sections)
    found = []
    for cable, terminals in ends.items():
        if terminals:
            at = [geometry.access(terminal, is_outside=cable != SUPPLY) for terminal in terminals]
            middle = sorted(at, key=lambda access: (access.duct, access.x))[len(at) // 2]
            x = min(max(middle.x, outer.box.x), outer.box.right)
            route = network.route((outer.code, x), (middle.duct, middle.at))
            found.append(CableWay(cable=cable, legs=route.legs, length=route.length, diameter=thick[cable]))
    return tuple(found)


def _supply_size(job: Job, sections: Sections) -> ConductorSize | None:
    sizes = [sections.inside[number] for number in supply_names(job) if number in sections.inside]
    return max(sizes, key=lambda s: s.mm2, default=None)


def _supply_diameter(job: Job, sections: Sections) -> float:
    """Return how thick the supply is: a cable, or single conductors taken as a round of the same area."""
    size, cores = _supply_size(job, sections), len(supply_names(job)) + 1
    if size is None:
        return 0.0
    if size.metric:
        return cable_entries.cable_diameter_mm(cores, size.mm2)
    return outer_diameter_mm(size.mm2) * sqrt(cores)


def place_entries(job: Job, cables: Sequence[Cable], ways: Sequence[CableWay], sections: Sections) -> tuple[Entry, ...]:
    """Return the holes of the entry wall: each as near below or above its terminals as its neighbours let it, in rows from the
    back; the supply's own among them.
    """
    near = {way.cable: way.legs[0].start + EDGE_MM / 2 for way in ways if way.legs}
    middle = job.enclosure.width / 2
    wanted = [
        (near.get(cable.name, middle), cable.name, _fitting(cable), cable.hole_mm)
        for cable in cables
        if cable.hole_mm is not None
    ]
    wanted.extend((near.get(name, x), name, fitting, hole) for x, name, fitting, hole in _supply(job, sections))
    rows: list[list[Entry]] = []
    left, right = WALL_EDGE_MM, job.enclosure.width - WALL_EDGE_MM
    z = WALL_EDGE_MM
    waiting: Sequence[tuple[float, str, str, float]] = sorted(wanted)
    while waiting:
        deep = max(hole for *_, hole in waiting) * NUT_SHARE
        row, over = _row(waiting, left, right, z + deep / 2)
        fits = z + deep <= job.enclosure.depth - WALL_EDGE_MM / 2
        rows.append([entry if fits else _without_room(entry) for entry in row])
        if len(over) == len(waiting):
            rows.append([_without_room(e) for e in _row(over, left, float("inf"), z + deep / 2)[0]])
            break
        waiting, z = over, z + deep + SPANNER_MM
    return tuple(entry for row in rows for entry in row)


def _fitting(cable: Cable) -> str:
    if cable.gland is not None:
        return cable.gland.thread
    return f'conduit {cable.conduit.trade_size}"' if cable.conduit is not None else ""


def _without_room(entry: Entry) -> Entry:
    return Entry(cable=entry.cable, fitting=entry.fitting, x=entry.x, z=entry.z, diameter=entry.diameter, fits=False)


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


def _supply(job: Job, sections: Sections) -> list[tuple[float, str, str, float]]:
    """Return the hole of the supply: a cable, or single conductors in a conduit, of its lines, neutral and earth."""
    size, cores = _supply_size(job, sections), len(supply_names(job)) + 1
    middle = job.enclosure.width / 2
    if size is None:
        return []
    if not size.metric:
        trade = nec.conduit_trade_size(((size.awg, cores),)) if size.awg in nec.conduit_conductors() else None
        return [] if trade is None else [(middle, SUPPLY, f'conduit {trade}"', cable_entries.knockout_mm(trade))]
    gland = cable_entries.gland_for(_supply_diameter(job, sections))
    return [] if gland is None else [(middle, SUPPLY, gland.thread, gland.hole_mm)]
