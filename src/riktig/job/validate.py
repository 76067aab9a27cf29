"""Owns what must hold between the parts of a Job before anything is computed. Must not change a Job."""

from collections import Counter
from collections.abc import Iterator, Sequence

from riktig.catalogue.family import DEVICE_KINDS
from riktig.catalogue.loader import find_part, parts_of_kind
from riktig.catalogue.model import Mounting
from riktig.job.faults import Fault, JobError, Key, did_you_mean
from riktig.job.model import Device, Feeder, Job, Rung
from riktig.job.names import find_path_faults, lines_of, named_members, names_known, way_in_names
from riktig.job.paths import CONTACT_SORTS, MAINS, SORTS
from riktig.job.validate_modules import PLACES, WALLS, module_faults, no_place, starter_faults


def check_job(job: Job) -> None:
    """Return if names, places, lines and paths of the Job fit together.

    Raises:
        JobError: with all faults found.
    """
    faults = list(find_faults(job))
    if faults:
        raise JobError(faults)


def kinds_known() -> tuple[str, ...]:
    """Return the device kinds that a brief may name."""
    return DEVICE_KINDS


def find_faults(job: Job) -> Iterator[Fault]:
    """Yield everything that does not fit together."""
    yield from _name_faults(job)
    yield from _control_faults(job)
    places = {"field", *PLACES, *(place.name for place in job.locations)}
    yield from starter_faults(job, places)
    yield from module_faults(job, places)
    yield from _device_faults(job, places)
    yield from path_faults(job)
    yield from _incoming_faults(job)


def _incoming_faults(job: Job) -> Iterator[Fault]:
    poles, available = job.incoming.poles, len(job.supply.conductors)
    is_broken = job.incoming.switch != "none" and (poles is None or poles >= len(job.supply.lines))
    if job.incoming.protection != "none" and not is_broken:
        message = (
            'the panel\'s protection stands behind a switch of all lines: write switch = "door", or protection = "none"'
        )
        yield Fault(at=("incoming", "protection"), message=message)
    if job.incoming.disconnect == "fused-switch" and poles is not None and poles > len(job.supply.lines):
        message = (
            f"a fused switch opens the lines, not the neutral: write poles = {len(job.supply.lines)}, or leave it out"
        )
        yield Fault(at=("incoming", "poles"), message=message)
    if (
        job.incoming.disconnect == "fused-switch"
        and poles is None
        and len(job.supply.lines) > 1
        and job.supply.breaks_neutral
    ):
        message = 'a fused switch leaves the neutral closed, which TT and IT do not allow: write disconnect = "breaker" or "switch"'
        yield Fault(at=("incoming", "disconnect"), message=message)
    if job.incoming.disconnect != "switch" and (job.incoming.protection != "none" or job.incoming.switch == "none"):
        what = "it protects the panel itself" if job.incoming.switch != "none" else "there is no switch"
        yield Fault(
            at=("incoming", "disconnect"), message=f'{what}: leave protection out, or write disconnect = "switch"'
        )
    if poles is not None and poles > available:
        yield Fault(
            at=("incoming", "poles"),
            message=f"{poles} poles for {available} conductors: give {available} or fewer",
        )


def _name_faults(job: Job) -> Iterator[Fault]:
    named = named_members(job)
    counts = Counter(name for _, name in named)
    reserved = {*MAINS, "in", "incoming", "phase_lamps", "pass_through", "Q0"}
    for table, name in named:
        if name in reserved or (table == "location" and name in {*PLACES, *WALLS}):
            yield Fault(at=(table, name), message=f"'{name}' is taken by Riktig: choose another name")
        elif counts[name] > 1:
            yield Fault(at=(table, name), message=f"two things are called '{name}': give one of them another name")
    row_counts = Counter(row.name for _, rows in _path_tables(job) for row in rows)
    expanded = {name for table, name in named if table not in {"device", "location"}} | reserved
    for table, rows in _path_tables(job):
        for index, row in enumerate(rows):
            owner, slash, _ = row.name.partition("/")
            if row_counts[row.name] > 1:
                yield Fault(at=(table, index, "name"), message=f"two paths have the name '{row.name}': change one")
            elif slash and owner in expanded:
                message = f"'{row.name}' is what {owner} calls a path of its own: choose another name"
                yield Fault(at=(table, index, "name"), message=message)


