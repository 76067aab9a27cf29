"""Owns what can be fed, and through what, whatever positions contacts take: the questions that an inspector asks of a circuit's shape.

Must not know volts, time or rules. A *link* lets current pass inside a device: a contact, a pole, what is always through, a supply. Nodes
are potentials; those that belong to a way in or a control supply are the *hub* of the local questions: between it and a coil lies what that
coil hangs on, and nothing else.
"""

from collections import deque
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import Enum, auto
from functools import cached_property, partial

from riktig.catalogue.model import CHANGEOVERS, Element, ElementKind, Part
from riktig.plan.answers.blocks import Ways, ways_to_root
from riktig.plan.circuit.uses import Use, ends_of
from riktig.plan.plan import Plan

HUB = 0


class Sort(Enum):
    """What a link does."""

    MAKE = auto()
    BREAK = auto()
    POLE = auto()
    PASS = auto()
    CONVERTER = auto()
    OUTPUT = auto()


_SORTS = {
    **dict.fromkeys((ElementKind.NO, ElementKind.TIMED_NO, ElementKind.AUX_NO, ElementKind.ALARM_NO), Sort.MAKE),
    **dict.fromkeys((ElementKind.NC, ElementKind.TIMED_NC, ElementKind.AUX_NC, ElementKind.ALARM_NC), Sort.BREAK),
    ElementKind.POLE: Sort.POLE, ElementKind.THROUGH: Sort.PASS, ElementKind.CONVERTER: Sort.CONVERTER,
    ElementKind.OUTPUT: Sort.OUTPUT,
}  # fmt: skip
_SORTS_OF_WORDS = {kind.value: sort for kind, sort in _SORTS.items()}
COILED = frozenset({"relay", "contactor", "timer", "thermistor-relay", "safety-relay"})
"""Kinds of devices whose contacts and poles follow a coil."""
CONSUMING = frozenset({ElementKind.COIL, ElementKind.LAMP, ElementKind.SOUNDER, ElementKind.LOAD})


@dataclass(frozen=True, slots=True, eq=False)
class Link:
    """Where current can pass in a device: its sort, its two terminals and their nodes."""

    device: str
    sort: Sort
    ends: tuple[str, str]
    nodes: tuple[int, int]

    def other(self, node: int) -> int:
        """Return the node on the other side."""
        return self.nodes[0] if self.nodes[1] == node else self.nodes[1]


Closable = Callable[[Link], bool]


@dataclass(frozen=True, slots=True, kw_only=True)
class Settled:
    """Relays that are in, and the nodes that come to a way in."""

    on: frozenset[str]
    nodes: frozenset[int]


