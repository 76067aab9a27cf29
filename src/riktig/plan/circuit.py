"""Owns the expansion of a Job into devices and circuit paths. Must not know parts, numbers or places."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.loader import parts_of_kind
from riktig.catalogue.model import Mounting
from riktig.job.model import Control, Job, Starter
from riktig.job.paths import Item, Nodes, Path, parse_path, refs_of
from riktig.job.validate import lines_of, roles_of

PLATE, DOOR = "plate", "door"
EARTH_BAR, PLATE_STUD, DOOR_STUD = "PE.bar", "PE.plate", "PE.door"


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitDevice:
    """A device that the circuit needs. `id` is `Q0`, `M1.K`, `C1.F` or a person's own name; `owner` and `role`
    are the starter or control supply it belongs to and its part there.
    """

    id: str
    kind: str
    location: str
    title: str = ""
    owner: str | None = None
    role: str | None = None
    poles: int | None = None
    colour: str | None = None
    contacts: tuple[str, ...] | None = None
    part: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitPath:
    """A path of the circuit with a stable key. `is_power` tells the power sheet from the control sheet."""

    key: str
    title: str
    items: Path
    is_power: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Circuit:
    """Devices and paths in drawing order; `joins` are potentials that are one (pairs of names), `index` has the
    devices by id.
    """

    devices: tuple[CircuitDevice, ...]
    paths: tuple[CircuitPath, ...]
    joins: tuple[tuple[str, str], ...]
    index: Mapping[str, CircuitDevice]

    def device(self, device_id: str) -> CircuitDevice:
        """Return the device of that id.

        Raises:
            KeyError: there is none.
        """
        return self.index[device_id]


def expand(job: Job) -> Circuit:
    """Return the whole circuit of a Job: incoming switch, starters, own devices and rungs, control supplies."""
    devices: list[CircuitDevice] = []
    paths: list[CircuitPath] = []
    joins: list[tuple[str, str]] = [("in.PE", "PE")]
    _expand_incoming(job, devices, paths, joins)
    power: list[CircuitPath] = []
    control: list[CircuitPath] = []
    for starter in job.starters:
        devices.extend(_starter_devices(starter, job))
        power.extend(_starter_power(starter, job))
        control.extend(_starter_control(starter, job))
    for feeder in job.feeders:
        items = parse_path(feeder.path, is_feeder=True)
        power.append(CircuitPath(key=feeder.name, title=feeder.name, items=items, is_power=True))
    for supply in job.controls:
        _expand_control(supply, job, devices, power, joins)
    devices.extend(_own_devices(job))
    for rung in job.rungs:
        items = parse_path(rung.path)
        control.append(
            CircuitPath(key=rung.name, title=_title_of(items, job) or rung.name, items=items, is_power=False)
        )
    devices.extend(_box_studs(job, devices))
    devices.append(CircuitDevice(id=EARTH_BAR, kind="earth-bar", location=PLATE, title="Main earth bar"))
    devices.append(CircuitDevice(id=PLATE_STUD, kind="earth-stud", location=PLATE, title="Earth stud of the plate"))
    devices.append(CircuitDevice(id=DOOR_STUD, kind="earth-stud", location=DOOR, title="Earth stud of the door"))
    index = {device.id: device for device in devices}
    return Circuit(devices=tuple(devices), paths=(*paths, *power, *control), joins=tuple(joins), index=index)


def _title_of(items: Path, job: Job) -> str:
    """Return the title of the last device on a path: what the path is for."""
    last = refs_of(items)[-1].device if refs_of(items) else ""
    return next((device.title for device in job.devices if device.name == last), "")


def _path(key: str, title: str, text: str, *, is_power: bool) -> CircuitPath:
    return CircuitPath(key=key, title=title, items=parse_path(text, is_feeder=is_power), is_power=is_power)


def _expand_incoming(
    job: Job, devices: list[CircuitDevice], paths: list[CircuitPath], joins: list[tuple[str, str]]
) -> None:
    switched, unswitched = incoming_names(job)
    if switched:
        devices.append(
            CircuitDevice(id="Q0", kind="disconnect", location=PLATE, title="Main switch", poles=len(switched))
        )
        items: tuple[Item, ...] = (
            Nodes(names=tuple(f"in.{n}" for n in switched), column=1),
            *parse_path(f"L1 > Q0 > {switched[0]}")[1:2],
            Nodes(names=switched, column=1),
        )
        paths.append(CircuitPath(key="incoming", title="Incoming supply", items=items, is_power=True))
    joins.extend((f"in.{name}", name) for name in unswitched)


def incoming_names(job: Job) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the incoming conductors that the main switch breaks, and those that go straight on; earth left out."""
    names = (*job.supply.lines, *(("N",) if job.supply.has_neutral else ()))
    poles = job.incoming.poles or (2 if job.supply.system == "1ph+n" else len(job.supply.lines))
    broken = 0 if job.incoming.switch == "none" else poles
    return names[:broken], names[broken:]


