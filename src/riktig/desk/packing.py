"""Owns how values become bytes for the pipe and values again: Python's own way, with the fields of slotted records set directly, which
takes half the time of a large Plan. Must not know what the values are.
"""

import io
import pickle
import sys
from dataclasses import fields, is_dataclass
from operator import attrgetter
from typing import Any

_OWN = "riktig."


class _Unpickler(pickle.Unpickler):
    def find_class(self, module: str, name: str) -> Any:
        found = super().find_class(module, name)
        if module.startswith(_OWN):
            quicken(found)
        return found


def pack(value: Any) -> bytes:
    """Return a value as it goes through the pipe."""
    return pickle.dumps(value, pickle.HIGHEST_PROTOCOL)


def unpack(raw: bytes) -> Any:
    """Return the value again."""
    return _Unpickler(io.BytesIO(raw)).load()


def quicken_all() -> None:
    """Let all records of the product that are loaded be packed directly; those that come are, once they are unpacked."""
    for name, module in list(sys.modules.items()):
        if name.startswith(_OWN):
            for found in list(vars(module).values()):
                quicken(found)


def quicken(cls: Any) -> None:
    """Let the fields of a frozen record with slots be read and set directly; what is none, or has its own way, stays as it is.

    Its bytes stay the same: the values of its fields in their order, as `dataclasses` has it.
    """
    if not (isinstance(cls, type) and is_dataclass(cls) and "__slots__" in vars(cls)):
        return
    own = vars(cls).get("__setstate__")
    if own is None or own.__module__ != "dataclasses":
        return
    names = [field.name for field in fields(cls)]
    setters = [getattr(cls, name).__set__ for name in names]
    read = attrgetter(*names) if len(names) > 1 else None

    def getstate(self: Any) -> Any:
        return read(self) if read is not None else [getattr(self, name) for name in names]

    def setstate(self: Any, state: Any) -> None:
        for put, value in zip(setters, state, strict=True):
            put(self, value)

    record: Any = cls
    record.__getstate__, record.__setstate__ = getstate, setstate
