"""Owns the first proposal of a plate: which part stands in which row, and beside which. Must not know how high a row is made."""

from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import reduce
from itertools import groupby, pairwise

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
_EARTHS = frozenset({EARTH_BAR, PLATE_STUD})
_FEW_SHARE = 0.5
"""Share of a row up to which breakers and contactors share one (common practice, no source)."""


def first_rows(job: Job, items: Sequence[PlateItem], ducts: DuctSizes) -> list[Row]:
    """Return rows for parts in the order given, from the top, each used to its share: band by band, small bands together; the way in
    from the left in the order of the current, and what protects motors in a row above their contactors, where the plate is high enough
    for that.
    """
    found: list[list[Row]] = []
    for in_columns in (True, False):
        found.append(_banded_rows(job, items, ducts, in_columns=in_columns))
        if rows_height(found[-1], ducts) <= plate_size(job)[1]:
            return found[-1]
    return min(found, key=lambda rows: rows_height(rows, ducts))


def _banded_rows(job: Job, items: Sequence[PlateItem], ducts: DuctSizes, *, in_columns: bool) -> list[Row]:
    """Return rows band by band: motors in columns or as they come, surge arresters below what protects them."""
    left, right = inner_span(job, ducts)
    most = ROW_FILL * (right - left)
    bands: list[list[Row]] = []
    arresters = [item for item in items if _is_arrester(item)] if job.supply.entry == "bottom" else []
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
    span, height = right - left, plate_size(job)[1]
    by_height = _ByHeight(parted[Band.LIGHT], parted[Band.WARM], span, height, ducts)
    for share in (ROW_FILL, 1.0):
        _squeeze(merged, share * span, height - by_height.takes(merged), ducts)
    found = merged
    for is_apart in (True, False):
        hung_below = _with_arresters_below(merged, span, is_fed_above=job.supply.entry == "bottom", is_apart=is_apart)
        found = by_height.into_fewest(hung_below)
        if rows_height(found, ducts) <= height:
            break
    return found


@dataclass(frozen=True, slots=True)
class _ByHeight:
    """What stands high or low wherever the cables enter: lights and heaters, put into rows for all else. Lengths in mm."""

    lights: Sequence[PlateItem]
    heaters: Sequence[PlateItem]
    span: float
    height: float
    ducts: DuctSizes

    def into(self, rows: list[Row]) -> list[Row]:
        """Return the rows with heaters in the lowest and lights in the highest that leaves the plate high enough, else where all gets
        least higher; in rows of their own where none has room, a light rather than below the highest. Never between the main switch and
        what it leads to.
        """
        for item in self.heaters:
            rows = self._first([*reversed(self._ways(rows, item)), [*rows, _with(Row(), [item])]])
        for item in self.lights:
            ways = self._ways(rows, item)
            at_top = 1 if ways and ways[0][0] is not rows[0] else 0
            rows = self._first([*ways[:at_top], [_with(Row(), [item]), *rows], *ways[at_top:]])
        return rows

    def _ways(self, rows: list[Row], item: PlateItem) -> list[list[Row]]:
        """Return the rows with a part in one that has room for it, right of its rail, for each of these."""
        wider = [replace(row, fixed_left=row.fixed_left and bool(row.fixed)).plus(item) for row in rows]
        open_to = [k for k, row in enumerate(rows) if not _leads_in(row) and wider[k].width <= self.span]
        return [[*rows[:k], wider[k], *rows[k + 1 :]] for k in open_to]

    def _first(self, ways: Sequence[list[Row]]) -> list[Row]:
        return next((way for way in ways if self._fits(way)), min(ways, key=self._height_of))

    def takes(self, rows: list[Row]) -> float:
        """Return by how much they make the rows higher."""
        return self._height_of(self.into(rows)) - self._height_of(rows)

    def into_fewest(self, rows: list[Row]) -> list[Row]:
        """Return the rows with them, the narrowest parted among others while all is too high for the plate and that can mend it."""
        found = self.into(rows)
        most = sum(_height(row) + self.ducts.level[0] for row in rows if _may_part(row))
        while self._height_of(found) - most <= self.height < self._height_of(found):
            ways = (_parted_up(rows, k, self.span) for k in sorted(range(len(rows)), key=lambda k: rows[k].width))
            fewer = next((way for way in ways if way is not None), None)
            if fewer is None:
                return found
            rows, found = fewer, self.into(fewer)
        return found

    def _fits(self, rows: list[Row]) -> bool:
        return self._height_of(rows) <= self.height

    def _height_of(self, rows: list[Row]) -> float:
        return rows_height(rows, self.ducts)


