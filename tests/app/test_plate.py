"""Plate and door in the window, with the mouse and keys of a person."""

from collections.abc import Callable
from functools import partial
from itertools import combinations

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication, QComboBox
from pytestqt.qtbot import QtBot

from riktig.app.benches.door.bench import DoorBench
from riktig.app.benches.plate.bench import PlateBench
from riktig.app.shell import Shell
from riktig.drawings.display import Circle
from riktig.drawings.door import DOOR_CORNER, STATION_CORNER
from riktig.drawings.entry_wall import entry_corner
from riktig.drawings.plate import plate_origin
from riktig.job.edits import change_part, replace
from riktig.job.model import Job, Location
from riktig.plan.changes.door import DOOR_FACE, ENTRY_FACE, holes_of, movable_holes, station_face, try_hole_move
from riktig.plan.changes.plate import take_away, try_swap
from riktig.plan.place.faults import find_faults
from riktig.plan.place.layout import Box
from riktig.plan.plan import Plan

Settled = Callable[[], None]


@pytest.fixture
def bench(shell: Shell) -> PlateBench:
    shell.show_stage("plate")
    made = shell.bench("plate")
    assert isinstance(made, PlateBench)
    return made


@pytest.fixture
def door(shell: Shell) -> DoorBench:
    shell.show_stage("door")
    made = shell.bench("door")
    assert isinstance(made, DoorBench)
    return made


def plan_of(shell: Shell) -> Plan:
    assert shell.session.bundle is not None
    return shell.session.bundle.plan


def pixel(bench: PlateBench, shell: Shell, x: float, y: float) -> QPoint:
    """Return the pixel of a place on the plate."""
    ox, oy = plate_origin(plan_of(shell))
    drawing = bench.view.drawing
    assert drawing is not None
    return bench.view.mapFromScene(ox + x, drawing.height - (oy + y))


def drag(qtbot: QtBot, view: object, start: QPoint, end: QPoint, *, drop: bool = True) -> None:
    port = view.viewport()  # type: ignore[attr-defined]
    qtbot.mousePress(port, Qt.MouseButton.LeftButton, pos=start)
    for k in range(1, 6):
        step = start + (end - start) * k / 5
        event = QMouseEvent(
            QMouseEvent.Type.MouseMove, QPointF(step), port.mapToGlobal(QPointF(step)), Qt.MouseButton.NoButton,
            Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier,
        )  # fmt: skip
        QApplication.sendEvent(port, event)
    if drop:
        qtbot.mouseRelease(port, Qt.MouseButton.LeftButton, pos=end)


def middle(box: Box) -> tuple[float, float]:
    return box.centre[0], box.centre[1] + 14


def test_a_part_dragged_along_its_rail_stays_there_and_is_pinned(
    shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled
) -> None:
    plan = plan_of(shell)
    rail = plan.plate.rail(plan.plate.rail_of["M1.K"])
    assert rail is not None
    x, y = middle(plan.plate.boxes["M1.K"])
    end = pixel(bench, shell, rail.x + rail.length - 40, y)
    drag(qtbot, bench.view, pixel(bench, shell, x, y), end)
    settled()
    after = plan_of(shell).plate
    assert after.boxes["M1.K"].x > plan.plate.boxes["M1.K"].x + 50 and after.rail_of["M1.K"] == rail.code
    assert plan_of(shell).job.ledger.places["M1.K"].is_held and find_faults(after) == ()
    assert bench.pin.text() == "Unpin" and "wires" in bench.words.text()


def test_what_is_illegal_says_so_while_it_is_dragged_and_is_not_kept(
    shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled
) -> None:
    before = plan_of(shell)
    duct = before.plate.levels[0].box
    x, y = middle(before.plate.boxes["C1.T"])
    start, end = pixel(bench, shell, x, y), pixel(bench, shell, x, duct.centre[1])
    drag(qtbot, bench.view, start, end, drop=False)
    assert bench.words.text().startswith("✗") and "mm" in bench.words.text() and bench.words.objectName() == "danger"
    qtbot.mouseRelease(bench.view.viewport(), Qt.MouseButton.LeftButton, pos=end)
    settled()
    assert plan_of(shell).plate.boxes == before.plate.boxes and bench.words.text().startswith("✗")


