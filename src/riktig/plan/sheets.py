"""Owns which sheet and column every path is drawn in. Must not draw.

Sheets are A3, 420 x 297 mm, with columns 0 to 9 across. A lane is the width of one contact with its texts.
"""

from dataclasses import dataclass

from riktig.job.model import Job
from riktig.job.paths import Group, Item, Path, Ref
from riktig.plan.circuit import Circuit, CircuitPath, canonical_id

SHEET_WIDTH, SHEET_HEIGHT = 420.0, 297.0
LEFT, RIGHT = 20.0, 410.0
COLUMNS = 10
COLUMN_WIDTH = (RIGHT - LEFT) / COLUMNS
POWER_LANE, CONTROL_LANE = 39.0, 30.0
GAP = 9.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PathPlace:
    """Where a path hangs: sheet number from 1, x of its first lane in mm, lanes wide and levels deep."""

    key: str
    sheet: int
    x: float
    lanes: int
    levels: int


def measure(items: Path | tuple[Item, ...]) -> tuple[int, int]:
    """Return (lanes, levels) that items in series take: a group's branches stand side by side."""
    lanes, levels = 1, 0
    for item in items:
        if isinstance(item, Ref):
            levels += 1
        elif isinstance(item, Group):
            sizes = [measure(branch) for branch in item.branches]
            lanes = max(lanes, sum(size[0] for size in sizes))
            levels += max(size[1] for size in sizes)
    return lanes, levels


def lane_width(path: CircuitPath) -> float:
    """Return the width of a lane of a path in mm."""
    return POWER_LANE if path.is_power else CONTROL_LANE


def place_paths(circuit: Circuit) -> dict[str, PathPlace]:
    """Return the place of each path: power sheets first, then control, filled from the left in drawing order."""
    places: dict[str, PathPlace] = {}
    sheet = 0
    for is_power in (True, False):
        x = RIGHT + 1.0
        for path in circuit.paths:
            if path.is_power is not is_power:
                continue
            lanes, levels = measure(path.items)
            width = lanes * lane_width(path)
            if x + width > RIGHT + 1e-6:
                sheet += 1
                x = LEFT + GAP
            places[path.key] = PathPlace(key=path.key, sheet=sheet, x=x, lanes=lanes, levels=levels)
            x += width
    return places


def column_of(x: float) -> int:
    """Return the column, 0 to 9, of an x in mm."""
    return min(COLUMNS - 1, max(0, int((x - LEFT) // COLUMN_WIDTH)))


def spots_of(path: CircuitPath, place: PathPlace) -> list[tuple[Ref, float]]:
    """Return every mention of a device in a path with the x of its lane in mm."""
    found: list[tuple[Ref, float]] = []
    width = lane_width(path)

    def walk(items: tuple[Item, ...], x: float) -> None:
        for item in items:
            if isinstance(item, Ref):
                found.append((item, x))
            elif isinstance(item, Group):
                lane = x
                for branch in item.branches:
                    walk(branch, lane)
                    lane += measure(branch)[0] * width

    walk(path.items, place.x)
    return found


def device_places(circuit: Circuit, job: Job, places: dict[str, PathPlace]) -> dict[str, tuple[int, int]]:
    """Return (sheet, column) where each device is drawn: at its coil or poles, else where it is first met."""
    found: dict[str, tuple[int, int]] = {}
    coils: dict[str, tuple[int, int]] = {}
    for path in circuit.paths:
        place = places[path.key]
        for ref, x in spots_of(path, place):
            device, at = canonical_id(ref.device, job), (place.sheet, column_of(x))
            found.setdefault(device, at)
            if ref.what == "coil":
                coils.setdefault(device, at)
    return {**found, **coils}
