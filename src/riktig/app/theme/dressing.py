"""Owns how parts of the window put on the style sheet, piece by piece where they are large. Must not know colours.

A sheet on a widget polishes all widgets in it at once, which holds the window up where there are thousands. So large containers wear none:
what stands in them wears its own, and what is put into them later is dressed when it is first shown.
"""

import time
from collections import deque
from collections.abc import Iterable, Iterator

from PySide6.QtCore import QChildEvent, QEvent, QObject, Signal
from PySide6.QtWidgets import QApplication, QFrame, QScrollArea, QSplitter, QSplitterHandle, QWidget
from shiboken6 import isValid

from riktig.app.turns import Turns

SHEET = "style-sheet"
"""The property of the application that holds the style sheet of the present look."""
_APART = "wears-apart"
_FEW = 20
"""What holds fewer widgets is not hidden while it is dressed."""
TURN_S = 0.08
"""How long is dressed before the window paints and listens."""


class PlainSplitter(QSplitter):
    """A splitter whose handles are drawn by nobody, so that it needs no style sheet."""

    def createHandle(self) -> QSplitterHandle:
        """Return a handle that is as bare as what lies behind it."""
        return _PlainHandle(self.orientation(), self)


class _PlainHandle(QSplitterHandle):
    def paintEvent(self, event: QEvent) -> None:
        """Paint nothing."""


class _Tailor(QObject):
    """Dresses what is put into a container that wears no sheet itself."""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Dress a child when it has been polished for the first time."""
        if event.type() is QEvent.Type.ChildPolished:
            child = event.child() if isinstance(event, QChildEvent) else None
            if isinstance(child, QWidget) and not child.isWindow() and not child.styleSheet():
                for piece in _pieces(child):
                    if not piece.styleSheet():
                        piece.setStyleSheet(_sheet())
        return False


_tailors: list[_Tailor] = []


def wear_apart(*containers: QWidget) -> None:
    """Let what stands in containers wear the style sheet each by itself; what a container looks like itself is then code's."""
    if not _tailors:
        _tailors.append(_Tailor())
    for container in containers:
        container.setProperty(_APART, True)
        container.installEventFilter(_tailors[0])


def scrolled_apart(area: QScrollArea) -> QScrollArea:
    """Return a scroll area that wears no sheet: bare, without a frame, what is in it dressed piece by piece."""
    area.setFrameShape(QFrame.Shape.NoFrame)
    held = area.widget()
    assert held is not None, "it is a scroll area around a widget"
    for part in (area.viewport(), held):
        part.setAutoFillBackground(False)
    wear_apart(area, area.viewport(), held)
    return area


def _sheet() -> str:
    application = QApplication.instance()
    assert application is not None
    return str(application.property(SHEET) or "")


def _pieces(part: QWidget) -> Iterator[QWidget]:
    """Yield what wears a sheet in a part: itself, or all that stands in it."""
    if not part.property(_APART):
        yield part
        return
    for child in part.children():
        if isinstance(child, QWidget) and not child.isWindow():
            yield from _pieces(child)


def dress(*parts: QWidget) -> None:
    """Give parts of a window, and all in them, the style sheet of the present look."""
    for part in parts:
        for piece in _pieces(part):
            _dress_one(piece)


def _dress_one(piece: QWidget) -> None:
    """Dress a piece, hidden meanwhile where it is large: what is seen is measured and laid out again at each of its widgets, which takes
    twice as long.
    """
    is_hidden = piece.isVisible() and not piece.isWindow() and len(piece.findChildren(QWidget)) >= _FEW
    focus = piece.window().focusWidget() if is_hidden else None
    if is_hidden:
        piece.hide()
    piece.setStyleSheet("")  # a sheet in place of another takes several times as long
    piece.setStyleSheet(_sheet())
    if is_hidden:
        piece.show()
        if focus is not None and piece.isAncestorOf(focus):
            focus.setFocus()


class Dressing(QObject):
    """Parts that still have to be dressed, a few in a turn; what is seen comes first."""

    rested = Signal()
    """All parts are dressed."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._waiting: deque[QWidget] = deque()
        self._turns = Turns(self._dress_some, self)

    def dress(self, parts: Iterable[QWidget]) -> None:
        """Dress parts before all that waits: as many pieces at once as a turn has time for, the others in the next ones."""
        pieces = [piece for part in parts for piece in _pieces(part)]
        again = {id(piece) for piece in pieces}
        self._waiting = deque([*pieces, *(piece for piece in self._waiting if id(piece) not in again)])
        self._dress_some()
        self._turns.start()

    def _dress_some(self) -> None:
        until = time.perf_counter() + TURN_S
        while self._waiting and time.perf_counter() < until:
            piece = self._waiting.popleft()
            if isValid(piece):
                _dress_one(piece)
        if not self._waiting:
            self._turns.stop()
            self.rested.emit()
