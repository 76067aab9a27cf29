"""Owns what window and worker process say to each other. Must not act on it.

Each wish has a number, and each answer that of the wish that it belongs to.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Protocol

from riktig.desk.deltas import Delta

if TYPE_CHECKING:
    from riktig.job.model import Job
    from riktig.plan.plan import Plan

Edit = Callable[["Job"], "Job"]
Question = Callable[["Plan"], Any]
"""What is asked of the present Plan; it and its answer travel through the pipe."""


class LongEdit(Protocol):
    """An edit that takes its time: it tells how far it is and what it costs, and stops where it is told not to go on."""

    def __call__(self, job: "Job", /, *, progress: Callable[[float, float], bool]) -> "Job": ...


class LongQuestion(Protocol):
    """A question that takes its time: it tells which share is done, 0 to 1, and what that raises ends it."""

    def __call__(self, plan: "Plan", /, *, on_share: Callable[[float], None]) -> Any: ...


# -- what the window wishes


@dataclass(frozen=True, slots=True)
class Expect:
    """This Job will be loaded, packed as it is stored: what follows from it may be computed while the window reads it. No answer."""

    packed: bytes


@dataclass(frozen=True, slots=True)
class Load:
    """Make a Job that was kept the present one."""

    job: "Job"


@dataclass(frozen=True, slots=True)
class Apply:
    """Apply an edit to the present Job; one that takes its time tells how far it is. `wants_early`: whether what it does to motors is
    shown before the rest.
    """

    edit: Edit | LongEdit
    takes_time: bool = False
    wants_early: bool = False


@dataclass(frozen=True, slots=True)
class Issue:
    """Release the present Job under a revision name."""

    name: str


@dataclass(frozen=True, slots=True)
class Ask:
    """Answer a question about the present Plan; one that takes its time tells how far it is."""

    question: Question | LongQuestion
    takes_time: bool = False


Wish = Expect | Load | Apply | Issue | Ask


# -- what the worker answers


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """What every answer has: the number of its wish."""

    number: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Settled(Answer):
    """The Job after an edit, and as it is stored."""

    job: Delta
    packed: bytes


@dataclass(frozen=True, slots=True, kw_only=True)
class Loaded(Answer):
    """A loaded Job as it settles now; `is_changed` where that is another one than was kept."""

    job: Delta
    is_changed: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Issued(Answer):
    """The Job as released, and how Job and Plan are stored."""

    job: Delta
    packed: bytes
    packed_plan: bytes


@dataclass(frozen=True, slots=True, kw_only=True)
class EarlyReady(Answer):
    """What an edit does to motors, before the Job is settled: the Job, and all that screens had with the motors as they are now."""

    job: Delta
    bundle: Delta


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanReady(Answer):
    """What screens show first of the present Job."""

    bundle: Delta


@dataclass(frozen=True, slots=True, kw_only=True)
class FindingsReady(Answer):
    """What the rules find in the present Job, worst first."""

    findings: Delta


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetsReady(Answer):
    """The drawn sheets of the present Job."""

    sheets: Delta


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkReady(Answer):
    """What the present Job asks to be done and measured."""

    work: Delta


@dataclass(frozen=True, slots=True, kw_only=True)
class Refused(Answer):
    """An edit does not fit; why, in one sentence."""

    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Failed(Answer):
    """An error of our own, with its report."""

    report: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress(Answer):
    """The share of a long edit that is done, and the best cost so far."""

    share: float
    cost: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Told(Answer):
    """The answer to a question, None where there is none."""

    value: Any
