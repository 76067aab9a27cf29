"""Settling: the ledger fits the Job, settling again changes nothing, and a plan never allocates."""

import pytest
from hypothesis import HealthCheck, given, settings

from effort import examples
from panels import panel_text
from riktig.files.brief_reader import parse_brief
from riktig.job import edits
from riktig.job.ledger import ChoiceState, Ledger
from riktig.job.model import Job
from riktig.plan.arrange.edit import arrange_plate
from riktig.plan.changes.numbers import renumber
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from strategies import briefs
from support import HEAD, STARTER, TWO_STATIONS, job_of


@settings(max_examples=examples(25), deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(briefs())
def test_settling_again_changes_nothing(text: str) -> None:
    job = parse_brief(text)
    assert settle(job) is job


@pytest.mark.parametrize("first", range(0, 10 * examples(12), 10))
def test_settling_any_panel_again_changes_nothing_and_its_brief_and_its_job_file_say_the_same(first: int) -> None:
    """Every option of practice, enclosure, incoming, modules and starters, by chance; small boxes with full doors among them."""
    for seed in range(first, first + 10):
        job = parse_brief(panel_text(seed, most=6))
        assert settle(job) is job, seed
        again = settle(Job.model_validate_json(job.model_dump_json()))
        assert again == job, seed
        titled = settle(edits.change_starter(job, "M1", title="another title"))
        assert titled.ledger == job.ledger, seed


def test_the_ledger_speaks_of_exactly_what_is_there() -> None:
    job = job_of(TWO_STATIONS + STARTER)
    plan = compute_plan(job)
    devices = {d.id for d in plan.circuit.devices}
    assert set(job.ledger.tags) == set(job.ledger.parts) == devices
    assert set(job.ledger.links) == {link.key for link in plan.links if link.is_wired}
    assert set(job.ledger.contacts) == set(plan.contacts)
    on_plate = {key for key in job.ledger.places if not key.startswith(("rail:", "duct:", "plate:"))}
    assert on_plate - {"X1", "X2"} <= devices


def test_a_plan_of_a_job_that_was_not_settled_is_refused() -> None:
    job = job_of(HEAD + STARTER)
    with pytest.raises(KeyError):
        compute_plan(edits.replace(job, ledger=Ledger()))


def test_a_removed_thing_leaves_the_ledger_before_release_and_its_number_stays_retired_after() -> None:
    job = job_of(TWO_STATIONS)
    loose = settle(edits.remove(job, "rungs", "rung2"))
    assert "6" not in loose.ledger.numbers
    frozen = settle(edits.remove(issue_revision(job, "A"), "rungs", "rung2"))
    assert frozen.ledger.numbers["6"].value.terminals == ()
    again = settle(edits.add_rung(frozen, "C1+ > K1:no > P1 > C1-"))
    plan = compute_plan(again)
    potential = plan.potential_of("P1:X1")
    assert potential is not None and potential.number == "8"


def test_a_release_freezes_and_later_choices_are_loose() -> None:
    job = issue_revision(job_of(HEAD + STARTER), "A")
    assert job.revision == "A"
    assert {c.state for c in job.ledger.numbers.values()} == {ChoiceState.FROZEN}
    more = settle(edits.duplicate_starter(job, "M1"))
    states = {key: c.state for key, c in more.ledger.tags.items()}
    assert (states["M1.K"], states["M2.K"]) == (ChoiceState.FROZEN, ChoiceState.AUTO)


def test_renumbering_and_arranging_leave_held_choices_alone() -> None:
    job = issue_revision(settle(edits.remove(job_of(TWO_STATIONS), "rungs", "rung1")), "A")
    assert renumber(job).ledger.numbers == job.ledger.numbers
    assert arrange_plate(job).ledger.places == job.ledger.places


def test_a_choice_of_a_person_survives_renumbering() -> None:
    job = job_of(TWO_STATIONS)
    number = next(n for n, c in job.ledger.numbers.items() if "K1:A1" in c.value.terminals)
    kept = edits.keep_choice(job, "numbers", number, job.ledger.numbers[number].value)
    again = renumber(settle(edits.remove(kept, "rungs", "rung2")))
    potential = compute_plan(again).potential_of("K1:A1")
    assert potential is not None and potential.number == number


@pytest.mark.parametrize("kw", [0.75, 4, 11])
def test_a_changed_power_changes_parts_and_sections_and_no_number_or_tag(kw: float) -> None:
    job = job_of(HEAD + STARTER)
    changed = settle(edits.change_starter(job, "M1", kw=kw))
    assert changed.ledger.tags == job.ledger.tags
    assert changed.ledger.numbers == job.ledger.numbers
    assert changed.ledger.links == job.ledger.links


def test_a_bar_clamp_stays_with_its_conductor() -> None:
    job = job_of(HEAD + STARTER + STARTER.replace("M1", "M2"))
    bar = {k: c.value for k, c in job.ledger.clamps.items() if k.startswith("PE.bar|")}
    later = settle(edits.remove(job, "starters", "M1"))
    now = {k: c.value for k, c in later.ledger.clamps.items() if k.startswith("PE.bar|")}
    assert all(now[key] == value for key, value in bar.items() if key in now)
    assert "PE.bar:1" not in now.values(), "the first clamp is for the incoming earth"
