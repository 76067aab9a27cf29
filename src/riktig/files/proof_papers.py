"""Owns writing the report of the test of one unit: as PDF and as a workbook. Must not know what is in it."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from riktig.drawings.papers.testing import STEP_COLUMNS, draw_testing, step_row
from riktig.files.pdf import write_pdf
from riktig.files.tables import Table
from riktig.files.writing import WriteError, check_target, kind_of_name, write_whole
from riktig.files.xlsx import write_xlsx
from riktig.plan.plan import Plan
from riktig.prove.coverage import FaultReport, report_faults
from riktig.record.testing import Testing
from riktig.refusal import Refusal


class ReportError(Refusal):
    """A report that cannot be written; one sentence with the mend."""


def write_report(
    plan: Plan, testing: Testing, unit: str, folder: Path, *, on_share: Callable[[float], None] = lambda share: None
) -> tuple[Path, ...]:
    """Write the report of the test of a unit as `test-UNIT.pdf` and `test-UNIT.xlsx`, and every single fault of wiring with the step that
    reveals it first as `test-UNIT-faults.xlsx`; return all.

    Raises:
        ReportError: they may not or cannot be written.
    """
    name = "".join(sign if sign.isalnum() or sign in "-_" else "_" for sign in f"test-{unit}")
    cover = report_faults(plan, testing.steps, plan.job.scripts, on_share)
    headings = ("phase", *(column.heading or "verdict" for column in STEP_COLUMNS))
    rows = tuple((step.phase.value, *step_row(testing, step)) for step in testing.steps)
    fills: dict[str, Callable[[Path], None]] = {
        f"{name}.pdf": partial(write_pdf, draw_testing(plan, testing, unit, cover)),
        f"{name}.xlsx": partial(write_xlsx, Table(name="test", headings=headings, rows=rows)),
        f"{name}-faults.xlsx": partial(write_xlsx, _faults_table(cover)),
    }
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for file, fill in fills.items():
            check_target(folder / file, kind_of_name(file))
            write_whole(folder / file, fill)
    except WriteError as error:
        raise ReportError(str(error)) from error
    except OSError as error:
        raise ReportError(
            f"cannot write {error.filename or folder}: {error.strerror}; choose another folder"
        ) from error
    return tuple(folder / file for file in fills)


def _faults_table(cover: FaultReport) -> Table:
    """Return every fault with what reveals it first and how many steps do, those that nothing reveals first, with the reason."""
    rows = [(fault, "", "never", 0, because) for fault, because in cover.hidden]
    rows += [(one.fault, one.phase.value, one.first, one.count, "") for one in cover.revealed]
    return Table(
        name="faults", headings=("fault", "phase", "first revealed at", "steps", "why never"), rows=tuple(rows)
    )
