"""Owns where parts, rails and ducts are on the plate, in a fixed pattern of rows. Must not know wires.

Frame: mm, origin at the lower left corner of the plate seen from the front, x right, y up.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.model import Mounting, Part
from riktig.catalogue.side_by_side import snug_key
from riktig.job.ledger import Choices
from riktig.job.model import Job
from riktig.plan.circuit import EARTH_BAR, PLATE, PLATE_STUD, Circuit
from riktig.plan.zones import zones_of

EDGE_MM = 50.0
"""How much smaller the plate is than the enclosure, in each direction."""
DUCT_SIZES_MM = ((800.0, 60.0, 80.0), (0.0, 40.0, 60.0))
"""From which enclosure width on a duct is how wide and deep (common practice, no source)."""
FINGER_MM = 30.0
"""Room between a duct and the parts beside it (common practice, no source)."""
SIDE_GAP_MM = 10.0
PART_GAP_MM = 4.0
STRIP_RESERVE_MM = 30.0
ROW_FILL = 0.8
"""Share of a rail that is used when parts are first put on it; the rest is reserve (common practice)."""
RAIL_WIDTH_MM = 35.0
_POWER_ROLES = frozenset({"Q", "K", "KR", "KD", "KS", "A"})
"""Parts of a starter that stand in a starter row; its relays and timers stand with the supplies."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Box:
    """A rectangle on the plate or door: lower left corner, width and height in mm."""

    x: float
    y: float
    w: float
    h: float

    @property
    def centre(self) -> tuple[float, float]:
        """Its middle."""
        return self.x + self.w / 2, self.y + self.h / 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A row of parts: `y` of the rail's centre line, room for parts `up` above and `down` below it, in mm."""

    index: int
    y: float
    up: float
    down: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Duct:
    """A wiring duct; `code` is printed on the piece."""

    code: str
    box: Box
    is_vertical: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Rail:
    """A piece of mounting rail: left end, centre line and length in mm."""

    code: str
    x: float
    y: float
    length: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PlateLayout:
    """Everything on the plate. `boxes` by device or strip id, `row_of` the row index of each. Duct sizes in mm."""

    width: float
    height: float
    boxes: Mapping[str, Box]
    row_of: Mapping[str, int]
    rows: tuple[Row, ...]
    rails: tuple[Rail, ...]
    ducts: tuple[Duct, ...]
    duct_width: float
    duct_depth: float

    @property
    def height_used(self) -> float:
        """Height in mm that the rows with their ducts take, more than the plate's when they do not fit."""
        tops = [duct.box.y + duct.box.h for duct in self.ducts if not duct.is_vertical]
        bottoms = [duct.box.y for duct in self.ducts if not duct.is_vertical]
        return max(tops) - min(bottoms) if tops else 0.0

    def duct_beside(self, item: str, *, above: bool) -> Duct:
        """Return the horizontal duct above or below the row of an item."""
        level = [row.index for row in self.rows]
        place = level.index(self.row_of[item])
        horizontal = [duct for duct in self.ducts if not duct.is_vertical]
        return horizontal[place if above else place + 1]


@dataclass(frozen=True, slots=True)
class _Item:
    id: str
    group: str
    width: float
    up: float
    down: float
    snug: str = ""


def duct_size(job: Job) -> tuple[float, float]:
    """Return width and depth of the wiring ducts in mm: larger in a wide enclosure, which has more in each duct."""
    return next((w, d) for least, w, d in DUCT_SIZES_MM if job.enclosure.width >= least)


def plate_size(job: Job) -> tuple[float, float]:
    """Return width and height of the plate in mm."""
    return job.enclosure.width - EDGE_MM, job.enclosure.height - EDGE_MM


def _items(
    circuit: Circuit, parts: Mapping[str, Part], strip_widths: Mapping[str, float], strip_h: float
) -> list[_Item]:
    """Return what has a place of its own, in the order in which it is placed."""
    zones = zones_of(circuit)
    plugged = {d.owner: parts[d.id] for d in circuit.devices if parts[d.id].mounting is Mounting.PLUGGED and d.owner}
    starters = {d.id for d in circuit.devices if d.kind == "motor"}
    items: dict[str, list[_Item]] = {"supply": [], "starter": [], "field": []}
    for device in circuit.devices:
        part = parts[device.id]
        if zones[device.id] != PLATE or (part.mounting is Mounting.PLUGGED and device.owner is not None):
            continue
        hung = plugged.get(device.owner) if device.role == "K" and device.owner is not None else None
        below, width = (hung.height, max(part.width, hung.width)) if hung is not None else (0.0, part.width)
        group = (
            "field"
            if device.id in {EARTH_BAR, PLATE_STUD}
            else "starter"
            if device.owner in starters and device.role in _POWER_ROLES
            else "supply"
        )
        items[group].append(_Item(device.id, group, width, part.height / 2, part.height / 2 + below, snug_key(part)))
    strips = [_Item(s, "field", w + STRIP_RESERVE_MM, strip_h / 2, strip_h / 2) for s, w in strip_widths.items()]
    return [*items["supply"], *items["starter"], *strips, *items["field"]]


