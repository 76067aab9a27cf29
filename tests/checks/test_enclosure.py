"""The smallest enclosure of the series, and what stops the next smaller ones."""

import pytest

from riktig.checks.enclosure import propose_enclosure, with_size
from riktig.checks.finding import Severity
from riktig.checks.run import find_all
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.standards.enclosures import enclosure_series
from support import HEAD, STARTER, plan_of

OF_PLACES = ("plate-", "door-", "shaft-", "entry-")
ROOMY = HEAD.replace("width = 800\nheight = 1200", "width = 1200\nheight = 2000\ndepth = 400\nambient = 20")


def has_reserve(plan: Plan) -> bool:
    """Return whether a fifth of each row with more than one part is free, between the uprights (common practice, no source).

    Measured where the parts stand; a rail ends 5 mm and what is first on it 10 mm from the upright.
    """
    plate = plan.plate
    inner = plate.uprights[-1].box.x - plate.uprights[0].box.right - 20
    for row in set(plate.row_of.values()):
        members = [plate.items[name] for name, at in plate.row_of.items() if at == row and name in plate.items]
        used = 0.0
        for beside in ([i for i in members if i.on_rail], [i for i in members if not i.on_rail]):
            lefts = [plate.boxes[item.id].x - item.left for item in beside]
            ends = [left + item.span for left, item in zip(lefts, beside, strict=True)]
            used += max(ends, default=0.0) - min(lefts, default=0.0)
        if len(members) > 1 and used > 0.8 * inner + 1e-6:
            return False
    return True


@pytest.mark.parametrize("count", [1, 4, 6, 9, 13])
def test_the_panel_fits_what_is_proposed_and_nothing_smaller_of_the_series(count: int) -> None:
    """Every smaller size of the series is planned in full as oracle."""
    plan = plan_of(ROOMY + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, count + 1)))
    proposal = propose_enclosure(plan)
    assert proposal.size is not None
    sizes = enclosure_series()

    def is_sound(size) -> bool:  # type: ignore[no-untyped-def]
        there = compute_plan(settle(with_size(plan.job, size)))
        warm = there.panel.heat.inside_c <= there.job.enclosure.inside_max
        return (
            warm
            and has_reserve(there)
            and not [f for f in find_all(there) if f.rule.startswith(OF_PLACES) and f.severity is Severity.MUST]
        )

    assert is_sound(proposal.size)
    smaller = sizes[: sizes.index(proposal.size)]
    assert not any(is_sound(size) for size in smaller[-4:])
    assert all(stop.size in smaller and stop.why for stop in proposal.stopped)
    assert str(proposal.size) in proposal.words.splitlines()[0]


def test_what_is_too_large_for_the_series_is_said() -> None:
    plan = plan_of(ROOMY + STARTER.replace("kw = 1.5", 'kw = 250\nkind = "drive"'))
    proposal = propose_enclosure(plan)
    assert proposal.size is None and proposal.stopped and "No enclosure" in proposal.words
