"""Owns what makes a place on the plate illegal, and by how many mm. Must not know wires, nor move anything."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from riktig.plan.circuit.model import EARTH_BAR, PLATE_STUD
from riktig.plan.place.items import PlateItem
from riktig.plan.place.layout import Box, Duct, PlateLayout, Rail
from riktig.plan.place.reach import Reach

_SLACK = 1e-6
_EARTHS = frozenset({EARTH_BAR, PLATE_STUD})
OVERHANG_MM = 5.0
"""How far a part may stand over the end of its rail (common practice, no source)."""
TOUCH_MM = 2.0
"""Ducts so close to each other are one way for wires."""


class FaultKind(StrEnum):
    """What is wrong with where something stands."""

    OUTSIDE = "outside"
    OVERLAP = "overlap"
    ROOM = "room"
    RAIL = "rail"
    REACH = "reach"
    LOOSE = "loose"


@dataclass(frozen=True, slots=True, kw_only=True)
class PlateFault:
    """Something that stands where it must not: `item` and `other` are what it is about (ids or codes, "" for the plate itself),
    `missing` the mm that it lacks.
    """

    kind: FaultKind
    item: str
    other: str
    missing: float

    @property
    def key(self) -> tuple[str, str, str]:
        """What tells it from other faults."""
        return self.kind, self.item, self.other


@dataclass(frozen=True, slots=True)
class _Body:
    """A solid on the plate: what it belongs to, the room it wants, and whether it is a duct or a rail."""

    name: str
    host: str
    box: Box
    room: float = 0.0
    clearance: float = 0.0
    sort: str = "part"


def find_faults(layout: PlateLayout, only: frozenset[str] | None = None) -> tuple[PlateFault, ...]:
    """Return all that is illegal, each once.

    Args:
        layout: the plate.
        only: look at what these ids and codes have to do with it, and at nothing else.
    """
    bodies = _bodies(layout)
    found = [
        *_outside(layout, bodies),
        *_pairs(bodies, only),
        *_off_rail(layout),
        *_loose(layout.ducts),
        *_unreached(layout, only),
    ]
    if only is not None:
        found = [fault for fault in found if fault.item in only or fault.other in only]
    return tuple(dict.fromkeys(sorted(found, key=lambda f: (f.item, f.other, f.kind))))


def _bodies(layout: PlateLayout) -> list[_Body]:
    found = []
    for item in layout.items.values():
        found.append(_Body(item.id, item.id, layout.boxes[item.id], item.room, item.clearance))
        if item.hung is not None:
            found.append(_Body(item.hung[0], item.id, layout.boxes[item.hung[0]], item.room))
    found.extend(_Body(duct.code, duct.code, duct.box, sort="v" if duct.is_vertical else "h") for duct in layout.ducts)
    found.extend(_Body(rail.code, rail.code, rail.box, sort="rail") for rail in layout.rails)
    return found


def _outside(layout: PlateLayout, bodies: Sequence[_Body]) -> Iterator[PlateFault]:
    for body in bodies:
        b = body.box
        over = max(-b.x, -b.y, b.right - layout.width, b.top - layout.height)
        if over > _SLACK:
            yield PlateFault(kind=FaultKind.OUTSIDE, item=body.name, other="", missing=over)


def _pairs(bodies: Sequence[_Body], only: frozenset[str] | None) -> Iterator[PlateFault]:
    """Yield what stands on each other, or closer above each other than it may."""
    import numpy as np

    x0, y0, x1, y1 = np.array([(b.box.x, b.box.y, b.box.right, b.box.top) for b in bodies]).reshape(-1, 4).T
    most = max((body.room for body in bodies), default=0.0)
    beside = np.minimum(x1[:, None], x1) - np.maximum(x0[:, None], x0)
    above = np.minimum(y1[:, None], y1) - np.maximum(y0[:, None], y0)
    near = np.triu((beside > _SLACK) & (above > -most + _SLACK), 1)
    for i, j in np.argwhere(near).tolist():
        a, b = bodies[i], bodies[j]
        if a.host == b.host or (only is not None and not {a.name, b.name, a.host, b.host} & only):
            continue
        fault = _judge(a, b, float(beside[i, j]), float(above[i, j]))
        if fault is not None:
            yield fault


def _judge(a: _Body, b: _Body, beside: float, above: float) -> PlateFault | None:
    """Return what is wrong between two bodies that overlap in x by `beside`, and in y by `above` or are apart by its negative."""
    first, second = (a, b) if a.sort == "part" else (b, a)
    sorts = {a.sort, b.sort}
    if sorts == {"rail", "part"}:
        return None
    if above > _SLACK:
        return PlateFault(kind=FaultKind.OVERLAP, item=first.name, other=second.name, missing=min(beside, above))
    if second.sort == "h" and first.sort == "part":
        wanted = first.room
    elif first.sort == second.sort == "part":
        wanted = max(first.clearance, second.clearance)
    else:
        return None
    return (
        PlateFault(kind=FaultKind.ROOM, item=first.name, other=second.name, missing=wanted + above)
        if wanted + above > _SLACK
        else None
    )


def _off_rail(layout: PlateLayout) -> Iterator[PlateFault]:
    """Yield what stands over the end of its rail, and rails that run under what is screwed to the plate."""
    for name, code in layout.rail_of.items():
        rail, box = layout.rail(code), layout.boxes[name]
        if rail is not None:
            over = max(rail.x - OVERHANG_MM - box.x, box.right - rail.x - rail.length - OVERHANG_MM)
            if over > _SLACK:
                yield PlateFault(kind=FaultKind.RAIL, item=name, other=code, missing=over)
    for item in layout.items.values():
        if item.id not in layout.rail_of:
            yield from _under(item, layout.boxes[item.id], layout.rails)


def _under(item: PlateItem, box: Box, rails: Sequence[Rail]) -> Iterator[PlateFault]:
    for rail in rails:
        x, y = box.overlap(rail.box)
        if min(x, y) > _SLACK:
            yield PlateFault(kind=FaultKind.OVERLAP, item=item.id, other=rail.code, missing=min(x, y))
    if item.on_rail:
        yield PlateFault(kind=FaultKind.RAIL, item=item.id, other="", missing=0.0)


def joints(ducts: Sequence[Duct]) -> dict[tuple[str, str], tuple[float, float]]:
    """Return where ducts meet: pair of codes -> x and y in mm; ducts meet that touch each other, or nearly so."""
    found = {}
    for k, a in enumerate(ducts):
        for b in ducts[k + 1 :]:
            x, y = a.box.overlap(b.box)
            if x < -TOUCH_MM or y < -TOUCH_MM:
                continue
            if a.is_vertical != b.is_vertical:
                upright, level = (a, b) if a.is_vertical else (b, a)
                found[a.code, b.code] = (upright.level, level.level)
            elif (x if a.is_vertical else y) > 0:
                at = (max(a.box.x, b.box.x) + min(a.box.right, b.box.right)) / 2
                up = (max(a.box.y, b.box.y) + min(a.box.top, b.box.top)) / 2
                found[a.code, b.code] = (at, up)
    return found


def _loose(ducts: Sequence[Duct]) -> Iterator[PlateFault]:
    """Yield ducts that no wire reaches from the rest of them, with how far they are from it."""
    if not ducts:
        return
    beside: dict[str, set[str]] = {duct.code: set() for duct in ducts}
    for a, b in joints(ducts):
        beside[a].add(b)
        beside[b].add(a)
    groups: list[set[str]] = []
    for code in beside:
        if not any(code in group for group in groups):
            group, front = {code}, [code]
            while front:
                new = beside[front.pop()] - group
                group |= new
                front.extend(new)
            groups.append(group)
    main = max(groups, key=len)
    by_code: Mapping[str, Duct] = {duct.code: duct for duct in ducts}
    for group in groups:
        if group is not main:
            gap, code, other = min(_distance(by_code, one, to) for one in group for to in main)
            yield PlateFault(kind=FaultKind.LOOSE, item=code, other=other, missing=gap)


def _distance(ducts: Mapping[str, Duct], one: str, other: str) -> tuple[float, str, str]:
    x, y = ducts[one].box.overlap(ducts[other].box)
    return max(0.0, -x) + max(0.0, -y), one, other


def _unreached(layout: PlateLayout, only: frozenset[str] | None) -> Iterator[PlateFault]:
    """Yield parts of which a side with terminals has no duct that wires reach straight, of an earth bar or stud both sides; `only` those
    that it, or what stands before it, is about.
    """
    reach = Reach(layout)
    spans = [(box.x, box.right) for name in only or () if (box := layout.boxes.get(name)) is not None]
    for name, box in layout.boxes.items():
        x = box.centre[0]
        if only is not None and name not in only and not any(left < x < right for left, right in spans):
            continue
        item = layout.items.get(name)
        found = [
            reach.straight(x, box.top if is_top else box.y, is_top=is_top, item=name) for is_top in reach.sides(name)
        ]
        shut = [one for one in found if one.duct is None]
        if shut and (name not in _EARTHS or len(shut) == len(found)):
            yield PlateFault(
                kind=FaultKind.REACH,
                item=item.id if item is not None else name,
                other=shut[0].blocked_by,
                missing=0.0,
            )
