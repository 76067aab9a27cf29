"""Rules about what was built and measured: whether that is what is designed now. Must not know how it is recorded."""

from collections.abc import Iterator
from dataclasses import dataclass

from riktig.checks.finding import Finding, Severity

_SHOWN = 3
SOURCE_CHANGES = "IEC 60204-1:2016 17 (documents agree with what is delivered), common practice"
SOURCE_TESTS = "IEC 60204-1:2016 18.1, IEC 61439-1:2020 11, UL 508A 60, from memory; every wire end to end: common practice, no source"


@dataclass(frozen=True, slots=True, kw_only=True)
class Recorded:
    """What happened to one unit: what was built and is planned otherwise now, in words; how many tests there are, how many passed, those
    that failed, and those that were measured before something changed; `is_issued`: by a revision that was issued; `is_begun`: at all.
    """

    unit: str
    rework: tuple[str, ...]
    tests: int
    passed: int
    failed: tuple[str, ...]
    outdated: tuple[str, ...]
    is_issued: bool
    is_begun: bool


def check_rework(unit: Recorded) -> Iterator[Finding]:
    """Yield a unit in which something is built otherwise than it is designed now.

    Source:
        IEC 60204-1:2016 17: the documents agree with what is delivered, from memory; changes that nobody recorded: common practice.
    """
    if unit.rework:
        yield Finding(
            rule="built-otherwise", severity=Severity.SHOULD, subject="", evidence=f"{len(unit.rework)} to do again", limit="none",
            message=f"unit {unit.unit} is built otherwise than designed now: {_some(unit.rework)}; they stand first on the Build bench",
            source=SOURCE_CHANGES,
        )  # fmt: skip


def check_tests(unit: Recorded) -> Iterator[Finding]:
    """Yield measurements that failed, that were taken before something changed, and those that are still to be taken.

    Source:
        IEC 60204-1:2016 18.1, IEC 61439-1:2020 11, UL 508A 60, from memory; every wire end to end: common practice.
    """
    if unit.failed:
        yield Finding(
            rule="tests", severity=Severity.MUST, subject="", evidence=f"{len(unit.failed)} failed", limit="all passed",
            source=SOURCE_TESTS,
            message=f"unit {unit.unit} failed {len(unit.failed)} measurements: {_some(unit.failed)}; mend them and measure again",
        )  # fmt: skip
    if unit.outdated:
        yield Finding(
            rule="tests", severity=Severity.SHOULD, subject="", evidence=f"{len(unit.outdated)} measured before a change",
            limit="measured as it is now", source=SOURCE_TESTS,
            message=f"unit {unit.unit} was changed after it was measured: measure {_some(unit.outdated)} again",
        )  # fmt: skip
    left = unit.tests - unit.passed - len(unit.failed) - len(unit.outdated)
    if left > 0 and unit.is_begun:
        yield Finding(
            rule="tests", severity=Severity.NOTE, subject="", evidence=f"{unit.passed} of {unit.tests} passed", limit="all",
            message=f"of unit {unit.unit} {left} of {unit.tests} measurements are still to be taken: they are on the Test bench",
            source=SOURCE_TESTS,
        )  # fmt: skip


def check_revision(unit: Recorded) -> Iterator[Finding]:
    """Yield a unit that is being built from a design that nobody has issued.

    Source:
        Common practice, no source: what is built has a revision, so that a later change shows.
    """
    if unit.is_begun and not unit.is_issued:
        yield Finding(
            rule="not-issued", severity=Severity.NOTE, subject="", evidence="no revision", limit="an issued revision",
            message=f"unit {unit.unit} is being built and no revision is issued, so that numbers and places may still move: File, Issue a "
            "revision",
            source="common practice, no source",
        )  # fmt: skip


RECORD_RULES = (check_rework, check_tests, check_revision)


def check_recorded(unit: Recorded) -> tuple[Finding, ...]:
    """Return all that is found about a unit."""
    return tuple(finding for rule in RECORD_RULES for finding in rule(unit))


def _some(things: tuple[str, ...]) -> str:
    more = f" and {len(things) - _SHOWN} more" if len(things) > _SHOWN else ""
    return "; ".join(things[:_SHOWN]) + more
