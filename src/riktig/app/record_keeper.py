"""Owns the Record of the open job as the window works on it: one unit, one person, ticks and measurements."""

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from riktig.app.record_of_tests import RecordOfTests
from riktig.files.job_access import JobFileError
from riktig.files.job_file import JobFile
from riktig.record.events import Event, EventKind, make_event

if TYPE_CHECKING:
    from riktig.record.cutouts import PlannedCutout
    from riktig.record.labels import LabelState, LabelStep
    from riktig.record.operations import Operation
    from riktig.record.progress import Progress, Workload


class RecordKeeper(QObject):
    """Adds events to the open file and tells what they mean for the Plan now."""

    progress_changed = Signal(object)
    stored = Signal(str)
    file_changed = Signal()
    """Another file is worked on, or none."""

    def __init__(self, refuse: Callable[[str], None], parent: QObject) -> None:
        super().__init__(parent)
        self.refuse = refuse
        self._file: JobFile | None = None
        self.events: list[Event] = []
        self._work: Workload | None = None
        self.tests = RecordOfTests(self)
        self.progress: Progress | None = None
        self.unit = "1"
        self.person = ""

    def take_file(self, file: JobFile | None, events: Sequence[Event]) -> None:
        """Work on another file, with the events that are in it, or on none."""
        self._file = file
        self.events = list(events)
        self._work = self.progress = None
        self.file_changed.emit()

    @property
    def may_record(self) -> bool:
        """Whether ticks and measurements may be added to the open job."""
        return self._file is not None and self._file.may_record

    def take_work(self, work: "Workload") -> None:
        """Take over what the Plan asks to be done now."""
        self._work = work
        self.tell()

    def follow(self) -> None:
        """Read the events that others have added."""
        try:
            is_new = self._catch_up()
        except JobFileError as error:
            self.refuse(str(error))
            return
        if is_new:
            self.tell()

    def _catch_up(self) -> bool:
        """Read the events behind those that are known; return whether there were any."""
        last = max((event.sequence or 0 for event in self.events), default=0)
        new = self._file.events(last) if self._file is not None else ()
        self.events.extend(new)
        return bool(new)

    def set_unit(self, unit: str) -> None:
        """Switch to another panel built from this job."""
        if unit and unit != self.unit:
            self.unit = unit
            self.tell()

    def units(self) -> tuple[str, ...]:
        """Return the serial numbers that have events, the present one included."""
        return tuple(sorted({self.unit, *(event.unit for event in self.events)}))

    def tick(self, operation: "Operation") -> None:
        """Note that an operation is done; one that must be measured first is refused until then."""
        closed = self.progress.why_closed(operation.key) if self.progress is not None else ""
        if closed:
            self.refuse(f"{operation.title}: {closed}")
            return
        self.store(EventKind.TICK, operation.key, **{"as": operation.as_made or operation.as_planned})

    def tick_removed(self, key: str) -> None:
        """Note that something the Plan no longer has was taken out."""
        self.store(EventKind.TICK, key, **{"as": ""})

    def untick(self, key: str) -> None:
        """Withdraw a tick by a new event."""
        self.store(EventKind.UNTICK, key)

    def last_tick(self) -> str | None:
        """Return the key of the newest tick of this unit that still stands."""
        withdrawn: set[str] = set()
        for event in reversed(self.events):
            if event.unit != self.unit:
                continue
            if event.kind is EventKind.UNTICK:
                withdrawn.add(event.subject)
            elif event.kind is EventKind.TICK and event.subject not in withdrawn:
                return event.subject
        return None

    def mark_labels(self, step: "LabelStep", texts: "Mapping[str, str]", *, tells: bool = True) -> bool:
        """Note that labels were printed or put on, or that they were not, with what each says; return whether that is kept. Where many
        follow each other, `tell` is called once behind them.
        """
        if not texts:
            return True
        kept = self._append(EventKind.LABELS, f"labels:{len(texts)}", step=step.value, texts=dict(texts))
        if kept and tells:
            self.tell()
        return kept

    @property
    def printed(self) -> int:
        """How many labels of the present unit are printed."""
        return sum(state.printed is not None for state in self.labels().values()) if self._has_labels() else 0

    def _has_labels(self) -> bool:
        return any(event.kind is EventKind.LABELS for event in self.events)

    def labels(self) -> "Mapping[str, LabelState]":
        """Return what was done to the labels of the present unit, by their keys."""
        from riktig.record.labels import read_labels

        return read_labels(self.events, self.unit)

    def measure_place(self, planned: "PlannedCutout", x: float, y: float) -> None:
        """Store where somebody found the mark of a cut-out, in mm."""
        self.store(EventKind.MEASURE, planned.key, x=x, y=y, **{"as": planned.as_planned})

    def store(self, kind: EventKind, subject: str, **data: object) -> bool:
        """Add an event to the file, and tell what follows; return whether it is there."""
        is_kept = self._append(kind, subject, **data)
        if is_kept:
            self.tell()
        return is_kept

    def _append(self, kind: EventKind, subject: str, **data: object) -> bool:
        """Add an event to the file; return whether it is there."""
        if self._file is None:
            return False
        if not self.person:
            self.refuse("nobody is signed in: type your name into Person, then tick or measure again")
            return False
        event = make_event(kind, subject, unit=self.unit, person=self.person, **data)
        try:
            stored = self._file.append_event(event)
        except JobFileError as error:
            self.refuse(str(error))
            return False
        self._catch_up()
        self.stored.emit(stored.time)
        return True

    def tell(self) -> None:
        """Tell what the events mean now."""
        if self._work is None:
            return
        from riktig.record.progress import read_progress

        self.progress = read_progress(self._work, self.events, self.unit)
        self.progress_changed.emit(self.progress)
