"""Owns files that are written beside their target before they take its name. Must not know what is in them."""

import contextlib
import errno
import glob
import os
import secrets
import time
from pathlib import Path

_LEFT_S = 3600.0
"""No writer takes so long for one file."""
_NO_LINKS = frozenset(
    {errno.EPERM, errno.EACCES, errno.ENOTSUP, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK, errno.EXDEV}
)
"""What a file system says that has no hard links, as some of networks and memory sticks."""


def fresh_path(target: Path) -> Path:
    """Return a name beside a target that nobody else has; what a killed writer left there an hour ago is removed."""
    for left in target.parent.glob(f".{glob.escape(target.name)}.*.new*"):
        with contextlib.suppress(OSError):
            if time.time() - left.stat().st_mtime > _LEFT_S:
                left.unlink()
    return target.with_name(f".{target.name}.{os.getpid()}-{secrets.token_hex(4)}.new")


def take_name(fresh: Path, target: Path) -> None:
    """Give a file the name of its target, of two that want it at one moment to the first alone.

    Raises:
        FileExistsError: another has the name.
        OSError: it cannot be given.
    """
    try:
        os.link(fresh, target)
    except OSError as error:
        if error.errno not in _NO_LINKS:
            raise
        if target.exists():
            raise FileExistsError(errno.EEXIST, os.strerror(errno.EEXIST), str(target)) from error
        fresh.rename(target)
    else:
        fresh.unlink()
