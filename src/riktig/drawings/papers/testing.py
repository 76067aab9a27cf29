"""Owns the report of the test of one unit: what was tested by whom, when and with what, what was found, what is left, and which test of the
standards that meets. Must not judge.
"""

from collections.abc import Iterator

from riktig.drawings.display import Drawing, Layer, Tone
from riktig.drawings.frame import LEFT
from riktig.drawings.papers.paper import BOTTOM, Cell, Column, finish, table_pages, wrapped_rows
from riktig.plan.plan import Plan
from riktig.prove.asked import AskedTest, asked_tests
from riktig.prove.coverage import FaultReport
from riktig.prove.steps import Phase, Step, value_words
from riktig.record.testing import Testing

CAUTION = "What was read and seen on this one panel. Putting it up, the supply it gets there and the local code are for a competent person."


def _columns(*parts: tuple[str, float]) -> tuple[Column, ...]:
    return tuple(Column(heading=heading, width=width) for heading, width in parts)


STEP_COLUMNS = _columns(
    ("Step", 106), ("Asked", 90), ("Read", 30), ("", 22), ("By", 36), ("When (UTC)", 42), ("Meter, or reason", 54)
)
_SUM = _columns(
    ("Phase", 60), ("Steps", 24), ("Passed", 24), ("Failed", 24), ("Left out", 24), ("Open", 24), ("Said", 190)
)
_ASKED = _columns(("Clause", 60), ("What is asked", 130), ("How it is met", 180))
_FOUND = _columns(("Fault", 170), ("Mend", 130), ("By", 40), ("When (UTC)", 40))
_HIDDEN = _columns(("Fault that no step shows", 180), ("Why", 190))
_SIGNED = _columns(("", 90), ("Name", 110), ("Date", 60), ("Signature", 110))


def draw_testing(plan: Plan, testing: Testing, unit: str, cover: FaultReport | None = None) -> tuple[Drawing, ...]:
    """Return the report as sheets, A3 across.

    Args:
        plan: as it is now.
        testing: how the test of the unit stands.
        unit: its serial number.
        cover: which faults the test reveals, None where nobody has asked.
    """
    title = f"Test of unit {unit}"
    sheets = [
        *table_pages(f"{title}: {_sum_words(testing)}", "Test", _SUM, list(_sums(testing))),
        *table_pages(f"{title}: tests of the standards", "Test", _ASKED, list(_asked(plan, testing))),
        *table_pages(f"{title}: readings", "Test", STEP_COLUMNS, list(_readings(testing))),
        *table_pages(f"{title}: faults found", "Test", _FOUND, list(_found(testing))),
    ]
    if cover is not None:
        sheets += table_pages(
            f"What the test reveals: {cover.count - len(cover.hidden)} of {cover.count} single faults of wiring", "Test", _HIDDEN,
            list(_hidden(cover)),
        )  # fmt: skip
    sheets += table_pages(f"{title}: signed", "Test", _SIGNED, list(_signed()))
    for sheet in sheets:
        sheet.pen.text(LEFT + 3.2, BOTTOM - 2.2, CAUTION, size=2.5, tone=Tone.DANGER, bold=True, layer=Layer.NOTE)
    return tuple(finish(plan.job, sheet, n) for n, sheet in enumerate(sheets, start=1))


def _sum_words(testing: Testing) -> str:
    failed, left = len(testing.failed), sum(testing.is_open(step) for step in testing.steps)
    if failed:
        return f"{failed} failed"
    return f"{left} of {len(testing.steps)} steps are open" if left else "all steps passed or left out with a reason"


