"""The Labels bench: what a label is stuck on is selected everywhere, words are edits of the Job, and what is printed is in the Record."""

from collections import Counter
from collections.abc import Callable
from pathlib import Path
from threading import Event

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from riktig.app.benches.labels.bench import LabelsBench
from riktig.app.shell import Shell
from riktig.drawings.labels.fitting import fit_labels
from riktig.files.job_file import JobFile
from riktig.plan.making.bundles import WorkStage, bundles_of
from riktig.record.events import EventKind
from riktig.standins.label_printer import SimulatedPrinter
from support import job_of, small_text

Settled = Callable[[], None]
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def bench(shell: Shell, qtbot: QtBot) -> LabelsBench:
    shell.show_stage("labels")
    made = shell.bench("labels")
    assert isinstance(made, LabelsBench)
    qtbot.waitUntil(lambda: made.media.count() > 0 and made.view.drawing is not None, timeout=30_000)
    return made


def texts(bench: LabelsBench) -> list[str]:
    return [bench.media.item(n).text() for n in range(bench.media.count())]


def choose(bench: LabelsBench, words: str, qtbot: QtBot) -> None:
    place = next(n for n, text in enumerate(texts(bench)) if words in text)
    item = bench.media.item(place)
    bench.media.scrollToItem(item)
    qtbot.mouseClick(bench.media.viewport(), LEFT, pos=bench.media.visualItemRect(item).center())
    code = item.data(Qt.ItemDataRole.UserRole)
    qtbot.waitUntil(lambda: bench.view.drawing is not None and code in bench.view.drawing.name, timeout=10_000)


def click(bench: LabelsBench, text: str, qtbot: QtBot) -> None:
    """Click in the middle of the first label that begins so."""
    drawing = bench.view.drawing
    assert drawing is not None
    item = next(item for item in drawing.primitives() if getattr(item, "text", "").startswith(text) and item.ref)
    bench.view.show_point(item.x, item.y + 1)  # type: ignore[union-attr]
    at = bench.view.mapFromScene(item.x, drawing.height - item.y - 1)  # type: ignore[union-attr]
    qtbot.mouseClick(bench.view.viewport(), LEFT, pos=at)


def test_a_click_on_a_label_selects_what_it_is_stuck_on(bench: LabelsBench, shell: Shell, qtbot: QtBot) -> None:
    choose(bench, "Engraved 30", qtbot)
    click(bench, "Stop", qtbot)
    assert shell.hub.selection == "M1.S0"
    assert bench.words.text().startswith("legend: Stop") and "S1, door" in bench.place.text()
    choose(bench, "Sleeve", qtbot)
    click(bench, "L1", qtbot)
    assert shell.hub.selection.startswith("wire:") and not bench.text.isVisible()


