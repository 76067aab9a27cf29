"""Owns what may be read of a shop's shelf, its parts and tables, while something is computed. Must not know what stands on it."""

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache, update_wrapper
from pathlib import Path
from typing import Generic, ParamSpec, TypeVar

P = ParamSpec("P")
R = TypeVar("R")

_is_shut: ContextVar[bool] = ContextVar("shelf is shut", default=False)


class ShutShelf(RuntimeError):
    """Something reads the shop's parts or tables without saying so: an error of the one who computes."""


@contextmanager
def shut_shelf() -> Iterator[None]:
    """Refuse to read parts and tables meanwhile."""
    token = _is_shut.set(True)
    try:
        yield
    finally:
        _is_shut.reset(token)


def own_path(variable: str, name: str) -> Path:
    """Return where a shop keeps its own of a thing: where the environment's `variable` points, or `name` in the user's data folder."""
    given = os.environ.get(variable)
    if given:
        return Path(given)
    import platformdirs

    return Path(platformdirs.user_data_dir("riktig")) / name


class Reading(Generic[P, R]):
    """A function that reads the shelf; what it returned is remembered until it is told to forget.

    Raises:
        ShutShelf: when called while the shelf is shut, also where it would remember.
    """

    def __init__(self, read: Callable[P, R]) -> None:
        self._read = cache(read)
        self._name = read.__name__
        update_wrapper(self, read)

    def __call__(self, *args: P.args, **kwargs: P.kwargs) -> R:
        if _is_shut.get():
            raise ShutShelf(f"{self._name} reads the shop's shelf, which is no declared input")
        return self._read(*args, **kwargs)  # type: ignore[arg-type]  # its arguments can be hashed

    def forget(self) -> None:
        """Read again when next called."""
        self._read.cache_clear()


def from_shelf(read: Callable[P, R]) -> Reading[P, R]:
    """Return the function as one that reads the shelf."""
    return Reading(read)
