"""Owns starting the worker process; loads next to nothing, so that it runs before the window's own libraries are loaded. Knows no Qt."""

import multiprocessing
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any

METHOD = "spawn"
"""How the process is started when the window's process has threads and Qt: nothing of them is taken over."""
BARE_METHOD = "fork"
"""How it is started before these are loaded: an interpreter of its own need not start first."""


@dataclass(frozen=True, slots=True)
class Helper:
    """The process and this side's end of the pipe to it."""

    process: Any
    pipe: Connection


def start_helper(*, is_bare: bool = False) -> Helper:
    """Start the process; it loads its libraries while the window is being built.

    Args:
        is_bare: nothing is loaded here yet, and no thread runs.
    """
    context: Any = multiprocessing.get_context(BARE_METHOD if is_bare else METHOD)
    near, far = context.Pipe()
    process = context.Process(target=_serve, args=(far, near if is_bare else None), daemon=True, name="riktig-worker")
    process.start()
    far.close()
    return Helper(process, near)


def _serve(connection: Connection, not_ours: Connection | None) -> None:
    """Serve at one end of the pipe; the other, which a forked process has too, is closed, so that the end of the window is seen."""
    from riktig.desk.process import serve

    if not_ours is not None:
        not_ours.close()
    serve(connection)
