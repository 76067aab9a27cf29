"""Owns what is laid over a sheet while its circuit is live: conductors as they are, contacts as they stand. Must not compute volts.

Looks of a conductor, each with a width, a pattern and a tone of its own: dead as it is drawn; live and carrying nothing a thin broken line;
carrying a thick whole one; redundant two thin ones beside each other.
"""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from math import hypot

from riktig.drawings.display import Anchor, Circle, Drawing, Item, Layer, Line, Point, Rect, Symbol, Text, Tone
from riktig.live.currents import CARRYING_A, LIVE_VOLTS, LiveState, Look

WIDTHS = {Look.LIVE: 0.7, Look.CARRYING: 1.5, Look.REDUNDANT: 0.4}
TONES = {Look.LIVE: Tone.ATTENTION, Look.CARRYING: Tone.ATTENTION, Look.REDUNDANT: Tone.DONE}
_APART_MM = 0.7
_GRID, _NEAR = 100.0, 2
OVERLAY = "live"


def line_in_look(points: tuple[Point, ...], look: Look) -> Iterator[Line]:
    """Yield the lines that show a conductor in a look; nothing where it is dead."""
    if look is Look.DEAD:
        return
    width, tone = WIDTHS[look], TONES[look]
    if look is not Look.REDUNDANT:
        yield Line(points=points, width=width, tone=tone, is_dashed=look is Look.LIVE, ref=OVERLAY)
        return
    (ax, ay), (bx, by) = points[0], points[-1]
    far = hypot(bx - ax, by - ay) or 1.0
    dx, dy = -(by - ay) / far * _APART_MM, (bx - ax) / far * _APART_MM
    for sign in (1, -1):
        yield Line(points=tuple((x + sign * dx, y + sign * dy) for x, y in points), width=width, tone=tone, ref=OVERLAY)


def live_overlay(sheet: Drawing, state: LiveState, terminal_of: Mapping[str, str]) -> tuple[Item, ...]:
    """Return what shows a panel's state on one of its sheets.

    Args:
        sheet: the sheet.
        state: the panel.
        terminal_of: ref of a potential on sheets -> one of its terminals.
    """
    items: list[Item] = []
    for ref, wires in _wires_of(sheet).items():
        volts = state.volts.get(terminal_of.get(ref, ""), 0.0)
        for a, b, look in wires.looks(state, is_live=volts >= LIVE_VOLTS):
            items.extend(line_in_look((a, b), look))
    for item in sheet.items:
        if isinstance(item, Symbol) and item.terminals:
            items.extend(_of_symbol(item, state))
    return tuple(items)


class _Wires:
    """The lines of one potential on one sheet as pieces between points, and the terminals at these."""

    def __init__(
        self, pieces: list[tuple[Point, Point]], terminals: Mapping[Point, list[str]], leads_on: list[Point]
    ) -> None:
        self.terminals = terminals
        beside: defaultdict[Point, list[Point]] = defaultdict(list)
        for a, b in pieces:
            beside[a].append(b)
            beside[b].append(a)
        self._trees = [_tree(beside, part, leads_on) for part in _parts(beside)]

    def looks(self, state: LiveState, *, is_live: bool) -> Iterator[tuple[Point, Point, Look]]:
        """Yield each piece with its look: its current is that of all that hangs behind it."""
        for order, is_open in self._trees:
            amps: defaultdict[Point, complex] = defaultdict(complex)
            needed: defaultdict[Point, bool] = defaultdict(bool)
            spare: defaultdict[Point, bool] = defaultdict(bool)
            needed[order[0][0]] = is_open
            for point, above in reversed(order):
                here = self.terminals.get(point, ())
                amps[point] += sum(state.amps.get(terminal, 0j) for terminal in here)
                needed[point] |= any(terminal not in state.spare for terminal in here)
                spare[point] |= any(terminal in state.spare for terminal in here)
                if above is None:
                    continue
                amps[above] += amps[point]
                needed[above] |= needed[point]
                spare[above] |= spare[point]
                if abs(amps[point]) > CARRYING_A:
                    look = Look.CARRYING
                elif is_live:
                    look = Look.REDUNDANT if spare[point] and not needed[point] else Look.LIVE
                else:
                    look = Look.DEAD
                yield point, above, look


