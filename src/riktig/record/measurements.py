"""Owns the point-to-point tests of a panel: what is measured between which points, and the limit. Must not read meters."""

from dataclasses import dataclass
from enum import StrEnum
from math import inf

from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.record.keys import WireStep
from riktig.record.operations import wire_state
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
    APART = "apart"


@dataclass(frozen=True, slots=True, kw_only=True)
class PointTest:
    """A measurement between two terminals: at most `limit` ohm through, at least `limit` ohm apart.

    `key` is its subject in events; `as_planned` what a verdict vouches for; `wire` the conductor it proves.
    """

    key: str
    kind: TestKind
    a: str
    b: str
    limit: float
    title: str
    as_planned: str
    wire: str | None


def list_tests(plan: Plan) -> tuple[PointTest, ...]:
    """Return the tests in working order: every wire end to end, then potentials that must stay apart."""
    tests = [_through(plan, c) for c in plan.conductors if c.is_wired]
    return (*tests, *_apart(plan))


def _through(plan: Plan, wire: Conductor) -> PointTest:
    """Return the continuity test of a wire.

    Source:
        Continuity end to end on every wire: common practice, no source; resistance by IEC 60228, from memory.
    """
    ohms = resistance_ohm_per_m(wire.size.mm2) * wire.length_mm / 1000
    return PointTest(
        key=f"test:{wire.id}", kind=TestKind.THROUGH, a=wire.a, b=wire.b, limit=round(ohms * 1.1 + CONTACT_OHM, 2),
        title=f"Wire {wire.number}: {plan.terminal_label(wire.a)} to {plan.terminal_label(wire.b)}",
        as_planned=f"{wire.number} {wire_state(plan, wire, WireStep.CUT)}", wire=wire.id,
    )  # fmt: skip


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
    if test.kind is TestKind.THROUGH:
        return ohms <= test.limit
    return ohms >= test.limit


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
