"""Owns the entry point: a first word that is a command goes to the command line, all else opens the window."""

import sys
import tempfile
import traceback
from importlib import import_module
from pathlib import Path

from riktig.desk.heap import collect_seldom

INTERNAL_ERROR = 70
_COMMANDS = frozenset(
    {
        "import",
        "export-brief",
        "plan",
        "check",
        "export",
        "status",
        "schema",
        "import-parts",
        "reconcile",
        "take",
        "tables",
        "--help",
    }
)
"""Kept here so that the window starts without loading the command line; a test compares the two."""


def main() -> None:
    """Run Riktig with the words of the command line and leave with its exit code."""
    collect_seldom()
    words = sys.argv[1:]
    if words[:1] and words[0] in _COMMANDS:
        _run_command()
    else:
        sys.exit(import_module("riktig.app.launch").run(words))


def _run_command() -> None:
    try:
        import_module("riktig.cli.commands").app()
    except BrokenPipeError:
        sys.exit(0)
    except Exception:  # noqa: BLE001 the last resort of the command line: keep the report, leave with 70
        report = Path(tempfile.mkstemp(prefix="riktig-report-", suffix=".txt")[1])
        report.write_text(traceback.format_exc(), encoding="utf-8")
        print(f"Riktig has hit an error of its own. A report stands in {report}: please send it.", file=sys.stderr)
        sys.exit(INTERNAL_ERROR)
