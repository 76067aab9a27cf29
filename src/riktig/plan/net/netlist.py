"""Owns which terminals are one potential. Must not know numbers or places."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from riktig.catalogue.model import CONSUMER_KINDS, Element, ElementKind, Part
from riktig.job.ids import TerminalId
from riktig.job.model import Job
from riktig.job.paths import MAINS, Group, Item, Nodes, Path, Ref
from riktig.plan.basis.union import UnionFind
from riktig.plan.circuit.model import Circuit, CircuitPath
from riktig.plan.circuit.uses import Use, ends_of, holds_marks
from riktig.standards.colours import ConductorFunction


@dataclass(frozen=True, slots=True, kw_only=True)
class Net:
    """A potential: ids of its device terminals (`M1.K:A1`) in drawing order, the names people gave it and, in the power circuit, its
    phase. `fixed` is the name that it carries in place of a number: of a way in, or of a DC supply by its volts. `supply` is the control
    supply that it lies on, None where it lies on none. It does not tell where the drawing meets it, which one more would change of all.
    """

    terminals: tuple[TerminalId, ...]
    names: tuple[str, ...]
    phase: str | None
    fixed: str | None = None
    function: ConductorFunction
    supply: str | None = None

    @property
    def is_line(self) -> bool:
        """Whether it is a line, neutral or supply of the panel; `@` names are only where paths meet."""
        return any(not name.startswith("@") for name in self.names)


@dataclass(frozen=True, slots=True, kw_only=True)
class Netlist:
    """All potentials in the order in which the drawing meets them, and the marks of every use."""

    nets: tuple[Net, ...]
    ends: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]]


@dataclass(slots=True)
class _Walk:
    """Joins points while a path is walked and notes them in the order met; potentials are `=L1`.

    `loads` are the uses that feed what consumes: behind one of them, where a line leads to it, is power of another phase.
    """

    ends: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]]
    uses: Mapping[tuple[str, int], Use]
    loads: frozenset[str] = frozenset()
    joined: UnionFind[str] = field(default_factory=UnionFind)
    order: list[str] = field(default_factory=list)
    phases: dict[str, set[str]] = field(default_factory=dict)
    supplies: dict[str, str] = field(default_factory=dict)
    excepted: set[str] = field(default_factory=set)
    behind: set[str] = field(default_factory=set)
    _lanes: dict[str, str] = field(default_factory=dict)

    def path(self, path: CircuitPath) -> None:
        start = len(self.order)
        self._series(path.key, path.items, (), ())
        for point in self.order[start:]:
            if path.supply is not None:
                self.supplies.setdefault(point, path.supply)
            if path.is_excepted:
                self.excepted.add(point)

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
            own = tuple(self._lanes.get(name, name.rpartition(".")[2]) for name in item.names)
            for name, lane in zip(item.names, lanes or own, strict=False):
                self._lanes.setdefault(name, lane)
            return names, lanes or own
        if isinstance(item, Ref):
            use = self.uses[(key, item.column)]
            left, right = ([f"{use.device}:{m}" for m in side] for side in self.ends[use.key])
            self._meet(points, tuple(left))
            self._note(left, lanes)
            if item.order is not None and right:
                right = [right[place - 1] for place in item.order]
            if use.key in self.loads:
                self.order.extend(right)
                self.behind.update(right if set(lanes) <= set(MAINS) else ())
                return tuple(right), ()
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

    def _note(self, points: Sequence[str], lanes: tuple[str, ...]) -> None:
        """Put points in order, and what phase each has; behind a load none has any."""
        for point, lane in zip(points, lanes, strict=False):
            self.phases.setdefault(point, set()).add(lane)
        self.order.extend(points)


def build_netlist(
    job: Job, circuit: Circuit, uses: tuple[Use, ...], parts: Mapping[str, Part], contacts: Mapping[str, str]
) -> Netlist:
    """Return the potentials of a circuit whose parts and contacts are chosen.

    Source:
        A potential changes at every device and nowhere else: common practice.
    """
    ends = {use.key: ends_of(use, parts[use.device], contacts.get(use.key)) for use in uses}
    index = {use.mention: use for use in uses}
    loads = frozenset(use.key for use in uses if _is_load(use, parts[use.device], ends[use.key]))
    walk = _Walk(ends=ends, uses=index, loads=loads)
    for a, b in circuit.joins:
        walk.joined.join(f"={b}", f"={a}")
    rungs = [path for path in circuit.paths if not path.is_power]
    others = [path for path in circuit.paths if path.is_power]
    for path in rungs:
        walk.path(path)
    rung_end = len(walk.order)
    for path in others:
        walk.path(path)
    for device in circuit.devices:
        for element in parts[device.id].elements:
            points = [f"{device.id}:{mark}" for mark in element.marks]
            if element.kind is ElementKind.EARTH:
                for point in points:
                    walk.joined.join("=PE", point)
                    walk.order.append(point)
            elif _is_feed_through(parts[device.id], element):
                for point in points[1:]:
                    walk.joined.join(points[0], point)
    walk.order.extend(f"={name}" for pair in circuit.joins for name in pair)
    drawn = _drawing_order(circuit, uses, ends, parts)
    feeds = _Feeds(walk.joined, parts, job)
    return Netlist(nets=_collect(walk, rung_end, drawn, job, feeds), ends=ends)


def _is_load(use: Use, part: Part, ends: tuple[tuple[str, ...], tuple[str, ...]]) -> bool:
    left, right = ends
    if not use.is_feeder or len(left) != 1 or len(right) != 1:
        return False
    pair = (left[0], right[0])
    return any(e.kind in CONSUMER_KINDS and holds_marks(e, pair) for e in part.elements)


def _is_feed_through(part: Part, element: Element) -> bool:
    """Return whether both ends of an element are one potential: a terminal's or a busbar's, never a link's."""
    return element.kind is ElementKind.THROUGH and part.kind in {"terminal", "busbar"}


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


