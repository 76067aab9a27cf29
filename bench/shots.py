"""Takes the pictures in docs/screenshots from the demo data: one for each bench, 1280 x 800, and one in dark."""

import os
import sys
import tempfile
from collections.abc import Callable
from functools import partial
from importlib.resources import files
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
HOME = tempfile.mkdtemp(prefix="riktig-shots-")
os.environ["XDG_DATA_HOME"] = os.environ["XDG_CONFIG_HOME"] = HOME

from PySide6.QtCore import QEventLoop, Qt, QTimer  # noqa: E402
from PySide6.QtTest import QTest  # noqa: E402

from riktig.app.benches.measure.practice_page import PracticePage  # noqa: E402
from riktig.app.canvas.view import DrawingView  # noqa: E402
from riktig.app.main import make_application  # noqa: E402
from riktig.app.shell import Shell  # noqa: E402
from riktig.app.theme.theme import Variant, apply_theme, dress, load_theme  # noqa: E402
from riktig.app.value_card import ValueCard  # noqa: E402
from riktig.desk.practice_errands import OPERATED, hide_fault  # noqa: E402
from riktig.desk.proof_errands import name_faults  # noqa: E402
from riktig.drawings.sheet_set import draw_sheets  # noqa: E402
from riktig.files.brief_reader import parse_brief  # noqa: E402
from riktig.plan.plan import compute_plan  # noqa: E402

SHEETS = (
    ("sheet-power", "iec", "Power circuit: M2 Mill"),
    ("sheet-rungs", "ul", "Control circuit: M4 Wet auger"),
)
FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"


def wait_for(shell: Shell) -> None:
    """Wait until nothing is stale, then for the painting."""
    loop = QEventLoop()
    for _ in range(200):
        if not shell.session.is_stale:
            break
        QTimer.singleShot(50, loop.quit)
        loop.exec()
    QTest.qWait(120)


def wait_until(is_so: Callable[[], bool]) -> None:
    """Wait until something is so, ten seconds at most."""
    loop = QEventLoop()
    for _ in range(200):
        if is_so():
            break
        QTimer.singleShot(50, loop.quit)
        loop.exec()


def shoot_sheet(name: str, world: str, title: str) -> None:
    """Take one whole sheet of a demo, the first with such a title."""
    plan = compute_plan(parse_brief(files("riktig").joinpath("demos", f"{world}.toml").read_text("utf-8")))
    view = DrawingView(load_theme(Variant.LIGHT), "sheet")
    dress(view)
    view.resize(1280, 908)
    view.show()
    view.show_drawing(next(sheet for sheet in draw_sheets(plan) if title in sheet.title))
    QTest.qWait(100)
    view.grab().save(str(FOLDER / f"{name}.png"))
    view.close()


def _play(circuit) -> None:  # type: ignore[no-untyped-def]
    """Switch the circuit on and start the mill, and behind it the elevator, whose start is still held."""
    circuit.show_target("device:M1.K")
    circuit.live.click()
    while not circuit.live_bar.runs.isChecked():
        QTest.qWait(20)
    for button in ("E1.SB", "M2.S1"):
        circuit.touch(button)
        circuit.let_go()
    circuit.live_bar.speed.setCurrentIndex(2)
    QTest.qWait(500)
    circuit.live_bar.speed.setCurrentIndex(1)
    circuit.touch("M1.S1")
    QTest.qWait(2500)
    circuit.hub.select("M1.K")
    drawing = circuit.view.drawing
    circuit.view.show_part(8, 88, 0.64 * drawing.width, 190)


SETTLED_MS = 2000
"""Until what was asked of the worker is answered and laid out."""


