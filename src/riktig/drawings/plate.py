"""Owns the drawing of the plate to scale, and of wires' ways over it. Must not know how they were found."""

from collections.abc import Sequence

from riktig.catalogue.model import Part
from riktig.drawings.display import Anchor, Drawing, Item, Layer, Pen, Point, Tone, wire_tone
from riktig.drawings.part_faces import draw_face
from riktig.pipeline.rows import by_row
from riktig.plan.circuit.model import PLATE
from riktig.plan.net.strips import Clamp
from riktig.plan.place.covers import covers
from riktig.plan.place.layout import EDGE_MM, Box, PlateLayout
from riktig.plan.plan import Plan
from riktig.plan.wiring.combs import Comb
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.entries import Entry
from riktig.plan.wiring.geometry import Geometry
from riktig.plan.wiring.links import HINGE

MARGIN = 14.0
ENTRY_ROOM = 46.0
"""Room in the drawing for the glands in the entry wall and their names, at least."""
HEAD_ROOM = 26.0


def draw_plate(plan: Plan) -> Drawing:
    """Return the plate in its enclosure, 1 mm of drawing for 1 mm of plate."""
    pen = Pen()
    x, y = plate_origin(plan)
    outer = plan.job.enclosure.width
    width, height = 2 * MARGIN + outer, drawing_height(plan)
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    title = f"Plate {plan.plate.width:g} × {plan.plate.height:g} mm in an enclosure {outer:g} × {plan.job.enclosure.height:g} mm"
    pen.text(x - EDGE_MM / 2, height - MARGIN - 4, title, size=11, bold=True)
    draw_body(pen, plan, (x, y))
    return Drawing(name="plate", title=title, width=width, height=height, items=tuple(pen.items))


def drawing_height(plan: Plan) -> float:
    """Return how high the drawing of the plate is, in mm."""
    _, high = _reach("plate", plan.plate)
    above = _entry_room("room", plan.entries) if plan.job.supply.entry == "top" else 0.0
    return plate_origin(plan)[1] + high + EDGE_MM / 2 + HEAD_ROOM + above


def draw_body(pen: Pen, plan: Plan, at: Point) -> None:
    """Draw the enclosure with its entry wall, and the plate in it with its lower left corner at a point."""
    x, y = at
    enclosure = plan.job.enclosure
    pen.rect(x - EDGE_MM / 2, y - EDGE_MM / 2, enclosure.width, enclosure.height, width=1.2, radius=4, tone=Tone.QUIET)
    pen.rect(x, y, plan.plate.width, plan.plate.height, fill=Tone.STEEL, width=0.8, ref=PLATE)
    _draw_entries(pen, plan, at)
    _draw_backplate(pen, plan, at)
    _draw_walls(pen, plan, at)


@by_row
def _reach(_: str, plate: PlateLayout) -> tuple[float, float]:
    """Return the lowest and highest y of plate and what stands on it."""
    boxes = [*(d.box for d in plate.ducts), *plate.boxes.values()]
    return min([0.0, *(b.y for b in boxes)]), max([plate.height, *(b.top for b in boxes)])


def plate_origin(plan: Plan) -> Point:
    """Return where the plate's lower left corner lies in the drawing of `draw_plate`."""
    room = _entry_room("room", plan.entries) if plan.job.supply.entry == "bottom" else 0.0
    return MARGIN + EDGE_MM / 2, MARGIN + EDGE_MM / 2 + room - _reach("plate", plan.plate)[0]


_NAME_MM = 9.0
"""What the upright name of a gland takes across."""


def _name_length(text: str) -> float:
    return 0.72 * _NAME_MM * len(text)


@by_row
def _named_entries(_: str, entries: tuple[Entry, ...]) -> tuple[tuple[Entry, float], ...]:
    """Return the entries, each with how far from the wall its name begins: behind that of another one which it would lie on."""
    found: list[tuple[Entry, float]] = []
    for entry in entries:
        beside = (off + _name_length(e.cable) + 8.0 for e, off in found if abs(e.x - entry.x) < _NAME_MM)
        found.append((entry, max(beside, default=15.0)))
    return tuple(found)


@by_row
def _entry_room(_: str, entries: tuple[Entry, ...]) -> float:
    """Return the room in the drawing for the glands and their names, in mm."""
    return max([ENTRY_ROOM, *(off + _name_length(one.cable) + 4.0 for one, off in _named_entries("names", entries))])


