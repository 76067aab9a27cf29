"""The door loom: every wire over the hinge is in one branch, whose lengths are those by which the wire was measured."""

import pytest

from effort import examples
from panels import panel_text
from riktig.drawings.loom import draw_loom
from riktig.plan.making.loom import TIE_MM, loom_of
from riktig.plan.stages import run_of
from riktig.plan.wiring.links import HINGE
from support import demo_text, plan_of


@pytest.mark.parametrize(
    "text", [demo_text("iec"), demo_text("ul"), *(panel_text(seed) for seed in range(examples(40)))]
)
def test_along_and_across_are_what_a_wire_takes_on_the_door(text: str) -> None:
    plan = plan_of(text)
    over = [wire for wire in plan.conductors if wire.location == HINGE and wire.kind == "wire"]
    wires = {wire.id for wire in over if "PE.door:" not in f"{wire.a} {wire.b}"}
    loom = loom_of(plan)
    if loom is None:
        assert not wires
        return
    assert {wire.id for branch in loom.branches for wire in branch.wires} == wires and loom.wires == len(wires)
    geometry = run_of(plan.job)["geometry"]
    for branch in loom.branches:
        for wire, inside in zip(branch.wires, branch.inside_mm, strict=True):
            end = wire.a if wire.a.rpartition(":")[0] == branch.device else wire.b
            across = geometry.from_hinge(end, geometry.hinge[1])
            assert abs(branch.along_mm) + branch.across_mm == pytest.approx(across)
            assert 0 <= inside < wire.length_mm
    gaps = [b - a for a, b in zip(loom.ties, loom.ties[1:], strict=False)]
    assert all(TIE_MM / 2 <= gap <= 1.5 * TIE_MM + 1 for gap in gaps)
    assert {branch.device for branch in loom.branches} <= {item.ref for item in draw_loom(plan, loom).primitives()}
