"""The circuit, live: pressed, turned, watched, gone back in, kept and played again, by mouse and keys on the drawing."""

from collections.abc import Callable
from pathlib import Path

import pytest
from pypdf import PdfReader
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFileDialog, QLineEdit, QPushButton
from pytestqt.qtbot import QtBot

from riktig.app.benches.circuit.bench import CircuitBench
from riktig.app.canvas.items import DrawnItem
from riktig.app.shell import Shell
from riktig.drawings.display import Circle, Line, Symbol, Text, Tone
from riktig.files.job_file import JobFile
from riktig.live.scripts import play
from support import demo_text, job_of

Settled = Callable[[], None]
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def bench(shell: Shell, home: Path, qtbot: QtBot, settled: Settled) -> CircuitBench:
    """The Circuit bench with the demo, switched on by its button."""
    path = home / "demo.riktig"
    JobFile.create(path, job_of(demo_text("iec"))).close()
    shell.files.open_path(path)
    settled()
    qtbot.waitUntil(lambda: bool(shell.session.sheets), timeout=60_000)
    shell.show_stage("circuit")
    made = shell.bench("circuit")
    assert isinstance(made, CircuitBench)
    qtbot.mouseClick(made.live, LEFT)
    qtbot.waitUntil(made.live_bar.runs.isChecked, timeout=20_000)
    qtbot.mouseClick(made.live_bar.runs, LEFT)  # the test lets time go by
    return made


def place_of(bench: CircuitBench, qtbot: QtBot, device: str, sort: str) -> QPoint:
    """Turn to the sheet where a symbol of a device is, and return where it is in the view."""
    for row in range(bench.strip.count()):
        bench.strip.setCurrentRow(row)
        drawing = bench.view.drawing
        assert drawing is not None
        found = next(
            (i for i in drawing.items if isinstance(i, Symbol) and i.ref == device and sort in i.shape.name), None
        )
        if found is not None:
            (ax, ay), (bx, by) = found.pins()[:2]
            x, y = (ax + bx) / 2, (ay + by) / 2
            bench.view.show_point(x, y)
            qtbot.wait(50)
            return bench.view.mapFromScene(x, drawing.height - y)
    raise AssertionError(device)


def press(bench: CircuitBench, qtbot: QtBot, device: str, sort: str) -> None:
    qtbot.mouseClick(bench.view.viewport(), LEFT, pos=place_of(bench, qtbot, device, sort))


def is_lit(bench: CircuitBench, qtbot: QtBot, device: str, sort: str) -> bool:
    """Return whether something is laid over a symbol that shows it on."""
    at = bench.view.mapToScene(place_of(bench, qtbot, device, sort))
    drawing = bench.view.drawing
    assert drawing is not None
    return any(
        isinstance(i, Circle) and abs(i.x - at.x()) < 1.5 and abs(drawing.height - i.y - at.y()) < 1.5
        for i in bench.view.overlay
    )


def cell(bench: CircuitBench, row: int, column: int) -> str:
    item = bench.live_bar.panel.table.item(row, column)
    return item.text() if item is not None else ""


def kept_cell(shell: Shell, title: str, column: int) -> str:
    """Return what the Job keeps of the first step of a script, as the panel writes it."""
    assert shell.session.job is not None
    step = next(one for one in shell.session.job.scripts if one.title == title).steps[0]
    return ", ".join((step.do, step.expect, step.never)[column])


def is_marked(bench: CircuitBench, ref: str) -> bool:
    """Return whether a thing of the sheet in view is marked."""
    return any(ref in item.marked for item in bench.view.scene().items() if isinstance(item, DrawnItem))


def type_into(bench: CircuitBench, qtbot: QtBot, row: int, column: int, text: str) -> None:
    """Write a cell of the script that is shown, as one does that double-clicks it."""
    table = bench.live_bar.panel.table
    table.setCurrentCell(row, column)
    table.edit(table.currentIndex())
    (editor,) = (one for one in table.viewport().findChildren(QLineEdit) if one.isVisible())
    editor.selectAll()
    qtbot.keyClicks(editor, text)
    qtbot.keyClick(editor, Qt.Key.Key_Return)


def play_kept(bench: CircuitBench, qtbot: QtBot, title: str) -> str:
    """Choose a kept script, play it and return what the panel says."""
    panel = bench.live_bar.panel
    qtbot.waitUntil(lambda: not bench.session.is_stale, timeout=60_000)
    if not panel.isVisible():
        qtbot.mouseClick(bench.live_bar.scripts, LEFT)
    panel.which.setCurrentIndex(next(n for n in range(panel.which.count()) if title in panel.which.itemText(n)))
    panel.which.activated.emit(panel.which.currentIndex())
    panel.says.setText("")
    qtbot.mouseClick(panel.play, LEFT)
    qtbot.waitUntil(lambda: bool(panel.says.text()), timeout=30_000)
    return panel.says.text()


