"""Owns the drawing of an open panel as one stands before it: the plate, and the door beside it from inside, to scale; ways of wires over
both. Must not know how they were found.

Points are in the frame of `draw_plate`; where the door hangs on the left the drawing lies `open_shift` mm to the right of that.
"""

from riktig.catalogue.model import Part
from riktig.drawings.display import Anchor, Drawing, Item, Layer, Pen, Point, Tone, wire_tone
from riktig.drawings.plate import (
    MARGIN,
    draw_body,
    drawing_height,
    geometry_of,
    plate_origin,
    point_on_plate,
    way_on_plate,
)
from riktig.pipeline.rows import by_row
from riktig.plan.circuit.incoming import MAIN_SWITCH
from riktig.plan.circuit.model import DOOR, DOOR_STUD
from riktig.plan.place.depth import block_places
from riktig.plan.place.door import Cutout
from riktig.plan.place.layout import EDGE_MM
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.geometry import Geometry
from riktig.plan.wiring.links import HINGE

DOOR_GAP = 44.0
"""Between the enclosure and its open door, where the loom goes over."""
WIRE_WIDTH_MM, SEVERAL_WIDTH_MM = 3.2, 2.2
"""How wide the way of a wire is drawn, alone or among several."""
_TITLE_MM = 17.0
_FOLD_MM = 12.0
"""The folded edge of the door."""
_SLOT_MM = {"left": 13.0, "middle": 0.0, "right": -13.0}
"""Where the contact blocks sit to the right of the middle as seen from behind, by their place from the front."""
_BLOCK_MM = (11.0, 34.0)


def open_shift(plan: Plan) -> float:
    """Return by how many mm the plate lies further right than in `draw_plate`."""
    return plan.door.width + DOOR_GAP if _hangs_left(plan) else 0.0


def _hangs_left(plan: Plan) -> bool:
    return plan.job.enclosure.hinge == "left"


def draw_open_panel(plan: Plan) -> Drawing:
    """Return plate and open door, 1 mm of drawing for 1 mm of panel."""
    pen = Pen()
    x, y = plate_origin(plan)
    at = (x + open_shift(plan), y)
    outer = plan.job.enclosure.width
    width, height = 2 * MARGIN + outer + DOOR_GAP + plan.door.width, drawing_height(plan)
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    draw_body(pen, plan, at)
    _draw_door(pen, plan, (door_corner(plan)[0] + open_shift(plan), y - EDGE_MM / 2))
    title = "The open panel, from the front"
    top = height - MARGIN - 4
    pen.text(
        at[0] - EDGE_MM / 2, top, f"Plate {plan.plate.width:g} × {plan.plate.height:g} mm", size=_TITLE_MM, bold=True
    )
    words = f"Door {plan.door.width:g} × {plan.door.height:g} mm, open, from inside"
    pen.text(door_corner(plan)[0] + open_shift(plan), top, words, size=_TITLE_MM, bold=True)
    return Drawing(name="open", title=title, width=width, height=height, items=tuple(pen.items))


def door_corner(plan: Plan) -> Point:
    """Return where the lower left corner of the open door lies."""
    x, y = (at - EDGE_MM / 2 for at in plate_origin(plan))
    return (x - DOOR_GAP - plan.door.width if _hangs_left(plan) else x + plan.job.enclosure.width + DOOR_GAP), y


def _on_door(plan: Plan, x: float, y: float) -> Point:
    """Return where a point of the door, given from the front, lies: from inside left and right change places."""
    corner = door_corner(plan)
    return corner[0] + plan.door.width - x, corner[1] + y


def _draw_door(pen: Pen, plan: Plan, corner: Point) -> None:
    x, y = corner
    door = plan.door
    pen.rect(x, y, door.width, door.height, fill=Tone.STEEL, width=0.8, radius=4, ref=DOOR)
    fold = _FOLD_MM
    pen.rect(x + fold, y + fold, door.width - 2 * fold, door.height - 2 * fold, width=0.4, tone=Tone.QUIET)
    hinge = x + door.width if _hangs_left(plan) else x - DOOR_GAP
    for share in (0.12, 0.88):
        pen.rect(hinge, y + door.height * share - 25, DOOR_GAP, 50, fill=Tone.FAINT, tone=Tone.QUIET, width=0.4)
    loom = _loom_level(plan, geometry_of(plan))
    pen.rect(hinge - 4, loom - 11, DOOR_GAP + 8, 22, fill=Tone.PART, width=0.5, radius=9, ref=DOOR)
    pen.text(hinge + DOOR_GAP / 2, loom - 4, "loom", size=9, anchor=Anchor.MIDDLE, layer=Layer.NOTE)
    for owner, frame in door.frames.items():
        at = (x + door.width - frame.right, y + frame.y)
        pen.rect(at[0] + 2, at[1] + 2, frame.w - 4, frame.h - 4, tone=Tone.FAINT, width=0.5, radius=6, ref=owner)
        pen.text(
            at[0] + 4, at[1] + frame.h + 3, plan.heading_of(owner)[0], size=11, bold=True, ref=owner, layer=Layer.TAG
        )
    for cutout in door.cutouts:
        shown = (x + door.width - cutout.x, y + cutout.y)
        pen.items.extend(_from_behind(cutout, plan.parts.get(cutout.device), plan.name_of(cutout.device), shown))


