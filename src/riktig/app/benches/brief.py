"""Owns the Brief bench: what is wanted on the left in four pages, and the single-line diagram growing beside them."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QFrame,
    QProgressBar,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QTabBar,
    QVBoxLayout,
    QWidget,
)

from riktig.app.benches.bench import Bench
from riktig.app.benches.contacts_page import ContactsPage
from riktig.app.benches.motor_card import MotorCard
from riktig.app.benches.motors_page import MotorsPage
from riktig.app.benches.rungs_page import RungsPage
from riktig.app.benches.tables_page import TablesPage
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import scrolled
from riktig.app.worker_process import Bundle
from riktig.job.model import Job
from riktig.plan.lookup import Lookup

LEAST_SCALE = 2.0
"""Pixels per mm below which the diagram is not made to fit any more, but panned."""
MOTORS, MODULES, PATHS, CONTACTS = range(4)


class BriefBench(Bench):
    """What is wanted on the left, what it becomes on the right."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._bundle: Bundle | None = None
        self.motors = MotorsPage(session)
        self.motors.selected.connect(hub.select)
        self.tables: TablesPage | None = None
        self.rungs: RungsPage | None = None
        self.contacts: ContactsPage | None = None
        self._scroll: QScrollArea = scrolled(self.motors)
        self.pages = QTabBar()
        self.pages.setAccessibleName(tr("Pages of the brief"))
        self.pages.setExpanding(False)
        self.pages.setDrawBase(False)
        for words in (tr("Motors"), tr("Modules and devices"), tr("Paths"), tr("Contacts")):
            self.pages.addTab(words)
        self.pages.currentChanged.connect(self.show_page)
        self._stack = QStackedWidget()
        self._stack.addWidget(self._scroll)
        for _ in range(3):
            self._stack.addWidget(QWidget())
        left = QVBoxLayout()
        left.setContentsMargins(0, 0, 0, 0)
        left.addWidget(self.pages)
        left.addWidget(self._stack, 1)
        wanted = QFrame()
        wanted.setLayout(left)
        splitter = QSplitter(Qt.Orientation.Horizontal)
        splitter.addWidget(wanted)
        splitter.addWidget(self._build_side())
        splitter.setSizes([556, 274])
        layout = QVBoxLayout(self)
        layout.addWidget(splitter)
        session.job_changed.connect(self._on_session_job_changed)

    def _build_side(self) -> QFrame:
        self.view = DrawingView(self.theme, tr("Single-line diagram"), least_scale=LEAST_SCALE)
        self.view.picked.connect(self.hub.select)
        self.fit = QProgressBar()
        self.fit.setAccessibleName(tr("How full the plate is"))
        self.fit.setMaximum(100)
        right = QVBoxLayout()
        right.addWidget(self.view, 1)
        right.addWidget(self.fit)
        side = QFrame()
        side.setLayout(right)
        return side

    def show_page(self, page: int) -> None:
        """Turn to a page; it is built when it is first shown."""
        made: QWidget | None = None
        if page == MODULES and self.tables is None:
            made = self.tables = TablesPage(self.session)
            self.tables.selected.connect(self.hub.select)
        elif page == PATHS and self.rungs is None:
            made = self.rungs = RungsPage(self.session, self.theme)
        elif page == CONTACTS and self.contacts is None:
            made = self.contacts = ContactsPage(self.session)
            self.contacts.selected.connect(self.hub.select)
        if made is not None:
            old = self._stack.widget(page)
            self._stack.insertWidget(page, made)
            if old is not None:
                self._stack.removeWidget(old)
                old.deleteLater()
        self.pages.setCurrentIndex(page)
        self._stack.setCurrentIndex(page)
        self._fill_page()

    def _fill_page(self) -> None:
        """Fill the page in view; the others are filled when they are turned to."""
        job, page = self.session.job, self.pages.currentIndex()
        if job is None:
            return
        if page == MODULES and self.tables is not None:
            self.tables.show_job(job)
        elif page == PATHS and self.rungs is not None:
            self.rungs.show_job(job)
            if self._bundle is not None:
                self.rungs.show_plan(self._bundle.plan)
        elif page == CONTACTS and self.contacts is not None and self._bundle is not None:
            self.contacts.show_plan(self._bundle.plan)

    def _on_session_job_changed(self, job: Job) -> None:
        self.motors.show_job(job)
        self._fill_page()
        self.setEnabled(not self.session.is_read_only)

    def motor_card(self, name: str) -> MotorCard:
        """Return the card of a motor."""
        return self.motors.cards[name]

    def show_bundle(self, bundle: Bundle, lookup: Lookup) -> None:
        """Show the diagram, the values on the cards and how full the plate is."""
        plan = bundle.plan
        self._bundle = bundle
        if self.session.job is not None and not self.motors.cards:
            self._on_session_job_changed(self.session.job)
        self.view.show_drawing(bundle.single_line)
        self.motors.show_plan(plan)
        self._fill_page()
        used = plan.plate.height_used
        percent = round(100 * used / plan.plate.height)
        self.fit.setValue(min(percent, 100))
        words = tr("fits") if percent <= 100 else tr("does not fit")
        self.fit.setFormat(f"{words}: {used:.0f} of {plan.plate.height:.0f} mm")

    def show_selection(self, ref: str, lookup: Lookup) -> None:
        """Mark the motor that the selection belongs to."""
        self.view.mark(lookup.marks(ref) if ref else ())
        self.view.centre_on(ref)
        device = lookup.device(ref) if ref else None
        shown = self.motors.select((device or "").partition(".")[0])
        if shown is not None:
            self._scroll.ensureWidgetVisible(shown, 0, 20)

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)
