"""The simulated meter behind the interface that a real one would implement."""

import math

import pytest

from riktig.live.resistance import WiringFault, WiringFaultKind
from riktig.plan.plan import Plan
from riktig.record.measurements import is_passed, list_tests
from riktig.standins.meter import RANGE_OHM, Meter, SimulatedMeter
from support import HEAD, STARTER, TWO_STATIONS, plan_of


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(HEAD + STARTER)


def wire(plan: Plan, number: str, location: str = "plate") -> str:
    return next(c.id for c in plan.conductors if c.number == number and c.location == location and c.kind == "wire")


def test_it_reads_a_wire_as_its_resistance_and_the_leads(plan: Plan) -> None:
    """By hand: 0.1 ohm leads, 2 x 5 mohm clamps, 1.5 mm2 at 13.3 mohm/m, so 350 mm of it read 0.115, shown as 0.11 ohm."""
    meter: Meter = SimulatedMeter(plan)
    (wire,) = [c for c in plan.conductors if {c.a, c.b} == {"M1.F:2/T1", "X1:1"}]
    assert wire.size.mm2 == 1.5 and wire.length_mm == 350
    assert meter.read_ohms("M1.F:2/T1", "X1:1") == 0.11


def test_it_shows_over_range_where_nothing_joins(plan: Plan) -> None:
    meter = SimulatedMeter(plan)
    assert math.isinf(meter.read_ohms("M1.Q:1", "M1:U1"))
    assert RANGE_OHM == 40e6


def test_two_motor_leads_read_one_winding_through_the_star(plan: Plan) -> None:
    meter = SimulatedMeter(plan)
    pairs = [meter.read_ohms(f"M1:{a}", f"M1:{b}") for a, b in (("U1", "V1"), ("V1", "W1"), ("U1", "W1"))]
    assert max(pairs) - min(pairs) < 0.02 and 1 < pairs[0] < 20


def test_probes_on_one_terminal_read_the_leads_only(plan: Plan) -> None:
    assert SimulatedMeter(plan).read_ohms("M1.K:A1", "M1.K:A1") == SimulatedMeter.LEADS_OHM


def test_an_open_wire_reads_through_the_load_beside_it_or_not_at_all(plan: Plan) -> None:
    fault = WiringFault(kind=WiringFaultKind.OPEN, wire=wire(plan, "4"))
    ohms = SimulatedMeter(plan, (fault,)).read_ohms("M1.K:14", "M1.K:A1")
    assert ohms > 100


def test_several_faults_at_once_are_all_found(plan: Plan) -> None:
    wires = [wire(plan, number) for number in ("1L1", "1L2", "L3")]
    faults = (
        WiringFault(kind=WiringFaultKind.SWAPPED, wire=wires[0], other=wires[1]),
        WiringFault(kind=WiringFaultKind.OPEN, wire=wires[2]),
    )
    meter = SimulatedMeter(plan, faults)
    failed = {t.wire for t in list_tests(plan) if not is_passed(t, meter.read_ohms(t.a, t.b))}
    assert failed == set(wires)


def test_a_pressed_button_is_not_needed_to_prove_every_wire_of_two_stations() -> None:
    plan = plan_of(TWO_STATIONS)
    meter = SimulatedMeter(plan)
    assert all(is_passed(t, meter.read_ohms(t.a, t.b)) for t in list_tests(plan))


def test_a_swap_across_numbers_of_one_cable_is_seen_at_both_cores() -> None:
    plan = plan_of(TWO_STATIONS)
    cores = {c.number: c.id for c in plan.conductors if c.location == "W1" and c.number != "PE"}
    fault = WiringFault(kind=WiringFaultKind.SWAPPED, wire=cores["3"], other=cores["4"])
    meter = SimulatedMeter(plan, (fault,))
    failed = {t.wire for t in list_tests(plan) if not is_passed(t, meter.read_ohms(t.a, t.b))}
    assert {cores["3"], cores["4"]} <= failed
