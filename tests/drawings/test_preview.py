"""A path drawn as it would be, before it is kept."""

import pytest

from riktig.drawings.display import Symbol
from riktig.drawings.preview import Draft, preview_path
from riktig.job.faults import JobError
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from support import demo_text, job_of, plan_of


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_a_new_rung_is_shown_on_the_sheet_where_it_would_stand(world: str) -> None:
    plan = plan_of(demo_text(world))
    preview = preview_path(plan, Draft(name="", path="C1+ > (M1.K:no | M2.K:nc) > A1.H > C1-"))
    spots = [i for i in preview.drawing.items if isinstance(i, Symbol) and i.spot.startswith(f"{preview.name}|")]
    assert len(spots) == 3 and preview.refs == {"M1.K", "M2.K", "A1.H"}
    assert plan.job.rungs == (), "nothing is kept"


def test_a_changed_rung_is_shown_in_its_own_place_and_kept_drawn_alike() -> None:
    text = demo_text("iec") + '[[rung]]\nname = "own"\npath = "C1+ > M1.K:no > A1.H > C1-"\n'
    plan = compute_plan(settle(job_of(text)))
    preview = preview_path(plan, Draft(name="own", path="C1+ > M1.K:no > M2.K:nc > A1.H > C1-"))
    assert preview.name == "own"
    assert preview.drawing.name == f"sheet-{plan.sheets.places['own'].sheet:03}"


def test_a_path_that_does_not_fit_the_job_is_refused() -> None:
    with pytest.raises(JobError):
        preview_path(plan_of(demo_text("iec")), Draft(name="", path="C1+ > NOBODY:no > C1-"))


def test_a_feeder_is_shown_on_a_power_sheet() -> None:
    text = demo_text("iec") + '[device.Q99]\nkind = "breaker"\n[device.M99]\nkind = "motor"\nkw = 1.5\n'
    preview = preview_path(plan_of(text), Draft(name="", path="L1 L2 L3 > Q99 > M99", is_feeder=True))
    assert preview.drawing.chapter == "Power circuit" and preview.refs == {"Q99", "M99"}
