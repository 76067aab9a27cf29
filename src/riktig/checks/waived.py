"""Owns which findings are waived, and which waivers have lapsed. Must not judge anything itself."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import date

from riktig.checks.finding import Finding, Severity
from riktig.job.waivers import Waiver

OF_RECORD = frozenset({"built-otherwise", "tests", "not-issued"})
"""Rules of what is recorded, which are not asked with the design."""


def with_waivers(
    findings: Iterable[Finding],
    waivers: Sequence[Waiver],
    tags: Mapping[str, str],
    today: date,
    *,
    tells_idle: bool = True,
) -> tuple[Finding, ...]:
    """Return findings with who waived them; such a one is to know and must not be mended any more. A waiver holds while what was found is
    what it was judged on, to the end of its last day; one that has lapsed, or that nothing is found for, is said;
    the latter where `tells_idle`.
    """
    if not waivers:
        return tuple(findings)
    by_key = {(waiver.rule, waiver.subject): waiver for waiver in waivers}
    used: set[str] = set()
    found = []
    for finding in findings:
        subject = tags.get(finding.subject, finding.subject)
        waiver = by_key.get((finding.rule, subject)) or by_key.get((finding.rule, finding.subject))
        if waiver is None:
            found.append(finding)
            continue
        used.add(waiver.name)
        why_not = _lapsed(waiver, finding, today)
        words = f"{waiver.person}, {waiver.date.isoformat()}: {waiver.reason}"
        if why_not:
            found.append(replace(finding, message=f"{finding.message}. The waiver by {words} has lapsed: {why_not}"))
        else:
            until = f", until {waiver.until.isoformat()}" if waiver.until is not None else ""
            found.append(replace(finding, severity=Severity.NOTE, waived=f"{words}{until}"))
    idle = [w for w in waivers if w.name not in used and w.rule not in OF_RECORD] if tells_idle else []
    return (*found, *_idle(idle))


def _lapsed(waiver: Waiver, finding: Finding, today: date) -> str:
    """Return why a waiver holds no more, "" where it does."""
    if waiver.until is not None and today > waiver.until:
        return f"it held until {waiver.until.isoformat()}"
    if waiver.evidence and waiver.evidence != finding.evidence:
        return f"it was given for {waiver.evidence}, now {finding.evidence} is found"
    return ""


def _idle(waivers: Sequence[Waiver]) -> Iterator[Finding]:
    for waiver in waivers:
        yield Finding(
            rule="waiver-idle", severity=Severity.NOTE, subject=waiver.subject, evidence=waiver.rule, limit="a finding",
            message=f"{waiver.person} waived {waiver.rule} of {waiver.subject or 'the panel'}, and nothing of it is found: withdraw it",
            source="the job's own waiver",
        )  # fmt: skip
