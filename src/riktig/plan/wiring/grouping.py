"""Owns which loaded circuits really lie together in each duct, and which of their wires carry too little there. Must not size any."""

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache

from riktig.job.ids import WireId
from riktig.plan.basis.conductor import Laid, carries_a
from riktig.plan.basis.motor import DELTA_SHARE
from riktig.plan.circuit.power import sharing
from riktig.plan.circuit.zones import device_of
from riktig.plan.net.numbers import Potential
from riktig.plan.sizes.fed import Fed
from riktig.plan.sizes.load import PanelLoad
from riktig.plan.sizes.sections import Sections
from riktig.plan.wiring.conductors import Conductor
from riktig.standards.colours import ConductorFunction

LITTLE_LOADED = 0.3
"""A circuit that carries no more than this share of what it could is not counted in a group: IEC 60364-5-52 B.52.17 note, from memory."""
_LEAST_WAY_MM = 600.0
"""Wires that go through a duct for less than this are not grouped: NEC 310.15(C)(1)(b) has 600 mm, taken here too; from memory."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Leg:
    """Where a loaded wire goes along a duct, `low` to `high` in mm; what it belongs to (several names with blanks between, "" for the
    supply), the current that it leads in A.
    """

    low: float
    high: float
    owner: str
    wire: Conductor
    amps: float


Legs = Mapping[str, Sequence[Leg]]
"""Code of a duct -> the loaded wires that go through it for long enough to warm each other."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Crowded:
    """A wire that carries too little where it lies: the duct, how many loaded circuits there are at its fullest place, and what it
    carries there in A.
    """

    duct: str
    circuits: int
    leg: Leg
    carries: float


def loaded_legs(
    conductors: Sequence[Conductor],
    potential_at: Mapping[str, Potential],
    fed: Fed,
    sections: Sections,
    laid: Laid,
    load: PanelLoad,
) -> Legs:
    """Return where wires lie that are loaded enough, and long enough, to warm each other; nothing in North America.

    Args:
        conductors: as they are led.
        potential_at: terminal -> its potential.
        fed: what the panel feeds.
        sections: what the main conductors are.
        laid: how conductors lie in the panel.
        load: what the panel draws, and which share of its motors' currents flows at a time.
    """
    if not laid.is_iec:
        return {}
    currents = _currents(conductors, potential_at, fed, sections, load)
    alone = replace(laid, grouped=1)
    least = cache(lambda size: LITTLE_LOADED * (carries_a(size, alone) or 0.0))
    ways: defaultdict[str, list[Leg]] = defaultdict(list)
    for wire in conductors:
        owner, amps = currents.get(wire.id, ("", 0.0))
        if not amps or amps <= least(wire.size):
            continue
        for leg in wire.legs:
            low, high = sorted((leg.start, leg.end))
            if high - low >= _LEAST_WAY_MM:
                ways[leg.duct].append(Leg(low=low, high=high, owner=owner, wire=wire, amps=amps))
    return ways


def crowded_wires(legs: Legs, laid: Laid) -> tuple[Crowded, ...]:
    """Return, one for each circuit, the wire that is worst off in the ducts as it is really routed.

    Source:
        IEC 60204-1:2016 Table D.2; IEC 60364-5-52 Table B.52.17 with its notes; from memory.
    """
    worst: dict[str, Crowded] = {}
    carried = cache(lambda size, laid: carries_a(size, laid) or 0.0)
    for duct, ways in legs.items():
        counts = _counts(ways)
        circuits, place = max(((count, -low) for low, count in counts.items()), default=(0, 0.0))
        together = replace(laid, grouped=circuits)
        for leg in ways:
            if not leg.low <= -place <= leg.high:
                continue
            carries = carried(leg.wire.size, together)
            if leg.amps > carries + 1e-9:
                known = worst.get(leg.owner)
                if known is None or carries / leg.amps < known.carries / known.leg.amps:
                    worst[leg.owner] = Crowded(duct=duct, circuits=circuits, leg=leg, carries=carries)
    return tuple(worst.values())


def real_groups(legs: Legs, laid: Laid) -> dict[str, int]:
    """Return how many loaded circuits really lie together with each starter or load where these are more than its wires are sized for in
    any case; none where these are as declared. What comes from the main switch is to be led by itself.

    Source:
        IEC 60204-1:2016 Table D.2; ways of less than 600 mm are not counted; from memory.
    """
    found: dict[str, int] = {}
    for ways in legs.values():
        counts = _counts(ways)
        places = list(counts)
        for leg in ways:
            most = max(counts[p] for p in places[bisect_left(places, leg.low) : bisect_right(places, leg.high)])
            for name in leg.owner.split() if most > laid.grouped else ():
                found[name] = max(most, found.get(name, 0))
    return found


def _counts(ways: Sequence[Leg]) -> dict[float, int]:
    """Return place in a duct where a wire comes in -> how many circuits lie there together, places in order; they are most at some."""
    places = sorted({leg.low for leg in ways})
    owners: list[set[str]] = [set() for _ in places]
    for low, high, owner in {(leg.low, leg.high, leg.owner) for leg in ways}:
        for there in owners[bisect_left(places, low) : bisect_right(places, high)]:
            there.add(owner)
    return {place: len(there) for place, there in zip(places, owners, strict=True)}


def _currents(
    conductors: Sequence[Conductor],
    potential_at: Mapping[str, Potential],
    fed: Fed,
    sections: Sections,
    load: PanelLoad,
) -> Mapping[WireId, tuple[str, float]]:
    """Return conductor id -> (what it belongs to, the current that it leads in A) of the power conductors that are wired inside."""
    leads = sharing(fed.circuits.values())
    found: dict[WireId, tuple[str, float]] = {}
    for wire in conductors:
        net = potential_at.get(wire.a) or potential_at.get(wire.b)
        if not wire.legs or net is None or net.net.function is not ConductorFunction.POWER:
            continue
        ends = [device_of(wire.a), device_of(wire.b)]
        names = tuple(
            dict.fromkeys(n for end in ends for n in leads.get(end, ()) if n in fed.starters or n in fed.loads)
        )
        if not names and net.net.is_line and wire.size == sections.inside[net.number]:
            found[wire.id] = ("", load.full_load)
        if len(names) > 1 and net.net.is_line:
            continue
        amps = sum(_leads_a(name, ends, fed, load.diversity) for name in names)
        if amps:
            found[wire.id] = (" ".join(names), amps)
    return found


def _leads_a(name: str, ends: Sequence[str], fed: Fed, diversity: float) -> float:
    """Return what a wire between two devices leads to a motor or load, in A."""
    if name not in fed.starters:
        return fed.loads[name].amps or 0.0
    share = DELTA_SHARE if fed.circuits[name].is_winding_lead(ends) else 1.0
    return share * diversity * fed.starters[name].motor.current
