"""Owns the whole set of sheets in its order, with their numbers. Must not draw any.

Cover, contents and overview come first, below the circuit's first sheet; terminals and lists behind its last.
"""

from collections.abc import Callable
from dataclasses import replace

from riktig.drawings.circuit.sheets import draw_circuit
from riktig.drawings.display import Drawing
from riktig.drawings.frame import page_text
from riktig.drawings.papers.cover import draw_contents, draw_cover, listed
from riktig.drawings.papers.earthing import draw_earthing
from riktig.drawings.papers.lists import draw_channel_lists, draw_device_list, draw_legend
from riktig.drawings.papers.overview import draw_overview
from riktig.drawings.papers.paper import Sheet, finish
from riktig.drawings.papers.terminals import draw_terminals
from riktig.plan.plan import Plan
from riktig.plan.sheets.allocation import FIRST_SHEET


class NotWanted(Exception):
    """The drawing was given up: nobody waits for it any more."""


def draw_sheets(plan: Plan, is_wanted: Callable[[], bool] = lambda: True) -> tuple[Drawing, ...]:
    """Return every sheet of a plan, A3 across, sizes in mm.

    Args:
        plan: what is drawn.
        is_wanted: asked between two sheets of the circuit.

    Raises:
        NotWanted: it said no.
    """
    sheets_of_circuit = []
    for sheet in draw_circuit(plan):
        sheets_of_circuit.append(sheet)
        if not is_wanted():
            raise NotWanted
    circuit = tuple(sheets_of_circuit)
    last = max(plan.sheets.sheets(), default=FIRST_SHEET)
    behind = [*draw_earthing(plan, circuit), *draw_channel_lists(plan), *draw_terminals(plan), *draw_device_list(plan)]
    behind += draw_legend(plan, circuit)
    first_behind = -(-(last + 1) // 10) * 10
    tail = tuple(finish(plan.job, sheet, first_behind + n) for n, sheet in enumerate(behind))
    head = _draw_head(plan, circuit, tail)
    sheets = (*head, *circuit, *tail)
    return tuple(with_page(sheet, n + 1, len(sheets)) for n, sheet in enumerate(sheets))


def _draw_head(plan: Plan, circuit: tuple[Drawing, ...], tail: tuple[Drawing, ...]) -> tuple[Drawing, ...]:
    """Return cover, contents and overview; the contents list themselves too."""
    overview = draw_overview(plan)
    later = [listed(d, sheet_number(d)) for d in (*circuit, *tail)]
    pages = 1
    while True:
        own = [(1, "Cover", "Cover and contents")]
        own += [(2 + n, "Contents", "Cover and contents") for n in range(pages)]
        own += [(2 + pages + n, sheet.title, sheet.chapter) for n, sheet in enumerate(overview)]
        contents = draw_contents(plan, [*own, *later])
        if len(contents) <= pages:
            break
        pages = len(contents)
    sheets: list[Sheet] = [draw_cover(plan), *contents, *overview]
    return tuple(finish(plan.job, sheet, 1 + n) for n, sheet in enumerate(sheets))


def sheet_number(drawing: Drawing) -> int:
    """Return the number of a sheet."""
    return int(drawing.name.rpartition("-")[2])


def with_page(drawing: Drawing, page: int, pages: int) -> Drawing:
    """Return a sheet with its place in the set written in its title block."""
    return replace(drawing, items=(*drawing.items, page_text(page, pages)))
