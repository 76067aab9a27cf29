"""Owns how files are written: whole or not at all, never over an input or a file of another kind. Must not know what is in them."""

from collections.abc import Callable, Iterable
from enum import StrEnum
from pathlib import Path

import tomli

from riktig.files.beside import fresh_path
from riktig.refusal import Refusal

_HEAD = 1024


class WriteError(Refusal):
    """A file that may not or cannot be written; one sentence with the mend."""


class FileKind(StrEnum):
    """What a file is, by what stands in it."""

    JOB = "a job file"
    BRIEF = "a brief"
    CATALOGUE = "a catalogue"
    WORKBOOK = "a workbook"
    PDF = "a PDF"
    SVG = "an SVG drawing"
    DXF = "a DXF drawing"
    TEXT = "a text"
    OTHER = "a file of another kind"


_BY_SUFFIX = {
    ".csv": FileKind.TEXT,
    ".xlsx": FileKind.WORKBOOK,
    ".svg": FileKind.SVG,
    ".dxf": FileKind.DXF,
    ".pdf": FileKind.PDF,
}
_HEADS = (
    (b"SQLite format 3\x00", FileKind.JOB),
    (b"%PDF", FileKind.PDF),
    (b"PK\x03\x04", FileKind.WORKBOOK),
)


def kind_of(path: Path) -> FileKind:
    """Return what a file that is there is, read from its content.

    Raises:
        OSError: it cannot be read.
    """
    with path.open("rb") as file:
        head = file.read(_HEAD)
    for begin, kind in _HEADS:
        if head.startswith(begin):
            return kind
    if b"<svg" in head:
        return FileKind.SVG
    if head.split()[:2] == [b"0", b"SECTION"]:
        return FileKind.DXF
    text = path.read_text(encoding="utf-8", errors="replace")
    return FileKind.OTHER if "\x00" in text else _kind_of_text(text)


def _kind_of_text(text: str) -> FileKind:
    try:
        known = tomli.loads(text)
    except tomli.TOMLDecodeError:
        return FileKind.TEXT
    return FileKind.BRIEF if "brief" in known else FileKind.CATALOGUE if "family" in known else FileKind.TEXT


def check_target(target: Path, kind: FileKind, inputs: Iterable[Path] = ()) -> None:
    """Return if `target` may be written: it is none of the inputs, and new, empty or of the same kind.

    Args:
        target: the file to write.
        kind: what it is going to be.
        inputs: files that were read for it.

    Raises:
        WriteError: it may not be.
    """
    if not target.exists():
        return
    if target.is_dir():
        raise WriteError(f"{target} is a folder: give the name of a file")
    for source in inputs:
        if source.exists() and target.samefile(source):
            raise WriteError(f"{target} is what is read here, it was left as it is: choose another name to write to")
    try:
        found = kind_of(target) if target.stat().st_size else kind
    except OSError as error:
        raise WriteError(f"cannot write {target}: {error.strerror}; choose another name") from error
    if found is not kind and (found, kind) != (FileKind.TEXT, FileKind.CATALOGUE):
        raise WriteError(f"{target} is {found} and no {_bare(kind)}, it was left as it is: choose another name")


def _bare(kind: FileKind) -> str:
    return kind.value.partition(" ")[2]


def kind_of_name(name: str) -> FileKind:
    """Return what a document is by the ending of its name."""
    return _BY_SUFFIX[Path(name).suffix]


def write_text(target: Path, text: str, kind: FileKind, inputs: Iterable[Path] = ()) -> None:
    """Write a text whole, in UTF-8.

    Raises:
        WriteError: it may not or cannot be written; what stood there is left as it was.
    """
    check_target(target, kind, inputs)
    try:
        write_whole(target, lambda path: fill_text(path, text))
    except OSError as error:
        raise WriteError(f"cannot write {target}: {error.strerror}; choose another name") from error


def fill_text(path: Path, text: str) -> None:
    """Write a text in UTF-8 with the ends of line that it has."""
    path.write_bytes(text.encode("utf-8"))


def write_whole(target: Path, fill: Callable[[Path], None]) -> None:
    """Write beside the target and move into place, so that no half file is ever seen; what a killed writer left there is removed.

    Args:
        target: the file to write.
        fill: writes the content to the path that it is given.

    Raises:
        OSError: it cannot be written.
    """
    temporary = fresh_path(target)
    try:
        fill(temporary)
        temporary.replace(target)
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise
