"""Owns how a job would be judged by another yardstick: in the other world of standards, or by another edition. Must not judge itself."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from riktig.checks.book import inspect_all
from riktig.checks.finding import Finding
from riktig.checks.rule import WORLD_WORDS, Outcome
from riktig.checks.run import find_all
from riktig.checks.yardsticks import Yardstick
from riktig.job.edits import change_part
from riktig.job.practice import Standard
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle

_FOLLOWS = frozenset({"voltage_drop", "start_drop", "losses", "temperature_rise", "greatest_length"})
"""Quantities that follow from others and that nobody changes."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """The same job by another yardstick: what is found there and not here, devices whose part would be another (tag, here, there), values
    that would be others (subject, quantity, here, there), and clauses with other numbers (what they are cited for, here, there).
    """

    plan: Plan
    findings: tuple[Finding, ...]
    parts: tuple[tuple[str, str, str], ...]
    values: tuple[tuple[str, str, str, str], ...]
    clauses: tuple[tuple[str, str, str], ...] = ()

    @property
    def lines(self) -> tuple[str, ...]:
        """What would be otherwise, a line each; findings of one rule in one."""
        alike: dict[str, list[Finding]] = {}
        for finding in self.findings:
            alike.setdefault(finding.rule, []).append(finding)
        return (
            *(f"{some[0].severity.value}: {some[0].message}{_more(some, self.plan)}" for some in alike.values()),
            *(f"{tag}: {here} → {there}" for tag, here, there in self.parts),
            *(f"{subject} {quantity}: {was} → {becomes}" for subject, quantity, was, becomes in self.values),
            *(f"clause {here} is numbered {there} there ({name})" for name, here, there in self.clauses),
        )


def _more(findings: Sequence[Finding], plan: Plan) -> str:
    """Return in words what the other findings of one rule are about, "" where there is one alone."""
    tags = [plan.tags.get(finding.subject, finding.subject) for finding in findings[1:]]
    return f" (and alike of {', '.join(tags)})" if tags else ""


def judged_by(plan: Plan, yardstick: Yardstick) -> Plan:
    """Return the Plan of the same job by a yardstick; parts and sizes that nobody holds are chosen anew there."""
    changes = dict(yardstick.changes)
    if all(getattr(plan.job.practice, key) == value for key, value in changes.items()):
        return plan
    return compute_plan(settle(change_part(plan.job, "practice", **changes)))


def in_world(plan: Plan, standard: Standard) -> Plan:
    """Return the Plan of the same job in a world."""
    return judged_by(plan, Yardstick(name=WORLD_WORDS[standard], changes=(("standard", standard),)))


def compare(plan: Plan, there: Plan) -> Comparison:
    """Return what would have to change for a job to stand as its Plan by another yardstick has it."""
    here = {(finding.rule, finding.subject) for finding in find_all(plan)}
    parts = tuple(
        (plan.tags[device], part.title, there.parts[device].title)
        for device, part in plan.parts.items()
        if device in there.parts and there.parts[device].code != part.code and device in plan.tags
    )
    values = {(value.subject, value.name): value.text for value in plan.sizing}
    return Comparison(
        plan=there,
        findings=tuple(finding for finding in find_all(there) if (finding.rule, finding.subject) not in here),
        parts=parts,
        values=tuple(
            (there.tags.get(value.subject, value.subject), value.name, values[value.subject, value.name], value.text)
            for value in there.sizing
            if value.quantity not in _FOLLOWS
            and (value.subject, value.name) in values
            and values[value.subject, value.name] != value.text
        ),
        clauses=_cited_otherwise(plan, there) if plan.job.practice.standard is there.job.practice.standard else (),
    )


def _cited_otherwise(plan: Plan, there: Plan) -> tuple[tuple[str, str, str], ...]:
    """Return what binds a job and has clauses of other numbers by other editions: a rule or a quantity, each pair of clauses once."""
    rules = (one.rule for one in inspect_all(plan) if one.outcome is not Outcome.NOT_APPLICABLE)
    cited = [(rule.id, plan.job.practice.cite(rule.source), there.job.practice.cite(rule.source)) for rule in rules]
    after = {value.key: value.source for value in there.sizing}
    cited += [(value.quantity, value.source, after.get(value.key, value.source)) for value in plan.sizing]
    found: dict[tuple[str, str], str] = {}
    for name, was, becomes in cited:
        for pair in _renumbered(was, becomes):
            found.setdefault(pair, name)
    return tuple((name, was, becomes) for (was, becomes), name in found.items())


def _renumbered(was: str, becomes: str) -> list[tuple[str, str]]:
    """Return the clauses of a source that have other numbers in another edition, there and here; years of standards are none."""
    here, there = (_YEAR.sub("", source).split() for source in (was, becomes))
    if len(here) != len(there):
        return [(was, becomes)]
    return [(a.strip(",;:"), b.strip(",;:")) for a, b in zip(here, there, strict=True) if a != b]


_YEAR = re.compile(r"(?<=60204-1):[0-9]{4}|(?<=NEC) 20[0-9]{2}\b")
