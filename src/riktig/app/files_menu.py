"""Owns the File menu: new, open, recent, copy, brief in and out, revisions, export. Must not know benches."""

from collections.abc import Callable
from functools import partial
from importlib.resources import files
from pathlib import Path
from typing import TYPE_CHECKING

from platformdirs import user_data_dir
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMainWindow, QMenu

from riktig.app.remembered import Remembered
from riktig.app.session import Session, save_copy
from riktig.app.text import tr
from riktig.desk.errands import write_documents
from riktig.files.job_access import JobFileDamaged
from riktig.files.job_file import JobFile
from riktig.refusal import Refusal, sentence_of

if TYPE_CHECKING:
    from riktig.files.salvage import Salvage
    from riktig.job.model import Job

_FILTER = "Riktig jobs (*.riktig)"
_NEW_BRIEF = """brief = 1
[job]
number = "{number}"
title = "New panel"
[supply]
system = "3ph+n"
volts = 400
[control.C1]
kind = "transformer"
from = "L1 L2"
volts = 230
"""


class FilesMenu(QObject):
    """Opens and makes job files, and tells when one is open."""

    opened = Signal()
    refused = Signal(str)
    damaged = Signal(object)
    """A job file that could not be opened, by its path: some of it may be saved."""
    told = Signal(str)
    export_told = Signal(float)
    """Which share of the documents is written, 0 to 1."""
    leaving = Signal()
    """The present job is about to be left: what is typed and not sent yet should be sent."""

    def __init__(self, window: QMainWindow, session: Session) -> None:
        super().__init__(window)
        self._window = window
        self._session = session
        self.remembered = Remembered()
        self._needs_job: list[QAction] = []
        self._is_exporting = False
        session.long.told.connect(self._on_long_told)

    def fill(self, menu: QMenu) -> None:
        """Put the entries into the menu."""
        self._add(menu, tr("&New job…"), self.new_job, QKeySequence.StandardKey.New)
        self._add(menu, tr("&Open…"), self.open_job, QKeySequence.StandardKey.Open)
        self._recent_menu = menu.addMenu(tr("&Recent"))
        self._recent_menu.aboutToShow.connect(self._fill_recent)
        self._add(menu, tr("&Import a brief…"), self.import_brief)
        menu.addSeparator()
        self._add(menu, tr("Save a &copy…"), self.save_copy, needs_job=True)
        self._add(menu, tr("New from &this job…"), self.new_from_this, needs_job=True)
        self._add(menu, tr("Write the &brief…"), self.export_brief, needs_job=True)
        self._add(menu, tr("Issue a re&vision…"), self.issue_revision, needs_job=True)
        self._add(menu, tr("&Export documents…"), self.export, QKeySequence("Ctrl+E"), needs_job=True)
        menu.addSeparator()
        self._add(menu, tr("C&lose window"), self._window.close, QKeySequence("Ctrl+Q"))

    def _add(
        self,
        menu: QMenu,
        words: str,
        act: Callable[[], object],
        keys: QKeySequence | QKeySequence.StandardKey | None = None,
        *,
        needs_job: bool = False,
    ) -> None:
        action = QAction(words, self._window)
        if keys is not None:
            action.setShortcut(keys)
        action.triggered.connect(lambda _=False: act())
        if needs_job:
            action.setEnabled(False)
            self._needs_job.append(action)
        menu.addAction(action)

    # -- opening

    def open_path(self, path: Path) -> bool:
        """Open a job file once the last change to the present one is kept; return whether it is open now."""
        self.leaving.emit()
        current, words = self._session.file, ""
        if self._session.is_keeping and current is not None:
            self.told.emit(f"{tr('keeping the last change to')} {current.path.name}, {tr('then opening')} {path.name}")
        if self._session.long.stop() and current is not None:
            words = f"{current.path.name}: {tr('what was under way is stopped, the job stays as it was')}"
        opened: list[bool] = []
        self._session.when_idle(lambda: opened.append(self._open_now(path, words)))
        return opened == [True]

    def _open_now(self, path: Path, words: str) -> bool:
        current = self._session.file
        if current is not None and current.path.resolve() == path.resolve():
            self.opened.emit()
            return True
        if not self._attempt(lambda: self._session.open(JobFile.open(path))):
            return False
        self.remembered.add(path)
        for action in self._needs_job:
            action.setEnabled(True)
        self.opened.emit()
        if words:
            self.told.emit(words)
        return True

    def _make(self, path: Path, job: "Job") -> None:
        if self._attempt(lambda: JobFile.create(path, job).close()):
            self.open_path(path)

    def _attempt(self, action: Callable[[], object]) -> bool:
        """Return whether an action came to its end; what input, disk or memory refuse is said. The one edge of this menu."""
        try:
            action()
        except (Refusal, OSError, MemoryError) as error:
            self.refused.emit(sentence_of(error))
            if isinstance(error, JobFileDamaged):
                self.damaged.emit(error.path)
            return False
        return True

    def open_demo(self, world: str) -> None:
        """Open a demo; it is made from its brief the first time and kept after that."""
        folder = Path(user_data_dir("riktig"))
        if not self._attempt(lambda: folder.mkdir(parents=True, exist_ok=True)):
            return
        path = folder / f"demo-{world}.riktig"
        if not path.exists():
            from riktig.files.brief_reader import read_shipped

            text = files("riktig").joinpath("demos", f"{world}.toml").read_text(encoding="utf-8")
            self._make(path, read_shipped(text))
        else:
            self.open_path(path)

    def new_job(self) -> None:
        """Ask for a place and begin a job there."""
        from riktig.files.brief_reader import read_shipped

        path = self._ask_save(tr("New job"), _FILTER, ".riktig")
        if path is not None:
            self._make(path, read_shipped(_NEW_BRIEF.format(number=path.stem.replace('"', ""))))

    def open_job(self) -> None:
        """Ask for a job file and open it."""
        name, _ = QFileDialog.getOpenFileName(self._window, tr("Open a job"), "", _FILTER)
        if name:
            self.open_path(Path(name))

    def import_brief(self) -> None:
        """Ask for a brief and for the job file to make from it."""
        from riktig.files.brief_reader import read_brief

        name, _ = QFileDialog.getOpenFileName(self._window, tr("Import a brief"), "", "Briefs (*.toml)")
        jobs: list[Job] = []
        if not name or not self._attempt(lambda: jobs.append(read_brief(Path(name)))):
            return
        path = self._ask_save(tr("Job file to make"), _FILTER, ".riktig")
        if path is not None:
            self._make(path, jobs[0])

    # -- leaving

    def save_copy(self) -> None:
        """Copy the open job file, record and all."""
        path = self._ask_save(tr("Save a copy"), _FILTER, ".riktig")
        if path is not None and self._session.file is not None:
            self._session.when_idle(lambda: self._copy_now(path))

    def _copy_now(self, path: Path) -> None:
        if self._attempt(lambda: save_copy(self._session, path)):
            self.told.emit(f"{tr('copied to')} {path}")

    def new_from_this(self) -> None:
        """Begin a job with the decisions of this one, without its numbers, record and revision."""
        from riktig.job.edits import replace
        from riktig.job.ledger import Ledger
        from riktig.plan.settle import settle

        path = self._ask_save(tr("New from this job"), _FILTER, ".riktig")
        if path is not None and self._session.job is not None:
            self._make(path, settle(replace(self._session.job, ledger=Ledger(), revision=None)))

    def export_brief(self) -> None:
        """Write the job as a brief."""
        from riktig.files.brief_writer import save_brief

        path = self._ask_save(tr("Write the brief"), "Briefs (*.toml)", ".toml")
        job, file = self._session.job, self._session.file
        if path is None or job is None or file is None:
            return
        if self._attempt(lambda: save_brief(job, path, (file.path,))):
            self.told.emit(f"{tr('written to')} {path}")

    def issue_revision(self) -> None:
        """Ask for a name and issue the job under it."""
        words = tr("Name of the revision. Its numbers, terminals and places are frozen; later changes show as rework.")
        name, is_given = QInputDialog.getText(self._window, tr("Issue a revision"), words)
        if is_given and name.strip():
            self._session.issue(name.strip())

    def export(self) -> None:
        """Ask for a folder and write all documents there."""
        folder = QFileDialog.getExistingDirectory(self._window, tr("Folder for the documents"))
        if folder:
            self.export_to(Path(folder))

    def export_to(self, folder: Path) -> None:
        """Let the worker write all documents of the job as shown, once no edit is under way."""
        self._session.when_idle(lambda: self._export_now(folder))

    def _export_now(self, folder: Path) -> None:
        bundle, file = self._session.bundle, self._session.file
        if file is None:
            return
        if bundle is None or self._session.is_stale:
            self.refused.emit(tr("the documents are being computed: try again in a moment"))
            return
        self._is_exporting = True
        question = partial(write_documents, folder=folder, inputs=(file.path,))
        self._session.long.ask(question, partial(self._take_export, folder))

    def _take_export(self, folder: Path, answer: tuple[int, str] | None) -> None:
        if answer is None:
            self.told.emit(f"{tr('stopped: the documents that were written stand whole in')} {folder}")
        elif answer[1]:
            self.refused.emit(answer[1])
        else:
            self.told.emit(f"{answer[0]} {tr('documents written to')} {folder}")

    def _on_long_told(self, share: float) -> None:
        if self._is_exporting:
            self._is_exporting = share < 1
            self.export_told.emit(share)

    def save_salvage(self, found: "Salvage", name: str) -> None:
        """Ask for a place for what could be read of a damaged file, write it there and open it."""
        from riktig.files.salvage import write_salvage

        path = self._ask_save(f"{tr('Copy of what can be read of')} {name}", _FILTER, ".riktig")
        if path is not None and self._attempt(lambda: write_salvage(found, path)):
            self.open_path(path)

    def _ask_save(self, title: str, pattern: str, suffix: str) -> Path | None:
        name, _ = QFileDialog.getSaveFileName(self._window, title, "", pattern)
        if not name:
            return None
        return Path(name) if name.endswith(suffix) else Path(name + suffix)

    def _fill_recent(self) -> None:
        self._recent_menu.clear()
        for path in self.remembered.recent():
            action = self._recent_menu.addAction(path)
            action.triggered.connect(lambda _=False, p=path: self.open_path(Path(p)))
