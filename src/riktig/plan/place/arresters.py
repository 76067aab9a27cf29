"""Owns where surge arresters and what protects them stand in rows, so that their leads are short. Must not know why rows are as they are.

Frame and mm as the plate.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

from riktig.plan.circuit.incoming import WAY_IN
from riktig.plan.circuit.model import EARTH_BAR, PLATE_STUD, bar_for, is_bar, place_of_block
from riktig.plan.net.strips import SUPPLY_STRIP
from riktig.plan.place.items import PART_GAP_MM, Band, PlateItem
from riktig.plan.place.row_room import Taking, height_of, leads_in
from riktig.plan.place.stack import Row, packed_width

NEUTRAL = bar_for("N")
EARTHS = frozenset({EARTH_BAR, PLATE_STUD})
_MUCH_HIGHER_MM = 180.0
"""By how much a row is higher than a surge arrester asks before that gets one of its own (common practice, no source)."""
_LOOSE = frozenset({Band.HEAT, Band.SUPPLY, Band.TAP})
"""Bands of which a part may stand in another row where its own is full."""


def with_arresters_below(rows: list[Row], most: float, *, is_fed_above: bool, is_apart: bool) -> list[Row]:
    """Return the rows with surge arresters where their leads are short: what protects one in the row that is fed from the duct where the
    supply is to be had, the arrester in the row below that, both below the blocks, or the main switch where there are none, or the
    terminals on which the supply lands; the block of the neutral, or the terminals where it lands above them, where its clamps and the
    arrester's meet in one duct.

    Args:
        rows: from the top.
        most: mm that a row may take.
        is_fed_above: whether blocks and strips are tapped from the duct above them; a main switch always is from the one below it.
        is_apart: whether they get rows of their own where those that are there are much higher than they are.
    """
    on_rails = [item for row in rows for item in row.rail]
    guards = [item for item in on_rails if item.band is Band.ENTRY and item.unit and item.is_protection]
    arresters = [item for item in on_rails if is_arrester(item)]
    blocks = [item for item in on_rails if is_bar(item.id) and item.band is Band.ENTRY]
    neutral = [item for item in blocks if item.id == NEUTRAL]
    lines = {item for item in blocks if not place_of_block(item.id)}.difference(neutral)
    led_in = [k for k, row in enumerate(rows) if leads_in(row)]
    if led_in and not neutral:
        neutral = [item for item in on_rails if item.id == SUPPLY_STRIP]
    ways = led_in or [k for k, row in enumerate(rows) if not lines.isdisjoint(row.rail)] or _landings(rows)
    if not ways or not arresters:
        return rows
    main = max(ways)
    upper = main if is_fed_above and (blocks or not led_in) else main + 1
    put = {
        upper: [*guards, *(neutral if not is_fed_above else ())],
        upper + 1: [*arresters, *(neutral if is_fed_above else ())],
    }
    taken = {item.id for members in put.values() for item in members}
    moved = [replace(row, rail=tuple(item for item in row.rail if item.id not in taken)) for row in rows]
    moved.extend(Row() for _ in range(upper + 2 - len(moved)))
    for place, members in put.items():
        if is_apart and place != main and _is_much_higher(moved[place], members):
            moved.insert(place, Row())
    wanted = {place: packed_width(members) + 2 * PART_GAP_MM for place, members in put.items()}
    for place in put:
        _make_room(moved, place, wanted, most)
    moved[main] = replace(moved[main], rail=tuple(sorted(moved[main].rail, key=from_the_way_in)))
    led = sum(item.id in WAY_IN for item in moved[main].rail)
    led_to = [item for item in moved[main].rail if item in lines]
    beside = led + (len(led_to) + 1) // 2
    middle = packed_width(moved[main].rail[:led]) + packed_width(led_to) / 2 - packed_width(guards) / 2
    x = moved[main].begin + middle if led_to else 0.0
    for place, members in put.items():
        row = moved[place]
        free = x - row.begin
        at = beside if place == main else _index_below(row.rail, free)
        spare = most - row.width - packed_width(members) - 2 * PART_GAP_MM
        if place != main and packed_width(row.rail) < min(free, spare):
            at, row = 0, replace(row, indent=min(free, spare))
        at, moved[place] = _put(row, members, at, most)
        x = row.begin + row.indent + packed_width(row.rail[:at])
    return [row for row in moved if row.items] if all(row.width <= most for row in moved) else rows


def _put(row: Row, members: Sequence[PlateItem], at: int, most: float) -> tuple[int, Row]:
    """Return a row with parts put before a part of its rail, and where: as near to `at` as they fit, so not in a comb that just fits."""
    places = (k for k in range(len(row.rail) + 1) if k in {at, len(row.rail)} or not _parts_one(row.rail, k))
    ways = [
        (k, replace(row, rail=(*row.rail[:k], *members, *row.rail[k:])))
        for k in sorted(places, key=lambda k: abs(k - at))
    ]
    return next((way for way in ways if way[1].width <= most), ways[0])


def _make_room(rows: list[Row], place: int, wanted: Mapping[int, float], most: float) -> None:
    """Move parts that belong to no motor out of a row that lacks room for more, each into the nearest one that has room for it and is
    high enough: the smallest that is enough, else the widest and then more.

    Args:
        rows: from the top, changed in place.
        place: of the row.
        wanted: mm that rows are to take by their places.
        most: mm that a row may take.
    """
    near = sorted((k for k in range(len(rows)) if k != place), key=lambda k: abs(k - place))
    while (missing := rows[place].width + wanted[place] - most) > 0:
        takers = {k: Taking.of(rows[k]) for k in near}
        into = {
            item: k
            for item in rows[place].items
            if _is_loose(item)
            for k in reversed(near)
            if takers[k].takes(item, most - wanted.get(k, 0.0))
        }
        if not into:
            return
        moved = min(into, key=lambda item: (item.span + PART_GAP_MM < missing, abs(item.span + PART_GAP_MM - missing)))
        rows[place] = _without(rows[place], {moved})
        rows[into[moved]] = rows[into[moved]].plus(moved)


def _is_loose(item: PlateItem) -> bool:
    """Return whether a part may stand in another row where its own is full."""
    return item.id in EARTHS or (item.band in _LOOSE and not (item.load or item.unit or is_bar(item.id)))


def _without(row: Row, items: Collection[PlateItem]) -> Row:
    """Return a row that lacks some parts."""
    rail, fixed = (tuple(item for item in found if item not in items) for found in (row.rail, row.fixed))
    return replace(row, rail=rail, fixed=fixed)


def _landings(rows: Sequence[Row]) -> list[int]:
    """Return where the terminals are on which the supply lands."""
    return [k for k, row in enumerate(rows) if any(item.id == SUPPLY_STRIP for item in row.rail)]


def _is_much_higher(row: Row, members: Sequence[PlateItem]) -> bool:
    """Return whether parts would have wires much longer in a row than in one of their own height."""
    own = Row(tuple(members))
    return bool(row.items) and height_of(row) - height_of(own) > _MUCH_HIGHER_MM


def _index_below(rail: Sequence[PlateItem], x: float) -> int:
    """Return before which part of a rail something is put to stand as near as may be to `x` mm from its left end; never between what is
    one motor's.
    """
    places = (k for k in range(len(rail) + 1) if k == len(rail) or not _parts_one(rail, k))
    return min(places, key=lambda k: abs(packed_width(rail[:k]) - x))


def _parts_one(rail: Sequence[PlateItem], at: int) -> bool:
    return at > 0 and bool(rail[at].load) and rail[at].load == rail[at - 1].load


def is_arrester(item: PlateItem) -> bool:
    """Return whether a part is a surge arrester, or its earth terminal."""
    return item.band is Band.ENTRY and bool(item.unit) and not item.is_protection


def is_ahead(item: PlateItem) -> bool:
    """Return whether a part is a block ahead of the main switch."""
    return is_bar(item.id) and place_of_block(item.id) == "in"


def from_the_way_in(item: PlateItem) -> int:
    """Return the rank of a part from where the supply comes in: main switch and what follows it, blocks behind these, surge arresters,
    blocks ahead of them, all else.
    """
    if item.id in WAY_IN:
        return WAY_IN.index(item.id)
    return len(WAY_IN) + (2 if is_ahead(item) else 0 if is_bar(item.id) else 1 if item.unit else 3)
