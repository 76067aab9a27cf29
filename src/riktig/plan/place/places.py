"""Owns the ledger's places on the plate: what stands stays, what is new takes the best free place. Must not arrange on purpose.

Source of what is good about a place: common practice, no source.
"""

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from riktig.job.entries import DUCT_KEY, RAIL_KEY, SIZE_KEY, OnDoor, OnPlate, OnRail, Place, PlateSize
from riktig.job.ledger import Choice, Choices
from riktig.job.model import Job
from riktig.plan.circuit.zones import device_of
from riktig.plan.net.numbers import Potential
from riktig.plan.net.strips import Clamp
from riktig.plan.place.first_rows import first_layout
from riktig.plan.place.items import PART_GAP_MM, Band, PlateItem
from riktig.plan.place.layout import (
    Box,
    Duct,
    Rail,
    box_at,
    hung_box,
    plate_size,
    read_ducts,
    read_rails,
)
from riktig.plan.place.stack import RAIL_GAP_MM, ROW_FILL, SIDE_GAP_MM, least_sizes, stack_rows, usual_ducts


def allocate_places(
    job: Job,
    items: Sequence[PlateItem],
    potentials: Sequence[Potential],
    clamps: Sequence[Clamp],
    kept: Choices,
) -> dict[str, Any]:
    """Return the places of rails, ducts and items.

    Until somebody arranges the plate, moves something by hand or issues a revision, all of it is laid out afresh, and again when the
    enclosure gets another size; what a brief holds stands where it says. From then on what stands legally stays, and what is new takes
    the best free place. Which ducts are to be larger than usual is said by whoever knows the wires, and holds for that enclosure.
    """
    arranged = arranged_size(job)
    before = kept[SIZE_KEY].value if SIZE_KEY in kept else arranged
    frame = {key: choice for key, choice in kept.items() if key.startswith((RAIL_KEY, DUCT_KEY))}
    if not frame or (before != arranged and not holds_plate(kept)):
        asked = asked_ducts(kept, arranged)
        stack = stack_rows(job, *first_layout(job, items, least_sizes(asked)))
        held = {item.id: kept[item.id] for item in items if _is_held(kept, item.id)}
        if not held:
            return {SIZE_KEY: replace(arranged, is_arranged=False, ducts=asked), **stack.values()}
        first = {key: Choice(value) for key, value in stack.values().items()}
        frame = {key: choice for key, choice in first.items() if key not in stack.places}
        return {
            SIZE_KEY: arranged,
            **_filled(job, items, frame, {**first, **held}, affinities(items, potentials, clamps)),
        }
    filled = _filled(job, items, frame, kept, affinities(items, potentials, clamps))
    return {SIZE_KEY: before if _is_held(kept, SIZE_KEY) else arranged, **filled}


def _filled(
    job: Job, items: Sequence[PlateItem], frame: Choices, kept: Choices, ties: Mapping[str, Mapping[str, int]]
) -> dict[str, Any]:
    """Return the frame and where each item stands: what somebody holds first, then what stands legally, then all else."""
    floor = _Floor(job, frame, ties)
    ordered = sorted(items, key=lambda item: not _is_held(kept, item.id))
    waiting = [item for item in ordered if not floor.keep(item, kept)]
    for item in waiting:
        floor.place(item)
    return floor.values(items)


def arranged_size(job: Job) -> PlateSize:
    """Return what the ledger has of the plate's size once somebody laid it out."""
    return PlateSize(*plate_size(job), is_arranged=True)


def holds_plate(places: Choices) -> bool:
    """Return whether something on the plate is held, so that its rails and ducts stay where they are."""
    return any(choice.is_held and not isinstance(choice.value, OnDoor) for choice in places.values())


def asked_ducts(kept: Choices, size: PlateSize) -> tuple[tuple[str, float, float], ...]:
    """Return which ducts of a plate of this size are to be larger than usual."""
    before = kept[SIZE_KEY].value if SIZE_KEY in kept else size
    return before.ducts if (before.width, before.height) == (size.width, size.height) else ()


def is_provisional(places: Choices) -> bool:
    """Return whether the plate is laid out afresh with every change: nobody arranged it, nor holds anything on it."""
    return SIZE_KEY in places and not places[SIZE_KEY].value.is_arranged and not holds_plate(places)


