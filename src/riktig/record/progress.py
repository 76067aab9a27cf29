"""Owns what events mean for a Plan: what is done, what is open, what must be reworked. Must not store anything."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property

from riktig.plan.plan import Plan
from riktig.prove.probing import Reach
from riktig.prove.program import list_steps, travel_m
from riktig.prove.steps import Step
from riktig.record.cutouts import CutoutCheck, PlannedCutout, list_cutouts, read_checks
from riktig.record.events import Event, EventKind
from riktig.record.keys import OperationKey, Sort, WireStep, removed, wire_key
from riktig.record.operations import Operation, list_operations
from riktig.record.testing import Testing, read_testing


@dataclass(frozen=True, kw_only=True)
class Workload:
    """All that a Plan asks to be done and measured, each in working order, and how many wires are to be joined at both ends."""

    operations: tuple[Operation, ...]
    tests: tuple[Step, ...]
    travel_m: tuple[float, float]
    """How far both probes go in the order of the tests, and along the schematic."""
    cutouts: tuple[PlannedCutout, ...]
    wires: int

    @cached_property
    def by_key(self) -> Mapping[OperationKey, Operation]:
        """The operations by their keys, gathered once: it is asked at every tick."""
        return {operation.key: operation for operation in self.operations}


def list_work(plan: Plan) -> Workload:
    """Return the operations, tests and cut-outs of a Plan."""
    operations = list_operations(plan)
    wires = sum(operation.key.is_landing for operation in operations)
    reach = Reach(plan)
    steps = list_steps(plan, reach)
    return Workload(
        operations=operations,
        tests=steps,
        travel_m=travel_m(plan, steps, reach),
        cutouts=list_cutouts(plan),
        wires=wires,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Rework:
    """Something built that the Plan no longer says: `action` is remove, remake, relabel or move."""

    action: str
    key: OperationKey
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """How far one unit is: keys of what is done, its test, rework in order, and the measuring of cut-outs by the key of their operation."""

    work: Workload
    done: frozenset[OperationKey]
    testing: Testing
    rework: tuple[Rework, ...]
    checks: Mapping[OperationKey, CutoutCheck] = field(default_factory=dict)

    @property
    def operations(self) -> tuple[Operation, ...]:
        """Every operation in working order."""
        return self.work.operations

    @property
    def verdicts(self) -> Mapping[str, bool]:
        """The verdict on each step of the test that was judged, by its key."""
        return {key: reading.is_passed for key, reading in self.testing.readings.items()}

    def why_closed(self, key: OperationKey) -> str:
        """Return why an operation may not be done yet, "" where it may."""
        check = self.checks.get(key)
        return check.words if check is not None and not check.is_open else ""

    @property
    def next_operation(self) -> Operation | None:
        """The first operation that is not done, None when all are."""
        return next((op for op in self.operations if op.key not in self.done), None)

    def wire_steps(self, wire_id: str) -> tuple[WireStep, ...]:
        """Return the steps of a wire that are done, in order."""
        done = [step for step in WireStep if wire_key(wire_id, step) in self.done]
        proof = self.testing.readings.get(f"test:{wire_id}")
        if proof is not None and proof.is_passed:
            done.append(WireStep.PROVE)
        return tuple(done)

    def wires_done(self) -> tuple[int, int]:
        """Return how many wires are landed at both ends, and how many there are."""
        return sum(key.is_landing for key in self.done), self.work.wires


def read_progress(work: Workload, events: Iterable[Event], unit: str) -> Progress:
    """Return the progress of one unit.

    A tick counts while the thing is still planned as it was when it was ticked; if not, it becomes rework. A
    tick on what did not change is never lost.
    """
    events = tuple(events)
    ticks: dict[OperationKey, str] = {}
    for event in events:
        if event.unit != unit:
            continue
        if event.kind is EventKind.TICK:
            ticks[OperationKey(event.subject)] = str(event.data.get("as", ""))
        elif event.kind is EventKind.UNTICK:
            ticks.pop(OperationKey(event.subject), None)
    planned = work.by_key
    done = {key for key, state in ticks.items() if key in planned and _still_holds(planned[key], state)}
    testing = read_testing(work.tests, events, unit)
    mends = tuple(
        Rework(action="mend", key=OperationKey(one.key), text=f"Mend: {one.mend} ({one.words})")
        for one in testing.faults
        if not one.is_mended
    )
    return Progress(
        work=work, done=frozenset(done), testing=testing, rework=mends + _list_rework(ticks, planned, done),
        checks=read_checks(work.cutouts, events, unit),
    )  # fmt: skip


def _still_holds(operation: Operation, state: str) -> bool:
    """Return whether a tick vouches for what is planned now; a wire cut longer than needed still serves."""
    if state == operation.as_planned:
        return True
    if operation.key.sort is Sort.WIRE and operation.key.step == WireStep.CUT.value:
        before, _, length = state.rpartition(" ")
        now, _, needed = operation.as_planned.rpartition(" ")
        return before == now and length.replace(".", "", 1).isdecimal() and float(length) >= float(needed)
    return False


def _list_rework(
    ticks: Mapping[OperationKey, str], planned: Mapping[OperationKey, Operation], done: set[OperationKey]
) -> tuple[Rework, ...]:
    """Return the rework lines: what is built and gone from the Plan first, one line for a thing; then what changed."""
    lines: dict[OperationKey, Rework] = {}
    for key, state in ticks.items():
        if key in planned or key.sort in {Sort.REMOVED, Sort.FAULT}:
            continue
        gone = removed(key)
        if gone not in ticks:
            lines.setdefault(gone, Rework(action="remove", key=gone, text=f"Remove {key.words} (was: {state})"))
    for key, state in ticks.items():
        if key in planned and key not in done:
            operation = planned[key]
            text = f"{operation.title} again: planned now {operation.as_planned}, built {state}"
            lines[key] = Rework(action=key.again, key=key, text=text)
    return tuple(lines.values())
