"""Owns the live circuit of the bench: switched on and off, touched, run, gone back in. Must not compute: the player does."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QElapsedTimer, QObject, QTimer

from riktig.app.benches.circuit.live_bar import LiveBar
from riktig.app.canvas.view import DrawingView
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.desk.bundle import Bundle
from riktig.drawings.display import Drawing

if TYPE_CHECKING:
    from riktig.job.scripts import Script
    from riktig.live.player import Player

_TURN_MS = 50


class LiveCircuit(QObject):
    """Plays with the panel and lays its state over the sheet in view."""

    def __init__(self, session: Session, views: tuple[DrawingView, DrawingView], bar: LiveBar, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._bar = session, bar
        self._view, self._door = views
        self._player: Player | None = None
        self._sheet: Drawing | None = None
        self._held, self._selected = "", ""
        self._at: float | None = None
        self._kinds: dict[str, str] = {}
        self._terminal_of: dict[str, str] = {}
        self._timer = QTimer(self, interval=_TURN_MS)
        self._timer.timeout.connect(self._on_timer)
        self._clock = QElapsedTimer()
        bar.runs.toggled.connect(self._on_runs_toggled)
        bar.levels.moved.connect(self._on_levels_moved)
        bar.way.toggled.connect(self._show_way)
        bar.step.clicked.connect(self._on_step_clicked)
        bar.menu.aboutToShow.connect(self._fill_menu)
        bar.line.went_to.connect(self._on_line_went_to)
        for view in views:
            view.held.connect(self.touch)
            view.let_go.connect(self.let_go)

    @property
    def is_on(self) -> bool:
        """Whether the circuit is live."""
        return self._player is not None

    def switch_on(self, bundle: Bundle) -> None:
        """Switch the panel on."""
        from riktig.drawings.door import draw_door
        from riktig.drawings.live_door import extent_of
        from riktig.live.player import Player

        plan = bundle.plan
        self._player = Player(plan)
        self._terminal_of = {f"net:{p.number}": p.net.terminals[0] for p in plan.potentials if p.net.terminals}
        self._kinds = {device.id: device.kind for device in plan.circuit.devices}
        door = draw_door(plan)
        self._door.show_drawing(door)
        self._door.show_part(*extent_of(door, self._kinds))
        self._at = None
        self._bar.runs.setChecked(True)
        self._show()

    def switch_off(self) -> None:
        """Let the drawing be a drawing again."""
        self._player = None
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

    def _on_levels_moved(self, name: str, metres: float) -> None:
        if self._player is not None:
            self._at = None
            self._player.set_level(name, metres)
            self._show()

    def select(self, ref: str) -> None:
        """Say of what is selected what it is, and what stands in its way."""
        self._selected = ref
        self._show_words()
        self._show_way()

    def _show_way(self) -> None:
        """Light up by which way what is selected is fed, on this sheet and the others, where that is wanted."""
        if self._player is not None and self._selected:
            way = self._player.way_of(self._selected) if self._bar.way.isChecked() else ()
            self._view.mark(way or (self._selected,))

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
        if not self._let_go_by(seconds):
            return
        if self._at is None:
            if len(self._player.simulation.log) != before:
                self._show()
            else:
                self._show_time()

    def _let_go_by(self, seconds: float) -> bool:
        """Let time go by; where more happens than can be followed it stands still, and that is said."""
        from riktig.live.gear import ActionError

        assert self._player is not None
        try:
            self._player.run(seconds)
        except ActionError as error:
            self._bar.runs.setChecked(False)
            self._show()
            self._bar.says.setText(str(error))
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

    def _fill_menu(self) -> None:
        """Offer to keep what was done, and each kept script to be played."""
        menu = self._bar.menu
        menu.clear()
        menu.addAction(tr("Keep what was done"), self._keep)
        menu.addSeparator()
        for script in self._session.job.scripts if self._session.job is not None else ():
            menu.addAction(tr("Play: {title}").format(title=script.title or script.name), partial(self._play, script))

    def _play(self, script: "Script") -> None:
        """Play a kept script on a panel that has just been switched on."""
        bundle = self._session.bundle
        if bundle is None:
            return
        from riktig.live.gear import ActionError

        self.switch_on(bundle)
        self._bar.runs.setChecked(False)
        assert self._player is not None
        try:
            misses = self._player.play(script)
            words = (
                tr("{title}: passes").format(title=script.title)
                if not misses
                else f"{misses[0].expected}: {misses[0].was}"
            )
        except ActionError as error:
            words = str(error)
        self._selected = ""
        self._show()
        self._bar.says.setText(words)

    def _keep(self) -> None:
        if self._player is None or self._session.job is None:
            return
        from riktig.job.edits import add_script

        number = len(self._session.job.scripts) + 1
        script = self._player.script(f"script{number}", tr("Played on the drawing, {number}").format(number=number))
        if script.steps:
            self._session.apply(partial(add_script, script=script), tr("script kept"))

    # -- what is shown

    def _show(self) -> None:
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
        self._show_time()
        self._show_words()

    def _show_time(self) -> None:
        player = self._player
        if player is None:
            return
        now = player.simulation.now
        at = now if self._at is None else self._at
        self._bar.time.setText(f"{at:.2f} s")
        names = player.plan.tags
        self._bar.levels.show_levels(player.levels)
        self._bar.line.show_lanes(
            tuple((names.get(lane.device, lane.device), lane.spans) for lane in player.lanes), now, at
        )

    def _show_words(self) -> None:
        if self._player is not None:
            self._bar.says.setText(
                self._player.words_of(self._selected) or tr("Click a button, a switch, a float: it moves.")
            )
