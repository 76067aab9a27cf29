"""Owns how wide texts are in the shipped fonts, and fitting them to room. Must not draw."""

import re
from functools import cache
from importlib.resources import files

from riktig.drawings.display import EM_PER_HEIGHT, Anchor, Text

DESCENT, ASCENT = 0.3, 1.06
"""How far letters reach below and above the baseline, in letter heights."""
_UNKNOWN = 1000
_AT_HYPHEN = re.compile(r"[^-]+-?|-")


@cache
def _advances() -> dict[str, tuple[int, int, int]]:
    """Return the advance of each character, in thousandths of the em: regular, bold, mono."""
    rows = files("riktig").joinpath("fonts", "advances.csv").read_text("utf-8").splitlines()[1:]
    table = {}
    for row in rows:
        code, *widths = row.split(",")
        table[chr(int(code, 16))] = (int(widths[0]), int(widths[1]), int(widths[2]))
    return table


def text_width(text: str, size: float, *, is_bold: bool = False, is_mono: bool = False) -> float:
    """Return how long a text is in mm; `size` is its letter height in mm."""
    style = 2 if is_mono else 1 if is_bold else 0
    table = _advances()
    units = sum(table[c][style] if c in table else _UNKNOWN for c in text)
    return units / 1000 * size * EM_PER_HEIGHT


def text_box(item: Text) -> tuple[float, float, float, float]:
    """Return the room of a text in mm: left, bottom, right, top."""
    width = text_width(item.text, item.size, is_bold=item.is_bold, is_mono=item.is_mono)
    shift = {Anchor.LEFT: 0.0, Anchor.MIDDLE: -width / 2, Anchor.RIGHT: -width}[item.anchor]
    low, high = -DESCENT * item.size * _has_tail(item.text), ASCENT * item.size
    if item.is_upright:
        return item.x - high, item.y + shift, item.x - low, item.y + shift + width
    return item.x + shift, item.y + low, item.x + shift + width, item.y + high


def _has_tail(text: str) -> bool:
    return any(c in "gjpqy,;Q()[]{}|_µç/" for c in text)


def fit_text(text: str, room: float, size: float, *, is_bold: bool = False, is_mono: bool = False) -> str:
    """Return the text, cut with an ellipsis where it is longer than the room in mm."""
    if text_width(text, size, is_bold=is_bold, is_mono=is_mono) <= room:
        return text
    for length in range(len(text) - 1, 0, -1):
        cut = text[:length].rstrip() + "…"
        if text_width(cut, size, is_bold=is_bold, is_mono=is_mono) <= room:
            return cut
    return ""


def wrap_text(text: str, room: float, size: float, most: int, *, is_bold: bool = False) -> list[str]:
    """Return the text in at most so many lines that each fit the room in mm; a fixed space never parts, a word that is too long does
    at its hyphen. The last line is cut.
    """
    words: list[str] = []
    for word in text.split(" "):
        is_long = text_width(word, size, is_bold=is_bold) > room
        words.extend(_AT_HYPHEN.findall(word) if is_long else [word])
    lines: list[str] = []
    while words and len(lines) < most:
        line = words.pop(0)
        while words and text_width(f"{line} {words[0]}", size, is_bold=is_bold) <= room:
            line = f"{line} {words.pop(0)}"
        if len(lines) == most - 1 and words:
            line = " ".join([line, *words])
        lines.append(fit_text(line.replace("\u00a0", " "), room, size, is_bold=is_bold))
    return [line for line in lines if line]
