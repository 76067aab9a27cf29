"""Rules about room: plate, door, ducts and stock lengths."""

from collections import defaultdict
from collections.abc import Iterator
from math import pi, sqrt

from riktig.checks.finding import Finding, Severity
from riktig.plan.conductors import Conductor
from riktig.plan.pieces import STOCK_MM
from riktig.plan.plan import Plan

FILL_LIMIT_PERCENT = 60.0
_MIN_HOLE_PITCH_MM = 30.0


def check_door(plan: Plan) -> Iterator[Finding]:
    """Yield door holes outside the door or too close to each other.

    Source:
        IEC 60947-5-1 clause 6 hole spacing, from memory.
    """
    for cutout in plan.door.cutouts:
        r = cutout.diameter / 2
        if not (r < cutout.x < plan.door.width - r and r < cutout.y < plan.door.height - r):
            yield Finding(
                rule="door-too-small",
                severity=Severity.MUST,
                subject=cutout.device,
                message=f"{plan.tags[cutout.device]} does not fit on the door: take a larger enclosure, or put it elsewhere",
                evidence=f"{cutout.x:.0f}, {cutout.y:.0f} mm",
                limit=f"{plan.door.width:.0f} x {plan.door.height:.0f} mm",
                source="geometry",
            )
    holes = sorted(plan.door.cutouts, key=lambda c: (c.x, c.y))
    for place, one in enumerate(holes):
        for other in holes[place + 1 :]:
            if abs(one.x - other.x) < _MIN_HOLE_PITCH_MM and abs(one.y - other.y) < _MIN_HOLE_PITCH_MM:
                yield Finding(
                    rule="door-holes-close",
                    severity=Severity.MUST,
                    subject=other.device,
                    message=f"{plan.tags[one.device]} and {plan.tags[other.device]} sit closer than "
                    f"{_MIN_HOLE_PITCH_MM:g} mm on the door: move one",
                    evidence=f"{abs(one.x - other.x):.0f}, {abs(one.y - other.y):.0f} mm",
                    limit="30 mm",
                    source="IEC 60947-5-1, from memory",
                )


def outer_diameter_mm(mm2: float) -> float:
    """Return the outside diameter in mm of a PVC-insulated flexible wire of `mm2`.

    Source:
        Conductor diameter with 30 % for the stranding and insulation of 0.7 to 1.2 mm (EN 50525-2-31 class 5, from memory).
    """
    return 2 * sqrt(mm2 / pi) * 1.3 + 2 * (0.7 if mm2 <= 2.5 else 0.8 if mm2 <= 6 else 1.2)


def duct_loads(conductors: tuple[Conductor, ...]) -> dict[str, tuple[float, int]]:
    """Return by duct the largest area of wire in mm2 at any place along it, and the most power circuits there."""
    events: defaultdict[str, list[tuple[float, int, float, str | None]]] = defaultdict(list)
    for conductor in conductors:
        d = outer_diameter_mm(conductor.size.mm2)
        circuit = conductor.number if conductor.stage in {"feeds", "distribution"} else None
        for leg in conductor.legs:
            low, high = sorted((leg.start, leg.end))
            events[leg.duct].append((low, 1, d * d * pi / 4, circuit))
            events[leg.duct].append((high, -1, -d * d * pi / 4, circuit))
    loads = {}
    for duct, changes in events.items():
        area = most_area = 0.0
        lines = most_lines = 0
        for _, step, change, circuit in sorted(changes, key=lambda c: (c[0], -c[1])):
            area += change
            lines += step if circuit is not None else 0
            most_area, most_lines = max(most_area, area), max(most_lines, lines)
        loads[duct] = (most_area, -(-most_lines // 3))
    return loads


def fill_percent(plan: Plan) -> dict[str, float]:
    """Return the fill of each duct in percent of its inside at its fullest place."""
    loads = duct_loads(plan.conductors)
    return {d.code: round(100 * loads.get(d.code, (0.0, 0))[0] / (d.width * d.depth), 1) for d in plan.plate.ducts}


def check_ducts(plan: Plan) -> Iterator[Finding]:
    """Yield ducts that are too full, and ducts with more circuits together than the sizing assumed.

    Source:
        About 60 % fill: common practice, no source; grouping: IEC 60204-1:2016 Table D.2, from memory.
    """
    for code, percent in fill_percent(plan).items():
        if percent > FILL_LIMIT_PERCENT:
            yield Finding(
                rule="duct-fill",
                severity=Severity.SHOULD,
                subject=code,
                message=f"duct {code} is {percent:.0f} % full: take a larger one, or move parts closer to each other",
                evidence=f"{percent:.0f} %",
                limit=f"{FILL_LIMIT_PERCENT:g} %",
                source="common practice, no source",
            )
    for code, (_, circuits) in duct_loads(plan.conductors).items():
        if circuits > plan.job.practice.grouped and plan.job.practice.standard == "iec":
            yield Finding(
                rule="duct-grouping",
                severity=Severity.NOTE,
                subject=code,
                message=f"{circuits} power circuits lie together in duct {code}, sizes assume {plan.job.practice.grouped}: check that "
                "they are not all loaded at once, or part them",
                evidence=str(circuits),
                limit=str(plan.job.practice.grouped),
                source="IEC 60204-1:2016 Table D.2, from memory",
            )


def check_pieces(plan: Plan) -> Iterator[Finding]:
    """Yield rails and ducts longer than the stock they are cut from.

    Source:
        Geometry.
    """
    for cut in plan.cuts:
        if cut.length > STOCK_MM:
            yield Finding(
                rule="piece-too-long",
                severity=Severity.SHOULD,
                subject=cut.code,
                message=f"{cut.code} is {cut.length:.0f} mm long and stock is {STOCK_MM:.0f} mm: join two pieces, or buy longer",
                evidence=f"{cut.length:.0f} mm",
                limit=f"{STOCK_MM:.0f} mm",
                source="geometry",
            )
