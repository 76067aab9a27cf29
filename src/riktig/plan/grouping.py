"""Owns which power circuits really lie together in each duct, and which of their wires carry too little there. Must not size any."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, replace

from riktig.job.ids import WireId
from riktig.job.model import Standard
from riktig.plan.basis.conductor import carries_a
from riktig.plan.basis.motor import DELTA_SHARE
from riktig.plan.circuit.power import sharing
from riktig.plan.circuit.zones import device_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.standards.colours import ConductorFunction

LITTLE_LOADED = 0.3
"""A circuit that carries no more than this share of what it could is not counted in a group: IEC 60364-5-52 B.52.17 note, from memory."""
_LEAST_WAY_MM = 600.0
"""Wires that go through a duct for less than this are not grouped: NEC 310.15(C)(1)(b) has 600 mm, taken here too; from memory."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Crowded:
    """A wire that carries too little where it lies: the duct, how many loaded circuits there are at its fullest place, what the wire
    belongs to ("" for the supply), what it leads and what it carries there in A.
    """

    duct: str
    circuits: int
    owner: str
    wire: Conductor
    amps: float
    carries: float


def crowded_wires(plan: Plan) -> tuple[Crowded, ...]:
    """Return, one for each circuit, the wire that is worst off in the ducts as it is really routed.

    Source:
        IEC 60204-1:2016 Table D.2; IEC 60364-5-52 Table B.52.17 with its notes; from memory.
    """
    worst: dict[str, Crowded] = {}
    for duct, laid in _loaded_legs(plan).items():
        place, circuits = _fullest(laid)
        together = replace(plan.laid_inside, grouped=circuits)
        for low, high, owner, wire, amps in laid:
            carries = carries_a(wire.size, together) or 0.0
            if low <= place <= high and amps > carries + 1e-9:
                found = Crowded(duct=duct, circuits=circuits, owner=owner, wire=wire, amps=amps, carries=carries)
                if owner not in worst or carries / amps < worst[owner].carries / worst[owner].amps:
                    worst[owner] = found
    return tuple(worst.values())


def real_groups(plan: Plan) -> dict[str, int]:
    """Return how many loaded circuits really lie together with each starter or load where these are more than its wires are sized for in
    any case; none where these are as declared, and none in North America. What comes from the main switch is to be led by itself.

    Source:
        IEC 60204-1:2016 Table D.2; ways of less than 600 mm are not counted; from memory.
    """
    found: dict[str, int] = {}
    if plan.job.practice.standard is not Standard.IEC or plan.job.practice.grouping != "laid":
        return found
    for laid in _loaded_legs(plan).values():
        places = sorted({low for low, *_ in laid})
        counts = [len({owner for low, high, owner, *_ in laid if low <= place <= high}) for place in places]
        for low, high, owner, *_ in laid:
            most = max(count for place, count in zip(places, counts, strict=True) if low <= place <= high)
            for name in owner.split() if most > plan.laid_inside.grouped else ():
                found[name] = max(most, found.get(name, 0))
    return found


_Leg = tuple[float, float, str, Conductor, float]
"""From and to along its duct in mm, what the wire belongs to, the wire, and the current in A."""


def _loaded_legs(plan: Plan) -> Mapping[str, list[_Leg]]:
    """Return by duct where wires lie that are loaded enough, and long enough, to warm each other."""
    currents = _currents(plan)
    alone = replace(plan.laid_inside, grouped=1)
    ways: defaultdict[str, list[_Leg]] = defaultdict(list)
    for wire in plan.conductors:
        owner, amps = currents.get(wire.id, ("", 0.0))
        bare = carries_a(wire.size, alone) or 0.0
        if wire.id in currents and amps > LITTLE_LOADED * bare:
            for leg in wire.legs:
                low, high = sorted((leg.start, leg.end))
                if high - low >= _LEAST_WAY_MM:
                    ways[leg.duct].append((low, high, owner, wire, amps))
    return ways


def _fullest(laid: list[_Leg]) -> tuple[float, int]:
    """Return the place in a duct where most circuits lie together, and how many."""
    best = (0.0, 0)
    starts = sorted({low for low, *_ in laid})
    for place in starts:
        count = len({owner for low, high, owner, *_ in laid if low <= place <= high})
        best = (place, count) if count > best[1] else best
    return best


def _currents(plan: Plan) -> Mapping[WireId, tuple[str, float]]:
    """Return conductor id -> (what it belongs to, the current that it leads in A) of the power conductors that are wired inside."""
    leads = sharing(plan.power_circuits.values())
    diversity = plan.panel.load.diversity
    found: dict[WireId, tuple[str, float]] = {}
    for wire in plan.conductors:
        net = plan.potential_of(wire.a) or plan.potential_of(wire.b)
        if not wire.legs or net is None or net.net.function is not ConductorFunction.POWER:
            continue
        ends = [device_of(wire.a), device_of(wire.b)]
        fed = tuple(
            dict.fromkeys(n for end in ends for n in leads.get(end, ()) if n in plan.starters or n in plan.own_loads)
        )
        if not fed and net.net.is_line:
            is_main = wire.size == plan.sections.inside[net.number]
            if is_main:
                found[wire.id] = ("", plan.panel.load.full_load)
            continue
        if len(fed) > 1 and net.net.is_line:
            continue
        amps = 0.0
        for name in fed:
            if name in plan.starters:
                share = DELTA_SHARE if plan.power_circuits[name].is_winding_lead(ends) else 1.0
                amps += share * diversity * plan.starters[name].motor.current
            else:
                amps += plan.own_loads[name].amps or 0.0
        if amps:
            found[wire.id] = (" ".join(fed), amps)
    return found
