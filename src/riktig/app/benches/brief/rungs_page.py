"""Owns the page of circuit paths: one's own rungs and feeders to type, and those of starters to read."""

from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from riktig.app.benches.path_editor import PathEditor, drop_path, keep_path, say_of_path
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, card, label
from riktig.job.completion import PathMark
from riktig.job.model import Job
from riktig.job.paths import write_path
from riktig.plan.plan import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class PathLine:
    """A path as listed: `field` is the Job's field of one's own paths, "" where a starter or module brings it."""

    field: str
    name: str
    path: str
    is_feeder: bool


class RungsPage(QWidget):
    """Choose a path above, type below. Enter keeps it."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session = session
        self._lines: tuple[PathLine, ...] = ()
        self._made: tuple[PathLine, ...] = ()
        self._chosen: PathLine | None = None
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Circuit paths"))
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.currentItemChanged.connect(self._on_list_current_changed)
        self.editor = PathEditor(session, theme.colour("danger"))
        self.editor.setAccessibleName(tr("Path"))
        self.editor.committed.connect(self._on_editor_committed)
        self.editor.faults_changed.connect(self._on_editor_faults_changed)
        self._heading = label("", bold=True)
        self._said = label("", role="quiet")
        self.new_rung = button(tr("New rung"))
        self.new_rung.clicked.connect(lambda: self._begin(is_feeder=False))
        self.new_feeder = button(tr("New feeder"))
        self.new_feeder.clicked.connect(lambda: self._begin(is_feeder=True))
        self.keep = button(tr("Keep"), role="primary")
        self.keep.clicked.connect(self.editor.commit)
        self.drop = button(tr("Remove"))
        self.drop.clicked.connect(self._on_drop_clicked)
        self._lay_out()

    def _lay_out(self) -> None:
        tools = QHBoxLayout()
        for tool in (self.new_rung, self.new_feeder, self.drop):
            tools.addWidget(tool)
        foot = QHBoxLayout()
        foot.addWidget(self._said, 1)
        foot.addWidget(self.keep)
        column = QVBoxLayout()
        column.setContentsMargins(14, 10, 14, 10)
        column.addWidget(self._heading)
        column.addWidget(self.editor)
        column.addLayout(foot)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 8, 0)
        layout.addLayout(tools)
        layout.addWidget(self.list, 1)
        layout.addWidget(card(column))

    def show_job(self, job: Job) -> None:
        """List the paths of the Job; the chosen one stays."""
        own = [PathLine(field="rungs", name=r.name, path=r.path, is_feeder=False) for r in job.rungs]
        own += [PathLine(field="feeders", name=f.name, path=f.path, is_feeder=True) for f in job.feeders]
        self._fill((*own, *self._made))

    def show_plan(self, plan: Plan) -> None:
        """List what starters and modules bring below one's own."""
        self._made = tuple(
            PathLine(field="", name=p.key, path=write_path(p.items), is_feeder=p.is_power)
            for p in plan.circuit.paths
            if p.owner is not None
        )
        self.show_job(plan.job)

    def _fill(self, lines: tuple[PathLine, ...]) -> None:
        if lines == self._lines:
            return
        self._lines = lines
        key = (self._chosen.field, self._chosen.name) if self._chosen is not None else None
        self.list.blockSignals(True)
        self.list.clear()
        for line in lines:
            head = line.name if line.field else f"{line.name}   {tr('brought by')} {line.name.partition('/')[0]}"
            item = QListWidgetItem(f"{head}\n{line.path}")
            item.setData(Qt.ItemDataRole.UserRole, line)
            self.list.addItem(item)
            if (line.field, line.name) == key:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        chosen = next((line for line in lines if (line.field, line.name) == key), None)
        if chosen is not None:
            self._choose(chosen)
        elif not self.editor.toPlainText():
            self._begin(is_feeder=False)

    def _choose(self, line: PathLine) -> None:
        self._chosen = line
        owner = line.name.partition("/")[0]
        self._heading.setText(line.name if line.field else f"{line.name}   {tr('comes from')} {owner}")
        self.editor.setReadOnly(not line.field)
        self.editor.show_path(line.path, is_feeder=line.is_feeder)
        self.keep.setEnabled(bool(line.field))
        self.drop.setEnabled(bool(line.field))

    def _begin(self, *, is_feeder: bool) -> None:
        self._chosen = None
        self.list.blockSignals(True)
        self.list.setCurrentRow(-1)
        self.list.blockSignals(False)
        self._heading.setText(tr("New feeder") if is_feeder else tr("New rung"))
        self.editor.setReadOnly(False)
        self.editor.setPlaceholderText("L1 L2 L3 > Q7 > K7 > M7" if is_feeder else "C1+ > B3:no > K9:coil > C1-")
        self.editor.show_path("", is_feeder=is_feeder)
        self.keep.setEnabled(True)
        self.drop.setEnabled(False)

    def _on_list_current_changed(self, item: QListWidgetItem | None, _: object) -> None:
        if item is not None:
            self._choose(item.data(Qt.ItemDataRole.UserRole))

    def _on_editor_faults_changed(self, faults: tuple[PathMark, ...]) -> None:
        is_own = self._chosen is None or bool(self._chosen.field)
        words = tr("Enter keeps it, Ctrl+Space lists what may follow")
        foreign = tr("To change it, turn the starter into plain circuit: Actions on its card")
        say_of_path(self._said, faults if is_own else (), words if is_own else foreign)

    def _on_editor_committed(self, text: str) -> None:
        line, is_feeder = self._chosen, self.editor.is_feeder
        if line is None:
            keep_path(self._session, "", "", text, is_feeder=is_feeder)
            self.editor.show_path("", is_feeder=is_feeder)
            self.editor.clear()
        elif line.field:
            keep_path(self._session, line.field, line.name, text, is_feeder=is_feeder)

    def _on_drop_clicked(self) -> None:
        line = self._chosen
        if line is not None and line.field:
            self._chosen = None
            drop_path(self._session, line.field, line.name)
