"""Reads circuit sheets from their geometry alone: what the drawn lines join, and what lies over something else."""

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator

from shapely import STRtree
from shapely.geometry import LineString, Point, Polygon, box
from shapely.geometry.base import BaseGeometry

from riktig.drawings.circuit.geometry import LINE_HEIGHT, TOP
from riktig.drawings.display import Circle, Drawing, Layer, Line, Rect, Symbol, Text
from riktig.drawings.frame import COLUMN_WIDTH, LEFT
from riktig.drawings.text_width import text_box
from riktig.plan.basis.union import UnionFind

NEAR = 0.02
_REFERENCE = re.compile(r"([←→])(\d+(?:\.\d)?)$")


def read_nets(sheets: Iterable[Drawing], *, ladder: frozenset[str] = frozenset()) -> set[frozenset[str]]:
    """Return the sets of device terminals that the drawing joins.

    A line joins what its ends meet; lines that cross are joined by a dot only. An arrow or busbar is joined to the pieces of the same
    number at the sheet and column, or line, that is written beside it; an earth symbol to every other.
    """
    joined = UnionFind()
    arrows: dict[str, list[tuple[str, str]]] = defaultdict(list)
    asked: list[tuple[str, str, str]] = []
    terminals: set[str] = set()
    for sheet in sheets:
        if not any(isinstance(item, Symbol) and item.terminals for item in sheet.items):
            continue
        number = int(sheet.name.split("-")[1])
        reader = _Sheet(sheet, number, joined, is_ladder=sheet.name in ladder)
        terminals |= reader.terminals
        for label, piece in reader.places:
            arrows[label].append((piece, reader.number_at[piece]))
        asked += reader.asked
    for piece, number, label in asked:
        there = [other for other, name in arrows[label] if name == number]
        assert there, f"{number} is said to go on at {label}, where it is not"
        for other in there:
            joined.join(piece, other)
    nets: dict[str, set[str]] = defaultdict(set)
    for terminal in terminals:
        nets[joined.find(f"t{terminal}")].add(terminal)
    return {frozenset(net) for net in nets.values()}


