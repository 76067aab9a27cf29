"""Choices keep who holds them, and nothing changes that did not change."""

from hypothesis import given
from hypothesis import strategies as st

from riktig.job.ledger import Choice, ChoiceState, Ledger, merge_choices

KEYS = st.sampled_from("abcdef")
VALUES = st.dictionaries(KEYS, st.sampled_from("xyz"))
CHOICES = st.dictionaries(
    KEYS, st.builds(Choice, value=st.sampled_from("xyz"), state=st.sampled_from(list(ChoiceState)))
)


@given(CHOICES, VALUES)
def test_merged_choices_have_exactly_the_new_values_and_the_old_holders(
    old: dict[str, Choice], values: dict[str, str]
) -> None:
    merged = merge_choices(old, values)
    assert {key: choice.value for key, choice in merged.items()} == values
    for key, choice in merged.items():
        assert choice.state is (old[key].state if key in old else ChoiceState.AUTO)
        assert key not in old or old[key].value != choice.value or choice is old[key]


@given(CHOICES)
def test_the_very_same_object_comes_back_when_nothing_changed(old: dict[str, Choice]) -> None:
    assert merge_choices(old, {key: choice.value for key, choice in old.items()}) is old


@given(CHOICES, VALUES)
def test_old_keys_stay_in_their_order_and_new_ones_follow(old: dict[str, Choice], values: dict[str, str]) -> None:
    order = list(merge_choices(old, values))
    assert order == [k for k in old if k in values] + [k for k in values if k not in old]


@given(CHOICES)
def test_a_release_holds_everything(old: dict[str, Choice]) -> None:
    frozen = Ledger(tags=old).frozen()
    assert all(choice.state is ChoiceState.FROZEN and choice.is_held for choice in frozen.tags.values())
    assert {key: c.value for key, c in frozen.tags.items()} == {key: c.value for key, c in old.items()}
