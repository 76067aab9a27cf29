"""Owns what an arrangement of the plate costs: wire length in mm by its weight, fast enough to be asked a hundred thousand times.

Must not know how arrangements are searched. A *slot* is a stretch of a row in which parts stand beside each other.
"""

from collections.abc import Iterator, Mapping, Sequence, Set
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from riktig.catalogue.side_by_side import line_marks
from riktig.job.model import Job
from riktig.plan.circuit.incoming import supplies_in
from riktig.plan.circuit.model import bar_for
from riktig.plan.circuit.zones import device_of, mark_of
from riktig.plan.place.items import PlateItem
from riktig.plan.plan import Plan
from riktig.plan.wiring.apart import shunned_by
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.entries import landings
from riktig.plan.wiring.geometry import BEND_MM, LANDING_MM, TAIL_MM, Geometry
from riktig.plan.wiring.links import HINGE

GLAND, LOOM = "gland", "loom"
WORK_MM2 = 6.0
"""A wire is laid and dressed whatever its section, a metre in about a minute: as much as so much copper (common practice, no source)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Pull:
    """What draws two places together: ends as item, x from the item's left edge, y from its centre line, whether wires come to it
    from above; and mm2. The second end may be the entry of the cables or the door loom, of which `b_y` is how high it leaves the upright.

    `is_comb` tells that a comb or bridge takes its place where both items stand in one run of neighbours; `run_mm2`, where it is not
    0, that the first item of a run alone needs it, of that section; `shuns` by which upright it may not go, `left` or
    `right`, "" by either.
    """

    a: str
    a_x: float
    a_y: float
    a_top: bool
    b: str
    b_x: float
    b_y: float
    b_top: bool
    mm2: float
    is_comb: bool = False
    run_mm2: float = 0.0
    shuns: str = ""


def pulls_of(plan: Plan) -> tuple[Pull, ...]:
    """Return what draws the parts of a Plan together: its wires on the plate and to the door, its cables to the entry, its combs."""
    geometry = Geometry(plan.job, plan.parts, plan.plate, plan.door, plan.clamps, plan.clamp_parts, plan.walls)
    host = {item.hung[0]: item.id for item in plan.plate.items.values() if item.hung is not None}
    keys = run_keys(plan)
    arresters = {surge.name for surge in plan.job.surges}
    shuns = _shunned_sides(plan, geometry)
    found: list[Pull] = []
    for c in plan.conductors:
        is_join = c.kind in {"comb", "bridge"} and device_of(c.a) in plan.parts
        if not (c.is_wired or is_join):
            continue
        ends = [_end(plan, geometry, c, t, host) for t in (c.a, c.b)]
        block = bar_for(c.number)
        if is_join and block in plan.plate.items:
            feed = ends[1]
            if feed is not None:
                at = (block, plan.plate.items[block].width / 2, 0.0, True)
                alone = plan.starters[owner].line if (owner := feed[0].partition(".")[0]) in plan.starters else c.size
                pull = _pull(feed, at, c, run_mm2=plan.sections.inside[c.number].mm2)
                found.append(replace(pull, mm2=min(alone.mm2, pull.mm2), shuns=shuns.get(c.number, "")))
            continue
        inside = [end for end in ends if end is not None]
        if len(inside) == 2 and c.kind != "core":
            if inside[0][0] != inside[1][0]:
                pull = replace(_between(plan, inside, c, keys, is_join=is_join), shuns=shuns.get(c.number, ""))
                found.append(
                    replace(pull, mm2=max(pull.mm2, _LEAD_MM2), run_mm2=0.0) if _is_lead(c, arresters) else pull
                )
        elif inside and (c.kind == "core" or c.location == HINGE):
            other = (GLAND, 0.0, 0.0, False) if c.kind == "core" else (LOOM, 0.0, geometry.hinge[1], False)
            found.append(replace(_pull(inside[0], other, c), shuns=shuns.get(c.number, "")))
    found.extend(_supply_pulls(plan, geometry, shuns))
    found.extend(_lock_pulls(plan))
    return tuple(found)


def _shunned_sides(plan: Plan, geometry: Geometry) -> dict[str, str]:
    """Return by number the side whose upright wires of a potential keep out of."""
    uprights = sorted((duct for duct in plan.plate.ducts if duct.is_vertical), key=lambda duct: duct.level)
    shunned = shunned_by(plan.job, plan.parts, plan.potentials, geometry)
    return {number: "left" if uprights[0].code in codes else "right" for number, codes in shunned.items()}


def _is_lead(c: Conductor, arresters: Set[str]) -> bool:
    """Return whether a wire is one of the leads of an arrester: of its lines and neutral, and from it to the earth beside it."""
    ends = [device_of(end).partition(".")[0] in arresters for end in (c.a, c.b)]
    return all(ends) if c.stage == "earth" else any(ends) and c.stage in {"distribution", "feeds"}


_LEAD_MM2 = 1500.0
"""What the leads of a surge arrester draw by, as if they were this thick: they must be short (IEC 60364-5-53 534.4.8)."""
_LOCK_MM2 = 1000.0
"""What a mechanical interlock is drawn to its contactors by, as if by wires thicker than any: it must stand between them."""


def _lock_pulls(plan: Plan) -> Iterator[Pull]:
    """Yield what keeps a mechanical interlock between the contactors that it locks."""
    items = plan.plate.items
    for device in plan.circuit.devices:
        pair = (f"{device.owner}.K", device.id, f"{device.owner}.KR")
        if device.kind == "interlock" and all(name in items for name in pair):
            for left, right in pairwise(pair):
                yield Pull(
                    a=left, a_x=items[left].width, a_y=0.0, a_top=True, b=right, b_x=0.0, b_y=0.0, b_top=True, mm2=_LOCK_MM2,
                )  # fmt: skip


End = tuple[str, float, float, bool]


def _pull(a: End, b: End, c: Conductor, *, is_comb: bool = False, run_mm2: float = 0.0) -> Pull:
    return Pull(
        a=a[0], a_x=a[1], a_y=a[2], a_top=a[3], b=b[0], b_x=b[1], b_y=b[2], b_top=b[3], mm2=c.size.mm2,
        is_comb=is_comb, run_mm2=run_mm2,
    )  # fmt: skip


def _between(plan: Plan, ends: Sequence[End], c: Conductor, keys: Mapping[str, str], *, is_join: bool) -> Pull:
    """Return the pull of a wire between two places on the plate; the one that a run may feed stands first."""
    block = bar_for(c.number)
    first, second = ends
    if first[0] == block:
        first, second = second, first
    is_feed = second[0] == block and keys.get(first[0], "").startswith("comb") and _is_line(plan, c)
    run_mm2 = plan.sections.inside[c.number].mm2 if is_feed else 0.0
    return _pull(first, second, c, is_comb=is_join or _may_join(plan, c), run_mm2=run_mm2)


def _is_line(plan: Plan, c: Conductor) -> bool:
    """Return whether an end of a wire lies where a comb would."""
    return any(
        device_of(t) in plan.parts and mark_of(t) in line_marks(plan.parts[device_of(t)])
        for t in (c.a, c.b)
        if device_of(t) in plan.plate.items
    )


def run_keys(plan: Plan) -> dict[str, str]:
    """Return by item what its neighbours must have in common with it to be joined by one comb or bridge; "" for nothing."""
    found = {}
    for item in plan.plate.items.values():
        key = item.snug
        if key.startswith("comb"):
            key += " " + " ".join(plan.number_at(f"{item.id}:{m}") for m in line_marks(plan.parts[item.id]))
        found[item.id] = key
    return found


def _supply_pulls(plan: Plan, geometry: Geometry, shuns: Mapping[str, str]) -> Iterator[Pull]:
    """Yield what draws the place where a supply is landed to its entry: its strip, or the incoming switch itself."""
    coming_in = frozenset().union(*supplies_in(plan.job).values())
    for number, terminal, is_outside in landings(coming_in, plan.potentials, plan.clamps, plan.plate):
        item = plan.item_of(terminal)
        access = geometry.access(terminal, is_outside=is_outside)
        box = plan.plate.boxes[item]
        yield Pull(
            a=item, a_x=access.x - box.x, a_y=access.y - box.centre[1], a_top=access.y >= box.centre[1],
            b=GLAND, b_x=0.0, b_y=0.0, b_top=False, mm2=plan.sections.inside[number].mm2, shuns=shuns.get(number, ""),
        )  # fmt: skip


def _end(plan: Plan, geometry: Geometry, conductor: Conductor, terminal: str, host: Mapping[str, str]) -> End | None:
    """Return item, x, y and side of an end on the plate, None elsewhere."""
    item = plan.item_of(terminal)
    if item not in plan.plate.boxes:
        return None
    access = geometry.access(terminal, is_outside=conductor.kind == "core")
    owner = host.get(item, item)
    box = plan.plate.boxes[owner]
    return owner, access.x - box.x, access.y - box.centre[1], access.y >= box.centre[1]


def _may_join(plan: Plan, c: Conductor) -> bool:
    """Return whether a comb or bridge could take the place of a wire: same sort of device, at terminals that one lies over."""
    a, b = device_of(c.a), device_of(c.b)
    one, other = plan.plate.items.get(a), plan.plate.items.get(b)
    if one is None or other is None or not one.snug or one.snug != other.snug:
        return False
    if one.snug.startswith("comb"):
        return mark_of(c.a) in line_marks(plan.parts[a]) and mark_of(c.b) in line_marks(plan.parts[b])
    return mark_of(c.a) == mark_of(c.b)


class Cost:
    """Wire of an arrangement. Rows count from the top; level k is the duct above row k."""

    def __init__(self, job: Job, items: Sequence[PlateItem], pulls: Sequence[Pull], *, edge: int = 0) -> None:
        """Take what is joined.

        Args:
            job: its entry, hinges and how long jumpers may be.
            items: the parts.
            pulls: what draws them together.
            edge: 1 where no duct lies beyond the row where the cables come in.
        """
        import numpy as np

        self.index = {item.id: k for k, item in enumerate(items)}
        pairs = [p for p in pulls if p.b not in {GLAND, LOOM} and {p.a, p.b} <= self.index.keys()]
        self._a = np.array([self.index[p.a] for p in pairs], dtype=int)
        self._b = np.array([self.index[p.b] for p in pairs], dtype=int)
        self._ax, self._bx = np.array([p.a_x for p in pairs]), np.array([p.b_x for p in pairs])
        self._ay, self._by = np.array([p.a_y for p in pairs]), np.array([p.b_y for p in pairs])
        self._at = np.array([0 if p.a_top else 1 for p in pairs], dtype=int)
        self._bt = np.array([0 if p.b_top else 1 for p in pairs], dtype=int)
        self._w = np.array([weight(p.mm2) for p in pairs])
        self._barred = _barred(pairs)
        self._comb = np.array([p.is_comb for p in pairs], dtype=bool)
        self._run_w = np.array([weight(p.run_mm2) if p.run_mm2 else 0.0 for p in pairs])
        self._feed = self._run_w > 0
        self._singles = {
            kind: self._gather([p for p in pulls if p.b == kind and p.a in self.index]) for kind in (GLAND, LOOM)
        }
        self._outer = -1 - edge if job.supply.entry == "bottom" else edge
        self._loom_left = job.enclosure.hinge == "left"
        self._jumpers = job.practice.jumpers or -1.0
        half = np.array([item.width / 2 for item in items])
        self._off = (self._ax - half[self._a]) - (self._bx - half[self._b])
        """By how much clamps are further apart than the middles of what they belong to."""

    def _gather(self, pulls: Sequence[Pull]) -> tuple[Any, ...]:
        import numpy as np

        return (
            np.array([self.index[p.a] for p in pulls], dtype=int),
            np.array([p.a_x for p in pulls]),
            np.array([p.a_y for p in pulls]),
            np.array([0 if p.a_top else 1 for p in pulls], dtype=int),
            np.array([weight(p.mm2) for p in pulls]),
            _barred(pulls),
            np.array([p.b_y for p in pulls]),
        )

    def of(self, x: Any, y: Any, row: Any, run: Any, many: Any, levels: Any, sides: tuple[float, float]) -> float:
        """Return mm of all wires, each by its weight.

        Args:
            x: left edge by item.
            y: centre line by item.
            row: row by item.
            run: the first item of its run of joined neighbours by item, -1 for none.
            many: whether that run has more than one by item.
            levels: y of the centre line of the horizontal ducts from the top; `levels[k]` lies above row k.
            sides: x of the centre lines of the left and right upright.
        """
        import numpy as np

        left, right = sides
        row_a, row_b = row[self._a], row[self._b]
        xa, xb = x[self._a] + self._ax, x[self._b] + self._bx
        la, lb = levels[row_a + self._at], levels[row_b + self._bt]
        ya, yb = y[self._a] + self._ay, y[self._b] + self._by
        tails = np.abs(ya - la) + np.abs(yb - lb)
        together = xa + xb
        by_left, by_right = self._barred
        detour = np.minimum(together - 2 * left + by_left, 2 * right - together + by_right)
        way = np.where(la == lb, np.abs(xa - xb), np.abs(la - lb) + detour)
        straight = np.abs(xa - xb) + np.abs(ya - yb)
        bends = BEND_MM * np.where(la == lb, 2, 4) - 2 * (TAIL_MM - LANDING_MM)
        apart = np.abs(xa - xb - self._off) + np.abs(ya - yb)
        lengths = np.where((row_a == row_b) & (apart <= self._jumpers), straight + bends, way + tails)
        runs = run[self._a]
        joined = (runs >= 0) & (self._comb & (runs == run[self._b]) | self._feed & (runs != self._a))
        leads = self._feed & (runs >= 0) & many[self._a]
        total = float((np.where(leads, self._run_w, self._w) * lengths)[~joined].sum())
        return total + self._to_glands(x, y, row, levels, sides) + self._to_loom(x, y, row, levels, sides)

    def _to_glands(self, x: Any, y: Any, row: Any, levels: Any, sides: tuple[float, float]) -> float:
        """Return the wire of the field cables from the duct beside their entry, which they reach straight, to their terminals."""
        import numpy as np

        item, dx, dy, below, w, (by_left, by_right), _ = self._singles[GLAND]
        if not len(item):
            return 0.0
        at, level = x[item] + dx, levels[row[item] + below]
        outer = levels[self._outer]
        aside = np.minimum(at - sides[0] + by_left, sides[1] - at + by_right)
        way = np.where(level == outer, 0.0, np.abs(level - outer) + aside)
        return float((w * (way + np.abs(y[item] + dy - level))).sum())

    def _to_loom(self, x: Any, y: Any, row: Any, levels: Any, sides: tuple[float, float]) -> float:
        """Return the wire to the place where the door loom leaves the upright at the hinges."""
        import numpy as np

        item, dx, dy, below, w, barred, height = self._singles[LOOM]
        if not len(item):
            return 0.0
        at, level = x[item] + dx, levels[row[item] + below]
        upright, other = sides if self._loom_left else sides[::-1]
        leaves = height[0]
        over = levels[np.abs(levels - leaves).argmin()]
        way = np.abs(at - upright) + np.abs(level - leaves)
        is_barred = barred[0 if self._loom_left else 1] > 0
        if is_barred.any():
            by_other = np.abs(at - other) + np.abs(level - over) + abs(upright - other) + abs(over - leaves)
            way = np.where(is_barred & (level != over), by_other, way)
        return float((w * (way + np.abs(y[item] + dy - level))).sum())


def _barred(pulls: Sequence[Pull]) -> tuple[Any, Any]:
    """Return what a way counts more by the left and by the right upright, in mm: endlessly much where it may not go there."""
    import numpy as np

    return tuple(np.array([np.inf if p.shuns == side else 0.0 for p in pulls]) for side in ("left", "right"))  # type: ignore[return-value]


def weight(mm2: float) -> float:
    """Return what a mm of wire of a section counts: its copper, and the work."""
    return mm2 + WORK_MM2


def weighted_length(plan: Plan) -> float:
    """Return mm of all wires on the plate and to the door, as routed, each by its weight."""
    return sum(c.length_mm * weight(c.size.mm2) for c in plan.conductors if c.kind == "wire")


def total_length(plan: Plan) -> float:
    """Return the mm of all wires on the plate and to the door, as routed."""
    return sum(c.length_mm for c in plan.conductors if c.kind == "wire")
