"""Owns the editor of a circuit path: completion while it is typed, and what is wrong marked at its place."""

from functools import partial

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QColor, QKeyEvent, QTextCharFormat, QTextCursor
from PySide6.QtWidgets import QCompleter, QLabel, QListView, QPlainTextEdit, QTextEdit

from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.dressing import dress
from riktig.app.widgets import set_state
from riktig.job.completion import PathMark, complete_path, mark_faults
from riktig.job.edits import add_feeder, add_rung, change_member, remove

_SHOW_AFTER_MS = 60


def keep_path(session: Session, field: str, name: str, path: str, *, is_feeder: bool) -> None:
    """Send a path to the Job: as a new row where the name is empty, else as that of the row, unless it is that already."""
    if not name:
        session.apply(
            partial(add_feeder if is_feeder else add_rung, path=path), "add a feeder" if is_feeder else "add a rung"
        )
    elif path != path_of(session, field, name):
        session.apply(partial(change_member, field=field, name=name, path=path), f"{name}: path")


def drop_path(session: Session, field: str, name: str) -> None:
    """Take a row of one's own out of the Job."""
    session.apply(partial(remove, field=field, name=name), f"without {name}")


def path_of(session: Session, field: str, name: str) -> str:
    """Return the path of a row of one's own as the Job has it, empty where there is none."""
    rows = getattr(session.job, field) if session.job is not None and field else ()
    return next((row.path for row in rows if row.name == name), "")


def say_of_path(said: QLabel, faults: tuple[PathMark, ...], words: str) -> None:
    """Say the first fault of a path, else some words."""
    said.setText(f"{tr('column')} {faults[0].start + 1}: {faults[0].message}" if faults else words)
    set_state(said, "danger" if faults else "quiet")


class PathEditor(QPlainTextEdit):
    """One path. Enter sends it, Escape takes it back; a list of what may follow opens while typing, or by Ctrl+Space."""

    committed = Signal(str)
    faults_changed = Signal(object)

    def __init__(self, session: Session, danger: QColor) -> None:
        super().__init__()
        self._session = session
        self._danger = danger
        self._stored = ""
        self.is_feeder = False
        self.faults: tuple[PathMark, ...] = ()
        self.setObjectName("mono")
        self.setTabChangesFocus(True)
        self.setFixedHeight(4 * self.fontMetrics().lineSpacing() + 14)
        self._completer = QCompleter([], self)
        self._completer.setWidget(self)
        self._completer.setCompletionMode(QCompleter.CompletionMode.UnfilteredPopupCompletion)
        self._completer.activated.connect(self._on_completer_activated)
        self._popup = QListView()
        dress(self._popup)
        self._completer.setPopup(self._popup)
        self._words: tuple[str, ...] = ()
        self._start = 0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_SHOW_AFTER_MS)
        self._timer.timeout.connect(self._offer)
        self.textChanged.connect(self._on_text_changed)

    def show_path(self, path: str, *, is_feeder: bool) -> None:
        """Show a path as it stands in the Job; one that is being typed stays."""
        self.is_feeder = is_feeder
        if path != self._stored or not self.hasFocus():
            self._stored = path
            self.setPlainText(path)
        self._on_text_changed()

    def _on_text_changed(self) -> None:
        job, text = self._session.job, self.toPlainText()
        self.faults = mark_faults(text, job, is_feeder=self.is_feeder) if job is not None and text.strip() else ()
        marks = []
        for fault in self.faults:
            mark = QTextEdit.ExtraSelection()
            cursor = self.textCursor()
            cursor.setPosition(min(fault.start, len(text)))
            cursor.setPosition(min(fault.end, len(text)), QTextCursor.MoveMode.KeepAnchor)
            look = QTextCharFormat()
            look.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
            look.setUnderlineColor(self._danger)
            look.setForeground(self._danger)
            mark.cursor, mark.format = cursor, look
            marks.append(mark)
        self.setExtraSelections(marks)
        self.faults_changed.emit(self.faults)

    def _offer(self) -> None:
        job = self._session.job
        if job is None or not self.isVisible() or self.isReadOnly():
            return
        cursor = self.textCursor().position()
        found = complete_path(self.toPlainText(), cursor, job)
        typed = self.toPlainText()[found.start : cursor]
        self._words, self._start = found.words, found.start
        popup = self._popup
        if not found.words or found.words == (typed,):
            popup.hide()
            return
        model = self._completer.model()
        model.setStringList(list(found.words))  # type: ignore[attr-defined]
        rect = self.cursorRect()
        rect.setWidth(popup.sizeHintForColumn(0) + 40)
        self._completer.complete(rect)
        popup.setCurrentIndex(self._completer.completionModel().index(0, 0))

    def _on_completer_activated(self, word: str) -> None:
        cursor = self.textCursor()
        cursor.setPosition(self._start, QTextCursor.MoveMode.KeepAnchor)
        cursor.insertText(word)
        self.setTextCursor(cursor)
        if word.endswith("."):
            self._timer.start()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        is_enter = event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}
        if self._popup.isVisible() and (is_enter or event.key() in {Qt.Key.Key_Escape, Qt.Key.Key_Tab}):
            event.ignore()
            return
        if is_enter:
            self.commit()
        elif event.key() == Qt.Key.Key_Escape:
            self.setPlainText(self._stored)
        elif event.key() == Qt.Key.Key_Space and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._offer()
        else:
            super().keyPressEvent(event)
            if event.text().strip():
                self._timer.start()

    def close_list(self) -> None:
        """Close the list of what may follow, also one that was about to open."""
        self._timer.stop()
        self._popup.hide()

    def commit(self) -> None:
        """Send what is typed, unless something is wrong with it."""
        self.close_list()
        text = " ".join(self.toPlainText().split())
        if text and not self.faults:
            self.committed.emit(text)
