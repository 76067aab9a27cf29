"""Owns a view of one drawing: fit, zoom, pan, click to select, marks on what is selected."""

from collections.abc import Sequence

from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QResizeEvent, QTransform, QWheelEvent
from PySide6.QtWidgets import QGraphicsScene, QGraphicsView, QWidget

from riktig.app.canvas.items import DrawnItem, ItemKey, group_items
from riktig.app.theme.theme import Theme
from riktig.drawings.display import Drawing, Item

CLICK_SLACK_PX = 5
LINK_REACH_MM = 1.0
ZOOM_STEP = 1.2
_OVERLAY_Z, _Z_STEP = 10.0, 1e-4


class DrawingView(QGraphicsView):
    """Shows a drawing to scale. Wheel zooms, dragging pans, a click picks, Home fits the drawing again."""

    picked = Signal(str)
    followed = Signal(str, str)
    """A link was clicked: the id of its target, and the ref of what was clicked."""
    spot_picked = Signal(str, str)
    """As `picked`, with the key of the use whose symbol was clicked, empty where it is none."""

    menu_requested = Signal(str, QPoint)
    """The ref under the pointer, empty for none, and where on the screen."""

    def __init__(self, theme: Theme, name: str, parent: QWidget | None = None, *, least_scale: float = 0.0) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setScene(QGraphicsScene(self))
        self.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        self.setTransformationAnchor(QGraphicsView.ViewportAnchor.AnchorUnderMouse)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._least_scale = least_scale
        self._theme = theme
        self._drawing: Drawing | None = None
        self._items: dict[str, list[DrawnItem]] = {}
        self._drawn: dict[ItemKey, tuple[list[Item], DrawnItem, int]] = {}
        self._overlay: list[DrawnItem] = []
        self._marked: tuple[str, ...] = ()
        self._pressed: QPoint | None = None
        self._dragged = False
        self._is_fitted = True

    @property
    def drawing(self) -> Drawing | None:
        """What is shown."""
        return self._drawing

    def show_drawing(self, drawing: Drawing | None) -> None:
        """Replace what is shown; zoom and place stay unless the size of the drawing changed."""
        old = self._drawing
        if drawing is old:
            return
        self._drawing = drawing
        self._rebuild(keep=old is not None and drawing is not None and old.height == drawing.height)
        if drawing is not None and (old is None or (old.width, old.height) != (drawing.width, drawing.height)):
            self.fit()

    def set_theme(self, theme: Theme) -> None:
        """Draw everything in another look."""
        self._theme = theme
        self._rebuild()

    def _rebuild(self, *, keep: bool = False) -> None:
        """Make the items of the drawing; with `keep` those that look as before stay as they are."""
        scene, drawing = self.scene(), self._drawing
        self.show_overlay(())
        self._items.clear()
        before, self._drawn = self._drawn, {}
        groups = group_items(drawing) if drawing is not None else {}
        for place, (key, members) in enumerate(groups.items()):
            known, item, stood = before.get(key, (None, None, -1))
            if not keep or item is None or known != members:
                ref, link, spot = key
                item = DrawnItem(
                    ref, members, drawing.height if drawing is not None else 0.0, self._theme, link=link, spot=spot
                )
                scene.addItem(item)
                stood = -1
            else:
                del before[key]
            if stood != place:
                item.setZValue(place * _Z_STEP)
            self._drawn[key] = (members, item, place)
            for one in (item.ref, *item.places):
                if one is not None:
                    self._items.setdefault(one, []).append(item)
        for _, item, _ in before.values():
            scene.removeItem(item)
        if drawing is not None:
            scene.setSceneRect(QRectF(0, 0, drawing.width, drawing.height))
            self.mark(self._marked)

    def show_overlay(self, items: Sequence[Item]) -> None:
        """Draw items over the drawing, in its own mm; an empty list removes them."""
        for old in self._overlay:
            self.scene().removeItem(old)
        self._overlay.clear()
        if self._drawing is None or not items:
            return
        groups: dict[str | None, list[Item]] = {}
        for one in items:
            groups.setdefault(one.ref, []).append(one)
        for ref, members in groups.items():
            drawn = DrawnItem(ref, members, self._drawing.height, self._theme)
            drawn.setZValue(_OVERLAY_Z)
            self.scene().addItem(drawn)
            self._overlay.append(drawn)

    def mark(self, refs: tuple[str, ...]) -> None:
        """Mark what is selected."""
        for item in {item for ref in {*self._marked, *refs} for item in self._items.get(ref, ())}:
            item.set_marked(refs)
        self._marked = refs

    def has(self, ref: str) -> bool:
        """Return whether the drawing depicts a thing."""
        return ref in self._items

    def centre_on(self, ref: str) -> None:
        """Bring a thing into view if it is not."""
        items = self._items.get(ref)
        if items:
            place = items[0].places.get(ref)
            self.ensureVisible(items[0].mapRectToScene(place) if place is not None else items[0].boundingRect(), 40, 40)

    def show_point(self, x: float, y: float) -> None:
        """Bring a point of the drawing, in its own mm, to the middle of the view."""
        if self._drawing is not None:
            self._is_fitted = False
            self.centerOn(x, self._drawing.height - y)

    def fit(self) -> None:
        """Show the whole drawing, or from its upper left corner as much as can be read."""
        self._is_fitted = True
        if self._drawing is None:
            return
        self.fitInView(self.scene().sceneRect(), Qt.AspectRatioMode.KeepAspectRatio)
        if self.transform().m11() < self._least_scale:
            scale = max(self._least_scale, self.viewport().width() / self._drawing.width)
            self.setTransform(QTransform.fromScale(scale, scale))
            self.centerOn(0, 0)

    def show_part(self, x: float, y: float, w: float, h: float) -> None:
        """Show a part of the drawing, given in its own mm, as large as it fits."""
        self._is_fitted = False
        if self._drawing is not None:
            area = QRectF(x, self._drawing.height - y - h, w, h)
            self.fitInView(area, Qt.AspectRatioMode.KeepAspectRatio)

    def show_whole(self) -> None:
        """Show the whole drawing, however small."""
        self._is_fitted = False
        if self._drawing is not None:
            self.fitInView(self.scene().sceneRect(), Qt.AspectRatioMode.KeepAspectRatio)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._is_fitted:
            self.fit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        factor = ZOOM_STEP if event.angleDelta().y() > 0 else 1 / ZOOM_STEP
        self._zoom(factor)

    def _zoom(self, factor: float) -> None:
        self._is_fitted = False
        self.scale(factor, factor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Home:
            self.show_whole() if self._is_fitted and self._least_scale else self.fit()
        elif event.key() in {Qt.Key.Key_Plus, Qt.Key.Key_Equal}:
            self._zoom(ZOOM_STEP)
        elif event.key() == Qt.Key.Key_Minus:
            self._zoom(1 / ZOOM_STEP)
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        item = self._item_at(event.pos())
        ref = item.ref_at(self.mapToScene(event.pos())) if item is not None else ""
        self.menu_requested.emit(ref, event.globalPos())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self._pressed, self._dragged = event.position().toPoint(), False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        now = event.position().toPoint()
        move = now - self._pressed
        if self._dragged or move.manhattanLength() > CLICK_SLACK_PX:
            self._dragged, self._is_fitted = True, False
            horizontal, vertical = self.horizontalScrollBar(), self.verticalScrollBar()
            horizontal.setValue(horizontal.value() - move.x())
            vertical.setValue(vertical.value() - move.y())
            self._pressed = now

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None and not self._dragged:
            self._click(event.position().toPoint())
        self._pressed = None

    def _click(self, point: QPoint) -> None:
        item = self._item_at(point)
        if item is not None and item.link:
            self.followed.emit(item.link, item.ref or "")
            return
        ref = item.ref_at(self.mapToScene(point)) if item is not None else ""
        self.picked.emit(ref)
        self.spot_picked.emit(ref, item.spot if item is not None else "")

    def _item_at(self, point: QPoint) -> DrawnItem | None:
        """Return what is nearest to a point, None if nothing is near; a link that is hit goes before what it stands on."""
        slack = CLICK_SLACK_PX
        area = self.mapToScene(
            QRectF(point.x() - slack, point.y() - slack, 2 * slack, 2 * slack).toRect()
        ).boundingRect()
        at = self.mapToScene(point)
        reach = area.width()
        near = [
            (item.distance(at), item)
            for item in self.scene().items(area)
            if isinstance(item, DrawnItem) and item.ref is not None
        ]
        links = [(distance, item) for distance, item in near if item.link and distance < min(reach, LINK_REACH_MM)]
        within = links or [(distance, item) for distance, item in near if distance < reach]
        return min(within, key=lambda pair: pair[0])[1] if within else None
