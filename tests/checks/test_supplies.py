"""Rules about supplies, each with the fault it is for and the sound panel beside it."""

import pytest

from riktig.checks.finding import Finding
from riktig.checks.run import find_all
from riktig.files.brief_reader import parse_brief
from riktig.files.brief_writer import write_brief
from riktig.job.edits import change_part
from riktig.plan.arrange.edit import arrange_plate
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, plan_of

SOUND = HEAD.replace("[supply]", "[supply]\nfault_ka = 10") + STARTER
LOW = '[control.C2]\nkind = "psu"\n'
RELAY = '[device.K9]\nkind = "relay"\n[device.S9]\nkind = "pushbutton"\n'
BOND = '[device.W{n}]\nkind = "link"\n[[rung]]\npath = "C2- > W{n} > PE"\n'


def found(text: str, rule: str) -> list[Finding]:
    return [f for f in find_all(plan_of(text)) if f.rule == rule]


def test_a_coil_that_returns_to_another_supply_is_found() -> None:
    """What hangs on two supplies stays live with one of them off: common practice, no source."""
    rung = '[[rung]]\npath = "C1+ > S9:no > K9:coil > {end}"\n'
    (wrong,) = found(SOUND + LOW + RELAY + rung.replace("{end}", "C2-"), "other-return")
    assert "fed from C1 and returns to C2" in wrong.message
    assert found(SOUND + LOW + RELAY + rung.replace("{end}", "C1-"), "other-return") == []


def test_an_earth_bond_made_twice_is_found() -> None:
    """Bonded once, at the source: IEC 60204-1:2016 9.4.3.1, from memory; the supply's own link is the first."""
    (wrong,) = found(SOUND + LOW + BOND.replace("{n}", "7"), "bonded-twice")
    assert wrong.severity == "must"
    assert found(SOUND + LOW, "bonded-twice") == []


@pytest.mark.parametrize(
    ("volts", "is_wrong"), [("400", False), ("230/400", False), ("380", False), ("230", True), ("690", True)]
)
def test_a_motor_for_other_volts_is_found(volts: str, is_wrong: bool) -> None:
    """Rated volts within 10 %, either winding: IEC 60034-1 7.3, from memory."""
    text = SOUND.replace("kw = 1.5", f'kw = 1.5\nmotor_volts = "{volts}"')
    assert bool(found(text, "motor-volts")) == is_wrong


def test_a_fault_current_nobody_stated_is_named_as_assumed_and_an_unknown_part_likewise() -> None:
    (note,) = found(HEAD + STARTER, "fault-assumed")
    assert "kA are assumed" in note.message and note.severity == "note"
    assert found(SOUND, "fault-assumed") == []
    held = SOUND + '[kept.parts]\n"M1.K" = "xx-99"\n'
    (wrong,) = found(held, "unknown-part")
    assert "'xx-99'" in wrong.message


@pytest.mark.parametrize(("kind", "least"), [(1, 16.0), (2, 6.0)])
def test_an_arrester_has_the_earth_of_its_type(kind: int, least: float) -> None:
    """16 mm2 for type 1, 6 mm2 for type 2: IEC 60364-5-53 534.4.10, from memory."""
    text = SOUND + f"[surge.F9]\ntype = {kind}\n"
    plan = plan_of(text)
    (earth,) = [c for c in plan.conductors_of["F9"] if c.number == "PE" and c.is_wired]
    assert earth.size.mm2 >= least
    assert found(text, "arrester-earth") == []
    thin = text + f'[kept.values]\n"{earth.b} {earth.a}|wire_section" = "2.5 | what was at hand"\n'
    (wrong,) = found(thin, "arrester-earth")
    assert f"asks for {least:g} mm²" in wrong.message


@pytest.mark.parametrize("entry", ["top", "bottom"])
@pytest.mark.parametrize("distribution", ["chain", "block"])
def test_leads_of_an_arrester_count_line_and_earth_as_laid_and_are_short_from_the_first_proposal_on(
    entry: str, distribution: str
) -> None:
    """0.5 m together, 1 m with a note: IEC 60364-5-53 534.4.8, from memory. Line to its fuse, fuse to it, it to the earth terminal on the
    rail beside it; 60 mm of dressing at each end in a duct, 20 mm where none is, are no part of the way (common practice, no source).
    """
    wish = f'[practice]\ndistribution = "{distribution}"\n[supply]\nentry = "{entry}"'
    job = settle(parse_brief(SOUND.replace("[supply]", wish) + "[surge.F9]\ntype = 2\n"))
    plan = compute_plan(job)

    def laid(end: str) -> list[float]:
        return [c.length_mm - (120 if c.legs else 40) for c in plan.conductors_at[end] if c.is_wired]

    into = max(min(laid(f"F9.Q:{mark}")) for mark in (1, 3, 5))
    through = max(max(laid(f"F9.Q:{mark}")) for mark in (2, 4, 6))
    metres = (max(into + through, min(laid("F9:N"))) + max(laid("F9:PE"))) / 1000
    found = [f for f in find_all(plan) if f.rule == "arrester-leads"]
    assert [float(f.evidence.split()[0]) for f in found] == ([pytest.approx(metres, abs=0.006)] if metres > 0.5 else [])
    assert [f.severity for f in found] == (["note" if metres <= 1.0 else "should"] if metres > 0.5 else [])
    ahead = {c.a.partition(":")[0] for c in plan.conductors if c.is_wired and c.b in {"F9.Q:1", "F9.Q:3", "F9.Q:5"}}
    assert ahead == ({"Q0"} if distribution == "chain" else {f"L{n}.bar" for n in (1, 2, 3)})
    if distribution == "block":
        assert metres < (0.5 if entry == "bottom" else 1.0)
        still = [f for f in find_all(compute_plan(arrange_plate(job, effort=0.1))) if f.rule == "arrester-leads"]
        assert all(f.severity == "note" for f in still)


def test_the_earth_terminal_beside_an_arrester_leads_on_to_the_bar() -> None:
    """Short to the rail beside it, and in its own section on to the bar: IEC 60364-5-53 534.4.8, 534.4.10, from memory."""
    plan = plan_of(SOUND + "[surge.F9]\ntype = 1\n")
    wires = [c for c in plan.conductors_of["F9.PE"] if c.is_wired]
    assert {(c.a.partition(".b")[0], c.b, c.size.mm2) for c in wires} == {
        ("F9:PE", "F9.PE:out", 16.0),
        ("PE", "F9.PE:in", 16.0),
    }
    assert plan.tags["F9.PE"] == f"PE.{plan.tags['F9']}"


def test_a_stated_fault_current_stays_stated_in_a_brief_that_is_written_and_read_again() -> None:
    """Also where it is what would be assumed: 6 kA were taken for not stated once a job had been saved."""
    head = HEAD.replace("volts = 400", "volts = 400\nfault_ka = 6")
    again = parse_brief(write_brief(change_part(parse_brief(head + STARTER), "enclosure", ambient=30)))
    assert again.supply.fault_ka == 6
    assert not [f for f in find_all(compute_plan(again)) if f.rule == "fault-assumed"]
    silent = compute_plan(parse_brief(HEAD + STARTER))
    assert silent.job.supply.available_ka == 6 and [f.rule for f in find_all(silent) if f.rule == "fault-assumed"]
