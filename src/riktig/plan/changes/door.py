"""Owns changes of door, stations and entry wall by hand: what a drag would do, what stands against it, and the edit that keeps it.

A face is what has holes that can be moved: the door, the entry wall, a side wall, or the lid of a station. Its frame is mm from its lower
left corner as it is drawn, of the entry wall with the back wall of the enclosure below.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache, partial
from itertools import islice
from operator import itemgetter

from riktig.job.edits import keep_choice
from riktig.job.edits import replace as replace_fields
from riktig.job.entries import HolePlace, OnDoor
from riktig.job.faults import Fault, JobError
from riktig.job.ledger import ChoiceState
from riktig.job.model import Job
from riktig.plan.changes.plate import pin_all
from riktig.plan.circuit.incoming import MAIN_SWITCH
from riktig.plan.place.depth import FRAME, Solid, depth_behind, find_meetings, plate_solids
from riktig.plan.place.door import WEB_MM, Cutout, box_on_door, with_window
from riktig.plan.place.walls import WallLayout, inside_of, meetings_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.stations import BOXES_MM, Station
from riktig.standards.iec_60947_5_1 import hole_for
from riktig.standards.tables import own_digests

SNAP_MM = 8.0
"""How near a dragged device comes to the centre line of another before it is drawn onto it."""
_FAR_MM = 100.0
"""Cut-outs so far apart are never too close."""
_TENTH_MM = 0.11
"""Places of glands are said to a tenth."""
DOOR_FACE, ENTRY_FACE = "door", "entry"


def wall_face(side: str) -> str:
    """Return what a side wall is called as a face."""
    return f"{side} wall"


def station_face(location: str) -> str:
    """Return what the lid of a station is called as a face."""
    return f"station {location}"


@dataclass(frozen=True, slots=True, kw_only=True)
class HoleMove:
    """What a hand would do to one hole of a face: where it would be, and what stands against it, in words. Its device is the key that the
    ledger has for it.
    """

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
    pitch = _pitch_of(one.diameter, other.diameter, own_digests())
    if pitch is not None:
        px, py = pitch
        return min(px - abs(one.x - other.x), py - abs(one.y - other.y)), f"{px:g} x {py:g} mm"
    return min(one.box.overlap(other.box)) + WEB_MM, f"{WEB_MM:g} mm of sheet between"


@lru_cache(maxsize=256)
def _pitch_of(one: float, other: float, _: tuple[str, ...]) -> tuple[float, float] | None:
    """Return how far apart two holes of these diameters are at least in x and y, None where one is no standard size."""
    sizes = [hole_for(diameter) if diameter else None for diameter in (one, other)]
    known = [size for size in sizes if size is not None]
    return (max(s.pitch_x for s in known), max(s.pitch_y for s in known)) if len(known) == len(sizes) else None


def near_pairs(cutouts: Sequence[Cutout]) -> Iterator[tuple[Cutout, Cutout]]:
    """Yield each two cut-outs that are near enough to be too close, from left to right."""
    ordered = sorted(((b.x, b.y, b.right, b.top, c) for c in cutouts for b in (c.box,)), key=itemgetter(0, 1))
    for place, (_, low, right, high, one) in enumerate(ordered):
        right, high, low = right + _FAR_MM, high + _FAR_MM, low - _FAR_MM
        for x, y, _, top, other in islice(ordered, place + 1, None):
            if x > right:
                break
            if y <= high and top >= low:
                yield one, other


def holes_of(plan: Plan, face: str) -> tuple[Cutout, ...]:
    """Return the holes of a face, none where there is no such face; those of the entry wall by their keys in the ledger."""
    if face == DOOR_FACE:
        return plan.door.cutouts
    if face == ENTRY_FACE:
        return tuple(Cutout(device=e.key, x=e.x, y=e.z, diameter=e.diameter) for e in plan.entries)
    wall, station = _wall_of(plan, face), _station_of(plan, face)
    return wall.cutouts if wall is not None else station.cutouts if station is not None else ()


def movable_holes(plan: Plan, face: str) -> frozenset[str]:
    """Return the keys of what can be moved on a face: the shaft of the main switch follows from the plate, the stud of a station from its
    box.
    """
    if face == DOOR_FACE:
        return frozenset(c.device for c in plan.door.cutouts) - {MAIN_SWITCH}
    station = _station_of(plan, face)
    return frozenset(c.device for c in (holes_of(plan, face) if station is None else station.operators))


def _wall_of(plan: Plan, face: str) -> WallLayout | None:
    return next((wall for wall in plan.walls if face == wall_face(wall.side)), None)


def _station_of(plan: Plan, face: str) -> Station | None:
    return next((station for station in plan.stations if face == station_face(station.location)), None)


def try_hole_move(plan: Plan, face: str, key: str, x: float, y: float, *, snap: bool = True) -> HoleMove:
    """Return what moving a hole of a face with its centre to about (x, y) would do; it goes onto the millimetre, or onto the centre line of
    another that is near.

    Raises:
        KeyError: that face has no such hole, or its place follows from something else.
    """
    if key not in movable_holes(plan, face):
        raise KeyError(key)
    holes = holes_of(plan, face)
    before = next(c for c in holes if c.device == key)
    others = [c for c in holes if c.device != key]
    xs, ys = ([c.x for c in others], [c.y for c in others]) if snap else ([], [])
    cutout = replace(before, x=_snap(x, xs), y=_snap(y, ys))
    if face == ENTRY_FACE:
        problems = _entry_problems(plan, cutout)
    else:
        station, wall = _station_of(plan, face), _wall_of(plan, face)
        size, sheet = (plan.door.width, plan.door.height), "the door"
        if wall is not None:
            size, sheet = (wall.width, wall.height), "the wall"
        elif station is not None:  # its box becomes one that takes them all
            size, sheet = max(BOXES_MM)[:2], "the largest lid"
        problems = list(_sheet_problems(cutout, others, size, plan.name_of, sheet))
        if wall is not None:
            problems += _met_inside(plan, wall, cutout)
        elif station is None:
            problems += _meetings(plan, cutout)
    return HoleMove(cutout=cutout, problems=tuple(problems))


def _entry_problems(plan: Plan, moved: Cutout) -> list[str]:
    before = next(e for e in plan.entries if e.key == moved.device)
    entry = replace(before, x=moved.x, z=moved.y)
    found = [] if entry.is_within(plan.job.enclosure) else ["its nut has no room at the edge of the wall"]
    near = ((entry.missing_to(other), other) for other in plan.entries if other.key != moved.device)
    return found + [f"{missing:.0f} mm too close to {other.words}" for missing, other in near if missing > _TENTH_MM]


def _snap(value: float, lines: list[float]) -> float:
    near = min(lines, key=lambda line: abs(line - value), default=value)
    return near if abs(near - value) <= SNAP_MM else float(round(value))


def _sheet_problems(
    cutout: Cutout, others: Sequence[Cutout], size: tuple[float, float], name: Callable[[str], str], sheet: str
) -> Iterator[str]:
    """Yield where a hole would lie over the edge of a sheet of a size, or too close to another one."""
    b = cutout.box
    over = max(-b.x, -b.y, b.right - size[0], b.top - size[1])
    if over > 0:
        yield f"{over:.0f} mm over the edge of {sheet}"
    for other in others:
        missing, _ = missing_between(cutout, other)
        if missing > 1e-6:
            yield f"{missing:.0f} mm too close to {name(other.device)}"


def _meetings(plan: Plan, cutout: Cutout) -> list[str]:
    """Return what a device on the door would meet behind it, in words."""
    found = []
    part = with_window(plan.job, plan.parts)[cutout.device]
    behind = plate_solids(plan.plate, plan.parts)
    box = box_on_door(part, cutout.x, cutout.y)
    solid = Solid(name=cutout.device, box=box, depth=depth_behind(part))
    for fault in find_meetings([solid], behind, plan.job.enclosure)[:2]:
        when = f"at {fault.angle:.0f}° open" if fault.angle else "when shut"
        what = "the frame" if fault.plate == FRAME else plan.name_of(fault.plate)
        found.append(f"meets {what} {when}, {fault.missing:.0f} mm too deep")
    return found


def _met_inside(plan: Plan, wall: WallLayout, cutout: Cutout) -> list[str]:
    """Return what a device in a side wall would meet inside, in words."""
    inside = inside_of(plan.job.enclosure, wall.side, plan.parts, plan.plate, plan.door)
    faults = sorted(meetings_of(cutout, plan.parts[cutout.device], inside), key=lambda fault: -fault.missing)
    return [f"meets {plan.name_of(fault.other)}, {fault.missing:.0f} mm too deep" for fault in faults[:2]]


def keep_door_place(job: Job, device: str, x: float, y: float) -> Job:
    """Return the Job with a device on the door where a person wants it.

    Raises:
        JobError: a release holds it.
    """
    _refuse_released(job, "places", device)
    return keep_choice(job, "places", device, OnDoor(x, y))


def keep_holes(job: Job, moved: str, places: Mapping[str, HolePlace]) -> Job:
    """Return the Job with holes of a station or the entry wall where a person wants them.

    Args:
        job: the Job.
        moved: key of the one that was moved.
        places: where it and those are that stay for its sake.

    Raises:
        JobError: a release holds it.
    """
    _refuse_released(job, "holes", moved)
    for key, place in places.items():
        choice = job.ledger.holes.get(key)
        if choice is None or choice.state is not ChoiceState.FROZEN:
            job = keep_choice(job, "holes", key, place)
    return job


def _refuse_released(job: Job, sort: str, key: str) -> None:
    choice = getattr(job.ledger, sort).get(key)
    if choice is not None and choice.state is ChoiceState.FROZEN:
        message = f"'{key}' was released where it is: its hole is cut"
        raise JobError([Fault(at=("kept", sort, key), message=message)])


def edit_of(plan: Plan, face: str, move: HoleMove) -> Callable[[Job], Job]:
    """Return the edit that keeps a move; the others of a station stay where they are then, for its box may become another one."""
    hole = move.cutout
    if face == DOOR_FACE:
        return partial(keep_door_place, device=hole.device, x=hole.x, y=hole.y)
    station = _station_of(plan, face)
    stay = {c.device: HolePlace(c.x, c.y) for c in station.operators} if station is not None else {}
    return partial(keep_holes, moved=hole.device, places={**stay, hole.device: HolePlace(hole.x, hole.y)})


def letting_go(plan: Plan, face: str, key: str) -> Callable[[Job], Job]:
    """Return the edit that leaves a hole to Riktig again, of a station all of them: they were held together."""
    station = _station_of(plan, face)
    keys = (key,) if station is None else tuple(hole.device for hole in station.operators)
    if face == DOOR_FACE:
        return partial(pin_all, keys=keys, is_held=False)
    return partial(let_go_holes, keys=keys)


def let_go_holes(job: Job, keys: Iterable[str]) -> Job:
    """Return the Job with holes of stations and the entry wall left to Riktig again; a release holds its own."""
    gone = {key for key in keys if key in job.ledger.holes and job.ledger.holes[key].state is not ChoiceState.FROZEN}
    kept = {key: choice for key, choice in job.ledger.holes.items() if key not in gone}
    return replace_fields(job, ledger=job.ledger.with_sorts(holes=kept))
