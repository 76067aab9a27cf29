"""The Test bench, by keys: phases, readings, gates, a fault found and mended, practice, the report."""

from collections.abc import Callable
from pathlib import Path
from random import Random

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QLabel, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from riktig.app.benches.measure.bench import MeasureBench
from riktig.app.benches.measure.practice_page import PracticePage
from riktig.app.shell import Shell
from riktig.files.job_file import JobFile
from riktig.prove.steps import Phase
from riktig.record.testing import Testing
from support import HEAD, job_of

Settled = Callable[[], None]


@pytest.fixture
def bench(shell: Shell) -> MeasureBench:
    shell.show_stage("test")
    return shell.bench("test")  # type: ignore[return-value]


def words(widget: QWidget) -> str:
    return "\n".join(w.text() for w in widget.findChildren(QLabel) if w.isVisibleTo(widget))


def testing(shell: Shell) -> Testing:
    assert shell.session.record.progress is not None
    return shell.session.record.progress.testing


testing.__test__ = False  # type: ignore[attr-defined]


def press(bench: MeasureBench, qtbot: QtBot, key: Qt.Key) -> None:
    """Press a key where the hands are, and wait for the meter."""
    qtbot.keyClick(bench.entry if bench.entry.isVisible() else bench, key)
    qtbot.waitUntil(lambda: not bench.reader.is_waiting, timeout=20_000)
    qtbot.wait(1)


def go_to(bench: MeasureBench, qtbot: QtBot, phase: Phase) -> None:
    rows = [bench.side.phases.item(n) for n in range(bench.side.phases.count())]
    item = next(row for row in rows if row.data(Qt.ItemDataRole.UserRole) == phase.value)
    place = bench.side.phases.visualItemRect(item).center()
    qtbot.mouseClick(bench.side.phases.viewport(), Qt.MouseButton.LeftButton, pos=place)


def work_through(shell: Shell, bench: MeasureBench, qtbot: QtBot, last: Phase) -> None:
    """Do every step up to a phase, by keys alone, until one fails."""
    phases = list(Phase)
    for _ in range(3 * len(testing(shell).steps)):
        step = bench._step
        if step is None or phases.index(step.phase) > phases.index(last) or testing(shell).failed:
            return
        if testing(shell).is_open(step):
            press(bench, qtbot, Qt.Key.Key_F5 if step.is_read else Qt.Key.Key_Plus)
        if not testing(shell).failed:
            press(bench, qtbot, Qt.Key.Key_F6)


def test_a_step_whose_points_only_a_manual_names_shows_its_limit(
    shell: Shell, bench: MeasureBench, qtbot: QtBot, home: Path
) -> None:
    path = home / "drive.riktig"
    text = HEAD + '[control.C2]\nkind = "psu"\n[starter.M1]\nkind = "drive"\nkw = 4\nsupply = "C2"\n'
    JobFile.create(path, job_of(text)).close()
    shell.files.open_path(path)
    qtbot.waitUntil(lambda: not shell.session.is_stale, timeout=60_000)
    go_to(bench, qtbot, Phase.RESIDUAL)
    press(bench, qtbot, Qt.Key.Key_F6)
    assert "DC link" in words(bench) and "at most 60 V" in words(bench)


def test_a_reading_is_typed_and_judged_at_once_and_a_bad_one_is_a_sentence(
    shell: Shell, bench: MeasureBench, qtbot: QtBot
) -> None:
    go_to(bench, qtbot, Phase.THROUGH)
    assert "at most" in words(bench) and "locked off" in words(bench)
    qtbot.keyClicks(bench.entry, "abc")
    qtbot.keyClick(bench.entry, Qt.Key.Key_Return)
    assert "is not a reading" in shell.message.text() and shell.session.file.events() == ()  # type: ignore[union-attr]
    bench.entry.clear()
    qtbot.keyClicks(bench.entry, "12,5")
    qtbot.keyClick(bench.entry, Qt.Key.Key_Return)
    assert (bench.reading.text(), "FAIL" in bench.verdict.text()) == ("12.50 Ω", True)
    press(bench, qtbot, Qt.Key.Key_F5)
    assert "PASS" in bench.verdict.text() and [r.is_passed for r in testing(shell).readings.values()] == [True]
    first, second = shell.session.file.events()  # type: ignore[union-attr]
    assert (first.data["verdict"], first.data["ohms"], first.person, first.unit) == ("fail", 12.5, "Ada", "1")
    assert "no. S-0001" in second.data["meter"]