class _Feeds:
    """What feeds a potential that no name or path tells the supply of: traced through contacts and loads to a control supply, or to
    electronics that give their own extra-low DC.
    """

    def __init__(self, joined: UnionFind[str], parts: Mapping[str, Part], job: Job) -> None:
        self._joined, self._job = joined, job
        self._beside: dict[str, set[str]] = {}
        self._dc: set[str] = set()
        self._known: dict[str, str] = {}
        for device, part in parts.items():
            for element in part.elements:
                roots = {joined.find(f"{device}:{mark}") for mark in element.marks}
                if element.kind in _ELECTRONIC:
                    self._dc |= roots
                if element.kind in _ELECTRONIC or element.kind not in _PARTING:
                    for root in roots:
                        self._beside.setdefault(root, set()).update(roots - {root})
        for control in job.controls:
            role, marks = ("F", ()) if control.group_of else _SECONDARIES.get(control.kind, ("F", ()))
            for point in (
                f"={control.name}+",
                f"={control.name}-",
                *(f"{control.name}.{role}:{mark}" for mark in marks),
            ):
                self._known[joined.find(point)] = control.name

    def function_of(self, root: str, names: tuple[str, ...], supply: str | None) -> ConductorFunction:
        """Return what a potential of the control circuit is for."""
        found = supply or self._trace(root)
        control = self._job.control(found) if found else None
        is_return = any(f"{c.name}-" in names for c in self._job.controls)
        if control is None:
            is_dc = found == _OWN_DC or (
                found is None and bool(self._job.controls) and all(c.is_dc for c in self._job.controls)
            )
        else:
            is_dc = control.is_dc
        if is_dc:
            return ConductorFunction.CONTROL_DC_RETURN if is_return else ConductorFunction.CONTROL_DC
        return ConductorFunction.CONTROL_AC_RETURN if is_return else ConductorFunction.CONTROL_AC

    def _trace(self, root: str) -> str | None:
        seen, front = {root}, [root]
        while front:
            for point in front:
                if point in self._known:
                    return self._known[point]
            if any(point in self._dc for point in front):
                return _OWN_DC
            front = [p for point in front for p in sorted(self._beside.get(point, ())) if p not in seen]
            front = list(dict.fromkeys(front))
            seen.update(front)
        return None


_ELECTRONIC = frozenset({
    ElementKind.INPUT, ElementKind.ENABLE, ElementKind.OUTPUT, ElementKind.ANALOG_IN, ElementKind.ANALOG_OUT, ElementKind.SENSOR,
})  # fmt: skip
_PARTING = frozenset({
    ElementKind.PRIMARY, ElementKind.SECONDARY, ElementKind.CONVERTER, ElementKind.WINDING, ElementKind.EARTH, ElementKind.SOURCE,
})  # fmt: skip
_SECONDARIES = {"transformer": ("T", ("X1", "X2")), "psu": ("G", ("P24", "M24"))}
_OWN_DC = "="
"""What a trace ends in that comes to electronics: their own DC."""


