"""What is measured on the dead panel: every wire end to end, every exposed part to earth, each with its limit."""

import pytest

from riktig.live.built import Built
from riktig.plan.plan import Plan
from riktig.prove.dead_steps import CONTACT_OHM, list_bonds, list_through
from riktig.prove.steps import PREPARATIONS, Phase, Step
from riktig.standins.panel import SimulatedPanel
from support import HEAD, STARTER, TWO_STATIONS, demo_text, plan_of


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(HEAD + STARTER)


def failed(plan: Plan, steps: tuple[Step, ...], built: Built) -> set[str]:
    panel = SimulatedPanel(plan, built)
    return {step.wire or step.key for step in steps if not step.is_passed(panel.read(step) + 0.1)}


def test_every_wire_is_measured_end_to_end(plan: Plan) -> None:
    """Continuity of every wire, and of every bridge and comb that no other way hides: common practice, no source."""
    steps = list_through(plan)
    wired = {c.id for c in plan.conductors if c.is_wired}
    assert wired <= {step.wire for step in steps}
    assert all(step.high >= CONTACT_OHM and step.expected is not None and step.source for step in steps)


@pytest.mark.parametrize("text", [HEAD + STARTER, TWO_STATIONS])
def test_the_panel_as_designed_passes_and_every_open_wire_fails(text: str) -> None:
    plan = plan_of(text)
    steps = list_through(plan)
    assert failed(plan, steps, Built()) == set()
    for wire in (c for c in plan.conductors if c.is_wired):
        assert failed(plan, steps, Built(ends={wire.id: None})) == {wire.id}, wire.id


def test_exchanged_ends_fail_at_both_wires(plan: Plan) -> None:
    one, other = (
        {c.number: c for c in plan.conductors if c.stage == "feeds" and c.kind == "wire"}[n] for n in ("3L1", "3L2")
    )
    built = Built(ends={one.id: (one.a, other.b), other.id: (other.a, one.b)})
    assert failed(plan, list_through(plan), built) == {one.id, other.id}


@pytest.mark.parametrize("phase", [Phase.THROUGH, Phase.APART])
def test_the_preparation_says_what_must_be_off_and_out(phase: Phase) -> None:
    """Breakers open, links out, electronics unplugged, overloads tripped: common practice, no source."""
    for words in (
        "locked off",
        "proved dead",
        "breakers open",
        "earth links out",
        "electronics unplugged",
        "overloads tripped",
    ):
        assert words in PREPARATIONS[phase].replace("\n", " ")


@pytest.mark.parametrize(("ohms", "verdict"), [(0.0, True), (0.59, True), (0.6, False), (float("inf"), False)])
def test_a_reading_at_the_limit_passes_and_beyond_it_fails(plan: Plan, ohms: float, verdict: bool) -> None:
    """By hand: 20 m of 1.5 mm2 class 5 is 20 * 0.0133 = 0.266 ohm; with 10 % and 0.3 ohm for leads 0.59 (IEC 60228)."""
    motor = next(step for step in list_through(plan) if "M1:U1" in (*step.a, *step.b))
    assert motor.is_passed(ohms) is verdict


def test_every_exposed_part_is_measured_to_the_main_earth_and_an_open_earth_fails() -> None:
    """0.1 ohm inside an assembly: IEC 61439-1 10.5.2, outside by length and section: IEC 60204-1 18.2.2; from memory."""
    plan = plan_of(demo_text("iec"))
    bonds = {step.of: step for step in list_bonds(plan) if not step.prepare}
    earthed = {
        d.id for d in plan.circuit.devices
        if any(e.kind == "earth" for e in plan.parts[d.id].elements) and d.kind not in {"earth-bar", "earth-terminal", "block", "source"}
    }  # fmt: skip
    assert set(bonds) == earthed and "M1" in earthed
    assert {step.high for name, step in bonds.items() if name in plan.plate.boxes} == {0.1 + CONTACT_OHM}
    assert bonds["M1"].high > 0.5, "25 m of 1.5 mm² and back"
    for device in ("M1", "M2"):
        wire = next(c for c in plan.conductors if c.is_wired and f"{device}:PE" in (c.a, c.b))
        assert bonds[device].key in failed(plan, (bonds[device],), Built(ends={wire.id: None}))


def test_each_earth_link_is_measured_in_its_place_and_an_open_one_fails() -> None:
    """One bond of each control supply: IEC 60204-1 9.4.3.1, from memory; out for all other dead tests: common practice, no source."""
    plan = plan_of(demo_text("iec"))
    links = [step for step in list_bonds(plan) if step.prepare]
    assert {step.of for step in links} == {d.id for d in plan.circuit.devices if d.kind == "link"}
    assert failed(plan, tuple(links), Built()) == set()
    wire = next(c for c in plan.conductors if c.is_wired and f"{links[0].of}:1" in (c.a, c.b))
    other = next(c for c in plan.conductors if c.is_wired and f"{links[0].of}:2" in (c.a, c.b))
    assert failed(plan, (links[0],), Built(ends={wire.id: None, other.id: None})) == {links[0].key}
