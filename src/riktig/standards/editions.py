"""Owns which editions of a standard a job may be judged by, and how each counts the clauses that are cited. Must not judge."""

import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib.resources import files

_STANDARD = re.compile(r"\b(?:IEC|ISO|NFPA|UL|NEC|NEMA)\b(?: [0-9]+(?:-[0-9]+)*[A-Z]?)?")


@dataclass(frozen=True, slots=True, kw_only=True)
class Edition:
    """An edition of a standard: its year, its title, and which clauses it counts otherwise than the newest, there -> here."""

    standard: str
    year: str
    title: str
    clauses: Mapping[str, str]

    @property
    def cited(self) -> str:
        """How it is named before a clause."""
        return f"{self.standard}:{self.year}" if self.standard.startswith("IEC") else f"{self.standard} {self.year}"


@cache
def editions_of(standard: str) -> tuple[Edition, ...]:
    """Return the editions of a standard, the newest first; that one is what sources cite where nobody says otherwise.

    Source:
        The numbers of clauses are from memory.
    """
    text = files("riktig.standards").joinpath("editions.toml").read_text(encoding="utf-8")
    rows = (row for row in tomllib.loads(text)["edition"] if row["standard"] == standard)
    return tuple(Edition(clauses=row.pop("clauses", {}), **row) for row in rows)


def edition(standard: str, year: str) -> Edition:
    """Return an edition.

    Raises:
        KeyError: there is none of that year.
    """
    return {one.year: one for one in editions_of(standard)}[year]


@lru_cache(maxsize=4096)
def cite(words: str, years: tuple[tuple[str, str], ...]) -> str:
    """Return a source with its clauses as other editions have them; those of the newest are left as they are.

    Args:
        words: a source that cites the newest editions.
        years: standard and year of the edition by which is judged.
    """
    wanted = {name: edition(name, year) for name, year in years if editions_of(name)[0].year != year}
    if not wanted:
        return words
    starts = [match.start() for match in _STANDARD.finditer(words)]
    pieces = [words[a:b] for a, b in zip([0, *starts], [*starts, len(words)], strict=True)]
    return "".join(_in_edition(piece, wanted) for piece in pieces)


def _in_edition(piece: str, wanted: Mapping[str, Edition]) -> str:
    """Return the clauses of one standard, its name first, as a wanted edition has them."""
    for name, other in wanted.items():
        head = re.match(rf"{re.escape(name)}(?::[0-9]{{4}}(?:\+A[0-9])?)?(?![0-9-])", piece)
        if head is not None:
            return other.cited + _renumbered(piece[head.end() :], other.clauses)
    return piece


def _renumbered(text: str, clauses: Mapping[str, str]) -> str:
    if not clauses:
        return text
    longest_first = sorted(clauses, key=len, reverse=True)
    pattern = rf"(?<![0-9.])(?:{'|'.join(map(re.escape, longest_first))})(?![0-9])"
    return re.sub(pattern, lambda match: clauses[match[0]], text)
