"""Owns seeing what others write to the open job file, and when they leave it. Must not write."""

from PySide6.QtCore import QObject, QTimer, Signal

from riktig.files.job_access import JobFileBusy, JobFileError
from riktig.files.job_file import JobFile

FOLLOW_MS = 1000


class Follower(QObject):
    """Looks once a second whether the file that it follows changed, and tells so."""

    events_found = Signal()
    job_found = Signal(object)
    """Somebody else's Job; only a window that may not change it is told."""
    taken_over = Signal()
    """Whoever might change the Job has closed it: this window may now."""
    lost = Signal(str)
    """The file cannot be followed any more, and why; it is said once."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._file: JobFile | None = None
        self._seen = (0, 0, 0)
        self._timer = QTimer(self)
        self._timer.setInterval(FOLLOW_MS)
        self._timer.timeout.connect(self._on_timer_timeout)

    def follow(self, file: JobFile, seen: tuple[int, int, int]) -> None:
        """Follow an open file of which a version has been seen."""
        self._file, self._seen = file, seen
        self._timer.start()

    def stop(self) -> None:
        """Follow nothing any more."""
        self._file = None
        self._timer.stop()

    def _on_timer_timeout(self) -> None:
        if self._file is None:
            return
        try:
            self._look(self._file)
        except JobFileBusy:
            return  # the next second will do
        except JobFileError as error:
            self.stop()
            self.lost.emit(str(error))

    def _look(self, file: JobFile) -> None:
        version = file.version()
        before = self._seen
        was_read_only = file.is_read_only
        if version != before:
            job = file.load_job() if version[:2] != before[:2] and was_read_only else None
            self._seen = version
            if version[2] != before[2]:
                self.events_found.emit()
            if job is not None:
                self.job_found.emit(job)
        elif was_read_only and file.take_over():
            self.job_found.emit(file.load_job())
            self.taken_over.emit()
