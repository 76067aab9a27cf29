"""Owns what any value from outside may be at all, before anybody asks what it means. Must not know any table."""

import re
from collections.abc import Mapping
from math import isfinite

MOST_LETTERS, MOST_PATH, MOST_ENTRY, MOST_NUMBER, MOST_MEMBERS = 500, 4_000, 200_000, 1e9, 2_000
"""The longest text of a person in letters, the longest path, the longest text of the ledger, the largest number of any unit, and the
longest list: common sense, no source. What is larger is a slip of the keyboard or of a disk, and would take for ever to draw.
"""
MOST_ROWS = 5_000
"""The most members of one table of a Job, as devices or rungs: ten times a large panel (common sense, no source)."""
_ECHO = 60
_UNSEEN = re.compile("[\x00-\x1f\x7f-\x9f\u2028\u2029\u202a-\u202e\u2066-\u2069\ud800-\udfff\ufdd0-\ufdef\ufffe\uffff]")


def shown(value: object) -> str:
    """Return a value as a sentence shows it: on one line, without what nobody sees, and not at length."""
    text = _UNSEEN.sub("�", value if isinstance(value, str) else str(value))
    return text if len(text) <= _ECHO else f"{text[:_ECHO]}…"


def find_unfit(value: object, most: int = MOST_LETTERS) -> str:
    """Return what is wrong with a value as a sentence with the mend, "" where nothing is.

    Args:
        value: what was read; lists and tables are looked through.
        most: letters that a text may have.
    """
    if isinstance(value, str):
        return _unfit_text(value, most)
    if isinstance(value, int | float) and not isinstance(value, bool):
        if abs(value) > MOST_NUMBER:
            return "it is out of range: no number here is beyond 1e9"
        return "" if isfinite(value) else "it is no number: write one, with a point"
    if isinstance(value, Mapping):
        value = [*value, *value.values()]
    if isinstance(value, list | tuple):
        if len(value) > MOST_MEMBERS:
            return f"these are {len(value)}: at most {MOST_MEMBERS} stand in one place"
        return next((unfit for member in value if (unfit := find_unfit(member, most))), "")
    return ""


def find_too_many(table: object) -> str:
    """Return what is wrong with the number of members of a table, "" where nothing is."""
    if isinstance(table, list | tuple | dict) and len(table) > MOST_ROWS:
        return f"there are {len(table)} of these: a job has {MOST_ROWS} at most, part it"
    return ""


def _unfit_text(text: str, most: int) -> str:
    if len(text) > most:
        return f"'{shown(text)}' has {len(text)} letters: shorten it to {most}"
    unseen = _UNSEEN.search(text)
    if unseen is None:
        return ""
    return f"'{shown(text)}' has the character U+{ord(unseen[0]):04X}, which no paper shows: write it on one line without that"
