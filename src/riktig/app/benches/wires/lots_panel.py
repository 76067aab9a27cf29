"""Owns the page of lots on the Wires bench: the curve, the slider, and the lots with their markers as they are set. Must not part wires."""

from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QModelIndex, Qt, Signal
from PySide6.QtWidgets import QAbstractItemView, QFrame, QHBoxLayout, QSlider, QTableView, QVBoxLayout

from riktig.app.canvas.view import DrawingView
from riktig.app.session import Session
from riktig.app.table import Column, TableModel
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, label
from riktig.desk.batch_errands import LotRow, ShownLots, show_lots
from riktig.job.edits import change_part
from riktig.plan.making.lots import hold_all, let_lots_go

if TYPE_CHECKING:
    from riktig.job.model import Job


class LotsPanel(QFrame):
    """The slider goes from each wire by itself to one length for a bundle; a lot that is chosen shows its markers in setting order."""

    wire_chosen = Signal(str)
    """A lot was chosen: the ref of its first wire."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session = session
        self._number = 0
        self.curve = DrawingView(theme, tr("What lots come to"))
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName(tr("Batching: from each wire by itself to one length for a bundle"))
        self.slider.setRange(0, 100)
        self.slider.setPageStep(10)
        self.slider.setTracking(False)
        self.slider.valueChanged.connect(self._on_slider_changed)
        self.words, self.assumed = label(""), label("", role="quiet")
        self.hold = button(
            tr("Hold these lots"), tip=tr("From now on each wire stays in its lot while that is long enough")
        )
        self.hold.clicked.connect(lambda: session.apply(hold_all, tr("hold the lots")))
        self.anew = button(tr("Part anew"), tip=tr("Let lots go that are held; those of a release stay"))
        self.anew.clicked.connect(lambda: session.apply(let_lots_go, tr("part the lots anew")))
        self.model = TableModel(_columns())
        self.table = QTableView()
        self.table.setAccessibleName(tr("Lots"))
        self.table.setModel(self.model)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(28)
        self.table.horizontalHeader().setStretchLastSection(True)
        for place, column in enumerate(_columns()):
            self.table.setColumnWidth(place, column.width)
        self.table.selectionModel().currentRowChanged.connect(self._on_row_changed)
        self.setting = label("", mono=True)
        side = QVBoxLayout()
        side.addWidget(self.curve, 1)
        side.addWidget(self.slider)
        for widget in (self.words, self.assumed):
            side.addWidget(widget)
        keys = QHBoxLayout()
        keys.addWidget(self.hold)
        keys.addWidget(self.anew)
        keys.addStretch()
        side.addLayout(keys)
        lists = QVBoxLayout()
        lists.addWidget(self.table, 1)
        lists.addWidget(self.setting)
        row = QHBoxLayout(self)
        row.addLayout(side, 3)
        row.addLayout(lists, 5)

    def begin(self) -> None:
        """Ask for the lots of the Plan as it is now."""
        self._number += 1
        self._session.worker.ask(show_lots, partial(self._take, self._number))

    def _take(self, number: int, shown: ShownLots | None) -> None:
        if number != self._number or shown is None or self._session.job is None:
            return
        self.slider.blockSignals(True)
        self.slider.setValue(round(self._session.job.practice.batching))
        self.slider.blockSignals(False)
        self.curve.show_drawing(shown.curve)
        self.words.setText(shown.words)
        self.assumed.setText(
            tr("Assumed, no prices of the shop: {what}").format(what=shown.assumed) if shown.assumed else ""
        )
        self.model.set_rows(shown.rows)
        self.setting.setText(tr("Choose a lot: its markers stand here in the order in which they are set."))

    def _on_slider_changed(self, value: int) -> None:
        job = self._session.job
        if job is not None and value != job.practice.batching:
            self._session.apply(partial(_batch, batching=float(value)), tr("batching {n}").format(n=value))

    def _on_row_changed(self, current: QModelIndex, previous: QModelIndex) -> None:
        if not current.isValid():
            return
        row: LotRow = self.model.rows[current.row()]
        saved = row.by_number - row.changes
        saves = tr(", {n} saved").format(n=saved) if saved > 0 else ""
        self.setting.setText(
            f"{'  '.join(row.markers)}\n" + tr("{n} characters changed{saves}").format(n=row.changes, saves=saves)
        )
        self.wire_chosen.emit(f"wire:{row.wires[0]}")

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self.curve.set_theme(theme)


def _batch(job: "Job", batching: float) -> "Job":
    return change_part(job, "practice", batching=batching)


def _columns() -> list[Column]:
    def of(name: str) -> Any:
        return lambda row: getattr(row, name)

    return [
        Column(header=tr("Lot"), getter=of("place"), is_number=True, width=36),
        Column(header=tr("Bundle"), getter=of("title"), width=250),
        Column(header=tr("mm"), getter=of("cut_mm"), text=lambda v: f"{v:g}", is_number=True, width=56),
        Column(header=tr("Wires"), getter=lambda row: len(row.wires), is_number=True, width=48),
        Column(header=tr("Wasted"), getter=of("waste_mm"), text=lambda v: f"{v:g}", is_number=True, width=56),
        Column(header=tr("Held"), getter=lambda row: tr("held") if row.is_held else "", width=46),
    ]