def _collect(walk: _Walk, rung_end: int, drawn: Mapping[str, int], job: Job, feeds: _Feeds) -> tuple[Net, ...]:
    firsts: dict[str, int] = {}
    for place, point in enumerate(walk.order):
        firsts.setdefault(point, place)
    root_of = {point: walk.joined.find(point) for point in firsts}
    met: dict[str, int] = {}
    supplies: dict[str, str] = {}
    excepted: set[str] = set()
    behind: set[str] = set()
    names: dict[str, list[str]] = {}
    for point, root in root_of.items():
        if point in walk.behind:
            behind.add(root)
        met.setdefault(root, firsts[point])
        if point.startswith("="):
            names.setdefault(root, []).append(point[1:])
        if point in walk.supplies:
            supplies.setdefault(root, walk.supplies[point])
        if point in walk.excepted:
            excepted.add(root)
    members: dict[str, list[TerminalId]] = {root: [] for root in met}
    for terminal in sorted(drawn, key=drawn.__getitem__):
        members[root_of.get(terminal) or walk.joined.find(terminal)].append(TerminalId(terminal))
    by_volts = dc_names(job)
    nets = []
    for root in sorted(members, key=met.__getitem__):
        named = tuple(sorted(names.get(root, ()), key=lambda n: (n not in MAINS, n)))
        phases = {phase for t in members[root] for phase in walk.phases.get(t, ())}
        is_star = len(phases & set(MAINS)) > 1 and met[root] >= rung_end
        is_star |= not phases and root in behind and not any(name[-1] in "+-" for name in named)
        phase = phases.pop() if len(phases) == 1 else None
        is_rung = met[root] < rung_end
        function = _function_of(named, phase, is_rung=is_rung, is_excepted=root in excepted)
        nets.append(
            Net(
                terminals=tuple(members[root]),
                names=named,
                phase=None if is_rung or phase not in MAINS else phase,
                function=function
                or (ConductorFunction.POWER if is_star else feeds.function_of(root, named, supplies.get(root))),
                fixed=_fixed_name(named, by_volts),
                supply=supplies.get(root),
            )
        )
    return tuple(nets)


def dc_names(job: Job) -> dict[str, str]:
    """Return what the potentials of DC supplies are called, by volts: `C2+` -> 24V, of a second one 24V.2; groups come last."""
    names: dict[str, str] = {}
    counts: dict[str, int] = {}
    for control in sorted(job.controls, key=lambda one: one.group_of is not None):
        if control.is_dc:
            volts = f"{control.volts or 24.0:g}V"
            counts[volts] = counts.get(volts, 0) + 1
            names[f"{control.name}+"] = volts if counts[volts] == 1 else f"{volts}.{counts[volts]}"
            total = sum(counts.values())
            own = "0V" if total == 1 else f"0V.{total}"
            names[f"{control.name}-"] = names.get(f"{control.group_of}-", own)
    return names


def _fixed_name(names: tuple[str, ...], by_volts: Mapping[str, str]) -> str | None:
    """Return the name that stands in place of a number: mains first, then other ways in, then DC supplies."""
    ways_in = [name for name in names if name.rpartition(".")[2] in MAINS]
    best = min(ways_in, key=lambda n: (n.count("."), n.startswith("in."), n), default=None)
    return best or next((by_volts[name] for name in names if name in by_volts), None)


def _function_of(
    names: tuple[str, ...], phase: str | None, *, is_rung: bool, is_excepted: bool
) -> ConductorFunction | None:
    """Return what a potential is for; None where it belongs to a control supply."""
    bare = {name.rpartition(".")[2] for name in names}
    if "PE" in bare:
        return ConductorFunction.EARTH
    if "N" in bare or (phase == "N" and not is_rung):
        return ConductorFunction.NEUTRAL
    if bare & set(MAINS):
        return ConductorFunction.POWER
    if is_excepted:
        return ConductorFunction.EXCEPTED
    return ConductorFunction.POWER if phase in MAINS and not is_rung else None
