"""Owns what stands below a live circuit: the key of its looks, time and how it goes, when what was on. Must not know the circuit."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QMenu, QSizePolicy, QSlider, QVBoxLayout, QWidget

from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, clear_layout, label, scrolled
from riktig.live.currents import Look

SPEEDS = ((0.1, "1/10 as fast"), (1.0, "As it is"), (60.0, "60 times as fast"))
CAUTION = "No proof: a competent person tests the real panel."
_WORDS = {Look.DEAD: "dead", Look.LIVE: "live", Look.CARRYING: "carries current", Look.REDUNDANT: "redundant"}
_LANES, _LANE_PX, _NAMES_PX, _FOOT_PX = 6, 15, 92, 18
_LEAST_S = 10.0
_MOST_LEVELS = 3
_AT_THE_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


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


class LevelRow(QWidget):
    """A slider for each level: it shows how high it stands, and raises it."""

    moved = Signal(str, float)
    """The name of a level, and how high it is to stand, in m."""

    def __init__(self) -> None:
        super().__init__()
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(4, 0, 4, 0)
        self.sliders: dict[str, QSlider] = {}
        self._words: dict[str, QLabel] = {}

    def show_levels(self, levels: dict[str, tuple[float, float]]) -> None:
        """Show where levels stand and how high they can, in m; one that a hand has stays."""
        if list(levels)[:_MOST_LEVELS] != list(self.sliders):
            self._make(levels)
        for name in self.sliders:
            metres, high = levels[name]
            slider = self.sliders[name]
            if not slider.isSliderDown():
                slider.blockSignals(True)
                slider.setRange(0, round(100 * high))
                slider.setValue(round(100 * metres))
                slider.blockSignals(False)
            self._words[name].setText(f"{name} {metres:.2f} m")

    def _make(self, levels: dict[str, tuple[float, float]]) -> None:
        clear_layout(self._rows)
        self.sliders, self._words = {}, {}
        for name in list(levels)[:_MOST_LEVELS]:
            self._words[name] = QLabel()
            self.sliders[name] = slider = QSlider(Qt.Orientation.Horizontal)
            slider.setAccessibleName(tr("Level {name}").format(name=name))
            slider.valueChanged.connect(lambda value, name=name: self.moved.emit(name, value / 100.0))
            self._rows.addWidget(self._words[name])
            self._rows.addWidget(slider)


class LiveBar(QWidget):
    """The strip below a live circuit."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.runs = button(tr("Time runs"), role="chip", tip=tr("Let time go by (T)"))
        self.runs.setCheckable(True)
        self.step = button(tr("Step"), role="chip", tip=tr("Let what comes next happen (.)"))
        self.way = button(tr("Way"), role="chip", tip=tr("Light up by which way what is selected is fed"))
        self.way.setCheckable(True)
        self.scripts = button(tr("Scripts"), role="chip", tip=tr("Keep what was done, or play what is kept"))
        self.menu = QMenu(self)
        self.scripts.setMenu(self.menu)
        self.speed = QComboBox()
        self.speed.setAccessibleName(tr("Speed"))
        for factor, words in SPEEDS:
            self.speed.addItem(tr(words), factor)
        self.speed.setCurrentIndex(1)
        self.time = label("", bold=True, mono=True)
        self.time.setWordWrap(False)
        self.says = label("")
        self.says.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.line = TimeLine(theme)
        self._samples = [LookSample(look, theme) for look in Look]
        first = QHBoxLayout()
        first.addWidget(self.time)
        first.addSpacing(6)
        first.addWidget(self.says, 1)
        for widget in (self.way, self.runs, self.step, self.speed, self.scripts):
            first.addWidget(widget)
        second = QHBoxLayout()
        second.setSpacing(5)
        for sample, look in zip(self._samples, Look, strict=True):
            second.addWidget(sample)
            second.addWidget(QLabel(tr(_WORDS[look])))
            second.addSpacing(8)
        second.addStretch(1)
        self.levels = LevelRow()
        caution = label(tr(CAUTION), role="attention", bold=True)
        caution.setWordWrap(False)
        second.addWidget(caution)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(3)
        layout.addLayout(first)
        layout.addLayout(second)
        lanes = scrolled(self.line)
        lanes.setFixedHeight(_LANES * _LANE_PX + _FOOT_PX + 2)
        layout.addWidget(lanes)

    def set_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self.line.set_theme(theme)
        for sample in self._samples:
            sample.set_theme(theme)
