"""An exported schedule that a person edited comes back: exactly what was edited, or a sentence for every row that does not fit."""

import csv
import io
from collections.abc import Callable
from pathlib import Path

import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from riktig.files.rows_in import ListError, Rows
from riktig.files.schedule_in import parse_schedule, read_schedule
from riktig.files.tables import BUILDERS
from riktig.files.xlsx import write_xlsx
from riktig.job.model import Job
from riktig.plan.changes.schedule import EditSort, apply_edits
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, TWO_STATIONS, job_of

TEXT = TWO_STATIONS + STARTER + STARTER.replace("M1", "M2")


@pytest.fixture(scope="module")
def job() -> Job:
    return job_of(TEXT)


@pytest.fixture(scope="module")
def plan(job: Job) -> Plan:
    return compute_plan(job)


def rows_of(plan: Plan, name: str) -> Rows:
    text = BUILDERS[name](plan).to_csv()
    return [(line, tuple(row)) for line, row in enumerate(csv.reader(io.StringIO(text)), 1)]


def edited(rows: Rows, changes: dict[tuple[int, str], str]) -> Rows:
    """Return rows with cells changed, each by its line and heading."""
    head = rows[0][1]
    return [
        (line, tuple(changes.get((line, heading), cell) for heading, cell in zip(head, cells, strict=True)))
        for line, cells in rows
    ]


def ledgers_that_differ(a: Job, b: Job) -> set[str]:
    return {name for name in type(a.ledger).model_fields if getattr(a.ledger, name) != getattr(b.ledger, name)}


@pytest.mark.parametrize("name", ["wires", "terminals", "cables"])
def test_what_was_not_edited_changes_nothing(job: Job, plan: Plan, name: str, tmp_path: Path) -> None:
    write_xlsx(BUILDERS[name](plan), tmp_path / "back.xlsx")
    assert read_schedule(tmp_path / "back.xlsx", plan) == parse_schedule(rows_of(plan, name), plan) == ()
    assert apply_edits(job, ()) == job


def test_a_hand_edited_workbook_changes_exactly_what_was_edited(job: Job, plan: Plan, tmp_path: Path) -> None:
    write_xlsx(BUILDERS["wires"](plan), tmp_path / "wires.xlsx")
    book = openpyxl.load_workbook(tmp_path / "wires.xlsx")
    sheet = book.worksheets[0]
    head = [cell.value for cell in sheet[1]]
    touched = [row for row in sheet.iter_rows(min_row=2) if row[0].value == "4"]
    for row in touched:
        row[0].value = 104
    touched[0][head.index("remark")].value = "behind the mill"
    book.save(tmp_path / "wires.xlsx")
    edits = read_schedule(tmp_path / "wires.xlsx", plan)
    assert [(e.sort, e.before, e.after) for e in edits] == [
        (EditSort.NUMBER, "4", "104"), (EditSort.REMARK, "", "behind the mill"),
    ]  # fmt: skip
    after = apply_edits(job, edits)
    assert ledgers_that_differ(job, after) == {"numbers", "texts"}
    new = compute_plan(after)
    assert {(c.a, c.b, "104" if c.number == "4" else c.number) for c in plan.conductors} == {
        (c.a, c.b, c.number) for c in new.conductors
    }
    assert settle(after) is after and "behind the mill" in BUILDERS["wires"](new).to_csv()


def test_places_on_a_strip_come_back_and_wires_go_with_them(job: Job, plan: Plan) -> None:
    rows = edited(rows_of(plan, "terminals"), {(2, "position"): "3", (3, "position"): "1", (4, "position"): "2"})
    (edit,) = parse_schedule(rows, plan)
    assert edit.sort is EditSort.ORDER and edit.after.split()[:3] == ["X1:2", "X1:3", "X1:1"]
    new = compute_plan(apply_edits(job, (edit,)))
    order = [c.number for c in plan.clamps if c.strip == "X1"]
    assert [c.number for c in new.clamps if c.strip == "X1"] == [order[1], order[2], order[0], *order[3:]]
    assert len(new.conductors) == len(plan.conductors)


def test_names_and_remarks_of_cables_come_back(job: Job, plan: Plan) -> None:
    rows = edited(rows_of(plan, "cables"), {(2, "name"): "WM1", (3, "remark"): "pull with the next"})
    after = compute_plan(apply_edits(job, parse_schedule(rows, plan)))
    assert after.cables[0].name == "WM1" and [c.name for c in after.cables[1:]] == [c.name for c in plan.cables[1:]]
    assert "pull with the next" in BUILDERS["cables"](after).to_csv()


@settings(max_examples=examples(25))
@given(st.data())
def test_any_order_of_a_strip_comes_back_as_it_was_written(data: st.DataObject) -> None:
    job = job_of(TEXT)
    plan = compute_plan(job)
    rows = rows_of(plan, "terminals")
    lines = [line for line, cells in rows[1:] if cells[0] == "X1"]
    places = data.draw(st.permutations(range(1, len(lines) + 1)))
    changes = {(line, "position"): str(place) for line, place in zip(lines, places, strict=True)}
    after = compute_plan(apply_edits(job, parse_schedule(edited(rows, changes), plan)))
    before = [c.number or c.key for c in plan.clamps if c.strip == "X1"]
    wanted = [number for _, number in sorted(zip(places, before, strict=True))]
    assert [c.number for c in after.clamps if c.strip == "X1"] == ["" if "spare" in n else n for n in wanted]


