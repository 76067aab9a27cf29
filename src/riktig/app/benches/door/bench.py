"""Owns the Door bench: door, walls and stations to scale with their holes, the side section of depth, measuring before cutting."""

from PySide6.QtWidgets import QComboBox, QVBoxLayout

from riktig.app.benches.door.measure_card import MARKS, MeasureCard
from riktig.app.benches.hand.bench import HandBench
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, label
from riktig.desk.bundle import Bundle
from riktig.drawings.display import Drawing, Point
from riktig.drawings.door import DOOR_CORNER, STATION_CORNER, block_words, cutout_area, draw_hole_hand, draw_station
from riktig.drawings.entry_wall import draw_entry_wall, entry_corner, letter_size
from riktig.drawings.section import draw_section
from riktig.drawings.wall import WALL_CORNER, draw_wall
from riktig.plan.answers.lookup import Lookup
from riktig.plan.changes.door import (
    DOOR_FACE,
    ENTRY_FACE,
    HoleMove,
    edit_of,
    holes_of,
    letting_go,
    movable_holes,
    station_face,
    try_hole_move,
    wall_face,
)
from riktig.plan.place.depth import clear_depth
from riktig.plan.plan import Plan
from riktig.record.cutouts import CutoutState
from riktig.record.progress import Progress

_SECTION = "section"
_LETTERS_MM = {DOOR_FACE: 12.0, wall_face("left"): 12.0, wall_face("right"): 12.0}
_STATION_LETTERS_MM = 6.0


_IDLE = {
    DOOR_FACE: "Drag a device; arrow keys nudge what is selected. The main switch follows from the plate.",
    ENTRY_FACE: "Drag a hole; arrow keys nudge what is selected. The others go around what is held.",
}
_IDLE |= dict.fromkeys(
    map(wall_face, ("left", "right")), "Drag what sits in the wall; dashed is what stands near it inside."
)
_IDLE_STATION = "Drag a device; arrow keys nudge what is selected. The box is as large as its holes ask."
_FOLLOWS = {DOOR_FACE: "The main switch follows from the plate: move it there."}
_FOLLOWS_BOX = "The earth stud sits in the corner of its box."


