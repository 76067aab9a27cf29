"""Owns the edits of the waivers of a Job. Must not judge."""

from riktig.job.edits import replace
from riktig.job.model import Job
from riktig.job.waivers import Waiver


def waive(job: Job, waiver: Waiver) -> Job:
    """Return the Job with a waiver, in place of an earlier one of the same rule and subject."""
    others = withdraw(job, waiver.rule, waiver.subject).waivers
    taken, number = {one.name for one in others}, len(others) + 1
    while f"waiver{number}" in taken:
        number += 1
    return replace(job, waivers=(*others, replace(waiver, name=f"waiver{number}")))


def withdraw(job: Job, rule: str, subject: str) -> Job:
    """Return the Job without the waiver of a rule about a subject, if there is one."""
    return replace(job, waivers=tuple(one for one in job.waivers if (one.rule, one.subject) != (rule, subject)))
