"""Owns the scene items of a drawing: one for each thing depicted. Must not know what a selection leads to.

Scene coordinates are mm with y down; a drawing of height h puts its y at h - y.
"""

from collections.abc import Collection, Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFont, QFontMetricsF, QPainter, QPainterPath, QPen, QTransform
from PySide6.QtWidgets import QGraphicsItem, QStyleOptionGraphicsItem, QWidget

from riktig.app.theme.theme import Theme
from riktig.drawings.display import (
    EM_PER_HEIGHT,
    Anchor,
    Circle,
    Drawing,
    Item,
    Line,
    Primitive,
    Rect,
    Symbol,
    Text,
    Tone,
)
from riktig.drawings.palette import CASING_EXTRA_MM, WIRE

_FONT_PIXELS = 100
MOST_TEXTS = 4_000
"""So many outlines of texts are kept, some 5 kB each: all that a plate of 200 starters shows, and a window open for days stays small."""
HALO_MM = 1.6
HALO_ALPHA = 130
LEAST_PIXELS, LEAST_TEXT_PIXELS = 1.0, 2.0
"""What is smaller on the screen, and text that is lower, is not painted: nobody could make it out, and there are thousands of them."""
MOST_IN_ONE = 200
"""So many primitives or symbols make one item, and at most twice as many: a longer one would hold the window up while it is made."""
LEAST_PEN_MM = 0.02
LOOKS_BACK, MOST_ELEMENTS = 12, 2000
"""So many strokes back one is looked for that can be shared, and so many lines and curves it holds at most, so that what is zoomed in on
does not draw a whole strip."""


@dataclass(slots=True)
class Stroke:
    """Paths that share a pen and a brush, and the box around them with their pen in mm; of texts also the height, 0 of all else."""

    path: QPainterPath
    box: QRectF
    tone: Tone
    fill: Tone
    width: float
    is_dashed: bool
    text_mm: float

    @property
    def look(self) -> tuple[Tone, Tone, float, bool, float]:
        """What paths must have in common."""
        return self.tone, self.fill, self.width, self.is_dashed, self.text_mm


class DrawnItem(QGraphicsItem):
    """What one ref looks like with all that is on it, in as few paths as it has pens. `ref` is None for the background; `link` is the
    target that a click leads to, `spot` the use of a device that it is, empty for none. `places` are where its terminals lie, by ref.
    """

    def __init__(
        self,
        ref: str | None,
        items: list[Item],
        height: float,
        theme: Theme,
        *,
        link: str = "",
        spot: str = "",
    ) -> None:
        super().__init__()
        self.ref = ref
        self.link = link
        self.spot = spot
        if link:
            self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.places = _places_of(items, ref, height)
        self.marked: frozenset[str] = frozenset()
        self._own = ([item for item in items if item.ref == ref], height) if self.places else None
        """What is drawn of the thing without what is on it, until that is marked."""
        self._theme = theme
        self._strokes = _build_strokes(primitives_of(items), height)
        bounds = QRectF()
        for stroke in self._strokes:
            bounds = bounds.united(stroke.box)
        edge = CASING_EXTRA_MM + HALO_MM
        bounds = self._bounds = bounds.adjusted(-edge, -edge, edge, edge)
        self._extent = max(bounds.width(), bounds.height()) - 2 * edge
        self._shape = QPainterPath()
        self._shape.addRect(bounds.adjusted(HALO_MM, HALO_MM, -HALO_MM, -HALO_MM))

    def boundingRect(self) -> QRectF:
        return self._bounds

    def shape(self) -> QPainterPath:
        return self._shape

    def set_marked(self, refs: Collection[str]) -> None:
        """Show which of these it depicts: itself, or what is on it."""
        marked = frozenset(one for one in (self.ref, *self.places) if one is not None and one in refs)
        if marked != self.marked:
            self.marked = marked
            self.update()

    def ref_at(self, point: QPointF) -> str:
        """Return what lies at a point in mm: a terminal, else the thing itself; "" for nothing."""
        at = ((place.width() * place.height(), ref) for ref, place in self.places.items() if place.contains(point))
        return min(at, default=(0.0, self.ref or ""))[1]

    def distance(self, point: QPointF) -> float:
        """Return how far a point is from what is drawn, in mm; 0 inside of a filled shape."""
        best = 1e9
        for stroke in self._strokes:
            if stroke.fill is not Tone.NONE and stroke.path.contains(point):
                return 0.0
            for polygon in stroke.path.toSubpathPolygons(QTransform()):
                corners = polygon.toList()
                for a, b in pairwise(corners):
                    best = min(best, _segment_distance(point, a, b))
        return best

    def paint(self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None) -> None:
        scale = option.levelOfDetailFromTransform(painter.worldTransform())
        if self._extent * scale < LEAST_PIXELS and not self.marked:
            return
        if self.ref in self.marked:
            self._paint_halo(painter)
        for stroke in self._strokes:
            if not stroke.text_mm or stroke.text_mm * scale >= LEAST_TEXT_PIXELS:
                self._paint_stroke(painter, stroke)
        places = [self.places[ref] for ref in self.marked if ref in self.places]
        if places:
            painter.setPen(self._halo(2 * HALO_MM))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for place in places:
                painter.drawRoundedRect(place, HALO_MM, HALO_MM)

    def _halo(self, width: float) -> QPen:
        colour = self._theme.colour("attention")
        colour.setAlpha(HALO_ALPHA)
        halo = QPen(colour)
        halo.setCapStyle(Qt.PenCapStyle.RoundCap)
        halo.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        halo.setWidthF(width)
        return halo

    def _paint_halo(self, painter: QPainter) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        own = self._strokes if self._own is None else _build_strokes(primitives_of(self._own[0]), self._own[1])
        for stroke in own:
            if stroke.width > 0:
                painter.setPen(self._halo(stroke.width + 2 * HALO_MM))
                painter.drawPath(stroke.path)

    def _paint_stroke(self, painter: QPainter, stroke: Stroke) -> None:
        if stroke.fill is Tone.NONE:
            painter.setBrush(Qt.BrushStyle.NoBrush)
        else:
            painter.setBrush(_brush(self._theme.tone(stroke.fill)))
        if stroke.width <= 0 or stroke.tone is Tone.NONE:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawPath(stroke.path)
            return
        if stroke.tone in WIRE:
            painter.setPen(_pen(self._theme.roles["quiet"], stroke.width + 2 * CASING_EXTRA_MM, False))
            painter.drawPath(stroke.path)
        painter.setPen(_pen(self._theme.tone(stroke.tone), stroke.width, stroke.is_dashed))
        painter.drawPath(stroke.path)


