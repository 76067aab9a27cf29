"""Owns sending values piece by piece: only what differs from what the other side has already. Must not know what they mean.

Both sides begin with nothing, and each delta is applied once, in the order in which they were made.
"""

from collections.abc import Mapping
from dataclasses import dataclass, fields, is_dataclass, replace
from typing import Any

from riktig.pipeline.rows import FEW, is_same, keep_rows


@dataclass(frozen=True, slots=True)
class Same:
    """The value is the one that the other side has."""


@dataclass(frozen=True, slots=True)
class Whole:
    """The value itself."""

    value: Any


@dataclass(frozen=True, slots=True)
class Rows:
    """A tuple made of stretches of the old one (begin, end) and of new rows."""

    pieces: tuple[tuple[int, int] | list[Any], ...]


@dataclass(frozen=True, slots=True)
class Entries:
    """A mapping: keys that are gone, entries that are new or others, and the order of all keys where that changed."""

    gone: tuple[Any, ...]
    put: dict[Any, Any]
    order: tuple[Any, ...] | None


@dataclass(frozen=True, slots=True)
class Fields:
    """A record of which some fields changed."""

    deltas: Mapping[str, Any]


Delta = Same | Whole | Rows | Entries | Fields


def diff(old: Any, new: Any) -> Delta:
    """Return what leads from the old value to the new one; rows and fields that are the very same objects are not sent."""
    if new is old:
        return Same()
    if type(new) is not type(old):
        return Whole(new)
    if isinstance(new, tuple) and len(new) >= FEW:
        return _diff_rows(old, new)
    if isinstance(new, dict) and len(new) >= FEW:
        return _diff_entries(old, new)
    names = _field_names(new)
    if names:
        deltas = {name: diff(getattr(old, name), getattr(new, name)) for name in names}
        return Fields({name: delta for name, delta in deltas.items() if not isinstance(delta, Same)})
    return Whole(new)


def _field_names(value: Any) -> tuple[str, ...]:
    if (modelled := _model_fields(value)) is not None:
        return modelled
    if is_dataclass(value) and not isinstance(value, type):
        return tuple(field.name for field in fields(value))
    return ()


def _model_fields(value: Any) -> tuple[str, ...] | None:
    """Return the fields of a validated model, None for another value; the models' library need not be loaded for it."""
    fields_of = getattr(type(value), "model_fields", None)
    return None if fields_of is None else tuple(fields_of)


def _diff_rows(old: tuple[Any, ...], new: tuple[Any, ...]) -> Delta:
    place = {id(row): at for at, row in enumerate(old)}
    pieces: list[tuple[int, int] | list[Any]] = []
    for row in new:
        at = place.get(id(row))
        last = pieces[-1] if pieces else None
        if at is None:
            if isinstance(last, list):
                last.append(row)
            else:
                pieces.append([row])
        elif isinstance(last, tuple) and last[1] == at:
            pieces[-1] = (last[0], at + 1)
        else:
            pieces.append((at, at + 1))
    return Rows(tuple(pieces))


def _diff_entries(old: Mapping[Any, Any], new: Mapping[Any, Any]) -> Delta:
    gone = tuple(key for key in old if key not in new)
    put = {key: value for key, value in new.items() if key not in old or old[key] is not value}
    expected = [*(key for key in old if key in new), *(key for key in put if key not in old)]
    return Entries(gone, put, None if expected == list(new) else tuple(new))


def patch(old: Any, delta: Delta) -> Any:
    """Return the new value."""
    if isinstance(delta, Same):
        return old
    if isinstance(delta, Whole):
        return delta.value
    if isinstance(delta, Rows):
        return tuple(
            row for piece in delta.pieces for row in (old[piece[0] : piece[1]] if isinstance(piece, tuple) else piece)
        )
    if isinstance(delta, Entries):
        gone = set(delta.gone)
        merged = {**{key: value for key, value in old.items() if key not in gone}, **delta.put}
        return merged if delta.order is None else {key: merged[key] for key in delta.order}
    changes = {name: patch(getattr(old, name), inner) for name, inner in delta.deltas.items()}
    if (modelled := _model_fields(old)) is not None:
        values = {name: getattr(old, name) for name in modelled}
        return type(old).model_construct(**{**values, **changes})
    return replace(old, **changes)


class Sender:
    """This side of several values that the other side has too, each by its name."""

    def __init__(self) -> None:
        self._sent: dict[str, Any] = {}

    def know(self, name: str, value: Any) -> None:
        """Note that the other side has an equal value already."""
        self._sent[name] = value

    def delta(self, name: str, value: Any) -> Delta:
        """Return what the other side needs to have this value now; rows that equal those it has are not sent again."""
        before = self._sent.get(name)
        kept = before if before is not None and is_same(value, before) else keep_rows(value, before)
        self._sent[name] = kept
        return diff(before, kept)


class Receiver:
    """The other side: the values as they are here."""

    def __init__(self) -> None:
        self._have: dict[str, Any] = {}

    def know(self, name: str, value: Any) -> None:
        """Note that this side has a value that the other knows of."""
        self._have[name] = value

    def take(self, name: str, delta: Delta) -> Any:
        """Return the value after a delta."""
        self._have[name] = patch(self._have.get(name), delta)
        return self._have[name]

    def __getitem__(self, name: str) -> Any:
        return self._have[name]
