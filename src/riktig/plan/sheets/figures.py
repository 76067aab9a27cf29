"""Owns what is drawn in one piece, a figure, and how much room it takes. Must not say on which sheet it stands.

A figure is a trunk of steps in series. Where another path begins at a named potential of the trunk it hangs from it as a side
branch; what is too long or too wide for a sheet is cut, and the parts meet in joints. Lengths count in cells, widths in lanes.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from riktig.job.paths import Ref

LANES = 10
"""Lanes of a sheet: columns, or lines of a ladder."""
CONTROL_CELLS, POWER_CELLS = 7.5, 6.2
"""Cells that a lane is long."""
POWER_LENGTH_MM, SYMBOL_ROOM_MM, LETTER_MM = 173.0, 18.4, 2.3
"""Of a power sheet: what a lane is long, what a symbol takes with its terminals, and a letter of a number along a conductor."""
TIE_CELLS, FORK_CELLS, POWER_FORK_CELLS, EXCHANGE_CELLS = 0.5, 0.5, 0.7, 0.45


@dataclass(frozen=True, slots=True, kw_only=True)
class Pin:
    """The potentials on one side of a mention of a device: where a figure was cut."""

    path: str
    ref: Ref
    is_left: bool


Joint = tuple[str, ...] | Pin
"""Where a figure begins or ends: names of potentials side by side, or where it was cut."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Spot:
    """One device in series; several refs where the windings of a motor, each in a path of its own, are one symbol."""

    path: str
    refs: tuple[Ref, ...]
    paths: tuple[str, ...] = ()

    @property
    def ref(self) -> Ref:
        """The mention, the first of several."""
        return self.refs[0]

    def mentions(self) -> tuple[tuple[str, Ref], ...]:
        """Return each mention with the key of its path."""
        return tuple(zip(self.paths or (self.path,), self.refs, strict=True))


@dataclass(frozen=True, slots=True, kw_only=True)
class Tie:
    """A named potential in the course of a trunk or of a branch of a fork, with the branches that hang from it. `key` is its own."""

    key: str
    names: tuple[str, ...]
    sides: "tuple[Branch, ...]" = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Fork:
    """Branches in parallel that meet again."""

    branches: "tuple[tuple[Step, ...], ...]"


Step = Spot | Tie | Fork


@dataclass(frozen=True, slots=True, kw_only=True)
class Branch:
    """Steps in series and where they end, None in a load; `width` in conductors."""

    steps: tuple[Step, ...]
    end: Joint | None
    width: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Figure:
    """What is drawn in one piece. `key` is that of its first path, with `~2` behind it for the second part of one."""

    key: str
    owner: str | None
    is_power: bool
    start: Joint
    trunk: Branch

    @property
    def path(self) -> str:
        """The key of its first path, whose title it has."""
        return self.key.partition("~")[0]

    @property
    def lanes(self) -> int:
        """How many lanes it takes."""
        return branch_lanes(self.trunk)


def lanes_of_width(width: int) -> int:
    """Return the lanes that a series of devices of so many conductors takes."""
    return 1 if width < 4 else 2


def step_lanes(step: Step, width: int) -> int:
    """Return the lanes that a step takes for itself; side branches are counted by `branch_lanes`."""
    if isinstance(step, Fork):
        return sum(steps_lanes(branch, width) for branch in step.branches)
    return lanes_of_width(width)


def steps_lanes(steps: Iterable[Step], width: int) -> int:
    """Return the lanes of steps in series without what hangs from them."""
    return max((step_lanes(step, width) for step in steps), default=lanes_of_width(width))


def sides_of(branch: Branch) -> tuple[Branch, ...]:
    """Return the side branches in the order in which their lanes follow the trunk's: those that begin lowest first, so that
    nothing crosses what hangs further out.
    """
    return tuple(side for step in reversed(branch.steps) if isinstance(step, Tie) for side in step.sides)


def side_lanes(branch: Branch, lane: int) -> Iterator[tuple[Branch, int]]:
    """Yield what hangs from a branch that stands in a lane, each with its first lane."""
    lane += steps_lanes(branch.steps, branch.width)
    for side in sides_of(branch):
        yield side, lane
        lane += branch_lanes(side)


def fork_lanes(fork: Fork, width: int, lane: int) -> Iterator[tuple[tuple[Step, ...], int]]:
    """Yield the branches of a fork, each with its first lane."""
    for branch in fork.branches:
        yield branch, lane
        lane += steps_lanes(branch, width)


def branch_lanes(branch: Branch) -> int:
    """Return the lanes of a branch with all that hangs from it."""
    return steps_lanes(branch.steps, branch.width) + sum(branch_lanes(side) for side in sides_of(branch))


def step_cells(step: Step, *, is_power: bool) -> float:
    """Return how long a step is, in cells."""
    if isinstance(step, Spot):
        return 1.0 + (EXCHANGE_CELLS if step.ref.order is not None else 0.0)
    if isinstance(step, Tie):
        return POWER_FORK_CELLS if is_power else TIE_CELLS
    inner = max(steps_cells(branch, is_power=is_power) for branch in step.branches)
    return inner + (POWER_FORK_CELLS if is_power else FORK_CELLS)


def steps_cells(steps: Iterable[Step], *, is_power: bool) -> float:
    """Return how long steps in series are, in cells."""
    return sum(step_cells(step, is_power=is_power) for step in steps)


def branch_cells(branch: Branch, *, is_power: bool) -> float:
    """Return how far a branch reaches with all that hangs from it, in cells."""
    reach = at = 0.0
    for step in branch.steps:
        if isinstance(step, Tie):
            deepest = max((branch_cells(side, is_power=is_power) for side in step.sides), default=0.0)
            reach = max(reach, at + step_cells(step, is_power=is_power) + deepest)
        at += step_cells(step, is_power=is_power)
    return max(reach, at)


def spots_in(steps: Iterable[Step]) -> Iterator[Spot]:
    """Yield every spot of steps in series, those in forks and side branches included."""
    for step in steps:
        if isinstance(step, Spot):
            yield step
        elif isinstance(step, Fork):
            for branch in step.branches:
                yield from spots_in(branch)
        else:
            for side in step.sides:
                yield from spots_in(side.steps)


def power_cells(letters: int) -> float:
    """Return how many cells a lane of a power sheet is long, where wire numbers of so many letters stand along the conductors."""
    return min(POWER_CELLS, POWER_LENGTH_MM / (SYMBOL_ROOM_MM + LETTER_MM * letters))
