"""Owns the edits that lead from one Job to the next. Must not settle the ledger: `plan.settle` does, inside each edit."""

import re
from collections.abc import Callable
from typing import Any, TypeVar, cast

from pydantic import BaseModel, ValidationError

from riktig.job.entries import EntryError, read_entry
from riktig.job.faults import Fault, JobError
from riktig.job.ledger import Choice, ChoiceState, Ledger
from riktig.job.model import Control, Device, Feeder, Job, Location, Rung, Starter
from riktig.job.names import named_members

Model = TypeVar("Model", bound=BaseModel)
Edit = Callable[[Job], Job]


def replace(model: Model, **changes: Any) -> Model:
    """Return a model with fields changed, validated as a whole; what is as it was is the very same, so that nothing that follows from it
    is asked for again.

    Raises:
        JobError: a value does not fit; the fault names the field.
    """
    if isinstance(model, Ledger):
        return cast(Model, model.with_sorts(**changes))
    values = {name: getattr(model, name) for name in type(model).model_fields}
    try:
        made = type(model)(**{**values, **changes})
    except ValidationError as error:
        faults = [Fault(at=tuple(e["loc"]), message=_words(dict(e))) for e in error.errors()]
        raise JobError(faults) from error
    for name, before in values.items():
        if getattr(made, name) == before:
            object.__setattr__(made, name, before)
    return made


def _words(error: dict[str, Any]) -> str:
    field = str(error["loc"][0]) if error["loc"] else ""
    message = str(error.get("ctx", {}).get("error") or error["msg"])
    return f"{field}: {message[:1].lower()}{message[1:]}" if field else message


def change_part(job: Job, field: str, **changes: Any) -> Job:
    """Return the Job with one of its single parts changed: info, supply, practice, enclosure or incoming."""
    return replace(job, **{field: replace(getattr(job, field), **changes)})


def change_starter(job: Job, name: str, **changes: Any) -> Job:
    """Return the Job with a starter changed.

    Raises:
        JobError: there is no such starter, or a value does not fit.
    """
    return _change_member(job, "starters", name, changes)


def change_rung(job: Job, name: str, path: str) -> Job:
    """Return the Job with another path in a rung."""
    return _change_member(job, "rungs", name, {"path": path})


def _change_member(job: Job, field: str, name: str, changes: dict[str, Any]) -> Job:
    members: tuple[Any, ...] = getattr(job, field)
    if all(member.name != name for member in members):
        raise JobError([Fault(at=(field, name), message=f"there is no '{name}' to change")])
    changed = tuple(replace(m, **changes) if m.name == name else m for m in members)
    return replace(job, **{field: changed})


def change_member(job: Job, field: str, name: str, **changes: Any) -> Job:
    """Return the Job with one member of a table changed; `field` is the Job's field, such as `ways`.

    Raises:
        JobError: there is no such member, or a value does not fit.
    """
    return _change_member(job, field, name, changes)


def change_starters(job: Job, names: tuple[str, ...], **changes: Any) -> Job:
    """Return the Job with the same change made to several starters at once."""
    for name in names:
        job = change_starter(job, name, **changes)
    return job


def add_starter(job: Job, starter: Starter) -> Job:
    """Return the Job with one more starter at the end."""
    return add_members(job, "starters", (starter,))


def add_members(job: Job, field: str, members: tuple[Any, ...]) -> Job:
    """Return the Job with more members at the end of a table; `field` is the Job's field."""
    return replace(job, **{field: (*getattr(job, field), *members)})


def set_single(job: Job, field: str, value: Any) -> Job:
    """Return the Job with a whole single table set, or taken out by None: phase lamps or the pass-through."""
    return replace(job, **{field: value})


def duplicate_starter(job: Job, name: str) -> Job:
    """Return the Job with a copy of a starter under the next free name; of a detached one with a copy of its plain circuit."""
    source = job.starter(name)
    if source is None:
        raise JobError([Fault(at=("starter", name), message=f"there is no '{name}' to copy")])
    new = free_name(job, "M")
    job = add_starter(job, replace(source, name=new))
    if not source.detached:
        return job
    word = re.compile(rf"(?<![A-Za-z0-9_]){name}(?![A-Za-z0-9])")
    devices, rungs, feeders = plain_circuit(job, name)
    return replace(
        job,
        devices=(*job.devices, *(replace(device, name=word.sub(new, device.name)) for device in devices)),
        rungs=(*job.rungs, *(replace(r, name=word.sub(new, r.name), path=word.sub(new, r.path)) for r in rungs)),
        feeders=(*job.feeders, *(replace(f, name=word.sub(new, f.name), path=word.sub(new, f.path)) for f in feeders)),
    )


