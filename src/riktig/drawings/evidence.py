"""Owns the picture that shows what a finding has found: the chain with its weakest part, the loop, the heat, the place on plate or door.
Must not judge. What shows in the circuit is shown on its sheets, which are drawn anyway.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

from riktig.checks.closing import contactors_of
from riktig.drawings.display import Anchor, Drawing, Item, Pen, Tone
from riktig.drawings.door import DOOR_CORNER, draw_door, draw_station
from riktig.drawings.entry_wall import draw_entry_wall
from riktig.drawings.plate import draw_plate, plate_origin
from riktig.drawings.plate_overlays import draw_clearances, draw_fill, draw_losses, draw_reach
from riktig.drawings.size_charts import MARGIN, WIDTH, draw_chain, draw_feeder, draw_heat
from riktig.drawings.wall import draw_wall
from riktig.plan.answers.feeding import feeding_of
from riktig.plan.place.layout import Box
from riktig.plan.plan import Plan
from riktig.plan.sizes.loops import Loop
from riktig.standards import iec_60228, iec_60364_4
from riktig.units.numbers import format_number

_AROUND_MM = 160.0
"""How much is shown around a thing on plate or door."""
_CHAIN = frozenset({"short-circuit-rating", "short-circuit-proof", "slash-rating"})
_HEAT = frozenset({"inside-temperature", "cold-enclosure", "declared-rise", "condensation"})
_LOOP = frozenset({"disconnection", "fault-heating"})
_ENTRY = frozenset({"entry-wall-full", "entries-close"})
_OVERLAYS: dict[str, Callable[[Plan], tuple[Item, ...]]] = {
    "plate-room": draw_clearances, "plate-overlap": draw_clearances, "plate-reach": draw_reach, "duct-fill": draw_fill,
    "duct-grouping": draw_fill, "opening-rating": draw_losses,
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Evidence:
    """A drawing, None for the sheets of the circuit, the part of it that matters as x, y, width and height in its mm, None for all of it,
    and what in it is meant.
    """

    drawing: Drawing | None
    part: tuple[float, float, float, float] | None = None
    marks: tuple[str, ...] = ()


def draw_evidence(plan: Plan, rule: str, subject: str) -> Evidence:
    """Return the picture of what a rule has found about a subject, "" for what it has looked at where it found nothing; what shows nowhere
    else shows in the circuit.
    """
    if rule in _CHAIN:
        return Evidence(drawing=draw_chain(plan), marks=(subject,))
    if rule in _HEAT:
        return Evidence(drawing=draw_heat(plan))
    if rule in _LOOP:
        loop = next((loop for loop in plan.loops if loop.load == subject), None)
        return Evidence(drawing=draw_loop(plan, loop)) if loop is not None else _in_circuit(plan, subject)
    if rule == "voltage-drop" and subject in plan.starters:
        return Evidence(drawing=draw_feeder(plan, subject))
    if rule in _ENTRY:
        return Evidence(drawing=draw_entry_wall(plan), marks=(subject,))
    return _in_place(plan, rule, subject) or _in_circuit(plan, subject)


def _in_circuit(plan: Plan, subject: str) -> Evidence:
    """Return what a coil or a motor's contactors hang on: the contacts on all ways to their supply."""
    feeding = feeding_of(plan)
    coils = [subject] if subject in feeding.coiled else [d for d in contactors_of(plan, subject) if d in feeding.coiled]
    asked = coils or [subject]
    ways = [link.device for device in asked if device in plan.parts for link in feeding.links_of(device)]
    return Evidence(drawing=None, marks=tuple(dict.fromkeys((subject, *asked, *ways))))


def _in_place(plan: Plan, rule: str, subject: str) -> Evidence | None:
    """Return where a thing stands, with what a rule measures there."""
    for station in plan.stations if rule.startswith("station-") else ():
        if any(hole.device == subject for hole in station.cutouts):
            return Evidence(drawing=draw_station(plan, station), marks=(subject,))
    for wall in plan.walls if rule.startswith("wall-") else ():
        if any(hole.device == subject for hole in wall.cutouts):
            return Evidence(drawing=draw_wall(plan, wall), marks=(subject,))
    on_door = next((hole for hole in plan.door.cutouts if hole.device == subject), None)
    if on_door is not None and rule in {
        "door-too-small",
        "door-holes-close",
        "operator-height",
        "opening-rating",
        "door-depth",
    }:
        left, low = DOOR_CORNER
        box = on_door.box
        return Evidence(
            drawing=draw_door(plan), part=_around((box.x + left, box.y + low, box.w, box.h)), marks=(subject,)
        )
    box_there = _box_on_plate(plan, subject)
    if not rule.startswith(_OF_PLATE) or (box_there is None and subject != "plate"):
        return None
    drawing, (x, y) = draw_plate(plan), plate_origin(plan)
    if rule in _OVERLAYS:
        drawing = replace(drawing, items=(*drawing.items, *_OVERLAYS[rule](plan)))
    part = None if box_there is None else _around((box_there.x + x, box_there.y + y, box_there.w, box_there.h))
    return Evidence(drawing=drawing, part=part, marks=(subject,))


_OF_PLATE = (
    "plate-", "duct-", "interlock-apart", "arrester-leads", "arrester-earth", "live-shroud", "clamp-", "bar-full", "piece-too-long",
    "shaft-too-short", "door-depth", "residual-voltage", "earth-current", "long-tap", "unequal-pair",
)  # fmt: skip
"""Rules, by how their names begin, whose matter shows on the plate."""


def _box_on_plate(plan: Plan, subject: str) -> Box | None:
    if subject in plan.plate.boxes:
        return plan.plate.boxes[subject]
    pieces = {duct.code: duct.box for duct in plan.plate.ducts} | {rail.code: rail.box for rail in plan.plate.rails}
    return pieces.get(subject)


def _around(box: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    x, y, w, h = box
    return x - _AROUND_MM, y - _AROUND_MM, w + 2 * _AROUND_MM, h + 2 * _AROUND_MM


# -- the loop of a fault to earth

_BOX_W, _BOX_H, _ROW = 26.0, 11.0, 34.0


def draw_loop(plan: Plan, loop: Loop) -> Drawing:
    """Return the loop of a fault to earth with its ohms, and how much flows against what opens its device in time."""
    pen = Pen()
    height = 118.0
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
