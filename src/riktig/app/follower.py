"""Owns seeing what others write to the open job file. Must not write."""

from PySide6.QtCore import QObject, QTimer, Signal

from riktig.files.job_file import JobFile

FOLLOW_MS = 1000


class Follower(QObject):
    """Looks once a second whether the file that it follows changed, and tells so."""

    events_found = Signal()
    job_found = Signal(object)
    """Somebody else's Job; only a window that may not change it is told."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._file: JobFile | None = None
        self._seen = (0, 0, 0)
        self._timer = QTimer(self)
        self._timer.setInterval(FOLLOW_MS)
        self._timer.timeout.connect(self._on_timer_timeout)

    def follow(self, file: JobFile) -> None:
        """Follow an open file."""
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
        file = self._file
        if version[2] != before[2]:
            self.events_found.emit()
        if version[:2] != before[:2] and file.is_read_only:
            self.job_found.emit(file.load_job())
