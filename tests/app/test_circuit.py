"""The Circuit bench: hops by one click and back, sheets turned, rungs typed and picked while the drawing follows."""

from collections.abc import Callable

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QApplication, QMenu, QPushButton
from pytestqt.qtbot import QtBot

from riktig.app.benches.circuit.bench import READING_SCALE, CircuitBench
from riktig.app.shell import Shell
from riktig.drawings.display import Drawing, Symbol, Text

Settled = Callable[[], None]


@pytest.fixture
def bench(shell: Shell) -> CircuitBench:
    shell.show_stage("circuit")
    made = shell.bench("circuit")
    assert isinstance(made, CircuitBench)
    return made


def shown(bench: CircuitBench) -> Drawing:
    drawing = bench.view.drawing
    assert drawing is not None
    return drawing


def point_of(bench: CircuitBench, x: float, y: float) -> QPoint:
    bench.view.show_point(x, y)
    return bench.view.mapFromScene(x, shown(bench).height - y)


def click(bench: CircuitBench, qtbot: QtBot, x: float, y: float) -> None:
    qtbot.mouseClick(bench.view.viewport(), Qt.MouseButton.LeftButton, pos=point_of(bench, x, y))


def turn_to(bench: CircuitBench, qtbot: QtBot, chapter: str) -> None:
    row = next(n for n in range(bench.strip.count()) if chapter in bench.strip.item(n).toolTip())
    bench.strip.scrollToItem(bench.strip.item(row))
    area = bench.strip.visualItemRect(bench.strip.item(row))
    qtbot.mouseClick(bench.strip.viewport(), Qt.MouseButton.LeftButton, pos=area.center())
    assert chapter in shown(bench).title


def find_text(drawing: Drawing, link: str) -> Text:
    return next(i for i in drawing.items if isinstance(i, Text) and i.link is not None and i.link.startswith(link))


def test_a_click_on_the_reference_of_a_contact_goes_to_its_coil_and_back_comes_back(
    shell: Shell, bench: CircuitBench, qtbot: QtBot
) -> None:
    turn_to(bench, qtbot, "Power circuit")
    before = shown(bench).name
    text = find_text(shown(bench), "device:M1.K")
    click(bench, qtbot, text.x + 1, text.y + 1)
    assert shell.hub.selection == "M1.K" and "Control circuit" in shown(bench).title
    assert bench.target == "device:M1.K"
    qtbot.mouseClick(shell.top.back, Qt.MouseButton.LeftButton)
    assert shown(bench).name == before and not shell.top.back.isEnabled()
    assert shell.back_action.shortcut().toString() == "Alt+Left"


def test_a_click_on_an_arrow_goes_to_the_next_piece_of_its_potential(
    shell: Shell, bench: CircuitBench, qtbot: QtBot
) -> None:
    turn_to(bench, qtbot, "Power circuit")
    before = shown(bench).name
    arrow = next(i for i in shown(bench).items if isinstance(i, Symbol) and i.link and i.shape.name.startswith("arrow"))
    click(bench, qtbot, arrow.x, arrow.y)
    assert bench.target == arrow.link and shell.hub.selection == arrow.ref
    assert any(t.id == arrow.link for t in shown(bench).targets)
    qtbot.mouseClick(shell.top.back, Qt.MouseButton.LeftButton)
    assert shown(bench).name == before


@pytest.mark.parametrize(("words", "stage"), [("Plate", "plate"), ("Wires", "wires"), ("Terminal X1:1", "terminals")])
def test_one_click_leads_from_a_device_to_plate_wires_or_strip_and_back(
    shell: Shell, bench: CircuitBench, qtbot: QtBot, words: str, stage: str
) -> None:
    shell.hub.select("M1.F")
    hop = next(b for b in bench.findChildren(QPushButton) if b.text() == words)
    qtbot.mouseClick(hop, Qt.MouseButton.LeftButton)
    assert shell.stack.currentWidget() is shell.bench(stage)
    qtbot.mouseClick(shell.top.back, Qt.MouseButton.LeftButton)
    assert shell.stack.currentWidget() is bench and shell.hub.selection == "M1.F"


