"""Owns the sheet's frame: columns, rows, title block. Must not know the circuit."""

from riktig.drawings.display import Anchor, Pen, Text, Tone
from riktig.drawings.text_width import fit_text, text_width
from riktig.job.model import Job
from riktig.plan.sheets.figures import LANES

SHEET_WIDTH, SHEET_HEIGHT = 420.0, 297.0
LEFT, RIGHT = 20.0, 410.0
COLUMN_WIDTH = (RIGHT - LEFT) / LANES
TOP, BOTTOM = 287.0, 34.0
_BLOCK_HEIGHT = 22.0
CAUTION = (
    "Work dead: isolate, lock off, prove dead. Every value is an aid: the local code and a competent person decide."
)


def draw_frame(pen: Pen, job: Job, title: str, sheet: int, *, has_grid: bool = True) -> None:
    """Draw border, grid and title block of an A3 sheet: columns 0 to 9 and rows A to F."""
    pen.rect(0, 0, SHEET_WIDTH, SHEET_HEIGHT, fill=Tone.PAPER, tone=Tone.NONE)
    pen.rect(LEFT - 10, 10, RIGHT - LEFT + 10, SHEET_HEIGHT - 15, width=0.5)
    pen.line((LEFT - 10, TOP - 1), (RIGHT, TOP - 1), width=0.25, tone=Tone.QUIET)
    pen.line((LEFT, 10 + _BLOCK_HEIGHT), (LEFT, SHEET_HEIGHT - 5), width=0.25, tone=Tone.QUIET)
    for column in range(LANES if has_grid else 0):
        x = LEFT + column * COLUMN_WIDTH
        pen.line((x, TOP - 1), (x, SHEET_HEIGHT - 5), width=0.25, tone=Tone.QUIET)
        pen.text(x + COLUMN_WIDTH / 2, TOP + 0.8, str(column), size=2.6, anchor=Anchor.MIDDLE, tone=Tone.QUIET)
    height = (TOP - 1 - BOTTOM + 2) / 6
    for row, letter in enumerate("ABCDEF" if has_grid else ""):
        y = TOP - 1 - (row + 0.5) * height
        pen.text(LEFT - 5, y - 1.3, letter, size=2.6, anchor=Anchor.MIDDLE, tone=Tone.QUIET)
    _draw_block(pen, job, title, str(sheet))


def page_text(page: int, pages: int) -> Text:
    """Return what the title block says of a sheet's place in its set."""
    return Text(
        x=RIGHT - 3, y=10 + _BLOCK_HEIGHT - 5, text=f"{page} of {pages}", size=2.5, anchor=Anchor.RIGHT, tone=Tone.QUIET
    )


def _draw_block(pen: Pen, job: Job, title: str, page: str) -> None:
    left, top = LEFT - 10, 10 + _BLOCK_HEIGHT
    pen.line((left, top), (RIGHT, top), width=0.5)
    edges = (RIGHT - 196, RIGHT - 116, RIGHT - 40)
    for x in edges:
        pen.line((x, 10), (x, top), width=0.25)
    pen.text(left + 4, top - 6.5, "Riktig", size=3.6, bold=True)
    pen.text(left + 24, top - 6.5, title, size=3.2)
    pen.text(left + 4, 14, CAUTION, size=2.5, tone=Tone.QUIET)
    rooms = [b - a for a, b in zip(edges, (*edges[1:], RIGHT), strict=True)]
    for x, room, (label, value) in zip(
        edges,
        rooms,
        (
            ("Job", f"{job.info.number}  {job.info.title}".strip()),
            ("Customer", job.info.customer or "-"),
            ("Sheet", page),
        ),
        strict=True,
    ):
        pen.text(x + 3, top - 5, label, size=2.5, tone=Tone.QUIET)
        size = 3.2 if text_width(value, 3.2, is_bold=True) <= room - 5 else 2.6
        pen.text(x + 3, top - 11, fit_text(value, room - 5, size, is_bold=True), size=size, bold=True)
    pen.text(edges[2] + 3, 14, f"Rev {job.revision or '-'}", size=2.8)
