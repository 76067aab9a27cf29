"""Owns the picture of a fault to earth at the far end of a cable: the loop with its ohms, what flows, and when its device has opened.
Must not compute any of it.
"""

from math import log10

from riktig.drawings.display import Anchor, Drawing, Pen, Tone
from riktig.drawings.size_charts import MARGIN, WIDTH
from riktig.plan.answers.opening import opens_by
from riktig.plan.plan import Plan
from riktig.plan.sizes.loops import Loop
from riktig.standards import iec_60228, iec_60364_4
from riktig.units.numbers import format_number

_BOX_W, _BOX_H, _ROW = 26.0, 11.0, 34.0
_CURVE_H = 62.0
_LEFT, _LOW, _RIGHT, _TOP = 18.0, 12.0, WIDTH - MARGIN, 58.0
"""The field of the curve in mm."""
_LEAST_S, _MOST_S = 0.01, 10_000.0


def draw_loop(plan: Plan, loop: Loop) -> Drawing:
    """Return the loop of a fault to earth with its ohms, and how much flows against what opens its device in time."""
    pen = Pen()
    height = (118.0 if loop.asks or loop.residual_a is not None else 104.0) + _CURVE_H
    load, device = plan.tags[loop.load], plan.tags[loop.device]
    pen.text(MARGIN, height - 8, f"A fault to earth at {load}", size=3.8, bold=True)
    verdict = "opens" if loop.is_cleared else "does not surely open"
    pen.text(
        MARGIN,
        height - 14,
        f"{device} {verdict} within {loop.time_s:g} s",
        size=3,
        tone=Tone.INK if loop.is_cleared else Tone.DANGER,
    )
    cable = iec_60228.resistance_ohm_per_m(loop.size.mm2, iec_60228.HOT_C) * loop.metres
    volts = float(loop.value.inputs["volts"])
    source = iec_60364_4.LEAST_VOLTS * volts / loop.fault_a - 2 * cable
    top, low = height - 30.0, height - 30.0 - _ROW
    left, right = MARGIN + _BOX_W / 2, WIDTH - MARGIN - _BOX_W / 2
    middle = (left + right) / 2
    pen.line((left, top), (right, top), width=0.7)
    pen.line((right, top), (right, low), width=0.7, tone=Tone.DANGER)
    pen.line((right, low), (left, low), (left, top), width=0.7, tone=Tone.DONE, dashed=True)
    for x, y, words, below, ref in (
        (left, top - _ROW / 2, "source", f"{format_number(volts)} V · {format_number(source, 2)} Ω", None),
        (left + 24, top, device, "", loop.device),
        (right, top - _ROW / 2, load, "", loop.load),
    ):
        pen.rect(x - _BOX_W / 2, y - _BOX_H / 2, _BOX_W, _BOX_H, fill=Tone.PART, width=0.4, radius=1.2, ref=ref)
        pen.text(x, y - 1.1 if not below else y + 0.6, words, size=3, bold=True, anchor=Anchor.MIDDLE, ref=ref)
        pen.text(x, y - 3.6, below, size=2.2, anchor=Anchor.MIDDLE, tone=Tone.QUIET)
    line = f"line {loop.metres:g} m of {loop.size.label()}, {format_number(cable, 2)} Ω hot"
    pen.text(right + _BOX_W / 2, top + 2.4, line, size=2.5, anchor=Anchor.RIGHT)
    pen.text(
        middle,
        low - 4.2,
        f"back over earth, {format_number(cable, 2)} Ω hot",
        size=2.5,
        anchor=Anchor.MIDDLE,
        tone=Tone.DONE,
    )
    _draw_currents(pen, loop, low - 16)
    _draw_curve(pen, plan, loop)
    return Drawing(name="loop", title=f"Loop of {load}", width=WIDTH, height=height, items=tuple(pen.items))


