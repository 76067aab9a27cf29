"""Owns the drawing of plate and door to scale, and of wires' ways over them. Must not know how they were found."""

from riktig.drawings.display import Anchor, Drawing, Pen, Point, Tone, wire_tone
from riktig.plan.circuit import DOOR, PLATE
from riktig.plan.combs import Comb
from riktig.plan.conductors import Conductor, Geometry
from riktig.plan.links import HINGE
from riktig.plan.plan import Plan
from riktig.plan.plate import RAIL_WIDTH_MM, Box

MARGIN = 14.0
DOOR_GAP = 40.0


def draw_plate(plan: Plan, *, with_door: bool = True) -> Drawing:
    """Return plate and door beside it, 1 mm of drawing for 1 mm of plate; the plate's corner lies at (MARGIN, base)."""
    pen = Pen()
    low = min([0.0, *(duct.box.y for duct in plan.plate.ducts)])
    high = max([plan.plate.height, *(duct.box.y + duct.box.h for duct in plan.plate.ducts)])
    shift = (MARGIN, MARGIN + 12 - low)
    door_x = shift[0] + plan.plate.width + DOOR_GAP
    width = (door_x + plan.door.width if with_door else shift[0] + plan.plate.width) + MARGIN
    height = max(high - low + 12, plan.door.height + 12 if with_door else 0.0) + 2 * MARGIN + 14
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    pen.rect(*shift, plan.plate.width, plan.plate.height, fill=Tone.STEEL, width=0.8, ref=PLATE)
    if with_door:
        pen.rect(door_x, MARGIN + 12, plan.door.width, plan.door.height, fill=Tone.STEEL, width=0.8, radius=4, ref=DOOR)
    _draw_backplate(pen, plan, shift, height)
    if with_door:
        _draw_door(pen, plan, (door_x, MARGIN + 12), height)
    title = f"Plate {plan.plate.width:g} x {plan.plate.height:g} mm"
    return Drawing(name="plate", title=title, width=width, height=height, items=tuple(pen.items))


def plate_origin(plan: Plan) -> Point:
    """Return where the plate's lower left corner lies in the drawing of `draw_plate`."""
    low = min([0.0, *(duct.box.y for duct in plan.plate.ducts)])
    return MARGIN, MARGIN + 12 - low


def door_origin(plan: Plan) -> Point:
    """Return where the door's lower left corner lies in the drawing of `draw_plate`."""
    return MARGIN + plan.plate.width + DOOR_GAP, MARGIN + 12


def _draw_backplate(pen: Pen, plan: Plan, shift: Point, height: float) -> None:
    sx, sy = shift
    plate = plan.plate
    pen.text(sx, height - MARGIN - 6, f"Plate {plate.width:g} × {plate.height:g} mm", size=9, bold=True)
    for duct in plate.ducts:
        b = duct.box
        pen.rect(sx + b.x, sy + b.y, b.w, b.h, fill=Tone.DUCT, tone=Tone.QUIET, width=0.5, ref=duct.code)
        _draw_slots(pen, sx, sy, b, is_vertical=duct.is_vertical)
        if duct.is_vertical:
            pen.text(sx + b.x + b.w / 2 - 8, sy + b.y + b.h - 14, duct.code, size=6, tone=Tone.QUIET, ref=duct.code)
        else:
            pen.text(
                sx + b.x + b.w - 4,
                sy + b.y + b.h / 2 - 3,
                duct.code,
                size=6,
                tone=Tone.QUIET,
                anchor=Anchor.RIGHT,
                ref=duct.code,
            )
    for rail in plate.rails:
        pen.rect(
            sx + rail.x, sy + rail.y - RAIL_WIDTH_MM / 2, rail.length, RAIL_WIDTH_MM, fill=Tone.PAPER, tone=Tone.QUIET,
            width=0.4, ref=rail.code,
        )  # fmt: skip
        pen.text(
            sx + rail.x + rail.length - 3,
            sy + rail.y - 3,
            rail.code,
            size=6,
            tone=Tone.QUIET,
            anchor=Anchor.RIGHT,
            ref=rail.code,
        )
    for item, box in plate.boxes.items():
        if item not in plan.parts:
            _draw_strip(pen, plan, item, box, shift)
        else:
            _draw_part(pen, plan, item, box, shift)
    for comb in plan.combs:
        _draw_comb(pen, plan, comb, shift)


def _draw_slots(pen: Pen, sx: float, sy: float, b: Box, *, is_vertical: bool) -> None:
    """Draw the slotted walls of a duct as short strokes along both edges."""
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


def _draw_part(pen: Pen, plan: Plan, item: str, box: Box, shift: Point) -> None:
    x, y = shift[0] + box.x, shift[1] + box.y
    pen.rect(x, y, box.w, box.h, fill=Tone.PART, width=0.6, radius=1.5, ref=item)
    tag = plan.tags[item]
    size = max(4.0, min(9.0, box.w / (0.85 * len(tag)), box.h * 0.5))
    if box.w < 12 and box.h > 30:
        pen.text(x + box.w / 2 + 2, y + box.h / 2, tag, size=5, anchor=Anchor.MIDDLE, bold=True, upright=True, ref=item)
        return
    pen.text(x + box.w / 2, y + box.h / 2 - size / 2, tag, size=size, anchor=Anchor.MIDDLE, bold=True, ref=item)
    part = plan.parts[item]
    for terminal in part.terminals:
        tx = x + box.w * terminal.x_share
        ty = y + (box.h - 4 if terminal.side.value == "top" else 4)
        pen.circle(tx, ty, 1.6, fill=Tone.PAPER, tone=Tone.QUIET, width=0.3, ref=f"{item}:{terminal.mark}")


