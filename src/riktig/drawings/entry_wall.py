"""Owns the picture of the entry wall on the screen: its holes from outside, and a list of what comes in where. Must not place holes."""

from riktig.drawings.display import Anchor, Drawing, Pen, Point, Tone
from riktig.drawings.door import entry_words
from riktig.plan.place.depth import PLATE_OFF_MM
from riktig.plan.plan import Plan
from riktig.plan.wiring.entries import Entry

_EDGE = 30.0


def entry_corner(plan: Plan) -> Point:
    """Return where the lower left corner of the wall lies in the drawing of `draw_entry_wall`."""
    return _EDGE, _EDGE + 1.5 * letter_size(plan) * (len(plan.entries) + 2)


def letter_size(plan: Plan) -> float:
    """Return how large the letters of that drawing are, in mm."""
    return plan.job.enclosure.width / 46


def draw_entry_wall(plan: Plan) -> Drawing:
    """Return the entry wall from outside with the back wall of the enclosure along its lower edge, every hole named; below it what
    each is for, its thread or trade size, and its centre in mm.
    """
    enclosure, entries = plan.job.enclosure, sorted(plan.entries, key=lambda e: (e.x, e.z))
    size = letter_size(plan)
    line = 1.5 * size
    low = entry_corner(plan)[1]
    width, height = enclosure.width + 2 * _EDGE, low + enclosure.depth + 3 * size
    pen = Pen()
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    where = "Bottom" if plan.job.supply.entry == "bottom" else "Top"
    title = f"{where} wall from outside, {enclosure.width:g} × {enclosure.depth:g} mm"
    pen.text(_EDGE, height - 2 * size, title, size=size, bold=True)
    pen.rect(_EDGE, low, enclosure.width, enclosure.depth, fill=Tone.STEEL, width=1.2)
    face = low + PLATE_OFF_MM
    pen.line((_EDGE, face), (_EDGE + enclosure.width, face), width=0.8, dashed=True, tone=Tone.QUIET)
    pen.text(
        _EDGE + enclosure.width - 6,
        low + PLATE_OFF_MM + 4,
        "face of the plate, back wall below",
        size=0.6 * size,
        anchor=Anchor.RIGHT,
        tone=Tone.QUIET,
    )
    pen.text(
        _EDGE + enclosure.width - 6, low + enclosure.depth - size, "door", size=0.6 * size, anchor=Anchor.RIGHT, tone=Tone.QUIET
    )  # fmt: skip
    front = max((e.z for e in entries), default=0.0)
    for entry in entries:
        _draw_hole(pen, entry, (_EDGE, low), size, is_front=entry.z == front)
    words = entry_words(plan)
    columns = (0.0, 0.48, 0.74, 0.88)
    for column, head in zip(columns, ("For", "Hole", "Left, mm", "Back, mm"), strict=True):
        pen.text(_EDGE + column * enclosure.width, low - line, head, size=0.8 * size, tone=Tone.QUIET)
    for row, entry in enumerate(entries, start=2):
        values = (words[entry.cable], f"ø {entry.diameter:g}, {entry.fitting}", f"{entry.x:g}", f"{entry.z:g}")
        for column, text in zip(columns, values, strict=True):
            x, y = _EDGE + column * enclosure.width, low - row * line
            tone = Tone.INK if entry.fits else Tone.DANGER
            pen.text(x, y, text, size=size, tone=tone, ref=f"cable:{entry.cable}")
    return Drawing(name="entry-wall", title=title, width=width, height=height, items=tuple(pen.items))


def _draw_hole(pen: Pen, entry: Entry, corner: tuple[float, float], size: float, *, is_front: bool) -> None:
    """Draw a hole; its name stands beside it, towards the door in the front row, towards the back wall in the others."""
    x, y, radius = corner[0] + entry.x, corner[1] + entry.z, entry.diameter / 2
    tone, ref = Tone.INK if entry.fits else Tone.DANGER, f"cable:{entry.cable}"
    pen.circle(x, y, radius, fill=Tone.PAPER, tone=tone, width=1.2, ref=ref)
    pen.line((x - 5, y), (x + 5, y), width=0.6, tone=Tone.QUIET)
    pen.line((x, y - 5), (x, y + 5), width=0.6, tone=Tone.QUIET)
    letters = 0.8 * size
    start = y + radius + 6 if is_front else y - radius - 4 - 0.62 * letters * len(entry.cable)
    pen.text(x + letters / 3, start, entry.cable, size=letters, upright=True, tone=tone, ref=ref)
