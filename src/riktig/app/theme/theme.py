"""Owns the theme: tokens to roles to one frozen Theme, the palette, the style sheet, fonts and icon."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from importlib.resources import files

from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPainterPath, QPalette, QPixmap
from PySide6.QtWidgets import QApplication

from riktig.app.theme.dressing import SHEET, dress
from riktig.drawings.display import Tone
from riktig.drawings.palette import WIRE

FONT_FILES = ("B612-Regular.ttf", "B612-Bold.ttf", "B612Mono-Regular.ttf", "B612Mono-Bold.ttf")
BASE_POINT_SIZE = 10


class Variant(StrEnum):
    """The two looks."""

    LIGHT = "light"
    DARK = "dark"


_TONE_ROLES = {
    Tone.INK: "text",
    Tone.QUIET: "quiet",
    Tone.FAINT: "faint",
    Tone.PAPER: "surface",
    Tone.STEEL: "steel_fill",
    Tone.PART: "part",
    Tone.DUCT: "duct",
    Tone.DONE: "done",
    Tone.ATTENTION: "attention",
    Tone.DANGER: "danger",
}


@dataclass(frozen=True, slots=True)
class Theme:
    """Colours by role, as `#RRGGBB`."""

    variant: Variant
    roles: Mapping[str, str]

    def colour(self, role: str) -> QColor:
        """Return the colour of a role."""
        return QColor(self.roles[role])

    def tone(self, tone: Tone) -> str:
        """Return the colour of a drawing's tone as `#RRGGBB`; real wire colours are the same in both looks."""
        return WIRE[tone] if tone in WIRE else self.roles[_TONE_ROLES[tone]]


def load_theme(variant: Variant) -> Theme:
    """Return a look from the shipped tokens."""
    tokens = tomllib.loads(files("riktig.app.theme").joinpath("tokens.toml").read_text(encoding="utf-8"))
    base = tokens["base"]
    return Theme(variant, {role: base[name] for role, name in tokens[variant.value].items()})


def apply_theme(application: QApplication, theme: Theme) -> None:
    """Give the whole application a look: the palette to everything, the style sheet to the windows that were dressed.

    A sheet on the application would polish every widget there is, the hundreds of the hidden benches too, while a person
    waits; here each part of the main window wears its own, and one that is not seen is dressed when it is.
    """
    palette = QPalette()
    groups = {
        QPalette.ColorRole.Window: "window",
        QPalette.ColorRole.Base: "surface",
        QPalette.ColorRole.AlternateBase: "window",
        QPalette.ColorRole.Button: "surface",
        QPalette.ColorRole.Text: "text",
        QPalette.ColorRole.WindowText: "text",
        QPalette.ColorRole.ButtonText: "text",
        QPalette.ColorRole.PlaceholderText: "quiet",
        QPalette.ColorRole.Highlight: "done",
        QPalette.ColorRole.HighlightedText: "done_text",
    }
    for place, name in groups.items():
        palette.setColor(place, theme.colour(name))
    application.setPalette(palette)
    style = files("riktig.app.theme").joinpath("style.qss").read_text(encoding="utf-8")
    for role in sorted(theme.roles, key=len, reverse=True):
        style = style.replace(f"@{role}", theme.roles[role])
    application.setProperty(SHEET, style)
    for window in application.topLevelWidgets():
        if window.styleSheet():
            dress(window)


def load_fonts(application: QApplication) -> None:
    """Load the shipped fonts and make B612 the font of the application."""
    folder = files("riktig").joinpath("fonts")
    for name in FONT_FILES:
        QFontDatabase.addApplicationFontFromData(QByteArray(folder.joinpath(name).read_bytes()))
    application.setFont(QFont("B612", BASE_POINT_SIZE))


def make_icon() -> QIcon:
    """Return the icon: three conductors that come together under one clamp."""
    theme = load_theme(Variant.LIGHT)
    pixmap = QPixmap(128, 128)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("done"))
    painter.drawRoundedRect(QRectF(6, 6, 116, 116), 24, 24)
    pen = painter.pen()
    pen.setStyle(Qt.PenStyle.SolidLine)
    pen.setColor(theme.colour("window"))
    pen.setWidthF(9)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for x in (34.0, 64.0, 94.0):
        path = QPainterPath()
        path.moveTo(x, 24)
        path.cubicTo(x, 56, 64, 48, 64, 78)
        painter.drawPath(path)
    painter.drawEllipse(QRectF(48, 78, 32, 32))
    painter.end()
    return QIcon(pixmap)
