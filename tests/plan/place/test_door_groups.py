"""The door as people use it: one group for each motor, what is read above what is pressed, stops in reach, nothing interleaved.

Start above stop, lamps above buttons, the emergency stop apart: common practice, no source.
"""

from itertools import combinations

import pytest

from effort import examples
from panels import roomy_panel_text
from riktig.checks.run import find_all
from riktig.plan.arrange.edit import arrange_plate
from riktig.plan.changes.door import keep_door_place
from riktig.plan.making.labels import build_labels
from riktig.plan.place.door import room_of
from riktig.plan.place.door_groups import FREE_MM, DoorRow, row_of
from riktig.plan.place.heights import floor_to_bottom
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, job_of, plan_of

BUTTONS = '[starter.{}]\ntitle = "{}"\nkw = 1.5\nsupply = "C1"\ncontrol = "buttons"\nlamps = ["run", "trip"]\n'
TWO = HEAD + BUTTONS.format("M1", "Mill") + BUTTONS.format("M2", "Fan")
STOP = '[estop.E1]\nat = ["door"]\n'


def rows_of(plan: Plan, devices: tuple[str, ...]) -> list[tuple[DoorRow, float]]:
    """Return row and height on the door of each, from the top."""
    spots = {c.device: c.y for c in plan.door.cutouts}
    index = plan.circuit.index
    found = [(row_of(index[d].kind, index[d].colour), spots[d]) for d in devices if d in spots and d in index]
    return sorted(found, key=lambda pair: -pair[1])


@pytest.mark.parametrize("seed", range(examples(200)))
def test_groups_stand_apart_and_each_is_built_in_the_order_of_its_use(seed: int) -> None:
    plan = compute_plan(job_of(roomy_panel_text(seed).replace("depth = 250", "depth = 400")))
    rules = {finding.rule for finding in find_all(plan)}
    if rules & {"door-depth", "door-too-small"}:
        return
    assert "door-holes-close" not in rules
    frames = plan.door.frames
    for one, other in combinations(frames.values(), 2):
        assert min(one.overlap(other)) <= 1e-6
    centres = {c.device: (c.x, c.y) for c in plan.door.cutouts}
    for group in plan.door.groups:
        for device, (x, y) in centres.items():
            frame = frames.get(group.owner)
            if frame is not None:
                is_inside = frame.x < x < frame.right and frame.y < y < frame.top
                assert is_inside == (device in group.devices), (group.owner, device)
        rows = [row for row, _ in rows_of(plan, group.devices) if row is not DoorRow.EMERGENCY]
        assert rows == sorted(rows)


def test_an_emergency_stop_is_free_on_all_sides_and_in_reach() -> None:
    """0.6 to 1.7 m: IEC 60204-1:2016 10.1.1, from memory."""
    plan = plan_of(TWO + STOP)
    stop = next(c for c in plan.door.cutouts if c.device.startswith("E1.S1"))
    assert 600 <= stop.y + floor_to_bottom(plan.job.enclosure) <= 1700
    others = [c.box for c in plan.door.cutouts if c.device not in {stop.device, "Q0"}]
    assert all(max(-over for over in box.overlap(stop.box)) >= FREE_MM for box in others)


def test_the_names_of_groups_beside_each_other_stand_in_one_line() -> None:
    """Common practice, no source: one motor has an hour meter above its lamps, the other has not."""
    text = TWO.replace("[starter.M2]", "[starter.M2]\nhours = true").replace("height = 1200", "height = 1800")
    door = plan_of(text).door
    assert len(door.frames) == 2 and len({round(frame.top, 6) for frame in door.frames.values()}) == 1
    tops = [max(room_of(door.boxes[device]).top for device in g.devices) for g in door.groups if g.owner]
    assert len(set(tops)) == 2, "one of them is lower by itself"


@pytest.mark.parametrize(("hinge", "is_right"), [("left", True), ("right", False)])
def test_what_belongs_to_the_panel_stands_at_the_side_of_the_lock(hinge: str, is_right: bool) -> None:
    plan = plan_of(TWO.replace("[enclosure]\n", f'[enclosure]\nhinge = "{hinge}"\n') + STOP)
    stop = next(c for c in plan.door.cutouts if c.device.startswith("E1.S1"))
    edges = [edge for frame in plan.door.frames.values() for edge in (frame.x, frame.right)]
    assert stop.x > max(edges) if is_right else stop.x < min(edges)


