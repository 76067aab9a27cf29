"""Owns changes of the plate by hand: what a drag or a key would do, whether that is legal, and the edit that keeps it.

Must not judge places itself (`plate_faults`) nor draw them.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from riktig.job.edits import keep_choice
from riktig.job.edits import replace as with_fields
from riktig.job.entries import DUCT_KEY, RAIL_KEY, SIZE_KEY, DuctPlace, OnPlate, OnRail, Place, RailPlace
from riktig.job.faults import Fault, JobError
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.model import Job
from riktig.plan.place.faults import FaultKind, PlateFault, find_faults
from riktig.plan.place.items import PART_GAP_MM, PlateItem
from riktig.plan.place.layout import (
    Box,
    Duct,
    PlateLayout,
    Rail,
    count_rows,
    hung_box,
    in_order_of_ducts,
    in_order_of_rails,
)
from riktig.plan.place.stack import usual_ducts
from riktig.plan.settle import settle

SNAP_MM = 12.0
"""How near a dragged part comes to an edge or neighbour before it is drawn there."""
GRID_MM = 1.0
SHORTEST_MM = 40.0
"""The shortest rail or duct that can be made by hand."""


Known = tuple[PlateFault, ...] | None


Spot = Place | RailPlace | DuctPlace
"""What the ledger has of a part, a rail or a duct."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """What a hand would do to one thing: its place as the ledger would have it, the box it would have there, the whole plate with it
    there, and what is wrong that was not wrong before.
    """

    key: str
    place: Spot
    box: Box
    layout: PlateLayout
    faults: tuple[PlateFault, ...]

    @property
    def is_legal(self) -> bool:
        """Whether nothing new is wrong."""
        return not self.faults


def try_move(layout: PlateLayout, name: str, x: float, y: float, known: Known = None) -> Move:
    """Return what moving a part, strip, rail or duct with its lower left corner to about (x, y) would do.

    A part on a rail goes onto the rail that is nearest to its centre, and beside a neighbour or the end of the rail where it is near
    one; what is screwed to the plate goes onto the millimetre, in line with a neighbour where it is near that. A rail or duct moves as
    a whole.

    Args:
        layout: the plate.
        name: what is moved.
        x: mm of its left edge.
        y: mm of its lower edge.
        known: what is wrong with the plate as it is, where that was found before.

    Raises:
        KeyError: nothing on the plate has that name.
    """
    if name in layout.items:
        return _move_item(layout, layout.items[name], x, y, known)
    rail, duct = layout.rail(name), layout.duct(name)
    if rail is not None:
        return with_rail(layout, replace(rail, x=_grid(x), y=_grid(y + rail.box.h / 2)), known)
    if duct is not None:
        return with_duct(layout, replace(duct, box=replace(duct.box, x=_grid(x), y=_grid(y))), known)
    raise KeyError(name)


def _grid(value: float) -> float:
    return round(value / GRID_MM) * GRID_MM


def _move_item(layout: PlateLayout, item: PlateItem, x: float, y: float, known: Known) -> Move:
    if item.on_rail and layout.rails:
        middle = y + item.height / 2
        rail = min(layout.rails, key=lambda r: (abs(r.y - middle) + _beyond(r, x + item.width / 2), r.code))
        left = _snapped(layout, item, rail, _grid(x))
        box = Box(x=left, y=rail.y - item.height / 2, w=item.width, h=item.height)
        return with_item(layout, item, box, OnRail(rail.code, left), rail.code, known)
    lines = [b.centre[1] for n, b in layout.boxes.items() if n != item.id and n in layout.items]
    middle = min(lines, key=lambda line: abs(line - y - item.height / 2), default=y + item.height / 2)
    low = middle - item.height / 2 if abs(middle - y - item.height / 2) <= SNAP_MM / 2 else _grid(y)
    box = Box(x=_grid(x), y=low, w=item.width, h=item.height)
    return with_item(layout, item, box, OnPlate(box.x, box.y), None, known)


def _beyond(rail: Rail, x: float) -> float:
    """Return how far beyond the ends of a rail an x lies."""
    return max(0.0, rail.x - x, x - rail.x - rail.length)


def _snapped(layout: PlateLayout, item: PlateItem, rail: Rail, x: float) -> float:
    """Return the left edge, moved to the nearest place beside a neighbour or at an end of the rail if one is near."""
    own = {item.id, item.hung[0]} if item.hung is not None else {item.id}
    edges = [rail.x + 5 + item.left, rail.x + rail.length - 5 - item.width - item.left]
    for name, code in layout.rail_of.items():
        if code == rail.code and name not in own:
            other, box = layout.items[name], layout.boxes[name]
            gap = 0.0 if item.snug and item.snug == other.snug else PART_GAP_MM
            edges.extend((box.right + other.left + gap + item.left, box.x - other.left - gap - item.left - item.width))
    near = min(edges, key=lambda edge: abs(edge - x))
    return near if abs(near - x) <= SNAP_MM else x


def with_item(
    layout: PlateLayout, item: PlateItem, box: Box, place: Spot, rail: str | None, known: Known = None
) -> Move:
    """Return what a part in another box would do."""
    return _judged(layout, place_item(layout, item, box, rail), item.id, place, box, known)


def place_item(layout: PlateLayout, item: PlateItem, box: Box, rail: str | None) -> PlateLayout:
    """Return the plate with a part in another box, on a rail or screwed on, not judged."""
    boxes = {**layout.boxes, item.id: box}
    below = hung_box(item, box)
    if below is not None and item.hung is not None:
        boxes[item.hung[0]] = below
    rails = {k: v for k, v in layout.rail_of.items() if k != item.id}
    if rail is not None:
        rails[item.id] = rail
    rows = {**layout.row_of, **count_rows((item,), boxes, layout.ducts)}
    return replace(layout, boxes=boxes, rail_of=rails, row_of=rows)


def shifted_boxes(layout: PlateLayout, names: Iterable[str], dx: float, dy: float) -> dict[str, Box]:
    """Return the boxes of a plate with some parts moved by some mm, and what hangs below them."""
    boxes = dict(layout.boxes)
    for name in names:
        item = layout.items[name]
        boxes[name] = replace(boxes[name], x=boxes[name].x + dx, y=boxes[name].y + dy)
        below = hung_box(item, boxes[name])
        if below is not None and item.hung is not None:
            boxes[item.hung[0]] = below
    return boxes


def with_rail(layout: PlateLayout, rail: Rail, known: Known = None) -> Move:
    """Return what another rail, or one at another place, would do; what sits on it moves with it."""
    before = layout.rail(rail.code)
    boxes = layout.boxes
    if before is not None:
        on_it = (name for name, code in layout.rail_of.items() if code == rail.code)
        boxes = shifted_boxes(layout, on_it, rail.x - before.x, rail.y - before.y)
    rails = in_order_of_rails((*(r for r in layout.rails if r.code != rail.code), rail))
    changed = replace(layout, rails=rails, boxes=boxes, row_of=count_rows(layout.items.values(), boxes, layout.ducts))
    return _judged(layout, changed, rail.code, rail.place, rail.box, known)


def with_duct(layout: PlateLayout, duct: Duct, known: Known = None) -> Move:
    """Return what another duct, or one at another place, would do."""
    ducts = in_order_of_ducts((*(d for d in layout.ducts if d.code != duct.code), duct))
    changed = replace(layout, ducts=ducts, row_of=count_rows(layout.items.values(), layout.boxes, ducts))
    return _judged(layout, changed, duct.code, duct.place, duct.box, known)


def _judged(before: PlateLayout, after: PlateLayout, key: str, place: Spot, box: Box, known: Known = None) -> Move:
    return Move(key=key, place=place, box=box, layout=after, faults=judge(before, after, known))


def judge(before: PlateLayout, after: PlateLayout, known: Known = None) -> tuple[PlateFault, ...]:
    """Return what is worse than before, the gravest first; what only had no duct before counts where it is new."""
    old = {fault.key: fault.missing for fault in (find_faults(before) if known is None else known)}
    new = [
        fault for fault in find_faults(after, _moved(before, after)) if fault.missing > old.get(fault.key, -1.0) + 1e-6
    ]
    weight = list(FaultKind)
    return tuple(sorted(new, key=lambda fault: (weight.index(fault.kind), -fault.missing)))


def _moved(before: PlateLayout, after: PlateLayout) -> frozenset[str] | None:
    """Return the parts that stand elsewhere, None where rails or ducts changed, which may be about anything."""
    if (before.rails, before.ducts) != (after.rails, after.ducts):
        return None
    return frozenset(name for name, box in after.boxes.items() if before.boxes.get(name) != box)


# -- edits of the Job


def ledger_key(layout: PlateLayout, name: str) -> str:
    """Return the key under which the ledger has the place of a part, rail or duct."""
    if layout.rail(name) is not None:
        return f"{RAIL_KEY}{name}"
    return f"{DUCT_KEY}{name}" if layout.duct(name) is not None else name


def keep_moves(job: Job, moves: Mapping[str, Spot]) -> Job:
    """Return the Job with places that a person chose: key of the ledger -> place.

    What a release holds stays where it is.

    Raises:
        JobError: a release holds one of them.
    """
    for key, place in moves.items():
        choice = job.ledger.places.get(key)
        if choice is not None and choice.state is ChoiceState.FROZEN:
            name = key.removeprefix(RAIL_KEY).removeprefix(DUCT_KEY)
            message = f"'{name}' was released where it is: let the revision go on in a new job, or move something else"
            raise JobError([Fault(at=("kept", "places", key), message=message)])
        job = keep_choice(job, "places", key, place)
    return as_arranged(job)


def as_arranged(job: Job) -> Job:
    """Return the Job with its plate no longer provisional."""
    choice = job.ledger.places.get(SIZE_KEY)
    size = choice.value if choice is not None and not choice.is_held else None
    if size is None or size.is_arranged:
        return job
    places = {**job.ledger.places, SIZE_KEY: Choice(replace(size, is_arranged=True))}
    return with_fields(job, ledger=with_fields(job.ledger, places=places))


def keep_move(job: Job, move: Move) -> Job:
    """Return the Job with a move kept; of a rail, what sits on it goes along."""
    return keep_moves(job, places_of((move,)))


def places_of(moves: Sequence[Move]) -> dict[str, Spot]:
    """Return what the ledger has to hold of moves: key -> place; with a rail, what sits on it."""
    found: dict[str, Spot] = {}
    for move in moves:
        key = ledger_key(move.layout, move.key)
        found[key] = move.place
        if key.startswith(RAIL_KEY):
            for name, code in move.layout.rail_of.items():
                if code == move.key:
                    found[name] = OnRail(code, move.layout.boxes[name].x)
    return found


def nudge(layout: PlateLayout, name: str, dx: float, dy: float, known: Known = None) -> Move:
    """Return what moving a thing by some mm would do, with no snapping; up or down a part goes from rail to rail. `known` is as for
    `try_move`.

    Raises:
        KeyError: nothing on the plate has that name.
    """
    item = layout.items.get(name)
    rail, duct = layout.rail(name), layout.duct(name)
    if item is not None:
        box = layout.boxes[name]
        on = layout.rail(layout.rail_of.get(name, ""))
        if dy and on is not None:
            line = on.y
            beyond = [r for r in layout.rails if (r.y - line) * dy > 0]
            line = min(beyond, key=lambda r: abs(r.y - line), default=on).y
            return _move_item(layout, item, box.x, line - item.height / 2, known)
        moved = replace(box, x=box.x + dx, y=box.y + dy)
        place = OnRail(on.code, moved.x) if on is not None else OnPlate(moved.x, moved.y)
        return with_item(layout, item, moved, place, on.code if on is not None else None, known)
    if rail is not None:
        return with_rail(layout, replace(rail, x=rail.x + dx, y=rail.y + dy), known)
    if duct is None:
        raise KeyError(name)
    return with_duct(layout, replace(duct, box=replace(duct.box, x=duct.box.x + dx, y=duct.box.y + dy)), known)


def try_swap(layout: PlateLayout, one: str, other: str) -> tuple[Move, Move]:
    """Return what exchanging two parts would do: each goes where the other's middle was; the second move has both.

    Raises:
        KeyError: one of them is no part on the plate.
    """
    a, b = layout.items[one], layout.items[other]
    box_a, box_b = layout.boxes[one], layout.boxes[other]
    first = _at_middle(layout, a, box_b, layout.rail_of.get(other))
    second = _at_middle(first.layout, b, box_a, layout.rail_of.get(one))
    judged = _judged(layout, second.layout, second.key, second.place, second.box)
    return first, judged


def _at_middle(layout: PlateLayout, item: PlateItem, spot: Box, rail: str | None) -> Move:
    x, y = spot.centre[0] - item.width / 2, spot.centre[1] - item.height / 2
    box = Box(x=x, y=y, w=item.width, h=item.height)
    on = rail if item.on_rail else None
    return with_item(layout, item, box, OnRail(on, x) if on is not None else OnPlate(x, y), on)


def new_rail(layout: PlateLayout, x: float, y: float) -> Move:
    """Return a new rail at about (x, y): between the uprights left and right of it."""
    left, right = _between(layout, x, y)
    code = free_code("R", layout)
    return with_rail(layout, Rail(code=code, x=left + 5, y=_grid(y), length=max(SHORTEST_MM, right - left - 10)))


def new_duct(job: Job, layout: PlateLayout, x: float, y: float, *, is_vertical: bool) -> Move:
    """Return a new duct through about (x, y): from one duct across its way to the next."""
    width, depth = usual_ducts(job).level
    code = free_code("D", layout)
    if is_vertical:
        low, high = _between_levels(layout, x, y)
        box = Box(x=_grid(x - width / 2), y=low, w=width, h=max(SHORTEST_MM, high - low))
    else:
        left, right = _between(layout, x, y)
        box = Box(x=left, y=_grid(y - width / 2), w=max(SHORTEST_MM, right - left), h=width)
    return with_duct(layout, Duct(code=code, box=box, is_vertical=is_vertical, depth=depth))


def _between(layout: PlateLayout, x: float, y: float) -> tuple[float, float]:
    """Return the inner edges of the uprights left and right of a point, else those of the plate."""
    boxes = [d.box for d in layout.uprights if d.box.y <= y <= d.box.top]
    return (
        max((b.right for b in boxes if b.centre[0] < x), default=0.0),
        min((b.x for b in boxes if b.centre[0] >= x), default=layout.width),
    )


def _between_levels(layout: PlateLayout, x: float, y: float) -> tuple[float, float]:
    boxes = [d.box for d in layout.levels if d.box.x <= x <= d.box.right]
    return (
        max((b.top for b in boxes if b.centre[1] < y), default=0.0),
        min((b.y for b in boxes if b.centre[1] >= y), default=layout.height),
    )


def free_code(letter: str, layout: PlateLayout) -> str:
    """Return the next code of a rail, R, or a duct, D."""
    codes = [rail.code for rail in layout.rails] if letter == "R" else [duct.code for duct in layout.ducts]
    numbers = [int(code[1:]) for code in codes if code[0] == letter and code[1:].isdigit()]
    return f"{letter}{1 + max(numbers, default=2 if letter == 'D' else 0)}"


def resized(layout: PlateLayout, name: str, by: float) -> Move:
    """Return what making a rail or duct longer or shorter at its far end would do.

    Raises:
        KeyError: there is no rail or duct of that name.
    """
    rail, duct = layout.rail(name), layout.duct(name)
    if rail is not None:
        return with_rail(layout, replace(rail, length=max(SHORTEST_MM, rail.length + by)))
    if duct is None:
        raise KeyError(name)
    b = duct.box
    longer = replace(b, h=max(SHORTEST_MM, b.h + by)) if duct.is_vertical else replace(b, w=max(SHORTEST_MM, b.w + by))
    return with_duct(layout, replace(duct, box=longer))


def take_away(job: Job, name: str) -> Job:
    """Return the Job without a rail or duct; what sat on the rail takes the best free place.

    Raises:
        JobError: there is none of that name, or a release holds it.
    """
    key = next((k for k in (f"{RAIL_KEY}{name}", f"{DUCT_KEY}{name}") if k in job.ledger.places), "")
    if not key:
        raise JobError([Fault(at=("kept", "places", name), message=f"there is no rail or duct '{name}'")])
    if job.ledger.places[key].state is ChoiceState.FROZEN:
        message = f"'{name}' was released: it cannot be taken away"
        raise JobError([Fault(at=("kept", "places", key), message=message)])
    job = as_arranged(job)
    on_it = {k for k, c in job.ledger.places.items() if isinstance(c.value, OnRail) and c.value.rail == name}
    places = {k: c for k, c in job.ledger.places.items() if k != key and k not in on_it}
    return with_fields(job, ledger=with_fields(job.ledger, places=places))


def pin_all(job: Job, keys: Iterable[str], *, is_held: bool) -> Job:
    """Return the settled Job with places on plate or door held by a person, or left to Riktig again; a release holds its own."""
    wanted = frozenset(keys)
    state = ChoiceState.KEPT if is_held else ChoiceState.AUTO
    places = {
        key: replace(choice, state=state) if key in wanted and choice.state is not ChoiceState.FROZEN else choice
        for key, choice in job.ledger.places.items()
    }
    return settle(with_fields(job, ledger=with_fields(job.ledger, places=places)))
