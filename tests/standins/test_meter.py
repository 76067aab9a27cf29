"""The meter over a line: a reading is recorded only if it is the answer to its own question."""

import math

import pytest

from riktig.files.meter import MeterError, MeterLink, port_of
from riktig.prove.steps import Unit
from riktig.standins.meter import SimulatedMeter


def meter_with(
    fault: str = "", at: int = 0, ohms: float = 12.0, serial: str = "S-1", slow_s: float = 0.6
) -> SimulatedMeter:
    made = SimulatedMeter(serial, fault=lambda count: fault if count == at else "", slow_s=slow_s)
    made.probes = lambda unit: ohms
    return made


def opened_again(address: str, expected: str) -> MeterLink:
    """Opens a meter once it has let go of the link before."""
    for _ in range(200):
        try:
            return MeterLink(address, expected=expected, answer_s=2.0)
        except MeterError as error:
            if "in another hand" not in str(error):
                raise
    raise AssertionError("it never lets go")


def test_it_says_who_it_is_and_reads_with_its_leads() -> None:
    """By hand: 12 ohm and 0.1 ohm of leads in the range to 40 ohm, shown in steps of 0.01, 0.2 % of noise."""
    meter = meter_with()
    link = MeterLink(meter.address)
    assert str(link.identity) == "SIMULATED no. S-1"
    assert link.read(Unit.OHM) == pytest.approx(12.1, rel=0.01)
    link.close()
    meter.close()


@pytest.mark.parametrize(("ohms", "step"), [(0.2, 0.01), (35.0, 0.01), (350.0, 0.1), (3500.0, 1.0), (3.5e5, 100.0)])
def test_it_chooses_its_range(ohms: float, step: float) -> None:
    meter = meter_with(ohms=ohms)
    link = MeterLink(meter.address)
    reading = link.read(Unit.OHM)
    assert reading == pytest.approx(round(reading / step) * step, abs=1e-6 * max(1.0, reading))
    link.close()
    meter.close()


@pytest.mark.parametrize("ohms", [math.inf, 41e6])
def test_over_range_is_an_open_circuit_and_no_number(ohms: float) -> None:
    meter = meter_with(ohms=ohms)
    link = MeterLink(meter.address)
    assert math.isinf(link.read(Unit.OHM))
    link.close()
    meter.close()


@pytest.mark.parametrize(
    ("fault", "words"), [("drop", "gone|no answer"), ("garbage", "no reading"), ("slow", "no answer in time")]
)
def test_what_is_no_answer_is_no_reading_and_the_next_one_is_right(fault: str, words: str) -> None:
    meter = meter_with(fault)
    link = MeterLink(meter.address, answer_s=0.3)
    with pytest.raises(MeterError, match=words):
        link.read(Unit.OHM)
    assert not link.is_open
    meter.probes = lambda unit: 99.0
    again = opened_again(meter.address, "S-1")  # a late answer comes by then, and belongs to nobody
    assert again.read(Unit.OHM) == pytest.approx(99.1, rel=0.02)
    again.close()
    meter.close()


def test_an_answer_too_many_is_never_taken_for_the_next_one() -> None:
    meter = meter_with("twice")
    link = MeterLink(meter.address, answer_s=1.0)
    assert link.read(Unit.OHM) == pytest.approx(12.1, rel=0.02)
    meter.probes = lambda unit: 99.0
    with pytest.raises(MeterError, match="nobody asked for"):
        link.read(Unit.OHM)
    meter.close()


def test_a_meter_in_another_hand_is_refused_however_the_two_come_together() -> None:
    meter = meter_with()
    first = MeterLink(meter.address)
    for _ in range(4):
        with pytest.raises(MeterError, match="in another hand"):
            MeterLink(meter.address)
    first.close()
    meter.close()


def test_two_meters_never_mix() -> None:
    one, other = meter_with(ohms=1.0, serial="S-1"), meter_with(ohms=50.0, serial="S-2")
    links = [MeterLink(meter.address) for meter in (one, other)]
    for _ in range(5):
        assert [round(link.read(Unit.OHM)) for link in links] == [1, 50]
    links[1].close()
    with pytest.raises(MeterError, match="S-1 is the one in use"):
        opened_again(other.address, "S-1")
    links[0].close()
    one.close()
    other.close()


@pytest.mark.parametrize(
    ("text", "port"),
    [("127.0.0.1:9151", "socket://127.0.0.1:9151"), ("/dev/ttyUSB0", "/dev/ttyUSB0"), ("COM3", "COM3")],
)
def test_an_address_is_a_host_or_a_serial_line(text: str, port: str) -> None:
    assert port_of(text) == port


@pytest.mark.parametrize("text", ["", "here", "host:", "host:99999", ":1"])
def test_what_is_no_address_says_what_one_is(text: str) -> None:
    with pytest.raises(MeterError, match=r"HOST:PORT.*/dev/ttyUSB0"):
        port_of(text)


def test_nobody_there_is_a_sentence() -> None:
    meter = meter_with()
    address = meter.address
    meter.close()
    with pytest.raises(MeterError, match="no meter answers"):
        MeterLink(address)
