"""Owns sections of the panel: what of the door comes how near to what of the plate. Must not know how that was judged."""

from math import atan2, cos, hypot, radians, sin

from riktig.drawings.display import Anchor, Drawing, Pen, Point, Tone
from riktig.plan.place.depth import BEND_MM, DOOR_SKIN_MM, PLATE_OFF_MM, Solid, clear_depth, door_solids, plate_solids
from riktig.plan.place.layout import EDGE_MM
from riktig.plan.plan import Plan

_ROOM = 60.0


def solids_of(plan: Plan) -> tuple[list[Solid], list[Solid]]:
    """Return what hangs behind the door and what stands on the plate."""
    return door_solids(plan.door.boxes, plan.parts), plate_solids(plan.plate, plan.parts)


def draw_section(plan: Plan, device: str = "") -> Drawing:
    """Return the panel cut from top to bottom, seen from its right side (back wall on the left, door on the right), and beside it seen
    from above, with the way of a door part while the door swings.

    Args:
        plan: what is drawn.
        device: a door device: what does not lie behind or beside it is faint.
    """
    pen = Pen()
    enclosure = plan.job.enclosure
    door, plate = solids_of(plan)
    chosen = next((solid for solid in door if solid.name == device), None)
    above_x = 2 * _ROOM + enclosure.depth + 20
    width = above_x + enclosure.width + _ROOM
    height = max(enclosure.height, enclosure.width + enclosure.depth) + 2 * _ROOM
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    words = f"at {plan.tags[device]}" if chosen is not None else "everything in one view"
    pen.text(_ROOM, height - 34, f"From the side, {words}", size=16, bold=True)
    pen.text(above_x, height - 34, f"From above, {words}", size=16, bold=True)
    _draw_side(pen, plan, (_ROOM, _ROOM), door, plate, chosen)
    _draw_above(pen, plan, (above_x, height - _ROOM - enclosure.depth), door, plate, chosen)
    title = f"Sections {words}: {clear_depth(enclosure):g} mm between plate and door"
    return Drawing(name="section", title=title, width=width, height=height, items=tuple(pen.items))


def _hits(plan: Plan) -> frozenset[str]:
    return frozenset(name for fault in plan.door.meetings for name in (fault.door, fault.plate))


def _draw_side(pen: Pen, plan: Plan, at: Point, door: list[Solid], plate: list[Solid], chosen: Solid | None) -> None:
    enclosure = plan.job.enclosure
    pen.rect(*at, enclosure.depth, enclosure.height, width=1.2, tone=Tone.QUIET, radius=3)
    plate_x = at[0] + PLATE_OFF_MM
    pen.rect(plate_x - 3, at[1] + EDGE_MM / 2, 3, plan.plate.height, fill=Tone.INK, width=0.2)
    face = at[0] + enclosure.depth - DOOR_SKIN_MM
    pen.rect(face, at[1], 3, enclosure.height, fill=Tone.INK, width=0.2)
    for solids, x in ((plate, plate_x), (door, face)):
        for solid in _far_first(solids, chosen, axis=0):
            _draw_solid(pen, plan, solid, (x, at[1]), is_faint=_is_aside(solid, chosen, axis=0), is_door=x == face)
    clear = clear_depth(enclosure)
    y = at[1] - 18
    pen.line((plate_x, y), (face, y), width=0.6)
    for x in (plate_x, face):
        pen.line((x, y - 6), (x, y + 6), width=0.6)
    pen.text((plate_x + face) / 2, y - 22, f"{clear:g} mm clear", size=14, anchor=Anchor.MIDDLE)


def _is_aside(solid: Solid, chosen: Solid | None, *, axis: int) -> bool:
    return chosen is not None and solid.box.overlap(chosen.box)[axis] <= 0


def _far_first(solids: list[Solid], chosen: Solid | None, *, axis: int) -> list[Solid]:
    return sorted(solids, key=lambda s: not _is_aside(s, chosen, axis=axis))


