"""Owns the order of the start: the worker process first, then Qt, so that both load side by side. Knows no Qt."""

import sys

from riktig.desk.heap import hold_off
from riktig.desk.helper import start_helper

USAGE = "usage: riktig [FILE.riktig] | riktig --demo [iec|ul] [--dark] | riktig COMMAND ...; see riktig --help"


def run(words: list[str]) -> int:
    """Open the window and return the exit code; 2 for words that mean nothing.

    Args:
        words: a job file, or `--demo` with `iec` or `ul`; `--dark` for the dark look.
    """
    rest = [word for word in words if word != "--dark"]
    if rest[:1] == ["--demo"]:
        is_known = len(rest) <= 2 and rest[1:] in ([], ["iec"], ["ul"])
    else:
        is_known = len(rest) <= 1 and not any(word.startswith("-") for word in rest)
    if not is_known:
        print(USAGE, file=sys.stderr)
        return 2
    hold_off()
    helper = start_helper(is_bare=True)
    from riktig.app.main import run_window

    return run_window(words, helper)
