"""Owns the expansion of a Job into its whole circuit. Must not know parts, numbers or places."""

from collections.abc import Iterable, Set
from dataclasses import replace

from riktig.job.model import Job
from riktig.job.paths import Path, nodes_of, parse_path, refs_of, with_devices
from riktig.job.validate_modules import WALLS
from riktig.pipeline.rows import by_row
from riktig.plan.circuit.estop import EstopFeeds
from riktig.plan.circuit.incoming import expand_control, expand_ways_in
from riktig.plan.circuit.model import (
    DOOR,
    DOOR_STUD,
    EARTH_BAR,
    PLATE,
    PLATE_STUD,
    Circuit,
    CircuitDevice,
    CircuitPath,
    stands_alone,
    usual_place,
)
from riktig.plan.circuit.modules import expand_modules
from riktig.plan.circuit.repeats import repeat_floats
from riktig.plan.circuit.sketch import IN_FIELD, Sketch
from riktig.plan.circuit.starter_control import StarterControl
from riktig.plan.circuit.starter_devices import add_control_devices
from riktig.plan.circuit.starter_power import add_motor, add_power_devices, draw_power


def expand(job: Job) -> Circuit:
    """Return the whole circuit of a Job: ways in, starters, own feeders, control supplies, modules, own rungs."""
    sketch = Sketch(job)
    expand_ways_in(sketch)
    feeds = EstopFeeds(sketch)
    for starter in job.starters:
        if starter.detached:
            feeds.keep(starter)
            sketch.devices.extend(_own_devices(job, {starter.name}))
            continue
        add_power_devices(starter, sketch)
        add_control_devices(starter, sketch)
        add_motor(starter, sketch)
        draw_power(starter, sketch)
        StarterControl(starter, sketch, feeds).draw()
    motors = {f"{starter.name}.M": starter.name for starter in job.starters}
    for feeder in job.feeders:
        items = with_devices(parse_path(feeder.path, is_feeder=True), motors)
        title = _title_of(items, job) or feeder.name
        sketch.power.append(CircuitPath(key=feeder.name, title=title, items=items, is_power=True))
    for control in sorted(job.controls, key=lambda one: one.group_of is not None):
        expand_control(control, sketch)
    feeds.finish()
    expand_modules(sketch)
    detached = {starter.name for starter in job.starters if starter.detached}
    sketch.devices.extend(_own_devices(job, {_family(device.name) for device in job.devices} - detached))
    for rung in job.rungs:
        items = with_devices(parse_path(rung.path), motors)
        title = _title_of(items, job) or rung.name
        sketch.control.append(CircuitPath(key=rung.name, title=title, items=items, is_power=False))
    known = {p.key: p.supply for p in _with_supplies(tuple(sketch.control), job) if p.supply is not None}
    sketch.devices, sketch.control = repeat_floats(sketch.devices, sketch.control, known)
    return _finish(sketch)


def _finish(sketch: Sketch) -> Circuit:
    devices = sketch.devices
    devices.extend(_outlet_filters(devices))
    devices.extend(_box_studs(sketch.job, devices))
    devices.append(CircuitDevice(id=EARTH_BAR, kind="earth-bar", location=PLATE, title="Main earth bar"))
    devices.append(CircuitDevice(id=PLATE_STUD, kind="earth-stud", location=PLATE, title="Earth stud of the plate"))
    devices.append(CircuitDevice(id=DOOR_STUD, kind="earth-stud", location=DOOR, title="Earth stud of the door"))
    index = {device.id: device for device in devices}
    assert len({p.key for p in (*sketch.incoming, *sketch.power, *sketch.control)}) == sum(
        len(paths) for paths in (sketch.incoming, sketch.power, sketch.control)
    ), "two paths have one key"
    paths = _with_supplies((*sketch.incoming, *sketch.power, *sketch.control), sketch.job)
    return Circuit(devices=tuple(devices), paths=paths, joins=tuple(sketch.joins), index=index)


def _with_supplies(paths: tuple[CircuitPath, ...], job: Job) -> tuple[CircuitPath, ...]:
    """Return the paths, each control path with the supply that it lies on: by name, or through a named potential."""
    known = {f"{control.name}{sign}": control.name for control in job.controls for sign in "+-"}
    known |= {f"@{control.name}_hot": control.name for control in job.controls}
    found: dict[str, str] = {}
    names = {path.key: _names_in(path.items) for path in paths if not path.is_power}
    is_growing = True
    while is_growing:
        is_growing = False
        for key, nodes in names.items():
            supply = found.get(key) or next((known[name] for name in nodes if name in known), None)
            if supply is None:
                continue
            if key not in found:
                found[key], is_growing = supply, True
            fresh = [name for name in nodes if name not in known and name.startswith("@")]
            known.update(dict.fromkeys(fresh, supply))
            is_growing = is_growing or bool(fresh)
    return tuple(_on_supply(path.key, path, found[path.key]) if path.key in found else path for path in paths)


