"""Findings judged again only where their part of the Plan changed are those of a fresh start."""

import random
from dataclasses import replace

import pytest

from effort import examples
from panels import panel_text
from person import random_edit
from riktig.checks import behaviour, locks, paths
from riktig.checks.run import RULES, find_all
from riktig.checks.watched import Watch
from riktig.desk.bundle import make_bundle
from riktig.drawings.sheet_set import draw_sheets
from riktig.files.brief_reader import parse_brief
from riktig.job import edits
from riktig.plan.answers.feeding import feeding_of
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from riktig.record.progress import list_work
from support import demo_text, job_of


@pytest.mark.parametrize("seed", range(examples(12)))
def test_after_any_edits_findings_sheets_and_work_are_those_of_a_fresh_start(seed: int) -> None:
    chance, watch = random.Random(seed), Watch()
    job = parse_brief(panel_text(seed))
    for step in range(12):
        name, job = random_edit(job, chance)
        watched, fresh = make_bundle(job, watch), make_bundle(job)
        assert find_all(watched.plan, watch) == find_all(fresh.plan), (seed, step, name)
        for question in (draw_sheets, list_work) if step % 4 == 3 else ():
            assert watch.ask(question, watched.plan) == question(fresh.plan), (seed, step, name)
        assert watched.single_line == fresh.single_line, (seed, step, name)


@pytest.mark.parametrize("seed", range(examples(30)))
def test_no_rule_reads_what_people_call_a_device_or_path(seed: int) -> None:
    plan = compute_plan(parse_brief(panel_text(seed)))
    bare = replace(plan, circuit=plan.body)
    assert [rule.__name__ for rule in RULES if tuple(rule(plan)) != tuple(rule(bare))] == []


def test_a_title_judges_little_again_and_no_rule_twice() -> None:
    job, watch = job_of(demo_text()), Watch()
    plan = compute_plan(job)
    first = find_all(plan, watch)
    asked = watch.asked
    assert find_all(plan, watch) == first and watch.asked == asked
    find_all(compute_plan(settle(edits.change_starter(job, "M1", title="Another"))), watch)
    assert watch.asked - asked < asked / 2


@pytest.mark.parametrize("seed", range(examples(12)))
def test_what_is_remembered_of_a_wiring_is_what_is_found_anew(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """After edits by chance, with nothing remembered: neither what rules found nor the panel as links."""
    chance, job = random.Random(seed), parse_brief(panel_text(seed))
    rules = [rule for rule in RULES if hasattr(rule, "__wrapped__")]
    assert len(rules) > 15
    for step in range(8):
        name, job = random_edit(job, chance)
        plan = compute_plan(job)
        remembered = [tuple(rule(plan)) for rule in rules]
        with monkeypatch.context() as anew:
            for module in (behaviour, locks, paths):
                anew.setattr(module, "feeding_of", feeding_of.__wrapped__)
            assert remembered == [tuple(rule.__wrapped__(plan)) for rule in rules], (seed, step, name)
