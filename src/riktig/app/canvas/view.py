"""Owns a view of one drawing: fit, zoom, pan, click to select, marks on what is selected."""

from collections.abc import Sequence

from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QResizeEvent, QTransform, QWheelEvent
from PySide6.QtWidgets import QGraphicsScene, QGraphicsView, QWidget

from riktig.app.canvas.items import DrawnItem
from riktig.app.canvas.picture import Picture
from riktig.app.theme.theme import Theme
from riktig.drawings.display import Drawing, Item

CLICK_SLACK_PX = 5
LINK_REACH_MM = 1.0
ZOOM_STEP = 1.2
_OVERLAY_Z = 10.0


class DrawingView(QGraphicsView):
    """Shows a drawing to scale. Wheel zooms, dragging pans, a click picks, a double-click brings near, Home fits the drawing again."""

    picked = Signal(str)
    followed = Signal(str, str)
    """A link was clicked: the id of its target, and the ref of what was clicked."""
    spot_picked = Signal(str, str)
    """As `picked`, with the key of the use whose symbol was clicked, empty where it is none."""

    held = Signal(str)
    """The button of the mouse went down on a thing: its ref."""
    let_go = Signal()
    """The button is up again."""
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
        self._picture = Picture(self.scene(), self)
        self._picture.made.connect(self._centre)
        self._wanted, self._shift = "", 0.0
        self._overlay: list[DrawnItem] = []
        self.overlay: tuple[Item, ...] = ()
        """What is laid over the drawing."""
        self._pressed: QPoint | None = None
        self._dragged = False
        self._is_fitted = True
        self._part: QRectF | None = None
        """What is kept in view when the room changes, until somebody zooms or drags."""

    @property
    def drawing(self) -> Drawing | None:
        """What is shown."""
        return self._drawing

    def show_drawing(self, drawing: Drawing | None, *, shift: float = 0.0) -> None:
        """Replace what is shown; zoom and place stay unless the size of the drawing changed. With a shift, what is laid over it and what a
        hand does is given in mm from so far right in the drawing.
        """
        old = self._drawing
        self._drawing, self._shift = drawing, shift
        if drawing == old:
            return
        is_turned = old is not None and drawing is not None and old.name != drawing.name
        keep = old is not None and drawing is not None and old.height == drawing.height and not is_turned
        self._rebuild(keep=keep, at_once=is_turned)
        if drawing is not None and (old is None or (old.width, old.height) != (drawing.width, drawing.height)):
            self.fit()

    def set_theme(self, theme: Theme) -> None:
        """Draw everything in another look."""
        self._theme = theme
        self._rebuild()

    def _rebuild(self, *, keep: bool = False, at_once: bool = False) -> None:
        self.show_overlay(())
        self._picture.show(self._drawing, self._theme, keep=keep, at_once=at_once)

    def show_overlay(self, items: Sequence[Item]) -> None:
        """Draw items over the drawing, in its mm from the shift on; an empty list removes them."""
        for old in self._overlay:
            self.scene().removeItem(old)
        self._overlay.clear()
        self.overlay = tuple(items) if self._drawing is not None else ()
        if self._drawing is None or not items:
            return
        groups: dict[str | None, list[Item]] = {}
        for one in items:
            groups.setdefault(one.ref, []).append(one)
        for ref, members in groups.items():
            drawn = DrawnItem(ref, members, self._drawing.height, self._theme)
            drawn.setZValue(_OVERLAY_Z)
            drawn.setX(self._shift)
            self.scene().addItem(drawn)
            self._overlay.append(drawn)

    def mark(self, refs: tuple[str, ...]) -> None:
        """Mark what is selected."""
        self._picture.mark(refs)

    def has(self, ref: str) -> bool:
        """Return whether the drawing depicts a thing."""
        return bool(self._picture.items_of(ref))

    def centre_on(self, ref: str) -> None:
        """Bring a thing into view if it is not; in a drawing that is still being made, once that is done."""
        self._wanted = ref
        if not self._picture.is_making:
            self._centre()

    def _centre(self) -> None:
        ref, self._wanted = self._wanted, ""
        items = self._picture.items_of(ref) if ref else []
        if items:
            place = items[0].places.get(ref)
            self.ensureVisible(items[0].mapRectToScene(place) if place is not None else items[0].boundingRect(), 40, 40)

    def show_point(self, x: float, y: float) -> None:
        """Bring a point of the drawing, in its own mm, to the middle of the view."""
        if self._drawing is not None:
            self._let_go()
            self.centerOn(x, self._drawing.height - y)

    def fit(self) -> None:
        """Show the whole drawing, or from its upper left corner as much as can be read."""
        self._is_fitted, self._part = True, None
        if self._drawing is None:
            return
        self.fitInView(self.scene().sceneRect(), Qt.AspectRatioMode.KeepAspectRatio)
        if self.transform().m11() < self._least_scale:
            scale = max(self._least_scale, self.viewport().width() / self._drawing.width)
            self.setTransform(QTransform.fromScale(scale, scale))
            self.centerOn(0, 0)

    def show_part(self, x: float, y: float, w: float, h: float) -> None:
        """Show a part of the drawing, given in its own mm, as large as it fits, also when the room changes."""
        self._let_go()
        if self._drawing is not None:
            self._part = QRectF(x, self._drawing.height - y - h, w, h)
            self.fitInView(self._part, Qt.AspectRatioMode.KeepAspectRatio)

    def _let_go(self) -> None:
        self._is_fitted, self._part = False, None

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._is_fitted:
            self.fit()
        elif self._part is not None:
            self.fitInView(self._part, Qt.AspectRatioMode.KeepAspectRatio)

    def wheelEvent(self, event: QWheelEvent) -> None:
        factor = ZOOM_STEP if event.angleDelta().y() > 0 else 1 / ZOOM_STEP
        self._zoom(factor)

    def _zoom(self, factor: float) -> None:
        self._let_go()
        self.scale(factor, factor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Home:
            if self._drawing is not None and self._is_fitted and self._least_scale:
                self.show_part(0, 0, self._drawing.width, self._drawing.height)
            else:
                self.fit()
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
            item = self._item_at(self._pressed)
            if item is not None and item.ref and not item.link:
                self.held.emit(item.ref)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        now = event.position().toPoint()
        move = now - self._pressed
        if self._dragged or move.manhattanLength() > CLICK_SLACK_PX:
            self._dragged = True
            self._let_go()
            horizontal, vertical = self.horizontalScrollBar(), self.verticalScrollBar()
            horizontal.setValue(horizontal.value() - move.x())
            vertical.setValue(vertical.value() - move.y())
            self._pressed = now

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None and not self._dragged:
            self._click(event.position().toPoint())
        self._pressed = None
        self.let_go.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Bring what is double-clicked near, with as much around it as it is large; the whole again where it is near, or nothing is hit."""
        if event.button() is not Qt.MouseButton.LeftButton:
            return
        self._pressed = None
        item = self._item_at(event.position().toPoint())
        box = item.mapRectToScene(item.boundingRect()) if item is not None else QRectF()
        around = max(box.width(), box.height())
        whole = self.scene().sceneRect()
        near = box.adjusted(-around, -around, around, around).intersected(whole)
        if item is None or near in (self._part, whole):
            self.fit()
            return
        self._let_go()
        self._part = near
        self.fitInView(near, Qt.AspectRatioMode.KeepAspectRatio)

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
        self._picture.finish()
        slack = CLICK_SLACK_PX
        area = self.mapToScene(
            QRectF(point.x() - slack, point.y() - slack, 2 * slack, 2 * slack).toRect()
        ).boundingRect()
        at = self.mapToScene(point)
        reach = area.width()
        near = [
            (item.distance(at), item)
            for item in self.scene().items(area)
            if isinstance(item, DrawnItem) and item.ref is not None and item not in self._overlay
        ]
        links = [(distance, item) for distance, item in near if item.link and distance < min(reach, LINK_REACH_MM)]
        within = links or [(distance, item) for distance, item in near if distance < reach]
        return min(within, key=lambda pair: pair[0])[1] if within else None