def _with_arresters_below(rows: list[Row], most: float, *, is_fed_above: bool, is_apart: bool) -> list[Row]:
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
    arresters = [item for item in on_rails if _is_arrester(item)]
    blocks = [item for item in on_rails if is_bar(item.id) and item.band is Band.ENTRY]
    neutral = [item for item in blocks if item.id == _NEUTRAL]
    lines = {item for item in blocks if not place_of_block(item.id)}.difference(neutral)
    led_in = [k for k, row in enumerate(rows) if _leads_in(row)]
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
    moved[main] = replace(moved[main], rail=tuple(sorted(moved[main].rail, key=_from_the_way_in)))
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
        takers = {k: _Taking.of(rows[k]) for k in near}
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
    return item.id in _EARTHS or (item.band in _LOOSE and not (item.load or item.unit or is_bar(item.id)))


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
    return bool(row.items) and _height(row) - _height(own) > _MUCH_HIGHER_MM


def _index_below(rail: Sequence[PlateItem], x: float) -> int:
    """Return before which part of a rail something is put to stand as near as may be to `x` mm from its left end; never between what is
    one motor's.
    """
    places = (k for k in range(len(rail) + 1) if k == len(rail) or not _parts_one(rail, k))
    return min(places, key=lambda k: abs(packed_width(rail[:k]) - x))


def _parts_one(rail: Sequence[PlateItem], at: int) -> bool:
    return at > 0 and bool(rail[at].load) and rail[at].load == rail[at - 1].load


def _squeeze(rows: list[Row], most: float, height: float, ducts: DuctSizes) -> None:
    """Join neighbouring rows while they are too high for the plate together, first those that save most."""
    while len(rows) > 1 and rows_height(rows, ducts) > height:
        open_pairs = [(_saved(a, b), -k) for k, (a, b) in enumerate(pairwise(rows)) if _joined_width(a, b) <= most]
        if not open_pairs:
            return
        k = -max(open_pairs)[1]
        rows[k : k + 2] = [_join(rows[k], rows[k + 1])]


def _parted_up(rows: Sequence[Row], k: int, most: float) -> list[Row] | None:
    """Return the rows without one whose parts stand in the nearest others, strips right beside it; None where these lack room or height
    for them.
    """
    if not _may_part(rows[k]):
        return None
    others = [_Taking.of(row) for n, row in enumerate(rows) if n != k]
    for item in rows[k].items:
        near = sorted(range(len(others)), key=lambda n: abs(n + 0.5 - k))[: 2 if item.band is Band.FIELD else None]
        place = next((n for n in near if others[n].takes(item, most)), None)
        if place is None:
            return None
        others[place].add(item)
    return [other.row for other in others]


@dataclass(slots=True)
class _Taking:
    """A row that takes more parts as long as it gets no higher by them: its width, and whether its parts work at extra-low voltage."""

    row: Row
    width: float
    room: tuple[float, float]
    has_low: bool
    ends_low: bool

    @classmethod
    def of(cls, row: Row) -> "_Taking":
        lows = [item.band is Band.LOW for item in row.items]
        return cls(row, row.width, (row.up, row.down), any(lows), lows[-1:] == [True])

    def takes(self, item: PlateItem, most: float) -> bool:
        """Return whether it has room for one more part, gets no higher by it, and keeps what works at extra-low voltage together."""
        is_sorted = self.ends_low if item.band is Band.LOW else not self.has_low
        is_low_enough = item.up + item.room <= self.room[0] and item.down + item.room <= self.room[1]
        return is_sorted and is_low_enough and self.width + PART_GAP_MM + item.span <= most

    def add(self, item: PlateItem) -> None:
        """Put one more part at its end."""
        self.row = self.row.plus(item)
        self.width += PART_GAP_MM + item.span


def _may_part(row: Row) -> bool:
    """Return whether nothing in a row must stand beside something else."""
    return not _leads_in(row) and not any(item.unit or is_bar(item.id) for item in row.rail)


def _saved(a: Row, b: Row) -> float:
    """Return by how many mm two rows are lower when they are one."""
    return min(a.up, b.up) + min(a.down, b.down)


def band_order(job: Job) -> tuple[Band, ...]:
    """Return the bands that follow from where the cables enter, from the top: heat as high as may be, strips and the way in where they
    enter (common practice).
    """
    if job.supply.entry == "bottom":
        return (Band.HEAT, Band.LOW, Band.SUPPLY, Band.STARTER, Band.TAP, Band.ENTRY, Band.FIELD)
    return (Band.FIELD, Band.ENTRY, Band.TAP, Band.HEAT, Band.STARTER, Band.SUPPLY, Band.LOW)


def _height(row: Row) -> float:
    return row.up + row.down


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
    earth = [item for item in parted[Band.FIELD] if item.id in _EARTHS]
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
    heights = [_height(row) for row in (one, other)]
    return max(heights) <= 1.6 * min(heights)


def _join(one: Row, other: Row) -> Row:
    """Return two rows as one; the way in stands first."""
    if _leads_in(other) and not _leads_in(one):
        one, other = other, one
    return replace(one, rail=(*one.rail, *other.rail), fixed=(*one.fixed, *other.fixed))


def _leads_in(row: Row) -> bool:
    return any(item.id in WAY_IN for item in row.items)