def test_a_persons_own_buttons_stand_with_the_motor_whose_contactor_they_switch() -> None:
    own = (
        '[device.K9]\nkind = "contactor"\n[device.F9]\nkind = "overload"\n[device.Q9]\nkind = "breaker"\n'
        '[device.M9]\nkind = "motor"\nkw = 1.5\n[device.S8]\nkind = "pushbutton"\ncolour = "red"\ncontacts = ["nc"]\n'
        '[device.S9]\nkind = "pushbutton"\ncolour = "green"\ncontacts = ["no"]\n[device.P9]\nkind = "lamp"\n'
        '[[rung]]\npath = "C1+ > S8:nc > S9:no > K9:coil > F9:95-96 > C1-"\n[[rung]]\npath = "C1+ > K9:no > P9 > C1-"\n'
        '[[feeder]]\npath = "L1 L2 L3 > Q9 > K9 > F9 > M9"\n'
    )
    plan = plan_of(TWO + own)
    groups = {group.owner: group.devices for group in plan.door.groups}
    assert set(groups["M9"]) == {"S8", "S9", "P9"} and set(groups) == {"M1", "M2", "M9"}
    assert [row for row, _ in rows_of(plan, groups["M9"])] == [DoorRow.LAMP, DoorRow.START, DoorRow.STOP]
    assert plan.heading_of("M1") == ("M1", "Mill")
    assert {label.text for label in build_labels(plan) if label.kind == "heading"} >= {"M1 Mill", "M2 Fan"}


def test_once_something_was_moved_by_hand_all_stays_and_a_new_group_stands_together() -> None:
    plan = plan_of(TWO.replace("height = 1200", "height = 1200\ndepth = 400") + '[incoming]\nswitch = "plate"\n')
    moved = settle(keep_door_place(plan.job, "M1.S0", 90, 300))
    before = compute_plan(moved).door
    more = compute_plan(
        settle(
            moved.model_copy(
                update={"starters": (*moved.starters, job_of(HEAD + BUTTONS.format("M3", "Saw")).starters[0])}
            )
        )
    )
    spots = {c.device: (c.x, c.y) for c in more.door.cutouts}
    assert all(spots[c.device] == (c.x, c.y) for c in before.cutouts)
    frame = more.door.frames["M3"]
    assert (frame.w, frame.h) <= (121, 321)
    assert min(frame.overlap(more.door.frames["M2"])) <= 0


@pytest.mark.parametrize(
    ("floor", "y", "words"), [(1500, 900, "mm at most"), (300, 200, "mm at least"), (None, 900, ""), (600, 900, "")]
)
def test_what_is_out_of_reach_is_found(floor: float | None, y: float, words: str) -> None:
    """IEC 60204-1:2016 5.3.4 and 10.1.1: 0.6 to 1.9 m for a handle, to 1.7 m for a stop, from memory; the enclosure is 1200 mm high."""
    key = "" if floor is None else f"floor_to_bottom = {floor}\n"
    job = plan_of((TWO + STOP).replace("[enclosure]\n", f"[enclosure]\n{key}")).job
    plan = compute_plan(settle(keep_door_place(job, "M1.S0", 90, y)))
    found = [f for f in find_all(plan) if f.rule == "operator-height"]
    assert all(f.severity.value == "must" and words in f.message for f in found)
    assert bool(found) == bool(words)


@pytest.mark.parametrize("entry", ["bottom", "top"])
@pytest.mark.parametrize("count", [2, 12])
def test_the_main_switch_is_laid_out_where_its_handle_can_be_reached(entry: str, count: int) -> None:
    """Rows that would hang at the top of a tall plate, or stand at its foot, are moved for it."""
    motors = "".join(STARTER.replace("M1", f"M{n}") for n in range(1, count + 1))
    text = (HEAD + motors).replace("height = 1200", "height = 2400")
    plan = plan_of(text.replace("[supply]\n", f'[supply]\nentry = "{entry}"\n'))
    handle = next(c for c in plan.door.cutouts if c.device == "Q0")
    assert 600 <= handle.y + 100 <= 1900


def test_a_door_of_an_arranged_plate_stays_when_the_circuit_grows_and_is_laid_out_anew_when_it_is_arranged_again() -> (
    None
):
    """Somebody may have cut it."""
    arranged = arrange_plate(plan_of(TWO.replace("height = 1200", "height = 1200\ndepth = 400")).job, effort=0.02)
    before = {c.device: (c.x, c.y) for c in compute_plan(arranged).door.cutouts if c.device != "Q0"}
    third = job_of(HEAD + BUTTONS.format("M3", "Saw")).starters[0]
    grown = settle(arranged.model_copy(update={"starters": (third, *arranged.starters)}))
    after = {c.device: (c.x, c.y) for c in compute_plan(grown).door.cutouts}
    assert {device: after[device] for device in before} == before
    frames = compute_plan(arrange_plate(grown, effort=0.02)).door.frames
    assert frames["M3"].x < frames["M1"].x < frames["M2"].x, "in the order of the brief again"
