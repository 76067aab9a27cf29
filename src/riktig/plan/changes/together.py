"""Owns changes of the plate that take along what belongs together: a whole starter, a row with its duct, a row put in between.

Must not judge places itself (`plate_faults`) nor draw them. Frame and mm as the plate.
"""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, replace

from riktig.job.edits import replace as with_fields
from riktig.job.entries import OnPlate, OnRail
from riktig.job.faults import Fault, JobError
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.model import Job
from riktig.plan.changes.plate import (
    Known,
    Move,
    Spot,
    as_arranged,
    free_code,
    judge,
    ledger_key,
    nudge,
    place_item,
    shifted_boxes,
    try_move,
)
from riktig.plan.place.items import FINGER_MM, Band
from riktig.plan.place.layout import (
    Box,
    Duct,
    PlateLayout,
    Rail,
    count_rows,
    in_order_of_ducts,
    in_order_of_rails,
)
from riktig.plan.place.stack import RAIL_GAP_MM, usual_ducts

ROW_MM = 80.0 + 2 * FINGER_MM
"""Between the ducts of a row that is put in: for parts 80 mm high (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class _Row:
    """What moves up and down together: codes of rails and ducts, and ids of what is screwed to the plate."""

    rails: frozenset[str]
    ducts: frozenset[str]
    screwed: frozenset[str]


def try_together(layout: PlateLayout, name: str, x: float, y: float, known: Known = None) -> tuple[Move, ...]:
    """Return what moving a thing with its lower left corner to about (x, y) would do with all that belongs to it.

    With a part of a starter go its others that stand on rails, each as far along and as many rails up or down; with a rail or a
    horizontal duct its row goes up or down: the rail, what is screwed on beside it, and the duct below. Each move has the whole plate
    and what is wrong with it.
    The arguments are those of `try_move`.

    Raises:
        KeyError: nothing on the plate has that name.
    """
    if name in layout.items:
        return _with_starter(layout, try_move(layout, name, x, y, known), known)
    return _move_row(layout, name, y, known)


def nudge_together(layout: PlateLayout, name: str, dx: float, dy: float, known: Known = None) -> tuple[Move, ...]:
    """Return what moving a thing by some mm would do with all that belongs to it, with no snapping; `known` is as for `try_together`.

    Raises:
        KeyError: nothing on the plate has that name.
    """
    if name in layout.items:
        return _with_starter(layout, nudge(layout, name, dx, dy, known), known)
    return _move_row(layout, name, _frame(layout)[name].y + dy, known)


def _with_starter(layout: PlateLayout, first: Move, known: Known) -> tuple[Move, ...]:
    """Return a move of a part with the same of the others of its starter, alone where it is of none."""
    name = first.key
    item = layout.items[name]
    is_on_rail = name in layout.rail_of and name in first.layout.rail_of
    if item.band is not Band.STARTER or not item.load or not is_on_rail:
        return (first,)
    codes = [rail.code for rail in layout.rails]
    load, dx = item.load, first.box.x - layout.boxes[name].x
    steps = codes.index(first.layout.rail_of[name]) - codes.index(layout.rail_of[name])
    after, places = layout, dict[str, Spot]()
    for other in (
        i for i in layout.items.values() if i.load == load and i.band is Band.STARTER and i.id in layout.rail_of
    ):
        rail = layout.rails[min(max(codes.index(layout.rail_of[other.id]) + steps, 0), len(codes) - 1)]
        box = replace(layout.boxes[other.id], x=layout.boxes[other.id].x + dx, y=rail.y - other.height / 2)
        after = place_item(after, other, box, rail.code)
        places[other.id] = OnRail(rail.code, box.x)
    return _moves(layout, after, places, known)


def _moves(before: PlateLayout, after: PlateLayout, places: Mapping[str, Spot], known: Known) -> tuple[Move, ...]:
    faults = judge(before, after, known)
    boxes = {**after.boxes, **_frame(after)}
    return tuple(
        Move(key=name, place=place, box=boxes[name], layout=after, faults=faults) for name, place in places.items()
    )


def _move_row(layout: PlateLayout, name: str, y: float, known: Known) -> tuple[Move, ...]:
    boxes = _frame(layout)
    if any(duct.code == name for duct in layout.uprights):
        return (try_move(layout, name, boxes[name].x, y, known),)
    over = (rail for rail in layout.rails if rail.y > boxes[name].centre[1])
    rail = layout.rail(name) or min(over, key=lambda r: r.y, default=None)
    row = _row_of(layout, rail) if rail is not None else _Row(frozenset(), frozenset({name}), frozenset())
    after = _shifted(layout, row, float(round(y - boxes[name].y)))
    return _moves(layout, after, _places(after, row), known)


def _frame(layout: PlateLayout) -> dict[str, Box]:
    """Return rails and ducts by their codes."""
    return {rail.code: rail.box for rail in layout.rails} | {duct.code: duct.box for duct in layout.ducts}


def _row_of(layout: PlateLayout, rail: Rail) -> _Row:
    """Return the row of a rail."""
    below = max((d for d in layout.levels if d.level < rail.y), key=lambda d: d.level, default=None)
    above = min((d.level for d in layout.levels if d.level > rail.y), default=layout.height)
    floor = below.level if below is not None else 0.0
    screwed = (i for i in layout.items if i not in layout.rail_of and floor < layout.boxes[i].centre[1] < above)
    rails = (r.code for r in layout.rails if floor < r.y < above)
    return _Row(frozenset(rails), frozenset({below.code} if below is not None else ()), frozenset(screwed))


def _shifted(layout: PlateLayout, row: _Row, dy: float) -> PlateLayout:
    """Return the plate with rows moved up by some mm, what sits on their rails with them."""
    rails = in_order_of_rails(replace(r, y=r.y + dy) if r.code in row.rails else r for r in layout.rails)
    ducts = in_order_of_ducts(
        replace(d, box=replace(d.box, y=d.box.y + dy)) if d.code in row.ducts else d for d in layout.ducts
    )
    moved = (name for name in layout.items if name in row.screwed or layout.rail_of.get(name) in row.rails)
    boxes = shifted_boxes(layout, moved, 0.0, dy)
    return replace(
        layout, rails=rails, ducts=ducts, boxes=boxes, row_of=count_rows(layout.items.values(), boxes, ducts)
    )


def _places(layout: PlateLayout, row: _Row) -> dict[str, Spot]:
    """Return what the ledger has of rows: rails, ducts, and what is screwed to the plate."""
    found: dict[str, Spot] = {rail.code: rail.place for rail in layout.rails if rail.code in row.rails}
    found.update({duct.code: duct.place for duct in layout.ducts if duct.code in row.ducts})
    found.update({name: OnPlate(layout.boxes[name].x, layout.boxes[name].y) for name in row.screwed})
    return found


def insert_row(job: Job, layout: PlateLayout, y: float, known: Known = None) -> tuple[Move, ...]:
    """Return what a new rail with a duct below it would do, put in below the horizontal duct that is nearest to a height: all below moves
    down, or where there is no room for that, that duct and all above it up. The last two moves are the new rail and duct.

    Raises:
        JobError: there is no horizontal duct.
    """
    if not layout.levels:
        raise JobError([Fault(at=("kept", "places"), message="there is no horizontal duct: lay one first")])
    width, depth = usual_ducts(job).level
    takes = ROW_MM + width
    at = min(layout.levels, key=lambda d: abs(d.level - y))
    below = _all(layout, lambda level: level < at.level)
    above = _all(layout, lambda level: level >= at.level)
    ends = [layout.boxes[i].y for i in layout.items] + [d.box.y for d in layout.levels]
    tops = [box.top for box in layout.boxes.values()] + [d.box.top for d in layout.levels]
    is_down = min(ends) >= takes or layout.height - max(tops) < takes
    row, edge = (below, at.box.y) if is_down else (above, at.box.y + takes)
    after = _shifted(layout, row, -takes if is_down else takes)
    duct = Duct(
        code=free_code("D", layout), box=replace(at.box, y=edge - takes, h=width), is_vertical=False, depth=depth
    )
    rail = Rail(
        code=free_code("R", layout),
        x=at.box.x + RAIL_GAP_MM,
        y=edge - ROW_MM / 2,
        length=at.box.w - 2 * RAIL_GAP_MM,
    )
    rails, ducts = in_order_of_rails((*after.rails, rail)), in_order_of_ducts((*after.ducts, duct))
    rows = count_rows(layout.items.values(), after.boxes, ducts)
    after = replace(after, rails=rails, ducts=ducts, row_of=rows)
    return _moves(layout, after, {**_places(after, row), rail.code: rail.place, duct.code: duct.place}, known)


def _all(layout: PlateLayout, is_meant: Callable[[float], bool]) -> _Row:
    """Return all rails, horizontal ducts and screwed parts at heights that are meant."""
    return _Row(
        frozenset(r.code for r in layout.rails if is_meant(r.y)),
        frozenset(d.code for d in layout.levels if is_meant(d.level)),
        frozenset(i for i in layout.items if i not in layout.rail_of and is_meant(layout.boxes[i].centre[1])),
    )


def keep_row(job: Job, moves: Mapping[str, Spot], new: Collection[str]) -> Job:
    """Return the Job with a row put in: what gave way is held by whoever held it before, what is new by the person.

    Args:
        job: the Job.
        moves: key of the ledger -> place.
        new: the keys of what is new.

    Raises:
        JobError: a release holds something that would have to give way.
    """
    places = dict(job.ledger.places)
    for key, place in moves.items():
        before = places.get(key)
        if before is not None and before.state is ChoiceState.FROZEN:
            message = f"'{key}' was released where it is: put the row in where nothing has to give way"
            raise JobError([Fault(at=("kept", "places", key), message=message)])
        state = ChoiceState.KEPT if key in new or before is None else before.state
        places[key] = Choice(place, state=state)
    return as_arranged(with_fields(job, ledger=with_fields(job.ledger, places=places)))


def row_of(moves: tuple[Move, ...]) -> tuple[dict[str, Spot], tuple[str, str]]:
    """Return what the ledger has to hold of a row put in, and the keys of its rail and duct."""
    keys = [ledger_key(move.layout, move.key) for move in moves]
    return {key: move.place for key, move in zip(keys, moves, strict=True)}, (keys[-2], keys[-1])
