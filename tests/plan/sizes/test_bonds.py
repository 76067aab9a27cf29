"""The jumper that bonds a transformer's secondary to earth in North America."""

import pytest

from riktig.checks.run import find_all
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.standards import nec
from support import HEAD, STARTER, plan_of

UL = HEAD.replace("volts = 400", 'volts = 480\n[practice]\nstandard = "ul"').replace("volts = 230", "volts = 120")


def at_link(plan: Plan, transformer: str) -> tuple[list[Conductor], list[Conductor]]:
    """Return the wires of the jumper over an earth link, and the others that land there."""
    link = f"{transformer.partition('.')[0]}.B:"
    wires = [c for c in plan.conductors if c.is_wired and (c.a.startswith(link) or c.b.startswith(link))]
    jumper = [c for c in wires if c.number == "PE" or any(end.startswith(f"{transformer}:") for end in (c.a, c.b))]
    return jumper, [c for c in wires if c not in jumper]


@pytest.mark.parametrize(
    ("line_mm2", "awg"),
    [(2.08, "8"), (33.62, "8"), (42.41, "6"), (53.49, "6"), (85.01, "4"), (177.3, "2"), (600, "3/0")],
)
def test_a_jumper_goes_with_the_largest_line(line_mm2: float, awg: str) -> None:
    """2 AWG or smaller 8; 1 and 1/0 6; 2/0 and 3/0 4; to 350 kcmil 2 AWG: NEC Table 250.102(C)(1), before 250.66; from memory."""
    assert nec.jumper_awg(1500, line_mm2) == awg


@pytest.mark.parametrize(("va", "awg"), [(100, "14"), (1000, "14"), (1600, "8"), (5000, "8")])
def test_above_1000_va_it_is_of_the_table_and_below_no_thinner_than_its_line(va: int, awg: str) -> None:
    """NEC 250.30(A)(1) with its exception for 1000 VA, from memory. The return beside it may be thinner, so both lie under a bolt."""
    plan = plan_of(UL.replace("volts = 120", f"volts = 120\nva = {va}") + STARTER)
    jumper, others = at_link(plan, "C1.T")
    assert [c.size.awg for c in jumper] == [awg] * 2 and {c.number for c in jumper} == {
        "PE",
        plan.potential_of("C1.T:X2").number,
    }
    assert others and plan.parts["C1.B"].code == "lk-m5"
    assert next(v.text for v in plan.sizing if (v.subject, v.quantity) == ("C1.B", "bond_section")) == f"{awg} AWG"
    assert not {"unequal-pair", "clamp-size", "clamp-overfull"} & {f.rule for f in find_all(plan)}


def test_that_of_an_excepted_circuit_likewise_and_none_in_an_iec_panel() -> None:
    """A socket of 120 V and 20 A: 2500 VA."""
    jumper, _ = at_link(plan_of(UL + STARTER + '[excepted.X1]\nload = "socket"\n'), "X1.T")
    assert [c.size.awg for c in jumper] == ["8", "8"]
    iec = plan_of(HEAD + STARTER)
    assert not iec.sections.jumpers and iec.parts["C1.B"].code == "lk-1"
