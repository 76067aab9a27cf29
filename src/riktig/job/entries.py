"""Owns what the texts of the ledger mean, sort by sort: each is read into a value here, at the door, and written from one. Must not
decide any.

Frame and mm as plate and door. A number is kept to the six digits with which it is written, so that what is read again is equal.
"""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields
from math import isfinite
from typing import Any

from riktig.job.ids import TerminalId
from riktig.job.plain import MOST_ENTRY, find_unfit, shown
from riktig.units.numbers import BadNumber, parse_number

RAIL_KEY, DUCT_KEY, SIZE_KEY = "rail:", "duct:", "plate:size"
_ON_PLATE, _ON_DOOR, _ARRANGED, _PROVISIONAL = "plate", "door", "arranged", "provisional"
_SHEET = re.compile(r"^([1-9]\d{1,4}) (\d)$")
_LENGTH = re.compile(r"[0-9]{1,5}(?:\.[0-9]{1,3})?\Z")
_COUNT = re.compile(r"^[1-9]\d{0,2}$")
_DUCT = re.compile(r"^D[1-9]\d{0,2}$")
_WIDEST_DUCT_MM = 1000.0
_CLAMP = re.compile(r"^(\S+):(\d+)$")


class EntryError(ValueError):
    """A text of the ledger that its sort cannot mean; the sentence has the form."""


class _Written:
    """A value with numbers that are kept as they are written."""

    __slots__ = ()

    def __post_init__(self) -> None:
        for field in fields(self):  # type: ignore[arg-type]
            value = getattr(self, field.name)
            if isinstance(value, float):
                object.__setattr__(self, field.name, float(f"{value:g}"))


@dataclass(frozen=True, slots=True)
class OnRail(_Written):
    """A part on a rail, its left edge at `x`."""

    rail: str
    x: float

    def __str__(self) -> str:
        return f"{self.rail} {self.x:g}"


@dataclass(frozen=True, slots=True)
class OnPlate(_Written):
    """A part that is screwed to the plate, its lower left corner."""

    x: float
    y: float

    def __str__(self) -> str:
        return f"{_ON_PLATE} {self.x:g} {self.y:g}"


@dataclass(frozen=True, slots=True)
class OnDoor(_Written):
    """A device on the door, its centre."""

    x: float
    y: float

    def __str__(self) -> str:
        return f"{_ON_DOOR} {self.x:g} {self.y:g}"


Place = OnRail | OnPlate | OnDoor


@dataclass(frozen=True, slots=True)
class HolePlace(_Written):
    """A hole in the lid of a station, a side wall or the entry wall: its centre, from the left and from below or from the back wall."""

    x: float
    y: float

    def __str__(self) -> str:
        return f"{self.x:g} {self.y:g}"


@dataclass(frozen=True, slots=True)
class RailPlace(_Written):
    """A rail: its left end, its centre line, its length."""

    x: float
    y: float
    length: float

    def __str__(self) -> str:
        return f"{self.x:g} {self.y:g} {self.length:g}"


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctPlace(_Written):
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
class PlateSize(_Written):
    """For which plate things have places, and whether somebody laid it out on purpose; while nobody did, which ducts are to be larger than
    usual, each with width and depth.
    """

    width: float
    height: float
    is_arranged: bool
    ducts: tuple[tuple[str, float, float], ...] = ()

    def __str__(self) -> str:
        state = _ARRANGED if self.is_arranged else _PROVISIONAL
        ducts = (f"{code} {width:g} {depth:g}" for code, width, depth in self.ducts)
        return " ".join((f"{self.width:g} {self.height:g} {state}", *ducts))


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
        return self.terminal

    @property
    def terminal(self) -> TerminalId:
        """Its id, such as `X1:3`."""
        return TerminalId(f"{self.strip}:{self.position}")


@dataclass(frozen=True, slots=True)
class Joined:
    """The terminals of a potential, its anchor first; none of a number that is retired."""

    terminals: tuple[TerminalId, ...]

    def __str__(self) -> str:
        return " ".join(self.terminals)


@dataclass(frozen=True, slots=True)
class WirePlace:
    """A wire between two terminals, and where it is laid; its ends in the order of its key."""

    ends: tuple[TerminalId, TerminalId]
    where: str

    def __post_init__(self) -> None:
        first, second = sorted(self.ends)
        object.__setattr__(self, "ends", (first, second))

    def __str__(self) -> str:
        return self.where


@dataclass(frozen=True, slots=True)
class Override:
    """A size that a person set, and why."""

    number: float
    reason: str

    def __post_init__(self) -> None:
        object.__setattr__(self, "number", float(self._written))

    @property
    def _written(self) -> str:
        return f"{self.number:.6f}".rstrip("0").rstrip(".")

    def __str__(self) -> str:
        return f"{self._written} | {self.reason}"


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


