"""Owns what must hold between the parts of a Job before anything is computed. Must not change a Job."""

from collections import Counter
from collections.abc import Iterator, Sequence, Set
from dataclasses import dataclass
from difflib import get_close_matches

from riktig.catalogue.loader import parts_by_code, parts_of_kind, shipped_parts
from riktig.job.model import Control, Feeder, Job, Rung
from riktig.job.paths import AHEAD, MAINS, Path, PathError, nodes_of, parse_path, refs_of

STARTER_ROLES = ("Q", "K", "F", "S0", "S1", "H", "HT", "M")
SORTS_BUILT = ("no", "nc", "co", "coil", "lamp")
_PLACES = ("plate", "door")


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """One thing that must be mended: where it stands in the Job (keys and indexes) and the sentence."""

    at: tuple[str | int, ...]
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
    internal = {"terminal", "earth-terminal", "earth-bar", "earth-stud"}
    return tuple(sorted({part.kind for part in shipped_parts()} - internal))


def find_faults(job: Job) -> Iterator[Fault]:
    """Yield everything that does not fit together."""
    yield from _name_faults(job)
    yield from _control_faults(job)
    places = {"field", *_PLACES, *(place.name for place in job.locations)}
    yield from _starter_faults(job, places)
    yield from _device_faults(job, places)
    yield from _path_faults(job)
    poles, available = job.incoming.poles, len(job.supply.lines) + job.supply.has_neutral
    if poles is not None and poles > available:
        yield Fault(
            at=("incoming", "poles"),
            message=f"{poles} poles for {available} conductors: give {available} or fewer",
        )


def _name_faults(job: Job) -> Iterator[Fault]:
    tables = {
        "control": job.controls,
        "starter": job.starters,
        "device": job.devices,
        "location": job.locations,
    }
    named = [(table, item.name) for table, items in tables.items() for item in items]
    counts = Counter(name for _, name in named)
    for table, name in named:
        if name in MAINS or (table == "location" and name in _PLACES):
            yield Fault(at=(table, name), message=f"'{name}' is taken by Riktig: choose another name")
        elif counts[name] > 1:
            yield Fault(at=(table, name), message=f"two things are called '{name}': give one of them another name")
    for table, rows in _path_tables(job):
        row_counts = Counter(row.name for row in rows)
        for index, row in enumerate(rows):
            if row_counts[row.name] > 1:
                yield Fault(at=(table, index, "name"), message=f"two {table}s have the name '{row.name}': change one")


def lines_of(control: Control, job: Job) -> tuple[str, ...]:
    """Return the lines that feed a control supply: as given, or the first one or two of the supply."""
    if control.from_lines:
        return control.from_lines
    lines = job.supply.lines
    if control.kind == "direct":
        return lines[:1] if job.supply.has_neutral else lines[:2]
    return lines[:2] if len(lines) > 1 else (lines[0], "N")


def _control_faults(job: Job) -> Iterator[Fault]:
    there = {*job.supply.lines, *(("N",) if job.supply.has_neutral else ())}
    for control in job.controls:
        at = ("control", control.name, "from")
        lines = lines_of(control, job)
        for line in lines:
            if line not in there:
                yield Fault(at=at, message=f"'{line}' is no line of this supply: use {', '.join(sorted(there))}")
        if control.kind == "transformer" and len(lines) != 2:
            yield Fault(at=at, message='a transformer is fed from two lines: write from = "L1 L2"')
        if len(set(lines)) != len(lines) or len(lines) > 2:
            yield Fault(at=at, message="name one line, or two different ones")
        if control.kind == "direct" and len(lines) == 1 and not job.supply.has_neutral:
            yield Fault(at=at, message='this supply has no neutral: feed the control from two lines, "L1 L2"')
        if control.kind == "transformer" and control.volts is None:
            yield Fault(at=("control", control.name), message="volts is missing: give the secondary voltage")


def _starter_faults(job: Job, places: set[str]) -> Iterator[Fault]:
    supplies = [control.name for control in job.controls]
    for starter in job.starters:
        at = ("starter", starter.name)
        if starter.supply not in supplies:
            known = ", ".join(supplies) or "none is declared, add [control.C1]"
            yield Fault(at=(*at, "supply"), message=f"no control supply '{starter.supply}' (there: {known})")
        for key, place in (("motor_at", starter.motor_at), ("buttons_at", starter.buttons_at)):
            if place not in places:
                yield _no_place((*at, key), place, places)
        if starter.motor_at in _PLACES:
            yield Fault(at=(*at, "motor_at"), message="a motor stands at a location, not in the panel")
        if starter.phases == 3 and len(job.supply.lines) < 3:
            yield Fault(at=at, message=f"a three-phase motor on a {job.supply.system} supply: write phases = 1")


