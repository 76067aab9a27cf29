"""The canvas and the table by themselves, worked with mouse, wheel and keys."""

import weakref
from dataclasses import replace
from itertools import pairwise

import pytest
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from riktig.app.canvas.items import DrawnItem, group_items
from riktig.app.canvas.view import DrawingView
from riktig.app.table import Column, TableModel
from riktig.app.theme.theme import Theme, Variant, load_theme
from riktig.drawings.display import Drawing, Pen, Rect, Tone


@pytest.fixture
def theme() -> Theme:
    return load_theme(Variant.LIGHT)


@pytest.fixture
def drawing() -> Drawing:
    pen = Pen()
    pen.rect(0, 0, 200, 100, fill=Tone.PAPER, tone=Tone.NONE)
    pen.rect(20, 20, 40, 40, fill=Tone.PART, ref="box")
    pen.line((100, 10), (100, 90), ref="net:1")
    pen.line((104, 10), (104, 90), ref="net:2")
    pen.text(150, 50, "K1", size=5, ref="tag")
    return Drawing(name="d", title="D", width=200, height=100, items=tuple(pen.items))


@pytest.fixture
def view(qtbot: QtBot, theme: Theme, drawing: Drawing) -> DrawingView:
    made = DrawingView(theme, "test")
    qtbot.addWidget(made)
    made.resize(800, 400)
    made.show()
    made.show_drawing(drawing)
    made.fit()
    return made


def at(view: DrawingView, x: float, y: float) -> QPoint:
    """Return the pixel of a point in the drawing's mm."""
    return view.mapFromScene(QPointF(x, 100 - y))


@pytest.mark.parametrize(
    ("point", "ref"), [((40, 40), "box"), ((100, 50), "net:1"), ((104, 50), "net:2"), ((180, 90), "")]
)
def test_a_click_picks_what_is_nearest(view: DrawingView, qtbot: QtBot, point: tuple[float, float], ref: str) -> None:
    with qtbot.waitSignal(view.picked) as caught:
        qtbot.mouseClick(view.viewport(), Qt.MouseButton.LeftButton, pos=at(view, *point))
    assert caught.args == [ref]


def test_dragging_pans_and_picks_nothing(view: DrawingView, qtbot: QtBot) -> None:
    qtbot.keyClick(view, Qt.Key.Key_Plus)
    qtbot.keyClick(view, Qt.Key.Key_Plus)
    picked: list[str] = []
    view.picked.connect(picked.append)
    before = view.mapToScene(QPoint(400, 200))
    qtbot.mousePress(view.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(400, 200))
    for x in range(390, 340, -10):
        qtbot.mouseMove(view.viewport(), QPoint(x, 200))
    qtbot.mouseRelease(view.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(340, 200))
    assert view.mapToScene(QPoint(400, 200)).x() > before.x()
    assert picked == []


