"""Owns a view in which things can be taken into the hand: dragged, nudged by keys, let go. Must not know what may go where."""

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent

from riktig.app.canvas.view import CLICK_SLACK_PX, DrawingView

_NUDGES = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, 1),
    Qt.Key.Key_Down: (0, -1),
}
NUDGE_MM, LONG_NUDGE_MM = 1.0, 10.0


class HandView(DrawingView):
    """What is movable follows the pointer while it is dragged; anything else pans. Points are mm of the drawing from its shift on, y up."""

    grabbed = Signal(str, float, float)
    """A thing is dragged from a point on."""
    carried = Signal(float, float)
    dropped = Signal(float, float)
    let_go = Signal()
    """The drag was given up with Esc."""
    nudged = Signal(float, float)
    spotted = Signal(float, float)
    """A click while `is_spotting`: where something new is wanted."""

    def take_movable(self, refs: frozenset[str]) -> None:
        """Take over what may be dragged."""
        self._movable = refs

    _movable: frozenset[str] = frozenset()
    _held = ""
    is_spotting = False

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        self._held = ""
        if event.button() is Qt.MouseButton.LeftButton and not self.is_spotting:
            self._start = event.position().toPoint()
            item = self._item_at(self._start)
            ref = (item.ref or "") if item is not None else ""
            self._held = ref if ref in self._movable else ref.rpartition(":")[0] if ":" in ref else ""
            self._held = self._held if self._held in self._movable else ""

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        now = event.position().toPoint()
        if not self._held or not event.buttons() & Qt.MouseButton.LeftButton:
            super().mouseMoveEvent(event)
            return
        if not self._dragged:
            if (now - self._start).manhattanLength() <= CLICK_SLACK_PX:
                return
            self._dragged = True
            at = self._mm(self._start)
            self.grabbed.emit(self._held, at.x(), at.y())
        at = self._mm(now)
        self.carried.emit(at.x(), at.y())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        was_carried = bool(self._held) and self._dragged
        self._held = ""
        at = self._mm(event.position().toPoint())
        if self.is_spotting:
            self._pressed = None
            self.spotted.emit(at.x(), at.y())
        elif was_carried:
            self._pressed = None
            self.dropped.emit(at.x(), at.y())
        else:
            super().mouseReleaseEvent(event)

    def event(self, event: QEvent) -> bool:
        """Keep Esc for what is in the hand, which otherwise selects nothing."""
        if event.type() is QEvent.Type.ShortcutOverride and self._held:
            assert isinstance(event, QKeyEvent)
            if event.key() == Qt.Key.Key_Escape:
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = _NUDGES.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Escape and self._held:
            self._held = ""
            self.let_go.emit()
        elif step is not None:
            far = LONG_NUDGE_MM if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else NUDGE_MM
            self.nudged.emit(step[0] * far, step[1] * far)
        else:
            super().keyPressEvent(event)

    def _mm(self, point: QPoint) -> QPointF:
        """Return a point of the view in mm of the drawing from its shift on, y up."""
        at = self.mapToScene(point)
        return QPointF(at.x() - self._shift, (self._drawing.height if self._drawing is not None else 0.0) - at.y())
