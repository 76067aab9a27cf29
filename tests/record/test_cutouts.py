"""Measure twice, independently, before a hole is cut; entries for another place do not count."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.plan.changes.plate import keep_moves
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from riktig.record.cutouts import CutoutState, PlannedCutout, list_cutouts, read_checks
from riktig.record.events import Event, EventKind, make_event
from riktig.record.operations import list_operations
from riktig.record.progress import list_work, read_progress
from support import HEAD, STARTER, job_of, plan_of

PLAN = plan_of(HEAD + STARTER)
HOLE = PlannedCutout(key="cutout:S1", ref="S1", where="door", x=100, y=200, size="ø 22.3 mm", tolerance=1.0)


def entry(x: float, y: float, planned: PlannedCutout = HOLE, unit: str = "1", person: str = "Ada") -> Event:
    return make_event(EventKind.MEASURE, planned.key, unit=unit, person=person, x=x, y=y, **{"as": planned.as_planned})


@pytest.mark.parametrize(
    ("entries", "state"),
    [
        ([], CutoutState.BLANK),
        ([(100, 200)], CutoutState.ONCE),
        ([(100, 200), (100.4, 199.8)], CutoutState.AGREED),
        ([(99.5, 200), (100.6, 200)], CutoutState.APART),
        ([(102, 200), (102.2, 200)], CutoutState.OFF),
        ([(110, 200), (100, 200.5), (100, 200)], CutoutState.AGREED),
        ([(100, 200), (100, 200), (100, 205)], CutoutState.APART),
    ],
)
def test_the_last_two_entries_must_agree_with_each_other_and_the_plan(
    entries: list[tuple[float, float]], state: CutoutState
) -> None:
    """Within 1 mm: common practice, no source."""
    check = read_checks([HOLE], [entry(*at) for at in entries], "1")[HOLE.key]
    assert check.state is state and check.is_open is (state is CutoutState.AGREED)


@given(st.tuples(*[st.floats(95, 105)] * 2), st.tuples(*[st.floats(95, 105)] * 2))
def test_it_opens_exactly_where_every_distance_is_within_the_tolerance(
    one: tuple[float, float], other: tuple[float, float]
) -> None:
    planned = PlannedCutout(key="k", ref="r", where="door", x=100, y=100, size="", tolerance=2.0)
    check = read_checks([planned], [entry(*one, planned=planned), entry(*other, planned=planned)], "1")["k"]
    gaps = [abs(a - b) for a, b in zip(one, other, strict=True)] + [abs(v - 100) for v in (*one, *other)]
    if all(abs(gap - 2.0) > 1e-6 for gap in gaps):
        assert check.is_open is all(gap < 2.0 for gap in gaps)


def test_every_hole_that_spoils_a_sheet_is_measured_and_closes_its_operation() -> None:
    keys = {p.key for p in list_cutouts(PLAN)}
    assert {f"cutout:{c.device}" for c in PLAN.door.cutouts} | {f"entry:{e.cable}" for e in PLAN.entries} | {
        "holes:PE.plate"
    } == keys
    assert keys <= {op.key for op in list_operations(PLAN)}
    closed = read_progress(list_work(PLAN), [], "1")
    assert all(closed.why_closed(key) for key in keys)
    planned = next(p for p in list_cutouts(PLAN) if p.key == "cutout:M1.S1")
    both = [entry(planned.x, planned.y, planned), entry(planned.x + 0.5, planned.y, planned, person="Ben")]
    open_now = read_progress(list_work(PLAN), both, "1")
    assert open_now.why_closed(planned.key) == "" and open_now.why_closed("cutout:M1.S0")
    assert read_progress(list_work(PLAN), both, "2").why_closed(planned.key), "another panel is measured by itself"


def test_a_cutout_that_moved_is_measured_anew() -> None:
    job = job_of(HEAD + STARTER)
    planned = next(p for p in list_cutouts(compute_plan(job)) if p.key == "cutout:M1.S1")
    both = [entry(planned.x, planned.y, planned)] * 2
    moved = settle(keep_moves(job, {"M1.S1": f"door {planned.x + 60:g} {planned.y:g}"}))
    assert read_progress(list_work(compute_plan(job)), both, "1").why_closed(planned.key) == ""
    assert read_progress(list_work(compute_plan(moved)), both, "1").checks[planned.key].state is CutoutState.BLANK