def _parts(beside: Mapping[Point, list[Point]]) -> list[list[Point]]:
    seen: set[Point] = set()
    found = []
    for start in beside:
        if start not in seen:
            seen.add(start)
            part = [start]
            for point in part:
                for other in beside[point]:
                    if other not in seen:
                        seen.add(other)
                        part.append(other)
            found.append(part)
    return found


def _tree(
    beside: Mapping[Point, list[Point]], part: list[Point], leads_on: list[Point]
) -> tuple[list[tuple[Point, Point | None]], bool]:
    """Return the points of a part, each with the one above it, from where it goes on elsewhere, and whether it does."""
    near = [(min((hypot(x - p[0], y - p[1]) for x, y in leads_on), default=1e9), p) for p in part]
    distance, root = min(near)
    order: list[tuple[Point, Point | None]] = [(root, None)]
    seen = {root}
    for point, _ in order:
        for other in beside[point]:
            if other not in seen:
                seen.add(other)
                order.append((other, point))
    return order, distance < 1e9


@lru_cache(maxsize=64)
def _wires_of(sheet: Drawing) -> dict[str, _Wires]:
    """Return ref -> the wires of each potential on a sheet."""
    lines: defaultdict[str, list[Line]] = defaultdict(list)
    pins: defaultdict[Point, list[str]] = defaultdict(list)
    leads_on: defaultdict[str, list[Point]] = defaultdict(list)
    for item in sheet.items:
        if isinstance(item, Line) and item.layer is Layer.WIRE and item.ref is not None:
            lines[item.ref].append(item)
        elif isinstance(item, Symbol):
            for point, terminal in zip(item.pins(), item.terminals, strict=False):
                pins[_at(point)].append(terminal)
        elif isinstance(item, Text) and item.layer is Layer.REFERENCE and item.ref is not None:
            leads_on[item.ref].append((item.x, item.y))
    columns = [_grouped(pins, side) for side in (0, 1)]
    found = {}
    for ref, members in lines.items():
        ends = {_at(point) for line in members for point in line.points}
        pieces = [
            piece
            for line in members
            for a, b in zip(line.points, line.points[1:], strict=False)
            for piece in _split(_at(a), _at(b), {*ends, *_beside(columns, _at(a), _at(b))})
        ]
        found[ref] = _Wires(pieces, pins, leads_on.get(ref, []))
    return found


def _grouped(points: Iterable[Point], side: int) -> dict[int, list[Point]]:
    """Return points by their column (side 0) or row (1), in hundredths of a mm."""
    found: defaultdict[int, list[Point]] = defaultdict(list)
    for point in points:
        found[round(point[side] * _GRID)].append(point)
    return found


def _beside(columns: Sequence[Mapping[int, Sequence[Point]]], a: Point, b: Point) -> Iterator[Point]:
    """Yield the points in whose column or row a straight line goes; all of them where it goes aslant."""
    for side in (0, 1):
        if a[side] == b[side]:
            at = round(a[side] * _GRID)
            yield from (point for n in range(at - _NEAR, at + _NEAR + 1) for point in columns[side].get(n, ()))
            return
    yield from (point for points in columns[0].values() for point in points)


def _at(point: Point) -> Point:
    return round(point[0] * _GRID) / _GRID, round(point[1] * _GRID) / _GRID


def _lies_on(point: Point, a: Point, b: Point) -> bool:
    (x, y), (ax, ay), (bx, by) = point, a, b
    return abs((bx - ax) * (y - ay) - (by - ay) * (x - ax)) < 0.1 and min(ax, bx) - 0.02 <= x <= max(ax, bx) + 0.02 and (
        min(ay, by) - 0.02 <= y <= max(ay, by) + 0.02
    )  # fmt: skip


