"""Owns a panel as links between potentials: where current can pass inside devices. Must not know what passes, nor rules.

A *link* lets current pass inside a device: a contact, a pole, what is always through, a supply. Nodes are potentials; those of a way
in or a control supply are *hubs*.
"""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from enum import Enum, auto

from riktig.catalogue.model import CHANGEOVERS, Element, ElementKind, Part
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


class Links:
    """All links of a panel."""

    def __init__(self, plan: Plan) -> None:
        self._parts = plan.parts
        self._node_of: dict[str, int] = {}
        self._count = HUB
        hub_names = {f"{control.name}{sign}" for control in plan.job.controls for sign in "+-"}
        self._hubs: set[int] = set()
        self._wired: set[int] = set()
        self.named: dict[str, int] = {}
        """The node of each name of a potential that is wired."""
        self.poles: set[int] = set()
        """The nodes at which lines and neutrals of ways in arrive."""
        for potential in plan.potentials:
            node = self._new()
            for terminal in potential.net.terminals:
                self._node_of[terminal] = node
            if len(potential.net.terminals) > 1:
                self._wired.add(node)
            if potential.net.terminals:
                self.named.update(dict.fromkeys(potential.net.names, node))
            names = {name for name in potential.net.names if not name.startswith("@")}
            arrives = any(_arrives(name, plan) for name in names)
            if arrives:
                self.poles.add(node)
            if arrives or names & hub_names or any(_is_mains(name) for name in names):
                self._hubs.add(node)
        self.links: list[Link] = []
        self.supplies: list[tuple[tuple[int, ...], tuple[int, ...]]] = []
        """Transformers and DC supplies: nodes of the primary, nodes of the secondary."""
        self.at: dict[int, list[Link]] = {}
        for device in plan.circuit.devices:
            self._put(device.id, plan.parts[device.id])
        for use in plan.short_uses:
            self._put_missing(use, plan.parts[use.device])
        for link in self.links:
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
            self.supplies.append((wound[ElementKind.PRIMARY], wound[ElementKind.SECONDARY]))

    def _put_missing(self, use: Use, part: Part) -> None:
        """Put in a contact that the part lacks as if it had it: what the circuit does must not hang on which part is chosen."""
        left, right = ends_of(use, part, None)
        sort = _SORTS_OF_WORDS.get(use.ref.what or "", Sort.MAKE)
        if use.wants_contact and len(left) == len(right) == 1:
            ends = (f"{use.device}:{left[0]}", f"{use.device}:{right[0]}")
            self.links.append(Link(use.device, sort, ends, (self.node(ends[0]), self.node(ends[1]))))

    def beside(self, node: int, closable: Callable[[Link], bool]) -> Iterator[int]:
        """Yield the nodes to which links that can close lead from one."""
        return (link.other(node) for link in self.at.get(node, ()) if closable(link))

    def ends_of(self, device: str, kinds: Iterable[ElementKind] = CONSUMING) -> tuple[tuple[int, int], ...]:
        """Return the pairs of nodes between which the elements of some kinds of a device are fed."""
        wanted = frozenset(kinds)
        return tuple(
            (self.node(f"{device}:{element.marks[0]}"), self.node(f"{device}:{element.marks[-1]}"))
            for element in self._parts[device].elements
            if element.kind in wanted and len(element.marks) >= 2
        )


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
