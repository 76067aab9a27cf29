"""Owns the compliance report: what each rule comes to, what was found, who waived what. Must not judge."""

from collections.abc import Iterator, Mapping, Sequence

from riktig.checks.finding import Finding, Severity
from riktig.checks.rule import Outcome, Verdict, count_words
from riktig.drawings.display import Drawing, Layer, Tone
from riktig.drawings.frame import LEFT
from riktig.drawings.papers.paper import TOP, Cell, Column, finish, table_pages, wrapped_rows
from riktig.job.model import Job

CAUTION = "An aid to those who inspect, from memory of the standards: the local code and a competent person decide."
_RULES = tuple(
    Column(heading=heading, width=width)
    for heading, width in (("Rule", 48), ("What it asks", 150), ("Comes to", 34), ("Source", 148))
)
_FOUND = tuple(
    Column(heading=heading, width=width)
    for heading, width in (
        ("", 26), ("Rule", 48), ("At", 26), ("What was found, what is asked, the mend", 206), ("Found", 42), ("Asked", 32),
    )
)  # fmt: skip
_MARKS = {Severity.MUST: "must be mended", Severity.SHOULD: "should be", Severity.NOTE: "to know"}


def draw_compliance(job: Job, verdicts: Sequence[Verdict], tags: Mapping[str, str]) -> tuple[Drawing, ...]:
    """Return the report as sheets, A3 across: first what was found, then every rule with what it comes to."""
    said = count_words(verdict.outcome for verdict in verdicts)
    world = f"{job.practice.standard.value.upper()}, {job.practice.scope}"
    found = table_pages(
        f"Compliance, judged as {world}: findings", "Compliance", _FOUND, list(_findings(verdicts, tags))
    )
    rules = table_pages(f"All {len(verdicts)} rules: {said}", "Compliance", _RULES, list(_rules(verdicts)))
    pages = [*found, *rules]
    for page in pages:
        page.pen.text(LEFT + 200, TOP + 5.0, CAUTION, size=2.5, tone=Tone.DANGER, bold=True, layer=Layer.NOTE)
    return tuple(finish(job, page, n) for n, page in enumerate(pages, start=1))


def _findings(verdicts: Sequence[Verdict], tags: Mapping[str, str]) -> Iterator[tuple[Cell, ...]]:
    all_found = [finding for verdict in verdicts for finding in verdict.findings]
    for finding in sorted(all_found, key=lambda f: tuple(Severity).index(f.severity)):
        yield from wrapped_rows(_FOUND, (_mark(finding), finding.rule, tags.get(finding.subject, finding.subject), _words(finding),
                                 finding.evidence, finding.limit), bold=(1,))  # fmt: skip
    if not all_found:
        yield from wrapped_rows(_FOUND, ("", "", "", "Nothing was found.", "", ""))


def _mark(finding: Finding) -> str:
    return "waived" if finding.waived else "cannot judge" if finding.asks else _MARKS[finding.severity]


def _words(finding: Finding) -> str:
    waived = f". Waived by {finding.waived}" if finding.waived else ""
    asks = f". Asked: {finding.asks}" if finding.asks else ""
    return f"{finding.message}{waived}{asks} [{finding.source}]"


def _rules(verdicts: Sequence[Verdict]) -> Iterator[tuple[Cell, ...]]:
    subject = None
    for verdict in verdicts:
        rule = verdict.rule
        if rule.subject is not subject:
            subject = rule.subject
            yield from wrapped_rows(_RULES, (subject.value, "", "", ""), bold=(0,))
        count = f" ({len(verdict.findings)})" if len(verdict.findings) > 1 else ""
        needs = (
            f" (asked where there is {rule.needs})" if verdict.outcome is Outcome.NOT_APPLICABLE and rule.needs else ""
        )
        yield from wrapped_rows(
            _RULES, (rule.id, f"{rule.title}{needs}", f"{verdict.outcome.value}{count}", rule.source)
        )
