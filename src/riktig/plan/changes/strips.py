"""Owns changes of the order of strip terminals on purpose: one moved, or all by practice. Must not decide what that order is."""

from collections.abc import Collection, Mapping, Sequence

from riktig.job.edits import replace
from riktig.job.entries import read_clamp, read_pair
from riktig.job.faults import Fault, JobError
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.model import Job
from riktig.plan.circuit.model import is_bar
from riktig.plan.net.strips import SPARE, allocate_clamps
from riktig.plan.settle import settle
from riktig.plan.stages import run_of
from riktig.plan.wiring.links import link_key


def move_clamp(job: Job, clamp: str, step: int) -> Job:
    """Return the settled Job with a strip terminal moved along its strip; wires follow it, and a person holds its place.

    Args:
        job: the Job.
        clamp: its id, such as `X1:3`.
        step: by how many places, to the right above zero; it stops at the ends of the strip.

    Raises:
        JobError: there is no such terminal, or a release holds it or one that it would pass.
    """
    strip = clamp.partition(":")[0]
    row = clamps_of(job, strip)
    if clamp not in row:
        raise JobError([Fault(at=("kept", "clamps", clamp), message=f"there is no terminal {clamp}")])
    place = row.index(clamp)
    order = list(row)
    order.insert(min(max(place + step, 0), len(row) - 1), order.pop(place))
    return settle(place_clamps(job, strip, order, kept=(clamp,)))


def clamps_of(job: Job, strip: str) -> list[str]:
    """Return the terminals of a strip from left to right."""
    found = [c.value for key, c in job.ledger.clamps.items() if _stands_on(key, c, strip)]
    return sorted(found, key=lambda v: int(v.partition(":")[2]))


def place_clamps(job: Job, strip: str, order: Sequence[str], kept: Collection[str]) -> Job:
    """Return the Job, not settled, with the terminals of a strip in another order; their wires go with them.

    Args:
        job: the Job.
        strip: its name.
        order: all its terminals as they are called now, in the order that is wanted.
        kept: those whose new place a person holds.

    Raises:
        JobError: a release holds a terminal that would move.
    """
    row = clamps_of(job, strip)
    names = {old: new for old, new in zip(order, row, strict=True) if old != new}
    frozen = {c.value for c in job.ledger.clamps.values() if c.state is ChoiceState.FROZEN}
    held = [old for old in names if old in frozen]
    if held:
        raise JobError([Fault(at=("kept", "clamps", held[0]), message=f"{held[0]} was released: it stays where it is")])
    return _rename(job, names, kept={names[old] for old in kept if old in names})


def reorder_strips(job: Job) -> Job:
    """Return the settled Job with its strips ordered by practice again; wires follow, held terminals stay.

    Raises:
        JobError: the Job does not fit together.
    """
    run = run_of(job)
    held = {key: choice for key, choice in job.ledger.clamps.items() if choice.is_held}
    fresh = allocate_clamps(job, run["circuit"], run["potentials"], run["runs"], run["strip_names"], held)
    now = {key: choice.value for key, choice in job.ledger.clamps.items()}
    pairs = [(now[key], value) for key, value in fresh.items() if key in now]
    for strip in {read_clamp(value).strip for value in fresh.values()}:
        pairs.extend(zip(_spares(now, strip), _spares(fresh, strip), strict=False))
    names = {old: new for old, new in pairs if old != new}
    return settle(_rename(job, names))


def _spares(values: Mapping[str, str], strip: str) -> list[str]:
    found = [value for key, value in values.items() if key.startswith(f"{SPARE}|") and read_clamp(value).strip == strip]
    return sorted(found, key=lambda value: read_clamp(value).position)


def _stands_on(key: str, choice: Choice, strip: str) -> bool:
    return not is_bar(key.partition("|")[0]) and read_clamp(choice.value).strip == strip


def _rename(job: Job, names: Mapping[str, str], *, kept: Collection[str] = ()) -> Job:
    """Return the Job with strip terminals called otherwise, in the ledger's clamps and at the ends of its links."""
    clamps = {}
    for key, choice in job.ledger.clamps.items():
        of_bar, _, terminal = key.partition("|")
        if is_bar(of_bar):
            clamps[f"{of_bar}|{names.get(terminal, terminal)}"] = choice
            continue
        value = names.get(choice.value, choice.value)
        clamps[key] = Choice(value=value, state=ChoiceState.KEPT if value in kept else choice.state)
    links = {}
    for key, choice in job.ledger.links.items():
        a, b = read_pair(key)
        links[link_key(names.get(a, a), names.get(b, b))] = choice
    return replace(job, ledger=replace(job.ledger, clamps=clamps, links=links))
