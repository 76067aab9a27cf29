"""Owns what stands in the margin while a circuit is live: the key of its looks, what is selected is, why, and by which way it is fed.

Must not know the circuit: it shows a reading.
"""

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, clear_layout, label
from riktig.live.currents import Look
from riktig.live.readings import Reading
from riktig.units.numbers import format_number

CAUTION = "No proof: a competent person tests the real panel."
HINT = "Click a button, a switch or a float: it moves. Click anything else: here stands what it is and why."
_WORDS = {Look.DEAD: "dead", Look.LIVE: "live", Look.CARRYING: "carries current", Look.REDUNDANT: "redundant"}
_MOST_PASSES = 9
_LEAST = 1e-4
"""V and A below this are none."""


class LookSample(QWidget):
    """A piece of a conductor in one of the looks, beside its words."""

    def __init__(self, look: Look, theme: Theme) -> None:
        super().__init__()
        self._look, self._theme = look, theme
        self.setFixedSize(QSize(34, 18))

    def set_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self._theme = theme
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        y = self.height() / 2
        width, role, style, offsets = {
            Look.DEAD: (1.2, "text", Qt.PenStyle.SolidLine, (0.0,)),
            Look.LIVE: (2.2, "attention", Qt.PenStyle.DashLine, (0.0,)),
            Look.CARRYING: (5.0, "attention", Qt.PenStyle.SolidLine, (0.0,)),
            Look.REDUNDANT: (1.4, "done", Qt.PenStyle.SolidLine, (-2.5, 2.5)),
        }[self._look]
        painter.setPen(QPen(self._theme.colour(role), width, style))
        for offset in offsets:
            painter.drawLine(QPointF(2, y + offset), QPointF(self.width() - 2, y + offset))


class LiveSide(QWidget):
    """The key, the caution and the reading of what is selected."""

    chosen = Signal(str)
    """A thing on the way is to be selected."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._samples = [LookSample(look, theme) for look in Look]
        self._shown: Reading | None = None
        key = QGridLayout()
        key.setContentsMargins(0, 0, 0, 0)
        key.setColumnStretch(3, 1)
        for n, (sample, look) in enumerate(zip(self._samples, Look, strict=True)):
            key.addWidget(sample, n // 2, 2 * (n % 2))
            key.addWidget(QLabel(tr(_WORDS[look])), n // 2, 2 * (n % 2) + 1)
        self.title = label("", points=2, bold=True)
        self.figures = label("", mono=True)
        self.says = label(tr(HINT))
        self.way = button(tr("Light up the way"), role="chip", tip=tr("Mark on the sheets by which way it is fed"))
        self.way.setCheckable(True)
        self._passes = QVBoxLayout()
        self._passes.setSpacing(1)
        head = QHBoxLayout()
        self._fed = label(tr("Fed by"), role="quiet")
        head.addWidget(self._fed, 1)
        head.addWidget(self.way)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 10)
        column.setSpacing(4)
        column.addWidget(label(tr("Live"), points=4, bold=True))
        column.addLayout(key)
        column.addWidget(label(tr(CAUTION), role="attention", bold=True))
        for widget in (self.title, self.figures, self.says):
            column.addWidget(widget)
        column.addLayout(head)
        column.addLayout(self._passes)
        self.show_reading(None)

    def set_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        for sample in self._samples:
            sample.set_theme(theme)

    def show_reading(self, reading: Reading | None) -> None:
        """Show what the selected thing is, None where nothing is selected that a circuit knows."""
        if reading is not None and reading == self._shown:
            return
        is_new_way = (reading.way if reading is not None else ()) != (
            self._shown.way if self._shown is not None else ()
        )
        self._shown = reading
        self.title.setVisible(reading is not None)
        figures = _figures(reading) if reading is not None else ""
        self.figures.setVisible(bool(figures))
        self.figures.setText(figures)
        if reading is None:
            self.says.setText(tr(HINT))
        else:
            self.title.setText("  ".join((reading.name, ", ".join(reading.states))).strip())
            self.says.setText(_words(reading))
        self.says.setVisible(bool(self.says.text()))
        way = reading.way if reading is not None else ()
        self._fed.setVisible(bool(way))
        self.way.setVisible(bool(way))
        if is_new_way:
            self._show_way(reading)

    def _show_way(self, reading: Reading | None) -> None:
        clear_layout(self._passes)
        way = reading.way if reading is not None else ()
        for one in way[:_MOST_PASSES]:
            made = button(f"{one.tag}   {one.numbers[0]} – {one.numbers[1]}", role="link")
            made.clicked.connect(lambda _=False, device=one.device: self.chosen.emit(device))
            self._passes.addWidget(made)
        if len(way) > _MOST_PASSES:
            self._passes.addWidget(label(tr("and {n} more").format(n=len(way) - _MOST_PASSES), role="quiet"))


def _figures(reading: Reading) -> str:
    parts = []
    if reading.volts is not None:
        parts.append(f"{_figure(reading.volts)} V")
    if reading.amps is not None:
        parts.append(f"{_figure(reading.amps)} A")
    return "   ".join(parts)


def _figure(value: float) -> str:
    return format_number(value if value >= _LEAST else 0.0)


def _words(reading: Reading) -> str:
    """Return why it is off, a few lines for each way to bring it in; or what its volts are measured to."""
    if reading.in_the_way:
        sets = ("\n".join(f"·  {one}" for one in found) for found in reading.in_the_way)
        return tr("Why off:") + "\n" + f"\n{tr('or')}\n".join(sets)
    if reading.is_past:
        return tr("As it was at the instant of the time line; why, and what fed it, is told of now.")
    if reading.is_floating:
        return tr("To its own return: nothing joins it to earth.")
    return tr("To earth.") if not reading.states and reading.volts is not None else ""
