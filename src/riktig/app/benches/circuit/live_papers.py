"""Owns what leaves a live circuit: scripts that are kept and played, the sheet that is printed. Must not compute: player and worker do."""

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QFileDialog

from riktig.app.benches.circuit.live_bar import LiveBar
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.desk.errands import write_live_sheet

if TYPE_CHECKING:
    from riktig.app.benches.circuit.live_circuit import LiveCircuit
    from riktig.job.scripts import Script
    from riktig.live.scripts import Played


class LivePapers(QObject):
    """Plays kept scripts on the bench, keeps what was done as one, and prints the sheet in view."""

    def __init__(self, session: Session, circuit: "LiveCircuit", bar: LiveBar) -> None:
        super().__init__(circuit)
        self._session, self._circuit, self._bar = session, circuit, bar
        bar.print.clicked.connect(self._on_print_clicked)
        bar.keep.clicked.connect(self._on_keep_clicked)
        bar.panel.play_requested.connect(self._on_panel_play_requested)

    def _on_panel_play_requested(self, script: "Script") -> None:
        """Play a script on a panel that has just been switched on."""
        if self._session.bundle is not None:
            self._circuit.switch_on(self._session.bundle, partial(self._play, script))

    def _play(self, script: "Script") -> None:
        from riktig.live.scripts import ScriptError

        assert self._circuit.player is not None
        played: list[Played] = []
        step, words = 0, ""
        try:
            for one in self._circuit.player.play(script):
                played.append(one)
        except ScriptError as error:
            step, words = error.step, str(error)
        self._bar.panel.show_outcome(played, step, words)

    def _on_keep_clicked(self) -> None:
        """Keep what was done as a script of the job, and show it."""
        job = self._session.job
        if self._circuit.player is None or job is None:
            return
        from riktig.job.script_edits import keep_script

        script = self._circuit.player.script(tr("Played on the drawing, {number}").format(number=len(job.scripts) + 1))
        if script.steps:
            self._session.apply(partial(keep_script, script=script), tr("script kept"))
            self._bar.scripts.setChecked(True)
        else:
            self._bar.show_words(tr("Nothing was done yet that a script could keep."))

    def _on_print_clicked(self) -> None:
        """Ask for a name and write the sheet in view there, as it is at the instant that is shown."""
        sheet = self._circuit.picture
        if self._circuit.player is None or sheet is None:
            return
        name, _ = QFileDialog.getSaveFileName(self._bar, tr("Print the live sheet"), f"{sheet.name}-live.pdf", "*.pdf")
        if name:
            words = tr("Live, {time} after it was switched on").format(time=self._bar.time.text())
            question = partial(write_live_sheet, path=Path(name), sheet=sheet, words=words)
            self._session.worker.ask(question, partial(self._take_print, name))

    def _take_print(self, name: str, why_not: str | None) -> None:
        self._bar.show_words(why_not or tr("Written: {name}").format(name=name))