class _Sheet:
    """The lines of one sheet, joined."""

    def __init__(self, sheet: Drawing, number: int, joined: UnionFind, *, is_ladder: bool) -> None:
        self._joined = joined
        self._number, self._is_ladder = number, is_ladder
        self.terminals: set[str] = set()
        self.places: list[tuple[str, str]] = []
        self.number_at: dict[str, str] = {}
        self.asked: list[tuple[str, str, str]] = []
        wires = [i for i in sheet.items if isinstance(i, Line) and i.layer is Layer.WIRE]
        self._lines = [LineString(w.points) for w in wires]
        self._ids = [f"w{number}.{n}" for n in range(len(wires))]
        self._numbers = [(w.ref or "").removeprefix("net:") for w in wires]
        self._tree = STRtree(self._lines)
        self._join_ends(wires)
        for dot in (i for i in sheet.items if isinstance(i, Circle) and i.layer is Layer.WIRE):
            near = self._near((dot.x, dot.y))
            assert len(near) >= 2, "a dot joins two lines or more"
            for other in near[1:]:
                joined.join(self._ids[near[0]], self._ids[other])
        texts = [i for i in sheet.items if isinstance(i, Text)]
        symbols = [i for i in sheet.items if isinstance(i, Symbol)]
        self._arrows = {
            s.pins()[0]: (s.ref or "").removeprefix("net:") for s in symbols if s.shape.name.startswith("arrow")
        }
        for symbol in symbols:
            self._read_symbol(symbol, texts)
        for wire in range(len(wires)):
            self._place_bus(wire, texts)

    def _near(self, point: tuple[float, float]) -> list[int]:
        at = Point(point)
        return [int(n) for n in self._tree.query(at.buffer(NEAR)) if self._lines[int(n)].distance(at) < NEAR]

    def _join_ends(self, wires: list[Line]) -> None:
        """Join lines where their ends meet; three at one point, or an end on another's course, want a dot."""
        for n, wire in enumerate(wires):
            for point in (wire.points[0], wire.points[-1]):
                for other in self._near(point):
                    ends = (wires[other].points[0], wires[other].points[-1])
                    if any(abs(point[0] - x) < NEAR and abs(point[1] - y) < NEAR for x, y in ends):
                        self._joined.join(self._ids[n], self._ids[other])

    def _read_symbol(self, symbol: Symbol, texts: list[Text]) -> None:
        name = symbol.shape.name
        for point, terminal in zip(symbol.pins(), symbol.terminals, strict=False):
            self.terminals.add(terminal)
            for wire in self._near(point):
                self._joined.join(f"t{terminal}", self._ids[wire])
        if "earth" in name:
            (wire, *_) = self._near(symbol.pins()[0])
            self._joined.join(self._ids[wire], "earth")
        elif name.startswith("arrow"):
            (wire, *_) = self._near(symbol.pins()[0])
            self._note(wire, symbol.pins()[0], texts)

    def _note(self, wire: int, point: tuple[float, float], texts: list[Text]) -> None:
        piece, number = self._ids[wire], self._numbers[wire]
        labels = {self._label(point), self._label(min(self._arrows_beside(point)))}
        self.places.extend((label, piece) for label in labels)
        self.number_at[piece] = number
        reach = Point(point).buffer(40)
        row = self._row_of(point)
        for text in texts:
            found = _REFERENCE.search(text.text)
            named = text.text[: found.start()] if found else ""
            about = (
                {n for n in row if n.endswith(named)}
                if named
                else row
                if (text.ref or "").removeprefix("net:") in row
                else set()
            )
            if found and number in about and reach.intersects(box(*text_box(text))):
                self.asked.append((piece, number, found[2]))

    def _row_of(self, point: tuple[float, float]) -> set[str]:
        """Return the numbers of the arrows that stand side by side with one: what is written beside them counts for all."""
        return {self._arrows[p] for p in self._arrows_beside(point)}

    def _arrows_beside(self, point: tuple[float, float]) -> set[tuple[float, float]]:
        row, grown = {point}, True
        while grown:
            more = {p for p in self._arrows if any(abs(p[1] - q[1]) < NEAR and abs(p[0] - q[0]) < 7.1 for q in row)}
            grown, row = not more <= row, row | more
        return row

    def _place_bus(self, wire: int, texts: list[Text]) -> None:
        """A busbar is met in every lane that it taps, and says at its ends where it goes on."""
        points = list(self._lines[wire].coords)
        along = 1 if self._is_ladder else 0
        if len(points) != 2 or abs(points[0][1 - along] - points[1][1 - along]) > NEAR:
            return
        dots = [n for n in self._near(points[0]) if n != wire]
        if dots or abs(points[0][along] - points[1][along]) < 20:
            return
        number = self._numbers[wire]
        line = self._lines[wire].buffer(4.5)
        own = [t for t in texts if t.ref == f"net:{number}" and line.intersects(box(*text_box(t)))]
        for text in own:
            found = _REFERENCE.search(text.text)
            if found:
                self.asked.append((self._ids[wire], number, found[2]))
        self.number_at[self._ids[wire]] = number
        low, high = sorted((points[0], points[1]), key=lambda p: p[along])
        lanes = sorted((self._lane(low), self._lane(high)))
        for lane in range(lanes[0], lanes[1] + 1):
            self.places.append((self._label_of(lane), self._ids[wire]))

    def _lane(self, point: tuple[float, float]) -> int:
        return int((TOP - point[1]) // LINE_HEIGHT) if self._is_ladder else int((point[0] - LEFT) // COLUMN_WIDTH)

    def _label(self, point: tuple[float, float]) -> str:
        return self._label_of(self._lane(point))

    def _label_of(self, lane: int) -> str:
        return str(100 * self._number + lane + 1) if self._is_ladder else f"{self._number}.{lane}"


def label_at(sheet: Drawing, x: float, y: float, *, is_ladder: bool) -> str:
    """Return how a point of a sheet is referred to."""
    number = int(sheet.name.split("-")[1])
    if is_ladder:
        return str(100 * number + int((TOP - y) // LINE_HEIGHT) + 1)
    return f"{number}.{min(int((x - LEFT) // COLUMN_WIDTH), 9)}"


# -- what lies over what


def find_overlaps(sheet: Drawing) -> list[str]:
    """Return in words every pair of texts, symbols or foreign lines that lie over each other on a sheet."""
    texts = [i for i in sheet.items if isinstance(i, Text)]
    wires = [i for i in sheet.items if isinstance(i, Line) and i.layer is Layer.WIRE]
    symbols = [i for i in sheet.items if isinstance(i, Symbol)]
    drawn = [(s, _linework(s)) for s in symbols]
    found = list(_text_faults(texts, wires, drawn))
    found += _wire_faults(wires)
    found += _symbol_faults(drawn, wires)
    return found


def _linework(symbol: Symbol) -> BaseGeometry:
    from shapely import unary_union

    shapes: list[BaseGeometry] = []
    for item in symbol.primitives():
        if isinstance(item, Line):
            shapes.append(LineString(item.points))
        elif isinstance(item, Rect):
            shapes.append(Polygon(box(item.x, item.y, item.x + item.w, item.y + item.h)))
        elif isinstance(item, Circle):
            shapes.append(Point(item.x, item.y).buffer(item.r))
        else:
            shapes.append(box(*text_box(item)))
    return unary_union(shapes)


def _text_faults(texts: list[Text], wires: list[Line], symbols: list[tuple[Symbol, BaseGeometry]]) -> Iterator[str]:
    boxes = [box(*text_box(t)).buffer(-0.05) for t in texts]
    tree = STRtree(boxes)
    for n, shape in enumerate(boxes):
        for other in tree.query(shape, predicate="intersects"):
            if int(other) > n:
                yield f"text '{texts[n].text}' on text '{texts[int(other)].text}' at {_at(shape)}"
    lines = [LineString(w.points) for w in wires]
    for n, line in enumerate(lines):
        for other in tree.query(line, predicate="intersects"):
            yield f"line of {wires[n].ref} through text '{texts[int(other)].text}' at {_at(boxes[int(other)])}"
    for symbol, shape in symbols:
        for other in tree.query(shape, predicate="intersects"):
            yield f"symbol {symbol.shape.name} of {symbol.ref} on text '{texts[int(other)].text}' at {_at(shape)}"


def _wire_faults(wires: list[Line]) -> Iterator[str]:
    lines = [LineString(w.points) for w in wires]
    tree = STRtree(lines)
    for n, line in enumerate(lines):
        for other in map(int, tree.query(line, predicate="intersects")):
            if other <= n or wires[other].ref == wires[n].ref:
                continue
            common = line.intersection(lines[other])
            ends = [Point(p) for w in (wires[n], wires[other]) for p in (w.points[0], w.points[-1])]
            if common.length > NEAR or any(common.distance(end) < 0.3 for end in ends):
                yield f"line of {wires[n].ref} on line of {wires[other].ref} at {_at(common)}"


def _symbol_faults(symbols: list[tuple[Symbol, BaseGeometry]], wires: list[Line]) -> Iterator[str]:
    tree = STRtree([shape for _, shape in symbols])
    for n, (symbol, shape) in enumerate(symbols):
        for other in map(int, tree.query(shape, predicate="intersects")):
            if other > n:
                yield f"symbol {symbol.shape.name} of {symbol.ref} on {symbols[other][0].shape.name} at {_at(shape)}"
    for wire in wires:
        line = LineString(wire.points)
        for other in map(int, tree.query(line, predicate="intersects")):
            symbol, shape = symbols[other]
            common = line.intersection(shape)
            pins = [Point(p).buffer(0.1) for p in symbol.pins()]
            rest = common
            for pin in pins:
                rest = rest.difference(pin)
            axis = any(all(abs(p[i] - at) < NEAR for p in wire.points) for i, at in ((0, symbol.x), (1, symbol.y)))
            is_on = line.distance(Point(symbol.x, symbol.y)) < NEAR
            is_through = symbol.shape.name == "strip-terminal" and (axis or is_on)
            if not rest.is_empty and rest.length + rest.area + (rest.geom_type == "Point") > NEAR and not is_through:
                yield f"line of {wire.ref} through symbol {symbol.shape.name} of {symbol.ref} at {_at(rest)}"


def _at(shape: BaseGeometry) -> str:
    x, y = shape.representative_point().coords[0]
    return f"({x:.0f}, {y:.0f})"
