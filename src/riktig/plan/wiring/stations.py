"""Owns operator stations: the box at a location with its holes, legends, depth and cable entries. Must not know the panel's own door.

Frame: mm, origin at the lower left corner of the box's lid seen from the front, x right, y up.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from riktig.catalogue.model import Mounting, Part
from riktig.plan.circuit.model import DOOR, PLATE, Circuit, CircuitDevice
from riktig.plan.circuit.zones import zone_of
from riktig.plan.net.runs import zone_of_run
from riktig.plan.place.depth import depth_behind
from riktig.plan.place.door import Cutout
from riktig.plan.place.layout import Box
from riktig.plan.wiring.cables import Cable
from riktig.plan.wiring.entries import NUT_SHARE, SPANNER_MM
from riktig.standards.iec_60947_5_1 import hole_for

PITCH_MM = 50.0
"""Hole to hole down a column: the standard's 40 mm and room for a legend (common practice, no source)."""
COLUMN_MM = 60.0
EDGE_MM = 40.0
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
    """The box at a location, in mm. `legends` are words and places of the plates above the holes, `deepest` is how far its parts
    reach in with the bend of their wires; `fits` tells whether a box of the series takes them all, `needs` what they ask for.
    """

    location: str
    width: float
    height: float
    depth: float
    cutouts: tuple[Cutout, ...]
    legends: tuple[tuple[str, Box], ...]
    glands: tuple[Gland, ...]
    deepest: float
    fits: bool
    needs: str


def build_stations(circuit: Circuit, parts: Mapping[str, Part], cables: Sequence[Cable]) -> tuple[Station, ...]:
    """Return the stations in drawing order: what is mounted in a door, but stands at a location of its own."""
    at: dict[str, list[CircuitDevice]] = {}
    studs = {device.location: device for device in circuit.devices if device.kind == "earth-stud"}
    for device in circuit.devices:
        zone = zone_of(device)
        if zone not in {PLATE, DOOR} and "/" not in zone and parts[device.id].mounting is Mounting.DOOR:
            at.setdefault(zone, []).append(device)
    return tuple(_station(place, members, studs.get(place), parts, cables) for place, members in at.items())


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
) -> Station:
    """Return the box of a place; the earth stud of a metal one sits in the lower left corner of its lid."""
    ordered = sorted(members, key=_rank)
    columns = -(-len(ordered) // MOST_IN_COLUMN)
    rows = -(-len(ordered) // columns)
    deepest = max(depth_behind(parts[d.id]) for d in ordered)
    glands = [cable for cable in cables if zone_of_run(cable.drop) == place and cable.hole_mm]
    wide = max(
        2 * EDGE_MM + (columns - 1) * COLUMN_MM, sum(NUT_SHARE * (c.hole_mm or 0.0) + SPANNER_MM for c in glands) + 10
    )
    high, deep = 2 * EDGE_MM + (rows - 1) * PITCH_MM, deepest + LID_MM + FLOOR_MM
    box = next((b for b in BOXES_MM if b[0] >= wide and b[1] >= high and b[2] >= deep), None)
    width, height, depth = box or (wide, high, deep)
    cutouts, legends = [], []
    top = height / 2 + (rows - 1) * PITCH_MM / 2
    for k, device in enumerate(ordered):
        x = width / 2 + (k // rows - (columns - 1) / 2) * COLUMN_MM
        y = top - (k % rows) * PITCH_MM
        part = parts[device.id]
        cutouts.append(
            Cutout(
                device=device.id,
                x=x,
                y=y,
                diameter=part.rating("hole_mm"),
                w=part.rating("cut_w"),
                h=part.rating("cut_h"),
            )
        )
        hole = hole_for(part.rating("hole_mm"))
        above = y + (hole.diameter if hole is not None else part.height) / 2 + 6
        legends.append((device.title or device.id, Box(x=x - LEGEND_W_MM / 2, y=above, w=LEGEND_W_MM, h=LEGEND_H_MM)))
    if stud is not None:
        cutouts.append(Cutout(device=stud.id, x=STUD_MM, y=STUD_MM, diameter=parts[stud.id].rating("hole_mm")))
    step = width / (len(glands) + 1)
    return Station(
        location=place, width=width, height=height, depth=depth, cutouts=tuple(cutouts), legends=tuple(legends),
        glands=tuple(
            Gland(cable=c.name, fitting=c.fitting, x=step * (k + 1), z=depth / 2, diameter=c.hole_mm or 0.0)
            for k, c in enumerate(glands)
        ),
        deepest=deepest, fits=box is not None, needs=f"{wide:.0f} x {high:.0f} mm and {deep:.0f} mm deep",
    )  # fmt: skip
