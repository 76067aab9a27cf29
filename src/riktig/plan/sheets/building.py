"""Owns how the paths that hang together become figures, and how what is too large is cut. Must not place them on sheets."""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from itertools import count

from riktig.job.paths import Group, Item, Nodes, Ref
from riktig.plan.circuit.model import Circuit, CircuitPath
from riktig.plan.sheets.figures import (
    CONTROL_CELLS,
    LANES,
    Branch,
    Figure,
    Fork,
    Joint,
    Pin,
    Spot,
    Step,
    Tie,
    branch_cells,
    branch_lanes,
    power_cells,
    spots_in,
    step_cells,
    step_lanes,
    steps_cells,
    steps_lanes,
)


def build_figures(circuit: Circuit, letters: int = 4) -> tuple[Figure, ...]:
    """Return the circuit as figures in drawing order, each small enough for a sheet.

    Args:
        circuit: what is to be drawn.
        letters: of the wire numbers that power sheets must have room for.
    """
    found: list[Figure] = []
    for is_power in (True, False):
        room = power_cells(letters) if is_power else CONTROL_CELLS
        paths = _merge_windings([path for path in circuit.paths if path.is_power is is_power], circuit)
        found.extend(part for figure in _attach_all(paths, is_power=is_power, room=room) for part in _cut(figure, room))
    return tuple(found)


# -- from paths to trunks


@dataclass(slots=True)
class _Line:
    """A path as steps; `source` the path that gives key and owner."""

    source: CircuitPath
    start: tuple[str, ...]
    steps: list[Step]
    end: Joint | None
    width: int

    def key(self) -> tuple[str | None, bool]:
        return self.source.owner, self.source.is_power

    def names(self) -> Iterator[str]:
        """Yield every name that it meets, at its ends and in its course."""
        yield from self.start
        if isinstance(self.end, tuple):
            yield from self.end
        for step in self.steps:
            if isinstance(step, Tie):
                yield from step.names


def _line_of(path: CircuitPath) -> _Line:
    first, rest = path.items[0], list(path.items[1:])
    assert isinstance(first, Nodes)
    end: Joint | None = None
    last = rest[-1]
    if isinstance(last, Nodes):
        end = last.names
        rest.pop()
    steps = [_step_of(path.key, item) for item in rest]
    return _Line(path, first.names, steps, end, len(first.names))


def _step_of(key: str, item: Item) -> Step:
    if isinstance(item, Ref):
        return Spot(path=key, refs=(item,))
    if isinstance(item, Nodes):
        return Tie(key=f"{key}:{item.column}", names=item.names)
    assert isinstance(item, Group)
    return Fork(branches=tuple(tuple(_step_of(key, inner) for inner in branch) for branch in item.branches))


def _merge_windings(paths: list[CircuitPath], circuit: Circuit) -> list[_Line]:
    """Return paths as lines; neighbours that each lead one winding of one motor, up to three, become one line as wide as they are many."""
    lines: list[_Line] = []
    for path in paths:
        line, last = _line_of(path), lines[-1] if lines else None
        device = _winding_of(line, circuit)
        if device is not None and last is not None and last.source.owner == path.owner:
            spot = last.steps[0]
            own = line.steps[0]
            if (
                len(last.steps) == 1
                and isinstance(spot, Spot)
                and isinstance(own, Spot)
                and _winding_of(last, circuit, many=True) == device
                and len(spot.refs) < _MOST_WINDINGS
            ):
                assert isinstance(line.end, tuple) and isinstance(last.end, tuple)
                last.steps = [
                    Spot(
                        path=spot.path,
                        refs=(*spot.refs, own.ref),
                        paths=(*(spot.paths or (spot.path,)), path.key),
                    )
                ]
                last.start, last.end, last.width = last.start + line.start, last.end + line.end, last.width + 1
                continue
        lines.append(line)
    return lines


_MOST_WINDINGS = 3
"""So many are drawn as one motor: one of each phase."""


