"""Owns the voltages of a network of switches and things that conduct. Must not know what these are, nor time.

A closed switch makes its two nodes one. The network is parted once into *blocks* that meet at few nodes, the *hubs* (lines, neutral,
control supplies): a block is reduced to what its hubs see of it, and that is kept for each of its states. Where a switch moves, one block
is reduced anew and the few hubs are solved again; nothing else is touched. Node 0 is earth.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from riktig.live.laws import Law, nothing
from riktig.live.parting import Part, part_network
from riktig.plan.basis.union import UnionFind

_ANCHOR = 1.0
"""What holds a part of the network at 0 V that nothing joins to earth, in S: no current flows through it."""
_REFRESH = 5000
"""So many blocks are exchanged before all are added up again."""
_MOST_KNOWN = 64


@dataclass(frozen=True, slots=True, kw_only=True)
class Voltages:
    """Volts of each node to earth at the supply's frequency (phasors) and at DC; where nothing joins it to earth, to a node beside it."""

    ac: npt.NDArray[np.complex128]
    dc: npt.NDArray[np.float64]

    def __deepcopy__(self, memo: object) -> "Voltages":
        """Return these very volts, which are never written to."""
        return self


@dataclass(slots=True, kw_only=True)
class _Domain:
    """What the hubs see of a block at one frequency: `seen` and `driven` at its ports, inner volts by those of its ports, its joins."""

    seen: npt.NDArray[np.complex128]
    driven: npt.NDArray[np.complex128]
    inner: npt.NDArray[np.complex128]
    own: npt.NDArray[np.complex128]
    joins: frozenset[tuple[int, int]]


@dataclass(slots=True, kw_only=True)
class _Reduced:
    """A block in one state: its ports (hubs), which hubs its closed switches make one, and both frequencies."""

    ports: npt.NDArray[np.intp]
    merged: tuple[tuple[int, int], ...]
    domains: tuple[_Domain, _Domain]


@dataclass(slots=True)
class _Block:
    part: Part
    known: dict[tuple[object, ...], _Reduced] = field(default_factory=dict)
    now: _Reduced | None = None

    def __deepcopy__(self, memo: object) -> "_Block":
        """Return a block in the same state that knows what this one does, and learns with it: a state comes to the same in every copy."""
        return _Block(self.part, self.known, self.now)


