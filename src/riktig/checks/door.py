"""Rules about door, entry wall and operator stations: holes, depth, shafts, glands."""

from collections.abc import Iterator, Sequence
from itertools import combinations

from riktig.checks.finding import Finding, Severity
from riktig.job.practice import Standard
from riktig.plan.changes.door import missing_between, near_pairs
from riktig.plan.place.depth import FRAME
from riktig.plan.place.door import Cutout
from riktig.plan.place.door_groups import OPERATED_KINDS, row_of
from riktig.plan.place.heights import floor_to_bottom
from riktig.plan.plan import Plan
from riktig.plan.wiring.entries import NUT_SHARE, SPANNER_MM
from riktig.standards.degrees import DEGREE_HINT, keeps, read_degree
from riktig.standards.iec_60947_5_1 import SOURCE_HOLES
from riktig.standards.operator_heights import Operated, reach_of


def check_holes(plan: Plan) -> Iterator[Finding]:
    """Yield holes of the door outside it or too close to each other.

    Source:
        IEC 60947-5-1 6.3, from memory; between other cut-outs common practice, no source.
    """
    for cutout in plan.door.cutouts:
        if not _is_on(plan, cutout):
            yield Finding(
                rule="door-too-small",
                severity=Severity.MUST,
                subject=cutout.device,
                message=f"{plan.name_of(cutout.device)} does not fit on the door: take a larger enclosure, or put it elsewhere",
                evidence=f"its middle at {cutout.x:.0f}/{cutout.y:.0f} mm",
                limit=f"a door of {plan.door.width:.0f} x {plan.door.height:.0f} mm",
                source="geometry",
            )
    yield from _too_close(plan, plan.door.cutouts, "door-holes-close", "on the door")


def _too_close(plan: Plan, cutouts: Sequence[Cutout], rule: str, where: str) -> Iterator[Finding]:
    for one, other in near_pairs(cutouts):
        missing, limit = missing_between(one, other)
        if missing > 1e-6:
            names = f"{plan.name_of(one.device)} and {plan.name_of(other.device)}"
            yield Finding(
                rule=rule, severity=Severity.MUST, subject=other.device,
                message=f"{names} sit {missing:.0f} mm too close {where}: move one",
                evidence=f"{abs(one.x - other.x):.0f}, {abs(one.y - other.y):.0f} mm apart", limit=limit, source=str(SOURCE_HOLES),
            )  # fmt: skip


def _is_on(plan: Plan, cutout: Cutout) -> bool:
    b = cutout.box
    return b.x > 0 and b.right < plan.door.width and b.y > 0 and b.top < plan.door.height


def check_heights(plan: Plan) -> Iterator[Finding]:
    """Yield handles, emergency stops and controls of the door that are too high or too low above the floor.

    Source:
        IEC 60204-1:2016 5.3.4, 10.1.1; NFPA 79:2021 5.3.4, 10.1.1; from memory. Where nobody says how high the enclosure is, that is
        taken as usual, and the finding says so.
    """
    box, is_iec = plan.job.enclosure, plan.job.practice.standard is Standard.IEC
    floor, is_said = floor_to_bottom(box), box.floor_to_bottom is not None
    wrong: dict[tuple[Operated, bool], list[Cutout]] = {}
    for cutout in plan.door.cutouts:
        what = _operated(plan, cutout.device)
        if what is None or not _is_on(plan, cutout):
            continue
        reach = reach_of(what, is_iec=is_iec)
        height = cutout.y + floor
        if not reach.least <= height <= reach.most:
            wrong.setdefault((what, height < reach.least), []).append(cutout)
    for (what, is_low), cutouts in wrong.items():
        reach = reach_of(what, is_iec=is_iec)
        worst = (min if is_low else max)(cutouts, key=lambda c: c.y)
        limit = reach.least if is_low else reach.most
        names = ", ".join(plan.name_of(cutout.device) for cutout in cutouts)
        taken = "" if is_said else f", taken that the enclosure hangs or stands {floor:.0f} mm above it"
        article = "an" if what == "emergency stop" else "a"
        move = "its row on the plate" if what == "main switch" else "it on the door"
        yield Finding(
            rule="operator-height", severity=Severity.MUST if is_said else Severity.SHOULD, subject=worst.device,
            message=f"{names}: {worst.y + floor:.0f} mm above the floor{taken}, where {article} {what} is {limit:.0f} mm at "
            f"{'least' if is_low else 'most'}: move {move}, or write [enclosure] floor_to_bottom as it will be",
            evidence=f"{worst.y + floor:.0f} mm", limit=f"{'least' if is_low else 'most'} {limit:.0f} mm", source=str(reach.source),
        )  # fmt: skip


