"""Owns the drawing of a side wall with its cut-outs and what stands behind it. Must not know how they were laid out."""

from riktig.drawings.display import Anchor, Drawing, Pen, Tone
from riktig.drawings.door import draw_cutout
from riktig.plan.place.walls import WallLayout, inside_of
from riktig.plan.plan import Plan

WALL_CORNER = (60.0, 50.0)
"""Where the lower left corner of the wall lies in the drawing."""


def draw_wall(plan: Plan, wall: WallLayout) -> Drawing:
    """Return a side wall from outside with its cut-outs, coordinates, and dashed behind it what stands near it inside."""
    pen = Pen()
    left, low = WALL_CORNER
    width, height = left + wall.width + 70.0, low + wall.height + 50.0
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    title = f"{wall.side.capitalize()} wall {wall.width:g} × {wall.height:g} mm, from outside"
    pen.text(left, height - 22, title, size=12, bold=True)
    pen.text(left, 8, "mm from the lower left corner of the wall", size=9, tone=Tone.QUIET)
    pen.rect(left, low, wall.width, wall.height, fill=Tone.STEEL, width=1.0, radius=3)
    ends = ("back", "door") if wall.side == "left" else ("door", "back")
    for words, x, anchor in zip(ends, (left, left + wall.width), (Anchor.LEFT, Anchor.RIGHT), strict=True):
        pen.text(x, low - 14, words, size=9, anchor=anchor, tone=Tone.QUIET)
    near = max((plan.parts[c.device].depth for c in wall.cutouts), default=0.0) + 60.0
    for one in inside_of(plan.job.enclosure, wall.side, plan.parts, plan.plate, plan.door):
        if one.gap <= near:
            corners = [
                (one.box.x, one.box.y),
                (one.box.right, one.box.y),
                (one.box.right, one.box.top),
                (one.box.x, one.box.top),
            ]
            line = [(left + x, low + y) for x, y in (*corners, corners[0])]
            pen.line(*line, width=0.4, dashed=True, tone=Tone.QUIET, ref=one.name)
    met = {fault.device for fault in wall.meetings}
    for cutout in wall.cutouts:
        draw_cutout(pen, plan, cutout, (left, low), is_hit=cutout.device in met, name=plan.name_of)
        pen.text(left - 6, low + cutout.y - 4, f"{cutout.y:g}", size=8, anchor=Anchor.RIGHT, mono=True)
        pen.text(left + cutout.x + 4, low - 8, f"{cutout.x:g}", size=8, anchor=Anchor.RIGHT, mono=True, upright=True)
    return Drawing(name=f"wall-{wall.side}", title=title, width=width, height=height, items=tuple(pen.items))
