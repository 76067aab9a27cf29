"""Owns which enclosure of the series is the smallest that takes a panel, and what stops the next smaller ones. Keeps nothing."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from riktig.checks.door import check_depth, check_entries, check_holes, check_shaft
from riktig.checks.finding import Finding, Severity
from riktig.checks.heat import check_inside
from riktig.checks.plate import check_places
from riktig.job.edits import change_part, replace
from riktig.job.model import Job
from riktig.plan.place.first_rows import first_layout
from riktig.plan.place.layout import EDGE_MM
from riktig.plan.place.stack import ROW_FILL, inner_span, rows_height
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import let_go, settle
from riktig.standards.enclosures import EnclosureSize, enclosure_series

_RULES: tuple[Callable[[Plan], Iterator[Finding]], ...] = (
    check_places,
    check_holes,
    check_depth,
    check_shaft,
    check_entries,
    check_inside,
)
_SMALLER_SHOWN = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Stopped:
    """A smaller enclosure and what stops it, in one sentence."""

    size: EnclosureSize
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class EnclosureProposal:
    """The smallest enclosure of the series that takes the panel with its reserve, None if none does, and smaller ones with what stops
    each, the largest of them first.
    """

    size: EnclosureSize | None
    stopped: tuple[Stopped, ...]

    @property
    def words(self) -> str:
        """It in a few lines."""
        first = (
            f"Smallest of the series: {self.size}." if self.size is not None else "No enclosure of the series takes it."
        )
        return "\n".join((first, *(f"{stop.size}: {stop.why}" for stop in self.stopped)))


def propose_enclosure(plan: Plan) -> EnclosureProposal:
    """Return the smallest enclosure of the series in which the panel, laid out afresh, breaks no rule of room, depth or heat.

    Held places are let go for it. Rows are tried first, which is quick; what passes that is planned in full.
    """
    stopped: list[Stopped] = []
    for size in enclosure_series():
        why = _too_low(plan, size) or _found(plan.job, size)
        if not why:
            return EnclosureProposal(size=size, stopped=tuple(_telling(stopped, size)))
        stopped.append(Stopped(size=size, why=why))
    return EnclosureProposal(size=None, stopped=tuple(stopped[-1:]))


def _telling(stopped: list[Stopped], size: EnclosureSize) -> list[Stopped]:
    """Return the smaller sizes that tell most: those that lack only one dimension of the one that fits, the largest first."""
    near = [
        s
        for s in stopped
        if sum((s.size.width < size.width, s.size.height < size.height, s.size.depth < size.depth)) == 1
        and s.size.width <= size.width
        and s.size.height <= size.height
        and s.size.depth <= size.depth
    ]
    return sorted(near or stopped[-1:], key=lambda s: -s.size.litres)[:_SMALLER_SHOWN]


def with_size(job: Job, size: EnclosureSize) -> Job:
    """Return the Job in another enclosure, everything on plate and door left to be laid out afresh that nobody holds."""
    changed = change_part(job, "enclosure", width=size.width, height=size.height, depth=size.depth)
    return replace(changed, ledger=let_go(changed.ledger, "places", "links"))


def _freed(job: Job, size: EnclosureSize) -> Job:
    return replace(with_size(job, size), ledger=replace(job.ledger, places={}, links={}))


def _too_low(plan: Plan, size: EnclosureSize) -> str:
    """Return by how much the rows alone are too high or too wide for an enclosure, or lack reserve, "" where they fit."""
    job = change_part(plan.job, "enclosure", width=size.width, height=size.height, depth=size.depth)
    items = tuple(plan.plate.items.values())
    rows, ducts = first_layout(job, items)
    left, right = inner_span(job, ducts)
    widest = max(items, key=lambda item: item.span - item.reserve, default=None)
    if widest is not None and widest.span - widest.reserve > right - left:
        name = plan.tags.get(widest.id, widest.id)
        return f"{name} is {widest.span - widest.reserve - right + left:.0f} mm too wide for its rows"
    missing = rows_height(rows, ducts) - (size.height - EDGE_MM)
    if missing > 0:
        return f"the rows are {missing:.0f} mm too high"
    used = max((row.width / (right - left) for row in rows if len(row.items) > 1), default=0.0)
    if used > ROW_FILL + 1e-6:
        return f"a row keeps {100 - 100 * used:.0f} % of reserve, {100 - 100 * ROW_FILL:.0f} % is wanted"
    return ""


def _found(job: Job, size: EnclosureSize) -> str:
    """Return what rules say against an enclosure, "" for nothing."""
    plan = compute_plan(settle(_freed(job, size)))
    for rule in _RULES:
        for finding in rule(plan):
            if finding.severity is not Severity.NOTE:
                return finding.message.partition(":")[0]
    return ""