def test_a_kept_script_is_played_on_the_bench(bench: CircuitBench, shell: Shell, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: shell.session.scripts.passing == (3, 3), timeout=60_000)
    assert play_kept(bench, qtbot, "Rinse water") == "Passes.", "the level that it brings lives along"
    assert play_kept(bench, qtbot, "Belt press") == "Passes." and cell(bench, 0, 3) == "as it should"
    place_of(bench, qtbot, "M3", "motor")
    assert any(isinstance(i, Text) and i.text == "reverse" for i in bench.view.overlay)


def test_a_script_is_changed_cell_by_cell_and_says_which_step_is_not_as_it_should_be(
    bench: CircuitBench, shell: Shell, qtbot: QtBot
) -> None:
    panel = bench.live_bar.panel
    before = len(shell.session.job.scripts) if shell.session.job is not None else 0
    qtbot.mouseClick(bench.live_bar.scripts, LEFT)
    qtbot.mouseClick(panel.new, LEFT)
    qtbot.waitUntil(lambda: panel.which.currentText() == "New script", timeout=20_000)
    for column, text in enumerate(("push E1.SB, push M3.S1", "M3 forward, M1 forward", "M3.K and M3.KR")):
        type_into(bench, qtbot, 0, column, text)
        qtbot.waitUntil(lambda column=column, text=text: kept_cell(shell, "New script", column) == text, timeout=20_000)
    assert play_kept(bench, qtbot, "New script").startswith("1 steps")
    assert "M1 stopped" in cell(bench, 0, 3) and "is open between" in cell(bench, 0, 3)
    type_into(bench, qtbot, 0, 0, "push E1.SB, shout M3.S1")
    qtbot.waitUntil(lambda: "shout" in kept_cell(shell, "New script", 0), timeout=20_000)
    assert "begins with no action" in play_kept(bench, qtbot, "New script")
    qtbot.mouseClick(panel.drop, LEFT)
    qtbot.waitUntil(lambda: shell.session.job is not None and len(shell.session.job.scripts) == before, timeout=20_000)


def test_the_margin_says_what_it_is_why_it_is_off_and_by_which_way_it_is_fed(
    bench: CircuitBench, shell: Shell, qtbot: QtBot
) -> None:
    side = bench.live_side
    assert side.isVisible() and shell.margin.isAncestorOf(side)
    shell.hub.select("M3.K")
    assert (
        side.says.text().startswith("Why off:") and "is open between" in side.says.text() and not side.way.isVisible()
    )
    press(bench, qtbot, "E1.SB", "no")
    press(bench, qtbot, "M3.S1", "no")
    shell.hub.select("M3")
    assert side.title.text().endswith("forward") and "396 V   46.3 A" in side.figures.text(), "it starts"
    shell.hub.select("M3.K")
    qtbot.wait(50)
    passed = next(one for one in side.findChildren(QPushButton) if one.objectName() == "link" and one.isVisible())
    bundle = shell.session.bundle
    assert bundle is not None
    device = next(d for d, tag in bundle.plan.tags.items() if tag == passed.text().split()[0])
    before = is_marked(bench, device)
    qtbot.mouseClick(side.way, LEFT)
    assert not before and is_marked(bench, device)
    qtbot.mouseClick(passed, LEFT)
    assert shell.hub.selection == device
    shell.show_stage("plate")
    assert not side.isVisible()
    shell.show_stage("circuit")
    assert side.isVisible()


def test_a_start_on_the_drawing_pulls_the_coil_in_and_a_stop_lets_it_go(bench: CircuitBench, qtbot: QtBot) -> None:
    press(bench, qtbot, "E1.SB", "no")
    assert is_lit(bench, qtbot, "E1.K", "coil")
    press(bench, qtbot, "M3.S1", "no")
    assert is_lit(bench, qtbot, "M3.K", "coil") and is_lit(bench, qtbot, "M3.H", "lamp")
    place_of(bench, qtbot, "M3", "motor")
    assert any(isinstance(i, Text) and i.text == "forward" for i in bench.view.overlay)
    assert any(isinstance(i, Line) and i.width > 1 and i.tone is Tone.ATTENTION for i in bench.view.overlay)
    press(bench, qtbot, "M3.S0", "nc")
    assert not is_lit(bench, qtbot, "M3.K", "coil") and not is_lit(bench, qtbot, "M3.H", "lamp")


