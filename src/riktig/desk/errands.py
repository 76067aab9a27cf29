"""Owns what the window lets the worker do: read lists, write documents, play kept scripts, judge. Knows no Qt, as the worker does not.

What has `on_share` is a long question: it tells which share is done, and what that raises ends it.
"""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from riktig.checks.finding import Finding
    from riktig.checks.recorded import Recorded
    from riktig.checks.rule import Judged
    from riktig.drawings.display import Drawing
    from riktig.drawings.evidence import Evidence
    from riktig.plan.answers.reconcile import Reconciliation
    from riktig.plan.changes.schedule import ScheduleEdit
    from riktig.plan.plan import Plan

OnShare = Callable[[float], None]


def compare_list(plan: "Plan", /, path: Path, *, on_share: OnShare) -> "Reconciliation | tuple[str, ...]":
    """Return how a from-to list agrees with the circuit, or the faults of its rows."""
    from riktig.files.from_to import read_from_to
    from riktig.files.rows_in import ListError
    from riktig.plan.answers.reconcile import reconcile

    try:
        return reconcile(plan, read_from_to(path, on_share))
    except ListError as error:
        return tuple(str(error).splitlines())


def read_edits(plan: "Plan", /, path: Path, *, on_share: OnShare) -> "tuple[tuple[ScheduleEdit, ...], tuple[str, ...]]":
    """Return what an edited schedule changes, or the faults of its rows."""
    from riktig.files.rows_in import ListError
    from riktig.files.schedule_in import read_schedule

    try:
        return read_schedule(path, plan, on_share), ()
    except ListError as error:
        return (), tuple(str(error).splitlines())


def write_documents(plan: "Plan", /, folder: Path, inputs: tuple[Path, ...], *, on_share: OnShare) -> tuple[int, str]:
    """Write all documents of a plan; return how many, and in a sentence why not, "" where all went well.

    Args:
        plan: what to document.
        folder: made if it is missing.
        inputs: files that must not be written over.
        on_share: is told how far it is after each file; each of these stands whole when another is not written any more.
    """
    from riktig.files.documents import export_documents
    from riktig.refusal import Refusal, sentence_of

    try:
        return len(export_documents(plan, folder, on_share=on_share, inputs=inputs)), ""
    except (Refusal, OSError, MemoryError) as error:
        return 0, sentence_of(error)


def passes(plan: "Plan", /, name: str) -> bool | None:
    """Return whether a script that the job keeps passes on its circuit, None where it keeps none of that name."""
    from riktig.live.scripts import play_kept

    return next((one.passes for one in play_kept(plan, (name,))), None)


def draw_the_door(plan: "Plan", /) -> "Drawing":
    """Return the front of the door."""
    from riktig.drawings.door import draw_door

    return draw_door(plan)


def write_live_sheet(plan: "Plan", /, path: Path, sheet: "Drawing", words: str) -> str:
    """Write a sheet with what is laid over it as a PDF, with words on it; return in a sentence why not, "" where it went well."""
    from riktig.drawings.papers.live_sheet import stamp_live
    from riktig.files.pdf import write_pdf
    from riktig.files.writing import write_whole
    from riktig.refusal import Refusal, sentence_of

    try:
        write_whole(path, partial(write_pdf, (stamp_live(sheet, words),)))
    except (Refusal, OSError, MemoryError) as error:
        return sentence_of(error)
    return ""


def inspect(
    plan: "Plan", /, findings: "tuple[Finding, ...]", units: "tuple[Recorded, ...]" = ()
) -> "tuple[Judged, ...]":
    """Return what each rule comes to by what was found and is recorded, as a window shows it."""
    from riktig.checks.book import verdicts_of
    from riktig.checks.rule import as_shown

    return tuple(as_shown(verdict, plan.job.practice) for verdict in verdicts_of(plan, findings, units))


def show_evidence(plan: "Plan", /, rule: str, subject: str) -> "Evidence":
    """Return the picture of what a rule has found about a subject, or has looked at."""
    from riktig.drawings.evidence import draw_evidence

    return draw_evidence(plan, rule, subject)


def compare_yardstick(plan: "Plan", /, *, name: str) -> tuple[str, ...]:
    """Return in lines what would have to change for the job to stand by another yardstick; nothing where there is none of that name."""
    from riktig.checks.worlds import compare, judged_by
    from riktig.checks.yardsticks import yardsticks

    found = next((one for one in yardsticks(plan.job.practice) if one.name == name), None)
    return compare(plan, judged_by(plan, found)).lines if found is not None else ()
