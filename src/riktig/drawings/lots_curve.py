"""Owns the chart of what parting wires into lots comes to: wire wasted, set-ups and money over the batching. Must not compute any of it."""

from collections.abc import Callable, Sequence

from riktig.drawings.display import Anchor, Drawing, Pen, Tone
from riktig.plan.making.lots import EVEN, Outcome
from riktig.units.numbers import format_number

WIDTH, HEIGHT = 100.0, 128.0
_LEFT, _RIGHT = 4.0, 96.0
_ROW_H, _GAP = 26.0, 10.0


def draw_curve(found: Sequence[Outcome], now: Outcome, money: str) -> Drawing:
    """Return the chart: three rows over one axis, from each wire by itself to one length for a bundle, with where the panel stands marked.

    Args:
        found: what each batching comes to.
        now: what the panel comes to as it is, with the lots that are held.
        money: what the shop calls it, "" for nothing.
    """
    pen = Pen()
    pen.rect(0, 0, WIDTH, HEIGHT, fill=Tone.PAPER, tone=Tone.NONE)
    unit = f" {money}" if money else ""
    rows: tuple[tuple[str, Callable[[Outcome], float], str, Tone], ...] = (
        ("wire wasted", lambda one: one.wasted_m, " m", Tone.ATTENTION),
        ("set-ups", lambda one: float(one.set_ups), "", Tone.INK),
        ("both, in money", lambda one: one.money, unit, Tone.DONE),
    )
    low = 12.0
    for n, (words, value, its, tone) in enumerate(rows):
        bottom = low + (len(rows) - 1 - n) * (_ROW_H + _GAP)
        _draw_row(pen, found, now, value, bottom, f"{words}: {format_number(value(now))}{its}", tone)
    for at, words, anchor in (
        (0.0, "own lengths", Anchor.LEFT),
        (EVEN, "costs least", Anchor.MIDDLE),
        (100.0, "one a bundle", Anchor.RIGHT),
    ):
        pen.text(_x(at), low - 6.0, words, size=2.8, anchor=anchor, tone=Tone.QUIET)
    return Drawing(name="lots-curve", title="What lots come to", width=WIDTH, height=HEIGHT, items=tuple(pen.items))


def _x(batching: float) -> float:
    return _LEFT + (_RIGHT - _LEFT) * batching / 100.0


def _draw_row(
    pen: Pen,
    found: Sequence[Outcome],
    now: Outcome,
    value: Callable[[Outcome], float],
    low: float,
    words: str,
    tone: Tone,
) -> None:
    most = max(max(map(value, found)), value(now), 1e-9)
    pen.rect(_LEFT, low, _RIGHT - _LEFT, _ROW_H, fill=Tone.PART, tone=Tone.QUIET, width=0.15)
    pen.line((_x(EVEN), low), (_x(EVEN), low + _ROW_H), width=0.15, tone=Tone.QUIET, dashed=True)
    points = tuple((_x(one.batching), low + _ROW_H * value(one) / most * 0.94) for one in found)
    pen.line(*points, width=0.7, tone=tone)
    pen.circle(_x(now.batching), low + _ROW_H * value(now) / most * 0.94, 1.4, fill=tone, tone=Tone.INK, width=0.3)
    pen.text(_LEFT, low + _ROW_H + 1.6, words, size=3.0, bold=True)
    pen.text(_RIGHT, low + _ROW_H + 1.6, f"up to {format_number(most)}", size=2.5, anchor=Anchor.RIGHT, tone=Tone.QUIET)