def _control_faults(job: Job) -> Iterator[Fault]:
    there = way_in_names(job)
    whole = {control.name for control in job.controls if control.is_dc and control.group_of is None}
    for control in job.controls:
        if control.group_of is not None:
            at = ("control", control.name, "group_of")
            if control.group_of not in whole:
                mend = f"there is {', '.join(sorted(whole))}" if whole else 'write one with kind = "psu"'
                yield Fault(at=at, message=f"'{control.group_of}' is no DC supply that may have groups: {mend}")
            continue
        at = ("control", control.name, "from")
        lines = lines_of(control, job)
        for line in lines:
            if line not in there:
                yield Fault(at=at, message=f"'{line}' is no line of this supply: use {', '.join(sorted(there))}")
        if len({line.partition(".")[0] for line in lines if "." in line} | {"" for x in lines if "." not in x}) > 1:
            yield Fault(at=at, message="both lines must come from the same way in")
        if control.kind != "direct" and len(lines) != 2:
            yield Fault(at=at, message=f'a {control.kind} is fed from two lines: write from = "L1 L2"')
        if len(set(lines)) != len(lines) or len(lines) > 2:
            yield Fault(at=at, message="name one line, or two different ones")
        if control.kind == "direct" and len(lines) == 1 and not job.way_in(lines[0].rpartition(".")[0]).has_neutral:
            yield Fault(at=at, message='this supply has no neutral: feed the control from two lines, "L1 L2"')
        if control.kind == "transformer" and control.volts is None:
            yield Fault(at=("control", control.name), message="volts is missing: give the secondary voltage")


def _wall_faults(device: Device, at: tuple[str, ...]) -> Iterator[Fault]:
    """Yield what would sit in a side wall and has no part that is held in a cut-out."""
    if device.at in WALLS and device.kind in DEVICE_KINDS:
        parts = parts_of_kind(device.kind) if device.part is None else filter(None, (find_part(device.part),))
        if not any(part.mounting is Mounting.DOOR for part in parts):
            words = device.part or f"a {device.kind}"
            yield Fault(
                at=(*at, "at"),
                message=f"{words} is held in no cut-out: put it on the plate, or give a part with mounting door",
            )


def _device_faults(job: Job, places: set[str]) -> Iterator[Fault]:
    for device in job.devices:
        at = ("device", device.name)
        if device.kind not in DEVICE_KINDS:
            hint = did_you_mean(device.kind, DEVICE_KINDS) or f" (there are: {', '.join(DEVICE_KINDS)})"
            yield Fault(at=(*at, "kind"), message=f"no device kind '{device.kind}'{hint}")
        if device.at is not None and device.at not in places | WALLS.keys():
            yield no_place((*at, "at"), device.at, places | WALLS.keys())
        yield from _wall_faults(device, at)
        yield from _contact_faults(device, at)
        if device.part is not None and device.kind in DEVICE_KINDS:
            part = find_part(device.part)
            codes = [p.code for p in parts_of_kind(device.kind)]
            if part is None or part.kind != device.kind:
                hint = did_you_mean(device.part, codes)
                yield Fault(at=(*at, "part"), message=f"no {device.kind} '{device.part}' in the catalogue{hint}")


def _contact_faults(device: Device, at: Key) -> Iterator[Fault]:
    if device.kind == "selector":
        repeated = [p for p, n in Counter(device.contacts or ()).items() if n > 1 or p in SORTS or "-" in p]
        for position in repeated:
            message = f"'{position}' cannot be a position: name each position once, by a word of its own"
            yield Fault(at=(*at, "contacts"), message=message)
        return
    for sort in device.contacts or ():
        if sort not in CONTACT_SORTS:
            message = f"no contact sort '{sort}': use {', '.join(CONTACT_SORTS[:-1])} or {CONTACT_SORTS[-1]}"
            yield Fault(at=(*at, "contacts"), message=message)


def _path_tables(job: Job) -> tuple[tuple[str, Sequence[Rung | Feeder]], ...]:
    return ("rung", job.rungs), ("feeder", job.feeders)


def path_faults(job: Job) -> Iterator[Fault]:
    """Yield what is wrong with the rungs and feeders of a Job."""
    names = names_known(job)
    for table, rows in _path_tables(job):
        for index, row in enumerate(rows):
            at = (table, index, "path")
            for column, message in find_path_faults(row.path, names, is_feeder=table == "feeder"):
                yield Fault(at=at, message=f"column {column} of the path: {message}")
