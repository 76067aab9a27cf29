"""Owns the compliance report: what was found, who waived what, what each rule comes to, what the panel stands in a short circuit, what its
nameplate says and what was assumed. Must not judge.
"""

from collections.abc import Iterator, Sequence

from riktig.checks.finding import Finding, Severity, miss_words
from riktig.checks.rule import Outcome, Verdict, count_words
from riktig.drawings.display import Drawing, Layer, Tone
from riktig.drawings.frame import LEFT
from riktig.drawings.papers.paper import BOTTOM, Cell, Column, finish, table_pages, wrapped_rows
from riktig.job.practice import Practice
from riktig.plan.answers.assumptions import list_assumptions
from riktig.plan.answers.nameplate import nameplate_fields
from riktig.plan.plan import Plan

CAUTION = "An aid to those who inspect, from memory of the standards: the local code and a competent person decide."
_RULES = tuple(
    Column(heading=heading, width=width)
    for heading, width in (("Rule", 44), ("What it asks", 104), ("Comes to", 30), ("Looked at", 88), ("Source", 114))
)
_FOUND = tuple(
    Column(heading=heading, width=width)
    for heading, width in (
        ("", 26), ("Rule", 46), ("At", 24), ("What was found, what is asked, the mend", 200), ("Found", 40), ("Asked", 44),
    )
)  # fmt: skip
_STANDS = tuple(
    Column(heading=heading, width=width)
    for heading, width in (
        ("Way", 34), ("Device", 28), ("Part", 92), ("Fault ahead", 24), ("Stands", 28), ("By itself", 22), ("Why", 150),
    )
)  # fmt: skip
_PLATE = tuple(
    Column(heading=heading, width=width) for heading, width in (("Line", 80), ("Says", 220), ("Stated by", 80))
)
_ASSUMED = tuple(
    Column(heading=heading, width=width)
    for heading, width in (("What", 110), ("Taken for", 110), ("Decides", 90), ("Stated otherwise by", 70))
)
_MARKS = {Severity.MUST: "must be mended", Severity.SHOULD: "should be", Severity.NOTE: "to know"}


def draw_compliance(plan: Plan, verdicts: Sequence[Verdict]) -> tuple[Drawing, ...]:
    """Return the report as sheets, A3 across: what was found, every rule with what it comes to, then the short-circuit rating, the
    nameplate and what was assumed.
    """
    job = plan.job
    said = count_words(verdict.outcome for verdict in verdicts)
    world = f"{job.practice.standard.value.upper()}, {job.practice.scope}, by {job.practice.edition.title}"
    found = table_pages(
        f"Compliance, judged as {world}: findings", "Compliance", _FOUND, list(_findings(verdicts, plan))
    )
    rules = table_pages(
        f"All {len(verdicts)} rules: {said}", "Compliance", _RULES, list(_rules(verdicts, job.practice))
    )
    rating = plan.panel.short_circuit
    stands = table_pages(
        f"Short circuit: the panel stands {rating.rating_ka:g} kA at {job.supply.available_ka:g} kA",
        "Compliance",
        _STANDS,
        list(_stands(plan)),
    )
    plate = table_pages("Nameplate, draft", "Compliance", _PLATE, list(_plate(plan)))
    assumed = table_pages("What was assumed", "Compliance", _ASSUMED, list(_assumed(plan)))
    pages = [*found, *rules, *stands, *plate, *assumed]
    for page in pages:
        page.pen.text(LEFT + 3.2, BOTTOM - 2.2, CAUTION, size=2.5, tone=Tone.DANGER, bold=True, layer=Layer.NOTE)
    return tuple(finish(job, page, n) for n, page in enumerate(pages, start=1))


def _findings(verdicts: Sequence[Verdict], plan: Plan) -> Iterator[tuple[Cell, ...]]:
    all_found = [finding for verdict in verdicts for finding in verdict.findings]
    for finding in sorted(all_found, key=lambda f: tuple(Severity).index(f.severity)):
        yield from wrapped_rows(_FOUND, (_mark(finding), finding.rule, plan.tags.get(finding.subject, finding.subject), _words(finding),
                                 finding.evidence, f"{finding.limit}{miss_words(finding)}"), bold=(1,))  # fmt: skip
    if not all_found:
        yield from wrapped_rows(_FOUND, ("", "", "", "Nothing was found.", "", ""))


def _mark(finding: Finding) -> str:
    return "waived" if finding.waived else "cannot judge" if finding.asks else _MARKS[finding.severity]


def _words(finding: Finding) -> str:
    waived = f". Waived by {finding.waived}" if finding.waived else ""
    asks = f". Asked: {finding.asks}" if finding.asks else ""
    return f"{finding.message}{waived}{asks} [{finding.source}]"


def _rules(verdicts: Sequence[Verdict], practice: Practice) -> Iterator[tuple[Cell, ...]]:
    subject = None
    for verdict in verdicts:
        rule = verdict.rule
        if rule.subject is not subject:
            subject = rule.subject
            yield from wrapped_rows(_RULES, (subject.value, "", "", "", ""), bold=(0,))
        count = f" ({len(verdict.findings)})" if len(verdict.findings) > 1 else ""
        needs = (
            f" (asked where there is {rule.needs})" if verdict.outcome is Outcome.NOT_APPLICABLE and rule.needs else ""
        )
        yield from wrapped_rows(
            _RULES,
            (
                rule.id,
                f"{rule.title}{needs}",
                f"{verdict.outcome.value}{count}",
                verdict.looked,
                practice.cite(rule.source),
            ),
        )


def _stands(plan: Plan) -> Iterator[tuple[Cell, ...]]:
    """Yield the ways of the fault current with what each device on them stands, the weakest marked."""
    rating = plan.panel.short_circuit
    for branch in rating.branches:
        for n, link in enumerate(branch.links):
            is_weakest = link.device in rating.limited_by
            strength, tag = link.strength, plan.tags[link.device]
            why = f"{strength.why} [{plan.job.practice.cite(strength.source)}]"
            yield from wrapped_rows(
                _STANDS,
                ("" if n else plan.tags.get(branch.owner, branch.owner), tag, plan.parts[link.device].title, f"{branch.available_ka:g} kA",
                 f"{strength.ka:g} kA{', least' if is_weakest else ''}", f"{strength.own_ka:g} kA", why),
                bold=(1, 4) if is_weakest else (),
            )  # fmt: skip
    words = (
        f"The panel's fuses let {rating.cut_off_ka:.3g} kA through at the peak."
        if rating.cut_off_ka is not None
        else "Nothing of the panel limits the fault current."
    )
    yield from wrapped_rows(
        _STANDS,
        (
            "",
            "",
            "",
            "",
            "",
            "",
            f"{words} The rating is {rating.value.formula} [{plan.job.practice.cite(rating.value.source)}]",
        ),
    )


def _plate(plan: Plan) -> Iterator[tuple[Cell, ...]]:
    for field in nameplate_fields(plan):
        yield from wrapped_rows(
            _PLATE, (field.heading, field.text or "... not stated yet", field.key), bold=() if field.text else (1,)
        )


def _assumed(plan: Plan) -> Iterator[tuple[Cell, ...]]:
    for one in list_assumptions(plan):
        yield from wrapped_rows(_ASSUMED, (one.what, one.taken, one.decides, one.key))