def _sums(testing: Testing) -> Iterator[tuple[Cell, ...]]:
    for phase in testing.phases:
        steps = testing.steps_of(phase)
        passed = sum(s.key in testing.readings and testing.readings[s.key].is_passed for s in steps)
        failed = sum(step in testing.failed for step in steps)
        skipped = sum(step.key in testing.skipped for step in steps)
        waived = testing.waived.get(phase)
        said = f"waived by {waived.person}: {waived.reason}" if waived is not None else ""
        counts = (len(steps), passed, failed, skipped, len(steps) - passed - failed - skipped)
        yield from wrapped_rows(_SUM, (phase.value, *map(str, counts), said), bold=(0,))
    if testing.caution is not None:
        said = f"{testing.caution.person}, {_when(testing.caution.time)}"
        yield from wrapped_rows(_SUM, ("caution before live work", "", "", "", "", "", f"acknowledged by {said}"))


def _asked(plan: Plan, testing: Testing) -> Iterator[tuple[Cell, ...]]:
    for one in asked_tests(plan.job.practice.standard):
        yield from wrapped_rows(_ASKED, (one.clause, one.title, met_words(one, testing)), bold=(0,))
    yield from wrapped_rows(_ASKED, ("", "", "Clauses are from memory of the standards."))


def met_words(one: AskedTest, testing: Testing) -> str:
    """Return how a test that a standard asks for is met: by which phases, and what is left of them."""
    parts = [_phase_words(testing, phase) for phase in one.phases]
    return "; ".join((*parts, *((one.words,) if one.words else ())))


def _phase_words(testing: Testing, phase: Phase) -> str:
    steps = testing.steps_of(phase)
    if not steps:
        return f"{phase.value}: nothing of this panel asks for it"
    waived = testing.waived.get(phase)
    if waived is not None:
        return f"{phase.value}: waived by {waived.person}, {waived.reason}"
    left = len(testing.left(phase))
    return f"{phase.value}: {left} of {len(steps)} left" if left else f"{phase.value}: met, {len(steps)} steps"


def _readings(testing: Testing) -> Iterator[tuple[Cell, ...]]:
    for phase in testing.phases:
        yield from wrapped_rows(STEP_COLUMNS, (phase.value, "", "", "", "", "", ""), bold=(0,))
        for step in testing.steps_of(phase):
            yield from wrapped_rows(STEP_COLUMNS, step_row(testing, step))


def step_row(testing: Testing, step: Step) -> tuple[str, ...]:
    """Return a step as the report has it: what, asked, read, verdict, by whom, when, with which meter or for which reason not."""
    title = f"{step.group}: {step.title}" if step.group else step.title
    reading, said = testing.readings.get(step.key), testing.skipped.get(step.key)
    if reading is not None:
        return (title, step.limit_words, value_words(step.unit, reading.value), "pass" if reading.is_passed else "FAIL", reading.person,
                _when(reading.time), reading.meter)  # fmt: skip
    if said is not None:
        return (title, step.limit_words, "", "left out", said.person, _when(said.time), said.reason)
    return (title, step.limit_words, "", "open", "", "", "")


def _when(time: str) -> str:
    return time[:16].replace("T", " ")


def _found(testing: Testing) -> Iterator[tuple[Cell, ...]]:
    for one in testing.faults:
        mended = f"{one.mend}: {'done' if one.is_mended else 'STILL OPEN'}"
        yield from wrapped_rows(_FOUND, (one.words, mended, one.person, _when(one.time)))
    if not testing.faults:
        yield from wrapped_rows(_FOUND, ("None was found.", "", "", ""))


def _hidden(cover: FaultReport) -> Iterator[tuple[Cell, ...]]:
    for phase, count in cover.first.items():
        yield from wrapped_rows(_HIDDEN, (f"first revealed by {phase}", str(count)))
    for words, because in cover.hidden:
        yield from wrapped_rows(_HIDDEN, (words, because))


def _signed() -> Iterator[tuple[Cell, ...]]:
    for who in ("Tested", "Tested live, second person", "Released"):
        yield from wrapped_rows(_SIGNED, (who, "", "", ""), bold=(0,))
        yield from wrapped_rows(_SIGNED, ("", "", "", ""))
