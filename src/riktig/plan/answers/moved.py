"""Owns what follows at once when something on the plate moves: lengths, ways, fill, depth, on the wires as they are joined now.

What a move may change besides (combs, clamps, new wires) is for `settle` and comes a moment later.
"""

from collections.abc import Generator
from dataclasses import replace

from riktig.plan.circuit.incoming import supplies_in
from riktig.plan.net.strips import strip_of
from riktig.plan.place.door import read_door
from riktig.plan.place.door_places import behind_door
from riktig.plan.place.layout import PlateLayout
from riktig.plan.place.pieces import cut_pieces, drill_holes
from riktig.plan.place.routes import DuctNetwork
from riktig.plan.place.walls import build_walls
from riktig.plan.plan import Plan
from riktig.plan.wiring.apart import shunned_by
from riktig.plan.wiring.conductors import Ways, measure_again
from riktig.plan.wiring.duct_fill import duct_loads, loads_after
from riktig.plan.wiring.entries import landings, lay_cables, place_entries
from riktig.plan.wiring.geometry import Geometry
from riktig.plan.wiring.index import with_new


def with_layout(plan: Plan, layout: PlateLayout) -> Plan:
    """Return the Plan as it is on another plate with the same things on it, joined by the same wires; combs over what moved are gone."""
    steps = moving(plan, layout)
    while True:
        try:
            next(steps)
        except StopIteration as end:
            moved: Plan = end.value
            return moved


def moving(plan: Plan, layout: PlateLayout) -> Generator[None, None, Plan]:
    """Make the same in steps, so that a window can turn to something else between them."""
    job, circuit = plan.job, plan.circuit
    door = plan.door
    if behind_door(job, circuit, layout, plan.parts) != behind_door(job, circuit, plan.plate, plan.parts):
        door = read_door(job, circuit, plan.parts, layout, plan.door.groups, job.ledger.places)
    yield
    walls = build_walls(job, circuit, plan.parts, layout, door) if plan.walls else ()
    geometry = Geometry(job, plan.parts, layout, door, plan.clamps, plan.clamp_parts, walls)
    still = frozenset(name for name, box in layout.boxes.items() if plan.plate.boxes.get(name) == box)
    frame_stands = (layout.ducts, layout.rails) == (plan.plate.ducts, plan.plate.rails)
    moved = frozenset(map(strip_of, layout.boxes.keys() - still)) | {"Q0"} if frame_stands else None
    shunned = plan.shunned if frame_stands else shunned_by(job, plan.parts, plan.potentials, geometry)
    ways = Ways(geometry, DuctNetwork(layout.ducts), shunned)
    conductors = measure_again(plan.conductors, ways, moved)
    yield
    new = {c.id: c for old, c in zip(plan.conductors, conductors, strict=True) if c is not old}
    cable_ways, entries, loads = plan.cable_ways, plan.entries, None
    if moved is None or _leads_cables(plan, frozenset(layout.boxes) - still):
        cable_ways = lay_cables(job, conductors, plan.cables, plan.potentials, plan.clamps, plan.sections, ways)
        entries = place_entries(job, plan.cables, cable_ways, plan.sections)
        loads = duct_loads(conductors, cable_ways)
    return replace(
        plan,
        plate=layout,
        door=door,
        walls=walls,
        conductors=conductors,
        conductors_at=with_new(plan.conductors_at, new, is_by_device=False),
        conductors_of=with_new(plan.conductors_of, new, is_by_device=True),
        duct_loads=loads or loads_after(plan.duct_loads, plan.conductors, conductors, cable_ways),
        cable_ways=cable_ways,
        entries=entries,
        combs=tuple(comb for comb in plan.combs if still.issuperset(comb.devices)),
        cuts=plan.cuts if frame_stands else cut_pieces(job, layout),
        holes=drill_holes(job, layout, plan.parts),
    )


def _leads_cables(plan: Plan, devices: frozenset[str]) -> bool:
    """Return whether a cable ends at one of these: a field cable on a strip or at a drive, or that of a way in."""
    numbers: frozenset[str] = frozenset().union(*supplies_in(plan.job).values())
    landed = landings(numbers, plan.potentials, plan.clamps, plan.plate)
    return any(plan.item_of(terminal) in devices for _, terminal, _ in landed) or any(
        c.kind == "core" for device in map(strip_of, devices) for c in plan.conductors_of.get(device, ())
    )
