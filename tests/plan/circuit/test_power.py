"""Power circuits read from paths: whoever drew a motor's circuit, it is the same circuit and gets the same sizes and parts."""

import random
import re

import pytest

from panels import POWER, panel_text
from riktig.checks.run import find_all
from riktig.files.brief_reader import parse_brief
from riktig.files.brief_writer import write_brief
from riktig.job import edits
from riktig.job.ledger import Ledger
from riktig.job.model import Job
from riktig.plan.changes.detach import detach_starter
from riktig.plan.circuit.expand import expand
from riktig.plan.circuit.power import PowerCircuit, find_power_circuits, sharing
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, job_of, plan_of

HEAD_UL = HEAD.replace("volts = 400", 'volts = 480\nearthing = "wye-grounded"\n[practice]\nstandard = "ul"').replace(
    "= 230", "= 120"
)


def circuits_of(text: str) -> dict[str, PowerCircuit]:
    return find_power_circuits(expand(job_of(text)))


def devices(*names: str) -> str:
    kinds = {
        "Q": "breaker", "K": "contactor", "F": "overload", "M": "motor", "E": "load", "S": "disconnect", "A": "drive", "B": "motor-breaker",
        "R": "resistor", "T": "transformer",
    }  # fmt: skip
    return "".join(f'[device.{name}]\nkind = "{kinds[name[0]]}"\n' for name in names)


def feeder(path: str) -> str:
    return f'[[feeder]]\npath = "{path}"\n'


def plain_text(job: Job, name: str) -> str:
    """Return a brief in which a starter is devices, rungs and feeders with names of their own that say nothing."""
    plain = edits.replace(detach_starter(job, name), ledger=Ledger())
    bare = edits.replace(plain, starters=tuple(s for s in plain.starters if s.name != name))
    named = re.sub(rf"(?<![\w@]){name}\.(\w+)", rf"{name}\1", write_brief(bare).replace(f'["{name}.', f'["{name}'))
    return re.sub(r'\[device\."?(\w+)"?\]', r"[device.\1]", named)


@pytest.mark.parametrize("seed", range(8))
def test_every_starter_that_is_written_out_reads_as_what_it_was(seed: int) -> None:
    job = parse_brief(panel_text(seed, most=6))
    drawn, plain = find_power_circuits(expand(job)), job
    for starter in job.starters:
        plain = detach_starter(plain, starter.name)
    read = find_power_circuits(expand(plain))
    assert job.starters
    for starter in job.starters:
        one, other = drawn[starter.name], read[starter.name]
        assert {d for d, _ in other.devices} == {d for d, _ in one.devices}
        assert (other.lines, other.supply, other.is_star_delta) == (one.lines, one.supply, one.is_star_delta)
        assert {d: r.replace("KR", "K") for d, r in one.devices} == dict(other.devices)


def facts(plan: Plan) -> dict[str, object]:
    return {
        "parts": {d: p.code for d, p in plan.parts.items()},
        "sections": (dict(plan.sections.inside), dict(plan.sections.cores)),
        "wires": {c.id: (c.size, c.colour) for c in plan.conductors},
        "findings": sorted((f.severity, f.rule, f.subject, f.message) for f in find_all(plan)),
        "values": sorted((v.subject, v.quantity, v.value) for v in plan.sizing),
    }


@pytest.mark.parametrize("seed", range(10))
def test_detaching_changes_no_part_section_colour_value_or_finding(seed: int) -> None:
    """All kinds, options and both worlds by chance; 4 kW went from 2.5 to 6 mm2 with two new findings."""
    job = settle(parse_brief(panel_text(1000 + seed)))
    plain = job
    for starter in job.starters:
        plain = settle(detach_starter(plain, starter.name))
    assert facts(compute_plan(plain)) == facts(compute_plan(job))


@pytest.mark.parametrize("kind", POWER)
@pytest.mark.parametrize("world", ["iec", "ul"])
def test_a_free_feeder_to_a_motor_is_sized_as_its_starter(kind: str, world: str) -> None:
    chance = random.Random(f"{kind}{world}")
    kw = chance.choice(POWER[kind])
    stated = f'[starter.M1]\nkind = "{kind}"\nkw = {kw}\nsupply = "C1"\n\n'
    text = (HEAD if world == "iec" else HEAD_UL) + stated
    job = parse_brief(text)
    whole, free = compute_plan(job), plan_of(plain_text(job, "M1"))
    assert not free.job.starters

    def called(name: str) -> str:
        return re.sub(r"\bM1\.", "M1", name)

    sized = {(called(v.subject), v.quantity): v.value for v in whole.sizing if v.subject.startswith("M1")}
    assert sized == {(v.subject, v.quantity): v.value for v in free.sizing if v.subject.startswith("M1")}
    assert {called(d): p.code for d, p in whole.parts.items()} == {d: p.code for d, p in free.parts.items()}
    assert free.panel.full_load_a == whole.panel.full_load_a
    thick = sections_at_terminals(whole)
    assert {called(t): sizes for t, sizes in thick.items() if t.startswith("M1")} == {
        t: sizes for t, sizes in sections_at_terminals(free).items() if t.startswith("M1")
    }


