"""Owns the earthing sheets: the bar and every part that is earthed at it and is not drawn with its motor."""

from riktig.catalogue.model import ElementKind
from riktig.drawings.display import Anchor, Drawing, Layer, Pen, Symbol, Tone
from riktig.drawings.frame import COLUMN_WIDTH, LEFT
from riktig.drawings.papers.paper import TOP, Sheet, draw_heading
from riktig.drawings.shapes import earth_shape, earthed_shape, symbol_set
from riktig.drawings.text_width import fit_text, wrap_text
from riktig.plan.circuit.model import is_bar
from riktig.plan.plan import Plan
from riktig.plan.sheets.figures import LANES

_ROWS = 5
_ROW = 44.0


def draw_earthing(plan: Plan, sheets: tuple[Drawing, ...]) -> list[Sheet]:
    """Return every earth terminal that the circuit sheets do not show, hung from the earth bar."""
    shown = {t for sheet in sheets for item in sheet.items if isinstance(item, Symbol) for t in item.terminals}
    parts = [
        (device.id, mark)
        for device in plan.circuit.devices
        if not is_bar(device.id)
        for element in plan.parts[device.id].elements
        if element.kind is ElementKind.EARTH
        for mark in element.marks
        if f"{device.id}:{mark}" not in shown
    ]
    pages: list[Sheet] = []
    for start in range(0, len(parts), _ROWS * LANES):
        pen = Pen()
        draw_heading(pen, "Earthing and bonding" if not pages else "Earthing and bonding, continued")
        page = parts[start : start + _ROWS * LANES]
        for row in range(0, len(page), LANES):
            _draw_row(pen, plan, page[row : row + LANES], TOP - 8.0 - _ROW * (row // LANES))
        pages.append(Sheet(title="Earthing and bonding", chapter="Power circuit", pen=pen))
    return pages


def _draw_row(pen: Pen, plan: Plan, parts: list[tuple[str, str]], y: float) -> None:
    """Draw one length of the bar with what hangs from it."""
    first = LEFT + 10.0
    standard = symbol_set(plan.job)
    pen.line((first, y), (LEFT + COLUMN_WIDTH * (len(parts) - 1) + 19.0, y), width=0.6, ref="net:PE", layer=Layer.WIRE)
    pen.line((first, y), (first, y - 4.0), width=0.35, ref="net:PE", layer=Layer.WIRE)
    pen.symbol(earth_shape(standard), first, y - 4.0, ref="net:PE")
    pen.text(
        first,
        y + 1.2,
        plan.tags.get("PE.bar", "PE"),
        size=2.8,
        bold=True,
        tone=Tone.DONE,
        ref="net:PE",
        layer=Layer.NUMBER,
    )
    for n, (device, mark) in enumerate(parts):
        x = LEFT + COLUMN_WIDTH * n + 19.0
        pen.line((x, y), (x, y - 10.0), width=0.35, ref="net:PE", layer=Layer.WIRE)
        pen.circle(x, y, 0.8, width=0.1, fill=Tone.INK, ref="net:PE", layer=Layer.WIRE)
        pen.symbol(earthed_shape(), x, y - 10.0, terminals=(f"{device}:{mark}",), ref=device, tag=plan.tags[device])
        pen.text(x + 1.2, y - 13.2, mark, size=2.5, tone=Tone.QUIET, ref=device, layer=Layer.NOTE)
        tag = fit_text(plan.tags[device], 36.0, 3.0, is_bold=True)
        pen.text(x, y - 27.0, tag, size=3.0, bold=True, anchor=Anchor.MIDDLE, ref=device, layer=Layer.TAG)
        title = plan.circuit.device(device).title or plan.parts[device].title
        for k, line in enumerate(wrap_text(title, COLUMN_WIDTH - 3.0, 2.5, 2)):
            pen.text(
                x,
                y - 31.0 - 3.5 * k,
                line,
                size=2.5,
                anchor=Anchor.MIDDLE,
                tone=Tone.QUIET,
                ref=device,
                layer=Layer.NOTE,
            )
