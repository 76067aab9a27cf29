"""Cable runs: voltage bands apart, screens, motor cables of drives, spare cores on terminals, glands and conduits."""

from collections import defaultdict

import pytest
from hypothesis import given, settings

from effort import examples
from riktig.checks.run import find_all
from riktig.job.edits import change_member
from riktig.plan.answers.lookup import Lookup
from riktig.plan.circuit.model import PLATE
from riktig.plan.net.runs import Screen, zone_of_run
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.plan.wiring.cables import Cable, cable_ref
from riktig.record.operations import list_operations
from riktig.standards import cable_entries
from strategies import panels
from support import HEAD, STARTER, job_of, plan_of

DC = HEAD + '[control.C2]\nkind = "psu"\nfrom = "L1 L2"\nvolts = 24\n'
DRIVE = DC + '[starter.M1]\nkind = "drive"\nkw = 4\nsupply = "C2"\nspeed = "potentiometer"\nbuttons_at = "st1"\n'


def cables(plan: Plan) -> dict[str, Cable]:
    return {cable.drop: cable for cable in plan.cables}


def test_a_thermistor_never_shares_the_cable_of_its_motor() -> None:
    """Band I and band II apart: IEC 60364-5-52, 528.1, from memory."""
    found = cables(plan_of(DC + STARTER.replace('"C1"', '"C2"') + "thermistor = true\n"))
    assert [len(found[key].numbers) for key in ("field/M1", "field/M1~elv")] == [4, 2]
    assert "PE" in found["field/M1"].numbers and "PE" not in found["field/M1~elv"].numbers


def test_two_control_voltages_in_one_box_get_a_cable_and_a_strip_each() -> None:
    text = DC + "".join(
        f'[device.{k}]\nkind = "relay"\n[device.{b}]\nkind = "pushbutton"\nat = "st1"\n[[rung]]\npath = "{c}+ > {b}:no > {k}:coil > {c}-"\n'
        for k, b, c in (("K8", "S8", "C1"), ("K9", "S9", "C2"))
    )
    plan = plan_of(text)
    by_drop = defaultdict(set)
    for clamp in plan.clamps:
        if clamp.drop != "spare":
            by_drop[clamp.drop].add(clamp.strip)
    assert by_drop == {"st1": {"X2"}, "st1~elv": {"X4"}}
    assert set(cables(plan)) == {"st1", "st1~elv"}


def test_a_place_whose_bands_are_shared_gets_one_cable_insulated_for_the_highest() -> None:
    """IEC 60364-5-52, 528.1, from memory: band I in a cable of band II where all of it is insulated for the higher."""
    text = DC + "".join(
        f'[device.{b}]\nkind = "pushbutton"\nat = "st1"\n[device.{p}]\nkind = "lamp"\n[[rung]]\npath = "{c}+ > {b}:no > {p} > {c}-"\n'
        for p, b, c in (("P8", "S8", "C1"), ("P9", "S9", "C2"))
    )
    apart = plan_of(text)
    shared = compute_plan(settle(change_member(apart.job, "locations", "st1", bands="shared")))
    assert [len(cables(apart)[key].numbers) for key in ("st1", "st1~elv")] == [3, 2]
    (one,) = (cable for cable in shared.cables if cable.drop.startswith("st1"))
    assert one.drop == "st1" and set(one.numbers) == {
        n for c in cables(apart).values() if c.drop.startswith("st1") for n in c.numbers
    }
    thin = compute_plan(settle(change_member(shared.job, "locations", "st1", cable_volts=300.0)))
    assert "insulation" in {finding.rule for finding in find_all(thin)}
    assert compute_plan(settle(change_member(shared.job, "locations", "st1", bands="apart"))).cables == apart.cables


def test_the_motor_cable_of_a_drive_is_screened_at_both_ends_and_lands_on_the_drive() -> None:
    """Screened drive cables go without a terminal: common practice, no source."""
    plan = plan_of(DRIVE)
    motor = cables(plan)["field/M1"]
    assert motor.screen is Screen.BOTH and "all round" in motor.screen.at_far_end
    assert {c.a for c in plan.conductors if c.location == motor.name and c.number != "PE"} == {
        "M1.A:U",
        "M1.A:V",
        "M1.A:W",
    }
    assert not [clamp for clamp in plan.clamps if clamp.drop == "field/M1"]


def test_a_speed_signal_goes_in_a_screened_pair_of_its_own_with_earth_at_the_panel_end() -> None:
    """Common practice, no source."""
    plan = plan_of(DRIVE)
    signal = next(cable for cable in plan.cables if cable.drop.endswith("~signal"))
    assert signal.screen is Screen.PANEL and "insulated" in signal.screen.at_far_end
    assert (len(signal.numbers), signal.cores) == (3, 4), "two pairs for the three wires of a potentiometer"
    cores = {c.number: c for c in plan.conductors if c.location == signal.name}
    assert {c.a for c in cores.values()} == {"M1.A:V10", "M1.A:AI1", "M1.A:AGND"}, (
        "its screen goes with it past the power"
    )
    assert not [c for c in plan.conductors if c.number in cores and c.location == PLATE]


def test_a_signal_that_two_devices_in_the_panel_read_lands_on_terminals() -> None:
    """One cable cannot land on both."""
    text = DRIVE + '[device.A8]\nkind = "drive"\n[[rung]]\npath = "@a > M1.A:AI1-AGND > @b"\n'
    shared = text + '[[rung]]\npath = "@a > A8:AI1-AGND > @b"\n'
    plan = plan_of(shared)
    signal = next(cable for cable in plan.cables if cable.drop.endswith("~signal"))
    cores = [c for c in plan.conductors if c.location == signal.name]
    assert cores and all(c.a.startswith("X4:") for c in cores)


