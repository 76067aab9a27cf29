"""Owns the job file: one SQLite database that holds the Job with its history, the events and the issued Plans.

Tables: `snapshots` (the Job's document, one for each gesture), `position` (where undo stands), `events` (append-only), `issues` (Job
and Plan as issued); `files.formats` has the formats of the documents, and the file's user version is the newest of them in it. Every
write is committed before it returns. A lock guards the Job; events may be added by anyone who may write the file. The model of a Job
is loaded with the first Job, so that the window shows before it.
"""

import contextlib
import json
import os
import shutil
import sqlite3
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO

from riktig import VERSION
from riktig.files.formats import FORMAT, pack_job, read_job, read_plan
from riktig.files.job_access import (
    APPLICATION_ID,
    JobFileDamaged,
    JobFileError,
    check_header,
    connect,
    damaged,
    identity_of,
    reading,
    rolled_back,
    take_lock,
    unreadable,
    unwritable,
    without_waiting,
    written_beside,
)
from riktig.record.events import Event, read_event

if TYPE_CHECKING:
    from riktig.job.model import Job

MOST_SNAPSHOTS = 400
_SCHEMA = """
CREATE TABLE snapshots (seq INTEGER PRIMARY KEY AUTOINCREMENT, time TEXT NOT NULL, gesture TEXT NOT NULL, job BLOB NOT NULL);
CREATE TABLE position (id INTEGER PRIMARY KEY CHECK (id = 1), seq INTEGER NOT NULL);
CREATE TABLE events (seq INTEGER PRIMARY KEY AUTOINCREMENT, time TEXT NOT NULL, unit TEXT NOT NULL, person TEXT NOT NULL,
    kind TEXT NOT NULL, subject TEXT NOT NULL, data TEXT NOT NULL);
CREATE TABLE issues (name TEXT PRIMARY KEY, time TEXT NOT NULL, version TEXT NOT NULL, job BLOB NOT NULL, plan BLOB NOT NULL);
CREATE TRIGGER events_stay BEFORE UPDATE ON events BEGIN SELECT RAISE(ABORT, 'events are never changed'); END;
CREATE TRIGGER events_last BEFORE DELETE ON events BEGIN SELECT RAISE(ABORT, 'events are never erased'); END;
"""


