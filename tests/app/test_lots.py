"""Batches on the Wires bench: the slider is an edit, a lot shows its markers as they are set, and lots are held."""

from collections.abc import Callable

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from riktig.app.benches.wires.bench import WiresBench
from riktig.app.shell import Shell

Settled = Callable[[], None]
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def bench(shell: Shell, qtbot: QtBot) -> WiresBench:
    shell.show_stage("wires")
    made = shell.bench("wires")
    assert isinstance(made, WiresBench)
    qtbot.mouseClick(made.batches, LEFT)
    qtbot.waitUntil(lambda: made.lots.model.rowCount() > 0, timeout=30_000)
    return made


def test_lots_stand_in_place_of_the_list_and_the_slider_parts_them(
    bench: WiresBench, shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    assert bench.lots.isVisible() and not bench.table.isVisible() and bench.lots.curve.drawing is not None
    few = bench.lots.model.rowCount()
    bench.lots.slider.setFocus()
    qtbot.keyClick(bench.lots.slider, Qt.Key.Key_Home)
    settled()
    assert shell.session.job is not None and shell.session.job.practice.batching == 0
    qtbot.waitUntil(lambda: bench.lots.model.rowCount() > few, timeout=10_000)
    assert "0 m wasted" in bench.lots.words.text()
    qtbot.mouseClick(bench.batches, LEFT)
    assert bench.table.isVisible()


def test_a_lot_selects_its_first_wire_and_tells_its_markers(bench: WiresBench, shell: Shell, qtbot: QtBot) -> None:
    table = bench.lots.table
    qtbot.mouseClick(table.viewport(), LEFT, pos=table.visualRect(bench.lots.model.index(1, 1)).center())
    assert shell.hub.selection == f"wire:{bench.lots.model.rows[1].wires[0]}"
    assert "characters changed" in bench.lots.setting.text()


def test_lots_are_held_and_let_go(bench: WiresBench, shell: Shell, qtbot: QtBot, settled: Settled) -> None:
    qtbot.mouseClick(bench.lots.hold, LEFT)
    settled()
    assert shell.session.job is not None and len(shell.session.job.ledger.lots) > 20
    qtbot.waitUntil(lambda: all(row.is_held for row in bench.lots.model.rows), timeout=10_000)
    qtbot.mouseClick(bench.lots.anew, LEFT)
    settled()
    assert shell.session.job is not None and not shell.session.job.ledger.lots