def test_a_button_is_held_by_space_and_springs_back(bench: CircuitBench, shell: Shell, qtbot: QtBot) -> None:
    press(bench, qtbot, "E1.SB", "no")
    shell.hub.select("M3.S1")
    bench.setFocus()
    qtbot.keyPress(bench, Qt.Key.Key_Space)
    assert "operated" in bench.live_side.title.text()
    qtbot.keyRelease(bench, Qt.Key.Key_Space)
    assert is_lit(bench, qtbot, "M3.K", "coil")


def test_an_alarm_is_raised_silenced_kept_as_a_script_and_played_again(
    bench: CircuitBench, shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    qtbot.mouseClick(bench.live_bar.keep, LEFT)
    assert "Nothing was done" in bench.live_bar.says.text()
    press(bench, qtbot, "TANK.alarm", "float")
    assert is_lit(bench, qtbot, "A1.P", "lamp") and is_lit(bench, qtbot, "A1.H", "sounder")
    for _ in range(3):
        press(bench, qtbot, "A1.S", "selector")
        if not is_lit(bench, qtbot, "A1.H", "sounder"):
            break
    assert is_lit(bench, qtbot, "A1.P", "lamp") and not is_lit(bench, qtbot, "A1.H", "sounder")
    before = len(shell.session.job.scripts) if shell.session.job is not None else 0
    qtbot.mouseClick(bench.live_bar.keep, LEFT)
    qtbot.waitUntil(
        lambda: shell.session.job is not None and len(shell.session.job.scripts) == before + 1, timeout=30_000
    )
    settled()
    job = shell.session.job
    bundle = shell.session.bundle
    assert job is not None and bundle is not None
    assert [miss for one in play(bundle.plan, job.scripts[-1]) for miss in one.misses] == []


def test_a_level_that_is_raised_moves_its_floats_and_the_pump_draws_it_down(bench: CircuitBench, qtbot: QtBot) -> None:
    press(bench, qtbot, "E1.SB", "no")
    for _ in range(3):
        press(bench, qtbot, "M5.SL", "selector")
        tank = bench.field.tanks["TANK"]
        qtbot.mouseClick(tank, LEFT, pos=QPoint(20, 26))
        assert tank.value() > 130
        place_of(bench, qtbot, "M5", "motor")
        if any(isinstance(i, Text) and i.text == "forward" for i in bench.view.overlay):
            break
    bench.live_bar.speed.setCurrentIndex(2)
    qtbot.mouseClick(bench.live_bar.runs, LEFT)
    qtbot.waitUntil(lambda: tank.value() < 60, timeout=30_000)
    qtbot.mouseClick(bench.live_bar.runs, LEFT)


def test_time_goes_by_and_the_line_leads_back(bench: CircuitBench, qtbot: QtBot) -> None:
    press(bench, qtbot, "E1.SB", "no")
    press(bench, qtbot, "M3.S1", "no")
    bench.live_bar.speed.setCurrentIndex(2)
    qtbot.mouseClick(bench.live_bar.runs, LEFT)
    qtbot.waitUntil(lambda: float(bench.live_bar.time.text().split()[0]) > 20, timeout=30_000)
    qtbot.mouseClick(bench.live_bar.runs, LEFT)
    press(bench, qtbot, "M3.S0", "nc")
    assert not is_lit(bench, qtbot, "M3.K", "coil")
    line = bench.live_bar.line
    qtbot.mouseClick(line, LEFT, pos=QPoint(line.width() // 2, 30))
    assert is_lit(bench, qtbot, "M3.K", "coil"), "as it was half the time ago"
    bench.hub.select("M3")
    assert bench.live_side.title.text().endswith("forward") and "As it was" in bench.live_side.says.text()
    assert [m.states for m in bench.field.motors.shown if m.device == "M3"] == [frozenset({"forward"})]
    qtbot.mouseClick(line, LEFT, pos=QPoint(line.width() - 2, 30))
    assert not is_lit(bench, qtbot, "M3.K", "coil")
    qtbot.mouseClick(bench.live, LEFT)
    assert not bench.live_bar.isVisible() and bench.view.overlay == ()


def test_the_live_sheet_is_printed_with_its_key_and_the_caution(
    bench: CircuitBench, home: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    press(bench, qtbot, "E1.SB", "no")
    path = home / "live.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    qtbot.mouseClick(bench.live_bar.print, LEFT)
    qtbot.waitUntil(lambda: str(path) in bench.live_bar.says.text(), timeout=60_000)
    text = " ".join(PdfReader(path).pages[0].extract_text().split())
    assert "no proof" in text and "carries current" in text and "after it was switched on" in text
    path.unlink()
    path.mkdir()
    qtbot.mouseClick(bench.live_bar.print, LEFT)
    qtbot.waitUntil(lambda: "folder" in bench.live_bar.says.text().lower(), timeout=60_000)
