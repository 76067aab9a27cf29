"""Owns the voltage along the way to a motor, running and starting. Must not size anything."""

from dataclasses import dataclass
from math import isfinite

from riktig.job.model import Starter
from riktig.plan.circuit.zones import device_of
from riktig.plan.panel import INSIDE
from riktig.plan.plan import Plan
from riktig.plan.sizes.starter import COS_PHI, START_COS_PHI, drop_volts, drops_of
from riktig.standards import iec_60228
from riktig.standards.colours import ConductorFunction

SOURCE = "supply: U · I / Ik, the sag of a source by its fault current; wires: IEC 60364-5-52 Annex G, from memory"
_LINES = frozenset({ConductorFunction.POWER, ConductorFunction.NEUTRAL})


@dataclass(frozen=True, slots=True, kw_only=True)
class FeederPoint:
    """A place on the way: its name, metres from the panel's terminals, and volts running and while the motor starts, in
    percent of the supply's.
    """

    name: str
    metres: float
    running_percent: float
    starting_percent: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FeederProfile:
    """The way to one motor, the source first."""

    starter: str
    volts: float
    points: tuple[FeederPoint, ...]


def profile_feeder(plan: Plan, name: str) -> FeederProfile:
    """Return the voltage along the way to a starter's motor: source, panel, terminals, motor.

    The source sags by the current over its fault current, on the safe side as if both had the same angle; in the panel one
    line is followed from the main switch to the starter's terminals, as if it carried this motor's current alone.

    Raises:
        KeyError: there is no such starter.

    Source:
        IEC 60364-5-52 Annex G and IEC 60909 (U · I / Ik), from memory.
    """
    sizes = plan.starters[name]
    starter, motor, world = sizes.starter, sizes.motor, sizes.world
    volts = drop_volts(starter, world)
    running = max(plan.panel.full_load_a, motor.current)
    starting = running - motor.current + motor.start
    sag = [100.0 * amps / (1000.0 * world.motor.way_in.available_ka) for amps in (running, starting)]
    metres = _inside_m(plan, starter)
    inside = [
        100.0 * iec_60228.voltage_drop_v(amps, metres, sizes.line.mm2, cos_phi, phases=starter.phases) / volts
        for amps, cos_phi in ((motor.current, starter.cos_phi or COS_PHI), (motor.start, START_COS_PHI))
    ]  # fmt: skip
    cable = [value.value for value in drops_of(starter, motor, plan.cable_size(name), world)]
    at_panel = [100.0 - s for s in sag]
    at_strip = [p - i for p, i in zip(at_panel, inside, strict=True)]
    at_motor = [s - c for s, c in zip(at_strip, cable, strict=True)]
    places = (
        ("source", -max(world.metres, 10.0) / 4, [100.0, 100.0]), ("main switch", 0.0, at_panel),
        ("terminals", metres, at_strip), ("motor", metres + world.metres, at_motor),
    )  # fmt: skip
    points = tuple(
        FeederPoint(name=what, metres=at, running_percent=percent[0], starting_percent=percent[1])
        for what, at, percent in places
    )
    return FeederProfile(starter=name, volts=volts, points=points)


def _inside_m(plan: Plan, starter: Starter) -> float:
    """Return the metres of one line from the main switch through the panel to a starter's terminals; 0 without a way.

    Devices pass the current from any terminal to any other, strips only at one clamp; what lies outside counts nothing.
    """
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import dijkstra

    lines = {terminal for net in plan.netlist.nets if net.function in _LINES for terminal in net.terminals}
    places: dict[str, int] = {}
    shortest: dict[tuple[int, int], float] = {}
    for conductor in plan.conductors:
        if not lines.isdisjoint((conductor.a, conductor.b)):
            a, b = sorted(places.setdefault(_place(end, plan), len(places)) for end in (conductor.a, conductor.b))
            metres = conductor.length_mm / 1000.0 if conductor.location in INSIDE else 0.0
            shortest[a, b] = min(metres, shortest.get((a, b), metres))
    switch = f"{starter.power}.Q" if plan.job.way_in(starter.power) is not plan.job.supply else "Q0"
    start, end = places.get(switch), places.get(starter.name)
    if start is None or end is None:
        return 0.0
    rows, columns = zip(*shortest, strict=True)
    weights = [max(metres, 1e-6) for metres in shortest.values()]
    graph = coo_array((weights, (rows, columns)), shape=(len(places), len(places)))
    metres = float(dijkstra(graph, directed=False, indices=start)[end])
    return metres if isfinite(metres) else 0.0


def _place(terminal: str, plan: Plan) -> str:
    device = device_of(terminal)
    return device if device in plan.circuit.index else terminal
