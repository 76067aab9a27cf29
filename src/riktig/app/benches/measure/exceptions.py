"""Owns what is said of a test beside readings: steps left out, phases waived, the caution taken on, pictures. Must not judge a step."""

import shutil
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QFileDialog, QPushButton

from riktig.app.benches.measure.step_card import StepCard
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.prove.steps import CAUTION, Phase, Step


class Exceptions(QObject):
    """Asks for the reason and writes it into the Record, with the name of who is signed in."""

    def __init__(self, session: Session, hub: Hub, card: StepCard, acknowledge: QPushButton) -> None:
        super().__init__(card)
        self._session, self._hub, self._card, self._acknowledge = session, hub, card, acknowledge
        self._step: Step | None = None
        self._of: Phase | Step | None = None
        card.skip_requested.connect(self.skip)
        card.waive_requested.connect(self.waive)
        card.photo_requested.connect(self.choose_photo)
        card.reason_given.connect(self._on_card_reason_given)
        acknowledge.clicked.connect(self.acknowledge)

    def take_step(self, step: Step) -> None:
        """Take over the step at hand."""
        self._step = step

    def skip(self) -> None:
        """Ask why the step at hand is left out."""
        if self._step is not None and self._card.skip.isEnabled():
            self._of = self._step
            self._card.ask_reason(tr("Why is this step left out? Enter keeps it with your name."))

    def waive(self) -> None:
        """Ask why the phase at hand is waived; live ones are not."""
        if self._step is not None and not self._step.phase.is_live:
            self._of = self._step.phase
            words = tr("Why is “{phase}” waived? Enter keeps it with your name.")
            self._card.ask_reason(words.format(phase=self._step.phase.value))

    def _on_card_reason_given(self, reason: str) -> None:
        of, self._of = self._of, None
        if isinstance(of, Step):
            self._session.record.tests.skip(of, reason)
        elif of is not None:
            self._session.record.tests.waive(of, reason)

    def acknowledge(self) -> None:
        """Take the caution on before anything is live, where it is asked for."""
        if self._acknowledge.isVisible():
            self._session.record.tests.acknowledge(CAUTION)

    def choose_photo(self) -> None:
        """Let a picture of the step be chosen."""
        name, _ = QFileDialog.getOpenFileName(
            self._card, tr("A picture of this step"), "", tr("Pictures (*.jpg *.jpeg *.png)")
        )
        if name:
            self.attach(Path(name))

    def attach(self, picture: Path) -> None:
        """Copy a picture beside the job and note it with the step."""
        file = self._session.file
        if file is None or self._step is None:
            return
        folder = file.path.with_suffix(".photos")
        name = f"{datetime.now():%Y%m%d-%H%M%S}-{picture.name}"
        try:
            folder.mkdir(exist_ok=True)
            shutil.copyfile(picture, folder / name)
        except OSError as error:
            words = tr("the picture cannot be copied to {folder} ({why}): choose another one, or make room")
            self._hub.message_posted.emit(words.format(folder=folder, why=error.strerror))
            return
        self._session.record.tests.attach_photo(self._step, name)
