"""Owns the formats in which Jobs and issued Plans are kept, and how an earlier one is brought to the present step by step, before
anything is validated. Must not know where they are kept.

History of a Job's document:

1. the fields of the Job alone, up to 0.1 in the making. The places of its ledger may still be rows of the plate, which became rails
   and ducts before the format had a number.
2. `{"format": 2, "job": ...}`; rails and ducts have places of their own.

History of an issued Plan: 1, the Plan as JSON alone; 2, `{"format": 2, "plan": ...}`.
"""

import json
import zlib
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any

from riktig.job.upgrade import with_rails

if TYPE_CHECKING:
    from riktig.job.model import Job

FORMAT = 2
"""The format that is written now, of Jobs and Plans alike."""
MOST_BYTES = 256 << 20
"""No document is longer: a Plan of 200 starters takes some 20 MB."""
Document = dict[str, Any]
_USUAL_MM = {"width": 600.0, "height": 800.0}
"""The enclosure of which nothing was said, in format 1."""


class NewerFormat(ValueError):
    """A document of a format that is not known yet; `number` is what it says."""

    def __init__(self, number: int) -> None:
        super().__init__(f"format {number}")
        self.number = number


def pack_job(job: "Job") -> bytes:
    """Return a Job as it is stored."""
    return zlib.compress(f'{{"format":{FORMAT},"job":{job.model_dump_json(exclude_defaults=True)}}}'.encode(), 6)


def pack_plan(plan: Document) -> bytes:
    """Return a Plan, as plain values, as it is stored with an issued revision."""
    return _pack({"format": FORMAT, "plan": plan})


def _pack(document: Document) -> bytes:
    return zlib.compress(json.dumps(document).encode(), 6)


def read_job(blob: bytes) -> Document:
    """Return the fields of a stored Job as the present format has them, not validated.

    Raises:
        NewerFormat: a later version wrote it.
        zlib.error, ValueError, TypeError: it is damaged.
    """
    return _read(blob, _JOB_STEPS, "job")


def read_plan(blob: bytes) -> Document:
    """Return a Plan as it was issued, in the present format.

    Raises:
        NewerFormat: a later version wrote it.
        zlib.error, ValueError, TypeError: it is damaged.
    """
    return _read(blob, _PLAN_STEPS, "plan")


def _read(blob: bytes, steps: Mapping[int, Callable[[Document], Document]], field: str) -> Document:
    document = json.loads(_unpacked(blob))
    if not isinstance(document, dict):
        raise TypeError("no document")
    number = document.get("format", 1)
    if not isinstance(number, int) or number < 1:
        raise TypeError("no format")
    if number > FORMAT:
        raise NewerFormat(number)
    for step in range(number, FORMAT):
        document = steps[step](document)
    found = document[field]
    if not isinstance(found, dict):
        raise TypeError(f"no {field}")
    return found


def _unpacked(blob: bytes) -> bytes:
    """Return what was packed; what becomes larger than any document is refused before it is there."""
    unpacking = zlib.decompressobj()
    text = unpacking.decompress(blob, MOST_BYTES)
    if not unpacking.eof:
        raise ValueError("longer than any document, or cut off")
    return text


def _number_job(fields: Document) -> Document:
    """Lead a Job from format 1 to 2."""
    ledger = fields.get("ledger", {})
    outside = {name: fields.get("enclosure", {}).get(name, usual) for name, usual in _USUAL_MM.items()}
    places = with_rails(ledger.get("places", {}), outside["width"], outside["height"])
    return {"format": 2, "job": {**fields, "ledger": {**ledger, "places": places}} if places else fields}


def _number_plan(plan: Document) -> Document:
    """Lead a Plan from format 1 to 2."""
    return {"format": 2, "plan": plan}


_JOB_STEPS: Mapping[int, Callable[[Document], Document]] = {1: _number_job}
_PLAN_STEPS: Mapping[int, Callable[[Document], Document]] = {1: _number_plan}
