"""Owns which current goes through each terminal, and what every conductor is like: dead, live, carrying. Must not know drawings."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import numpy as np

from riktig.live.coils import Relay
from riktig.live.laws import Law
from riktig.live.motors import Motor
from riktig.live.network import Voltages
from riktig.live.paths import Gap, gaps_of
from riktig.live.rig import Rig
from riktig.live.simulation import Simulation
from riktig.plan.basis.union import UnionFind

LIVE_VOLTS = 10.0
"""What is live has so many volts to earth, AC or DC: a tester shows it from there (common practice, no source)."""
CARRYING_A = 2e-4
"""What carries leads so many amperes: less than the smallest lamp."""


class Look(StrEnum):
    """What a piece of a conductor is like."""

    DEAD = "dead"
    LIVE = "live, carries nothing"
    CARRYING = "carries current"
    REDUNDANT = "redundant"


@dataclass(frozen=True, slots=True, kw_only=True)
class LiveState:
    """A panel at an instant: seconds, volts to earth of each terminal, the current in A that goes into each device there, the terminals of
    contacts that are closed beside others that hold, the pairs of terminals that are closed, and what is true of each device.
    """

    time: float
    volts: Mapping[str, float]
    amps: Mapping[str, complex]
    spare: frozenset[str]
    closed: frozenset[tuple[str, str]]
    states: Mapping[str, frozenset[str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Snapshot:
    """All that a panel's state at an instant follows from: cheap to keep, so that one can go back to it."""

    time: float
    rig: Rig
    closed: tuple[bool, ...]
    laws: tuple[Law, ...]
    volts: Voltages
    states: Mapping[str, frozenset[str]]
    holding: frozenset[str]
    """The devices that hold their contacts by themselves."""
    speeds: Mapping[str, float]
    """Motor -> its speed as a share of the rated one, below 0 backwards."""
    levels: Mapping[str, float]
    """What lives along -> where it stood."""

    def flows(self) -> list[list[complex]]:
        """Return the currents in A that flow into each element at its terminals, AC and DC together; all elements of one size at once."""
        found: list[list[complex]] = [[] for _ in self.laws]
        for places in _by_size(self.rig):
            nodes = np.array([self.rig.elements[n] for n in places], dtype=np.intp)
            laws = [self.laws[n] for n in places]
            ac, dc = (np.array([getattr(law, side) for law in laws]) for side in ("ac", "dc"))
            drive = np.array([law.ac_drive + law.dc_drive for law in laws])
            amps = np.einsum("nij,nj->ni", ac, self.volts.ac[nodes]) + np.einsum("nij,nj->ni", dc, self.volts.dc[nodes])
            for n, row in zip(places, (amps - drive).tolist(), strict=True):
                found[n] = row
        return found


@lru_cache(maxsize=8)
def _by_size(rig: Rig) -> tuple[tuple[int, ...], ...]:
    """Return the elements of a rig, those with as many terminals together."""
    found: defaultdict[int, list[int]] = defaultdict(list)
    for n, nodes in enumerate(rig.elements):
        found[len(nodes)].append(n)
    return tuple(map(tuple, found.values()))


@lru_cache(maxsize=8)
def _ends_of(rig: Rig) -> tuple[tuple[str, ...], ...]:
    """Return the terminal at which each element's current counts, place by place, "" for a node inside a device: of a device with several
    terminals at one node the first that is none of a contact.
    """
    at: dict[tuple[str, int], str] = {}
    of_contacts = {end for ends in (*rig.switch_ends, *rig.pole_ends.values()) for end in ends}
    for terminal, node in sorted(rig.node_of.items(), key=lambda one: one[0] in of_contacts):
        at.setdefault((terminal.rpartition(":")[0], node), terminal)
    found = []
    for n, (nodes, owner) in enumerate(zip(rig.elements, rig.element_owners, strict=True)):
        ends = rig.pole_ends.get(n, ())
        found.append((*ends, *(at.get((owner, node), "") for node in nodes[len(ends) :])))
    return tuple(found)


