"""Owns writing a Job as a brief that reads back equal. Format 1, as `brief_reader`."""

from collections.abc import Iterable
from pathlib import Path
from typing import Any

import tomlkit
from pydantic import BaseModel
from tomlkit.items import Table

from riktig.files.brief_reader import FORMAT
from riktig.files.writing import FileKind, write_text
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.model import NAMED_TABLES, ROW_TABLES, SHARED_BY_GROUPS, SINGLE_TABLES, Control, Job

_BARE = ("phase_lamps", "pass_through")
"""Tables that say something by being there."""


def save_brief(job: Job, target: Path, inputs: Iterable[Path] = ()) -> None:
    """Write the Job as a brief to a file, whole or not at all.

    Args:
        job: the Job.
        target: a new file, or a brief that it replaces.
        inputs: files that the Job was read from; none of them is written over.

    Raises:
        WriteError: it may not or cannot be written; what stood there is left as it was.
    """
    write_text(target, write_brief(job), FileKind.BRIEF, inputs)


def write_brief(job: Job) -> str:
    """Return the Job as TOML; keys at their default are left out, kept choices stand in [kept.*]."""
    document = tomlkit.document()
    document["brief"] = FORMAT
    info = _table(job.info)
    if job.revision is not None:
        info["revision"] = job.revision
    document["job"] = info
    for name, (field, _) in SINGLE_TABLES.items():
        model = getattr(job, field)
        table = _table(model) if model is not None else tomlkit.table()
        is_bare = name in _BARE and model is not None
        if name != "job" and (table or is_bare):
            document[name] = table
    for name, (field, _) in NAMED_TABLES.items():
        members = getattr(job, field)
        if members:
            group = tomlkit.table(is_super_table=True)
            for member in members:
                table = _table(member)
                group[str(table.pop("name"))] = table
            document[name] = group
    for name, (field, _) in ROW_TABLES.items():
        rows = getattr(job, field)
        if rows:
            array = tomlkit.aot()
            for place, row in enumerate(rows, start=1):
                table = tomlkit.table()
                if row.name != f"{name}{place}":
                    table["name"] = row.name
                table.update({key: value for key, value in _table(row).items() if key != "name"})
                array.append(table)
            document[name] = array
    text = tomlkit.dumps(document)
    return text + _kept_text(job)


def _table(model: BaseModel) -> Table:
    table = tomlkit.table()
    shared = SHARED_BY_GROUPS if isinstance(model, Control) and model.group_of is not None else ()
    for key, value in model.model_dump(mode="json", exclude_defaults=True, exclude=set(shared)).items():
        if key == "from_lines":
            table["from"] = " ".join(value)
        elif key == "from_refs":
            table["from"] = list(value)
        else:
            table[key] = _plain(value)
    return table


def _plain(value: Any) -> Any:
    if isinstance(value, dict):
        inline = tomlkit.inline_table()
        inline.update({key: _plain(entry) for key, entry in value.items()})
        return inline
    return int(value) if isinstance(value, float) and value.is_integer() else value


def _kept_text(job: Job) -> str:
    """Return the ledger's tables; written line by line, since there are thousands of lines in a large job."""
    blocks: list[str] = []
    for sort in type(job.ledger).model_fields:
        choices = getattr(job.ledger, sort)
        if choices:
            lines = [f"{tomlkit.string(key).as_string()} = {_choice(choice)}" for key, choice in choices.items()]
            blocks.append("\n".join([f"\n[kept.{sort}]", *lines]) + "\n")
    return "".join(blocks)


def _choice(choice: Choice[Any]) -> str:
    value = tomlkit.string(str(choice.value)).as_string()
    return value if choice.state is ChoiceState.KEPT else f"{{ {choice.state.value} = {value} }}"
