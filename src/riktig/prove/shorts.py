"""Owns the fewest measurements that show every potential apart from every other: bundle and halve. Must not know verdicts."""

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from math import ceil, isinf, log2

from riktig.plan.plan import Plan
from riktig.prove.dead import JOINED_OHM, DeadPanel
from riktig.prove.points import ease
from riktig.prove.steps import Phase, Step

APART_OHM = 1000.0
"""Least reading where nothing stands in between; finer by insulation test (common practice, no source)."""
_MARGIN = 0.5
"""Of what coils and lamps in between come to (estimates), so much must be read at least: a short reads a few tenths of an ohm."""


def stages(things: Sequence[str]) -> Iterator[tuple[tuple[str, ...], tuple[str, ...]]]:
    """Yield the two sides of each measurement: ceil(log2 n) of them part every pair of n things at least once.

    Source:
        Two different numbers differ in a binary digit.
    """
    for digit in reversed(range(ceil(log2(len(things))) if len(things) > 1 else 0)):
        sides: tuple[list[str], list[str]] = ([], [])
        for number, thing in enumerate(things):
            sides[number >> digit & 1].append(thing)
        yield tuple(sides[0]), tuple(sides[1])


def list_shorts(plan: Plan, panel: DeadPanel) -> tuple[Step, ...]:
    """Return the measurements that no two potentials are joined which must stay apart.

    What a contact at rest or an overload joins counts as one: between its sides the function test tells. What hangs together through coils
    and lamps lies on one side as long as it can, so that most readings are high.
    """
    points = _probe_points(plan, panel)
    if len(points) < 2:
        return ()
    network = panel.network()
    found = []
    all_sides = list(stages(points))
    for number, (a, b) in enumerate(all_sides, 1):
        expected = network.between(a, b)
        low = APART_OHM if isinf(expected) else min(APART_OHM, round(max(_MARGIN * expected, 0.5), 1))
        found.append(
            Step(
                key=f"apart:{number}", phase=Phase.APART, a=a, b=b, low=low, expected=None if isinf(expected) else expected,
                title=f"No short, {number} of {len(all_sides)}: {len(a)} potentials against {len(b)}",
                do=f"clip together {_listed(plan, a)}; and {_listed(plan, b)}",
                as_planned=f"{' '.join(a)} | {' '.join(b)}",
                proves="none of the one side is joined with any of the other",
                source="every pair of potentials lies on different sides once: common practice, no source",
                prepare=_between_words(expected),
            )
        )  # fmt: skip
    return tuple(found)


def _between_words(expected: float) -> str:
    if isinf(expected):
        return ""
    return f"coils, lamps and windings in between read about {expected:.3g} Ω: that is no short"


def _listed(plan: Plan, terminals: Sequence[str]) -> str:
    return ", ".join(f"{plan.number_at(t) or 'PE'} ({plan.terminal_label(t)})" for t in terminals)


def _probe_points(plan: Plan, panel: DeadPanel) -> list[str]:
    """Return a terminal of everything that reads as one at rest, where clips reach it best; what loads join stands together."""
    clusters = panel.clusters()
    members: defaultdict[str, list[str]] = defaultdict(list)
    for potential in plan.potentials:
        for terminal in potential.net.terminals:
            members[clusters.get(terminal, terminal)].append(terminal)
    chosen = {root: min(ends, key=lambda end: ease(plan, end)) for root, ends in members.items()}
    return [chosen[root] for root in _together(panel, clusters, list(chosen))]


def _together(panel: DeadPanel, clusters: Mapping[str, str], roots: Sequence[str]) -> Iterator[str]:
    """Yield clusters so that those that loads join follow each other."""
    joined: defaultdict[str, dict[str, None]] = defaultdict(dict)
    stars: defaultdict[str, list[str]] = defaultdict(list)
    for one in panel.elements:
        if one.ohms > JOINED_OHM:
            for end in (one.a, one.b):
                stars[one.of].append(clusters.get(end, end))
    for ends in stars.values():
        for end in ends:
            joined[end].update(dict.fromkeys(ends))
    order = {root: n for n, root in enumerate(roots)}
    seen: set[str] = set()
    for root in roots:
        waiting = [root]
        while waiting:
            here = waiting.pop()
            if here in seen or here not in order:
                continue
            seen.add(here)
            yield here
            waiting += sorted(joined[here], key=lambda other: (len(joined[other]), order.get(other, 0)), reverse=True)
