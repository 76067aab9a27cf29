"""Rules about room in ducts and about stock lengths."""

from collections.abc import Iterator

from riktig.checks.finding import Finding, Severity
from riktig.plan.plan import Plan
from riktig.plan.wiring.duct_fill import FILL_LIMIT

FILL_LIMIT_PERCENT = 100 * FILL_LIMIT


def check_ducts(plan: Plan) -> Iterator[Finding]:
    """Yield ducts that are too full, and ducts with more circuits together than the sizing assumed.

    Source:
        About 60 % fill: common practice, no source; grouping: IEC 60204-1:2016 Table D.2, from memory.
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
    for code, load in plan.duct_loads.items():
        if load.circuits > plan.job.practice.grouped and plan.job.practice.standard == "iec":
            yield Finding(
                rule="duct-grouping",
                severity=Severity.NOTE,
                subject=code,
                message=f"{load.circuits} power circuits lie together in duct {code}, sizes assume {plan.job.practice.grouped}: check that "
                "they are not all loaded at once, or part them",
                evidence=str(load.circuits),
                limit=str(plan.job.practice.grouped),
                source="IEC 60204-1:2016 Table D.2, from memory",
            )


def check_pieces(plan: Plan) -> Iterator[Finding]:
    """Yield rails and ducts longer than the stock they are cut from.

    Source:
        Geometry.
    """
    stock = plan.job.practice.stock
    for cut in plan.cuts:
        if cut.length > stock:
            yield Finding(
                rule="piece-too-long",
                severity=Severity.SHOULD,
                subject=cut.code,
                message=f"{cut.code} is {cut.length:.0f} mm long and stock is {stock:.0f} mm: join two pieces, or buy longer",
                evidence=f"{cut.length:.0f} mm",
                limit=f"{stock:.0f} mm",
                source="geometry",
            )
