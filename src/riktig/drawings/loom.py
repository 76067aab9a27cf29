"""Owns the drawing of the door loom as it is laid on a board, at true proportions. Must not know how it was found."""

from math import sqrt

from riktig.drawings.display import Anchor, Drawing, Pen, Tone
from riktig.plan.making.loom import Branch, Loom
from riktig.plan.plan import Plan
from riktig.units.numbers import format_number

_LEFT, _LOW, _RIGHT, _TOP = 90.0, 60.0, 330.0, 70.0
_PER_WIRE_MM = 0.9
_ROW_MM = 15.0
_TAG_MM = 26.0
"""Above a device another branch that is nearer would go through its tag, which stands below it then."""


def draw_loom(plan: Plan, loom: Loom) -> Drawing:
    """Return the loom from behind the door, 1 mm for 1 mm: the trunk along the hinges, its branches with how far along and across they go,
    their wires, and a stroke at each tie.
    """
    pen = Pen()
    width, height = _LEFT + plan.door.width + _RIGHT, _LOW + plan.door.height + _TOP
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    title = f"Door loom, {loom.wires} wires, from behind the door, hinges on the left"
    pen.text(_LEFT, height - 26, title, size=12, bold=True)
    words = f"it comes over the hinge {loom.entry_y:.0f} mm above the lower edge of the door; tied at each stroke; lengths in mm"
    pen.text(_LEFT, height - 46, words, size=9, tone=Tone.QUIET)
    pen.rect(_LEFT, _LOW, plan.door.width, plan.door.height, width=0.6, tone=Tone.STEEL, radius=4)
    low, high = loom.span
    entry = _LOW + loom.entry_y
    pen.line((_LEFT - 60, entry), (_LEFT, entry), width=_thick(loom.wires), tone=Tone.INK)
    pen.text(_LEFT - 84, entry + 12, "to the plate", size=9, tone=Tone.QUIET)
    for start, end in _pieces(loom, low, high):
        pen.line(
            (_LEFT, _LOW + start), (_LEFT, _LOW + end), width=_thick(_passing(loom, (start + end) / 2)), tone=Tone.INK
        )
    for tie in loom.ties:
        pen.line((_LEFT - 8, _LOW + tie), (_LEFT + 8, _LOW + tie), width=1.2, tone=Tone.ATTENTION)
    for branch in loom.branches:
        is_passed = any(0 < one.y - branch.y < _TAG_MM and one.x > branch.x - _TAG_MM for one in loom.branches)
        _draw_branch(pen, plan, branch, tag_dy=-20.0 if is_passed else 12.0)
    _list_branches(pen, plan, loom, _LEFT + plan.door.width + 20, height - 80)
    return Drawing(name="loom", title=title, width=width, height=height, items=tuple(pen.items))


def _thick(wires: int) -> float:
    return 1.0 + _PER_WIRE_MM * sqrt(wires)


def _pieces(loom: Loom, low: float, high: float) -> list[tuple[float, float]]:
    """Return the pieces of the trunk between which no wire leaves it."""
    heights = sorted({low, high, loom.entry_y, *(branch.y for branch in loom.branches)})
    return list(zip(heights, heights[1:], strict=False))


def _passing(loom: Loom, height: float) -> int:
    """Return how many wires the trunk has at a height."""
    is_above = height > loom.entry_y
    return sum(len(b.wires) for b in loom.branches if (b.y > height) == is_above and (b.y > loom.entry_y) == is_above)


def _draw_branch(pen: Pen, plan: Plan, branch: Branch, *, tag_dy: float) -> None:
    x, y = _LEFT + branch.x, _LOW + branch.y
    pen.line((_LEFT, y), (x, y), width=_thick(len(branch.wires)) * 0.7, tone=Tone.DONE, ref=branch.device)
    pen.circle(x, y, 9, fill=Tone.PART, width=0.6, ref=branch.device)
    pen.text(x, y + tag_dy, plan.tags[branch.device], size=8, bold=True, anchor=Anchor.MIDDLE, ref=branch.device)


def _list_branches(pen: Pen, plan: Plan, loom: Loom, x: float, top: float) -> None:
    rows = sorted(loom.branches, key=lambda branch: -branch.y)
    step = min(_ROW_MM, (top - _LOW) / (len(rows) + 1))
    size = min(8.0, step * 0.6)
    pen.text(x, top, "device   along   across   wires", size=size, tone=Tone.QUIET)
    for n, branch in enumerate(rows, start=1):
        y = top - n * step
        pen.text(x, y, plan.tags[branch.device], size=size, bold=True, ref=branch.device)
        pen.text(x + 76, y, f"{branch.along_mm:+.0f}", size=size, anchor=Anchor.RIGHT)
        pen.text(x + 120, y, format_number(round(branch.across_mm)), size=size, anchor=Anchor.RIGHT)
        pen.text(x + 130, y, " ".join(branch.numbers), size=size, tone=Tone.QUIET)
