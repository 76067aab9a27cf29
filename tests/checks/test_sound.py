"""No false alarm: sound panels of both worlds, all kinds, 0.1 to 75 kW, raise nothing that a competent person would not write too."""

import pytest

from effort import examples
from riktig.checks.finding import Finding, Severity
from riktig.checks.run import find_all
from sound_panels import sound_text
from support import plan_of

OF_THE_FIRST_LAYOUT = frozenset({"duct-fill", "duct-grouping", "long-tap"})
"""True of plates as they are first laid out, where large motors stand beside each other: a person arranges, or takes a wider enclosure."""


def to_mend(seed: int) -> list[Finding]:
    return [f for f in find_all(plan_of(sound_text(seed))) if f.severity is not Severity.NOTE]


@pytest.mark.parametrize("seed", range(0, 1000, 1000 // examples(500)))
def test_a_sound_panel_has_nothing_to_mend(seed: int) -> None:
    assert [f.message for f in to_mend(seed) if f.rule not in OF_THE_FIRST_LAYOUT] == []