def _split(a: Point, b: Point, points: set[Point]) -> list[tuple[Point, Point]]:
    """Return the pieces of a straight line between the points that lie on it."""
    on = sorted({a, b, *(p for p in points if _lies_on(p, a, b))}, key=lambda p: hypot(p[0] - a[0], p[1] - a[1]))
    return [(p, q) for p, q in zip(on, on[1:], strict=False) if p != q]


def _of_symbol(symbol: Symbol, state: LiveState) -> Iterator[Item]:
    """Yield what shows a contact in its place, a coil that is in, a lamp that is lit, a motor that turns."""
    name, states = symbol.shape.name.removesuffix("-turned"), state.states.get(symbol.ref or "", frozenset())
    pins = symbol.pins()
    middle = (
        (sum(x for x, _ in pins[:2]) / 2, sum(y for _, y in pins[:2]) / 2) if len(pins) >= 2 else (symbol.x, symbol.y)
    )
    sort = name.rpartition("-")[2]
    if sort in {"no", "nc", "co", "tno", "tnc", "pole", "through"} and len(symbol.terminals) == 2:
        yield from _of_contact(
            symbol, state, pins, middle, is_drawn_closed=sort in {"nc", "tnc", "through"} or "overload-pole" in name
        )
    elif sort in {"coil", "lamp", "sounder", "load"} and "on" in states:
        yield Circle(x=middle[0], y=middle[1], r=2.2, width=0.6, tone=Tone.ATTENTION, fill=Tone.ATTENTION, ref=OVERLAY)
        yield Circle(x=middle[0], y=middle[1], r=3.6, width=0.5, tone=Tone.ATTENTION, ref=OVERLAY)
    elif name.startswith("motor-") and states and "stopped" not in states:
        x, y = pins[1][0], pins[1][1] - 11.0
        yield Circle(x=x, y=y, r=8.6, width=1.2, tone=Tone.ATTENTION, ref=OVERLAY)
        words = " ".join(sorted(states))
        yield Rect(x=x - 10.0, y=y - 14.6, w=20.0, h=4.4, width=0.2, tone=Tone.ATTENTION, fill=Tone.PAPER, ref=OVERLAY)
        yield Text(x=x, y=y - 13.5, text=words, size=2.2, anchor=Anchor.MIDDLE, is_bold=True, ref=OVERLAY)


def _of_contact(
    symbol: Symbol, state: LiveState, pins: tuple[Point, ...], middle: Point, *, is_drawn_closed: bool
) -> Iterator[Item]:
    a, b = symbol.terminals
    is_closed = (a, b) in state.closed or (b, a) in state.closed
    if not is_closed and is_drawn_closed:
        x, y = middle
        yield Rect(x=x - 3.4, y=y - 2.0, w=6.8, h=4.0, width=0.0, tone=Tone.PAPER, fill=Tone.PAPER, ref=OVERLAY)
        for line in (((x - 2.0, y - 2.0), (x + 2.0, y - 2.0)), ((x - 2.0, y + 2.0), (x + 2.0, y + 2.0))):
            points = line if pins[0][0] == pins[1][0] else tuple((x + py - y, y + px - x) for px, py in line)
            yield Line(points=points, width=0.7, ref=OVERLAY)
    elif is_closed:
        amps, volts = abs(state.amps.get(a, 0j)), state.volts.get(a, 0.0)
        look = (
            Look.CARRYING
            if amps > CARRYING_A
            else Look.REDUNDANT
            if a in state.spare
            else Look.LIVE
            if volts >= LIVE_VOLTS
            else None
        )
        if look is not None:
            yield from line_in_look((pins[0], pins[1]), look)
        elif not is_drawn_closed:
            yield Line(points=(pins[0], pins[1]), width=0.7, ref=OVERLAY)