class JobFile:
    """An open job file. One writer of the Job at a time: a second one follows, and may add events."""

    def __init__(self, path: Path, connection: sqlite3.Connection, lock: BinaryIO | None, *, may_record: bool) -> None:
        self.path = path
        self._db = connection
        self._lock = lock
        self.may_record = may_record
        """Whether events may be added."""
        self._identity = identity_of(path)

    @property
    def is_read_only(self) -> bool:
        """Whether the Job may not be changed: somebody else has it open for that, or the file may not be written."""
        return self._lock is None

    @classmethod
    def create(cls, path: Path, job: "Job") -> "JobFile":
        """Make a new job file with a Job as its first state.

        Raises:
            JobFileError: the file exists or cannot be written.
        """
        with written_beside(path) as fresh, contextlib.closing(sqlite3.connect(fresh, isolation_level=None)) as db:
            begin_file(db)
            add_state(db, pack_job(job), "begin")
        return cls.open(path)

    @classmethod
    def open(cls, path: Path, *, read_only: bool = False) -> "JobFile":
        """Open a job file; where another window has it, the Job is read-only. With `read_only` nothing can be written.

        Raises:
            JobFileError: missing, damaged, foreign or newer; the file is left as it was.
        """
        check_header(path)
        may_write = not read_only and os.access(path, os.W_OK) and os.access(path.resolve().parent, os.W_OK)
        lock = take_lock(path) if may_write else None
        mode = "rw" if may_write else "ro"
        try:
            source = path if may_write else rolled_back(path)
            db = connect(source, mode)
            if may_write:
                db.execute("PRAGMA journal_mode = DELETE")
                db.execute("PRAGMA synchronous = FULL")
            db.execute("SELECT seq FROM position")
            if db.execute("PRAGMA quick_check(1)").fetchone()[0] != "ok":
                raise sqlite3.DatabaseError("quick check")
            if source is not path:
                shutil.rmtree(source.parent)  # what is open stays readable
        except (sqlite3.Error, UnicodeDecodeError) as error:
            if lock is not None:
                lock.close()
            raise unreadable(path, error) from error
        return cls(path, db, lock, may_record=may_write)

    def close(self) -> None:
        """Close the file; calling it twice does no harm."""
        self._db.close()
        if self._lock is not None:
            self._lock.close()

    def copy_to(self, target: Path) -> None:
        """Write a whole copy, record and all, as this file is now, also where it was replaced or deleted meanwhile.

        Raises:
            JobFileError: the target exists or cannot be written, or this file cannot be read any more.
        """
        with written_beside(target) as fresh, contextlib.closing(sqlite3.connect(fresh)) as copy:
            self._db.backup(copy)

    def __enter__(self) -> "JobFile":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    # -- the Job and its history

    def load_job(self) -> "Job":
        """Return the Job at the present position.

        Raises:
            JobFileError: what is stored is no Job.
        """
        return job_of(self.load_packed(), self.path)

    def load_packed(self) -> bytes:
        """Return the Job at the present position as it is stored, not looked into.

        Raises:
            JobFileError: nothing is stored there.
        """
        query = "SELECT job FROM snapshots, position WHERE snapshots.seq = position.seq"
        with reading(self.path):
            row = self._db.execute(query).fetchone()
        if row is None:
            raise damaged(self.path)
        if not isinstance(row[0], bytes):
            raise damaged(self.path)
        return row[0]

    def save_edit(self, job: "Job", gesture: str) -> str:
        """Store a Job as the newest state and return the time of it; what had been undone is gone.

        Raises:
            JobFileError: the file is read-only or the disk refuses.
        """
        return self.keep_packed(pack_job(job), gesture)

    def keep_packed(self, packed: bytes, gesture: str) -> str:
        """Store a Job that `pack_job` has packed, as `save_edit` does."""
        with self._write() as db:
            return add_state(db, packed, gesture)

    def undo(self) -> "Job | None":
        """Go back one gesture and return the Job there, None at the beginning."""
        return self._step("SELECT max(seq) FROM snapshots WHERE seq < (SELECT seq FROM position)")

    def redo(self) -> "Job | None":
        """Go forward one gesture and return the Job there, None at the end."""
        return self._step("SELECT min(seq) FROM snapshots WHERE seq > (SELECT seq FROM position)")

    def _step(self, query: str) -> "Job | None":
        with reading(self.path):
            target = self._db.execute(query).fetchone()[0]
        if target is None:
            return None
        with self._write() as db:
            db.execute("UPDATE position SET seq = ?", (target,))
        return self.load_job()

    def gestures(self) -> tuple[str | None, str | None]:
        """Return what undo would take back and what redo would bring again, None where there is nothing."""
        with reading(self.path):
            back = self._db.execute(
                "SELECT gesture FROM snapshots, position WHERE snapshots.seq = position.seq "
                "AND EXISTS (SELECT 1 FROM snapshots AS s WHERE s.seq < position.seq)"
            ).fetchone()
            forth = self._db.execute(
                "SELECT gesture FROM snapshots WHERE seq > (SELECT seq FROM position) ORDER BY seq LIMIT 1"
            ).fetchone()
        return (back[0] if back else None), (forth[0] if forth else None)

    # -- the Record

    def append_event(self, event: Event) -> Event:
        """Store an event for good and return it with its sequence number; the Job's lock is not asked for.

        Raises:
            JobFileError: the file may not be written or the disk refuses.
        """
        return self.append_events((event,))[0]

    def append_events(self, events: tuple[Event, ...]) -> tuple[Event, ...]:
        """Store several events together: all or none."""
        stored = []
        with self._write(is_record=True) as db:
            for event in events:
                stored.append(replace(event, sequence=add_event(db, replace(event, sequence=None))))
        return tuple(stored)

    def events(self, after: int = 0, kind: str | None = None) -> tuple[Event, ...]:
        """Return the events behind a sequence number, of one kind or of all, in order."""
        query = "SELECT seq, time, unit, person, kind, subject, data FROM events WHERE seq > ? AND kind = ifnull(?, kind) ORDER BY seq"
        with reading(self.path):
            return tuple(read_event(row) for row in self._db.execute(query, (after, kind)))

    # -- issued revisions

    def issue_packed(self, name: str, packed: bytes, packed_plan: bytes) -> str:
        """Store a Job, released under a name, and its Plan as issued, both packed by `formats`; return the time.

        Raises:
            JobFileError: the name was issued before, or the file cannot be written.
        """
        if name in {issued for issued, _, _ in self.issues()}:
            raise JobFileError(f"revision {name} was issued before: choose another name")
        with self._write() as db:
            now = add_state(db, packed, f"issue revision {name}")
            add_issue(db, name, now, VERSION, packed, packed_plan)
        return now

    def issues(self) -> tuple[tuple[str, str, str], ...]:
        """Return name, time and Riktig's version of every issued revision, oldest first."""
        with reading(self.path):
            rows = self._db.execute("SELECT name, time, version FROM issues ORDER BY time").fetchall()
            if not all(isinstance(word, str) for row in rows for word in row):
                raise TypeError("no names")
        return tuple(rows)

    def issued_plan(self, name: str) -> dict[str, Any] | None:
        """Return the Plan as it was issued, None if there was no such revision.

        Raises:
            JobFileError: what is stored is no Plan, or a later version wrote it.
        """
        with reading(self.path):
            row = self._db.execute("SELECT plan FROM issues WHERE name = ?", (name,)).fetchone()
            return None if row is None else read_plan(row[0])

    def version(self) -> tuple[int, int, int]:
        """Return a mark that changes when another window writes: position, last state, last event. It does not wait.

        Raises:
            JobFileBusy: another window is writing just now.
            JobFileError: the file cannot be read any more, or another one stands in its place.
        """
        if identity_of(self.path) != self._identity:
            raise JobFileError(f"{self.path.name} was deleted, moved or replaced while it was open: save a copy")
        with reading(self.path), without_waiting(self._db):
            row = self._db.execute(
                "SELECT (SELECT seq FROM position), (SELECT max(seq) FROM snapshots), "
                "(SELECT coalesce(max(seq), 0) FROM events)"
            ).fetchone()
        return row[0], row[1], row[2]

    def take_over(self) -> bool:
        """Become the one who may change the Job, if whoever was has closed the file; return whether that is so now."""
        if self._lock is None and self.may_record and identity_of(self.path) == self._identity:
            self._lock = take_lock(self.path)
        return self._lock is not None

    @contextlib.contextmanager
    def _write(self, *, is_record: bool = False) -> Iterator[sqlite3.Connection]:
        if not self.may_record:
            raise JobFileError(f"{self.path.name} may not be written: this window only looks on")
        if self.is_read_only and not is_record:
            raise JobFileError(f"{self.path.name} is open in another window: this one leaves the Job as it is")
        if identity_of(self.path) != self._identity:
            raise JobFileError(
                f"{self.path.name} was deleted, moved or replaced while it was open, nothing is kept in it: save a copy"
            )
        try:
            self._db.execute("BEGIN IMMEDIATE")
            try:
                yield self._db
                if not is_record:
                    self._db.execute(f"PRAGMA user_version = {FORMAT}")
                self._db.execute("COMMIT")
            except BaseException:
                if self._db.in_transaction:  # a full disk has taken it back already
                    self._db.execute("ROLLBACK")
                raise
        except sqlite3.Error as error:
            raise unwritable(self.path, error) from error


