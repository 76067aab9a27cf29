"""Owns a mend that one edit makes: what it writes and where. Must not know what it mends."""

from dataclasses import dataclass

from riktig.job.edits import add_members, change_member, change_part
from riktig.job.model import NAMED_TABLES, SINGLE_TABLES, Job


@dataclass(frozen=True, slots=True, kw_only=True)
class Mend:
    """What is written into a table of the brief; `name` is that of its member, "" of a table that is there once. A member that is not
    there is added. None takes a key out.
    """

    table: str
    name: str = ""
    changes: tuple[tuple[str, str | float | int | bool | None], ...]

    @property
    def words(self) -> str:
        """It as the brief would have it: `[enclosure] inside_rise = 64`."""
        head = f"[{self.table}.{self.name}]" if self.name else f"[{self.table}]"
        keys = ", ".join(
            f"{key} = {_written(value)}" if value is not None else f"without {key}" for key, value in self.changes
        )
        return f"{head} {keys}"


def _written(value: str | float | bool) -> str:
    if isinstance(value, bool):
        return str(value).lower()
    return f'"{value}"' if isinstance(value, str) else f"{value:g}"


def mended(job: Job, mend: Mend) -> Job:
    """Return the Job with a mend made.

    Raises:
        JobError: a value does not fit, as where the job has changed since.
    """
    changes = dict(mend.changes)
    if not mend.name:
        return change_part(job, SINGLE_TABLES[mend.table][0], **changes)
    field, model = NAMED_TABLES[mend.table]
    if any(member.name == mend.name for member in getattr(job, field)):
        return change_member(job, field, mend.name, **changes)
    return add_members(job, field, (model(name=mend.name, **changes),))  # type: ignore[call-arg]