def read_hole(text: str) -> HolePlace:
    """Return where a hole is.

    Raises:
        EntryError: it is no place.
    """
    return HolePlace(*_numbers(text, text.split(), 2, "`X Y`"))


def read_count(text: str) -> int:
    """Return how many circuits lie together.

    Raises:
        EntryError: it is no such number.
    """
    if not _COUNT.match(text):
        raise EntryError(f"'{shown(text)}' is none: write how many circuits lie together, 1 to 999")
    return int(text)


def read_mm(text: str) -> float:
    """Return a length in mm.

    Raises:
        EntryError: it is none.
    """
    if not _LENGTH.match(text) or not float(text):
        raise EntryError(f"'{shown(text)}' is no length: write the mm to which it is cut, up to 99999")
    return float(text)


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
    form = "`WIDTH HEIGHT arranged`"
    size, (state, *ducts) = text.split()[:2], text.split()[2:] or [_ARRANGED]
    if state not in {_ARRANGED, _PROVISIONAL}:
        raise EntryError(f"'{shown(text)}' is none: write {form}")
    width, height = _numbers(text, size, 2, form)
    codes, numbers = ducts[::3], [word for k, word in enumerate(ducts) if k % 3]
    form += ", then `D1 WIDTH DEPTH` of each duct that is to be larger than usual"
    sizes = [float(f"{number:g}") for number in _numbers(text, numbers, 2 * len(codes), form)]
    if not all(map(_DUCT.match, codes)) or not all(0 < size <= _WIDEST_DUCT_MM for size in sizes):
        raise EntryError(f"'{shown(text)}' is none: write {form}, in mm up to {_WIDEST_DUCT_MM:g}")
    return PlateSize(width, height, state == _ARRANGED, tuple(zip(codes, sizes[::2], sizes[1::2], strict=True)))


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


def read_terminals(text: str) -> Joined:
    """Return the terminals of a potential.

    Raises:
        EntryError: one of them is no terminal.
    """
    terminals = tuple(map(TerminalId, text.split()))
    wrong = next((terminal for terminal in terminals if not _is_terminal(terminal)), None)
    if wrong is not None:
        raise EntryError(f"'{shown(wrong)}' is no terminal: write them as DEVICE:MARK, one after the other")
    return Joined(terminals)


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


def read_override(text: str) -> Override:
    """Return number and reason of a size that a person set.

    Raises:
        EntryError: there is no number, no reason, or the number is not above zero.
    """
    number, bar, reason = text.partition("|")
    if not bar or not reason.strip():
        raise EntryError(f"'{shown(text)}' has no reason: write \"number | reason\"")
    try:
        value = parse_number(number)
    except BadNumber as error:
        raise EntryError(str(error)) from error
    if value <= 0:
        raise EntryError(f"{value:g} is no size: give a number above 0")
    return Override(value, reason.strip())


def _read_place_of(key: str, text: str) -> object:
    if key.startswith(RAIL_KEY):
        return read_rail(text)
    if key.startswith(DUCT_KEY):
        return read_duct(text)
    return read_size(text) if key == SIZE_KEY else read_place(text)


def _read_link(key: str, text: str) -> WirePlace:
    return WirePlace(read_pair(key), _read_word(key, text))


def _read_clamp_of(key: str, text: str) -> ClampPlace:
    if "|" not in key:
        raise EntryError(f"'{shown(key)}' is no conductor: write `PLACE|NUMBER`")
    return read_clamp(text)


def _read_word(_key: str, text: str) -> str:
    if not text.strip():
        raise EntryError("there is nothing in it: write what it is, or leave the key out")
    return text


_READERS: Mapping[str, Callable[[str, str], Any]] = {
    "tags": _read_word,
    "parts": _read_word,
    "contacts": _read_word,
    "numbers": lambda _, text: read_terminals(text),
    "clamps": _read_clamp_of,
    "cables": _read_word,
    "links": _read_link,
    "places": _read_place_of,
    "values": lambda _, text: read_override(text),
    "sheets": lambda _, text: read_sheet(text),
    "holes": lambda _, text: read_hole(text),
    "groups": lambda _, text: read_count(text),
    "lots": lambda _, text: read_mm(text),
}
"""The codec of each sort of the ledger; those of `tables` and `texts` are words as they stand."""


def read_entry(sort: str, key: str, text: str) -> Any:
    """Return what a text under a key of a sort of the ledger means.

    Raises:
        EntryError: it cannot mean that.
    """
    unfit = find_unfit(key) or find_unfit(text, MOST_ENTRY)
    if unfit:
        raise EntryError(unfit)
    read = _READERS.get(sort)
    return read(key, text) if read is not None else text
