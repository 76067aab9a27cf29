"""The pages of the Brief bench, by real clicks and keys: motors, modules, paths and contacts."""

from collections.abc import Callable

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QLineEdit, QListView, QPushButton
from pytestqt.qtbot import QtBot

from riktig.app.benches.brief.bench import CONTACTS, MODULES, MOTORS, PATHS, BriefBench
from riktig.app.field_form import FieldForm, read_words, write_words
from riktig.app.shell import Shell
from riktig.job.model import Job

Settled = Callable[[], None]


@pytest.fixture
def bench(shell: Shell) -> BriefBench:
    found = shell.bench("brief")
    assert isinstance(found, BriefBench)
    return found


def job_of(shell: Shell) -> Job:
    assert shell.session.job is not None
    return shell.session.job


def turn_to(bench: BriefBench, qtbot: QtBot, page: int) -> None:
    qtbot.mouseClick(bench.pages, Qt.MouseButton.LeftButton, pos=bench.pages.tabRect(page).center())
    assert bench.pages.currentIndex() == page


def type_into(form: FieldForm | None, field: str, text: str, qtbot: QtBot) -> None:
    assert form is not None
    line = form.editors[field].findChild(QLineEdit)
    assert line is not None
    line.setFocus()
    line.selectAll()
    qtbot.keyClicks(line, text)
    qtbot.keyClick(line, Qt.Key.Key_Return)


def test_option_switches_change_the_starter_and_its_circuit(
    shell: Shell, bench: BriefBench, qtbot: QtBot, settled: Settled
) -> None:
    card = bench.motor_card("M1")
    for chip in (card.flags["isolator"], card.flags["hours"], card.lamps["ready"]):
        qtbot.mouseClick(chip, Qt.MouseButton.LeftButton)
        settled()
    starter = job_of(shell).starters[0]
    assert (starter.isolator, starter.hours, starter.lamps) == (True, True, ("run", "trip", "ready"))
    assert {"M1.QM", "M1.P", "M1.HB"} <= set(shell.session.bundle.plan.parts)  # type: ignore[union-attr]


def test_closed_motors_go_on_showing_their_values_when_another_is_edited(
    shell: Shell, bench: BriefBench, qtbot: QtBot, settled: Settled
) -> None:
    qtbot.mouseClick(bench.motors.add, Qt.MouseButton.LeftButton)
    settled()
    card = bench.motor_card("M2")
    shown = card.summary
    assert shown.partition("\n")[2].startswith("motor 3.6")
    title = bench.motor_card("M1").title
    title.selectAll()
    qtbot.keyClicks(title, "feed auger")
    qtbot.keyClick(title, Qt.Key.Key_Return)
    settled()
    assert job_of(shell).starters[0].title == "feed auger"
    assert card.summary == shown


def test_a_kind_is_chosen_and_its_own_options_appear(
    shell: Shell, bench: BriefBench, qtbot: QtBot, settled: Settled
) -> None:
    card = bench.motor_card("M1")
    card.kind.setFocus()
    qtbot.keyClick(card.kind, Qt.Key.Key_Down)
    qtbot.keyClick(card.kind, Qt.Key.Key_Down)
    settled()
    assert job_of(shell).starters[0].kind == "star-delta"
    qtbot.mouseClick(card.more, Qt.MouseButton.LeftButton)
    form = next(f for f in card.findChildren(FieldForm) if "star_seconds" in f.editors)
    type_into(form, "star_seconds", "5", qtbot)
    settled()
    assert job_of(shell).starters[0].star_seconds == 5


def test_a_list_is_pasted_its_fault_named_and_the_motors_added(
    shell: Shell, bench: BriefBench, qtbot: QtBot, settled: Settled
) -> None:
    QApplication.clipboard().setText("M2\tMill\t11\tstar-delta\nM1\tTwice\t1\n")
    qtbot.mouseClick(bench.motors.paste, Qt.MouseButton.LeftButton)
    panel = bench.motors.paste_panel
    assert "line 2, name: 'M1' is there already" in panel.said.text() and not panel.add.isEnabled()
    panel.text.setFocus()
    panel.text.selectAll()
    qtbot.keyClicks(panel.text, "M2;Mill;11;star-delta")
    qtbot.keyClick(panel.text, Qt.Key.Key_Return)
    qtbot.keyClicks(panel.text, "M3;Fan;0,75;dol")
    qtbot.mouseClick(panel.add, Qt.MouseButton.LeftButton)
    settled()
    assert [s.name for s in job_of(shell).starters] == ["M1", "M2", "M3"]
    assert list(bench.motors.cards) == ["M1", "M2", "M3"]


def test_one_change_goes_to_all_ticked_motors(shell: Shell, bench: BriefBench, qtbot: QtBot, settled: Settled) -> None:
    qtbot.mouseClick(bench.motors.add, Qt.MouseButton.LeftButton)
    settled()
    qtbot.mouseClick(bench.motors.many, Qt.MouseButton.LeftButton)
    for name in ("M1", "M2"):
        qtbot.mouseClick(bench.motor_card(name).tick, Qt.MouseButton.LeftButton, pos=QPoint(8, 13))
    box = bench.motors.bulk_form.editors["thermistor"]
    qtbot.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, 13))
    settled()
    assert [s.thermistor for s in job_of(shell).starters] == [True, True]


