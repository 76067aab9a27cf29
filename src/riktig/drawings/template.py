"""Owns full-size templates: plate, door and entry wall at 1:1, with every hole where it is drilled. Must not know paper or tiles.

The origin of a template is its datum, the lower left corner seen from the front; 1 mm is 1 mm.
"""

from collections.abc import Iterable

from riktig.drawings.display import Anchor, Drawing, Layer, Pen, Tone
from riktig.plan.place.depth import PLATE_OFF_MM
from riktig.plan.place.layout import Box
from riktig.plan.plan import Plan

CROSS_MM = 6.0
"""Half the length of the cross at the middle of a hole."""


def templates(plan: Plan) -> tuple[Drawing, ...]:
    """Return the templates of plate, door and entry wall; a sheet without a hole has none."""
    return tuple(d for d in (plate_template(plan), door_template(plan), entry_template(plan)) if d is not None)


def plate_template(plan: Plan) -> Drawing:
    """Return the plate: outlines of rails, ducts and what is screwed to it, and every hole with its size and what it is for."""
    pen = Pen()
    plate = plan.plate
    _outline(pen, plate.width, plate.height)
    for rail in plate.rails:
        _box(pen, rail.box, Layer.RAIL, rail.code)
    for duct in plate.ducts:
        _box(pen, duct.box, Layer.DUCT, f"{duct.code} {duct.width:g}x{duct.depth:g}")
    drilled = {hole.target for hole in plan.holes}
    for name, box in plate.boxes.items():
        if name in drilled:
            x, y = box.centre
            pen.line(*_edges(box), width=0.25, tone=Tone.QUIET, layer=Layer.PART)
            pen.text(x, y - 2.5, plan.name_of(name), size=5, anchor=Anchor.MIDDLE, tone=Tone.QUIET, layer=Layer.PART)
    for hole in plan.holes:
        words = f"ø{hole.diameter:g} {plan.tags.get(hole.target, hole.target)}"
        _hole(pen, hole.x, hole.y, hole.diameter, words, hole.target)
    title = f"Template of the plate, {plate.width:g} x {plate.height:g} mm, datum lower left, front"
    return Drawing(name="plate-template", title=title, width=plate.width, height=plate.height, items=tuple(pen.items))


def door_template(plan: Plan) -> Drawing | None:
    """Return the door with its cut-outs, None without any."""
    if not plan.door.cutouts:
        return None
    pen = Pen()
    _outline(pen, plan.door.width, plan.door.height)
    for c in plan.door.cutouts:
        tag = plan.name_of(c.device)
        if c.diameter:
            _hole(pen, c.x, c.y, c.diameter, f"ø{c.diameter:g} {tag}", c.device)
        else:
            _rect(pen, c.box, c.device, f"{c.w:g} x {c.h:g} {tag}")
    title = f"Template of the door, {plan.door.width:g} x {plan.door.height:g} mm, datum lower left, front"
    return Drawing(
        name="door-template", title=title, width=plan.door.width, height=plan.door.height, items=tuple(pen.items)
    )


def entry_template(plan: Plan) -> Drawing | None:
    """Return the entry wall from outside, the back wall of the enclosure along its lower edge; None without holes."""
    if not plan.entries:
        return None
    pen = Pen()
    enclosure = plan.job.enclosure
    _outline(pen, enclosure.width, enclosure.depth)
    pen.line(
        (0, PLATE_OFF_MM), (enclosure.width, PLATE_OFF_MM), width=0.2, dashed=True, tone=Tone.QUIET, layer=Layer.OUTLINE
    )
    pen.text(4, PLATE_OFF_MM + 2, "face of the plate", size=4, tone=Tone.QUIET, layer=Layer.NOTE)
    for e in plan.entries:
        _hole(
            pen,
            e.x,
            e.z,
            e.diameter,
            f"ø{e.diameter:g} {e.fitting} {e.cable}",
            f"cable:{e.cable}",
        )
    where = "bottom" if plan.job.supply.entry == "bottom" else "top"
    title = (
        f"Template of the {where} wall, {enclosure.width:g} x {enclosure.depth:g} mm, left edge and back wall as datum"
    )
    return Drawing(
        name="entry-template", title=title, width=enclosure.width, height=enclosure.depth, items=tuple(pen.items)
    )


def _outline(pen: Pen, width: float, height: float) -> None:
    pen.line((0, 0), (width, 0), (width, height), (0, height), (0, 0), width=0.5, layer=Layer.OUTLINE)
    pen.line((0, 0), (15, 0), width=1.2, layer=Layer.OUTLINE)
    pen.line((0, 0), (0, 15), width=1.2, layer=Layer.OUTLINE)
    pen.text(3, 3, "0 / 0", size=4, bold=True, layer=Layer.NOTE)


def _edges(box: Box) -> Iterable[tuple[float, float]]:
    return ((box.x, box.y), (box.right, box.y), (box.right, box.top), (box.x, box.top), (box.x, box.y))


def _box(pen: Pen, box: Box, layer: Layer, words: str) -> None:
    pen.line(*_edges(box), width=0.25, tone=Tone.QUIET, layer=layer)
    pen.text(box.x + 3, box.y + 3, words, size=5, tone=Tone.QUIET, layer=layer)


def _rect(pen: Pen, box: Box, ref: str, words: str) -> None:
    pen.line(*_edges(box), width=0.35, ref=ref, layer=Layer.HOLE)
    x, y = box.centre
    _cross(pen, x, y, ref)
    pen.text(x, box.top + 4, words, size=4, anchor=Anchor.MIDDLE, ref=ref, layer=Layer.NOTE)


def _hole(pen: Pen, x: float, y: float, diameter: float, words: str, ref: str | None) -> None:
    pen.circle(x, y, diameter / 2, width=0.25, ref=ref, layer=Layer.HOLE)
    _cross(pen, x, y, ref)
    pen.text(x + diameter / 2 + 2, y + 1.5, words, size=3, ref=ref, layer=Layer.NOTE)


def _cross(pen: Pen, x: float, y: float, ref: str | None) -> None:
    for line in (((x - CROSS_MM, y), (x + CROSS_MM, y)), ((x, y - CROSS_MM), (x, y + CROSS_MM))):
        pen.line(*line, width=0.15, ref=ref, layer=Layer.CENTRE)
