"""Owns the Circuit bench: the drawn sheets, ways on from what is selected, and the rung that is written."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QHBoxLayout, QMenu, QSizePolicy, QVBoxLayout, QWidget

from riktig.app.benches.bench import Bench
from riktig.app.benches.circuit.live_bar import LiveBar
from riktig.app.benches.circuit.live_circuit import LiveCircuit, LiveParts
from riktig.app.benches.circuit.live_field import FieldView
from riktig.app.benches.circuit.live_side import LiveSide
from riktig.app.benches.circuit.page_strip import PageStrip
from riktig.app.benches.circuit.rung_panel import RungPanel
from riktig.app.benches.circuit.school_button import SchoolButton
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, clear_layout, label
from riktig.desk.bundle import Bundle
from riktig.drawings.display import Circle, Drawing, Tone, bench_of
from riktig.plan.answers.contact_use import element_to_pick
from riktig.plan.answers.hops import Hop, find_hops
from riktig.plan.answers.lookup import Lookup

if TYPE_CHECKING:
    from riktig.drawings.preview import Draft, Preview

READING_SCALE = 2.9
"""Pixels per mm at which the smallest writing of a sheet can be read."""
_RING_MM = 9.0
_DOOR_PX = 230


class CircuitBench(Bench):
    """One sheet at reading size, a strip of sheets to choose from, ways on above it and the rung panel below."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._sheets: tuple[Drawing, ...] = ()
        self._targets: dict[str, tuple[int, float, float]] = {}
        self._at = 0
        self._target = ""
        self._bundle: Bundle | None = None
        self._lookup: Lookup | None = None
        self._draft: Draft | None = None
        self.view = DrawingView(theme, tr("Circuit sheet"), least_scale=READING_SCALE)
        self.view.spot_picked.connect(self._on_view_spot_picked)
        self.view.followed.connect(self._on_view_followed)
        self.view.menu_requested.connect(self._on_view_menu_requested)
        self.view.setToolTip(
            tr("A reference leads to its place, a tag to the plate, a number to its wires; Alt+Left comes back.")
            + "\n"
            + tr("The right button lists all ways on. Wheel zooms, drag moves, Home fits, Page keys turn.")
        )
        self.strip = PageStrip()
        self.strip.turned.connect(self.show_sheet)
        self.panel = RungPanel(session, theme)
        self.panel.draft_changed.connect(self._on_panel_draft_changed)
        self.panel.hide()
        self.write = button(tr("Rungs"), role="chip", tip=tr("Write rungs beside the drawing (R)"))
        self.write.setCheckable(True)
        self.write.toggled.connect(self.panel.setVisible)
        self.school = SchoolButton(session)
        self.live = button(tr("Live"), role="chip", tip=tr("Switch the panel on: press, turn and see what it does (L)"))
        self.live.setCheckable(True)
        self.live_bar = LiveBar(session, theme)
        self.live_bar.hide()
        self.field = FieldView(theme)
        self.live_side = self.beside = LiveSide(theme)
        self.live_side.chosen.connect(hub.select)
        self.live_side.hide()
        self.door = DrawingView(theme, tr("Door, live"))
        self.door.setToolTip(tr("The front of the door: press, turn and see its lamps."))
        self._beside = QWidget()
        self._beside.setFixedWidth(_DOOR_PX)
        self._beside.hide()
        parts = LiveParts(bar=self.live_bar, side=self.live_side, field=self.field)
        self._circuit = LiveCircuit(session, (self.view, self.door), parts, self)
        self.live.toggled.connect(self._on_live_toggled)
        self._title = label("", bold=True)
        self._title.setWordWrap(False)
        self._ways = QWidget()
        self._ways.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._hops = QHBoxLayout(self._ways)
        self._hops.setContentsMargins(0, 0, 0, 0)
        self._hops.setSpacing(5)
        self._lay_out()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self._title)
        head.addSpacing(8)
        head.addWidget(self._ways, 1)
        head.addWidget(self.live)
        head.addWidget(self.school)
        head.addWidget(self.write)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(4, 4, 4, 4)
        layout.setSpacing(5)
        layout.addLayout(head)
        middle = QHBoxLayout()
        middle.addWidget(self.view, 1)
        beside = QVBoxLayout(self._beside)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(self.door, 1)
        beside.addWidget(self.field)
        middle.addWidget(self._beside)
        layout.addLayout(middle, 1)
        layout.addWidget(self.live_bar)
        layout.addWidget(self.panel)
        layout.addWidget(self.strip)

    # -- sheets

    def show_bundle(self, bundle: Bundle, lookup: Lookup) -> None:
        """Take over the Plan for ways on and the rung panel."""
        if self._circuit.is_on and self._bundle is not None and not _is_same_circuit(bundle, self._bundle):
            self.live.setChecked(False)
        self._bundle, self._lookup = bundle, lookup
        self.panel.show_plan(bundle.plan)
        self.school.show_job(bundle.plan.job)
        self.live_bar.panel.show_job(bundle.plan.job)

    def show_sheets(self, sheets: tuple[Drawing, ...]) -> None:
        """Show the sheets; the one in view stays, by its number."""
        name = self._sheets[self._at].name if self._at < len(self._sheets) else ""
        self._sheets = sheets
        self._draft = None
        self._targets = {t.id: (n, t.x, t.y) for n, sheet in enumerate(sheets) for t in sheet.targets}
        same = next((n for n, sheet in enumerate(sheets) if sheet.name == name), None)
        first = next((n for n, sheet in enumerate(sheets) if sheet.chapter == "Power circuit"), 0)
        self.show_sheet(first if same is None else same)

    def show_sheet(self, index: int) -> None:
        """Turn to a sheet, counted from 0."""
        self._at = index
        sheet = self._sheets[index] if index < len(self._sheets) else None
        self.view.show_overlay(())
        self.view.show_drawing(sheet)
        self._circuit.show_sheet(sheet)
        self._show_title(sheet.title.partition(":")[0] if sheet is not None else "")
        self.strip.show_sheets(self._sheets, index)

    def _show_title(self, text: str) -> None:
        self._title.setText(text)
        if self._lookup is not None:
            self._show_hops(self.hub.selection, self._lookup)

    def show_target(self, target: str) -> None:
        """Turn to where a target lies, and ring it."""
        found = self._targets.get(target)
        if found is None:
            return
        self._target = target
        index, x, y = found
        if index != self._at or self._draft is not None:
            self._draft = None
            self.show_sheet(index)
        self.view.show_point(x, y)
        self.view.show_overlay((Circle(x=x, y=y, r=_RING_MM, width=0.6, tone=Tone.ATTENTION),))

    @property
    def target(self) -> str:
        """The target that was last gone to, else that of the sheet in view."""
        if self._target in self._targets and self._targets[self._target][0] == self._at:
            return self._target
        return next((t for t, (n, *_) in self._targets.items() if n == self._at), "")

    # -- selection and ways on

    def show_selection(self, ref: str, lookup: Lookup) -> None:
        """Mark the selection, and turn to the sheet where it is if this one does not show it."""
        marks = lookup.marks(ref) if ref else ()
        if marks and self._draft is None and not any(self.view.has(mark) for mark in marks):
            goal = f"device:{lookup.device(ref) or ref}"
            if goal in self._targets:
                self.show_sheet(self._targets[goal][0])
            else:
                self._turn_to(marks)
        self.view.mark(marks)
        if ref:
            self.view.centre_on(marks[-1] if self.view.has(marks[-1]) else ref)
        self._circuit.select(ref)
        self._show_hops(ref, lookup)

    def _turn_to(self, marks: tuple[str, ...]) -> None:
        for index, sheet in enumerate(self._sheets):
            if any(item.ref in marks for item in sheet.items):
                self.show_sheet(index)
                return

    def _show_hops(self, ref: str, lookup: Lookup) -> None:
        clear_layout(self._hops)
        hops = find_hops(self._bundle.plan, lookup, ref) if self._bundle is not None and ref else ()
        room = self.width() - self._title.sizeHint().width() - self.write.sizeHint().width() - 40
        room -= self.school.sizeHint().width() + self.live.sizeHint().width()
        for hop in hops:
            made = button(tr(hop.words), role="chip")
            room -= made.sizeHint().width() + 5
            if room < 0:
                made.deleteLater()
                break
            made.clicked.connect(lambda _=False, hop=hop: self.hub.hop_requested.emit(hop))
            self._hops.addWidget(made)
        self._hops.addStretch(1)

    def _on_view_menu_requested(self, ref: str, at: QPoint) -> None:
        """Open the ways on from what lies under the pointer."""
        if self._bundle is None or self._lookup is None or not ref:
            return
        self.hub.select(ref)
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for hop in find_hops(self._bundle.plan, self._lookup, ref):
            menu.addAction(tr(hop.words), partial(self.hub.hop_requested.emit, hop))
        menu.popup(at)

    def _on_view_followed(self, target: str, ref: str) -> None:
        elsewhere = bench_of(target)
        if elsewhere is not None:
            self.hub.hop_requested.emit(Hop(words="", bench=elsewhere[0], ref=elsewhere[1]))
        elif target in self._targets:
            self.hub.hop_requested.emit(Hop(words="", bench="circuit", ref=ref, target=target))

    def _on_view_spot_picked(self, ref: str, spot: str) -> None:
        is_writing = self.panel.isVisible()
        element = self._element_of(ref) if is_writing and self.panel.is_waiting else ""
        if element:
            self.panel.put_element(element)
            return
        if not self._circuit.is_on:
            self.view.show_overlay(())
        self.hub.select(ref)
        if is_writing and spot:
            self.panel.choose(spot)

    def _element_of(self, ref: str) -> str:
        """Return what a picked device puts into a path, with Shift as a break contact; empty for what is no device."""
        plan = self._bundle.plan if self._bundle is not None else None
        if plan is None or ref not in plan.tags:
            return ""
        is_shift = bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier)
        return element_to_pick(plan, ref, is_break=is_shift)

    # -- the rung that is written

    def _on_panel_draft_changed(self, draft: "Draft | None") -> None:
        if draft is None:
            if self._draft is not None:
                self._draft = None
                self.show_sheet(self._at)
            return
        if draft == self._draft:
            return
        from riktig.drawings.preview import preview_path

        self._draft = draft
        self.session.worker.ask(partial(preview_path, draft=draft), partial(self._take_preview, draft))

    def _take_preview(self, draft: "Draft", preview: "Preview | None") -> None:
        if draft is not self._draft or preview is None:
            return
        self._at = next((n for n, sheet in enumerate(self._sheets) if sheet.name == preview.drawing.name), self._at)
        self.view.show_overlay(())
        self.view.show_drawing(preview.drawing)
        self.view.mark(tuple(preview.refs))
        target = next((t for t in preview.drawing.targets if t.id.startswith(f"use:{preview.name}|")), None)
        if target is not None:
            self.view.show_point(target.x, target.y)
        self.strip.show_sheets(self._sheets, self._at)
        self._show_title(f"{preview.drawing.title.partition(':')[0]}   {tr('as it would be')}")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        acts = {
            Qt.Key.Key_S: self.panel.put_in_series, Qt.Key.Key_P: self.panel.put_in_parallel,
            Qt.Key.Key_N: self.panel.swap_element, Qt.Key.Key_Delete: self.panel.take_element_out,
        }  # fmt: skip
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_R:
            self.write.toggle()
        elif key == Qt.Key.Key_L:
            self.live.toggle()
        elif self._circuit.is_on and key in {Qt.Key.Key_Space, Qt.Key.Key_T, Qt.Key.Key_Period}:
            self._press_key(event)
        elif key in acts and self.panel.isVisible():
            acts[key]()
        elif key in {Qt.Key.Key_PageDown, Qt.Key.Key_PageUp}:
            step = 1 if key == Qt.Key.Key_PageDown else -1
            self.show_sheet(min(max(self._at + step, 0), max(len(self._sheets) - 1, 0)))
        else:
            super().keyPressEvent(event)

    def _press_key(self, event: QKeyEvent) -> None:
        """Space presses what is selected as long as it is held, T lets time run, a point is the next event."""
        if event.key() == Qt.Key.Key_T:
            self.live_bar.runs.toggle()
        elif event.key() == Qt.Key.Key_Period:
            self.live_bar.step.click()
        elif not event.isAutoRepeat():
            self._circuit.touch(self.hub.selection)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._circuit.let_go()
        super().keyReleaseEvent(event)

    def touch(self, device: str) -> None:
        """Press, turn, open or close a device of the live circuit."""
        self._circuit.touch(device)

    def let_go(self) -> None:
        """Let go of what is held."""
        self._circuit.let_go()

    def _on_live_toggled(self, is_on: bool) -> None:
        self.live_bar.setVisible(is_on)
        self.live_side.setVisible(is_on)
        self._beside.setVisible(is_on)
        if is_on and self._bundle is not None:
            self._circuit.switch_on(self._bundle)
            self._circuit.show_sheet(self.view.drawing)
        else:
            self._circuit.switch_off()

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)
        self.door.set_theme(theme)
        for part in (self.live_bar, self.live_side, self.field):
            part.set_theme(theme)


def _is_same_circuit(one: Bundle, other: Bundle) -> bool:
    """Return whether two bundles are of the same decisions, whatever scripts are kept with them."""
    first, second = (bundle.plan.job.model_copy(update={"scripts": ()}) for bundle in (one, other))
    return first == second