def _no_place(at: tuple[str | int, ...], place: str, places: set[str]) -> Fault:
    return Fault(at=at, message=f"no location '{place}': declare [location.{place}]{did_you_mean(place, places)}")


def _device_faults(job: Job, places: set[str]) -> Iterator[Fault]:
    kinds = kinds_known()
    for device in job.devices:
        at = ("device", device.name)
        if device.kind not in kinds:
            hint = did_you_mean(device.kind, kinds) or f" (there are: {', '.join(kinds)})"
            yield Fault(at=(*at, "kind"), message=f"no device kind '{device.kind}'{hint}")
        if device.at is not None and device.at not in places:
            yield _no_place((*at, "at"), device.at, places)
        for sort in device.contacts or ():
            if sort not in {"no", "nc", "co"}:
                yield Fault(at=(*at, "contacts"), message=f"no contact sort '{sort}': use no, nc or co")
        if device.part is not None and device.kind in kinds:
            part = parts_by_code().get(device.part)
            codes = [p.code for p in parts_of_kind(device.kind)]
            if part is None or part.kind != device.kind:
                hint = did_you_mean(device.part, codes)
                yield Fault(at=(*at, "part"), message=f"no {device.kind} '{device.part}' in the catalogue{hint}")


def _path_faults(job: Job) -> Iterator[Fault]:
    potentials = known_potentials(job)
    devices = {device.name for device in job.devices}
    starters = {starter.name for starter in job.starters}
    for table, rows in _path_tables(job):
        for index, row in enumerate(rows):
            at = (table, index, "path")
            try:
                path = parse_path(row.path, is_feeder=table == "feeder")
            except PathError as error:
                yield Fault(at=at, message=f"column {error.column} of the path: {error.message}")
                continue
            yield from _undeclared(path, at, potentials, devices, starters, job)


def _path_tables(job: Job) -> tuple[tuple[str, Sequence[Rung | Feeder]], ...]:
    return ("rung", job.rungs), ("feeder", job.feeders)


def known_potentials(job: Job) -> set[str]:
    """Return the potentials that paths may name, those by @ left out."""
    there = {*job.supply.lines, "PE", *(("N",) if job.supply.has_neutral else ())}
    ahead = {name for name in AHEAD if name[3:] in there}
    return there | ahead | {f"{control.name}{sign}" for control in job.controls for sign in "+-"}


def _undeclared(
    path: Path,
    at: tuple[str | int, ...],
    potentials: set[str],
    devices: set[str],
    starters: set[str],
    job: Job,
) -> Iterator[Fault]:
    for nodes in nodes_of(path):
        for name in nodes.names:
            if not name.startswith("@") and name not in potentials:
                hint = did_you_mean(name, potentials)
                yield Fault(at=at, message=f"column {nodes.column} of the path: nothing declares '{name}'{hint}")
    for ref in refs_of(path):
        owner, _, role = ref.device.partition(".")
        where = f"column {ref.column} of the path"
        if ref.what is not None and ref.marks is None and ref.what not in SORTS_BUILT:
            hint = did_you_mean(ref.what, SORTS_BUILT) or f": use {', '.join(SORTS_BUILT)} or marks such as 13-14"
            yield Fault(at=at, message=f"{where}: '{ref.what}' is no contact{hint}")
        if role and owner in starters:
            if role not in roles_of(owner, job):
                known = ", ".join(roles_of(owner, job))
                yield Fault(at=at, message=f"{where}: {owner} has no part '{role}' (it has: {known})")
        elif role or owner not in devices | starters:
            hint = did_you_mean(ref.device, devices | starters) or f": add [device.{owner}]"
            yield Fault(at=at, message=f"{where}: nothing declares '{ref.device}'{hint}")


def roles_of(name: str, job: Job) -> tuple[str, ...]:
    """Return the roles of a starter's own parts; lamps are there only where asked for."""
    starter = job.starter(name)
    lamps = starter.lamps if starter is not None else ()
    absent = {role for role, lamp in (("H", "run"), ("HT", "trip")) if lamp not in lamps}
    return tuple(role for role in STARTER_ROLES if role not in absent)
