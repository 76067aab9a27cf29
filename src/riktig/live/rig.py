"""Owns where the terminals of a Plan lie in a network: as it is designed, or as it was built with faults. Must not know what devices do.

A potential is one node; one whose wires are open or cut somewhere is as many as its pieces. Earth is node 0.
"""

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import inf

from riktig.live.built import AS_PLANNED, Built
from riktig.live.network import Network
from riktig.plan.basis.union import UnionFind
from riktig.plan.net.numbers import Potential
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.standards.colours import ConductorFunction

EARTH = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Sensor:
    """Two nodes whose difference wakes a thing: where it passes one of two levels, or has moved by more than `dead`; all in V."""

    owner: str
    a: int
    b: int
    is_dc: bool
    levels: tuple[float, float] = (inf, inf)
    dead: float = inf


@dataclass(frozen=True, slots=True, kw_only=True)
class WiringState:
    """What is wrong with the wires: terminals at which a wire of a number is off, pairs of terminals that are exchanged, and pairs of
    terminals that are joined by what should not be there; and how the panel was built.
    """

    off: frozenset[tuple[str, str]] = frozenset()
    swapped: tuple[tuple[str, str], ...] = ()
    shorted: tuple[tuple[str, str], ...] = ()
    built: Built = AS_PLANNED


class Rig:
    """Collects nodes, switches, elements and sensors while the things of a Plan are put into it.

    Args:
        plan: the panel.
        wiring: what is wrong with its wires.
    """

    def __init__(self, plan: Plan, wiring: WiringState) -> None:
        self.plan = plan
        self.numbers: list[str] = ["PE"]
        self.switches: list[tuple[int, int]] = []
        self.elements: list[tuple[int, ...]] = []
        self.sensors: list[Sensor] = []
        self.switch_ends: list[tuple[str, str]] = []
        self.pole_ends: dict[int, tuple[str, str]] = {}
        """The terminals of switches, and of elements that lead a current through: poles that measure it."""
        self._turned: set[int] = set()
        self.owner = ""
        """The thing that is put in now."""
        self.element_owners: list[str] = []
        self.sources: list[tuple[str, tuple[int, ...]]] = []
        """What feeds, and the nodes between which it does."""
        self.node_of: dict[str, int] = {}
        for piece, potential in _nodes(plan, wiring):
            is_earth = potential.net.function is ConductorFunction.EARTH and EARTH not in self.node_of.values()
            node = EARTH if is_earth else self.inner(potential.number)
            self.node_of.update(dict.fromkeys(piece, node))
        for a, b in wiring.swapped:
            self.node_of[a], self.node_of[b] = self.node(b), self.node(a)
        self._built = wiring.built

    def inner(self, number: str = "") -> int:
        """Return a new node: of a potential, or one inside a device."""
        self.numbers.append(number)
        return len(self.numbers) - 1

    def node(self, terminal: str) -> int:
        """Return the node of a terminal; one that is not wired has one for itself."""
        if terminal not in self.node_of:
            self.node_of[terminal] = self.inner()
        return self.node_of[terminal]

    def switch(self, a: str, b: str) -> int:
        """Return the index of a new switch between two terminals."""
        self.switches.append((self.node(a), self.node(b)))
        self.switch_ends.append((a, b))
        if self._built.is_turned(a, b):
            self._turned.add(len(self.switches) - 1)
        return len(self.switches) - 1

    def pole(self, a: str, b: str) -> int:
        """Return the index of a new element that leads a current from one terminal to another."""
        element = self.element(self.node(a), self.node(b))
        self.pole_ends[element] = (a, b)
        return element

    def element(self, *nodes: int) -> int:
        """Return the index of a new element at some nodes."""
        self.elements.append(nodes)
        self.element_owners.append(self.owner)
        return len(self.elements) - 1

    def network(self) -> Network:
        """Return the network of all that was put in; nothing conducts yet."""
        return Network(len(self.numbers), self.switches, self.elements, turned=frozenset(self._turned))


def _nodes(plan: Plan, wiring: WiringState) -> Iterator[tuple[Iterable[str], Potential]]:
    """Yield what is one node with the potential after which it is called: of a panel that is not wired as planned what its wires join."""
    ordered = sorted(plan.potentials, key=_order)
    clamps: defaultdict[str, dict[str, None]] = defaultdict(dict)
    for wire in plan.conductors:
        clamps[wire.number].update(((wire.a, None), (wire.b, None)))
    ends_of = [tuple(dict.fromkeys((*p.net.terminals, *clamps[p.number]))) for p in ordered]
    if wiring.built.is_as_planned:
        for potential, ends in zip(ordered, ends_of, strict=True):
            for piece in _pieces(plan, ends, potential.number, wiring):
                yield piece, potential
        return
    joined = UnionFind[str]()
    for a, b in wiring.built.joins(plan):
        joined.join(a, b)
    pieces: defaultdict[str, dict[str, None]] = defaultdict(dict)
    named: dict[str, Counter[int]] = defaultdict(Counter)
    for n, ends in enumerate(ends_of):
        for end in ends:
            pieces[joined.find(end)][end] = None
            named[joined.find(end)][n] += 1
    for root in sorted(pieces, key=lambda one: (named[one].most_common(1)[0][0], -len(pieces[one]))):
        yield pieces[root], ordered[named[root].most_common(1)[0][0]]


def _order(potential: Potential) -> bool:
    """Sort returns before all else: of a part of the network that nothing joins to earth the first node is taken as 0 V."""
    return not any(name.endswith(("-", "N")) for name in potential.net.names)


def _pieces(plan: Plan, terminals: Sequence[str], number: str, wiring: WiringState) -> list[list[str]]:
    """Return the terminals of a potential by what its wires really join, the largest piece first; all in one where no wire is off."""
    cut = {terminal for of, terminal in wiring.off if of == number}
    if not cut:
        return [list(terminals)]
    joined = UnionFind[str]()
    wires = {c.id: c for terminal in terminals for c in plan.conductors_at.get(terminal, ())}
    for wire in wires.values():
        if not _is_off(wire, cut):
            joined.join(wire.a, wire.b)
    pieces: dict[str, list[str]] = {}
    for terminal in terminals:
        pieces.setdefault(joined.find(terminal), []).append(terminal)
    return sorted(pieces.values(), key=len, reverse=True)


def _is_off(wire: Conductor, cut: Iterable[str]) -> bool:
    return wire.is_wired and not {wire.a, wire.b}.isdisjoint(cut)


def terminals_by_name(plan: Plan) -> Mapping[str, str]:
    """Return terminal as people write it, by tag or by id -> its id."""
    found: dict[str, str] = {}
    for device in plan.circuit.devices:
        for spec in plan.parts[device.id].terminals:
            terminal = f"{device.id}:{spec.mark}"
            found[terminal] = terminal
            found.setdefault(plan.terminal_label(terminal), terminal)
    return found
