"""Owns what the Wires bench asks of the worker about lots: the curve, and each lot with its markers in the order in which they are set.
Must not know the window.
"""

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from riktig.drawings.display import Drawing
    from riktig.plan.plan import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class LotRow:
    """A lot as a list shows it: its place in the order of work, what it is, to how many mm it is cut, its wires, and its markers in the
    order in which they are set, with how many characters that changes and how many the order of numbers would.
    """

    place: int
    title: str
    cut_mm: float
    waste_mm: float
    wires: tuple[str, ...]
    numbers: tuple[str, ...]
    markers: tuple[str, ...]
    changes: int
    by_number: int
    is_held: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownLots:
    """All lots of a panel with the curve of what parting comes to, in words what that is, and which prices are assumed."""

    curve: "Drawing"
    rows: tuple[LotRow, ...]
    words: str
    assumed: str


def show_lots(plan: "Plan", /) -> ShownLots:
    """Return the lots of a panel in working order."""
    from riktig.catalogue.prices import prices_now
    from riktig.drawings.lots_curve import draw_curve
    from riktig.plan.making.lots import lots_of, outcome_of, outcomes
    from riktig.plan.making.setting import count_changes, order_strings
    from riktig.units.numbers import format_number

    prices, parted = prices_now(), lots_of(plan)
    now = outcome_of(parted, prices, plan.job.practice.batching)
    rows: list[LotRow] = []
    standing = ""
    for one in parted:
        for lot in one.lots:
            texts = [text for wire in lot.wires for text in plan.markers_of(wire) if text]
            setting = order_strings(texts, standing)
            rows.append(LotRow(
                place=len(rows) + 1, title=one.bundle.title, cut_mm=lot.length_mm, waste_mm=lot.waste_mm,
                wires=tuple(wire.id for wire in lot.wires), numbers=tuple(wire.number for wire in lot.wires), markers=setting.strings,
                changes=setting.changes, by_number=count_changes(list(dict.fromkeys(texts)), standing),
                is_held=all(wire.id in plan.job.ledger.lots for wire in lot.wires),
            ))  # fmt: skip
            standing = setting.strings[-1] if setting.strings else standing
    changes, by_number = sum(row.changes for row in rows), sum(row.by_number for row in rows)
    money = f" {prices.money}" if prices.money else ""
    words = (
        f"{len(rows)} lots in {len(parted)} bundles: {format_number(now.wasted_m)} m wasted ({format_number(now.wasted_money)}{money}), "
        f"{now.minutes:.0f} min of cutting, {format_number(now.money)}{money} in all. Markers: {changes} characters changed, "
        f"{by_number} in the order of numbers."
    )
    assumed = ", ".join(_ASSUMED[name] for name in prices.assumed if name in _ASSUMED)
    return ShownLots(
        curve=draw_curve(outcomes(plan, prices), now, prices.money), rows=tuple(rows), words=words, assumed=assumed
    )


_ASSUMED = {
    "minute": "a minute 0.9", "set_up_min": "a set-up 1 min", "cut_min": "a cut 0.1 min", "metre": "a metre 0.05 and 0.11 for each mm²",
}  # fmt: skip
