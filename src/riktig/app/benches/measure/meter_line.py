"""Owns the meter of the Test bench: which one it is, and a thread that only waits for its answer. Must not judge readings."""

import threading
from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from riktig.app.remembered import Remembered
from riktig.app.text import tr
from riktig.app.widgets import button, label

if TYPE_CHECKING:
    from riktig.files.meter import MeterLink
    from riktig.prove.steps import Unit
    from riktig.standins.meter import SimulatedMeter

SIMULATED = "simulated"
"""In place of an address: the simulated meter, which reads the simulated panel."""


class MeterReader(QObject):
    """Asks a meter, one question at a time. An answer belongs to the question that was asked with it."""

    answered = Signal(int, float, str)
    """The number of the question, the reading in its unit, and which meter it was."""
    refused = Signal(int, str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._link: MeterLink | None = None
        self._simulated: SimulatedMeter | None = None
        self._address = ""
        self._serial = ""
        self._number = 0
        self._thread: threading.Thread | None = None

    @property
    def is_waiting(self) -> bool:
        """Whether an answer is under way."""
        return self._thread is not None and self._thread.is_alive()

    def ask(self, address: str, unit: "Unit", probes: "Callable[[Unit], float]") -> int:
        """Ask for a reading; return the number of the question, 0 where the one before is still under way.

        Args:
            address: of the meter, SIMULATED for the one that reads the simulated panel.
            unit: in what it is to be read.
            probes: what lies between the probes of the simulated one.
        """
        if self.is_waiting:
            return 0
        self._number += 1
        self._thread = threading.Thread(
            target=self._run, args=(self._number, address, unit, probes), daemon=True, name="riktig-meter"
        )
        self._thread.start()
        return self._number

    def _run(self, number: int, address: str, unit: "Unit", probes: "Callable[[Unit], float]") -> None:
        from riktig.files.meter import MeterError

        try:
            link = self._linked(address, probes)
            reading = link.read(unit)
        except MeterError as error:
            self._link = None
            self.refused.emit(number, str(error))
            return
        self.answered.emit(number, reading, str(link.identity))

    def _linked(self, address: str, probes: "Callable[[Unit], float]") -> "MeterLink":
        """Return the link to the meter: the same meter for as long as nobody chooses another one."""
        from riktig.files.meter import MeterLink

        if address != self._address:
            self.close()
            self._address, self._serial = address, ""
        if address == SIMULATED:
            from riktig.standins.meter import SimulatedMeter

            self._simulated = self._simulated or SimulatedMeter()
            self._simulated.probes = probes
            address = self._simulated.address
        if self._link is None or not self._link.is_open:
            self._link = MeterLink(address, expected=self._serial)
            self._serial = self._link.identity.serial
        return self._link

    def close(self) -> None:
        """Let go of the meter."""
        if self._link is not None:
            self._link.close()
            self._link = None
        if self._simulated is not None:
            self._simulated.close()
            self._simulated = None


class MeterBar(QWidget):
    """Where the meter is: the simulated one, or one at an address or a serial line."""

    def __init__(self) -> None:
        super().__init__()
        self._remembered = Remembered()
        self.address = QLineEdit(self._remembered.meter)
        self.address.setAccessibleName(tr("Address of the meter"))
        self.address.setToolTip(
            tr("simulated, HOST:PORT, or a serial device as /dev/ttyUSB0; `riktig meter` stands in for one")
        )
        self.address.editingFinished.connect(self._on_address_finished)
        self.same = button(tr("Simulated"), tip=tr("The simulated meter, which reads the simulated panel"))
        self.same.clicked.connect(self._on_same_clicked)
        caption = label(tr("Meter"), role="quiet")
        caption.setWordWrap(False)
        self.proof = QLineEdit(self._remembered.calibration)
        self.proof.setAccessibleName(tr("Number and calibration of the meter"))
        self.proof.setPlaceholderText(tr("its number, calibrated when"))
        self.proof.setToolTip(
            tr("Stands beside every reading and in the report; a meter that is asked tells its number itself")
        )
        self.proof.editingFinished.connect(self._on_proof_finished)
        row = QHBoxLayout()
        row.addWidget(caption)
        row.addWidget(self.address, 1)
        row.addWidget(self.same)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row)
        column.addWidget(self.proof)
        self._show()

    def words_of(self, meter: str) -> str:
        """Return what is noted beside a reading: which meter it was, "" for one that was typed, and what is known of its calibration."""
        return ", ".join(filter(None, (meter, self.proof.text().strip())))

    @property
    def where(self) -> str:
        """Where the meter is that is to be asked."""
        return self.address.text().strip() or SIMULATED

    def _show(self) -> None:
        self.same.setVisible(self.where != SIMULATED)

    def _on_address_finished(self) -> None:
        self._remembered.meter = self.where
        self._show()

    def _on_proof_finished(self) -> None:
        self._remembered.calibration = self.proof.text().strip()

    def _on_same_clicked(self) -> None:
        self.address.setText(SIMULATED)
        self._on_address_finished()
