"""Owns which element of a device each mention in a path uses. Must not choose parts."""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from riktig.catalogue.model import CHANGEOVERS, CONSUMER_KINDS, LANE_KINDS, Element, ElementKind, Part
from riktig.job.ledger import Choices
from riktig.job.paths import SORTS, Group, Nodes, Path, Ref, refs_of
from riktig.plan.basis.union import UnionFind
from riktig.plan.circuit.model import Circuit

_SORT_KINDS = {
    "no": (ElementKind.NO, ElementKind.CO),
    "nc": (ElementKind.NC, ElementKind.CO),
    "co": (ElementKind.CO,),
    "tno": (ElementKind.TIMED_NO, ElementKind.TIMED_CO),
    "tnc": (ElementKind.TIMED_NC, ElementKind.TIMED_CO),
    "aux_no": (ElementKind.AUX_NO,),
    "aux_nc": (ElementKind.AUX_NC,),
    "alarm_no": (ElementKind.ALARM_NO,),
    "alarm_nc": (ElementKind.ALARM_NC,),
    "di": (ElementKind.INPUT,),
    "do": (ElementKind.OUTPUT,),
    "ai": (ElementKind.ANALOG_IN,),
    "ao": (ElementKind.ANALOG_OUT,),
}
_BREAKS = frozenset({"nc", "tnc"})
_ANY_CONTACT = (ElementKind.NO, ElementKind.NC, ElementKind.CO)
_ONE_OF_ITS_KIND = {"coil": ElementKind.COIL, "lamp": ElementKind.LAMP}


@dataclass(frozen=True, slots=True, kw_only=True)
class Use:
    """One mention of a device in a path; `key` stays the same while the path does. `width` in conductors.

    `left` and `right` are the points of the circuit on both its sides, "" where several conductors pass: mentions with the same point
    are joined there by wire alone.
    """

    key: str
    device: str
    ref: Ref
    width: int
    is_feeder: bool
    left: str = ""
    right: str = ""

    @property
    def path(self) -> str:
        """The key of the path that it stands in."""
        return self.key.split("|", 1)[0]

    @property
    def mention(self) -> tuple[str, int]:
        """Where it stands: the key of its path and its column there."""
        return self.path, self.ref.column

    @property
    def position(self) -> str | None:
        """The selector position that it asks for, None where it asks for something else."""
        what = self.ref.what
        return None if what is None or what in SORTS or self.ref.marks is not None else what

    @property
    def wants_contact(self) -> bool:
        """Whether it asks for a contact or channel by sort, position or marks."""
        return self.ref.what is not None and self.ref.what not in _ONE_OF_ITS_KIND


@dataclass(slots=True)
class Demand:
    """What the paths ask of one device."""

    sorts: Counter[str] = field(default_factory=Counter)
    marks: set[tuple[str, str]] = field(default_factory=set)
    poles: int = 0


def find_uses(circuit: Circuit) -> tuple[Use, ...]:
    """Return every mention of a device in drawing order."""
    found: list[Use] = []
    points = _Points(circuit)
    for path in circuit.paths:
        first = path.items[0]
        width = len(first.names) if isinstance(first, Nodes) else 1
        seen: Counter[str] = Counter()
        for ref in refs_of(path.items):
            mention = f"{ref.device}:{ref.what or ''}"
            seen[mention] += 1
            key = f"{path.key}|{mention}|{seen[mention]}"
            left, right = points.beside(path.key, ref) if width == 1 else ("", "")
            found.append(
                Use(key=key, device=ref.device, ref=ref, width=width, is_feeder=path.is_power, left=left, right=right)
            )
    return tuple(found)


class _Points:
    """The points at which the mentions of one-wire paths meet, called by the smallest name or mention there."""

    def __init__(self, circuit: Circuit) -> None:
        self._joined = UnionFind[str]()
        for a, b in circuit.joins:
            self._joined.join(f"={b}", f"={a}")
        self._points: dict[str, None] = {}
        for path in circuit.paths:
            first = path.items[0]
            if not isinstance(first, Nodes) or len(first.names) == 1:
                self._walk(path.key, path.items, "")
        names: dict[str, str] = {}
        for point in sorted(self._points):
            names.setdefault(self._joined.find(point), point)
        self._names = names

    def _walk(self, path: str, items: Path, point: str) -> str:
        for item in items:
            if isinstance(item, Group):
                ends = [self._walk(path, branch, point) for branch in item.branches]
                for end in ends[1:]:
                    self._joined.join(ends[0], end)
                point = ends[0]
            else:
                left, right = (f"={item.names[0]}",) * 2 if isinstance(item, Nodes) else _sides(path, item)
                self._points |= {left: None, right: None}
                if point:
                    self._joined.join(point, left)
                point = right
        return point

    def beside(self, path: str, ref: Ref) -> tuple[str, str]:
        """Return the points on the left and on the right of a mention."""
        left, right = _sides(path, ref)
        return self._names[self._joined.find(left)], self._names[self._joined.find(right)]


