"""Rules about power circuits that a person states freely."""

import pytest

from riktig.checks.finding import Finding
from riktig.checks.run import find_all
from riktig.drawings.size_charts import draw_charts
from riktig.files.brief_reader import BriefError
from riktig.plan.circuit.model import EARTH_BAR
from support import HEAD, STARTER, demo_text, plan_of, small_text

SOUND = HEAD.replace("[supply]", "[supply]\nfault_ka = 10") + STARTER
DEVICES = '[device.Q8]\nkind = "breaker"\n[device.K8]\nkind = "contactor"\n[device.F8]\nkind = "overload"\n[device.M8]\nkind = "motor"\n'
RUN = '[device.S8]\nkind = "pushbutton"\n[[rung]]\npath = "C1+ > F8:95-96 > S8:no > K8:coil > C1-"\n'


def feeder(path: str) -> str:
    return f'[[feeder]]\npath = "{path}"\n'


def found(text: str, rule: str) -> list[Finding]:
    return [f for f in find_all(plan_of(text)) if f.rule == rule]


def test_a_motor_of_which_nothing_tells_the_current_is_a_must_and_with_its_power_none() -> None:
    """Protection and conductors follow the current: IEC 60204-1:2016 7.2 and 12.4, from memory."""
    text = SOUND + DEVICES + feeder("L1 L2 L3 > Q8 > K8 > F8 > M8") + RUN
    (wrong,) = found(text, "not-sized")
    assert (wrong.severity, wrong.subject) == ("must", "M8")
    sized = text.replace('kind = "motor"\n', 'kind = "motor"\nkw = 22\n')
    assert found(sized, "not-sized") == []
    assert plan_of(sized).starters["M8"].motor.current == pytest.approx(41, abs=1), (
        "22 kW, 400 V: IEC 60947-4-1 Annex G"
    )


def test_a_load_of_which_nothing_tells_the_current_is_a_must() -> None:
    load = '[device.Q9]\nkind = "breaker"\n[device.E9]\nkind = "load"\n' + feeder("L1 L2 L3 > Q9 > E9")
    (wrong,) = found(SOUND + load, "not-sized")
    assert "no va, kw or amps" in wrong.message
    plan = plan_of(SOUND + load.replace('"load"\n', '"load"\nkw = 9\n'))
    assert plan.own_loads["E9"].amps == pytest.approx(9000 / (3**0.5 * 400), rel=1e-3), "13.0 A"


def test_what_is_stated_and_stands_in_no_path_is_said() -> None:
    """What is listed stands in the drawing: IEC 61082-1, from memory."""
    lost = '[device.M8]\nkind = "motor"\nkw = 3\n[device.S8]\nkind = "pushbutton"\n[device.MI8]\nkind = "interlock"\n'
    assert {(f.subject, f.severity.value) for f in found(SOUND + lost, "not-wired")} == {
        ("M8", "must"),
        ("S8", "should"),
    }
    written_out = SOUND.replace("[starter.M1]", "[starter.M1]\ndetached = true")
    (missing,) = found(written_out, "not-wired")
    assert missing.severity == "must" and "name M1 in a [[feeder]]" in missing.message
    single_line, feeder = (drawn := draw_charts(plan_of(written_out), "M1")).single_line, drawn.feeder
    assert feeder is None and not [item for item in single_line.items if item.ref == "M1"]
    assert found(SOUND, "not-wired") == found(demo_text("iec"), "not-wired") == []


def test_an_isolator_cites_the_standard_of_its_world() -> None:
    isolated = STARTER.replace("[starter.M1]", "[starter.M1]\nisolator = true")
    iec = plan_of(SOUND.replace(STARTER, isolated))
    (source,) = {v.source for v in iec.sizing if v.quantity == "isolator_rating"}
    assert "IEC 60947-3" in source and "NEC" not in source


def test_a_motor_that_nothing_protects_against_overload_is_a_must() -> None:
    """Motors above 0.5 kW: IEC 60204-1:2016 7.3.1, from memory."""
    text = SOUND + DEVICES.replace('kind = "motor"\n', 'kind = "motor"\nkw = {kw}\n') + RUN.replace("F8:95-96 > ", "")
    bare = text.replace('[device.F8]\nkind = "overload"\n', "") + feeder("L1 L2 L3 > Q8 > K8 > M8")
    assert found(bare.replace("{kw}", "3"), "motor-overload")[0].severity == "must"
    assert found(bare.replace("{kw}", "0.37"), "motor-overload") == []