def plain_circuit(job: Job, name: str) -> tuple[tuple[Device, ...], tuple[Rung, ...], tuple[Feeder, ...]]:
    """Return devices, rungs and feeders that a detached starter was written out to."""
    prefix = f"{name}/"
    return (
        tuple(d for d in job.devices if d.name == name or d.name.startswith(f"{name}.")),
        tuple(r for r in job.rungs if r.name.startswith(prefix)),
        tuple(f for f in job.feeders if f.name.startswith(prefix)),
    )


def free_name(job: Job, letter: str) -> str:
    """Return the first name `LETTER1`, `LETTER2` ... that nothing in the Job has."""
    taken = {name for _, name in named_members(job)}
    number = 1
    while f"{letter}{number}" in taken:
        number += 1
    return f"{letter}{number}"


def add_device(job: Job, device: Device) -> Job:
    """Return the Job with one more device of a person's own."""
    return add_members(job, "devices", (device,))


def add_location(job: Job, location: Location) -> Job:
    """Return the Job with one more location."""
    return add_members(job, "locations", (location,))


def add_rung(job: Job, path: str) -> Job:
    """Return the Job with one more rung at the end, under a name that was never used."""
    return _add_path(job, "rungs", Rung, path)


def add_feeder(job: Job, path: str) -> Job:
    """Return the Job with one more feeder at the end, under a name that was never used."""
    return _add_path(job, "feeders", Feeder, path)


def _add_path(job: Job, field: str, row: type[Rung] | type[Feeder], path: str) -> Job:
    used = {member.name for member in getattr(job, field)}
    stem, number = field[:-1], len(used) + 1
    while f"{stem}{number}" in used:
        number += 1
    return add_members(job, field, (row(name=f"{stem}{number}", path=path),))


def remove(job: Job, field: str, name: str) -> Job:
    """Return the Job without a starter, device, rung, feeder or location; `field` is the Job's field."""
    members: tuple[Any, ...] = getattr(job, field)
    return replace(job, **{field: tuple(member for member in members if member.name != name)})


def with_needed_supply(job: Job) -> Job:
    """Return the Job with a 24 V DC supply added if it has a controller and none to run it on."""
    if not job.controllers or any(control.is_dc for control in job.controls):
        return job
    lines = job.supply.lines
    added = Control(name=free_name(job, "C"), kind="psu", from_lines=lines[:2] if len(lines) > 1 else (lines[0], "N"))
    return add_members(job, "controls", (added,))


def give_part(job: Job, device: str, code: str) -> Job:
    """Return the Job with a catalogue part chosen by a person for a device of their own, or for a starter's part."""
    if any(own.name == device for own in job.devices):
        return change_member(job, "devices", device, part=code, contacts=None)
    return keep_choice(job, "parts", device, code)


def ask_for_next_free(job: Job, row: str, element: str, sort: str) -> Job:
    """Return the Job with an element of a rung that is asked for by its marks asked for by sort instead.

    Args:
        job: the Job.
        row: name of the rung.
        element: as it stands in the path, such as `K1:13-14`.
        sort: `no` or `nc`.

    Raises:
        JobError: there is no such rung.
    """
    path = next((rung.path for rung in job.rungs if rung.name == row), "")
    return change_rung(job, row, path.replace(element, f"{element.partition(':')[0]}:{sort}", 1))


def keep_choice(job: Job, sort: str, key: str, value: Any) -> Job:
    """Return the Job with a choice in the ledger that a person made, such as a tag or a plate place; read as if it
    stood in a brief, so that it may be no other than one there.

    Raises:
        JobError: its sort cannot mean that.
    """
    try:
        read = read_entry(sort, key, str(value))
    except EntryError as error:
        raise JobError([Fault(at=("kept", sort, key), message=str(error))]) from error
    choices = {**getattr(job.ledger, sort), key: Choice(read, ChoiceState.KEPT)}
    return replace(job, ledger=replace(job.ledger, **{sort: choices}))
