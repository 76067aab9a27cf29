"""Owns the single-line diagram on sheets: pieces of the bus side by side."""

from riktig.drawings.display import Pen, Symbol, Target, moved
from riktig.drawings.frame import LEFT
from riktig.drawings.papers.paper import BOTTOM, TOP, Sheet, draw_heading
from riktig.drawings.single_line import HEADER, ROW, WIDTH, Row, draw_rows, single_line_rows
from riktig.plan.plan import Plan

_ABREAST, _LEAST = 3, 4
"""Pieces on a sheet, and the rows that make one."""
_PER_PIECE = int((TOP - BOTTOM) // ROW)
_FIRST = int((TOP - BOTTOM - HEADER) // ROW)


def draw_overview(plan: Plan) -> list[Sheet]:
    """Return the single-line diagram, three pieces of the bus on a sheet."""
    rows = single_line_rows(plan)
    pieces = _parted(rows)
    pages: list[Sheet] = []
    for start in range(0, len(pieces), _ABREAST):
        pen = Pen()
        draw_heading(pen, "Single-line diagram" if not pages else "Single-line diagram, continued")
        for n, piece in enumerate(pieces[start : start + _ABREAST]):
            _place(pen, plan, piece, LEFT + 4.0 + n * (WIDTH + 4.0), is_first=start + n == 0)
        pages.append(Sheet(title="Single-line diagram", chapter="Single-line diagram", pen=pen))
    return pages


def _parted(rows: tuple[Row, ...]) -> list[tuple[Row, ...]]:
    """Return the rows in pieces: on one sheet of even length, the first shorter by its head; on more than one as long as there is room."""
    head = -(-HEADER // ROW)
    if len(rows) + head <= _ABREAST * _PER_PIECE:
        count = min(_ABREAST, max(1, round((len(rows) + head) / _LEAST)))
        length = int(-(-(len(rows) + head) // count))
        first = int(min(_FIRST, max(1, length - head)))
    else:
        length, first = _PER_PIECE, _FIRST
    return [rows[:first], *(rows[at : at + length] for at in range(first, len(rows), length))]


def _place(pen: Pen, plan: Plan, piece: tuple[Row, ...], x: float, *, is_first: bool) -> None:
    drawn = Pen()
    draw_rows(drawn, plan, piece, TOP, is_first=is_first)
    for item in drawn.items:
        if isinstance(item, Symbol):
            pen.symbol(item.shape, item.x + x, item.y, terminals=item.terminals, ref=item.ref, tag=item.tag)
        else:
            pen.items.append(moved(item, x, 0.0, item.ref, item.layer))
    pen.targets.extend(Target(id=t.id, x=t.x + x, y=t.y) for t in drawn.targets)