def snapshot(simulation: Simulation) -> Snapshot:
    """Return what is to be kept of a simulated panel as it is now."""
    return Snapshot(
        time=simulation.now,
        rig=simulation.rig,
        closed=tuple(simulation.network.closed),
        laws=tuple(simulation.network.laws),
        volts=simulation.volts,
        states={name: gear.states for name, gear in simulation.gears.items()},
        holding=frozenset(name for name, gear in simulation.gears.items() if isinstance(gear, Relay)),
        speeds={name: g.speed_at(simulation.now) for name, g in simulation.gears.items() if isinstance(g, Motor)},
        levels={body.name: body.value_at(simulation.now) for body in simulation.field},
    )


def state_of(kept: Snapshot) -> LiveState:
    """Return a panel's state as it was kept."""
    rig, gaps = kept.rig, tuple(gaps_of(kept.rig, kept))
    flows = kept.flows()
    amps = _amps_of_elements(rig, flows)
    forest, spare = _forest(kept, gaps)
    amps |= _amps_of_contacts(rig, flows, forest)
    volts = np.maximum(np.abs(kept.volts.ac), np.abs(kept.volts.dc)).tolist()
    return LiveState(
        time=kept.time,
        volts={terminal: volts[node] for terminal, node in rig.node_of.items()},
        amps=amps,
        spare=frozenset(end for gap in spare for end in (gap.a, gap.b)),
        closed=frozenset((gap.a, gap.b) for gap in gaps if gap.is_closed),
        states=kept.states,
    )


def _amps_of_elements(rig: Rig, flows: Sequence[Sequence[complex]]) -> dict[str, complex]:
    """Return terminal -> current into what conducts there."""
    found: defaultdict[str, complex] = defaultdict(complex)
    for ends, flow in zip(_ends_of(rig), flows, strict=True):
        for end, amps in zip(ends, flow, strict=True):
            found[end] += amps
    found.pop("", None)
    return dict(found)


def _forest(kept: Snapshot, gaps: Sequence[Gap]) -> tuple[dict[int, list[tuple[int, Gap]]], list[Gap]]:
    """Return the closed contacts by node without those that others beside them make needless, and these: what hands hold gives way to what
    holds by itself.
    """
    closed = [gap for gap in gaps if gap.is_closed and gap.place[0] == "switch" and gap.nodes[0] != gap.nodes[1]]
    closed.sort(key=lambda gap: gap.device not in kept.holding)
    joined, beside, spare = UnionFind[int](), defaultdict(list), []
    for gap in closed:
        a, b = gap.nodes
        if joined.find(a) == joined.find(b):
            spare.append(gap)
            continue
        joined.join(a, b)
        beside[a].append((b, gap))
        beside[b].append((a, gap))
    return dict(beside), spare


def _amps_of_contacts(
    rig: Rig, flows: Sequence[Sequence[complex]], forest: Mapping[int, list[tuple[int, Gap]]]
) -> dict[str, complex]:
    """Return terminal -> current into the contact there: what all that hangs behind it draws."""
    drawn: defaultdict[int, complex] = defaultdict(complex)
    for nodes, flow in zip(rig.elements, flows, strict=True):
        for node, amps in zip(nodes, flow, strict=False):
            drawn[node] += amps
    found: dict[str, complex] = {}
    seen: set[int] = set()
    for start in forest:
        if start in seen:
            continue
        order: list[tuple[int, int, Gap | None]] = [(start, start, None)]
        seen.add(start)
        for node, _, _ in order:
            for other, gap in forest[node]:
                if other not in seen:
                    seen.add(other)
                    order.append((other, node, gap))
        for node, above, way in reversed(order):
            if way is not None:
                far, near = (way.a, way.b) if way.nodes[0] == node else (way.b, way.a)
                found[far], found[near] = -drawn[node], drawn[node]
                drawn[above] += drawn[node]
    return found
