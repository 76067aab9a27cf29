"""Owns the resistance between two points of a dead panel, by nodal analysis. Must not know meters or persons."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum
from math import inf, sqrt

from riktig.catalogue.model import Element, ElementKind, Part
from riktig.plan.circuit.model import CircuitDevice
from riktig.plan.plan import Plan
from riktig.plan.sizes.coils import coils_of
from riktig.plan.sizes.needs import Coil
from riktig.standards.iec_60228 import resistance_ohm_per_m

CLOSED_OHM = 0.02
CLAMP_OHM = 0.005
_CLOSED_AT_REST = frozenset({
    ElementKind.NC, ElementKind.CO, ElementKind.TIMED_NC, ElementKind.TIMED_CO, ElementKind.ALARM_NC, ElementKind.AUX_NC,
})  # fmt: skip
_OPEN_AT_REST = frozenset({ElementKind.EARTH, ElementKind.THROUGH, ElementKind.CONVERTER})


class WiringFaultKind(StrEnum):
    """What can be wrong with a wire."""

    OPEN = "open"
    SWAPPED = "swapped"


@dataclass(frozen=True, slots=True, kw_only=True)
class WiringFault:
    """A fault in the panel as built: the wire is open, or its far end is exchanged with that of `other`."""

    kind: WiringFaultKind
    wire: str
    other: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Resistor:
    """A resistance in ohm between two terminals."""

    a: str
    b: str
    ohms: float


def build_network(plan: Plan, faults: tuple[WiringFault, ...] = ()) -> tuple[Resistor, ...]:
    """Return the resistors of the dead panel: breakers and main switch open, earth links out, contacts at rest."""
    return (*_wires(plan, faults), *_elements(plan))


def _wires(plan: Plan, faults: tuple[WiringFault, ...]) -> Iterator[Resistor]:
    is_open = {fault.wire for fault in faults if fault.kind is WiringFaultKind.OPEN}
    ends: dict[str, str] = {c.id: c.b for c in plan.conductors}
    for fault in faults:
        if fault.kind is WiringFaultKind.SWAPPED and fault.other is not None:
            ends[fault.wire], ends[fault.other] = ends[fault.other], ends[fault.wire]
    for c in plan.conductors:
        if c.id not in is_open:
            ohms = resistance_ohm_per_m(c.size.mm2) * c.length_mm / 1000 + 2 * CLAMP_OHM
            yield Resistor(a=c.a, b=ends[c.id], ohms=ohms)


def _elements(plan: Plan) -> Iterator[Resistor]:
    fed = coils_of(plan.job, plan.circuit, plan.power_circuits)
    for device in plan.circuit.devices:
        part = plan.parts[device.id]
        for element in part.elements:
            marks = [f"{device.id}:{mark}" for mark in element.marks]
            ohms = _ohms_at_rest(plan, device, part, element, fed)
            if ohms is None:
                continue
            if len(marks) == 1 or element.kind in _OPEN_AT_REST:
                continue
            if len(marks) >= 3 and element.kind in {ElementKind.LOAD, ElementKind.WINDING}:
                star = f"{device.id}:*"
                yield from (Resistor(a=mark, b=star, ohms=ohms / 2) for mark in marks)
            else:
                yield Resistor(a=marks[0], b=marks[1], ohms=ohms)


def _ohms_at_rest(
    plan: Plan, device: CircuitDevice, part: Part, element: Element, fed: Mapping[str, Coil]
) -> float | None:
    """Return what an element reads at rest, None if it is open; `fed` has what coils and loads are fed with, by device.

    Source:
        Windings: a few percent of the rated impedance; what starts a motor: as much as leaves three times its current; coils and
        lamps: rated voltage squared by power; common practice, no source.
    """
    volts = plan.job.supply.volts
    control = fed[device.id].volts if device.id in fed else plan.job.supply.line_to_neutral
    if element.kind in _CLOSED_AT_REST:
        return CLOSED_OHM
    if element.kind is ElementKind.POLE:
        if part.kind in {"resistor", "transformer"}:
            return volts / (3 * sqrt(3) * max(part.rating("amps"), 1.0))
        return CLOSED_OHM if part.kind == "overload" else None
    if element.kind in {ElementKind.COIL, ElementKind.LAMP, ElementKind.SOUNDER}:
        return control**2 / max(part.rating("hold_va"), 1.0) * 0.3
    if element.kind in {ElementKind.LOAD, ElementKind.WINDING}:
        size = plan.motors.get(device.id)
        return (
            0.08 * volts / (sqrt(3) * size.current)
            if size is not None
            else control**2 / max(part.rating("hold_va"), 5.0)
        )
    if element.kind is ElementKind.PRIMARY:
        return 0.05 * volts**2 / part.rating("va")
    if element.kind is ElementKind.SECONDARY:
        return 0.05 * control**2 / part.rating("va")
    return None


def resistance_between(network: tuple[Resistor, ...], a: str, b: str) -> float:
    """Return the resistance in ohm between two terminals, infinite where nothing joins them.

    Solves the conductance matrix of the part of the network that hangs together with `a`, `b` grounded.

    Source:
        Kirchhoff's laws, node voltage method.
    """
    if a == b:
        return 0.0
    neighbours: dict[str, list[Resistor]] = {}
    for resistor in network:
        neighbours.setdefault(resistor.a, []).append(resistor)
        neighbours.setdefault(resistor.b, []).append(resistor)
    index = _component(neighbours, a)
    if b not in index:
        return inf
    return _solve(neighbours, index, a, b)


def _component(neighbours: Mapping[str, list[Resistor]], start: str) -> dict[str, int]:
    index = {start: 0}
    queue = [start]
    for node in queue:
        for resistor in neighbours.get(node, []):
            for other in (resistor.a, resistor.b):
                if other not in index:
                    index[other] = len(index)
                    queue.append(other)
    return index


def _solve(neighbours: Mapping[str, list[Resistor]], index: Mapping[str, int], a: str, b: str) -> float:
    import numpy as np

    size = len(index)
    matrix = np.zeros((size, size))
    for node, place in index.items():
        for resistor in neighbours[node]:
            if resistor.a == resistor.b:
                continue
            other = index[resistor.b if resistor.a == node else resistor.a]
            matrix[place, place] += 1 / resistor.ohms
            matrix[place, other] -= 1 / resistor.ohms
    ground = index[b]
    keep = [i for i in range(size) if i != ground]
    current = np.zeros(size)
    current[index[a]] = 1.0
    volts = np.linalg.solve(matrix[np.ix_(keep, keep)], current[keep])
    return float(volts[keep.index(index[a])])
