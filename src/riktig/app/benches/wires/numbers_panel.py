"""Owns the panel of wire numbers: one by hand, all anew with a preview, and a list of existing wires compared."""

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QSpinBox,
    QVBoxLayout,
)

from riktig.app.benches.progress_line import ProgressLine
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.widgets import button, label, set_state
from riktig.desk.errands import compare_list, read_edits
from riktig.plan.changes.numbers import preview_renumber, renumber_as, set_number, take_numbers
from riktig.plan.changes.schedule import apply_edits

if TYPE_CHECKING:
    from riktig.job.model import Job
    from riktig.plan.answers.reconcile import Reconciliation
    from riktig.plan.changes.numbers import NumberChange
    from riktig.plan.changes.schedule import ScheduleEdit

SCHOOLS = {
    "sequence": "One after the other",
    "sheet-column": "Sheet and column",
    "line": "Line of the ladder",
    "both-ends": "Address of the other end",
}


_MOST_LINES = 2000
"""Nobody reads more of them here, and a field of 100,000 holds the window up."""
_NOTHING_READ = tr("Nothing was read, and nothing has changed.")


class NumbersPanel(QFrame):
    """Changes nothing before it was shown what would change."""

    closed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session = session
        self.school = QComboBox()
        self.school.setAccessibleName(tr("School of numbering"))
        for school, words in SCHOOLS.items():
            self.school.addItem(tr(words), school)
        self.prefix = QLineEdit()
        self.prefix.setAccessibleName(tr("Prefix of numbers"))
        self.prefix.setPlaceholderText(tr("prefix"))
        self.prefix.setMaximumWidth(90)
        self.start = QSpinBox()
        self.start.setAccessibleName(tr("First number"))
        self.start.setRange(1, 9999)
        self.start.setPrefix(tr("from") + " ")
        self.preview = button(tr("Show what would change"))
        self.preview.clicked.connect(self._on_preview_clicked)
        self.compare = button(
            tr("Compare with a list"), tip=tr("A from-to list of an existing panel, CSV or XLSX: number, from, to")
        )
        self.compare.clicked.connect(self._on_compare_clicked)
        self.take = button(
            tr("Take an edited schedule"),
            tip=tr("Exported wires, terminals or cables with numbers, order, names or remarks changed, CSV or XLSX"),
        )
        self.take.clicked.connect(self._on_take_clicked)
        self.said = label("", bold=True)
        self.text = QPlainTextEdit()
        self.text.setObjectName("mono")
        self.text.setReadOnly(True)
        self.text.setAccessibleName(tr("What would change"))
        self.apply = button(tr("Number anew"), role="primary")
        self.apply.clicked.connect(self._on_apply_clicked)
        self.progress = ProgressLine(tr("Reading the list"))
        self.progress.stopped.connect(session.long.stop)
        session.long.told.connect(self.progress.show_share)
        self._act: Callable[[], None] | None = None
        self._lay_out()
        self._show("", [], None)

    def _lay_out(self) -> None:
        drop = button(tr("Close"))
        drop.clicked.connect(self.closed)
        head = QHBoxLayout()
        for widget, stretch in (
            (self.school, 2),
            (self.prefix, 0),
            (self.start, 0),
            (self.preview, 1),
        ):
            head.addWidget(widget, stretch)
        lists = QHBoxLayout()
        for widget in (self.compare, self.take):
            lists.addWidget(widget, 1)
        foot = QHBoxLayout()
        foot.addWidget(self.said, 1)
        foot.addWidget(drop)
        foot.addWidget(self.apply)
        layout = QVBoxLayout(self)
        layout.addLayout(head)
        layout.addLayout(lists)
        layout.addWidget(self.progress)
        layout.addWidget(self.text, 1)
        layout.addLayout(foot)

    def begin(self, job: "Job") -> None:
        """Open with the practice of the job."""
        self.school.setCurrentIndex(self.school.findData(job.practice.numbering))
        self.prefix.setText(job.practice.number_prefix)
        self.start.setValue(job.practice.number_start)
        self._show(tr("Numbers of a release and those set by hand stay."), [], None)

    def _show(self, said: str, lines: Sequence[str], act: Callable[[], None] | None, *, role: str = "quiet") -> None:
        self.said.setText(said)
        set_state(self.said, role)
        more = [f"… {tr('and as many lines more')}: {len(lines) - _MOST_LINES}"] if len(lines) > _MOST_LINES else []
        self.text.setPlainText("\n".join([*lines[:_MOST_LINES], *more]))
        self._act = act
        self.apply.setEnabled(act is not None)

    def _scheme(self) -> dict[str, object]:
        return {"school": self.school.currentData(), "prefix": self.prefix.text().strip(), "start": self.start.value()}

    def _on_preview_clicked(self) -> None:
        scheme = self._scheme()
        question = partial(preview_renumber, **scheme)  # type: ignore[arg-type]
        self._session.worker.ask(question, partial(self._take_preview, scheme))

    def _take_preview(self, scheme: dict[str, object], changes: "Sequence[NumberChange] | None") -> None:
        if changes is None:
            self._show(
                tr("These do not fit: a prefix has letters, digits, + - or . and at most eight of them."),
                [],
                None,
                role="danger",
            )
            return
        lines = [f"{c.old:>10} → {c.new:<10} {'  '.join(c.terminals)}" for c in changes]
        said = f"{len(changes)} {tr('numbers would change; wires and terminals stay where they are')}"
        edit = partial(renumber_as, **scheme)  # type: ignore[arg-type]
        self.apply.setText(tr("Number anew"))
        self._show(said, lines, lambda: self._session.apply(edit, "number anew"))

    def _ask_for_file(self) -> str:
        sorts = f"{tr('Lists')} (*.csv *.xlsx *.txt)"
        return QFileDialog.getOpenFileName(self, tr("List of existing wires"), "", sorts)[0]

    def _on_compare_clicked(self) -> None:
        name = self._ask_for_file()
        if name:
            self._session.long.ask(partial(compare_list, path=Path(name)), self._take_comparison)

    def _take_comparison(self, found: "Reconciliation | tuple[str, ...] | None") -> None:
        if found is None:
            self._show(_NOTHING_READ, [], None)
            return
        if isinstance(found, tuple):
            self._show(tr("The list cannot be used:"), found, None, role="danger")
            return
        lines = [f"{d.sort.value:8} {_lines(d.lines):14} {d.message}" for d in found.discrepancies]
        lines += [f"{'number':8} {'':14} {old} → {new}" for old, new in found.numbers.items()]
        said = f"{len(found.discrepancies)} {tr('to clear up')}, {len(found.numbers)} {tr('numbers to take over')}"
        names = dict(found.numbers)
        act = (lambda: self._session.apply(partial(take_numbers, names=names), "numbers of a list")) if names else None
        self.apply.setText(tr("Take its numbers"))
        self._show(said, lines, act, role="attention" if found.discrepancies else "done")

    def _on_take_clicked(self) -> None:
        name = self._ask_for_file()
        if name:
            self._session.long.ask(partial(read_edits, path=Path(name)), self._take_edits)

    def _take_edits(self, found: "tuple[Sequence[ScheduleEdit], tuple[str, ...]] | None") -> None:
        if found is None:
            self._show(_NOTHING_READ, [], None)
            return
        edits, faults = found
        if faults:
            self._show(tr("The schedule cannot be used:"), faults, None, role="danger")
            return
        said = f"{len(edits)} {tr('changes to take over')}"
        act = (lambda: self._session.apply(partial(apply_edits, edits=edits), "edited schedule")) if edits else None
        self.apply.setText(tr("Take them over"))
        self._show(said, [f"line {edit.line:<5} {edit.text}" for edit in edits], act)

    def _on_apply_clicked(self) -> None:
        if self._act is not None:
            self._act()
            self._show(tr("Done: Undo takes it back."), [], None, role="done")


def _lines(lines: Sequence[int]) -> str:
    return f"line {', '.join(str(n) for n in lines[:3])}{' …' if len(lines) > 3 else ''}" if lines else "no line"


class NumberEditor(QFrame):
    """The number that is selected, and a field for another one."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._number = ""
        self.field = QLineEdit()
        self.field.setAccessibleName(tr("Another number"))
        self.field.setPlaceholderText(tr("another number"))
        self.field.returnPressed.connect(self._on_field_entered)
        self.keep = button(tr("Set"))
        self.keep.setAccessibleName(tr("Set this number"))
        self.keep.clicked.connect(self._on_field_entered)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.field, 1)
        row.addWidget(self.keep)
        self.show_number(None)

    def show_number(self, number: str | None) -> None:
        """Take over the selected number; None where nothing is selected."""
        if number != self._number:
            self.field.clear()
        self._number = number or ""
        self.setVisible(bool(number))

    def _on_field_entered(self) -> None:
        new = self.field.text().strip()
        if new and self._number:
            self._session.apply(partial(set_number, old=self._number, new=new), f"{self._number} becomes {new}")
