"""Owns how a job file is reached: what is looked at before SQLite touches it, locks, what a killed writer left, files written beside, and
what is said where a disk or another window refuses. Must not know what is in it.
"""

import contextlib
import errno
import fcntl
import os
import shutil
import sqlite3
import tempfile
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from riktig.files.beside import fresh_path, take_name
from riktig.files.formats import FORMAT, NewerFormat
from riktig.refusal import Refusal, sentence_of

APPLICATION_ID = 0x52494B54
BUSY_MS = 5000
"""So long a window waits for another one to have done writing."""
CACHE_KB = 512
"""So much of a file is held in memory."""
_HEADER = b"SQLite format 3\x00"

_WHY_NOT = {
    sqlite3.SQLITE_FULL: ("the disk is full", "free some space or save a copy elsewhere"),
    sqlite3.SQLITE_IOERR: ("the disk refuses", "save a copy elsewhere"),
    sqlite3.SQLITE_READONLY: ("it may only be read", "save a copy elsewhere"),
    sqlite3.SQLITE_BUSY: ("another window is writing it", "try again in a moment"),
    sqlite3.SQLITE_CANTOPEN: ("its folder is gone or may not be written", "save a copy elsewhere"),
}
"""Why the database does not write, and the mend, by its code."""
_BUSY = frozenset({sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED})
_NO_LOCKS = (
    "its folder gives no locks, as some folders of a network; save a copy on a disk of this machine and work there"
)
"""The database takes that for another window."""


class JobFileError(Refusal):
    """A job file that cannot be made, read or written; one sentence with the mend."""


class JobFileBusy(JobFileError):
    """A job file that another window is writing at this moment."""


class JobFileDamaged(JobFileError):
    """A job file of which something cannot be read; `path` is where it lies."""

    def __init__(self, path: Path, words: str) -> None:
        super().__init__(words)
        self.path = path


@contextlib.contextmanager
def written_beside(target: Path) -> Iterator[Path]:
    """Give a path beside a new file to write to, and move what is there into place; nothing is left where that fails.

    Raises:
        JobFileError: the target exists, or cannot be written.
    """
    taken = f"{target.name} exists already: choose another name"
    if target.exists():
        raise JobFileError(taken)
    fresh = fresh_path(target)
    try:
        fresh.unlink(missing_ok=True)  # says what is wrong with the folder in words that the database has not
        yield fresh
        take_name(fresh, target)
    except BaseException as error:
        said = unwritable(target, error, at=fresh) if isinstance(error, sqlite3.Error) else None
        for left in (fresh, fresh.with_name(f"{fresh.name}-journal")):
            with contextlib.suppress(OSError):
                left.unlink(missing_ok=True)
        if said is not None:
            raise said from error
        if isinstance(error, FileExistsError):
            raise JobFileError(taken) from error
        if isinstance(error, OSError):
            raise JobFileError(sentence_of(OSError(error.errno, error.strerror, target.name))) from error
        raise


@contextlib.contextmanager
def reading(path: Path) -> Iterator[None]:
    """Turn whatever a damaged file makes of its rows into one sentence."""
    try:
        yield
    except JobFileError:
        raise
    except NewerFormat as newer:
        raise newer_file(path, newer.number) from newer
    except sqlite3.Error as error:
        raise unreadable(path, error) from error
    except (zlib.error, ValueError, TypeError, LookupError, AttributeError, RecursionError) as error:
        raise damaged(path) from error


@contextlib.contextmanager
def without_waiting(db: sqlite3.Connection) -> Iterator[None]:
    """Wait for no other window meanwhile."""
    db.execute("PRAGMA busy_timeout = 0")
    try:
        yield
    finally:
        db.execute(f"PRAGMA busy_timeout = {BUSY_MS}")


