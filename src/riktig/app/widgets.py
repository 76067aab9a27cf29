"""Owns small widgets that several screens use. Must not know a job."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QBoxLayout, QFrame, QLabel, QLayout, QPushButton, QScrollArea, QWidget


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
    made = QLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)  # what a job says is never read as markup
    made.setWordWrap(True)
    if is_selectable:
        made.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
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
