"""Owns over which neighbours on the plate, live with the main switch off, one cover goes. Must not know how it is drawn.

Source: what stays live is set apart or covered and marked: IEC 60204-1:2016 5.3.5, NFPA 79:2021 5.3.5, from memory.
"""

from collections.abc import Collection, Sequence

from riktig.plan.place.layout import Box, PlateLayout

_AROUND_MM, _GAP_MM = 2.0, 60.0
"""From a part to the edge of its cover, and how wide a gap one goes over (common practice, no source)."""


def covers(plate: PlateLayout, free: Collection[str] = ()) -> tuple[tuple[tuple[str, ...], Box], ...]:
    """Return what each cover goes over, and its box in mm of the plate: neighbours of one row that are live, with nothing else and no wide
    gap between; `free` are the parts over which none goes.
    """
    live = {item.id for item in plate.items.values() if item.stays_live and item.id not in free}
    rows: dict[int, list[str]] = {}
    for name in sorted(plate.boxes, key=lambda name: plate.boxes[name].x):
        rows.setdefault(plate.row_of[name], []).append(name)
    runs: list[list[str]] = []
    for row in sorted(rows):
        before: Box | None = None
        for name in rows[row]:
            box = plate.boxes[name]
            if name not in live:
                before = None
                continue
            if before is None or box.x - before.right > _GAP_MM:
                runs.append([])
            runs[-1].append(name)
            before = box
    return tuple((tuple(names), _around([plate.boxes[name] for name in names])) for names in runs)


def _around(boxes: Sequence[Box]) -> Box:
    left, low = min(b.x for b in boxes) - _AROUND_MM, min(b.y for b in boxes) - _AROUND_MM
    right, top = max(b.right for b in boxes) + _AROUND_MM, max(b.top for b in boxes) + _AROUND_MM
    return Box(x=left, y=low, w=right - left, h=top - low)