def _winding_of(line: _Line, circuit: Circuit, *, many: bool = False) -> str | None:
    """Return the motor whose single winding a line is, None if it is something else."""
    spot = line.steps[0] if len(line.steps) == 1 else None
    if not isinstance(spot, Spot) or not isinstance(line.end, tuple) or (line.width > 1 and not many):
        return None
    device = circuit.index.get(spot.ref.device)
    is_lead = device is not None and device.kind == "motor" and line.source.is_power
    return (
        spot.ref.device
        if is_lead and spot.ref.marks is not None and len({_phase(mark) for mark in spot.ref.marks}) == 1
        else None
    )


def _phase(mark: str) -> str:
    """Return the letter of a motor lead's mark: U of U1 and of 1U."""
    return mark.strip("0123456789")


# -- joining lines into figures


@dataclass(slots=True)
class _Bough:
    """A branch that still grows: how deep it begins in cells, and what hangs from it by the index of the step."""

    line: _Line
    depth: float
    sides: dict[int, "list[_Bough]"] = field(default_factory=dict)

    def frozen(self) -> Branch:
        steps = tuple(
            replace(step, sides=tuple(side.frozen() for side in self.sides.get(index, ())))
            if isinstance(step, Tie)
            else step
            for index, step in enumerate(self.line.steps)
        )
        return Branch(steps=steps, end=self.line.end, width=self.line.width)


@dataclass(slots=True)
class _Tree:
    """A figure that still grows, with all of its branches."""

    trunk: _Bough
    boughs: list[_Bough]


def _attach_all(lines: list[_Line], *, is_power: bool, room: float) -> list[Figure]:
    trees: list[_Tree] = []
    met = Counter(name for line in lines for name in line.names())
    owner: tuple[str | None, bool] | None = None
    open_trees: list[_Tree] = []
    for line in lines:
        if line.key() != owner or line.source.owner is None:
            owner, open_trees = line.key(), []
        if not any(_join(tree, line, met, room) for tree in open_trees):
            trunk = _Bough(line, 0.0)
            tree = _Tree(trunk, [trunk])
            trees.append(tree)
            open_trees.append(tree)
    return [_figure_of(tree) for tree in trees]


def _figure_of(tree: _Tree) -> Figure:
    line = tree.trunk.line
    source = line.source
    return Figure(
        key=source.key, owner=source.owner, is_power=source.is_power, start=line.start,
        trunk=tree.trunk.frozen(),
    )  # fmt: skip


def _join(tree: _Tree, line: _Line, met: Mapping[str, int], room: float) -> bool:
    """Hang a line from a figure, or let it go on where one ends; return whether there was such a place."""
    if not all(name.startswith("@") for name in line.start):
        return False
    is_power = line.source.is_power
    cells = steps_cells(line.steps, is_power=is_power)
    lanes = steps_lanes(line.steps, line.width)
    for bough in tree.boughs:
        own = bough.line
        if own.end == line.start and not isinstance(own.steps[-1], Tie):
            between = (
                ()
                if all(met[name] == 2 for name in line.start)
                else (Tie(key=f"{line.source.key}:start", names=line.start),)
            )
            longer = steps_cells((*own.steps, *between), is_power=is_power) + cells
            wider = max(0, lanes - steps_lanes(own.steps, own.width))
            if bough.depth + longer <= room and _lanes(tree) + wider <= LANES:
                own.steps = [*own.steps, *between, *line.steps]
                own.end = line.end
                return True
        for index, step in enumerate(own.steps):
            if isinstance(step, Tie) and step.names == line.start:
                depth = bough.depth + steps_cells(own.steps[: index + 1], is_power=is_power)
                if depth + cells <= room and _lanes(tree) + lanes <= LANES:
                    side = _Bough(line, depth)
                    bough.sides.setdefault(index, []).append(side)
                    tree.boughs.append(side)
                    return True
    return False


