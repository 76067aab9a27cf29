"""Owns the power circuit of each kind of starter. Must not know its control circuit."""

from collections.abc import Callable

from riktig.job.model import Starter
from riktig.job.roles import overload_role, protection_of, roles_of
from riktig.plan.basis.motor import trip_class_of
from riktig.plan.circuit.sketch import IN_FIELD, Sketch, series


def feed_lines(starter: Starter) -> tuple[str, str, str]:
    """Return the names of the three lines that feed a starter: of the main supply or of an extra one."""
    prefix = f"{starter.power}." if starter.power else ""
    return f"{prefix}L1", f"{prefix}L2", f"{prefix}L3"


def draw_power(starter: Starter, sketch: Sketch) -> None:
    """Add the power paths of a starter."""
    if starter.phases == 1:
        _draw_single_phase(starter, sketch)
    else:
        _DRAWERS.get(starter.kind, _draw_plain)(starter, sketch)


def _add(starter: Starter, sketch: Sketch, part: str, text: str) -> None:
    title = f"{starter.name} {starter.title}".strip()
    sketch.feed(f"{starter.name}/{part}", title, text, owner=starter.name)


def _isolator(starter: Starter) -> str:
    return f"{starter.name}.QM" if starter.isolator else ""


def _overload(starter: Starter, sketch: Sketch) -> str:
    """Return the overload relay as a path names it; a motor breaker is one itself."""
    return f"{starter.name}.F" if overload_role(starter, sketch.job) == "F" else ""


def _draw_plain(starter: Starter, sketch: Sketch) -> None:
    """Breaker, contactor, overload, motor: common practice."""
    name, lines = starter.name, " ".join(feed_lines(starter))
    text = series(lines, f"{name}.Q", f"{name}.K", _overload(starter, sketch), _isolator(starter), name)
    _add(starter, sketch, "power", text)


def _draw_reversing(starter: Starter, sketch: Sketch) -> None:
    """The second contactor exchanges two phases on its outgoing side; the overload sits behind the joining point."""
    name, lines = starter.name, " ".join(feed_lines(starter))
    both = f"({name}.K | {name}.KR[3 2 1])"
    _add(
        starter, sketch, "power", series(lines, f"{name}.Q", both, _overload(starter, sketch), _isolator(starter), name)
    )


def _draw_star_delta(starter: Starter, sketch: Sketch) -> None:
    """Main contactor and overload on the first ends; in delta U2 V2 W2 lie on the lines of W1 U1 V1.

    Source:
        IEC 60034-8 marks, from memory; the order of the delta: common practice.
    """
    name, lines = starter.name, " ".join(feed_lines(starter))
    bus = f"@{name}_L1 @{name}_L2 @{name}_L3"
    first = f"@{name}_U1 @{name}_V1 @{name}_W1"
    second = f"@{name}_V2 @{name}_W2 @{name}_U2"
    star = f"@{name}_star @{name}_star @{name}_star"
    _add(starter, sketch, "power", series(lines, f"{name}.Q", bus, f"{name}.K", _overload(starter, sketch), first))
    _add(starter, sketch, "delta", series(bus, f"{name}.KD", second))
    _add(starter, sketch, "star", series(second, f"{name}.KS", star))
    ends = {end: f"@{name}_{end}" for end in ("U1", "V1", "W1", "U2", "V2", "W2")}
    if starter.isolator:
        ahead, behind = " ".join(ends.values()), " ".join(f"{node}m" for node in ends.values())
        _add(starter, sketch, "isolator", series(ahead, f"{name}.QM", behind))
        ends = {end: f"{node}m" for end, node in ends.items()}
    for winding in "UVW":
        one, two = f"{winding}1", f"{winding}2"
        _add(starter, sketch, f"winding-{winding}", series(ends[one], f"{name}:{one}-{two}", ends[two]))


def _draw_drive(starter: Starter, sketch: Sketch) -> None:
    """No contactor and, for one motor, no overload relay behind a drive: common practice."""
    name, lines = starter.name, " ".join(feed_lines(starter))
    _add(starter, sketch, "power", series(lines, f"{name}.Q", f"{name}.A", _isolator(starter), name))


def _draw_soft(starter: Starter, sketch: Sketch) -> None:
    name, lines = starter.name, " ".join(feed_lines(starter))
    text = series(lines, f"{name}.Q", f"{name}.K", f"{name}.A", _isolator(starter), name)
    _add(starter, sketch, "power", text)


