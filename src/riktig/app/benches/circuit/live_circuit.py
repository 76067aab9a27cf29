"""Owns the live circuit of the bench: switched on and off, touched, run, gone back in. Must not compute: the player does."""

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QElapsedTimer, QObject, QTimer

from riktig.app.benches.circuit.live_bar import LiveBar
from riktig.app.benches.circuit.live_field import FieldView
from riktig.app.benches.circuit.live_papers import LivePapers
from riktig.app.benches.circuit.live_side import LiveSide
from riktig.app.canvas.view import DrawingView
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.turns import Turns
from riktig.desk.bundle import Bundle
from riktig.desk.errands import draw_the_door
from riktig.drawings.display import Drawing

if TYPE_CHECKING:
    from riktig.live.player import Player
    from riktig.live.simulation import Simulation

_TURN_MS = 40
_STEP_S = 0.04
"""So long a panel is switched on before the window paints and listens."""
_END = object()


@dataclass(frozen=True, slots=True, kw_only=True)
class LiveParts:
    """What stands around a live sheet: the strip below it, what is in the margin, the field beside it."""

    bar: LiveBar
    side: LiveSide
    field: FieldView


class LiveCircuit(QObject):
    """Plays with the panel and lays its state over the sheet in view."""

    def __init__(
        self, session: Session, views: tuple[DrawingView, DrawingView], parts: LiveParts, parent: QObject
    ) -> None:
        super().__init__(parent)
        self._session = session
        self._bar, self._side, self._field = parts.bar, parts.side, parts.field
        self._view, self._door = views
        self._player: Player | None = None
        self._coming: tuple[Simulation, Iterator[None]] | None = None
        """The panel that is being switched on, and the steps that are left."""
        self._then: Callable[[], None] = _do_nothing
        self._sheet: Drawing | None = None
        self._held, self._selected = "", ""
        self._at: float | None = None
        """The instant that is shown, None for now."""
        self._marked: tuple[str, ...] = ()
        self._kinds: dict[str, str] = {}
        self._terminal_of: dict[str, str] = {}
        self._timer = QTimer(self, interval=_TURN_MS)
        self._timer.timeout.connect(self._on_timer)
        self._clock = QElapsedTimer()
        self._turns = Turns(self._go_on_switching, self)
        bar = self._bar
        bar.runs.toggled.connect(self._on_runs_toggled)
        self._field.moved.connect(self._on_field_moved)
        self._side.way.toggled.connect(self._show_words)
        bar.step.clicked.connect(self._on_step_clicked)
        self._papers = LivePapers(session, self, bar)
        bar.line.went_to.connect(self._on_line_went_to)
        for view in views:
            view.held.connect(self.touch)
            view.let_go.connect(self.let_go)

    @property
    def player(self) -> "Player | None":
        """The panel that is played with, None while none is on."""
        return self._player

    @property
    def picture(self) -> Drawing | None:
        """The sheet in view with what is laid over it, None where there is none."""
        sheet = self._sheet
        return replace(sheet, items=(*sheet.items, *self._view.overlay)) if sheet is not None else None

    @property
    def is_on(self) -> bool:
        """Whether the circuit is live, or about to be."""
        return self._player is not None or self._coming is not None

    def switch_on(self, bundle: Bundle, then: Callable[[], None] | None = None) -> None:
        """Switch the panel on, a large one in several turns of the window; then time runs, or what is wanted is done."""
        from riktig.live.simulation import Simulation

        self.switch_off()
        self._then = then or partial(self._bar.runs.setChecked, True)
        coming = Simulation(bundle.plan, is_on=False)
        self._coming = (coming, coming.switching_on())
        self._go_on_switching()
        if self._coming is not None:
            self._bar.show_words(tr("Switching on…"))
            self._turns.start()

    def _go_on_switching(self) -> None:
        began = time.perf_counter()
        while self._coming is not None and time.perf_counter() - began < _STEP_S:
            simulation, steps = self._coming
            if next(steps, _END) is _END:
                self._turns.stop()
                self._coming = None
                self._begin(simulation)

    def _begin(self, simulation: "Simulation") -> None:
        """Play with a panel that has just been switched on."""
        from riktig.live.player import Player

        plan = simulation.plan
        self._player = Player(plan, simulation)
        self._terminal_of = {f"net:{p.number}": p.net.terminals[0] for p in plan.potentials if p.net.terminals}
        self._kinds = {device.id: device.kind for device in plan.circuit.devices}
        self._session.worker.ask(draw_the_door, self._take_door)
        self._at = None
        self._bar.show_words("")
        self._then()
        QTimer.singleShot(0, self._show)  # in a turn of its own

    def _take_door(self, door: Drawing | None) -> None:
        """Show the door beside the sheet, drawn by the worker."""
        from riktig.drawings.live_door import extent_of

        if self._player is not None and door is not None:
            self._door.show_drawing(door)
            self._door.show_part(*extent_of(door, self._kinds))
            self._show()

    def switch_off(self) -> None:
        """Let the drawing be a drawing again."""
        self._player, self._coming = None, None
        self._turns.stop()
        self._timer.stop()
        self._bar.runs.setChecked(False)
        self._view.show_overlay(())
        self._door.show_drawing(None)

    def show_sheet(self, sheet: Drawing | None) -> None:
        """Lay the state over another sheet."""
        self._sheet = sheet
        self._show()

    # -- hands

    def touch(self, device: str) -> None:
        """Press, turn, open or close a device, and let go when the button of the mouse is."""
        if self._player is None or not self._player.may_touch(device):
            return
        self._at = None
        self._held = device
        self._player.touch(device)
        self._show()

    def let_go(self) -> None:
        """Let go of what is held."""
        device, self._held = self._held, ""
        if self._player is not None and device:
            self._player.let_go(device)
            self._show()

    def _on_field_moved(self, name: str, metres: float) -> None:
        if self._player is not None:
            self._at = None
            self._player.set_level(name, metres)
            self._show()

    def select(self, ref: str) -> None:
        """Say of what is selected what it is, and what stands in its way."""
        self._selected, self._marked = ref, ()  # the bench has marked it by itself
        self._show_words()

    # -- time

    def _on_runs_toggled(self, is_running: bool) -> None:
        if is_running and self._player is not None:
            self._clock.start()
            self._timer.start()
        else:
            self._timer.stop()

    def _on_timer(self) -> None:
        if self._player is None:
            return
        seconds = self._clock.restart() / 1000.0 * float(self._bar.speed.currentData())
        before = len(self._player.simulation.log)
        if self._let_go_by(seconds) and self._at is None:
            if len(self._player.simulation.log) != before:
                self._show(seconds)
            else:
                self._show_time(seconds)

    def _let_go_by(self, seconds: float) -> bool:
        """Let time go by; where more happens than can be followed it stands still, and that is said."""
        from riktig.live.gear import ActionError

        assert self._player is not None
        try:
            self._player.run(seconds)
        except ActionError as error:
            self._bar.runs.setChecked(False)
            self._show()
            self._bar.show_words(str(error))
            return False
        return True

    def _on_step_clicked(self) -> None:
        if self._player is not None:
            self._bar.runs.setChecked(False)
            self._at = None
            self._player.step()
            self._show()

    def _on_line_went_to(self, time: float) -> None:
        if self._player is not None:
            self._at = None if time >= self._player.simulation.now else time
            self._show()

    # -- what is shown

    def _show(self, seconds: float = 0.0) -> None:
        if self._player is None:
            return
        from riktig.drawings.circuit.live import live_overlay
        from riktig.drawings.live_door import door_overlay

        state = self._player.state_at(self._at)
        self._door.show_overlay(
            door_overlay(self._door.drawing, state, self._kinds) if self._door.drawing is not None else ()
        )
        if self._sheet is not None:
            self._view.show_overlay(live_overlay(self._sheet, state, self._terminal_of))
        self._show_time(seconds)
        self._show_words()

    def _show_time(self, seconds: float = 0.0) -> None:
        player = self._player
        if player is None:
            return
        now = player.simulation.now
        at = now if self._at is None else self._at
        self._bar.time.setText(f"{at:.2f} s")
        names = player.plan.tags
        self._field.show_field(player.tanks(self._at), player.motors(self._at), seconds)
        self._bar.line.show_lanes(
            tuple((names.get(lane.device, lane.device), lane.spans) for lane in player.lanes), now, at
        )

    def _show_words(self) -> None:
        """Say what the selected thing is at the instant that is shown, and where that is wanted light up by which way it is fed."""
        if self._player is None:
            return
        reading = self._player.reading_of(self._selected, self._at) if self._selected else None
        self._side.show_reading(reading)
        way = reading.way if reading is not None and self._side.way.isChecked() else ()
        passed = (part for one in way for part in (one.device, *(f"net:{number}" for number in one.numbers)))
        marked = (self._selected, *dict.fromkeys(passed)) if way else ()
        if marked != self._marked:
            self._marked = marked
            self._view.mark(marked or (self._selected,))


def _do_nothing() -> None:
    pass
