"""Owns small widgets that several screens use. Must not know a job."""

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QEnterEvent, QFont, QMouseEvent
from PySide6.QtWidgets import QBoxLayout, QFrame, QLabel, QLayout, QPushButton, QScrollArea, QWidget


class Words(QLabel):
    """Text that can be selected while the mouse is over it, and as long as some of it is: a text that can be lays itself out in twice the
    time, in the same room.
    """

    def enterEvent(self, event: QEnterEvent) -> None:
        """Show by the cursor that text can be selected."""
        self.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        super().enterEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select text, also with a finger, which comes from nowhere."""
        self.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        super().mousePressEvent(event)

    def leaveEvent(self, event: QEvent) -> None:
        """Be plain text again."""
        if not self.hasSelectedText():
            self.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        super().leaveEvent(event)


def label(
    text: str = "",
    *,
    role: str = "",
    points: int = 0,
    bold: bool = False,
    mono: bool = False,
    is_selectable: bool = True,
) -> QLabel:
    """Return a label that wraps; `role` names its colour in the style, `points` adds to the size of its letters. What cannot be selected
    leaves a press of the mouse to what it stands on.
    """
    made = Words(text) if is_selectable else QLabel(text)
    made.setWordWrap(True)
    made.setObjectName(role)
    font = QFont("B612 Mono" if mono else "B612", made.font().pointSize() + points)
    font.setBold(bold)
    made.setFont(font)
    return made


def button(text: str, *, role: str = "", tip: str = "") -> QPushButton:
    """Return a button; `role` is primary, big, link or stage."""
    made = QPushButton(text)
    made.setObjectName(role)
    made.setToolTip(tip)
    return made


def card(layout: QLayout, role: str = "card") -> QFrame:
    """Return a framed card around a layout."""
    frame = QFrame()
    frame.setObjectName(role)
    frame.setLayout(layout)
    return frame


def scrolled(widget: QWidget) -> QScrollArea:
    """Return a scroll area around a widget, as wide as it gets."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setWidget(widget)
    return area


def clear_layout(layout: QBoxLayout) -> None:
    """Remove everything from a layout."""
    while layout.count():
        item = layout.takeAt(0)
        widget = item.widget() if item is not None else None
        if widget is not None:
            widget.hide()
            widget.deleteLater()


def set_state(widget: QWidget, role: str) -> None:
    """Give a widget another role of the style."""
    if widget.objectName() != role:
        widget.setObjectName(role)
        widget.style().unpolish(widget)
        widget.style().polish(widget)
