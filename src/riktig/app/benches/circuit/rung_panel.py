"""Owns writing a rung beside its drawing: typed, or picked from the drawing with keys. Must not draw."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QTextCursor
from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout

from riktig.app.benches.path_editor import PathEditor, drop_path, keep_path, path_of, say_of_path
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, label
from riktig.job.path_edits import Gap, element_at, open_parallel, open_series, swap_sort, take_out
from riktig.job.paths import PathError, write_path
from riktig.plan.plan import Plan

PREVIEW_MS = 150


@dataclass(frozen=True, slots=True, kw_only=True)
class Chosen:
    """What is being written: the Job's field and name of a row of one's own, both empty for what a starter brings; the column of
    the element that was picked, 0 for none.
    """

    field: str
    name: str
    column: int


class RungPanel(QFrame):
    """One path: what it is, its text, and what the keys do. The drawing follows while it is typed."""

    draft_changed = Signal(object)
    """A `Draft` to draw, None to draw what is kept."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session = session
        self._plan: Plan | None = None
        self._chosen: Chosen | None = None
        self._stored = ""
        self.editor = PathEditor(session, theme.colour("danger"))
        self.editor.setAccessibleName(tr("Path"))
        self.editor.setFixedHeight(2 * self.editor.fontMetrics().lineSpacing() + 14)
        self.editor.committed.connect(self._on_editor_committed)
        self.editor.faults_changed.connect(lambda _: self._on_editor_changed())
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PREVIEW_MS)
        self._timer.timeout.connect(self._on_timer_timeout)
        self.heading = label("", bold=True)
        self.heading.setWordWrap(False)
        self.said = label("", role="quiet")
        self.series = button(tr("In series  S"), role="chip")
        self.parallel = button(tr("In parallel  P"), role="chip")
        self.swap = button(tr("Make / break  N"), role="chip")
        self.out = button(tr("Take out  Del"), role="chip")
        self.keep = button(tr("Keep  Enter"), role="chip")
        self.new_rung = button(tr("New rung"), role="chip")
        self.drop = button(tr("Remove rung"), role="chip")
        for made, act in (
            (self.series, self.put_in_series), (self.parallel, self.put_in_parallel), (self.swap, self.swap_element),
            (self.out, self.take_element_out), (self.keep, self.editor.commit), (self.new_rung, self.begin), (self.drop, self._remove),
        ):  # fmt: skip
            made.clicked.connect(lambda _=False, act=act: act())
        self._lay_out()
        self.begin()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self.heading)
        head.addStretch(1)
        for tool in (self.series, self.parallel, self.swap, self.out, self.drop, self.new_rung, self.keep):
            head.addWidget(tool)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 6, 10, 6)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self.editor)
        column.addWidget(self.said)

    # -- what is shown

    def show_plan(self, plan: Plan) -> None:
        """Take over what follows from the Job now; the row that is written stays."""
        self._plan = plan
        chosen = self._chosen
        if chosen is not None and chosen.name:
            self._show(replace(chosen, column=chosen.column if self._is_still_there(chosen) else 0))

    def _is_still_there(self, chosen: Chosen) -> bool:
        """Return whether the picked element stands where it stood; otherwise it must be picked again."""
        text, is_feeder = path_of(self._session, chosen.field, chosen.name), self.editor.is_feeder
        try:
            before, now = (element_at(path, chosen.column, is_feeder=is_feeder) for path in (self._stored, text))
        except (KeyError, PathError):
            return False
        return before.device == now.device

    def begin(self) -> None:
        """Begin a new rung."""
        self._chosen = Chosen(field="rungs", name="", column=0)
        self._stored = ""
        self.heading.setText(tr("New rung"))
        self.editor.setReadOnly(False)
        self.editor.setPlaceholderText("C1+ > B3:no > K9:coil > C1-")
        self.editor.show_path("", is_feeder=False)
        self._show_tools()

    def choose(self, spot: str) -> None:
        """Show the path in which a use stands; while the caret waits in a gap this is not asked for, see `is_waiting`."""
        plan = self._plan
        use = next((u for u in plan.uses if u.key == spot), None) if plan is not None else None
        if use is None:
            return
        self._show(Chosen(field=self._field_of(use.path), name=use.path, column=use.ref.column))

    def _field_of(self, name: str) -> str:
        job = self._session.job
        if job is None:
            return ""
        if any(row.name == name for row in job.rungs):
            return "rungs"
        return "feeders" if any(row.name == name for row in job.feeders) else ""

    def _show(self, chosen: Chosen) -> None:
        assert self._plan is not None
        path = next((p for p in self._plan.circuit.paths if p.key == chosen.name), None)
        if path is None:
            self.begin()
            return
        self._chosen = chosen
        self._stored = path_of(self._session, chosen.field, chosen.name) or write_path(path.items)
        owner = chosen.name.partition("/")[0]
        self.heading.setText(chosen.name if chosen.field else f"{chosen.name}   {tr('comes from')} {owner}")
        self.editor.setReadOnly(not chosen.field)
        self.editor.show_path(self._stored, is_feeder=path.is_power)
        self._show_tools()

    def _show_tools(self) -> None:
        chosen = self._chosen
        is_own = chosen is not None and bool(chosen.field)
        for tool in (self.series, self.parallel, self.swap, self.out):
            tool.setEnabled(is_own and chosen is not None and chosen.column > 0)
        self.keep.setEnabled(is_own)
        self.drop.setEnabled(is_own and bool(chosen and chosen.name))
        self._say()

    def _say(self) -> None:
        is_own = self._chosen is not None and bool(self._chosen.field)
        faults = self.editor.faults if is_own and not self.is_waiting else ()
        if not is_own:
            words = tr("To change it, turn the starter into plain circuit: Actions on its card in the Brief")
        elif self.is_waiting:
            words = tr(
                "Click a coil, contact or button in the drawing, or type what goes in; Shift takes a break contact"
            )
        else:
            words = tr("The drawing follows while you type. Enter keeps it, Escape takes it back")
        say_of_path(self.said, faults, words)

    # -- picking

    @property
    def is_waiting(self) -> bool:
        """Whether the caret stands where an element is missing, so that one may be picked from the drawing."""
        if self.editor.isReadOnly() or self._chosen is None:
            return False
        text, caret = self.editor.toPlainText(), self.editor.textCursor().position()
        before, behind = text[:caret].rstrip(), text[caret:].lstrip()
        return bool(before) and before[-1] in ">|(" and (not behind or behind[0] in ">|)")

    def put_element(self, element: str) -> None:
        """Put an element where the caret waits."""
        self.editor.close_list()
        self.editor.textCursor().insertText(element)
        self.editor.setFocus()

    def put_in_series(self) -> None:
        """Open a gap behind the picked element."""
        self._open(open_series)

    def put_in_parallel(self) -> None:
        """Open a gap beside the picked element."""
        self._open(open_parallel)

    def _open(self, opener: Callable[..., Gap]) -> None:
        chosen = self._chosen
        if chosen is None or not chosen.field or not chosen.column:
            return
        gap = opener(self._stored, chosen.column, is_feeder=self.editor.is_feeder)
        self.editor.setPlainText(gap.text)
        cursor = self.editor.textCursor()
        cursor.setPosition(gap.caret, QTextCursor.MoveMode.MoveAnchor)
        self.editor.setTextCursor(cursor)
        self.editor.setFocus()
        self._say()

    def swap_element(self) -> None:
        """Turn the picked make contact into a break contact, or back, and keep that."""
        self._keep_changed(swap_sort)

    def take_element_out(self) -> None:
        """Take the picked element out, and keep that."""
        self._keep_changed(take_out)

    def _keep_changed(self, change: Callable[..., str]) -> None:
        chosen = self._chosen
        if chosen is None or not chosen.field or not chosen.column:
            return
        try:
            text = change(self._stored, chosen.column, is_feeder=self.editor.is_feeder)
        except PathError as error:
            self.said.setText(f"{tr('the path would not stand')}: {error.message}")
            return
        self._on_editor_committed(text)

    # -- typing

    def _on_editor_changed(self) -> None:
        self._say()
        self._timer.start()

    def _on_timer_timeout(self) -> None:
        from riktig.drawings.preview import Draft

        chosen, text = self._chosen, " ".join(self.editor.toPlainText().split())
        if chosen is None or not chosen.field or self.editor.faults or text in {"", self._stored}:
            self.draft_changed.emit(None)
            return
        self.draft_changed.emit(Draft(name=chosen.name, path=text, is_feeder=self.editor.is_feeder))

    def _on_editor_committed(self, text: str) -> None:
        chosen = self._chosen
        if chosen is None or not chosen.field:
            return
        keep_path(self._session, chosen.field, chosen.name, text, is_feeder=self.editor.is_feeder)
        if not chosen.name:
            self.begin()
            self.editor.clear()

    def _remove(self) -> None:
        chosen = self._chosen
        if chosen is not None and chosen.field and chosen.name:
            drop_path(self._session, chosen.field, chosen.name)
            self.begin()