def test_dead_tests_by_keyboard_alone_a_fault_found_mended_retested_and_the_report_written(
    shell: Shell, bench: MeasureBench, qtbot: QtBot, home: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench.fault.showPopup()
    qtbot.waitUntil(lambda: bench.fault.count() > 1, timeout=60_000)
    bench.fault.hidePopup()
    row = next(
        n for n in range(bench.fault.count()) if bench.fault.itemText(n).startswith("wires 1L1 and 1L2 exchanged")
    )
    bench.fault.setCurrentIndex(row)
    bench.fault.activated.emit(row)
    work_through(shell, bench, qtbot, Phase.APART)
    assert len(testing(shell).failed) == 1 and "1L" in testing(shell).failed[0].title
    press(bench, qtbot, Qt.Key.Key_F7)
    qtbot.waitUntil(lambda: bench.following.is_on, timeout=60_000)
    for _ in range(15):
        if bench.following.probe is None:
            break
        press(bench, qtbot, Qt.Key.Key_F5)
        qtbot.waitUntil(lambda: not bench.following.is_weighing, timeout=60_000)
    assert "wires 1L1 and 1L2 exchanged" in words(bench)
    press(bench, qtbot, Qt.Key.Key_F2)
    assert testing(shell).failed == () and "Mend: exchange wires 1L1 and 1L2" in words(bench.trail)
    assert shell.session.record.progress.rework[0].action == "mend"  # type: ignore[union-attr]
    press(bench, qtbot, Qt.Key.Key_F3)
    assert testing(shell).faults[0].is_mended and bench.fault.currentIndex() == 0
    work_through(shell, bench, qtbot, Phase.APART)
    for phase in (Phase.FITTING, Phase.LOOK, Phase.THROUGH, Phase.BOND, Phase.APART):
        assert testing(shell).left(phase) == (), phase
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(home / "report"))
    press(bench, qtbot, Qt.Key.Key_F12)
    qtbot.waitUntil(lambda: "report written" in shell.message.text(), timeout=60_000)
    assert {path.name for path in (home / "report").iterdir()} == {"test-1.pdf", "test-1.xlsx", "test-1-faults.xlsx"}


def test_live_steps_are_shut_until_dead_ones_are_waived_and_the_caution_is_taken_on(
    shell: Shell, bench: MeasureBench, qtbot: QtBot
) -> None:
    go_to(bench, qtbot, Phase.LIVE)
    assert "Shut until" in words(bench) and not bench.entry.isEnabled()
    press(bench, qtbot, Qt.Key.Key_F5)
    assert not testing(shell).readings
    for phase in [one for one in testing(shell).phases if not one.is_live]:
        go_to(bench, qtbot, phase)
        press(bench, qtbot, Qt.Key.Key_F4)
        qtbot.keyClicks(bench.card.reason, "done at the maker's")
        qtbot.keyClick(bench.card.reason, Qt.Key.Key_Return)
        assert (
            testing(shell).waived[phase].reason == "done at the maker's"
            and testing(shell).waived[phase].person == "Ada"
        )
    go_to(bench, qtbot, Phase.LIVE)
    assert "Mains voltage kills" in words(bench)
    qtbot.keyClick(bench, Qt.Key.Key_F3)
    assert testing(shell).caution is not None
    press(bench, qtbot, Qt.Key.Key_F5)
    assert "PASS" in bench.verdict.text() and " V" in bench.reading.text()


def test_a_step_is_left_out_with_a_reason_and_a_picture_is_kept_beside_the_job(
    shell: Shell, bench: MeasureBench, qtbot: QtBot, home: Path
) -> None:
    go_to(bench, qtbot, Phase.LOOK)
    step = bench._step
    assert step is not None
    press(bench, qtbot, Qt.Key.Key_F8)
    qtbot.keyClicks(bench.card.reason, "done at the customer's")
    qtbot.keyClick(bench.card.reason, Qt.Key.Key_Return)
    assert testing(shell).skipped[step.key].reason == "done at the customer's" and "skipped" in words(bench)
    (home / "dial.png").write_bytes(b"picture")
    bench.exceptions.attach(home / "dial.png")
    (name,) = testing(shell).photos[step.key]
    assert (home / "one.photos" / name).read_bytes() == b"picture" and "dial.png" in words(bench)


def test_a_meter_that_is_gone_records_nothing_and_says_so(shell: Shell, bench: MeasureBench, qtbot: QtBot) -> None:
    go_to(bench, qtbot, Phase.THROUGH)
    bench.meter.address.setText("127.0.0.1:9")
    press(bench, qtbot, Qt.Key.Key_F5)
    qtbot.waitUntil(lambda: "no meter answers" in shell.message.text(), timeout=10_000)
    assert not testing(shell).readings


