"""Strips, cables, tags: one terminal for each conductor that leaves, and names that stay."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.job import edits
from riktig.job.faults import JobError
from riktig.job.model import Device
from riktig.plan.making.bom import build_bom
from riktig.plan.making.release import issue_revision
from riktig.plan.net.runs import STANDARD_CORES
from riktig.plan.net.strips import END_PARTS_MM, Clamp, part_strips, strip_width_mm
from riktig.plan.place.faults import find_faults
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.plan.wiring.geometry import Geometry
from support import HEAD, STARTER, TWO_STATIONS, job_of, plan_of, small_text

STATION = HEAD + STARTER + 'buttons_at = "st1"\n'


def strip(plan: Plan, name: str) -> list[tuple[str, str, str]]:
    return [(c.label, c.number, c.drop) for c in plan.clamps if c.strip == name and c.drop != "spare"]


def test_each_drop_has_its_own_terminals_and_earth_stands_beside_its_circuit() -> None:
    """Common practice, no source."""
    plan = plan_of(HEAD + STARTER + STARTER.replace("M1", "M2"))
    assert [(label, drop) for label, _, drop in strip(plan, "X1")] == [
        ("1", "field/M1"), ("2", "field/M1"), ("3", "field/M1"), ("4", "field/M1"),
        ("5", "field/M2"), ("6", "field/M2"), ("7", "field/M2"), ("8", "field/M2"),
    ]  # fmt: skip
    assert [c.label for c in plan.clamps if c.is_earth] == ["4", "8"]


def test_earth_goes_to_the_bar_in_the_other_school() -> None:
    plan = plan_of(HEAD.replace("[supply]", '[practice]\nearth = "bar"\n[supply]') + STARTER)
    assert not any(c.is_earth for c in plan.clamps)
    assert any(c.a.startswith("PE.bar:") and c.b == "M1:PE" and c.kind == "core" for c in plan.conductors)


def test_door_wires_go_over_a_strip_where_the_shop_wants_it() -> None:
    plan = plan_of(HEAD.replace("[supply]", '[practice]\ndoor = "terminals"\n[supply]') + STARTER)
    assert {c.drop for c in plan.clamps if c.strip == "X3" and not c.is_spare} == {"door"}
    hinge = [c for c in plan.conductors if c.location == "hinge" and c.number != "PE"]
    assert hinge and all(c.a.startswith("X3:") for c in hinge)
    direct = plan_of(HEAD + STARTER)
    assert not [c for c in direct.clamps if c.strip == "X3"]


def test_a_strip_is_as_wide_as_its_terminals_and_end_parts() -> None:
    """By hand: three feed-through of 2.5 mm2, one earth terminal and one spare (10 % of four, rounded up), 5.2 mm each."""
    plan = plan_of(HEAD + STARTER)
    assert plan.plate.boxes["X1"].w == pytest.approx(5 * 5.2 + END_PARTS_MM)


@pytest.mark.parametrize(
    ("share", "spares"), [(0, []), (10, ["9"]), (25, ["9", "10"]), (100, [str(n) for n in range(9, 17)])]
)
def test_spare_terminals_stand_behind_the_used_ones_by_the_share_that_is_wanted(share: int, spares: list[str]) -> None:
    """By hand: two motors have eight terminals; 10 % of them is one, 25 % two."""
    practice = f"[practice]\nspare_terminals = {share}\n[supply]"
    plan = plan_of(HEAD.replace("[supply]", practice) + STARTER + STARTER.replace("M1", "M2"))
    assert [c.label for c in plan.clamps if c.is_spare and c.strip == "X1"] == spares


def test_what_is_added_after_a_release_takes_the_spares_and_the_strip_grows_only_then() -> None:
    job = issue_revision(job_of(HEAD.replace("[supply]", "[practice]\nspare_terminals = 30\n[supply]") + STARTER), "A")
    assert [c.id for c in compute_plan(job).clamps if c.is_spare] == ["X1:5", "X1:6"]
    more = compute_plan(settle(edits.duplicate_starter(job, "M1")))
    assert [(c.label, c.number) for c in more.clamps if c.drop == "field/M2"] == [
        ("5", "7L1"), ("6", "7L2"), ("7", "7L3"), ("8", "PE"),
    ]  # fmt: skip
    assert not [c for c in more.clamps if c.is_spare]


def test_a_terminal_keeps_its_place_and_a_new_one_stands_behind_the_last() -> None:
    job = issue_revision(job_of(HEAD + STARTER + STARTER.replace("M1", "M2")), "A")
    fewer = settle(edits.remove(job, "starters", "M1"))
    assert [label for label, _, _ in strip(compute_plan(fewer), "X1")] == ["5", "6", "7", "8"]
    assert [c.label for c in compute_plan(fewer).clamps if c.is_spare] == ["9"]
    more = settle(edits.duplicate_starter(fewer, "M2"))
    assert [label for label, _, drop in strip(compute_plan(more), "X1") if drop == "field/M1"] == [
        "9", "10", "11", "12",
    ]  # fmt: skip


def test_cables_are_the_next_standard_size_with_spares_from_seven_cores_on() -> None:
    """At least 10 % spare: common practice, no source. By hand: 4 and 1 earth make 5; 3 and 1 earth make 4."""
    plan = plan_of(TWO_STATIONS)
    found = {c.target: (len(c.numbers), c.spare) for c in plan.cables}
    assert found == {"st1": (5, 0), "st2": (4, 0)}
    many = TWO_STATIONS + "".join(
        f'[device.S2{x}]\nkind = "pushbutton"\nat = "st1"\n[[rung]]\npath = "C1+ > S2{x}:no > P1 > C1-"\n'
        for x in "abcde"
    )
    for cable in plan_of(many).cables:
        assert len(cable.numbers) + cable.spare in STANDARD_CORES
        assert len(cable.numbers) < 7 or cable.spare >= 0.1 * len(cable.numbers)


def test_a_cable_keeps_its_name_when_another_goes() -> None:
    job = job_of(STATION + STARTER.replace("M1", "M2"))
    names = {drop: c.value for drop, c in job.ledger.cables.items()}
    later = settle(edits.remove(job, "starters", "M1"))
    assert {drop: c.value for drop, c in later.ledger.cables.items()} == {"field/M2": names["field/M2"]}


def test_a_strip_wider_than_its_rail_goes_on_on_the_next_between_two_cables() -> None:
    """Common practice, no source: numbers run on, each piece has its end parts, no bridge and no earth rail goes from one to the other."""
    text = HEAD.replace("width = 800\nheight = 1200", "width = 600\nheight = 3000")
    motors = "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 27))
    plan = plan_of(text + motors)
    pieces = {name: [c for c in plan.clamps if c.piece == name] for name in ("X1", "X1 (2)")}
    assert [c.label for c in plan.clamps if c.strip == "X1"] == [c.label for piece in pieces.values() for c in piece]
    assert not {c.drop for c in pieces["X1"]} & {c.drop for c in pieces["X1 (2)"]}
    assert not find_faults(plan.plate)
    boxes = [plan.plate.boxes[name] for name in pieces]
    assert boxes[0].centre[1] != boxes[1].centre[1] and all(box.w <= 600 - 50 - 2 * (25 + 10) for box in boxes)
    geometry = Geometry(plan.job, plan.parts, plan.plate, plan.door, plan.clamps, plan.clamp_parts, plan.walls)
    for name, members in pieces.items():
        for clamp in members:
            at, box = geometry.access(clamp.id), plan.plate.boxes[name]
            assert box.x < at.x < box.right and at.y in (box.y, box.top)
    bought = {line.code: line.quantity for line in build_bom(plan)}
    ends = len({c.piece for c in plan.clamps})
    assert (bought["end-stop"], bought["end-plate"]) == (2 * ends, ends)
    assert plan_of(text.replace("width = 600", "width = 2000") + motors).plate.boxes.keys().isdisjoint({"X1 (2)"})


@given(
    st.lists(st.tuples(st.integers(1, 6), st.sampled_from([0.5, 2.5, 6.0, 16.0, 35.0])), max_size=30),
    st.floats(60.0, 400.0),
)
def test_a_piece_of_a_strip_is_no_wider_than_its_rail_and_parts_no_cable_that_fits_one(
    drawn: list[tuple[int, float]], most: float
) -> None:
    clamps, mm2 = [], {}
    for cable, (cores, size) in enumerate(drawn):
        for _ in range(cores):
            label = str(len(clamps) + 1)
            clamps.append(Clamp(strip="X1", label=label, number=label, drop=f"field/M{cable}", is_earth=False))
            mm2[clamps[-1].id] = size
    found = part_strips(clamps, mm2, most)
    assert [c.id for c in found] == [c.id for c in clamps]
    for name in {c.piece for c in found}:
        members = [c for c in found if c.piece == name]
        assert strip_width_mm(members, mm2) <= most + 1e-9 or len(members) == 1
    for drop in {c.drop for c in found}:
        members = [c for c in found if c.drop == drop]
        assert strip_width_mm(members, mm2) > most or len({c.piece for c in members}) == 1


def test_tags_follow_the_letters_of_each_world() -> None:
    """IEC 81346-2 and NFPA 79, from memory; a starter's parts take its own number."""
    iec, ul = plan_of(small_text("iec")).tags, plan_of(small_text("ul")).tags
    keys = ("Q0", "M1.Q", "M1.K", "M1.F", "C1.T", "M1")
    assert [iec[k] for k in keys] == ["Q0", "Q1", "K1", "F1", "T1", "M1"]
    assert [ul[k] for k in keys] == ["DISC0", "CB1", "CON1", "OL1", "CPT1", "M1"]


