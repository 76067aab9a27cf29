"""Owns where groups go on a door that nobody has arranged: side by side in shelves, the panel's own at the side of the lock.

Frame and mm as the door. Must not know what stands behind it: whoever asks says which spots are good.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from riktig.catalogue.model import Part
from riktig.job.model import Enclosure
from riktig.plan.circuit.model import Circuit
from riktig.plan.place.door_groups import DoorBlock, DoorGroup, build_block
from riktig.plan.place.heights import floor_to_bottom
from riktig.standards.operator_heights import Reach

Spot = tuple[float, float]
Spots = Mapping[str, Spot]
EDGE_MM, HINGE_MM = 40.0, 60.0
"""What stays free at the edges of the door, and at its hinges, where the loom goes over."""
HEADING_MM = 34.0
"""Above a group, for its name."""
SHELF_GAP_MM = 10.0
PITCH_MM = 60.0
_ABREAST = (2, 1, 3)
"""How many small devices stand beside each other in a group; what is tried first wins where nothing is against it."""
_GAP_MM, _WIDE_GAP_MM = 20.0, 40.0
"""Between two groups; the wider one where as many stand on each shelf then."""
_PANEL_ABREAST = 3
HIGHEST_MM = 1900.0
"""Nothing that is read or pressed stands higher above the floor, where the door has room below (common practice, no source)."""
_STEP_MM = 20.0
_LEAST_SHELF_MM = 2 * PITCH_MM


@dataclass(frozen=True, slots=True)
class DoorTask:
    """What is to be placed on a door: its groups, what is known of their devices, how high controls may be, and which of the spots of
    some devices are no good.
    """

    box: Enclosure
    circuit: Circuit
    parts: Mapping[str, Part]
    groups: Sequence[DoorGroup]
    controls: Reach
    stops: Reach
    bad: Callable[[Spots], int]


def propose_door(task: DoorTask) -> dict[str, Spot]:
    """Return device -> centre: groups side by side from the left in as few shelves as will do, lamps of a shelf on one line and what is
    pressed on lines below them; the group of the panel as a column at the side of the lock. Groups are two devices wide, one or three
    where that leaves fewer devices too low, off the door or before something that they meet.
    """
    tries = [_with(task, abreast) for abreast in _ABREAST]
    return min(tries, key=lambda spots: _cost(task, spots))


def _with(task: DoorTask, abreast: int) -> dict[str, Spot]:
    blocks = [build_block(group, task.circuit, task.parts, PITCH_MM * abreast) for group in task.groups if group.owner]
    panels = [
        build_block(group, task.circuit, task.parts, PITCH_MM * _PANEL_ABREAST)
        for group in task.groups
        if not group.owner
    ]
    left, right = _span(task.box)
    beside = panels[0].width + _WIDE_GAP_MM if panels else 0.0
    widest = max((block.width for block in blocks), default=0.0)
    if blocks and panels and right - left - beside < max(widest, _LEAST_SHELF_MM):
        blocks, panels, beside = [*blocks, *panels], [], 0.0
    is_left = task.box.hinge == "left"
    span = (left, right - beside) if is_left else (left + beside, right)
    top = min(task.box.height - EDGE_MM, HIGHEST_MM + PITCH_MM / 2 - floor_to_bottom(task.box))
    found: dict[str, Spot] = {}
    y, gap = top, _GAP_MM
    shelves = _shelves(blocks, span, gap)
    if _shelves(blocks, span, _WIDE_GAP_MM) == shelves:
        gap = _WIDE_GAP_MM
    for shelf in shelves:
        spots, y = _stand(task, shelf, span, y, gap)
        found.update(spots)
    if panels:
        edge = (right - panels[0].width, right) if is_left else (left, left + panels[0].width)
        found.update(_stand(task, panels, edge, _panel_top(task, panels[0], top), gap)[0])
    return found


def _span(box: Enclosure) -> tuple[float, float]:
    """Return from where to where the door may be used, in mm."""
    return (HINGE_MM, box.width - EDGE_MM) if box.hinge == "left" else (EDGE_MM, box.width - HINGE_MM)


def _shelves(blocks: Sequence[DoorBlock], span: tuple[float, float], gap: float) -> list[list[DoorBlock]]:
    """Return groups in order, as many on each shelf as are beside each other there."""
    shelves: list[list[DoorBlock]] = []
    x = span[1]
    for block in blocks:
        if not shelves or x + block.width > span[1]:
            shelves.append([])
            x = span[0]
        shelves[-1].append(block)
        x += block.width + gap
    return shelves


def _panel_top(task: DoorTask, block: DoorBlock, top: float) -> float:
    """Return from where the panel's own group goes down so that its lowest control, mostly an emergency stop, is neither too high nor
    too low.
    """
    floor = floor_to_bottom(task.box)
    lowest = max((y for device, (_, y) in block.spots.items() if not block.is_read[device]), default=0.0)
    below = HEADING_MM + block.upper + lowest
    return max(min(top, task.stops.most - floor + below), min(top, task.stops.least - floor + below))


def _stand(
    task: DoorTask, shelf: Sequence[DoorBlock], span: tuple[float, float], top: float, gap: float
) -> tuple[dict[str, Spot], float]:
    """Return the spots of a shelf where least is against them, at or below `top` and from the left end of the span or right of it, and
    where the next one may begin.
    """
    upper, lower = max(block.upper for block in shelf), max(block.lower for block in shelf)
    height = HEADING_MM + upper + lower
    slack = span[1] - span[0] - sum(block.width for block in shelf) - gap * (len(shelf) - 1)
    best: tuple[int, float, dict[str, Spot]] | None = None
    for y in _down(top, height + EDGE_MM):
        for x in _down(0.0, -slack if y >= height else 0.0):
            spots = _spots(shelf, span[0] - x, y - HEADING_MM, upper, gap)
            bad = task.bad(spots)
            if best is None or bad < best[0]:
                best = (bad, y, spots)
            if not bad:
                break
        if best is not None and not best[0]:
            break
    assert best is not None
    return best[2], best[1] - height - SHELF_GAP_MM


def _down(first: float, last: float) -> list[float]:
    """Return values from the first on down to the last, the first in any case."""
    return [first - _STEP_MM * n for n in range(max(0, int((first - last) / _STEP_MM)) + 1)]


def _spots(shelf: Sequence[DoorBlock], left: float, top: float, upper: float, gap: float) -> dict[str, Spot]:
    found: dict[str, Spot] = {}
    for block in shelf:
        found.update(block.at(left, top, upper))
        left += block.width + gap
    return found


def _cost(task: DoorTask, spots: Spots) -> tuple[int, int]:
    """Return how many devices stand badly, and how many too high or too low."""
    floor = floor_to_bottom(task.box)
    wrong = 0
    for device, (_, y) in spots.items():
        found = task.circuit.index.get(device)
        kind = task.parts[device].kind
        reach = task.stops if kind == "emergency-stop" else task.controls
        wrong += found is not None and not reach.least <= y + floor <= reach.most
    return task.bad(spots), wrong