def _starter_devices(starter: Starter, job: Job) -> list[CircuitDevice]:
    name, at = starter.name, starter.buttons_at
    what = starter.title or name
    rows = {
        "Q": ("breaker", PLATE, f"Protection, {what}", None),
        "K": ("contactor", PLATE, f"Contactor, {what}", None),
        "F": ("overload", PLATE, f"Overload relay, {what}", None),
        "S0": ("pushbutton", at, f"Stop, {what}", "red"),
        "S1": ("pushbutton", at, f"Start, {what}", "green"),
        "H": ("lamp", at, f"Running, {what}", "green"),
        "HT": ("lamp", at, f"Tripped, {what}", "amber"),
    }
    poles = 3 if starter.phases == 3 else 2
    made = [
        CircuitDevice(
            id=f"{name}.{role}", kind=kind, location=place, title=title, colour=colour, owner=name, role=role,
            poles=poles if role == "Q" else None,
        )
        for role, (kind, place, title, colour) in rows.items()
        if role in roles_of(name, job)
    ]  # fmt: skip
    motor = CircuitDevice(
        id=name, kind="motor", location=starter.motor_at, title=what, owner=name, role="M", poles=poles
    )
    return [*made, motor]


def _starter_power(starter: Starter, job: Job) -> list[CircuitPath]:
    name, title = starter.name, f"{starter.name} {starter.title}".strip()
    if starter.phases == 3:
        text = f"L1 L2 L3 > {name}.Q > {name}.K > {name}.F > {name}"
        return [_path(f"{name}/power", title, text, is_power=True)]
    back = "N" if job.supply.system in {"1ph+n", "3ph+n"} else "L2"
    node = f"@{name}_U2"
    home = f"{back} > {name}.Q:3-4 > {name}.K:3/L2-4/T2 > {name}.F:3/L2-4/T2 > {name}.F:5/L3-6/T3 > {node}"
    there = f"L1 > {name}.Q:1-2 > {name}.K:1/L1-2/T1 > {name}.F:1/L1-2/T1 > {name}:U1-U2 > {node}"
    return [
        _path(f"{name}/return", title, home, is_power=True),
        _path(f"{name}/power", title, there, is_power=True),
    ]


def _starter_control(starter: Starter, job: Job) -> list[CircuitPath]:
    name, plus, minus = starter.name, f"{starter.supply}+", f"{starter.supply}-"
    title = f"{name} {starter.title}".strip()
    buttons = f"{name}.S0:nc > ({name}.S1:no | {name}.K:no) > {name}.K:coil"
    trip = f"{name}.F:95-96"
    is_live = job.practice.overload_contact == "live"
    run = f"{plus} > {trip} > {buttons} > {minus}" if is_live else f"{plus} > {buttons} > {trip} > {minus}"
    paths = [_path(f"{name}/run", title, run, is_power=False)]
    if "run" in starter.lamps:
        text = f"{plus} > {name}.K:no > {name}.H:lamp > {minus}"
        paths.append(_path(f"{name}/run-lamp", f"{name} running", text, is_power=False))
    if "trip" in starter.lamps:
        text = f"{plus} > {name}.F:97-98 > {name}.HT:lamp > {minus}"
        paths.append(_path(f"{name}/trip-lamp", f"{name} tripped", text, is_power=False))
    return paths