def test_keys_and_wheel_zoom_and_home_fits_again(view: DrawingView, qtbot: QtBot) -> None:
    fitted = view.transform().m11()
    qtbot.keyClick(view, Qt.Key.Key_Plus)
    assert view.transform().m11() > fitted
    qtbot.keyClick(view, Qt.Key.Key_Minus)
    assert view.transform().m11() == pytest.approx(fitted)
    where = QPointF(400, 200)
    wheel = QWheelEvent(where, view.mapToGlobal(where), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
                        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(view.viewport(), wheel)
    assert view.transform().m11() > fitted
    qtbot.keyClick(view, Qt.Key.Key_Home)
    assert view.transform().m11() == pytest.approx(fitted)


def test_a_fitted_drawing_stays_fitted_when_the_window_grows(view: DrawingView) -> None:
    before = view.transform().m11()
    view.resize(1200, 700)
    QApplication.processEvents()
    assert view.transform().m11() > before


def test_marks_and_overlays_come_and_go(view: DrawingView) -> None:
    view.mark(("box", "nothing"))
    assert view.has("box") and not view.has("nothing")
    pen = Pen()
    pen.line((0, 0), (50, 50), ref="wire:1")
    count = len(view.scene().items())
    view.show_overlay(pen.items)
    assert len(view.scene().items()) == count + 1
    view.show_overlay([])
    assert len(view.scene().items()) == count


def test_one_item_stands_for_one_thing(drawing: Drawing) -> None:
    assert [ref for ref, *_ in group_items(drawing)] == [None, "box", "net:1", "net:2", "tag"]


def test_what_has_many_parts_comes_in_pieces_that_lose_nothing_and_part_no_terminal(
    qapp: QApplication, theme: Theme
) -> None:
    pen = Pen()
    pen.text(0, 80, "X1", size=4, ref="X1")
    for n in range(300):
        pen.rect(10 * n, 20, 9, 40, fill=Tone.PART, ref=f"X1:{n}")
        pen.text(10 * n, 30, f"{n}", size=3, ref=f"X1:{n}")
    groups = group_items(Drawing(name="d", title="D", width=3000, height=100, items=tuple(pen.items)))
    pieces = [members for (ref, *_), members in groups.items() if ref == "X1"]
    assert [item for piece in pieces for item in piece] == pen.items and len(pieces) > 1
    refs = [{item.ref for item in piece} for piece in pieces]
    assert all(not one & other for one, other in pairwise(refs))
    first = DrawnItem("X1", pieces[0], 100, theme)
    assert first.ref_at(QPointF(14, 60)) == "X1:1"


def test_what_looks_as_before_keeps_its_item_and_what_changed_gets_another(view: DrawingView, drawing: Drawing) -> None:
    before = {item.ref: item for item in view.scene().items() if isinstance(item, DrawnItem)}
    changed = replace(
        drawing,
        items=tuple(replace(i, x=i.x + 1) if isinstance(i, Rect) and i.ref == "box" else i for i in drawing.items),
    )
    view.show_drawing(changed)
    after = {item.ref: item for item in view.scene().items() if isinstance(item, DrawnItem)}
    assert after.keys() == before.keys() and after["box"] is not before["box"]
    assert all(after[ref] is before[ref] for ref in before if ref != "box")


def test_what_a_large_drawing_showed_is_let_go_of_after_the_next_one_is_there(view: DrawingView, qtbot: QtBot) -> None:
    pen = Pen()
    for n in range(100):
        pen.line((n, 0), (n, 50), ref=f"net:{n}")
    view.show_drawing(Drawing(name="d", title="D", width=200, height=50, items=tuple(pen.items)))
    qtbot.waitUntil(lambda: len(view.scene().items()) > 100, timeout=30_000)
    shown = weakref.WeakSet(item for item in view.scene().items() if isinstance(item, DrawnItem))
    assert len(shown) > 100
    view.show_drawing(None)
    assert not view.scene().items()
    qtbot.waitUntil(lambda: not shown, timeout=30_000)


def test_terminals_belong_to_the_thing_that_they_are_on_and_are_found_and_marked_by_themselves(
    view: DrawingView, qtbot: QtBot
) -> None:
    pen = Pen()
    pen.rect(20, 20, 60, 60, ref="K1", fill=Tone.PART)
    pen.circle(30, 70, 4, ref="K1:A1")
    pen.circle(70, 70, 4, ref="K1:A2")
    view.show_drawing(Drawing(name="d", title="", width=100, height=100, items=tuple(pen.items)))
    assert len(view.scene().items()) == 2  # the background and the device
    picked: list[str] = []
    view.picked.connect(picked.append)
    for x, y in ((30, 30), (70, 30), (50, 60)):
        qtbot.mouseClick(view.viewport(), Qt.MouseButton.LeftButton, pos=view.mapFromScene(x, y))
    assert picked == ["K1:A1", "K1:A2", "K1"]
    view.mark(("K1:A2",))
    (device,) = [item for item in view.scene().items() if getattr(item, "marked", None)]
    assert view.has("K1:A2") and device.marked == {"K1:A2"}  # type: ignore[attr-defined]


def test_a_new_look_and_a_new_drawing_keep_the_marks(view: DrawingView, drawing: Drawing) -> None:
    view.mark(("box",))
    view.set_theme(load_theme(Variant.DARK))
    marked = [item for item in view.scene().items() if getattr(item, "marked", None)]
    assert [item.ref for item in marked] == ["box"]  # type: ignore[attr-defined]
    view.show_drawing(None)
    assert view.scene().items() == []


ROWS = (("L1", 230.0), ("12", 90.0), ("3", 410.0))


@pytest.fixture
def model() -> TableModel:
    made = TableModel(
        [
            Column(header="No.", getter=lambda r: r[0]),
            Column(header="mm", getter=lambda r: r[1], text=lambda v: f"{v:g}", is_number=True),
        ]
    )
    made.set_rows(ROWS)
    return made


def shown(model: TableModel) -> list[str]:
    return [model.data(model.index(row, 0)) for row in range(model.rowCount())]


def test_a_table_sorts_by_value_and_not_by_text(model: TableModel) -> None:
    model.sort(1)
    assert shown(model) == ["12", "L1", "3"]
    model.sort(1, Qt.SortOrder.DescendingOrder)
    assert shown(model) == ["3", "L1", "12"]


def test_a_filter_wants_every_word_in_some_column_and_stays_with_new_rows(model: TableModel) -> None:
    model.set_filter("l1 23")
    assert shown(model) == ["L1"]
    model.set_rows((*ROWS, ("L1", 1230.0)))
    assert shown(model) == ["L1", "L1"]
    model.set_filter("")
    assert model.rowCount() == 4


def test_headings_alignment_and_other_roles(model: TableModel) -> None:
    role = Qt.ItemDataRole.TextAlignmentRole
    assert model.headerData(1, Qt.Orientation.Horizontal) == "mm"
    assert model.headerData(1, Qt.Orientation.Vertical) is None
    assert model.data(model.index(0, 1), role) is not None and model.data(model.index(0, 0), role) is None


def test_a_part_that_is_shown_stays_whole_when_the_room_changes_until_somebody_zooms(
    view: DrawingView, qtbot: QtBot
) -> None:
    view.resize(300, 200)
    view.show_part(10, 10, 60, 80)
    drawing = view.drawing
    assert drawing is not None
    for width, height in ((900, 700), (400, 900)):
        view.resize(width, height)
        qtbot.wait(20)
        seen = view.mapToScene(view.viewport().rect()).boundingRect()
        assert seen.adjusted(-1, -1, 1, 1).contains(QRectF(10, drawing.height - 90, 60, 80))
        assert min(seen.width() / 60, seen.height() / 80) < 1.15
    qtbot.keyClick(view, Qt.Key.Key_Plus)
    near = view.transform().m11()
    view.resize(900, 700)
    qtbot.wait(20)
    assert view.transform().m11() == near


def test_a_double_click_brings_a_thing_near_and_shows_all_again(view: DrawingView, qtbot: QtBot) -> None:
    whole = view.transform().m11()
    qtbot.mouseDClick(view.viewport(), Qt.MouseButton.LeftButton, pos=at(view, 152, 52))
    assert view.transform().m11() > 1.2 * whole
    seen = view.mapToScene(view.viewport().rect()).boundingRect()
    assert seen.contains(QPointF(152, 48)), "what was hit is in view"
    qtbot.mouseDClick(view.viewport(), Qt.MouseButton.LeftButton, pos=at(view, 152, 52))
    assert view.transform().m11() == whole
    qtbot.mouseDClick(view.viewport(), Qt.MouseButton.LeftButton, pos=at(view, 180, 90))
    assert view.transform().m11() == whole, "nothing is hit there"
