"""Owns the network cables of controllers: from where to where, and how long each is bought. They come with their plugs and are no wires."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from riktig.plan.circuit.model import DOOR, PLATE

if TYPE_CHECKING:
    from riktig.plan.plan import Plan

LENGTHS_M = (0.25, 0.5, 1.0, 1.5, 2.0, 3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 30.0, 50.0, 100.0)
"""Lengths that are made up with plugs: as commonly sold, no source."""
PATCH_MM = 6.0
"""How thick it is."""
_ENDS_MM, _HINGE_MM = 300.0, 700.0
"""So much more for both ends, and over the hinges (common practice, no source)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Patch:
    """A network cable: its name, the devices at its ends, and the length in m in which it is bought."""

    name: str
    a: str
    b: str
    length_m: float

    @property
    def key(self) -> str:
        """What tells it from others for good."""
        return f"{self.a}~{self.b}"


def patches_of(plan: "Plan") -> tuple[Patch, ...]:
    """Return the network cables of a panel: from each controller and operator panel to its network switch, or to each other without one.

    Source:
        A cable of copper is 100 m long at most: IEC 11801-1, from memory; lengths as they are laid are estimated.
    """
    return tuple(
        Patch(name=f"NW{n}", a=a, b=b, length_m=_bought(_length_mm(plan, a, b) / 1000.0))
        for n, (a, b) in enumerate(_pairs(plan), start=1)
    )


def _pairs(plan: "Plan") -> Iterator[tuple[str, str]]:
    for controller in plan.job.controllers:
        switch, panel = f"{controller.name}.N", f"{controller.name}.HMI"
        ends = [controller.name] + [panel] * (controller.operator_panel is not None)
        if controller.network_switch:
            yield from ((switch, end) for end in ends)
        elif len(ends) > 1:
            yield controller.name, panel


def _length_mm(plan: "Plan", a: str, b: str) -> float:
    """Return how long a cable between two devices is at least, along and across, with both of its ends."""
    where = [plan.circuit.device(device).location for device in (a, b)]
    boxes = [plan.plate.boxes.get(device) or plan.door.boxes.get(device) for device in (a, b)]
    one, other = boxes
    if one is None or other is None:
        far = {place.name: place.distance for place in plan.job.locations}
        return 1000.0 * max(far.get(place, 0.0) for place in where) + plan.job.enclosure.height
    across = abs(one.centre[0] - other.centre[0]) + abs(one.centre[1] - other.centre[1])
    return across + _ENDS_MM + (_HINGE_MM + plan.job.enclosure.depth if {PLATE, DOOR} == set(where) else 0.0)


def _bought(metres: float) -> float:
    return next((length for length in LENGTHS_M if length >= metres), round(metres + 0.5))
