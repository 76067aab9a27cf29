"""Owns what an event is. Must not know where events are kept."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from enum import StrEnum
from math import isfinite
from typing import Any


class EventKind(StrEnum):
    """What happened. A tick is taken back by a later `untick`, never erased."""

    TICK = "tick"
    UNTICK = "untick"
    MEASURE = "measure"
    NOTE = "note"
    LABELS = "labels"
    SKIP = "skip"
    WAIVE = "waive"
    CAUTION = "caution"
    FAULT = "fault"
    PHOTO = "photo"
    PROBE = "probe"


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """Something that happened to one unit (serial number): when (UTC, ISO 8601), who, what, on what subject.

    `data` of a tick holds `as`, how the thing stood in the Plan; of a measurement its reading by its unit (`ohms`, None means open;
    `volts`, `megohms`, `seen`), `low` and `high`, `verdict`, `as` and the `meter`; of labels `step`, what was done to them, and `texts`,
    label key -> its words; of a step that is skipped, a phase that is waived, a caution that is acknowledged the `reason`; of a fault its
    `words`, its `mend`, its `slip` and the keys of the steps to `retest`; of a photo its `name`. `sequence` is None until it is stored.
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


_NUMBERS = frozenset({"ohms", "limit", "x", "y", "volts", "megohms", "seen", "low", "high"})
_WORDS = frozenset({"as", "verdict", "step", "meter", "reason", "words", "mend", "slip", "name", "a", "b"})


def read_event(row: Sequence[Any]) -> Event:
    """Return the event of a stored row: sequence, time, unit, person, kind, subject, and its data as JSON.

    Raises:
        ValueError, RecursionError: one of them is none, or stands too deep; `data` may only hold what `Event` says, of its sort.
    """
    sequence, *words = row
    if not isinstance(sequence, int) or not all(isinstance(word, str) for word in words):
        raise ValueError("no event")
    time, unit, person, kind, subject, text = words
    data = json.loads(text)
    if not isinstance(data, dict) or not all(_may_hold(key, value) for key, value in data.items()):
        raise ValueError("no data of an event")
    return Event(
        sequence=sequence, time=time, unit=unit, person=person, kind=EventKind(kind), subject=subject, data=data
    )


def _may_hold(key: str, value: object) -> bool:
    if key in _NUMBERS:
        return value is None or (isinstance(value, int | float) and not isinstance(value, bool) and isfinite(value))
    if key == "texts":
        return isinstance(value, dict) and all(isinstance(word, str) for word in value.values())
    if key == "retest":
        return isinstance(value, list) and all(isinstance(word, str) for word in value)
    return key not in _WORDS or isinstance(value, str)