def _expand_control(
    control: Control,
    job: Job,
    devices: list[CircuitDevice],
    paths: list[CircuitPath],
    joins: list[tuple[str, str]],
) -> None:
    name, lines = control.name, lines_of(control, job)

    def add(role: str, kind: str, title: str, poles: int | None = None) -> None:
        devices.append(
            CircuitDevice(
                id=f"{name}.{role}",
                kind=kind,
                location=PLATE,
                title=title,
                owner=name,
                role=role,
                poles=poles,
            )
        )

    if control.kind == "direct":
        add("F", "breaker", f"Protection, control {name}", len(lines))
        ends = f"{name}+" if len(lines) == 1 else f"{name}+ {name}-"
        text = f"{' '.join(lines)} > {name}.F > {ends}"
        paths.append(_path(f"{name}/feed", f"Control supply {name}", text, is_power=True))
        if len(lines) == 1:
            joins.append((f"{name}-", "N"))
        return
    poles = len([line for line in lines if line != "N"])
    add("FP", "breaker", f"Primary protection, transformer {name}", max(poles, 1))
    add("T", "transformer", f"Control transformer {name}")
    add("F", "breaker", f"Secondary protection, control {name}", 1)
    one_pole = f"{lines[0]} > {name}.FP:1-2 > {name}.T:H1-H2 > {lines[1]}"
    text = f"{' '.join(lines)} > {name}.FP > {name}.T" if poles == 2 else one_pole
    paths.append(_path(f"{name}/primary", f"Control supply {name}", text, is_power=True))
    secondary = f"{name}- > {name}.T:X2-X1 > {name}.F > {name}+"
    paths.append(_path(f"{name}/secondary", f"Control supply {name}", secondary, is_power=True))
    if control.earthed:
        add("B", "link", f"Removable earth link of {name}")
        paths.append(_path(f"{name}/bond", f"Earth link {name}", f"{name}- > {name}.B > PE", is_power=True))


def _own_devices(job: Job) -> list[CircuitDevice]:
    return [
        CircuitDevice(
            id=device.name, kind=device.kind, location=device.at or usual_place(device.kind), title=device.title,
            poles=device.poles, colour=device.colour, contacts=device.contacts, part=device.part,
        )
        for device in job.devices
    ]  # fmt: skip


def _box_studs(job: Job, devices: list[CircuitDevice]) -> list[CircuitDevice]:
    """Return an earth stud for every metal box that holds devices: an exposed part."""
    boxed = {d.location for d in devices if not is_field_kind(d.kind)} - {PLATE, DOOR}
    places = [place for name in sorted(boxed) if (place := job.location(name)) is not None]
    return [
        CircuitDevice(id=f"{p.name}.PE", kind="earth-stud", location=p.name, title=f"Earth stud, {p.title or p.name}")
        for p in places
        if p.box == "metal"
    ]


def is_field_kind(kind: str) -> bool:
    """Return whether devices of a kind stand by themselves, with a cable each, and not in a box."""
    return parts_of_kind(kind)[0].mounting is Mounting.FIELD


def usual_place(kind: str) -> str:
    """Return where a device of a kind goes when nobody says: door, field or plate, by how its parts mount."""
    mounting = parts_of_kind(kind)[0].mounting
    return {Mounting.DOOR: DOOR, Mounting.FIELD: "field"}.get(mounting, PLATE)


def canonical_id(name: str, job: Job) -> str:
    """Return the device id that a path's name means: `M1.M` is the motor `M1` itself."""
    owner, _, role = name.partition(".")
    return owner if role == "M" and job.starter(owner) is not None else name
