"""A small relay simulation over the netlist of a Plan, for tests: it shares nothing with the expansion of starters.

It knows parts (elements and their marks), potentials and what each mention of a contact got. A potential is live from
a pole of a source when closed contacts join them; a coil is in when its ends lie on two poles of one live source.
"""

from collections import defaultdict
from dataclasses import dataclass, field

from riktig.catalogue.model import ElementKind as E
from riktig.plan.plan import Plan

MAKES, BREAKS = {E.NO, E.TIMED_NO, E.AUX_NO, E.ALARM_NO}, {E.NC, E.TIMED_NC, E.AUX_NC, E.ALARM_NC}
OPERATED = {"pushbutton", "emergency-stop", "float", "limit-switch", "thermostat", "switch", "surge"}
"""What a person, a level or a temperature moves; a surge arrester is moved when it is spent."""
PROTECTING = {"breaker", "fuse", "motor-breaker", "rcd", "disconnect"}
CONTACTS = MAKES | BREAKS | {E.CO, E.TIMED_CO}


class Groups:
    """Union-find over the numbers of potentials."""

    def __init__(self) -> None:
        self.parent: dict[str, str] = {}

    def find(self, item: str) -> str:
        while self.parent.setdefault(item, item) != item:
            item = self.parent[item]
        return item

    def join(self, a: str, b: str) -> None:
        self.parent[self.find(a)] = self.find(b)


