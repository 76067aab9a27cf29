"""Owns the scripts that a job keeps on the live bench: changed cell by cell, with how each step came out. Must not play them."""

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
)

from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.widgets import button, label
from riktig.job.edits import change_member, remove
from riktig.job.script_edits import add_step, change_step, keep_script, take_step_out
from riktig.job.scripts import Script, Step

if TYPE_CHECKING:
    from riktig.job.model import Job
    from riktig.live.scripts import Played

_FIELDS = ("do", "expect", "never")
_OUTCOME = len(_FIELDS)
_HEADERS = ("What is done", "What is so then", "What must never be", "How it came out")
_HIGH_PX = 232
_BETWEEN = ", "


class ScriptPanel(QFrame):
    """One script as a table of steps; what is typed is kept with the job at once."""

    play_requested = Signal(object)
    """A script is to be played on a panel that has just been switched on."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session = session
        self._scripts: tuple[Script, ...] = ()
        self.which = QComboBox()
        self.which.setAccessibleName(tr("Script"))
        self.which.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.which.setMinimumContentsLength(12)
        self.which.activated.connect(self._on_which_activated)
        self.title = QLineEdit()
        self.title.setAccessibleName(tr("Title of the script"))
        self.title.setPlaceholderText(tr("Title"))
        self.title.editingFinished.connect(self._on_title_editing_finished)
        self.play = button(tr("Play"), role="chip", tip=tr("Play it on a panel that has just been switched on"))
        self.new = button(tr("New"), role="chip", tip=tr("Begin a script with one empty step"))
        self.add = button(tr("Add step"), role="chip", tip=tr("Add a step behind the one that is chosen"))
        self.take = button(tr("Take step out"), role="chip")
        self.drop = button(tr("Remove"), role="chip", tip=tr("Remove the script from the job"))
        self.table = QTableWidget(0, len(_HEADERS))
        self.table.setAccessibleName(tr("Steps"))
        self.table.setHorizontalHeaderLabels([tr(words) for words in _HEADERS])
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.horizontalHeader().setFixedHeight(self.table.fontMetrics().lineSpacing() + 10)
        self.table.verticalHeader().setDefaultSectionSize(26)
        self.table.setWordWrap(True)
        self.table.cellChanged.connect(self._on_table_cell_changed)
        self.says = label("", role="quiet")
        self.play.clicked.connect(self._on_play_clicked)
        self.new.clicked.connect(self._on_new_clicked)
        self.add.clicked.connect(self._on_add_clicked)
        self.take.clicked.connect(self._on_take_clicked)
        self.drop.clicked.connect(self._on_drop_clicked)
        head = QHBoxLayout()
        head.addWidget(self.which, 1)
        for tool in (self.play, self.add, self.take, self.new, self.drop):
            head.addWidget(tool)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 6, 8, 6)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self.table)
        foot = QHBoxLayout()
        foot.addWidget(self.title, 1)
        foot.addWidget(self.says, 2)
        column.addLayout(foot)
        self.setFixedHeight(_HIGH_PX)
        session.refused.connect(lambda _: self._show())
        self._show()

    @property
    def chosen(self) -> Script | None:
        """The script that is shown, None where the job keeps none."""
        return next((one for one in self._scripts if one.name == self.which.currentData()), None)

    def show_job(self, job: "Job") -> None:
        """List the scripts of the Job; the one that is shown stays, and a new one is shown."""
        if job.scripts == self._scripts or self._session.is_keeping:
            return  # what is typed meanwhile stays; with its answer all is shown
        known, before = {one.name for one in self._scripts}, self.which.currentData()
        is_first = not self._scripts
        self._scripts = job.scripts
        self.which.clear()
        for script in self._scripts:
            self.which.addItem(script.title or script.name, script.name)
        fresh = [] if is_first else [one.name for one in self._scripts if one.name not in known]
        wanted = fresh[-1] if fresh else before
        self.which.setCurrentIndex(max(self.which.findData(wanted), 0))
        self._show()

    def show_outcome(self, played: "Sequence[Played]", step: int, words: str) -> None:
        """Show how each step came out; where it could not be played to its end, at which step (from 1, 0 ahead of all) and why."""
        self.table.blockSignals(True)
        for row in range(self.table.rowCount()):
            said = ""
            if row < len(played):
                said = "\n".join(f"{m.was}; {m.because}" if m.because else m.was for m in played[row].misses) or tr(
                    "as it should"
                )
            elif words and row == step - 1:
                said = words
            self._put(row, _OUTCOME, said, is_own=False)
        self.table.blockSignals(False)
        self.table.resizeRowsToContents()
        misses = sum(bool(one.misses) for one in played)
        self.says.setText(
            words or (tr("Passes.") if not misses else tr("{n} steps are not as they should be.").format(n=misses))
        )

    # -- what is shown

    def _show(self) -> None:
        script = self.chosen
        for tool in (self.play, self.add, self.take, self.drop, self.title, self.table):
            tool.setEnabled(script is not None)
        self.title.setText(script.title if script is not None else "")
        self.title.setCursorPosition(0)
        steps = script.steps if script is not None else ()
        self.table.blockSignals(True)
        self.table.setRowCount(len(steps))
        for row, step in enumerate(steps):
            for column, field in enumerate(_FIELDS):
                self._put(row, column, _BETWEEN.join(getattr(step, field)), is_own=True)
            self._put(row, _OUTCOME, "", is_own=False)
        self.table.blockSignals(False)
        self.table.resizeRowsToContents()
        lives = ", ".join(script.field) if script is not None else ""
        with_it = tr("With it lives {names}, which the brief tells.").format(names=lives) + " " if lives else ""
        how = tr("Several things in a cell are parted by commas: push M1.S1, wait 2.")
        self.says.setText(
            with_it + how if script is not None else tr("The job keeps no script yet: play, then Keep as script.")
        )

    def _put(self, row: int, column: int, text: str, *, is_own: bool) -> None:
        before = self.table.item(row, column)
        if before is not None and before.text() == text:
            return  # another text in a cell would take what is being typed there
        item = QTableWidgetItem(text)
        item.setToolTip(text)
        if not is_own:
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
        self.table.setItem(row, column, item)

    # -- hands

    def _on_which_activated(self, _: int) -> None:
        self._show()

    def _on_title_editing_finished(self) -> None:
        script, title = self.chosen, self.title.text().strip()
        if script is not None and title != script.title:
            self._session.apply(
                partial(change_member, field="scripts", name=script.name, title=title), tr("script named")
            )

    def _on_table_cell_changed(self, row: int, column: int) -> None:
        script, item = self.chosen, self.table.item(row, column)
        if script is None or item is None or column == _OUTCOME:
            return
        field = _FIELDS[column]
        lines = tuple(part.strip() for part in item.text().replace("\n", ",").split(",") if part.strip())
        self._session.apply(
            partial(change_step, script=script.name, row=row, field=field, lines=lines), tr("step changed")
        )

    def _on_play_clicked(self) -> None:
        if self.chosen is not None:
            self._session.when_idle(self._ask_to_play)  # what was typed last is played too

    def _ask_to_play(self) -> None:
        if self.chosen is not None:
            self.play_requested.emit(self.chosen)

    def _on_new_clicked(self) -> None:
        self._session.apply(
            partial(keep_script, script=Script(title=tr("New script"), steps=(Step(),))), tr("script begun")
        )

    def _on_add_clicked(self) -> None:
        script, row = self.chosen, self.table.currentRow()
        if script is not None:
            at = row + 1 if row >= 0 else len(script.steps)
            self._session.apply(partial(add_step, script=script.name, row=at), tr("step added"))

    def _on_take_clicked(self) -> None:
        script, row = self.chosen, self.table.currentRow()
        if script is not None and row >= 0:
            self._session.apply(partial(take_step_out, script=script.name, row=row), tr("step taken out"))

    def _on_drop_clicked(self) -> None:
        if self.chosen is not None:
            self._session.apply(partial(remove, field="scripts", name=self.chosen.name), tr("script removed"))
