"""Owns starting the worker process; loads next to nothing, so that it runs before the window's own libraries are loaded. Knows no Qt."""

import multiprocessing
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any

METHOD = "spawn"
"""How the process is started: nothing of the window's process is taken over."""


@dataclass(frozen=True, slots=True)
class Helper:
    """The process and this side's end of the pipe to it."""

    process: Any
    pipe: Connection


def start_helper() -> Helper:
    """Start the process; it loads its libraries while the window is being built."""
    context: Any = multiprocessing.get_context(METHOD)
    near, far = context.Pipe()
    process = context.Process(target=_serve, args=(far,), daemon=True, name="riktig-worker")
    process.start()
    far.close()
    return Helper(process, near)


def _serve(connection: Connection) -> None:
    from riktig.desk.process import serve

    serve(connection)
