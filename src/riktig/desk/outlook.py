"""Owns what screens show of a what-if. Must not keep anything of it."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from riktig.checks.finding import Finding
    from riktig.drawings.size_charts import Charts
    from riktig.plan.changes.what_if import SizeChange, Wish
    from riktig.plan.panel import PanelTotals
    from riktig.plan.plan import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class Outlook:
    """What screens show of a what-if: the wish, sizes that change, parts that are missing, totals, findings that come and go."""

    wish: "Wish"
    changes: "tuple[SizeChange, ...]"
    parts: "tuple[SizeChange, ...]"
    unmet: tuple[tuple[str, str], ...]
    panel: "PanelTotals"
    new: "tuple[Finding, ...]"
    gone: "tuple[Finding, ...]"
    charts: "Charts"


def make_outlook(plan: "Plan", wish: "Wish", starter: str | None) -> Outlook:
    """Return what a wish would do, with the charts of it; `starter` is the motor whose feeder is drawn.

    Raises:
        JobError: the wish does not fit.
    """
    from riktig.checks.run import find_all
    from riktig.drawings.size_charts import draw_charts
    from riktig.plan.changes.what_if import try_wish

    outcome = try_wish(plan, wish)
    before, after = ({(f.rule, f.subject): f for f in find_all(p)} for p in (plan, outcome.plan))
    return Outlook(
        wish=wish, changes=outcome.changes, parts=outcome.parts, unmet=outcome.unmet, panel=outcome.plan.panel,
        new=tuple(f for key, f in after.items() if key not in before),
        gone=tuple(f for key, f in before.items() if key not in after),
        charts=draw_charts(outcome.plan, starter),
    )  # fmt: skip
