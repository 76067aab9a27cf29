"""What is built stays ticked; what a change of the Job undoes becomes rework, and nothing else."""

from riktig.job import edits
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.prove.program import list_steps
from riktig.record.events import Event, EventKind, make_event
from riktig.record.keys import WireStep
from riktig.record.operations import Phase, list_operations
from riktig.record.progress import list_work, read_progress
from support import HEAD, STARTER, TWO_STATIONS, job_of


def tick_all(plan: Plan, unit: str = "1") -> list[Event]:
    return [
        make_event(EventKind.TICK, op.key, unit=unit, person="Ada", **{"as": op.as_planned})
        for op in list_operations(plan)
    ]


def test_operations_come_in_working_order_and_cover_every_wire() -> None:
    """Cut, drill, fix, mount, label, wire, lids; field side behind control, door last: common practice, no source."""
    plan = compute_plan(job_of(HEAD + STARTER))
    operations = list_operations(plan)
    assert list(dict.fromkeys(op.phase for op in operations)) == list(Phase)
    assert len({op.key for op in operations}) == len(operations)
    wires = [c for c in plan.conductors if c.kind != "link"]
    assert sum(op.key.endswith(":other end") for op in operations) == len(wires)
    assert sum(op.phase is Phase.WIRE for op in operations) == 5 * len(wires)
    assert {op.ref for op in operations if op.phase is Phase.DRILL} >= {"PE.bar", "C1.T", "PE.plate", "R1", "D1"}


def test_a_tick_is_withdrawn_by_a_new_event_and_counts_for_its_unit_only() -> None:
    plan = compute_plan(job_of(HEAD + STARTER))
    events = tick_all(plan)[:3]
    events.append(make_event(EventKind.UNTICK, events[0].subject, unit="1", person="Ada"))
    assert len(read_progress(list_work(plan), events, "1").done) == 2
    assert len(read_progress(list_work(plan), events, "2").done) == 0


def test_an_unchanged_job_keeps_every_tick() -> None:
    plan = compute_plan(job_of(HEAD + STARTER))
    progress = read_progress(list_work(plan), tick_all(plan), "1")
    assert (progress.next_operation, progress.rework) == (None, ())
    assert progress.wires_done()[0] == progress.wires_done()[1] > 20


def test_a_change_yields_rework_for_what_it_touches_and_loses_no_other_tick() -> None:
    job = issue_revision(job_of(TWO_STATIONS + STARTER), "A")
    before = compute_plan(job)
    events = tick_all(before)
    after = compute_plan(settle(edits.change_starter(job, "M1", kw=7.5)))
    progress = read_progress(list_work(after), events, "1")
    touched = {line.text.split(":")[0] for line in progress.rework}
    assert any(text.startswith("Cut wire 1L1") for text in touched), "7.5 kW wants 2.5 mm2 in place of 1.5"
    assert not any("S0a" in line.text or "S1b" in line.text for line in progress.rework)
    unchanged = {op.key: op.as_planned for op in list_operations(before)}
    same = {op.key for op in progress.operations if unchanged.get(op.key) == op.as_planned}
    assert same <= progress.done


def test_a_removed_starter_is_rework_until_it_is_ticked_as_removed() -> None:
    job = issue_revision(job_of(TWO_STATIONS + STARTER), "A")
    events = tick_all(compute_plan(job))
    after = compute_plan(settle(edits.remove(job, "starters", "M1")))
    lines = [line for line in read_progress(list_work(after), events, "1").rework if line.action == "remove"]
    assert any("M1.K" in line.text for line in lines)
    done = [make_event(EventKind.TICK, line.key, unit="1", person="Ada", **{"as": ""}) for line in lines]
    assert not [r for r in read_progress(list_work(after), events + done, "1").rework if r.action == "remove"]


def test_screens_and_combs_that_are_gone_are_told_as_rework() -> None:
    drive = STARTER.replace("M1", "M2").replace("kw = 1.5", 'kind = "drive"\nkw = 1.5')
    job = issue_revision(job_of(HEAD + STARTER + drive + STARTER.replace("M1", "M3")), "A")
    plan = compute_plan(job)
    assert any(op.key.startswith("screen:") for op in list_operations(plan))
    events = tick_all(plan)
    comb = make_event(EventKind.TICK, "comb:M9.Q:1", unit="1", person="Ada", **{"as": "comb, 3 bars, 10 mm² Q8, Q9"})
    after = compute_plan(settle(edits.remove(job, "starters", "M2")))
    lines = read_progress(list_work(after), [*events, comb], "1").rework
    texts = [line.text for line in lines if line.action == "remove"]
    assert any(text.startswith("Remove the screen of the cable to field/M2 (was: ") for text in texts)
    assert any(text.startswith("Remove the comb or bridge at M9.Q:1 (was: comb, 3 bars") for text in texts)


def test_a_shorter_wire_needs_no_new_cut_and_a_longer_one_does() -> None:
    plan = compute_plan(job_of(HEAD + STARTER))
    operation = next(op for op in list_operations(plan) if op.key.startswith("wire:"))
    head, length = operation.as_planned.rsplit(" ", 1)
    for built, is_done in ((float(length) + 50, True), (float(length) - 50, False)):
        event = make_event(EventKind.TICK, operation.key, unit="1", person="Ada", **{"as": f"{head} {built:g}"})
        assert (operation.key in read_progress(list_work(plan), [event], "1").done) is is_done


def test_a_measurement_proves_a_wire_until_the_wire_changes() -> None:
    job = job_of(HEAD + STARTER)
    plan = compute_plan(job)
    test = next(t for t in list_steps(plan) if t.wire and t.title.startswith("Wire 1L1"))
    event = make_event(EventKind.MEASURE, test.key, unit="1", person="Bo", ohms=0.2, high=test.high, verdict="pass",
                       **{"as": test.as_planned})  # fmt: skip
    assert read_progress(list_work(plan), [event], "1").wire_steps(test.wire or "") == (WireStep.PROVE,)
    changed = compute_plan(settle(edits.change_starter(job, "M1", kw=7.5)))
    assert read_progress(list_work(changed), [event], "1").wire_steps(test.wire or "") == ()
