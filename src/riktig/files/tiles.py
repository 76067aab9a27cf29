"""Owns printing a drawing at full size on sheets of paper that are joined: tiles with overlap, marks and a bar to check the printer.

Must not know what is drawn.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import ceil
from pathlib import Path
from typing import Any

from riktig.drawings.display import Drawing
from riktig.files.pdf import Box, boxes_of, draw_items, register_fonts

_MM = 72 / 25.4
PAPERS_MM = {"a4": (210.0, 297.0), "a3": (297.0, 420.0), "letter": (215.9, 279.4), "tabloid": (279.4, 431.8)}
"""ISO 216 and ANSI/ASME Y14.1."""
EDGE_MM = 10.0
"""What a printer leaves white around a sheet (common practice, no source)."""
FOOT_MM = 16.0
"""Strip at the foot of each sheet with its name and the bar."""
OVERLAP_MM = 10.0
BAR_MM = 100.0
_MARK_MM = 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Tile:
    """A sheet of paper: its column and row from the lower left, from 1 on, and what part of the drawing it shows, in mm."""

    column: int
    row: int
    x: float
    y: float
    w: float
    h: float

    @property
    def name(self) -> str:
        """How it is called on paper: B2 is the second row of the second column."""
        return f"{column_name(self.column)}{self.row}"


def column_name(column: int) -> str:
    """Return A for 1, B for 2, AA for 27."""
    letters = ""
    while column:
        column, rest = divmod(column - 1, 26)
        letters = chr(65 + rest) + letters
    return letters


def cut_tiles(width: float, height: float, paper: str) -> tuple[Tile, ...]:
    """Return the tiles of a drawing, row by row from the top, each overlapping its neighbours; the paper lies as needs fewer sheets.

    Raises:
        KeyError: no such paper.
    """
    across, up = PAPERS_MM[paper]
    return min((_cut(width, height, w, h) for w, h in ((across, up), (up, across))), key=len)


def _cut(width: float, height: float, paper_w: float, paper_h: float) -> tuple[Tile, ...]:
    w, h = paper_w - 2 * EDGE_MM, paper_h - 2 * EDGE_MM - FOOT_MM
    step_x, step_y = w - OVERLAP_MM, h - OVERLAP_MM
    columns = max(1, ceil((width - OVERLAP_MM) / step_x - 1e-9))
    rows = max(1, ceil((height - OVERLAP_MM) / step_y - 1e-9))
    return tuple(
        Tile(column=c + 1, row=r + 1, x=c * step_x, y=r * step_y, w=w, h=h)
        for r in reversed(range(rows))
        for c in range(columns)
    )


def write_tiles(drawings: tuple[Drawing, ...], path: Path, paper: str = "a4", *, stamp: str = "") -> None:
    """Write drawings at full size, each as an overview of its sheets and then the sheets; a `stamp` on every page.

    Raises:
        KeyError: no such paper.
        OSError: the file cannot be written.
    """
    from reportlab.pdfgen.canvas import Canvas

    register_fonts()
    canvas = Canvas(str(path), pageCompression=1, invariant=1)
    canvas.setCreator("Riktig")
    canvas.setTitle(drawings[0].title if drawings else "Riktig")
    for drawing in drawings:
        tiles = cut_tiles(drawing.width, drawing.height, paper)
        _overview(canvas, drawing, tiles, paper, stamp)
        boxes = boxes_of(drawing)
        for tile in tiles:
            _page(canvas, drawing, boxes, tile, stamp)
    canvas.save()


def _overview(canvas: Any, drawing: Drawing, tiles: tuple[Tile, ...], paper: str, stamp: str) -> None:
    """Draw the whole in small with the sheets laid over it."""
    width, height = PAPERS_MM[paper]
    canvas.setPageSize((width * _MM, height * _MM))
    canvas.bookmarkPage(drawing.name)
    canvas.addOutlineEntry(drawing.title, drawing.name, level=0)
    canvas.scale(_MM, _MM)
    _text(canvas, EDGE_MM, height - 20, drawing.title, 4.0, bold=True)
    _text(canvas, EDGE_MM, height - 8, stamp, 2.4, bold=True)
    words = (
        f"{len(tiles)} sheets of {paper.upper()}. Print at 100 %, nothing fitted to the page.",
        f"Check the {BAR_MM:g} mm bar on every sheet with a rule. Lay the sheets over each other by",
        f"{OVERLAP_MM:g} mm so that the crosses of one number meet. Measure again from the datum",
        "before you drill: paper stretches. Work dead.",
    )
    for k, line in enumerate(words):
        _text(canvas, EDGE_MM, height - 28 - 5 * k, line, 2.8)
    room_w, room_h = width - 2 * EDGE_MM, height - 62
    right, top = max(t.x + t.w for t in tiles), max(t.y + t.h for t in tiles)
    scale = min(room_w / right, room_h / top)
    canvas.saveState()
    canvas.translate(EDGE_MM, EDGE_MM + 4)
    canvas.scale(scale, scale)
    draw_items(canvas, drawing)
    for tile in tiles:
        canvas.setLineWidth(0.3 / scale)
        canvas.setDash()
        canvas.rect(tile.x, tile.y, tile.w, tile.h, stroke=1, fill=0)
        _text(canvas, tile.x + tile.w / 2, tile.y + tile.h / 2, tile.name, 5 / scale, bold=True)
    canvas.restoreState()
    canvas.showPage()


def _page(canvas: Any, drawing: Drawing, boxes: Sequence[Box], tile: Tile, stamp: str) -> None:
    width, height = tile.w + 2 * EDGE_MM, tile.h + 2 * EDGE_MM + FOOT_MM
    canvas.setPageSize((width * _MM, height * _MM))
    canvas.scale(_MM, _MM)
    left, low = EDGE_MM, EDGE_MM + FOOT_MM
    _text(canvas, EDGE_MM, height - 4, stamp, 2.4, bold=True)
    canvas.saveState()
    clip = canvas.beginPath()
    clip.rect(left, low, tile.w, tile.h)
    canvas.clipPath(clip, stroke=0, fill=0)
    canvas.translate(left - tile.x, low - tile.y)
    draw_items(canvas, drawing, boxes, (tile.x, tile.y, tile.x + tile.w, tile.y + tile.h))
    canvas.restoreState()
    canvas.setDash()
    canvas.setLineWidth(0.15)
    canvas.setStrokeGray(0.4)
    canvas.rect(left, low, tile.w, tile.h, stroke=1, fill=0)
    for x, y in crosses(tile):
        px, py = left + x - tile.x, low + y - tile.y
        canvas.line(px - _MARK_MM, py, px + _MARK_MM, py)
        canvas.line(px, py - _MARK_MM, px, py + _MARK_MM)
        _text(canvas, px + 0.8, py + 0.8, f"{x:g}/{y:g}", 1.6)
    _foot(canvas, drawing, tile)
    canvas.showPage()


def crosses(tile: Tile) -> Iterator[tuple[float, float]]:
    """Yield the marks of a tile in mm of the drawing: in the middle of each overlap with a neighbour, two on each side."""
    half = OVERLAP_MM / 2
    for x in (tile.x + half, tile.x + tile.w - half):
        for y in (tile.y + half, tile.y + tile.h - half):
            yield round(x, 3), round(y, 3)


def _foot(canvas: Any, drawing: Drawing, tile: Tile) -> None:
    """Draw the name of the sheet and the bar to check the printer by."""
    y = EDGE_MM + 5.0
    canvas.setStrokeGray(0)
    canvas.setLineWidth(0.5)
    canvas.line(EDGE_MM, y, EDGE_MM + BAR_MM, y)
    canvas.setLineWidth(0.25)
    for k in range(11):
        x, tall = EDGE_MM + k * BAR_MM / 10, 3.0 if k in {0, 10} else 1.5
        canvas.line(x, y, x, y + tall)
    _text(canvas, EDGE_MM, y - 4, f"{BAR_MM:g} mm: check it with a rule. 100 %, not fitted to the page", 2.4)
    _text(canvas, EDGE_MM + BAR_MM + 6, y, tile.name, 5.0, bold=True)
    _text(canvas, EDGE_MM + BAR_MM + 20, y, drawing.name, 3.0)
    _text(canvas, EDGE_MM + BAR_MM + 20, y - 4, f"from {tile.x:g} / {tile.y:g} mm", 2.4)


def _text(canvas: Any, x: float, y: float, text: str, size: float, *, bold: bool = False) -> None:
    canvas.setFont("B612-Bold" if bold else "B612", size * 1.4)
    canvas.setFillGray(0)
    canvas.drawString(x, y, text)
