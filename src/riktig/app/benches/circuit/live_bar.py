"""Owns what stands below a live circuit: time and how it goes, when what was on. Must not know the circuit."""

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from riktig.app.benches.circuit.script_panel import ScriptPanel
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, label, scrolled

SPEEDS = ((0.1, "1/10 as fast"), (1.0, "As it is"), (60.0, "60 times as fast"))
_LANES, _LANE_PX, _NAMES_PX, _FOOT_PX = 6, 15, 92, 18
_LEAST_S = 10.0


class TimeLine(QWidget):
    """When motors, coils and lamps were on, newest to the right; dragging goes back to an instant."""

    went_to = Signal(float)
    """The instant in s; beyond what was is now."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._lanes: tuple[tuple[str, tuple[tuple[float, float | None], ...]], ...] = ()
        self._now, self._at = 0.0, 0.0
        self.setAccessibleName(tr("Time line"))
        self.setToolTip(tr("Drag to go back to an instant; drag to the right end for now."))
        self.setFixedHeight(_LANES * _LANE_PX + _FOOT_PX)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def set_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self._theme = theme
        self.update()

    def show_lanes(
        self, lanes: tuple[tuple[str, tuple[tuple[float, float | None], ...]], ...], now: float, at: float
    ) -> None:
        """Show when things were on (names and spans in s), what changed last at the top, and a cursor."""
        self._lanes = tuple(
            sorted(lanes, key=lambda lane: max(a if b is None else b for a, b in lane[1]), reverse=True)
        )
        self.setFixedHeight(max(len(lanes), _LANES) * _LANE_PX + _FOOT_PX)
        self._now, self._at = now, at
        self.update()

    @property
    def _length(self) -> float:
        return max(self._now, _LEAST_S)

    def _x(self, time: float) -> float:
        return _NAMES_PX + (self.width() - _NAMES_PX - 8) * time / self._length

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        ink, quiet = self._theme.colour("text"), QColor(self._theme.colour("faint"))
        for row, (name, spans) in enumerate(self._lanes):
            top = row * _LANE_PX + _FOOT_PX
            painter.setPen(ink)
            painter.drawText(
                QRectF(0, top, _NAMES_PX - 6, _LANE_PX),
                int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter),
                name,
            )
            painter.setPen(quiet)
            painter.drawLine(QPointF(_NAMES_PX, top + _LANE_PX / 2), QPointF(self.width() - 8, top + _LANE_PX / 2))
            for a, b in spans:
                x, end = self._x(a), self._x(self._now if b is None else b)
                painter.fillRect(QRectF(x, top + 3, max(end - x, 2.0), _LANE_PX - 6), self._theme.colour("attention"))
        painter.setPen(ink)
        for share in (0.0, 0.5, 1.0):
            time = share * self._length
            words = f"{time:.0f} s"
            painter.drawText(QRectF(self._x(time) - 60, 0, 68 if share else 120, 14),
                             int(Qt.AlignmentFlag.AlignRight if share else Qt.AlignmentFlag.AlignHCenter), words)  # fmt: skip
        painter.setPen(QPen(self._theme.colour("danger"), 2))
        painter.drawLine(QPointF(self._x(self._at), 14), QPointF(self._x(self._at), self.height()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._go_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._go_to(event.position().x())

    def _go_to(self, x: float) -> None:
        share = (x - _NAMES_PX) / max(self.width() - _NAMES_PX - 8, 1)
        self.went_to.emit(min(max(share, 0.0), 1.0) * self._length)


class LiveBar(QWidget):
    """The strip below a live circuit: time and how it goes, and below it when what was on, or the scripts."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.runs = button(tr("Time runs"), role="chip", tip=tr("Let time go by (T)"))
        self.runs.setCheckable(True)
        self.step = button(tr("Step"), role="chip", tip=tr("Let what comes next happen (.)"))
        self.print = button(
            tr("Print"), role="chip", tip=tr("Write the sheet as it is now, with what is live, as a PDF")
        )
        self.keep = button(
            tr("Keep as script"), role="chip", tip=tr("Keep what was done, and what came of it, as a script")
        )
        self.scripts = button(tr("Scripts"), role="chip", tip=tr("Scripts that the job keeps: play and change them"))
        self.scripts.setCheckable(True)
        self.speed = QComboBox()
        self.speed.setAccessibleName(tr("Speed"))
        for factor, words in SPEEDS:
            self.speed.addItem(tr(words), factor)
        self.speed.setCurrentIndex(1)
        self.time = label("", bold=True, mono=True)
        self.time.setWordWrap(False)
        self.says = label("", role="danger")
        self.says.hide()
        self.line = TimeLine(theme)
        self.panel = ScriptPanel(session)
        head = QHBoxLayout()
        head.addWidget(self.time)
        head.addStretch(1)
        for widget in (self.runs, self.step, self.speed, self.print, self.keep, self.scripts):
            head.addWidget(widget)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(3)
        layout.addLayout(head)
        layout.addWidget(self.says)
        lanes = scrolled(self.line)
        lanes.setFixedHeight(_LANES * _LANE_PX + _FOOT_PX + 2)
        layout.addWidget(lanes)
        layout.addWidget(self.panel)
        self.panel.hide()
        self.scripts.toggled.connect(lanes.setHidden)
        self.scripts.toggled.connect(self.panel.setVisible)

    def show_words(self, words: str) -> None:
        """Say what happens to the circuit as a whole, or why it stands still."""
        self.says.setText(words)
        self.says.setVisible(bool(words))

    def set_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self.line.set_theme(theme)
