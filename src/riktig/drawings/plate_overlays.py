"""Owns what is laid over the drawing of the plate: wires, fill of ducts, losses, clearances, reach, and a part in the hand."""

from collections.abc import Callable, Sequence
from enum import StrEnum

from riktig.drawings.display import Anchor, Item, Pen, Point, Tone, wire_tone
from riktig.drawings.plate import geometry_of, plate_origin, way_on_plate
from riktig.plan.changes.plate import Move
from riktig.plan.place.faults import FaultKind, find_faults
from riktig.plan.place.items import PlateItem
from riktig.plan.place.layout import Box, PlateLayout
from riktig.plan.plan import Plan
from riktig.plan.wiring.duct_fill import FILL_LIMIT

_HALF_FULL = 0.66 * FILL_LIMIT
_SPREAD = 7
"""So many places side by side in a duct are used to show wires that lie in it."""


class Overlay(StrEnum):
    """What can be laid over the plate."""

    NOTHING = "nothing"
    WIRES = "wires"
    FILL = "fill"
    LOSSES = "losses"
    CLEARANCES = "clearances"
    REACH = "reach"


def draw_overlay(plan: Plan, sort: Overlay) -> tuple[Item, ...]:
    """Return an overlay in the mm of `draw_plate`."""
    makers: dict[Overlay, Callable[[Plan], tuple[Item, ...]]] = {
        Overlay.NOTHING: lambda plan: (),
        Overlay.WIRES: draw_wires,
        Overlay.FILL: draw_fill,
        Overlay.LOSSES: draw_losses,
        Overlay.CLEARANCES: draw_clearances,
        Overlay.REACH: draw_reach,
    }
    return makers[sort](plan)


