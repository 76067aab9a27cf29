"""The rule book: every rule that the code knows stands in it, says what it asks and where that is written, and comes to a verdict."""

import re
from datetime import date
from pathlib import Path

import pytest

import riktig.checks
from riktig.checks.book import all_rules, inspect_all
from riktig.checks.finding import Finding, Severity
from riktig.checks.rule import Outcome, Rule, Verdict
from riktig.checks.rule_text import rules_markdown
from riktig.checks.run import find_all
from riktig.checks.waived import with_waivers
from riktig.checks.worlds import compare, in_world, judged_by
from riktig.checks.yardsticks import yardsticks
from riktig.drawings.display import Text
from riktig.drawings.sheet_set import draw_sheets
from riktig.job.practice import Standard
from riktig.job.waiver_edits import waive, withdraw
from riktig.job.waivers import Waiver
from riktig.plan.place.faults import FaultKind
from riktig.plan.plan import Plan, compute_plan
from support import HEAD, STARTER, demo_text, job_of, plan_of

CODE = "".join(path.read_text() for path in Path(riktig.checks.__file__).parent.glob("*.py"))
TODAY = date(2026, 11, 30)
STOP = "[estop.E1]\n"


def verdict(plan: Plan, rule: str) -> Verdict:
    return next(one for one in inspect_all(plan) if one.rule.id == rule)


def test_the_book_has_each_rule_of_the_code_once() -> None:
    written = set(re.findall(r'rule="([a-z0-9-]+)"', CODE)) | set(re.findall(r'"([a-z]+-holes-close)"', CODE))
    written |= {"motor-volts", "delta-voltage", "plate-too-small", "plate-too-narrow"}
    written |= {f"plate-{kind}" for kind in FaultKind if kind is not FaultKind.OUTSIDE}
    names = [rule.id for rule in all_rules()]
    assert sorted(names) == sorted(written) and len(names) == len(set(names))


def test_both_worlds_are_judged_by_more_than_sixty_rules() -> None:
    for standard in Standard:
        assert sum(standard in rule.worlds for rule in all_rules()) >= 60


@pytest.mark.parametrize("rule", all_rules(), ids=lambda rule: rule.id)
def test_a_rule_says_what_it_asks_how_it_is_judged_and_where_that_is_written(rule: Rule) -> None:
    assert not rule.title.endswith(".") and len(rule.title) < 110 and rule.judged and rule.source


def test_the_page_of_rules_is_the_book() -> None:
    page = Path(__file__).parents[2] / "docs" / "rules.md"
    assert page.read_text() == rules_markdown() + "\n", "python -c 'from riktig.checks.rule_text ...' writes it"


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_every_rule_comes_to_a_verdict_and_the_demos_to_nothing_to_mend(world: str) -> None:
    verdicts = inspect_all(plan_of(demo_text(world)))
    assert len(verdicts) == len(all_rules())
    assert {one.outcome for one in verdicts} <= {Outcome.PASS, Outcome.TO_KNOW, Outcome.NOT_APPLICABLE, Outcome.UNKNOWN}
    assert [one.rule.id for one in verdicts if (one.outcome is Outcome.NOT_APPLICABLE) == bool(one.looked)] == []


@pytest.mark.parametrize(
    ("evidence", "limit", "percent"),
    [("9 A", "10 A", -10.0), ("30 mA over 2.5 mm²", "10 mA", -200.0), ("12 kA, nothing limits it", "10 kA, or 17 kA peak", -20.0),
     ("2860 mm", "most 1900 mm", -50.5), ("92 x 92 mm at 20/300", "250 x 1200 mm", None), ("300 s", "60 V after 5 s", None),
     ("1500 A", "180 to 270 A", None), ("no fault_ka", "the supplier's figure", None)],
)  # fmt: skip
def test_a_figure_beside_one_of_its_unit_tells_by_how_much_the_limit_is_missed(
    evidence: str, limit: str, percent: float | None
) -> None:
    found = Finding(rule="", severity=Severity.MUST, subject="", message="", evidence=evidence, limit=limit, source="")
    assert found.margin_percent == (pytest.approx(percent, abs=0.1) if percent is not None else None)


def test_what_is_not_there_is_not_applicable_and_what_is_not_said_cannot_be_judged() -> None:
    plan = plan_of(HEAD + STARTER)
    assert verdict(plan, "star-delta-ends").outcome is Outcome.NOT_APPLICABLE
    assert verdict(plan, "fault-assumed").outcome is Outcome.UNKNOWN
    assert [f.asks for f in verdict(plan, "fault-assumed").findings] == ["supply.fault_ka"]
    said = plan_of((HEAD + STARTER).replace("volts = 400", "volts = 400\nfault_ka = 6"))
    assert verdict(said, "fault-assumed").outcome is Outcome.PASS


