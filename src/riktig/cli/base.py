"""Owns what all commands share: the application, its arguments, and reading a job. Must not be a command."""

import json
import sys
from pathlib import Path
from typing import Annotated, Any

import typer

from riktig.files.brief_reader import read_brief
from riktig.files.job_file import JobFile
from riktig.job.model import Job
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.record.events import Event

DEFAULT_UNIT = "1"
CAUTION = "A simulation is no proof: the real panel is tested by a competent person."
app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False,
                  help="Riktig plans, documents and tracks motor starter control panels.")  # fmt: skip
JobArgument = Annotated[Path, typer.Argument(metavar="JOB", help="A .riktig job file or a brief (.toml).")]
JsonOption = Annotated[bool, typer.Option("--json", help="Print one JSON document.")]


def read_job(path: Path) -> tuple[Job, tuple[Event, ...]]:
    """Return the Job of a job file or brief, and its events."""
    if path.suffix == ".riktig" or (path.is_file() and _begins_as_job(path)):
        with JobFile.open(path, read_only=True) as file:
            return settle(file.load_job()), file.events()
    return read_brief(path), ()


def _begins_as_job(path: Path) -> bool:
    with path.open("rb") as file:
        return file.read(15) == b"SQLite format 3"


def plan_of(path: Path) -> Plan:
    """Return the Plan of a job file or brief."""
    return compute_plan(read_job(path)[0])


def print_json(value: Any) -> None:
    """Print one JSON document."""
    json.dump(value, sys.stdout, ensure_ascii=False, indent=1)
    sys.stdout.write("\n")