def _operated(plan: Plan, device: str) -> Operated | None:
    """Return what people operate at a cut-out, None where they only look at it."""
    if device == "Q0":
        return "main switch"
    found = plan.circuit.index.get(device)
    if found is None or row_of(found.kind, found.colour).is_read or found.kind not in OPERATED_KINDS:
        return None
    return "emergency stop" if found.kind == "emergency-stop" else "control"


_BREATHING = frozenset({"fan", "outlet-filter"})
"""What lets air through."""


def check_openings(plan: Plan) -> Iterator[Finding]:
    """Yield fans, filters, operators and lamps in door or side walls that keep less out than the enclosure is stated to.

    Source:
        An assembly has the degree of protection of its weakest opening: IEC 61439-1 8.2.2, IEC 60529, UL 50E; from memory.
    """
    rating = plan.job.enclosure.rating
    around = plan.door.boxes.keys() | {cutout.device for wall in plan.walls for cutout in wall.cutouts}
    openings = [device for device, part in plan.parts.items() if device in around and "ip" in part.traits]
    degree = read_degree(rating)
    keep = [plan.parts[device].traits for device in openings]
    poor = [
        d
        for d, t in zip(openings, keep, strict=True)
        if degree is not None and not keeps(degree, t["ip"], t.get("ul_type", ""))
    ]
    for breathes in (True, False):
        alike = [device for device in poor if (plan.parts[device].kind in _BREATHING) is breathes]
        if not alike:
            continue
        traits = plan.parts[alike[0]].traits
        kept = f"IP{traits['ip']} or type {traits.get('ul_type', 'none')}"
        mend = (
            "or carry the heat away through its walls (a larger one, or a cooler)"
            if breathes
            else "or take ones that keep more out"
        )
        yield Finding(
            rule="opening-rating", severity=Severity.SHOULD, subject=alike[0], evidence=kept, limit=rating,
            message=f"{', '.join(plan.name_of(device) for device in alike)} in door or wall of an enclosure {rating} keep {kept}: "
            f"write that for the enclosure, {mend}",
            source="IEC 61439-1 8.2.2, IEC 60529, UL 50E, from memory",
        )  # fmt: skip
    yield from _glands(plan)


def _glands(plan: Plan) -> Iterator[Finding]:
    """Yield glands and fittings that are stated to keep less out than the enclosure."""
    rating, stated = plan.job.enclosure.rating, plan.job.enclosure.glands
    degree, own = read_degree(rating), read_degree(stated or "")
    if stated is None or degree is None or not plan.entries:
        return
    if own is None:
        words = f"'{stated}' is no degree of protection: {DEGREE_HINT}"
    elif not (
        keeps(degree, "00", own.type)
        if own.is_type or degree.is_type
        else keeps(degree, f"{own.solids}{own.water}", "")
    ):
        words = (
            f"glands and fittings of {stated} in an enclosure {rating}: take ones that keep as much out, or write that for the "
            "enclosure"
        )
    else:
        return
    yield Finding(
        rule="opening-rating", severity=Severity.SHOULD, subject=plan.entries[0].key, evidence=stated, limit=rating, message=words,
        source="IEC 61439-1 8.2.2, IEC 60529, IEC 62444, UL 514B, from memory",
    )  # fmt: skip


def check_depth(plan: Plan) -> Iterator[Finding]:
    """Yield door parts that meet what stands on the plate, when the door is shut or while it swings.

    Source:
        Geometry, with common practice for frame, rail and the bend of wires.
    """
    for fault in plan.door.meetings:
        door = plan.name_of(fault.door)
        other = "the frame of the enclosure" if fault.plate == FRAME else plan.name_of(fault.plate)
        how = f"when the door has opened {fault.angle:.0f} degrees" if fault.angle else "when the door is shut"
        yield Finding(
            rule="door-depth",
            severity=Severity.MUST,
            subject=fault.door,
            message=f"{door} meets {other} {how}, it is {fault.missing:.0f} mm too deep: move one of them, "
            "or take a deeper enclosure",
            evidence=f"{fault.missing:.0f} mm",
            limit="0 mm",
            source="geometry; common practice, no source",
        )


