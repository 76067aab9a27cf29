"""Owns the names of a Job: its members, its lines and potentials, and what paths may name. Must not judge anything but a path."""

from collections.abc import Iterator
from dataclasses import dataclass

from riktig.job.faults import did_you_mean
from riktig.job.model import NAMED_TABLES, Control, Device, Job
from riktig.job.paths import CHANNEL_SORTS, CONTACT_SORTS, SORTS, Path, PathError, Ref, nodes_of, parse_path, refs_of
from riktig.job.roles import module_roles, roles_of


def named_members(job: Job) -> list[tuple[str, str]]:
    """Return (table, name) of everything that has a name of its own; a detached starter's is that of its motor."""
    return [
        (table, member.name)
        for table, (field, _) in NAMED_TABLES.items()
        for member in getattr(job, field)
        if not getattr(member, "detached", False)
    ]


def lines_of(control: Control, job: Job) -> tuple[str, ...]:
    """Return the lines that feed a control supply: as given, or the first one or two of the supply."""
    if control.from_lines:
        return control.from_lines
    lines = job.supply.live_pair
    if control.kind == "direct":
        return lines[:1] if job.supply.has_neutral else lines
    return lines if len(lines) > 1 else (lines[0], "N")


def way_in_names(job: Job) -> set[str]:
    """Return the potentials of all ways in behind their switches, earth left out: L1 ... N, P.L1 ... P.N."""
    extra = {f"{e.name}.{c}" for e in job.extra_supplies for c in e.conductors}
    return {*job.supply.conductors, *extra}


def known_potentials(job: Job) -> set[str]:
    """Return the potentials that paths may name, those by @ left out."""
    there = {*way_in_names(job), "PE"}
    ahead = {f"in.{name}" for name in (*job.supply.conductors, "PE")}
    return there | ahead | {f"{control.name}{sign}" for control in job.controls for sign in "+-"}


@dataclass(frozen=True, slots=True)
class NamesKnown:
    """What paths may name: potentials, bare devices, and the roles of each starter and module."""

    potentials: set[str]
    devices: dict[str, Device]
    bare: set[str]
    roles: dict[str, tuple[str, ...]]
    positions: dict[str, tuple[str, ...]]


def names_known(job: Job) -> NamesKnown:
    """Return everything that a path may name."""
    roles = {s.name: roles_of(s, job) for s in job.starters if not s.detached} | module_roles(job)
    devices = {device.name: device for device in job.devices}
    whole = {m.name for members in (job.phase_relays, job.surges, job.controllers) for m in members}
    positions = {d.name: d.contacts or () for d in job.devices if d.kind == "selector"}
    attached = [s for s in job.starters if not s.detached]
    positions |= {f"{s.name}.SL": selector_positions(s.kind, s.has_hand) for s in attached}
    return NamesKnown(known_potentials(job), devices, {*devices, *whole, *(s.name for s in attached)}, roles, positions)


def selector_stands(positions: tuple[str, ...]) -> tuple[str, ...]:
    """Return where a selector with these switching positions can stand, from left to right: off lies before one and between two."""
    if len(positions) > 2 or "off" in positions:
        return positions
    return ("off", *positions) if len(positions) == 1 else (positions[0], "off", positions[1])


def selector_positions(kind: str, has_hand: bool) -> tuple[str, ...]:
    """Return the positions of a starter's selector from left to right."""
    if has_hand:
        return ("hand", "auto")
    return ("forward", "reverse") if kind == "reversing" else ("on",)


def find_path_faults(text: str, names: NamesKnown, *, is_feeder: bool) -> Iterator[tuple[int, str]]:
    """Yield (column from 1, sentence) of everything wrong with one path."""
    try:
        path = parse_path(text, is_feeder=is_feeder)
    except PathError as error:
        yield error.column, error.message
        return
    yield from _undeclared(path, names)


def _undeclared(path: Path, names: NamesKnown) -> Iterator[tuple[int, str]]:
    for nodes in nodes_of(path):
        for name in nodes.names:
            if not name.startswith("@") and name not in names.potentials:
                yield nodes.column, f"nothing declares '{name}'{did_you_mean(name, names.potentials)}"
    for ref in refs_of(path):
        message = _ref_fault(ref, names)
        if message is not None:
            yield ref.column, message


def _ref_fault(ref: Ref, names: NamesKnown) -> str | None:
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