@lru_cache(maxsize=256)
def _brush(colour: str) -> QBrush:
    return QBrush(QColor(colour))


@lru_cache(maxsize=1024)
def _pen(colour: str, width: float, is_dashed: bool) -> QPen:
    pen = QPen(QColor(colour))
    pen.setWidthF(width)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    if is_dashed:
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        pen.setDashPattern([4.0, 3.0])
    return pen


def _segment_distance(p: QPointF, a: QPointF, b: QPointF) -> float:
    dx, dy = b.x() - a.x(), b.y() - a.y()
    length = dx * dx + dy * dy
    share = 0.0 if length == 0 else max(0.0, min(1.0, ((p.x() - a.x()) * dx + (p.y() - a.y()) * dy) / length))
    x, y = a.x() + share * dx - p.x(), a.y() + share * dy - p.y()
    return float((x * x + y * y) ** 0.5)


def _build_strokes(primitives: list[Primitive], height: float) -> list[Stroke]:
    """Return the primitives as paths; those with the same pen and brush share one, where nothing that is drawn between covers them."""
    strokes: list[Stroke] = []
    for item in primitives:
        fill = Tone.NONE if isinstance(item, Line) else item.tone if isinstance(item, Text) else item.fill
        width = 0.0 if isinstance(item, Text) else item.width
        is_dashed = isinstance(item, Line) and item.is_dashed
        look = (item.tone, fill, width, is_dashed, item.size if isinstance(item, Text) else 0.0)
        path = _path_of(item, height)
        if path.isEmpty():
            continue
        grow = max(width, LEAST_PEN_MM) / 2
        box = path.controlPointRect().adjusted(-grow, -grow, grow, grow)
        shared = _shared(strokes, look, box)
        if shared is None:
            strokes.append(Stroke(path, box, *look))
        else:
            shared.path.addPath(path)
            shared.box = shared.box.united(box)
    return strokes


def _shared(strokes: list[Stroke], look: tuple[Tone, Tone, float, bool, float], box: QRectF) -> Stroke | None:
    """Return the last stroke of a look that can take what covers a box as well, None where there is none."""
    for stroke in strokes[: -LOOKS_BACK - 1 : -1]:
        if stroke.look == look and stroke.path.elementCount() < MOST_ELEMENTS:
            return stroke
        if stroke.box.intersects(box):
            return None
    return None


def _path_of(item: Primitive, height: float) -> QPainterPath:
    if isinstance(item, Text):
        return _text_path(item, height)
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    if isinstance(item, Line):
        path.moveTo(item.points[0][0], height - item.points[0][1])
        for x, y in item.points[1:]:
            path.lineTo(x, height - y)
    elif isinstance(item, Rect):
        box = QRectF(item.x, height - item.y - item.h, item.w, item.h)
        if item.radius:
            path.addRoundedRect(box, item.radius, item.radius)
        else:
            path.addRect(box)
    else:
        path.addEllipse(QPointF(item.x, height - item.y), item.r, item.r)
    return path


_fonts: dict[tuple[bool, bool], QFont] = {}


