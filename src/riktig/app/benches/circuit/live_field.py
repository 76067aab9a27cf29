"""Owns the field beside a live circuit: tanks that fill and are filled, motors that turn. Must not know the circuit."""

from collections.abc import Sequence
from math import cos, pi, sin

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractSlider, QHBoxLayout, QSizePolicy, QToolTip, QVBoxLayout, QWidget

from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import clear_layout
from riktig.live.player import Tank, Turning

_MOST_TANKS, _MOST_MOTORS, _IN_A_ROW = 3, 12, 6
_TANK_PX, _MOTOR_PX, _NAME_PX = 110, 38, 14
_TURNS_A_SECOND = 0.7
"""A motor at full speed is drawn to turn so often: an eye still sees which way."""


class TankView(QAbstractSlider):
    """A tank: how high it stands, where its floats are. A hand that drags, the wheel and the arrow keys raise it, in cm."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._tank: Tank | None = None
        self.setOrientation(Qt.Orientation.Vertical)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFixedHeight(_TANK_PX)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setSingleStep(5)
        self.setPageStep(20)
        self.valueChanged.connect(lambda _: self.update())

    def set_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self._theme = theme
        self.update()

    def show_tank(self, tank: Tank) -> None:
        """Show where it stands; one that a hand has stays."""
        self._tank = tank
        self.setAccessibleName(tr("Level {name}").format(name=tank.name))
        self.setToolTip(tr("Drag to raise or lower it; its floats follow."))
        if not self.isSliderDown():
            self.blockSignals(True)
            self.setRange(0, round(100 * tank.high))
            self.setValue(round(100 * tank.metres))
            self.blockSignals(False)
        self.update()

    @property
    def _box(self) -> QRectF:
        return QRectF(4, _NAME_PX + 4, self.width() * 0.42, self.height() - _NAME_PX - 8)

    def _y(self, metres: float) -> float:
        high = self._tank.high if self._tank is not None else 1.0
        return self._box.bottom() - self._box.height() * metres / (high or 1.0)

    def paintEvent(self, event: QPaintEvent) -> None:
        tank = self._tank
        if tank is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box, ink = self._box, self._theme.colour("text")
        metres = self.value() / 100.0
        painter.setPen(ink)
        painter.drawText(QRectF(0, 0, self.width(), _NAME_PX + 2), int(Qt.AlignmentFlag.AlignLeft),
                         f"{tank.name}  {metres:.2f} m")  # fmt: skip
        liquid = QColor(self._theme.colour("done"))
        liquid.setAlpha(110)
        top = self._y(metres)
        painter.fillRect(QRectF(box.left(), top, box.width(), box.bottom() - top), liquid)
        painter.setPen(QPen(ink, 2 if not self.hasFocus() else 3))
        painter.drawPolyline([box.topLeft(), box.bottomLeft(), box.bottomRight(), box.topRight()])
        self._paint_floats(painter, tank, metres)

    def _paint_floats(self, painter: QPainter, tank: Tank, metres: float) -> None:
        box, ink = self._box, self._theme.colour("text")
        last = 1e9
        for name, height in tank.floats:
            y, is_up = self._y(height), metres >= height
            painter.setPen(QPen(ink, 1))
            painter.setBrush(self._theme.colour("attention") if is_up else self._theme.colour("surface"))
            painter.drawEllipse(QPointF(box.right() - 9, y), 5, 5)
            painter.drawLine(QPointF(box.right() - 4, y), QPointF(box.right() + 6, y))
            last = min(y + 5, last - 13)
            painter.drawText(QPointF(box.right() + 9, last), f"{name} {height:g}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setSliderDown(True)
        self._go_to(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._go_to(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.setSliderDown(False)

    def _go_to(self, event: QMouseEvent) -> None:
        box = self._box
        share = (box.bottom() - event.position().y()) / box.height()
        self.setValue(round(min(max(share, 0.0), 1.0) * self.maximum()))


class MotorsView(QWidget):
    """Motors as circles with an arm that turns as they do: those that turn first, where there are more than it has room for."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self.shown: tuple[Turning, ...] = ()
        """The motors that are drawn."""
        self._more = 0
        self._angles: dict[str, float] = {}
        self.setAccessibleName(tr("Motors"))
        self.setFixedHeight(0)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def set_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self._theme = theme
        self.update()

    def show_motors(self, motors: Sequence[Turning], seconds: float) -> None:
        """Show them, `seconds` after they were shown last."""
        turning = [motor for motor in motors if motor.speed or "stopped" not in motor.states]
        shown = motors if len(motors) <= _MOST_MOTORS else turning[:_MOST_MOTORS]
        self.shown, self._more = tuple(shown), max(len(turning) - len(shown), 0)
        for motor in shown:
            angle = self._angles.get(motor.device, 0.0) + 2 * pi * _TURNS_A_SECOND * motor.speed * min(seconds, 0.2)
            self._angles[motor.device] = angle % (2 * pi)
        rows = -(-len(shown) // _IN_A_ROW)
        height = rows * (_MOTOR_PX + _NAME_PX) + (_NAME_PX if self._more else 0)
        if height != self.height():
            self.setFixedHeight(height)
        said = ", ".join(f"{motor.tag} {' '.join(sorted(motor.states))}" for motor in shown)
        if said != self.accessibleDescription():
            self.setAccessibleDescription(said)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(_IN_A_ROW * _MOTOR_PX, self.height())

    def _centre(self, place: int) -> QPointF:
        pitch = self.width() / _IN_A_ROW
        row, column = divmod(place, _IN_A_ROW)
        return QPointF((column + 0.5) * pitch, row * (_MOTOR_PX + _NAME_PX) + _MOTOR_PX / 2)

    def event(self, event: object) -> bool:
        if isinstance(event, QHelpEvent):
            near = [
                m for n, m in enumerate(self.shown) if (self._centre(n) - QPointF(event.pos())).manhattanLength() < 24
            ]
            QToolTip.showText(event.globalPos(), "".join(f"{m.tag}: {', '.join(sorted(m.states))}" for m in near))
            return True
        return super().event(event)  # type: ignore[arg-type]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for place, motor in enumerate(self.shown):
            self._paint_motor(painter, self._centre(place), motor)
        if self._more:
            painter.setPen(self._theme.colour("text"))
            painter.drawText(
                QRectF(0, self.height() - _NAME_PX, self.width(), _NAME_PX), tr("and {n} more run").format(n=self._more)
            )

    def _paint_motor(self, painter: QPainter, at: QPointF, motor: Turning) -> None:
        radius = _MOTOR_PX / 2 - 6
        is_fed = "stopped" not in motor.states
        is_wrong = "single-phasing" in motor.states
        tone = self._theme.colour("danger" if is_wrong else "attention" if is_fed else "text")
        painter.setPen(QPen(tone, 3 if is_fed else 1.2))
        painter.setBrush(self._theme.colour("surface"))
        painter.drawEllipse(at, radius, radius)
        angle = self._angles.get(motor.device, 0.0)
        for turn in (0.0, pi):
            painter.drawLine(
                at, QPointF(at.x() + (radius - 3) * sin(angle + turn), at.y() - (radius - 3) * cos(angle + turn))
            )
        if motor.speed:
            self._paint_arrow(painter, at, radius + 4, clockwise=motor.speed > 0)
        painter.setPen(self._theme.colour("text"))
        painter.drawText(QRectF(at.x() - 30, at.y() + _MOTOR_PX / 2 - 3, 60, _NAME_PX + 2),
                         int(Qt.AlignmentFlag.AlignHCenter), motor.tag)  # fmt: skip

    def _paint_arrow(self, painter: QPainter, at: QPointF, radius: float, *, clockwise: bool) -> None:
        sign = 1 if clockwise else -1
        painter.setPen(QPen(self._theme.colour("text"), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawArc(QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius), 50 * 16, 80 * 16)
        end = QPointF(at.x() + sign * radius * sin(0.7), at.y() - radius * cos(0.7))
        painter.drawLine(end, QPointF(end.x() - sign * 6, end.y() - 3))
        painter.drawLine(end, QPointF(end.x() + sign * 1, end.y() - 7))


class FieldView(QWidget):
    """Tanks beside each other, and the motors below them."""

    moved = Signal(str, float)
    """The name of a level, and how high it is to stand, in m."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._row = QHBoxLayout()
        self.tanks: dict[str, TankView] = {}
        self.motors = MotorsView(theme)
        column = QVBoxLayout(self)
        column.setContentsMargins(2, 2, 2, 0)
        column.addLayout(self._row)
        column.addWidget(self.motors)

    def set_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self._theme = theme
        self.motors.set_theme(theme)
        for tank in self.tanks.values():
            tank.set_theme(theme)

    def show_field(self, tanks: Sequence[Tank], motors: Sequence[Turning], seconds: float) -> None:
        """Show how levels stand and motors turn, `seconds` after they were shown last."""
        shown = tanks[:_MOST_TANKS]
        if [tank.name for tank in shown] != list(self.tanks):
            self._make(shown)
        for tank in shown:
            self.tanks[tank.name].show_tank(tank)
        self.motors.show_motors(motors, seconds)

    def _make(self, tanks: Sequence[Tank]) -> None:
        clear_layout(self._row)
        self.tanks = {tank.name: TankView(self._theme) for tank in tanks}
        for name, made in self.tanks.items():
            made.valueChanged.connect(lambda value, name=name: self.moved.emit(name, value / 100.0))
            self._row.addWidget(made)