@dataclass
class Panel:
    """A panel that can be operated: everything at rest, breakers and switches closed, phases right."""

    plan: Plan
    pressed: set[str] = field(default_factory=set)
    turned: dict[str, str] = field(default_factory=dict)
    opened: set[str] = field(default_factory=set)
    tripped: set[str] = field(default_factory=set)
    hot: set[str] = field(default_factory=set)
    commands: set[tuple[str, str]] = field(default_factory=set)
    dead: set[str] = field(default_factory=set)
    on: set[str] = field(default_factory=set)
    elapsed: set[str] = field(default_factory=set)
    ramping: set[str] = field(default_factory=set)
    changed: set[str] = field(default_factory=set)

    def __post_init__(self) -> None:
        self.net = {t: p.number for p in self.plan.potentials for t in p.net.terminals}
        self.kinds = {d.id: d.kind for d in self.plan.circuit.devices}
        self.positions = {
            (u.device, self.plan.contacts[u.key]): u.position
            for u in self.plan.uses
            if u.position is not None and u.key in self.plan.contacts
        }
        self.settle()

    # -- what is joined

    def _closed(self, device: str, kind: E, marks: tuple[str, ...]) -> list[tuple[str, str]]:
        """Return the pairs of marks that an element joins now."""
        what, is_on = self.kinds[device], self._acts(device)
        if kind is E.POLE:
            if what in {"contactor", "relay"}:
                return [marks[:2]] if is_on else []
            is_open = device in self.opened or (what == "motor-breaker" and device in self.tripped)
            return [] if is_open else [marks[:2]]
        if kind is E.THROUGH:
            return [marks[:2]]
        if kind is E.OUTPUT:
            return [marks] if (device, marks[1]) in self.commands else []
        if kind in {E.TIMED_NO, E.TIMED_NC, E.TIMED_CO}:
            is_on = device in self.elapsed
        if marks[0] in {"95", "97", "105", "107"}:
            is_on = device in self.tripped
        elif kind is E.AUX_NO or kind is E.AUX_NC:
            is_on = device not in self.opened and device not in self.tripped
        if (device, "-".join(marks[:2])) in self.positions:
            is_on = self.turned.get(device) == self.positions[(device, "-".join(marks[:2]))]
        if kind in {E.CO, E.TIMED_CO}:
            return [(marks[0], marks[2] if is_on else marks[1])]
        return [marks[:2]] if (kind in MAKES and is_on) or (kind in BREAKS and not is_on) else []

    def _acts(self, device: str) -> bool:
        what = self.kinds[device]
        if what in OPERATED:
            return device in self.pressed
        if what == "soft-starter":
            return device in self.on or device in self.ramping
        if self._alternates(device):
            return device in self.changed
        return device in self.on and device not in self.hot

    def _alternates(self, device: str) -> bool:
        return self.plan.parts[device].traits.get("action") == "alternating"

    def joined(self) -> Groups:
        """Return which potentials closed contacts make one now."""
        groups = Groups()
        for device, part in self.plan.parts.items():
            for element in part.elements:
                if element.kind is E.THROUGH and part.kind == "link":
                    continue
                if element.kind in CONTACTS | {E.POLE, E.THROUGH, E.OUTPUT}:
                    for a, b in self._closed(device, element.kind, element.marks):
                        if f"{device}:{a}" in self.net and f"{device}:{b}" in self.net:
                            groups.join(self.net[f"{device}:{a}"], self.net[f"{device}:{b}"])
        return groups

    # -- what is live

    def live(self, groups: Groups | None = None) -> dict[str, set[tuple[str, str]]]:
        """Return for each potential the poles (source, pole) that reach it."""
        groups = groups or self.joined()
        poles: dict[str, set[tuple[str, str]]] = defaultdict(set)
        for p in self.plan.potentials:
            for name in p.net.names:
                head, _, line = name.rpartition(".")
                is_way_in = head == "in" or head.startswith("in.") or self._comes_in(name)
                if is_way_in and line in {"L1", "L2", "L3", "N"} and name not in self.dead:
                    poles[groups.find(p.number)].add((head.removeprefix("in").strip(".") or "mains", line))
        for device, part in self.plan.parts.items():
            for element in part.elements:
                if element.kind is E.SOURCE and part.kind == "source":
                    for mark in element.marks:
                        poles[groups.find(self.net[f"{device}:{mark}"])].add((device, mark))
        for _ in range(3):
            for device, part in self.plan.parts.items():
                second = next((e for e in part.elements if e.kind is E.SECONDARY), None)
                if second is not None and self.has_volts(device, E.PRIMARY, groups, poles):
                    for mark in second.marks:
                        if f"{device}:{mark}" in self.net:
                            poles[groups.find(self.net[f"{device}:{mark}"])].add((device, mark))
        return {p.number: poles[groups.find(p.number)] for p in self.plan.potentials}

    def _comes_in(self, name: str) -> bool:
        head = name.rpartition(".")[0]
        return any(
            x.name == head and (x.isolated == "elsewhere" or name.endswith("N")) for x in self.plan.job.extra_supplies
        )

    def has_volts(self, device: str, kind: E, groups: Groups, poles: dict[str, set[tuple[str, str]]]) -> bool:
        for element in self.plan.parts[device].elements:
            ends = [f"{device}:{mark}" for mark in element.marks]
            if element.kind is kind and all(end in self.net for end in ends):
                reached = [poles[groups.find(self.net[end])] for end in ends]
                if all(reached) and len({frozenset(r) for r in reached}) == len(reached):
                    sources = [{source for source, _ in r} for r in reached]
                    if set.intersection(*sources):
                        return True
        return False

    def _energised(self) -> set[str]:
        groups = self.joined()
        live = self.live(groups)
        poles: dict[str, set[tuple[str, str]]] = defaultdict(set)
        for number, reached in live.items():
            poles[groups.find(number)] |= reached
        found = set()
        for device, what in self.kinds.items():
            if what == "soft-starter":
                is_fed = self.has_volts(device, E.COIL, groups, poles) and self._input(device, "ON", groups)
                if is_fed and device not in self.tripped:
                    found.add(device)
            elif what == "drive":
                if (
                    all(self._input(device, mark, groups) for mark in ("DI1", "STO1", "STO2"))
                    and device not in self.tripped
                ):
                    found.add(device)
            elif any(self.has_volts(device, kind, groups, poles) for kind in (E.COIL, E.LAMP, E.SOUNDER, E.LOAD)):
                found.add(device)
        return found

    def _powered(self) -> set[str]:
        """Return the soft starters whose own supply is there: without it their contacts drop."""
        groups = self.joined()
        poles: dict[str, set[tuple[str, str]]] = defaultdict(set)
        for number, reached in self.live(groups).items():
            poles[groups.find(number)] |= reached
        return {d for d in self.kinds if self.kinds[d] == "soft-starter" and self.has_volts(d, E.COIL, groups, poles)}

    def _input(self, device: str, mark: str, groups: Groups) -> bool:
        part = self.plan.parts[device]
        element = next(e for e in part.elements if e.kind in {E.INPUT, E.ENABLE} and mark in e.marks)
        ends = [f"{device}:{m}" for m in element.marks]
        return all(end in self.net for end in ends) and groups.find(self.net[ends[0]]) == groups.find(self.net[ends[1]])

    # -- time

    def settle(self) -> "Panel":
        """Let relays move until nothing changes; on-delays have not run out, off-delays still hold."""
        for turn in range(120):
            now = self._energised()
            if turn > 20:  # a race between two relays: the first one wins
                now = (now & self.on) | set(sorted(now - self.on)[:1])
            delays = {d for d in self.kinds if self.kinds[d] == "timer"}
            off = {d for d in delays if self.plan.parts[d].traits["function"] == "off-delay"}
            elapsed = {d for d in self.elapsed if d in now or d in off} | (off & now)
            still = self.ramping & self._powered() if self.ramping else set()
            ramping = {
                d
                for d in self.kinds
                if self.kinds[d] == "soft-starter" and d not in self.tripped and (d in now or d in still)
            }
            if (now, elapsed, ramping) == (self.on, self.elapsed, self.ramping):
                return self
            self.changed ^= {d for d in self.on - now if self._alternates(d)}
            self.on, self.elapsed, self.ramping = now, elapsed, ramping
        raise AssertionError("the relays never come to rest")

    def wait(self) -> "Panel":
        """Let every delay and ramp run out."""
        for device in [d for d in self.kinds if self.kinds[d] == "timer"]:
            is_off_delay = self.plan.parts[device].traits["function"] == "off-delay"
            if device in self.on:
                self.elapsed.add(device)
            elif is_off_delay:
                self.elapsed.discard(device)
        self.ramping = {d for d in self.ramping if d in self.on}
        return self.settle()

    # -- what a person does

    def push(self, *devices: str) -> "Panel":
        """Press and release."""
        for device in devices:
            self.pressed.add(device)
            self.settle()
            self.pressed.discard(device)
            self.settle()
        return self

    def hold(self, *devices: str) -> "Panel":
        self.pressed.update(devices)
        return self.settle()

    def release(self, *devices: str) -> "Panel":
        self.pressed.difference_update(devices)
        return self.settle()

    def turn(self, device: str, position: str | None) -> "Panel":
        self.turned.pop(device, None)
        if position is not None:
            self.turned[device] = position
        return self.settle()

    def trip(self, *devices: str) -> "Panel":
        self.tripped.update(devices)
        return self.settle()

    def reset(self, *devices: str) -> "Panel":
        self.tripped.difference_update(devices)
        return self.settle()

    def switch_off(self, *devices: str) -> "Panel":
        self.opened.update(devices)
        return self.settle()

    def switch_on(self, *devices: str) -> "Panel":
        self.opened.difference_update(devices)
        return self.settle()

    def command(self, controller: str, *marks: str) -> "Panel":
        self.commands = {(controller, mark) for mark in marks}
        return self.settle()


