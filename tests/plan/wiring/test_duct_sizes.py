"""Checks that a proposal has ducts as wide as its wires ask."""

import pytest

from riktig.plan.place.faults import FaultKind, find_faults
from support import HEAD, STARTER, plan_of


@pytest.mark.parametrize("kw", ["1.5", "7.5"])
@pytest.mark.parametrize("count", [1, 6, 14, 24])
def test_a_proposal_has_room_in_its_ducts_where_the_plate_has_room_for_them(count: int, kw: str) -> None:
    """About 60 % at most, but in the widest that is made, of 200 mm: common practice, no source."""
    head = HEAD.replace("width = 800\nheight = 1200", "width = 1600\nheight = 2000")
    plan = plan_of(head + "".join(STARTER.replace("M1", f"M{n}").replace("1.5", kw) for n in range(1, count + 1)))
    widths = {duct.code: min(duct.box.w, duct.box.h) for duct in plan.plate.ducts}
    assert all(fill <= (60 if widths[code] < 200 else 65) for code, fill in plan.fill_percent.items())
    assert not [fault for fault in find_faults(plan.plate) if fault.kind is FaultKind.OUTSIDE]
