"""Owns the panel into which a motor list is pasted: what it would add, and what is wrong line by line."""

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QApplication, QFrame, QHBoxLayout, QPlainTextEdit, QVBoxLayout

from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.widgets import button, label
from riktig.files.motor_list import MotorList, read_motor_list
from riktig.job.edits import add_members
from riktig.job.names import named_members
from riktig.job.practice import Standard

_HINT = "M1\tApple elevator\t1.5 kW\tdol\nM2\tMill\t11 kW\tstar-delta"
_MOST_FAULTS = 5


class PastePanel(QFrame):
    """Rows copied from a spreadsheet, tabs or semicolons between cells, with or without headings."""

    closed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session = session
        self._list = MotorList(starters=(), faults=())
        self.text = QPlainTextEdit()
        self.text.setAccessibleName(tr("Motor list"))
        self.text.setPlaceholderText(_HINT)
        self.text.setFixedHeight(110)
        self.text.textChanged.connect(self._on_text_changed)
        self.said = label("", role="quiet")
        self.add = button(tr("Add"), role="primary")
        self.add.clicked.connect(self._on_add_clicked)
        self.add.setEnabled(False)
        drop = button(tr("Cancel"))
        drop.clicked.connect(self.closed)
        foot = QHBoxLayout()
        foot.addWidget(self.said, 1)
        foot.addWidget(drop)
        foot.addWidget(self.add)
        layout = QVBoxLayout(self)
        words = tr("Paste rows from a spreadsheet: name, title, power, how it starts. A first line may hold headings.")
        layout.addWidget(label(words, role="quiet"))
        layout.addWidget(self.text)
        layout.addLayout(foot)

    def begin(self) -> None:
        """Open with what the clipboard holds, if that looks like rows."""
        clipboard = QApplication.clipboard().text()
        self.text.setPlainText(clipboard if "\t" in clipboard or ";" in clipboard else "")
        self.text.setFocus()

    def _on_text_changed(self) -> None:
        job = self._session.job
        if job is None or not job.controls:
            return
        taken = frozenset(name for _, name in named_members(job))
        is_hp = job.practice.standard is Standard.UL
        self._list = read_motor_list(self.text.toPlainText(), supply=job.controls[0].name, taken=taken, is_hp=is_hp)
        count, faults = len(self._list.starters), self._list.faults if self.text.toPlainText().strip() else ()
        lines = [fault.text() for fault in faults[:_MOST_FAULTS]]
        lines += [f"{tr('and')} {len(faults) - _MOST_FAULTS} {tr('more')}"] if len(faults) > _MOST_FAULTS else []
        self.said.setObjectName("danger" if faults else "quiet")
        self.said.style().polish(self.said)
        self.said.setText("\n".join(lines) or (f"{count} {tr('motors')}" if count else ""))
        self.add.setText(f"{tr('Add')} {count}" if count else tr("Add"))
        self.add.setEnabled(count > 0 and not faults)

    def _on_add_clicked(self) -> None:
        starters = self._list.starters
        self._session.apply(partial(add_members, field="starters", members=starters), f"add {len(starters)} motors")
        self.text.clear()
        self.closed.emit()