class Network:
    """Nodes, switches between two of them, and elements that conduct by a law which may change.

    Args:
        nodes: how many there are, earth (0) among them.
        switches: the two nodes of each, all open.
        elements: the nodes of each, as its law counts terminals; all open.
        turned: the switches that open when they are told to close, and close when they are told to open.
    """

    def __init__(
        self, nodes: int, switches: Sequence[tuple[int, int]], elements: Sequence[tuple[int, ...]], *,
        turned: frozenset[int] = frozenset(),
    ) -> None:  # fmt: skip
        self._turned = turned
        self.count = nodes
        self.switches, self.elements = tuple(switches), tuple(elements)
        self.closed = [False] * len(switches)
        self.barred: set[tuple[str, int]] = set()
        """Switches and elements that stay open whatever they are told: (`switch` or `element`, index)."""
        self.laws: list[Law] = [nothing(len(nodes_of)) for nodes_of in elements]
        parted = part_network(nodes, self.switches, self.elements)
        self._hubs = parted.hubs
        self._blocks = [_Block(part) for part in parted.parts]
        self._block_of_switch, self._block_of_element = parted.part_of_switch, parted.part_of_element
        self._dirty = set(range(len(self._blocks)))
        hubs = len(self._hubs)
        self._seen = [np.zeros((hubs, hubs), complex) for _ in range(2)]
        self._driven = [np.zeros(hubs, complex) for _ in range(2)]
        self._inner = [np.zeros((nodes, hubs), complex) for _ in range(2)]
        self._own = [np.zeros(nodes, complex) for _ in range(2)]
        self._turns = 0
        self._solved: Voltages | None = None
        for place, node in enumerate(self._hubs):
            for inner in self._inner:
                inner[node, place] = 1.0

    def switch(self, index: int, *, is_closed: bool) -> None:
        """Open or close a switch."""
        is_closed = (is_closed != (index in self._turned)) and ("switch", index) not in self.barred
        if self.closed[index] != is_closed:
            self.closed[index] = is_closed
            self._dirty.add(self._block_of_switch[index])

    def put(self, index: int, law: Law) -> None:
        """Give an element another law."""
        law = nothing(len(self.elements[index])) if ("element", index) in self.barred else law
        if self.laws[index] is not law:
            self.laws[index] = law
            self._dirty.add(self._block_of_element[index])

    @property
    def shape(self) -> tuple[object, ...]:
        """Return what never changes of it: what its switches and elements join, and how it is parted."""
        return self.switches, self.elements, self._hubs, self._block_of_switch, self._block_of_element

    @property
    def instant(self) -> int:
        """Return a key of how everything conducts now: two instants with the same one have the same volts and currents."""
        return hash((*self.closed, *self.laws))

    def solve(self) -> Voltages:
        """Return the volts of all nodes as switches and laws are now."""
        self.reduce_some(len(self._blocks))
        if self._solved is None:
            ac, dc = (self._solve_hubs(domain) for domain in range(2))
            self._solved = Voltages(ac=ac, dc=dc.real)
        return self._solved

    def reduce_some(self, most: int) -> bool:
        """Reduce so many of the blocks in which something moved; return whether any is left. `solve` reduces all that are."""
        if self._turns > _REFRESH:
            self._start_anew()
        now = sorted(self._dirty)[:most]
        self._turns += len(now)
        for index in now:
            self._exchange(self._blocks[index])
        self._dirty.difference_update(now)
        if now:
            self._solved = None
        return bool(self._dirty)

    def _start_anew(self) -> None:
        """Add all blocks up again: differences of large numbers leave a rest."""
        self._turns = 0
        for matrix in (*self._seen, *self._driven):
            matrix[:] = 0.0
        for block in self._blocks:
            block.now = None
        self._dirty = set(range(len(self._blocks)))

    def _exchange(self, block: _Block) -> None:
        part = block.part
        state = (*(self.closed[i] for i in part.switches), *(self.laws[i] for i in part.elements))
        new = block.known.get(state)
        if new is None:
            laws = [self.laws[i] for i in part.elements]
            closed = [self.switches[i] for i in part.switches if self.closed[i]]
            if len(block.known) > _MOST_KNOWN:
                block.known.clear()
            block.known[state] = new = _reduce(part, closed, laws, [self.elements[i] for i in part.elements])
        old, block.now = block.now, new
        for domain in range(2):
            if old is not None:
                self._seen[domain][np.ix_(old.ports, old.ports)] -= old.domains[domain].seen
                self._driven[domain][old.ports] -= old.domains[domain].driven
            reduced = new.domains[domain]
            self._seen[domain][np.ix_(new.ports, new.ports)] += reduced.seen
            self._driven[domain][new.ports] += reduced.driven
            if len(part.inner):
                self._inner[domain][part.inner] = 0.0
                self._inner[domain][np.ix_(np.array(part.inner), new.ports)] = reduced.inner
                self._own[domain][part.inner] = reduced.own

    def _solve_hubs(self, domain: int) -> npt.NDArray[np.complex128]:
        hubs = len(self._hubs)
        merged, joined = UnionFind[int](), UnionFind[int]()
        for block in self._blocks:
            assert block.now is not None
            for a, b in block.now.merged:
                merged.join(a, b)
                joined.join(a, b)
            for a, b in block.now.domains[domain].joins:
                joined.join(a, b)
        roots = [merged.find(hub) for hub in range(hubs)]
        place = {root: n for n, root in enumerate(dict.fromkeys(roots))}
        of_hub = np.array([place[root] for root in roots])
        summed = np.zeros((len(place), hubs))
        summed[of_hub, np.arange(hubs)] = 1.0
        matrix = summed @ self._seen[domain] @ summed.T
        driven = summed @ self._driven[domain]
        earth = {joined.find(0)}
        for root in sorted(place, key=lambda hub: self._hubs[hub]):
            island = joined.find(root)
            if island not in earth:
                earth.add(island)
                matrix[place[root], place[root]] += _ANCHOR
        volts = np.zeros(len(place), complex)
        if len(place) > 1:
            first = of_hub[0]
            keep = np.arange(len(place)) != first
            volts[keep] = np.linalg.solve(matrix[np.ix_(keep, keep)], driven[keep])
        found: npt.NDArray[np.complex128] = self._inner[domain] @ volts[of_hub] + self._own[domain]
        return found

    def amps(self, index: int) -> tuple[npt.NDArray[np.complex128], npt.NDArray[np.float64]]:
        """Return the currents in A that flow into an element at its terminals, at the supply's frequency and at DC."""
        volts, nodes, law = self.solve(), list(self.elements[index]), self.laws[index]
        return law.ac @ volts.ac[nodes] - law.ac_drive, law.dc @ volts.dc[nodes] - law.dc_drive


