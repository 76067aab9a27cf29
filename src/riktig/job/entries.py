"""Owns what the texts of the ledger mean, sort by sort: each is read into a value and written from one here alone. Must not decide any.

Frame and mm as plate and door.
"""

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from math import isfinite

from riktig.job.faults import Fault
from riktig.job.ids import TerminalId
from riktig.job.ledger import Ledger
from riktig.job.plain import MOST_ENTRY, find_unfit, shown

RAIL_KEY, DUCT_KEY, SIZE_KEY = "rail:", "duct:", "plate:size"
_ON_PLATE, _ON_DOOR, _ARRANGED, _PROVISIONAL = "plate", "door", "arranged", "provisional"
_SHEET = re.compile(r"^([1-9]\d{1,4}) (\d)$")
_CLAMP = re.compile(r"^(\S+):(\d+)$")


class EntryError(ValueError):
    """A text of the ledger that its sort cannot mean; the sentence has the form."""


@dataclass(frozen=True, slots=True)
class OnRail:
    """A part on a rail, its left edge at `x`."""

    rail: str
    x: float

    def __str__(self) -> str:
        return f"{self.rail} {self.x:g}"


@dataclass(frozen=True, slots=True)
class OnPlate:
    """A part that is screwed to the plate, its lower left corner."""

    x: float
    y: float

    def __str__(self) -> str:
        return f"{_ON_PLATE} {self.x:g} {self.y:g}"


@dataclass(frozen=True, slots=True)
class OnDoor:
    """A device on the door, its centre."""

    x: float
    y: float

    def __str__(self) -> str:
        return f"{_ON_DOOR} {self.x:g} {self.y:g}"


Place = OnRail | OnPlate | OnDoor


@dataclass(frozen=True, slots=True)
class RailPlace:
    """A rail: its left end, its centre line, its length."""

    x: float
    y: float
    length: float

    def __str__(self) -> str:
        return f"{self.x:g} {self.y:g} {self.length:g}"


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctPlace:
    """A duct: its lower left corner, along it, across it, and out from the plate."""

    is_vertical: bool
    x: float
    y: float
    length: float
    width: float
    depth: float

    def __str__(self) -> str:
        way = "v" if self.is_vertical else "h"
        return f"{way} {self.x:g} {self.y:g} {self.length:g} {self.width:g} {self.depth:g}"


@dataclass(frozen=True, slots=True)
class PlateSize:
    """For which plate things have places, and whether somebody laid it out on purpose."""

    width: float
    height: float
    is_arranged: bool

    def __str__(self) -> str:
        return f"{self.width:g} {self.height:g} {_ARRANGED if self.is_arranged else _PROVISIONAL}"


@dataclass(frozen=True, slots=True)
class SheetPlace:
    """A figure on a sheet, in its first lane."""

    sheet: int
    lane: int

    def __str__(self) -> str:
        return f"{self.sheet} {self.lane}"


@dataclass(frozen=True, slots=True)
class ClampPlace:
    """A terminal of a strip, bar or block."""

    strip: str
    position: int

    def __str__(self) -> str:
        return f"{self.strip}:{self.position}"


def read_place(text: str) -> Place:
    """Return where a part or device stands.

    Raises:
        EntryError: it is no place.
    """
    head, *rest = text.split() or [""]
    if head == _ON_DOOR:
        return OnDoor(*_numbers(text, rest, 2, "`door X Y`"))
    if head == _ON_PLATE:
        return OnPlate(*_numbers(text, rest, 2, "`plate X Y`"))
    return OnRail(head, *_numbers(text, rest, 1, "`R1 X`, `plate X Y` or `door X Y`"))


def is_on_door(text: str) -> bool:
    """Return whether a place is one on the door."""
    return text.startswith(f"{_ON_DOOR} ")


def read_rail(text: str) -> RailPlace:
    """Return where a rail lies.

    Raises:
        EntryError: it is no rail.
    """
    return RailPlace(*_numbers(text, text.split(), 3, "`X Y LENGTH`"))


def read_duct(text: str) -> DuctPlace:
    """Return where a duct lies.

    Raises:
        EntryError: it is no duct.
    """
    form = "`h X Y LENGTH WIDTH DEPTH`, or v for an upright one"
    way, *rest = text.split() or [""]
    if way not in {"h", "v"}:
        raise EntryError(f"'{shown(text)}' is none: write {form}")
    x, y, length, width, depth = _numbers(text, rest, 5, form)
    return DuctPlace(is_vertical=way == "v", x=x, y=y, length=length, width=width, depth=depth)


