"""Owns which reels of wire a panel takes: the cut lengths laid onto reels, what is left on them, and how many are bought."""

from bisect import bisect_left, insort
from collections.abc import Sequence
from dataclasses import dataclass

from riktig.catalogue.prices import Prices, prices_now
from riktig.plan.making.lots import BundleLots, lots_of
from riktig.plan.plan import Plan
from riktig.units.conductor_size import ConductorSize


@dataclass(frozen=True, slots=True, kw_only=True)
class ReelLoad:
    """What a panel takes of one sort of wire: metres needed and cut, reels, what is left on each in m, and the price of what is cut."""

    size: ConductorSize
    colour: str
    conductor_class: str
    wires: int
    needed_m: float
    cut_m: float
    left_m: tuple[float, ...]
    money: float

    @property
    def reels(self) -> int:
        """How many reels are taken."""
        return len(self.left_m)


def fill_reels(lengths_m: Sequence[float], reel_m: float) -> tuple[float, ...]:
    """Return what is left on each reel in m, fullest first, once the lengths are cut from as few reels as is found; a length beyond a reel
    takes one of its own, which is bought so long.

    Source:
        Best fit decreasing, at most 11/9 of the fewest and one more (Johnson 1974).
    """
    left: list[float] = []
    for length in sorted(lengths_m, reverse=True):
        place = bisect_left(left, length - 1e-9)
        rest = left.pop(place) - length if place < len(left) else max(reel_m, length) - length
        insort(left, max(rest, 0.0))
    return tuple(left)


def load_reels(parted: Sequence[BundleLots], prices: Prices) -> tuple[ReelLoad, ...]:
    """Return what is taken of each sort of wire, larger sections first; what lies under a screen is a cable and none of them."""
    found: dict[tuple[ConductorSize, str, str], list[tuple[float, float]]] = {}
    for one in parted:
        bundle = one.bundle
        rows = found.setdefault((bundle.size, bundle.colour, bundle.conductor_class), [])
        rows.extend(
            (wire.length_mm / 1000.0, lot.length_mm / 1000.0)
            for lot in one.lots
            for wire in lot.wires
            if not wire.screened
        )
    loads = []
    for (size, colour, conductor_class), rows in ((key, rows) for key, rows in found.items() if rows):
        cut_m = sum(cut for _, cut in rows)
        loads.append(ReelLoad(
            size=size, colour=colour, conductor_class=conductor_class, wires=len(rows), needed_m=sum(needed for needed, _ in rows),
            cut_m=cut_m, left_m=fill_reels([cut for _, cut in rows], prices.reel_m), money=cut_m * prices.metre_of(size.mm2),
        ))  # fmt: skip
    return tuple(sorted(loads, key=lambda load: (-load.size.mm2, load.colour)))


def reels_of(plan: Plan) -> tuple[ReelLoad, ...]:
    """Return the reels of a panel, with its lots as they are chosen."""
    return load_reels(lots_of(plan), prices_now())