def _sides(path: str, ref: Ref) -> tuple[str, str]:
    return f"{path}|{ref.column}<", f"{path}|{ref.column}>"


def demand_of(uses: Iterable[Use]) -> Demand:
    """Return what the uses of one device ask for."""
    demand = Demand()
    for use in uses:
        if use.ref.marks is not None:
            demand.marks.add(use.ref.marks)
        elif use.ref.what is not None:
            demand.sorts[use.ref.what] += 1
        elif use.is_feeder:
            demand.poles = max(demand.poles, use.width)
        else:
            demand.sorts["any"] += 1
    return demand


def holds_marks(element: Element, marks: tuple[str, str]) -> bool:
    """Return whether both marks belong to the element."""
    return marks[0] in element.marks and marks[1] in element.marks


def allocate_device(uses: Sequence[Use], part: Part, kept: Choices, positions: tuple[str, ...] = ()) -> dict[str, str]:
    """Return for each use that a contact could be found for, in drawing order, the marks `left-right` it takes.

    Marks asked for by name come first, then choices that still hold, then the next free element. A use that
    is missing from the result found none: the part is too small for it.

    Args:
        uses: the mentions of one device in drawing order.
        part: the part it is to be.
        kept: contacts in the ledger.
        positions: of a selector, from left to right; each closes an element of its own.
    """
    taken = Taken()
    given: dict[str, str] = {}
    for use in uses:
        marks = use.ref.marks
        element = next((e for e in part.elements if marks is not None and holds_marks(e, marks)), None)
        if marks is not None and element is not None:
            taken.take(use, element, marks)
            given[use.key] = "-".join(marks)
    waiting = [use for use in uses if use.ref.marks is None and _is_contact_use(use, part)]
    for use in waiting:
        choice = kept.get(use.key)
        if choice is None:
            continue
        element = next((e for e in _candidates(use, part, positions) if _pair(use, e) == choice.value), None)
        if element is not None and taken.has_room(use, element):
            taken.take(use, element, _marks(use, element))
            given[use.key] = choice.value
    for use in waiting:
        if use.key not in given:
            free = [e for e in _candidates(use, part, positions) if taken.has_room(use, e)]
            element = next((e for e in free if taken.is_shared(e)), free[0] if free else None)
            if element is not None:
                taken.take(use, element, _marks(use, element))
                given[use.key] = _pair(use, element)
    return {use.key: given[use.key] for use in uses if use.key in given}


class Taken:
    """Which elements of one device are taken, and of a changeover which half, with the point that its common lies on."""

    def __init__(self) -> None:
        self._halves: dict[tuple[str, ...], dict[str, str]] = {}

    def has_room(self, use: Use, element: Element, marks: tuple[str, str] | None = None) -> bool:
        """Return whether a use may have an element: a free one, or the other half of a changeover whose common is where it begins."""
        halves = self._halves.get(element.marks)
        if halves is None:
            return True
        half = _half(element, marks or _marks(use, element))
        common = _common(use, element, marks or _marks(use, element))
        return bool(half and common) and half not in halves and {common} == set(halves.values())

    def joins(self, use: Use, element: Element, marks: tuple[str, str]) -> bool:
        """Return whether a half of a changeover would join two points: its common lies elsewhere already."""
        halves = self._halves.get(element.marks, {})
        half = _half(element, marks)
        return bool(half) and half not in halves and _common(use, element, marks) not in halves.values()

    def is_shared(self, element: Element) -> bool:
        """Return whether one half of an element is taken."""
        return element.marks in self._halves

    def take(self, use: Use, element: Element, marks: tuple[str, str]) -> None:
        """Note that a use has an element, or of a changeover the half with these marks."""
        self._halves.setdefault(element.marks, {})[_half(element, marks)] = _common(use, element, marks)


