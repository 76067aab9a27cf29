"""Rules about where things stand on the plate."""

from collections.abc import Callable, Iterator, Sequence

from riktig.checks.finding import Finding, Severity
from riktig.plan.place.faults import FaultKind, PlateFault, find_faults
from riktig.plan.plan import Plan

_SLACK = 1e-6
_LACKING = {FaultKind.RAIL: "no rail under it", FaultKind.REACH: "no free way to a duct"}
_WANTED = {
    FaultKind.RAIL: "a rail",
    FaultKind.REACH: "a duct beside it",
    FaultKind.LOOSE: "ends that meet a duct",
    FaultKind.OVERLAP: "no overlap",
}


def say_fault(fault: PlateFault, name: Callable[[str], str]) -> str:
    """Return in one sentence what is wrong, by how many mm, and the mend.

    Args:
        fault: what stands where it must not.
        name: what people call an id.
    """
    item, other, mm = name(fault.item), name(fault.other), f"{fault.missing:.0f} mm"
    return {
        FaultKind.OUTSIDE: f"{item} stands {mm} over the edge of the plate: move it, or take a larger enclosure",
        FaultKind.OVERLAP: f"{item} and {other} overlap by {mm}: move one of them",
        FaultKind.ROOM: f"{item} stands {mm} too close to {other}: move it, or move {other} away",
        FaultKind.RAIL: f"{item} stands {mm} over the end of {other}: move it, or make the rail longer"
        if other
        else f"{item} sits on a rail and has none: put it on one",
        FaultKind.REACH: f"no wire reaches {item}: {other} stands between it and the duct, move one of them"
        if other
        else f"no wire reaches {item}: there is no duct beside it, add one or move it",
        FaultKind.LOOSE: f"duct {item} joins no other duct, {mm} from {other}: move it there, or make it longer",
    }[fault.kind]


def check_places(plan: Plan) -> Iterator[Finding]:
    """Yield what stands on something else, over an edge, too close to a duct or out of reach of one.

    Source:
        Geometry; clearances as the catalogue has them; finger room by common practice, no source.
    """
    faults = find_faults(plan.plate)
    yield from _too_small(plan, [fault.item for fault in faults if fault.kind is FaultKind.OUTSIDE])
    for fault in faults:
        if fault.kind is not FaultKind.OUTSIDE:
            yield Finding(
                rule=f"plate-{fault.kind}",
                severity=Severity.MUST,
                subject=fault.item,
                message=say_fault(fault, plan.name_of),
                evidence=f"{fault.missing:.0f} mm missing"
                if fault.missing
                else _LACKING.get(fault.kind, "0 mm missing"),
                limit=_WANTED.get(fault.kind, "nothing missing"),
                source="common practice, no source" if fault.kind in {FaultKind.ROOM, FaultKind.REACH} else "geometry",
            )


def _too_small(plan: Plan, outside: Sequence[str]) -> Iterator[Finding]:
    """Yield by how much the plate is too low or too narrow for what reaches over its edges, in one sentence each."""
    plate = plan.plate
    boxes = {**plate.boxes, **{r.code: r.box for r in plate.rails}, **{d.code: d.box for d in plate.ducts}}
    over = [boxes[name] for name in outside]
    up = max(0.0, *(b.top - plate.height for b in over), 0.0) + max(0.0, *(-b.y for b in over), 0.0)
    wide = max(0.0, *(b.right - plate.width for b in over), 0.0) + max(0.0, *(-b.x for b in over), 0.0)
    for rule, missing, side, has, now in (
        ("plate-too-small", up, "high", plate.height, plan.job.enclosure.height),
        ("plate-too-narrow", wide, "wide", plate.width, plan.job.enclosure.width),
    ):
        if missing > _SLACK:
            yield Finding(
                rule=rule,
                severity=Severity.MUST,
                subject="plate",
                message=f"the plate is {missing:.0f} mm less {side} than what stands on it: take an enclosure at least "
                f"{now + missing:.0f} mm {side}, or arrange the plate again",
                evidence=f"{has + missing:.0f} mm",
                limit=f"{has:.0f} mm",
                source="geometry",
            )