def allocate_places(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    strip_widths: Mapping[str, float],
    strip_height: float,
    kept: Choices,
) -> dict[str, str]:
    """Return places: `row:N` -> `y up down group`, and for each item `ROW X`; what stands stays where it is.

    A new item takes the first gap of a row of its own sort that is high enough, else a new row. Rows that a release
    holds keep height and level, and new ones come below them; the others are as high as their parts and stacked from
    the top: supply, starters, field side, or the field side first where cables enter at the top.
    """
    width, height = plate_size(job)
    duct, _ = duct_size(job)
    rows = _Rows(width - 2 * (duct + SIDE_GAP_MM), kept, duct)
    items = _items(circuit, parts, strip_widths, strip_height)
    waiting = [item for item in items if not rows.keep(item, kept.get(item.id))]
    for item in waiting:
        rows.place(item)
    entry_top = job.supply.entry == "top"
    return rows.result(height, [item.id for item in items], field_first=entry_top)


class _Rows:
    """Rows while they are being filled; x is counted from the plate's edge."""

    def __init__(self, usable: float, kept: Choices, duct_width: float) -> None:
        self._usable = usable
        self._duct = duct_width
        self._left = duct_width + SIDE_GAP_MM
        self._group: dict[int, str] = {}
        self._size: dict[int, tuple[float, float]] = {}
        self._y: dict[int, float] = {}
        self._spans: dict[int, list[tuple[float, float, str]]] = {}
        self._places: dict[str, tuple[int, float]] = {}
        for key, choice in kept.items():
            if key.startswith("row:"):
                y, up, down, group = choice.value.split()
                index = int(key[4:])
                self._group[index], self._size[index], self._spans[index] = group, (0.0, 0.0), []
                if choice.is_held:
                    self._y[index], self._size[index] = float(y), (float(up), float(down))
        self._kept = set(self._y)

    def keep(self, item: _Item, choice: object) -> bool:
        value = getattr(choice, "value", None)
        if value is None:
            return False
        row_text, x_text = value.split()
        row, x = int(row_text), float(x_text)
        is_held = bool(getattr(choice, "is_held", False))
        if row not in self._group or self._group[row] != item.group:
            return False
        fits = x + item.width <= self._left + self._usable + 1e-6 and self._is_high_enough(row, item)
        if not is_held and not (fits and self._is_free(row, x, item.width)):
            return False
        self._put(item, row, x)
        return True

    def place(self, item: _Item) -> None:
        mine = [r for r in sorted(self._group) if self._group[r] == item.group]
        for share in (ROW_FILL, 1.0) if item.group == "supply" else (ROW_FILL if item.group == "starter" else 1.0,):
            for row in mine:
                x = self._gap(row, item, share) if self._is_high_enough(row, item) else None
                if x is not None:
                    self._put(item, row, x)
                    return
        row = max(self._group, default=-1) + 1
        self._group[row], self._size[row], self._spans[row] = item.group, (0.0, 0.0), []
        self._put(item, row, self._left)

    def _put(self, item: _Item, row: int, x: float) -> None:
        self._places[item.id] = (row, x)
        self._spans[row].append((x, x + item.width, item.snug))
        if row not in self._kept:
            up, down = self._size[row]
            self._size[row] = (max(up, item.up), max(down, item.down))

    def _is_high_enough(self, row: int, item: _Item) -> bool:
        if row not in self._kept:
            return True
        up, down = self._size[row]
        return item.up <= up + 1e-6 and item.down <= down + 1e-6

    def _is_free(self, row: int, x: float, width: float) -> bool:
        return all(x + width <= a + 1e-6 or x >= b - 1e-6 for a, b, _ in self._spans[row])

    def _gap(self, row: int, item: _Item, share: float) -> float | None:
        """Return where the first gap begins that takes an item, None if none does; what a comb joins stands without a gap."""
        width, spans = item.width, sorted(self._spans[row])
        used = sum(b - a for a, b, _ in spans)
        if spans and used + width > share * self._usable:
            return None
        x = self._left
        for a, b, snug in spans:
            apart = 0.0 if snug and snug == item.snug else PART_GAP_MM
            if x + width + apart <= a:
                break
            x = max(x, b + apart)
        return x if x + width <= self._left + self._usable or not spans else None

    def result(self, height: float, order: list[str], *, field_first: bool) -> dict[str, str]:
        held = [row for row in self._group if self._spans[row]]
        ranks = {"field": -1 if field_first else 2, "supply": 0, "starter": 1}
        new = sorted((r for r in held if r not in self._kept), key=lambda r: (ranks[self._group[r]], r))
        floor = min((self._y[r] - self._size[r][1] for r in held if r in self._kept), default=height + FINGER_MM)
        for row in new:
            up, down = self._size[row]
            self._y[row] = floor - FINGER_MM - self._duct - FINGER_MM - up
            floor = self._y[row] - down
        result = {}
        for row in sorted(held):
            up, down = self._size[row]
            result[f"row:{row}"] = f"{self._y[row]:g} {up:g} {down:g} {self._group[row]}"
        result.update({item: f"{self._places[item][0]} {self._places[item][1]:g}" for item in order})
        return result


