"""Owns what the shop cuts and drills: rails, ducts, lids, holes. Must not know wires. mm in the plate's frame."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.model import Mounting, Part
from riktig.job.model import Job
from riktig.plan.plate import RAIL_WIDTH_MM, PlateLayout

STOCK_MM = 2000.0
KERF_MM = 3.0
LID_GAP_MM = 1.0
HOLE_INSET_MM = 15.0
HOLE_PITCH_MM = 400.0
TAP_DRILL = {"M5": 4.2, "M6": 5.0}
"""Tap drills in mm, ISO 2306, from memory."""
PILOT_MM = 3.3
RAIL_PROFILE = f"rail {RAIL_WIDTH_MM:g}x7.5"


@dataclass(frozen=True, slots=True, kw_only=True)
class Cut:
    """A piece to cut: `code` is printed on it, `what` rail, duct or lid; `bar` counts from 1 within a profile."""

    code: str
    what: str
    profile: str
    length: float
    bar: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Hole:
    """A hole in the plate: centre and diameter in mm, how it fixes, and the code or device id it is for."""

    x: float
    y: float
    diameter: float
    fix: str
    target: str


def cut_pieces(layout: PlateLayout) -> tuple[Cut, ...]:
    """Return all pieces bar by bar, packed by first fit, longest first; k pieces of a bar cost k-1 kerfs."""
    pieces = [(rail.code, "rail", RAIL_PROFILE, rail.length) for rail in layout.rails]
    for duct in layout.ducts:
        pieces.append((duct.code, "duct", f"duct {duct.width:g}x{duct.depth:g}", duct.length))
        lid = duct.length if duct.is_vertical else duct.length - LID_GAP_MM
        pieces.append((f"L{duct.code[1:]}", "lid", f"lid {duct.width:g}", lid))
    bars: dict[str, list[float]] = {}
    cuts = []
    for code, what, profile, length in sorted(pieces, key=lambda p: (p[2], -p[3], p[0])):
        used = bars.setdefault(profile, [])
        bar = next((i for i, u in enumerate(used) if u + KERF_MM + length <= STOCK_MM), None)
        if bar is None:
            used.append(length)
            bar = len(used) - 1
        else:
            used[bar] += KERF_MM + length
        cuts.append(Cut(code=code, what=what, profile=profile, length=length, bar=bar + 1))
    return tuple(sorted(cuts, key=lambda c: (c.profile, c.bar, -c.length, c.code)))


def drill_holes(job: Job, layout: PlateLayout, parts: Mapping[str, Part]) -> tuple[Hole, ...]:
    """Return every hole of the plate: rails, ducts, and the parts that do not sit on rail, which get forgotten."""
    is_tapped = job.practice.fixing == "tapped"

    def hole(x: float, y: float, thread: str, target: str) -> Hole:
        diameter = TAP_DRILL[thread] if is_tapped else PILOT_MM
        fix = f"tap {thread}" if is_tapped else f"self-drilling {thread.replace('M', 'ST')}, centre mark"
        return Hole(x=round(x, 1), y=round(y, 1), diameter=diameter, fix=fix, target=target)

    holes: list[Hole] = []
    for rail in layout.rails:
        holes.extend(hole(x, rail.y, "M5", rail.code) for x in _spread(rail.x, rail.length))
    for duct in layout.ducts:
        x, y = duct.box.centre
        if duct.is_vertical:
            holes.extend(hole(x, at, "M5", duct.code) for at in _spread(duct.box.y, duct.box.h))
        else:
            holes.extend(hole(at, y, "M5", duct.code) for at in _spread(duct.box.x, duct.box.w))
    for item, box in layout.boxes.items():
        part = parts.get(item)
        if part is None or part.mounting is not Mounting.PLATE:
            continue
        x, y = box.centre
        if part.rating("hole_mm"):
            fix = f"through, for {part.traits.get('thread', 'stud')}"
            holes.append(Hole(x=x, y=y, diameter=part.rating("hole_mm"), fix=fix, target=item))
        elif box.h < 2 * HOLE_INSET_MM:
            holes.extend(hole(at, y, "M5", item) for at in (box.x + 8, box.x + box.w - 8))
        else:
            corners = [(box.x + 8, box.y + 8), (box.x + box.w - 8, box.y + box.h - 8)]
            holes.extend(hole(cx, cy, "M6", item) for cx, cy in corners)
    return tuple(holes)


def _spread(start: float, length: float) -> list[float]:
    """Return places along a piece: one near each end and more where the gap would pass the pitch."""
    inset = min(HOLE_INSET_MM, length / 4)
    span = length - 2 * inset
    steps = max(1, -int(-span // HOLE_PITCH_MM))
    return [start + inset + span * i / steps for i in range(steps + 1)]