def test_a_module_is_added_and_changed_and_taken_out(
    shell: Shell, bench: BriefBench, qtbot: QtBot, settled: Settled
) -> None:
    turn_to(bench, qtbot, MODULES)
    page = bench.tables
    assert page is not None
    actions = {action.text(): action for action in page.add.menu().actions()}
    actions["Emergency stop"].trigger()
    settled()
    assert [e.name for e in job_of(shell).estops] == ["E1"] and "E1.K" in shell.session.bundle.plan.parts  # type: ignore[union-attr]
    reset = page.form.editors["reset"]  # type: ignore[union-attr]
    reset.setFocus()
    qtbot.keyClick(reset, Qt.Key.Key_Down)
    settled()
    assert job_of(shell).estops[0].reset == "twist"
    qtbot.mouseClick(page.drop, Qt.MouseButton.LeftButton)
    settled()
    assert job_of(shell).estops == ()


def test_what_does_not_fit_is_said_and_the_form_shows_what_holds(
    shell: Shell, bench: BriefBench, qtbot: QtBot, settled: Settled
) -> None:
    turn_to(bench, qtbot, MODULES)
    page = bench.tables
    assert page is not None
    page.choose(("enclosure", ""))
    type_into(page.form, "width", "-5", qtbot)
    settled()
    assert shell.message.isVisible() and "width" in shell.message.text()
    assert job_of(shell).enclosure.width == 500


def offered() -> QListView | None:
    """Return the list of what may follow, None while it is not open."""
    lists = (w for w in QApplication.topLevelWidgets() if isinstance(w, QListView) and w.isVisible())
    return next(lists, None)


def test_a_path_is_completed_its_fault_marked_and_kept_by_enter(
    shell: Shell, bench: BriefBench, qtbot: QtBot, settled: Settled
) -> None:
    turn_to(bench, qtbot, PATHS)
    page = bench.rungs
    assert page is not None
    qtbot.mouseClick(page.new_rung, Qt.MouseButton.LeftButton)
    page.editor.setFocus()
    qtbot.keyClicks(page.editor, "C1+ > M1.K:zz > M1.H:lamp > C1-")
    assert [page.editor.toPlainText()[m.start : m.end] for m in page.editor.faults] == ["M1.K:zz"]
    assert len(page.editor.extraSelections()) == 1
    qtbot.keyClick(page.editor, Qt.Key.Key_Return)
    assert job_of(shell).rungs == (), "a faulty path is not kept"
    page.editor.selectAll()
    qtbot.keyClicks(page.editor, "C1+ > M1.K:n")
    qtbot.waitUntil(lambda: offered() is not None, timeout=30_000)
    qtbot.keyClick(offered(), Qt.Key.Key_Return)
    assert page.editor.toPlainText() == "C1+ > M1.K:no"
    qtbot.keyClicks(page.editor, " > M1.H:lamp > C1-")
    if offered() is not None:
        qtbot.keyClick(offered(), Qt.Key.Key_Escape)
    qtbot.keyClick(page.editor, Qt.Key.Key_Return)
    settled()
    assert [r.path for r in job_of(shell).rungs] == ["C1+ > M1.K:no > M1.H:lamp > C1-"]


def test_contacts_show_what_is_overbooked_and_the_mend_mends_it(
    shell: Shell, bench: BriefBench, qtbot: QtBot, settled: Settled
) -> None:
    from functools import partial

    from riktig.job.edits import add_device, add_rung
    from riktig.job.model import Device

    shell.session.apply(partial(add_device, device=Device(name="K9", kind="relay", part="kr-22")), "relay")
    for _ in range(3):
        shell.session.apply(partial(add_rung, path="C1+ > K9:no > M1.H:lamp > C1-"), "rung")
    settled()
    turn_to(bench, qtbot, CONTACTS)
    page = bench.contacts
    assert page is not None and "1 overbooked" in page.summary.text()
    mend = next(b for b in page.findChildren(QPushButton) if b.text().startswith("Add block"))
    qtbot.mouseClick(mend, Qt.MouseButton.LeftButton)
    settled()
    assert "0 overbooked" in page.summary.text()
    assert job_of(shell).devices[0].part == "kr-22+br-40"


def test_a_starter_is_turned_into_plain_circuit_and_back(
    shell: Shell, bench: BriefBench, qtbot: QtBot, settled: Settled
) -> None:
    card = bench.motor_card("M1")
    before = job_of(shell).ledger.numbers
    actions = {action.text(): action for action in card.menu.menu().actions()}
    actions["Turn into plain circuit"].trigger()
    settled()
    assert job_of(shell).starters[0].detached and any(r.name == "M1/run" for r in job_of(shell).rungs)
    actions["Turn into plain circuit"].trigger()
    settled()
    assert not job_of(shell).starters[0].detached and job_of(shell).rungs == ()
    assert job_of(shell).ledger.numbers == before
    turn_to(bench, qtbot, MOTORS)


@pytest.mark.parametrize(
    ("value", "sort", "text"),
    [
        (1.5, "number", "1.5"), (None, "number", ""), (("door", "st1"), "words", "door st1"), ("all", "words", "all"),
        ({"stop": 0.4, "start": 1.2}, "table", "stop 0.4  start 1.2"), ("Mill", "text", "Mill"),
    ],
)  # fmt: skip
def test_what_a_form_writes_it_reads_back(value: object, sort: str, text: str) -> None:
    assert write_words(value) == text
    assert read_words(text, sort, may_be_empty=value is None) == value