def _common(use: Use, element: Element, marks: tuple[str, str]) -> str:
    """Return the point that the common of a changeover would lie on."""
    return use.right if marks[1] == element.marks[0] else use.left


def _half(element: Element, marks: tuple[str, str]) -> str:
    """Return the mark that is not the common of a changeover, "" where marks take the element whole."""
    if element.kind not in CHANGEOVERS or element.marks[0] not in marks:
        return ""
    return marks[1] if marks[0] == element.marks[0] else marks[0]


def _is_contact_use(use: Use, part: Part) -> bool:
    if use.ref.what is not None:
        return use.ref.what not in _ONE_OF_ITS_KIND
    return not use.is_feeder and _only_element(part) is None


def _candidates(use: Use, part: Part, positions: tuple[str, ...]) -> list[Element]:
    if use.position is not None:
        return _position_elements(use.position, part, positions)
    kinds = _SORT_KINDS.get(use.ref.what or "", _ANY_CONTACT)
    return sorted((e for e in part.elements if e.kind in kinds), key=lambda e: kinds.index(e.kind))


def _position_elements(position: str, part: Part, positions: tuple[str, ...]) -> list[Element]:
    """Return the elements that may close in a position: its own first, then those beyond the last position's."""
    makes = [e for e in part.elements if e.kind is ElementKind.NO]
    if position not in positions:
        return []
    own = positions.index(position)
    return [*makes[own : own + 1], *makes[len(positions) :]]


def _marks(use: Use, element: Element) -> tuple[str, str]:
    """Return the marks on the left and on the right of a use that takes an element; of a changeover taken whole both throws."""
    if use.ref.what == "co":
        return element.marks[1], element.marks[2]
    return element.marks[0], element.marks[2 if element.kind in CHANGEOVERS and use.ref.what not in _BREAKS else 1]


def _pair(use: Use, element: Element) -> str:
    if element.kind in CHANGEOVERS and use.ref.what not in _BREAKS:
        return f"{element.marks[0]}-{element.marks[2]}"
    return f"{element.marks[0]}-{element.marks[1]}"


def _only_element(part: Part) -> Element | None:
    """Return what a device named with no contact means in a rung: its consumer, or its single element."""
    consumers = [e for e in part.elements if e.kind in CONSUMER_KINDS]
    if len(consumers) == 1:
        return consumers[0]
    others = [e for e in part.elements if e.kind is not ElementKind.EARTH]
    return others[0] if len(others) == 1 else None


def ends_of(use: Use, part: Part, chosen: str | None) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the marks on the left and on the right of a use, each as many as conductors pass.

    A load at the end of a feeder has none on the right. Where the part has no such element, marks ending
    in `*` stand for what is missing, other ones for each mention, so that the circuit stays whole and the finding can name it.
    """
    if chosen is not None:
        left, right = chosen.split("-")
        return (left,), (right,)
    if use.ref.marks is not None:
        return (f"{use.ref.marks[0]}*",), (f"{use.ref.marks[1]}*",)
    element = _single(use, part)
    if element is not None and len(element.marks) == use.width > 1:
        return element.marks, ()
    if element is not None and use.width == 1:
        return (element.marks[0],), (element.marks[-1],)
    poles = [e for e in part.elements if e.kind in LANE_KINDS][: use.width]
    if use.ref.what is None and len(poles) == use.width:
        return tuple(e.marks[0] for e in poles), tuple(e.marks[1] for e in poles)
    path, _, mention = use.key.partition("|")
    name = f"{use.ref.what or 'pole'}.{path}.{mention.rpartition('|')[2]}"
    places = range(1, use.width + 1)
    return tuple(f"{name}.{i}a*" for i in places), tuple(f"{name}.{i}b*" for i in places)


def _single(use: Use, part: Part) -> Element | None:
    if use.ref.what is None:
        return None if use.is_feeder and _has_poles(part) else _only_element(part)
    kind = _ONE_OF_ITS_KIND.get(use.ref.what)
    return next((e for e in part.elements if e.kind is kind), None)


def _has_poles(part: Part) -> bool:
    return any(e.kind in {ElementKind.POLE, ElementKind.CONVERTER} for e in part.elements)