class Feeding:
    """A panel as links between potentials."""

    def __init__(self, plan: Plan) -> None:
        self._parts = plan.parts
        self._node_of: dict[str, int] = {}
        self._count = HUB
        hub_names = {f"{control.name}{sign}" for control in plan.job.controls for sign in "+-"}
        self._hubs: set[int] = set()
        self._wired: set[int] = set()
        self.poles: set[int] = set()
        """The nodes at which lines and neutrals of ways in arrive."""
        for potential in plan.potentials:
            node = self._new()
            for terminal in potential.net.terminals:
                self._node_of[terminal] = node
            if len(potential.net.terminals) > 1:
                self._wired.add(node)
            names = {name for name in potential.net.names if not name.startswith("@")}
            arrives = any(_arrives(name, plan) for name in names)
            if arrives:
                self.poles.add(node)
            if arrives or names & hub_names or any(_is_mains(name) for name in names):
                self._hubs.add(node)
        self.links: list[Link] = []
        self._ways: dict[int, tuple[Link, ...]] = {}
        self.supplies: list[tuple[str, tuple[int, ...], tuple[int, ...]]] = []
        """Transformers and DC supplies: device, nodes of the primary, nodes of the secondary."""
        self.at: dict[int, list[Link]] = {}
        self.of_device: dict[str, list[Link]] = {}
        for device in plan.circuit.devices:
            self._put(device.id, plan.parts[device.id])
        for use in plan.short_uses:
            self._put_missing(use, plan.parts[use.device])
        for link in self.links:
            self.of_device.setdefault(link.device, []).append(link)
            for node in set(link.nodes):
                self.at.setdefault(node, []).append(link)

    def _new(self) -> int:
        self._count += 1
        return self._count

    def node(self, terminal: str) -> int:
        """Return the node of a terminal; one that is not wired has one for itself."""
        if terminal not in self._node_of:
            self._node_of[terminal] = self._new()
        return self._node_of[terminal]

    def _put(self, device: str, part: Part) -> None:
        wound: dict[ElementKind, tuple[int, ...]] = {}
        for element in part.elements:
            terminals = tuple(f"{device}:{mark}" for mark in element.marks)
            for sort, a, b in _links_of(element, terminals):
                self.links.append(Link(device, sort, (a, b), (self.node(a), self.node(b))))
            if element.kind in {ElementKind.PRIMARY, ElementKind.SECONDARY}:
                wound[element.kind] = tuple(self.node(terminal) for terminal in terminals)
            if element.kind is ElementKind.SOURCE:
                self.poles |= {self.node(terminal) for terminal in terminals}
        if len(wound) == 2:
            self.supplies.append((device, wound[ElementKind.PRIMARY], wound[ElementKind.SECONDARY]))

    def _put_missing(self, use: Use, part: Part) -> None:
        """Put in a contact that the part lacks as if it had it: what the circuit does must not hang on which part is chosen."""
        left, right = ends_of(use, part, None)
        sort = _SORTS_OF_WORDS.get(use.ref.what or "", Sort.MAKE)
        if use.wants_contact and len(left) == len(right) == 1:
            ends = (f"{use.device}:{left[0]}", f"{use.device}:{right[0]}")
            self.links.append(Link(use.device, sort, ends, (self.node(ends[0]), self.node(ends[1]))))

    # -- what hangs on what

    @cached_property
    def _to_hub(self) -> Ways:
        return ways_to_root([self._folded(link) for link in self.links], HUB)

    def _folded(self, link: Link) -> tuple[int, int]:
        """Return the nodes of a link, all hubs being one."""
        a, b = link.nodes
        return (HUB if a in self._hubs else a), (HUB if b in self._hubs else b)

    def ends_of(self, device: str, kinds: Iterable[ElementKind] = CONSUMING) -> tuple[tuple[int, int], ...]:
        """Return the pairs of nodes between which the elements of some kinds of a device are fed."""
        wanted = frozenset(kinds)
        return tuple(
            (self.node(f"{device}:{element.marks[0]}"), self.node(f"{device}:{element.marks[-1]}"))
            for element in self._parts[device].elements
            if element.kind in wanted and len(element.marks) >= 2
        )

    def hangs_on(self, node: int) -> tuple[Link, ...]:
        """Return the links that lie on any way from a node to the hub that passes nothing twice."""
        if node not in self._ways:
            self._ways[node] = () if node in self._hubs else tuple(self.links[n] for n in self._to_hub.of(node))
        return self._ways[node]

    def links_of(self, device: str) -> tuple[Link, ...]:
        """Return the links that lie on any way from a coil, lamp or load to its supply."""
        return tuple(
            dict.fromkeys(link for ends in self.ends_of(device) for node in ends for link in self.hangs_on(node))
        )

    def reaches_hub(self, node: int, closable: Closable) -> bool:
        """Return whether a node can come to the hub through links that can close."""
        if node in self._hubs:
            return True
        own: dict[int, list[int]] = {}
        for link in self.hangs_on(node):
            if closable(link):
                a, b = self._folded(link)
                own.setdefault(a, []).append(b)
                own.setdefault(b, []).append(a)
        front, seen = [node], {node}
        for here in front:
            for other in own.get(here, ()):
                if other not in seen:
                    seen.add(other)
                    front.append(other)
        return HUB in seen

    def can_feed(self, device: str, closable: Closable) -> bool:
        """Return whether a coil, lamp or load can be fed from its supply through links that can close."""
        return any(all(self.reaches_hub(node, closable) for node in ends) for ends in self.ends_of(device))

    def can_hold(self, device: str, closable: Closable) -> bool:
        """Return whether a coil can stay fed, the relays on whose make contacts it hangs being in only where theirs can; a soft starter's
        own contact holds its line contactor through a ramp, and counts as a relay that its command lets in.
        """
        asked, front = {device}, [device]
        for one in front:
            more = {
                link.device for link in self._asked_of(one) if link.sort is Sort.MAKE and self._follows(link.device)
            } - asked
            asked |= more
            front.extend(more)
        out: set[str] = set()
        while True:
            stays = partial(_stays, closable, frozenset(out))
            dropped = {one for one in asked - out if not self._is_let_in(one, stays)}
            if not dropped:
                return device not in out
            out |= dropped

    def _follows(self, device: str) -> bool:
        return device in self.coiled or self._parts[device].kind == "soft-starter"

    def _is_let_in(self, device: str, closable: Closable) -> bool:
        return self.can_feed(device, closable) if device in self.coiled else self._is_commanded(device, closable)

    def _asked_of(self, device: str) -> Iterable[Link]:
        """Return the links on which a coil hangs, or by which a command comes to a soft starter."""
        if device in self.coiled:
            return self.links_of(device)
        front = [channel for _, channel in self.ends_of(device, {ElementKind.INPUT})]
        found: dict[Link, None] = {}
        seen = set(front)
        for node in front:
            for link in self.at.get(node, ()):
                found[link] = None
                other = link.other(node)
                if other not in seen and other not in self._hubs:
                    seen.add(other)
                    front.append(other)
        return found

    # -- the whole panel

    def reached(self, closable: Closable) -> frozenset[int]:
        """Return the nodes that come to a way in through links that can close; a supply feeds on where both ends of its primary do."""
        seen = set(self.poles)
        front = list(seen)
        waiting = list(self.supplies)
        while True:
            for here in front:
                for link in self.at.get(here, ()):
                    other = link.other(here)
                    if other not in seen and closable(link):
                        seen.add(other)
                        front.append(other)
            fed = [supply for supply in waiting if all(node in seen for node in supply[1])]
            waiting = [supply for supply in waiting if supply not in fed]
            front = [node for supply in fed for node in supply[2] if node not in seen]
            seen.update(front)
            if not front:
                return frozenset(seen)

    def settled(self, may_close: Closable, on: Iterable[str], *, grows: bool) -> "Settled":
        """Return which relays can be in and what is reached then; contacts that follow no coil close as they may.

        Args:
            may_close: asked of each link; make contacts and poles of a relay that is out do not close whatever it says.
            on: the relays that are in at first.
            grows: from those on, what they let in comes in too, and a drive or soft starter turns its motor once it is told to; otherwise
                what nothing feeds any more drops, and one that is enabled may turn it whatever it is told.
        """
        relays = frozenset(on)
        while True:
            nodes = self.reached(partial(self._closes, may_close, relays))
            fed = frozenset(name for name in self.coiled if self._is_fed(name, nodes))
            before, relays = relays, relays | fed if grows else relays & fed
            if relays == before:
                break
        closable = partial(self._closes, may_close, relays)
        running = frozenset(
            name for name in self._converters
            if self._is_enabled(name, closable) and (not grows or self._is_commanded(name, closable))
        )  # fmt: skip
        nodes = self.reached(lambda link: closable(link) if link.sort is not Sort.CONVERTER else link.device in running)
        return Settled(on=relays, nodes=nodes)

    def _closes(self, may_close: Closable, on: frozenset[str], link: Link) -> bool:
        if link.sort is Sort.CONVERTER:
            return False
        if link.device in self.coiled and link.sort in {Sort.MAKE, Sort.POLE} and link.device not in on:
            return False
        return may_close(link)

    @cached_property
    def _converters(self) -> frozenset[str]:
        return frozenset(link.device for link in self.links if link.sort is Sort.CONVERTER)

    def _is_enabled(self, device: str, closable: Closable) -> bool:
        """Return whether nothing that is wired to its enabling inputs keeps a drive still; one without such inputs is never still."""
        ends = [pair for pair in self.ends_of(device, {ElementKind.ENABLE}) if pair[1] in self._wired]
        return all(self._joins(source, channel, closable) for source, channel in ends)

    def _is_commanded(self, device: str, closable: Closable) -> bool:
        """Return whether a command to run comes to an input that is wired."""
        ends = [pair for pair in self.ends_of(device, {ElementKind.INPUT}) if pair[1] in self._wired]
        return any(self._joins(source, channel, closable) for source, channel in ends)

    def _joins(self, a: int, b: int, closable: Closable) -> bool:
        front, seen = [b], {b}
        for here in front:
            if here == a:
                return True
            for link in self.at.get(here, ()):
                other = link.other(here)
                if other not in seen and closable(link):
                    seen.add(other)
                    front.append(other)
        return a in seen or bool(seen & self.poles)

    def turns(self, motor: str, settled: "Settled") -> bool:
        """Return whether a motor has volts then: two of its leads come to a way in."""
        part = self._parts[motor]
        leads = {
            self.node(f"{motor}:{mark}") for e in part.elements if e.kind is ElementKind.WINDING for mark in e.marks
        }
        return len(leads & settled.nodes) >= 2

    def _is_fed(self, device: str, nodes: frozenset[int]) -> bool:
        return any(a in nodes and b in nodes and a != b for a, b in self.ends_of(device, {ElementKind.COIL}))

    @cached_property
    def coiled(self) -> frozenset[str]:
        """The devices whose contacts follow a coil."""
        wound = (name for name, part in self._parts.items() if part.kind in COILED)
        return frozenset(name for name in wound if self.ends_of(name, {ElementKind.COIL}))


