"""Owns finding the line on which a key of a TOML text stands. Must not know what the keys mean."""

import re

Key = tuple[str | int, ...]
_HEADER = re.compile(r"^\s*(\[\[?)\s*([^\[\]]+?)\s*\]\]?\s*(#.*)?$")
_KEY = re.compile(r"""^\s*((?:"[^"]*"|'[^']*'|[\w+.-])+)\s*=""")
_PART = re.compile(r""""([^"]*)"|'([^']*)'|([\w+-]+)""")


def find_lines(text: str) -> dict[Key, int]:
    """Return the line number (from 1) of each table and key; an array of tables counts its members from 0."""
    lines: dict[Key, int] = {(): 1}
    counts: dict[Key, int] = {}
    table: Key = ()
    depth = 0
    for number, line in enumerate(text.split("\n"), start=1):
        header = _HEADER.match(line) if depth == 0 else None
        if header:
            table = _parts(header[2])
            if header[1] == "[[":
                index = counts.get(table, -1) + 1
                counts[table] = index
                lines.setdefault(table, number)
                table = (*table, index)
            lines.setdefault(table, number)
            continue
        match = _KEY.match(line) if depth == 0 else None
        if match:
            lines.setdefault((*table, *_parts(match[1])), number)
        depth = max(0, depth + _opened(line))
    return lines


def line_of(lines: dict[Key, int], key: Key) -> int:
    """Return the line of a key, or of the nearest table around it."""
    while key not in lines:
        key = key[:-1]
    return lines[key]


def _parts(text: str) -> Key:
    return tuple(a or b or c for a, b, c in _PART.findall(text))


def _opened(line: str) -> int:
    """Return how many brackets a line leaves open, those in strings and comments aside."""
    bare = re.sub(r""""(?:\\.|[^"\\])*"|'[^']*'""", "", line).split("#")[0]
    return bare.count("[") + bare.count("{") - bare.count("]") - bare.count("}")
