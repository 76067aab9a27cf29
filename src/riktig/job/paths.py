"""Owns the grammar of circuit paths: text to tree and back. Must not know which devices exist."""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

MAINS = ("L1", "L2", "L3", "N", "PE")
WORD = r"[A-Za-z][A-Za-z0-9_]*"
_TOKEN = re.compile(r"\s*([>|()]|[^\s>|()\[\]]+(?:\[[^\]]*\])?|\[)")
_POTENTIAL = re.compile(rf"^{WORD}[+-]$")
_WAY_IN = re.compile(rf"^{WORD}\.(?:{'|'.join(MAINS)})$")
_NAMED = re.compile(rf"^@{WORD}$")
_ELEMENT = re.compile(rf"^({WORD}(?:\.{WORD})?)(?::([^\[\]]+))?(?:\[([^\]]*)\])?$")
_MARKS = re.compile(r"^[^\s-]+-[^\s-]+$")
CONTACT_SORTS = ("no", "nc", "co", "tno", "tnc", "aux_no", "aux_nc", "alarm_no", "alarm_nc")
CHANNEL_SORTS = ("di", "do", "ai", "ao")
"""Digital input and output, analogue input and output of a controller: the next free channel of that sort."""
SORTS = frozenset({*CONTACT_SORTS, *CHANNEL_SORTS, "lamp", "coil"})


class PathError(ValueError):
    """A path that cannot be read; `column` counts from 1 in the path's text."""

    def __init__(self, message: str, column: int) -> None:
        super().__init__(message)
        self.message = message
        self.column = column


