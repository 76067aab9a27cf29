"""Owns writing drawings as PDF with the shipped fonts. Must not know what they depict."""

from collections.abc import Sequence
from functools import cache
from importlib.resources import as_file, files
from pathlib import Path
from typing import Any

from riktig.drawings.display import EM_PER_HEIGHT, Circle, Drawing, Line, Primitive, Rect, Text, Tone
from riktig.drawings.palette import CASING, CASING_EXTRA_MM, WIRE, paper_colour
from riktig.drawings.text_width import text_box

_MM = 72 / 25.4
Box = tuple[float, float, float, float]
_BEFORE_MM = 40.0
"""So much of the sheet is shown left of and above where a link leads."""
_FONTS = {"B612": "B612-Regular", "B612-Bold": "B612-Bold", "B612Mono": "B612Mono-Regular"}


def write_pdf(drawings: tuple[Drawing, ...], path: Path) -> None:
    """Write drawings as pages of their own size, with a bookmark for each chapter and each page, and links that lead where they lead
    on screen.

    Raises:
        OSError: the file cannot be written.
    """
    from reportlab.pdfgen.canvas import Canvas

    register_fonts()
    canvas = Canvas(str(path), pageCompression=1, invariant=1)
    canvas.setCreator("Riktig")
    canvas.setTitle(drawings[0].title if drawings else "Riktig")
    known = {target.id for drawing in drawings for target in drawing.targets}
    chapter = ""
    for drawing in drawings:
        canvas.setPageSize((drawing.width * _MM, drawing.height * _MM))
        canvas.bookmarkPage(drawing.name)
        chapter = _add_outline(canvas, drawing, chapter)
        for target in drawing.targets:
            canvas.bookmarkPage(
                target.id, fit="XYZ", left=(target.x - _BEFORE_MM) * _MM, top=(target.y + _BEFORE_MM) * _MM, zoom=0
            )
        canvas.scale(_MM, _MM)
        draw_items(canvas, drawing)
        for item in drawing.primitives():
            if isinstance(item, Text) and item.link in known:
                canvas.linkRect("", item.link, text_box(item), relative=1, thickness=0)
        canvas.showPage()
    canvas.save()


def draw_items(canvas: Any, drawing: Drawing, boxes: Sequence[Box] = (), within: Box | None = None) -> None:
    """Draw what a drawing is made of on a canvas that is scaled to mm; the fonts must be known.

    Args:
        canvas: reportlab's.
        drawing: the drawing.
        boxes: as `boxes_of` gives them, with `within`.
        within: left, bottom, right, top in mm; what lies beyond all of it is left out.
    """
    canvas.setLineCap(1)
    canvas.setLineJoin(1)
    if within is None:
        for item in drawing.primitives():
            _draw(canvas, item)
        return
    left, low, right, high = within
    for item, (x0, y0, x1, y1) in zip(drawing.primitives(), boxes, strict=True):
        if x1 >= left and x0 <= right and y1 >= low and y0 <= high:
            _draw(canvas, item)


def boxes_of(drawing: Drawing) -> list[Box]:
    """Return the room of each primitive of a drawing in mm, its stroke included: left, bottom, right, top."""
    return [_box(item) for item in drawing.primitives()]


def _box(item: Primitive) -> Box:
    if isinstance(item, Text):
        return text_box(item)
    if isinstance(item, Rect):
        x0, y0, x1, y1 = item.x, item.y, item.x + item.w, item.y + item.h
    elif isinstance(item, Circle):
        x0, y0, x1, y1 = item.x - item.r, item.y - item.r, item.x + item.r, item.y + item.r
    else:
        x0, x1 = min(x for x, _ in item.points), max(x for x, _ in item.points)
        y0, y1 = min(y for _, y in item.points), max(y for _, y in item.points)
    edge = item.width / 2 + CASING_EXTRA_MM
    return x0 - edge, y0 - edge, x1 + edge, y1 + edge


def _add_outline(canvas: Any, drawing: Drawing, chapter: str) -> str:
    """Add the bookmarks of a page, under its chapter where it has one; return the chapter."""
    if drawing.chapter and drawing.chapter != chapter:
        canvas.bookmarkPage(f"chapter:{drawing.name}")
        canvas.addOutlineEntry(drawing.chapter, f"chapter:{drawing.name}", level=0)
    canvas.addOutlineEntry(drawing.title, drawing.name, level=1 if drawing.chapter else 0)
    return drawing.chapter


def register_fonts() -> None:
    """Make the shipped fonts known to reportlab."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    known = set(pdfmetrics.getRegisteredFontNames())
    for name, stem in _FONTS.items():
        if name not in known:
            with as_file(files("riktig").joinpath("fonts", f"{stem}.ttf")) as font:
                pdfmetrics.registerFont(TTFont(name, str(font)))


def _draw(canvas: Any, item: Primitive) -> None:
    if isinstance(item, Line):
        _draw_line(canvas, item)
    elif isinstance(item, Rect):
        fill, stroke = _paint(canvas, item.fill, item.tone, item.width)
        if item.radius:
            canvas.roundRect(item.x, item.y, item.w, item.h, item.radius, stroke=stroke, fill=fill)
        else:
            canvas.rect(item.x, item.y, item.w, item.h, stroke=stroke, fill=fill)
    elif isinstance(item, Circle):
        fill, stroke = _paint(canvas, item.fill, item.tone, item.width)
        canvas.circle(item.x, item.y, item.r, stroke=stroke, fill=fill)
    else:
        _draw_text(canvas, item)


@cache
def _ink(tone: Tone | str) -> Any:
    """Return the colour of a tone, or of `#RRGGBB`, as reportlab has it, which would read its words anew each time; None for none."""
    from reportlab.lib.colors import toColor

    words = paper_colour(tone) if isinstance(tone, Tone) else tone
    return toColor(words) if words is not None else None


def _paint(canvas: Any, fill: Tone, tone: Tone, width: float) -> tuple[int, int]:
    fill_colour, stroke_colour = _ink(fill), _ink(tone)
    if fill_colour is not None:
        canvas.setFillColor(fill_colour)
    if stroke_colour is not None:
        canvas.setStrokeColor(stroke_colour)
        canvas.setLineWidth(width)
        canvas.setDash()
    return int(fill_colour is not None), int(stroke_colour is not None)


def _draw_line(canvas: Any, item: Line) -> None:
    path = canvas.beginPath()
    path.moveTo(*item.points[0])
    for point in item.points[1:]:
        path.lineTo(*point)
    if item.tone in WIRE:
        canvas.setDash()
        canvas.setStrokeColor(_ink(CASING))
        canvas.setLineWidth(item.width + 2 * CASING_EXTRA_MM)
        canvas.drawPath(path)
    canvas.setStrokeColor(_ink(item.tone))
    canvas.setLineWidth(item.width)
    canvas.setDash(*([1.2, 0.9],) if item.is_dashed else ())
    canvas.drawPath(path)


def _draw_text(canvas: Any, item: Text) -> None:
    font = "B612Mono" if item.is_mono else "B612-Bold" if item.is_bold else "B612"
    canvas.setFont(font, item.size * EM_PER_HEIGHT)
    canvas.setFillColor(_ink(item.tone))
    canvas.saveState()
    canvas.translate(item.x, item.y)
    if item.is_upright:
        canvas.rotate(90)
    draw = {"left": canvas.drawString, "middle": canvas.drawCentredString, "right": canvas.drawRightString}
    draw[item.anchor.value](0, 0, item.text)
    canvas.restoreState()
