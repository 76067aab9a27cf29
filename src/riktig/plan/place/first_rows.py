"""Owns the first proposal of a plate: which part stands in which row, and beside which. Must not know how high a row is made."""

from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import replace
from functools import reduce
from itertools import groupby

from riktig.job.model import Job
from riktig.plan.circuit.incoming import WAY_IN
from riktig.plan.circuit.model import EARTH_BAR, PLATE_STUD, bar_for, is_bar, place_of_block
from riktig.plan.net.strips import SUPPLY_STRIP
from riktig.plan.place.items import PART_GAP_MM, Band, PlateItem
from riktig.plan.place.layout import plate_size
from riktig.plan.place.stack import ROW_FILL, DuctSizes, Row, inner_span, packed_width, rows_height

_MUCH_HIGHER_MM = 180.0
"""By how much a row is higher than a surge arrester asks before that gets one of its own (common practice, no source)."""
_LOOSE = frozenset({Band.HEAT, Band.SUPPLY, Band.TAP})
"""Bands of which a part may stand in another row where its own is full."""
_FEW_SHARE = 0.5
"""Share of a row up to which breakers and contactors share one (common practice, no source)."""


def first_rows(job: Job, items: Sequence[PlateItem], ducts: DuctSizes) -> list[Row]:
    """Return rows for parts in the order given, from the top, each used to its share: band by band, small bands together; the way in
    from the left in the order of the current, and what protects motors in a row above their contactors, where the plate is high enough
    for that.
    """
    ways = [(in_columns, below) for below in (True, False) for in_columns in (True, False)]
    found: list[list[Row]] = []
    for in_columns, below in ways:
        found.append(_banded_rows(job, items, ducts, in_columns=in_columns, below=below))
        if rows_height(found[-1], ducts) <= plate_size(job)[1]:
            return found[-1]
    return min(found, key=lambda rows: rows_height(rows, ducts))


def _banded_rows(job: Job, items: Sequence[PlateItem], ducts: DuctSizes, *, in_columns: bool, below: bool) -> list[Row]:
    """Return rows band by band: motors in columns or as they come, surge arresters below what protects them or beside it."""
    left, right = inner_span(job, ducts)
    most = ROW_FILL * (right - left)
    bands: list[list[Row]] = []
    arresters = [item for item in items if _is_arrester(item)] if below and job.supply.entry == "bottom" else []
    hung = [*arresters, *(item for item in items if arresters and item.id == _NEUTRAL)]
    parted = {band: [item for item in items if item.band is band and item not in hung] for band in Band}
    parted[Band.FIELD] = [*hung, *parted[Band.FIELD]]
    if hung:
        _move_earth(parted, most, right - left)
    _move_ahead(parted, most, right - left)
    for band in band_order(job):
        members = parted[band]
        if band is Band.ENTRY:
            is_fixed = any(item.id in WAY_IN and not item.on_rail for item in members)
            room = right - left if any(item.id == EARTH_BAR for item in members) else most
            rows = [replace(row, fixed_left=is_fixed) for row in _fill(sorted(members, key=_from_the_way_in), room)]
        elif band is Band.STARTER and in_columns:
            rows = _columns(members, most)
        else:
            rows = _fill(_for_combs(members) if band is Band.TAP else members, most)
        if rows:
            bands.append(rows)
    merged: list[Row] = []
    for rows in bands:
        if merged and _joined_width(merged[-1], rows[0]) <= most and _are_alike(merged[-1], rows[0]):
            rows = [_join(merged.pop(), rows[0]), *rows[1:]]
        merged.extend(rows)
    for share in (ROW_FILL, 1.0):
        _squeeze(merged, share * (right - left), plate_size(job)[1], ducts)
    is_fed_above = job.supply.entry == "bottom"
    hung_below = merged
    for is_apart in (True, False) if below else ():
        hung_below = _with_arresters_below(merged, right - left, is_fed_above=is_fed_above, is_apart=is_apart)
        if rows_height(hung_below, ducts) <= plate_size(job)[1]:
            break
    if hung_below is merged and not is_fed_above:
        return [_with_arresters_first(row) for row in merged]
    return hung_below


