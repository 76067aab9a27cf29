"""Owns the picture that shows what a finding has found: the chain with its weakest part, the loop, the heat, the place on plate or door.
Must not judge. What shows in the circuit is shown on its sheets, which are drawn anyway.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

from riktig.checks.closing import contactors_of
from riktig.drawings.display import Drawing, Item
from riktig.drawings.door import DOOR_CORNER, draw_door, draw_station
from riktig.drawings.entry_wall import draw_entry_wall
from riktig.drawings.fault_loop import draw_loop
from riktig.drawings.plate import draw_plate, plate_origin
from riktig.drawings.plate_overlays import draw_clearances, draw_fill, draw_losses, draw_reach
from riktig.drawings.size_charts import draw_chain, draw_feeder, draw_heat
from riktig.drawings.wall import draw_wall
from riktig.plan.answers.feeding import feeding_of
from riktig.plan.place.layout import Box
from riktig.plan.plan import Plan

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
