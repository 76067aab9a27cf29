"""Owns parting the wires of a bundle into lots of one length: what that wastes, what it saves, and where that costs least.

Each lot is cut in one set-up, all of it to its longest wire. For every number of lots the wires are parted so that least is wasted;
between lots and waste decides what a set-up is worth, which `[practice] batching` shifts. Must not know who has cut what.
"""

from bisect import bisect_left
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import inf

from riktig.catalogue.prices import Prices, prices_now
from riktig.job.edits import replace
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.model import Job
from riktig.pipeline.rows import by_row
from riktig.plan.answers.remembered import remembered
from riktig.plan.making.bundles import Bundle, bundles_of
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.wiring.conductors import Conductor

EVEN = 50.0
"""The batching at which a set-up is worth what it costs."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Lot:
    """Wires that are cut in one set-up to one length in mm; `name` tells it from others on the bench and on paper."""

    name: str
    length_mm: float
    wires: tuple[Conductor, ...]

    @property
    def waste_mm(self) -> float:
        """What is cut and not needed, in mm."""
        return sum(self.length_mm - wire.length_mm for wire in self.wires)


@dataclass(frozen=True, slots=True, kw_only=True)
class BundleLots:
    """A bundle with its lots, the longest first."""

    bundle: Bundle
    lots: tuple[Lot, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """What a way of parting comes to: metres and money wasted, set-ups, minutes of cutting, and money in all."""

    batching: float
    wasted_m: float
    wasted_money: float
    set_ups: int
    minutes: float
    money: float


def part_lengths(lengths: Sequence[float], lots: int) -> tuple[float, tuple[float, ...]]:
    """Return the least waste in mm of parting lengths into so many lots, each cut to its longest, and the lengths of the lots.

    Args:
        lengths: in mm, any order.
        lots: 1 to as many as there are different lengths.

    Source:
        Dynamic programming over sorted lengths: lots of neighbours are best, for two that cross can be exchanged without loss.
    """
    return _all_partings(tuple(sorted(Counter(lengths).items())))[lots - 1]


@lru_cache(maxsize=4096)
def _all_partings(counted: tuple[tuple[float, int], ...]) -> tuple[tuple[float, tuple[float, ...]], ...]:
    """Return for each number of lots, from one on, the least waste and the lengths of the lots; `counted` are different lengths, shorter
    first, with how many wires have each.
    """
    import numpy as np

    count = len(counted)
    lengths = np.array([length for length, _ in counted])
    wires = np.concatenate(([0], np.cumsum([n for _, n in counted])))
    metres = np.concatenate(([0.0], np.cumsum([length * n for length, n in counted])))
    wasted = lengths[None, :] * (wires[1:] - wires[:-1, None]) - (metres[1:] - metres[:-1, None])
    wasted[np.tril_indices(count, -1)] = inf  # from the first of a lot, a row, to its last, a column
    best = wasted[0].copy()
    starts: list[list[int]] = [[0] * count]
    found: list[tuple[float, tuple[float, ...]]] = [(float(best[-1]), (counted[-1][0],))]
    for _ in range(1, count):
        whole = np.concatenate(([inf], best[:-1]))[:, None] + wasted
        start = whole.argmin(axis=0)
        best = whole[start, np.arange(count)]
        starts.append(start.tolist())
        ends, end = [], count - 1
        for row in reversed(starts):
            ends.append(counted[end][0])
            end = row[end] - 1
        found.append((max(float(best[-1]), 0.0), tuple(reversed(ends))))
    return tuple(found)


def worth_of_a_set_up(prices: Prices, batching: float) -> float:
    """Return what saving a set-up is worth in money: nothing at 0, what it costs at 50, everything at 100."""
    return inf if batching >= 100 else prices.set_up_min * prices.minute * batching / (100.0 - batching)


def best_lots(lengths: Sequence[float], metre: float, worth: float) -> tuple[float, ...]:
    """Return the lengths in mm of the lots that cost least, shorter first: money for what is wasted, and what each set-up is worth.

    Args:
        lengths: in mm, any order.
        metre: the price of a metre.
        worth: of a set-up, in money; infinite: one lot.
    """
    if worth == inf:
        return (max(lengths),)
    partings = _all_partings(tuple(sorted(Counter(lengths).items())))
    whole = (
        (waste / 1000.0 * metre + lots * worth, lots, ends) for lots, (waste, ends) in enumerate(partings, start=1)
    )
    return min(whole)[2]


@by_row
def _lots_of(_: str, bundle: Bundle, metre: float, worth: float, held: tuple[tuple[str, float], ...]) -> BundleLots:
    """Return the lots of a bundle; wires whose lot somebody holds stay in it while it is long enough."""
    fixed = dict(held)
    lot_of = {w.id: fixed[w.id] for w in bundle.wires if fixed.get(w.id, 0.0) >= w.length_mm}
    there = sorted(set(lot_of.values()))
    for wire in bundle.wires if there else ():
        near = next((length for length in there if length >= wire.length_mm), None)
        if near is not None and (near - wire.length_mm) / 1000.0 * metre <= worth:
            lot_of.setdefault(wire.id, near)
    free = [wire for wire in bundle.wires if wire.id not in lot_of]
    cut = best_lots([wire.length_mm for wire in free], metre, worth) if free else ()
    for wire in free:
        lot_of[wire.id] = cut[bisect_left(cut, wire.length_mm)]
    members: dict[float, list[Conductor]] = {}
    for wire in bundle.wires:
        members.setdefault(lot_of[wire.id], []).append(wire)
    return BundleLots(bundle=bundle, lots=tuple(
        Lot(name=f"{bundle.key}|{length:g}", length_mm=length, wires=tuple(members[length])) for length in sorted(members, reverse=True)
    ))  # fmt: skip


def part_bundles(
    bundles: Sequence[Bundle], prices: Prices, batching: float, held: Mapping[str, float] | None = None
) -> tuple[BundleLots, ...]:
    """Return all bundles with their lots.

    Args:
        bundles: in working order.
        prices: of the shop.
        batching: 0 (each wire to its own length) to 100 (one length for the whole bundle).
        held: wire id -> the length of the lot in which it stays, in mm.
    """
    worth = worth_of_a_set_up(prices, batching)
    known = held or {}
    return tuple(
        _lots_of(
            bundle.key, bundle, prices.metre_of(bundle.size.mm2), worth,
            tuple((w.id, known[w.id]) for w in bundle.wires if w.id in known),
        )
        for bundle in bundles
    )  # fmt: skip


@remembered(bundles_of, "job.practice", "job.ledger")
def lots_of(plan: Plan) -> tuple[BundleLots, ...]:
    """Return the bundles of a panel with their lots, as its practice asks and its ledger holds them."""
    held = {wire: choice.value for wire, choice in plan.job.ledger.lots.items()}
    return part_bundles(bundles_of(plan), prices_now(), plan.job.practice.batching, held)


@remembered(bundles_of, "job.practice", "job.ledger")
def cut_lengths(plan: Plan) -> Mapping[str, float]:
    """Return wire id -> the length in mm to which it is cut."""
    return {wire.id: lot.length_mm for one in lots_of(plan) for lot in one.lots for wire in lot.wires}


def outcome_of(parted: Sequence[BundleLots], prices: Prices, batching: float) -> Outcome:
    """Return what a way of parting comes to."""
    wasted_m = sum(lot.waste_mm for one in parted for lot in one.lots) / 1000.0
    money = sum(lot.waste_mm / 1000.0 * prices.metre_of(one.bundle.size.mm2) for one in parted for lot in one.lots)
    set_ups = sum(len(one.lots) for one in parted)
    wires = sum(len(one.bundle.wires) for one in parted)
    minutes = set_ups * prices.set_up_min + wires * prices.cut_min
    return Outcome(
        batching=batching,
        wasted_m=wasted_m,
        wasted_money=money,
        set_ups=set_ups,
        minutes=minutes,
        money=money + minutes * prices.minute,
    )


CURVE = (
    0.0,
    5.0,
    10.0,
    15.0,
    20.0,
    25.0,
    30.0,
    35.0,
    40.0,
    45.0,
    EVEN,
    55.0,
    60.0,
    65.0,
    70.0,
    75.0,
    80.0,
    85.0,
    90.0,
    95.0,
    100.0,
)
"""The batchings at which a curve is drawn."""


def outcomes(plan: Plan, prices: Prices) -> tuple[Outcome, ...]:
    """Return what the panel comes to from each wire by itself to one length for each bundle; where it costs least is at 50."""
    bundles = bundles_of(plan)
    return tuple(outcome_of(part_bundles(bundles, prices, batching), prices, batching) for batching in CURVE)


def hold_lots(job: Job, plan: Plan) -> Job:
    """Return the Job in which every wire stays in its lot from now on while that is long enough: as the shop has begun to cut them."""
    held = {wire: Choice(length, ChoiceState.KEPT) for wire, length in cut_lengths(plan).items()}
    return replace(job, ledger=job.ledger.with_sorts(lots={**job.ledger.lots, **held}))


def hold_all(job: Job) -> Job:
    """Return the settled Job in which every wire stays in the lot in which it is now."""
    return hold_lots(job, compute_plan(job))


def let_lots_go(job: Job) -> Job:
    """Return the Job whose lots are parted anew, but for those that a release holds."""
    frozen = {wire: choice for wire, choice in job.ledger.lots.items() if choice.state is ChoiceState.FROZEN}
    return replace(job, ledger=job.ledger.with_sorts(lots=frozen))
