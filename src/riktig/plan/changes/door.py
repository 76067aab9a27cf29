"""Owns changes of the door by hand: what a drag would do, what stands against it, and the edit that keeps it."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from riktig.job.edits import keep_choice
from riktig.job.entries import OnDoor
from riktig.job.faults import Fault, JobError
from riktig.job.ledger import ChoiceState
from riktig.job.model import Job
from riktig.plan.place.depth import FRAME, Solid, depth_behind, find_meetings, plate_solids
from riktig.plan.place.door import Cutout, with_window
from riktig.plan.place.layout import Box
from riktig.plan.plan import Plan
from riktig.standards.iec_60947_5_1 import hole_for

SNAP_MM = 8.0
"""How near a dragged device comes to the centre line of another before it is drawn onto it."""
WEB_MM = 10.0
"""Sheet that stays between two cut-outs of no standard size (common practice, no source)."""
_FAR_MM = 100.0
"""Cut-outs so far apart are never too close."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DoorMove:
    """What a hand would do to one device on the door: its cut-out there, and what stands against it, in words."""

    cutout: Cutout
    problems: tuple[str, ...]

    @property
    def is_legal(self) -> bool:
        """Whether nothing stands against it."""
        return not self.problems


def missing_between(one: Cutout, other: Cutout) -> tuple[float, str]:
    """Return how many mm two cut-outs are too close, 0 or less where they are not, and what was asked for in words.

    Holes of standard sizes keep the standard's distance along one axis or the other; others leave a web of sheet.

    Source:
        IEC 60947-5-1 6.3, from memory; the web: common practice, no source.
    """
    over = min(one.box.overlap(other.box))
    if over < -_FAR_MM:
        return over, ""
    sizes = [hole_for(c.diameter) if c.diameter else None for c in (one, other)]
    x, y = abs(one.x - other.x), abs(one.y - other.y)
    if sizes[0] is not None and sizes[1] is not None:
        px, py = (max(getattr(s, axis) for s in sizes if s is not None) for axis in ("pitch_x", "pitch_y"))
        return min(px - x, py - y), f"{px:g} x {py:g} mm"
    return over + WEB_MM, f"{WEB_MM:g} mm of sheet between"


def near_pairs(cutouts: Sequence[Cutout]) -> Iterator[tuple[Cutout, Cutout]]:
    """Yield each two cut-outs that are near enough to be too close, from left to right."""
    ordered = sorted(cutouts, key=lambda c: (c.box.x, c.y))
    for place, one in enumerate(ordered):
        reach = one.box.right + _FAR_MM
        for other in ordered[place + 1 :]:
            if other.box.x > reach:
                break
            yield one, other


def try_door_move(plan: Plan, device: str, x: float, y: float, *, snap: bool = True) -> DoorMove:
    """Return what moving a device with its centre to about (x, y) would do; it goes onto the millimetre, or onto the centre line of
    another that is near.

    Raises:
        KeyError: there is no cut-out of that device, or its place follows from the plate.
    """
    before = next(c for c in plan.door.cutouts if c.device == device) if is_movable(plan, device) else None
    if before is None:
        raise KeyError(device)
    others = [c for c in plan.door.cutouts if c.device != device]
    xs, ys = ([c.x for c in others], [c.y for c in others]) if snap else ([], [])
    cutout = replace(before, x=_snap(x, xs), y=_snap(y, ys))
    return DoorMove(cutout=cutout, problems=tuple(_problems(plan, cutout, others, plan.name_of)))


def is_movable(plan: Plan, device: str) -> bool:
    """Return whether a device has a cut-out that can be moved; the shaft of the main switch follows from the plate."""
    return device != "Q0" and any(c.device == device for c in plan.door.cutouts)


def _snap(value: float, lines: list[float]) -> float:
    near = min(lines, key=lambda line: abs(line - value), default=value)
    return near if abs(near - value) <= SNAP_MM else float(round(value))


def _problems(plan: Plan, cutout: Cutout, others: list[Cutout], name: Callable[[str], str]) -> list[str]:
    found = []
    b = cutout.box
    over = max(-b.x, -b.y, b.right - plan.door.width, b.top - plan.door.height)
    if over > 0:
        found.append(f"{over:.0f} mm over the edge of the door")
    for other in others:
        missing, _ = missing_between(cutout, other)
        if missing > 1e-6:
            found.append(f"{missing:.0f} mm too close to {name(other.device)}")
    part = with_window(plan.job, plan.parts)[cutout.device]
    behind = plate_solids(plan.plate, plan.parts)
    box = Box(x=cutout.x - part.width / 2, y=cutout.y - part.height / 2, w=part.width, h=part.height)
    solid = Solid(name=cutout.device, box=box, depth=depth_behind(part))
    for fault in find_meetings([solid], behind, plan.job.enclosure)[:2]:
        when = f"at {fault.angle:.0f}° open" if fault.angle else "when shut"
        what = "the frame" if fault.plate == FRAME else name(fault.plate)
        found.append(f"meets {what} {when}, {fault.missing:.0f} mm too deep")
    return found


def keep_door_place(job: Job, device: str, x: float, y: float) -> Job:
    """Return the Job with a device on the door where a person wants it.

    Raises:
        JobError: a release holds it.
    """
    choice = job.ledger.places.get(device)
    if choice is not None and choice.state is ChoiceState.FROZEN:
        message = f"'{device}' was released where it is: its hole is cut"
        raise JobError([Fault(at=("kept", "places", device), message=message)])
    return keep_choice(job, "places", device, OnDoor(x, y))
