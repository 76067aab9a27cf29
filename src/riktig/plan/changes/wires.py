"""Owns changes of wires on purpose: all chained anew, one led by a person, one let go. Must not number."""

from dataclasses import replace as replace_fields

from riktig.job.edits import keep_choice, replace
from riktig.job.faults import Fault, JobError
from riktig.job.ledger import ChoiceState
from riktig.job.model import Job
from riktig.plan.circuit.model import PLATE, is_bar
from riktig.plan.circuit.zones import device_of, zones_of
from riktig.plan.settle import let_go, settle
from riktig.plan.stages import run_of
from riktig.plan.wiring.links import link_key, where_between


def rewire(job: Job) -> Job:
    """Return the settled Job with all wires chained afresh, as its practice says; held links and places stay."""
    return settle(replace(job, ledger=let_go(job.ledger, "links")))


def hold_link(job: Job, a: str, b: str) -> Job:
    """Return the settled Job with a wire between two terminals that a person wants; wires that it makes needless go.

    Args:
        job: the Job.
        a: a terminal id, of a device or of a strip (`X1:3`).
        b: another of the same potential.

    Raises:
        JobError: they are one terminal, lie on different potentials, or no wire leads from one's place to the other's.
    """
    run = run_of(job)
    zones = zones_of(run["circuit"])
    number_of: dict[str, str] = {
        t: number for number, choice in job.ledger.numbers.items() for t in choice.value.terminals
    }
    number_of.update({t: net.fixed for net in run["netlist"].nets if net.fixed is not None for t in net.terminals})
    place = {t: zones[device_of(t)] for t in number_of if device_of(t) in zones}
    for key, choice in job.ledger.clamps.items():
        if is_bar(key.partition("|")[0]):
            continue
        terminal = choice.value.terminal
        number_of[terminal], place[terminal] = key.rpartition("|")[2], PLATE
    message = None
    if a == b:
        message = "both ends are one terminal: choose another for one of them"
    elif a not in place or b not in place:
        message = f"there is no terminal {a if a not in place else b} in use"
    elif number_of[a] != number_of[b]:
        message = f"{a} is on number {number_of[a]} and {b} on {number_of[b]}: a wire joins terminals of one number"
    elif place[a] != place[b] and PLATE not in {place[a], place[b]}:
        message = f"{a} is at {place[a]} and {b} at {place[b]}: lead it over the plate"
    if message is not None:
        raise JobError([Fault(at=("kept", "links", link_key(a, b)), message=message)])
    where = where_between(place[a], place[b], number_of[a], run["runs"])
    return settle(keep_choice(job, "links", link_key(a, b), where))


def release_link(job: Job, a: str, b: str) -> Job:
    """Return the settled Job with a wire that a person held left to Riktig again; it stays until wires are chained anew.

    Raises:
        JobError: no person holds it.
    """
    key = link_key(a, b)
    choice = job.ledger.links.get(key)
    if choice is None or choice.state is not ChoiceState.KEPT:
        raise JobError([Fault(at=("kept", "links", key), message="nobody holds this wire")])
    links = {**job.ledger.links, key: replace_fields(choice, state=ChoiceState.AUTO)}
    return settle(replace(job, ledger=replace(job.ledger, links=links)))
