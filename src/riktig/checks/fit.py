"""Rules about room in ducts and about stock lengths."""

from collections.abc import Iterator

from riktig.checks.finding import Finding, Severity
from riktig.plan.plan import Plan
from riktig.plan.wiring.duct_fill import FILL_LIMIT
from riktig.plan.wiring.grouping import Crowded
from riktig.units.numbers import format_number

FILL_LIMIT_PERCENT = 100 * FILL_LIMIT


def check_ducts(plan: Plan) -> Iterator[Finding]:
    """Yield ducts that are too full.

    Source:
        About 60 % fill: common practice, no source.
    """
    for code, percent in plan.fill_percent.items():
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


def _mend_first(plan: Plan, *, is_owned: bool) -> str:
    """Return what mends it besides arranging; nothing for motors whose sizes follow the ducts already, but for what a hand moved since."""
    if not is_owned:
        return "lead them by themselves, or "
    return 'write [practice] grouping = "laid", or ' if plan.job.practice.grouping == "declared" else ""


def check_grouping(plan: Plan) -> Iterator[Finding]:
    """Yield power wires that carry too little among the circuits that really lie in one duct with them, once for a duct.

    Source:
        IEC 60204-1:2016 Table D.2; IEC 60364-5-52 Table B.52.17 with its notes; from memory.
    """
    if plan.job.practice.standard != "iec":
        return
    alike: dict[tuple[str, int, bool], list[Crowded]] = {}
    for one in plan.crowded:
        alike.setdefault((one.duct, one.circuits, bool(one.leg.owner)), []).append(one)
    for (duct, circuits, is_owned), members in alike.items():
        names = list(dict.fromkeys(name for one in members for name in one.leg.owner.split()))
        found = min(members, key=lambda one: one.carries / one.leg.amps)
        whose = f"of {', '.join(plan.tags[name] for name in names)}" if is_owned else "from the main switch"
        worst = (
            f", worst those of {' and '.join(plan.tags[n] for n in found.leg.owner.split())}"
            if len(members) > 1
            else ""
        )
        yield Finding(
            rule="duct-grouping", severity=Severity.SHOULD, subject=names[0] if names else "Q0",
            message=f"{circuits} loaded circuits lie together in duct {duct}: there the wires {whose} carry too little{worst}, "
            f"{found.leg.wire.size.label()} for {format_number(found.leg.amps)} A carries {format_number(found.carries)} A: "
            + _mend_first(plan, is_owned=is_owned)
            + "arrange the plate so that fewer lie together",
            evidence=f"{format_number(found.carries)} A", limit=f"{format_number(found.leg.amps)} A",
            source="IEC 60204-1:2016 Table D.2, from memory",
        )  # fmt: skip


def check_pieces(plan: Plan) -> Iterator[Finding]:
    """Yield, once, the rails and ducts longer than the stock they are cut from.

    Source:
        Geometry.
    """
    stock = plan.job.practice.stock
    long = {cut.code: cut.length for cut in plan.cuts if cut.length > stock}
    if long:
        longest = max(long.values())
        words = (
            f"{', '.join(long)} are up to {longest:.0f} mm"
            if len(long) > 1
            else f"{next(iter(long))} is {longest:.0f} mm"
        )
        yield Finding(
            rule="piece-too-long", severity=Severity.SHOULD, subject=next(iter(long)), evidence=f"{longest:.0f} mm",
            limit=f"{stock:.0f} mm",
            message=f"{words} long and stock is {stock:.0f} mm: join two pieces, or buy longer and write [practice] stock",
            source="geometry",
        )  # fmt: skip
