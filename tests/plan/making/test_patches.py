"""Network cables of controllers: who is joined to whom, how long, with their labels, and when they are laid."""

import pytest

from riktig.plan.making.bom import build_bom
from riktig.plan.making.labels import stickers_of
from riktig.plan.making.patches import patches_of
from riktig.record.keys import Sort
from riktig.record.operations import list_operations
from support import HEAD, STARTER, plan_of

DC = HEAD + '[control.C2]\nkind = "psu"\nfrom = "L1 L2"\nvolts = 24\n' + STARTER


@pytest.mark.parametrize(
    ("keys", "pairs"),
    [
        ('operator_panel = "door"\nnetwork_switch = true\n', {("A1.N", "A1"), ("A1.N", "A1.HMI")}),
        ('operator_panel = "door"\n', {("A1", "A1.HMI")}),
        ("network_switch = true\n", {("A1.N", "A1")}),
        ("", set()),
    ],
)
def test_controller_and_operator_panel_hang_on_the_switch_or_on_each_other(
    keys: str, pairs: set[tuple[str, str]]
) -> None:
    plan = plan_of(f"{DC}[controller.A1]\n{keys}")
    patches = patches_of(plan)
    assert {(patch.a, patch.b) for patch in patches} == pairs
    for patch in patches:
        ends = [plan.plate.boxes.get(d) or plan.door.boxes[d] for d in (patch.a, patch.b)]
        (x, y), (u, v) = (box.centre for box in ends)
        assert 1000 * patch.length_m >= abs(x - u) + abs(y - v), "long enough along and across"
        assert sorted(s.on for s in stickers_of(plan) if s.key.startswith(f"patch:{patch.key}:")) == sorted(
            (patch.a, patch.b)
        )
    assert sum(line.quantity for line in build_bom(plan) if line.code.startswith("patch-")) == len(pairs)


def test_they_are_laid_once_mains_and_earth_are_and_ahead_of_control() -> None:
    """Order of wiring: common practice, no source."""
    plan = plan_of(f'{DC}[controller.A1]\noperator_panel = "st1"\nnetwork_switch = true\n')
    batches = [one.batch if one.key.sort is not Sort.PATCH else "network" for one in list_operations(plan)]
    order = list(dict.fromkeys(batch.split(",")[0] for batch in batches))
    assert order.index("earth") < order.index("network") < order.index("AC control")
    assert max(patch.length_m for patch in patches_of(plan)) >= 20, "the place is 20 m away"
