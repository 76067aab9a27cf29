"""Owns operator stations: the box at a location with its holes, legends, depth and cable entries. Must not know the panel's own door.

Frame: mm, origin at the lower left corner of the box's lid seen from the front, x right, y up.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from riktig.catalogue.model import Mounting, Part
from riktig.job.entries import HolePlace
from riktig.job.model import Job
from riktig.plan.circuit.model import DOOR, PLATE, Circuit, CircuitDevice
from riktig.plan.circuit.zones import zone_of
from riktig.plan.net.runs import zone_of_run
from riktig.plan.place.depth import depth_behind
from riktig.plan.place.door import WEB_MM, Cutout, cutout_of
from riktig.plan.place.layout import Box
from riktig.plan.place.walls import WallLayout
from riktig.plan.wiring.cables import Cable
from riktig.plan.wiring.entries import NUT_SHARE, SPANNER_MM, Entry
from riktig.standards.iec_60947_5_1 import hole_for

PITCH_MM = 50.0
"""Hole to hole down a column: the standard's 40 mm and room for a legend (common practice, no source)."""
COLUMN_MM = 60.0
EDGE_MM = 40.0
_MORE_COLUMNS = 4
"""So many columns more are tried below something large, which is wide itself."""
LARGE_GAP_MM, LARGE_EDGE_MM = 30.0, 20.0
"""Above a large cut-out, as of an operator panel, with its legend, and beside it (common practice, no source)."""
STUD_MM = 15.0
"""How far the earth stud sits from two edges of the lid (common practice, no source)."""
LID_MM, FLOOR_MM = 3.0, 5.0
"""Lid of a box, and what is kept free before its back (common practice, no source)."""
LEGEND_W_MM, LEGEND_H_MM = 30.0, 12.5
MOST_IN_COLUMN = 6
BOXES_MM = (
    (80.0, 80.0, 75.0), (80.0, 130.0, 75.0), (80.0, 180.0, 85.0), (80.0, 250.0, 85.0), (120.0, 300.0, 90.0),
    (125.0, 175.0, 100.0), (150.0, 200.0, 120.0), (150.0, 300.0, 120.0), (200.0, 300.0, 120.0), (200.0, 400.0, 120.0),
    (300.0, 400.0, 150.0), (400.0, 400.0, 200.0),
)  # fmt: skip
"""Width, height and depth of boxes for buttons, rising (common practice, no source)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Gland:
    """A cable entry in the bottom of a station: the cable, its thread or trade size, and the middle and diameter of its hole."""

    cable: str
    fitting: str
    x: float
    z: float
    diameter: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Station:
    """The box at a location, in mm. `operators` are those of its cut-outs that a person may move, all but the earth stud; `legends` are
    words and places of the plates above the holes, `deepest` is how far its parts reach in with the bend of their wires; `fits` tells
    whether a box of the series takes them all, `needs` what they ask for.
    """

    location: str
    width: float
    height: float
    depth: float
    cutouts: tuple[Cutout, ...]
    operators: tuple[Cutout, ...]
    legends: tuple[tuple[str, Box], ...]
    glands: tuple[Gland, ...]
    deepest: float
    fits: bool
    needs: str


def build_stations(
    job: Job, circuit: Circuit, parts: Mapping[str, Part], cables: Sequence[Cable]
) -> tuple[Station, ...]:
    """Return the stations in drawing order: what is mounted in a door, but stands at a location of its own; holes that somebody holds stay
    where they are.
    """
    at: dict[str, list[CircuitDevice]] = {}
    studs = {device.location: device for device in circuit.devices if device.kind == "earth-stud"}
    for device in circuit.devices:
        zone = zone_of(device)
        if zone not in {PLATE, DOOR} and "/" not in zone and parts[device.id].mounting is Mounting.DOOR:
            at.setdefault(zone, []).append(device)
    held = {key: (choice.value.x, choice.value.y) for key, choice in job.ledger.holes.items() if choice.is_held}
    return tuple(_station(place, members, studs.get(place), parts, cables, held) for place, members in at.items())


def hole_places(
    entries: Sequence[Entry], stations: Sequence[Station], walls: Sequence[WallLayout]
) -> dict[str, HolePlace]:
    """Return where the holes are that are neither in the plate nor in the door, by their keys in the ledger."""
    places = {entry.key: HolePlace(entry.x, entry.z) for entry in entries}
    places.update((hole.device, HolePlace(hole.x, hole.y)) for station in stations for hole in station.operators)
    places.update((hole.device, HolePlace(hole.x, hole.y)) for wall in walls for hole in wall.cutouts)
    return places


def _rank(device: CircuitDevice) -> int:
    """Order down a column: lamps, what starts, what stops, emergency stop lowest (common practice, no source)."""
    if device.kind == "lamp":
        return 0
    if device.kind == "emergency-stop":
        return 3
    return 2 if device.role == "S0" or device.colour == "red" else 1


def _station(
    place: str,
    members: Sequence[CircuitDevice],
    stud: CircuitDevice | None,
    parts: Mapping[str, Part],
    cables: Sequence[Cable],
    held: Mapping[str, tuple[float, float]],
) -> Station:
    """Return the box of a place: what has a large cut-out at the top, below it the rest in columns; the earth stud of a metal one sits in a
    corner of its lid.
    """
    large = [d for d in members if not parts[d.id].rating("hole_mm")]
    ordered = sorted((d for d in members if d not in large), key=_rank)
    stood = _beside({device.id: held[device.id] for device in ordered if device.id in held}, ordered)
    holes = [cutout_of(d.id, parts[d.id], 0, 0).box for d in large]
    above = sum(hole.h + LARGE_GAP_MM for hole in holes)
    deepest = max(depth_behind(parts[d.id]) for d in members)
    entering = [cable for cable in cables if zone_of_run(cable.drop) == place and cable.hole_mm]
    glands = sum(NUT_SHARE * (c.hole_mm or 0.0) + SPANNER_MM for c in entering) + 10
    deep = deepest + LID_MM + FLOOR_MM

    def asked(columns: int) -> tuple[float, float]:
        """Return how wide and how high a box is at least with so many columns."""
        rows = -(-len(ordered) // columns)
        across = max((x for x, _ in stood.values()), default=EDGE_MM + (columns - 1) * COLUMN_MM) + EDGE_MM
        wide = max(across, *(hole.w + 2 * LARGE_EDGE_MM for hole in holes), glands)
        return wide, max((y for _, y in stood.values()), default=EDGE_MM + (rows - 1) * PITCH_MM) + EDGE_MM + above

    least = max(-(-len(ordered) // MOST_IN_COLUMN), 1)
    fitting = (
        (columns, box) for columns in range(least, least + (_MORE_COLUMNS if holes else 1)) for box in BOXES_MM
        if all(has >= wants for has, wants in zip(box, (*asked(columns), deep), strict=True))
    )  # fmt: skip
    columns, box = next(fitting, (least, None))
    rows, (wide, high) = -(-len(ordered) // columns), asked(columns)
    width, height, depth = box or (wide, high, deep)
    low = height - above
    places = {d.id: stood.get(d.id) or _in_columns(k, rows, columns, width, low) for k, d in enumerate(ordered)}
    top = height
    for device, hole in zip(large, holes, strict=True):
        places[device.id] = held.get(device.id) or (width / 2, top - LARGE_GAP_MM - hole.h / 2)
        top -= hole.h + LARGE_GAP_MM
    ordered += large
    operators = tuple(cutout_of(device.id, parts[device.id], *places[device.id]) for device in ordered)
    earth = () if stud is None else (_stud(stud, parts[stud.id], operators, width, height),)
    step = width / (len(entering) + 1)
    return Station(
        location=place, width=width, height=height, depth=depth, cutouts=(*operators, *earth), operators=operators,
        legends=tuple(_legend(device, hole, parts) for device, hole in zip(ordered, operators, strict=True)),
        glands=tuple(
            Gland(cable=c.name, fitting=c.fitting, x=step * (k + 1), z=depth / 2, diameter=c.hole_mm or 0.0)
            for k, c in enumerate(entering)
        ),
        deepest=deepest, fits=box is not None, needs=f"{wide:.0f} x {high:.0f} mm and {deep:.0f} mm deep",
    )  # fmt: skip


def _stud(stud: CircuitDevice, part: Part, operators: Sequence[Cutout], width: float, height: float) -> Cutout:
    """Return the hole of an earth stud in the first corner with a web of sheet to all other holes,
    else in that with most: lower left first."""

    def web(hole: Cutout) -> float:
        return min((-min(hole.box.overlap(other.box)) for other in operators), default=WEB_MM)

    corners = [cutout_of(stud.id, part, x, y) for y in (STUD_MM, height - STUD_MM) for x in (STUD_MM, width - STUD_MM)]
    return next((hole for hole in corners if web(hole) >= WEB_MM), max(corners, key=web))


def _beside(
    held: Mapping[str, tuple[float, float]], ordered: Sequence[CircuitDevice]
) -> dict[str, tuple[float, float]]:
    """Return places with one for each device that has none, down a column of its own right of all that are held; none where none is."""
    found = dict(held)
    if held:
        x, top = max(x for x, _ in held.values()) + COLUMN_MM, max(y for _, y in held.values())
        for k, device in enumerate(device for device in ordered if device.id not in held):
            found[device.id] = (x + k // MOST_IN_COLUMN * COLUMN_MM, top - k % MOST_IN_COLUMN * PITCH_MM)
    return found


def _in_columns(k: int, rows: int, columns: int, width: float, height: float) -> tuple[float, float]:
    """Return the centre of the k-th device, column by column from the top, in the middle of a field of the lid."""
    top = height / 2 + (rows - 1) * PITCH_MM / 2
    return width / 2 + (k // rows - (columns - 1) / 2) * COLUMN_MM, top - (k % rows) * PITCH_MM


def _legend(device: CircuitDevice, hole: Cutout, parts: Mapping[str, Part]) -> tuple[str, Box]:
    size = hole_for(hole.diameter)
    above = hole.y + (size.diameter if size is not None else parts[device.id].height) / 2 + 6
    return device.title or device.id, Box(x=hole.x - LEGEND_W_MM / 2, y=above, w=LEGEND_W_MM, h=LEGEND_H_MM)
