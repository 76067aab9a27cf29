"""Owns what a person may change in a schedule that was handed out: numbers, order, names, remarks. Must not read files."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from riktig.job.edits import replace
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.model import Job
from riktig.plan.changes.numbers import take_numbers
from riktig.plan.changes.strips import clamps_of, place_clamps
from riktig.plan.settle import settle


class EditSort(StrEnum):
    """What an edit changes."""

    NUMBER = "number"
    ORDER = "order"
    NAME = "name"
    REMARK = "remark"


@dataclass(frozen=True, slots=True, kw_only=True)
class ScheduleEdit:
    """One change: `key` is a number, a strip, a cable run, or what a remark is about; `line` the row that asks for it, `about`
    its subject in words.

    `before` and `after` are a number, the terminals of a strip from left to right, a cable's name, or a remark.
    """

    sort: EditSort
    key: str
    before: str
    after: str
    line: int
    about: str = ""

    @property
    def text(self) -> str:
        """It in words; of an order the terminals that move, by what they are called now."""
        if self.sort is EditSort.ORDER:
            places = zip(self.after.split(), self.before.split(), strict=True)
            moved = [f"{old} to place {at}" for at, (old, there) in enumerate(places, 1) if old != there]
            return f"strip {self.key}: {', '.join(moved)}"
        what = {EditSort.NUMBER: "wire number", EditSort.NAME: "cable"}
        subject = what.get(self.sort, f"remark on {self.about}:")
        return f"{subject} {self.before or '(none)'} → {self.after or '(none)'}"


def apply_edits(job: Job, edits: Sequence[ScheduleEdit]) -> Job:
    """Return the settled Job with the changes of an edited schedule; all or none.

    Raises:
        JobError: one of them does not fit.
    """
    for edit in edits:
        if edit.sort is EditSort.ORDER:
            order = edit.after.split()
            moved = [new for new, old in zip(order, clamps_of(job, edit.key), strict=True) if new != old]
            job = place_clamps(job, edit.key, order, moved)
    texts, cables = dict(job.ledger.texts), dict(job.ledger.cables)
    for edit in edits:
        if edit.sort is EditSort.REMARK:
            texts.pop(edit.key, None)
            if edit.after:
                texts[edit.key] = Choice(edit.after, ChoiceState.KEPT)
        elif edit.sort is EditSort.NAME:
            cables[edit.key] = Choice(edit.after, ChoiceState.KEPT)
    job = settle(replace(job, ledger=replace(job.ledger, texts=texts, cables=cables)))
    numbers = {edit.before: edit.after for edit in edits if edit.sort is EditSort.NUMBER}
    return take_numbers(job, numbers) if numbers else job
