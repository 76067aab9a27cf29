"""What a Job expands to: devices and paths, for every school and supply."""

import pytest

from riktig.job.paths import Nodes, Ref, refs_of
from riktig.plan.circuit.expand import expand
from riktig.plan.circuit.model import Circuit, CircuitDevice, stands_alone, usual_place
from support import HEAD, STARTER, job_of, small_text

SCHOOL = '[practice]\noverload_contact = "return"\n[supply]'
DIRECT = HEAD.replace('kind = "transformer"\nfrom = "L1 L2"\nvolts = 230', 'kind = "direct"')


def circuit_of(text: str) -> Circuit:
    return expand(job_of(text))


def elements(circuit: Circuit, key: str) -> list[str]:
    path = next(p for p in circuit.paths if p.key == key)
    return [f"{r.device}:{r.what}" if r.what else r.device for r in refs_of(path.items)]


def test_a_starter_has_its_parts_and_lamps_only_where_asked_for() -> None:
    plain = {d.id for d in circuit_of(HEAD + STARTER.replace('lamps = ["run", "trip"]', "")).devices}
    assert {"M1", "M1.Q", "M1.K", "M1.F", "M1.S0", "M1.S1"} <= plain
    assert not {"M1.H", "M1.HT"} & plain
    assert {"M1.H", "M1.HT"} <= {d.id for d in circuit_of(HEAD + STARTER).devices}


def test_the_power_path_is_breaker_contactor_overload_motor() -> None:
    """Common practice, no source."""
    assert elements(circuit_of(HEAD + STARTER), "M1/power") == ["M1.Q", "M1.K", "M1.F", "M1"]


@pytest.mark.parametrize(
    ("text", "order"),
    [
        (HEAD + STARTER, ["M1.F:95-96", "M1.S0:nc", "M1.S1:no", "M1.K:no", "M1.K:coil"]),
        (HEAD.replace("[supply]", SCHOOL) + STARTER, ["M1.S0:nc", "M1.S1:no", "M1.K:no", "M1.K:coil", "M1.F:95-96"]),
    ],
)
def test_the_overload_contact_stands_on_the_side_of_the_school(text: str, order: list[str]) -> None:
    """Overload, stop, start with seal-in, coil; or the overload between coil and return: common practice, no source."""
    assert elements(circuit_of(text), "M1/run") == order


def test_the_trip_lamp_hangs_on_the_make_contact_of_the_overload() -> None:
    """97-98, IEC 60947-1 Annex L, from memory."""
    assert elements(circuit_of(HEAD + STARTER), "M1/trip-lamp") == ["M1.F:97-98", "M1.HT:lamp"]


def test_a_transformer_is_protected_in_both_lines_and_in_the_live_side_behind_it() -> None:
    """The return is neither switched nor fused, and earthed by a removable link: common practice, no source."""
    circuit = circuit_of(HEAD)
    assert elements(circuit, "C1/primary") == ["C1.FP", "C1.T"]
    assert circuit.device("C1.FP").poles == 2
    assert elements(circuit, "C1/secondary") == ["C1.T:X2-X1", "C1.F"]
    assert elements(circuit, "C1/bond") == ["C1.B"]
    assert "C1.B" not in {d.id for d in circuit_of(HEAD.replace("volts = 230", "volts = 230\nearthed = false")).devices}


def test_a_direct_supply_returns_to_neutral_or_to_its_second_line() -> None:
    one = circuit_of(DIRECT)
    assert ("C1-", "N") in one.joins and one.device("C1.F").poles == 1
    two = circuit_of(DIRECT.replace('kind = "direct"', 'kind = "direct"\nfrom = "L1 L2"\nvolts = 400'))
    assert ("C1-", "N") not in two.joins and two.device("C1.F").poles == 2


@pytest.mark.parametrize(
    ("keys", "poles", "joined"),
    [
        ("", 3, {"in.N", "in.PE"}),
        ("poles = 4\n", 4, {"in.PE"}),
        ('switch = "none"\n', None, {"in.L1", "in.L2", "in.L3", "in.N", "in.PE"}),
    ],
)
def test_the_main_switch_stands_before_everything(keys: str, poles: int | None, joined: set[str]) -> None:
    """What it does not switch is one with the incoming conductor; behind four poles the neutral is another one."""
    circuit = circuit_of(HEAD + f"[incoming]\n{keys}")
    switch = circuit.index.get("Q0")
    assert (switch.poles if switch is not None else None) == poles
    assert {a for a, _ in circuit.joins} == joined


def test_a_metal_box_brings_an_earth_stud_and_an_insulating_one_does_not() -> None:
    text = HEAD + STARTER + 'buttons_at = "st1"\n'
    assert "st1.PE" in circuit_of(text).index
    assert "st1.PE" not in circuit_of(text.replace("[location.st1]", '[location.st1]\nbox = "insulating"')).index


def test_own_devices_go_where_their_kind_belongs() -> None:
    assert [usual_place(kind) for kind in ("lamp", "relay", "float", "motor")] == ["door", "plate", "field", "field"]
    boxed = (CircuitDevice(id="X", kind=kind, location="st1") for kind in ("float", "pushbutton"))
    assert [stands_alone(device) for device in boxed] == [True, False]


def test_a_single_phase_motor_has_two_conductors() -> None:
    text = small_text().replace('system = "3ph+n"\nvolts = 400', 'system = "1ph+n"\nvolts = 230')
    circuit = circuit_of(text.replace('from = "L1 L2"', 'from = "L1 N"').replace("kw = 1.5", "kw = 1.5\nphases = 1"))
    assert circuit.device("M1.Q").poles == 2
    assert elements(circuit, "M1/return")[-2:] == ["M1.F:3/L2-4/T2", "M1.F:5/L3-6/T3"]


def test_a_rung_is_titled_by_what_it_ends_in() -> None:
    text = HEAD + '[device.P1]\nkind = "lamp"\ntitle = "Hatch open"\n[device.B1]\nkind = "float"\n'
    circuit = circuit_of(text + '[[rung]]\npath = "C1+ > B1:no > P1 > C1-"\n')
    path = next(p for p in circuit.paths if p.key == "rung1")
    assert path.title == "Hatch open"
    assert isinstance(path.items[0], Nodes) and isinstance(path.items[1], Ref)


def test_a_motor_named_by_its_role_in_a_path_of_ones_own_is_the_motor() -> None:
    own = '[device.R1]\nkind = "resistor"\n[[feeder]]\nname = "own"\npath = "L1 > R1 > M1.M:U-V > L2"\n'
    assert elements(circuit_of(HEAD + STARTER + own), "own") == ["R1", "M1:U-V"]
