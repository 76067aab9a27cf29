"""A size that a person sets: edit, brief, ledger, and what becomes of it."""

import pytest

from riktig.checks.run import find_all
from riktig.files.brief_reader import BriefError, parse_brief
from riktig.files.brief_writer import write_brief
from riktig.job import edits
from riktig.job.faults import JobError
from riktig.job.overrides import compute_value, override_value, read_typed
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from riktig.units.numbers import BadNumber
from support import HEAD, STARTER, job_of, plan_of, small_text

KEY = "M1|conductor_section"


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [("4", "mm2", 4), ("2,5 mm²", "mm2", 2.5), ("2.5mm2", "mm2", 2.5), ("12 AWG", "mm2", 3.31), ("AWG 12", "mm2", 3.31),
     ("250 kcmil", "mm2", 126.68), ("16 A", "A", 16), (" 16 ", "A", 16)],
)  # fmt: skip
def test_a_size_is_typed_as_people_say_it(text: str, unit: str, value: float) -> None:
    """Areas: ASTM B258; 1 kcmil = 0.5067 mm2."""
    assert read_typed(text, unit) == pytest.approx(value, abs=0.01)


@pytest.mark.parametrize(("text", "unit"), [("", "A"), ("16 V", "A"), ("13 AWG", "mm2"), ("12 AWG", "A"), ("1 2", "A")])
def test_what_is_no_size_is_refused(text: str, unit: str) -> None:
    with pytest.raises(BadNumber):
        read_typed(text, unit)


def test_it_goes_through_brief_settle_and_plan_and_back() -> None:
    job = settle(override_value(job_of(HEAD + STARTER), KEY, 4, "spare reel"))
    again = parse_brief(write_brief(job))
    assert str(again.ledger.values[KEY].value) == "4 | spare reel" and again.ledger == job.ledger
    other = settle(edits.change_starter(again, "M1", title="Elevator"))
    value = next(v for v in compute_plan(other).sizing if v.key == KEY)
    assert (value.value, value.computed, value.reason) == (4, 1.5, "spare reel")
    back = settle(compute_value(other, KEY))
    assert next(v for v in compute_plan(back).sizing if v.key == KEY).value == 1.5


@pytest.mark.parametrize(("number", "reason"), [(0, "why not"), (-4, "less"), (4, "  ")])
def test_a_size_without_reason_or_substance_is_refused(number: float, reason: str) -> None:
    with pytest.raises(JobError) as error:
        override_value(job_of(HEAD + STARTER), KEY, number, reason)
    assert error.value.faults[0].at == ("kept", "values", KEY)


def test_a_brief_names_the_line_of_a_size_without_reason() -> None:
    text = HEAD + STARTER + '[kept.values]\n"M1|conductor_section" = "4"\n'
    with pytest.raises(BriefError) as error:
        parse_brief(text)
    assert str(error.value).startswith(f"brief:{len(text.splitlines())}: ") and 'write "number | reason"' in str(
        error.value
    )


@pytest.mark.parametrize(
    ("key", "number", "device", "rating", "value"),
    [
        ("M1.Q|protective_rating", 10, "M1.Q", "amps", 10),
        ("M1.K|contactor_rating", 18, "M1.K", "amps", 18),
        ("C1.T|transformer_va", 160, "C1.T", "va", 160),
        ("Q0|incoming_rating", 63, "Q0", "amps", 63),
    ],
)
def test_parts_follow_a_rating_set_by_hand(key: str, number: float, device: str, rating: str, value: float) -> None:
    plan = compute_plan(settle(override_value(job_of(small_text()), key, number, "as the customer wants")))
    assert plan.parts[device].rating(rating) == value
    told = next(v for v in plan.sizing if v.key == key)
    assert told.reason == "as the customer wants" and "Computed:" in told.formula


@pytest.mark.parametrize(
    ("key", "number", "rule"),
    [
        (KEY, 1.5, "conductor-protection"),
        ("M1.F|overload_setting", 3.0, "set-by-hand"),
        ("M1.Q|protective_rating", 2, "set-by-hand"),
    ],
)
def test_a_size_set_by_hand_is_judged_like_any_other(key: str, number: float, rule: str) -> None:
    plan = plan_of(small_text().replace("kw = 1.5", "kw = 7.5") + f'[kept.values]\n"{key}" = "{number} | test"\n')
    assert any(f.rule == rule for f in find_all(plan)), {f.rule for f in find_all(plan)}
