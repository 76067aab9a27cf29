"""Owns where each potential is drawn, piece by piece, and which busbars a sheet has. Must not draw.

A piece is what hangs together on a sheet: a busbar, or one end or tie of a figure. The pieces of a potential form a chain in the order
of the sheets: each refers to the one before it and the one behind it, so that a reader can follow it from end to end.
"""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from riktig.drawings.circuit.geometry import MOST_BOTTOM, MOST_TOP, MOST_TOP_POWER, WIDE_AXIS
from riktig.drawings.frame import COLUMN_WIDTH
from riktig.drawings.shapes import POLE_PITCH
from riktig.job.paths import MAINS
from riktig.plan.net.netlist import Netlist
from riktig.plan.net.numbers import Potential
from riktig.plan.plan import Plan
from riktig.plan.sheets.allocation import Place, lane_walk
from riktig.plan.sheets.figures import Branch, Figure, Joint, Pin, Spot, Tie, side_lanes


@dataclass(frozen=True, slots=True, kw_only=True)
class Tap:
    """Where a busbar is tapped: a lane of so many conductors, and which of them."""

    lane: int
    width: int
    conductor: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Bus:
    """A busbar of a sheet: the potential's number, its level from the edge, and its taps from lane to lane."""

    number: str
    level: int
    taps: tuple[Tap, ...]

    @property
    def first(self) -> int:
        """The lane of its first tap."""
        return self.taps[0].lane

    @property
    def last(self) -> int:
        """The lane of its last tap."""
        return self.taps[-1].lane


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetBuses:
    """The busbars at the head and at the foot of a sheet, by number."""

    heads: Mapping[str, Bus]
    feet: Mapping[str, Bus]


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """One piece of a potential; `id` is unique in the set of sheets."""

    id: str
    number: str
    place: Place


@dataclass(frozen=True, slots=True, kw_only=True)
class Neighbours:
    """The pieces before and behind one in the chain of its potential."""

    before: Piece | None
    behind: Piece | None


class Numbers:
    """What number the potential at a joint or terminal has; `uses` are the uses by where they stand."""

    def __init__(self, plan: Plan) -> None:
        self._named = {name: p.number for p in plan.potentials for name in p.net.names}
        self._plan = plan
        self._ends: Netlist = plan.netlist
        self._words = {p.number: _supply_words(p) for p in plan.potentials}
        self.uses = {use.mention: use for use in plan.uses}

    def of_terminal(self, terminal: str) -> str:
        """Return the number at a device terminal, empty if it has none."""
        return self._plan.number_at(terminal)

    def words(self, number: str) -> str:
        """Return a number as it stands at an arrow or busbar: with the name of the control supply that it is."""
        return self._words.get(number, number)

    def of_name(self, name: str) -> str:
        """Return the number of a potential that people named."""
        return self._named.get(name, name)

    def at_joint(self, joint: Joint) -> tuple[str, ...]:
        """Return the numbers at a joint, one for each conductor."""
        if not isinstance(joint, Pin):
            return tuple(self.of_name(name) for name in joint)
        use = self.uses[(joint.path, joint.ref.column)]
        left, right = self._ends.ends[use.key]
        marks = left if joint.is_left else right
        if not joint.is_left and joint.ref.order is not None:
            marks = tuple(right[place - 1] for place in joint.ref.order)
        return tuple(self.of_terminal(f"{use.device}:{mark}") for mark in marks)


def _supply_words(potential: Potential) -> str:
    name = next((n for n in potential.net.names if n.endswith(("+", "-"))), "")
    return f"{potential.number} {name}" if name and potential.net.fixed is None else potential.number


def bottom_joints(branch: Branch, lane: int = 0) -> Iterator[tuple[Joint, int, str]]:
    """Yield the end of a branch and of all that hangs from it, each with its lane and a name of its own."""
    if branch.end is not None:
        yield branch.end, lane, f"end{lane}"
    for side, at in side_lanes(branch, lane):
        yield from bottom_joints(side, at)


def ties_of(branch: Branch) -> Iterator[tuple[Tie, int]]:
    """Yield the ties of a branch, its forks and sides, each with its lane."""
    return ((step, lane) for step, lane in lane_walk(branch) if isinstance(step, Tie))


