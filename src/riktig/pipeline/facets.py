"""Owns the parts of a Job that a stage may read. Must not know any stage.

An input is named `job.practice` for a field of the Job, `bare.starters` for one without the titles of its members, `kept.numbers`
for a sort of the ledger, `door.places` for those of its entries that are places on the door.
"""

from collections.abc import Mapping
from typing import Any, cast

from riktig.job.entries import OnDoor
from riktig.job.ledger import Choices
from riktig.job.model import Control, Job, Location, Starter
from riktig.job.modules import WayIn

JOB, BARE, KEPT, ON_DOOR = "job.", "bare.", "kept.", "door."
LEDGER = (KEPT, ON_DOOR)


def is_facet(name: str) -> bool:
    """Return whether an input is a part of the Job, and not a stage."""
    return name.startswith((JOB, BARE, *LEDGER))


def read_facet(job: Job, name: str) -> Any:
    """Return a part of a Job by its name."""
    sort, _, field = name.partition(".")
    if f"{sort}." == KEPT:
        return getattr(job.ledger, field)
    if f"{sort}." == ON_DOOR:
        return {key: choice for key, choice in getattr(job.ledger, field).items() if isinstance(choice.value, OnDoor)}
    whole = getattr(job, field)
    return tuple(_untitled(member) for member in whole) if f"{sort}." == BARE else whole


def _untitled(member: Any) -> Any:
    return member.model_copy(update={"title": ""}) if member.title else member


class UndeclaredInput(AttributeError):
    """A stage reads what it does not declare: an error of the table."""


class LedgerPart:
    """Some sorts of a ledger."""

    def __init__(self, sorts: Mapping[str, Choices]) -> None:
        self._sorts = sorts

    def __getattr__(self, name: str) -> Choices:
        if name.startswith("_") or name not in self._sorts:
            raise UndeclaredInput(f"kept.{name} is no declared input")
        return self._sorts[name]


class JobPart:
    """Some fields of a Job and sorts of its ledger, with the look-ups that a Job has; reading another one is an error."""

    def __init__(self, fields: Mapping[str, Any], ledger: LedgerPart) -> None:
        self._fields = fields
        self.ledger = ledger

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_") or name not in self._fields:
            raise UndeclaredInput(f"job.{name} is no declared input")
        return self._fields[name]

    def starter(self, name: str) -> Starter | None:
        """As `Job.starter`."""
        return Job.starter(cast(Job, self), name)

    def control(self, name: str) -> Control | None:
        """As `Job.control`."""
        return Job.control(cast(Job, self), name)

    def location(self, name: str) -> Location | None:
        """As `Job.location`."""
        return Job.location(cast(Job, self), name)

    def way_in(self, name: str | None) -> WayIn:
        """As `Job.way_in`."""
        return Job.way_in(cast(Job, self), name)


def job_part(facets: Mapping[str, Any]) -> Job:
    """Return what a stage may read of a Job, as a Job.

    Args:
        facets: value by name, such as `job.supply` and `kept.numbers`.
    """
    fields = {name.partition(".")[2]: value for name, value in facets.items() if name.startswith((JOB, BARE))}
    sorts = {name.partition(".")[2]: value for name, value in facets.items() if name.startswith(LEDGER)}
    return cast(Job, JobPart(fields, LedgerPart(sorts)))