@by_row
def _from_behind(cutout: Cutout, part: Part | None, name: str, at: Point) -> tuple[Item, ...]:
    """Return a door device as one sees it from inside: its nut or frame, its contact blocks, and its tag below."""
    pen = Pen()
    x, y = at
    ref = cutout.device
    box = cutout.box
    if not cutout.diameter:
        pen.rect(x - box.w / 2, y - box.h / 2, box.w, box.h, fill=Tone.PART, width=0.6, radius=2, ref=ref)
        low = y - box.h / 2
    else:
        r = cutout.diameter / 2
        is_stud = ref == DOOR_STUD
        fill = wire_tone("green-yellow") if is_stud else Tone.PART
        pen.circle(x, y, r + (0 if is_stud else 4), fill=fill, width=0.6, ref=ref)
        low = y - r - 4
        places = block_places(part) if part is not None and ref != MAIN_SWITCH else ()
        if places:
            w, h = _BLOCK_MM
            for place in (p for p in places if p.layer == 1):
                left = x + _SLOT_MM[place.slot] - w / 2
                pen.rect(left, y - h / 2, w, h, fill=Tone.PAPER, width=0.4, ref=ref)
                words = [p.element for p in places if p.slot == place.slot]
                pen.text(
                    left + w / 2 + 2, y, ", ".join(words), size=5, anchor=Anchor.MIDDLE, upright=True, ref=ref,
                    layer=Layer.NOTE,
                )  # fmt: skip
            low = min(low, y - h / 2)
        elif not is_stud:
            pen.circle(x, y, r / 2, fill=Tone.PAPER, width=0.4, ref=ref)
    pen.text(x, low - 11, name, size=9, anchor=Anchor.MIDDLE, bold=True, ref=ref, layer=Layer.TAG)
    return tuple(pen.items)


def _loom_level(plan: Plan, geometry: Geometry) -> float:
    """Return how high the loom goes over to the door, in the drawing."""
    return plate_origin(plan)[1] + geometry.hinge[1]


def way_over(plan: Plan, conductor: Conductor, geometry: Geometry) -> tuple[Point, ...]:
    """Return the way of a conductor over plate and open door in mm; empty outside the panel."""
    if conductor.location != HINGE:
        if conductor.location == DOOR:
            a, b = (_on_door(plan, *geometry.door_point(end)) for end in (conductor.a, conductor.b))
            return a, (b[0], a[1]), b
        return way_on_plate(plan, conductor, geometry)
    inside = way_on_plate(plan, conductor, geometry)
    end = _on_door(plan, *geometry.door_point(conductor.b))
    level = _loom_level(plan, geometry)
    near = _on_door(plan, 2 * _FOLD_MM if _hangs_left(plan) else plan.door.width - 2 * _FOLD_MM, 0.0)[0]
    return (*inside, (inside[-1][0], level), (near, level), (near, end[1]), end)


def terminal_point(plan: Plan, geometry: Geometry, terminal: str) -> Point | None:
    """Return where a terminal lies, None for one in the field."""
    device = terminal.rpartition(":")[0]
    if device in plan.door.boxes:
        return _on_door(plan, *geometry.door_point(terminal))
    in_walls = (hole.device for wall in plan.walls for hole in wall.cutouts)
    return point_on_plate(plan, geometry, terminal) if device in {*plan.plate.boxes, *in_walls} else None


def draw_ways(plan: Plan, conductors: tuple[Conductor, ...], *, with_door: bool = True) -> list[Item]:
    """Return the ways of conductors over plate and open door, each in its own colour; over the plate alone where the door is not drawn."""
    pen, geometry = Pen(), geometry_of(plan)
    width = WIRE_WIDTH_MM if len(conductors) == 1 else SEVERAL_WIDTH_MM
    for conductor in conductors:
        way = (way_over if with_door else way_on_plate)(plan, conductor, geometry)
        if way:
            pen.line(*way, width=width, tone=wire_tone(conductor.colour), ref=f"wire:{conductor.id}")
    return list(pen.items)