def read_size(text: str) -> PlateSize:
    """Return for which plate things have places; what an earlier version left unsaid was arranged.

    Raises:
        EntryError: it is no size.
    """
    *size, state = text.split() if len(text.split()) > 2 else [*text.split(), _ARRANGED]
    if state not in {_ARRANGED, _PROVISIONAL}:
        raise EntryError(f"'{shown(text)}' is none: write `WIDTH HEIGHT arranged`")
    width, height = _numbers(text, size, 2, "`WIDTH HEIGHT arranged`")
    return PlateSize(width, height, state == _ARRANGED)


def read_sheet(text: str) -> SheetPlace:
    """Return on which sheet and lane a figure stands.

    Raises:
        EntryError: it is neither.
    """
    match = _SHEET.match(text)
    if match is None:
        raise EntryError(f"'{shown(text)}' is none: write `SHEET LANE`, a sheet from 10 and a lane from 0 to 9")
    return SheetPlace(int(match[1]), int(match[2]))


def read_clamp(text: str) -> ClampPlace:
    """Return which terminal of a strip, bar or block it is.

    Raises:
        EntryError: it is none.
    """
    match = _CLAMP.match(text)
    if match is None:
        raise EntryError(f"'{shown(text)}' is none: write `STRIP:NUMBER`, as X1:3")
    return ClampPlace(match[1], int(match[2]))


def read_terminals(text: str) -> tuple[TerminalId, ...]:
    """Return the terminals of a potential, its anchor first; none of a number that is retired.

    Raises:
        EntryError: one of them is no terminal.
    """
    terminals = tuple(map(TerminalId, text.split()))
    wrong = next((terminal for terminal in terminals if not _is_terminal(terminal)), None)
    if wrong is not None:
        raise EntryError(f"'{shown(wrong)}' is no terminal: write them as DEVICE:MARK, one after the other")
    return terminals


def write_terminals(terminals: tuple[TerminalId, ...]) -> str:
    """Return what the ledger has of a number."""
    return " ".join(terminals)


def read_pair(key: str) -> tuple[TerminalId, TerminalId]:
    """Return the two terminals of a link from its key.

    Raises:
        EntryError: they are not two.
    """
    ends = key.split()
    if len(ends) != 2 or not all(map(_is_terminal, ends)):
        raise EntryError(f"'{shown(key)}' is no pair of terminals: write `DEVICE:MARK DEVICE:MARK`")
    return TerminalId(ends[0]), TerminalId(ends[1])


def _is_terminal(text: str) -> bool:
    device, colon, mark = text.rpartition(":")
    return bool(device and colon and mark)


def _numbers(text: str, words: list[str], count: int, form: str) -> list[float]:
    """Return the words as so many numbers."""
    try:
        found = [float(word) for word in words]
    except ValueError:
        found = []
    if len(found) != count or not all(map(isfinite, found)):
        raise EntryError(f"'{shown(text)}' is none: write {form}, in mm")
    return found


def _check_place(key: str, text: str) -> None:
    if key.startswith(RAIL_KEY):
        read_rail(text)
    elif key.startswith(DUCT_KEY):
        read_duct(text)
    elif key == SIZE_KEY:
        read_size(text)
    else:
        read_place(text)


def _check_link(key: str, text: str) -> None:
    read_pair(key)
    _check_word(key, text)


def _check_clamp(key: str, text: str) -> None:
    if "|" not in key:
        raise EntryError(f"'{shown(key)}' is no conductor: write `PLACE|NUMBER`")
    read_clamp(text)


def _check_word(key: str, text: str) -> None:
    if not text.strip():
        raise EntryError("there is nothing in it: write what it is, or leave the key out")


_CHECKS: Mapping[str, Callable[[str, str], object]] = {
    "tags": _check_word,
    "parts": _check_word,
    "contacts": _check_word,
    "numbers": lambda _, text: read_terminals(text),
    "clamps": _check_clamp,
    "cables": _check_word,
    "links": _check_link,
    "places": _check_place,
    "sheets": lambda _, text: read_sheet(text),
}
"""What each sort of the ledger may hold; `values` are judged with the sizes (`overrides`), `tables` and `texts` are words."""


def check_entry(sort: str, key: str, text: str) -> None:
    """Return if a sort of the ledger may hold a text under a key.

    Raises:
        EntryError: it cannot mean that.
    """
    unfit = find_unfit(key) or find_unfit(text, MOST_ENTRY)
    if unfit:
        raise EntryError(unfit)
    check = _CHECKS.get(sort)
    if check is not None:
        check(key, text)


def find_entry_faults(ledger: Ledger) -> Iterator[Fault]:
    """Yield what in a ledger its sorts cannot mean."""
    for sort in Ledger.model_fields:
        for key, choice in getattr(ledger, sort).items():
            try:
                check_entry(sort, key, choice.value)
            except EntryError as error:
                yield Fault(at=("kept", sort, key), message=str(error))
