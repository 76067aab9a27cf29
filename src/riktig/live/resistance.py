"""Owns the resistance between two points of a dead panel, by nodal analysis. Must not know meters or persons."""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import inf, sqrt

from riktig.catalogue.model import CONTACT_KINDS, Element, ElementKind, Part
from riktig.live.built import AS_PLANNED, Built, Ends
from riktig.plan.circuit.model import CircuitDevice
from riktig.plan.plan import Plan
from riktig.plan.sizes.coils import coils_of
from riktig.plan.sizes.needs import Coil
from riktig.standards.iec_60228 import resistance_ohm_per_m

CLOSED_OHM = 0.02
CLAMP_OHM = 0.005
LEADS_OHM = 0.1
"""Of the leads of a meter (common practice, no source)."""
_CLOSED_AT_REST = frozenset({
    ElementKind.NC, ElementKind.CO, ElementKind.TIMED_NC, ElementKind.TIMED_CO, ElementKind.ALARM_NC, ElementKind.AUX_NC,
})  # fmt: skip
_OPEN_AT_REST = frozenset({ElementKind.EARTH, ElementKind.THROUGH, ElementKind.CONVERTER})


@dataclass(frozen=True, slots=True, kw_only=True)
class Resistor:
    """A resistance in ohm between two terminals; `of` is the conductor or device that it belongs to, "" for none."""

    a: str
    b: str
    ohms: float
    of: str = ""


PARTED = frozenset({"overload", "emergency-stop"})
"""Kinds that stay operated by themselves: tripped and pressed in for the dead tests, so that a wire on the wrong side of their break
contact is seen (common practice, no source)."""


def build_network(plan: Plan, built: Built = AS_PLANNED) -> tuple[Resistor, ...]:
    """Return the resistors of the dead panel: breakers and main switch open, earth links out, overloads tripped, emergency stops pressed
    in, all other contacts at rest.
    """
    return (*wire_resistors(plan, built), *element_resistors(plan, built))


def wire_resistors(plan: Plan, built: Built = AS_PLANNED) -> Iterator[Resistor]:
    """Yield the resistors of what is wired, bridged or clipped on, as it was built.

    Source:
        IEC 60228 by length and section, from memory; a clamp: common practice, no source.
    """
    for c in plan.conductors:
        ends = built.ends_of(c)
        if ends is not None:
            ohms = resistance_ohm_per_m(c.size.mm2) * c.length_mm / 1000 + 2 * CLAMP_OHM
            yield Resistor(a=ends[0], b=ends[1], ohms=ohms, of=c.id)
    yield from (Resistor(a=a, b=b, ohms=CLAMP_OHM) for a, b in built.extra)


def element_resistors(
    plan: Plan, built: Built = AS_PLANNED, closed: frozenset[Ends] | None = None
) -> Iterator[Resistor]:
    """Yield the resistors inside the devices: contacts, coils, lamps, windings.

    Args:
        plan: the panel.
        built: how it was built.
        closed: the two terminals of every contact and pole that is closed, None: as they are for the dead tests.
    """
    fed = coils_of(plan.job, plan.circuit, plan.power_circuits)
    for device in plan.circuit.devices:
        part = plan.parts[device.id]
        for element in part.elements:
            marks = [f"{device.id}:{mark}" for mark in element.marks]
            ohms = _ohms_at_rest(plan, device, part, element, fed)
            if closed is not None and element.kind in _MOVED and part.kind not in _WOUND:
                pairs = ((marks[0], other) for other in marks[1:] if device.kind != "link")
                yield from (
                    Resistor(a=a, b=b, ohms=CLOSED_OHM, of=device.id) for a, b in pairs if {(a, b), (b, a)} & closed
                )
                continue
            if element.kind in CONTACT_KINDS and (device.kind in PARTED) != (
                bool(built.turned) and built.is_turned(*marks[:2])
            ):
                ohms = CLOSED_OHM if ohms is None else None
                if len(marks) > 2:
                    marks, ohms = [marks[0], marks[2]], CLOSED_OHM
            if ohms is None or len(marks) == 1 or element.kind in _OPEN_AT_REST:
                continue
            if len(marks) >= 3 and element.kind in {ElementKind.LOAD, ElementKind.WINDING}:
                star = f"{device.id}:*"
                yield from (Resistor(a=mark, b=star, ohms=ohms / 2, of=device.id) for mark in marks)
            else:
                yield Resistor(a=marks[0], b=marks[1], ohms=ohms, of=device.id)


_MOVED = CONTACT_KINDS | {ElementKind.POLE}
_WOUND = frozenset({"resistor", "transformer"})
"""Parts whose poles are windings."""


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
        if part.kind in _WOUND:
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


class DeadNetwork:
    """Resistors between terminals, read between two sides of which each may be several terminals clipped together."""

    def __init__(self, resistors: Iterable[Resistor]) -> None:
        self._at: defaultdict[str, list[tuple[str, float]]] = defaultdict(list)
        for one in resistors:
            if one.a != one.b:
                self._at[one.a].append((one.b, 1.0 / one.ohms))
                self._at[one.b].append((one.a, 1.0 / one.ohms))

    def between(self, a: Sequence[str], b: Sequence[str]) -> float:
        """Return the resistance in ohm between two sides, infinite where nothing joins them, 0 where they share a terminal.

        Solves the conductance matrix of what hangs together with both sides, the second grounded.

        Source:
            Kirchhoff's laws, node voltage method.
        """
        if not set(a).isdisjoint(b):
            return 0.0
        place = {**dict.fromkeys(b, 0), **dict.fromkeys(a, 1)}
        reached, count, waiting = False, 2, list(a)
        for node in waiting:
            for other, _ in self._at[node]:
                reached = reached or place.get(other) == 0
                if other not in place:
                    place[other] = count
                    count += 1
                    waiting.append(other)
        return self._solve(place, waiting, count) if reached else inf

    def _solve(self, place: Mapping[str, int], nodes: Sequence[str], count: int) -> float:
        """Return the volts that one ampere into place 1 makes there, place 0 held at 0 V."""
        import numpy as np
        from scipy.sparse import coo_array
        from scipy.sparse.linalg import spsolve

        rows: list[int] = []
        columns: list[int] = []
        values: list[float] = []
        for node in nodes:
            here = place[node] - 1
            for other, siemens in self._at[node]:
                there = place[other] - 1
                if here == there:
                    continue
                rows.append(here)
                columns.append(here)
                values.append(siemens)
                if there >= 0:
                    rows.append(here)
                    columns.append(there)
                    values.append(-siemens)
        matrix = coo_array((values, (rows, columns)), shape=(count - 1, count - 1)).tocsc()
        current = np.zeros(count - 1)
        current[0] = 1.0
        return float(np.atleast_1d(spsolve(matrix, current))[0])


def resistance_between(network: Iterable[Resistor], a: str, b: str) -> float:
    """Return the resistance in ohm between two terminals, infinite where nothing joins them."""
    return DeadNetwork(network).between((a,), (b,))
