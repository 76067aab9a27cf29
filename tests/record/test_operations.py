"""The steps of a build and the tests behind it, one by one."""

import pytest

from riktig.plan.plan import Plan
from riktig.record.events import EventKind, make_event
from riktig.record.keys import WireStep, wire_key
from riktig.record.operations import TICKED_STEPS, Operation, Phase, list_operations, wire_state
from support import HEAD, STARTER, plan_of, small_text


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(HEAD + STARTER)


@pytest.fixture(scope="module")
def operations(plan: Plan) -> tuple[Operation, ...]:
    return list_operations(plan)


def of(operations: tuple[Operation, ...], phase: Phase) -> list[Operation]:
    return [op for op in operations if op.phase is phase]


def test_every_piece_is_cut_once_with_its_length_and_code(plan: Plan, operations: tuple[Operation, ...]) -> None:
    cut = {op.ref: op for op in of(operations, Phase.CUT)}
    assert set(cut) == {c.code for c in plan.cuts}
    for piece in plan.cuts:
        assert f"{piece.length:g} mm" in cut[piece.code].title and f"mark it {piece.code}" in cut[piece.code].detail


def test_bars_are_cut_one_after_the_other(operations: tuple[Operation, ...]) -> None:
    """One thing done to all, then the next: common practice, no source."""
    batches = [op.batch for op in of(operations, Phase.CUT)]
    assert len(list(dict.fromkeys(batches))) == sum(a != b for a, b in zip(["", *batches], batches, strict=False))


def test_all_holes_of_the_plate_and_door_are_drilled_with_their_places(
    plan: Plan, operations: tuple[Operation, ...]
) -> None:
    drilled = {op.key: op for op in of(operations, Phase.DRILL)}
    for hole in plan.holes:
        assert f"{hole.x:g}/{hole.y:g}" in drilled[f"holes:{hole.target}"].detail
    for cutout in plan.door.cutouts:
        assert "measure three times" in drilled[f"cutout:{cutout.device}"].detail


def test_ducts_are_fixed_before_rails_and_parts_behind_both(operations: tuple[Operation, ...]) -> None:
    kinds = [op.batch for op in of(operations, Phase.FIX)]
    assert kinds == sorted(kinds)
    order = [op.phase for op in operations]
    assert order.index(Phase.FIX) < order.index(Phase.MOUNT) < order.index(Phase.LABEL) < order.index(Phase.WIRE)


def test_what_is_in_the_panel_is_mounted_and_labelled_and_what_is_in_the_field_is_not(
    plan: Plan, operations: tuple[Operation, ...]
) -> None:
    mounted = {op.ref for op in of(operations, Phase.MOUNT)}
    assert {"M1.K", "M1.F", "C1.T", "M1.S0", "X1", "PE.bar"} <= mounted
    assert "M1" not in mounted
    assert {op.ref for op in of(operations, Phase.LABEL)} == mounted - {"X1"}


def test_strips_are_built_terminal_by_terminal(operations: tuple[Operation, ...]) -> None:
    (strip,) = [op for op in operations if op.ref == "X1"]
    assert (
        strip.title == "Build strip X1"
        and "5 terminals from the left: tb-2_5 tb-2_5 tb-2_5 te-2_5 tb-2_5" in strip.detail
    )


def test_a_bundle_is_cut_and_marked_before_its_first_end_is_landed(operations: tuple[Operation, ...]) -> None:
    """Cut all, mark both ends of each, then land: common practice, no source."""
    wires = of(operations, Phase.WIRE)
    for batch in dict.fromkeys(op.batch for op in wires):
        steps = [op.key.rsplit(":", 1)[1] for op in wires if op.batch == batch]
        count = steps.count("cut")
        assert steps[: 2 * count] == ["cut"] * count + ["marked"] * count
        assert steps[2 * count : 4 * count] == ["one end", "other end"] * count
        assert steps[4 * count :] == ["tightened"] * count


def test_a_screw_is_tightened_to_the_torque_of_its_part(plan: Plan, operations: tuple[Operation, ...]) -> None:
    wire = next(c for c in plan.conductors if c.number == "1L1")
    (tighten,) = [op for op in operations if op.key == wire_key(wire.id, WireStep.TIGHTEN)]
    torque = max(plan.parts["M1.Q"].torque_nm, plan.parts["M1.K"].torque_nm)
    assert f"{torque:g} N m" in tighten.detail


def test_a_tick_vouches_for_what_its_step_makes(plan: Plan) -> None:
    wire = next(c for c in plan.conductors if c.number == "4" and c.kind == "wire")
    assert wire_state(plan, wire, WireStep.CUT) == f"1 mm² red {wire.length_mm:g}"
    assert wire_state(plan, wire, WireStep.MARK) == "4"
    assert wire.a in wire_state(plan, wire, WireStep.ONE_END) and wire.b in wire_state(plan, wire, WireStep.TIGHTEN)
    assert [step.value for step in TICKED_STEPS] == ["cut", "marked", "one end", "other end", "tightened"]


def test_an_event_says_when_who_what_and_on_which_unit() -> None:
    event = make_event(EventKind.NOTE, "K1", unit="7", person="Ada", text="scratch")
    assert (event.unit, event.person, event.data["text"], event.sequence) == ("7", "Ada", "scratch", None)
    assert event.time.endswith("+00:00") and len(event.time) == len("2026-01-01T00:00:00.000+00:00")


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_every_operation_has_words_for_the_bench(world: str) -> None:
    for operation in list_operations(plan_of(small_text(world))):
        assert operation.title[0].isupper() and operation.detail and operation.as_planned and operation.ref
