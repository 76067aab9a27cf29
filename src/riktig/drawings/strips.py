"""Owns the drawing of the terminal strips as they stand on the rail, with what lands inside and outside. Must not order them."""

from itertools import groupby

from riktig.drawings.display import Anchor, Drawing, Pen, Tone, wire_tone
from riktig.plan.net.runs import run_words
from riktig.plan.net.strips import SPARE, Clamp, purpose_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.cables import cable_ref
from riktig.plan.wiring.conductors import Conductor

CELL, IN_ROW = 11.0, 20
_MARGIN, _HEAD, _BODY, _SIDE, _FOOT = 8.0, 9.0, 17.0, 25.0, 9.0
_ROW = _HEAD + _BODY + 2 * _SIDE + _FOOT
WIDTH = 2 * _MARGIN + CELL * IN_ROW
_STOP = 3.6


def draw_strips(plan: Plan) -> Drawing:
    """Return all strips, twenty terminals in a row, in mm; terminals are wider than they are so that markers can be read."""
    rows = [
        (strip, members[at : at + IN_ROW], at, len(members))
        for strip, members in ((s, list(m)) for s, m in groupby(plan.clamps, key=lambda c: c.piece))
        for at in range(0, len(members), IN_ROW)
    ]
    height = 2 * _MARGIN + max(len(rows), 1) * _ROW
    pen = Pen()
    pen.rect(0, 0, WIDTH, height, fill=Tone.PAPER, tone=Tone.NONE)
    if not rows:
        pen.text(_MARGIN, height - 20, "No conductor leaves the panel yet: no strip is needed.", size=4)
    for place, (strip, members, at, count) in enumerate(rows):
        is_first = at == 0
        top = height - _MARGIN - place * _ROW
        if is_first:
            width = plan.plate.boxes[strip].w if strip in plan.plate.boxes else 0.0
            spare = sum(c.piece == strip and c.is_spare for c in plan.clamps)
            words = (
                f"{purpose_of(members[0].strip)}: {count} terminals, {spare} of them spare, {width:.0f} mm on the rail"
            )
            pen.text(_MARGIN, top - 6, strip, size=4.4, bold=True, ref=strip)
            pen.text(_MARGIN + 12, top - 6, words, size=3.2, tone=Tone.QUIET, ref=strip)
        else:
            pen.text(_MARGIN, top - 6, f"{strip}, continued", size=3.2, tone=Tone.QUIET, ref=strip)
        _draw_row(pen, plan, members, top - _HEAD)
        _draw_end_parts(pen, len(members), top - _HEAD, is_first=is_first, is_last=at + len(members) == count)
    return Drawing(name="strips", title="Terminal strips", width=WIDTH, height=height, items=tuple(pen.items))