def _lanes(tree: _Tree) -> int:
    return sum(steps_lanes(bough.line.steps, bough.line.width) for bough in tree.boughs)


# -- cutting what is too large


def _cut(figure: Figure, room: float) -> list[Figure]:
    """Return the figure in parts that fit a sheet, the first under its own key."""
    numbers = count(2)
    waiting, parts = [figure], []
    while waiting:
        whole = waiting.pop(0)
        first, rest = _cut_once(whole, room)
        parts.append(first)
        waiting = [replace(part, key=f"{figure.key}~{next(numbers)}") for part in rest] + waiting
    return parts


def _cut_once(figure: Figure, room: float) -> tuple[Figure, list[Figure]]:
    """Return what fits of a figure, and the rest in parts, each of which may have to be cut again."""
    figure, is_power = _without_first_tie(figure), figure.is_power
    steps, trunk = figure.trunk.steps, figure.trunk
    fits = branch_cells(trunk, is_power=is_power) <= room and branch_lanes(trunk) <= LANES
    if fits:
        return figure, []
    at = 0.0
    for index, step in enumerate(steps):
        is_large = step_lanes(step, trunk.width) > LANES or step_cells(step, is_power=is_power) > room
        if is_large and isinstance(step, Fork):
            return _take_apart(figure, index, step, room)
        at += step_cells(step, is_power=is_power)
        if at > room:
            break
    else:
        index = len(steps)
    while index > 0 and isinstance(steps[index - 1], Tie):
        index -= 1
    return _split(figure, max(index, 1))


def _without_first_tie(figure: Figure) -> Figure:
    """Return the figure without a potential at its head that is its start anyway, and from which nothing hangs."""
    first = figure.trunk.steps[0]
    if isinstance(first, Tie) and first.names == figure.start and not first.sides:
        return replace(figure, trunk=replace(figure.trunk, steps=figure.trunk.steps[1:]))
    return figure


def _split(figure: Figure, index: int) -> tuple[Figure, list[Figure]]:
    trunk = figure.trunk
    joint = _joint_before(trunk.steps[index:])
    first = replace(figure, trunk=replace(trunk, steps=trunk.steps[:index], end=joint))
    rest = replace(figure, start=joint, trunk=replace(trunk, steps=trunk.steps[index:]))
    return first, [rest]


def _take_apart(figure: Figure, index: int, fork: Fork, room: float) -> tuple[Figure, list[Figure]]:
    """Return the figure up to a fork, each branch of the fork as a figure of its own, and what comes behind it."""
    trunk = figure.trunk
    before, after = _joint_before((fork,)), _joint_after(fork)
    branches = [
        replace(figure, start=before, trunk=Branch(steps=branch, end=after, width=trunk.width))
        for branch in fork.branches
    ]
    behind = trunk.steps[index + 1 :]
    rest = [replace(figure, start=after, trunk=replace(trunk, steps=behind))] if behind else []
    if any(spots_in(trunk.steps[:index])):
        return replace(figure, trunk=replace(trunk, steps=trunk.steps[:index], end=before)), [*branches, *rest]
    branches = [replace(branch, start=figure.start) for branch in branches]
    if not behind and trunk.end is not None:
        branches = [replace(branch, trunk=replace(branch.trunk, end=trunk.end)) for branch in branches]
    first, more = _cut_once(branches[0], room)
    return first, [*more, *branches[1:], *rest]


def _joint_before(steps: tuple[Step, ...]) -> Joint:
    step = steps[0]
    if isinstance(step, Tie):
        return step.names
    if isinstance(step, Fork):
        return _joint_before(step.branches[0])
    return Pin(path=step.path, ref=step.ref, is_left=True)


def _joint_after(step: Step) -> Joint:
    if isinstance(step, Tie):
        return step.names
    if isinstance(step, Fork):
        return _joint_after(step.branches[0][-1])
    return Pin(path=step.path, ref=step.ref, is_left=False)
