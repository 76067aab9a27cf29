"""Owns which devices stand in the power circuit of each motor and load, and what each does there. Must not size or choose parts.

A starter's circuit is known from its roles. One that a person drew, or a starter that was detached, is read from its paths: whoever
drew it, the same circuit is the same.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field

from riktig.job.paths import MAINS, Group, Item, Nodes, Ref
from riktig.plan.basis.strength import PROTECTING
from riktig.plan.basis.union import UnionFind
from riktig.plan.circuit.model import Circuit, CircuitPath

_LEADS_ON = frozenset({
    *PROTECTING, "disconnect", "contactor", "overload", "drive", "soft-starter", "rcd", "resistor", "filter", "link", "terminal", "switch",
    "busbar", "relay", "selector", "limit-switch", "thermostat", "timer", "pushbutton", "emergency-stop", "float",
})  # fmt: skip
"""Kinds that pass a current on; any other ends a circuit, but a transformer in the middle of a path."""
_ROLES = {
    "breaker": "Q", "fuse": "Q", "motor-breaker": "Q", "contactor": "K", "overload": "F", "drive": "A", "soft-starter": "A",
    "disconnect": "QM", "transformer": "T", "resistor": "R",
}  # fmt: skip
STARTER_ROLES = ("Q", "K", "KR", "KD", "KS", "F", "A", "QM")


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerCircuit:
    """The power circuit of one motor or load, `load` by its device id.

    `devices` are (id, role) from the supply to it, roles as of a starter's parts: Q protection, K contactor, KD and KS of star-delta,
    F overload, A drive or soft starter, QM isolator, X anything else that leads the current. `lines` are the potentials that feed it;
    `supply` the extra supply that these belong to, "" for the main one, None where no way in feeds it. `is_overload_in_line`: its
    overload lies ahead of where star and delta part. `is_read`: from paths.
    """

    load: str
    is_motor: bool
    lines: tuple[str, ...]
    supply: str | None
    devices: tuple[tuple[str, str], ...]
    is_star_delta: bool = False
    is_overload_in_line: bool = False
    is_read: bool = True

    def of_role(self, *roles: str) -> tuple[str, ...]:
        """Return the devices of some roles, from the supply to the load."""
        return tuple(device for device, role in self.devices if role in roles)

    @property
    def ahead(self) -> tuple[str, ...]:
        """The devices that lead the whole current: all, but of a star-delta motor those behind where star and delta part."""
        behind = {"K", "KD", "KS", "QM"} if self.is_star_delta else set()
        behind |= {"F"} if self.is_star_delta and not self.is_overload_in_line else set()
        return tuple(device for device, role in self.devices if role not in behind)

    def is_winding_lead(self, devices: Iterable[str]) -> bool:
        """Return whether a wire between these devices leads to one winding of a star-delta motor alone."""
        return self.is_star_delta and not set(devices) & set(self.ahead)

    @property
    def protection(self) -> str | None:
        """The protective device next to the load, None where there is none."""
        found = self.of_role("Q")
        return found[-1] if found else None


def find_power_circuits(circuit: Circuit) -> dict[str, PowerCircuit]:
    """Return the power circuit of every motor, and of every load that a person drew, by the id of the motor or load."""
    drawn: dict[str | None, list[CircuitPath]] = {}
    for path in circuit.paths:
        if path.is_power:
            drawn.setdefault(path.owner, []).append(path)
    attached = [d.id for d in circuit.devices if d.kind == "motor" and d.owner == d.id and d.id in drawn]
    found = {name: _of_starter(name, circuit, drawn[name]) for name in attached}
    trace = _Trace(circuit)
    return found | {load: trace.circuit_of(load) for load in trace.loads if load not in found}


def sharing(circuits: Iterable[PowerCircuit]) -> dict[str, tuple[str, ...]]:
    """Return device -> the motors and loads whose current it leads, in the order of the circuits."""
    found: dict[str, list[str]] = {}
    for one in circuits:
        for device, _ in one.devices:
            found.setdefault(device, []).append(one.load)
        found.setdefault(one.load, []).append(one.load)
    return {device: tuple(loads) for device, loads in found.items()}


def roles_in_circuits(circuits: Mapping[str, PowerCircuit]) -> dict[str, tuple[str, str]]:
    """Return device -> (motor, role) of all that leads the current of one motor alone."""
    leads = sharing(circuits.values())
    return {
        device: (name, role)
        for name, one in circuits.items()
        if one.is_motor
        for device, role in one.devices
        if len(leads[device]) == 1
    }


def _of_starter(name: str, circuit: Circuit, paths: Iterable[CircuitPath]) -> PowerCircuit:
    """Return the circuit of a starter as it was drawn from its roles; `paths` are its power paths."""
    devices = tuple(
        (f"{name}.{role}", role)
        for role in STARTER_ROLES
        if f"{name}.{role}" in circuit.index and circuit.index[f"{name}.{role}"].kind != "relay"
    )
    lines: dict[str, None] = {}
    for path in paths:
        first = path.items[0]
        if isinstance(first, Nodes):
            lines |= dict.fromkeys(line for line in first.names if not line.startswith("@"))
    return PowerCircuit(
        load=name, is_motor=True, lines=tuple(lines), supply=_supply_of(lines), devices=devices, is_read=False,
        is_star_delta=f"{name}.KS" in circuit.index,
    )  # fmt: skip


def _supply_of(lines: Iterable[str]) -> str | None:
    """Return the extra supply that lines belong to, "" for the main one, None where no way in feeds them."""
    for line in lines:
        ahead, _, name = line.removeprefix("in.").rpartition(".")
        if name in MAINS:
            return ahead
    return None


@dataclass(frozen=True, slots=True)
class _Edge:
    """One lane through a device, from the point ahead of it to the one behind."""

    left: str
    right: str
    device: str


@dataclass(slots=True)
class _Lead:
    """One lead of a motor or load: its mark where the path names it, and the point it hangs on."""

    mark: str
    point: str


@dataclass(slots=True)
class _Trace:
    """The power paths as points and lanes between them."""

    circuit: Circuit
    joined: UnionFind[str] = field(default_factory=UnionFind)
    edges: list[_Edge] = field(default_factory=list)
    loads: dict[str, list[_Lead]] = field(default_factory=dict)
    _at: Mapping[str, list[_Edge]] = field(default_factory=dict)
    _sources: Mapping[str, str] = field(default_factory=dict)
    _lanes: Mapping[str, list[_Edge]] = field(default_factory=dict)
    _stars: frozenset[str] = frozenset()

    def __post_init__(self) -> None:
        for a, b in self.circuit.joins:
            self.joined.join(f"={b}", f"={a}")
        names: dict[str, None] = {}
        for path in self.circuit.paths:
            if path.is_power:
                self._walk(path, path.items, ())
                names |= dict.fromkeys(name for item in path.items if isinstance(item, Nodes) for name in item.names)
        self._sources = {self.joined.find(f"={name}"): name for name in reversed(names) if not name.startswith("@")}
        lanes: dict[str, list[_Edge]] = {}
        for edge in self.edges:
            lanes.setdefault(edge.device, []).append(edge)
        self._lanes = lanes
        self._stars = frozenset(device for device, edges in lanes.items() if self._is_star(device, edges))
        at: dict[str, list[_Edge]] = {}
        for edge in self.edges:
            for point in {self.joined.find(edge.left), self.joined.find(edge.right)}:
                at.setdefault(point, []).append(edge)
        self._at = at

    # -- paths to points

    def _walk(
        self, path: CircuitPath, items: tuple[Item, ...], points: tuple[str, ...], *, is_end: bool = True
    ) -> tuple[str, ...]:
        for place, item in enumerate(items):
            is_last = is_end and place == len(items) - 1
            if isinstance(item, Nodes):
                points = self._meet(points, tuple(f"={name}" for name in item.names))
            elif isinstance(item, Group):
                ends: tuple[str, ...] = ()
                for branch in item.branches:
                    ends = self._meet(ends, self._walk(path, branch, points, is_end=is_last)) or ends
                points = ends
            else:
                points = self._pass(path, item, points, is_last=is_last)
        return points

    def _meet(self, before: tuple[str, ...], after: tuple[str, ...]) -> tuple[str, ...]:
        for a, b in zip(before, after, strict=False):
            self.joined.join(a, b)
        return after

    def _pass(self, path: CircuitPath, ref: Ref, points: tuple[str, ...], *, is_last: bool) -> tuple[str, ...]:
        kind = self.circuit.index[ref.device].kind
        marks = ref.marks
        key = f"{ref.device}|{path.key}|{ref.column}"
        left = (f"{ref.device}:{marks[0]}",) if marks else tuple(f"{key}<{n}" for n in range(len(points)))
        right = (f"{ref.device}:{marks[1]}",) if marks else tuple(f"{key}>{n}" for n in range(len(points)))
        self._meet(points, left)
        if kind in _LEADS_ON or (kind == "transformer" and not is_last and marks is None and len(points) > 1):
            self.edges.extend(_Edge(a, b, ref.device) for a, b in zip(left, right, strict=True))
            return tuple(right[n - 1] for n in ref.order) if ref.order is not None else right
        known = self.loads.setdefault(ref.device, []) if self._is_own(ref.device) else []
        ends = (*left, *right) if not is_last else left
        names = marks or tuple("" for _ in left)
        known.extend(_Lead(mark, point) for mark, point in zip((*names, *(("",) * len(right))), ends, strict=False))
        return right

    def _is_own(self, device: str) -> bool:
        """Return whether a load is of a circuit that is read: a motor, or something that belongs to no module."""
        found = self.circuit.index[device]
        return found.kind == "motor" or found.owner is None

    def _is_star(self, device: str, edges: list[_Edge]) -> bool:
        """Return whether a contactor joins all its lanes in one point that is no source: a star point."""
        if self.circuit.index[device].kind != "contactor" or len(edges) < 2:
            return False
        sides = ({self.joined.find(e.left) for e in edges}, {self.joined.find(e.right) for e in edges})
        return any(len(side) == 1 and not side & self._sources.keys() for side in sides)

    # -- points to circuits

    def circuit_of(self, load: str) -> PowerCircuit:
        """Return the circuit of a motor or load: what lies on a way between its leads and a source."""
        leads = {self.joined.find(lead.point) for lead in self.loads[load]}
        edges = self._between(leads)
        depth = self._depths(edges)
        order = sorted({e.device for e in edges}, key=lambda d: (min(depth[e] for e in edges if e.device == d), d))
        touched = leads | {self.joined.find(p) for e in edges for p in (e.left, e.right)}
        lines = tuple(sorted((self._sources[p] for p in touched if p in self._sources), key=_rank))
        is_motor = self.circuit.index[load].kind == "motor"
        second = (
            self._flood({self.joined.find(e.point) for e in self.loads[load] if e.mark.endswith("2")})
            if is_motor
            else set()
        )
        stars = {d for d in self._stars if any(self._touches(e, second) for e in self._lanes[d])}
        deltas = {e.device for e in edges if self._is_contactor(e.device) and self._touches(e, second)} - stars
        is_star_delta = bool(stars and deltas and len(self.loads[load]) >= 6)
        roles = {device: self._role(device) for device in order}
        if is_star_delta:
            roles |= dict.fromkeys(deltas, "KD") | dict.fromkeys(stars, "KS")
            order += sorted(stars)
        elif is_motor:
            reached = self._flood(leads)
            order += (
                bridges := sorted(d for d in self._stars if any(self._touches(e, reached) for e in self._lanes[d]))
            )
            roles |= dict.fromkeys(bridges, "K")
        return PowerCircuit(
            load=load, is_motor=is_motor, lines=lines, supply=_supply_of(lines), is_star_delta=is_star_delta,
            devices=tuple((device, roles[device]) for device in order),
            is_overload_in_line=is_star_delta and self._is_in_line(load, order, roles),
        )  # fmt: skip

    def _role(self, device: str) -> str:
        return _ROLES.get(self.circuit.index[device].kind, "X")

    def _is_contactor(self, device: str) -> bool:
        return self.circuit.index[device].kind == "contactor"

    def _is_in_line(self, load: str, order: list[str], roles: Mapping[str, str]) -> bool:
        """Return whether the overload of a star-delta motor is not in its windings."""
        first = self._flood({self.joined.find(e.point) for e in self.loads[load] if e.mark.endswith("1")})
        overloads = {device for device in order if roles[device] == "F"}
        return bool(overloads) and not any(e.device in overloads and self._touches(e, first) for e in self.edges)

    def _touches(self, edge: _Edge, points: set[str]) -> bool:
        return self.joined.find(edge.left) in points or self.joined.find(edge.right) in points

    def _flood(self, points: set[str]) -> set[str]:
        """Return the points that can be reached through everything but contactors and sources."""
        found, waiting = set(points), list(points)
        while waiting:
            here = waiting.pop()
            if here in self._sources:
                continue
            for edge in self._at.get(here, ()):
                if not self._is_contactor(edge.device):
                    for point in (self.joined.find(edge.left), self.joined.find(edge.right)):
                        if point not in found:
                            found.add(point)
                            waiting.append(point)
        return found

    def _between(self, leads: set[str]) -> list[_Edge]:
        """Return the lanes between leads and sources: what can be reached, dead ends left out."""
        reached = dict.fromkeys(self._reach(leads))
        keep = leads | self._sources.keys()
        degree: dict[str, int] = {}
        for edge in reached:
            for point in (self.joined.find(edge.left), self.joined.find(edge.right)):
                degree[point] = degree.get(point, 0) + 1
        dead = [point for point, count in degree.items() if count == 1 and point not in keep]
        while dead:
            point = dead.pop()
            for edge in self._at[point]:
                if edge not in reached:
                    continue
                del reached[edge]
                for end in (self.joined.find(edge.left), self.joined.find(edge.right)):
                    degree[end] -= 1
                    if degree[end] == 1 and end not in keep:
                        dead.append(end)
        return list(reached)

    def _reach(self, leads: set[str]) -> Iterator[_Edge]:
        seen, waiting = set(leads), list(leads)
        while waiting:
            here = waiting.pop()
            if here in self._sources:
                continue
            for edge in self._at.get(here, ()):
                left, right = self.joined.find(edge.left), self.joined.find(edge.right)
                if edge.device in self._stars or left == right:
                    continue
                yield edge
                for point in (left, right):
                    if point not in seen:
                        seen.add(point)
                        waiting.append(point)

    def _depths(self, edges: list[_Edge]) -> dict[_Edge, int]:
        """Return by lane how many devices lie between it and the nearest source."""
        depth: dict[_Edge, int] = {}
        front, seen = set(self._sources), set(self._sources)
        for level in range(len(edges) + 1):
            behind: set[str] = set()
            for edge in edges:
                if edge not in depth and self._touches(edge, front):
                    depth[edge] = level
                    behind |= {self.joined.find(edge.left), self.joined.find(edge.right)} - seen
            seen |= behind
            front = behind
        return {edge: depth.get(edge, len(edges)) for edge in edges}


def _rank(name: str) -> tuple[int, str]:
    last = name.rpartition(".")[2]
    return (MAINS.index(last) if last in MAINS else len(MAINS), name)
