"""Owns turning a starter into plain circuit and back. Must not settle: `settle` does, inside the edit.

What a starter expands to is written out under the very names of its parts, so that every id, number, contact, place and
tick stays; its parts stay the ones chosen.
"""

from riktig.job.edits import change_starter, plain_circuit, remove, replace
from riktig.job.faults import Fault, JobError
from riktig.job.model import Device, Feeder, Job, Rung, Starter
from riktig.job.paths import write_path
from riktig.plan.circuit.expand import expand
from riktig.plan.circuit.model import CircuitDevice


def written_out(job: Job, name: str) -> tuple[tuple[Device, ...], tuple[Rung, ...], tuple[Feeder, ...]]:
    """Return devices, rungs and feeders that a starter of the Job comes to.

    Raises:
        JobError: there is no such starter.
    """
    starter = job.starter(name)
    if starter is None:
        raise JobError([Fault(at=("starter", name), message=f"there is no '{name}' to detach")])
    circuit = expand(job)
    parts = {key: choice.value for key, choice in job.ledger.parts.items()}
    devices = tuple(_device(d, starter, parts.get(d.id)) for d in circuit.devices if d.owner == name)
    mine = [path for path in circuit.paths if path.owner == name]
    rungs = tuple(Rung(name=p.key, path=write_path(p.items)) for p in mine if not p.is_power)
    feeders = tuple(Feeder(name=p.key, path=write_path(p.items)) for p in mine if p.is_power)
    return devices, rungs, feeders


def _device(device: CircuitDevice, starter: Starter, part: str | None) -> Device:
    is_motor = device.kind == "motor"
    return Device(
        name=device.id, kind=device.kind, title=device.title, at=device.location, colour=device.colour, part=part,
        poles=device.poles, contacts=device.positions or device.contacts, seconds=device.settings.get("seconds"),
        level=device.settings.get("level_m"), kw=starter.kw if is_motor else None, hp=starter.hp if is_motor else None,
        amps=starter.amps if is_motor else None,
    )  # fmt: skip


def detach_starter(job: Job, name: str) -> Job:
    """Return the Job with a starter as plain devices, rungs and feeders; it is still sized, and knows the way back.

    Raises:
        JobError: there is no such starter, or it is detached already.
    """
    devices, rungs, feeders = written_out(job, name)
    starter = job.starter(name)
    if starter is not None and starter.detached:
        raise JobError([Fault(at=("starter", name), message=f"{name} is plain circuit already")])
    return replace(
        change_starter(job, name, detached=True),
        devices=(*job.devices, *devices), rungs=(*job.rungs, *rungs), feeders=(*job.feeders, *feeders),
    )  # fmt: skip


def can_attach(job: Job, name: str) -> bool:
    """Return whether a detached starter's plain circuit is still what the starter comes to."""
    starter = job.starter(name)
    if starter is None or not starter.detached:
        return False
    return plain_circuit(job, name) == written_out(_attached(job, name), name)


def without_circuit(job: Job, name: str) -> Job:
    """Return the Job without the plain circuit of a detached starter."""
    devices, rungs, feeders = plain_circuit(job, name)
    return replace(
        job,
        devices=tuple(d for d in job.devices if d not in devices),
        rungs=tuple(r for r in job.rungs if r not in rungs),
        feeders=tuple(f for f in job.feeders if f not in feeders),
    )


def _attached(job: Job, name: str) -> Job:
    return change_starter(without_circuit(job, name), name, detached=False)


def attach_starter(job: Job, name: str) -> Job:
    """Return the Job with a detached starter as a starter again.

    Raises:
        JobError: its plain circuit was changed meanwhile.
    """
    if not can_attach(job, name):
        message = f"the circuit of {name} was changed since it was detached: undo those changes, or leave it plain"
        raise JobError([Fault(at=("starter", name), message=message)])
    return _attached(job, name)


def remove_starter(job: Job, name: str) -> Job:
    """Return the Job without a starter, and without its plain circuit if it was detached."""
    return remove(without_circuit(job, name), "starters", name)