@by_row
def _on_supply(_: str, path: CircuitPath, supply: str) -> CircuitPath:
    return replace(path, supply=supply)


def _names_in(items: Path) -> tuple[str, ...]:
    return tuple(name for nodes in nodes_of(items) for name in nodes.names)


def _title_of(items: Path, job: Job) -> str:
    """Return the title of the last device on a path: what the path is for."""
    last = refs_of(items)[-1].device if refs_of(items) else ""
    return next((device.title for device in job.devices if device.name == last), "")


def _family(name: str) -> str:
    """Return the starter or module that a device belongs to by its name, else the device itself."""
    return name.partition(".")[0]


def _own_devices(job: Job, families: Set[str]) -> Iterable[CircuitDevice]:
    """Yield a person's devices of some families; those of a detached starter stand where the starter does, so that detaching moves
    nothing.
    """
    for device in job.devices:
        if _family(device.name) not in families:
            continue
        is_selector = device.kind == "selector"
        least = {"amps": device.amps} if device.amps and device.kind not in _SIZED_BY_NEED | _LOADS else {}
        settings = {"seconds": device.seconds, "level_m": device.level}
        settings |= {"volts": device.volts} if device.kind == "transformer" else {}
        draws = (
            {key: value for key in ("kw", "va", "amps") if (value := getattr(device, key))}
            if device.kind in _LOADS
            else {}
        )
        wall = WALLS.get(device.at or "", "")
        location = (
            PLATE
            if wall
            else device.at or ("field" if draws and device.kind in _IN_FIELD else usual_place(device.kind))
        )
        wants = {"curve": device.curve} if device.curve else {}
        if device.kind in _IN_FIELD | {"disconnect"} and location not in {PLATE, DOOR}:
            wants |= IN_FIELD
        elif device.kind == "heater" and draws:
            least["va"] = draws.get("va") or 1000.0 * draws.get("kw", 0.0)
        owner, _, role = device.name.rpartition(".")
        yield CircuitDevice(
            id=device.name, kind=device.kind, location=location, title=device.title,
            poles=device.poles, colour=device.colour, contacts=None if is_selector else device.contacts,
            positions=device.contacts if is_selector else None, part=device.part, owner=owner or None,
            role=role if owner else None, wants=wants, least=least,
            draws=draws, wall=wall,
            settings={key: value for key, value in settings.items() if value is not None},
        )  # fmt: skip


_SIZED_BY_NEED = frozenset({"breaker", "fuse", "transformer", "psu", "motor", "motor-breaker", "overload"})
_IN_FIELD = frozenset({"heater", "fan", "light"})
"""Kinds that are a piece of the panel on plate or door, and a load of the customer's with its own cable anywhere else."""
_LOADS = _IN_FIELD | {"valve", "resistor", "load", "lamp", "beacon", "horn", "meter", "hmi", "network"}
"""Kinds of which kw, va or amps say what they draw, and not what a part must be good for."""


def _outlet_filters(devices: list[CircuitDevice]) -> list[CircuitDevice]:
    """Return the filter through which the air of each fan in the door or a wall leaves the panel again, of the latter in the other wall."""
    return [
        CircuitDevice(
            id=f"{fan.owner or fan.id}.OF", kind="outlet-filter", location=fan.location, owner=fan.owner, role="OF",
            title=f"Outlet filter, {fan.title or fan.id}", wall=_OPPOSITE.get(fan.wall, ""),
        )
        for fan in devices
        if fan.kind == "fan" and fan.blows
    ]  # fmt: skip


_OPPOSITE = {"left": "right", "right": "left"}


_EARTHED_IN_BOXES = frozenset({"hmi", "plc", "psu", "drive", "network"})
"""Kinds of devices in boxes that have an earth terminal."""


def _box_studs(job: Job, devices: list[CircuitDevice]) -> list[CircuitDevice]:
    """Return an earth stud for every metal box that holds devices: an exposed part, on which what has an earth of its own hangs too."""
    boxed = {d.location for d in devices if not stands_alone(d)} - {PLATE, DOOR}
    places = [place for name in sorted(boxed) if (place := job.location(name)) is not None]
    return [
        CircuitDevice(
            id=f"{p.name}.PE",
            kind="earth-stud",
            location=p.name,
            title=f"Earth stud, {p.title or p.name}",
            least={"rings": 1.0 + sum(d.location == p.name and d.kind in _EARTHED_IN_BOXES for d in devices)},
        )  # fmt: skip
        for p in places
        if p.box == "metal"
    ]