def _draw_entries(pen: Pen, plan: Plan, shift: Point) -> None:
    """Draw the glands in the entry wall: as seen from the front, those behind each other beside their names."""
    is_below = plan.job.supply.entry == "bottom"
    wall = shift[1] - EDGE_MM / 2 if is_below else shift[1] - EDGE_MM / 2 + plan.job.enclosure.height
    for entry, off in _named_entries("names", plan.entries):
        x, d = shift[0] - EDGE_MM / 2 + entry.x, entry.diameter
        tone = Tone.INK if entry.fits else Tone.DANGER
        ref = f"cable:{entry.cable}"
        pen.rect(
            x - d / 2, wall - 12 if is_below else wall, d, 12, fill=Tone.PART, tone=tone, width=0.6, radius=1, ref=ref
        )
        text = entry.cable
        at = wall - off - _name_length(text) if is_below else wall + off
        pen.text(x + 4.5, at, text, size=9, tone=tone, upright=True, ref=ref, layer=Layer.NOTE)


def _draw_backplate(pen: Pen, plan: Plan, shift: Point) -> None:
    sx, sy = shift
    plate = plan.plate
    for rail in plate.rails:
        b = rail.box
        pen.rect(sx + b.x, sy + b.y, b.w, b.h, fill=Tone.PAPER, tone=Tone.QUIET, width=0.4, ref=rail.code)
        for edge in (b.y + 6, b.top - 6):
            pen.line((sx + b.x, sy + edge), (sx + b.right, sy + edge), width=0.3, tone=Tone.FAINT, ref=rail.code)
    for duct in plate.ducts:
        b = duct.box
        pen.rect(sx + b.x, sy + b.y, b.w, b.h, fill=Tone.DUCT, tone=Tone.QUIET, width=0.5, ref=duct.code)
        pen.items.extend(_slots(duct.code, sx, sy, b, duct.is_vertical))
        size = min(12.0, duct.width * 0.4)
        if duct.is_vertical:
            pen.text(
                sx + b.centre[0] + size / 2,
                sy + b.top - 60,
                duct.code,
                size=size,
                tone=Tone.QUIET,
                upright=True,
                ref=duct.code,
            )
        else:
            at = (sx + b.right - 6, sy + b.centre[1] - size / 2)
            pen.text(*at, duct.code, size=size, tone=Tone.QUIET, anchor=Anchor.RIGHT, ref=duct.code)
    for rail in plate.rails:
        at = (sx + rail.x + rail.length - 6, sy + rail.y - 5)
        pen.text(*at, rail.code, size=10, tone=Tone.QUIET, anchor=Anchor.RIGHT, ref=rail.code)
    for item, box in plate.boxes.items():
        if item not in plan.parts:
            clamps = tuple((c, plan.clamp_parts[c.id].width) for c in plan.clamps if c.piece == item)
            pen.items.extend(_strip(item, clamps, box, shift))
        else:
            pen.items.extend(_part(item, plan.tags[item], plan.parts[item], box, shift))
        choice = plan.job.ledger.places.get(item)
        if choice is not None and choice.is_held:
            _draw_pin(pen, sx + box.x + 5, sy + box.top - 5, item)
    geometry = geometry_of(plan)
    for comb in plan.combs:
        _draw_comb(pen, plan, comb, shift, geometry)
    for names, box in covers(plate):
        _draw_cover(pen, names, box, plate, shift)


_LIVE, _LIVE_MM = "stays live", 92.0
"""What is said of what stays live, and what the words take across."""


def _draw_cover(pen: Pen, names: Sequence[str], box: Box, plate: PlateLayout, shift: Point) -> None:
    """Draw the line of a cover over what stays live, and say so below it and what stands beside it: from its left end, or up to its right
    one on the right of the plate.
    """
    sx, sy = shift
    corners = ((box.x, box.y), (box.right, box.y), (box.right, box.top), (box.x, box.top), (box.x, box.y))
    pen.line(*((sx + x, sy + y) for x, y in corners), width=1.6, dashed=True, tone=Tone.DANGER, ref=names[0])
    x = box.right - _LIVE_MM if 2 * box.x > plate.width else box.x
    row = plate.row_of[names[0]]
    over = (b.y for name, b in plate.boxes.items() if plate.row_of[name] == row and x < b.right and b.x < x + _LIVE_MM)
    pen.text(sx + x + 2, sy + min(box.y, *over) - 17, _LIVE, size=14, tone=Tone.DANGER, ref=names[0], layer=Layer.NOTE)


