"""A block distributes the main conductors: taps as thick as what they feed, earth wires as what they bond, twin ferrules."""

from pathlib import Path

import networkx as nx
import pytest
from hypothesis import given, settings

from effort import examples
from riktig.catalogue.loader import forget_parts
from riktig.checks.run import find_all
from riktig.files.brief_reader import parse_brief
from riktig.job import edits
from riktig.job.entries import OnRail
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.overrides import override_value
from riktig.plan.changes.wires import hold_link
from riktig.plan.circuit.model import is_bar
from riktig.plan.circuit.zones import device_of
from riktig.plan.making.bom import build_bom
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.plan.wiring.ends import Finish
from riktig.plan.wiring.links import link_key
from riktig.units.conductor_size import from_awg
from strategies import panels
from support import HEAD, STARTER, job_of, plan_of

BLOCK = HEAD.replace("[supply]", '[practice]\ndistribution = "block"\n[supply]')
MILL = '[starter.M1]\nkw = 22\nsupply = "C1"\n[starter.M2]\nkw = 0.75\nsupply = "C1"\n[starter.M3]\nkw = 0.75\nsupply = "C1"\n'
LARGE = MILL.replace("kw = 22", "kw = 37")


def rules(plan: Plan) -> dict[str, str]:
    return {finding.rule: finding.message for finding in find_all(plan)}


def mm2(plan: Plan, device: str, number: str) -> set[float]:
    return {
        c.size.mm2
        for c in plan.conductors
        if c.kind == "wire" and c.number == number and any(t.startswith(f"{device}:") for t in (c.a, c.b))
    }


def test_main_conductors_that_no_breaker_takes_are_found_and_a_block_mends_it() -> None:
    chain = BLOCK.replace('"block"', '"chain"')
    assert 'distribution = "block"' in rules(plan_of(chain + LARGE))["clamp-size"]
    assert "clamp-size" not in rules(plan_of(BLOCK + LARGE))
    assert "L1.bar" in plan_of(HEAD + LARGE).parts and "L1.bar" not in plan_of(HEAD + STARTER).parts, (
        "by itself where needed"
    )


def test_a_tap_is_as_thick_as_what_its_device_feeds_and_the_feed_as_the_main_conductors() -> None:
    plan = plan_of(BLOCK + MILL)
    main = plan.sections.inside["L1"].mm2
    assert mm2(plan, "Q0", "L1") == {main}
    for starter in ("M1", "M2", "M3"):
        behind = next(p.number for p in plan.potentials if f"{starter}.Q:2" in p.net.terminals)
        assert mm2(plan, f"{starter}.Q", "L1") == {plan.sections.inside[behind].mm2}
    assert max(mm2(plan, "M2.Q", "L1")) < main


def test_every_wire_at_a_block_has_a_clamp_of_its_own_there() -> None:
    plan = plan_of(BLOCK + MILL)
    at = [t for c in plan.conductors if c.kind == "wire" for t in (c.a, c.b) if t.startswith("L1.bar:")]
    assert len(at) == len(set(at)) == 5, "the switch, three motors, the transformer"
    assert plan.parts["L1.bar"].rating("clamps") >= 5


def test_a_tap_that_is_too_long_is_found() -> None:
    """3 m: IEC 60364-4-43 434.2.1, from memory."""
    text = BLOCK.replace("width = 800", "width = 4000").replace("height = 1200", "height = 2200")
    job = job_of(text + MILL)
    row = job.ledger.places["M3.Q"].value.rail
    places = {**job.ledger.places, "M3.Q": Choice(OnRail(row, 3700), ChoiceState.KEPT)}
    plan = compute_plan(settle(edits.replace(job, ledger=edits.replace(job.ledger, places=places))))
    assert "ahead of its own protection" in rules(plan)["long-tap"]
    assert "long-tap" not in rules(compute_plan(job))
    between = job_of(text.replace("[supply]", "[incoming]\nmain_contactor = true\n[supply]") + MILL)
    row = between.ledger.places["incoming.F"].value.rail
    places = {**between.ledger.places, "incoming.F": Choice(OnRail(row, 3700), ChoiceState.KEPT)}
    far = compute_plan(settle(edits.replace(between, ledger=edits.replace(between.ledger, places=places))))
    assert "to F1:1 is" in rules(far)["long-tap"] and "long-tap" not in rules(compute_plan(between))