def _values(choices: Choices) -> dict[str, Any]:
    return {key: choice.value for key, choice in choices.items()}


def _is_held(kept: Choices, key: str) -> bool:
    return key in kept and kept[key].is_held


def affinities(
    items: Sequence[PlateItem], potentials: Sequence[Potential], clamps: Sequence[Clamp]
) -> dict[str, dict[str, int]]:
    """Return how many potentials an item shares with each other one; potentials of many items (more than twelve) tie nothing."""
    owner = {item.hung[0]: item.id for item in items if item.hung is not None}
    owner.update({item.id: item.id for item in items})
    strips: defaultdict[str, set[str]] = defaultdict(set)
    for clamp in clamps:
        if clamp.number:
            strips[clamp.number].add(clamp.piece)
    found: dict[str, dict[str, int]] = {item.id: {} for item in items}
    for potential in potentials:
        members = {owner[d] for t in potential.net.terminals if (d := device_of(t)) in owner} | strips[potential.number]
        if len(members) > 12:
            continue
        for one in members & found.keys():
            for other in members & found.keys():
                if one != other:
                    found[one][other] = found[one].get(other, 0) + 1
    return found


@dataclass(frozen=True, slots=True)
class _Spot:
    """A place where an item would be legal, how good that is (less is better), and the rail and duct of the row to make for it."""

    cost: float
    place: Place
    box: Box
    new: tuple[Rail | None, Duct] | None = None