def _draw_walls(pen: Pen, plan: Plan, at: Point) -> None:
    """Draw what sits in the side walls, dashed as far as it reaches in."""
    for wall in plan.walls:
        for hole in wall.cutouts:
            part = plan.parts[hole.device]
            edge = at[0] - EDGE_MM / 2 + (0.0 if wall.side == "left" else plan.job.enclosure.width - part.depth)
            y = at[1] - EDGE_MM / 2 + hole.y
            low, end = y - part.height / 2, edge + part.depth
            corners = ((edge, low), (end, low), (end, low + part.height), (edge, low + part.height), (edge, low))
            pen.line(*corners, width=0.8, dashed=True, ref=hole.device)
            middle = (edge + part.depth / 2 + 4, y)
            pen.text(
                *middle,
                plan.name_of(hole.device),
                size=11,
                anchor=Anchor.MIDDLE,
                bold=True,
                upright=True,
                ref=hole.device,
                layer=Layer.TAG,
            )


def _draw_pin(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw the head of a nail in the corner of what a person holds where it is."""
    pen.circle(x, y, 3.4, fill=Tone.INK, width=0.0, tone=Tone.NONE, ref=ref)
    pen.circle(x, y, 1.2, fill=Tone.PAPER, width=0.0, tone=Tone.NONE, ref=ref)


@by_row
def _slots(_: str, sx: float, sy: float, b: Box, is_vertical: bool) -> tuple[Item, ...]:
    """Return the slotted walls of a duct as short strokes along both edges."""
    pen = Pen()
    length, step = (b.h, 20.0) if is_vertical else (b.w, 20.0)
    for k in range(1, int(length // step)):
        at = k * step
        for side in (0.0, 1.0):
            if is_vertical:
                x = sx + b.x + side * (b.w - 5)
                pen.line((x, sy + b.y + at), (x + 5, sy + b.y + at), width=0.25, tone=Tone.FAINT)
            else:
                y = sy + b.y + side * (b.h - 5)
                pen.line((sx + b.x + at, y), (sx + b.x + at, y + 5), width=0.25, tone=Tone.FAINT)
    return tuple(pen.items)


@by_row
def _part(item: str, tag: str, part: Part, box: Box, shift: Point) -> tuple[Item, ...]:
    """Return a part as a box with what it is told by, its tag and its terminals."""
    pen = Pen()
    x, y = shift[0] + box.x, shift[1] + box.y
    is_odd = bool(part.outline)
    tone = Tone.FAINT if is_odd else Tone.INK
    pen.rect(x, y, box.w, box.h, fill=Tone.PART, tone=tone, width=0.6, radius=1.5, ref=item)
    if is_odd:
        corners = [(x + at[0], y + at[1]) for at in (*part.outline, part.outline[0])]
        pen.line(*corners, width=0.6, ref=item)
    draw_face(pen, part.kind, (x, y), (box.w, box.h), item)
    wide = 0.9 * len(tag)
    size = min(16.0, box.w / wide, box.h * 0.5)
    if size < 9.0 and box.h > 1.3 * box.w:
        size = min(13.0, box.w * 0.62, (box.h - 14) / wide)
        at = (x + box.w / 2 + size / 2, y + box.h / 2)
        pen.text(*at, tag, size=size, anchor=Anchor.MIDDLE, bold=True, upright=True, ref=item, layer=Layer.TAG)
    else:
        at = (x + box.w / 2, y + box.h / 2 - size / 2)
        pen.text(*at, tag, size=size, anchor=Anchor.MIDDLE, bold=True, ref=item, layer=Layer.TAG)
    for terminal in part.terminals:
        tx = x + box.w * terminal.x_share
        ty = y + (box.h - 4 if terminal.side.value == "top" else 4)
        pen.circle(tx, ty, 1.6, fill=Tone.PAPER, tone=Tone.QUIET, width=0.3, ref=f"{item}:{terminal.mark}")
    return tuple(pen.items)


def _draw_comb(pen: Pen, plan: Plan, comb: Comb, shift: Point, geometry: Geometry) -> None:
    """Draw a comb or bridge as a bar above its terminals, with its teeth."""
    for place, bar in enumerate(comb.bars):
        points = [geometry.access(terminal) for terminal in bar]
        potential = plan.potential_of(bar[0])
        ref = f"net:{potential.number}" if potential is not None else ""
        level = shift[1] + points[0].y + 3.0 + 3.2 * place
        pen.line(
            (shift[0] + points[0].x, level), (shift[0] + points[-1].x, level), width=2.2, tone=Tone.ATTENTION, ref=ref
        )
        for point in points:
            pen.line(
                (shift[0] + point.x, shift[1] + point.y - 4),
                (shift[0] + point.x, level),
                width=1.2,
                tone=Tone.ATTENTION,
                ref=ref,
            )


@by_row
def _strip(strip: str, clamps: tuple[tuple[Clamp, float], ...], box: Box, shift: Point) -> tuple[Item, ...]:
    """Return a strip with its terminals, each with its width in mm."""
    pen = Pen()
    x, y = shift[0] + box.x, shift[1] + box.y
    pen.rect(x, y, box.w, box.h, fill=Tone.PART, width=0.6, ref=strip)
    edge = x + 8.0
    pen.text(x + 2, y + box.h + 3, strip, size=11, bold=True, ref=strip, layer=Layer.TAG)
    for clamp, width in clamps:
        fill = wire_tone("green-yellow") if clamp.is_earth else Tone.PAPER
        pen.rect(edge, y + 3, width, box.h - 6, fill=fill, tone=Tone.QUIET, width=0.3, ref=clamp.id)
        text = f"{clamp.label}"
        pen.text(
            edge + width / 2 + 1.3, y + box.h / 2, text, size=3.2, anchor=Anchor.MIDDLE, upright=True, ref=clamp.id
        )
        edge += width
    return tuple(pen.items)


def way_on_plate(plan: Plan, conductor: Conductor, geometry: Geometry) -> tuple[Point, ...]:
    """Return the way of a conductor over the drawing of `draw_plate` as a polyline in mm, to the hinges where it goes on to the door; empty
    where no part of it lies on the plate.
    """
    if conductor.location == HINGE:
        a = geometry.access(conductor.a)
        return tuple(_on_plate(plan, [(a.x, a.y), *_through(conductor, geometry)]))
    if conductor.location != PLATE:
        return ()
    a, b = geometry.access(conductor.a), geometry.access(conductor.b)
    if not conductor.is_wired:
        return tuple(_on_plate(plan, [(a.x, a.y), (b.x, b.y)]))
    between = _through(conductor, geometry) or geometry.corners(conductor.a, conductor.b, a, b)
    return tuple(_on_plate(plan, [(a.x, a.y), *between, (b.x, b.y)]))


def _on_plate(plan: Plan, points: list[Point]) -> list[Point]:
    ox, oy = plate_origin(plan)
    return [(ox + x, oy + y) for x, y in points]


def _through(conductor: Conductor, geometry: Geometry) -> list[Point]:
    """Return the corners of a conductor's way through the ducts."""
    ducts = {duct.code: duct for duct in geometry.plate.ducts}
    points: list[Point] = []
    for leg in conductor.legs:
        duct = ducts[leg.duct]
        ends = (leg.start, leg.end)
        points.extend((duct.level, at) if duct.is_vertical else (at, duct.level) for at in ends)
    return points


_known: dict[str, tuple[Plan, Geometry]] = {}


def geometry_of(plan: Plan) -> Geometry:
    """Return where the terminals of a Plan are; that of the last one is remembered, for a picture asks several times."""
    last = _known.get("last")
    if last is None or last[0] is not plan:
        last = _known["last"] = plan, _new_geometry(plan)
    return last[1]


def _new_geometry(plan: Plan) -> Geometry:
    return Geometry(plan.job, plan.parts, plan.plate, plan.door, plan.clamps, plan.clamp_parts, plan.walls)


def point_on_plate(plan: Plan, geometry: Geometry, terminal: str) -> Point:
    """Return where a terminal on the plate lies in the drawing of `draw_plate`."""
    access = geometry.access(terminal)
    return _on_plate(plan, [(access.x, access.y)])[0]
