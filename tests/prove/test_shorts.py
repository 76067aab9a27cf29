"""The fewest measurements that show every potential apart from every other."""

from itertools import combinations
from math import ceil, log2

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.live.built import Built
from riktig.prove.dead import DeadPanel
from riktig.prove.shorts import list_shorts, stages
from riktig.standins.panel import SimulatedPanel
from support import HEAD, STARTER, demo_text, plan_of, small_text


@given(st.integers(0, 70))
def test_so_few_stages_part_every_pair(count: int) -> None:
    """ceil(log2 n) stages for n things, from n different numbers to the base two: two of them differ in a digit."""
    things = tuple(map(str, range(count)))
    found = [tuple(map(set, sides)) for sides in stages(things)]
    assert len(found) == (ceil(log2(count)) if count > 1 else 0)
    assert all(a | b == set(things) and not a & b for a, b in found)
    for one, other in combinations(things, 2):
        assert any((one in a) != (other in a) for a, _ in found)


@pytest.mark.parametrize("text", [HEAD + STARTER, small_text("ul"), demo_text("iec")])
def test_a_sound_panel_passes_and_a_join_of_any_two_potentials_fails(text: str) -> None:
    plan = plan_of(text)
    steps = list_shorts(plan, DeadPanel(plan))
    points = sorted({*steps[0].a, *steps[0].b})
    assert len(steps) == ceil(log2(len(points)))
    sound = SimulatedPanel(plan)
    assert all(step.is_passed(sound.read(step) + 0.1) for step in steps)
    pairs = list(combinations(points, 2))
    for pair in pairs[:: max(1, len(pairs) // 25)]:
        panel = SimulatedPanel(plan, Built(extra=(pair,)))
        assert not all(step.is_passed(panel.read(step) + 0.1) for step in steps), pair


def test_what_stands_in_between_is_said() -> None:
    """Coils, lamps and supplies read low: common practice, no source."""
    plan = plan_of(demo_text("iec"))
    low = [step for step in list_shorts(plan, DeadPanel(plan)) if step.expected is not None]
    assert low and all("that is no short" in step.prepare and 0.5 <= step.low < step.expected for step in low)
