"""Rules about what clears a fault at the far end of a cable."""

from collections.abc import Iterator

from riktig.checks.finding import Finding, Severity
from riktig.plan.plan import Plan
from riktig.plan.sizes.loops import Loop
from riktig.standards import iec_60228, iec_60364_4
from riktig.units.conductor_size import METRIC_MM2
from riktig.units.numbers import format_number


def check_disconnection(plan: Plan) -> Iterator[Finding]:
    """Yield circuits whose protective device does not surely open in time for a fault at the far end of their cable; where that hangs on
    how much flows to earth at the panel, and nobody has stated it, that is asked.

    Source:
        IEC 60204-1:2016 18.2 and Annex A, IEC 60364-4-41 411.3.2, 411.4.4, from memory.
    """
    uncleared = [loop for loop in plan.loops if not loop.is_cleared]
    yield from _in_tt(plan, [loop for loop in uncleared if loop.is_tt])
    for loop in uncleared:
        tag, device = plan.tags[loop.load], plan.tags[loop.device]
        if loop.is_tt:
            continue
        hangs = loop.is_cleared_at_best
        yield Finding(
            rule="disconnection", severity=Severity.SHOULD if hangs else Severity.MUST, subject=loop.load, asks=loop.asks if hangs else "",
            evidence=f"{format_number(loop.fault_a)} A",
            message=f"a fault to earth at {tag} draws {format_number(loop.fault_a)} A through {loop.metres:g} m of "
            f"{loop.size.label()}, and {device} surely opens within {loop.time_s:g} s only from {format_number(loop.trips_a)} A: "
            + (f"have the loop measured at the panel and write {loop.asks}, or " if hangs else "")
            + _mend(loop),
            limit=f"{format_number(loop.trips_a)} A", source=str(iec_60364_4.SOURCE_DISCONNECTION),
        )  # fmt: skip


def _in_tt(plan: Plan, loops: list[Loop]) -> Iterator[Finding]:
    """Yield, once for a panel, the circuits that nothing opens for a fault to earth in TT."""
    if not loops:
        return
    devices, loads = (", ".join(plan.tags[name] for name in names) for names in (
        dict.fromkeys(loop.device for loop in loops), dict.fromkeys(loop.load for loop in loops),
    ))  # fmt: skip
    has_drive = any(sizes.starter.kind == "drive" for sizes in plan.starters.values())
    sort = " (type B where a drive hangs behind it)" if has_drive else ""
    yield Finding(
        rule="disconnection", severity=Severity.MUST, subject=loops[0].load, evidence="no residual-current device",
        message=f"in TT {devices} open for no fault to earth at {loads}: put residual-current devices{sort} into their paths, or say to "
        "whoever installs the supply that one must stand ahead of the panel, and write [supply] rcd_ma",
        limit="R_A · I_Δn at most 50 V", source="IEC 60364-4-41 411.5.3, from memory",
    )  # fmt: skip


def _mend(loop: Loop) -> str:
    """Return what mends it: a thicker cable that reaches far enough, where there is one."""
    now = iec_60228.resistance_ohm_per_m(loop.size.mm2)
    for mm2 in METRIC_MM2:
        share = iec_60228.resistance_ohm_per_m(mm2) / now
        if mm2 > loop.size.mm2 and loop.longest_m > 0 and loop.longest_m / share >= loop.metres:
            return f"take {mm2:g} mm² for its cable, or a device that opens sooner (a motor breaker, another curve, a residual-current one)"
    if loop.longest_m <= 0:
        return (
            "the supply is too weak for it at any length: take a device that opens sooner, add a residual-current device, or state a "
            "larger fault_ka if there is one"
        )
    return "shorten the way, or take a device that opens sooner, such as a residual-current one"


def check_heating(plan: Plan) -> Iterator[Finding]:
    """Yield cables that do not stand what flows through them until their device has opened.

    Source:
        IEC 60364-4-43 434.5.2, from memory; let-through of breakers: usual values, common practice.
    """
    for loop in plan.loops:
        if not loop.is_stood and loop.is_cleared:
            at = "at its beginning" if loop.let_a2s[0] > loop.stands_a2s else "at its far end"
            yield Finding(
                rule="fault-heating", severity=Severity.MUST, subject=loop.load, evidence=f"{max(loop.let_a2s):.0f} A²s",
                message=f"{plan.tags[loop.device]} lets {max(loop.let_a2s):.0f} A²s through for a fault {at} and the cable of "
                f"{plan.tags[loop.load]}, {loop.size.label()}, stands {loop.stands_a2s:.0f} A²s: take a larger one, or a device that "
                "lets less through",
                limit=f"{loop.stands_a2s:.0f} A²s", source=f"{iec_60364_4.SOURCE_HEATING}; let-through: usual values, common practice",
            )  # fmt: skip