def _draw_above(pen: Pen, plan: Plan, at: Point, door: list[Solid], plate: list[Solid], chosen: Solid | None) -> None:
    """Draw the panel from above: back wall at the top, door below, hinges as a ring, and the arc of what swings."""
    enclosure = plan.job.enclosure
    pen.rect(*at, enclosure.width, enclosure.depth, width=1.2, tone=Tone.QUIET, radius=3)
    face = at[1] + DOOR_SKIN_MM
    top = at[1] + enclosure.depth - PLATE_OFF_MM
    pen.rect(at[0] + EDGE_MM / 2, top, plan.plate.width, 3, fill=Tone.INK, width=0.2)
    pen.rect(at[0], face - 3, enclosure.width, 3, fill=Tone.INK, width=0.2)
    hits = _hits(plan)
    for solids, is_door in ((plate, False), (door, True)):
        for solid in _far_first(solids, chosen, axis=1):
            is_faint = _is_aside(solid, chosen, axis=1)
            tone = Tone.FAINT if is_faint else Tone.DANGER if solid.name in hits else Tone.INK
            y = face if is_door else top - solid.depth
            fill = Tone.NONE if is_faint else Tone.DUCT if plan.plate.duct(solid.name) is not None else Tone.PART
            pen.rect(at[0] + solid.box.x, y, solid.box.w, solid.depth, fill=fill, tone=tone, width=0.6, ref=solid.name)
    hinge = at[0] + (0.0 if enclosure.hinge == "left" else enclosure.width)
    pen.circle(hinge, face, 7, fill=Tone.PAPER, width=1.2)
    for solid in [chosen] if chosen is not None else [s for s in door if s.name in hits]:
        _draw_arc(pen, plan, solid, (hinge, face))


def _draw_arc(pen: Pen, plan: Plan, solid: Solid, hinge: Point) -> None:
    """Draw the way of the far inner corner of a door part as the door opens, to 60 degrees."""
    enclosure = plan.job.enclosure
    side = 1.0 if enclosure.hinge == "left" else -1.0
    far = solid.box.right if side > 0 else enclosure.width - solid.box.x
    radius, start = hypot(far, solid.depth), atan2(solid.depth, far)
    points = []
    for step in range(31):
        angle = start - radians(2.0 * step)
        points.append((hinge[0] + side * radius * cos(angle), hinge[1] + radius * sin(angle)))
    tone = Tone.DANGER if solid.name in _hits(plan) else Tone.DONE
    pen.line(*points, width=1.2, tone=tone, dashed=True, ref=solid.name)
    pen.text(points[-1][0] + 10 * side, points[-1][1], plan.name_of(solid.name), size=14, tone=tone, ref=solid.name)


def _draw_solid(pen: Pen, plan: Plan, solid: Solid, at: Point, *, is_faint: bool, is_door: bool) -> None:
    """Draw a body from the side; the bend of the wires behind a door part is dashed."""
    tone = Tone.FAINT if is_faint else Tone.DANGER if solid.name in _hits(plan) else Tone.INK
    is_duct = plan.plate.duct(solid.name) is not None
    body = solid.depth - (BEND_MM if is_door else 0.0)
    x = at[0] - body if is_door else at[0]
    y, b = at[1] + solid.box.y, solid.box
    fill = Tone.NONE if is_faint else Tone.DUCT if is_duct else Tone.PART
    pen.rect(x, y, body, b.h, fill=fill, tone=tone, width=0.5, ref=solid.name)
    if is_faint:
        return
    if is_door:
        end = at[0] - solid.depth
        pen.line(
            (x, y), (end, y + 6), (end, y + b.h - 6), (x, y + b.h), width=0.5, tone=tone, dashed=True, ref=solid.name
        )
    if not is_duct and b.h >= 12:
        tag = plan.name_of(solid.name)
        pen.text(x + body / 2, y + b.h / 2 - 6, tag, size=12, anchor=Anchor.MIDDLE, tone=tone, ref=solid.name)
