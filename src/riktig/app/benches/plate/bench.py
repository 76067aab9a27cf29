"""Owns the Plate bench: the plate to scale, its parts dragged by hand or arranged, overlays and figures beside it."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QCheckBox, QComboBox, QVBoxLayout, QWidget

from riktig.app.benches.hand.bench import HandBench
from riktig.app.benches.plate.ahead import Ahead, KnownFaults
from riktig.app.benches.plate.figures_side import FiguresSide
from riktig.app.benches.plate.hand_tools import HandTools
from riktig.app.benches.progress_line import ProgressLine
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, label
from riktig.checks.plate import say_fault
from riktig.desk.bundle import Bundle
from riktig.drawings.open_panel import draw_ways, open_shift
from riktig.drawings.plate import plate_origin
from riktig.drawings.plate_overlays import Overlay, draw_hand, draw_overlay
from riktig.job.faults import JobError
from riktig.plan.answers.lookup import Lookup
from riktig.plan.answers.moved import with_layout
from riktig.plan.answers.plate_figures import plate_figures
from riktig.plan.arrange.edit import arrange_plate
from riktig.plan.changes import plate as plate_edits
from riktig.plan.changes import together
from riktig.plan.changes.plate import Move, pin_all
from riktig.plan.place.faults import PlateFault
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor

if TYPE_CHECKING:
    from riktig.checks.enclosure import EnclosureProposal
    from riktig.desk.messages import Edit
    from riktig.standards.enclosures import EnclosureSize

RESIZE_MM = 10.0
_OVERLAYS = (
    (Overlay.NOTHING, "Nothing over it"),
    (Overlay.WIRES, "All wires"),
    (Overlay.FILL, "Fill of ducts"),
    (Overlay.LOSSES, "Losses in W"),
    (Overlay.CLEARANCES, "Clearances"),
    (Overlay.REACH, "Reach of wires"),
)
_IDLE = "Drag a part; arrow keys nudge what is selected, with Shift by 10 mm. Wheel zooms, a double-click brings near, Home fits."


class PlateBench(HandBench):
    """The plate with everything on it. A drag shows at once what is wrong where the part would go; only what is legal is kept."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme, tr("Plate"))
        self._bundle: Bundle | None = None
        self._plan: Plan | None = None
        self._lookup: Lookup | None = None
        self._ahead = Ahead(session, self)
        self._known = KnownFaults(self)
        self._grip = (0.0, 0.0)
        self._held = ""
        self._moves: tuple[Move, ...] = ()
        self._new = ""
        self._swapping = ""
        self._size: EnclosureSize | None = None
        self.view.picked.connect(self._on_view_picked)
        self.view.spotted.connect(self._on_view_spotted)
        self.figures = FiguresSide()
        self.overlay = QComboBox()
        self.overlay.setAccessibleName(tr("What is laid over the plate"))
        for sort, name in _OVERLAYS:
            self.overlay.addItem(tr(name), sort)
        self.overlay.currentIndexChanged.connect(self.show_overlay)
        self.door = QCheckBox(tr("With the open door"))
        self.door.setToolTip(tr("As one stands before the open panel: the door beside it from inside"))
        self.door.toggled.connect(self.show_overlay)
        self.progress = ProgressLine(tr("Looking for the shortest wires"))
        self.progress.stopped.connect(session.long.stop)
        session.long.told.connect(self.progress.show_share)
        self.arrange = button(
            tr("Arrange"), role="primary", tip=tr("Order all parts for the least wire; what is pinned stays")
        )
        self.arrange.clicked.connect(lambda: session.apply(arrange_plate, tr("arrange the plate"), takes_time=True))
        self.enclosure = button(
            tr("Smallest enclosure?"), tip=tr("Try the standard series, and what stops the next smaller one")
        )
        self.enclosure.clicked.connect(self._on_enclosure_clicked)
        self.proposal = label("")
        self.proposal.hide()
        self.take = button(tr("Take it"))
        self.take.clicked.connect(self._on_take_clicked)
        self.take.hide()
        self._tools = tools = HandTools()
        self.pin, self.swap, self.remove, self.together = tools.pin, tools.swap, tools.remove, tools.together
        self.rail, self.level, self.upright, self.row = tools.rail, tools.level, tools.upright, tools.row
        self.longer, self.shorter = tools.longer, tools.shorter
        self.pin.clicked.connect(self._on_pin_clicked)
        self.swap.clicked.connect(self._on_swap_clicked)
        for made, new in ((self.rail, "rail"), (self.level, "level"), (self.upright, "upright"), (self.row, "row")):
            made.clicked.connect(lambda _=False, new=new: self._ask_spot(new))
        self.remove.clicked.connect(self._on_remove_clicked)
        for made, by in ((self.longer, RESIZE_MM), (self.shorter, -RESIZE_MM)):
            made.clicked.connect(lambda _=False, by=by: self._resize(by))
        for keys, act in (
            ("P", self._on_pin_clicked),
            ("S", self._on_swap_clicked),
            ("Del", self._on_remove_clicked),
            ("T", self.together.toggle),
        ):
            QShortcut(QKeySequence(keys), self, act, context=Qt.ShortcutContext.WidgetWithChildrenShortcut)
        self._lay_out()

    def _lay_out(self) -> None:
        side = QVBoxLayout()
        above: tuple[QWidget, ...] = (self.arrange, self.progress, self.overlay, self.door, self.figures)
        below: tuple[QWidget, ...] = (self.enclosure, self.proposal, self.take)
        for widget in above:
            side.addWidget(widget)
        side.addWidget(self._tools)
        for widget in below:
            side.addWidget(widget)
        self.lay_out(side)

    # -- what is shown

    def show_bundle(self, bundle: Bundle, lookup: Lookup) -> None:
        """Take over the plate; it is drawn with the selection, which follows."""
        self._bundle, self._plan, self._lookup = bundle, bundle.plan, lookup
        self._moves, self._held = (), ""
        plate = bundle.plan.plate
        self._known.take(plate)
        self.view.take_movable(
            frozenset((*plate.items, *(r.code for r in plate.rails), *(d.code for d in plate.ducts)))
        )
        self.figures.show_figures(bundle.plan, plate_figures(bundle.plan))

    def show_selection(self, ref: str, lookup: Lookup) -> None:
        """Draw the plate with the ways of the wires of the selection, and mark that."""
        if self._plan is None:
            return
        self.show_overlay()
        self.view.mark(lookup.marks(ref) if ref else ())
        item = self._movable(ref)
        choice = self._plan.job.ledger.places.get(plate_edits.ledger_key(self._plan.plate, item)) if item else None
        self.pin.setText(tr("Unpin") if choice is not None and choice.is_held else tr("Pin"))
        self.pin.setEnabled(bool(item))
        self.swap.setEnabled(item in self._plan.plate.items)
        for made in (self.remove, self.longer, self.shorter):
            made.setEnabled(bool(item) and item not in self._plan.plate.items)
        self.say(tr(_IDLE) if not ref else _say_wires(self._plan, lookup.conductors(ref)))

    def show_overlay(self) -> None:
        """Draw the plate, with the open door where that is wanted, the overlay, the wires of the selection, and what is in the hand."""
        if self._plan is None or self._lookup is None or self._bundle is None:
            return
        if self.door.isChecked():
            self.view.show_drawing(self._bundle.open_panel, shift=open_shift(self._plan))
        else:
            self.view.show_drawing(self._bundle.plate)
        items = list(draw_overlay(self._plan, Overlay(self.overlay.currentData())))
        ref = self.hub.selection
        items.extend(
            draw_ways(self._plan, self._lookup.conductors(ref), with_door=self.door.isChecked()) if ref else ()
        )
        items.extend(draw_hand(self._plan, self._moves, self._name))
        self.view.show_overlay(items)

    def _name(self, key: str) -> str:
        return self._plan.tags.get(key, key) if self._plan is not None else key

    def _movable(self, ref: str) -> str:
        """Return what of the plate a selection stands for, "" for nothing that can be moved."""
        self._ahead.show()
        if self._plan is None or not ref:
            return ""
        plate = self._plan.plate
        for name in (ref, ref.rpartition(":")[0]):
            if name in plate.items or plate.rail(name) is not None or plate.duct(name) is not None:
                return name
        return ""

    # -- by hand

    def _on_view_picked(self, ref: str) -> None:
        if self._swapping and self._plan is not None:
            one, other = self._swapping, self._movable(ref)
            self._swapping = ""
            if other in self._plan.plate.items and other != one:
                first, second = plate_edits.try_swap(self._plan.plate, one, other)
                self._keep_if_legal((first, second), second.faults, f"swap {self._name(one)} and {self._name(other)}")
                return
        self.hub.select(ref)

    def _on_view_grabbed(self, ref: str, x: float, y: float) -> None:
        self._ahead.show()
        if self._plan is None:
            return
        ox, oy = plate_origin(self._plan)
        plate = self._plan.plate
        rail, duct = plate.rail(ref), plate.duct(ref)
        box = plate.boxes.get(ref) or (rail.box if rail is not None else duct.box if duct is not None else None)
        if box is not None:
            self._held, self._grip = ref, (x - ox - box.x, y - oy - box.y)
            self.hub.select(ref)

    def _on_view_carried(self, x: float, y: float) -> None:
        move = self._carry(x, y)
        if move is None or self._plan is None:
            return
        self.show_overlay()
        self._say_move(move)
        if move.is_legal:
            ahead = with_layout(self._plan, move.layout)
            self.figures.show_figures(ahead, plate_figures(ahead))

    def _carry(self, x: float, y: float) -> Move | None:
        """Return what dropping what is held at a point of the drawing would do, None with nothing in the hand."""
        if self._plan is None or not self._held:
            return None
        ox, oy = plate_origin(self._plan)
        at = (x - ox - self._grip[0], y - oy - self._grip[1])
        plate, known = self._plan.plate, self._known.faults
        if self.together.isChecked():
            self._moves = together.try_together(plate, self._held, *at, known=known)
        else:
            self._moves = (plate_edits.try_move(plate, self._held, *at, known=known),)
        return next((move for move in self._moves if move.key == self._held), self._moves[-1])

    def _say_move(self, move: Move) -> None:
        if move.is_legal:
            self.say(f"✓ {self._name(move.key)}: {move.box.x:.0f} / {move.box.y:.0f} mm", "done")
        else:
            self.say("✗ " + "; ".join(say_fault(fault, self._name) for fault in move.faults[:2]), "danger")

    def _on_view_dropped(self, x: float, y: float) -> None:
        move = self._carry(x, y)
        self._held = ""
        if move is not None:
            self._keep_if_legal(self._moves, move.faults, f"move {self._name(move.key)}")

    def drop_hand(self) -> None:
        """Have nothing in the hand any more; the figures are those of the plate again."""
        self._moves, self._held = (), ""
        if self._plan is not None:
            self.figures.show_figures(self._plan, plate_figures(self._plan))

    def _on_view_nudged(self, dx: float, dy: float) -> None:
        item = self._movable(self.hub.selection)
        if self._plan is None or not item:
            return
        plate, known = self._plan.plate, self._known.faults
        if self.together.isChecked():
            moves = together.nudge_together(plate, item, dx, dy, known=known)
        else:
            moves = (plate_edits.nudge(plate, item, dx, dy, known=known),)
        self._keep_if_legal(moves, moves[-1].faults, f"nudge {self._name(item)}")

    def _keep_if_legal(
        self, moves: tuple[Move, ...], faults: tuple[PlateFault, ...], gesture: str, edit: "Edit | None" = None
    ) -> None:
        """Keep moves, or say what stands against them and leave everything where it was."""
        self._moves = ()
        if faults:
            self.show_overlay()
            self.say("✗ " + "; ".join(say_fault(fault, self._name) for fault in faults[:2]), "danger")
            return
        if self._bundle is not None and not self.session.is_read_only:
            self._ahead.begin(self._bundle, moves[-1].layout)
        self.session.apply(edit or partial(plate_edits.keep_moves, moves=plate_edits.places_of(moves)), gesture)

    # -- rails, ducts, pins

    def _ask_spot(self, sort: str) -> None:
        self._new = sort
        self.view.is_spotting = True
        self.view.setCursor(Qt.CursorShape.CrossCursor)
        self.say(tr("Click where it should go on the plate."))

    def _on_view_spotted(self, x: float, y: float) -> None:
        self.view.is_spotting = False
        self.view.unsetCursor()
        self._ahead.show()
        if self._plan is None:
            return
        ox, oy = plate_origin(self._plan)
        plate, at = self._plan.plate, (x - ox, y - oy)
        if self._new == "row":
            try:
                moves = together.insert_row(self._plan.job, plate, at[1])
            except JobError as error:
                self.say(f"✗ {error}", "danger")
                return
            places, new = together.row_of(moves)
            edit = partial(together.keep_row, moves=places, new=new)
            self._keep_if_legal(moves, moves[-1].faults, f"put in row {moves[-2].key}", edit)
            return
        if self._new == "rail":
            move = plate_edits.new_rail(plate, *at)
        else:
            move = plate_edits.new_duct(self._plan.job, plate, *at, is_vertical=self._new == "upright")
        self._keep_if_legal((move,), move.faults, f"add {move.key}")

    def _on_pin_clicked(self) -> None:
        item = self._movable(self.hub.selection)
        if self._plan is None or not item:
            return
        key = plate_edits.ledger_key(self._plan.plate, item)
        choice = self._plan.job.ledger.places.get(key)
        is_held = choice is not None and choice.is_held
        words = f"{'let go' if is_held else 'pin'} {self._name(item)}"
        self.session.apply(partial(pin_all, keys=(key,), is_held=not is_held), words)

    def _on_swap_clicked(self) -> None:
        item = self._movable(self.hub.selection)
        if self._plan is not None and item in self._plan.plate.items:
            self._swapping = item
            self.say(f"{tr('Click what should change places with')} {self._name(item)}.")

    def _on_remove_clicked(self) -> None:
        item = self._movable(self.hub.selection)
        if self._plan is not None and item and item not in self._plan.plate.items:
            self.session.apply(partial(plate_edits.take_away, name=item), f"take away {item}")

    def _resize(self, by: float) -> None:
        item = self._movable(self.hub.selection)
        if self._plan is not None and item and item not in self._plan.plate.items:
            move = plate_edits.resized(self._plan.plate, item, by)
            self._keep_if_legal((move,), move.faults, f"make {item} {'longer' if by > 0 else 'shorter'}")

    # -- the enclosure

    def _on_enclosure_clicked(self) -> None:
        self.enclosure.setEnabled(False)
        self.proposal.setText(tr("Trying the series…"))
        self.proposal.show()
        self.session.worker.ask(ask_enclosure, self._take_proposal)

    def _take_proposal(self, found: "EnclosureProposal | None") -> None:
        self.enclosure.setEnabled(True)
        if found is None or self._plan is None:
            self.proposal.hide()
            return
        now = self._plan.job.enclosure
        is_other = found.size is not None and (now.width, now.height, now.depth) != (
            found.size.width, found.size.height, found.size.depth,
        )  # fmt: skip
        self._size = found.size
        self.proposal.setText(found.words)
        self.take.setVisible(is_other)

    def _on_take_clicked(self) -> None:
        from riktig.checks.enclosure import with_size

        self.take.hide()
        self.proposal.hide()
        if self._size is not None:
            self.session.apply(partial(with_size, size=self._size), f"enclosure {self._size}")


def ask_enclosure(plan: Plan) -> "EnclosureProposal":
    """Return the smallest enclosure of the series; asked of the worker."""
    from riktig.checks.enclosure import propose_enclosure

    return propose_enclosure(plan)


def _say_wires(plan: Plan, wires: tuple[Conductor, ...]) -> str:
    inside = [c for c in wires if c.kind == "wire"]
    if not inside:
        return tr("No wire inside the panel.")
    if len(inside) == 1:
        wire = inside[0]
        ends = f"{plan.terminal_label(wire.a)} to {plan.terminal_label(wire.b)}"
        return f"Wire {wire.number}: {ends}, {wire.length_mm:g} mm {wire.way}"
    total = sum(c.length_mm for c in inside) / 1000
    return f"{len(inside)} wires, {total:.1f} m together"
