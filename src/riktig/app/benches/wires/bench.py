"""Owns the Wires bench: the list of wires, and what joins each number."""

from typing import Any

from PySide6.QtCore import QModelIndex, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QAbstractItemView, QHBoxLayout, QLineEdit, QSplitter, QTableView, QVBoxLayout, QWidget

from riktig.app.benches.bench import Bench
from riktig.app.benches.wires.lots_panel import LotsPanel
from riktig.app.benches.wires.numbers_panel import NumberEditor, NumbersPanel
from riktig.app.benches.wires.wire_editor import WireEditor
from riktig.app.benches.wires.wire_filter import WireFilter
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.table import Column, TableModel
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, card, label, scrolled
from riktig.desk.bundle import Bundle
from riktig.drawings.display import wire_tone
from riktig.drawings.open_panel import draw_ways, open_shift
from riktig.plan.answers.lookup import Lookup
from riktig.plan.changes.wires import rewire
from riktig.plan.net.numbers import natural_key
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.record.keys import WireStep
from riktig.record.progress import Progress

_STEPS = len(WireStep)


class WiresBench(Bench):
    """Every conductor in working order; the number under the cursor shows all its points and what joins them."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._plan: Plan | None = None
        self._lookup: Lookup | None = None
        self._progress: Progress | None = None
        self._made: tuple[Conductor, ...] = ()
        self.model = TableModel(self._columns())
        self.table = QTableView()
        self.table.setAccessibleName(tr("Wires"))
        self.table.setModel(self.model)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setAlternatingRowColors(True)
        self.table.setShowGrid(False)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(28)
        self.table.horizontalHeader().setStretchLastSection(True)
        self.table.horizontalHeader().setSectionsClickable(True)
        self.table.horizontalHeader().sectionClicked.connect(lambda column: self.model.sort(column))
        for place, column in enumerate(self._columns()):
            self.table.setColumnWidth(place, column.width)
        self.table.selectionModel().currentRowChanged.connect(self._on_table_row_changed)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText(tr("Filter: number, terminal, place, colour, size, state"))
        self.filter.setAccessibleName(tr("Filter wires"))
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(lambda _: self._filter())
        self._count = label("", role="quiet")
        self.only = WireFilter()
        self.only.changed.connect(self._filter)
        self.chain = button(
            tr("Chain anew"),
            tip=tr("All wires afresh, in drawing order or the shortest, as the practice says; held ones stay"),
        )
        self.chain.clicked.connect(lambda: session.apply(rewire, "chain wires anew"))
        self.renumber = button(
            tr("Numbers"), tip=tr("Another school, prefix or start, and comparing with a list of existing wires")
        )
        self.renumber.setCheckable(True)
        self.renumber.toggled.connect(self._on_renumber_toggled)
        self.numbers = NumbersPanel(session)
        self.numbers.closed.connect(lambda: self.renumber.setChecked(False))
        self.numbers.hide()
        self._make_batches()
        self._lay_out()

    def _make_batches(self) -> None:
        self.batches = button(
            tr("Batches"), tip=tr("Which wires are cut to one length, and in which order they are marked")
        )
        self.batches.setCheckable(True)
        self.batches.toggled.connect(self._on_batches_toggled)
        self.lots = LotsPanel(self.session, self.theme)
        self.lots.wire_chosen.connect(self.hub.select)
        self.lots.hide()

    def _lay_out(self) -> None:
        splitter = self._splitter = QSplitter(Qt.Orientation.Vertical)
        splitter.addWidget(self._build_list())
        splitter.addWidget(self.numbers)
        splitter.addWidget(self._build_joins())
        splitter.setSizes([360, 300, 340])
        head = QHBoxLayout()
        head.addWidget(self.filter, 1)
        for part in (self._count, self.chain, self.renumber, self.batches):
            head.addWidget(part)
        layout = QVBoxLayout(self)
        layout.addLayout(head)
        layout.addWidget(splitter, 1)
        layout.addWidget(self.lots, 1)

    def _columns(self) -> list[Column]:
        return [
            Column(header=tr("No."), getter=lambda c: c.number, sort_key=lambda c: natural_key(c.number), width=64),
            Column(header=tr("From"), getter=self._from, width=110),
            Column(header=tr("To"), getter=self._to, width=110),
            Column(header=tr("Where"), getter=lambda c: c.location, width=90),
            Column(
                header=tr("Conductor"), getter=lambda c: f"{c.size.label()} {c.colour}", patch=self._patch, width=190
            ),
            Column(
                header=tr("mm"),
                getter=lambda c: c.length_mm,
                text=lambda v: f"{v:g}" if v else "–",
                is_number=True,
                width=64,
            ),
            Column(header=tr("State"), getter=self._state, width=90),
        ]

    def _build_list(self) -> QWidget:
        box = QWidget()
        layout = QVBoxLayout(box)
        layout.setContentsMargins(0, 0, 0, 6)
        layout.addWidget(self.only)
        layout.addWidget(self.table, 1)
        return box

    def _build_joins(self) -> QWidget:
        self.number = label("", points=16, bold=True)
        self.joins = label("", mono=True)
        self.view = DrawingView(self.theme, tr("Plate with the wires of the number"))
        self.view.picked.connect(self.hub.select)
        words = QVBoxLayout()
        self.editor = NumberEditor(self.session)
        words.addWidget(self.number)
        words.addWidget(self.editor)
        self.leader = WireEditor(self.session)
        words.addWidget(self.leader)
        words.addWidget(self.joins)
        words.addStretch()
        holder = QWidget()
        holder.setLayout(words)
        inner = QHBoxLayout()
        inner.addWidget(scrolled(holder), 2)
        inner.addWidget(self.view, 3)
        return card(inner)

    def _from(self, wire: Conductor) -> str:
        return self._plan.terminal_label(wire.a) if self._plan is not None else ""

    def _to(self, wire: Conductor) -> str:
        return self._plan.terminal_label(wire.b) if self._plan is not None else ""

    def _patch(self, wire: Conductor) -> QColor:
        return QColor(self.theme.tone(wire_tone(wire.colour)))

    def _state(self, wire: Conductor) -> str:
        """Return the last step done as word and count, so that it is not told by colour alone."""
        if not wire.is_wired:
            return {"bridge": tr("bridge"), "comb": tr("comb")}.get(wire.kind, tr("with the parts"))
        steps = self._progress.wire_steps(wire.id) if self._progress is not None else ()
        return f"{steps[-1].value} {len(steps)}/{_STEPS}" if steps else tr("open")

    def show_bundle(self, bundle: Bundle, lookup: Lookup) -> None:
        """Show the conductors."""
        self._plan, self._lookup = bundle.plan, lookup
        self.view.show_drawing(bundle.open_panel, shift=open_shift(bundle.plan))
        self.only.show_plan(bundle.plan, self._progress)
        self._made = tuple(c for c in bundle.plan.conductors if not c.is_inside_one)
        self.model.set_rows(self._made)
        self._filter()
        self.show_selection(self.hub.selection, lookup)
        if self.batches.isChecked():
            self.lots.begin()

    def show_progress(self, progress: Progress) -> None:
        """Show the states of the wires."""
        self._progress = progress
        if self._plan is not None:
            self.only.show_plan(self._plan, progress)
        self.model.tell_changed()

    def show_selection(self, ref: str, lookup: Lookup) -> None:
        """Show what joins the selected number, and go to its first row."""
        if self._plan is None:
            return
        number = lookup.number(ref) if ref else None
        self.editor.show_number(number)
        wires = lookup.conductors(ref) if ref else ()
        self.leader.show_wire(wires[0] if ref.startswith("wire:") and wires else None, self._plan)
        if number is not None:
            self.number.setText(number)
            self.joins.setText("\n".join(lookup.joins(number)))
            wires = wires if ref.startswith("wire:") else lookup.conductors(f"net:{number}")
        else:
            self.number.setText(tr("Choose a wire"))
            self.joins.setText(tr("All its points and what joins them are shown here."))
        self.view.show_overlay(draw_ways(self._plan, wires))
        self.view.mark(lookup.marks(ref) if ref else ())
        self._go_to(wires)

    def _go_to(self, wires: tuple[Conductor, ...]) -> None:
        ids = {wire.id for wire in wires}
        current = self.table.currentIndex().row()
        rows: tuple[Any, ...] = self.model.rows
        if 0 <= current < len(rows) and rows[current].id in ids:
            return
        row = next((place for place, wire in enumerate(rows) if wire.id in ids), None)
        if row is not None:
            blocked = self.table.selectionModel().blockSignals(True)
            self.table.selectRow(row)
            self.table.selectionModel().blockSignals(blocked)
            self.table.scrollTo(self.model.index(row, 0))
            self.table.viewport().update()

    def _on_table_row_changed(self, current: QModelIndex, previous: QModelIndex) -> None:
        if current.isValid():
            self.hub.select(f"wire:{self.model.rows[current.row()].id}")

    def _on_renumber_toggled(self, is_on: bool) -> None:
        self.numbers.setVisible(is_on)
        self._splitter.setSizes([180, 380, 240] if is_on else [360, 0, 340])
        if is_on and self.session.job is not None:
            self.numbers.begin(self.session.job)

    def _on_batches_toggled(self, is_on: bool) -> None:
        """Show lots in place of the list of wires and of what joins a number."""
        self._splitter.setVisible(not is_on)
        for part in (self.filter, self._count, self.chain, self.renumber):
            part.setEnabled(not is_on)
        self.lots.setVisible(is_on)
        if is_on:
            self.lots.begin()

    def _filter(self) -> None:
        self.model.set_filter(self.filter.text(), self.only.test(self._plan) if self._plan is not None else None)
        self._count.setText(f"{self.model.rowCount()} of {len(self._made)}")

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)
        self.lots.show_theme(theme)