def test_an_answer_that_comes_when_another_step_is_shown_counts_for_none(
    shell: Shell, bench: MeasureBench, qtbot: QtBot
) -> None:
    go_to(bench, qtbot, Phase.THROUGH)
    qtbot.keyClick(bench.entry, Qt.Key.Key_F5)
    qtbot.keyClick(bench.entry, Qt.Key.Key_F6)
    qtbot.waitUntil(lambda: not bench.reader.is_waiting, timeout=20_000)
    qtbot.wait(50)
    assert not testing(shell).readings


def begin_practice(page: PracticePage, qtbot: QtBot, level: int) -> str:
    """Begin on a level by hand and return what was hidden."""
    page.level.setFocus()
    for _ in range(level - 1):
        qtbot.keyClick(page.level, Qt.Key.Key_Down)
    qtbot.mouseClick(page.begin, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(page.measure.isEnabled, timeout=60_000)
    return page._hidden[0].words


def write(entry: QLineEdit, qtbot: QtBot, text: str, key: Qt.Key) -> None:
    entry.clear()
    qtbot.keyClicks(entry, text)
    if (popup := entry.completer().popup()) is not None:
        popup.hide()
    qtbot.keyClick(entry, key)


def test_practice_hides_a_fault_counts_the_way_and_leaves_the_record_alone(
    shell: Shell, bench: MeasureBench, qtbot: QtBot
) -> None:
    qtbot.mouseClick(bench.practise, Qt.MouseButton.LeftButton)
    page = bench.practice
    hidden = begin_practice(page, qtbot, 1)
    qtbot.keyClick(page.a, Qt.Key.Key_F5)
    assert page.log.count() == 1 and ("OL" in page.reading.text() or "Ω" in page.reading.text())
    for text in (next(one for one in page._faults if one != hidden), hidden):
        page.accused.setText(text)
        qtbot.mouseClick(page.accuse, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "of 100 points" in words(page), timeout=60_000)
    assert "Found" in words(page) and "1 wrong" in words(page) and 0 < page.points <= 90
    assert any("best way" in page.log.item(n).text() for n in range(page.log.count()))
    qtbot.mouseClick(page.back, Qt.MouseButton.LeftButton)
    assert shell.session.file.events() == ()  # type: ignore[union-attr]


def test_practice_is_operated_as_well_as_measured(
    shell: Shell, bench: MeasureBench, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("riktig.app.benches.measure.practice_page.SystemRandom", lambda: Random(4))  # one behind Q0
    qtbot.mouseClick(bench.practise, Qt.MouseButton.LeftButton)
    page = bench.practice
    begin_practice(page, qtbot, 4)
    assert "should be" in words(page) and "ON: volts" in words(page)
    write(page.a, qtbot, "Q0:2/T1", Qt.Key.Key_Tab)
    write(page.b, qtbot, "Q0:4/T2", Qt.Key.Key_F5)
    assert page.reading.text() == "400 V"
    write(page.operating.entry, qtbot, "open Q0", Qt.Key.Key_F6)
    qtbot.keyClick(page.b, Qt.Key.Key_F5)
    assert page.reading.text() == "0 V"
    qtbot.keyClick(page.b, Qt.Key.Key_F7)
    qtbot.keyClick(page.b, Qt.Key.Key_F5)
    assert "OFF: ohms" in words(page) and "V" not in page.reading.text()
    write(page.operating.entry, qtbot, "open Q99", Qt.Key.Key_F6)
    assert "Q99" in words(page)
    qtbot.mouseClick(page.give_up, Qt.MouseButton.LeftButton)
    assert "Given up" in words(page) and page.points == 0 and not page.measure.isEnabled()


def test_the_function_test_is_derived_and_kept_with_the_job(
    shell: Shell, bench: MeasureBench, qtbot: QtBot, settled: Settled
) -> None:
    shell.session.worker.ask(_derived, bench._take_script)
    qtbot.waitUntil(lambda: bool(shell.session.job and shell.session.job.scripts), timeout=60_000)
    settled()
    functions = testing(shell).steps_of(Phase.FUNCTION)
    assert len(functions) > 5 and functions[0].group == "Function test, derived"


def _derived(plan):  # type: ignore[no-untyped-def]
    from riktig.desk.proof_errands import derive_script

    return derive_script(plan, on_share=lambda share: None)
