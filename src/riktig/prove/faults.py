"""Owns what can be wrong in a panel by one slip of the hand, how it was built then, and how often that happens. Must not know tests."""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum

from riktig.catalogue.model import CONTACT_KINDS, ElementKind
from riktig.live.built import Built
from riktig.plan.circuit.zones import device_of, mark_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.prove.points import number_of


class Slip(StrEnum):
    """What a hand does wrong."""

    OPEN = "open"
    SWAPPED = "swapped"
    BESIDE = "beside"
    LIKE = "like"
    MISSING_BRIDGE = "missing bridge"
    EXTRA_BRIDGE = "extra bridge"
    TURNED = "turned"
    POSITION = "position"
    CROSSED = "crossed"
    DIAL = "dial"
    FAILED = "failed"


MARKS_LOOK = "look:marks"
"""The key of the step that looks at the numbers at all clamps."""
ODDS: Mapping[Slip, float] = {
    Slip.OPEN: 8.0, Slip.BESIDE: 5.0, Slip.SWAPPED: 4.0, Slip.LIKE: 2.0, Slip.TURNED: 3.0, Slip.POSITION: 2.0,
    Slip.MISSING_BRIDGE: 2.0, Slip.EXTRA_BRIDGE: 1.0, Slip.CROSSED: 4.0, Slip.DIAL: 10.0, Slip.FAILED: 3.0,
}  # fmt: skip
"""How often each happens against the others, at one place (common practice, no source); the shop's own record is added to it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """One slip: how the panel is built then, in words that lead there, and the terminals and devices at which to look.

    `built` is None where nothing electrical tells it: a dial that was not set, two ends exchanged about one contact, which works the same
    either way. `at` then has what is looked at: the device, or the step that looks at all of its sort.
    """

    key: str
    slip: Slip
    words: str
    built: Built | None
    at: tuple[str, ...]
    mend: str


def list_faults(plan: Plan) -> tuple[Fault, ...]:
    """Return every single fault of wiring that a hand may make in a panel; what changes nothing electrically is none."""
    return (*_of_wires(plan), *_bridges(plan), *_contacts(plan), *_dials(plan))


def _of_wires(plan: Plan) -> Iterator[Fault]:
    neighbours = _neighbours(plan)
    likes = _likes(plan)
    wires = [c for c in plan.conductors if c.is_wired]
    for wire in wires:
        yield _open(plan, wire)
        for end, other_end in ((wire.a, wire.b), (wire.b, wire.a)):
            for slip, found in ((Slip.BESIDE, neighbours.get(end, ())), (Slip.LIKE, likes.get(end, ()))):
                for wrong in found:
                    if number_of(plan, wrong) != wire.number:
                        yield _landed(plan, wire, end, other_end, wrong, slip)
    yield from _swaps(plan, wires, neighbours)


def _open(plan: Plan, wire: Conductor) -> Fault:
    a, b = plan.terminal_label(wire.a), plan.terminal_label(wire.b)
    return Fault(
        key=f"open {wire.id}", slip=Slip.OPEN, words=f"wire {wire.number} open or missing between {a} and {b}",
        built=Built(ends={wire.id: None}), at=(wire.a, wire.b), mend=f"land wire {wire.number} at {a} and {b}, and pull at it",
    )  # fmt: skip


def _landed(plan: Plan, wire: Conductor, end: str, other_end: str, wrong: str, slip: Slip) -> Fault:
    where, right, far = plan.terminal_label(wrong), plan.terminal_label(end), plan.terminal_label(other_end)
    return Fault(
        key=f"{slip.value} {wire.id} {end} {wrong}", slip=slip,
        words=f"wire {wire.number} from {far} landed at {where} in place of {right}",
        built=Built(ends={wire.id: (other_end, wrong)}), at=(end, wrong, other_end),
        mend=f"move wire {wire.number} from {where} to {right}",
    )  # fmt: skip


def _swaps(plan: Plan, wires: list[Conductor], neighbours: Mapping[str, tuple[str, ...]]) -> Iterator[Fault]:
    """Yield pairs of wires whose ends at two neighbouring terminals are exchanged; two that lie side by side at both ends are told once."""
    at: defaultdict[str, list[Conductor]] = defaultdict(list)
    for wire in wires:
        at[wire.a].append(wire)
        at[wire.b].append(wire)
    known: dict[frozenset[str], str] = {}
    for end, beside in neighbours.items():
        for other in (one for one in beside if one > end):
            for one in at.get(end, ()):
                for two in at.get(other, ()):
                    if one is two or one.number == two.number:
                        continue
                    pair = frozenset((one.id, two.id))
                    far = {w.b if w.a == e else w.a for w, e in ((one, end), (two, other))}
                    if known.get(pair) not in far:  # exchanged at both ends' neighbours comes to the same
                        known.setdefault(pair, end)
                        yield _swapped(plan, (one, end), (two, other))


def _swapped(plan: Plan, one: tuple[Conductor, str], two: tuple[Conductor, str]) -> Fault:
    (wire, end), (other, other_end) = one, two
    far, other_far = (w.b if w.a == e else w.a for w, e in (one, two))
    a, b, c, d = (plan.terminal_label(t) for t in (end, other_end, far, other_far))
    either = f", or {c} and {d}" if device_of(far) == device_of(other_far) else ""
    which, where = f"wires {wire.number} and {other.number}", f"{a} and {b}{either}"
    both = frozenset((wire.id, other.id))
    is_crossed = _is_about_contact(plan, end, other_end, both) or _is_about_contact(plan, far, other_far, both)
    return Fault(
        key=f"swapped {wire.id} {other.id} {end}", slip=Slip.CROSSED if is_crossed else Slip.SWAPPED, 
        words=f"{which} exchanged at {where}", mend=f"exchange {which} at {where}",
        built=None if is_crossed else Built(ends={wire.id: (far, other_end), other.id: (other_far, end)}),
        at=(MARKS_LOOK,) if is_crossed else (end, other_end, far, other_far),
    )  # fmt: skip


def _is_about_contact(plan: Plan, a: str, b: str, without: frozenset[str]) -> bool:
    """Return whether all that hangs at two terminals, without some conductors, is the two sides of the same contacts: these work the same
    either way, so that what comes to the one side may as well come to the other.
    """
    one, other = _hanging(plan, a, without), _hanging(plan, b, without)
    across = {end: far for side in (one, other) for end in side for far in _across(plan, end)}
    return bool(one) and {across.get(end) for end in one} == other and {across.get(end) for end in other} == one


def _hanging(plan: Plan, end: str, without: frozenset[str]) -> set[str]:
    """Return the terminals of devices that conductors join with a terminal, and itself; clamps of strips are none."""
    seen, waiting = {end}, [end]
    for here in waiting:
        for conductor in plan.conductors_at.get(here, ()):
            far = conductor.b if conductor.a == here else conductor.a
            if conductor.id not in without and far not in seen:
                seen.add(far)
                waiting.append(far)
    return {one for one in seen if device_of(one) in plan.parts}


def _across(plan: Plan, end: str) -> tuple[str, ...]:
    """Return the terminal at the other side of a contact."""
    device, mark = device_of(end), mark_of(end)
    pairs = (e.marks for e in plan.parts[device].elements if e.kind in CONTACT_KINDS and len(e.marks) == 2)
    return tuple(f"{device}:{one if two == mark else two}" for one, two in pairs if mark in (one, two))


def _neighbours(plan: Plan) -> dict[str, tuple[str, ...]]:
    """Return terminal -> those right beside it where a wire may land by mistake: the next clamps of its strip or bar, the marks before and
    behind its own on its side of its device.
    """
    rows: list[list[str]] = []
    strips: defaultdict[tuple[str, int], list[str]] = defaultdict(list)
    for clamp in plan.clamps:
        strips[clamp.strip, clamp.part].append(clamp.id)
    rows += strips.values()
    landed = {end for c in plan.conductors for end in (c.a, c.b)}
    for device in plan.circuit.devices:
        sides: defaultdict[object, list[tuple[float, str]]] = defaultdict(list)
        for spec in plan.parts[device.id].terminals:
            sides[spec.side].append((spec.x_share, f"{device.id}:{spec.mark}"))
        rows += [[end for _, end in sorted(side)] for side in sides.values()]
    found: defaultdict[str, list[str]] = defaultdict(list)
    for row in rows:
        for one, other in zip(row, row[1:], strict=False):
            if one in landed or other in landed:
                found[one].append(other)
                found[other].append(one)
    return {end: tuple(others) for end, others in found.items()}


def _likes(plan: Plan) -> dict[str, tuple[str, ...]]:
    """Return terminal -> the same mark of the next device of its kind in its place."""
    rows: defaultdict[tuple[str, str], list[str]] = defaultdict(list)
    for device in plan.circuit.devices:
        rows[device.kind, device.location].append(device.id)
    found: defaultdict[str, list[str]] = defaultdict(list)
    for row in rows.values():
        for one, other in zip(row, row[1:], strict=False):
            marks = {spec.mark for spec in plan.parts[other].terminals}
            for spec in plan.parts[one].terminals:
                if spec.mark in marks:
                    found[f"{one}:{spec.mark}"].append(f"{other}:{spec.mark}")
                    found[f"{other}:{spec.mark}"].append(f"{one}:{spec.mark}")
    return {end: tuple(others) for end, others in found.items()}


def _bridges(plan: Plan) -> Iterator[Fault]:
    """Yield bridges and combs that are missing, and bridges between neighbours on a strip that should not be there."""
    for join in (c for c in plan.conductors if c.kind in {"bridge", "comb"}):
        a, b = plan.terminal_label(join.a), plan.terminal_label(join.b)
        yield Fault(
            key=f"missing {join.id}", slip=Slip.MISSING_BRIDGE, words=f"no {join.kind} between {a} and {b}",
            built=Built(ends={join.id: None}), at=(join.a, join.b), mend=f"put the {join.kind} in between {a} and {b}",
        )  # fmt: skip
    strips: defaultdict[tuple[str, int], list[str]] = defaultdict(list)
    for clamp in plan.clamps:
        if clamp.number:
            strips[clamp.strip, clamp.part].append(clamp.id)
    for row in strips.values():
        for one, other in zip(row, row[1:], strict=False):
            if number_of(plan, one) != number_of(plan, other):
                a, b = plan.terminal_label(one), plan.terminal_label(other)
                yield Fault(
                    key=f"extra {one} {other}", slip=Slip.EXTRA_BRIDGE, words=f"a bridge between {a} and {b} that should not be there",
                    built=Built(extra=((one, other),)), at=(one, other), mend=f"take the bridge between {a} and {b} out",
                )  # fmt: skip


_BLOCKS = frozenset({"pushbutton", "emergency-stop", "limit-switch", "contactor"})
"""Devices whose contacts come as blocks that can be the wrong ones."""


def _contacts(plan: Plan) -> Iterator[Fault]:
    used = {end for p in plan.potentials for end in p.net.terminals}
    for device in plan.circuit.devices:
        elements = [e for e in plan.parts[device.id].elements if e.kind in CONTACT_KINDS and len(e.marks) == 2]
        wired = [e for e in elements if f"{device.id}:{e.marks[0]}" in used and f"{device.id}:{e.marks[1]}" in used]
        for element in wired if device.kind in _BLOCKS else ():
            a, b = (f"{device.id}:{mark}" for mark in element.marks)
            right, wrong = ("break", "make") if element.kind is ElementKind.NC else ("make", "break")
            yield Fault(
                key=f"turned {a} {b}", slip=Slip.TURNED, words=f"{plan.tags[device.id]}: {wrong} in place of {right} at {element.name}",
                built=Built(turned=frozenset({(a, b)})), at=(a, b), mend=f"exchange the block of {plan.tags[device.id]} at {element.name}",
            )  # fmt: skip
        if device.kind == "selector":
            yield from _positions(plan, device.id, [e.marks for e in wired])


def _positions(plan: Plan, device: str, pairs: list[tuple[str, ...]]) -> Iterator[Fault]:
    """Yield the elements of a selector that are clipped in each other's place: what is wired to the one lies at the other."""
    for (a, b), (c, d) in zip(pairs, pairs[1:], strict=False):
        ends = {f"{device}:{x}": f"{device}:{y}" for x, y in ((a, c), (b, d), (c, a), (d, b))}
        wires = [w for w in plan.conductors if not ends.keys().isdisjoint((w.a, w.b))]
        built = Built(ends={w.id: (ends.get(w.a, w.a), ends.get(w.b, w.b)) for w in wires})
        yield Fault(
            key=f"position {device} {a} {c}", slip=Slip.POSITION, 
            words=f"{plan.tags[device]}: elements {a}-{b} and {c}-{d} in each other's place",
            built=built, at=tuple(ends), mend=f"exchange the elements {a}-{b} and {c}-{d} of {plan.tags[device]}",
        )  # fmt: skip


def _dials(plan: Plan) -> Iterator[Fault]:
    for device in plan.circuit.devices:
        if plan.setting_of(device.id) is not None or (device.kind == "timer" and "seconds" in device.settings):
            yield Fault(
                key=f"dial {device.id}", slip=Slip.DIAL, words=f"{plan.tags[device.id]}: dial not set", built=None, at=(device.id,),
                mend=f"set the dial of {plan.tags[device.id]}",
            )  # fmt: skip
