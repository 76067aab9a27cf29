"""Owns at which terminal a potential is met best by a probe or a clip. Must not know steps."""

from riktig.job.ids import terminal_id
from riktig.plan.circuit.model import DOOR, EARTH_BAR, PLATE
from riktig.plan.circuit.zones import INCOMING, device_of
from riktig.plan.net.numbers import Potential
from riktig.plan.plan import Plan


def ease(plan: Plan, terminal: str) -> int:
    """Sort terminals by how well a probe reaches them: on the plate, then on the door, then elsewhere."""
    device = plan.circuit.index.get(device_of(terminal))
    return {PLATE: 0, DOOR: 1}.get(device.location if device is not None else PLATE, 2)


def number_of(plan: Plan, end: str) -> str:
    """Return the number of what is at a terminal of a device, at a clamp of a strip or of a bar; "" of nothing."""
    return next((c.number for c in plan.conductors_at.get(end, ())), plan.number_at(end))


def best_point(plan: Plan, potential: Potential) -> str:
    """Return where a potential is met best: on the clamp on which it comes in, else at the device nearest to what feeds it that is
    reached well, else on a clamp of a strip.
    """
    clamps = [clamp for clamp in plan.clamps if clamp.number == potential.number]
    coming_in = [clamp.id for clamp in clamps if clamp.drop == INCOMING]
    ends = [*coming_in, *potential.net.terminals, *(clamp.id for clamp in clamps)]
    return min(ends, key=lambda end: (end not in coming_in, ease(plan, end)))


def point_of(plan: Plan, name: str) -> str | None:
    """Return where a potential of a name is measured, None where there is none; of earth the clamp of the bar on which that of the supply
    lands, if there is a bar.
    """
    main_earth = terminal_id(EARTH_BAR, "1")
    if name == "PE" and main_earth in plan.conductors_at:
        return main_earth
    found = next((p for p in plan.potentials if name in p.net.names or p.number == name), None)
    return best_point(plan, found) if found is not None and found.net.terminals else None
