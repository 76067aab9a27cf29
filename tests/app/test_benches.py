"""What each bench shows, by what stands on it."""

from collections.abc import Callable

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QProgressBar, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from riktig.app.day_sheet import STAGES
from riktig.app.shell import Shell
from riktig.app.value_card import ValueCard

Settled = Callable[[], None]


def words(widget: QWidget, qtbot: QtBot) -> str:
    qtbot.wait(50)
    return "\n".join(w.text() for w in widget.findChildren(QLabel) if w.isVisibleTo(widget))


def stage_text(shell: Shell, name: str) -> str:
    return next(b.text() for b in shell.day_sheet.findChildren(QPushButton) if b.text().startswith(name))


def test_the_day_sheet_tells_how_far_each_stage_is(shell: Shell) -> None:
    record = shell.session.record
    for operation in record.progress.operations[:4]:  # type: ignore[union-attr]
        record.tick(operation)
    assert "nothing to decide" in stage_text(shell, "Brief")
    assert "4 of 258 steps" in stage_text(shell, "Build")
    assert "0 of 37 wires" in stage_text(shell, "Wires")
    assert [s.shortcut for s in STAGES] == ["1", "2", "3", "4", "5", "6", "7", "8", "9", "0"]


def test_the_day_sheet_says_when_something_is_to_be_decided(shell: Shell, qtbot: QtBot, settled: Settled) -> None:
    height = shell.bench("brief").motors.box_height  # type: ignore[attr-defined]
    height.selectAll()
    qtbot.keyClicks(height, "400")
    qtbot.keyClick(height, Qt.Key.Key_Return)
    settled()
    assert "1 to decide" in stage_text(shell, "Brief")
    shell.hub.select("")
    assert "1 must be mended" in words(shell.margin, qtbot)
    shell.hub.select("panel")
    assert "take an enclosure at least" in words(shell.margin, qtbot)
    shell.hub.select("")
    assert "does not fit" in shell.bench("brief").side.fit.format()  # type: ignore[attr-defined]


def test_a_card_shows_its_values_and_their_reasons_when_pointed_at(shell: Shell) -> None:
    card = shell.bench("brief").motor_card("M1")  # type: ignore[attr-defined]
    labels = [(w.text(), w.toolTip()) for w in card.findChildren(QLabel)]
    assert {"3.6 A", "6 A", "9 A", "1.5 mm²"} <= {text for text, _ in labels}
    assert any(text == "3.6 A" and "table: 1.5 kW at 400 V" in tip for text, tip in labels)


def test_lamps_and_places_are_chosen_on_the_card(shell: Shell, qtbot: QtBot, settled: Settled) -> None:
    card = shell.bench("brief").motor_card("M1")  # type: ignore[attr-defined]
    assert [card.places.editors["buttons_at"].itemText(i) for i in range(1)] == ["door"]
    card.title.setFocus()
    card.title.selectAll()
    qtbot.keyClicks(card.title, "Bucket lift")
    qtbot.keyClick(card.title, Qt.Key.Key_Return)
    card.unit.setCurrentText("hp")
    card.unit.activated.emit(1)
    settled()
    starter = shell.session.job.starters[0]  # type: ignore[union-attr]
    assert (starter.title, starter.hp, starter.kw) == ("Bucket lift", 1.5, None)


def test_the_margin_explains_a_device_with_formula_and_source(shell: Shell, qtbot: QtBot) -> None:
    shell.hub.select("M1.Q")
    text = words(shell.margin, qtbot)
    assert "at least 1.6 · 3.6 A = 5.76 A" in text and "IEC 60898-1" in text and "common practice" in text


def test_a_text_of_the_margin_is_taken_out_with_the_mouse(shell: Shell, qtbot: QtBot) -> None:
    shell.hub.select("M1.Q")
    words(shell.margin, qtbot)
    found = next(w for w in shell.margin.findChildren(QLabel) if w.isVisible() and "at least 1.6" in w.text())
    size, end = found.size(), QPoint(found.width() - 2, found.height() - 2)
    QTest.mousePress(found, Qt.MouseButton.LeftButton, pos=QPoint(2, 5))
    QTest.mouseEvent(QTest.MouseAction.MouseMove, found, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, end)
    QTest.mouseRelease(found, Qt.MouseButton.LeftButton, pos=end)
    qtbot.waitUntil(lambda: bool(found.selectedText()), timeout=30_000)
    assert found.selectedText() in found.text()
    qtbot.wait(50)
    assert found.size() == size


@pytest.mark.parametrize(
    ("ref", "wanted"),
    [
        ("net:4", ("Wire number 4", "K1:A1", "protected by 0.5 A")),
        ("X1:2", ("Wire number 3L2",)),
        ("X1", ("X1  terminal strip", "wire PE to field/M1")),
        ("R1", ("R1  rail", "rail 35x7.5")),
        ("C1.T", ("T1  transformer", "transformer VA")),
    ],
)
def test_the_margin_says_what_is_selected(shell: Shell, qtbot: QtBot, ref: str, wanted: tuple[str, ...]) -> None:
    shell.hub.select(ref)
    text = words(shell.margin, qtbot)
    for part in wanted:
        assert part in text