def draw_wires(plan: Plan) -> tuple[Item, ...]:
    """Return every wire on its way through the ducts, in its own colour, those of one potential as one thing."""
    pen = Pen()
    geometry = geometry_of(plan)
    for place, conductor in enumerate(plan.conductors):
        if conductor.kind != "wire" or not conductor.legs:
            continue
        aside = (place % _SPREAD - _SPREAD // 2) * 4.0
        width = 0.9 if conductor.size.mm2 < 4 else 1.6 if conductor.size.mm2 < 16 else 2.6
        points = way_on_plate(plan, conductor, geometry)
        inner = [(x + aside, y + aside) for x, y in points[1:-1]]
        pen.line(
            points[0], (points[0][0], inner[0][1]) if inner else points[0], *inner,
            (points[-1][0], inner[-1][1]) if inner else points[-1], points[-1],
            width=width, tone=wire_tone(conductor.colour), ref=f"net:{conductor.number}",
        )  # fmt: skip
    return tuple(pen.items)


def _tone_of(share: float) -> Tone:
    return Tone.DANGER if share > FILL_LIMIT else Tone.ATTENTION if share > _HALF_FULL else Tone.DONE


def draw_fill(plan: Plan) -> tuple[Item, ...]:
    """Return how full each duct is at its fullest place: a bar across it as wide as it is full, and the figure in words."""
    pen = Pen()
    ox, oy = plate_origin(plan)
    fills = plan.fill_percent
    for duct in plan.plate.ducts:
        percent = fills[duct.code]
        share = min(1.0, percent / 100)
        b = duct.box
        tone = _tone_of(percent / 100)
        if duct.is_vertical:
            pen.rect(ox + b.x, oy + b.y, b.w * share, b.h, fill=tone, tone=Tone.NONE, width=0, ref=duct.code)
        else:
            pen.rect(ox + b.x, oy + b.y, b.w, b.h * share, fill=tone, tone=Tone.NONE, width=0, ref=duct.code)
        words = f"{duct.code}  {percent:.0f} %" + (" too full" if percent / 100 > FILL_LIMIT else "")
        size = 15.0
        wide = 0.95 * size * len(words)
        x, y = ox + b.centre[0], oy + b.centre[1]
        if duct.is_vertical:
            pen.rect(
                x - size, y - wide / 2, 2 * size, wide, fill=Tone.PAPER, tone=tone, width=0.8, radius=3, ref=duct.code
            )
            pen.text(x + size / 2, y, words, size=size, anchor=Anchor.MIDDLE, upright=True, bold=True, ref=duct.code)
        else:
            pen.rect(
                x - wide / 2, y - size, wide, 2 * size, fill=Tone.PAPER, tone=tone, width=0.8, radius=3, ref=duct.code
            )
            pen.text(x, y - size / 2, words, size=size, anchor=Anchor.MIDDLE, bold=True, ref=duct.code)
    return tuple(pen.items)


def draw_losses(plan: Plan) -> tuple[Item, ...]:
    """Return what each part loses in W, as a disc whose area is in proportion, the figure in it."""
    pen = Pen()
    ox, oy = plate_origin(plan)
    lost = {name: plan.parts[name].losses_w for name in plan.plate.boxes if name in plan.parts}
    for name, watts in sorted(lost.items(), key=lambda entry: -entry[1]):
        if watts < 0.5:
            continue
        box = plan.plate.boxes[name]
        r = max(9.0, 5.2 * watts**0.5)
        x, y = box.centre[0], box.top - min(r, box.h / 2)
        tone = Tone.DANGER if watts >= 40 else Tone.ATTENTION if watts >= 8 else Tone.STEEL
        pen.circle(ox + x, oy + y, r, fill=tone, tone=Tone.INK, width=0.5, ref=name)
        ink = Tone.PAPER if tone in {Tone.DANGER, Tone.ATTENTION} else Tone.INK
        size = min(12.0, r * 0.62)
        pen.text(ox + x, oy + y - size / 2, f"{watts:.0f}" if watts >= 1 else f"{watts:.1f}", size=size, anchor=Anchor.MIDDLE,
                 tone=ink, bold=True, ref=name)  # fmt: skip
    return tuple(pen.items)


def draw_clearances(plan: Plan) -> tuple[Item, ...]:
    """Return the free room that each part asks for above and below; where it lacks some, in red with the mm that are missing."""
    pen = Pen()
    ox, oy = plate_origin(plan)
    plate = plan.plate
    for item in plate.items.values():
        for low, high in _rooms(item, plate.boxes[item.id]):
            tone = Tone.ATTENTION if item.clearance > 0 else Tone.QUIET
            b = plate.boxes[item.id]
            pen.rect(ox + b.x, oy + low, b.w, high - low, tone=tone, width=0.8, ref=item.id)
            pen.line((ox + b.x, oy + low), (ox + b.right, oy + high), width=0.3, tone=tone, ref=item.id)
            if item.clearance > 0:
                pen.text(ox + b.centre[0], oy + (low + high) / 2 - 5, f"{item.clearance:g}", size=10, anchor=Anchor.MIDDLE,
                         tone=Tone.INK, bold=True, ref=item.id)  # fmt: skip
    boxes = {**plate.boxes, **{r.code: r.box for r in plate.rails}, **{d.code: d.box for d in plate.ducts}}
    faults = find_faults(plate)
    outside = max((f for f in faults if f.kind is FaultKind.OUTSIDE), key=lambda f: f.missing, default=None)
    for fault in faults:
        says = fault.kind is not FaultKind.OUTSIDE or fault is outside
        _draw_fault(pen, boxes[fault.item], (ox, oy), f"{fault.missing:.0f} mm missing" if says else "", fault.item)
    return tuple(pen.items)


def _rooms(item: PlateItem, box: Box) -> tuple[tuple[float, float], ...]:
    low = box.y - (item.down - item.height / 2)
    return (box.top, box.top + item.room), (low - item.room, low)


def _draw_fault(pen: Pen, box: Box, at: Point, words: str, ref: str) -> None:
    pen.rect(at[0] + box.x, at[1] + box.y, box.w, box.h, tone=Tone.DANGER, width=2.4, ref=ref)
    pen.text(
        at[0] + box.centre[0],
        at[1] + box.top + 6,
        words,
        size=12,
        anchor=Anchor.MIDDLE,
        tone=Tone.DANGER,
        bold=True,
        ref=ref,
    )


def draw_reach(plan: Plan) -> tuple[Item, ...]:
    """Return the way of each terminal in use to the duct that its wires go into; a long one in amber, one around something in red."""
    pen = Pen()
    ox, oy = plate_origin(plan)
    geometry = geometry_of(plan)
    ends = dict.fromkeys(t for c in plan.conductors if c.kind == "wire" and c.legs for t in (c.a, c.b))
    ducts = {duct.code: duct for duct in plan.plate.ducts}
    for terminal in ends:
        item = terminal.rpartition(":")[0]
        if item not in plan.plate.boxes:
            continue
        access = geometry.access(terminal)
        duct = ducts.get(access.duct)
        if duct is None:
            continue
        to = (duct.level, access.at) if duct.is_vertical else (access.at, duct.level)
        is_around = duct.is_vertical or (to[1] > access.y) is not (access.y > plan.plate.boxes[item].centre[1])
        tone = Tone.DANGER if is_around else Tone.ATTENTION if access.tail > LONG_REACH_MM else Tone.DONE
        pen.line(
            (ox + access.x, oy + access.y), (ox + to[0], oy + to[1]), width=1.0, tone=tone, dashed=is_around, ref=item
        )
    return tuple(pen.items)


LONG_REACH_MM = 150.0
"""A tail between duct and terminal that is longer than this hangs loose (common practice, no source)."""


def draw_hand(plan: Plan, moves: Sequence[Move], names: Callable[[str], str]) -> tuple[Item, ...]:
    """Return things in the hand at the places where they would go: green and ticked where that is legal, red with what is missing."""
    pen = Pen()
    at = plate_origin(plan)
    for move in moves:
        b = move.box
        tone = Tone.DONE if move.is_legal else Tone.DANGER
        pen.rect(at[0] + b.x, at[1] + b.y, b.w, b.h, tone=tone, width=3.0, radius=1.5)
        pen.text(at[0] + b.centre[0], at[1] + b.centre[1] - 6, f"{names(move.key)} {'✓' if move.is_legal else '✗'}", size=12,
                 anchor=Anchor.MIDDLE, bold=True, tone=tone)  # fmt: skip
        for fault in move.faults[:1]:
            other = _box_of(move.layout, fault.other if fault.item == move.key else fault.item)
            if other is not None:
                pen.rect(at[0] + other.x, at[1] + other.y, other.w, other.h, tone=Tone.DANGER, width=1.6)
    return tuple(pen.items)


def _box_of(layout: PlateLayout, name: str) -> Box | None:
    rail, duct = layout.rail(name), layout.duct(name)
    return layout.boxes.get(name) or (rail.box if rail is not None else duct.box if duct is not None else None)
