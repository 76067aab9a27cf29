"""Owns how a refusal reads: what may go wrong with input, disk and memory, each in one sentence with the mend. Must not know where."""

import errno

_WHY = {
    errno.ENOSPC: "the disk is full: free some space or choose another folder",
    errno.EDQUOT: "your share of the disk is used up: free some space or choose another folder",
    errno.EFBIG: "it would be larger than files may be here: choose another folder",
    errno.EROFS: "it lies where nothing can be written: choose another folder",
    errno.EACCES: "it may not be read or written: check its permissions",
    errno.EPERM: "it may not be read or written: check its permissions",
    errno.ENOENT: "it is not there: check the name",
    errno.ENOTDIR: "a part of its name is a file and no folder: check the name",
    errno.EISDIR: "it is a folder: give the name of a file",
    errno.ENAMETOOLONG: "the name is too long: choose a shorter one",
    errno.EMFILE: "too many files are open: close some programs",
    errno.EIO: "the disk refuses: choose another one, and look after this one",
}


class Refusal(ValueError):
    """An answer to bad input or to a disk: one line for each fault, with its place and the mend."""


class Stopped(BaseException):
    """Whoever is at the keyboard wants it to end; no library may take it for a fault of its own."""


def sentence_of(error: BaseException) -> str:
    """Return what a person is told of an error, "" where it is one of Riktig's own."""
    if isinstance(error, Refusal):
        return str(error)
    if isinstance(error, MemoryError):
        return "there is not enough memory for this: close some programs, or part the job"
    if isinstance(error, OSError):
        name = f"{error.filename}: " if error.filename else ""
        return f"{name}{_WHY.get(error.errno or 0, f'{error.strerror or error}: choose another file or folder')}"
    return ""