def all_closed(
    plan: Plan, *, nc_open_of: frozenset[str] = frozenset()
) -> tuple[Groups, dict[str, str], dict[str, str]]:
    """Return potentials joined by every contact, and the number of each terminal and of each name."""
    groups = Groups()
    net = {t: p.number for p in plan.potentials for t in p.net.terminals}
    for device, part in plan.parts.items():
        for element in part.elements:
            is_break = element.kind in BREAKS or element.kind is E.CO
            if element.kind in CONTACTS and not (is_break and device in nc_open_of):
                for mark in element.marks[1:]:
                    ends = (f"{device}:{element.marks[0]}", f"{device}:{mark}")
                    if all(end in net for end in ends):
                        groups.join(net[ends[0]], net[ends[1]])
    return groups, net, {name: p.number for p in plan.potentials for name in p.net.names}


def shorted(plan: Plan) -> set[str]:
    """Return the control supplies whose live is one with their return when every contact is closed."""
    groups, _, named = all_closed(plan)
    return {c.name for c in plan.job.controls if groups.find(named[f"{c.name}+"]) == groups.find(named[f"{c.name}-"])}


def can_be_fed(plan: Plan, coil_of: str, plus: str, *, nc_open_of: set[str]) -> bool:
    """Return whether a coil reaches its supply with every contact closed but the break contacts of some devices."""
    groups, net, named = all_closed(plan, nc_open_of=frozenset(nc_open_of))
    return groups.find(net[f"{coil_of}:A1"]) == groups.find(named[plus])
