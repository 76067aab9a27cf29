"""Owns reading a live script: a TOML text of steps, documented in docs/live-scripts.md. Must not play it."""

from math import isfinite
from pathlib import Path
from typing import Any

import tomli

from riktig.files.toml_lines import Key, find_lines, line_of
from riktig.job.faults import did_you_mean
from riktig.job.plain import find_unfit
from riktig.job.scripts import MOST_LETTERS, MOST_LINES, MOST_STEPS, FieldBody, Script, Step
from riktig.refusal import Refusal

_OF_SCRIPT, _OF_STEP = ("step", "field", "title"), ("do", "expect", "never")
_FIELD = 'at, low and high are numbers, moves = { "M1 forward" = 0.1, always = -0.01 }, operates = { B1 = "> 0.9" }'


class ScriptFileError(Refusal):
    """A script file that cannot be taken: one line for each fault, with its place."""


def read_script(path: Path) -> tuple[Script, dict[int, int]]:
    """Return a script, and the line of its text on which each step begins, counted from 1 both; 0 is what stands ahead of them.

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
    reader = _Reader(find_lines(text))
    script = reader.read(data)
    if reader.faults:
        raise ScriptFileError("\n".join(f"{path.name}:{line}: {message}" for line, message in sorted(reader.faults)))
    return script, reader.begins


class _Reader:
    """Reads the tables of a script and gathers every fault of them."""

    def __init__(self, lines: dict[Key, int]) -> None:
        self._lines = lines
        self.faults: list[tuple[int, str]] = []
        self.begins = {0: line_of(lines, ("field",))}

    def _refuse(self, at: Key, message: str) -> None:
        self.faults.append((line_of(self._lines, at), message))

    def read(self, data: dict[str, Any]) -> Script:
        for key in data.keys() - set(_OF_SCRIPT):
            self._refuse((key,), f"{key} is no key of a script{did_you_mean(key, _OF_SCRIPT)}: [[step]], [field.NAME]")
        steps, field = data.get("step", []), data.get("field", {})
        if not isinstance(steps, list) or not all(isinstance(row, dict) for row in steps):
            self._refuse(("step",), "write each step as a table of its own: [[step]]")
            steps = []
        elif not steps:
            self._refuse((), 'a script has steps: [[step]] with do = ["push S1"] and expect = ["K1 on"]')
        if len(steps) > MOST_STEPS:
            self._refuse(("step",), f"{len(steps)} steps are too many: {MOST_STEPS} at most, part the script")
            steps = []
        if not isinstance(field, dict) or not all(isinstance(body, dict) for body in field.values()):
            self._refuse(("field",), "what lives along in the field has a table of its own: [field.NAME]")
            field = {}
        title = data.get("title", "")
        if not isinstance(title, str) or find_unfit(title):
            self._refuse(("title",), "title is a text on one line")
            title = ""
        return Script(
            title=title,
            steps=tuple(self._read_step(row, place) for place, row in enumerate(steps)),
            field={name: self._read_field(name, body) for name, body in field.items()},
        )

    def _read_step(self, row: dict[str, Any], place: int) -> Step:
        self.begins[place + 1] = line_of(self._lines, ("step", place))
        read: dict[str, tuple[str, ...]] = {}
        for key, value in row.items():
            at: Key = ("step", place, key)
            if key not in _OF_STEP:
                self._refuse(at, f"{key} is no key of a step{did_you_mean(key, _OF_STEP)}: {', '.join(_OF_STEP)}")
            elif not isinstance(value, list) or not all(isinstance(one, str) for one in value):
                self._refuse(at, f'{key} is a list of texts: {key} = ["..."]')
            elif len(value) > MOST_LINES or any(len(one) > MOST_LETTERS for one in value):
                self._refuse(at, f"{key} has too much: {MOST_LINES} texts of {MOST_LETTERS} letters at most")
            else:
                read[key] = tuple(value)
        return Step(**read)

    def _read_field(self, name: str, table: dict[str, Any]) -> FieldBody:
        read: dict[str, Any] = {}
        for key, value in table.items():
            if key in {"at", "low", "high"} and _is_number(value):
                read[key] = float(value)
            elif key == "moves" and isinstance(value, dict) and all(_is_number(speed) for speed in value.values()):
                read[key] = {claim: float(speed) for claim, speed in value.items()}
            elif (
                key == "operates" and isinstance(value, dict) and all(isinstance(when, str) for when in value.values())
            ):
                read[key] = value
            else:
                self._refuse(("field", name, key), f"{key} is not as it should be: {_FIELD}")
        return FieldBody(**read)


def _is_number(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and isfinite(value) and abs(value) < 1e9
