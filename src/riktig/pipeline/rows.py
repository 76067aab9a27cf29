"""Owns keeping the rows of a result that are as they were, so that identity tells which rows changed, and not making such rows again.
Must not know what rows mean.
"""

from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import fields, is_dataclass, replace
from functools import update_wrapper
from typing import Any, Generic, TypeVar

R = TypeVar("R")

FEW = 16
"""Tuples and mappings with fewer entries are taken as one."""
_MOST_ROWS = 50_000
_NAMES = ("id", "key", "code", "name")


def is_same(new: Any, old: Any) -> bool:
    """Return whether a result equals another, and its mappings, also in the fields of a dataclass, have the same order."""
    return bool(new == old) and _is_in_order(new, old)


def _is_in_order(new: Any, old: Any) -> bool:
    if new is old:
        return True
    if isinstance(new, dict):
        return list(new) == list(old)
    if is_dataclass(new) and not isinstance(new, type):
        return all(_is_in_order(getattr(new, field.name), getattr(old, field.name)) for field in fields(new))
    return True


def keep_rows(new: Any, old: Any) -> Any:
    """Return a result with each of its rows that equals one of the old result replaced by that one.

    Rows are the entries of large tuples and mappings, also in the fields of a frozen dataclass; the order is that of the new result.
    """
    if new is old or type(new) is not type(old):
        return new
    if isinstance(new, tuple):
        return _keep_entries(new, old) if len(new) >= FEW else new
    if isinstance(new, dict):
        return {key: _kept(value, old.get(key)) for key, value in new.items()} if len(new) >= FEW else new
    if is_dataclass(new) and not isinstance(new, type):
        changes = {}
        for field in fields(new):
            value, before = getattr(new, field.name), getattr(old, field.name)
            kept = before if is_same(value, before) else keep_rows(value, before)
            if kept is not value:
                changes[field.name] = kept
        return replace(new, **changes) if changes and all(field.init for field in fields(new)) else new
    return new


def _kept(value: Any, before: Any) -> Any:
    return before if before is not None and before == value else value


def _keep_entries(new: tuple[Any, ...], old: tuple[Any, ...]) -> tuple[Any, ...]:
    if not old:
        return new
    name = next((name for name in _NAMES if isinstance(getattr(new[0], name, None), str)), None)
    try:
        known: dict[Any, Any] = {_name_of(row, name): row for row in old}
        return tuple(_kept(row, known.get(_name_of(row, name))) for row in new)
    except (TypeError, AttributeError):
        pairs = zip(new, old, strict=False)
        return (*(_kept(row, before) for row, before in pairs), *new[len(old) :])


def _name_of(row: Any, name: str | None) -> Any:
    return row if name is None else getattr(row, name)


class RowMaker(Generic[R]):
    """A function that makes one row, its name first; a row whose arguments equal those of the last time is not made again."""

    def __init__(self, make: Callable[..., R]) -> None:
        self._make = make
        self.known: dict[Hashable, tuple[tuple[Any, ...], R]] = {}
        """By the name of a row: what it was made of last, and what came out."""
        update_wrapper(self, make)
        _MAKERS.append(self)

    def __call__(self, name: Hashable, *inputs: Any) -> R:
        known = self.known.get(name)
        if known is not None and known[0] == inputs:
            return known[1]
        if len(self.known) >= _MOST_ROWS:
            self.known.clear()
        row = self._make(name, *inputs)
        self.known[name] = (inputs, row)
        return row


_MAKERS: list[RowMaker[Any]] = []


def forget_rows() -> None:
    """Let go of all rows that are remembered, as a fresh start has it."""
    for maker in _MAKERS:
        maker.known = {}


@contextmanager
def no_rows() -> Iterator[None]:
    """Remember no row from before meanwhile, and those again afterwards."""
    before = [(maker, maker.known) for maker in _MAKERS]
    forget_rows()
    try:
        yield
    finally:
        for maker, known in before:
            maker.known = known


def by_row(make: Callable[..., R]) -> RowMaker[R]:
    """Return a pure function of a row's name and what the row depends on, as one that remembers what it made last of each name."""
    return RowMaker(make)
