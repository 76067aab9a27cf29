"""Owns full-size templates: plate, door and entry wall at 1:1, with every hole where it is drilled. Must not know paper or tiles.

The origin of a template is its datum, the lower left corner seen from the front; 1 mm is 1 mm.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from riktig.drawings.display import Drawing, Layer, Pen, Point, Text, Tone
from riktig.drawings.free_texts import FreeTexts
from riktig.plan.place.depth import PLATE_OFF_MM
from riktig.plan.place.door import Cutout
from riktig.plan.place.layout import Box
from riktig.plan.plan import Plan

CROSS_MM = 6.0
"""Half the length of the cross at the middle of a hole."""


def templates(plan: Plan) -> tuple[Drawing, ...]:
    """Return the templates of plate, door and entry wall; a sheet without a hole has none."""
    return tuple(
        d
        for d in (plate_template(plan), door_template(plan), entry_template(plan), *wall_templates(plan))
        if d is not None
    )


def plate_template(plan: Plan) -> Drawing:
    """Return the plate: outlines of rails, ducts and what is screwed to it, and every hole with its size and what it is for."""
    plate = plan.plate
    sheet = _Sheet.of(plate.width, plate.height)
    drilled = {hole.target for hole in plan.holes}
    outlines = [
        *((rail.box, Layer.RAIL, rail.code) for rail in plate.rails),
        *((duct.box, Layer.DUCT, f"{duct.code} {duct.width:g}x{duct.depth:g}") for duct in plate.ducts),
        *((box, Layer.PART, plan.name_of(name)) for name, box in plate.boxes.items() if name in drilled),
    ]
    odd = {plan.name_of(name): part.outline for name, part in plan.parts.items() if part.outline and name in drilled}
    for box, layer, words in outlines:
        sheet.outline(box, layer, odd.get(words, ()) if layer is Layer.PART else ())
    for hole in plan.holes:
        sheet.hole((hole.x, hole.y), hole.diameter, hole.target)
    for box, layer, words in outlines:
        sheet.free.inside(box, Text(x=0, y=0, text=words, size=5, tone=Tone.QUIET, layer=layer))
    for hole in plan.holes:
        sheet.name_hole((hole.x, hole.y), hole.diameter, plan.tags.get(hole.target, hole.target), hole.target)
    return sheet.drawing(
        "plate-template", f"Template of the plate, {plate.width:g} x {plate.height:g} mm, datum lower left, front"
    )


def door_template(plan: Plan) -> Drawing | None:
    """Return the door with its cut-outs, None without any."""
    if not plan.door.cutouts:
        return None
    size = plan.door.width, plan.door.height
    title = f"Template of the door, {size[0]:g} x {size[1]:g} mm, datum lower left, front"
    return _cut_sheet(plan, "door-template", title, size, plan.door.cutouts)


def _cut_sheet(plan: Plan, name: str, title: str, size: tuple[float, float], cutouts: Sequence[Cutout]) -> Drawing:
    """Return a sheet with cut-outs, each with its size and what it is for."""
    sheet = _Sheet.of(*size)
    for c in cutouts:
        if c.diameter:
            sheet.hole((c.x, c.y), c.diameter, c.device)
        else:
            sheet.cutout(c.box, c.device)
    for c in cutouts:
        tag = plan.name_of(c.device)
        if c.diameter:
            sheet.name_hole((c.x, c.y), c.diameter, tag, c.device)
        else:
            words = f"{c.w:g} x {c.h:g} {tag}"
            sheet.free.beside(c.box, Text(x=0, y=0, text=words, size=4, ref=c.device, layer=Layer.NOTE))
    return sheet.drawing(name, title)


def wall_templates(plan: Plan) -> tuple[Drawing, ...]:
    """Return the side walls that have cut-outs, from outside."""
    return tuple(
        _cut_sheet(
            plan, f"wall-{wall.side}-template", f"Template of the {wall.side} wall, {wall.width:g} x {wall.height:g} mm, datum lower left, "
            "from outside", (wall.width, wall.height), wall.cutouts,
        )
        for wall in plan.walls
    )  # fmt: skip


def entry_template(plan: Plan) -> Drawing | None:
    """Return the entry wall from outside, the back wall of the enclosure along its lower edge; None without holes."""
    if not plan.entries:
        return None
    width, depth = plan.job.enclosure.width, plan.job.enclosure.depth
    sheet = _Sheet.of(width, depth)
    face = Box(x=0, y=PLATE_OFF_MM, w=width, h=0)
    sheet.pen.line((0, face.y), (width, face.y), width=0.2, dashed=True, tone=Tone.QUIET, layer=Layer.OUTLINE)
    sheet.free.frame(face)
    for e in plan.entries:
        sheet.hole((e.x, e.z), e.diameter, f"cable:{e.cable}")
    words = Text(x=4, y=PLATE_OFF_MM + 2, text="face of the plate", size=4, tone=Tone.QUIET, layer=Layer.NOTE)
    sheet.free.put(words)
    for e in plan.entries:
        sheet.name_hole((e.x, e.z), e.diameter, f"{e.fitting} {e.cable}", f"cable:{e.cable}")
    where = "bottom" if plan.job.supply.entry == "bottom" else "top"
    return sheet.drawing(
        "entry-template", f"Template of the {where} wall, {width:g} x {depth:g} mm, left edge and back wall as datum"
    )


@dataclass(frozen=True, slots=True)
class _Sheet:
    """A template under way: what is drawn, and the texts that keep off it."""

    pen: Pen
    free: FreeTexts

    @classmethod
    def of(cls, width: float, height: float) -> "_Sheet":
        """Return the outline of a sheet with its datum."""
        sheet = cls(Pen(), FreeTexts(Box(x=0, y=0, w=width, h=height)))
        sheet.pen.line((0, 0), (width, 0), (width, height), (0, height), (0, 0), width=0.5, layer=Layer.OUTLINE)
        for end in ((15, 0), (0, 15)):
            sheet.pen.line((0, 0), end, width=1.2, layer=Layer.OUTLINE)
        sheet.free.put(Text(x=3, y=3, text="0 / 0", size=4, is_bold=True, layer=Layer.NOTE))
        return sheet

    def outline(self, box: Box, layer: Layer, corners: Sequence[Point] = ()) -> None:
        """Draw what lies on the sheet: its rectangle, or its own corners in the frame of that."""
        odd = [(box.x + x, box.y + y) for x, y in (*corners, *corners[:1])]
        self.pen.line(*(odd or _edges(box)), width=0.25, tone=Tone.QUIET, layer=layer)
        self.free.frame(box)

    def cutout(self, box: Box, ref: str) -> None:
        """Draw a rectangle that is cut out."""
        self.pen.line(*_edges(box), width=0.35, ref=ref, layer=Layer.HOLE)
        self._cross(box.centre, ref)
        self.free.block(box)

    def hole(self, at: Point, diameter: float, ref: str | None) -> None:
        """Draw a hole."""
        self.pen.circle(*at, diameter / 2, width=0.25, ref=ref, layer=Layer.HOLE)
        self._cross(at, ref)
        reach = max(diameter / 2, CROSS_MM)
        cross = (Box(x=at[0] - reach, y=at[1], w=2 * reach, h=0), Box(x=at[0], y=at[1] - reach, w=0, h=2 * reach))
        self.free.block(_round(at, diameter / 2), *cross)

    def name_hole(self, at: Point, diameter: float, words: str, ref: str | None) -> None:
        """Write the size of a hole and what it is for beside it."""
        text = Text(x=0, y=0, text=f"ø{diameter:g} {words}", size=3, ref=ref, layer=Layer.NOTE)
        self.free.beside(_round(at, diameter / 2), text)

    def drawing(self, name: str, title: str) -> Drawing:
        """Return the sheet with its texts."""
        room = self.free.room
        return Drawing(name=name, title=title, width=room.w, height=room.h, items=(*self.pen.items, *self.free.texts))

    def _cross(self, at: Point, ref: str | None) -> None:
        x, y = at
        for line in (((x - CROSS_MM, y), (x + CROSS_MM, y)), ((x, y - CROSS_MM), (x, y + CROSS_MM))):
            self.pen.line(*line, width=0.15, ref=ref, layer=Layer.CENTRE)


def _round(at: Point, radius: float) -> Box:
    return Box(x=at[0] - radius, y=at[1] - radius, w=2 * radius, h=2 * radius)


def _edges(box: Box) -> Iterable[Point]:
    return ((box.x, box.y), (box.right, box.y), (box.right, box.top), (box.x, box.top), (box.x, box.y))
