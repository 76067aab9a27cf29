"""Owns the drawing of the door's face with its cut-outs, and of operator stations. Must not know how they were laid out."""

from collections.abc import Callable

from riktig.drawings.display import Anchor, Drawing, Item, Layer, Pen, Point, Tone
from riktig.drawings.text_width import text_width
from riktig.plan.changes.door import HoleMove
from riktig.plan.circuit.model import DOOR, DOOR_STUD
from riktig.plan.place.depth import block_places
from riktig.plan.place.door import Cutout
from riktig.plan.place.layout import Box
from riktig.plan.plan import Plan
from riktig.plan.wiring.stations import Station
from riktig.standards.iec_60947_5_1 import hole_for

MARGIN = 20.0
DOOR_CORNER = (70.0, 50.0)
"""Where the lower left corner of the door lies in the drawing of `draw_door`."""
STATION_CORNER = (60.0, 70.0)
"""Where that of the lid lies in the drawing of `draw_station`."""
_COLOURS = {
    "red": Tone.RED,
    "green": Tone.DONE,
    "amber": Tone.ATTENTION,
    "blue": Tone.BLUE,
    "white": Tone.PAPER,
    "black": Tone.INK,
}


def draw_door(plan: Plan) -> Drawing:
    """Return the door from the front with cut-outs, centre lines and coordinates, 1 mm of drawing for 1 mm of door."""
    pen = Pen()
    left, low = DOOR_CORNER
    width, height = left + plan.door.width + MARGIN, low + plan.door.height + 40
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    pen.rect(left, low, plan.door.width, plan.door.height, fill=Tone.STEEL, width=0.8, radius=4, ref=DOOR)
    title = f"Door {plan.door.width:g} × {plan.door.height:g} mm, from the front"
    pen.text(left, height - 22, title, size=12, bold=True)
    pen.text(left, 8, "mm from the lower left corner of the door", size=9, tone=Tone.QUIET)
    _draw_centre_lines(pen, plan, (left, low))
    draw_door_face(pen, plan, (left, low))
    return Drawing(name="door", title=title, width=width, height=height, items=tuple(pen.items))


def cutout_area(plan: Plan) -> tuple[float, float, float, float]:
    """Return the part of the drawing of `draw_door` that has cut-outs, the earth stud's aside, its left edge included: x, y, width and
    height in mm.
    """
    boxes = [c.box for c in plan.door.cutouts if c.device != DOOR_STUD]
    if not boxes:
        return 0.0, 0.0, plan.door.width + DOOR_CORNER[0], plan.door.height + DOOR_CORNER[1]
    low, high = min(b.y for b in boxes) - 40, max(b.top for b in boxes) + 40
    return 0.0, DOOR_CORNER[1] + low, DOOR_CORNER[0] + max(b.right for b in boxes) + 40, high - low


def _draw_centre_lines(pen: Pen, plan: Plan, shift: Point) -> None:
    """Draw a centre line for each row and column of cut-outs, with its coordinate at the edge of the door."""
    sx, sy = shift
    cutouts = plan.door.cutouts
    for y, at in _apart({round(c.y, 1) for c in cutouts}, 11.0):
        row = [c for c in cutouts if round(c.y, 1) == y]
        end = (sx + max(c.x for c in row), sy + y)
        pen.line((sx - 6, sy + at), (sx, sy + y), end, width=0.35, tone=Tone.QUIET, dashed=True, layer=Layer.NOTE)
        pen.text(sx - 8, sy + at - 4, f"{y:g}", size=8, anchor=Anchor.RIGHT, mono=True, layer=Layer.NOTE)
    for x, at in _apart({round(c.x, 1) for c in cutouts}, 11.0):
        column = [c for c in cutouts if round(c.x, 1) == x]
        end = (sx + x, sy + max(c.y for c in column))
        pen.line((sx + at, sy - 6), (sx + x, sy), end, width=0.35, tone=Tone.QUIET, dashed=True, layer=Layer.NOTE)
        pen.text(sx + at + 4, sy - 8, f"{x:g}", size=8, anchor=Anchor.RIGHT, mono=True, upright=True, layer=Layer.NOTE)


def _apart(values: set[float], gap: float) -> list[tuple[float, float]]:
    """Return values, each with a place near it where its text stands clear of the one before."""
    found: list[tuple[float, float]] = []
    for value in sorted(values):
        found.append((value, max(value, found[-1][1] + gap) if found else value))
    return found


