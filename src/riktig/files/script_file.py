"""Owns reading a live script: a TOML text of steps, documented in docs/live-scripts.md. Must not play it."""

from pathlib import Path
from typing import Any

import tomli

from riktig.files.toml_lines import Key, find_lines, line_of
from riktig.job.faults import did_you_mean
from riktig.live.scripts import Step
from riktig.refusal import Refusal

_KEYS = ("do", "expect", "never")
MOST_STEPS, MOST_LINES, MOST_LETTERS = 2000, 200, 200
"""The most steps of a script, lines of one of its lists, and letters of one (common sense, no source)."""


class ScriptFileError(Refusal):
    """A script file that cannot be taken: one line for each fault, with its place."""


def read_script(path: Path) -> tuple[tuple[Step, ...], dict[int, int]]:
    """Return the steps of a script file, and the line of the text on which each begins, counted from 1 both.

    Raises:
        ScriptFileError: the text has faults.
        OSError: the file cannot be read.
    """
    try:
        text = path.read_bytes().decode("utf-8")
        data = tomli.loads(text)
    except UnicodeDecodeError as error:
        raise ScriptFileError(f"{path.name}: this is no text: a script is TOML in UTF-8") from error
    except RecursionError as error:
        raise ScriptFileError(
            f"{path.name}: its lists stand too deep in each other: a script has two levels"
        ) from error
    except tomli.TOMLDecodeError as error:
        raise ScriptFileError(f"{path.name}: {error}") from error
    lines = find_lines(text)
    faults: list[tuple[int, str]] = []
    for key in data.keys() - {"step", "title"}:
        faults.append(
            (line_of(lines, (key,)), f"{key} is no key of a script{did_you_mean(key, ('step', 'title'))}: [[step]]")
        )
    rows = data.get("step", [])
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        faults.append((line_of(lines, ("step",)), "write each step as a table of its own: [[step]]"))
        rows = []
    elif not rows:
        faults.append((1, 'a script has steps: [[step]] with do = ["push S1"] and expect = ["K1 on"]'))
    if len(rows) > MOST_STEPS:
        faults.append((1, f"{len(rows)} steps are too many: {MOST_STEPS} at most, part the script"))
        rows = rows[:MOST_STEPS]
    steps = tuple(_read_step(row, ("step", place), lines, faults) for place, row in enumerate(rows))
    if faults:
        raise ScriptFileError("\n".join(f"{path.name}:{line}: {message}" for line, message in sorted(faults)))
    return steps, {place + 1: line_of(lines, ("step", place)) for place in range(len(steps))}


def _read_step(row: dict[str, Any], at: Key, lines: dict[Key, int], faults: list[tuple[int, str]]) -> Step:
    read: dict[str, tuple[str, ...]] = {}
    for key, value in row.items():
        line = line_of(lines, (*at, key))
        if key not in _KEYS:
            faults.append((line, f"{key} is no key of a step{did_you_mean(key, _KEYS)}: {', '.join(_KEYS)}"))
        elif not isinstance(value, list) or not all(isinstance(one, str) for one in value):
            faults.append((line, f'{key} is a list of texts: {key} = ["..."]'))
        elif len(value) > MOST_LINES or any(len(one) > MOST_LETTERS for one in value):
            faults.append((line, f"{key} has too much: {MOST_LINES} texts of {MOST_LETTERS} letters at most"))
        else:
            read[key] = tuple(value)
    return Step(**read)
