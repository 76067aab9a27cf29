"""Owns the right side of the Brief bench: single-line diagram, short-circuit chain, heat balance, voltage of a feeder."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QProgressBar, QTabBar, QVBoxLayout

from riktig.app.canvas.view import DrawingView
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import label

if TYPE_CHECKING:
    from riktig.desk.bundle import Bundle
    from riktig.drawings.size_charts import Charts
    from riktig.plan.answers.lookup import Lookup
    from riktig.plan.plan import Plan

LEAST_SCALE = 2.0
"""Pixels per mm below which a drawing is not made to fit any more, but panned."""
SINGLE_LINE, CHAIN, HEAT, FEEDER = range(4)


def ask_charts(plan: "Plan", name: str | None) -> "Charts":
    """Return the charts of the present Plan; asked of the worker."""
    from riktig.drawings.size_charts import draw_charts

    return draw_charts(plan, name)


class ChartsSide(QFrame):
    """One drawing at a time, of the Plan as it is, or of a what-if while one is shown."""

    picked = Signal(str)
    turned = Signal(int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session = session
        self._bundle: Bundle | None = None
        self._charts: Charts | None = None
        self._ahead: Charts | None = None
        self._motor = ""
        self.tabs = QTabBar()
        self.tabs.setAccessibleName(tr("Drawings of the panel"))
        self.tabs.setExpanding(False)
        self.tabs.setDrawBase(False)
        self._names = (
            tr("Single-line diagram"), tr("Short-circuit chain"), tr("Heat balance"), tr("Voltage along a feeder"),
        )  # fmt: skip
        for words, name in zip((tr("Single line"), tr("Fault"), tr("Heat"), tr("Volts")), self._names, strict=True):
            self.tabs.setTabToolTip(self.tabs.addTab(words), name)
        self.tabs.currentChanged.connect(self._on_tabs_turned)
        self.note = label("", role="attention")
        self.view = DrawingView(theme, tr("Single-line diagram"), least_scale=LEAST_SCALE)
        self.view.picked.connect(self.picked)
        self.fit = QProgressBar()
        self.fit.setAccessibleName(tr("How full the plate is"))
        self.fit.setMaximum(100)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.tabs)
        column.addWidget(self.note)
        column.addWidget(self.view, 1)
        column.addWidget(self.fit)
        self.note.hide()

    @property
    def motor(self) -> str | None:
        """The motor whose feeder is drawn: the selected one, or the first."""
        job = self._session.job
        if job is None or not job.starters:
            return None
        return self._motor if job.starter(self._motor) is not None else job.starters[0].name

    def show_bundle(self, bundle: "Bundle") -> None:
        """Show the Plan as it is now."""
        self._bundle, self._charts = bundle, None
        self._refresh()
        used, there = bundle.plan.plate.height_used, bundle.plan.plate.height
        percent = round(100 * used / there)
        words = tr("fits") if percent <= 100 else tr("does not fit")
        self.fit.setUpdatesEnabled(False)  # painted with the rest, not at once
        self.fit.setValue(min(percent, 100))
        self.fit.setFormat(f"{words}: {used:.0f} of {there:.0f} mm")
        self.fit.setUpdatesEnabled(True)

    def show_early(self, bundle: "Bundle") -> None:
        """Show the diagram as an edit that is under way leaves it."""
        if self.tabs.currentIndex() == SINGLE_LINE and self._ahead is None:
            self.view.show_drawing(bundle.single_line)

    def show_ahead(self, charts: "Charts | None") -> None:
        """Show a what-if, or the Plan as it is again."""
        self._ahead = charts
        self.note.setText(tr("What if: nothing of this is kept yet"))
        self.note.setVisible(charts is not None)
        self._refresh()

    def show_selection(self, ref: str, lookup: "Lookup") -> None:
        """Mark what is selected; its motor's feeder is the one that is drawn."""
        self.view.mark(lookup.marks(ref) if ref else ())
        self.view.centre_on(ref)
        owner = (lookup.device(ref) or "").partition(".")[0] if ref else ""
        job = self._session.job
        if owner != self._motor and job is not None and job.starter(owner) is not None:
            self._motor = owner
            if self.tabs.currentIndex() == FEEDER and self._ahead is None:
                self._charts = None
                self._refresh()

    def turn_to(self, tab: int) -> None:
        """Show one of the drawings."""
        self.tabs.setCurrentIndex(tab)

    def _on_tabs_turned(self, tab: int) -> None:
        self.view.setAccessibleName(self._names[tab])
        self.turned.emit(tab)
        if tab == FEEDER:
            self._charts = None
        self._refresh()

    def _refresh(self) -> None:
        tab, charts = self.tabs.currentIndex(), self._ahead or self._charts
        if charts is not None:
            self.view.show_drawing((charts.single_line, charts.chain, charts.heat, charts.feeder)[tab])
        elif tab == SINGLE_LINE and self._bundle is not None:
            self.view.show_drawing(self._bundle.single_line)
        elif self._bundle is not None:
            self._session.worker.ask(partial(ask_charts, name=self.motor), partial(self._take_charts, self._bundle))

    def _take_charts(self, bundle: "Bundle", charts: "Charts | None") -> None:
        if charts is not None and bundle is self._bundle:
            self._charts = charts
            if self._ahead is None:
                self._refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self.view.set_theme(theme)
