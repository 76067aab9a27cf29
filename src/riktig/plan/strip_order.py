"""Owns changes of the order of strip terminals on purpose: one moved, or all by practice. Must not decide what that order is."""

from collections.abc import Mapping

from riktig.job.edits import replace
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.model import Job
from riktig.job.validate import Fault, JobError
from riktig.plan.circuit import is_bar
from riktig.plan.electrical import wire_up
from riktig.plan.links import link_key
from riktig.plan.numbers import read_potentials
from riktig.plan.runs import find_runs
from riktig.plan.settle import settle
from riktig.plan.strips import SPARE, allocate_clamps


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
    row = sorted(
        (c.value for key, c in job.ledger.clamps.items() if _stands_on(key, c, strip)),
        key=lambda v: int(v.partition(":")[2]),
    )
    if clamp not in row:
        raise JobError([Fault(at=("kept", "clamps", clamp), message=f"there is no terminal {clamp}")])
    place = row.index(clamp)
    target = min(max(place + step, 0), len(row) - 1)
    order = list(row)
    order.insert(target, order.pop(place))
    names = {old: new for old, new in zip(order, row, strict=True) if old != new}
    held = [
        old
        for old in names
        if any(c.value == old and c.state is ChoiceState.FROZEN for c in job.ledger.clamps.values())
    ]
    if held:
        raise JobError([Fault(at=("kept", "clamps", held[0]), message=f"{held[0]} was released: it stays where it is")])
    return settle(_rename(job, names, kept=names.get(clamp, "")))


def reorder_strips(job: Job) -> Job:
    """Return the settled Job with its strips ordered by practice again; wires follow, held terminals stay.

    Raises:
        JobError: the Job does not fit together.
    """
    electrical = wire_up(job)
    potentials = read_potentials(electrical.netlist, job.ledger.numbers)
    held = {key: choice for key, choice in job.ledger.clamps.items() if choice.is_held}
    runs = find_runs(job, electrical.circuit, electrical.chosen.parts, potentials)
    fresh = allocate_clamps(job, electrical.circuit, potentials, runs, held)
    now = {key: choice.value for key, choice in job.ledger.clamps.items()}
    pairs = [(now[key], value) for key, value in fresh.items() if key in now]
    for strip in {value.partition(":")[0] for value in fresh.values()}:
        pairs.extend(zip(_spares(now, strip), _spares(fresh, strip), strict=False))
    names = {old: new for old, new in pairs if old != new}
    return settle(_rename(job, names))


def _spares(values: Mapping[str, str], strip: str) -> list[str]:
    found = [value for key, value in values.items() if key.startswith(f"{SPARE}|") and value.startswith(f"{strip}:")]
    return sorted(found, key=lambda value: int(value.partition(":")[2]))


def _stands_on(key: str, choice: Choice, strip: str) -> bool:
    return not is_bar(key.partition("|")[0]) and choice.value.startswith(f"{strip}:")


def _rename(job: Job, names: Mapping[str, str], *, kept: str = "") -> Job:
    """Return the Job with strip terminals called otherwise, in the ledger's clamps and at the ends of its links."""
    clamps = {}
    for key, choice in job.ledger.clamps.items():
        of_bar, _, terminal = key.partition("|")
        if is_bar(of_bar):
            clamps[f"{of_bar}|{names.get(terminal, terminal)}"] = choice
            continue
        value = names.get(choice.value, choice.value)
        clamps[key] = Choice(value=value, state=ChoiceState.KEPT if value == kept else choice.state)
    links = {}
    for key, choice in job.ledger.links.items():
        a, _, b = key.partition(" ")
        links[link_key(names.get(a, a), names.get(b, b))] = choice
    return replace(job, ledger=replace(job.ledger, clamps=clamps, links=links))