def double(rows: Rows) -> Rows:
    return [*rows, (len(rows) + 1, rows[1][1])]


def heading(old: str, new: str) -> Callable[[Rows], Rows]:
    return lambda rows: [(1, tuple(new if cell == old else cell for cell in rows[0][1])), *rows[1:]]


def cell(line: int, column: str, value: str) -> Callable[[Rows], Rows]:
    return lambda rows: edited(rows, {(line, column): value})


def first(number: str, column: str, *values: str) -> Callable[[Rows], Rows]:
    """Change the cells of the first wires of a number."""

    def change(rows: Rows) -> Rows:
        lines = [line for line, cells in rows if cells[0] == number]
        return edited(rows, {(line, column): value for line, value in zip(lines, values, strict=False)})

    return change


BAD: list[tuple[str, Callable[[Rows], Rows], str]] = [
    ("wires", lambda rows: [], "line 1: the file is empty"),
    ("wires", heading("to", "until"), "line 1: these are not the headings"),
    ("wires", heading("stage", "from"), "line 1, from: this heading stands twice"),
    (
        "wires",
        heading("remark", "remarks"),
        "line 1, remarks: no such column in the schedule of wires (did you mean 'remark'?)",
    ),
    ("wires", lambda rows: rows[:1], "line 1: there is no row below the headings"),
    ("wires", lambda rows: [rows[0], (2, (*rows[1][1], "more"))], "line 2: it has 19 cells for 18 headings"),
    ("wires", cell(3, "to", ""), "line 3, to: is empty: it says which row this is"),
    ("wires", cell(3, "from", "Q99:1"), "line 3, from: the plan has no 'Q99:1"),
    ("wires", double, "stands in line 2 already: take one of them out"),
    ("wires", cell(2, "length_mm", "12"), "line 2, length_mm: '12' is computed and cannot be set here: put"),
    ("wires", first("4", "number", ""), "number: is empty: write a number, or 4 again"),
    ("wires", first("4", "number", "4 a"), "number: '4 a' has blanks: a number has none"),
    ("wires", first("4", "number", "2"), "number: 2 is the number of other wires"),
    ("wires", first("4", "number", "104", "105"), "number 4 becomes 104 in line"),
    ("wires", first("L1", "number", "R"), "L1 is the name of a supply and stays"),
    (
        "wires",
        lambda rows: first("3", "number", "77")(first("4", "number", "77")(rows)),
        "77 is given to two potentials",
    ),
    ("wires", cell(2, "remark", "x" * 90), "line 2, remark: has 90 letters: write at most 80"),
    (
        "terminals",
        cell(2, "position", "left"),
        "line 2, position: 'left' is no place: write a whole number from 1 to 9",
    ),
    ("terminals", cell(2, "position", "12"), "line 2, position: strip X1 has 9 terminals"),
    ("terminals", cell(2, "position", "2"), "X1:2 and X1:1 would both stand on place 2"),
    ("terminals", cell(2, "potential", "9"), "line 2, potential: '9' is computed"),
    ("cables", cell(2, "name", ""), "line 2, name: is empty"),
    ("cables", cell(2, "name", "W 1"), "line 2, name: 'W 1' has blanks"),
    ("cables", cell(2, "name", "W2"), "line 2, name: W2 is the name of two cables"),
]


@pytest.mark.parametrize(("name", "spoil", "said"), BAD, ids=[said[:40] for _, _, said in BAD])
def test_a_bad_row_is_named_with_line_column_and_mend(
    plan: Plan, name: str, spoil: Callable[[Rows], Rows], said: str
) -> None:
    with pytest.raises(ListError) as caught:
        parse_schedule(spoil(rows_of(plan, name)), plan)
    assert said in str(caught.value)


def test_what_was_released_is_refused_where_it_stands() -> None:
    plan = compute_plan(issue_revision(job_of(HEAD + STARTER), "A"))
    for name, changes, said in (
        ("wires", {(line, "number"): "99" for line, cells in rows_of(plan, "wires") if cells[0] == "3"}, "3 was released and stays"),
        ("terminals", {(2, "position"): "2", (3, "position"): "1"}, "X1:1 was released and stays"),
        ("cables", {(2, "name"): "WX"}, "W1 was released and stays"),
    ):  # fmt: skip
        with pytest.raises(ListError, match=said):
            parse_schedule(edited(rows_of(plan, name), changes), plan)


def test_every_fault_is_told_at_once(plan: Plan) -> None:
    rows = edited(rows_of(plan, "wires"), {(2, "length_mm"): "1", (3, "colour"): "pink", (5, "from"): "K99:1"})
    with pytest.raises(ListError) as caught:
        parse_schedule(rows, plan)
    assert [fault.line for fault in caught.value.faults] == [2, 3, 5]


def test_a_file_that_is_none_is_said(tmp_path: Path, plan: Plan) -> None:
    (tmp_path / "w.xlsx").write_text("no workbook")
    with pytest.raises(ListError, match="is no XLSX workbook"):
        read_schedule(tmp_path / "w.xlsx", plan)
    with pytest.raises(ListError, match="cannot be read"):
        read_schedule(tmp_path / "missing.csv", plan)
