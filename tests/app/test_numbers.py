"""Wire numbers on the Wires bench, by real clicks and keys: one by hand, all anew, and those of an existing panel."""

from collections.abc import Callable
from math import ceil
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QLabel, QPushButton
from pytestqt.qtbot import QtBot

from riktig.app.benches.terminals.bench import TerminalsBench
from riktig.app.benches.wires.bench import WiresBench
from riktig.app.shell import Shell
from riktig.files.tables import wires_table

Settled = Callable[[], None]
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def bench(shell: Shell) -> WiresBench:
    shell.show_stage("wires")
    found = shell.bench("wires")
    assert isinstance(found, WiresBench)
    return found


def numbers(shell: Shell) -> set[str]:
    return {p.number for p in shell.session.bundle.plan.potentials}  # type: ignore[union-attr]


def test_one_number_is_set_by_hand_and_refused_if_taken(
    shell: Shell, bench: WiresBench, qtbot: QtBot, settled: Settled
) -> None:
    assert not bench.editor.isVisible()
    shell.hub.select("net:3")
    qtbot.keyClicks(bench.editor.field, "R3")
    qtbot.mouseClick(bench.editor.keep, LEFT)
    settled()
    assert "R3" in numbers(shell) and "3" not in numbers(shell)
    shell.hub.select("net:4")
    qtbot.keyClicks(bench.editor.field, "L1")
    qtbot.keyClick(bench.editor.field, Qt.Key.Key_Return)
    settled()
    assert "number L1 is taken" in shell.message.text() and "4" in numbers(shell)


def test_all_numbers_are_given_out_anew_after_a_look_at_what_would_change(
    shell: Shell, bench: WiresBench, qtbot: QtBot, settled: Settled
) -> None:
    qtbot.mouseClick(bench.renumber, LEFT)
    panel = bench.numbers
    assert panel.isVisible() and not panel.apply.isEnabled()
    qtbot.keyClicks(panel.prefix, "W")
    qtbot.mouseClick(panel.preview, LEFT)
    qtbot.waitUntil(panel.apply.isEnabled, timeout=20_000)
    assert "1 → W1" in panel.text.toPlainText() and "1" in numbers(shell)
    qtbot.mouseClick(panel.apply, LEFT)
    settled()
    assert {"W1", "W2"} <= numbers(shell) and shell.session.job is not None
    assert shell.session.job.practice.number_prefix == "W"
    panel.prefix.clear()
    qtbot.keyClicks(panel.prefix, "no blanks!")
    qtbot.mouseClick(panel.preview, LEFT)
    qtbot.waitUntil(lambda: "do not fit" in panel.said.text(), timeout=20_000)
    assert not panel.apply.isEnabled()


def test_the_numbers_of_an_existing_panel_are_compared_and_taken_over(
    shell: Shell, bench: WiresBench, qtbot: QtBot, settled: Settled, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    rows = wires_table(shell.session.bundle.plan).to_csv().splitlines()  # type: ignore[union-attr]
    old = tmp_path / "old.csv"
    old.write_text("\n".join([rows[0], *(f"5{row}" if row.startswith("3,") else row for row in rows[1:])]))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(old), ""))
    qtbot.mouseClick(bench.renumber, LEFT)
    panel = bench.numbers
    qtbot.mouseClick(panel.compare, LEFT)
    qtbot.waitUntil(panel.apply.isEnabled, timeout=20_000)
    assert "0 to clear up, 1 numbers to take over" in panel.said.text() and "3 → 53" in panel.text.toPlainText()
    qtbot.mouseClick(panel.apply, LEFT)
    settled()
    assert "53" in numbers(shell) and "3" not in numbers(shell)
    old.write_text("number,from\n")
    qtbot.mouseClick(panel.compare, LEFT)
    qtbot.waitUntil(lambda: "line 1: the heading 'to' is missing" in panel.text.toPlainText(), timeout=30_000)
    assert not panel.apply.isEnabled()


