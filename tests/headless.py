"""Runs the command line as a person does, with Qt blocked, one command in a process or many in one."""

import json
import subprocess
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

_ONE = "import sys; sys.modules['PySide6'] = None; from riktig.main import main; sys.argv[0] = 'riktig'; main()"
_MANY = """
import contextlib, io, json, sys
sys.modules["PySide6"] = None
from riktig.main import main
found = []
for words in json.loads(sys.argv[1]):
    said = io.StringIO()
    sys.argv = ["riktig", *words]
    with contextlib.redirect_stderr(said), contextlib.redirect_stdout(io.StringIO()):
        try:
            main()
            code = 0
        except SystemExit as end:
            code = end.code
    found.append((code, said.getvalue()))
print(json.dumps(found))
"""


def riktig(
    *words: str | Path, cwd: Path | None = None, before: Callable[[], None] | None = None
) -> subprocess.CompletedProcess[str]:
    """Run one command; `before` is called in its process first."""
    command = [sys.executable, "-c", _ONE, *map(str, words)]
    return subprocess.run(command, cwd=cwd, capture_output=True, text=True, check=False, preexec_fn=before)


def riktig_many(commands: Sequence[Sequence[str | Path]], cwd: Path | None = None) -> list[tuple[int, str]]:
    """Run several commands one after the other in one process; return exit and standard error of each."""
    words = json.dumps([[str(word) for word in command] for command in commands])
    run = subprocess.run([sys.executable, "-c", _MANY, words], cwd=cwd, capture_output=True, text=True, check=True)
    return [(code, said) for code, said in json.loads(run.stdout)]
