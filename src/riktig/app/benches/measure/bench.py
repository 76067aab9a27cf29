"""Owns the Test bench: two probe points on the plate, one large reading, judged at once."""

from math import isinf

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout

from riktig.app.benches.bench import Bench
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.record_keeper import reading_of
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, card, label, set_state
from riktig.desk.bundle import Bundle
from riktig.drawings.display import Anchor, Item, Pen, Tone
from riktig.drawings.open_panel import draw_ways, open_shift, terminal_point
from riktig.drawings.plate import geometry_of
from riktig.live.resistance import WiringFault, WiringFaultKind
from riktig.plan.answers.lookup import Lookup
from riktig.plan.plan import Plan
from riktig.record.measurements import PREPARATION, PointTest, TestKind, suspects
from riktig.record.progress import Progress
from riktig.standins.meter import Meter, SimulatedMeter
from riktig.units.numbers import BadNumber, format_ohms, parse_reading

PROBE_RADIUS_MM = 11.0


class MeasureBench(Bench):
    """Tests in working order. A reading is typed, or taken from the meter; the verdict stands at once."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._plan: Plan | None = None
        self._lookup: Lookup | None = None
        self._progress: Progress | None = None
        self._test: PointTest | None = None
        self._chosen: str | None = None
        self._meter: Meter | None = None
        self._build_parts()
        layout = QHBoxLayout(self)
        layout.addLayout(self._build_work(), 5)
        layout.addLayout(self._build_side(), 2)

    def _build_parts(self) -> None:
        self._title = label("", points=10, bold=True)
        self._limit = label("", points=2)
        self._prepare = label("", role="attention", bold=True)
        self.reading = label("–", points=34, bold=True, mono=True)
        self.verdict = label("", points=12, bold=True)
        self._suspects = label("")
        self.entry = QLineEdit()
        self.entry.setPlaceholderText(tr("ohms: 0.3, 1.2k, OL"))
        self.entry.setAccessibleName(tr("Reading in ohms"))
        self.entry.setMinimumHeight(44)
        self.entry.returnPressed.connect(self._on_entry_returned)
        self.take = button(tr("Take from meter  (F5)"), role="primary")
        self.take.setMinimumHeight(44)
        self.take.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.take.clicked.connect(self.take_reading)
        self.next = button(tr("Next  (F6)"), role="big")
        self.next.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.next.clicked.connect(self.go_next)
        self.view = DrawingView(self.theme, tr("Plate with the probe points"))
        self.view.picked.connect(self.hub.select)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Tests"))
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemClicked.connect(self._on_list_clicked)
        self.fault = QComboBox()
        self.fault.setAccessibleName(tr("Fault in the simulated panel"))
        self.fault.activated.connect(self._on_fault_activated)

    def _build_work(self) -> QVBoxLayout:
        row = QHBoxLayout()
        row.addWidget(self.entry, 2)
        row.addWidget(self.take, 2)
        row.addWidget(self.next, 1)
        number = QHBoxLayout()
        number.addWidget(self.reading, 2)
        number.addWidget(self.verdict, 3)
        inner = QVBoxLayout()
        inner.setContentsMargins(20, 12, 20, 12)
        inner.addWidget(self._title)
        inner.addWidget(self._limit)
        inner.addWidget(self._prepare)
        inner.addLayout(number)
        inner.addLayout(row)
        inner.addWidget(self._suspects)
        self._card = card(inner)
        warning = QVBoxLayout()
        warning.setContentsMargins(10, 6, 10, 6)
        warning.addWidget(label(tr(PREPARATION)))
        column = QVBoxLayout()
        column.addWidget(self._card)
        column.addWidget(self.view, 1)
        column.addWidget(card(warning, "caution"))
        return column

    def _build_side(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self._count = label("", bold=True)
        column.addWidget(self._count)
        column.addWidget(self.list, 1)
        column.addWidget(label(tr("Simulated meter reads the panel"), role="quiet"))
        column.addWidget(self.fault)
        return column

    def show_bundle(self, bundle: Bundle, lookup: Lookup) -> None:
        """Show the open panel; the simulated meter reads the panel as it is designed now."""
        self._plan, self._lookup = bundle.plan, lookup
        self.view.show_drawing(bundle.open_panel, shift=open_shift(bundle.plan))
        self.fault.clear()
        self.fault.addItem(tr("as designed"), ())
        wires = [c for c in bundle.plan.conductors if c.is_wired]
        for wire in wires:
            fault = WiringFault(kind=WiringFaultKind.OPEN, wire=wire.id)
            self.fault.addItem(f"open: {wire.number}  {bundle.plan.terminal_label(wire.a)}", (fault,))
        for one, other in zip(wires, wires[1:], strict=False):
            if one.batch == other.batch and one.number != other.number:
                fault = WiringFault(kind=WiringFaultKind.SWAPPED, wire=one.id, other=other.id)
                self.fault.addItem(f"swapped: {one.number} and {other.number}", (fault,))
        self._meter = SimulatedMeter(bundle.plan)

    def _on_fault_activated(self, index: int) -> None:
        if self._plan is not None:
            self._meter = SimulatedMeter(self._plan, tuple(self.fault.itemData(index)))

    def show_progress(self, progress: Progress) -> None:
        """Show the tests with their verdicts, and the one at hand."""
        self._progress = progress
        keys = [test.key for test in progress.tests]
        if self._chosen not in keys:
            self._chosen = next((key for key in keys if key not in progress.verdicts), keys[0] if keys else None)
        self._fill_list(progress)
        self._show_test()

    def _fill_list(self, progress: Progress) -> None:
        self.list.clear()
        for test in progress.tests:
            verdict = progress.verdicts.get(test.key)
            mark = "·" if verdict is None else "✓" if verdict else "✗"
            item = QListWidgetItem(f"{mark}  {test.title}")
            item.setData(Qt.ItemDataRole.UserRole, test.key)
            self.list.addItem(item)
            if test.key == self._chosen:
                self.list.setCurrentItem(item)
        passed, failed = (sum(v is w for v in progress.verdicts.values()) for w in (True, False))
        self._count.setText(f"✓ {passed}   ✗ {failed}   of {len(progress.tests)}")

    def _show_test(self) -> None:
        progress = self._progress
        self._test = next((t for t in progress.tests if t.key == self._chosen), None) if progress is not None else None
        if progress is None or self._test is None or self._plan is None:
            return
        test = self._test
        self._title.setText(test.title)
        words = tr("apart: at least") if test.kind is TestKind.APART else tr("through: at most")
        self._limit.setText(f"A  {self._plan.terminal_label(test.a)}     B  {self._plan.terminal_label(test.b)}     "
                            f"{words} {format_ohms(test.limit)}")  # fmt: skip
        self._prepare.setText(test.prepare[:1].upper() + test.prepare[1:])
        self._prepare.setVisible(bool(test.prepare))
        verdict = progress.verdicts.get(test.key)
        if verdict is None:
            self.reading.setText("–")
            self.verdict.setText(tr("not measured"))
            self._suspects.setText("")
            set_state(self._card, "card")
        else:
            ohms = reading_of(progress.readings[test.key])
            self.reading.setText("OL" if isinf(ohms) else format_ohms(ohms))
            self.verdict.setText(tr("✓  PASS") if verdict else tr("✗  FAIL"))
            failed = tuple(t for t in progress.tests if progress.verdicts.get(t.key) is False)
            found = () if verdict else suspects(self._plan, test, ohms, failed)
            self._suspects.setText("\n".join(f"Look at: {line}" for line in found))
            set_state(self._card, "good" if verdict else "bad")
        self._show_probes(test)

    def _show_probes(self, test: PointTest) -> None:
        if self._plan is None or self._lookup is None:
            return
        pen = Pen()
        geometry = geometry_of(self._plan)
        wires = self._lookup.conductors(f"wire:{test.wire}") if test.wire else ()
        overlay: list[Item] = draw_ways(self._plan, wires)
        for name, terminal, tone in (("A", test.a, Tone.DANGER), ("B", test.b, Tone.INK)):
            point = terminal_point(self._plan, geometry, terminal)
            if point is not None:
                pen.circle(*point, PROBE_RADIUS_MM, fill=Tone.PAPER, tone=tone, width=2.5)
                pen.text(point[0], point[1] - 5, name, size=10, anchor=Anchor.MIDDLE, bold=True, tone=tone)
        self.view.show_overlay([*overlay, *pen.items])
        self.view.mark(())

    def take_reading(self) -> None:
        """Take a reading from the meter and judge it."""
        if self._meter is not None and self._test is not None:
            self._judge(self._meter.read_ohms(self._test.a, self._test.b))

    def _judge(self, ohms: float) -> None:
        if self._test is not None:
            self.session.record.measure(self._test, ohms)

    def _on_entry_returned(self) -> None:
        text = self.entry.text()
        if not text.strip():
            self.go_next()
            return
        try:
            ohms = parse_reading(text)
        except BadNumber as error:
            self.hub.message_posted.emit(str(error))
            self._suspects.setText(str(error))
            return
        self.entry.clear()
        self._judge(ohms)

    def go_next(self) -> None:
        """Go to the next test in the list that has no verdict, else to the next one."""
        if self._progress is None:
            return
        keys = [test.key for test in self._progress.tests]
        at = keys.index(self._chosen) if self._chosen in keys else -1
        behind = [*keys[at + 1 :], *keys[: at + 1]]
        self._chosen = next((k for k in behind if k not in self._progress.verdicts), behind[0] if behind else None)
        self._fill_list(self._progress)
        self._show_test()
        self.entry.setFocus()

    def _on_list_clicked(self, item: QListWidgetItem) -> None:
        self._chosen = item.data(Qt.ItemDataRole.UserRole)
        self._show_test()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_F5:
            self.take_reading()
        elif event.key() == Qt.Key.Key_F6:
            self.go_next()
        else:
            super().keyPressEvent(event)

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)