def test_spare_cores_land_on_terminals_of_their_own_beside_their_cable() -> None:
    """By hand: eight buttons between one line and eight relays make nine cores, with the earth of the metal box ten; 10 % spare
    makes eleven, so twelve cores: two spare. Common practice, no source.
    """
    button = '[device.K{n}]\nkind = "relay"\n[device.S{n}]\nkind = "pushbutton"\nat = "st1"\n'
    button += '[[rung]]\npath = "C1+ > S{n}:no > K{n}:coil > C1-"\n'
    text = HEAD + "".join(button.format(n=n) for n in range(1, 9))
    plan = plan_of(text)
    (cable,) = plan.cables
    assert (len(cable.numbers), cable.spare) == (10, 2)
    own = [clamp for clamp in plan.clamps if clamp.drop == "st1"]
    assert [clamp.is_spare for clamp in own] == [False] * 9 + [True] * 2 + [False]
    assert own[-1].is_earth


def test_a_cable_tells_its_gland_and_both_ends_of_its_screen_and_the_build_asks_for_them() -> None:
    plan = plan_of(DRIVE)
    lookup = Lookup(plan)
    motor = cables(plan)["field/M1"]
    assert lookup.find()[motor.name] == cable_ref(motor.name)
    described = lookup.describe(cable_ref(motor.name))
    assert described is not None
    facts = dict(described.facts)
    assert "4 x" in facts["Cores"] and "hole" in facts["Gland"] and "plate" in facts["Screen here"]
    steps = {op.ref: op.detail for op in list_operations(plan) if op.key.startswith("screen:")}
    assert (
        set(steps) == {cable_ref(cable.name) for cable in plan.cables if cable.screen is not None} and len(steps) == 2
    )
    assert "insulated" in next(detail for ref, detail in steps.items() if ref != cable_ref(motor.name))


@pytest.mark.parametrize(
    ("cores", "mm2", "least", "most"),
    [(3, 1.5, 7.4, 9.4), (3, 2.5, 9.2, 11.4), (5, 1.5, 9.0, 11.6), (5, 2.5, 11.2, 13.9), (4, 2.5, 10.1, 12.5)],
)
def test_the_diameter_of_a_cable_lies_within_what_the_standard_allows(
    cores: int, mm2: float, least: float, most: float
) -> None:
    """EN 50525-2-11, H05VV-F, lower and upper limit of the mean overall diameter, from memory."""
    assert least <= cable_entries.cable_diameter_mm(cores, mm2) <= most


def test_the_circle_around_a_bundle_grows_with_every_core_and_section() -> None:
    counts = [cable_entries.cable_diameter_mm(n, 1.5) for n in range(1, 51)]
    sections = [cable_entries.cable_diameter_mm(4, mm2) for mm2 in (0.5, 1, 1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95)]
    assert counts == sorted(counts) and sections == sorted(sections)


@pytest.mark.parametrize(
    ("cable_mm", "thread"), [(8.2, "M16"), (10.5, "M20"), (15.0, "M25"), (25.0, "M40"), (60.0, None)]
)
def test_the_smallest_gland_that_clamps_a_cable_is_taken(cable_mm: float, thread: str | None) -> None:
    """Ranges as commonly made: common practice, no source."""
    gland = cable_entries.gland_for(cable_mm)
    assert (gland.thread if gland is not None else None) == thread


def test_a_conduit_counts_earth_and_spares_and_its_hole_is_known() -> None:
    """UL 514B: 22.2 mm (7/8 in) for trade size 1/2, from memory."""
    text = HEAD.replace("[supply]", '[practice]\nstandard = "ul"\n[supply]') + STARTER
    (cable,) = plan_of(text).cables
    assert cable.gland is None and cable.conduit is not None
    assert (cable.conduit.trade_size, cable.hole_mm) == ("1/2", 22.2)


@settings(max_examples=examples(40))
@given(text=panels())
def test_every_potential_that_leaves_has_one_core_to_each_place_and_bands_never_share(text: str) -> None:
    job = job_of(text)
    plan = compute_plan(job)
    assert settle(job) is job
    crossing = [(c.number, c.location) for c in plan.conductors if c.kind == "core"]
    zones = {cable.name: zone_of_run(cable.drop) for cable in plan.cables}
    assert len({(number, zones[name]) for number, name in crossing}) == len(crossing)
    for cable in plan.cables:
        assert sorted(cable.numbers) == sorted(n for n, name in crossing if name == cable.name)
    clamps = [c.id for c in plan.clamps]
    assert len(clamps) == len(set(clamps))


@pytest.mark.parametrize(("kw", "apart"), [(4, False), (30, True)])
def test_the_contact_of_a_large_isolator_has_a_control_cable_of_its_own(kw: float, apart: bool) -> None:
    """A core as thick as the motor's fits no auxiliary contact: common practice, no source."""
    drive = f'[starter.M1]\nkind = "soft"\nkw = {kw}\nsupply = "C1"\nisolator = true\n'
    plan = plan_of(HEAD.replace("width = 800\nheight = 1200", "width = 1200\nheight = 1800") + drive)
    lines = {c.location for c in plan.conductors if "M1.QM:1/L1" in (c.a, c.b) and c.kind == "core"}
    contact = [c for c in plan.conductors if {"M1.QM:13", "M1.QM:14"} & {c.a, c.b} and c.kind == "core"]
    assert contact and (not lines & {c.location for c in contact}) == apart
    assert all(c.size.mm2 <= 4 for c in contact)