def read_layout(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    strip_widths: Mapping[str, float],
    strip_h: float,
    places: Choices,
) -> PlateLayout:
    """Return the plate as the ledger has it.

    Raises:
        KeyError: the ledger was not settled for this circuit.
    """
    width, height = plate_size(job)
    rows = []
    for key, choice in places.items():
        if key.startswith("row:"):
            y, up, down, _ = choice.value.split()
            rows.append(Row(index=int(key[4:]), y=float(y), up=float(up), down=float(down)))
    rows.sort(key=lambda row: -row.y)
    by_index = {row.index: row for row in rows}
    boxes: dict[str, Box] = {}
    row_of: dict[str, int] = {}
    for item in _items(circuit, parts, strip_widths, strip_h):
        row_text, x_text = places[item.id].value.split()
        row = by_index[int(row_text)]
        row_of[item.id] = row.index
        if item.id in strip_widths:
            boxes[item.id] = Box(x=float(x_text), y=row.y - strip_h / 2, w=strip_widths[item.id], h=strip_h)
        else:
            part = parts[item.id]
            x = float(x_text) + (item.width - part.width) / 2
            boxes[item.id] = Box(x=x, y=row.y - part.height / 2, w=part.width, h=part.height)
    for device in circuit.devices:
        part, host = parts[device.id], f"{device.owner}.K"
        if part.mounting is Mounting.PLUGGED and host in boxes:
            above = boxes[host]
            x = above.x + (above.w - part.width) / 2
            boxes[device.id] = Box(x=x, y=above.y - part.height, w=part.width, h=part.height)
            row_of[device.id] = row_of[host]
    duct, depth = duct_size(job)
    ducts = _ducts(width, height, rows, duct)
    inner = width - 2 * duct - 2 * 5
    rails = tuple(Rail(code=f"R{row.index + 1}", x=duct + 5, y=row.y, length=inner) for row in rows)
    return PlateLayout(
        width=width,
        height=height,
        boxes=boxes,
        row_of=row_of,
        rows=tuple(rows),
        rails=rails,
        ducts=ducts,
        duct_width=duct,
        duct_depth=depth,
    )


def _ducts(width: float, height: float, rows: list[Row], duct: float) -> tuple[Duct, ...]:
    """Return verticals D1 and D2 over the full height, D3 above the top row and one below each row."""
    if not rows:
        return ()
    top = rows[0].y + rows[0].up + FINGER_MM
    levels = [("D3", top)]
    levels.extend((f"D{row.index + 4}", row.y - row.down - FINGER_MM - duct) for row in rows)
    bottom = min(0.0, levels[-1][1])
    inner = width - 2 * duct
    upright = max(height, top + duct) - bottom
    sides = (("D1", 0.0), ("D2", width - duct))
    return (
        *(Duct(code=c, box=Box(x=x, y=bottom, w=duct, h=upright), is_vertical=True) for c, x in sides),
        *(Duct(code=c, box=Box(x=duct, y=y, w=inner, h=duct), is_vertical=False) for c, y in levels),
    )