def sections_at_terminals(plan: Plan) -> dict[str, set[object]]:
    """Return by terminal the sizes that land there: which neighbour a wire goes on to may differ."""
    return {t: {c.size for c in landed} for t, landed in plan.conductors_at.items()}


STAR_DELTA = devices("Q7", "K1", "K2", "K3", "F7", "M7") + "".join(
    map(feeder, (
        "L1 L2 L3 > Q7 > @a @b @c", "@a @b @c > K1 > F7 > @u @v @w", "@a @b @c > K2 > @y @z @x", "@s @s @s > K3 > @y @z @x",
        "@u > M7:U1-U2 > @x", "@v > M7:V1-V2 > @y", "@w > M7:W1-W2 > @z",
    ))
)  # fmt: skip


def test_star_delta_is_seen_by_where_its_contactors_stand_however_its_star_is_written() -> None:
    one = circuits_of(HEAD + STAR_DELTA.replace('"motor"', '"motor"\nkw = 22'))["M7"]
    assert one.is_star_delta
    assert not one.is_overload_in_line
    assert dict(one.devices) == {"Q7": "Q", "K1": "K", "K2": "KD", "K3": "KS", "F7": "F"}


def test_an_overload_ahead_of_star_and_delta_is_set_to_the_whole_current_and_one_behind_to_0_577_of_it() -> None:
    """IEC 60947-4-1 Annex G: 22 kW at 400 V draws 41 A; 41 / √3 = 23.7 A in a winding."""
    text = HEAD + STAR_DELTA.replace('"motor"', '"motor"\nkw = 22')
    in_line = text.replace("Q7 > @a", "Q7 > F7 > @a").replace("K1 > F7", "K1")
    assert plan_of(text).setting_of("F7") == pytest.approx(23.66, abs=0.01)
    assert plan_of(in_line).setting_of("F7") == 41


def test_motors_on_one_breaker_share_it_and_have_the_rest_for_themselves() -> None:
    text = HEAD + devices("Q9", "K1", "F1", "M1", "K2", "F2", "M2").replace('"motor"', '"motor"\nkw = 4') + "".join(
        map(feeder, ("L1 L2 L3 > Q9 > @a @b @c", "@a @b @c > K1 > F1 > M1", "@a @b @c > K2 > F2 > M2"))
    )  # fmt: skip
    circuits = circuits_of(text)
    leads = sharing(circuits.values())
    assert leads["Q9"] == ("M1", "M2")
    assert (leads["K1"], leads["F2"]) == (("M1",), ("M2",))
    plan = plan_of(text)
    assert plan.parts["K1"].rating("amps") >= 8.5 > plan.parts["F1"].rating("amps_min"), (
        "4 kW: 8.5 A, IEC 60947-4-1 Annex G"
    )
    together = 8.5 + 8.5 * 7.2
    assert plan.parts["Q9"].rating("amps") >= together / (10 / 2**0.5), (
        "a D curve holds ten times, its peak: IEC 60898-1 Table 7"
    )
    assert plan.panel.full_load_a == pytest.approx(17, abs=0.5)


def test_a_dead_end_on_the_way_changes_nothing_of_what_belongs_to_a_motor() -> None:
    text = HEAD + devices("Q7", "K7", "F7", "M7", "K8", "E8").replace('"motor"', '"motor"\nkw = 4') + "".join(
        map(feeder, ("L1 L2 L3 > Q7 > K7 > @a @b @c", "@a @b @c > F7 > M7", "@a @b @c > K8 > E8"))
    )  # fmt: skip
    assert dict(circuits_of(text)["M7"].devices) == {"Q7": "Q", "K7": "K", "F7": "F"}


