"""Owns what a waiver is: a person who answers for a finding that stays. Must not know what the rules find."""

from datetime import date as Date  # noqa: N812 - the field has its name
from typing import ClassVar

from pydantic import Field

from riktig.job.fields import Frozen, RowName

_MOST_REASON = 500


class Waiver(Frozen):
    """A finding that a person lets stand, with a reason. `rule` and `subject` (a tag, or what stands in its place) name it; `evidence` is
    what was found then: where something else is found, the waiver has lapsed. `until` is the last day on which it holds, None for ever.
    """

    most_letters: ClassVar[int] = _MOST_REASON
    name: RowName = "waiver"
    rule: str = Field(min_length=1)
    subject: str = ""
    reason: str = Field(min_length=1)
    person: str = Field(min_length=1)
    date: Date
    until: Date | None = None
    evidence: str = ""