def _font(is_bold: bool, is_mono: bool) -> QFont:
    key = (is_bold, is_mono)
    if key not in _fonts:
        font = QFont("B612 Mono" if is_mono else "B612")
        font.setBold(is_bold)
        font.setPixelSize(_FONT_PIXELS)
        font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
        _fonts[key] = font
    return _fonts[key]


@lru_cache(maxsize=MOST_TEXTS)
def _glyphs(text: str, is_bold: bool, is_mono: bool) -> tuple[QPainterPath, float]:
    """Return the outlines of a text in pixels of its font, curves as short lines, and how wide it is: to draw the letters again takes
    most of the time that a strip is made in, and to follow their curves again a third of the time that it is painted in.
    """
    font = _font(is_bold, is_mono)
    curves, glyphs = QPainterPath(), QPainterPath()
    glyphs.setFillRule(Qt.FillRule.WindingFill)
    curves.addText(0, 0, font, text)
    outlines = curves.toSubpathPolygons(QTransform())
    glyphs.reserve(sum(outline.size() for outline in outlines))  # one that grows by itself keeps up to twice as much
    for outline in outlines:
        glyphs.addPolygon(outline)
    return glyphs, QFontMetricsF(font).horizontalAdvance(text)


def _text_path(item: Text, height: float) -> QPainterPath:
    glyphs, width = _glyphs(item.text, item.is_bold, item.is_mono)
    shift = {Anchor.LEFT: 0.0, Anchor.MIDDLE: -width / 2, Anchor.RIGHT: -width}[item.anchor]
    transform = QTransform()
    transform.translate(item.x, height - item.y)
    if item.is_upright:
        transform.rotate(-90)
    scale = item.size * EM_PER_HEIGHT / _FONT_PIXELS
    transform.scale(scale, scale)
    transform.translate(shift, 0)
    return transform.map(glyphs)


def primitives_of(items: Iterable[Item]) -> list[Primitive]:
    """Return lines, shapes and texts, symbols taken apart."""
    return [one for item in items for one in (item.primitives() if isinstance(item, Symbol) else (item,))]


def _places_of(items: Iterable[Item], owner: str | None, height: float) -> dict[str, QRectF]:
    """Return where what is on a thing lies, by ref, in mm of the scene."""
    places: dict[str, QRectF] = {}
    for item in items:
        if item.ref is None or item.ref == owner:
            continue
        box = QRectF()
        if isinstance(item, Rect):
            box = QRectF(item.x, height - item.y - item.h, item.w, item.h)
        elif isinstance(item, Circle):
            box = QRectF(item.x - item.r, height - item.y - item.r, 2 * item.r, 2 * item.r)
        elif isinstance(item, Line):
            xs, ys = zip(*item.points, strict=True)
            box = QRectF(min(xs), height - max(ys), max(xs) - min(xs), max(ys) - min(ys))
        places[item.ref] = places.get(item.ref, QRectF()).united(box)
    return places


ItemKey = tuple[str | None, str, str, int]
"""Ref, link and spot of what one item depicts, and which piece of it where it has many."""
Group = tuple[str | None, str, str]


def group_items(drawing: Drawing) -> dict[ItemKey, list[Item]]:
    """Return what each item of a drawing is made of: the background first, then one for each thing, link and spot in the order in
    which they are met. Terminals belong to the thing that they are on, where that was met before. What has many, as a long strip, comes
    in pieces.
    """
    groups: dict[Group, list[Item]] = {(None, "", ""): []}
    plain: dict[str | None, list[Item]] = {None: groups[None, "", ""]}
    last, members = None, plain[None]
    for item in drawing.items:
        if type(item) is Symbol or (type(item) is Text and item.link):  # 15,000 items with 100 starters
            key = (item.ref, item.link or "", item.spot if type(item) is Symbol else "")
            groups.setdefault(key, []).append(item)
            continue
        if item.ref is not last:
            last = item.ref
            members = plain.get(last) or _new_group(last or "", groups, plain)
        members.append(item)
    return {(*group, at): piece for group, members in groups.items() for at, piece in enumerate(_pieces(members))}


def _new_group(ref: str, groups: dict[Group, list[Item]], plain: dict[str | None, list[Item]]) -> list[Item]:
    owner = (ref.rpartition(":")[0], "", "")
    plain[ref] = groups.setdefault(owner if owner[0] and owner in groups else (ref, "", ""), [])
    return plain[ref]


def _pieces(members: list[Item]) -> Iterator[list[Item]]:
    """Yield so many of them at a time; what one terminal is drawn of stays together."""
    start = 0
    for at in range(MOST_IN_ONE, len(members)):
        size = at - start
        if size >= 2 * MOST_IN_ONE or (size >= MOST_IN_ONE and members[at].ref != members[at - 1].ref):
            yield members[start:at]
            start = at
    yield members[start:]