def test_earth_wires_are_as_thick_as_the_lines_of_what_they_bond() -> None:
    """IEC 60204-1 Table 1, from memory; at least 2.5 mm2 by itself in a duct: IEC 60364-5-54 543.1.3, from memory."""
    plan = plan_of(BLOCK + MILL)
    sizes = {c.b: c.size.mm2 for c in plan.conductors if c.number == "PE" and c.kind == "wire"}
    assert sizes["C1.T:PE"] == 2.5
    assert sizes["PE.plate:PE"] == plan.sections.inside["PE"].mm2 > 2.5
    assert all(mm2 <= plan.sections.inside["PE"].mm2 for mm2 in sizes.values())


def test_a_strip_terminal_for_a_lamp_in_the_field_is_no_larger_than_its_core() -> None:
    lamp = '[device.F9]\nkind = "breaker"\namps = 6\npoles = 1\n[device.P9]\nkind = "lamp"\nat = "st1"\n'
    plan = plan_of(BLOCK + MILL + lamp + '[[feeder]]\npath = "L1 > F9:1-2 > P9:X1-X2 > N"\n')
    neutral = next(c for c in plan.clamps if c.number == "N" and c.drop == "st1")
    assert plan.clamp_parts[neutral.id].rating("mm2") == 2.5 < plan.sections.inside["N"].mm2, (
        "the smallest that takes 1.5 mm2"
    )


def test_a_jumper_in_a_box_is_as_thick_as_the_cores_beside_it() -> None:
    plan = plan_of(HEAD.replace("[location.st1]", "[location.st1]\ndistance = 400") + STARTER + 'buttons_at = "st1"\n')
    box = [c for c in plan.conductors if c.location == "st1"]
    cores = {c.size for c in plan.conductors if c.kind == "core" and c.b.startswith("M1.S")}
    assert box and {c.size for c in box} == cores
    assert "unequal-pair" not in rules(plan)


def test_an_unequal_pair_and_three_in_a_clamp_are_found() -> None:
    """Both sections of one clamp equal, and not more than it takes: common practice, no source."""
    job = job_of(BLOCK + MILL)
    led = hold_link(job, "M2.Q:1", "M1.Q:1")
    assert "unequal-pair" not in rules(compute_plan(led)), "wires on one clamp of the block are alike"
    crowded = job_of(BLOCK.replace('"block"', '"chain"') + MILL)
    for other in ("M2.Q:1", "M3.Q:1", "C1.FP:1"):
        crowded = hold_link(crowded, "M1.Q:1", other)
    found = rules(compute_plan(crowded))
    assert "Q1:1 takes 2 conductors and would get 3" in found["clamp-overfull"]
    thinner = override_value(
        job_of(HEAD + STARTER + STARTER.replace("M1", "M2")), "M1.Q:1 M2.Q:1|wire_section", 1.0, "reel of red"
    )
    found = rules(compute_plan(settle(thinner)))
    assert "would hold 1 mm² and 1.5 mm² in one clamp" in found["unequal-pair"]
    assert "reel of red" in found["set-by-hand"]


