"""What contacts switch against what they are made for: IEC 60947-5-1 Table A.1 (A600 breaks 720 VA, makes 7200 VA and carries 10 A;
Q300 carries 2.5 A and breaks 69 W at 24 V DC), from memory."""

import re

import pytest

from riktig.checks.duty import check_duty
from riktig.plan.answers.contact_loads import contact_loads
from riktig.standards.iec_60947_5_1 import contact_duty
from support import HEAD, plan_of

DC = HEAD + '[control.C2]\nkind = "psu"\nfrom = "L1 L2"\n'


def valves(count: int, supply: str, va: float) -> str:
    """Return a button with so many valves behind it, parted at a point."""
    text = f'[device.S1]\nkind = "pushbutton"\n[[rung]]\npath = "{supply}+ > S1:no > @on"\n'
    for n in range(count):
        text += f'[device.Y{n}]\nkind = "valve"\nva = {va}\n[[rung]]\npath = "@on > Y{n} > {supply}-"\n'
    return text


@pytest.mark.parametrize(
    ("codes", "is_dc", "expected"),
    [
        ("A600 Q300", False, (10, 7200, 720, 600)),
        ("A600 Q300", True, (2.5, 69, 69, 300)),
        ("B300", True, None),
        ("R150", True, (1, 28, 28, 150)),
    ],
)
def test_designations_say_what_a_contact_switches(codes: str, is_dc: bool, expected: tuple[float, ...] | None) -> None:
    duty = contact_duty(codes, is_dc=is_dc)
    assert (duty and (duty.thermal_a, duty.make_va, duty.break_va, duty.volts_max)) == expected


def test_a_contact_carries_all_that_hangs_behind_it_through_named_points() -> None:
    plan = plan_of(DC + valves(4, "C2", 12))
    load = next(load for load in contact_loads(plan) if load.use.device == "S1")
    assert (load.hold_va, load.volts, load.is_dc) == (4 * 12, 24, True)


@pytest.mark.parametrize(("count", "is_found"), [(2, False), (8, True)])
def test_a_button_breaks_no_more_watts_of_valves_on_dc_than_it_may_and_on_ac_ten_times_that(
    count: int, is_found: bool
) -> None:
    found = list(check_duty(plan_of(DC + valves(count, "C2", 12))))
    assert [(f.subject, f.severity) for f in found] == [("S1", "must")] * is_found
    assert not list(check_duty(plan_of(DC + valves(count, "C1", 12))))


def test_a_contact_on_the_side_of_the_return_carries_what_lies_ahead_of_it() -> None:
    text = valves(8, "C2", 12).replace("C2+ > S1:no > @on", "@on > S1:no > C2-")
    text = re.sub("@on > (Y.) > C2-", r"C2+ > \1 > @on", text)
    assert [f.subject for f in check_duty(plan_of(DC + text))] == ["S1"]


def test_an_output_of_a_controller_gives_half_an_ampere_and_its_relay_takes_less() -> None:
    """0.5 A at 24 V: common practice of transistor outputs, no source."""
    text = (
        DC
        + '[controller.P1]\nsupply = "C2"\n[starter.M1]\nkw = 1.5\nsupply = "C1"\ncontrol = "controller"\ncontroller = "P1"\n'
    )
    assert not list(check_duty(plan_of(text)))
    large = text + '[device.K9]\nkind = "contactor"\namps = 200\n[[rung]]\npath = "C2+ > P1:do > K9:coil > C2-"\n'
    assert [(f.subject, f.limit) for f in check_duty(plan_of(large))] == [("P1", "give 0.5 A")]