def test_rules_for_machines_bind_no_assembly() -> None:
    text = (
        HEAD.replace('kind = "transformer"\nfrom = "L1 L2"', 'kind = "direct"\nfrom = "L1"')
        + STARTER
        + STARTER.replace("M1", "M2")
    )
    assert verdict(plan_of(text), "control-transformer").outcome is Outcome.FINDING
    assembly = plan_of(text + '[practice]\nscope = "assembly"\n')
    assert verdict(assembly, "control-transformer").outcome is Outcome.NOT_APPLICABLE
    assert verdict(assembly, "emergency-stop").outcome is Outcome.NOT_APPLICABLE


def test_the_same_job_in_the_other_world() -> None:
    plan = plan_of(demo_text("iec"))
    compared = compare(plan, in_world(plan, Standard.UL))
    assert "control-voltage" in {finding.rule for finding in compared.findings}, "230 V is more than 120 V"
    assert any("AWG" in there and "mm²" in here for _, _, here, there in compared.values)
    assert in_world(plan, Standard.IEC) is plan and compare(plan, plan).lines == ()


def test_the_same_job_by_an_older_edition_is_cited_by_the_clauses_of_that_one() -> None:
    plan = plan_of(demo_text("ul"))
    older = next(one for one in yardsticks(plan.job.practice) if one.name == "NEC 2017")
    there = judged_by(plan, older)
    compared = compare(plan, there)
    assert not compared.parts and not compared.values and not compared.findings, "nothing else is asked"
    assert any("310.15(B)(16)" in value.source for value in there.sizing)
    assert not any("310.16" in value.source for value in there.sizing)
    assert ("310.16", "310.15(B)(16)") in {(was, becomes) for _, was, becomes in compared.clauses}


# -- waivers


def waived_plan(**changes: object) -> Plan:
    text = (
        HEAD.replace('kind = "transformer"\nfrom = "L1 L2"', 'kind = "direct"\nfrom = "L1"')
        + STARTER
        + STARTER.replace("M1", "M2")
    )
    given = {"evidence": "2 starters, 0 control devices", **changes}
    waiver = Waiver(rule="control-transformer", subject="C1", reason="site rule 7", person="Ada", date=TODAY, **given)  # type: ignore[arg-type]
    return compute_plan(waive(job_of(text), waiver))


def evidence(plan: Plan) -> str:
    return next(f.evidence for f in find_all(plan) if f.rule == "control-transformer")


def test_a_waived_finding_is_told_with_name_and_reason_and_need_not_be_mended() -> None:
    plan = waived_plan(evidence=evidence(waived_plan()))
    one = verdict(plan, "control-transformer")
    assert one.outcome is Outcome.WAIVED and one.findings[0].severity is Severity.NOTE
    assert one.findings[0].waived == "Ada, 2026-11-30: site rule 7"
    back = compute_plan(withdraw(plan.job, "control-transformer", "C1"))
    assert verdict(back, "control-transformer").outcome is Outcome.FINDING


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"evidence": "9 starters"}, "it was given for 9 starters"),
        ({"evidence": "", "until": date(2026, 1, 1)}, "it held until 2026-01-01"),
    ],
)
def test_a_waiver_lapses_with_its_day_and_when_something_else_is_found(changes: dict[str, object], words: str) -> None:
    one = verdict(waived_plan(**changes), "control-transformer")
    assert (
        one.outcome is Outcome.FINDING and "has lapsed" in one.findings[0].message and words in one.findings[0].message
    )


def test_the_last_day_of_a_waiver_still_counts() -> None:
    plan = waived_plan(evidence="", until=TODAY)
    found = [
        f
        for f in find_all(compute_plan(withdraw(plan.job, "control-transformer", "C1")))
        if f.rule == "control-transformer"
    ]
    for day, holds in ((TODAY, True), (date(2026, 12, 1), False)):
        assert bool(with_waivers(found, plan.job.waivers, plan.tags, day)[0].waived) is holds


def test_a_waiver_of_nothing_is_said() -> None:
    waiver = Waiver(rule="voltage-drop", subject="M1", reason="r", person="Ada", date=TODAY)
    plan = compute_plan(waive(waive(job_of(HEAD + STARTER), waiver), waiver))
    assert len(plan.job.waivers) == 1, "a later one stands in place of an earlier one"
    assert [f.subject for f in find_all(plan) if f.rule == "waiver-idle"] == ["M1"]


def test_what_is_waived_stands_on_the_cover_with_who_answers_for_it() -> None:
    text = (
        HEAD
        + STARTER
        + '[[waiver]]\nrule = "fault-assumed"\nreason = "the supplier answers in May"\nperson = "I. Farrow"\ndate = 2026-11-30\n'
    )
    cover = draw_sheets(plan_of(text))[0]
    words = " ".join(item.text for item in cover.items if isinstance(item, Text))
    assert "Waived findings" in words and "I. Farrow, 2026-11-30: the supplier answers in May" in words
