"""Owns how a job would be judged in the other world of standards. Must not judge itself."""

from dataclasses import dataclass

from riktig.checks.finding import Finding
from riktig.checks.run import find_all
from riktig.job.edits import change_part
from riktig.job.model import Standard
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle

_FOLLOWS = frozenset({"voltage_drop", "start_drop", "losses", "temperature_rise", "greatest_length"})
"""Quantities that follow from others and that nobody changes."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """The same job in another world: what is found there and not here, devices whose part would be another (tag, part here, part there),
    and values that would be others (subject, quantity, here, there).
    """

    plan: Plan
    findings: tuple[Finding, ...]
    parts: tuple[tuple[str, str, str], ...]
    values: tuple[tuple[str, str, str, str], ...]


def in_world(plan: Plan, standard: Standard) -> Plan:
    """Return the Plan of the same job in a world; parts and sizes that nobody holds are chosen anew there."""
    if plan.job.practice.standard is standard:
        return plan
    return compute_plan(settle(change_part(plan.job, "practice", standard=standard)))


def compare_worlds(plan: Plan, standard: Standard) -> Comparison:
    """Return what would have to change for a job to stand in another world."""
    there = in_world(plan, standard)
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
    )
