"""Owns the window: day sheet, bench, margin, top bar, and how they are wired to session and hub."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QAction, QCloseEvent, QFocusEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from riktig.app.benches.bench import Bench
from riktig.app.benches.progress_line import ProgressLine
from riktig.app.day_sheet import STAGES, DaySheet, status_words
from riktig.app.files_menu import FilesMenu
from riktig.app.hub import Hub
from riktig.app.margin import Margin
from riktig.app.rescue import offer_rescue
from riktig.app.session import Session
from riktig.app.start import StartPage
from riktig.app.text import tr
from riktig.app.theme.dressing import Dressing, dress
from riktig.app.theme.theme import Theme, Variant, apply_theme, load_theme
from riktig.app.top_bar import TopBar
from riktig.app.trail import Guide
from riktig.app.widgets import label
from riktig.desk.bundle import Bundle
from riktig.desk.helper import Helper

if TYPE_CHECKING:
    from riktig.job.model import Job
    from riktig.plan.answers.lookup import Lookup

_PARTS = ("theme", "bundle", "sheets", "findings", "progress")


def _make_bench(key: str, session: Session, hub: Hub, theme: Theme) -> Bench:
    """Return a bench; its module is loaded when it is first shown."""
    if key == "brief":
        from riktig.app.benches.brief.bench import BriefBench as Made
    elif key == "circuit":
        from riktig.app.benches.circuit.bench import CircuitBench as Made  # type: ignore[assignment]
    elif key == "plate":
        from riktig.app.benches.plate.bench import PlateBench as Made  # type: ignore[assignment]
    elif key == "door":
        from riktig.app.benches.door.bench import DoorBench as Made  # type: ignore[assignment]
    elif key == "wires":
        from riktig.app.benches.wires.bench import WiresBench as Made  # type: ignore[assignment]
    elif key == "terminals":
        from riktig.app.benches.terminals.bench import TerminalsBench as Made  # type: ignore[assignment]
    elif key == "labels":
        from riktig.app.benches.labels.bench import LabelsBench as Made  # type: ignore[assignment]
    elif key == "compliance":
        from riktig.app.benches.compliance.bench import ComplianceBench as Made  # type: ignore[assignment]
    elif key == "build":
        from riktig.app.benches.build.bench import BuildBench as Made  # type: ignore[assignment]
    else:
        from riktig.app.benches.measure.bench import MeasureBench as Made  # type: ignore[assignment]
    return Made(session, hub, theme)


class Shell(QMainWindow):
    """The main window."""

    def __init__(self, variant: Variant = Variant.LIGHT, helper: Helper | None = None) -> None:
        super().__init__()
        self.setWindowTitle("Riktig")
        self.resize(1280, 800)
        self.hub = Hub(self)
        self.session = Session(helper, self)
        self.theme = load_theme(variant)
        self._lookup: Lookup | None = None
        self._benches: dict[str, Bench] = {}
        self._behind: dict[str, set[str]] = {}
        self._stage = "brief"
        self._is_leaving = False
        self.top = TopBar()
        self.message = label("", role="danger")
        self.message.hide()
        self.writing = ProgressLine(tr("Writing the documents"))
        self.day_sheet = DaySheet()
        self.margin = Margin(self.session, self.hub)
        self.start = StartPage()
        self.stack = QStackedWidget()
        self.stack.addWidget(self.start)
        self.files = FilesMenu(self, self.session)
        self.guide = Guide(self.hub, self.show_stage, self.bench, lambda: self._stage)
        self._build_menus()
        self._lay_out()
        self._dressing = Dressing(self)
        self._dressing.rested.connect(self._dress_next, Qt.ConnectionType.QueuedConnection)
        self._always = (self.menuBar(), self.top, self.message, self.writing, self.day_sheet, self.margin, self.start)
        dress(*self._always)
        self._wire()
        self._show_open(False)

    # -- building

    def _lay_out(self) -> None:
        middle = QVBoxLayout()
        middle.setContentsMargins(4, 2, 4, 2)
        middle.addWidget(self.message)
        middle.addWidget(self.writing)
        middle.addWidget(self.stack, 1)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.day_sheet)
        row.addLayout(middle, 1)
        row.addWidget(self.margin)
        whole = QVBoxLayout()
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.top)
        whole.addLayout(row, 1)
        centre = QWidget()
        centre.setObjectName("centre")
        centre.setLayout(whole)
        self.setCentralWidget(centre)

    def _build_menus(self) -> None:
        self.files.fill(self.menuBar().addMenu(tr("&File")))
        edit = self.menuBar().addMenu(tr("&Edit"))
        self.undo_action = _action(self, edit, tr("&Undo"), QKeySequence.StandardKey.Undo, self.session.undo)
        self.redo_action = _action(self, edit, tr("&Redo"), QKeySequence("Ctrl+Shift+Z"), self.session.redo)
        _action(self, edit, tr("&Find"), QKeySequence.StandardKey.Find, self.top.focus_find)
        _action(self, edit, tr("Select &nothing"), QKeySequence("Esc"), lambda: self.hub.select(""))
        view = self.menuBar().addMenu(tr("&View"))
        for stage in STAGES:
            keys = QKeySequence(f"Alt+{stage.shortcut}")
            _action(self, view, tr(stage.name), keys, partial(self.show_stage, stage.key))
        view.addSeparator()
        self.back_action = _action(self, view, tr("Go &back"), QKeySequence("Alt+Left"), self.guide.back)
        self.back_action.setEnabled(False)
        _action(self, view, tr("Light or &dark"), QKeySequence("Ctrl+D"), self.toggle_theme)

    def _wire(self) -> None:
        """Connect everything, in this one place."""
        session, hub = self.session, self.hub
        self.day_sheet.chosen.connect(self.show_stage)
        hub.selection_changed.connect(self._on_hub_selection_changed)
        hub.bench_requested.connect(self.show_stage)
        hub.hop_requested.connect(self.guide.hop)
        self.guide.changed.connect(self.back_action.setEnabled)
        self.guide.changed.connect(self.top.back.setEnabled)
        hub.place_requested.connect(self._on_hub_place_requested)
        hub.message_posted.connect(self.show_message)
        session.job_changed.connect(self._on_session_job_changed)
        session.bundle_changed.connect(self._on_session_bundle_changed)
        session.early_found.connect(self._on_session_early_found)
        session.findings_changed.connect(partial(self._on_session_part_changed, "findings"))
        session.scripts.played.connect(partial(self._on_session_part_changed, "scripts"))
        session.sheets_changed.connect(partial(self._on_session_part_changed, "sheets"))
        session.record.progress_changed.connect(partial(self._on_session_part_changed, "progress"))
        session.stale_changed.connect(self._on_session_stale_changed)
        session.kept.connect(self._on_session_kept)
        session.refused.connect(self._on_session_refused)
        session.taken_over.connect(
            lambda: self.show_message(tr("The other window has closed this job: it can be changed here now."))
        )
        session.failed.connect(self._on_session_failed)
        self.files.refused.connect(self.show_message)
        self.files.damaged.connect(lambda path: offer_rescue(self, self.files, path))
        self.files.told.connect(self.show_message)
        self.files.export_told.connect(self.writing.show_share)
        self.writing.stopped.connect(session.long.stop)
        self.files.opened.connect(self._on_files_opened)
        self.files.leaving.connect(lambda: finish_typing(self))
        self.top.back.clicked.connect(lambda _=False: self.guide.back())
        self.top.undo.clicked.connect(lambda _=False: session.undo())
        self.top.redo.clicked.connect(lambda _=False: session.redo())
        self.top.found.connect(hub.select)
        self.top.missed.connect(self.show_message)
        self.top.person.currentTextChanged.connect(self._on_person_changed)
        self.top.unit.currentTextChanged.connect(session.record.set_unit)
        self.start.new_requested.connect(self.files.new_job)
        self.start.open_requested.connect(self.files.open_job)
        self.start.import_requested.connect(self.files.import_brief)
        self.start.demo_requested.connect(self.files.open_demo)
        self.start.recent_requested.connect(lambda path: self.files.open_path(Path(path)))

    # -- benches

    def _show_open(self, is_open: bool) -> None:
        for widget in (self.day_sheet, self.margin, self.top):
            widget.setVisible(is_open)
        if not is_open:
            self.start.show_recent(self.files.remembered.recent())
            self.stack.setCurrentWidget(self.start)

    def bench(self, key: str) -> Bench:
        """Return a bench, made when it is first asked for."""
        if key not in self._benches:
            self._benches[key] = _make_bench(key, self.session, self.hub, self.theme)
            self._behind[key] = set(_PARTS)
            self.stack.addWidget(self._benches[key])
        self._catch_up(key)
        return self._benches[key]

    def _catch_up(self, key: str, *, is_look_alone: bool = False) -> None:
        """Show on a bench what changed while it was not looked at."""
        made, behind, session = self._benches[key], self._behind[key], self.session
        if "theme" in behind:
            behind.discard("theme")
            made.show_theme(self.theme)
            self._dressing.dress([made])
        if is_look_alone or session.bundle is None or self._lookup is None:
            return
        if "bundle" in behind:
            made.show_bundle(session.bundle, self._lookup)
        if "findings" in behind:
            made.show_findings()
        if "sheets" in behind:
            made.show_sheets(session.sheets)
        if "progress" in behind and session.record.progress is not None:
            made.show_progress(session.record.progress)
        if behind:
            made.show_selection(self.hub.selection, self._lookup)
        behind.clear()

    def _dress_next(self) -> None:
        """Give one bench the present look: the open one first, then those behind it, so that opening them does not take twice as long."""
        waiting = (key for key, behind in self._behind.items() if "theme" in behind)
        key = min(waiting, key=lambda key: key != self._stage, default=None)
        if key is not None:
            self._catch_up(key, is_look_alone=True)

    def _note_change(self, part: str) -> None:
        """Bring the open bench up to date at once, the others when they are opened."""
        for behind in self._behind.values():
            behind.add(part)
        if self._stage in self._benches:
            self._catch_up(self._stage)

    def show_stage(self, key: str) -> None:
        """Go to a stage."""
        if self.session.file is None:
            return
        self._stage = key
        made = self.bench(key)
        self.session.wants_early = made.shows_early
        self.stack.setCurrentWidget(made)
        self.margin.show_beside(made.beside)
        self.day_sheet.choose(key)
        made.setFocus()

    def _on_files_opened(self) -> None:
        self._lookup = None
        self.margin.forget()
        self.show_message("")
        self.hub.select("")
        self._show_open(True)
        self.top.show_units(self.session.record.units(), self.session.record.unit)
        self.top.kept.setText("")
        self.show_stage(self._stage)
        if self.session.is_read_only:
            can = tr("this one follows; steps can be ticked and measured here too")
            words = can if self.session.record.may_record else tr("this one looks on and follows")
            self.show_message(f"{tr('This job is open in another window')}: {words}.")

    # -- what the session says

    def _on_session_job_changed(self, job: "Job") -> None:
        name = self.session.file.path.name if self.session.file is not None else ""
        revision = f"  ·  Rev {job.revision}" if job.revision else ""
        self.top.title.setText(f"{job.info.number}  {job.info.title}{revision}")
        self.setWindowTitle(f"{name} – Riktig" if name else "Riktig")
        back, forth = self.session.file.gestures() if self.session.file is not None else (None, None)
        for action, widget, words, gesture in (
            (self.undo_action, self.top.undo, tr("Undo"), back),
            (self.redo_action, self.top.redo, tr("Redo"), forth),
        ):
            action.setEnabled(gesture is not None)
            widget.setEnabled(gesture is not None)
            widget.setToolTip(f"{words}: {gesture}" if gesture else words)

    def _on_session_bundle_changed(self, bundle: Bundle) -> None:
        from riktig.plan.answers.lookup import Lookup

        self._lookup = Lookup(bundle.plan)
        self.top.offer(self._lookup.find)
        self.margin.show_job(self._lookup)
        self._note_change("bundle")

    def _on_session_early_found(self, bundle: Bundle) -> None:
        if self._stage in self._benches:
            self._benches[self._stage].show_early(bundle)

    def _on_session_stale_changed(self, parts: frozenset[str]) -> None:
        self.top.stale.setVisible(bool(parts))
        self.day_sheet.mark_stale(parts)

    def _on_session_part_changed(self, part: str, _: object) -> None:
        """Show what follows where it is shown: findings in the margin, sheets and progress on the benches, a line of each on the left."""
        if part == "findings":
            self.margin.show_findings()
        if part != "scripts":
            self._note_change(part)
        session = self.session
        if session.bundle is not None and session.record.progress is not None:
            self.day_sheet.show_status(
                status_words(
                    session.bundle,
                    session.findings,
                    session.record.progress,
                    session.scripts.passing,
                    session.record.printed,
                )
            )

    def _on_session_kept(self, time: str) -> None:
        self.top.show_kept(time)
        self.message.setVisible(self.message.isVisible() and self.session.is_read_only)
        if self.session.job is not None:
            self._on_session_job_changed(self.session.job)

    def _on_session_refused(self, words: str) -> None:
        self._is_leaving = False
        self.show_message(words)

    def _on_session_failed(self, report: str) -> None:
        self._is_leaving = False
        from riktig.app.report import show_report

        show_report(self, report)

    # -- selection and find

    def _on_hub_selection_changed(self, ref: str) -> None:
        if self._lookup is None:
            return
        self.margin.show_selection(ref, self._lookup)
        for key, made in self._benches.items():
            if key == self._stage:
                made.show_selection(ref, self._lookup)
            else:
                self._behind[key].add("selection")

    def _on_hub_place_requested(self, place: str) -> None:
        if self._lookup is not None and self._lookup.describe(place) is not None:
            self.hub.select(place)
            return
        self.show_stage("brief")
        self.bench("brief").show_place(place)

    def _on_person_changed(self, person: str) -> None:
        self.session.record.person = person.strip()
        self.files.remembered.person = person.strip()

    def show_message(self, text: str) -> None:
        """Show one sentence above the bench until something is kept."""
        self.message.setText(text)
        self.message.setVisible(bool(text))

    # -- look and end

    def toggle_theme(self) -> None:
        """Switch between light and dark."""
        dark = self.theme.variant is Variant.LIGHT
        self.theme = load_theme(Variant.DARK if dark else Variant.LIGHT)
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        apply_theme(application, self.theme)
        for behind in self._behind.values():
            behind.add("theme")
        self._dressing.dress(self._always)

    def closeEvent(self, event: QCloseEvent) -> None:
        """Keep the change that is under way first, and stay where that cannot be kept; who closes again leaves without it."""
        finish_typing(self)
        if self.session.is_keeping and not self._is_leaving:
            self._is_leaving = True
            event.ignore()
            self.show_message(tr("Keeping the last change, then closing. Close again to leave without it."))
            self.session.long.stop()
            self.session.when_idle(lambda: self.close() if self._is_leaving else False)
            return
        self.session.close()
        super().closeEvent(event)


def finish_typing(window: QWidget) -> None:
    """Send what is typed into a field and not sent yet: a field sends when it loses the focus."""
    field = window.focusWidget()
    if field is not None and field.hasFocus():
        field.clearFocus()
    elif field is not None:
        QApplication.sendEvent(field, QFocusEvent(QEvent.Type.FocusOut))


def _action(
    window: QMainWindow, menu: QMenu, words: str, keys: QKeySequence | QKeySequence.StandardKey, act: Callable[[], None]
) -> QAction:
    action = QAction(words, window)
    action.setShortcut(keys)
    action.triggered.connect(lambda _=False: act())
    menu.addAction(action)
    return action
