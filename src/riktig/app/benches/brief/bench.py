"""Owns the Brief bench: what is wanted on the left in pages, and the single-line diagram growing beside them."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QFrame,
    QScrollArea,
    QStackedWidget,
    QTabBar,
    QVBoxLayout,
    QWidget,
)

from riktig.app.benches.bench import Bench
from riktig.app.benches.brief.charts_side import CHAIN, FEEDER, HEAT, SINGLE_LINE, ChartsSide
from riktig.app.benches.brief.contacts_page import ContactsPage
from riktig.app.benches.brief.motor_card import MotorCard
from riktig.app.benches.brief.motors_page import MotorsPage
from riktig.app.benches.brief.rungs_page import RungsPage
from riktig.app.benches.brief.tables_page import TablesPage
from riktig.app.benches.brief.what_if_page import WhatIfPage
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.dressing import PlainSplitter, scrolled_apart, wear_apart
from riktig.app.theme.theme import Theme
from riktig.app.widgets import scrolled
from riktig.desk.bundle import Bundle
from riktig.desk.outlook import Outlook
from riktig.job.model import Job
from riktig.plan.answers.lookup import Lookup

MOTORS, MODULES, PATHS, CONTACTS, WHAT_IF = range(5)
_CHART_OF = {"heat": HEAT, "chain": CHAIN, "feeder": FEEDER}
_WIDTHS = {SINGLE_LINE: (540, 290)}
_CHART_WIDTHS = (430, 400)


class BriefBench(Bench):
    """What is wanted on the left, what it becomes on the right."""

    shows_early = True

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._bundle: Bundle | None = None
        self._is_narrow = True
        self.motors = MotorsPage(session)
        self.motors.selected.connect(hub.select)
        self.tables: TablesPage | None = None
        self.rungs: RungsPage | None = None
        self.contacts: ContactsPage | None = None
        self.what_if: WhatIfPage | None = None
        self._scroll: QScrollArea = scrolled_apart(scrolled(self.motors))
        self.pages = QTabBar()
        self.pages.setAccessibleName(tr("Pages of the brief"))
        self.pages.setExpanding(False)
        self.pages.setDrawBase(False)
        for words in (tr("Motors"), tr("Modules"), tr("Paths"), tr("Contacts"), tr("What if")):
            self.pages.addTab(words)
        self.pages.currentChanged.connect(self.show_page)
        self._stack = QStackedWidget()
        self._stack.addWidget(self._scroll)
        for _ in range(4):
            self._stack.addWidget(QWidget())
        left = QVBoxLayout()
        left.setContentsMargins(0, 0, 0, 0)
        left.addWidget(self.pages)
        left.addWidget(self._stack, 1)
        wanted = QFrame()
        wanted.setLayout(left)
        self.side = ChartsSide(session, theme)
        self.side.picked.connect(hub.select)
        self.side.turned.connect(self._on_side_turned)
        self._splitter = PlainSplitter(Qt.Orientation.Horizontal)
        self._splitter.addWidget(wanted)
        self._splitter.addWidget(self.side)
        self._splitter.setSizes(list(_WIDTHS[SINGLE_LINE]))
        layout = QVBoxLayout(self)
        layout.addWidget(self._splitter)
        wear_apart(self, self._splitter, wanted, self._stack)
        session.job_changed.connect(self._on_session_job_changed)

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
        elif page == WHAT_IF and self.what_if is None:
            self.what_if = WhatIfPage(self.session)
            self.what_if.outlook_changed.connect(self._on_what_if_outlook_changed)
            self.what_if.touched.connect(lambda what: self.side.turn_to(_CHART_OF[what]))
            made = scrolled_apart(scrolled(self.what_if))
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
        elif page == WHAT_IF and self.what_if is not None:
            self.what_if.show_job(job)
            if self._bundle is not None:
                self.what_if.show_plan(self._bundle.plan)
        if page != WHAT_IF:
            self.side.show_ahead(None)

    def _on_side_turned(self, tab: int) -> None:
        widths = _WIDTHS.get(tab, _CHART_WIDTHS)
        if (tab in _WIDTHS) != self._is_narrow:
            self._is_narrow = tab in _WIDTHS
            self._splitter.setSizes(list(widths))

    def _on_what_if_outlook_changed(self, outlook: Outlook | None) -> None:
        self.side.show_ahead(outlook.charts if outlook is not None and self.pages.currentIndex() == WHAT_IF else None)

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
        self.side.show_bundle(bundle)
        self.motors.show_plan(plan)
        self._fill_page()

    def show_early(self, bundle: Bundle) -> None:
        """Show the diagram and the values on the cards."""
        self.side.show_early(bundle)
        self.motors.show_plan(bundle.plan)

    def show_place(self, place: str) -> None:
        """Turn to the page where something is decided, and put the cursor there."""
        table, *names = place.split(".")
        name, field = ("", names[0]) if len(names) == 1 else (names[0], names[-1])
        editor = self.motors.editor(name if table == "starter" else table, field)
        if editor is not None:
            self.show_page(MOTORS)
            self._scroll.ensureWidgetVisible(editor, 0, 60)
            editor.setFocus(Qt.FocusReason.OtherFocusReason)
            return
        self.show_page(MODULES)
        assert self.tables is not None
        editor = self.tables.editor(table, name, field)
        if editor is not None:
            self.tables.bring(editor)
        else:
            words = f"{table} {name}".strip()
            self.hub.message_posted.emit(f"{tr('There is no')} {words} {tr('of its own yet: add it to decide this')}")

    def show_selection(self, ref: str, lookup: Lookup) -> None:
        """Mark the motor that the selection belongs to."""
        self.side.show_selection(ref, lookup)
        device = lookup.device(ref) if ref else None
        owner = (device or "").partition(".")[0]
        shown = self.motors.select(owner)
        if self.what_if is not None:
            self.what_if.select(owner)
        if shown is not None:
            self._scroll.ensureWidgetVisible(shown, 0, 20)

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.side.set_theme(theme)
