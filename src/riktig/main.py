"""Owns the entry point: a first word that is a command goes to the command line, all else opens the window."""

import os
import signal
import sys
import tempfile
import traceback
from importlib import import_module
from pathlib import Path

from riktig import VERSION
from riktig.desk.heap import collect_seldom
from riktig.refusal import Stopped, sentence_of

BAD_INPUT, INTERNAL_ERROR, STOPPED = 2, 70, 130
_COMMANDS = frozenset(
    {
        "import",
        "export-brief",
        "rescue",
        "plan",
        "check",
        "export",
        "print",
        "printer",
        "live",
        "derive-tests",
        "test-plan",
        "test-report",
        "meter",
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
    """The one edge of the command line: every refusal becomes its sentence and exit code here."""
    signal.signal(signal.SIGINT, _stop)
    try:
        import_module("riktig.cli.printing")
        import_module("riktig.cli.testing")
        import_module("riktig.cli.commands").app()
    except BrokenPipeError:
        sys.exit(0)
    except Stopped:
        print("\nstopped: no file is half written", file=sys.stderr)
        sys.exit(STOPPED)
    except Exception as error:  # noqa: BLE001 the last resort of the command line: keep the report, leave with 70
        refused = sentence_of(error)
        if refused:
            print(refused, file=sys.stderr)
            sys.exit(BAD_INPUT)
        report = Path(tempfile.mkstemp(prefix="riktig-report-", suffix=".txt")[1])
        report.write_text(report_of(error, is_whole="RIKTIG_WHOLE_REPORT" in os.environ), encoding="utf-8")
        print(
            f"Riktig has hit an error of its own. A report without words of your job stands in {report}: please send it "
            "(RIKTIG_WHOLE_REPORT=1 puts them in).",
            file=sys.stderr,
        )
        sys.exit(INTERNAL_ERROR)


def _stop(*_: object) -> None:
    raise Stopped


def report_of(error: BaseException, *, is_whole: bool) -> str:
    """Return where an error came from; what it says may hold words of the job, and stands there only if it is to be whole."""
    if is_whole:
        return "".join(traceback.format_exception(error))
    frames = traceback.format_list(traceback.extract_tb(error.__traceback__))
    return f"Riktig {VERSION}\n{''.join(frames)}{type(error).__name__}\n"