@pytest.mark.parametrize("act", ["compare", "take"])
def test_a_list_of_very_many_rows_tells_how_far_it_is_and_can_be_stopped(
    shell: Shell, bench: WiresBench, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, act: str
) -> None:
    large = tmp_path / "large.csv"
    large.write_text("number,from,to\n" + "".join(f"{n},K{n}:A1,X1:{n}\n" for n in range(190_000)))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(large), ""))
    qtbot.mouseClick(bench.renumber, LEFT)
    panel = bench.numbers
    qtbot.mouseClick(getattr(panel, act), LEFT)
    qtbot.waitUntil(lambda: panel.progress.bar.value() > 0, timeout=30_000)
    assert panel.progress.isVisible()
    qtbot.mouseClick(panel.progress.stop, LEFT)
    qtbot.waitUntil(lambda: "Nothing was read" in panel.said.text(), timeout=30_000)
    assert not panel.progress.isVisible() and not panel.apply.isEnabled()


def remarked(row: str) -> str:
    """Return a row of the wire list with a remark in its column, the one before the last."""
    head, _, cut = row.rpartition(",")
    return f"{head}to the press,{cut}"


def test_an_edited_schedule_shows_what_it_changes_and_is_taken_over(
    shell: Shell, bench: WiresBench, qtbot: QtBot, settled: Settled, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    rows = wires_table(shell.session.bundle.plan).to_csv().splitlines()  # type: ignore[union-attr]
    back = tmp_path / "wires.csv"
    back.write_text("\n".join([rows[0], *(f"9{remarked(row)}" if row.startswith("3,") else row for row in rows[1:])]))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(back), ""))
    qtbot.mouseClick(bench.renumber, LEFT)
    panel = bench.numbers
    qtbot.mouseClick(panel.take, LEFT)
    qtbot.waitUntil(panel.apply.isEnabled, timeout=20_000)
    assert "wire number 3 → 93" in panel.text.toPlainText() and "to the press" in panel.text.toPlainText()
    assert shell.width() <= 1280, "the panel does not widen the window"
    qtbot.mouseClick(panel.apply, LEFT)
    settled()
    assert "93" in numbers(shell) and "3" not in numbers(shell)
    assert shell.session.job is not None and "to the press" in {
        c.value for c in shell.session.job.ledger.texts.values()
    }
    qtbot.mouseClick(panel.take, LEFT)
    qtbot.waitUntil(lambda: "0 changes" in panel.said.text(), timeout=20_000)
    back.write_text(back.read_text().replace(",plate,", ",door,"))
    qtbot.mouseClick(panel.take, LEFT)
    qtbot.waitUntil(lambda: "'door' is computed" in panel.text.toPlainText(), timeout=20_000)
    assert not panel.apply.isEnabled()


def test_a_wire_is_led_to_another_terminal_and_left_again(
    shell: Shell, bench: WiresBench, qtbot: QtBot, settled: Settled
) -> None:
    plan = shell.session.bundle.plan  # type: ignore[union-attr]
    wire = next(c for c in plan.conductors if c.number == "1" and c.kind == "wire" and c.location == "plate")
    shell.hub.select(f"wire:{wire.id}")
    leader = bench.leader
    other = next(i for i in range(leader.end.count()) if leader.end.itemData(i) not in (wire.a, wire.b))
    leader.end.setFocus()
    qtbot.keyClick(leader.end, Qt.Key.Key_Home)
    for _ in range(other):
        qtbot.keyClick(leader.end, Qt.Key.Key_Down)
    target = leader.end.currentData()
    qtbot.mouseClick(leader.hold, LEFT)
    settled()
    made = next(c for c in shell.session.bundle.plan.conductors if {c.a, c.b} == {wire.a, target})  # type: ignore[union-attr]
    shell.hub.select(f"wire:{made.id}")
    assert leader.state.text() == "led by a person" and leader.loose.isVisible()
    qtbot.mouseClick(leader.loose, LEFT)
    settled()
    assert leader.state.text() == "chained by Riktig" and not leader.loose.isVisible()
    qtbot.mouseClick(bench.chain, LEFT)
    settled()
    assert shell.session.file is not None and shell.session.file.gestures()[0] == "chain wires anew"


