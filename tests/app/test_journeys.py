"""What a builder does in the window: state, look, undo, tick, measure, export."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFileDialog, QInputDialog, QLabel
from pytestqt.qtbot import QtBot

from riktig.app.shell import Shell
from riktig.files.job_file import JobFile

Settled = Callable[[], None]


def margin_text(shell: Shell, qtbot: QtBot) -> str:
    qtbot.wait(50)
    return "\n".join(w.text() for w in shell.margin.findChildren(QLabel) if w.isVisibleTo(shell.margin))


def type_power(shell: Shell, qtbot: QtBot, text: str) -> None:
    box = shell.bench("brief").motor_card("M1").power  # type: ignore[attr-defined]
    box.setFocus()
    box.selectAll()
    qtbot.keyClicks(box, text)
    qtbot.keyClick(box, Qt.Key.Key_Return)


def test_a_new_power_is_followed_on_three_benches_and_undo_brings_all_back(
    shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    for key in ("plate", "wires", "brief"):
        shell.show_stage(key)
    type_power(shell, qtbot, "7.5")
    settled()
    job = shell.session.job
    assert job is not None and job.starters[0].kw == 7.5
    shell.hub.select("M1")
    assert "15.5 A" in margin_text(shell, qtbot)
    shell.show_stage("wires")
    model = shell.bench("wires").model  # type: ignore[attr-defined]
    conductor = next(
        model.data(model.index(r, 4)) for r in range(model.rowCount()) if model.data(model.index(r, 0)) == "1L1"
    )
    assert conductor == "2.5 mm² black"
    shell.show_stage("circuit")
    sheet = next(sheet for sheet in shell.session.sheets if sheet.chapter == "Power circuit")
    assert any(getattr(item, "text", "") == "7.5 kW" for item in sheet.items)
    qtbot.mouseClick(shell.top.undo, Qt.MouseButton.LeftButton)
    settled()
    shell.hub.select("")
    shell.hub.select("M1")
    assert "3.6 A" in margin_text(shell, qtbot)
    qtbot.mouseClick(shell.top.redo, Qt.MouseButton.LeftButton)
    settled()
    assert shell.session.job is not None and shell.session.job.starters[0].kw == 7.5


def test_edits_in_a_row_are_all_kept_and_survive_a_restart(shell: Shell, qtbot: QtBot, settled: Settled) -> None:
    for text in ("2.2", "3", "4"):
        type_power(shell, qtbot, text)
    qtbot.mouseClick(shell.bench("brief").motor_card("M1").lamps["trip"], Qt.MouseButton.LeftButton, pos=QPoint(8, 14))  # type: ignore[attr-defined]
    settled()
    path = shell.session.file.path  # type: ignore[union-attr]
    with JobFile.open(path, read_only=True) as file:
        job = file.load_job()
        assert (job.starters[0].kw, job.starters[0].lamps) == (4.0, ("run",))
    assert shell.top.kept.text().startswith("kept ")


def test_motors_are_added_duplicated_and_removed(shell: Shell, qtbot: QtBot, settled: Settled) -> None:
    brief = shell.bench("brief")
    qtbot.mouseClick(brief.motors.add, Qt.MouseButton.LeftButton)  # type: ignore[attr-defined]
    settled()
    job = shell.session.job
    assert job is not None and [s.name for s in job.starters] == ["M1", "M2"]
    assert len(shell.session.bundle.plan.motors) == 2  # type: ignore[union-attr]


def test_an_edit_that_does_not_fit_is_refused_with_a_sentence(shell: Shell, qtbot: QtBot, settled: Settled) -> None:
    system = shell.bench("brief").motors.system  # type: ignore[attr-defined]
    system.setFocus()
    qtbot.keyClick(system, Qt.Key.Key_End)
    system.activated.emit(system.currentIndex())
    settled()
    assert "is no line of this supply" in shell.message.text() and shell.message.isVisible()
    assert system.currentText() == "3ph+n"


def test_a_click_selects_on_every_bench(shell: Shell, qtbot: QtBot) -> None:
    shell.show_stage("circuit")
    shell.show_stage("plate")
    view = shell.bench("plate").view  # type: ignore[attr-defined]
    box = shell.session.bundle.plan.plate.boxes["M1.K"]  # type: ignore[union-attr]
    from riktig.drawings.plate import plate_origin

    ox, oy = plate_origin(shell.session.bundle.plan)  # type: ignore[union-attr]
    height = shell.session.bundle.plate.height  # type: ignore[union-attr]
    at = view.mapFromScene(ox + box.centre[0], height - (oy + box.centre[1]) + 18)
    qtbot.mouseClick(view.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert shell.hub.selection == "M1.K"
    assert "Contactor 9 A" in margin_text(shell, qtbot)


@pytest.mark.parametrize(
    ("words", "ref"), [("K1", "M1.K"), ("wire 3", "net:3"), ("X1:2", "X1:2"), ("q1:1", "M1.Q:1"), ("D4", "D4")]
)
def test_find_goes_to_tags_numbers_terminals_and_codes(shell: Shell, qtbot: QtBot, words: str, ref: str) -> None:
    qtbot.keyClick(shell, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    shell.top.find_box.setFocus()
    qtbot.keyClicks(shell.top.find_box, words)
    qtbot.keyClick(shell.top.find_box, Qt.Key.Key_Return)
    assert shell.hub.selection == ref


def test_find_says_when_there_is_nothing(shell: Shell, qtbot: QtBot) -> None:
    qtbot.keyClicks(shell.top.find_box, "K99")
    qtbot.keyClick(shell.top.find_box, Qt.Key.Key_Return)
    assert "Nothing here is called 'K99'" in shell.message.text()


def test_the_build_is_worked_by_keyboard_alone(shell: Shell, qtbot: QtBot) -> None:
    qtbot.keyClick(shell, Qt.Key.Key_9, Qt.KeyboardModifier.AltModifier)
    shell.show_stage("build")
    bench = shell.bench("build")
    for _ in range(3):
        qtbot.keyClick(bench, Qt.Key.Key_Return)
    qtbot.keyClick(bench, Qt.Key.Key_Backspace)
    assert shell.session.record.progress is not None and len(shell.session.record.progress.done) == 2
    events = shell.session.file.events()  # type: ignore[union-attr]
    assert [e.kind.value for e in events] == ["tick", "tick", "tick", "untick"]
    assert {e.person for e in events} == {"Ada"}


def test_a_wire_is_ticked_to_its_last_step_and_the_list_says_so(shell: Shell, qtbot: QtBot) -> None:
    shell.show_stage("wires")
    shell.show_stage("build")
    work = shell.session.record.progress.operations  # type: ignore[union-attr]
    for operation in work:
        if operation.phase.value != "wire":
            shell.session.record.tick(operation)
    bench = shell.bench("build")
    for _ in range(5 * 3):
        qtbot.keyClick(bench, Qt.Key.Key_Return)
    model = shell.bench("wires").model  # type: ignore[attr-defined]
    states = [model.data(model.index(row, 6)) for row in range(model.rowCount())]
    assert sum(state != "open" for state in states) >= 3


def test_documents_are_exported_from_the_menu(
    shell: Shell, qtbot: QtBot, home: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(home / "out"))
    shell.files.export()
    qtbot.waitUntil(lambda: "documents written to" in shell.message.text(), timeout=60_000)
    names = {path.name for path in (home / "out").iterdir()}
    assert {"wires.csv", "sheets.pdf", "plate.svg"} <= names
    assert not shell.writing.isVisible()


def test_an_export_tells_how_far_it_is_and_can_be_stopped(
    shell: Shell, qtbot: QtBot, home: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(home / "out"))
    shell.files.export()
    qtbot.waitUntil(shell.writing.isVisible, timeout=30_000)
    qtbot.waitUntil(lambda: (home / "out").is_dir(), timeout=30_000)
    qtbot.mouseClick(shell.writing.stop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "stopped" in shell.message.text(), timeout=30_000)
    assert not shell.writing.isVisible() and not (home / "out" / "door-template.pdf").exists()
    assert not [path for path in (home / "out").iterdir() if path.name.startswith(".") or path.stat().st_size == 0]


def test_a_revision_is_issued_and_frozen(shell: Shell, settled: Settled, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("A", True))
    shell.files.issue_revision()
    settled()
    assert "Rev A" in shell.top.title.text()
    assert [i[0] for i in shell.session.file.issues()] == ["A"]  # type: ignore[union-attr]
    assert shell.session.job is not None and all(c.is_held for c in shell.session.job.ledger.tags.values())


def test_a_second_window_follows_and_ticks_while_the_first_one_edits(
    shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    other = Shell()
    qtbot.addWidget(other)
    other.show()
    other.files.open_path(shell.session.file.path)  # type: ignore[union-attr]
    qtbot.waitUntil(lambda: not other.session.is_stale, timeout=20_000)
    assert other.session.is_read_only and "ticked and measured here too" in other.message.text()
    type_power(shell, qtbot, "3")
    settled()
    qtbot.waitUntil(lambda: other.session.job is not None and other.session.job.starters[0].kw == 3, timeout=30_000)
    qtbot.waitUntil(lambda: not other.session.is_stale, timeout=20_000)
    other.top.person.setCurrentText("R. Fitter")
    other.show_stage("build")
    qtbot.mouseClick(other.bench("build").done, Qt.MouseButton.LeftButton)
    (ticked,) = other.session.record.progress.done  # type: ignore[union-attr]
    assert other.message.isVisible(), "it is still told that the job is open elsewhere"
    qtbot.waitUntil(lambda: ticked in shell.session.record.progress.done, timeout=30_000)  # type: ignore[union-attr]
    other.close()


def test_a_second_window_may_change_the_job_once_the_first_one_closes_it(
    shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    path = shell.session.file.path  # type: ignore[union-attr]
    other = Shell()
    qtbot.addWidget(other)
    other.show()
    other.files.open_path(path)
    qtbot.waitUntil(lambda: not other.session.is_stale, timeout=20_000)
    assert other.session.is_read_only and not other.bench("brief").isEnabled()
    shell.close()
    qtbot.waitUntil(lambda: not other.session.is_read_only, timeout=30_000)
    assert "can be changed here now" in other.message.text() and other.bench("brief").isEnabled()
    type_power(other, qtbot, "3")
    qtbot.waitUntil(lambda: not other.session.is_stale and not other.session.is_keeping, timeout=20_000)
    with JobFile.open(path, read_only=True) as file:
        assert file.load_job().starters[0].kw == 3
    other.close()


@pytest.mark.parametrize("harm", ["deleted", "damaged"])
def test_a_follower_of_a_file_that_is_lost_says_so_once(shell: Shell, qtbot: QtBot, harm: str) -> None:
    path = shell.session.file.path  # type: ignore[union-attr]
    said: list[str] = []
    shell.session.refused.connect(said.append)
    if harm == "deleted":
        path.unlink()
    else:
        with path.open("r+b") as file:
            file.seek(24)  # where SQLite counts changes, and all that follows
            file.write(b"\xff" * 8000)
    qtbot.waitUntil(lambda: bool(said), timeout=30_000)
    qtbot.wait(2_500)
    assert len(said) == 1 and path.name in said[0]


def test_every_stage_opens_in_both_looks(shell: Shell, qtbot: QtBot) -> None:
    for _ in range(2):
        for key in ("brief", "circuit", "plate", "wires", "build", "test"):
            shell.show_stage(key)
            assert shell.stack.currentWidget() is shell.bench(key)
        qtbot.keyClick(shell, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)


def test_a_file_that_is_no_job_is_refused_and_the_open_one_stays(shell: Shell, home: Path) -> None:
    bad = home / "x.riktig"
    bad.write_text("hello")
    assert not shell.files.open_path(bad)
    assert "is no Riktig job file" in shell.message.text()
    assert shell.session.job is not None
