"""The Compliance bench: findings by subject, the worst first; answered, waived by a name, judged in the other world."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QTreeWidgetItem
from pytestqt.qtbot import QtBot

from riktig.app.benches.compliance.bench import ComplianceBench
from riktig.app.shell import Shell
from riktig.checks.book import all_rules
from riktig.files.job_file import JobFile
from riktig.job.edits import change_part
from support import HEAD, STARTER, job_of

Settled = Callable[[], None]
LEFT = Qt.MouseButton.LeftButton
DIRECT = (
    HEAD.replace('kind = "transformer"\nfrom = "L1 L2"', 'kind = "direct"\nfrom = "L1"')
    + STARTER
    + STARTER.replace("M1", "M2")
)


@pytest.fixture
def bench(shell: Shell, home: Path, qtbot: QtBot, settled: Settled) -> ComplianceBench:
    path = home / "bad.riktig"
    JobFile.create(path, job_of(DIRECT)).close()
    shell.files.open_path(path)
    settled()
    shell.show_stage("compliance")
    made = shell.bench("compliance")
    assert isinstance(made, ComplianceBench)
    qtbot.waitUntil(lambda: made.tree.topLevelItemCount() > 0, timeout=30_000)
    return made


def lines(bench: ComplianceBench) -> dict[str, QTreeWidgetItem]:
    tops = [bench.tree.topLevelItem(n) for n in range(bench.tree.topLevelItemCount())]
    return {
        item.text(0): item
        for top in tops
        if top is not None
        for item in (top.child(n) for n in range(top.childCount()))
    }


def choose(bench: ComplianceBench, words: str) -> None:
    bench.tree.setCurrentItem(next(item for text, item in lines(bench).items() if words in text))


def test_what_was_found_stands_by_subject_the_worst_first(bench: ComplianceBench, shell: Shell, qtbot: QtBot) -> None:
    texts = list(lines(bench))
    marks = [text[0] for text in texts]
    assert "▲" in marks and marks.index("▲") < marks.index("?") and "✓" not in marks
    bench.which.setCurrentIndex(1)
    assert "✓" in [text[0] for text in lines(bench)] and f"{len(all_rules())} rules" in bench.summary.text()
    (stage,) = (one for one in shell.day_sheet.findChildren(QPushButton) if one.text().startswith("Compliance"))
    assert "should" in stage.text()


def test_a_finding_leads_to_its_place_and_a_question_to_its_field(
    bench: ComplianceBench, shell: Shell, qtbot: QtBot
) -> None:
    choose(bench, "the fault current of the supply is not stated")
    assert bench.answer.isVisibleTo(bench) and "supply.fault_ka" in bench.answer.text()
    asked: list[str] = []
    shell.hub.place_requested.connect(asked.append)
    qtbot.mouseClick(bench.answer, LEFT)
    assert asked == ["supply.fault_ka"]


def test_a_finding_is_waived_by_a_named_person_with_a_reason_and_taken_back(
    bench: ComplianceBench, shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    shell.top.person.setCurrentText("")
    choose(bench, "a machine beyond one starter")
    qtbot.mouseClick(bench.waive, LEFT)
    assert "who you are" in bench.said.text()
    shell.top.person.setCurrentText("Ada")
    qtbot.mouseClick(bench.waive, LEFT)
    assert "has a reason" in bench.said.text()
    qtbot.keyClicks(bench.reason, "site rule 7")
    qtbot.keyClicks(bench.until, "next year")
    qtbot.mouseClick(bench.waive, LEFT)
    assert "is no day" in bench.said.text()
    bench.until.clear()
    qtbot.keyClicks(bench.until, "2099-12-31")
    qtbot.mouseClick(bench.waive, LEFT)
    qtbot.waitUntil(lambda: any(text.startswith("◇") for text in lines(bench)), timeout=30_000)
    job = shell.session.job
    assert job is not None and [(w.rule, w.subject, w.person) for w in job.waivers] == [
        ("control-transformer", "C1", "Ada")
    ]
    choose(bench, "a machine beyond one starter")
    assert "Ada" in bench.facts.text() and "site rule 7" in bench.facts.text()
    qtbot.mouseClick(bench.withdraw, LEFT)
    qtbot.waitUntil(lambda: not any(text.startswith("◇") for text in lines(bench)), timeout=30_000)


def test_the_other_world_says_what_would_have_to_change(bench: ComplianceBench, qtbot: QtBot) -> None:
    qtbot.keyClick(bench.yardstick, Qt.Key.Key_Down)
    qtbot.waitUntil(lambda: "would be otherwise" in bench.title.text(), timeout=60_000)
    assert "120 V" in bench.message.text() and "AWG" in bench.message.text()
    qtbot.keyClick(bench.yardstick, Qt.Key.Key_Down)
    qtbot.waitUntil(lambda: "60204-1:2005, this would" in bench.title.text(), timeout=60_000)
    assert "clause 8.2.3 is numbered 8.2.4" in bench.message.text() and "AWG" not in bench.message.text()


def test_the_picture_of_a_finding_stands_beside_it_and_one_click_mends_it(
    bench: ComplianceBench, shell: Shell, qtbot: QtBot, settled: Settled
) -> None:
    shell.session.apply(partial(change_part, field="enclosure", outdoors=True), "outdoors")
    shell.session.apply(partial(change_part, field="supply", fault_ka=12.0), "a stronger supply")
    settled()
    qtbot.waitUntil(lambda: any("outdoors" in text for text in lines(bench)), timeout=30_000)
    choose(bench, "at 12 kA")
    qtbot.waitUntil(lambda: bench.picture.isVisible() and bench.picture.drawing is not None, timeout=30_000)
    assert bench.picture.drawing is not None and bench.picture.drawing.name == "short-circuit"
    choose(bench, "outdoors")
    qtbot.waitUntil(lambda: bench.picture.isVisible() and bench.picture.drawing.name == "heat", timeout=30_000)
    assert bench.mend.text() == 'Mend it: [excepted.X1] load = "heater"'
    qtbot.mouseClick(bench.mend, LEFT)
    settled()
    qtbot.waitUntil(lambda: not any("outdoors" in text for text in lines(bench)), timeout=30_000)
    assert shell.session.job is not None and shell.session.job.excepted[0].load == "heater"