def _with_arresters_first(row: Row) -> Row:
    """Return a row in which a surge arrester and what protects it stand beside the duct at its left end: what is tapped below them leads
    up to them around that end.
    """
    units = {item.unit for item in row.rail if _is_arrester(item)}
    return replace(row, rail=tuple(sorted(row.rail, key=lambda item: item.unit not in units)))


def _with_arresters_below(rows: list[Row], most: float, *, is_fed_above: bool, is_apart: bool) -> list[Row]:
    """Return the rows with surge arresters where their leads are short: what protects one in the row that is fed from the duct where the
    supply is to be had, the arrester in the row below that, both below the blocks, or the main switch where there are none, or the
    terminals on which the supply lands; the block of the neutral where its clamps and the arrester's meet in one duct.

    Args:
        rows: from the top.
        most: mm that a row may take.
        is_fed_above: whether blocks and strips are tapped from the duct above them; a main switch always is from the one below it.
        is_apart: whether they get rows of their own where those that are there are much higher than they are.
    """
    on_rails = [item for row in rows for item in row.rail]
    guards = [item for item in on_rails if item.band is Band.ENTRY and item.unit and item.is_protection]
    arresters = [item for item in on_rails if _is_arrester(item)]
    blocks = [item for item in on_rails if is_bar(item.id) and item.band is Band.ENTRY]
    neutral = [item for item in blocks if item.id == _NEUTRAL]
    lines = {item for item in blocks if not place_of_block(item.id)}.difference(neutral)
    led_in = [k for k, row in enumerate(rows) if _leads_in(row)]
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
    for place, members in put.items():
        _make_room(moved, place, packed_width(members) + 2 * PART_GAP_MM, most, but=put)
    moved[main] = replace(moved[main], rail=tuple(sorted(moved[main].rail, key=_from_the_way_in)))
    led = sum(item.id in WAY_IN for item in moved[main].rail)
    led_to = [item for item in moved[main].rail if item in lines]
    beside = led + (len(led_to) + 1) // 2
    middle = packed_width(moved[main].rail[:beside]) - packed_width(guards) / 2
    x = moved[main].begin + middle if led_to else 0.0
    for place, members in put.items():
        row = moved[place]
        free = x - row.begin
        at = beside if place == main else _index_below(row.rail, free)
        spare = most - row.width - packed_width(members) - 2 * PART_GAP_MM
        if place != main and packed_width(row.rail) < min(free, spare):
            at, row = 0, replace(row, indent=min(free, spare))
        x = row.begin + row.indent + packed_width(row.rail[:at])
        moved[place] = replace(row, rail=(*row.rail[:at], *members, *row.rail[at:]))
    return [row for row in moved if row.items] if all(row.width <= most for row in moved) else rows


def _make_room(rows: list[Row], place: int, width: float, most: float, *, but: Collection[int]) -> None:
    """Move a part that belongs to no motor out of a row that lacks room for more, into the nearest one that has room for it and is high
    enough; the smallest that is enough.

    Args:
        rows: from the top, changed in place.
        place: of the row.
        width: mm that it is to take.
        most: mm that a row may take.
        but: rows that it may not go to.
    """
    row = rows[place]
    missing = row.width + width - most
    loose = [item for item in row.items if item.band in _LOOSE and not (item.load or item.unit or is_bar(item.id))]
    near = sorted((k for k in range(len(rows)) if k not in but), key=lambda k: abs(k - place))
    for item in sorted(loose, key=lambda item: item.span) if missing > 0 else ():
        up, down = item.up + item.room, item.down + item.room
        into = (k for k in near if up <= rows[k].up and down <= rows[k].down and rows[k].plus(item).width <= most)
        if item.span + PART_GAP_MM >= missing and (k := next(into, None)) is not None:
            rows[place] = replace(
                row,
                rail=tuple(i for i in row.rail if i is not item),
                fixed=tuple(i for i in row.fixed if i is not item),
            )
            rows[k] = rows[k].plus(item)
            return