def test_motors_on_one_feeder_share_a_breaker_for_both_and_have_an_overload_each() -> None:
    """2 x 4 kW, 8.5 A each: the shared contactor carries 17 A (common practice, no source)."""
    names = DEVICES.replace('kind = "motor"\n', 'kind = "motor"\nkw = 4\n')
    more = '[device.F9]\nkind = "overload"\n[device.M9]\nkind = "motor"\nkw = 4\n'
    plan = plan_of(
        SOUND
        + names
        + more
        + feeder("L1 L2 L3 > Q8 > K8 > F8 > M8")
        + feeder("L1 L2 L3 > Q8 > K8 > F9 > M9")
        + RUN.replace("F8:95-96", "F8:95-96 > F9:95-96")
    )
    assert plan.parts["K8"].rating("amps") >= 17
    for overload in ("F8", "F9"):
        assert plan.parts[overload].rating("amps_min") <= 8.5 <= plan.parts[overload].rating("amps_max")


def test_the_nameplate_is_asked_for_once_where_the_table_stands_in() -> None:
    """NEC 430.6(A)(2), from memory."""
    (asked,) = found(small_text("ul"), "motor-nameplate")
    assert asked.severity == "should"
    assert found(small_text("ul").replace("hp = 10", "hp = 10\namps = 13.4"), "motor-nameplate") == []


def test_the_earth_bar_has_a_clamp_for_each_wire_and_one_beyond_it_is_found() -> None:
    """One protective conductor in each clamp: IEC 60204-1:2016 13.1.1, from memory."""
    plan = plan_of(demo_text("iec"))
    used = {end for link in plan.links for end in (link.a, link.b) if end.startswith(EARTH_BAR + ":")}
    assert 12 < len(used) <= plan.parts[EARTH_BAR].rating("clamps")
    beyond = plan_of(SOUND + '[kept.clamps]\n"PE.bar|PE.plate:PE" = "PE.bar:40"\n')
    (wrong,) = [f for f in find_all(beyond) if f.rule == "bar-full"]
    assert "has 8 clamps and a conductor lands on clamp 4" in wrong.message


@pytest.mark.parametrize(("earthing", "poles"), [("tn-s", 3), ("tt", 4), ("it", 4)])
def test_the_main_switch_breaks_the_neutral_where_the_supply_is_not_tn(earthing: str, poles: int) -> None:
    """IEC 60204-1:2016 5.3.3, IEC 60364-4-46 461.2, from memory: only in TN may the neutral stay."""
    second = f'[extra_supply.P]\nsystem = "3ph+n"\nvolts = 400\nearthing = "{earthing}"\n'
    plan = plan_of(SOUND.replace("[supply]", f'[supply]\nearthing = "{earthing}"') + second)
    for switch in ("Q0", "P.Q"):
        assert sum(element.kind == "pole" for element in plan.parts[switch].elements) == poles
    assert ("in.P.N" in {p.number for p in plan.potentials}) is (poles == 4)


def test_a_fused_switch_is_refused_where_the_neutral_must_open() -> None:
    """No part opened four poles, and one of 630 A stood there."""
    text = SOUND.replace("[supply]", '[incoming]\ndisconnect = "fused-switch"\n[supply]\nearthing = "tt"')
    with pytest.raises(BriefError, match="a fused switch leaves the neutral closed"):
        plan_of(text)


def test_in_tt_one_finding_names_all_that_needs_a_residual_current_device() -> None:
    """IEC 60364-4-41 411.5.3, from memory: no breaker clears a fault through two earth electrodes."""
    plan = plan_of(SOUND.replace("[supply]", '[supply]\nearthing = "tt"') + '[starter.M7]\nkw = 3\nsupply = "C1"\n')
    (wrong,) = [f for f in find_all(plan) if f.rule == "disconnection"]
    assert wrong.severity == "must" and "Q1, Q7 open" in wrong.message and "M1, M7" in wrong.message


def test_an_overload_of_one_phase_set_by_a_table_asks_for_the_nameplate_in_an_iec_panel_too() -> None:
    """0.75 kW at 230 V draws about 5 A, the North American table says 8 A: makers' lists, common practice, no source."""
    one = SOUND + '[starter.M7]\nkw = 0.75\nphases = 1\nsupply = "C1"\n'
    assert [f.subject for f in find_all(plan_of(one)) if f.rule == "motor-nameplate"] == ["M7"]
    stated = one.replace("phases = 1", "phases = 1\namps = 5.1")
    assert [f for f in find_all(plan_of(stated)) if f.rule == "motor-nameplate"] == []


def test_a_drive_whose_safe_torque_off_is_joined_to_nothing_is_found_and_the_path_that_is_named_mends_it() -> None:
    """It would not run: IEC 61800-5-2 4.2.2.2, from memory. A starter's own drive has its inputs closed."""
    drive = '[device.A7]\nkind = "drive"\n' + DEVICES.replace('kind = "motor"\n', 'kind = "motor"\nkw = 4\n')
    text = (
        SOUND
        + STARTER.replace("M1", "M2").replace("kw", 'kind = "drive"\nkw')
        + drive
        + feeder("L1 L2 L3 > Q8 > A7 > M8")
    )
    (wrong,) = found(text, "enable-open")
    assert wrong.subject == "A7" and "STO1 and STO2" in wrong.message
    path = wrong.message.partition('path = "')[2].rstrip('"')
    half = text + f'[[rung]]\npath = "{path}"\n'
    (other,) = found(half, "enable-open")
    assert "STO2" in other.message and "STO1" not in other.message
    assert found(half + f'[[rung]]\npath = "{path.replace("STO1", "STO2")}"\n', "enable-open") == []