def check_shaft(plan: Plan) -> Iterator[Finding]:
    """Yield a main switch that stands out further than the door is away.

    Source:
        Geometry.
    """
    if plan.door.shaft is not None and plan.door.shaft <= 0:
        yield Finding(
            rule="shaft-too-short",
            severity=Severity.MUST,
            subject="Q0",
            message=f"{plan.tags['Q0']} stands {-plan.door.shaft:.0f} mm through the door: take a deeper enclosure",
            evidence=f"{plan.door.shaft:.0f} mm",
            limit="more than 0 mm",
            source="geometry",
        )


def check_entries(plan: Plan) -> Iterator[Finding]:
    """Yield cables whose glands have no room in the entry wall, and two that a person put too close to each other.

    Source:
        Geometry of nuts and spanners, common practice, no source.
    """
    without = [entry for entry in plan.entries if not entry.fits]
    if without:
        names = ", ".join(e.words for e in without[:6])
        more = f" and {len(without) - 6} more" if len(without) > 6 else ""
        yield Finding(
            rule="entry-wall-full",
            severity=Severity.MUST,
            subject="plate",
            message=f"the entry wall has no room for {names}{more}: take a wider or deeper enclosure, or a gland plate with "
            "multiple entries",
            evidence=f"{len(without)} too many",
            limit=f"{plan.job.enclosure.width:.0f} x {plan.job.enclosure.depth:.0f} mm",
            source="common practice, no source",
        )
    held = [entry for entry in plan.entries if entry.fits and entry.key in plan.job.ledger.holes]
    for one, other in combinations(held, 2):
        missing = one.missing_to(other)
        if missing > 1.0:
            yield Finding(
                rule="entries-close", severity=Severity.MUST, subject=f"cable:{other.cable}",
                message=f"{one.words} and {other.words} come in {missing:.0f} mm too close to each other for their nuts and a spanner: "
                "move one in the entry wall, or let it go",
                evidence=f"{abs(one.x - other.x):.0f}, {abs(one.z - other.z):.0f} mm apart",
                limit=f"nuts of {NUT_SHARE:g} times the hole, {SPANNER_MM:g} mm between", source="common practice, no source",
            )  # fmt: skip


def check_walls(plan: Plan) -> Iterator[Finding]:
    """Yield what is cut into side walls beyond their edge, too close to another cut-out, or meets what is inside.

    Source:
        Geometry; web between cut-outs by common practice, no source.
    """
    for wall in plan.walls:
        where = f"in the {wall.side} wall"
        yield from _too_close(plan, wall.cutouts, "wall-holes-close", where)
        for cutout in wall.cutouts:
            b, name = cutout.box, plan.name_of(cutout.device)
            if min(b.x, b.y, wall.width - b.right, wall.height - b.top) <= 0:
                yield Finding(
                    rule="wall-too-small", severity=Severity.MUST, subject=cutout.device, source="geometry",
                    message=f"{name} does not fit {where}: take a deeper enclosure, or put it elsewhere",
                    evidence=f"{b.w:g} x {b.h:g} mm at {cutout.x:g}/{cutout.y:g}", limit=f"{wall.width:g} x {wall.height:g} mm",
                )  # fmt: skip
        worst = {fault.device: fault for fault in sorted(wall.meetings, key=lambda fault: fault.missing)}
        for fault in worst.values():
            one, other = plan.name_of(fault.device), plan.name_of(fault.other)
            yield Finding(
                rule="wall-depth", severity=Severity.MUST, subject=fault.device,
                message=f"{one} {where} meets {other} inside, it is {fault.missing:.0f} mm too deep: move one of them, or take a deeper "
                "enclosure",
                evidence=f"{fault.missing:.0f} mm", limit="0 mm", source="geometry; common practice, no source",
            )  # fmt: skip


def check_stations(plan: Plan) -> Iterator[Finding]:
    """Yield operator stations for which no box of the series is large or deep enough, and holes in a lid that are too close.

    Source:
        Geometry; series of boxes by common practice, no source; IEC 60947-5-1 6.3, from memory.
    """
    for station in plan.stations:
        yield from _too_close(
            plan, station.cutouts, "station-holes-close", f"in the lid of station '{station.location}'"
        )
        if not station.fits:
            yield Finding(
                rule="station-too-small",
                severity=Severity.SHOULD,
                subject=station.cutouts[0].device,
                message=f"no box of the series takes what is at '{station.location}': {station.needs}; part it into two boxes",
                evidence=f"asks for {station.needs}",
                limit="the largest box of the series",
                source="common practice, no source",
            )
