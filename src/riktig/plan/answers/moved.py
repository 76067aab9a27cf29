"""Owns what follows at once when something on the plate moves: lengths, ways, fill, depth, on the wires as they are joined now.

What a move may change besides (combs, clamps, new wires) is for `settle` and comes a moment later.
"""

from dataclasses import replace

from riktig.plan.place.door import read_door
from riktig.plan.place.layout import PlateLayout
from riktig.plan.place.pieces import cut_pieces, drill_holes
from riktig.plan.place.routes import DuctNetwork
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Geometry, Ways, measure_again
from riktig.plan.wiring.duct_fill import duct_loads
from riktig.plan.wiring.entries import lay_cables, place_entries
from riktig.plan.wiring.index import landed_at, landed_on_device


def with_layout(plan: Plan, layout: PlateLayout) -> Plan:
    """Return the Plan as it is on another plate with the same things on it, joined by the same wires; combs over what moved are gone."""
    job, circuit = plan.job, plan.circuit
    door = read_door(job, circuit, plan.parts, layout, job.ledger.places)
    geometry = Geometry(job, plan.parts, layout, door, plan.clamps, plan.clamp_parts)
    ways = Ways(geometry, DuctNetwork(layout.ducts))
    still = frozenset(name for name, box in layout.boxes.items() if plan.plate.boxes.get(name) == box)
    frame_stands = (layout.ducts, layout.rails) == (plan.plate.ducts, plan.plate.rails)
    moved = frozenset(layout.boxes) - still | {"Q0"} if frame_stands else None
    conductors = measure_again(plan.conductors, ways, moved)
    cable_ways = lay_cables(job, conductors, plan.cables, plan.potentials, plan.clamps, plan.sections, ways)
    return replace(
        plan,
        plate=layout,
        door=door,
        conductors=conductors,
        conductors_at=landed_at(conductors),
        conductors_of=landed_on_device(conductors),
        duct_loads=duct_loads(conductors, cable_ways),
        cable_ways=cable_ways,
        entries=place_entries(job, plan.cables, cable_ways, plan.sections),
        combs=tuple(comb for comb in plan.combs if still.issuperset(comb.devices)),
        cuts=plan.cuts if frame_stands else cut_pieces(job, layout),
        holes=drill_holes(job, layout, plan.parts),
    )
