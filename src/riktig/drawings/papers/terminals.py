"""Owns the terminal sheets: each strip from its first terminal to its last, what lands inside and outside, bridges and cables."""

from itertools import groupby

from riktig.drawings.display import Anchor, Layer, Pen, Tone
from riktig.drawings.frame import LEFT
from riktig.drawings.papers.paper import BOTTOM, TOP, Sheet, draw_heading
from riktig.drawings.text_width import fit_text, text_width
from riktig.plan.net.runs import run_words
from riktig.plan.net.strips import SPARE, Clamp, purpose_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor

_ROW = 8.0
_PER_TABLE = int((TOP - BOTTOM - 8.0) // _ROW)
_FEW = 14
"""So few terminals stand in one row."""
_WIDTH = 190.0
_INSIDE, _STRIP, _LABEL, _NUMBER, _OUTSIDE, _CABLE = 0.0, 54.0, 61.0, 72.0, 96.0, 140.0
_SIZE = 3.0


def draw_terminals(plan: Plan) -> list[Sheet]:
    """Return the strips as they stand on the rail, two rows of terminals on a sheet."""
    pages: list[Sheet] = []
    for strip, members in ((s, list(m)) for s, m in groupby(plan.clamps, key=lambda c: c.piece)):
        per_table = min(_PER_TABLE, max(_FEW, -(-len(members) // 2)))
        for start in range(0, len(members), 2 * per_table):
            pen = Pen()
            purpose = purpose_of(members[0].strip)
            title = f"Terminal strip {strip}: {purpose}"
            draw_heading(pen, title if start == 0 else f"{title}, continued")
            for n in range(2):
                part = members[start + n * per_table : start + (n + 1) * per_table]
                if part:
                    _draw_column(pen, plan, part, LEFT + 2 + n * (_WIDTH + 6.0))
            pages.append(Sheet(title=f"Terminals {strip}, {purpose}", chapter="Terminals", pen=pen))
    return pages


def _draw_column(pen: Pen, plan: Plan, members: list[Clamp], x: float) -> None:
    for at, heading in (
        (_INSIDE, "Inside"),
        (_LABEL, "No."),
        (_NUMBER, "Wire"),
        (_OUTSIDE, "Outside"),
        (_CABLE, "Cable"),
    ):
        pen.text(x + at + 1.2, TOP - 4.0, heading, size=_SIZE, tone=Tone.QUIET, layer=Layer.NOTE)
    top = TOP - 5.6
    pen.line((x, top), (x + _WIDTH, top), width=0.4)
    middles: dict[str, float] = {}
    for n, clamp in enumerate(members):
        y = top - _ROW * (n + 1)
        middles[clamp.id] = y + _ROW / 2
        _draw_clamp(pen, plan, clamp, x, y)
    for run in plan.bridges:
        there = [middles[c] for c in run if c in middles]
        for upper, lower in zip(there, there[1:], strict=False):
            pen.line((x + _STRIP + 4.0, upper), (x + _STRIP + 4.0, lower), width=0.5, layer=Layer.WIRE)
        for y in there:
            pen.circle(x + _STRIP + 4.0, y, 0.8, fill=Tone.INK, layer=Layer.WIRE)


def _draw_clamp(pen: Pen, plan: Plan, clamp: Clamp, x: float, y: float) -> None:
    base = y + 2.6
    fill = Tone.STEEL if clamp.is_earth else Tone.NONE
    pen.rect(x + _STRIP, y + 0.4, _OUTSIDE - _STRIP, _ROW - 0.8, width=0.3, fill=fill, ref=clamp.id)
    pen.text(x + _LABEL + 1.2, base, clamp.label, size=_SIZE, bold=True, ref=clamp.id, layer=Layer.TERMINAL)
    ref = f"net:{clamp.number}" if clamp.number else None
    number = "spare" if clamp.is_spare else clamp.number
    if text_width(number, _SIZE) > _OUTSIDE - _NUMBER - 2:
        number = number.removeprefix(plan.job.practice.number_prefix)
    pen.text(
        x + _NUMBER + 1.2, base, fit_text(number, _OUTSIDE - _NUMBER - 2, _SIZE), size=_SIZE, ref=ref,
        tone=Tone.QUIET if clamp.is_spare else Tone.DONE, layer=Layer.NUMBER,
    )  # fmt: skip
    inside, outside = plan.wires_at(clamp.id)
    words = _far_ends(plan, clamp, inside)
    pen.text(
        x + _STRIP - 1.5, base, fit_text(words, _STRIP - 3, _SIZE), size=_SIZE, anchor=Anchor.RIGHT, layer=Layer.NOTE,
        ref=clamp.id, link=_link(plan, clamp, inside),
    )  # fmt: skip
    words = _far_ends(plan, clamp, outside)
    pen.text(
        x + _OUTSIDE + 1.5, base, fit_text(words, _CABLE - _OUTSIDE - 2.5, _SIZE), size=_SIZE, layer=Layer.NOTE,
        ref=clamp.id, link=_link(plan, clamp, outside),
    )  # fmt: skip
    cable = next((c.location for c in outside), "")
    name = f"{cable}  {run_words(clamp.drop)}" if cable else ("" if clamp.drop == SPARE else run_words(clamp.drop))
    pen.text(
        x + _CABLE + 1.2,
        base,
        fit_text(name, _WIDTH - _CABLE - 2, _SIZE),
        size=_SIZE,
        tone=Tone.QUIET,
        layer=Layer.NOTE,
    )
    pen.line((x, y), (x + _STRIP, y), width=0.13, tone=Tone.FAINT)
    pen.line((x + _OUTSIDE, y), (x + _WIDTH, y), width=0.13, tone=Tone.FAINT)


def _far_ends(plan: Plan, clamp: Clamp, conductors: tuple[Conductor, ...]) -> str:
    ends = [c.b if c.a == clamp.id else c.a for c in conductors]
    return "  ".join(plan.terminal_label(end) for end in ends)


def _link(plan: Plan, clamp: Clamp, conductors: tuple[Conductor, ...]) -> str | None:
    """Return where a click on what lands leads: to the first device there that is drawn in the circuit."""
    ends = (c.b if c.a == clamp.id else c.a for c in conductors)
    devices = (end.rpartition(":")[0] for end in ends)
    return next((f"device:{device}" for device in devices if device in plan.sheet_places), None)