def _landings(rows: Sequence[Row]) -> list[int]:
    """Return where the terminals are on which the supply lands."""
    return [k for k, row in enumerate(rows) if any(item.id == SUPPLY_STRIP for item in row.rail)]


def _is_much_higher(row: Row, members: Sequence[PlateItem]) -> bool:
    """Return whether parts would have wires much longer in a row than in one of their own height."""
    own = Row(tuple(members))
    return bool(row.items) and row.up + row.down - own.up - own.down > _MUCH_HIGHER_MM


def _index_below(rail: Sequence[PlateItem], x: float) -> int:
    """Return before which part of a rail something is put to stand about `x` mm from its left end; never between what is one motor's."""
    return next((k for k in range(len(rail)) if packed_width(rail[: k + 1]) > x and not _parts_one(rail, k)), len(rail))


def _parts_one(rail: Sequence[PlateItem], at: int) -> bool:
    return at > 0 and bool(rail[at].load) and rail[at].load == rail[at - 1].load


def _squeeze(rows: list[Row], most: float, height: float, ducts: DuctSizes) -> None:
    """Join neighbouring rows while they are too high for the plate together, first those that save most."""
    while len(rows) > 1 and rows_height(rows, ducts) > height:
        open_pairs = [
            (_saved(a, b), -k)
            for k, (a, b) in enumerate(zip(rows, rows[1:], strict=False))
            if _joined_width(a, b) <= most
        ]
        if not open_pairs:
            return
        k = -max(open_pairs)[1]
        rows[k : k + 2] = [_join(rows[k], rows[k + 1])]


def _saved(a: Row, b: Row) -> float:
    """Return by how many mm two rows are lower when they are one."""
    return min(a.up, b.up) + min(a.down, b.down)


def band_order(job: Job) -> tuple[Band, ...]:
    """Return the bands from the top: heat as high as may be, strips and the way in where the cables enter (common practice)."""
    if job.supply.entry == "bottom":
        return tuple(Band)
    return (Band.FIELD, Band.ENTRY, Band.TAP, Band.HEAT, Band.STARTER, Band.SUPPLY, Band.LOW)


def _fill(items: Sequence[PlateItem], most: float) -> list[Row]:
    """Return rows for the parts of a band: each, or a unit of several, goes into the first row that has room for it."""
    rows: list[Row] = []
    for _, unit in groupby(enumerate(items), key=lambda pair: pair[1].unit or pair[0]):
        members = [item for _, item in unit]
        place = next((k for k, row in enumerate(rows) if _with(row, members).width <= most), None)
        if place is None:
            rows.append(_with(Row(), members))
        else:
            rows[place] = _with(rows[place], members)
    return rows


def _move_earth(parted: Mapping[Band, list[PlateItem]], most: float, span: float) -> None:
    """Stand the earth bar beside the way in where it would take a row of its own among the strips."""
    earth = [item for item in parted[Band.FIELD] if item.id in {EARTH_BAR, PLATE_STUD}]
    others = [item for item in parted[Band.FIELD] if item not in earth]
    entry = [*parted[Band.ENTRY], *earth]
    if len(_fill(others, most)) < len(_fill(parted[Band.FIELD], most)) and len(_fill(entry, span)) == 1:
        parted[Band.FIELD][:], parted[Band.ENTRY][:] = others, entry


