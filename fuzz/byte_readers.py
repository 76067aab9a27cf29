"""Owns the readers of bytes that are fed by coverage, what each may refuse how, and sound inputs to begin with. Anything else that comes
out is a fault of Riktig.
"""

import contextlib
import json
import tempfile
import zlib
from collections.abc import Callable, Iterator, Mapping
from importlib.resources import files
from pathlib import Path

from riktig.files.brief_reader import BriefError, parse_brief, read_brief
from riktig.files.formats import pack_job
from riktig.files.from_to import read_from_to
from riktig.files.job_access import JobFileError, reading
from riktig.files.job_file import JobFile, job_of
from riktig.files.rows_in import ListError
from riktig.record.events import EventKind, make_event, read_event

ROOM = Path(tempfile.mkdtemp(prefix="riktig-bytes-"))
_TABLES = (
    b"number,from,to\n1,K1:A1,S1:13\n2,K1:A2,X1:1\n", b"\xef\xbb\xbfnumber;from;to\r1;K1:A1;S1:13\r",
    'number\tfrom\tto\n1\tK1:A1\t"S1\n:13"\n'.encode("utf-16"), b"nummer;von;nach\n1;K\xfc1:A1;S1:13\n",
)  # fmt: skip


def _brief(data: bytes) -> None:
    path = ROOM / "brief.toml"
    path.write_bytes(data)
    with contextlib.suppress(BriefError):
        read_brief(path)


def _stored(data: bytes) -> None:
    with contextlib.suppress(JobFileError):
        job_of(zlib.compress(data), ROOM / "job.riktig")


def _event(data: bytes) -> None:
    row = (1, "2026-01-01T00:00:00", "1", "Ada", "tick", "wire:1", data.decode("utf-8", errors="surrogateescape"))
    with contextlib.suppress(JobFileError), reading(ROOM / "job.riktig"):
        read_event(row)


def _table(data: bytes) -> None:
    path = ROOM / ("table.xlsx" if data.startswith(b"PK") else "table.csv")
    path.write_bytes(data)
    with contextlib.suppress(ListError):
        read_from_to(path)


def _file(data: bytes) -> None:
    path = ROOM / "job.riktig"
    path.write_bytes(data)
    with contextlib.suppress(JobFileError), JobFile.open(path, read_only=True) as file:
        file.gestures(), file.version(), file.events(), file.issues(), file.load_job()


READ: Mapping[str, Callable[[bytes], None]] = {
    "brief": _brief,
    "stored": _stored,
    "event": _event,
    "table": _table,
    "file": _file,
}


def sound(reader: str) -> Iterator[bytes]:
    """Yield inputs that a reader takes."""
    text = files("riktig").joinpath("demos", "ul.toml").read_text(encoding="utf-8")
    if reader == "brief":
        yield from (text.encode(), text[:600].encode(), b'brief = 1\n[job]\nnumber = "1"\n')
    elif reader == "stored":
        yield zlib.decompress(pack_job(parse_brief(text)))
        yield b'{"format":1,"job":{"ledger":{"places":{"M1.K":{"value":"R1 20"}}}}}'
    elif reader == "event":
        yield from (
            json.dumps(dict(make_event(kind, "K1", unit="1", person="Ada", ohms=1.5, verdict="ok").data)).encode()
            for kind in EventKind
        )
    elif reader == "table":
        yield from _TABLES
    else:
        path = ROOM / "base.riktig"
        JobFile.create(path, parse_brief(text)).close()
        yield path.read_bytes()
