"""Owns looking on while another window writes the open job file. Must not write."""

from PySide6.QtCore import QObject, QTimer, Signal

from riktig.files.job_file import JobFile

FOLLOW_MS = 1000


class Follower(QObject):
    """Looks once a second whether the file that it follows changed, and tells what is new in it."""

    events_found = Signal(int)
    """There are events behind this sequence number."""
    job_found = Signal(object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._file: JobFile | None = None
        self._seen = (0, 0, 0)
        self._timer = QTimer(self)
        self._timer.setInterval(FOLLOW_MS)
        self._timer.timeout.connect(self._on_timer_timeout)

    def follow(self, file: JobFile) -> None:
        """Follow a file that is open for reading."""
        self._file, self._seen = file, file.version()
        self._timer.start()

    def stop(self) -> None:
        """Follow nothing any more."""
        self._file = None
        self._timer.stop()

    def _on_timer_timeout(self) -> None:
        if self._file is None:
            return
        version = self._file.version()
        if version == self._seen:
            return
        before, self._seen = self._seen, version
        self.events_found.emit(before[2])
        if version[:2] != before[:2]:
            self.job_found.emit(self._file.load_job())