def identity_of(path: Path) -> tuple[int, int] | None:
    """Return what tells a file from another one of its name, None where there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def connect(path: Path, mode: str) -> sqlite3.Connection:
    """Return the database of a file, opened to read (`ro`) or to write (`rw`)."""
    db = sqlite3.connect(f"{path.resolve().as_uri()}?mode={mode}", uri=True, isolation_level=None)
    db.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
    db.execute(f"PRAGMA cache_size = -{CACHE_KB}")
    return db


def rolled_back(path: Path) -> Path:
    """Return the file, or a copy of it where its folder may not be written, with what a killed writer left half done taken back: that
    takes writing, which a reader does not do.
    """
    journal = path.with_name(f"{path.name}-journal")
    if not journal.exists():
        return path
    if not (os.access(path, os.W_OK) and os.access(path.resolve().parent, os.W_OK)):
        copy = Path(tempfile.mkdtemp(prefix="riktig-")) / path.name
        shutil.copyfile(path, copy)
        with contextlib.suppress(FileNotFoundError):  # whoever wrote it has just done with it
            shutil.copyfile(journal, copy.with_name(journal.name))
        path = copy
    with contextlib.closing(connect(path, "rw")) as db:
        db.execute("SELECT seq FROM position").fetchone()
    return path


def unreadable(path: Path, error: Exception) -> JobFileError:
    """Return what is said of a file that the database does not read: busy, a disk that refuses, or damage."""
    code = getattr(error, "sqlite_errorcode", sqlite3.SQLITE_CORRUPT) & 0xFF
    if code in _BUSY and not gives_locks(path):
        return JobFileError(f"cannot read {path.name}: {_NO_LOCKS}")
    if code in _BUSY:
        return JobFileBusy(f"{path.name} is being written by another window: try again in a moment")
    if code in {
        sqlite3.SQLITE_IOERR,
        sqlite3.SQLITE_CANTOPEN,
        sqlite3.SQLITE_FULL,
        sqlite3.SQLITE_NOMEM,
        sqlite3.SQLITE_READONLY,
    }:
        return JobFileError(
            f"cannot read {path.name}: the disk or folder refuses it; copy it to another place and open it there"
        )
    return damaged(path)


def unwritable(path: Path, error: sqlite3.Error, *, at: Path | None = None) -> JobFileError:
    """Return what is said of a file that the database does not write, with the mend; `at` is where it stands meanwhile."""
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF
    if code in _BUSY and not gives_locks(at or path):
        return JobFileError(f"cannot write {path.name}: {_NO_LOCKS}")
    why, mend = _WHY_NOT.get(code, ("it is damaged or gone", "save a copy elsewhere"))
    return JobFileError(f"cannot write {path.name}: {why}; {mend}")


def damaged(path: Path) -> JobFileDamaged:
    """Return what is said of a damaged file."""
    words = "open a copy from your backup, or save what can be read of it as a copy (riktig rescue)"
    return JobFileDamaged(path, f"{path.name} is damaged and was left as it is: {words}")


def newer_file(path: Path, number: int) -> JobFileError:
    """Return what is said of a file of a format that is not known yet."""
    return JobFileError(f"{path.name} was written by a newer Riktig (format {number}): update Riktig to open it")


def check_header(path: Path) -> None:
    """Refuse what is no job file before SQLite touches it."""
    try:
        with path.open("rb") as file:
            head = file.read(100)
    except FileNotFoundError:
        raise JobFileError(f"there is no file {path}: check the name") from None
    except OSError as error:
        raise JobFileError(f"cannot read {path}: {error.strerror}; check its permissions") from error
    if len(head) < 100 or not head.startswith(_HEADER) or int.from_bytes(head[68:72], "big") != APPLICATION_ID:
        raise JobFileError(f"{path.name} is no Riktig job file: open one that ends in .riktig")
    if (number := int.from_bytes(head[60:64], "big")) > FORMAT:
        raise newer_file(path, number)


def gives_locks(path: Path) -> bool:
    """Return whether a file can be locked at all; asked where the database says busy."""
    try:
        with path.open("rb") as file:
            fcntl.lockf(file, fcntl.LOCK_SH | fcntl.LOCK_NB, 1, _FAR)
    except OSError as error:
        return error.errno not in {errno.ENOLCK, errno.ENOTSUP, errno.EOPNOTSUPP, errno.ENOSYS}
    return True


_FAR = 1 << 40
"""A byte behind all that the database locks."""


def take_lock(path: Path) -> BinaryIO | None:
    """Return what holds the right to change the Job, None where another window has it."""
    try:
        handle = path.open("r+b")
    except PermissionError:
        return None
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        handle.close()
        return None
    return handle