def draw_door_face(pen: Pen, plan: Plan, shift: Point) -> None:
    """Draw hinges and cut-outs with their legends."""
    sx, sy = shift
    door = plan.door
    is_left = plan.job.enclosure.hinge == "left"
    for share in (0.12, 0.88):
        pen.rect(
            sx - 5 if is_left else sx + door.width,
            sy + door.height * share - 25,
            5,
            50,
            fill=Tone.QUIET,
            tone=Tone.QUIET,
        )
    loom = sx if is_left else sx + door.width
    pen.rect(
        loom - 3 if is_left else loom - 9,
        sy + door.height / 2 - 30,
        12,
        60,
        fill=Tone.PART,
        width=0.5,
        radius=5,
        ref=DOOR,
    )
    pen.text(
        loom + (14 if is_left else -6),
        sy + door.height / 2 - 16,
        "loom",
        size=9,
        tone=Tone.QUIET,
        upright=True,
        layer=Layer.NOTE,
    )
    for owner, frame in door.frames.items():
        _draw_group(pen, plan.heading_of(owner), frame, shift, owner)
    hit = {fault.door for fault in door.meetings}
    for cutout in door.cutouts:
        draw_cutout(pen, plan, cutout, shift, is_hit=cutout.device in hit, name=plan.name_of)


def _draw_group(pen: Pen, heading: tuple[str, str], frame: Box, shift: Point, ref: str) -> None:
    """Draw a line around a group, and its name above, as large as the group has room for."""
    x, y, tag = shift[0] + frame.x, shift[1] + frame.y, heading[0]
    pen.rect(x + 2, y + 2, frame.w - 4, frame.h - 4, fill=Tone.NONE, tone=Tone.QUIET, width=0.5, radius=6, ref=ref)
    pen.text(x + 4, y + frame.h + 3, tag, size=11, bold=True, ref=ref, layer=Layer.TAG)
    beside = x + 10 + text_width(tag, 11, is_bold=True)
    lines = _wrapped(heading[1], x + frame.w - beside, 7.5)
    for k, line in enumerate(reversed(lines)):
        pen.text(beside, y + frame.h + 3 + 9.5 * k, line, size=7.5, ref=ref, layer=Layer.NOTE)


def draw_cutout(
    pen: Pen,
    plan: Plan,
    cutout: Cutout,
    shift: Point,
    *,
    is_hit: bool,
    name: Callable[[str], str],
    is_station: bool = False,
) -> None:
    """Draw a cut-out with its bezel, tag and legend; a round one of a standard size with its notch against turning."""
    x, y = shift[0] + cutout.x, shift[1] + cutout.y
    device = plan.circuit.index.get(cutout.device)
    ref = cutout.device
    edge = Tone.DANGER if is_hit else Tone.INK
    if cutout.diameter:
        hole = hole_for(cutout.diameter)
        r = cutout.diameter / 2
        pen.circle(x, y, r + 4, fill=Tone.PART, tone=edge, width=1.4 if is_hit else 0.6, ref=ref)
        pen.circle(
            x,
            y,
            r,
            fill=_COLOURS.get((device.colour or "") if device is not None else "", Tone.PAPER),
            width=0.5,
            ref=ref,
        )
        if cutout.device != "Q0" and hole is not None and hole.recess_h is not None and hole.recess_b is not None:
            notch = hole.recess_h - hole.diameter / 2
            pen.rect(
                x - hole.recess_b / 2,
                y + notch - 2.5,
                hole.recess_b,
                2.5,
                fill=Tone.INK,
                tone=Tone.NONE,
                width=0,
                ref=ref,
            )
        top, low = y + r + 4, y - r - 4
    else:
        b = cutout.box
        pen.rect(
            shift[0] + b.x - 5, shift[1] + b.y - 5, b.w + 10, b.h + 10, fill=Tone.PART, tone=edge, width=0.8, ref=ref
        )
        pen.rect(shift[0] + b.x, shift[1] + b.y, b.w, b.h, fill=Tone.PAPER, width=0.5, ref=ref)
        top, low = shift[1] + b.top + 5, shift[1] + b.y - 5
    if is_station:
        beside = x + cutout.box.w / 2 + 6
        pen.text(beside, y - 2.5, name(cutout.device), size=5, bold=True, ref=ref, layer=Layer.TAG)
    else:
        pen.text(x, low - 11, name(cutout.device), size=9, anchor=Anchor.MIDDLE, bold=True, ref=ref, layer=Layer.TAG)
        words = "Main switch" if cutout.device == "Q0" else device.title.split(",")[0] if device is not None else ""
        _draw_legend(pen, x, top + 3, words, ref)


def _draw_legend(pen: Pen, x: float, y: float, words: str, ref: str) -> None:
    """Draw a legend as its engraved plate would be: up to two lines in 52 mm."""
    lines = _wrapped(words, 52.0, 6.5)
    for k, line in enumerate(reversed(lines)):
        pen.text(x, y + 8 * k, line, size=6.5, anchor=Anchor.MIDDLE, ref=ref, layer=Layer.NOTE)


def draw_hole_hand(move: HoleMove, name: str, corner: Point, size: float) -> tuple[Item, ...]:
    """Return what is in the hand where its hole would be: with a tick where it may, else crossed.

    Args:
        move: what the hand would do.
        name: what is moved, as people call it.
        corner: where the lower left corner of the face lies in its drawing.
        size: of the letters, in mm.
    """
    pen = Pen()
    b = move.cutout.box
    tone = Tone.DONE if move.is_legal else Tone.DANGER
    x, y = corner[0] + move.cutout.x, corner[1] + move.cutout.y
    around = size / 2
    pen.rect(
        x - b.w / 2 - around, y - b.h / 2 - around, b.w + size, b.h + size, tone=tone, width=size / 5, radius=size / 4
    )
    for line in (((x, corner[1]), (x, y)), ((corner[0], y), (x, y))):
        pen.line(*line, width=size / 15, tone=tone, dashed=True)
    words = f"{name} {'✓' if move.is_legal else '✗'}  {move.cutout.x:g} / {move.cutout.y:g}"
    pen.text(x, y + b.h / 2 + size, words, size=size, anchor=Anchor.MIDDLE, bold=True, tone=tone)
    return tuple(pen.items)


