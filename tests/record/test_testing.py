"""What the Record says of a test: the last word counts, nothing is switched on before what is dead is proved, a mend opens its retests."""

from riktig.prove.steps import Phase, Step, Unit
from riktig.record.events import Event, EventKind, make_event, read_event
from riktig.record.testing import CAUTION_KEY, found_before, phase_key, read_testing


def step(key: str, phase: Phase, **more: object) -> Step:
    return Step(key=key, phase=phase, title=key, as_planned="p", proves="x", source="s", **more)  # type: ignore[arg-type]


STEPS = (
    step("t1", Phase.THROUGH, high=1.0),
    step("t2", Phase.THROUGH, high=1.0),
    step("v1", Phase.LIVE, unit=Unit.VOLT, low=207.0, high=253.0),
)


def measured(key: str, ohms: float | None, verdict: str, unit: str = "1", state: str = "p") -> Event:
    return make_event(EventKind.MEASURE, key, unit=unit, person="Ada", ohms=ohms, verdict=verdict, **{"as": state})


def said(kind: EventKind, subject: str, **data: object) -> Event:
    return make_event(kind, subject, unit="1", person="Ada", **data)


def test_the_last_reading_counts_and_an_open_circuit_is_infinite() -> None:
    found = read_testing(
        STEPS, [measured("t1", 9.0, "fail"), measured("t1", 0.2, "pass"), measured("t2", None, "fail")], "1"
    )
    assert (found.readings["t1"].value, found.readings["t1"].is_passed) == (0.2, True)
    assert found.readings["t2"].value == float("inf") and [s.key for s in found.failed] == ["t2"]


def test_another_unit_and_what_was_planned_otherwise_prove_nothing() -> None:
    found = read_testing(STEPS, [measured("t1", 0.2, "pass", unit="2"), measured("t2", 0.2, "pass", state="old")], "1")
    assert found.readings == {} and found.outdated == ("t2",)


def test_nothing_is_live_before_the_dead_tests_passed_and_somebody_took_the_caution_on() -> None:
    passed = [measured(key, 0.2, "pass") for key in ("t1", "t2")]
    live = STEPS[2]
    assert "continuity" in read_testing(STEPS, passed[:1], "1").why_shut(live)
    assert "acknowledged" in read_testing(STEPS, passed, "1").why_shut(live)
    caution = said(EventKind.CAUTION, CAUTION_KEY, reason="read")
    assert read_testing(STEPS, [*passed, caution], "1").why_shut(live) == ""
    failed = measured("t2", None, "fail")
    assert "1 of 2 left" in read_testing(STEPS, [passed[0], failed, caution], "1").why_shut(live)


def test_a_phase_is_waived_and_a_step_skipped_with_name_and_reason() -> None:
    caution = said(EventKind.CAUTION, CAUTION_KEY, reason="read")
    waived = read_testing(
        STEPS, [said(EventKind.WAIVE, phase_key(Phase.THROUGH), reason="done at the maker's"), caution], "1"
    )
    assert waived.why_shut(STEPS[2]) == "" and waived.waived[Phase.THROUGH].person == "Ada"
    skips = [said(EventKind.SKIP, key, reason="no access", **{"as": "p"}) for key in ("t1", "t2")]
    skipped = read_testing(STEPS, [*skips, caution], "1")
    assert skipped.why_shut(STEPS[2]) == "" and skipped.skipped["t1"].reason == "no access"
    assert not read_testing(STEPS, [skips[0], measured("t1", 0.2, "pass")], "1").skipped, (
        "a reading afterwards stands in its place"
    )


def test_a_fault_that_is_found_opens_its_retests_and_keeps_the_live_tests_shut_until_it_is_mended() -> None:
    passed = [measured(key, 0.2, "pass") for key in ("t1", "t2")]
    fault = said(EventKind.FAULT, "fault:open w", words="wire 1 open", mend="land it", slip="open", retest=["t1"])
    caution = said(EventKind.CAUTION, CAUTION_KEY, reason="read")
    found = read_testing(STEPS, [*passed, caution, fault], "1")
    assert found.is_open(STEPS[0]) and not found.is_open(STEPS[1])
    again = [*passed, caution, fault, measured("t1", 0.2, "pass")]
    assert "mended" in read_testing(STEPS, again, "1").why_shut(STEPS[2])
    mended = read_testing(STEPS, [*again, said(EventKind.TICK, "fault:open w", **{"as": ""})], "1")
    assert mended.faults[0].is_mended and mended.why_shut(STEPS[2]) == ""
    taken_back = said(EventKind.UNTICK, "fault:open w")
    ticked = said(EventKind.TICK, "fault:open w", **{"as": ""})
    assert not read_testing(STEPS, [*again, ticked, taken_back], "1").faults[0].is_mended
    assert dict(found_before([fault, fault])) == {"open": 2}


def test_what_was_measured_on_the_way_to_a_fault_counts_until_one_is_found() -> None:
    probe = said(EventKind.PROBE, "probe:a", ohms=None, a="K1:A1", b="K1:A2 K2:A1")
    assert read_testing(STEPS, [probe], "1").probes == (("K1:A1", ("K1:A2", "K2:A1"), float("inf")),)
    fault = said(EventKind.FAULT, "fault:x", words="w", mend="m", slip="open", retest=[])
    assert read_testing(STEPS, [probe, fault], "1").probes == ()


def test_events_of_every_kind_are_read_back_as_they_were_written() -> None:
    import json

    fault = said(EventKind.FAULT, "fault:x", words="w", mend="m", slip="open", retest=["t1"])
    probe = said(EventKind.PROBE, "probe:a", ohms=1.5, a="a", b="b c")
    for event in (fault, probe, measured("v1", 1.0, "pass"), said(EventKind.SKIP, "t1", reason="r", **{"as": "p"})):
        row = (7, event.time, event.unit, event.person, event.kind.value, event.subject, json.dumps(dict(event.data)))
        assert dict(read_event(row).data) == dict(event.data)