def test_under_the_bolts_of_a_large_contactor_lie_the_rings_of_unequal_wires_and_not_in_a_clamp() -> None:
    """Contactors from about 115 A have bolts for lugs, two on each, of the hole of the bolt: common practice, no source."""
    head = HEAD.replace("[supply]", "[incoming]\nmain_contactor = true\n[supply]")
    plan = plan_of(head + LARGE.replace("kw = 0.75", "kw = 30"))
    landed = [c for c in plan.conductors_at["incoming.K:1/L1"] if c.is_wired]
    assert plan.parts["incoming.K"].rating("amps") >= 115 and len({c.size for c in landed}) == 2
    ends = [
        end
        for c in landed
        for at, end in zip((c.a, c.b), plan.ends_of(c) or (), strict=True)
        if at == "incoming.K:1/L1"
    ]
    assert {(end.finish, end.fit) for end in ends} == {(Finish.RING, plan.parts["incoming.K"].traits["thread"])}
    assert "unequal-pair" not in rules(plan)
    assert plan.clamp_at("incoming.K:A1").clamp == "screw"
    assert not any(device.startswith("@") for device in plan.parts), "no block of its own where a bolt takes both"


def test_what_is_tapped_between_main_switch_and_a_small_main_contactor_hangs_on_a_block_there() -> None:
    """A clamp holds one section, and the main conductors lead through the block: common practice, no source."""
    head = HEAD.replace("[supply]", "[incoming]\nmain_contactor = true\n[supply]")
    plan = plan_of(head + MILL.replace("kw = 22", "kw = 18.5"))
    assert plan.parts["incoming.K"].rating("amps") < 115 and "unequal-pair" not in rules(plan)
    number = next(p.number for p in plan.potentials if "@Q0_L1" in p.net.names)
    landed = {
        other: c.size.mm2
        for c in plan.conductors
        if c.number == number and c.is_wired
        for bar, other in ((c.a, c.b), (c.b, c.a))
        if device_of(bar) == "@Q0_L1.bar"
    }
    main = plan.sections.inside["L1"].mm2
    assert landed == {"Q0:2/T1": main, "incoming.K:1/L1": main, "incoming.F:1": 1.5}
    assert plan.tags["@Q0_L1.bar"] == "X1L1" and "@Q0_L2.bar" not in plan.parts, "nothing is tapped there"
    job = plan.job
    assert settle(job) is job


OWN = """[[family]]
kind = "relay"
code = "own-{amps}"
title = "Spring relay {amps} A"
mounting = "rail"
elements = ["coil A1-A2", "co 11-12-14"]
coils = ["230AC"]
capacity = 1
clamp = { clamp = "spring", mm2_max = 2.5 }
columns = ["amps", "width", "height", "depth"]
rows = [[6, 12, 90, 70]]
"""


