"""Owns printing labels from the window: a thread that only waits for the printer, and the bar in which it is started and stopped. Must not
know the protocol, nor choose labels.
"""

import threading
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from riktig.app.remembered import Remembered
from riktig.app.text import tr
from riktig.app.widgets import button, label
from riktig.files.label_printer import PrinterError, PrinterLink, connected, print_labels, read_address

if TYPE_CHECKING:
    from riktig.drawings.labels.fitting import Fitted
    from riktig.record.labels import LabelState


class _Stopped(Exception):
    """Somebody stopped it, or another job was opened."""


class TapePrinting(QObject):
    """Labels on their way to a printer. The next one goes only once the one before is noted."""

    came_out = Signal(object)
    """A label; whoever notes it says `acknowledge` or `stop`."""
    ended = Signal(int, str)
    """How many came out, and why no more did, "" where all are."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._thread: threading.Thread | None = None
        self._link: PrinterLink | None = None
        self._noted, self._stopped = threading.Event(), threading.Event()
        self.count = 0
        """How many came out and are noted."""

    @property
    def is_running(self) -> bool:
        """Whether labels are on their way."""
        return self._thread is not None and self._thread.is_alive()

    def start(
        self, address: str, code: str, labels: "Sequence[Fitted]", done: "Mapping[str, LabelState]", job: str, unit: str
    ) -> None:
        """Print what of these labels is not printed as it is now.

        Args:
            address: HOST:PORT of the printer.
            code: the medium that must be loaded.
            labels: in order.
            done: what the Record says of them.
            job: the number of the job, and `unit` that of the panel.
            unit: serial number of the panel.

        Raises:
            PrinterError: that is no address.
        """
        host, port = read_address(address)
        self._noted.clear()
        self._stopped.clear()
        self.count = 0

        def run() -> None:
            said = ""
            try:
                with connected(host, port) as link:
                    self._link = link
                    if link.medium != code:
                        raise PrinterError(f"{link.medium} is loaded: choose that on the left, or load {code}")
                    print_labels(link, labels, done, job, unit, self._note)
            except PrinterError as error:
                said = "" if self._stopped.is_set() else str(error)
            except _Stopped:
                pass
            finally:
                self._link = None
            self.ended.emit(self.count, said)

        self._thread = threading.Thread(target=run, daemon=True, name="riktig-tape")
        self._thread.start()

    def _note(self, one: "Fitted") -> None:
        self._noted.clear()
        self.came_out.emit(one)
        self._noted.wait()
        if self._stopped.is_set():
            raise _Stopped
        self.count += 1

    def acknowledge(self) -> None:
        """Say that the last label is noted: the next one goes."""
        self._noted.set()

    def stop(self) -> None:
        """Send no more, and wait until the thread has ended; a label that came out and is not noted is known to the printer."""
        self._stopped.set()
        self._noted.set()
        link, thread = self._link, self._thread
        if link is not None:
            link.break_off()
        if thread is not None:
            thread.join()


class TapeBar(QWidget):
    """Where the printer is, what is left to print on the medium that is shown, and how far that is."""

    def __init__(self, start: Callable[[str], None]) -> None:
        super().__init__()
        self._start = start
        self._remembered = Remembered()
        self.printing = TapePrinting(self)
        self.printing.ended.connect(self._on_printing_ended)
        self.address = QLineEdit(self._remembered.printer)
        self.address.setAccessibleName(tr("Address of the label printer"))
        self.address.setToolTip(tr("HOST:PORT of the printer; `riktig printer` stands in for one"))
        self.address.setMaximumWidth(190)
        self.begin = button(tr("Start"), role="primary")
        self.begin.clicked.connect(self._on_begin_clicked)
        self.said = label("")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        caption = label(tr("Printer at"), role="quiet")
        caption.setWordWrap(False)
        row.addWidget(caption)
        row.addWidget(self.address)
        row.addWidget(self.begin)
        row.addWidget(self.said, 1, Qt.AlignmentFlag.AlignVCenter)

    def show_running(self) -> None:
        """Show whether labels are on their way."""
        self.begin.setText(tr("Stop") if self.printing.is_running else tr("Start"))

    def _on_begin_clicked(self) -> None:
        if self.printing.is_running:
            self.printing.stop()
            return
        self._remembered.printer = self.address.text().strip()
        self._start(self.address.text().strip())

    def tell(self, words: str) -> None:
        """Say how far it is."""
        self.said.setText(words)

    def tell_printed(self, one: "Fitted") -> None:
        """Say which label is out, and how many are."""
        words = tr("Printed {n}: {text}").format(n=self.printing.count + 1, text=" / ".join(one.lines))
        self.tell(words)

    def _on_printing_ended(self, count: int, why: str) -> None:
        printed = tr("1 label printed") if count == 1 else tr("{n} labels printed").format(n=count)
        self.tell(f"{printed}. {why}" if why else f"{printed}.")
        self.begin.setText(tr("Start"))
