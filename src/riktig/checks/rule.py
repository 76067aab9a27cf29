"""Owns what a rule is and what its judgement comes to. Must not know any rule."""

import inspect
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from riktig.checks.finding import Finding, Severity
from riktig.job.practice import Practice, Standard
from riktig.plan.plan import Plan

Check = Callable[[Any], Iterator[Finding]]
BOTH = frozenset(Standard)


WORLD_WORDS = {Standard.IEC: "IEC", Standard.UL: "North America"}


class Subject(StrEnum):
    """What an inspector looks at, in his order."""

    EARTH = "Earth"
    ISOLATION = "Isolation"
    OVERCURRENT = "Overcurrent"
    SHORT_CIRCUIT = "Short circuit"
    MOTORS = "Motors"
    CONTROL = "Control circuits"
    BEHAVIOUR = "Behaviour"
    SHOCK = "Shock"
    WIRING = "Wiring"
    ENCLOSURE = "Enclosure"
    PLATE = "Plate and door"
    MARKING = "Marking and papers"


class Outcome(StrEnum):
    """What a rule comes to on a job, the gravest first."""

    FINDING = "finding"
    UNKNOWN = "cannot judge"
    WAIVED = "waived"
    TO_KNOW = "to know"
    PASS = "pass"  # noqa: S105 - no secret
    NOT_APPLICABLE = "not applicable"


def count_words(outcomes: Iterable[Outcome]) -> str:
    """Return how many rules come to what, the gravest first: `7 to mend, 82 pass`."""
    counts = Counter(outcomes)
    return ", ".join(
        f"{counts[one]} {'to mend' if one is Outcome.FINDING else one.value}" for one in Outcome if counts[one]
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule:
    """A rule.

    Attributes:
        id: its stable name.
        title: what it asks, as a sentence without its full stop.
        subject: under what it is judged.
        worlds: the standards that ask for it.
        is_for_machines: it binds machines only, and no assembly that is none.
        needs: what must be there for it to be asked, in words; "" for any panel.
        is_there: whether that is so.
        check: judges; it may find what other rules ask too, under their names.
        is_of_record: it asks what was built and measured, not the design.
        looks_at: what is counted as its evidence (`checks.looked`).
        sizes: the quantities of which the one nearest to its limit is evidence.
    """

    id: str
    title: str
    subject: Subject
    check: Check
    worlds: frozenset[Standard] = BOTH
    is_for_machines: bool = False
    needs: str = ""
    is_there: Callable[[Plan], bool] = lambda plan: True
    is_of_record: bool = False
    looks_at: tuple[str, ...] = ()
    sizes: tuple[str, ...] = ()

    def applies(self, plan: Plan) -> bool:
        """Return whether it is asked of a job."""
        practice = plan.job.practice
        is_bound = practice.standard in self.worlds and (practice.scope == "machine" or not self.is_for_machines)
        return is_bound and self.is_there(plan)

    @property
    def judged(self) -> str:
        """How it is judged: what its function says that it yields."""
        text = " ".join(inspect.cleandoc(self.check.__doc__ or "").partition("\n\n")[0].split())
        return text.removeprefix("Yield ")

    @property
    def source(self) -> str:
        """The standards that it follows, with their clauses."""
        _, _, after = inspect.cleandoc(self.check.__doc__ or "").partition("Source:")
        return " ".join(after.split())


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What a rule comes to on a job, and its findings; `looked` is what it looked at, in words with figures, "" where it was not asked."""

    rule: Rule
    outcome: Outcome
    findings: tuple[Finding, ...] = ()
    looked: str = ""


def outcome_of(findings: tuple[Finding, ...]) -> Outcome:
    """Return what the findings of a rule come to."""
    if any(finding.severity is not Severity.NOTE for finding in findings):
        return Outcome.FINDING
    if any(finding.waived for finding in findings):
        return Outcome.WAIVED
    if any(finding.asks for finding in findings):
        return Outcome.UNKNOWN
    return Outcome.TO_KNOW if findings else Outcome.PASS


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """What a rule comes to on a job, as a window shows it: of the rule its words alone."""

    rule: str
    title: str
    subject: str
    outcome: Outcome
    findings: tuple[Finding, ...]
    judged: str
    source: str
    needs: str
    looked: str


def as_shown(verdict: Verdict, practice: Practice) -> Judged:
    """Return a verdict as a window shows it, its source by the editions of a practice."""
    rule = verdict.rule
    return Judged(
        rule=rule.id, title=rule.title, subject=rule.subject.value, outcome=verdict.outcome, findings=verdict.findings, judged=rule.judged,
        source=practice.cite(rule.source), needs=rule.needs, looked=verdict.looked,
    )  # fmt: skip