def test_an_overload_whose_trip_switches_nothing_off_is_a_must_and_a_coil_that_nothing_feeds_is_said() -> None:
    """Overload protection switches off: IEC 60204-1:2016 7.3.1, NEC 430.40, from memory. A relay of contacts alone never switches."""
    sized = (
        SOUND + DEVICES.replace('kind = "motor"\n', 'kind = "motor"\nkw = 4\n') + feeder("L1 L2 L3 > Q8 > K8 > F8 > M8")
    )
    assert [(f.severity, f.subject) for f in found(sized, "trip-unused")] == [("must", "F8")]
    assert [(f.severity, f.subject) for f in found(sized, "coil-open")] == [("should", "K8")]
    assert found(sized + RUN, "trip-unused") == found(sized + RUN, "coil-open") == []
    only_told = (
        sized
        + RUN.replace("F8:95-96 > ", "")
        + '[[rung]]\npath = "C1+ > F8:97-98 > P8 > C1-"\n[device.P8]\nkind = "lamp"\n'
    )
    assert [f.subject for f in found(only_told, "trip-unused")] == ["F8"], "a lamp that tells of it stops nothing"


def test_a_part_with_no_poles_for_the_lines_led_through_it_is_a_must() -> None:
    """A braking resistor across three lines leads none of them on."""
    drawn = (
        DEVICES.replace('kind = "motor"\n', 'kind = "motor"\nkw = 4\n')
        + feeder("L1 L2 L3 > Q8 > K8 > R8 > F8 > M8")
        + RUN
    )
    (wrong,) = found(SOUND + drawn + '[device.R8]\nkind = "resistor"\npart = "rs1"\n', "part-too-small")
    assert (wrong.severity, wrong.subject) == ("must", "R8") and "3 lines" in wrong.message
    assert found(SOUND + drawn + '[device.R8]\nkind = "resistor"\n', "part-too-small") == []


TWO = "".join(
    f'[device.{name}]\nkind = "{kind}"\n'
    for name, kind in (("Q8", "breaker"), ("Q9", "breaker"), ("E8", "heater"), ("E9", "heater"))
).replace('"heater"\n', '"heater"\nkw = 3\n')  # fmt: skip


def test_one_name_for_two_points_is_found_in_power_and_between_power_and_control() -> None:
    """Two breakers side by side: IEC 60364-4-43 433.4, NEC 240.8; a line in a separated circuit: IEC 60364-4-41 413.3; from memory."""
    apart = (
        feeder("L1 L2 L3 > Q8 > @a @b @c")
        + feeder("@a @b @c > E8")
        + feeder("L1 L2 L3 > Q9 > @d @e @f")
        + feeder("@d @e @f > E9")
    )
    assert found(SOUND + TWO + apart, "fed-twice") == []
    twice = found(SOUND + TWO + apart.replace("@d @e @f", "@a @b @c"), "fed-twice")
    assert [(f.severity, f.evidence) for f in twice] == [("must", "Q8 and Q9")] * 2
    lamp = '[device.S1]\nkind = "selector"\ncontacts = ["on"]\n[device.P1]\nkind = "lamp"\n'
    lamp += '[[rung]]\npath = "C1+ > S1:on > @g"\n[[rung]]\npath = "@g > P1 > C1-"\n'
    assert found(SOUND + TWO + apart + lamp, "supplies-joined") == []
    (joined,) = found(SOUND + TWO + apart + lamp.replace("@g", "@b"), "supplies-joined")
    assert joined.severity == "must" and "@b" in joined.message and "C1" in joined.message
    in_series = feeder("L1 L2 L3 > Q8 > @a @b @c") + feeder("@a @b @c > Q9 > E8") + feeder("L1 L2 L3 > Q10 > E9")
    assert found(SOUND + TWO + '[device.Q10]\nkind = "breaker"\n' + in_series, "fed-twice") == []
    changed_over = (
        feeder("L1 L2 L3 > Q8 > K8 > @a @b @c")
        + feeder("P.L1 P.L2 P.L3 > Q9 > K9 > @a @b @c")
        + feeder("@a @b @c > E8")
    )
    other = '[extra_supply.P]\nsystem = "3ph"\nvolts = 400\n[device.K8]\nkind = "contactor"\n[device.K9]\nkind = "contactor"\n'
    assert found(SOUND + TWO + other + changed_over + feeder("L1 L2 L3 > E9"), "fed-twice") == [], (
        "two supplies, one at a time"
    )