def test_with_nothing_selected_the_margin_counts_findings_and_leads_to_all_of_them(shell: Shell, qtbot: QtBot) -> None:
    def ways() -> list[QPushButton]:
        return [
            b
            for b in shell.margin.findChildren(QPushButton)
            if b.text() == "All findings, by subject" and b.isVisible()
        ]

    shell.hub.select("")
    qtbot.waitUntil(lambda: "to know" in words(shell.margin, qtbot) and bool(ways()), timeout=30_000)
    assert "supply of this panel" not in words(shell.margin, qtbot)
    (go,) = ways()
    qtbot.mouseClick(go, Qt.MouseButton.LeftButton)
    assert shell.stack.currentWidget() is shell.bench("compliance")
    shell.hub.select("Q0")
    assert "supply of this panel" in words(shell.margin, qtbot), "what is found about a thing stands beside it"
    shell.hub.select("")


def test_the_wires_are_filtered_and_the_row_under_the_cursor_is_selected(shell: Shell, qtbot: QtBot) -> None:
    shell.show_stage("wires")
    bench = shell.bench("wires")
    qtbot.keyClicks(bench.filter, "green hinge")  # type: ignore[attr-defined]
    assert bench.model.rowCount() == 1  # type: ignore[attr-defined]
    bench.filter.clear()  # type: ignore[attr-defined]
    table = bench.table  # type: ignore[attr-defined]
    table.setFocus()
    table.selectRow(0)
    qtbot.keyClick(table, Qt.Key.Key_Down)
    assert shell.hub.selection == f"wire:{bench.model.rows[1].id}"  # type: ignore[attr-defined]
    assert bench.number.text() == bench.model.rows[1].number  # type: ignore[attr-defined]


def test_the_circuit_turns_to_the_sheet_of_the_selection(shell: Shell) -> None:
    shell.show_stage("circuit")
    view = shell.bench("circuit").view  # type: ignore[attr-defined]
    assert view.drawing.chapter == "Power circuit"
    shell.hub.select("M1.S0")
    assert view.drawing.chapter == "Control circuit" and view.has("M1.S0")


def test_a_selected_wire_is_drawn_on_its_way_and_told_in_words(shell: Shell) -> None:
    shell.show_stage("plate")
    bench, wires = shell.bench("plate"), shell.session.bundle.plan.conductors  # type: ignore[union-attr]
    jumper = next(c for c in wires if c.number == "1L1")
    ducted = next(c for c in wires if c.number == "L1" and c.legs)
    for wire, way in ((jumper, "Q1:2 to K1:1/L1, {} mm direct"), (ducted, f"{{}} mm through {' '.join(ducted.route)}")):
        shell.hub.select(f"wire:{wire.id}")
        text = "\n".join(w.text() for w in bench.findChildren(QLabel))
        assert way.format(f"{wire.length_mm:g}") in text
        refs = {getattr(item, "ref", None) for item in bench.view.scene().items()}  # type: ignore[attr-defined]
        assert f"wire:{wire.id}" in refs


def test_the_build_shows_stages_what_follows_and_rework(shell: Shell, qtbot: QtBot, settled: Settled) -> None:
    shell.show_stage("build")
    record = shell.session.record
    for operation in record.progress.operations:  # type: ignore[union-attr]
        if operation.phase.value == "cut pieces":
            record.tick(operation)
    bench = shell.bench("build")
    bars = [bar.format() for bar in bench.findChildren(QProgressBar)]
    assert bars[0].startswith("✓ cut pieces") and bars[1] == "mark and drill  0 / 18"
    shell.session.apply(_narrower, "narrower")
    settled()
    lines = [bench._rework.item(i).text() for i in range(bench._rework.count())]  # type: ignore[attr-defined]
    assert any(line.startswith("Cut rail R1 to") for line in lines)
    done = next(b for b in bench.findChildren(QPushButton) if b.text() == "Rework done")
    qtbot.mouseClick(done, Qt.MouseButton.LeftButton)
    assert bench._rework.count() == len(lines) - 1  # type: ignore[attr-defined]


def _narrower(job):  # type: ignore[no-untyped-def]
    from riktig.job.edits import change_part

    return change_part(job, "enclosure", width=480.0)


def test_every_text_of_a_card_has_the_room_that_it_takes(shell: Shell, qtbot: QtBot) -> None:
    """What is said later, how much is to spare, pushes the rest down and cuts nothing."""
    shell.hub.select("M1")

    def is_said() -> None:
        cards = [card for card in shell.margin.findChildren(ValueCard) if card.isVisible()]
        assert cards and all(card.explained is not None for card in cards)
        assert "to spare" in words(shell.margin, qtbot)

    def is_whole() -> None:
        shown = [w for w in shell.margin.findChildren(QLabel) if w.isVisible() and w.text()]
        assert len(shown) > 5
        assert [w.text() for w in shown if w.height() < w.heightForWidth(w.width())] == []

    qtbot.waitUntil(is_said, timeout=30_000)
    qtbot.waitUntil(is_whole, timeout=5_000)
