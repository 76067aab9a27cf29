"""Owns which terminals are one potential. Must not know numbers or places."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from riktig.catalogue.model import ElementKind, Part
from riktig.job.model import Job
from riktig.job.paths import Group, Item, Nodes, Path, Ref
from riktig.plan.circuit import Circuit
from riktig.plan.contacts import Use, ends_of
from riktig.standards.colours import ConductorFunction


@dataclass(frozen=True, slots=True, kw_only=True)
class Net:
    """A potential: ids of its device terminals (`M1.K:A1`) in drawing order, the names people gave it and, in
    the power circuit, its phase. `met_at` orders it for numbering: (0, n) in a rung, (1, n) elsewhere.
    """

    terminals: tuple[str, ...]
    names: tuple[str, ...]
    phase: str | None
    met_at: tuple[int, int]
    function: ConductorFunction


@dataclass(frozen=True, slots=True, kw_only=True)
class Netlist:
    """All potentials in the order in which the drawing meets them, and the marks of every use."""

    nets: tuple[Net, ...]
    ends: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]]


class UnionFind:
    """Sets of strings that are one; a point never seen stands alone."""

    def __init__(self) -> None:
        self._parent: dict[str, str] = {}

    def find(self, point: str) -> str:
        """Return the point that stands for the set of `point`."""
        parent = self._parent
        root = point
        while parent.setdefault(root, root) != root:
            root = parent[root]
        while parent[point] != root:
            parent[point], point = root, parent[point]
        return root

    def join(self, a: str, b: str) -> None:
        """Make the sets of both points one."""
        root_a, root_b = self.find(a), self.find(b)
        if root_a != root_b:
            self._parent[root_b] = root_a


@dataclass(slots=True)
class _Walk:
    """Joins points while a path is walked and notes them in the order met; potentials are `=L1`."""

    ends: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]]
    uses: Mapping[tuple[str, int], Use]
    joined: UnionFind = field(default_factory=UnionFind)
    order: list[str] = field(default_factory=list)
    phases: dict[str, str] = field(default_factory=dict)

    def path(self, key: str, items: Path) -> None:
        points, lanes = self._series(key, items, (), ())
        del points, lanes

    def _series(
        self, key: str, items: Path, points: tuple[str, ...], lanes: tuple[str, ...]
    ) -> tuple[tuple[str, ...], tuple[str, ...]]:
        for item in items:
            points, lanes = self._item(key, item, points, lanes)
        return points, lanes

    def _item(
        self, key: str, item: Item, points: tuple[str, ...], lanes: tuple[str, ...]
    ) -> tuple[tuple[str, ...], tuple[str, ...]]:
        if isinstance(item, Nodes):
            names = tuple(f"={name}" for name in item.names)
            self._meet(points, names)
            if not lanes:
                lanes = tuple(name.removeprefix("in.") for name in item.names)
            return names, lanes
        if isinstance(item, Ref):
            use = self.uses[(key, item.column)]
            left, right = ([f"{use.device}:{m}" for m in side] for side in self.ends[use.key])
            self._meet(points, tuple(left))
            self._note(left, lanes)
            if item.order is not None and right:
                right = [right[place - 1] for place in item.order]
            self._note(right, lanes)
            return tuple(right), lanes
        return self._group(key, item, points, lanes)

    def _group(
        self, key: str, group: Group, points: tuple[str, ...], lanes: tuple[str, ...]
    ) -> tuple[tuple[str, ...], tuple[str, ...]]:
        ends: tuple[str, ...] = ()
        for branch in group.branches:
            out, _ = self._series(key, branch, points, lanes)
            self._meet(ends, out)
            ends = ends or out
        return ends, lanes

    def _meet(self, before: tuple[str, ...], after: tuple[str, ...]) -> None:
        for a, b in zip(before, after, strict=bool(before and after)):
            self.joined.join(a, b)
        self.order.extend(after)

    def _note(self, points: Iterable[str], lanes: tuple[str, ...]) -> None:
        for point, lane in zip(points, lanes, strict=False):
            self.phases.setdefault(point, lane)
            self.order.append(point)


def build_netlist(
    job: Job, circuit: Circuit, uses: tuple[Use, ...], parts: Mapping[str, Part], contacts: Mapping[str, str]
) -> Netlist:
    """Return the potentials of a circuit whose parts and contacts are chosen.

    Source:
        A potential changes at every device and nowhere else: common practice.
    """
    ends = {use.key: ends_of(use, parts[use.device], contacts.get(use.key)) for use in uses}
    index = {(use.key.split("|", 1)[0], use.ref.column): use for use in uses}
    walk = _Walk(ends=ends, uses=index)
    for a, b in circuit.joins:
        walk.joined.join(f"={b}", f"={a}")
    rungs = [path for path in circuit.paths if not path.is_power]
    others = [path for path in circuit.paths if path.is_power]
    for path in rungs:
        walk.path(path.key, path.items)
    rung_end = len(walk.order)
    for path in others:
        walk.path(path.key, path.items)
    for device in circuit.devices:
        for element in parts[device.id].elements:
            if element.kind is ElementKind.EARTH:
                for mark in element.marks:
                    walk.joined.join("=PE", f"{device.id}:{mark}")
                    walk.order.append(f"{device.id}:{mark}")
    walk.order.extend(f"={name}" for pair in circuit.joins for name in pair)
    drawn = _drawing_order(circuit, uses, ends, parts)
    return Netlist(nets=_collect(walk, rung_end, drawn, job), ends=ends)


def _drawing_order(
    circuit: Circuit,
    uses: tuple[Use, ...],
    ends: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]],
    parts: Mapping[str, Part],
) -> dict[str, int]:
    """Return the place of every wired terminal in drawing order: power sheet first, then control, earth last."""
    order: dict[str, int] = {}
    for use in uses:
        for side in ends[use.key]:
            for mark in side:
                order.setdefault(f"{use.device}:{mark}", len(order))
    for device_ in circuit.devices:
        for element in parts[device_.id].elements:
            if element.kind is ElementKind.EARTH:
                for mark in element.marks:
                    order.setdefault(f"{device_.id}:{mark}", len(order))
    return order


def _collect(walk: _Walk, rung_end: int, drawn: Mapping[str, int], job: Job) -> tuple[Net, ...]:
    met: dict[str, int] = {}
    members: dict[str, list[str]] = {}
    for place, point in enumerate(walk.order):
        root = walk.joined.find(point)
        met.setdefault(root, place)
        members.setdefault(root, [])
    for terminal in sorted(drawn, key=drawn.__getitem__):
        members[walk.joined.find(terminal)].append(terminal)
    names: dict[str, list[str]] = {root: [] for root in members}
    for point in dict.fromkeys(walk.order):
        if point.startswith("="):
            names[walk.joined.find(point)].append(point[1:])
    nets = []
    for root in sorted(members, key=met.__getitem__):
        named = tuple(sorted(names[root], key=lambda n: (n not in _MAINS, n)))
        phase = next((walk.phases[t] for t in members[root] if t in walk.phases), None)
        is_rung = met[root] < rung_end
        nets.append(
            Net(
                terminals=tuple(members[root]),
                names=named,
                phase=None if is_rung or phase not in _MAINS else phase,
                met_at=(0 if is_rung else 1, met[root]),
                function=_function_of(named, phase, is_rung=is_rung, job=job),
            )
        )
    return tuple(nets)


_MAINS = ("L1", "L2", "L3", "N", "PE")


def _function_of(names: tuple[str, ...], phase: str | None, *, is_rung: bool, job: Job) -> ConductorFunction:
    bare = {name.removeprefix("in.") for name in names}
    if "PE" in bare:
        return ConductorFunction.EARTH
    if "N" in bare:
        return ConductorFunction.NEUTRAL
    if bare & set(_MAINS) or (phase in _MAINS and not is_rung):
        return ConductorFunction.NEUTRAL if phase == "N" and not bare & set(_MAINS) else ConductorFunction.POWER
    if any(f"{control.name}-" in bare for control in job.controls):
        return ConductorFunction.CONTROL_AC_RETURN
    return ConductorFunction.CONTROL_AC