def test_esc_puts_a_part_back(shell: Shell, bench: PlateBench, qtbot: QtBot) -> None:
    before = plan_of(shell)
    x, y = middle(before.plate.boxes["M1.K"])
    drag(qtbot, bench.view, pixel(bench, shell, x, y), pixel(bench, shell, x + 150, y), drop=False)
    qtbot.keyClick(bench.view, Qt.Key.Key_Escape)
    qtbot.mouseRelease(bench.view.viewport(), Qt.MouseButton.LeftButton, pos=pixel(bench, shell, x + 150, y))
    assert plan_of(shell).plate.boxes == before.plate.boxes


def test_arrow_keys_nudge_and_undo_takes_it_back(
    shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled
) -> None:
    last = max(
        plan_of(shell).plate.rail_of,
        key=lambda n: (plan_of(shell).plate.rail_of[n] == "R1", plan_of(shell).plate.boxes[n].x),
    )
    before = plan_of(shell).plate.boxes[last].x
    shell.hub.select(last)
    qtbot.keyClick(bench.view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    settled()
    qtbot.keyClick(bench.view, Qt.Key.Key_Right)
    settled()
    assert plan_of(shell).plate.boxes[last].x == pytest.approx(before + 11)
    shell.session.undo()
    settled()
    assert plan_of(shell).plate.boxes[last].x == pytest.approx(before + 10)


def test_two_clicks_swap_two_parts(shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled) -> None:
    plan = plan_of(shell)
    pairs = combinations([n for n in plan.plate.rail_of if not n.startswith("X")], 2)
    one, other = next(pair for pair in pairs if try_swap(plan.plate, *pair)[1].is_legal)
    shell.hub.select(one)
    qtbot.mouseClick(bench.swap, Qt.MouseButton.LeftButton)
    x, y = plan.plate.boxes[other].centre
    qtbot.mouseClick(bench.view.viewport(), Qt.MouseButton.LeftButton, pos=pixel(bench, shell, x, y + 12))
    settled()
    for moved, to in ((one, other), (other, one)):
        assert plan_of(shell).plate.boxes[moved].centre == pytest.approx(plan.plate.boxes[to].centre)


def test_a_starter_moves_as_one_while_together_is_pressed_and_is_undone_in_one(
    shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled
) -> None:
    boxes = plan_of(shell).plate.boxes
    bench.view.setFocus()
    qtbot.keyClick(bench.view, Qt.Key.Key_T)
    assert bench.together.isChecked()
    at = pixel(bench, shell, *middle(boxes["M1.K"]))
    qtbot.mouseClick(bench.view.viewport(), Qt.MouseButton.LeftButton, pos=at)
    qtbot.keyClick(bench.view, Qt.Key.Key_Right)
    settled()
    after = plan_of(shell).plate.boxes
    moved = {name: after[name].x - box.x for name, box in boxes.items() if after[name] != box}
    assert moved == {name: pytest.approx(1) for name in ("M1.K", "M1.Q", "M1.F")}
    shell.undo_action.trigger()
    settled()
    assert plan_of(shell).plate.boxes == boxes


def test_a_row_is_put_in_where_one_clicks(shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled) -> None:
    before = plan_of(shell).plate
    qtbot.mouseClick(bench.row, Qt.MouseButton.LeftButton)
    duct = before.levels[-1].box
    at = pixel(bench, shell, duct.centre[0], duct.centre[1])
    qtbot.mouseClick(bench.view.viewport(), Qt.MouseButton.LeftButton, pos=at)
    settled()
    after = plan_of(shell).plate
    assert (len(after.rails), len(after.levels)) == (len(before.rails) + 1, len(before.levels) + 1)


def test_a_row_is_not_put_in_where_no_duct_lies(
    shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled
) -> None:
    for _ in plan_of(shell).plate.levels:
        shell.session.apply(partial(take_away, name=plan_of(shell).plate.levels[0].code), "take away")
        settled()
    qtbot.mouseClick(bench.row, Qt.MouseButton.LeftButton)
    at = pixel(bench, shell, 200, 200)
    qtbot.mouseClick(bench.view.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert "no horizontal duct" in bench.words.text()


def test_a_duct_is_added_where_one_clicks_and_taken_away_again(
    shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled
) -> None:
    shell.session.apply(partial(change_part, field="enclosure", height=900.0), "higher")
    settled()
    before = {d.code for d in plan_of(shell).plate.ducts}
    qtbot.mouseClick(bench.level, Qt.MouseButton.LeftButton)
    low = min(d.box.y for d in plan_of(shell).plate.levels)
    qtbot.mouseClick(bench.view.viewport(), Qt.MouseButton.LeftButton, pos=pixel(bench, shell, 300, low / 2))
    settled()
    (new,) = {d.code for d in plan_of(shell).plate.ducts} - before
    shell.hub.select(new)
    qtbot.mouseClick(bench.remove, Qt.MouseButton.LeftButton)
    settled()
    assert {d.code for d in plan_of(shell).plate.ducts} == before


def test_a_rail_is_made_shorter_and_longer_but_not_from_under_its_parts(
    shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled
) -> None:
    rail = plan_of(shell).plate.rails[0]
    shell.hub.select(rail.code)
    qtbot.mouseClick(bench.shorter, Qt.MouseButton.LeftButton)
    settled()
    shorter = plan_of(shell).plate.rail(rail.code)
    assert shorter is not None and shorter.length == rail.length - 10
    qtbot.mouseClick(bench.longer, Qt.MouseButton.LeftButton)
    settled()
    assert plan_of(shell).plate.rail(rail.code) == rail
    for _ in range(100):
        qtbot.mouseClick(bench.shorter, Qt.MouseButton.LeftButton)
        settled()
        if bench.words.text().startswith("✗"):
            break
    least = plan_of(shell).plate.rail(rail.code)
    assert least is not None and bench.words.text().startswith("✗")
    boxes = [plan_of(shell).plate.boxes[n] for n, code in plan_of(shell).plate.rail_of.items() if code == rail.code]
    assert max(box.right for box in boxes) <= least.x + least.length + 5
    shell.hub.select(next(iter(plan_of(shell).plate.items)))
    assert not bench.shorter.isEnabled()


def test_arranging_shows_how_far_it_is_can_be_stopped_and_shortens_the_wires(
    shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled
) -> None:
    before = plan_of(shell)
    qtbot.mouseClick(bench.arrange, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bench.progress.isVisible() and bench.progress.bar.value() > 0, timeout=20_000)
    qtbot.mouseClick(bench.progress.stop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not bench.progress.isVisible(), timeout=20_000)
    settled()
    assert "stopped" in shell.message.text() and plan_of(shell).plate.boxes == before.plate.boxes
    qtbot.mouseClick(bench.arrange, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bench.progress.isVisible(), timeout=30_000)
    qtbot.waitUntil(lambda: not bench.progress.isVisible(), timeout=60_000)
    settled()
    wires = [sum(c.length_mm * c.size.mm2 for c in p.conductors if c.kind == "wire") for p in (before, plan_of(shell))]
    assert wires[1] < wires[0] and find_faults(plan_of(shell).plate) == ()


def choose(qtbot: QtBot, box: QComboBox, words: str) -> None:
    box.setFocus()
    for _ in range(box.count()):
        if box.currentText() == words:
            return
        qtbot.keyClick(box, Qt.Key.Key_Down)
    raise AssertionError(words)


@pytest.mark.parametrize("words", ["All wires", "Fill of ducts", "Losses in W", "Clearances", "Reach of wires"])
def test_each_overlay_lies_over_the_plate(shell: Shell, bench: PlateBench, qtbot: QtBot, words: str) -> None:
    before = len(bench.view.scene().items())
    choose(qtbot, bench.overlay, words)
    assert len(bench.view.scene().items()) > before + 3


def test_the_figures_say_reserve_longest_wire_fill_and_heat(shell: Shell, bench: PlateBench) -> None:
    plan = plan_of(shell)
    longest = max(c.length_mm for c in plan.conductors if c.kind == "wire" and c.legs)
    texts = {name: value.text() for name, value in bench.figures.values.items()}
    assert texts["Longest wire"] == f"{longest / 1000:.2f} m" and texts["Heat inside"] == f"{plan.panel.heat_w:.0f} W"
    assert texts["Reserve on rails"].endswith("%") and texts["Fullest duct"].endswith("%")


def test_the_smallest_enclosure_is_proposed_with_what_stops_the_next_smaller(
    shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled
) -> None:
    qtbot.mouseClick(bench.enclosure, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Smallest of the series" in bench.proposal.text(), timeout=30_000)
    lines = bench.proposal.text().splitlines()
    assert len(lines) >= 2 and "mm" in lines[1]
    qtbot.mouseClick(bench.take, Qt.MouseButton.LeftButton)
    settled()
    now = plan_of(shell).job.enclosure
    assert f"{now.width:g} x {now.height:g} x {now.depth:g} mm" in lines[0]


# -- the door


def door_pixel(bench: DoorBench, x: float, y: float) -> QPoint:
    drawing = bench.view.drawing
    assert drawing is not None
    return bench.view.mapFromScene(DOOR_CORNER[0] + x, drawing.height - (DOOR_CORNER[1] + y))


def test_a_device_is_dragged_on_the_door_and_not_onto_another(
    shell: Shell, door: DoorBench, qtbot: QtBot, settled: Settled
) -> None:
    cutouts = {c.device: c for c in plan_of(shell).door.cutouts if c.device != "Q0"}
    one, other = list(cutouts.values())[:2]
    drag(qtbot, door.view, door_pixel(door, one.x, one.y), door_pixel(door, other.x + 6, other.y))
    settled()
    assert door.words.text().startswith("✗") and "too close" in door.words.text()
    qtbot.waitUntil(lambda: door.view.isVisible(), timeout=30_000)
    spots = ((x, y) for y in range(100, 600, 20) for x in range(60, 440, 20))
    x, y = next(at for at in spots if try_hole_move(plan_of(shell), DOOR_FACE, one.device, *at, snap=False).is_legal)
    drag(qtbot, door.view, door_pixel(door, one.x, one.y), door_pixel(door, x, y))
    settled()
    moved = next(c for c in plan_of(shell).door.cutouts if c.device == one.device)
    assert (moved.x, moved.y) == pytest.approx((x, y), abs=10)
    assert plan_of(shell).job.ledger.places[one.device].is_held


def with_station(job: Job, starter: str) -> Job:
    """Return a Job whose starter has its buttons in a box beside the machine."""
    starters = tuple(replace(s, buttons_at="st1") if s.name == starter else s for s in job.starters)
    return replace(job, locations=(*job.locations, Location(name="st1")), starters=starters)


def test_a_button_of_a_station_and_a_gland_are_dragged_where_they_are_wanted(
    shell: Shell, door: DoorBench, qtbot: QtBot, settled: Settled
) -> None:
    shell.session.apply(partial(with_station, starter=plan_of(shell).job.starters[0].name), "buttons at a station")
    settled()
    face = station_face("st1")
    for name, chosen, by in (("Entry wall", ENTRY_FACE, (0, 60)), ("Station st1", face, (60, 0))):
        choose(qtbot, door.chooser, name)
        plan = plan_of(shell)
        holes = [c for c in holes_of(plan, chosen) if c.device in movable_holes(plan, chosen)]
        one = next(c for c in holes if try_hole_move(plan, chosen, c.device, c.x + by[0], c.y + by[1]).is_legal)
        corner = entry_corner(plan) if chosen == ENTRY_FACE else STATION_CORNER
        height = door.view.drawing.height  # type: ignore[union-attr]
        start, end = (
            door.view.mapFromScene(corner[0] + x, height - (corner[1] + y))
            for x, y in ((one.x, one.y), (one.x + by[0], one.y + by[1]))
        )
        drag(qtbot, door.view, start, end)
        assert door.words.text().startswith("✓"), door.words.text()
        settled()
        moved = next(c for c in holes_of(plan_of(shell), chosen) if c.device == one.device)
        assert (moved.x, moved.y) == pytest.approx(
            (one.x + by[0], one.y + by[1]), abs=10
        ) and door.pin.text() == "Unpin"
        qtbot.mouseClick(door.pin, Qt.MouseButton.LeftButton)
        settled()
        assert next(c for c in holes_of(plan_of(shell), chosen) if c.device == one.device) == one


def test_two_entries_that_agree_open_the_step_and_one_alone_does_not(
    shell: Shell, door: DoorBench, qtbot: QtBot, settled: Settled
) -> None:
    cutout = next(c for c in plan_of(shell).door.cutouts if c.device != "Q0")
    shell.hub.select(cutout.device)
    key = f"cutout:{cutout.device}"
    operation = next(op for op in shell.session.record.progress.operations if op.key == key)  # type: ignore[union-attr]
    shell.session.record.tick(operation)
    assert "measure it twice" in shell.message.text()
    for x in (cutout.x, cutout.x + 0.5):
        for box, value in ((door.card.x_box, x), (door.card.y_box, cutout.y)):
            box.setFocus()
            box.selectAll()
            qtbot.keyClicks(box, f"{value:.1f}")
        qtbot.mouseClick(door.card.enter, Qt.MouseButton.LeftButton)
    assert door.card.state.text().startswith("✓") and "1 of" in door.count.text()
    shell.session.record.tick(operation)
    assert key in shell.session.record.progress.done  # type: ignore[union-attr]


def test_section_and_stations_are_shown_beside_the_door(shell: Shell, door: DoorBench, qtbot: QtBot) -> None:
    choose(qtbot, door.chooser, "Side section")
    assert door.view.drawing is not None and door.view.drawing.name == "section"
    assert "mm" in door.facts.text() and "shut or swinging" in door.facts.text()


def test_a_hole_of_the_entry_wall_is_chosen_with_a_click_and_measured(
    shell: Shell, door: DoorBench, qtbot: QtBot, settled: Settled
) -> None:
    choose(qtbot, door.chooser, "Entry wall")
    entry = plan_of(shell).entries[0]
    drawing = door.view.drawing
    assert drawing is not None
    hole = next(c for c in drawing.items if isinstance(c, Circle) and c.ref == f"cable:{entry.cable}")
    at = door.view.mapFromScene(hole.x, drawing.height - hole.y)
    qtbot.mouseClick(door.view.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert shell.hub.selection == f"cable:{entry.cable}"
    for _ in range(2):
        for box, value in ((door.card.x_box, entry.x), (door.card.y_box, entry.z)):
            box.setFocus()
            box.selectAll()
            qtbot.keyClicks(box, f"{value:.1f}")
        qtbot.mouseClick(door.card.enter, Qt.MouseButton.LeftButton)
    assert shell.session.record.progress.why_closed(f"entry:{entry.cable}") == ""  # type: ignore[union-attr]


def test_entries_that_disagree_keep_the_step_shut_and_say_by_how_much(
    shell: Shell, door: DoorBench, qtbot: QtBot
) -> None:
    cutout = next(c for c in plan_of(shell).door.cutouts if c.device != "Q0")
    shell.hub.select(cutout.device)
    qtbot.mouseClick(door.card.enter, Qt.MouseButton.LeftButton)
    assert "type both" in door.card.state.text()
    for x in (cutout.x, cutout.x + 4):
        for box, value in ((door.card.x_box, x), (door.card.y_box, cutout.y)):
            box.setFocus()
            box.selectAll()
            qtbot.keyClicks(box, f"{value:.1f}")
        qtbot.mouseClick(door.card.enter, Qt.MouseButton.LeftButton)
    assert "differ by 4.0 mm" in door.card.state.text() and "to measure again" in door.count.text()
    shell.show_stage("build")
    closed = shell.session.record.progress.why_closed(f"cutout:{cutout.device}")  # type: ignore[union-attr]
    assert "measure both again" in closed


def test_pinning_keeps_a_part_where_it_is_and_says_so(
    shell: Shell, bench: PlateBench, qtbot: QtBot, settled: Settled
) -> None:
    shell.hub.select("M1.K")
    qtbot.mouseClick(bench.pin, Qt.MouseButton.LeftButton)
    settled()
    assert plan_of(shell).job.ledger.places["M1.K"].is_held and bench.pin.text() == "Unpin"
    shell.activateWindow()
    bench.view.setFocus()
    qtbot.waitUntil(bench.view.hasFocus, timeout=30_000)
    qtbot.keyClick(bench.view, Qt.Key.Key_P)
    settled()
    assert not plan_of(shell).job.ledger.places["M1.K"].is_held and bench.pin.text() == "Pin"