def _wrapped(words: str, width: float, size: float) -> list[str]:
    """Return words in at most two lines that are no wider than so many mm, cut with dots where they are."""
    lines: list[str] = [""]
    for word in words.split():
        longer = f"{lines[-1]} {word}".strip()
        if text_width(longer, size) <= width or not lines[-1]:
            lines[-1] = longer
        elif len(lines) == 2:
            lines[-1] += "…"
            break
        else:
            lines.append(word)
    return lines


def draw_station(plan: Plan, station: Station) -> Drawing:
    """Return the lid of an operator station with holes and legends, its cable entries below, and a side section of its depth."""
    pen = Pen()
    left, low = STATION_CORNER
    side = left + station.width + 90
    width, height = side + station.depth + 60, low + station.height + 60
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    title = f"Station '{station.location}': box {station.width:g} × {station.height:g} × {station.depth:g} mm"
    pen.text(left, height - 22, title, size=9, bold=True)
    pen.rect(left, low, station.width, station.height, fill=Tone.STEEL, width=0.8, radius=3)
    for cutout in station.cutouts:
        draw_cutout(pen, plan, cutout, (left, low), is_hit=False, name=plan.name_of, is_station=True)
        pen.text(left - 5, low + cutout.y - 3, f"{cutout.y:g}", size=5, anchor=Anchor.RIGHT, mono=True, tone=Tone.QUIET)
    for words, box in station.legends:
        pen.rect(left + box.x, low + box.y, box.w, box.h, fill=Tone.PAPER, width=0.4)
        for k, line in enumerate(reversed(_wrapped(words, box.w - 2, 3.4))):
            pen.text(left + box.centre[0], low + box.y + 2 + 4.6 * k, line, size=3.4, anchor=Anchor.MIDDLE)
    for gland in station.glands:
        x = left + gland.x
        pen.rect(
            x - gland.diameter / 2, low - 12, gland.diameter, 12, fill=Tone.PART, width=0.5, ref=f"cable:{gland.cable}"
        )
        pen.text(
            x, low - 24, f"{gland.cable} {gland.fitting}", size=6, anchor=Anchor.MIDDLE, ref=f"cable:{gland.cable}"
        )
    _draw_station_side(pen, plan, station, (side, low))
    pen.text(left, 10, "mm from the lower left corner of the lid; holes with the notch upward", size=6, tone=Tone.QUIET)
    return Drawing(name=f"station-{station.location}", title=title, width=width, height=height, items=tuple(pen.items))


def _draw_station_side(pen: Pen, plan: Plan, station: Station, shift: Point) -> None:
    """Draw the box from the side: lid on the left, each part as deep as it is."""
    sx, sy = shift
    pen.rect(sx, sy, station.depth, station.height, fill=Tone.PAPER, width=0.8)
    pen.rect(sx, sy, 3, station.height, fill=Tone.STEEL, width=0.6)
    for cutout in station.cutouts:
        part = plan.parts[cutout.device]
        pen.rect(sx + 3, sy + cutout.y - 15, part.depth, 30, fill=Tone.PART, width=0.4, ref=cutout.device)
    pen.line(
        (sx + 3 + station.deepest, sy),
        (sx + 3 + station.deepest, sy + station.height),
        tone=Tone.ATTENTION,
        dashed=True,
        width=0.6,
    )
    words = f"{station.deepest:g} mm with the bend of the wires"
    pen.text(sx, sy - 12, words, size=6, tone=Tone.QUIET)


def block_words(plan: Plan, device: str) -> str:
    """Return where the contacts of a door device sit, as seen from behind, which is the other way round; "" without contacts."""
    places = block_places(plan.parts[device])
    if not places:
        return ""
    seen = {"left": "right", "right": "left", "middle": "middle"}
    layers = max(p.layer for p in places)
    parts = []
    for layer in range(1, layers + 1):
        row = {seen[p.slot]: p.element for p in places if p.layer == layer}
        words = ", ".join(f"{row[slot]} {slot}" for slot in ("left", "middle", "right") if slot in row)
        parts.append(words if layers == 1 else f"layer {layer}: {words}")
    return "From behind: " + "; ".join(parts)


def entry_words(plan: Plan) -> dict[str, str]:
    """Return what each hole of the entry wall is for."""
    targets = {cable.name: cable.target for cable in plan.cables}
    return {e.cable: f"{e.cable} to {targets[e.cable]}" if e.cable in targets else e.cable for e in plan.entries}