def test_a_terminal_is_moved_along_its_strip(shell: Shell, qtbot: QtBot, settled: Settled) -> None:
    stage = next(b for b in shell.day_sheet.findChildren(QPushButton) if b.text().startswith("Terminals"))
    qtbot.mouseClick(stage, LEFT)
    found = shell.bench("terminals")
    assert isinstance(found, TerminalsBench) and shell.stack.currentWidget() is found
    qtbot.waitUntil(lambda: found.view.has("X1:1"), timeout=20_000)
    assert not found.right.isEnabled()
    number = shell.session.bundle.plan.clamps[0].number  # type: ignore[union-attr]
    shell.hub.select("X1:1")
    qtbot.mouseClick(found.right, LEFT)
    settled()
    clamps = {c.id: c.number for c in shell.session.bundle.plan.clamps}  # type: ignore[union-attr]
    assert clamps["X1:2"] == number and shell.hub.selection == "X1:2"
    qtbot.mouseClick(found.order, LEFT)
    settled()
    assert shell.session.file is not None and shell.session.file.gestures()[0] == "order the strips"


def test_the_list_of_wires_is_narrowed_and_a_cable_tells_what_is_left(
    shell: Shell, bench: WiresBench, qtbot: QtBot
) -> None:
    plan = shell.session.bundle.plan  # type: ignore[union-attr]
    box = bench.only.boxes["place"]
    cable = plan.cables[0]
    place = box.findData(cable.name)
    assert box.itemText(place) == f"{cable.name} to {cable.target}: {len(cable.numbers)}, {len(cable.numbers)} left"
    box.setFocus()
    for _ in range(place):
        qtbot.keyClick(box, Qt.Key.Key_Down)
    assert {c.location for c in bench.model.rows} == {cable.name} and len(bench.model.rows) == len(cable.numbers)
    colour = bench.only.boxes["colour"]
    colour.setFocus()
    qtbot.keyClick(colour, Qt.Key.Key_End)
    assert {c.colour for c in bench.model.rows} <= {colour.currentData()}
    for narrowed in (box, colour):
        narrowed.setFocus()
        qtbot.keyClick(narrowed, Qt.Key.Key_Home)
    work = [op for op in shell.session.record.progress.operations if op.ref.startswith("wire:")]  # type: ignore[union-attr]
    wire = next(c for c in plan.conductors if c.location == cable.name)
    for operation in work:
        if operation.ref == f"wire:{wire.id}":
            shell.session.record.tick(operation)
    assert f"{len(cable.numbers) - 1} left" in box.itemText(place)


def test_the_share_of_spare_terminals_is_set_where_the_strips_stand_and_a_cable_tells_its_gland(
    shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    shell.show_stage("terminals")
    bench = shell.bench("terminals")
    assert isinstance(bench, TerminalsBench)
    bench.spare.selectAll()
    qtbot.keyClicks(bench.spare, "60")
    qtbot.keyClick(bench.spare, Qt.Key.Key_Return)
    settled()
    plan = shell.session.bundle.plan  # type: ignore[union-attr]
    used = sum(c.strip == "X1" and not c.is_spare for c in plan.clamps)
    assert sum(c.strip == "X1" and c.is_spare for c in plan.clamps) == ceil(0.6 * used)
    qtbot.waitUntil(lambda: bench.view.has("cable:W1"), timeout=20_000)
    shell.hub.select("cable:W1")
    qtbot.waitUntil(
        lambda: any("Gland" in w.text() for w in shell.margin.findChildren(QLabel) if w.isVisible()), timeout=20_000
    )
