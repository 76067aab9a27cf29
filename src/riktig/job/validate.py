"""Owns what must hold between the parts of a Job before anything is computed. Must not change a Job."""

from collections import Counter
from collections.abc import Iterator, Sequence, Set
from dataclasses import dataclass
from difflib import get_close_matches

from riktig.catalogue.family import DEVICE_KINDS
from riktig.catalogue.loader import find_part, parts_of_kind
from riktig.job.model import NAMED_TABLES, Control, Device, Feeder, Job, Rung
from riktig.job.paths import (
    CHANNEL_SORTS,
    CONTACT_SORTS,
    MAINS,
    SORTS,
    Path,
    PathError,
    Ref,
    nodes_of,
    parse_path,
    refs_of,
)
from riktig.job.roles import module_roles, roles_of

PLACES = ("plate", "door")
Key = tuple[str | int, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """One thing that must be mended: where it stands in the Job (keys and indexes) and the sentence."""

    at: Key
    message: str


class JobError(ValueError):
    """A Job that does not hold together; carries every fault."""

    def __init__(self, faults: list[Fault]) -> None:
        super().__init__("; ".join(fault.message for fault in faults))
        self.faults = tuple(faults)


def check_job(job: Job) -> None:
    """Return if names, places, lines and paths of the Job fit together.

    Raises:
        JobError: with all faults found.
    """
    faults = list(find_faults(job))
    if faults:
        raise JobError(faults)


def did_you_mean(word: str, known: Set[str] | list[str] | tuple[str, ...]) -> str:
    """Return ` (did you mean ...?)` for the nearest known word, or nothing."""
    near = get_close_matches(word, list(known), n=1)
    return f" (did you mean '{near[0]}'?)" if near else ""


def kinds_known() -> tuple[str, ...]:
    """Return the device kinds that a brief may name."""
    return DEVICE_KINDS


def find_faults(job: Job) -> Iterator[Fault]:
    """Yield everything that does not fit together."""
    from riktig.job.overrides import override_faults
    from riktig.job.validate_modules import module_faults, starter_faults

    yield from _name_faults(job)
    yield from _control_faults(job)
    places = {"field", *PLACES, *(place.name for place in job.locations)}
    yield from starter_faults(job, places)
    yield from module_faults(job, places)
    yield from _device_faults(job, places)
    yield from path_faults(job)
    yield from override_faults(job.ledger.values)
    yield from _incoming_faults(job)


def _incoming_faults(job: Job) -> Iterator[Fault]:
    poles, available = job.incoming.poles, len(job.supply.conductors)
    is_broken = job.incoming.switch != "none" and (poles is None or poles >= len(job.supply.lines))
    if job.incoming.protection != "none" and not is_broken:
        message = (
            'the panel\'s protection stands behind a switch of all lines: write switch = "door", or protection = "none"'
        )
        yield Fault(at=("incoming", "protection"), message=message)
    if poles is not None and poles > available:
        yield Fault(
            at=("incoming", "poles"),
            message=f"{poles} poles for {available} conductors: give {available} or fewer",
        )


def named_members(job: Job) -> list[tuple[str, str]]:
    """Return (table, name) of everything that has a name of its own; a detached starter's is that of its motor."""
    return [
        (table, member.name)
        for table, (field, _) in NAMED_TABLES.items()
        for member in getattr(job, field)
        if not getattr(member, "detached", False)
    ]


def _name_faults(job: Job) -> Iterator[Fault]:
    named = named_members(job)
    counts = Counter(name for _, name in named)
    reserved = {*MAINS, "in", "incoming", "phase_lamps", "pass_through", "Q0"}
    for table, name in named:
        if name in reserved or (table == "location" and name in PLACES):
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


def lines_of(control: Control, job: Job) -> tuple[str, ...]:
    """Return the lines that feed a control supply: as given, or the first one or two of the supply."""
    if control.from_lines:
        return control.from_lines
    lines = job.supply.lines
    if control.kind == "direct":
        return lines[:1] if job.supply.has_neutral else lines[:2]
    return lines[:2] if len(lines) > 1 else (lines[0], "N")


def way_in_names(job: Job) -> set[str]:
    """Return the potentials of all ways in behind their switches, earth left out: L1 ... N, P.L1 ... P.N."""
    extra = {f"{e.name}.{c}" for e in job.extra_supplies for c in e.conductors}
    return {*job.supply.conductors, *extra}


def _control_faults(job: Job) -> Iterator[Fault]:
    there = way_in_names(job)
    for control in job.controls:
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


def no_place(at: Key, place: str, places: set[str]) -> Fault:
    """Return the fault of a place that nothing declares."""
    return Fault(at=at, message=f"no location '{place}': declare [location.{place}]{did_you_mean(place, places)}")


def _device_faults(job: Job, places: set[str]) -> Iterator[Fault]:
    for device in job.devices:
        at = ("device", device.name)
        if device.kind not in DEVICE_KINDS:
            hint = did_you_mean(device.kind, DEVICE_KINDS) or f" (there are: {', '.join(DEVICE_KINDS)})"
            yield Fault(at=(*at, "kind"), message=f"no device kind '{device.kind}'{hint}")
        if device.at is not None and device.at not in places:
            yield no_place((*at, "at"), device.at, places)
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


def known_potentials(job: Job) -> set[str]:
    """Return the potentials that paths may name, those by @ left out."""
    there = {*way_in_names(job), "PE"}
    ahead = {f"in.{name}" for name in (*job.supply.conductors, "PE")}
    return there | ahead | {f"{control.name}{sign}" for control in job.controls for sign in "+-"}


@dataclass(frozen=True, slots=True)
class _Names:
    """What paths may name: potentials, bare devices, and the roles of each starter and module."""

    potentials: set[str]
    devices: dict[str, Device]
    bare: set[str]
    roles: dict[str, tuple[str, ...]]
    positions: dict[str, tuple[str, ...]]


def names_known(job: Job) -> _Names:
    """Return everything that a path may name."""
    roles = {s.name: roles_of(s, job) for s in job.starters if not s.detached} | module_roles(job)
    devices = {device.name: device for device in job.devices}
    whole = {m.name for members in (job.phase_relays, job.surges, job.controllers) for m in members}
    positions = {d.name: d.contacts or () for d in job.devices if d.kind == "selector"}
    attached = [s for s in job.starters if not s.detached]
    positions |= {f"{s.name}.SL": selector_positions(s.kind, s.has_hand) for s in attached}
    return _Names(known_potentials(job), devices, {*devices, *whole, *(s.name for s in attached)}, roles, positions)


def selector_positions(kind: str, has_hand: bool) -> tuple[str, ...]:
    """Return the positions of a starter's selector from left to right."""
    if has_hand:
        return ("hand", "auto")
    return ("forward", "reverse") if kind == "reversing" else ("on",)


def path_faults(job: Job) -> Iterator[Fault]:
    """Yield what is wrong with the rungs and feeders of a Job."""
    names = names_known(job)
    for table, rows in _path_tables(job):
        for index, row in enumerate(rows):
            at = (table, index, "path")
            for column, message in find_path_faults(row.path, names, is_feeder=table == "feeder"):
                yield Fault(at=at, message=f"column {column} of the path: {message}")


def find_path_faults(text: str, names: _Names, *, is_feeder: bool) -> Iterator[tuple[int, str]]:
    """Yield (column from 1, sentence) of everything wrong with one path."""
    try:
        path = parse_path(text, is_feeder=is_feeder)
    except PathError as error:
        yield error.column, error.message
        return
    yield from _undeclared(path, names)


def _undeclared(path: Path, names: _Names) -> Iterator[tuple[int, str]]:
    for nodes in nodes_of(path):
        for name in nodes.names:
            if not name.startswith("@") and name not in names.potentials:
                yield nodes.column, f"nothing declares '{name}'{did_you_mean(name, names.potentials)}"
    for ref in refs_of(path):
        message = _ref_fault(ref, names)
        if message is not None:
            yield ref.column, message


def _ref_fault(ref: Ref, names: _Names) -> str | None:
    owner, _, role = ref.device.partition(".")
    if ref.device not in names.bare:
        if role and owner in names.roles:
            if role not in names.roles[owner]:
                return f"{owner} has no part '{role}' (it has: {', '.join(names.roles[owner])})"
        else:
            known = names.bare | set(names.roles)
            return f"nothing declares '{ref.device}'{did_you_mean(ref.device, known) or f': add [device.{owner}]'}"
    if ref.what is None or ref.marks is not None or ref.what in SORTS:
        return None
    positions = names.positions.get(ref.device)
    if positions is not None:
        return None if ref.what in positions else (
            f"'{ref.what}' is no position of {ref.device} (it has: {', '.join(positions) or 'none, write contacts'})"
        )  # fmt: skip
    sorts = (*CONTACT_SORTS, *CHANNEL_SORTS, "coil", "lamp")
    hint = did_you_mean(ref.what, sorts) or f": use {', '.join(CONTACT_SORTS)}, coil, lamp or marks such as 13-14"
    return f"'{ref.what}' is no contact{hint}"
