"""Owns the probe points over the picture of the open panel, as close as lets one know the place. Must not know what is measured."""

from collections.abc import Sequence

from riktig.app.canvas.view import DrawingView
from riktig.drawings.display import Anchor, Item, Pen, Tone
from riktig.drawings.open_panel import draw_ways, open_shift, terminal_point
from riktig.drawings.plate import geometry_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor

PROBE_RADIUS_MM = 11.0
_CLIP_RADIUS_MM, _FAR_RADIUS_MM, _FEW = 6.0, 16.0, 8
"""Of clips: a few seen from near, many over the whole panel."""


def draw_probes(plan: Plan, a: Sequence[str], b: Sequence[str], wires: Sequence[Conductor]) -> list[Item]:
    """Return the ways of wires, and where each probe or clip goes: A and B, several of one side smaller."""
    pen = Pen()
    geometry = geometry_of(plan)
    for name, side, tone in (("A", a, Tone.DANGER), ("B", b, Tone.INK)):
        is_one, is_few = len(side) == 1, len(side) <= _FEW
        for terminal in side:
            point = terminal_point(plan, geometry, terminal)
            if point is None:
                continue
            if not is_few:
                pen.circle(*point, _FAR_RADIUS_MM, fill=tone, tone=tone)
                continue
            pen.circle(
                *point,
                PROBE_RADIUS_MM if is_one else _CLIP_RADIUS_MM,
                fill=Tone.PAPER,
                tone=tone,
                width=2.5 if is_one else 1.5,
            )
            size = 10 if is_one else 6
            pen.text(point[0], point[1] - size / 2, name, size=size, anchor=Anchor.MIDDLE, bold=True, tone=tone)
    return [*draw_ways(plan, tuple(wires)), *pen.items]


_AROUND_MM, _LEAST_MM = 130.0, 420.0
"""Round the probes there is so much to be seen, and it is never closer than so wide: enough to know the place by its tags."""


def area_of(plan: Plan, ends: Sequence[str]) -> tuple[float, float, float, float] | None:
    """Return the part of the open panel round some terminals: x, y, width, height in mm; None where one of them is not in the panel."""
    geometry = geometry_of(plan)
    points = [terminal_point(plan, geometry, end) for end in ends]
    inside = [point for point in points if point is not None]
    if not inside or len(inside) < len(points):
        return None
    left, right = min(x for x, _ in inside), max(x for x, _ in inside)
    low, high = min(y for _, y in inside), max(y for _, y in inside)
    width, height = (max(size + 2 * _AROUND_MM, _LEAST_MM) for size in (right - left, high - low))
    return (left + right - width) / 2 + open_shift(plan), (low + high - height) / 2, width, height


def show_probes(
    view: DrawingView, plan: Plan, a: Sequence[str], b: Sequence[str], wires: Sequence[Conductor] = ()
) -> None:
    """Show where the probes go, and the ways of wires; from near where both are in the panel."""
    view.show_overlay(draw_probes(plan, a, b, wires))
    area = area_of(plan, (*a, *b)) if a and b else None
    if area is not None:
        view.show_part(*area)
    else:
        view.fit()
