"""Owns what can be saved of a damaged job file: read row by row, written as a new file. Must not write into the damaged one."""

import contextlib
import shutil
import sqlite3
import tempfile
import zlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from riktig.files.formats import read_job, read_plan
from riktig.files.job_access import JobFileError, check_header, connect, damaged, rolled_back, written_beside
from riktig.files.job_file import MOST_SNAPSHOTS, add_event, add_issue, add_state, begin_file, job_of
from riktig.record.events import Event, read_event

_UNREADABLE = (sqlite3.Error, zlib.error, ValueError, TypeError, LookupError, AttributeError, RecursionError)
"""What a damaged row may end in."""
_LEAST_ROW_BYTES, _MOST_ROWS = 8, 1_000_000
"""No stored row is shorter: a file has no more of them than that, and no record of a panel more than this."""
_MOST_NAMED = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Salvage:
    """What can be read of a job file. `packed` is the Job as `formats` has it, `issues` name, time, version, Job and Plan of each issued
    revision; `losses` says in words what cannot be read, nothing if all can.
    """

    packed: bytes
    gesture: str
    events: tuple[Event, ...]
    issues: tuple[tuple[str, str, str, bytes, bytes], ...]
    losses: tuple[str, ...]


def read_salvage(path: Path) -> Salvage:
    """Return what can be read of a job file; it is read in a copy, so that neither another window nor a folder without locks stops that.

    Raises:
        JobFileError: no Job can be read of it at all, or a newer Riktig wrote it.
        OSError: there is no room for the copy.
    """
    check_header(path)
    try:
        with tempfile.TemporaryDirectory(prefix="riktig-") as room:
            copy = Path(room, path.name)
            for name in (path.name, f"{path.name}-journal"):
                with contextlib.suppress(FileNotFoundError):
                    shutil.copyfile(path.with_name(name), copy.with_name(name))
            with contextlib.closing(connect(rolled_back(copy), "ro")) as db:
                losses: list[str] = []
                packed, gesture = _newest_job(db, path, losses)
                events = _events(db, path, losses)
                issues = _issues(db, losses)
    except sqlite3.Error as error:
        raise damaged(path) from error
    return Salvage(packed=packed, gesture=gesture, events=events, issues=issues, losses=tuple(losses))


def write_salvage(found: Salvage, target: Path) -> None:
    """Write what could be read as a new job file.

    Raises:
        JobFileError: the target exists or cannot be written.
    """
    with written_beside(target) as fresh, contextlib.closing(sqlite3.connect(fresh, isolation_level=None)) as db:
        begin_file(db)
        db.execute("BEGIN")
        add_state(db, found.packed, found.gesture)
        for event in found.events:
            add_event(db, event)
        for issue in found.issues:
            add_issue(db, *issue)
        db.execute("COMMIT")


def _newest_job(db: sqlite3.Connection, path: Path, losses: list[str]) -> tuple[bytes, str]:
    """Return the present Job, or the last one before it that can be read, or the first one behind it, packed, and its gesture."""
    keys = _keys(db, path, "snapshots")
    present = None
    with contextlib.suppress(sqlite3.Error):
        present = db.execute("SELECT seq FROM position").fetchone()
    now = present[0] if present is not None and present[0] in keys else max(keys, default=0)
    order = [*(k for k in reversed(keys) if k <= now), *(k for k in keys if k > now)]
    for key, row in _rows(db, "SELECT time, gesture, job FROM snapshots WHERE seq = ?", order[: 2 * MOST_SNAPSHOTS]):
        if row is None or not isinstance(row[2], bytes):
            continue
        try:
            job_of(row[2], path)
        except JobFileError:
            continue
        time, gesture = (str(word) for word in row[:2])
        if key != now or present is None:
            losses.append(
                f"what was changed after {time[:16].replace('T', ' ')} (the job is as it was then, “{gesture}”)"
            )
        if len(keys) > 1:
            losses.append("what could be undone")
        return row[2], gesture
    raise damaged(path)


def _events(db: sqlite3.Connection, path: Path, losses: list[str]) -> tuple[Event, ...]:
    found, lost = [], []
    columns = "seq, time, unit, person, kind, subject, data"
    keys = _keys(db, path, "events")
    for key, row in _rows(db, f"SELECT {columns} FROM events WHERE seq = ?", keys):  # noqa: S608 columns are ours
        try:
            found.append(read_event(row or ()))
        except _UNREADABLE:
            lost.append(key)
    if not _has_table(db, "events"):
        losses.append("the record of the build, whole: its table is gone")
    elif lost and lost == list(keys[-len(lost) :]):
        losses.append(
            f"the last {len(lost)} of {len(keys)} events" if len(lost) > 1 else f"the last of {len(keys)} events"
        )
    elif lost:
        named = ", ".join(map(str, lost[:_MOST_NAMED])) + (" …" if len(lost) > _MOST_NAMED else "")
        losses.append(f"{len(lost)} of {len(keys)} events (number {named})")
    return tuple(found)


def _issues(db: sqlite3.Connection, losses: list[str]) -> tuple[tuple[str, str, str, bytes, bytes], ...]:
    if not _has_table(db, "issues"):
        losses.append("all issued revisions: their table is gone")
        return ()
    found = []
    try:
        keys: Sequence[int] = [row[0] for row in db.execute("SELECT rowid FROM issues ORDER BY rowid")]
    except sqlite3.Error:
        keys = range(1, 1 + MOST_SNAPSHOTS)
        losses.append("perhaps some issued revisions: their list cannot be read")
    for _, row in _rows(db, "SELECT name, time, version, job, plan FROM issues WHERE rowid = ?", keys):
        if row is None:
            continue
        try:
            read_job(row[3]), read_plan(row[4])
            found.append((str(row[0]), str(row[1]), str(row[2]), row[3], row[4]))
        except _UNREADABLE:
            losses.append(f"revision {row[0]}")
    return tuple(found)


def _has_table(db: sqlite3.Connection, table: str) -> bool:
    return db.execute("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?", (table,)).fetchone() is not None


def _keys(db: sqlite3.Connection, path: Path, table: str) -> Sequence[int]:
    """Return the numbers of the rows of a table, rising; where these cannot be read, all up to the last one that was given."""
    try:
        return [int(row[0]) for row in db.execute(f"SELECT seq FROM {table} ORDER BY seq")]  # noqa: S608 a name of ours
    except _UNREADABLE:
        most = min(_MOST_ROWS, path.stat().st_size // _LEAST_ROW_BYTES)
    with contextlib.suppress(*_UNREADABLE):
        last = db.execute("SELECT seq FROM sqlite_sequence WHERE name = ?", (table,)).fetchone()
        most = min(most, int(last[0]))
    return range(1, most + 1)


def _rows(db: sqlite3.Connection, query: str, keys: Sequence[int]) -> Iterator[tuple[int, tuple[Any, ...] | None]]:
    """Yield the row of each key, None where it cannot be read."""
    for key in keys:
        row = None
        with contextlib.suppress(sqlite3.Error, UnicodeDecodeError):
            row = db.execute(query, (key,)).fetchone()
        yield key, row
