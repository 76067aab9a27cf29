"""Rules about room: plate, door, ducts and stock lengths."""

from collections.abc import Iterator

from riktig.checks.finding import Finding, Severity
from riktig.plan.duct_fill import FILL_LIMIT, fill_percent, loads_of
from riktig.plan.pieces import STOCK_MM
from riktig.plan.plan import Plan

FILL_LIMIT_PERCENT = 100 * FILL_LIMIT
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
                message=f"duct {code} is {percent:.0f} % full: take a larger one, or arrange the plate again",
                evidence=f"{percent:.0f} %",
                limit=f"{FILL_LIMIT_PERCENT:g} %",
                source="common practice, no source",
            )
    for code, (_, circuits) in loads_of(plan).items():
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