def _draw_row(pen: Pen, plan: Plan, members: list[Clamp], top: float) -> None:
    """Draw terminals side by side: the inside away from the cable entry, the outside towards it, cables named below."""
    is_entry_below = plan.job.supply.entry == "bottom"
    body = top - _SIDE - _BODY
    rail = body + _BODY / 2 - 2.2
    pen.rect(_MARGIN - 3, rail, len(members) * CELL + 6, 4.4, fill=Tone.STEEL, tone=Tone.QUIET, width=0.2)
    for place, clamp in enumerate(members):
        x = _MARGIN + place * CELL
        fill = wire_tone("green-yellow") if clamp.is_earth else Tone.PAPER if clamp.is_spare else Tone.PART
        pen.rect(x + 0.5, body, CELL - 1, _BODY, fill=fill, width=0.35, radius=1, ref=clamp.id)
        if clamp.is_earth:
            pen.rect(x + 1.4, body + 4.4, CELL - 2.8, 8.6, fill=Tone.PAPER, tone=Tone.NONE, ref=clamp.id)
        pen.text(x + CELL / 2, body + 9.0, clamp.label, size=3.4, bold=True, anchor=Anchor.MIDDLE, ref=clamp.id)
        pen.text(
            x + CELL / 2,
            body + 5.0,
            clamp.number or "spare",
            size=2.4 if len(clamp.number) < 6 else 1.9,
            anchor=Anchor.MIDDLE,
            tone=Tone.QUIET if clamp.is_spare else Tone.INK,
            ref=clamp.id,
        )
        for is_outside, wires in enumerate(plan.wires_at(clamp.id)):
            _draw_side(pen, plan, clamp, wires, x, body, is_below=bool(is_outside) is is_entry_below)
    at: dict[str, float] = {clamp.id: _MARGIN + (place + 0.5) * CELL for place, clamp in enumerate(members)}
    for run in plan.bridges:
        shown = [at[terminal] for terminal in run if terminal in at]
        if shown:
            pen.line((shown[0], body + 2.4), (shown[-1], body + 2.4), width=1.4, tone=Tone.ATTENTION)
            for x in shown:
                pen.circle(x, body + 2.4, 1.2, fill=Tone.ATTENTION, tone=Tone.INK, width=0.2)
    cables = {cable.drop: cable.name for cable in plan.cables}
    for drop, group in groupby(enumerate(members), key=lambda pair: pair[1].drop):
        places = [place for place, _ in group]
        if drop == SPARE:
            continue
        ref = cable_ref(cables[drop]) if drop in cables else ""
        y = body - _SIDE - 3.0 if is_entry_below else top + 1.5
        left, right = _MARGIN + places[0] * CELL + 1, _MARGIN + (places[-1] + 1) * CELL - 1
        pen.line((left, y + 2.4), (left, y), (right, y), (right, y + 2.4), width=0.3, tone=Tone.QUIET, ref=ref)
        words = cables.get(drop, drop) if len(places) == 1 else f"{cables.get(drop, '')} {run_words(drop)}".strip()
        pen.text((left + right) / 2, y - 3.4, words, size=2.5, anchor=Anchor.MIDDLE, tone=Tone.QUIET, ref=ref)


def _draw_end_parts(pen: Pen, count: int, top: float, *, is_first: bool, is_last: bool) -> None:
    """Draw the end stop on each side of a strip, and the end plate on the open side of its last terminal."""
    body = top - _SIDE - _BODY
    if is_first:
        pen.rect(_MARGIN - _STOP - 0.4, body + 2, _STOP, _BODY - 4, fill=Tone.STEEL, tone=Tone.QUIET, width=0.25)
    if is_last:
        right = _MARGIN + count * CELL
        pen.rect(right, body, 0.9, _BODY, fill=Tone.QUIET, tone=Tone.QUIET, width=0.2)
        pen.rect(right + 1.3, body + 2, _STOP, _BODY - 4, fill=Tone.STEEL, tone=Tone.QUIET, width=0.25)


def _draw_side(
    pen: Pen, plan: Plan, clamp: Clamp, wires: tuple[Conductor, ...], x: float, body: float, *, is_below: bool
) -> None:
    """Draw the conductors on one side as short coloured strokes with where they lead."""
    for n, wire in enumerate(wires[:2]):
        at = x + CELL / 2 + (n - (min(len(wires), 2) - 1) / 2) * 4.6
        near = body - 0.2 if is_below else body + _BODY + 0.2
        far = near - 5 if is_below else near + 5
        pen.line((at, near), (at, far), width=1.0, tone=wire_tone(wire.colour), ref=f"wire:{wire.id}")
        other = plan.terminal_label(wire.b if wire.a == clamp.id else wire.a)
        anchor = Anchor.RIGHT if is_below else Anchor.LEFT
        pen.text(
            at + 0.9,
            far - 1 if is_below else far + 1,
            other,
            size=2.2,
            anchor=anchor,
            upright=True,
            ref=f"wire:{wire.id}",
        )
    if len(wires) > 2:
        y = body - 4 if is_below else body + _BODY + 4
        pen.text(x + CELL - 0.6, y, f"+{len(wires) - 2}", size=2.2, anchor=Anchor.RIGHT, tone=Tone.ATTENTION)
