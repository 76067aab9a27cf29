"""Owns the cables to the field: names and cores. Must not know the ducts."""

from collections import Counter
from dataclasses import dataclass

from riktig.job.ledger import Choices
from riktig.plan.conductors import Conductor
from riktig.plan.strips import Clamp
from riktig.plan.zones import INCOMING, is_drop
from riktig.standards import nec

STANDARD_CORES = (2, 3, 4, 5, 7, 12, 18, 25, 34, 50)
SPARE_SHARE = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class Conduit:
    """An EMT: its trade size in inches, and how much of it is filled, in percent."""

    trade_size: str
    fill_percent: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Cable:
    """A cable: the numbers of its cores in use (earth as PE), spare cores, length in m; in North America the conduit that takes
    its cores as single conductors, None where a size is not listed or none is large enough.
    """

    name: str
    drop: str
    target: str
    numbers: tuple[str, ...]
    spare: int
    size_label: str
    length_m: float
    conduit: Conduit | None = None


def allocate_cables(clamps: tuple[Clamp, ...], drops: tuple[str, ...], kept: Choices) -> dict[str, str]:
    """Return drop -> cable name (W1, W2 ...); a cable keeps its name."""
    wanted = [d for d in drops if is_drop(d) and (any(c.drop == d for c in clamps)) and d != INCOMING]
    result = {d: kept[d].value for d in wanted if d in kept}
    used = {c.value for c in kept.values()}
    number = 0
    for drop in wanted:
        while drop not in result:
            number += 1
            if f"W{number}" not in used:
                result[drop] = f"W{number}"
                used.add(f"W{number}")
    return {drop: result[drop] for drop in wanted}


def build_cables(
    conductors: tuple[Conductor, ...], names: dict[str, str], targets: dict[str, str], earth: str
) -> tuple[Cable, ...]:
    """Return all cables in the order of their names in the ledger.

    Args:
        conductors: all conductors.
        names: cable name by drop.
        targets: what stands at the far end, by drop.
        earth: the number of the earth potential.

    Source:
        The next standard cable with at least 10 % spare cores in control cables of seven and more: common practice.
    """
    cables = []
    for drop, name in names.items():
        cores = sorted((c for c in conductors if c.location == name), key=lambda c: c.number == earth)
        numbers = tuple("PE" if c.number == earth else c.number for c in cores)
        wanted = len(cores) if len(cores) <= 5 else len(cores) * (1 + SPARE_SHARE)
        size = next((n for n in STANDARD_CORES if n >= wanted), len(cores))
        cables.append(
            Cable(
                name=name,
                drop=drop,
                target=targets[drop],
                numbers=numbers,
                spare=max(size - len(cores), 0),
                size_label=cores[0].size.label() if cores else "",
                length_m=cores[0].length_mm / 1000 if cores else 0.0,
                conduit=_conduit_for(cores),
            )  # fmt: skip
        )
    return tuple(cables)


def _conduit_for(cores: list[Conductor]) -> Conduit | None:
    """Return the smallest conduit for the cores pulled as single conductors, earth counted.

    Source:
        NEC Chapter 9 Tables 1, 4 and 5, from memory; equipment grounding conductors count: Note 3.
    """
    counts = Counter(core.size.awg for core in cores if not core.size.metric)
    if not cores or counts.total() < len(cores) or not counts.keys() <= nec.conduit_conductors():
        return None
    pairs = tuple(counts.items())
    size = nec.conduit_trade_size(pairs)
    return Conduit(trade_size=size, fill_percent=nec.conduit_fill_percent(pairs, size)) if size is not None else None
