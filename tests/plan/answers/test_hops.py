"""Ways on from what is selected: each leads to a bench that has it, and to a target that is drawn."""

import pytest

from riktig.drawings.sheet_set import draw_sheets
from riktig.plan.answers.hops import find_hops
from riktig.plan.answers.lookup import Lookup
from riktig.plan.plan import Plan
from support import demo_text, plan_of


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(demo_text("iec"))


def test_every_hop_to_a_sheet_has_a_target_that_is_drawn(plan: Plan) -> None:
    targets = {t.id for sheet in draw_sheets(plan) for t in sheet.targets}
    lookup = Lookup(plan)
    for device in plan.tags:
        for hop in find_hops(plan, lookup, device):
            assert (hop.bench == "circuit") == bool(hop.target)
            assert not hop.target or hop.target in targets, hop


def test_a_contactor_leads_to_its_coil_its_contacts_plate_wires_and_terminals(plan: Plan) -> None:
    hops = find_hops(plan, Lookup(plan), "M1.K")
    coil = plan.sheet_places["M1.K"].label
    words = [hop.words for hop in hops]
    assert words[:3] == [f"Drawn at {coil}", "Plate", "Wires"]
    assert sum(word.startswith(("13-14", "23-24")) for word in words) == 2


def test_a_device_on_the_door_leads_to_the_door_and_one_in_the_field_to_its_terminals(plan: Plan) -> None:
    lookup = Lookup(plan)
    assert "Door" in [hop.words for hop in find_hops(plan, lookup, "M1.S0")]
    field = [hop.words for hop in find_hops(plan, lookup, "M5")]
    assert "Plate" not in field and sum(word.startswith("Terminal X1:") for word in field) == 4


def test_a_number_leads_to_its_terminals_and_wires_and_nothing_to_nowhere(plan: Plan) -> None:
    lookup = Lookup(plan)
    number = next(c.number for c in plan.clamps if c.strip == "X2" and c.number)
    words = [hop.words for hop in find_hops(plan, lookup, f"net:{number}")]
    assert words[-1] == "Wires" and words[0].startswith("Terminal X2:")
    assert find_hops(plan, lookup, "R1") == () and find_hops(plan, lookup, "nobody") == ()
