"""The circuit, live: pressed, turned, watched, gone back in, kept and played again, by mouse and keys on the drawing."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from riktig.app.benches.circuit.bench import CircuitBench
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


def choose(bench: CircuitBench, words: str) -> None:
    """Choose from the menu of scripts, as one does that opens it."""
    bench.live_bar.menu.aboutToShow.emit()
    next(action for action in bench.live_bar.menu.actions() if words in action.text()).trigger()


def test_a_kept_script_is_played_on_the_bench(bench: CircuitBench, shell: Shell, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: shell.session.scripts.passing == (3, 3), timeout=60_000)
    choose(bench, "Play: Rinse water")
    assert "passes" in bench.live_bar.says.text(), "the level that it brings lives along"
    choose(bench, "Play: Belt press")
    assert "passes" in bench.live_bar.says.text()
    place_of(bench, qtbot, "M3", "motor")
    assert any(isinstance(i, Text) and i.text == "reverse" for i in bench.view.overlay)


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
    assert "operated" in bench.live_bar.says.text()
    qtbot.keyRelease(bench, Qt.Key.Key_Space)
    assert is_lit(bench, qtbot, "M3.K", "coil")


def test_an_alarm_is_raised_silenced_kept_as_a_script_and_played_again(
    bench: CircuitBench, shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    press(bench, qtbot, "TANK.alarm", "float")
    assert is_lit(bench, qtbot, "A1.P", "lamp") and is_lit(bench, qtbot, "A1.H", "sounder")
    for _ in range(3):
        press(bench, qtbot, "A1.S", "selector")
        if not is_lit(bench, qtbot, "A1.H", "sounder"):
            break
    assert is_lit(bench, qtbot, "A1.P", "lamp") and not is_lit(bench, qtbot, "A1.H", "sounder")
    before = len(shell.session.job.scripts) if shell.session.job is not None else 0
    choose(bench, "Keep")
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
        slider = bench.live_bar.levels.sliders["TANK"]
        slider.setValue(150)
        place_of(bench, qtbot, "M5", "motor")
        if any(isinstance(i, Text) and i.text == "forward" for i in bench.view.overlay):
            break
    bench.live_bar.speed.setCurrentIndex(2)
    qtbot.mouseClick(bench.live_bar.runs, LEFT)
    qtbot.waitUntil(lambda: slider.value() < 60, timeout=30_000)
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
    qtbot.mouseClick(line, LEFT, pos=QPoint(line.width() - 2, 30))
    assert not is_lit(bench, qtbot, "M3.K", "coil")
    qtbot.mouseClick(bench.live, LEFT)
    assert not bench.live_bar.isVisible() and bench.view.overlay == ()