def job_of(packed: bytes, path: Path) -> "Job":
    """Return the Job that is stored in a file.

    Raises:
        JobFileError: it is no Job.
    """
    from riktig.job.ledger import read_ledger
    from riktig.job.model import Job

    with reading(path):
        stored = read_job(packed)
        ledger = stored.get("ledger", {})
        stored["ledger"], faults = read_ledger(ledger) if isinstance(ledger, dict) else (ledger, [])
        if faults:
            place = ".".join(map(str, faults[0].at))
            raise JobFileDamaged(path, f"{path.name}, {place}: {faults[0].message}; the file was left as it is")
        return Job.model_validate(stored)


def begin_file(db: sqlite3.Connection) -> None:
    """Make the tables of a new job file."""
    db.executescript(f"PRAGMA application_id = {APPLICATION_ID}; PRAGMA user_version = {FORMAT};")
    db.executescript("BEGIN;" + _SCHEMA + "COMMIT;")


def add_state(db: sqlite3.Connection, packed: bytes, gesture: str) -> str:
    """Add a state behind the present position and return the time of it; drop every second of the older half once there are very many."""
    now = datetime.now(UTC).isoformat(timespec="milliseconds")
    db.execute("DELETE FROM snapshots WHERE seq > (SELECT seq FROM position)")
    cursor = db.execute("INSERT INTO snapshots (time, gesture, job) VALUES (?, ?, ?)", (now, gesture, packed))
    db.execute("INSERT OR REPLACE INTO position (id, seq) VALUES (1, ?)", (cursor.lastrowid,))
    sequences = [row[0] for row in db.execute("SELECT seq FROM snapshots ORDER BY seq")]
    if len(sequences) > MOST_SNAPSHOTS:
        doomed = sequences[1 : len(sequences) // 2 : 2]
        db.executemany("DELETE FROM snapshots WHERE seq = ?", [(seq,) for seq in doomed])
    return now


def add_event(db: sqlite3.Connection, event: Event) -> int | None:
    """Add an event and return its sequence number: its own, or the next one where it has none."""
    words = (event.time, event.unit, event.person, event.kind.value, event.subject, json.dumps(dict(event.data)))
    columns = "seq, time, unit, person, kind, subject, data"
    return db.execute(
        f"INSERT INTO events ({columns}) VALUES (?, ?, ?, ?, ?, ?, ?)", (event.sequence, *words)
    ).lastrowid  # noqa: S608


def add_issue(db: sqlite3.Connection, name: str, time: str, version: str, packed: bytes, packed_plan: bytes) -> None:
    """Add an issued revision."""
    columns = "name, time, version, job, plan"
    db.execute(f"INSERT INTO issues ({columns}) VALUES (?, ?, ?, ?, ?)", (name, time, version, packed, packed_plan))  # noqa: S608
