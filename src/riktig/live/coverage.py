"""Owns what a test has reached of a panel: contacts seen closed and open, conductors that have carried current. Must not choose tests."""

from collections import defaultdict
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum

from riktig.job.ids import WireId
from riktig.live.currents import CARRYING_A, LiveState, snapshot, state_of
from riktig.live.paths import gaps_of
from riktig.live.simulation import Simulation
from riktig.plan.circuit.zones import INCOMING
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.standards.colours import ConductorFunction

Item = tuple[str, str]
"""What can be reached: (sort, of what)."""


class Reach(StrEnum):
    """How something is reached."""

    CLOSED = "closed"
    OPEN = "open"
    CARRIES = "carries"
    HELD = "held"
    STOPS = "stops"


@dataclass(frozen=True, slots=True)
class _Edge:
    """A conductor in the tree of its potential: its ends away from the root and towards it."""

    wire: Conductor
    far: str
    near: str


class Coverage:
    """What can be reached in a panel, and what has been. Contacts are those whose both ends are wired; conductors those that are cut, and
    earth is none of them, for it carries nothing in a sound panel.
    """

    def __init__(self, plan: Plan, simulation: Simulation) -> None:
        self.plan = plan
        wired = {t for p in plan.potentials if len(p.net.terminals) > 1 for t in p.net.terminals}
        gaps = gaps_of(simulation.rig, snapshot(simulation))
        self.contacts: dict[str, tuple[str, str]] = {
            f"{gap.a} {gap.b}": (gap.a, gap.b)
            for gap in gaps
            if gap.place[0] == "switch" and {gap.a, gap.b} <= wired and plan.parts[gap.device].kind != "link"
        }
        roots = {clamp.id for clamp in plan.clamps if clamp.drop == INCOMING}
        self._trees = [_tree(members, roots) for members in _by_potential(plan).values()]
        self.conductors = {edge.wire.id: edge.wire for tree in self._trees for edge in tree if edge.wire.is_wired}
        self.seen: set[Item] = set()

    def items(self, state: LiveState) -> set[Item]:
        """Return what an instant reaches."""
        closed = {pair for one in state.closed for pair in (one, one[::-1])}
        found: set[Item] = {
            (Reach.CLOSED if pair in closed else Reach.OPEN, name) for name, pair in self.contacts.items()
        }
        for tree in self._trees:
            found.update((Reach.CARRIES, wire) for wire in _carrying(tree, state.amps))
        return found

    def now(self, simulation: Simulation) -> set[Item]:
        """Return what a panel reaches as it stands now."""
        return self.items(state_of(snapshot(simulation)))

    def ends_of(self, item: Item) -> tuple[str, str]:
        """Return the terminals between which something is reached: of a contact or a conductor."""
        if item[1] in self.contacts:
            return self.contacts[item[1]]
        wire = self.conductors[WireId(item[1])]
        return wire.a, wire.b

    @property
    def left_at(self) -> set[str]:
        """The devices at which something is not reached yet."""
        ends = [end for name in self.unmoved for end in self.contacts[name]]
        ends += [end for wire in self.idle for end in (wire.a, wire.b)]
        return {end.rpartition(":")[0] for end in ends}

    @property
    def unmoved(self) -> list[str]:
        """The contacts that were not seen both closed and open."""
        return [name for name in self.contacts if {(Reach.CLOSED, name), (Reach.OPEN, name)} - self.seen]

    @property
    def idle(self) -> list[Conductor]:
        """The conductors that have carried nothing."""
        return [wire for name, wire in self.conductors.items() if (Reach.CARRIES, name) not in self.seen]


def _by_potential(plan: Plan) -> Mapping[str, list[Conductor]]:
    earths = {p.number for p in plan.potentials if p.net.function is ConductorFunction.EARTH}
    found: defaultdict[str, list[Conductor]] = defaultdict(list)
    for wire in plan.conductors:
        if wire.number not in earths:
            found[wire.number].append(wire)
    return found


def _tree(members: list[Conductor], roots: Collection[str]) -> list[_Edge]:
    """Return the conductors of a potential from its leaves to its root, which is where it comes in, if it is one of some; a conductor that
    closes a ring is left out.
    """
    beside: defaultdict[str, list[tuple[str, Conductor]]] = defaultdict(list)
    for wire in members:
        beside[wire.a].append((wire.b, wire))
        beside[wire.b].append((wire.a, wire))
    edges: list[_Edge] = []
    seen: set[str] = set()
    for root in sorted(beside, key=lambda node: node not in roots):
        if root in seen:
            continue
        seen.add(root)
        waiting = [root]
        for node in waiting:
            for other, wire in beside[node]:
                if other not in seen:
                    seen.add(other)
                    waiting.append(other)
                    edges.append(_Edge(wire, other, node))
    return edges[::-1]


def _carrying(tree: list[_Edge], amps: Mapping[str, complex]) -> Iterator[str]:
    """Yield the conductors through which something flows: what all that hangs behind one draws."""
    drawn: dict[str, complex] = {}
    for edge in tree:
        here = drawn.get(edge.far, 0.0) + amps.get(edge.far, 0.0)
        drawn[edge.near] = drawn.get(edge.near, 0.0) + here
        if abs(here) >= CARRYING_A:
            yield edge.wire.id