@pytest.mark.parametrize(
    ("layer", "ref", "stage"),
    [("tags", "M1.F", "plate"), ("numbers", "net:", "wires"), ("terminals", "X1:", "terminals")],
)
def test_a_tag_leads_to_the_plate_a_number_to_its_wires_a_terminal_to_its_strip(
    shell: Shell, bench: CircuitBench, qtbot: QtBot, layer: str, ref: str, stage: str
) -> None:
    text = next(
        i for i in shown(bench).items
        if isinstance(i, Text) and i.layer == layer and (i.ref or "").startswith(ref) and not i.is_upright
    )  # fmt: skip
    click(bench, qtbot, text.x + 1.2, text.y + 1.2)
    assert shell.stack.currentWidget() is shell.bench(stage) and shell.hub.selection == text.ref
    qtbot.mouseClick(shell.top.back, Qt.MouseButton.LeftButton)
    assert shell.stack.currentWidget() is bench


def type_rung(bench: CircuitBench, qtbot: QtBot, text: str) -> None:
    if not bench.panel.isVisible():
        qtbot.mouseClick(bench.write, Qt.MouseButton.LeftButton)
    bench.panel.editor.setFocus()
    bench.panel.editor.clear()
    qtbot.keyClicks(bench.panel.editor, text)
    bench.panel.editor.close_list()


def spots(bench: CircuitBench, name: str) -> list[Symbol]:
    return [i for i in shown(bench).items if isinstance(i, Symbol) and i.spot.startswith(f"{name}|")]


def test_a_rung_is_drawn_while_it_is_typed_and_kept_by_enter(
    shell: Shell, bench: CircuitBench, qtbot: QtBot, settled: Settled
) -> None:
    type_rung(bench, qtbot, "C1+ > M1.K:no > M1.HT > C1-")
    qtbot.waitUntil(lambda: len(spots(bench, "rung1")) == 2, timeout=20_000)
    assert shell.session.job is not None and shell.session.job.rungs == (), "nothing is kept yet"
    qtbot.keyClick(bench.panel.editor, Qt.Key.Key_Return)
    settled()
    assert shell.session.job.rungs[0].path == "C1+ > M1.K:no > M1.HT > C1-"


def test_what_cannot_be_drawn_leaves_the_drawing_and_says_why(shell: Shell, bench: CircuitBench, qtbot: QtBot) -> None:
    before = shown(bench)
    type_rung(bench, qtbot, "C1+ > Q99:no > C1-")
    qtbot.waitUntil(lambda: "Q99" in bench.panel.said.text(), timeout=30_000)
    assert shown(bench) is before


RUNG = "C1+ > M1.K:no > M1.HT > C1-"


@pytest.fixture
def own_rung(bench: CircuitBench, qtbot: QtBot, settled: Settled) -> None:
    """A rung of one's own, typed and kept."""
    type_rung(bench, qtbot, RUNG)
    qtbot.keyClick(bench.panel.editor, Qt.Key.Key_Return)
    settled()


def pick_first(shell: Shell, bench: CircuitBench, qtbot: QtBot) -> None:
    """Click the first element of one's own rung."""
    places = (t for sheet in shell.session.sheets for t in sheet.targets)
    bench.show_target(next(t.id for t in places if t.id.startswith("use:rung1|M1.K")))
    symbol = spots(bench, "rung1")[0]
    click(bench, qtbot, symbol.x, symbol.y - 12)


def path_kept(shell: Shell) -> str:
    job = shell.session.job
    assert job is not None
    return job.rungs[0].path


@pytest.mark.usefixtures("own_rung")
def test_a_contact_is_picked_into_a_rung_in_parallel_by_key_and_click(
    shell: Shell, bench: CircuitBench, qtbot: QtBot, settled: Settled
) -> None:
    pick_first(shell, bench, qtbot)
    assert bench.panel.editor.toPlainText() == RUNG
    qtbot.keyClick(bench, Qt.Key.Key_P)
    assert bench.panel.is_waiting
    overload = next(i for i in shown(bench).items if isinstance(i, Symbol) and i.ref == "M1.F" and i.spot)
    click(bench, qtbot, overload.x, overload.y - 12)
    longer = "C1+ > (M1.K:no | M1.F:no) > M1.HT > C1-"
    assert bench.panel.editor.toPlainText() == longer
    qtbot.waitUntil(lambda: len(spots(bench, "rung1")) == 3, timeout=20_000)
    qtbot.keyClick(bench.panel.editor, Qt.Key.Key_Return)
    settled()
    assert path_kept(shell) == longer
    assert not bench.panel.parallel.isEnabled(), "the element stands elsewhere now and must be picked again"
    qtbot.keyClick(bench, Qt.Key.Key_P)
    assert bench.panel.editor.toPlainText() == longer


