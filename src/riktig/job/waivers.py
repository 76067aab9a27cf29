"""Owns what a waiver is: a person who answers for a finding that stays. Must not know what the rules find."""

from datetime import date as Date  # noqa: N812 - the field has its name
from typing import Annotated, ClassVar

from pydantic import BeforeValidator, Field

from riktig.job.fields import Frozen, RowName

_MOST_REASON = 500


def _as_day(value: object) -> object:
    if value is None or type(value) is Date:
        return value
    try:
        return Date.fromisoformat(str(value))
    except ValueError:
        raise ValueError("a day is written like 2026-11-30") from None


Day = Annotated[Date, BeforeValidator(_as_day)]


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
    date: Day
    until: Day | None = None
    evidence: str = ""