def _draw_single_phase(starter: Starter, sketch: Sketch) -> None:
    """One line through one pole, the other through two in series: common practice."""
    name, is_set = starter.name, overload_role(starter, sketch.job) == "Q"
    first, second_pole, third = "1/L1-2/T1", "3/L2-4/T2", "5/L3-6/T3"
    way_in = sketch.job.way_in(starter.power)
    prefix = f"{starter.power}." if starter.power else ""
    line, second = prefix + way_in.lines[0], prefix + way_in.live_pair[-1]
    back = line.replace("L1", "N") if sketch.job.way_in(starter.power).system in {"1ph+n", "3ph+n"} else second
    node = f"@{name}_U2"
    ends = (f"{name}.QM:1/L1-2/T1", f"{name}.QM:3/L2-4/T2") if starter.isolator else ("", "")
    trips = () if is_set else (f"{name}.F:{second_pole}", f"{name}.F:{third}")
    back_pole, line_pole = (f"{second_pole}", first) if is_set else ("3-4", "1-2")
    again = (f"{name}.Q:{third}",) if is_set else ()
    home = (back, f"{name}.Q:{back_pole}", *again, f"{name}.K:{second_pole}", *trips, ends[1], node)
    tail = () if is_set else (f"{name}.F:{first}",)
    there = (line, f"{name}.Q:{line_pole}", f"{name}.K:{first}", *tail, ends[0], f"{name}:U1-U2", node)
    _add(starter, sketch, "return", series(*home))
    _add(starter, sketch, "power", series(*there))


_DRAWERS: dict[str, Callable[[Starter, Sketch], None]] = {
    "reversing": _draw_reversing,
    "star-delta": _draw_star_delta,
    "drive": _draw_drive,
    "soft": _draw_soft,
}

_CONTACTORS = {"K": "Contactor", "KR": "Reverse contactor", "KS": "Star contactor", "KD": "Delta contactor"}


def _contactor_words(starter: Starter, role: str) -> str:
    """Return what a contactor is called whose way has a name of its own, or that a mechanical interlock locks; "" for any other."""
    if starter.kind != "reversing" or role not in {"K", "KR"} or not (starter.legends or starter.is_interlocked):
        return ""
    locked = " with mechanical interlock" if starter.is_interlocked else ""
    return f"{starter.ways[role == 'KR'].capitalize()} contactor{locked}"


def add_power_devices(starter: Starter, sketch: Sketch) -> None:
    """Add protection, contactors, overload, drive and local isolator; those that a starter's kind has."""
    name, what, roles = starter.name, starter.title or starter.name, roles_of(starter, sketch.job)
    poles = 3 if starter.phases == 3 else 2
    sketch.add(name, "Q", *_protection(starter, sketch, what), poles=poles)
    if starter.kind == "drive":
        sketch.add(name, "K", "relay", f"Run relay, {what}")
    for role, words in _CONTACTORS.items():
        if role in roles and not (role == "K" and starter.kind == "drive"):
            sketch.add(name, role, "contactor", f"{_contactor_words(starter, role) or words}, {what}")
        if role == "K" and starter.is_interlocked:
            sketch.add(name, "MI", "interlock", f"Mechanical interlock, {what}")
    if "F" in roles:
        wants = {"trip_class": trip_class_of(starter) or "30"}
        sketch.add(name, "F", "overload", f"Overload relay, {what}", wants=wants)
    if "A" in roles:
        kind, words = ("drive", "Drive") if starter.kind == "drive" else ("soft-starter", "Soft starter")
        sketch.add(name, "A", kind, f"{words}, {what}")
    if starter.isolator:
        ways = 6 if starter.kind == "star-delta" else poles
        sketch.add(name, "QM", "disconnect", f"Local isolator, {what}", at=starter.motor_at, poles=ways, wants=IN_FIELD)


def _protection(starter: Starter, sketch: Sketch, what: str) -> tuple[str, str]:
    """Return kind and title of what protects a starter."""
    chosen = protection_of(starter, sketch.job)
    if chosen == "motor-breaker":
        return "motor-breaker", f"Motor breaker, {what}"
    return "fuse" if chosen == "fuse" else "breaker", f"Protection, {what}"


def add_motor(starter: Starter, sketch: Sketch) -> None:
    """Add the motor with as many leads as its starter joins."""
    poles = 6 if starter.kind == "star-delta" else 3 if starter.phases == 3 else 2
    sketch.add(starter.name, "", "motor", starter.title or starter.name, at=starter.motor_at, poles=poles)