def test_a_device_called_like_a_strip_pushes_the_strip_aside_until_a_release() -> None:
    own = '[device.X1]\nkind = "terminal"\n[[rung]]\npath = "C1+ > X1 > P9 > C1-"\n[device.P9]\nkind = "lamp"\nat = "st1"\n'
    plan = plan_of(HEAD + STARTER + own)
    assert {c.strip for c in plan.clamps} == {"X1A", "X2"} and plan.tags["X1"] == "X1"
    labels = [plan.terminal_label(t) for p in plan.potentials for t in p.net.terminals] + [c.id for c in plan.clamps]
    assert len(labels) == len(set(labels))
    released = issue_revision(job_of(HEAD + STARTER), "A")
    with pytest.raises(JobError, match="'X1' is a terminal strip of this panel that was released"):
        settle(edits.replace(released, devices=(Device(name="X1", kind="terminal"),)))


def test_names_of_a_persons_own_devices_are_their_tags_and_push_others_aside() -> None:
    tags = plan_of(HEAD + STARTER + '[device.K1]\nkind = "relay"\n').tags
    assert (tags["K1"], tags["M1.K"]) == ("K1", "K2")
    assert len(set(tags.values())) == len(tags)
    assert not {"X0", "X1", "X2", "X3"} & set(tags.values()), "these are strips"