def _move_ahead(parted: Mapping[Band, list[PlateItem]], most: float, span: float) -> None:
    """Stand the blocks ahead of the main switch beside the way in where its row has room for them; else they stand with what they feed."""
    ahead = [item for item in parted[Band.TAP] if _is_ahead(item)]
    entry = [*parted[Band.ENTRY], *ahead]
    room = span if any(item.id == EARTH_BAR for item in entry) else most
    if len(_fill(entry, room)) == len(_fill(parted[Band.ENTRY], room)):
        parted[Band.TAP][:] = [item for item in parted[Band.TAP] if item not in ahead]
        parted[Band.ENTRY][:] = entry


_NEUTRAL = bar_for("N")


def _is_arrester(item: PlateItem) -> bool:
    """Return whether a part is a surge arrester, or its earth terminal."""
    return item.band is Band.ENTRY and bool(item.unit) and not item.is_protection


def _is_ahead(item: PlateItem) -> bool:
    """Return whether a part is a block ahead of the main switch."""
    return is_bar(item.id) and place_of_block(item.id) == "in"


def _from_the_way_in(item: PlateItem) -> int:
    """Return the rank of a part from where the supply comes in: main switch and what follows it, blocks behind these, surge arresters,
    blocks ahead of them, all else.
    """
    if item.id in WAY_IN:
        return WAY_IN.index(item.id)
    return len(WAY_IN) + (2 if _is_ahead(item) else 0 if is_bar(item.id) else 1 if item.unit else 3)


def _for_combs(items: Sequence[PlateItem]) -> list[PlateItem]:
    """Return taps with like beside like, those first of which there are most, so that combs lie over many; blocks ahead of all."""
    alike = Counter(item.width for item in items)
    return sorted(items, key=lambda item: (not is_bar(item.id), -alike[item.width], item.width))


def _columns(items: Sequence[PlateItem], most: float) -> list[Row]:
    """Return rows in pairs, what protects motors above what switches them, the same motors in each pair in their order; few motors
    stand beside each other in one row.
    """
    found: list[Row] = []
    pair = (Row(), Row())
    for _, group in groupby(_by_load(items), key=_load_of):
        members = list(group)
        above, below = ([m for m in members if m.is_protection is first] for first in (True, False))
        wider = (_with(pair[0], above), _with(pair[1], below))
        if max(row.width for row in wider) <= most:
            pair = wider
            continue
        found.extend(pair)
        pair = (_with(Row(), above), _with(Row(), below))
        if max(row.width for row in pair) > most:
            found.extend(row for half in pair for row in _fill(half.items, most))
            pair = (Row(), Row())
    found.extend(pair)
    if len(found) == len(pair) and _joined_width(*pair) <= _FEW_SHARE * most:
        return _fill(_by_load(items), most)
    return [row for row in found if row.items]


def _by_load(items: Sequence[PlateItem]) -> list[PlateItem]:
    """Return parts motor by motor, in the order in which the motors are met."""
    order = {load: place for place, load in enumerate(dict.fromkeys(_load_of(item) for item in items))}
    return sorted(items, key=lambda item: order[_load_of(item)])


def _load_of(item: PlateItem) -> str:
    """Return the motor or load that a part belongs to, itself where it belongs to none."""
    return item.load or item.id


def _with(row: Row, items: Iterable[PlateItem]) -> Row:
    """Return a row with more parts at its end."""
    return reduce(Row.plus, items, row)


def _joined_width(one: Row, other: Row) -> float:
    return one.width + other.width + PART_GAP_MM


def _are_alike(one: Row, other: Row) -> bool:
    """Return whether two rows of neighbouring bands are about as high, so that neither makes the other higher for nothing."""
    heights = [row.up + row.down for row in (one, other)]
    return max(heights) <= 1.6 * min(heights)


def _join(one: Row, other: Row) -> Row:
    """Return two rows as one; the way in stands first."""
    if _leads_in(other) and not _leads_in(one):
        one, other = other, one
    return replace(one, rail=(*one.rail, *other.rail), fixed=(*one.fixed, *other.fixed))


def _leads_in(row: Row) -> bool:
    return any(item.id in WAY_IN for item in row.items)
