"""Owns the window: day sheet, bench, margin, top bar, and how they are wired to session and hub."""

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtGui import QAction, QCloseEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QCompleter,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMainWindow,
    QMenu,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from riktig.app.benches.bench import Bench
from riktig.app.day_sheet import STAGES, DaySheet
from riktig.app.files_menu import FilesMenu
from riktig.app.hub import Hub
from riktig.app.margin import Margin
from riktig.app.session import Session
from riktig.app.start import StartPage
from riktig.app.text import tr
from riktig.app.theme.theme import Theme, Variant, apply_theme, load_theme
from riktig.app.widgets import button, label
from riktig.app.worker_process import Bundle, Helper

if TYPE_CHECKING:
    from riktig.drawings.display import Drawing
    from riktig.job.model import Job
    from riktig.plan.lookup import Lookup
    from riktig.record.progress import Progress

_PARTS = ("bundle", "sheets", "progress")


def _make_bench(key: str, session: Session, hub: Hub, theme: Theme) -> Bench:
    """Return a bench; its module is loaded when it is first shown."""
    if key == "brief":
        from riktig.app.benches.brief import BriefBench as Made
    elif key == "circuit":
        from riktig.app.benches.circuit import CircuitBench as Made  # type: ignore[assignment]
    elif key == "plate":
        from riktig.app.benches.plate import PlateBench as Made  # type: ignore[assignment]
    elif key == "wires":
        from riktig.app.benches.wires import WiresBench as Made  # type: ignore[assignment]
    elif key == "build":
        from riktig.app.benches.build import BuildBench as Made  # type: ignore[assignment]
    else:
        from riktig.app.benches.measure import MeasureBench as Made  # type: ignore[assignment]
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
        self._build_top_bar()
        self.day_sheet = DaySheet()
        self.margin = Margin(self.hub)
        self.start = StartPage()
        self.stack = QStackedWidget()
        self.stack.addWidget(self.start)
        self.files = FilesMenu(self, self.session)
        self._build_menus()
        self._lay_out()
        self._wire()
        self._show_open(False)

    # -- building

    def _build_top_bar(self) -> None:
        self.title = label("", bold=True, points=1)
        self.title.setWordWrap(False)
        self.find_box = QLineEdit()
        self.find_box.setPlaceholderText(tr("Find: tag, wire number, terminal, sheet.column  (Ctrl+F)"))
        self.find_box.setAccessibleName(tr("Find"))
        self.find_box.setClearButtonEnabled(True)
        self._find_words = QStringListModel(self)
        completer = QCompleter(self._find_words, self)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        self.find_box.setCompleter(completer)
        self.undo_button = button(tr("Undo"))
        self.redo_button = button(tr("Redo"))
        self.person = QComboBox()
        self.person.setEditable(True)
        self.person.setAccessibleName(tr("Person signed in"))
        self.person.setToolTip(tr("Who ticks and measures"))
        self.unit = QComboBox()
        self.unit.setEditable(True)
        self.unit.setAccessibleName(tr("Unit, serial number"))
        self.unit.setToolTip(tr("Which panel of this job is built: its serial number"))
        self.kept = label("", role="quiet")
        self.kept.setWordWrap(False)
        self.stale = label(tr("computing…"), role="attention")
        self.stale.setWordWrap(False)
        self.message = label("", role="danger")
        self.message.hide()

    def _lay_out(self) -> None:
        bar = QHBoxLayout()
        bar.setContentsMargins(12, 6, 12, 6)
        bar.addWidget(self.title)
        bar.addStretch(1)
        bar.addWidget(self.stale)
        bar.addWidget(self.find_box, 3)
        for widget in (self.undo_button, self.redo_button):
            bar.addWidget(widget)
        for words, box, width in ((tr("Person"), self.person, 100), (tr("Unit"), self.unit, 64)):
            bar.addWidget(QLabel(words))
            box.setFixedWidth(width)
            bar.addWidget(box)
        bar.addWidget(self.kept)
        self.top_bar = QFrame()
        self.top_bar.setObjectName("top-bar")
        self.top_bar.setLayout(bar)
        middle = QVBoxLayout()
        middle.setContentsMargins(4, 2, 4, 2)
        middle.addWidget(self.message)
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
        whole.addWidget(self.top_bar)
        whole.addLayout(row, 1)
        centre = QWidget()
        centre.setObjectName("centre")
        centre.setLayout(whole)
        self.setCentralWidget(centre)

    def _build_menus(self) -> None:
        self.files.fill(self.menuBar().addMenu(tr("&File")))
        edit = self.menuBar().addMenu(tr("&Edit"))
        self.undo_action = self._action(edit, tr("&Undo"), QKeySequence.StandardKey.Undo, self.session.undo)
        self.redo_action = self._action(edit, tr("&Redo"), QKeySequence("Ctrl+Shift+Z"), self.session.redo)
        self._action(edit, tr("&Find"), QKeySequence.StandardKey.Find, self._focus_find)
        self._action(edit, tr("Select &nothing"), QKeySequence("Esc"), lambda: self.hub.select(""))
        view = self.menuBar().addMenu(tr("&View"))
        for stage in STAGES:
            keys = QKeySequence(f"Alt+{stage.shortcut}")
            self._action(view, tr(stage.name), keys, partial(self.show_stage, stage.key))
        view.addSeparator()
        self._action(view, tr("Light or &dark"), QKeySequence("Ctrl+D"), self.toggle_theme)

    def _action(
        self, menu: QMenu, words: str, keys: QKeySequence | QKeySequence.StandardKey, act: Callable[[], None]
    ) -> QAction:
        action = QAction(words, self)
        action.setShortcut(keys)
        action.triggered.connect(lambda _=False: act())
        menu.addAction(action)
        return action

    def _wire(self) -> None:
        """Connect everything, in this one place."""
        session, hub = self.session, self.hub
        self.day_sheet.chosen.connect(self.show_stage)
        hub.selection_changed.connect(self._on_hub_selection_changed)
        hub.bench_requested.connect(self.show_stage)
        hub.message_posted.connect(self.show_message)
        session.job_changed.connect(self._on_session_job_changed)
        session.bundle_changed.connect(self._on_session_bundle_changed)
        session.sheets_changed.connect(self._on_session_sheets_changed)
        session.progress_changed.connect(self._on_session_progress_changed)
        session.stale_changed.connect(self.stale.setVisible)
        session.kept.connect(self._on_session_kept)
        session.refused.connect(self.show_message)
        session.failed.connect(self._on_session_failed)
        self.files.refused.connect(self.show_message)
        self.files.told.connect(self.show_message)
        self.files.opened.connect(self._on_files_opened)
        self.undo_button.clicked.connect(lambda _=False: session.undo())
        self.redo_button.clicked.connect(lambda _=False: session.redo())
        self.find_box.returnPressed.connect(self._on_find_returned)
        self.person.currentTextChanged.connect(self._on_person_changed)
        self.unit.currentTextChanged.connect(session.set_unit)
        self.start.new_requested.connect(self.files.new_job)
        self.start.open_requested.connect(self.files.open_job)
        self.start.import_requested.connect(self.files.import_brief)
        self.start.demo_requested.connect(self.files.open_demo)
        self.start.recent_requested.connect(lambda path: self.files.open_path(Path(path)))

    # -- benches

    def _show_open(self, is_open: bool) -> None:
        for widget in (self.day_sheet, self.margin, self.top_bar):
            widget.setVisible(is_open)
        if not is_open:
            self.start.show_recent(self.files.recent())
            self.stack.setCurrentWidget(self.start)

    def bench(self, key: str) -> Bench:
        """Return a bench, made when it is first asked for."""
        if key not in self._benches:
            self._benches[key] = _make_bench(key, self.session, self.hub, self.theme)
            self._behind[key] = set(_PARTS)
            self.stack.addWidget(self._benches[key])
        self._catch_up(key)
        return self._benches[key]

    def _catch_up(self, key: str) -> None:
        """Show on a bench what changed while it was not looked at."""
        made, behind, session = self._benches[key], self._behind[key], self.session
        if session.bundle is None or self._lookup is None:
            return
        if "bundle" in behind:
            made.show_bundle(session.bundle, self._lookup)
        if "sheets" in behind:
            made.show_sheets(session.sheets)
        if "progress" in behind and session.progress is not None:
            made.show_progress(session.progress)
        if behind:
            made.show_selection(self.hub.selection, self._lookup)
        behind.clear()

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
        self.stack.setCurrentWidget(made)
        self.day_sheet.choose(key)
        made.setFocus()

    def _on_files_opened(self) -> None:
        self._lookup = None
        self.hub.select("")
        self._show_open(True)
        self.unit.clear()
        self.unit.addItems(list(self.session.units()))
        self.unit.setCurrentText(self.session.unit)
        self.kept.setText("")
        self.show_stage(self._stage)
        if self.session.is_read_only:
            self.show_message(tr("This job is open in another window. This one looks on and follows."))

    # -- what the session says

    def _on_session_job_changed(self, job: "Job") -> None:
        name = self.session.file.path.name if self.session.file is not None else ""
        revision = f"  ·  Rev {job.revision}" if job.revision else ""
        self.title.setText(f"{job.info.number}  {job.info.title}{revision}")
        self.setWindowTitle(f"{name} – Riktig" if name else "Riktig")
        back, forth = self.session.file.gestures() if self.session.file is not None else (None, None)
        for action, widget, words, gesture in (
            (self.undo_action, self.undo_button, tr("Undo"), back),
            (self.redo_action, self.redo_button, tr("Redo"), forth),
        ):
            action.setEnabled(gesture is not None)
            widget.setEnabled(gesture is not None)
            widget.setToolTip(f"{words}: {gesture}" if gesture else words)

    def _on_session_bundle_changed(self, bundle: Bundle) -> None:
        from riktig.plan.lookup import Lookup

        self._lookup = Lookup(bundle.plan)
        self._find_index = self._lookup.find()
        self._find_words.setStringList(sorted(self._find_index))
        self.margin.show_job(bundle, self._lookup)
        self._note_change("bundle")

    def _on_session_sheets_changed(self, sheets: "tuple[Drawing, ...]") -> None:
        self._note_change("sheets")
        if self.session.progress is not None:
            self._show_status(self.session.progress)

    def _on_session_progress_changed(self, progress: "Progress") -> None:
        self._note_change("progress")
        self._show_status(progress)

    def _show_status(self, progress: "Progress") -> None:
        bundle = self.session.bundle
        if bundle is None:
            return
        decide = sum(f.severity.value != "note" for f in bundle.findings)
        done, total = progress.wires_done()
        failed = sum(not verdict for verdict in progress.verdicts.values())
        used = round(100 * bundle.plan.plate.height_used / bundle.plan.plate.height)
        passed = sum(progress.verdicts.values())
        self.day_sheet.show_status(
            {
                "brief": f"{decide} to decide" if decide else tr("nothing to decide"),
                "circuit": f"{len(self.session.sheets)} sheets, {len(bundle.plan.potentials)} numbers",
                "plate": f"{used} % of the height",
                "wires": f"{done} of {total} wires",
                "build": f"{len(progress.done)} of {len(progress.operations)} steps",
                "test": f"✓ {passed}  ✗ {failed}  of {len(progress.tests)}",
            }
        )

    def _on_session_kept(self, time: str) -> None:
        moment = datetime.fromisoformat(time).astimezone() if time else datetime.now().astimezone()
        self.kept.setText(f"{tr('kept')} {moment:%H:%M:%S}")
        self.message.hide()
        if self.session.job is not None:
            self._on_session_job_changed(self.session.job)

    def _on_session_failed(self, report: str) -> None:
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

    def _focus_find(self) -> None:
        self.find_box.setFocus()
        self.find_box.selectAll()

    def _on_find_returned(self) -> None:
        if self._lookup is None:
            return
        words = self.find_box.text().strip()
        index = {key.lower(): ref for key, ref in self._find_index.items()}
        ref = index.get(words.lower()) or index.get(f"wire {words}".lower())
        if ref is None:
            self.show_message(
                f"{tr('Nothing here is called')} '{words}': {tr('try a tag, a wire number or a terminal')}"
            )
        else:
            self.hub.select(ref)

    def _on_person_changed(self, person: str) -> None:
        self.session.person = person.strip()
        self.files.remember_person(person.strip())

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
        for made in self._benches.values():
            made.show_theme(self.theme)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.session.close()
        super().closeEvent(event)