class Pieces:
    """All pieces of a plan's potentials."""

    def __init__(self, plan: Plan, numbers: Numbers) -> None:
        self._numbers = numbers
        self._sheets = plan.sheets
        self.buses: dict[int, SheetBuses] = {}
        chains: defaultdict[str, list[Piece]] = defaultdict(list)
        self._neighbours: dict[str, Neighbours] = {}
        for sheet in plan.sheets.sheets():
            figures = plan.sheets.on(sheet)
            self.buses[sheet] = self._buses_of(figures)
            for piece in self._pieces_of(figures, self.buses[sheet]):
                chains[piece.number].append(piece)
        for chain in chains.values():
            for piece, before, behind in zip(chain, [None, *chain], [*chain[1:], None], strict=False):
                self._neighbours[piece.id] = Neighbours(before=before, behind=behind)

    def neighbours(self, piece: str) -> Neighbours:
        """Return what lies before and behind a piece; both None where the potential is drawn in one piece."""
        return self._neighbours.get(piece, Neighbours(before=None, behind=None))

    def _buses_of(self, figures: tuple[Figure, ...]) -> SheetBuses:
        if not figures:
            return SheetBuses(heads={}, feet={})
        is_power = figures[0].is_power
        heads: defaultdict[str, list[Tap]] = defaultdict(list)
        feet: defaultdict[str, list[Tap]] = defaultdict(list)
        for figure in figures:
            lane = self._sheets.places[figure.key].lane
            top = figure.start if not is_incoming(figure) else figure.trunk.end
            if top is not None:
                self._tap(heads, top, lane)
            for joint, offset, _ in () if is_power else bottom_joints(figure.trunk):
                self._tap(feet, joint, lane + offset)
        gap = 1 if self._sheets.places[figures[0].key].is_line else 0
        return SheetBuses(
            heads=_levels(heads, MOST_TOP_POWER if is_power else MOST_TOP, gap), feet=_levels(feet, MOST_BOTTOM, gap)
        )

    def _tap(self, taps: defaultdict[str, list[Tap]], joint: Joint, lane: int) -> None:
        numbers = self._numbers.at_joint(joint)
        for n, number in enumerate(numbers):
            taps[number].append(Tap(lane=lane, width=len(numbers), conductor=n))

    def _pieces_of(self, figures: tuple[Figure, ...], buses: SheetBuses) -> list[Piece]:
        """Return the pieces of a sheet from its first lane to its last; earth is drawn by its symbol everywhere."""
        found: dict[str, Piece] = {}
        for figure in figures:
            place = self._sheets.places[figure.key]

            def add(number: str, piece: str, at: Place) -> None:
                if number and number != "PE":
                    found.setdefault(piece, Piece(id=piece, number=number, place=at))

            starts = self._numbers.at_joint(figure.start)
            if is_incoming(figure):
                for n, number in enumerate(starts):
                    add(number, start_id(figure, n), place.moved(lane_shift(n)))
                assert figure.trunk.end is not None
                for n, number in enumerate(self._numbers.at_joint(figure.trunk.end)):
                    add(number, head_id(place, number) if number in buses.heads else end_id(figure, "end0", n), place)
                continue
            for n, number in enumerate(starts):
                is_bus = number in buses.heads
                piece = head_id(place, number) if is_bus else start_id(figure, n)
                add(number, piece, place if is_bus else place.moved(lane_shift(n)))
            for tie, offset in ties_of(figure.trunk):
                for n, number in enumerate(self._numbers.at_joint(tie.names)):
                    add(number, tie_id(tie, n), place.moved(offset + lane_shift(n)))
            for joint, offset, name in bottom_joints(figure.trunk):
                for n, number in enumerate(dict.fromkeys(self._numbers.at_joint(joint))):
                    is_foot = number in buses.feet
                    piece = foot_id(place, number) if is_foot else end_id(figure, name, n)
                    add(number, piece, place.moved(offset + (0 if is_foot else lane_shift(n))))
        return sorted(found.values(), key=lambda piece: piece.place.lane)


def lane_shift(conductor: int) -> int:
    """Return how many lanes further on than the first one conductor of several stands, counted from 0."""
    return int((WIDE_AXIS + conductor * POLE_PITCH) // COLUMN_WIDTH)


def is_incoming(figure: Figure) -> bool:
    """Return whether a figure is the way in, a single switch that stands above the busbars."""
    steps = figure.trunk.steps
    return figure.key == "incoming" and len(steps) == 1 and isinstance(steps[0], Spot) and steps[0].ref.order is None


def start_id(figure: Figure, conductor: int) -> str:
    """Return the id of a piece at the start of a figure."""
    return f"piece:{figure.key}:start.{conductor}"


def tie_id(tie: Tie, conductor: int) -> str:
    """Return the id of a piece in the course of a figure."""
    return f"tie:{tie.key}.{conductor}"


def end_id(figure: Figure, name: str, conductor: int) -> str:
    """Return the id of a piece at an end of a figure."""
    return f"piece:{figure.key}:{name}.{conductor}"


def head_id(place: Place, number: str) -> str:
    """Return the id of a busbar at the head of a sheet."""
    return f"bus:{place.sheet}:head:{number}"


def foot_id(place: Place, number: str) -> str:
    """Return the id of a busbar at the foot of a sheet."""
    return f"bus:{place.sheet}:foot:{number}"


def _levels(taps: Mapping[str, list[Tap]], most: int, gap: int) -> dict[str, Bus]:
    """Return busbars for what is tapped in two lanes or more; two share a level where so many lanes lie free between them."""
    wide = {
        number: sorted(found, key=lambda tap: (tap.lane, tap.conductor))
        for number, found in taps.items()
        if len({tap.lane for tap in found}) > 1 and number and number != "PE"
    }
    levels: list[list[Bus]] = []
    for number, found in sorted(wide.items(), key=lambda item: _bus_rank(item[0], item[1][0].lane, item[1][-1].lane)):
        first, last = found[0].lane, found[-1].lane
        free = (i for i, row in enumerate(levels) if all(b.last + gap < first or b.first > last + gap for b in row))
        level = next(free, len(levels))
        if level == most:
            continue
        if level == len(levels):
            levels.append([])
        levels[level].append(Bus(number=number, level=level, taps=tuple(found)))
    return {bus.number: bus for row in levels for bus in row}


def _bus_rank(number: str, first: int, last: int) -> tuple[int, int, int]:
    """Return what orders busbars from the edge: mains in their order, then the longest."""
    mains = MAINS.index(number) if number in MAINS else len(MAINS)
    return mains, first - last, first
