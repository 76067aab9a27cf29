"""Owns reading a live script: a TOML text of steps, documented in docs/live-scripts.md. Must not play it."""

from pathlib import Path
from typing import Any

import tomli

from riktig.files.brief_reader import BriefFault, build_table, fault_at
from riktig.files.toml_lines import Key, find_lines, line_of
from riktig.job.faults import did_you_mean
from riktig.job.plain import shown
from riktig.job.scripts import Script
from riktig.refusal import Refusal

_KEYS = ("step", "field", "title")


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
        raise ScriptFileError(f"{path.name}:1: this is no text: a script is TOML in UTF-8") from error
    except RecursionError as error:
        raise ScriptFileError(
            f"{path.name}:1: its lists stand too deep in each other: a script has two levels"
        ) from error
    except tomli.TOMLDecodeError as error:
        raise ScriptFileError(f"{path.name}:1: this is not TOML: {shown(str(error))}") from error
    lines: dict[Key, int] = {
        ("steps", *key[1:]) if key[:1] == ("step",) else key: line for key, line in find_lines(text).items()
    }
    faults: list[BriefFault] = []
    script = _read(data, lines, faults)
    if faults or script is None:
        raise ScriptFileError("\n".join(fault.text(path.name) for fault in sorted(faults, key=lambda one: one.line)))
    return script, {
        0: line_of(lines, ("field",)),
        **{n + 1: line_of(lines, ("steps", n)) for n in range(len(script.steps))},
    }


def _read(data: dict[str, Any], lines: dict[Key, int], faults: list[BriefFault]) -> Script | None:
    """Return the script of a TOML document; what is wrong with it is added to the faults."""
    for key in data:
        if key not in _KEYS:
            faults.append(
                fault_at(lines, (key,), f"no key of a script{did_you_mean(key, _KEYS)}: [[step]], [field.NAME], title")
            )
    if not data.get("step"):
        faults.append(fault_at(lines, (), 'a script has steps: [[step]] with do = ["push S1"] and expect = ["K1 on"]'))
    given = {"steps" if key == "step" else key: value for key, value in data.items() if key in _KEYS}
    found = build_table(Script, given, (), lines, faults)
    return found if isinstance(found, Script) else None
