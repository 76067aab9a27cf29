"""A shop's own copy of a table takes the place of the shipped one, is cited, and is refused with a sentence if it is broken."""

from collections.abc import Iterator
from pathlib import Path

import pytest

from riktig.checks.run import find_all
from riktig.files.brief_reader import parse_brief
from riktig.job.model import Job
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from riktig.standards import iec_60947_4_1
from riktig.standards.tables import TableError, forget_tables, own_tables, shipped_table
from support import plan_of, small_text

NAME = "motor_current_iec_60947_4_1_g"
TITLE = "# Checked against edition 2023 on paper"


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    monkeypatch.setenv("RIKTIG_TABLES", str(tmp_path))
    forget_tables()
    yield tmp_path
    monkeypatch.undo()
    forget_tables()


def write(folder: Path, *, title: str = TITLE, name: str = NAME, **changed: str) -> None:
    """Write a copy of the shipped table with the 400 V currents of some powers changed."""
    rows = [dict(row, v400=changed.get(f"kw{row['kw'].replace('.', '_')}", row["v400"])) for row in shipped_table(NAME)]
    lines = [title, ",".join(rows[0]), *(",".join(row.values()) for row in rows)]
    (folder / f"{name}.csv").write_text("\n".join(lines) + "\n")
    forget_tables()


def test_the_own_copy_is_used_cited_and_remembered_by_the_job(folder: Path) -> None:
    before = plan_of(small_text())
    write(folder, kw1_5="3.4")
    assert iec_60947_4_1.rated_motor_current_a(1.5, 400) == 3.4
    plan = plan_of(small_text())
    found = next(v for v in plan.sizing if v.subject == "M1" and v.quantity == "motor_current")
    assert found.value == 3.4 and "the shop's own table: Checked against edition 2023 on paper" in found.source
    assert before.motors["M1"].current == 3.6
    assert plan.job.ledger.tables[NAME].value.startswith(own_tables()[NAME].digest)


def test_a_job_whose_own_table_is_gone_or_changed_is_told(folder: Path) -> None:
    write(folder, kw1_5="3.4")
    job = settle(parse_brief(small_text()))
    released = issue_revision(job, "A")
    assert severities(job) == ["note"]
    write(folder, kw1_5="3.5")
    assert severities(job) == ["should"]
    assert severities(settle(released)) == ["should"], "what was released is held against what it was released with"
    (folder / f"{NAME}.csv").unlink()
    forget_tables()
    assert severities(job) == ["should"]
    assert severities(settle(parse_brief(small_text()))) == []


def severities(job: Job) -> list[str]:
    return [f.severity.value for f in find_all(compute_plan(job)) if f.rule == "own-table" and NAME in f.message]


@pytest.mark.parametrize(
    ("arguments", "sentence"),
    [
        ({"title": "kw,v400"}, "line 1: begin with # and say what the copy was checked against"),
        ({"name": "motor_currents"}, "motor_currents.csv replaces no table: name it after one of"),
        ({"kw1_5": "three"}, "column 'v400': 'three' is no number"),
    ],
)
def test_a_broken_copy_is_refused_with_the_place(folder: Path, arguments: dict[str, str], sentence: str) -> None:
    write(folder, **arguments)  # type: ignore[arg-type]
    with pytest.raises(TableError, match=r".") as error:
        plan_of(small_text())
    assert sentence in str(error.value)


def test_a_copy_without_rows_or_headings_is_refused(folder: Path) -> None:
    for text, sentence in (
        (f"{TITLE}\nkw,v400\n", "has no row below its headings"),
        (f"{TITLE}\nkw\n1\n", "the heading 'v230' is missing"),
    ):
        (folder / f"{NAME}.csv").write_text(text)
        forget_tables()
        with pytest.raises(TableError) as error:
            own_tables()
        assert sentence in str(error.value)