def _draw_currents(pen: Pen, loop: Loop, top: float) -> None:
    """Draw what flows and what opens the device in time as bars of one scale."""
    most = max(loop.fault_a, loop.trips_a, loop.best_a)
    room = WIDTH - 2 * MARGIN - 58
    rows = [("flows", loop.fault_a, Tone.DONE if loop.fault_a >= loop.trips_a else Tone.DANGER)]
    if loop.asks:
        rows.append(("flows at best", loop.best_a, Tone.STEEL))
    rows.append((f"opens it in {loop.time_s:g} s", loop.trips_a, Tone.ATTENTION))
    for n, (words, amps, tone) in enumerate(rows):
        y = top - 8.0 * n
        pen.text(MARGIN, y + 1.4, words, size=2.8)
        pen.rect(MARGIN + 34, y, max(room * amps / most, 0.6), 5.0, fill=tone, tone=Tone.INK, width=0.2)
        pen.text(MARGIN + 36 + room * amps / most, y + 1.4, f"{format_number(amps)} A", size=2.8, bold=True)
    if loop.residual_a is not None:
        pen.text(
            MARGIN,
            top - 8.0 * len(rows),
            f"a residual-current device of {1000 * loop.residual_a:g} mA opens it at any length",
            size=2.8,
        )
    elif loop.asks:
        hints = (
            "At best as much flows to earth at the panel as between lines:",
            f"{loop.asks}, as measured there, settles it.",
        )
        for n, text in enumerate(hints):
            pen.text(MARGIN, top - 8.0 * len(rows) - 4.0 * n, text, size=2.4, tone=Tone.QUIET)


def _draw_curve(pen: Pen, plan: Plan, loop: Loop) -> None:
    """Draw by when the device has opened over the current, both on logarithmic paper, with what flows and the time that is allowed."""
    points = opens_by(plan.parts[loop.device])
    least, most = 0.6 * min(points[0][0], loop.fault_a), 1.8 * max(points[-1][0], loop.fault_a)

    def x_of(amps: float) -> float:
        return _LEFT + (_RIGHT - _LEFT) * log10(amps / least) / log10(most / least)

    def y_of(seconds: float) -> float:
        return _LOW + (_TOP - _LOW) * log10(seconds / _LEAST_S) / log10(_MOST_S / _LEAST_S)

    pen.rect(_LEFT, _LOW, _RIGHT - _LEFT, _TOP - _LOW, fill=Tone.PART, tone=Tone.QUIET, width=0.2)
    for seconds in (0.01, 0.1, 1.0, 10.0, 100.0, 1000.0):
        pen.line((_LEFT, y_of(seconds)), (_RIGHT, y_of(seconds)), width=0.1, tone=Tone.QUIET)
        pen.text(_LEFT - 1.5, y_of(seconds) - 0.8, f"{seconds:g} s", size=2.4, anchor=Anchor.RIGHT, tone=Tone.QUIET)
    marked = 10.0 ** int(log10(least))
    while marked < most:
        for amps in (marked, 2 * marked, 5 * marked):
            if least < amps < most:
                pen.line((x_of(amps), _LOW), (x_of(amps), _TOP), width=0.1, tone=Tone.QUIET)
                pen.text(x_of(amps), _LOW - 3.4, f"{amps:g} A", size=2.4, anchor=Anchor.MIDDLE, tone=Tone.QUIET)
        marked *= 10
    way = [(x_of(amps), y_of(seconds)) for amps, seconds in points]
    pen.line(*way, (_RIGHT, way[-1][1]), width=0.8, tone=Tone.ATTENTION)
    pen.line((_LEFT, y_of(loop.time_s)), (_RIGHT, y_of(loop.time_s)), width=0.4, tone=Tone.INK, dashed=True)
    pen.text(_LEFT + 1.5, y_of(loop.time_s) + 1.3, f"{loop.time_s:g} s are allowed", size=2.4)
    tone = Tone.DONE if loop.is_cleared else Tone.DANGER
    at = x_of(loop.fault_a)
    pen.line((at, _LOW), (at, _TOP), width=0.6, tone=tone)
    is_right = at > (_LEFT + _RIGHT) / 2
    words = f"{format_number(loop.fault_a)} A flow"
    pen.text(
        at - 1.2 if is_right else at + 1.2,
        _TOP - 3.6,
        words,
        size=2.6,
        bold=True,
        anchor=Anchor.RIGHT if is_right else Anchor.LEFT,
        tone=tone,
    )
    title = f"By when {plan.tags[loop.device]} has opened at the latest"
    pen.text(MARGIN, _TOP + 1.6, title, size=2.8)