def main(names: list[str]) -> None:
    """Take all pictures, or those named."""
    application = make_application([])
    apply_theme(application, load_theme(Variant.LIGHT))
    shell = Shell()
    shell.top.person.setCurrentText("Ada")
    shell.resize(1280, 800)
    shell.show()
    shell.files.open_demo("iec")
    wait_for(shell)
    FOLDER.mkdir(parents=True, exist_ok=True)

    def shoot(name: str) -> None:
        if not names or name in names:
            wait_for(shell)
            QTest.qWait(SETTLED_MS)
            shell.grab().save(str(FOLDER / f"{name}.png"))

    brief = shell.bench("brief")
    brief.motor_card("M2").set_open(True)
    shell.hub.select("M2")
    shoot("brief")
    shell.hub.select("")
    brief.show_page(2)
    brief.rungs.new_rung.click()
    brief.rungs.editor.setPlainText("C2+ > TANK.alarm:no > K99:coil > C2-")
    shoot("brief-paths")
    brief.rungs.editor.clear()
    brief.show_page(4)
    before = brief.side.view.drawing
    brief.side.turn_to(1)
    for _ in range(200):  # the worker draws it
        if brief.side.view.drawing is not before:
            break
        QTest.qWait(100)
    shoot("short-circuit")
    brief.show_page(0)
    brief.side.turn_to(3)
    shell.hub.select("M2")
    QTest.qWait(500)
    shell.margin.findChildren(ValueCard)[0].why.click()
    shoot("why")
    brief.side.turn_to(0)
    shell.show_stage("circuit")
    circuit = shell.bench("circuit")
    circuit.show_target("device:M3.K")
    shell.hub.select("M3.K")
    shoot("circuit")
    _play(circuit)
    shoot("circuit-live")
    circuit.live.click()
    circuit.show_target("device:M3.K")
    circuit.write.click()
    circuit.panel.editor.setFocus()
    circuit.panel.editor.setPlainText("C1+ > (M5.K:no | M6.K:no > M3.K:nc) > F20.H > C1-")
    QTest.qWait(2500)
    shoot("circuit-write")
    circuit.panel.editor.clear()
    circuit.write.click()
    for name, world, sheet in SHEETS:
        if not names or name in names:
            shoot_sheet(name, world, sheet)
    shell.show_stage("plate")
    plate = shell.bench("plate")
    wait_for(shell)
    plate.arrange.click()
    QTest.qWait(500)
    while plate.progress.isVisible():
        QTest.qWait(200)
    plate.overlay.setCurrentIndex(1)
    shell.hub.select("M2.K")
    shoot("plate")
    shell.hub.select("")
    plate.overlay.setCurrentIndex(0)
    shell.show_stage("door")
    shell.bench("door")
    shell.hub.select("M1.S1")
    check = shell.session.record.progress.checks["cutout:M1.S1"].planned
    for _ in range(2):
        shell.session.record.measure_place(check, check.x, check.y + 0.5)
    shoot("door")
    shell.show_stage("wires")
    shell.hub.select("net:5")
    shoot("wires")
    shell.show_stage("terminals")
    shell.hub.select("X1:7")
    QTest.qWait(400)
    shoot("terminals")
    shell.hub.select("")
    shell.show_stage("wires")
    wires = shell.bench("wires")
    wires.batches.click()
    while not wires.lots.model.rowCount():
        QTest.qWait(50)
    wires.lots.table.selectRow(19)
    QTest.qWait(300)
    shoot("batches")
    wires.batches.click()
    shell.show_stage("labels")
    labels = shell.bench("labels")
    while not labels.media.count():
        QTest.qWait(50)
    labels.media.setCurrentRow(
        next(n for n in range(labels.media.count()) if "Engraved 30" in labels.media.item(n).text())
    )
    QTest.qWait(600)
    shoot("labels")
    shell.hub.select("")
    shell.show_stage("compliance")
    compliance = shell.bench("compliance")
    while not compliance.tree.topLevelItemCount():
        QTest.qWait(50)
    compliance.which.setCurrentIndex(1)
    line = compliance.tree.findItems(
        "The panel stands the fault current", Qt.MatchFlag.MatchContains | Qt.MatchFlag.MatchRecursive
    )[0]
    compliance.tree.setCurrentItem(line)
    while not compliance.picture.isVisible():
        QTest.qWait(50)
    QTest.qWait(300)
    shoot("compliance")
    shell.show_stage("build")
    work = shell.session.record.progress.operations
    first_wire = next(i for i, op in enumerate(work) if op.key.startswith("wire:")) + 31
    for planned in shell.session.record._work.cutouts:
        for _ in range(2):
            shell.session.record.measure_place(planned, planned.x, planned.y)
    for operation in work[:first_wire]:
        shell.session.record.tick(operation)
    shoot("build")
    shell.show_stage("test")
    bench = shell.bench("test")
    bench.fault.showPopup()
    wait_until(lambda: bench.fault.count() > 1)
    bench.fault.hidePopup()
    row = next(
        n for n in range(bench.fault.count()) if bench.fault.itemText(n).startswith("wires 1L1 and 1L2 exchanged")
    )
    bench.fault.setCurrentIndex(row)
    bench.fault.activated.emit(row)
    bench._go_to(next(step.key for step in bench._testing.steps if step.title.startswith("Wire 1L2: Q1:4")))
    QTest.keyClick(bench.entry, Qt.Key.Key_F5)
    wait_until(lambda: bool(bench._testing.failed))
    QTest.keyClick(bench.entry, Qt.Key.Key_F7)
    wait_until(lambda: bench.following.probe is not None)
    shoot("test")
    shell.toggle_theme()
    practise(bench.practice, shell)
    shoot("practice-dark")
    shell.close()


def practise(page: PracticePage, shell: Shell) -> None:
    """Let a function fail for a reason that is the same in each picture, and begin to look for it."""
    shell.bench("test").practise.click()  # type: ignore[attr-defined]
    page.level.setCurrentIndex(OPERATED - 1)
    shell.session.worker.ask(name_faults, page._take_faults)
    shell.session.long.ask(partial(hide_fault, seed=3, level=OPERATED), partial(page._take_hidden, page._plan))
    wait_until(page.measure.isEnabled)
    page.operating.entry.setText("push S15")
    page.operating.operate()
    for a, b in (("T2:X1", "T2:X2"), ("K13:A1", "K13:A2"), ("S15:14", "T2:X2")):
        page.a.setText(a)
        page.b.setText(b)
        page.take_reading()


if __name__ == "__main__":
    main(sys.argv[1:])
