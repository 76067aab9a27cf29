"""Owns what an event is. Must not know where events are kept."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from enum import StrEnum
from typing import Any


class EventKind(StrEnum):
    """What happened. A tick is taken back by a later `untick`, never erased."""

    TICK = "tick"
    UNTICK = "untick"
    MEASURE = "measure"
    NOTE = "note"


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """Something that happened to one unit (serial number): when (UTC, ISO 8601), who, what, on what subject.

    `data` of a tick holds `as`, how the thing stood in the Plan; of a measurement `ohms` (None means open),
    `limit`, `verdict` and `as`. `sequence` is None until it is stored.
    """

    kind: EventKind
    subject: str
    unit: str
    person: str
    time: str
    data: Mapping[str, Any] = field(default_factory=dict)
    sequence: int | None = None


def make_event(kind: EventKind, subject: str, *, unit: str, person: str, **data: Any) -> Event:
    """Return an event that happens now."""
    now = datetime.now(UTC).isoformat(timespec="milliseconds")
    return Event(kind=kind, subject=subject, unit=unit, person=person, time=now, data=data)
