"""Schools of numbering, prefix and start, one number by hand, and what a renumbering would change."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from riktig.files.brief_reader import BriefError, parse_brief
from riktig.files.brief_writer import write_brief
from riktig.job import edits
from riktig.job.faults import JobError
from riktig.plan.changes.numbers import preview_renumber, renumber, renumber_as, set_number
from riktig.plan.making.labels import build_labels
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from strategies import panels
from support import HEAD, STARTER, TWO_STATIONS, job_of, plan_of, small_text


def practice(text: str, *lines: str) -> str:
    return text.replace("[supply]", "[practice]\n" + "\n".join(lines) + "\n[supply]", 1)


def number_at(plan: Plan, terminal: str) -> str:
    potential = plan.potential_of(terminal)
    assert potential is not None
    return potential.number


def test_prefix_and_start_stand_before_every_number_that_is_given_out() -> None:
    plan = plan_of(practice(TWO_STATIONS, 'number_prefix = "P2-"', "number_start = 100"))
    assert number_at(plan, "S0a:11") == "P2-100" and number_at(plan, "S0a:12") == "P2-101"
    assert {p.number for p in plan.potentials if p.net.fixed} <= {
        "L1",
        "L2",
        "L3",
        "N",
        "PE",
        "in.L1",
        "in.L2",
        "in.L3",
        "in.N",
    }
    assert all(p.number.startswith("P2-") for p in plan.potentials if p.net.fixed is None)


def test_a_number_by_sheet_and_column_says_where_its_potential_is_first_drawn() -> None:
    """By hand: C1+ is first drawn at the transformer on sheet 10, the others in the run rung of M1, first on the control sheet."""
    plan = plan_of(practice(small_text().replace('[practice]\nstandard = "iec"\n', ""), 'numbering = "sheet-column"'))
    sheet, column = plan.sheet_places["M1.K"].sheet, plan.sheet_places["M1.K"].column
    run = [number_at(plan, t) for t in ("M1.F:96", "M1.S0:12", "M1.K:A1")]
    assert run == [f"{sheet}{column}{n}" for n in (1, 2, 3)]
    assert number_at(plan, "M1.F:95")[:-1] == f"10{plan.sheets.places['C1/secondary'].column}"
    assert number_at(plan, "M1.K:1/L1") == "1L1", "power keeps its phase names"


def test_a_number_by_line_begins_with_the_line_of_its_rung() -> None:
    """By hand: sheet 20 begins with the run rung of M1, two lanes for start and seal-in; lines 2001 and 2002, the run lamp at 2003."""
    plan = plan_of(practice(HEAD + STARTER, 'numbering = "line"'))
    sheet = plan.sheets.places["M1/run"].sheet
    assert [number_at(plan, t) for t in ("M1.F:96", "M1.S0:12", "M1.K:A1")] == [f"{sheet}01{n}" for n in (1, 2, 3)]
    assert number_at(plan, "M1.H:X1") == f"{sheet}031"


@settings(max_examples=examples(25))
@given(panels(), st.sampled_from(["sheet-column", "line", "sequence", "both-ends"]))
def test_numbers_are_unique_in_every_school_and_renumbering_moves_no_wire(text: str, school: str) -> None:
    job = parse_brief(text)
    plan, made = compute_plan(job), renumber_as(job, school, "A", None)
    after = compute_plan(made)
    numbers = [p.number for p in after.potentials]
    assert len(numbers) == len(set(numbers))
    ways = [{(c.id, c.location, c.route, c.length_mm) for c in p.conductors} for p in (plan, after)]
    assert ways[0] == ways[1]
    assert [(c.id, c.drop) for c in plan.clamps] == [(c.id, c.drop) for c in after.clamps]
    assert renumber(made) == made, "numbered anew it is as it was"
    assert compute_plan(parse_brief(write_brief(made))).potentials == after.potentials


def test_each_end_of_a_wire_shows_where_the_other_is() -> None:
    plan = plan_of(practice(TWO_STATIONS, 'numbering = "both-ends"'))
    wire = next(c for c in plan.conductors if c.kind == "wire")
    assert plan.markers_of(wire) == (plan.terminal_label(wire.b), plan.terminal_label(wire.a))
    texts = {x.text: x.count for x in build_labels(plan) if x.kind == "wire"}
    assert sum(texts.values()) == 2 * sum(c.kind != "link" for c in plan.conductors)
    assert plan.terminal_label(wire.a) in texts


def test_a_preview_is_what_the_renumbering_does() -> None:
    job = settle(edits.remove(job_of(TWO_STATIONS), "rungs", "rung1"))
    plan = compute_plan(job)
    told = {c.old: c.new for c in preview_renumber(plan)}
    after = compute_plan(renumber(job))
    real = {
        number_at(plan, t): number_at(after, t) for p in plan.potentials for t in p.net.terminals if p.net.fixed is None
    }
    assert told == {old: new for old, new in real.items() if old != new} and told["6"] == "2"
    assert any("P1:X1" in c.terminals for c in preview_renumber(plan))
    assert {c.new for c in preview_renumber(plan, prefix="Z")} >= {"Z1", "Z2"}


def test_a_released_number_stays_in_any_school_and_new_ones_follow_it() -> None:
    job = issue_revision(job_of(TWO_STATIONS), "A")
    assert preview_renumber(compute_plan(job), school="line") == ()
    more = settle(edits.add_rung(renumber_as(job, "line", None, None), "C1+ > K1:no > P1 > C1-"))
    assert {n for n, c in job.ledger.numbers.items() if c.value.terminals} <= set(more.ledger.numbers)


def test_a_number_by_hand_stays_and_takes_its_terminals_with_it() -> None:
    job = set_number(job_of(TWO_STATIONS), "3", "R30")
    plan = compute_plan(job)
    assert number_at(plan, "S1a:13") == "R30" and any(c.number == "R30" for c in plan.clamps)
    assert compute_plan(renumber(job)).potential_of("S1a:13") == plan.potential_of("S1a:13")


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ("3", "4", "number 4 is taken"),
        ("3", "L1", "number L1 is taken"),
        ("3", "", "is no wire number"),
        ("3", "a b", "write it without blanks"),
        ("L1", "7", "a supply keeps its name"),
        ("99", "7", "there is no number 99"),
    ],
)
def test_a_number_that_does_not_fit_is_refused(old: str, new: str, said: str) -> None:
    with pytest.raises(JobError, match=said):
        set_number(job_of(TWO_STATIONS), old, new)


def test_numbers_of_a_release_are_neither_changed_nor_used_again() -> None:
    job = settle(edits.remove(issue_revision(job_of(TWO_STATIONS), "A"), "rungs", "rung2"))
    with pytest.raises(JobError, match="was released"):
        set_number(job, "3", "33")
    loose = settle(edits.add_rung(job, "C1+ > K1:no > P1 > C1-"))
    with pytest.raises(JobError, match="never given out again"):
        set_number(loose, number_at(compute_plan(loose), "P1:X1"), "6")


def test_a_number_that_is_the_name_of_a_supply_is_refused_with_its_line() -> None:
    text = write_brief(job_of(TWO_STATIONS)).replace('"3" =', '"L1" =')
    line = next(n for n, row in enumerate(text.splitlines(), start=1) if row.startswith('"L1" ='))
    with pytest.raises(BriefError) as error:
        parse_brief(text)
    assert str(error.value).startswith(f"brief:{line}: ") and "L1 is the name of a supply" in str(error.value)
