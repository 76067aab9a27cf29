"""Owns where parts, rails and ducts are on the plate, as the ledger has them. Must not know wires, nor choose a place.

Frame: mm, origin at the lower left corner of the plate seen from the front, x right, y up.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from riktig.job.entries import (
    DUCT_KEY,
    RAIL_KEY,
    DuctPlace,
    OnPlate,
    OnRail,
    Place,
    RailPlace,
)
from riktig.job.ledger import Choices
from riktig.job.model import Job
from riktig.plan.place.items import PlateItem

EDGE_MM = 50.0
"""How much smaller the plate is than the enclosure, in each direction."""
RAIL_WIDTH_MM = 35.0
"""What the keys of rails, ducts and the plate's own size in the ledger begin with."""
"""First word of the place of what is screwed to the plate itself; else it is the code of a rail."""


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

    @property
    def right(self) -> float:
        """Its right edge."""
        return self.x + self.w

    @property
    def top(self) -> float:
        """Its upper edge."""
        return self.y + self.h

    def overlap(self, other: "Box") -> tuple[float, float]:
        """Return by how many mm two boxes overlap in x and in y; negative is the distance between them."""
        return min(self.right, other.right) - max(self.x, other.x), min(self.top, other.top) - max(self.y, other.y)


@dataclass(frozen=True, slots=True, kw_only=True)
class Duct:
    """A wiring duct; `code` is printed on the piece, `depth` is how far it stands out from the plate in mm."""

    code: str
    box: Box
    is_vertical: bool
    depth: float = 60.0

    @property
    def width(self) -> float:
        """Across it, in mm."""
        return self.box.w if self.is_vertical else self.box.h

    @property
    def length(self) -> float:
        """Along it, in mm."""
        return self.box.h if self.is_vertical else self.box.w

    @property
    def level(self) -> float:
        """Where its centre line runs: y of a horizontal, x of a vertical, in mm."""
        return self.box.centre[0 if self.is_vertical else 1]

    @property
    def place(self) -> DuctPlace:
        """How the ledger has it."""
        b = self.box
        return DuctPlace(
            is_vertical=self.is_vertical, x=b.x, y=b.y, length=self.length, width=self.width, depth=self.depth
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Rail:
    """A piece of mounting rail: left end, centre line and length in mm."""

    code: str
    x: float
    y: float
    length: float

    @property
    def box(self) -> Box:
        """What it covers of the plate."""
        return Box(x=self.x, y=self.y - RAIL_WIDTH_MM / 2, w=self.length, h=RAIL_WIDTH_MM)

    @property
    def place(self) -> RailPlace:
        """How the ledger has it."""
        return RailPlace(self.x, self.y, self.length)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlateLayout:
    """Everything on the plate. `boxes` by device or strip id; `row_of` counts for each the horizontal ducts above it, less one;
    `rail_of` has the rail of what sits on one; `items` what is known of each but its place. Plugged parts have a box and no item.
    """

    width: float
    height: float
    boxes: Mapping[str, Box]
    row_of: Mapping[str, int]
    rail_of: Mapping[str, str]
    rails: tuple[Rail, ...]
    ducts: tuple[Duct, ...]
    items: Mapping[str, PlateItem]

    @property
    def levels(self) -> tuple[Duct, ...]:
        """The horizontal ducts from the top."""
        return tuple(sorted((d for d in self.ducts if not d.is_vertical), key=lambda d: (-d.level, d.box.x)))

    @property
    def uprights(self) -> tuple[Duct, ...]:
        """The vertical ducts from the left."""
        return tuple(sorted((d for d in self.ducts if d.is_vertical), key=lambda d: (d.level, d.box.y)))

    @property
    def height_used(self) -> float:
        """Height in mm from the lowest to the highest of what stands on the plate, uprights aside."""
        boxes = [*(d.box for d in self.levels), *self.boxes.values()]
        return max(b.top for b in boxes) - min(b.y for b in boxes) if boxes else 0.0

    def rail(self, code: str) -> Rail | None:
        """Return the rail of that code, None if there is none."""
        return next((rail for rail in self.rails if rail.code == code), None)

    def duct(self, code: str) -> Duct | None:
        """Return the duct of that code, None if there is none."""
        return next((duct for duct in self.ducts if duct.code == code), None)


def plate_size(job: Job) -> tuple[float, float]:
    """Return width and height of the plate in mm."""
    return job.enclosure.width - EDGE_MM, job.enclosure.height - EDGE_MM


def in_order_of_rails(rails: Iterable[Rail]) -> tuple[Rail, ...]:
    """Return rails from the top."""
    return tuple(sorted(rails, key=lambda rail: (-rail.y, rail.x)))


def in_order_of_ducts(ducts: Iterable[Duct]) -> tuple[Duct, ...]:
    """Return ducts in the order of their codes."""
    return tuple(sorted(ducts, key=lambda duct: (len(duct.code), duct.code)))


def read_rails(places: Mapping[str, Any]) -> tuple[Rail, ...]:
    """Return the rails of the ledger from the top."""
    found = []
    for key, at in places.items():
        if key.startswith(RAIL_KEY):
            found.append(Rail(code=key.removeprefix(RAIL_KEY), x=at.x, y=at.y, length=at.length))
    return in_order_of_rails(found)


def read_ducts(places: Mapping[str, Any]) -> tuple[Duct, ...]:
    """Return the ducts of the ledger in the order of their codes."""
    found = []
    for key, at in places.items():
        if key.startswith(DUCT_KEY):
            w, h = (at.width, at.length) if at.is_vertical else (at.length, at.width)
            box = Box(x=at.x, y=at.y, w=w, h=h)
            found.append(Duct(code=key.removeprefix(DUCT_KEY), box=box, is_vertical=at.is_vertical, depth=at.depth))
    return in_order_of_ducts(found)


def box_at(item: PlateItem, place: Place, rails: Mapping[str, Rail]) -> Box | None:
    """Return the box of an item at a place of the ledger; None where its rail is gone, or it is on the door."""
    if isinstance(place, OnPlate):
        return Box(x=place.x, y=place.y, w=item.width, h=item.height)
    rail = rails.get(place.rail) if isinstance(place, OnRail) else None
    return None if rail is None else Box(x=place.x, y=rail.y - item.height / 2, w=item.width, h=item.height)


def hung_box(item: PlateItem, box: Box) -> Box | None:
    """Return the box of what is plugged below an item that stands in `box`, None if nothing is."""
    if item.hung is None:
        return None
    _, w, h = item.hung
    return Box(x=box.x + (box.w - w) / 2, y=box.y - h, w=w, h=h)


def count_rows(items: Iterable[PlateItem], boxes: Mapping[str, Box], ducts: Iterable[Duct]) -> dict[str, int]:
    """Return for each thing with a box how many horizontal ducts lie above it, less one; what hangs below another counts with it."""
    levels = [duct.level for duct in ducts if not duct.is_vertical]
    found: dict[str, int] = {}
    for item in items:
        row = max(0, sum(level > boxes[item.id].centre[1] for level in levels) - 1)
        found[item.id] = row
        if item.hung is not None:
            found[item.hung[0]] = row
    return found


def make_layout(job: Job, items: Iterable[PlateItem], places: Mapping[str, Any]) -> PlateLayout:
    """Return the plate with the items that stand at these places.

    Raises:
        KeyError: an item has no place, or its rail is gone: the ledger was not settled for this circuit.
    """
    width, height = plate_size(job)
    rails, ducts = read_rails(places), read_ducts(places)
    by_code = {rail.code: rail for rail in rails}
    boxes: dict[str, Box] = {}
    rail_of: dict[str, str] = {}
    known = {item.id: item for item in items}
    for item in known.values():
        place: Place = places[item.id]
        box = box_at(item, place, by_code)
        if box is None:
            raise KeyError(item.id)
        boxes[item.id] = box
        if isinstance(place, OnRail):
            rail_of[item.id] = place.rail
        below = hung_box(item, box)
        if below is not None and item.hung is not None:
            boxes[item.hung[0]] = below
    return PlateLayout(
        width=width,
        height=height,
        boxes=boxes,
        row_of=count_rows(known.values(), boxes, ducts),
        rail_of=rail_of,
        rails=rails,
        ducts=ducts,
        items=known,
    )


def read_layout(job: Job, items: Iterable[PlateItem], places: Choices) -> PlateLayout:
    """Return the plate as the ledger has it.

    Raises:
        KeyError: the ledger was not settled for this circuit.
    """
    return make_layout(job, items, {key: choice.value for key, choice in places.items()})