@pytest.mark.parametrize(("kind", "code", "role"), [("resistor", "sr3-25", "R"), ("transformer", "at3-32", "T")])
def test_what_starts_a_motor_is_of_its_circuit_rated_for_its_current_and_has_a_cable_like_its(
    kind: str, code: str, role: str
) -> None:
    """7.5 kW at 400 V: 15.5 A (IEC 60947-4-1 Annex G), all else as without it; rated by the motor: common practice, no source."""
    plain = HEAD + devices("Q7", "K7", "F7", "M7").replace('"motor"', '"motor"\nkw = 7.5')
    without = plan_of(plain + feeder("L1 L2 L3 > Q7 > K7 > F7 > M7"))
    given = f'[device.R7]\nkind = "{kind}"\nat = "st1"\n[device.K8]\nkind = "contactor"\n'
    plan = plan_of(plain + given + feeder("L1 L2 L3 > Q7 > (K7 > R7 | K8) > F7 > M7"))
    assert dict(plan.power_circuits["M7"].devices)["R7"] == role and plan.parts["R7"].code == code
    sized = {(v.subject, v.quantity): v.value for v in plan.sizing}
    assert sized["R7", "starting_rating"] == plan.parts["R7"].rating("amps") >= 15.5
    same = {key: value for key, value in sized.items() if key[0] in {"Q7", "K7", "F7", "M7"}}
    assert same == {(v.subject, v.quantity): v.value for v in without.sizing if v.subject in {"Q7", "K7", "F7", "M7"}}
    assert plan.cable_size("R7") == plan.cable_size("M7")
    assert len({t for p in plan.potentials for t in p.net.terminals if t.startswith("R7:") and t != "R7:PE"}) == 6


def test_the_star_of_windings_by_their_marks_is_power() -> None:
    """Black, as thick as the core that leads to it: IEC 60204-1 13.2.4."""
    text = HEAD + devices("Q7", "K7", "F7", "M7").replace('"motor"', '"motor"\nkw = 4') + "".join(
        map(feeder, ("L1 L2 L3 > Q7 > K7 > F7 > @u @v @w", "@u > M7:U1-U2 > @s", "@v > M7:V1-V2 > @s", "@w > M7:W1-W2 > @s"))
    )  # fmt: skip
    plan = plan_of(text)
    star = [c for c in plan.conductors if {c.a, c.b} <= {"M7:U2", "M7:V2", "M7:W2"}]
    assert [(c.colour, c.size) for c in star] == [("black", plan.cable_size("M7"))] * 2


@pytest.mark.parametrize(
    ("stated", "amps"), [("kw = 30", 43.30), ("va = 30000", 43.30), ("amps = 43.3", 43.3)], ids=["kw", "va", "amps"]
)
def test_a_load_of_ones_own_draws_in_switch_mains_nameplate_and_behind_its_own_breaker(
    stated: str, amps: float
) -> None:
    """30 kW / (√3 · 400 V) = 43.3 A: a breaker of 50 A (IEC 60364-4-43 433.1), a switch of 63 A; it had 25 A and 2.5 mm2."""
    plan = plan_of(HEAD + devices("Q9") + f'[device.E9]\nkind = "load"\n{stated}\n' + feeder("L1 L2 L3 > Q9 > E9"))
    assert plan.own_loads["E9"].amps == pytest.approx(amps, abs=0.01)
    assert plan.parts["Q9"].rating("amps") == 50
    assert plan.panel.full_load_a == pytest.approx(amps, abs=0.02)
    assert plan.parts["Q0"].rating("amps") == 63
    behind = next(p for p in plan.potentials if "Q9:2" in p.net.terminals)
    assert plan.sections.inside[behind.number].mm2 >= 10
    assert plan.sections.core_of("field/E9").mm2 >= 10


@pytest.mark.parametrize(
    ("text", "rule", "words"),
    [
        (devices("Q7", "K7", "F7", "M7") + feeder("L1 L2 L3 > Q7 > K7 > F7 > M7"), "not-sized", "kw, hp or amps"),
        (devices("Q9", "E9") + feeder("L1 L2 L3 > Q9 > E9"), "not-sized", "va, kw or amps"),
        (devices("Q7", "K7", "M7").replace('"motor"', '"motor"\nkw = 4') + feeder("L1 L2 L3 > Q7 > K7 > M7"), "motor-overload", "overload"),
        ((devices("Q7", "K7", "F7", "M7") + feeder("L1 L2 L3 > Q7 > K7 > F7 > M7")).replace('"motor"', '"motor"\nkw = 4').replace(
            '"breaker"', '"breaker"\namps = 6'), "given-rating", "at least 13.6 A"),
        (devices("Q7", "F7", "M7").replace('"motor"', '"motor"\nkw = 4') + feeder("@a @b @c > Q7 > F7 > M7"), "not-sized", "no line"),
    ],
    ids=["motor", "load", "no overload", "breaker too small", "nowhere"],
)  # fmt: skip
def test_what_cannot_be_sized_or_is_given_too_small_is_a_must_that_says_so(text: str, rule: str, words: str) -> None:
    """4 kW draws 8.5 A and asks a breaker of 1.6 · 8.5 = 13.6 A to start: common practice."""
    found = [f for f in find_all(plan_of(HEAD + text)) if f.rule == rule]
    assert [f.severity for f in found] == ["must"]
    assert words in found[0].message
