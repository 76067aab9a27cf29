"""The smallest enclosure of the series, and what stops the next smaller ones."""

import pytest

from riktig.checks.enclosure import propose_enclosure, with_size
from riktig.checks.finding import Severity
from riktig.checks.run import PLACE_RULES
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from riktig.standards.enclosures import enclosure_series
from support import HEAD, STARTER, plan_of

ROOMY = HEAD.replace("width = 800\nheight = 1200", "width = 1200\nheight = 2000\ndepth = 400\nambient = 20")


@pytest.mark.parametrize("count", [1, 4, 9])
def test_the_panel_fits_what_is_proposed_and_nothing_smaller_of_the_series(count: int) -> None:
    """Every smaller size of the series is planned in full as oracle."""
    plan = plan_of(ROOMY + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, count + 1)))
    proposal = propose_enclosure(plan)
    assert proposal.size is not None
    sizes = enclosure_series()

    def is_sound(size) -> bool:  # type: ignore[no-untyped-def]
        there = compute_plan(settle(with_size(plan.job, size)))
        warm = there.panel.heat.inside_c <= there.job.enclosure.inside_max
        return warm and not [f for rule in PLACE_RULES[:5] for f in rule(there) if f.severity is Severity.MUST]

    assert is_sound(proposal.size)
    smaller = sizes[: sizes.index(proposal.size)]
    assert not any(is_sound(size) for size in smaller[-4:])
    assert all(stop.size in smaller and stop.why for stop in proposal.stopped)
    assert str(proposal.size) in proposal.words.splitlines()[0]


def test_what_is_too_large_for_the_series_is_said() -> None:
    plan = plan_of(ROOMY + STARTER.replace("kw = 1.5", 'kw = 250\nkind = "drive"'))
    proposal = propose_enclosure(plan)
    assert proposal.size is None and proposal.stopped and "No enclosure" in proposal.words
