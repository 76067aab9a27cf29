"""Markers are set in an order that changes few characters: the best one for few, near it for many, never worse than sorted."""

import random
from itertools import permutations

import pytest

from effort import examples
from riktig.plan.making.lots import lots_of
from riktig.plan.making.setting import changed_characters, count_changes, order_strings
from support import demo_text, plan_of


def strings(seed: int, count: int) -> list[str]:
    chance = random.Random(seed)
    return list({chance.choice(("", "1L", "C")) + str(chance.randrange(300)) for _ in range(count)})


def test_characters_are_compared_from_the_left_and_blanks_count() -> None:
    assert [changed_characters(*pair) for pair in (("12", "13"), ("12", "123"), ("9", "10"), ("", "1L1"))] == [
        1,
        1,
        2,
        3,
    ]


@pytest.mark.parametrize("seed", range(examples(60)))
def test_for_few_strings_the_order_is_the_best_of_all(seed: int) -> None:
    some = strings(seed, random.Random(seed).randint(1, 7))
    best = min(count_changes(order, "15") for order in permutations(some))
    found = order_strings(some, "15")
    assert found.changes == best and sorted(found.strings) == sorted(some)


@pytest.mark.parametrize("seed", range(examples(40)))
def test_exchanging_comes_within_a_twentieth_of_the_best(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Held and Karp (1962) gives the best; without it twelve strings are ordered as many are."""
    some = strings(seed, 12)
    best = order_strings(some).changes
    monkeypatch.setattr("riktig.plan.making.setting.EXACT", 0)
    assert order_strings(some).changes <= 1.05 * best + 1


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_no_lot_of_the_demos_is_worse_than_sorted(world: str) -> None:
    plan = plan_of(demo_text(world))
    lots = [
        [text for wire in lot.wires for text in plan.markers_of(wire) if text]
        for one in lots_of(plan)
        for lot in one.lots
    ]
    saved = 0
    for texts in lots:
        in_order = sorted(dict.fromkeys(texts))
        found = order_strings(texts)
        assert found.changes <= count_changes(in_order)
        saved += count_changes(in_order) - found.changes
    assert saved > 0
