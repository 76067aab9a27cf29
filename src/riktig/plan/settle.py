"""Owns settling: after an edit, keep in the ledger what still holds and allocate only what is new."""

from dataclasses import replace as replace_fields

from riktig.job.edits import replace
from riktig.job.entries import SIZE_KEY
from riktig.job.faults import JobError
from riktig.job.ledger import Choice, Choices, Ledger
from riktig.job.model import Job
from riktig.job.validate import check_job
from riktig.pipeline.engine import Run
from riktig.plan.basis.conductor import INSIDE
from riktig.plan.net.numbers import find_clashes
from riktig.plan.place.places import is_provisional
from riktig.plan.stages import allocate, run_of, settled_run
from riktig.plan.wiring.duct_fill import FILL_LIMIT
from riktig.plan.wiring.duct_sizes import asked_of, followed
from riktig.plan.wiring.taps import long_taps
from riktig.standards.iec_60204_1 import grouping_factor

_PASSES = 3
"""So often a plate is laid out, at most, until ducts, sections and how many circuits lie together agree."""
_TAP_COUNTS = 0.05
"""A tap that is too long counts as a duct that is so much too full."""


def settle(job: Job) -> Job:
    """Return the Job with a ledger that fits it: the very same Job where nothing is to be allocated.

    Raises:
        JobError: names, places or paths do not fit together; the ledger is left alone.
    """
    return settle_by(begin_settling(job), job)


def begin_settling(job: Job) -> Run:
    """Return what settles a Job, with nothing computed yet.

    Raises:
        JobError: names or places do not fit together.
    """
    check_job(job)
    return allocate(job)


def settle_by(run: Run, job: Job) -> Job:
    """Return the Job with the ledger that a run of it allocates: the very same Job where nothing is to be allocated. While nobody arranged
    the plate it is laid out again where wires do not find room in the usual ducts, or lie together with more than they are sized for.

    Raises:
        JobError: paths do not fit together; the ledger is left alone.
    """
    settled = _allocated(run, job)
    if settled is job or not is_provisional(settled.ledger.places):
        return settled
    passes = [_with_sizes_as_laid(settled)]
    while len(passes) < _PASSES:
        roomy = _with_roomy_ducts(passes[-1])
        if roomy is passes[-1]:
            break
        passes.append(_with_sizes_as_laid(_allocated(allocate(roomy), roomy)))
        if _crowding(passes[-1]) >= _crowding(passes[-2]):
            break
    return min(passes, key=_crowding) if len(passes) > 1 else passes[0]


def _with_sizes_as_laid(settled: Job) -> Job:
    """Return the settled Job with sections for as many circuits together as really lie in its ducts."""
    grouped = with_real_groups(settled)
    return settled if grouped is settled else _allocated(allocate(grouped), grouped)


def _with_roomy_ducts(settled: Job) -> Job:
    """Return a Job that asks for the ducts that the wires of the settled one need, the very same one where that asks for them already."""
    run, places = run_of(settled), settled.ledger.places
    if run["plate"].height_used > run["plate"].height:
        return settled  # it is too low for the ducts that it has
    size = places[SIZE_KEY].value
    asked = asked_of(run["plate"], run["duct_loads"], size.ducts)
    if asked == size.ducts:
        return settled
    sized = {**places, SIZE_KEY: Choice(replace_fields(size, ducts=followed(settled, run["plate"], asked)))}
    return replace(settled, ledger=replace(settled.ledger, places=sized))


def _crowding(settled: Job) -> float:
    """Return how crowded a plate is: what its ducts hold too much, each as a share of what it holds, and its taps that are too long."""
    run = run_of(settled)
    loads = run["duct_loads"]
    fills = (loads[d.code].area / (d.width * d.depth) for d in run["plate"].ducts if d.code in loads)
    taps = sum(1 for _ in long_taps(run["conductors"], run["potentials"], run["sections"]))
    return float(sum(max(fill - FILL_LIMIT, 0.0) for fill in fills) + _TAP_COUNTS * taps)


def with_real_groups(settled: Job) -> Job:
    """Return the Job with as many circuits together as really lie in its ducts, the very same one where these derate no more than what it
    knows; what is held stays. Fewer are not taken back: thicker wires would make the next ones count again.
    """
    if settled.practice.grouping != "laid":
        return settled
    old = settled.ledger.groups
    more = {
        name: Choice(count)
        for name, count in run_of(settled)["real_groups"].items()
        if name not in old or (_group_factor(count) < _group_factor(old[name].value) and not old[name].is_held)
    }
    return replace(settled, ledger=replace(settled.ledger, groups={**old, **more})) if more else settled


def _group_factor(circuits: int) -> float:
    return grouping_factor(circuits, INSIDE)


def _allocated(run: Run, job: Job) -> Job:
    clashes = find_clashes(run["netlist"], job.ledger.numbers)
    if clashes:
        raise JobError(clashes)
    sorts: dict[str, Choices] = run.allocated()
    changed = {name: choices for name, choices in sorts.items() if choices != getattr(job.ledger, name)}
    settled = replace(job, ledger=replace(job.ledger, **changed)) if changed else job
    settled_run(run, settled)
    return settled


def let_go(ledger: Ledger, *names: str) -> Ledger:
    """Return the ledger without what Riktig chose of some sorts; what a person or a release holds stays."""
    held: dict[str, Choices] = {
        name: {key: choice for key, choice in getattr(ledger, name).items() if choice.is_held} for name in names
    }
    return replace(ledger, **held)
