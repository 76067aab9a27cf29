"""A main breaker or a fused switch as the disconnect: one device that carries, opens and protects the whole panel."""

import pytest

from riktig.checks.run import find_all
from riktig.files.brief_reader import BriefError, parse_brief
from riktig.plan.circuit.expand import expand
from riktig.plan.making.bom import build_bom
from support import HEAD, job_of, plan_of

MOTORS = '[starter.M1]\nkw = 11\nsupply = "C1"\n[starter.M2]\nkw = 4\nsupply = "C1"\n'
HP = '[starter.M1]\nhp = 15\namps = 20\nsupply = "C1"\n[starter.M2]\nhp = 5\namps = 7\nsupply = "C1"\n'
UL = (
    HEAD.replace("3ph+n", "3ph")
    .replace("volts = 400", 'volts = 480\nfault_ka = 5\n[practice]\nstandard = "ul"')
    .replace("= 230", "= 120")
)
INCOMING = '[incoming]\ndisconnect = "{}"\n'


@pytest.mark.parametrize(("form", "kind"), [("breaker", "breaker"), ("fused-switch", "fuse")])
def test_one_device_is_switch_and_protection_with_a_handle_in_the_door(form: str, kind: str) -> None:
    plan = plan_of(HEAD + INCOMING.format(form) + MOTORS)
    main = plan.parts["Q0"]
    assert main.kind == kind and plan.tags["Q0"] == "Q0" and "incoming.FP" not in plan.parts
    assert main.rating("amps") >= plan.panel.full_load_a
    size = next(v for v in plan.sizing if (v.subject, v.quantity) == ("Q0", "main_section"))
    assert size.needed == main.rating("amps") and size.carries is not None and size.carries >= main.rating("amps")
    assert [line.quantity for line in build_bom(plan) if line.code == "dh-1"] == [1]
    assert "Q0" in {cutout.device for cutout in plan.door.cutouts}
    assert [f.rule for f in find_all(plan) if f.severity == "must"] == []


def test_an_iec_breaker_as_disconnect_is_one_that_isolates() -> None:
    """IEC 60204-1:2016 5.3.2 c): a circuit-breaker suitable for isolation to IEC 60947-2, never a miniature one to IEC 60898-1."""
    plan = plan_of(HEAD + INCOMING.format("breaker") + MOTORS.replace("11", "1.5").replace("4\n", "0.75\n"))
    assert plan.parts["Q0"].traits["type"] == "IEC 60947-2"


@pytest.mark.parametrize(("form", "type_"), [("breaker", "UL 489"), ("fused-switch", "UL 98 / UL 248-8 class J")])
def test_in_north_america_it_lies_between_115_percent_of_the_load_and_the_feeder_rule(form: str, type_: str) -> None:
    """430.110: 115 % of 27.1 A = 31.1 A at least. 430.62: the largest branch device, 250 % of the table's 21 A = 52.5, next size 60 A,
    and the other motor's 7.6 A: 67.6, next size down 60 A at most. NEC Table 430.250 and 240.6, from memory.
    """
    plan = plan_of(UL + INCOMING.format(form) + HP)
    main = plan.parts["Q0"]
    assert main.traits["type"] == type_ and 1.15 * plan.panel.full_load_a <= main.rating("amps") <= 60
    assert plan.parts["M1.Q"].rating("amps") == 60
    assert [f.rule for f in find_all(plan) if f.severity == "must"] == []


@pytest.mark.parametrize("protection", ["none", "fuse"])
def test_where_the_feeder_rule_leaves_less_than_the_load_the_next_size_protects_a_feeder_that_carries_it(
    protection: str,
) -> None:
    """Three times 27 A behind motor breakers up to 32 A: 430.62(A) gives 32 + 2 · 27 = 86, so 80 A, below the 81 A of the load. 430.62(B):
    90 A, for conductors that carry as much, 3 AWG of 100 A at 75 degC (4 AWG has 85). NEC 240.6, Table 310.16, from memory.
    """
    ul = UL.replace('"ul"', '"ul"\nmotor_protection = "motor-breaker"') + f'[incoming]\nprotection = "{protection}"\n'
    plan = plan_of(ul + "".join(f'[starter.M{n}]\nhp = 20\namps = 27\nsupply = "C1"\n' for n in (1, 2, 3)))
    assert plan.parts["M1.Q"].rating("amps_max") == 32 and plan.panel.supply.value == 90
    assert plan.sections.inside["L1"].label() == "3 AWG"
    assert protection == "none" or plan.parts["incoming.FP"].rating("amps") == 90
    assert [f.rule for f in find_all(plan) if f.severity == "must"] == []


def test_a_switch_alone_protects_nothing_and_stays_what_it_was() -> None:
    plan = plan_of(HEAD + MOTORS)
    assert plan.parts["Q0"].kind == "disconnect" and not [line for line in build_bom(plan) if line.code == "dh-1"]


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ('protection = "fuse"\n', "disconnect: it protects the panel itself"),
        ('switch = "none"\n', "disconnect: there is no switch"),
        ("poles = 4\n", "poles: a fused switch opens the lines, not the neutral: write poles = 3"),
    ],
)
def test_what_does_not_fit_a_fused_switch_is_told(more: str, words: str) -> None:
    with pytest.raises(BriefError, match=words):
        parse_brief(HEAD + INCOMING.format("fused-switch") + more + MOTORS)


def test_control_and_motors_hang_behind_it_and_excepted_circuits_ahead() -> None:
    circuit = expand(job_of(HEAD + INCOMING.format("breaker") + MOTORS + '[excepted.X1]\nload = "light"\n'))
    first = next(path for path in circuit.paths if path.key == "incoming")
    assert [item.names for item in (first.items[0], first.items[-1])] == [
        ("in.L1", "in.L2", "in.L3"),
        ("L1", "L2", "L3"),
    ]  # type: ignore[union-attr]
