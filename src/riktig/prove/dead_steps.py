"""Owns what is measured on the dead panel from end to end: wires, bridges, and earth of every exposed part. Must not read meters."""

from collections import defaultdict
from collections.abc import Iterator, Mapping

from riktig.catalogue.model import ElementKind
from riktig.live.beside import ways_beside
from riktig.plan.circuit.model import EARTH_BAR
from riktig.plan.circuit.zones import device_of, mark_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.prove.steps import Phase, Step
from riktig.standards.colours import ConductorFunction
from riktig.standards.iec_60228 import resistance_ohm_per_m

CONTACT_OHM = 0.3
"""Leads, probes and two clamps together (common practice, no source)."""
BOND_OHM = 0.1
"""Most from the earth of the supply to an exposed part of an assembly: IEC 61439-1 10.5.2, from memory; leads come on top."""
SOURCE_OHMS = "IEC 60228 at 20 °C by length and section, 10 % over, and 0.3 Ω for leads and clamps; from memory"
SOURCE_BONDS = (
    "IEC 61439-1 10.5.2 inside, IEC 60204-1 18.2.2 outside by length and section, and 0.3 Ω for leads; from memory"
)
_NOT_EXPOSED = frozenset({"earth-bar", "earth-terminal", "block", "source"})


def list_through(plan: Plan) -> tuple[Step, ...]:
    """Return the continuity tests: of every wire and core, and of every bridge and comb that no other way hides.

    Source:
        Continuity end to end on every wire: common practice, no source; resistance by IEC 60228, from memory.
    """
    hidden = ways_beside(plan)
    return tuple(
        _through(plan, c, hidden.get(c.id))
        for c in plan.conductors
        if c.is_wired or (c.kind in {"bridge", "comb"} and c.id not in hidden)
    )


def _through(plan: Plan, wire: Conductor, beside: tuple[str, ...] | None) -> Step:
    """Return the continuity test of a wire; what lies beside it and would hide that it is open is parted from it first."""
    ohms = ohms_of(wire)
    what = "Wire" if wire.is_wired else wire.kind.capitalize()
    state = f"{wire.size.label()} {wire.colour} {wire.length_mm:g}" if wire.is_wired else wire.kind
    return Step(
        key=f"test:{wire.id}", phase=Phase.THROUGH, a=(wire.a,), b=(wire.b,), high=round(ohms * 1.1 + CONTACT_OHM, 2), expected=ohms,
        title=f"{what} {wire.number}: {plan.terminal_label(wire.a)} to {plan.terminal_label(wire.b)}",
        as_planned=f"{wire.number} {state}", wire=wire.id, proves=f"{wire.number} leads from end to end", source=SOURCE_OHMS,
        prepare="" if beside is None else _lift(plan, wire, beside),
    )  # fmt: skip


def ohms_of(wire: Conductor) -> float:
    """Return the ohms of a conductor by length and section, 0 of a join that has none."""
    return resistance_ohm_per_m(wire.size.mm2) * wire.length_mm / 1000 if wire.is_wired else 0.0


def _lift(plan: Plan, wire: Conductor, beside: tuple[str, ...]) -> str:
    tags = ", ".join(plan.tags.get(name, name) for name in beside) or "the same two devices"
    return f"lift it at {plan.terminal_label(wire.b)} and measure at its end: another way leads over {tags}"


def list_bonds(plan: Plan) -> tuple[Step, ...]:
    """Return the tests of exposed parts: each earth terminal of a device to the first clamp of the earth bar.

    Source:
        0.1 ohm inside an assembly: IEC 61439-1 10.5.2; outside what length and section come to: IEC 60204-1 18.2.2; from memory. A good
        reading proves one way to earth, not each: wires of earth are measured by themselves as well.
    """
    ways = _earth_ways(plan)
    start = min((end for end in ways if device_of(end) == EARTH_BAR), key=lambda end: int(mark_of(end)), default=None)
    if start is None:
        return ()
    ohms = {start: 0.0}
    waiting = [start]
    for node in waiting:
        for other, own in ways[node]:
            if other not in ohms:
                ohms[other] = ohms[node] + own
                waiting.append(other)
    return (*_bonds(plan, start, ohms), *_links(plan, start))


def _bonds(plan: Plan, start: str, ohms: Mapping[str, float]) -> Iterator[Step]:
    for device in plan.circuit.devices:
        marks = [m for e in plan.parts[device.id].elements if e.kind is ElementKind.EARTH for m in e.marks]
        end = next((f"{device.id}:{mark}" for mark in marks if f"{device.id}:{mark}" in ohms), None)
        if device.kind in _NOT_EXPOSED or end is None:
            continue
        yield Step(
            key=f"bond:{device.id}", phase=Phase.BOND, a=(start,), b=(end,), high=round(max(BOND_OHM, 1.1 * ohms[end]) + CONTACT_OHM, 2),
            title=f"Earth of {plan.tags[device.id]}: {plan.terminal_label(start)} to {plan.terminal_label(end)}", expected=ohms[end],
            as_planned=f"{start} {end} {ohms[end]:.3f}", proves=f"{plan.tags[device.id]} is bonded to the main earth", source=SOURCE_BONDS,
            of=device.id,
        )  # fmt: skip


def _links(plan: Plan, start: str) -> Iterator[Step]:
    """Yield the earth links: with each in its place its supply is bonded, once; that it is nowhere else the shorts show with all out."""
    for device in plan.circuit.devices:
        if device.kind != "link":
            continue
        ends = [f"{device.id}:{mark}" for e in plan.parts[device.id].elements for mark in e.marks]
        side = next((end for end in ends if plan.number_at(end) != plan.number_at(start)), ends[0])
        tag = plan.tags[device.id]
        yield Step(
            key=f"link:{device.id}", phase=Phase.BOND, a=(start,), b=(side,), high=BOND_OHM + CONTACT_OHM, of=device.id,
            title=f"Link {tag} in: {plan.terminal_label(side)} to earth", prepare=f"put link {tag} in for this one, and out again",
            as_planned=f"{start} {side}", proves="the one bond of its supply is made", source=SOURCE_BONDS,
        )  # fmt: skip


def _earth_ways(plan: Plan) -> dict[str, list[tuple[str, float]]]:
    """Return terminal -> the terminals to which earth leads from there, with the ohms of each way."""
    earths = {p.number for p in plan.potentials if p.net.function is ConductorFunction.EARTH}
    found: defaultdict[str, list[tuple[str, float]]] = defaultdict(list)
    for wire in plan.conductors:
        if wire.number in earths:
            found[wire.a].append((wire.b, ohms_of(wire)))
            found[wire.b].append((wire.a, ohms_of(wire)))
    return found
