"""Owns the point-to-point tests of a panel: what is measured between which points, and the limit. Must not read meters."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from math import inf

from riktig.catalogue.model import ElementKind
from riktig.live.beside import ways_beside
from riktig.plan.circuit.model import EARTH_BAR
from riktig.plan.circuit.zones import device_of, mark_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.record.keys import WireStep
from riktig.record.operations import wire_state
from riktig.standards.colours import ConductorFunction
from riktig.standards.iec_60228 import resistance_ohm_per_m

CONTACT_OHM = 0.3
"""Leads, probes and two clamps together (common practice, no source)."""
APART_OHM = 1000.0
"""Least reading between potentials that must stay apart with loads off; finer by insulation test (common practice)."""
PREPARATION = (
    "Supply isolated, locked off and proved dead. Main switch off, all breakers open, earth links out, "
    "electronics unplugged. Coils, lamps and windings read low: that is no fault."
)


class TestKind(StrEnum):
    """What a measurement proves."""

    __test__ = False
    THROUGH = "through"
    BOND = "bond"
    APART = "apart"


@dataclass(frozen=True, slots=True, kw_only=True)
class PointTest:
    """A measurement between two terminals: at most `limit` ohm through, at least `limit` ohm apart.

    `key` is its subject in events; `as_planned` what a verdict vouches for; `wire` the conductor it proves; `prepare` what is done for this
    one before, "" for nothing.
    """

    key: str
    kind: TestKind
    a: str
    b: str
    limit: float
    title: str
    as_planned: str
    wire: str | None
    prepare: str = ""


def list_tests(plan: Plan) -> tuple[PointTest, ...]:
    """Return the tests in working order: every wire end to end, every exposed part to the main earth, then what must stay apart."""
    hidden = ways_beside(plan)
    tests = [_through(plan, c, hidden.get(c.id)) for c in plan.conductors if c.is_wired]
    return (*tests, *_bonds(plan), *_apart(plan))


def _through(plan: Plan, wire: Conductor, beside: tuple[str, ...] | None) -> PointTest:
    """Return the continuity test of a wire; what lies beside it and would hide that it is open is parted from it first.

    Source:
        Continuity end to end on every wire: common practice, no source; resistance by IEC 60228, from memory.
    """
    ohms = resistance_ohm_per_m(wire.size.mm2) * wire.length_mm / 1000
    return PointTest(
        key=f"test:{wire.id}", kind=TestKind.THROUGH, a=wire.a, b=wire.b, limit=round(ohms * 1.1 + CONTACT_OHM, 2),
        title=f"Wire {wire.number}: {plan.terminal_label(wire.a)} to {plan.terminal_label(wire.b)}",
        as_planned=f"{wire.number} {wire_state(plan, wire, WireStep.CUT)}", wire=wire.id,
        prepare="" if beside is None else _lift(plan, wire, beside),
    )  # fmt: skip


def _lift(plan: Plan, wire: Conductor, beside: tuple[str, ...]) -> str:
    tags = ", ".join(plan.tags.get(name, name) for name in beside) or "the same two devices"
    return f"lift it at {plan.terminal_label(wire.b)} and measure at its end: another way leads over {tags}"


BOND_OHM = 0.1
"""Most from the earth of the supply to an exposed part of an assembly: IEC 61439-1 10.5.2, from memory; leads come on top."""
_NOT_EXPOSED = frozenset({"earth-bar", "earth-terminal", "block", "source"})


def _bonds(plan: Plan) -> Iterator[PointTest]:
    """Yield the tests of exposed parts: each earth terminal of a device to the first clamp of the earth bar.

    Source:
        0.1 ohm inside an assembly: IEC 61439-1 10.5.2; outside what length and section come to: IEC 60204-1 18.2.2; from memory. A good
        reading proves one way to earth, not each: wires of earth are measured by themselves as well.
    """
    ways = _earth_ways(plan)
    start = min((end for end in ways if device_of(end) == EARTH_BAR), key=lambda end: int(mark_of(end)), default=None)
    if start is None:
        return
    ohms = {start: 0.0}
    waiting = [start]
    for node in waiting:
        for other, own in ways[node]:
            if other not in ohms:
                ohms[other] = ohms[node] + own
                waiting.append(other)
    for device in plan.circuit.devices:
        marks = [m for e in plan.parts[device.id].elements if e.kind is ElementKind.EARTH for m in e.marks]
        end = next((f"{device.id}:{mark}" for mark in marks if f"{device.id}:{mark}" in ohms), None)
        if device.kind in _NOT_EXPOSED or end is None:
            continue
        yield PointTest(
            key=f"bond:{device.id}", kind=TestKind.BOND, a=start, b=end, limit=round(max(BOND_OHM, 1.1 * ohms[end]) + CONTACT_OHM, 2),
            title=f"Earth of {plan.tags[device.id]}: {plan.terminal_label(start)} to {plan.terminal_label(end)}",
            as_planned=f"{start} {end} {ohms[end]:.3f}", wire=None,
        )  # fmt: skip


def _earth_ways(plan: Plan) -> dict[str, list[tuple[str, float]]]:
    """Return terminal -> the terminals to which earth leads from there, with the ohms of each way."""
    earths = {p.number for p in plan.potentials if p.net.function is ConductorFunction.EARTH}
    found: defaultdict[str, list[tuple[str, float]]] = defaultdict(list)
    for wire in plan.conductors:
        if wire.number in earths:
            ohms = resistance_ohm_per_m(wire.size.mm2) * wire.length_mm / 1000 if wire.is_wired else 0.0
            found[wire.a].append((wire.b, ohms))
            found[wire.b].append((wire.a, ohms))
    return found


def _apart(plan: Plan) -> list[PointTest]:
    """Return the tests between the mains potentials, each pair once, at the main switch or the first terminal."""
    ends = {}
    for name in (*plan.job.supply.lines, "N", "PE"):
        potential = next((p for p in plan.potentials if p.number == name), None)
        if potential is not None:
            ends[name] = potential.net.terminals[0]
    names = list(ends)
    return [
        PointTest(
            key=f"apart:{a}-{b}", kind=TestKind.APART, a=ends[a], b=ends[b], limit=APART_OHM,
            title=f"No short between {a} and {b}", as_planned=f"{ends[a]} {ends[b]}", wire=None,
        )
        for i, a in enumerate(names)
        for b in names[i + 1 :]
    ]  # fmt: skip


def is_passed(test: PointTest, ohms: float) -> bool:
    """Return the verdict on a reading in ohm; an open circuit reads infinite."""
    return ohms >= test.limit if test.kind is TestKind.APART else ohms <= test.limit


def suspects(plan: Plan, test: PointTest, ohms: float, failed: tuple[PointTest, ...]) -> tuple[str, ...]:
    """Return what to look at after a fail, likeliest first.

    Args:
        plan: the Plan.
        test: the test that failed.
        ohms: its reading.
        failed: all tests that stand failed.
    """
    a, b = plan.terminal_label(test.a), plan.terminal_label(test.b)
    if test.kind is TestKind.APART:
        return (f"a wire on the wrong terminal near {a} or {b}", "a breaker still closed or an earth link still in")
    if test.kind is TestKind.BOND:
        return (f"an earth wire open or loose on the way from {a} to {b}", "paint under a ring or stud")
    own = next((c for c in plan.conductors if c.id == test.wire), None)
    others = [t for t in failed if t.wire is not None and t.key != test.key]
    found = []
    for other in others:
        wire = next((c for c in plan.conductors if c.id == other.wire), None)
        if own is not None and wire is not None and wire.size == own.size and wire.colour == own.colour:
            found.append(f"ends exchanged with wire {wire.number} ({other.title.split(': ')[-1]}), which fails too")
    if ohms == inf:
        found.append(f"clamp at {a} or {b} on the insulation, or not tight")
        found.append(f"wire landed on a neighbour of {a} or {b}")
    else:
        found.append(f"a loose or dirty clamp at {a} or {b}")
        found.append("wire missing, and the reading goes through a coil, lamp or winding")
    return tuple(found)