@dataclass(frozen=True, slots=True, kw_only=True)
class Nodes:
    """One or several potentials side by side: `L1 L2 L3`, `C1+`, `@alarm`."""

    names: tuple[str, ...]
    column: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Ref:
    """An element of a device: `what` is a sort, a selector position, marks such as `13-14`, or None.

    `order` gives, for the i-th outgoing conductor, the place (from 1) in which it leaves.
    """

    device: str
    what: str | None
    order: tuple[int, ...] | None
    column: int

    @property
    def marks(self) -> tuple[str, str] | None:
        """The two marks asked for, None where a sort or nothing is asked for."""
        if self.what is None or self.what in SORTS or "-" not in self.what:
            return None
        left, right = self.what.split("-")
        return left, right


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Branches in parallel, each a series of items."""

    branches: "tuple[tuple[Item, ...], ...]"
    column: int


Item = Nodes | Ref | Group
Path = tuple[Item, ...]


@lru_cache(maxsize=16_384)
def parse_path(text: str, *, is_feeder: bool = False) -> Path:
    """Return the items of a path in series.

    Args:
        text: such as `C1+ > (S9:no | K9:no) > K9:coil > C1-`.
        is_feeder: whether several conductors may run side by side and the path may end in its load.

    Raises:
        PathError: the text does not follow the grammar, or its widths do not agree.
    """
    parser = _Parser(text)
    items = parser.series(top=True)
    if parser.peek() is not None:
        raise PathError(f"'{parser.peek()}' does not belong here: items are joined by '>'", parser.column())
    _check_shape(items, is_feeder)
    return items


class _Parser:
    def __init__(self, text: str) -> None:
        self._tokens: list[tuple[str, int]] = []
        place = 0
        while place < len(text.rstrip()):
            match = _TOKEN.match(text, place)
            if match is None:
                raise PathError(f"'{text[place:].strip()[:1]}' does not belong in a path", place + 1)
            self._tokens.append((match.group(1), match.start(1) + 1))
            place = match.end()
        self._at = 0
        self._end = len(text) + 1

    def peek(self) -> str | None:
        return self._tokens[self._at][0] if self._at < len(self._tokens) else None

    def column(self) -> int:
        return self._tokens[self._at][1] if self._at < len(self._tokens) else self._end

    def series(self, *, top: bool) -> tuple[Item, ...]:
        items = [*self._items()]
        while self.peek() == ">":
            self._at += 1
            items.extend(self._items())
        if not top:
            for end in (items[0], items[-1]):
                if isinstance(end, Nodes):
                    raise PathError(
                        "a branch begins and ends with an element: take the potential out of it", end.column
                    )
        return tuple(items)

    def _items(self) -> tuple[Item, ...]:
        """Return what comes next: one item, or those in brackets round a single branch, which mean nothing."""
        token, column = self.peek(), self.column()
        if token is None or token in ">|)":
            raise PathError("an element or a potential is missing here", column)
        if token == "(":
            return self._group()
        if is_node(token):
            names = []
            while (word := self.peek()) is not None and is_node(word):
                names.append(word)
                self._at += 1
            return (Nodes(names=tuple(names), column=column),)
        self._at += 1
        return (_parse_ref(token, column),)

    def _group(self) -> tuple[Item, ...]:
        column = self.column()
        self._at += 1
        branches = [self.series(top=False)]
        while self.peek() == "|":
            self._at += 1
            branches.append(self.series(top=False))
        if self.peek() != ")":
            raise PathError("this group is not closed: put ')' behind its last branch", column)
        self._at += 1
        return branches[0] if len(branches) == 1 else (Group(branches=tuple(branches), column=column),)


def write_path(items: Path) -> str:
    """Return the text of a path, which reads back equal but for columns."""
    return " > ".join(_write_item(item) for item in items)


def _write_item(item: Item) -> str:
    if isinstance(item, Nodes):
        return " ".join(item.names)
    if isinstance(item, Group):
        return f"({' | '.join(write_path(branch) for branch in item.branches)})"
    what = f":{item.what}" if item.what is not None else ""
    order = f"[{' '.join(str(place) for place in item.order)}]" if item.order is not None else ""
    return f"{item.device}{what}{order}"


def is_node(word: str) -> bool:
    """Return whether a word of a path is a potential: mains, of a way in, of a control supply, or named by @."""
    return word in MAINS or bool(_POTENTIAL.match(word) or _NAMED.match(word) or _WAY_IN.match(word))


def _parse_ref(token: str, column: int) -> Ref:
    match = _ELEMENT.match(token)
    if match is None:
        raise PathError(f"'{token}' is no element: write DEVICE, DEVICE:contact or DEVICE:13-14", column)
    device, what, order_text = match.groups()
    if what is not None and "-" in what and not _MARKS.match(what):
        raise PathError(f"'{what}' is no pair of marks: write them as 13-14", column)
    order = None
    if order_text is not None:
        try:
            order = tuple(int(word) for word in order_text.split())
        except ValueError:
            order = ()
        if sorted(order) != list(range(1, len(order) + 1)) or not order:
            raise PathError(f"[{order_text}] is no order: write each place once, as [3 2 1]", column)
    return Ref(device=device, what=what, order=order, column=column)


def _check_shape(items: Path, is_feeder: bool) -> None:
    first, last = items[0], items[-1]
    if len(items) < 2:
        raise PathError("a path needs two items or more, joined by '>'", first.column)
    if not isinstance(first, Nodes):
        raise PathError("a path begins with a potential such as C1+ or L1", first.column)
    if not isinstance(last, Nodes) and not (is_feeder and isinstance(last, Ref)):
        wanted = "a potential or its load" if is_feeder else "a potential such as C1- or @name"
        raise PathError(f"a path ends in {wanted}", last.column)
    if not is_feeder and len(first.names) > 1:
        raise PathError("a rung has one conductor: use [[feeder]] for several", first.column)
    _check_widths(items, len(first.names))


def _check_widths(items: Path, width: int) -> None:
    for before, item in zip((None, *items), items, strict=False):
        if isinstance(item, Nodes):
            if len(item.names) != width:
                raise PathError(f"{len(item.names)} potentials meet {width} conductors: widths must agree", item.column)
            if isinstance(before, Nodes):
                raise PathError("two potentials side by side with nothing between: put a device there", item.column)
        elif isinstance(item, Ref):
            if item.order is not None and len(item.order) != width:
                raise PathError(f"the order has {len(item.order)} places for {width} conductors", item.column)
            if item.what is not None and width > 1:
                raise PathError(f"{item.device}:{item.what} has one pole for {width} conductors", item.column)
        else:
            for branch in item.branches:
                _check_widths(branch, width)


def refs_of(items: Path) -> tuple[Ref, ...]:
    """Return every element of a path from left to right, those in groups included."""
    return _sorted_leaves(items)[0]


def nodes_of(items: Path) -> tuple[Nodes, ...]:
    """Return every node list of a path from left to right, those in groups included."""
    return _sorted_leaves(items)[1]


_MOST_PATHS = 32_768
_known_leaves: dict[int, tuple[Path, tuple[tuple[Ref, ...], tuple[Nodes, ...]]]] = {}
"""By the identity of a path, which is held as long as it is known here: its elements and node lists. To hash one takes longer."""


def _sorted_leaves(items: Path) -> tuple[tuple[Ref, ...], tuple[Nodes, ...]]:
    known = _known_leaves.get(id(items))
    if known is not None:
        return known[1]
    leaves = tuple(_leaves(items))
    found = tuple(one for one in leaves if isinstance(one, Ref)), tuple(one for one in leaves if isinstance(one, Nodes))
    if len(_known_leaves) >= _MOST_PATHS:
        _known_leaves.clear()
    _known_leaves[id(items)] = items, found
    return found


def with_devices(items: Path, ids: Mapping[str, str]) -> Path:
    """Return a path with devices called by other ids, columns as they were; the very path where none is meant."""
    if not any(ref.device in ids for ref in refs_of(items)):
        return items
    return tuple(_with_devices(item, ids) for item in items)


def _with_devices(item: Item, ids: Mapping[str, str]) -> Item:
    if isinstance(item, Group):
        return replace(item, branches=tuple(with_devices(branch, ids) for branch in item.branches))
    return replace(item, device=ids.get(item.device, item.device)) if isinstance(item, Ref) else item


def _leaves(items: Path) -> Iterator[Nodes | Ref]:
    for item in items:
        if isinstance(item, Group):
            for branch in item.branches:
                yield from _leaves(branch)
        else:
            yield item