@pytest.mark.parametrize(("sort", "end"), [("5", "twin ferrule 2 x 1 mm² 8 mm"), ("2", "pin 1 mm² 9 mm")])
def test_a_spring_for_one_takes_two_fine_conductors_in_a_twin_ferrule(
    sort: str, end: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A twin ferrule makes two wires of equal section one: common practice, no source."""
    (tmp_path / "parts.toml").write_text(OWN)
    monkeypatch.setenv("RIKTIG_PARTS", str(tmp_path / "parts.toml"))
    forget_parts()
    try:
        text = (
            HEAD.replace("[supply]", f'[practice]\nconductor_class = "{sort}"\n[supply]')
            + '[device.S1]\nkind = "pushbutton"\ncontacts = ["no"]\n'
        )
        text += "".join(f'[device.K{n}]\nkind = "relay"\npart = "own-6@230AC"\n' for n in (1, 2, 3))
        text += '[[rung]]\npath = "C1+ > S1:no > (K1:coil | K2:coil | K3:coil) > C1-"\n'
        plan = compute_plan(settle(parse_brief(text)))
        landed = [(c, t) for c in plan.conductors if c.kind == "wire" for t in (c.a, c.b) if t == "K2:A1"]
        ends = {plan.ends_of(c)[(c.a, c.b).index(t)].text for c, t in landed}  # type: ignore[index]
        assert ends == {end} and ("clamp-overfull" in rules(plan)) is (sort == "2")
        twins = sum(line.quantity for line in build_bom(plan) if line.code == "twin-ferrule-1-8")
        assert twins == (len(plan.paired) if sort == "5" else 0)
    finally:
        monkeypatch.undo()
        forget_parts()


@settings(max_examples=examples(30))
@given(text=panels())
def test_any_panel_with_blocks_hangs_together_without_a_join_too_many(text: str) -> None:
    text = text.replace("[practice]", '[practice]\ndistribution = "block"')
    job = job_of(text)
    assert settle(job) is job
    plan = compute_plan(job)
    for potential in plan.potentials:
        graph = nx.Graph()
        graph.add_nodes_from(potential.net.terminals)
        joins = [(c.a, c.b) for c in plan.conductors if c.number == potential.number]
        graph.add_edges_from(joins)
        assert nx.is_connected(graph) and len(joins) == graph.number_of_nodes() - 1, potential.number
    assert not {"unequal-pair", "clamp-overfull"} & rules(plan).keys()


def test_a_released_block_keeps_every_clamp_when_a_motor_is_added() -> None:
    job = issue_revision(job_of(BLOCK + MILL), "A")
    more = settle(edits.duplicate_starter(job, "M2"))
    kept = {key: choice.value for key, choice in job.ledger.clamps.items() if ".bar|" in key}
    assert all(more.ledger.clamps[key].value == value for key, value in kept.items())
    assert link_key("M1.Q:1", job.ledger.clamps["L1.bar|M1.Q:1"].value.terminal) in more.ledger.links


def test_the_coil_of_a_main_contactor_and_an_arrester_hang_on_the_neutral_block_each_by_itself() -> None:
    """A tap is as what hangs on it asks: common practice, no source; both went by the main section, 95 mm2 into a coil."""
    plan = plan_of(
        HEAD.replace("width = 800\nheight = 1200", "width = 1600\nheight = 2000")
        + "[incoming]\nmain_contactor = true\n[surge.F20]\n" + "".join(
            f'[starter.M{n}]\nkw = 22\nsupply = "C1"\n' for n in (1, 2, 3))
    )  # fmt: skip
    main = plan.sections.inside["L1"].mm2
    coil, arrester = (
        next(c for c in plan.conductors if end in (c.a, c.b) and c.number == "N") for end in ("incoming.K:A2", "F20:N")
    )
    assert "N.bar" in plan.circuit.index and main >= 50
    assert {device_of(end) for end in (coil.a, coil.b)} == {"N.bar", "incoming.K"} and coil.size.mm2 <= 2.5
    assert {device_of(end) for end in (arrester.a, arrester.b)} == {"N.bar", "F20"} and 2.5 <= arrester.size.mm2 < main
    control = next(c for c in plan.conductors if "incoming.F:1" in (c.a, c.b))
    assert control.size.mm2 <= 2.5


def test_excepted_circuits_hang_on_a_block_ahead_of_the_main_switch() -> None:
    """Main conductors go to a block and from there to each device: common practice, no source; 6 AWG went into a breaker for 8 AWG."""
    plan = plan_of(
        HEAD.replace("width = 800\nheight = 1200", "width = 1600\nheight = 2000")
        + '[excepted.X1]\nload = "light"\n[excepted.X2]\nload = "socket"\n'
        + "".join(f'[starter.M{n}]\nkw = 30\nsupply = "C1"\n' for n in (1, 2, 3))
    )
    main = plan.sections.inside["in.L1"].mm2
    ends = {
        device_of(other): c.size.mm2
        for c in plan.conductors if c.is_wired
        for one, other in ((c.a, c.b), (c.b, c.a)) if device_of(one) == "in.L1.bar"
    }  # fmt: skip
    assert ends.pop("Q0") == main >= 50
    taps = {device: size for device, size in ends.items() if device in {"X1.F", "X2.F"}}
    assert len(taps) == 2 and max(taps.values()) < main / 4
    assert "0L1" in plan.tags["in.L1.bar"]


def test_a_tap_to_a_fuse_is_no_thinner_than_power_wires_are() -> None:
    """Ahead of its own protection 14 AWG at least: NFPA 79 12.6.1 for power, from memory; 16 AWG went to the control transformer's fuse."""
    plan = plan_of((Path(__file__).parents[2] / "oracle" / "delta240.toml").read_text(encoding="utf-8"))
    taps = [c for c in plan.conductors if "C1.FP" in {device_of(c.a), device_of(c.b)} and c.number in {"L1", "L3"}]
    assert len(taps) == 2 and {c.size.label() for c in taps} == {"14 AWG"}


def test_in_north_america_no_earth_is_thinner_than_fourteen_gauge_and_the_cores_beside_it_are_like_it() -> None:
    """NEC Table 250.122 begins at 14 AWG, from memory; a cable has cores of one size. Wires of control in the panel are 16 AWG."""
    head = HEAD.replace("volts = 400", 'volts = 480\n[practice]\nstandard = "ul"').replace("= 230", "= 120")
    plan = plan_of(head + STARTER.replace("kw = 1.5", 'hp = 2\nbuttons_at = "st1"'))
    earths = [c.size for c in plan.conductors if c.number.endswith("PE") and c.is_wired]
    assert earths and min(size.mm2 for size in earths) == from_awg("14").mm2
    thin = {
        kind: {c.size.label() for c in plan.conductors if c.number.isdigit() and c.kind == kind}
        for kind in ("core", "wire")
    }
    assert thin["core"] == {"14 AWG"} and "16 AWG" in thin["wire"]
    for cable in plan.cables:
        assert len({c.size for c in plan.conductors if c.location == cable.name}) == 1


def test_a_further_supply_has_blocks_where_its_main_conductors_fit_no_device() -> None:
    """Four motors of 11 kW, 22 A each (IEC 60947-4-1 Annex G): 88 A behind 100 A, 50 mm2 (117 · 0.91 A, IEC 60204-1 Table 6)."""
    wide = HEAD.replace("width = 800\nheight = 1200", "width = 1400\nheight = 2000")
    pumps = "".join(f'[starter.M{n}]\nkw = 11\nsupply = "C1"\npower = "P"\n' for n in range(2, 6))
    plan = plan_of(wide + '[extra_supply.P]\nsystem = "3ph"\nvolts = 400\n' + STARTER + pumps)
    assert {d.id for d in plan.circuit.devices if is_bar(d.id)} == {"PE.bar", "P.L1.bar", "P.L2.bar", "P.L3.bar"}
    sizes = {device_of(c.b): c.size.mm2 for c in plan.conductors if c.number == "P.L1" and c.is_wired}
    assert sizes == {"P.Q": 50, **{f"M{n}.Q": 10 for n in range(2, 6)}}
    assert [f.message for f in find_all(plan) if f.severity == "must"] == []


def test_the_neutral_to_a_coil_is_of_the_size_of_its_control_circuit_and_not_of_the_motor_that_it_switches() -> None:
    """A coil's clamp takes 4 mm2 at most (the part's own data); its fuse lets 1 mm2 do (IEC 60204-1 Table 5, from memory)."""
    text = HEAD.replace('kind = "transformer"\nfrom = "L1 L2"\n', "")
    starters = "".join(f'[starter.M{n}]\nkw = 18.5\nsupply = "C1"\n' for n in range(1, 6))
    plan = plan_of(text.replace("width = 800\nheight = 1200", "width = 1200\nheight = 2000") + starters)
    coils = [c for c in plan.conductors if c.number == "N" and any(end.endswith(".K:A2") for end in (c.a, c.b))]
    assert plan.potential_at["M1.K:A2"].number == "N" and {c.size.mm2 for c in coils} == {1}
    assert not [f for f in find_all(plan) if f.rule == "clamp-size"]
