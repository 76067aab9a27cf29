"""Control supplies of every size: chosen with a reserve, fused within the code, never with a finding that nobody can mend."""

import pytest

from riktig.checks.run import find_all
from support import HEAD, plan_of

UL = """brief = 1
[job]
number = "T-2"
[supply]
system = "3ph"
volts = {volts}
earthing = "wye-grounded"
hertz = 60
fault_ka = 5
[practice]
standard = "ul"
[enclosure]
width = 1200
height = 1800
depth = 400
[control.C1]
kind = "transformer"
volts = 120
va = {va}
[starter.M1]
hp = 2
supply = "C1"
amps = 6
"""


def most_primary_a(va: float, volts: float) -> float:
    """NEC 430.72(C)(4): below 2 A up to 500 %; beyond, Table 450.3(B) with secondary protection: 250 %. From memory."""
    amps = va / volts
    return (5.0 if amps < 2.0 else 2.5) * amps


def most_secondary_a(va: float) -> float:
    """Table 450.3(B): 9 A and more up to 125 % and the next size made, below up to 167 %. From memory."""
    amps = va / 120.0
    if amps < 9.0:
        return 1.67 * amps
    return next(made for made in (12, 15, 17.5, 20, 25, 30, 35, 40, 45, 50, 60, 70) if made >= 1.25 * amps - 1e-9)


@pytest.mark.parametrize("volts", [208, 240, 480, 600])
@pytest.mark.parametrize("va", [50, 100, 250, 500, 750, 1000, 1500, 2000, 3000, 5000])
def test_control_transformers_of_every_size_solve_at_every_voltage(va: int, volts: int) -> None:
    plan = plan_of(UL.replace("{va}", str(va)).replace("{volts}", str(volts)))
    rated = plan.parts["C1.T"].rating("va")
    assert rated >= va
    primary, secondary = (plan.parts[f"C1.{role}"].rating("amps") for role in ("FP", "F"))
    assert 0 < primary <= most_primary_a(rated, volts) + 1e-6
    assert 0 < secondary <= most_secondary_a(rated) + 1e-6
    wrong = [f.message for f in find_all(plan) if f.severity == "must"]
    assert [message for message in wrong if "filter fan" not in message] == [], (
        "the losses of 2 kVA and more ask for a fan, rightly"
    )


def test_the_main_conductors_carry_the_neutral_of_single_phase_loads_on_one_line() -> None:
    """Three ways of 16 A on L1 and a socket of 16 A ahead of the switch: 64 A through the neutral, IEC 60364-5-52 524.2.2 (memory). 25 mm²
    carry 77 A · 0.91 in air of 45 °C = 70 A, led by themselves (IEC 60204-1 Table 6, column B1).
    """
    ways = "".join(f'[way.W{n}]\namps = 16\nline = "L1"\n' for n in (1, 2, 3))
    plan = plan_of(HEAD + ways + '[excepted.X1]\nload = "socket"\n')
    main = next(v for v in plan.sizing if (v.subject, v.quantity) == ("Q0", "main_section"))
    assert plan.panel.load.neutral == pytest.approx(64, abs=0.5) and main.carries is not None
    assert main.carries >= plan.panel.load.neutral
    assert not [f for f in find_all(plan) if f.rule == "neutral"]


def test_the_earth_of_a_panel_is_that_of_its_largest_supply() -> None:
    """22 and 7.5 kW on a supply of their own behind 100 A: 50 mm2, so 25 mm2 of earth; 22 kW has 25 mm2 and takes 16 mm2 of it, though
    the main supply feeds 7.5 kW alone: IEC 60204-1 Table 1, from memory.
    """
    motors = "".join(
        f'[starter.M{n}]\nkw = {kw}\nsupply = "C1"\n{power}'
        for n, kw, power in ((1, 22, 'power = "P"\n'), (2, 7.5, 'power = "P"\n'), (3, 7.5, ""))
    )
    plan = plan_of(HEAD + '[extra_supply.P]\nsystem = "3ph"\nvolts = 400\n' + motors)
    found = {(v.subject, v.quantity): v.value for v in plan.sizing}
    assert (found["P", "main_section"], found["P", "earth_section"], found["Q0", "earth_section"]) == (50, 25, 10)
    assert plan.sections.inside["PE"].mm2 == 25 and ("P", "conductor_section") not in found
    earths = {c.b: c.size.mm2 for c in plan.conductors if c.number == "PE" and c.is_wired}
    assert (earths["M1:PE"], earths["PE.plate:PE"]) == (16, 25)