def test_words_typed_on_a_label_are_an_edit_that_is_undone(
    bench: LabelsBench, shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    choose(bench, "Engraved 30", qtbot)
    click(bench, "Stop", qtbot)
    bench.text.selectAll()
    qtbot.keyClicks(bench.text, "Halt the elevator")
    qtbot.keyClick(bench.text, Qt.Key.Key_Return)
    settled()
    job = shell.session.job
    assert job is not None and [c.value for c in job.ledger.texts.values()] == ["Halt the elevator"]
    qtbot.waitUntil(lambda: bench.own.isVisible(), timeout=10_000)
    qtbot.mouseClick(bench.own, LEFT)
    settled()
    assert shell.session.job is not None and not shell.session.job.ledger.texts
    shell.session.undo()
    settled()
    assert shell.session.job is not None and shell.session.job.ledger.texts


def test_what_is_printed_is_noted_once_and_comes_back_when_its_words_change(
    bench: LabelsBench, shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    shell.session.record.person = "I. Farrow"
    choose(bench, "Engraved 30", qtbot)
    count = len(bench.view.drawing.name)  # type: ignore[union-attr]
    assert count
    qtbot.mouseClick(bench.printed, LEFT)
    qtbot.waitUntil(lambda: any("✓ all" in text for text in texts(bench)), timeout=10_000)
    path = shell.session.file.path  # type: ignore[union-attr]
    events = [e for e in JobFile.open(path, read_only=True).events() if e.kind is EventKind.LABELS]
    assert len(events) == 1 and events[0].data["step"] == "printed" and events[0].person == "I. Farrow"
    bench.only_open.setChecked(True)
    qtbot.waitUntil(lambda: bench.count.text() == "0 labels", timeout=10_000)
    bench.only_open.setChecked(False)
    qtbot.waitUntil(lambda: bench.count.text() != "0 labels", timeout=10_000)
    click(bench, "Stop", qtbot)
    bench.text.selectAll()
    qtbot.keyClicks(bench.text, "Halt")
    qtbot.keyClick(bench.text, Qt.Key.Key_Return)
    settled()
    qtbot.waitUntil(lambda: any("1 of " in text and "Engraved 30" in text for text in texts(bench)), timeout=10_000)


def test_labels_of_a_kind_are_printed_on_another_medium(
    bench: LabelsBench, shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    choose(bench, "Engraved 30", qtbot)
    click(bench, "Stop", qtbot)
    bench.medium.setFocus()
    qtbot.keyClick(bench.medium, Qt.Key.Key_Down)
    settled()
    qtbot.waitUntil(lambda: any("Engraved 60" in text for text in texts(bench)), timeout=10_000)
    assert not any("Engraved 30" in text for text in texts(bench))
    assert shell.session.job is not None and shell.session.job.ledger.texts["medium:legend"].value == "plate-60"


def test_the_two_lists_of_a_shop(bench: LabelsBench, qtbot: QtBot) -> None:
    """What is stuck on before wiring, and what after."""
    choose(bench, "Engraved 30", qtbot)
    whole = bench.count.text()
    bench.when.setCurrentIndex(bench.when.findText("Put on before wiring"))
    qtbot.waitUntil(lambda: bench.count.text() == whole, timeout=10_000)
    bench.when.setCurrentIndex(bench.when.findText("Put on after wiring"))
    qtbot.waitUntil(lambda: bench.count.text() == "0 labels", timeout=10_000)


def test_markers_of_one_stage_of_wiring_are_listed_by_themselves(
    bench: LabelsBench, shell: Shell, qtbot: QtBot
) -> None:
    choose(bench, "Sleeve", qtbot)
    bench.when.setFocus()
    while bench.when.currentText() != "Markers: AC control":
        qtbot.keyClick(bench.when, Qt.Key.Key_Down)
    assert shell.session.bundle is not None
    plan = shell.session.bundle.plan
    code = bench.media.currentItem().data(Qt.ItemDataRole.UserRole)
    control = [b for b in bundles_of(plan) if b.stage is WorkStage.CONTROL_AC]
    wires = {f"wire:{wire.id}" for bundle in control for wire in bundle.wires}
    of_them = [
        one
        for one in fit_labels(plan)
        if one.sticker.on in wires and one.medium is not None and one.medium.code == code
    ]
    assert 0 < len(of_them) < len(fit_labels(plan))
    qtbot.waitUntil(lambda: bench.count.text() == f"{len(of_them)} labels", timeout=10_000)


def printed(shell: Shell) -> dict[str, int]:
    """Return the keys of labels that the Record has as printed, each with how often."""
    assert shell.session.file is not None
    events = (event for event in shell.session.file.events() if event.kind is EventKind.LABELS)
    return dict(Counter(key for event in events for key in event.data["texts"]))


def test_labels_are_printed_from_the_window_each_once_through_a_jam_and_the_record_has_them(
    bench: LabelsBench, shell: Shell, qtbot: QtBot, tmp_path: Path
) -> None:
    choose(bench, "Tape 9", qtbot)
    count = bench.media.currentItem().text().split(" of ")[1].split(" ")[0]
    stand = SimulatedPrinter(tmp_path / "tape", medium="tape-9", fault=lambda n: "jam" if n == 3 else "")
    try:
        bench.tape.address.setFocus()
        bench.tape.address.clear()
        qtbot.keyClicks(bench.tape.address, f"127.0.0.1:{stand.port}")
        qtbot.mouseClick(bench.tape.begin, LEFT)
        qtbot.waitUntil(lambda: "jammed" in bench.tape.said.text(), timeout=30_000)
        assert bench.tape.said.text().startswith("3 labels printed") and len(printed(shell)) == len(stand.tape) == 3
        stand.clear()
        qtbot.mouseClick(bench.tape.begin, LEFT)
        qtbot.waitUntil(lambda: bench.tape.said.text() == f"{int(count) - 3} labels printed.", timeout=60_000)
        assert set(printed(shell).values()) == {1} and len(printed(shell)) == len(stand.tape) == int(count)
        qtbot.waitUntil(lambda: "all" in bench.media.currentItem().text(), timeout=10_000)
        choose(bench, "Tape 12", qtbot)
        qtbot.mouseClick(bench.tape.begin, LEFT)
        qtbot.waitUntil(lambda: "tape-9 is loaded" in bench.tape.said.text(), timeout=30_000)
    finally:
        stand.close()
    qtbot.mouseClick(bench.tape.begin, LEFT)
    qtbot.waitUntil(lambda: "no printer answers" in bench.tape.said.text(), timeout=30_000)


def test_stopping_or_opening_another_job_in_the_middle_notes_nothing_wrong(
    bench: LabelsBench, shell: Shell, qtbot: QtBot, home: Path
) -> None:
    choose(bench, "Tape 9", qtbot)
    slow = Event()
    stand = SimulatedPrinter(home / "tape", medium="tape-9", fault=lambda n: "" if n < 4 or slow.wait(20) else "")
    try:
        bench.tape.address.setText(f"127.0.0.1:{stand.port}")
        qtbot.mouseClick(bench.tape.begin, LEFT)
        qtbot.waitUntil(lambda: len(printed(shell)) == 4, timeout=30_000)
        path = home / "two.riktig"
        JobFile.create(path, job_of(small_text())).close()
        shell.files.open_path(path)
        qtbot.waitUntil(lambda: not shell.session.is_stale, timeout=60_000)
        slow.set()
        assert printed(shell) == {} and not bench.tape.printing.is_running
    finally:
        slow.set()
        stand.close()
