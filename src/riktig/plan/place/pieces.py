"""Owns what the shop cuts and drills: rails, ducts, lids, holes. Must not know wires. mm in the plate's frame."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from riktig.catalogue.model import Mounting, Part
from riktig.job.model import Job
from riktig.job.practice import Standard
from riktig.plan.place.layout import RAIL_WIDTH_MM, Box, PlateLayout
from riktig.plan.place.stock import pack_bars

LID_GAP_MM = 1.0
"""How much shorter a horizontal lid is than the room between the upright ones, so that it does not bow (common practice)."""
HOLE_INSET_MM, HOLE_PITCH_MM = 15.0, 400.0
"""From the end of a rail or duct to its first hole, and from hole to hole at most (common practice, no source)."""
_FOOT_MM = 8.0
"""From the edge of a part that is screwed to the plate to its holes; its data sheet decides (common practice, no source)."""
_NARROW_MM, _LARGE_MM = 60.0, 300.0
TAP_DRILL_MM = {"M4": 3.3, "M5": 4.2, "M6": 5.0, "M8": 6.8, "10-32": 4.0, "1/4-20": 5.1, "5/16-18": 6.5}
"""Tap drills in mm: metric threads ISO 2306, unified ones by common practice, from memory."""
SCREWS = {
    Standard.IEC: {"rail": "M5", "part": "M5", "large": "M6"},
    Standard.UL: {"rail": "10-32", "part": "10-32", "large": "1/4-20"},
}
"""Threads of what is screwed to the plate (common practice, no source)."""
DRILL_SCREWS = {"M4": "ST4.2", "M5": "ST4.8", "M6": "ST6.3", "10-32": "#10", "1/4-20": "1/4 in"}
"""Self-drilling screws in place of threads: ISO 15480 and its inch sizes, from memory; larger threads are tapped in both schools."""
PILOT_MM = {"ST4.2": 3.0, "ST4.8": 3.3, "ST6.3": 4.5, "#10": 3.3, "1/4 in": 4.5}
"""Pilot or deep centre mark for a self-drilling screw, in mm (common practice, no source)."""
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


def cut_pieces(job: Job, layout: PlateLayout) -> tuple[Cut, ...]:
    """Return all pieces bar by bar, as few bars of each profile as can be; k pieces of a bar cost k-1 cuts."""
    pieces: dict[str, list[tuple[str, str, float]]] = {}
    for rail in layout.rails:
        pieces.setdefault(RAIL_PROFILE, []).append((rail.code, "rail", rail.length))
    for duct in layout.ducts:
        pieces.setdefault(f"duct {duct.width:g}x{duct.depth:g}", []).append((duct.code, "duct", duct.length))
        lid = duct.length if duct.is_vertical else duct.length - LID_GAP_MM
        pieces.setdefault(f"lid {duct.width:g}", []).append((f"L{duct.code[1:]}", "lid", lid))
    cuts = []
    for profile, members in sorted(pieces.items()):
        bars = pack_bars([length for *_, length in members], job.practice.stock, job.practice.kerf)
        for number, bar in enumerate(bars, start=1):
            for code, what, length in (members[k] for k in bar):
                cuts.append(Cut(code=code, what=what, profile=profile, length=length, bar=number))
    return tuple(cuts)


def waste_mm(job: Job, cuts: tuple[Cut, ...]) -> dict[str, float]:
    """Return what is left over of the bars of each profile, cuts and all, in mm."""
    bars = {
        profile: max(c.bar for c in cuts if c.profile == profile) for profile in dict.fromkeys(c.profile for c in cuts)
    }
    return {
        profile: count * job.practice.stock - sum(c.length for c in cuts if c.profile == profile)
        for profile, count in bars.items()
    }


def drill_holes(job: Job, layout: PlateLayout, parts: Mapping[str, Part]) -> tuple[Hole, ...]:
    """Return every hole of the plate: rails, ducts, and the parts that do not sit on rail, which get forgotten.

    Holes of parts are those of their data, else follow their outline; the part in the hand decides.
    """
    screws = SCREWS[job.practice.standard]
    is_tapped = job.practice.fixing == "tapped"

    def hole(x: float, y: float, thread: str, target: str) -> Hole:
        screw = None if is_tapped else DRILL_SCREWS.get(thread)
        fix = f"tap {thread}" if screw is None else f"self-drilling {screw}, pilot"
        diameter = TAP_DRILL_MM[thread] if screw is None else PILOT_MM[screw]
        return Hole(x=round(x, 1), y=round(y, 1), diameter=diameter, fix=fix, target=target)

    holes: list[Hole] = []
    for rail in layout.rails:
        holes.extend(hole(x, rail.y, screws["rail"], rail.code) for x in _spread(rail.x, rail.length))
    for duct in layout.ducts:
        b = duct.box
        ends = _spread(b.y, b.h) if duct.is_vertical else _spread(b.x, b.w)
        places = ((duct.level, at) if duct.is_vertical else (at, duct.level) for at in ends)
        holes.extend(hole(x, y, screws["rail"], duct.code) for x, y in places)
    for item, box in layout.boxes.items():
        part = parts.get(item)
        if part is None or part.mounting not in _SCREWED:
            continue
        if part.rating("hole_mm"):
            x, y = box.centre
            fix = f"through, for {part.traits.get('thread', 'stud')}"
            holes.append(Hole(x=round(x, 1), y=round(y, 1), diameter=part.rating("hole_mm"), fix=fix, target=item))
            continue
        usual = screws["large" if max(box.w, box.h) > _LARGE_MM else "part"]
        if part.holes:
            holes.extend(hole(box.x + at.x, box.y + at.y, at.thread or usual, item) for at in part.holes)
        else:
            holes.extend(hole(x, y, usual, item) for x, y in _feet(box))
    return tuple(holes)


_SCREWED = frozenset({Mounting.PLATE, Mounting.FIELD})
"""What is screwed to the plate where it stands there: a part for the field does not clip on a rail either."""


def _feet(box: Box) -> Iterator[tuple[float, float]]:
    """Yield where a part is screwed down: at its corners, a narrow or low one at both ends of its middle line."""
    x, y = box.centre
    if box.h < 2 * HOLE_INSET_MM:
        yield from ((box.x + _FOOT_MM, y), (box.right - _FOOT_MM, y))
    elif box.w < _NARROW_MM:
        yield from ((x, box.y + _FOOT_MM), (x, box.top - _FOOT_MM))
    else:
        for across in (box.x + _FOOT_MM, box.right - _FOOT_MM):
            yield from ((across, box.y + _FOOT_MM), (across, box.top - _FOOT_MM))


def _spread(start: float, length: float) -> list[float]:
    """Return places along a piece: one near each end and more where the gap would pass the pitch."""
    inset = min(HOLE_INSET_MM, length / 4)
    span = length - 2 * inset
    steps = max(1, -int(-span // HOLE_PITCH_MM))
    return [start + inset + span * i / steps for i in range(steps + 1)]