_kept: deque[tuple[tuple[object, ...], Feeding]] = deque(maxlen=2)


def feeding_of(plan: Plan) -> Feeding:
    """Return a panel as links, the very one as before while its circuit and parts are."""
    key = (plan.circuit, plan.parts, plan.potentials, plan.job.controls)
    for known, made in _kept:
        if all(a is b for a, b in zip(key, known, strict=True)):
            return made
    made = Feeding(plan)
    _kept.appendleft((key, made))
    return made


def _stays(closable: Closable, out: frozenset[str], link: Link) -> bool:
    return closable(link) and not (link.sort is Sort.MAKE and link.device in out)


def _links_of(element: Element, terminals: tuple[str, ...]) -> Iterable[tuple[Sort, str, str]]:
    if element.kind in CHANGEOVERS and len(terminals) == 3:
        return ((Sort.BREAK, terminals[0], terminals[1]), (Sort.MAKE, terminals[0], terminals[2]))
    sort = _SORTS.get(element.kind)
    return () if sort is None or len(terminals) < 2 else ((sort, terminals[0], terminals[1]),)


def _is_mains(name: str) -> bool:
    return name.rpartition(".")[2] in {"L1", "L2", "L3", "N"}


def _arrives(name: str, plan: Plan) -> bool:
    """Return whether a potential of this name is where a way in arrives: ahead of its switch where there is one."""
    head, _, line = name.rpartition(".")
    if line not in {"L1", "L2", "L3", "N"}:
        return False
    return head == "in" or head.startswith("in.") or (not head and "Q0" not in plan.parts)