class _Floor:
    """The plate while it is being filled."""

    def __init__(self, job: Job, frame: Choices, ties: Mapping[str, Mapping[str, int]]) -> None:
        self._job = job
        self._width, self._height = plate_size(job)
        self._frame = _values(frame)
        self._held = frozenset(key for key, choice in frame.items() if choice.is_held)
        self._rails: dict[str, Rail] = {rail.code: rail for rail in read_rails(self._frame)}
        self._ducts: list[Duct] = list(read_ducts(self._frame))
        self._ties = ties
        self._places: dict[str, Place] = {}
        self._boxes: dict[str, Box] = {}
        self._old: dict[str, _Spot] = {}
        self._bodies: list[tuple[Box, PlateItem, bool]] = []
        self._columns: defaultdict[int, list[tuple[Box, PlateItem]]] = defaultdict(list)

    def keep(self, item: PlateItem, kept: Choices) -> bool:
        """Put an item where the ledger has it, if it may still stand there; return whether it does."""
        choice = kept.get(item.id)
        if choice is None:
            return False
        box = box_at(item, choice.value, self._rails)
        if box is None:
            return False
        is_in_the_way = self._meets_parts(item, box) or self._meets_ducts(item, box) or self._meets_rails(item, box)
        is_in_the_way |= isinstance(choice.value, OnRail) and not _is_along(self._rails[choice.value.rail], box)
        if not choice.is_held and is_in_the_way:
            self._old[item.id] = _Spot(0.0, choice.value, box)
            return False
        self._put(item, choice.value, box)
        return True

    def _put(self, item: PlateItem, place: Place, box: Box) -> None:
        self._places[item.id], self._boxes[item.id] = place, box
        self._add_body(box, item, is_hung=False)
        below = hung_box(item, box)
        if below is not None:
            self._add_body(below, item, is_hung=True)

    def _add_body(self, box: Box, item: PlateItem, *, is_hung: bool) -> None:
        self._bodies.append((box, item, is_hung))
        for column in _columns_of(box):
            self._columns[column].append((box, item))

    def _meets_parts(self, item: PlateItem, box: Box) -> bool:
        below = hung_box(item, box)
        return any(
            _is_close(b, item.clearance, other, known.clearance)
            for b in ((box, below) if below is not None else (box,))
            for column in _columns_of(b)
            for other, known in self._columns[column]
        )

    def _meets_ducts(self, item: PlateItem, box: Box) -> bool:
        below = hung_box(item, box)
        for b in (box, below) if below is not None else (box,):
            for duct in self._ducts:
                x, y = b.overlap(duct.box)
                if x > 1e-6 and y > (1e-6 if duct.is_vertical else 1e-6 - item.room):
                    return True
        return False

    def _is_legal(self, item: PlateItem, box: Box, rail: Rail | None) -> bool:
        """Return whether an item may stand in a box: clear of parts and ducts, on its rail, or clear of all rails."""
        if min(box.x, self._width - box.right) < -1e-6 or self._meets_parts(item, box) or self._meets_ducts(item, box):
            return False
        if rail is not None:
            return _is_along(rail, box)
        return not self._meets_rails(item, box)

    def _meets_rails(self, item: PlateItem, box: Box) -> bool:
        """Return whether what is screwed to the plate would stand on a rail."""
        return not item.on_rail and any(min(box.overlap(rail.box)) > 1e-6 for rail in self._rails.values())

    def place(self, item: PlateItem) -> None:
        """Put an item on the best free place, else on a new row; where that does not serve either it stays as it stood."""
        spots = list(self._spots(item))
        if spots:
            best = min(spots, key=lambda spot: (round(spot.cost, 3), str(spot.place)))
        else:
            best = self._new_row(item)
            old = self._old.get(item.id)
            if old is not None and not self._meets_parts(item, old.box) and self._meets_ducts(item, best.box):
                best = old
        if best.new is not None:
            self._add_row(*best.new)
        self._put(item, best.place, best.box)

    def _add_row(self, rail: Rail | None, duct: Duct) -> None:
        self._ducts = [self._lengthened(old, duct.box) for old in self._ducts]
        self._ducts.append(duct)
        self._frame[f"{DUCT_KEY}{duct.code}"] = duct.place
        if rail is not None:
            self._rails[rail.code] = rail
            self._frame[f"{RAIL_KEY}{rail.code}"] = rail.place

    def _lengthened(self, old: Duct, level: Box) -> Duct:
        """Return an upright that nobody holds as long as a new row off the plate needs it to be."""
        b = old.box
        low, high = min(b.y, level.y), max(b.top, level.top)
        key = f"{DUCT_KEY}{old.code}"
        if not old.is_vertical or key in self._held or (low, high) == (b.y, b.top):
            return old
        new = replace(old, box=Box(x=b.x, y=low, w=b.w, h=high - low))
        self._frame[key] = new.place
        return new

    def _spots(self, item: PlateItem) -> Iterator[_Spot]:
        for rail in self._rails.values():
            on_rail = [(box, known) for box, known, is_hung in self._bodies if not is_hung and self._is_on(box, rail)]
            members = sorted(on_rail, key=lambda m: m[0].x)
            used = sum(known.span for _, known in members)
            crowd = max(0.0, used + item.span - ROW_FILL * rail.length)
            for x in self._edges(item, rail, members):
                place = OnRail(rail.code, x) if item.on_rail else OnPlate(x, rail.y - item.up)
                box = Box(x=x, y=rail.y - item.height / 2, w=item.width, h=item.height)
                if self._is_legal(item, box, rail if item.on_rail else None):
                    yield _Spot(self._cost(item, box, [known for _, known in members], crowd), place, box)
        if not item.on_rail:
            yield from self._between_ducts(item)

    def _is_on(self, box: Box, rail: Rail) -> bool:
        return abs(box.centre[1] - rail.y) < 1.0

    def _edges(self, item: PlateItem, rail: Rail, members: Sequence[tuple[Box, PlateItem]]) -> Iterator[float]:
        """Yield left edges worth a try: at both ends of the rail and on both sides of every part that stands there."""
        yield rail.x + SIDE_GAP_MM - RAIL_GAP_MM + item.left
        yield rail.x + rail.length - SIDE_GAP_MM + RAIL_GAP_MM - item.width - item.left
        for box, known in members:
            gap = 0.0 if item.snug and item.snug == known.snug else PART_GAP_MM
            yield box.right + known.left + known.reserve + gap + item.left
            yield box.right + known.left + gap + item.left
            yield box.x - known.left - gap - item.left - item.reserve - item.width

    def _between_ducts(self, item: PlateItem) -> Iterator[_Spot]:
        """Yield places of what is screwed to the plate: in line with the rows, beside what stands there."""
        levels = sorted((d.box.y, d.box.top) for d in self._ducts if not d.is_vertical)
        inner = [duct.box for duct in self._ducts if duct.is_vertical]
        left = min((box.right for box in inner), default=0.0) + SIDE_GAP_MM
        right = max((box.x for box in inner), default=self._width) - SIDE_GAP_MM
        for (_, low), (high, _) in zip(levels, levels[1:], strict=False):
            y = (low + high) / 2 - item.height / 2
            beside = [box for box, _, _ in self._bodies if low <= box.centre[1] <= high]
            edges = [left, right - item.width, *(b.right + PART_GAP_MM for b in beside)]
            for x in (*edges, *(b.x - PART_GAP_MM - item.width for b in beside)):
                box = Box(x=x, y=y, w=item.width, h=item.height)
                if self._is_legal(item, box, None):
                    members = [known for body, known, _ in self._bodies if body in beside]
                    yield _Spot(self._cost(item, box, members, 0.0), OnPlate(x, y), box)

    def _cost(self, item: PlateItem, box: Box, beside: Sequence[PlateItem], crowd: float) -> float:
        """Return the mm to what it is tied to, more where strangers stand beside it and where the reserve is used up."""
        x, y = box.centre
        ties = self._ties.get(item.id, {})
        far = sum(
            count * (abs(self._boxes[other].centre[0] - x) + abs(self._boxes[other].centre[1] - y))
            for other, count in ties.items()
            if other in self._boxes
        ) / max(1, sum(ties.values()))
        bands = [abs(known.band - item.band) for known in beside]
        strange = min(bands, default=3 if item.band is Band.FIELD else 1)
        is_mixed = any((known.band is Band.LOW) != (item.band is Band.LOW) for known in beside)
        outside = max(0.0, -box.y, box.top - self._height)
        return (5000.0 if outside else 0.0) + far + 150.0 * strange + (400.0 if is_mixed else 0.0) + 20.0 * crowd

    def _new_row(self, item: PlateItem) -> _Spot:
        """Return a place on a row to make between the uprights: below the rows, or over them where there is room there alone."""
        size = usual_ducts(self._job).level
        uprights = [duct.box for duct in self._ducts if duct.is_vertical]
        left = min((box.right for box in uprights), default=0.0)
        right = max((box.x for box in uprights if box.x > left), default=self._width)
        boxes = [*(d.box for d in self._ducts if not d.is_vertical), *(box for box, _, _ in self._bodies)]
        low, high = min((b.y for b in boxes), default=self._height), max((b.top for b in boxes), default=0.0)
        needs = item.up + item.room + item.down + item.room + size[0]
        above = self._height - high >= needs > low
        line = high + item.down + item.room if above else low - item.up - item.room
        edge = line + item.up + item.room if above else line - item.down - item.room - size[0]
        box = Box(x=left, y=edge, w=right - left, h=size[0])
        duct = Duct(code=f"D{self._next_number('D')}", box=box, is_vertical=False, depth=size[1])
        x = left + SIDE_GAP_MM + item.left
        box = Box(x=x, y=line - item.height / 2, w=item.width, h=item.height)
        if not item.on_rail:
            return _Spot(0.0, OnPlate(x, box.y), box, (None, duct))
        code, length = f"R{self._next_number('R')}", right - left - 2 * RAIL_GAP_MM
        rail = Rail(code=code, x=left + RAIL_GAP_MM, y=line, length=length)
        return _Spot(0.0, OnRail(code, x), box, (rail, duct))

    def _next_number(self, letter: str) -> int:
        """Return the first number that no rail or duct of a letter has yet."""
        codes = (*self._rails, *(duct.code for duct in self._ducts))
        return 1 + max((int(c[1:]) for c in codes if c[0] == letter and c[1:].isdigit()), default=0)

    def values(self, items: Sequence[PlateItem]) -> dict[str, str]:
        """Return the frame and the places of the items in their order."""
        return {**self._frame, **{item.id: self._places[item.id] for item in items}}


def _is_along(rail: Rail, box: Box) -> bool:
    """Return whether a rail is long enough where a box stands on it."""
    return rail.x <= box.x + 5 and box.right <= rail.x + rail.length + 5


_COLUMN_MM = 50.0
"""What does not lie in one column of the plate with another part cannot be too close to it."""


def _columns_of(box: Box) -> range:
    """Return the columns that a box lies in, for a quick look at what may be close to it."""
    return range(int(box.x // _COLUMN_MM), int(box.right // _COLUMN_MM) + 1)


def _is_close(a: Box, room_a: float, b: Box, room_b: float) -> bool:
    x, y = a.overlap(b)
    return x > 1e-6 and y > 1e-6 - max(room_a, room_b)