def _reduce(
    part: Part, closed: Iterable[tuple[int, int]], laws: Sequence[Law], nodes: Sequence[tuple[int, ...]]
) -> _Reduced:
    """Return what the hubs of a block see of it with these switches closed."""
    groups = UnionFind[int]()
    for a, b in closed:
        groups.join(a, b)
    hub_of: dict[int, int] = {}
    merged = []
    for place, node in part.hubs:
        root = groups.find(node)
        if root in hub_of:
            merged.append((hub_of[root], place))
        else:
            hub_of[root] = place
    inner_roots = list(dict.fromkeys(root for node in part.inner if (root := groups.find(node)) not in hub_of))
    local = {root: n for n, root in enumerate([*hub_of, *inner_roots])}
    index = [np.array([local[groups.find(n)] for n in of], dtype=np.intp) for of in nodes]
    inner = np.array([local[groups.find(node)] for node in part.inner], dtype=np.intp)
    sides = [(law.ac, law.ac_drive) for law in laws], [(law.dc, law.dc_drive) for law in laws]
    sizes = (len(hub_of), len(local))
    domains = [_reduce_one(side, [law.joins for law in laws], index, sizes, inner) for side in sides]
    places = list(hub_of.values())
    for domain in domains:
        domain.joins = frozenset((places[a], places[b]) for a, b in domain.joins)
    return _Reduced(ports=np.array(places, dtype=np.intp), merged=tuple(merged), domains=(domains[0], domains[1]))


def _reduce_one(
    side: Sequence[
        tuple[
            npt.NDArray[np.complex128] | npt.NDArray[np.float64], npt.NDArray[np.complex128] | npt.NDArray[np.float64]
        ]
    ],
    joins: Sequence[tuple[tuple[int, int], ...]],
    index: Sequence[npt.NDArray[np.intp]],
    sizes: tuple[int, int],
    inner: npt.NDArray[np.intp],
) -> _Domain:
    """Eliminate the inner nodes of a block at one frequency."""
    hubs, count = sizes
    matrix, driven, joined = np.zeros((count, count), complex), np.zeros(count, complex), UnionFind[int]()
    for (admittances, drive), pairs, at in zip(side, joins, index, strict=True):
        np.add.at(matrix, (at[:, None], at[None, :]), admittances)
        np.add.at(driven, at, drive)
        for a, b in pairs:
            if admittances[a, a] and admittances[b, b]:
                joined.join(int(at[a]), int(at[b]))
    islands = {joined.find(hub) for hub in range(hubs)}
    for node in range(hubs, count):
        if joined.find(node) not in islands:
            islands.add(joined.find(node))
            matrix[node, node] += _ANCHOR
    across = np.linalg.solve(matrix[hubs:, hubs:], np.column_stack([-matrix[hubs:, :hubs], driven[hubs:]])) if count > hubs else (
        np.zeros((0, hubs + 1), complex)
    )  # fmt: skip
    by_port, own = across[:, :hubs], across[:, hubs]
    whole = np.vstack([np.eye(hubs, dtype=complex), by_port])
    firsts: dict[int, int] = {}
    pairs_of_hubs = {(firsts.setdefault(joined.find(hub), hub), hub) for hub in range(hubs)}
    return _Domain(
        seen=matrix[:hubs, :hubs] + matrix[:hubs, hubs:] @ by_port,
        driven=driven[:hubs] - matrix[:hubs, hubs:] @ own,
        inner=whole[inner],
        own=np.concatenate([np.zeros(hubs, complex), own])[inner],
        joins=frozenset((a, b) for a, b in pairs_of_hubs if a != b),
    )