@pytest.mark.usefixtures("own_rung")
def test_an_element_is_turned_and_taken_out_by_keys(
    shell: Shell, bench: CircuitBench, qtbot: QtBot, settled: Settled
) -> None:
    pick_first(shell, bench, qtbot)
    for key, expected in ((Qt.Key.Key_N, "C1+ > M1.K:nc > M1.HT > C1-"), (Qt.Key.Key_Delete, "C1+ > M1.HT > C1-")):
        qtbot.keyClick(bench, key)
        settled()
        assert path_kept(shell) == expected


def test_page_keys_turn_the_sheets_and_the_window_stays_as_wide_as_it_was(
    shell: Shell, bench: CircuitBench, qtbot: QtBot
) -> None:
    bench.show_sheet(0)
    qtbot.keyClick(bench, Qt.Key.Key_PageDown)
    assert shown(bench) is shell.session.sheets[1]
    qtbot.keyClick(bench, Qt.Key.Key_PageUp)
    assert shown(bench) is shell.session.sheets[0]
    qtbot.mouseClick(bench.write, Qt.MouseButton.LeftButton)
    shell.hub.select("M1.K")
    assert shell.width() == 1280 and shell.minimumSizeHint().width() <= 1280


def test_the_right_button_lists_the_ways_on_and_one_click_goes(shell: Shell, bench: CircuitBench, qtbot: QtBot) -> None:
    symbol = next(i for i in shown(bench).items if isinstance(i, Symbol) and i.ref == "M1.Q")
    at = point_of(bench, symbol.x, symbol.y - 12)
    viewport = bench.view.viewport()
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, viewport.mapToGlobal(at))
    QApplication.sendEvent(viewport, event)
    menu = next(m for m in bench.findChildren(QMenu) if m.isVisible())
    action = next(a for a in menu.actions() if a.text() == "Plate")
    qtbot.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(action).center())
    assert shell.hub.selection == "M1.Q" and shell.stack.currentWidget() is shell.bench("plate")


def choose_school(bench: CircuitBench, qtbot: QtBot, key: str) -> None:
    """Open the button's menu and click one of its choices."""
    menu = bench.school.menu()
    qtbot.mouseClick(bench.school, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(menu.isVisible, timeout=30_000)
    qtbot.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(bench.school.choices[key]).center())
    assert not menu.isVisible()


def test_the_school_of_drawing_symbols_and_tags_is_chosen_on_the_bench(
    shell: Shell, bench: CircuitBench, qtbot: QtBot, settled: Settled
) -> None:
    for key in ("drawing rungs", "symbols nema", "tags number-letter"):
        choose_school(bench, qtbot, key)
        settled()
    bundle = shell.session.bundle
    assert bundle is not None and bundle.plan.tags["M1.K"] == "2001K1"
    sheet = next(s for s in shell.session.sheets if s.chapter == "Control circuit")
    shapes = {i.shape.name for i in sheet.items if isinstance(i, Symbol) and i.ref == "M1.K"}
    assert "nema-contactor-coil-turned" in shapes
    assert bench.school.choices["tags number-letter"].isChecked()


def test_home_shows_the_whole_sheet_and_again_its_writing_at_reading_size(bench: CircuitBench, qtbot: QtBot) -> None:
    bench.view.fit()
    reading = bench.view.transform().m11()
    assert reading >= READING_SCALE
    qtbot.keyClick(bench.view, Qt.Key.Key_Home)
    assert bench.view.transform().m11() * shown(bench).width <= bench.view.viewport().width() + 1
    qtbot.keyClick(bench.view, Qt.Key.Key_Home)
    assert bench.view.transform().m11() == pytest.approx(reading)
