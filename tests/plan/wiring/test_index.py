"""What is looked up again and again is what a search of the whole Plan finds."""

import pytest

from panels import panel_text
from riktig.files.brief_reader import parse_brief
from riktig.plan.circuit.zones import device_of
from riktig.plan.plan import compute_plan


@pytest.mark.parametrize("seed", range(4))
def test_every_look_up_equals_a_search(seed: int) -> None:
    plan = compute_plan(parse_brief(panel_text(seed)))
    terminals = [t for p in plan.potentials for t in p.net.terminals]
    assert terminals and list(plan.potential_at) == terminals
    for terminal in (*terminals, *plan.clamp_by_id):
        here = tuple(c for c in plan.conductors if terminal in {c.a, c.b})
        assert plan.conductors_at.get(terminal, ()) == here
        inside, outside = plan.wires_at(terminal)
        assert {*inside, *outside} == {c for c in here if c.is_wired} and not {*inside} & {*outside}
    for device in plan.circuit.index:
        assert plan.uses_of.get(device, ()) == tuple(u for u in plan.uses if u.device == device)
        mine = tuple(c for c in plan.conductors if device in {device_of(c.a), device_of(c.b)})
        assert plan.conductors_of.get(device, ()) == mine
