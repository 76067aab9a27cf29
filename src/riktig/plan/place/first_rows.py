"""Owns the first proposal of a plate: which part stands in which row, and beside which. Must not know how high a row is made."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import groupby, pairwise

from riktig.job.model import Job
from riktig.pipeline.rows import by_row
from riktig.plan.circuit.incoming import WAY_IN
from riktig.plan.circuit.model import EARTH_BAR, is_bar
from riktig.plan.place.arresters import EARTHS, NEUTRAL, from_the_way_in, is_ahead, is_arrester, with_arresters_below
from riktig.plan.place.columns import Member, straight_places
from riktig.plan.place.heights import handle_reach
from riktig.plan.place.items import PART_GAP_MM, Band, PlateItem
from riktig.plan.place.layout import plate_size
from riktig.plan.place.row_room import ByHeight, height_of, leads_in, width_with, with_items
from riktig.plan.place.stack import (
    NARROWER_DUCTS,
    ROW_FILL,
    DuctSizes,
    Row,
    gap_between,
    inner_span,
    lines_in_reach,
    pack,
    rows_height,
    usual_ducts,
    wider,
)

_FEW_SHARE = 0.5
"""Share of a row up to which breakers and contactors share one (common practice, no source)."""
_STRAIGHT_FILL = 0.9
"""Share of a row that is used where columns stand straight then (common practice, no source)."""
_TAP_WAY_MM = 2600.0
"""Between the rows of the way in and of what it feeds, and across them, for taps of 3 m (common practice, no source)."""
_FEW_MOTORS = 6
"""So few motors get narrower ducts rather than what protects and what switches them in one row (common practice, no source)."""


def first_layout(job: Job, items: Sequence[PlateItem], least: DuctSizes | None = None) -> tuple[list[Row], DuctSizes]:
    """Return rows and ducts of a first proposal: the usual ducts, the next narrower ones that do where the plate is too low for those, the
    narrowest where none do. An earth bar in a row of its own stands at the edge, with no duct beyond it.

    Args:
        job: its enclosure, supply, incoming and practice.
        items: the parts.
        least: what the wires ask of the ducts where that is known; given where the plate is high and wide enough for it, at least to the
            uprights.
    """
    asked = Job.model_construct(
        **{facet: getattr(job, facet) for facet in ("enclosure", "supply", "incoming", "practice")}
    )
    usual, parts = (usual_ducts(job), *NARROWER_DUCTS), tuple(items)
    plain = _proposal("usual", asked, parts, *usual)
    if least is not None and _fits(job, *plain):
        for name, wanted in (("wide", least), ("wide uprights", replace(least, single={}))):
            way = _proposal(name, asked, parts, *(wider(ducts, wanted) for ducts in usual))
            if _fits(job, *way) and len(way[0]) <= len(plain[0]):
                return way
    return plain


@by_row
def _proposal(
    _: str, job: Job, items: tuple[PlateItem, ...], usual: DuctSizes, narrow: DuctSizes, narrowest: DuctSizes
) -> tuple[list[Row], DuctSizes]:
    """Return rows and ducts for some sizes of ducts; the last ones are remembered, for a plate is laid out several times: nobody changes
    them.
    """
    if _least_height(job, items, narrowest) > plate_size(job)[1]:
        return _at_the_edge(job, first_rows(job, items, narrowest), narrowest)
    if len({item.load for item in items if item.band is Band.STARTER}) <= _FEW_MOTORS:
        for ducts in (usual, narrow):
            way = _at_the_edge(job, _banded_rows(job, items, ducts, in_columns=True, keeps_pairs=True), ducts)
            if _fits(job, *way):
                return way
    found = [_at_the_edge(job, first_rows(job, items, usual), usual)]
    if not _fits(job, *found[0]):
        found.append(_at_the_edge(job, first_rows(job, items, narrowest), narrowest))
        if usual != narrow and _fits(job, *found[1]):
            found.insert(1, _at_the_edge(job, first_rows(job, items, narrow), narrow))
    return next((way for way in found if _fits(job, *way)), found[-1])


def _at_the_edge(job: Job, rows: list[Row], ducts: DuctSizes) -> tuple[list[Row], DuctSizes]:
    """Return rows and ducts, without the one between the edge and an earth bar that has the row there for itself: the earth conductors of
    the cables come straight to it (common practice, no source).
    """
    is_below = job.supply.entry == "bottom"
    if len(rows) < 2 or not _is_bare((rows[-1] if is_below else rows[0]).items):
        return rows, ducts
    return rows, replace(ducts, single={**ducts.single, len(rows) if is_below else 0: (0.0, ducts.level[1])})


def _is_bare(items: Sequence[PlateItem]) -> bool:
    """Return whether a row holds an earth bar, and nothing but earth."""
    return any(item.id == EARTH_BAR for item in items) and all(item.id in EARTHS for item in items)


def _least_height(job: Job, items: Sequence[PlateItem], ducts: DuctSizes) -> float:
    """Return what no rows of these parts go below, in mm: each stands in a row at least as high, and no wider than the plate."""
    left, right = inner_span(job, ducts)
    area = sum(item.span * (item.up + item.down + 2 * item.room) for item in items)
    return area / (right - left) + 2 * ducts.level[0]


def _fits(job: Job, rows: Sequence[Row], ducts: DuctSizes) -> bool:
    return rows_height(rows, ducts) <= plate_size(job)[1]


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


def _banded_rows(
    job: Job, items: Sequence[PlateItem], ducts: DuctSizes, *, in_columns: bool, keeps_pairs: bool = False
) -> list[Row]:
    """Return rows band by band: motors in columns or as they come, surge arresters below what protects them; where pairs are kept, no
    row of starters is joined with another one or parted among others.
    """
    left, right = inner_span(job, ducts)
    most = ROW_FILL * (right - left)
    bands: list[list[Row]] = []
    arresters = [item for item in items if is_arrester(item)] if job.supply.entry == "bottom" else []
    hung = [*arresters, *(item for item in items if arresters and item.id == NEUTRAL)]
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
            rows = [replace(row, fixed_left=is_fixed) for row in _fill(sorted(members, key=from_the_way_in), room)]
        elif band is Band.STARTER and in_columns:
            rows = _columns(members, most)
            if job.practice.layout == "rows":
                protecting = [row for row in rows if any(item.is_protection for item in row.items)]
                rows = [*reversed(protecting), *(row for row in rows if row not in protecting)]
        elif band is Band.FIELD:
            rows = _with_earth(_fill([item for item in members if item.id not in EARTHS], most), members, right - left)
        else:
            rows = _fill(_for_combs(members) if band is Band.TAP else members, most)
        if rows:
            bands.append(rows)
    merged: list[Row] = []
    for rows in bands:
        is_wide = bool(merged) and _joined_width(merged[-1], rows[0]) > most
        if merged and not is_wide and _are_alike(merged[-1], rows[0]) and not _is_led_below(merged[-1], rows[0]):
            rows = [_join(merged.pop(), rows[0]), *rows[1:]]
        merged.extend(rows)
    span, height = right - left, plate_size(job)[1]
    by_height = ByHeight(parted[Band.LIGHT], parted[Band.WARM], span, height, ducts)
    for share in (ROW_FILL, 1.0):
        _squeeze(merged, share * span, height - by_height.takes(merged), ducts, keeps_pairs=keeps_pairs)
    merged = _with_taps_in_reach(job, merged, ducts)
    merged = found = _with_handle_in_reach(job, merged, ducts)
    for is_apart in (True, False):
        hung_below = with_arresters_below(merged, span, is_fed_above=job.supply.entry == "bottom", is_apart=is_apart)
        found = by_height.into(hung_below) if keeps_pairs else by_height.into_fewest(hung_below)
        if rows_height(found, ducts) <= height:
            break
    return straightened(found, (left, right)) if in_columns else found


def _with_taps_in_reach(job: Job, rows: list[Row], ducts: DuctSizes) -> list[Row]:
    """Return the rows with that of the way in as near to where it was as keeps what it feeds within a tap's length, where it was too far
    from that; what protects motors stays above their contactors.

    Source:
        IEC 60364-4-43 434.2.1, NEC 240.21(B)(1), from memory.
    """
    way_in = next((k for k, row in enumerate(rows) if leads_in(row)), None)
    if way_in is None:
        return rows
    if _longest_tap(job, rows, ducts) <= _TAP_WAY_MM:
        return rows
    others = [*rows[:way_in], *rows[way_in + 1 :]]
    found = []
    for place in range(len(rows)):
        if place in {0, len(others)} or not _are_a_pair(*others[place - 1 : place + 1]):
            moved = [*others[:place], rows[way_in], *others[place:]]
            found.append((max(_longest_tap(job, moved, ducts), _TAP_WAY_MM), abs(place - way_in), moved))
    return min(found, key=lambda entry: entry[:2])[2]


def _longest_tap(job: Job, rows: Sequence[Row], ducts: DuctSizes) -> float:
    """Return how far it is at most from the way in to what it feeds, up or down and by the nearer upright, in mm."""
    left, right = inner_span(job, ducts)
    lines, _ = lines_in_reach(job, rows, ducts)
    begin, at = next((row.width, y) for row, y in zip(rows, lines, strict=True) if leads_in(row))
    fed = ((row, y) for row, y in zip(rows, lines, strict=True) if any(item.is_protection for item in row.items))
    return max((abs(y - at) + min(begin + row.width, right - left) for row, y in fed), default=0.0)


def _are_a_pair(above: Row, below: Row) -> bool:
    """Return whether one row switches the motors that the one above it protects."""
    protects, switches = (any(i.is_protection and i.load for i in row.items) for row in (above, below))
    return protects and not switches and _holds_starters(below)


def _with_handle_in_reach(job: Job, rows: list[Row], ducts: DuctSizes) -> list[Row]:
    """Return the rows with that of a main switch whose handle is on the door as near to where it was as leaves the handle in reach above
    the floor; starters stay together. Where no place does, it stays.

    Source:
        IEC 60204-1:2016 5.3.4, NFPA 79:2021 5.3.4, from memory.
    """
    way_in = next((k for k, row in enumerate(rows) if leads_in(row)), None)
    if way_in is None or job.incoming.switch != "door" or rows_height(rows, ducts) > plate_size(job)[1]:
        return rows
    least, most = handle_reach(job)
    others = [*rows[:way_in], *rows[way_in + 1 :]]
    for place in sorted(range(len(rows)), key=lambda k: abs(k - way_in)):
        if 0 < place < len(others) and all(_holds_starters(row) for row in others[place - 1 : place + 1]):
            continue
        moved = [*others[:place], rows[way_in], *others[place:]]
        lines, _ = lines_in_reach(job, moved, ducts)
        if least <= lines[place] <= most:
            return moved
    return rows


def _is_led_below(one: Row, other: Row) -> bool:
    """Return whether the supply would be led in beside what switches motors rather than beside what protects them."""
    row = other if leads_in(one) else one
    starters = [item for item in row.items if item.band is Band.STARTER]
    return leads_in(one) != leads_in(other) and bool(starters) and not any(item.is_protection for item in starters)


def _holds_starters(row: Row) -> bool:
    return any(item.band is Band.STARTER for item in row.items)


def _squeeze(rows: list[Row], most: float, height: float, ducts: DuctSizes, *, keeps_pairs: bool) -> None:
    """Join neighbouring rows while they are too high for the plate together, first those that save most."""
    while len(rows) > 1 and rows_height(rows, ducts) > height:
        open_pairs = [
            (_saved(a, b), -k)
            for k, (a, b) in enumerate(pairwise(rows))
            if _joined_width(a, b) <= most and not (keeps_pairs and _holds_starters(a) and _holds_starters(b))
        ]
        if not open_pairs:
            return
        k = -max(open_pairs)[1]
        rows[k : k + 2] = [_join(rows[k], rows[k + 1])]


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


def _fill(items: Sequence[PlateItem], most: float) -> list[Row]:
    """Return rows for the parts of a band: each, or a unit of several, goes into the first row that has room for it."""
    rows: list[Row] = []
    for _, unit in groupby(enumerate(items), key=lambda pair: pair[1].unit or pair[0]):
        members = [item for _, item in unit]
        place = next((k for k, row in enumerate(rows) if width_with(row, members) <= most), None)
        if place is None:
            rows.append(with_items(Row(), members))
        else:
            rows[place] = with_items(rows[place], members)
    return rows


def _with_earth(rows: list[Row], members: Sequence[PlateItem], span: float) -> list[Row]:
    """Return rows of strips with the earth bar and its like beside them, in what the rails keep free; in a row of their own where none has
    room.
    """
    for item in (item for item in members if item.id in EARTHS):
        place = next((k for k, row in enumerate(rows) if row.plus(item).width <= span), None)
        if place is None:
            rows = [*rows, Row().plus(item)]
        else:
            rows[place] = rows[place].plus(item)
    return rows


def _move_earth(parted: Mapping[Band, list[PlateItem]], most: float, span: float) -> None:
    """Stand the earth bar beside the way in where it would take a row of its own among the strips."""
    earth = [item for item in parted[Band.FIELD] if item.id in EARTHS]
    others = [item for item in parted[Band.FIELD] if item not in earth]
    entry = [*parted[Band.ENTRY], *earth]
    if len(_fill(others, most)) < len(_fill(parted[Band.FIELD], most)) and len(_fill(entry, span)) == 1:
        parted[Band.FIELD][:], parted[Band.ENTRY][:] = others, entry


def _move_ahead(parted: Mapping[Band, list[PlateItem]], most: float, span: float) -> None:
    """Stand the blocks ahead of the main switch beside the way in where its row has room for them; else they stand with what they feed."""
    ahead = [item for item in parted[Band.TAP] if is_ahead(item)]
    entry = [*parted[Band.ENTRY], *ahead]
    room = span if any(item.id == EARTH_BAR for item in entry) else most
    if len(_fill(entry, room)) == len(_fill(parted[Band.ENTRY], room)):
        parted[Band.TAP][:] = [item for item in parted[Band.TAP] if item not in ahead]
        parted[Band.ENTRY][:] = entry


def _for_combs(items: Sequence[PlateItem]) -> list[PlateItem]:
    """Return taps with like beside like, those first of which there are most, so that combs lie over many; what stays live with the main
    switch off together ahead of all, then blocks.
    """
    alike = Counter(item.width for item in items)
    return sorted(items, key=lambda item: (not item.stays_live, not is_bar(item.id), -alike[item.width], item.width))


def _columns(items: Sequence[PlateItem], most: float) -> list[Row]:
    """Return rows in pairs, what protects motors above what switches them, the same motors in each pair in their order; few motors
    stand beside each other in one row.
    """
    found: list[Row] = []
    pair = (Row(), Row())
    for _, group in groupby(_by_load(items), key=_load_of):
        members = list(group)
        above, below = ([m for m in members if m.is_protection is first] for first in (True, False))
        if max(width_with(pair[0], above), width_with(pair[1], below)) <= most:
            pair = (with_items(pair[0], above), with_items(pair[1], below))
            continue
        found.extend(pair)
        pair = (with_items(Row(), above), with_items(Row(), below))
        if max(row.width for row in pair) > most:
            found.extend(row for half in pair for row in _fill(half.items, most))
            pair = (Row(), Row())
    found.extend(pair)
    if len(found) == len(pair) and _joined_width(*pair) <= _FEW_SHARE * most:
        return _fill(_by_load(items), most)
    return [row for row in found if row.items]


def straightened(rows: Sequence[Row], span: tuple[float, float]) -> list[Row]:
    """Return the rows with what switches each motor straight below what protects it, where no comb keeps that from going aside, and where
    both rows keep their reserve then.
    """
    found = list(rows)
    for k, (above, below) in enumerate(pairwise(rows)):
        if _holds_starters(above) and _holds_starters(below):
            found[k : k + 2] = _straight(found[k], below, span)
    return found


def _straight(above: Row, below: Row, span: tuple[float, float]) -> tuple[Row, Row]:
    most = _STRAIGHT_FILL * (span[1] - span[0])
    begins = (span[0] + above.begin + above.indent, span[0] + below.begin + below.indent)
    upper, lower = _members(above.rail), _members(below.rail)
    for members in (upper, [replace(member, stays=True) for member in upper]):
        places = straight_places(members, lower, begins)
        wide = [_spread(row, places[n], begins[n]) for n, row in enumerate((above, below))]
        if max(row.width for row in wide) <= most:
            free = span[1] - span[0] - max(row.width for row in wide)
            aside = max(0.0, free) if above.to_right and below.to_right else 0.0
            upper_row, lower_row = (
                replace(row, indent=row.indent + aside, to_right=row.to_right and not aside) for row in wide
            )
            return upper_row, lower_row
    return above, below


def _members(rail: Sequence[PlateItem]) -> list[Member]:
    gaps = [0.0, *(gap_between(a, b) for a, b in pairwise(rail))][: len(rail)]
    return [
        Member(item.load or None, item.left, item.span, gap, stays=k > 0 and not gap)
        for k, (item, gap) in enumerate(zip(rail, gaps, strict=True))
    ]


def _spread(row: Row, places: Sequence[float], begin: float) -> Row:
    """Return a row whose parts stand at places: what is free before one is reserve of the one before it."""
    shifts = [place - packed for (_, packed), place in zip(pack(row.rail, begin), places, strict=True)]
    rail = [
        replace(item, reserve=item.reserve + after - shift)
        for item, shift, after in zip(row.rail, shifts, [*shifts[1:], *shifts[-1:]], strict=True)
    ]
    return replace(row, rail=tuple(rail), indent=row.indent + (shifts[0] if shifts else 0.0))


def _by_load(items: Sequence[PlateItem]) -> list[PlateItem]:
    """Return parts motor by motor, in the order in which the motors are met."""
    order = {load: place for place, load in enumerate(dict.fromkeys(_load_of(item) for item in items))}
    return sorted(items, key=lambda item: order[_load_of(item)])


def _load_of(item: PlateItem) -> str:
    """Return the motor or load that a part belongs to, itself where it belongs to none."""
    return item.load or item.id


def _joined_width(one: Row, other: Row) -> float:
    return one.width + other.width + PART_GAP_MM


def _are_alike(one: Row, other: Row) -> bool:
    """Return whether two rows of neighbouring bands are about as high, so that neither makes the other higher for nothing."""
    heights = [height_of(row) for row in (one, other)]
    return max(heights) <= 1.6 * min(heights)


def _join(one: Row, other: Row) -> Row:
    """Return two rows as one; the way in stands first, then starters, so that these stay above each other."""
    if _rank(other) < _rank(one):
        one, other = other, one
    return replace(one, rail=(*one.rail, *other.rail), fixed=(*one.fixed, *other.fixed))


def _rank(row: Row) -> int:
    return 0 if leads_in(row) else 1 if _holds_starters(row) else 2