class DoorBench(HandBench):
    """A device or gland is dragged where it should sit; what stands against that is said at once. Beside it, what is measured before
    cutting.
    """

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme, tr("Door"))
        self._plan: Plan | None = None
        self._bundle: Bundle | None = None
        self._progress: Progress | None = None
        self._held = ""
        self._grip = (0.0, 0.0)
        self._move: HoleMove | None = None
        self.view.picked.connect(hub.select)
        self.chooser = QComboBox()
        self.chooser.setAccessibleName(tr("What is shown"))
        self.chooser.currentIndexChanged.connect(self._show_chosen)
        self.facts = label("")
        self.blocks = label("", role="quiet")
        self.pin = button(tr("Pin"), tip=tr("Hold what is selected where it is, or let it go again"))
        self.pin.clicked.connect(self._on_pin_clicked)
        self.card = MeasureCard()
        self.card.measured.connect(self._on_card_measured)
        self.count = label("", role="quiet")
        column = QVBoxLayout()
        for widget in (self.chooser, self.facts, self.blocks, self.pin, self.card, self.count):
            column.addWidget(widget)
        self.lay_out(column)

    # -- what is shown

    def show_bundle(self, bundle: Bundle, lookup: Lookup) -> None:
        """Show the door."""
        self._bundle, self._plan, self._move, self._held = bundle, bundle.plan, None, ""
        wanted = self._face()
        choices = [(DOOR_FACE, tr("Door")), (_SECTION, tr("Side section"))]
        if bundle.plan.entries:
            choices.append((ENTRY_FACE, tr("Entry wall")))
        choices.extend((wall_face(w.side), tr(f"{w.side.capitalize()} wall")) for w in bundle.plan.walls)
        choices.extend((station_face(s.location), f"{tr('Station')} {s.location}") for s in bundle.plan.stations)
        self.chooser.blockSignals(True)
        self.chooser.clear()
        for key, name in choices:
            self.chooser.addItem(name, key)
        self.chooser.setCurrentIndex(
            max(0, [key for key, _ in choices].index(wanted) if wanted in dict(choices) else 0)
        )
        self.chooser.blockSignals(False)
        self.show_selection(self.hub.selection, lookup)

    def show_progress(self, progress: Progress) -> None:
        """Show what was measured."""
        self._progress = progress
        self._show_card()

    def show_selection(self, ref: str, lookup: Lookup) -> None:
        """Mark the selection, and show what is to be measured of it."""
        if self._plan is None:
            return
        self._show_chosen()
        self.view.mark(lookup.marks(ref) if ref else ())
        self.pin.setEnabled(self._device(ref) in movable_holes(self._plan, self._face()))
        self.pin.setText(tr("Unpin") if self._is_held(self._device(ref)) else tr("Pin"))
        self._show_card()

    def _show_chosen(self) -> None:
        plan, bundle = self._plan, self._bundle
        if plan is None or bundle is None:
            return
        chosen = self._face()
        self.view.take_movable(frozenset(c.device for c in holes_of(plan, chosen)))
        before = self.view.drawing
        self.view.show_drawing(self._drawing(plan, bundle, chosen))
        if chosen == DOOR_FACE and (before is None or before.name != bundle.door.name):
            self.view.show_part(*cutout_area(plan))
        self.show_overlay()
        device = self._device(self.hub.selection)
        self.blocks.setText(block_words(plan, device) if device in plan.door.boxes and device in plan.parts else "")
        self.blocks.setVisible(bool(self.blocks.text()))
        facts = [f"{tr('Between plate and door')}: {clear_depth(plan.job.enclosure):g} mm"]
        if plan.door.shaft is not None:
            facts.append(f"{tr('Shaft of the main switch')}: {plan.door.shaft:.0f} mm, {tr('centre')} ± 3 mm")
        loom = tr("the loom goes over there, half way from the middle to what stands on the door")
        facts.append(f"{tr('Hinges')}: {tr(plan.job.enclosure.hinge)}; {loom}")
        meetings = plan.door.meetings
        facts.append(
            f"✗ {len(meetings)} {tr('meet something behind')}"
            if meetings
            else f"✓ {tr('nothing meets when shut or swinging')}"
        )
        self.facts.setText("\n".join(facts))
        if movable_holes(plan, chosen):
            self.say(tr(_IDLE.get(chosen, _IDLE_STATION)))
        else:
            self.say("")

    def _drawing(self, plan: Plan, bundle: Bundle, chosen: str) -> Drawing:
        if chosen == _SECTION:
            return draw_section(plan, self._device(self.hub.selection))
        if chosen == ENTRY_FACE:
            return draw_entry_wall(plan)
        wall = next((w for w in plan.walls if chosen == wall_face(w.side)), None)
        if wall is not None:
            return draw_wall(plan, wall)
        station = next((s for s in plan.stations if chosen == station_face(s.location)), None)
        return draw_station(plan, station) if station is not None else bundle.door

    def show_overlay(self) -> None:
        """Draw what is in the hand."""
        if self._plan is None:
            return
        if self._move is None:
            self.view.show_overlay(())
            return
        face = self._face()
        letters = letter_size(self._plan) if face == ENTRY_FACE else _LETTERS_MM.get(face, _STATION_LETTERS_MM)
        name = self._name(self._move.cutout.device)
        self.view.show_overlay(draw_hole_hand(self._move, name, self._corner(self._plan), letters))

    def _face(self) -> str:
        return str(self.chooser.currentData() or DOOR_FACE)

    def _corner(self, plan: Plan) -> Point:
        face = self._face()
        if face == ENTRY_FACE:
            return entry_corner(plan)
        known = {DOOR_FACE: DOOR_CORNER, **{wall_face(wall.side): WALL_CORNER for wall in plan.walls}}
        return known.get(face, STATION_CORNER)

    def _name(self, key: str) -> str:
        return (
            self._plan.name_of(key) if self._plan is not None and key in self._plan.tags else key.removeprefix("cable:")
        )

    def _is_held(self, key: str) -> bool:
        assert self._plan is not None
        ledger = self._plan.job.ledger
        choice = (ledger.places if self._face() == DOOR_FACE else ledger.holes).get(key)
        return choice is not None and choice.is_held

    def _show_card(self) -> None:
        if self._progress is None or self._plan is None:
            return
        checks = self._progress.checks
        ref = self.hub.selection
        check = next((c for c in checks.values() if ref and c.planned.ref in {ref, self._device(ref)}), None)
        name = (
            self._plan.tags.get(check.planned.ref, check.planned.ref.removeprefix("cable:"))
            if check is not None
            else ""
        )
        self.card.show_check(check, name)
        agreed = sum(c.state is CutoutState.AGREED for c in checks.values())
        waiting = [c for c in checks.values() if c.state in {CutoutState.APART, CutoutState.OFF}]
        words = f"{MARKS[CutoutState.AGREED]} {agreed} {tr('of')} {len(checks)} {tr('cut-outs may be cut')}"
        self.count.setText(words + (f"; ✗ {len(waiting)} {tr('to measure again')}" if waiting else ""))

    def _device(self, ref: str) -> str:
        """Return the device that a selection stands for."""
        return ref.rpartition(":")[0] if ":" in ref and not ref.startswith(("net:", "wire:", "cable:")) else ref

    # -- by hand

    def _on_view_grabbed(self, ref: str, x: float, y: float) -> None:
        if self._plan is None or ref not in movable_holes(self._plan, self._face()):
            self.say(tr(_FOLLOWS.get(self._face(), _FOLLOWS_BOX)), "danger")
            return
        cutout = next(c for c in holes_of(self._plan, self._face()) if c.device == ref)
        corner = self._corner(self._plan)
        self._held = ref
        self._grip = (x - corner[0] - cutout.x, y - corner[1] - cutout.y)
        self.hub.select(ref)

    def _on_view_carried(self, x: float, y: float) -> None:
        if self._plan is None or not self._held:
            return
        corner = self._corner(self._plan)
        at = (x - corner[0] - self._grip[0], y - corner[1] - self._grip[1])
        self._move = try_hole_move(self._plan, self._face(), self._held, *at)
        self.show_overlay()
        self._say_move(self._move)

    def _say_move(self, move: HoleMove) -> None:
        name = self._name(move.cutout.device)
        if move.is_legal:
            self.say(f"✓ {name}: {move.cutout.x:g} / {move.cutout.y:g} mm", "done")
        else:
            self.say(f"✗ {name}: " + "; ".join(move.problems[:3]), "danger")

    def _on_view_dropped(self, x: float, y: float) -> None:
        self._on_view_carried(x, y)
        move, self._move, self._held = self._move, None, ""
        if move is not None:
            self._keep_if_legal(move)

    def drop_hand(self) -> None:
        """Have nothing in the hand any more."""
        self._move, self._held = None, ""

    def _on_view_nudged(self, dx: float, dy: float) -> None:
        key, face = self._device(self.hub.selection), self._face()
        if self._plan is None or key not in movable_holes(self._plan, face):
            return
        cutout = next(c for c in holes_of(self._plan, face) if c.device == key)
        self._keep_if_legal(try_hole_move(self._plan, face, key, cutout.x + dx, cutout.y + dy, snap=False))

    def _keep_if_legal(self, move: HoleMove) -> None:
        if self._plan is None:
            return
        if move.is_legal:
            self.session.apply(edit_of(self._plan, self._face(), move), f"move {self._name(move.cutout.device)}")
        else:
            self.show_overlay()
            self._say_move(move)

    def _on_pin_clicked(self) -> None:
        key, face = self._device(self.hub.selection), self._face()
        if self._plan is None or key not in movable_holes(self._plan, face):
            return
        is_held = self._is_held(key)
        words = f"{'let go' if is_held else 'pin'} {self._name(key)}"
        if is_held:
            self.session.apply(letting_go(self._plan, face, key), words)
        else:
            hole = next(c for c in holes_of(self._plan, face) if c.device == key)
            self.session.apply(edit_of(self._plan, face, HoleMove(cutout=hole, problems=())), words)

    def _on_card_measured(self, x: float, y: float) -> None:
        if self._progress is None:
            return
        ref = self.hub.selection
        found = [c for c in self._progress.checks.values() if c.planned.ref in {ref, self._device(ref)}]
        if found:
            self.session.record.measure_place(found[0].planned, x, y)