def _draw_comb(pen: Pen, plan: Plan, comb: Comb, shift: Point) -> None:
    """Draw a comb or bridge as a bar above its terminals, with its teeth."""
    geometry = geometry_of(plan)
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


def _draw_strip(pen: Pen, plan: Plan, strip: str, box: Box, shift: Point) -> None:
    x, y = shift[0] + box.x, shift[1] + box.y
    pen.rect(x, y, box.w, box.h, fill=Tone.PART, width=0.6, ref=strip)
    edge = x + 8.0
    pen.text(x + 4, y + box.h + 3, strip, size=6, bold=True, ref=strip)
    for clamp in plan.clamps:
        if clamp.strip != strip:
            continue
        width = plan.clamp_parts[clamp.id].width
        fill = wire_tone("green-yellow") if clamp.is_earth else Tone.PAPER
        pen.rect(edge, y + 3, width, box.h - 6, fill=fill, tone=Tone.QUIET, width=0.3, ref=clamp.id)
        text = f"{clamp.label}"
        pen.text(
            edge + width / 2 + 1.3, y + box.h / 2, text, size=3.2, anchor=Anchor.MIDDLE, upright=True, ref=clamp.id
        )
        edge += width


def _draw_door(pen: Pen, plan: Plan, shift: Point, height: float) -> None:
    sx, sy = shift
    door = plan.door
    pen.text(sx, height - MARGIN - 6, f"Door {door.width:g} × {door.height:g} mm, from the front", size=9, bold=True)
    for share in (0.12, 0.88):
        pen.rect(sx - 4, sy + door.height * share - 20, 4, 40, fill=Tone.QUIET, tone=Tone.QUIET)
    for cutout in door.cutouts:
        x, y = sx + cutout.x, sy + cutout.y
        device = plan.circuit.device(cutout.device)
        tone = {"red": Tone.RED, "green": Tone.DONE, "amber": Tone.ATTENTION}.get(device.colour or "", Tone.PAPER)
        pen.circle(x, y, cutout.diameter / 2 + 4, fill=Tone.PART, width=0.6, ref=cutout.device)
        pen.circle(x, y, cutout.diameter / 2, fill=tone, width=0.5, ref=cutout.device)
        pen.text(x, y - 24, plan.tags[cutout.device], size=6, anchor=Anchor.MIDDLE, bold=True, ref=cutout.device)
        label = "Main switch" if cutout.device == "Q0" else device.title.split(",")[0]
        pen.text(x, y + 20, label, size=5, anchor=Anchor.MIDDLE, tone=Tone.INK, ref=cutout.device)


def wire_path(plan: Plan, conductor: Conductor, geometry: Geometry) -> tuple[tuple[Point, ...], ...]:
    """Return the way of a conductor over the drawing of `draw_plate` as polylines in mm; empty outside the panel."""
    if conductor.location == PLATE:
        a, b = geometry.access(conductor.a), geometry.access(conductor.b)
        if not conductor.is_wired:
            return (tuple(_on_plate(plan, [(a.x, a.y), (b.x, b.y)])),)
        return (tuple(_on_plate(plan, [(a.x, a.y), *_through(conductor, geometry), (b.x, b.y)])),)
    if conductor.location == HINGE:
        a = geometry.access(conductor.a)
        points = _on_plate(plan, [(a.x, a.y), *_through(conductor, geometry)])
        dx, dy = door_origin(plan)
        x, y = geometry.door_point(conductor.b)
        hinge = (dx, points[-1][1])
        return tuple(points), (hinge, (dx + 12, hinge[1]), (dx + 12, dy + y), (dx + x, dy + y))
    if conductor.location == DOOR:
        dx, dy = door_origin(plan)
        (ax, ay), (bx, by) = geometry.door_point(conductor.a), geometry.door_point(conductor.b)
        return (((dx + ax, dy + ay), (dx + bx, dy + ay), (dx + bx, dy + by)),)
    return ()


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


def geometry_of(plan: Plan) -> Geometry:
    """Return where the terminals of a Plan are."""
    return Geometry(plan.job, plan.parts, plan.plate, plan.door, plan.clamps, plan.clamp_parts)


def terminal_point(plan: Plan, geometry: Geometry, terminal: str) -> Point | None:
    """Return where a terminal lies in the drawing of `draw_plate`, None for one in the field."""
    device = terminal.rpartition(":")[0]
    if device in plan.plate.boxes:
        access = geometry.access(terminal)
        return _on_plate(plan, [(access.x, access.y)])[0]
    if device in plan.door.boxes:
        dx, dy = door_origin(plan)
        x, y = geometry.door_point(terminal)
        return dx + x, dy + y
    return None


def draw_wire(plan: Plan, conductor: Conductor, geometry: Geometry, *, width: float = 3.0) -> tuple[Pen, bool]:
    """Return a pen with the way of a conductor in its own colour, and whether it can be seen on plate or door."""
    pen = Pen()
    paths = wire_path(plan, conductor, geometry)
    for points in paths:
        pen.line(*points, width=width, tone=wire_tone(conductor.colour), ref=f"wire:{conductor.id}")
    return pen, bool(paths)
