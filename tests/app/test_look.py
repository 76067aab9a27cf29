"""The look by its numbers: contrast, references, what is loaded at the start."""

import subprocess
import sys
from collections.abc import Callable

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QApplication, QStyleOptionGraphicsItem
from pytestqt.qtbot import QtBot

from riktig.app.canvas.items import DrawnItem, group_items
from riktig.app.day_sheet import STAGES
from riktig.app.shell import Shell
from riktig.app.theme.theme import Variant, load_theme
from riktig.drawings.sheet_set import draw_sheets
from support import plan_of, small_text

DRAWS = 1000


def luminance(colour: QColor) -> float:
    parts = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in colour.getRgbF()[:3]]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(a: QColor, b: QColor) -> float:
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("variant", list(Variant))
def test_text_reaches_the_contrast_of_the_guideline(variant: Variant) -> None:
    """WCAG 2.1, 1.4.3: 4.5 to 1."""
    theme = load_theme(variant)
    pairs = [
        (text, back) for text in ("text", "quiet", "danger", "attention_text", "done") for back in ("window", "surface")
    ]
    pairs += [("text", back) for back in ("raised", "done_fill", "attention_fill", "danger_fill", "part", "duct")]
    pairs += [("done_text", "done"), ("quiet", "raised"), ("quiet", "danger_fill"), ("quiet", "attention_fill")]
    weak = [(a, b) for a, b in pairs if contrast(theme.colour(a), theme.colour(b)) < 4.5]
    assert weak == []


def test_drawing_does_not_lose_references_to_none(qapp: QApplication) -> None:
    """PySide6 6.12.0 drops one at each paint and aborts after some thousand draws on Python 3.11."""
    drawing, theme = draw_sheets(plan_of(small_text()))[0], load_theme(Variant.LIGHT)
    items = [
        DrawnItem(key[0], members, drawing.height, theme) for key, members in list(group_items(drawing).items())[:20]
    ]
    image = QImage(200, 200, QImage.Format.Format_ARGB32)
    option = QStyleOptionGraphicsItem()
    before = sys.getrefcount(None)
    for _ in range(DRAWS // len(items)):
        painter = QPainter(image)
        for item in items:
            item.paint(painter, option, None)
        painter.end()
    assert sys.getrefcount(None) > before - DRAWS / 10


def test_the_start_path_loads_no_heavy_library() -> None:
    """They cost five to ten times an empty window together."""
    code = "import riktig.app.main, sys; print([m for m in ('numpy', 'scipy', 'reportlab', 'tomlkit', 'typer') if m in sys.modules])"
    result = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert result.stdout.strip() == "[]"


def light_part(picture: QImage) -> float:
    """Return which part of a picture is as light as paper."""
    small = picture.scaled(160, 100)
    return sum(luminance(QColor(small.pixel(x, y))) > 0.6 for x in range(160) for y in range(100)) / 16_000


def test_the_dark_look_reaches_every_bench_those_made_before_and_those_made_after(
    shell: Shell, qtbot: QtBot, settled: Callable[[], None]
) -> None:
    """Also a bench that was hidden when the look was changed: no strip of it stays as light as paper."""
    for place in (1, 3):
        qtbot.keyClick(shell, str(place), Qt.KeyboardModifier.AltModifier)
        settled()
    qtbot.keyClick(shell, "d", Qt.KeyboardModifier.ControlModifier)
    try:
        for stage in STAGES:
            qtbot.keyClick(shell, stage.shortcut, Qt.KeyboardModifier.AltModifier)
            settled()
            qtbot.waitUntil(lambda: light_part(shell.grab().toImage()) < 0.03, timeout=30_000)
    finally:
        qtbot.keyClick(shell, "d", Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: light_part(shell.grab().toImage()) > 0.5, timeout=30_000)
