"""Owns what people ask of a live circuit: why is it live, why is it not in, what would drop, what comes back by itself. Must not act."""

from collections.abc import Iterable

from riktig.live.consumers import Consumer
from riktig.live.gear import Gear
from riktig.live.motors import Motor
from riktig.live.names import Names
from riktig.live.paths import Gap, Ways, closed_only
from riktig.live.simulation import Simulation


def feed_ends(simulation: Simulation, device: str) -> tuple[tuple[int, int], ...]:
    """Return the pairs of nodes between which a device is fed; none of one that is not."""
    gear = simulation.gears[device]
    if isinstance(gear, Consumer | Motor):
        ends = [simulation.network.elements[probe] for probe in gear.probes]
        return tuple((nodes[0], nodes[1]) for nodes in ends)
    return ()


def why_live(simulation: Simulation, node: int) -> list[Gap]:
    """Return the contacts and poles by which a node comes to what feeds it, by the shortest way; empty where none is closed."""
    ways = Ways(simulation.rig, simulation.network)
    far = ways.distances(node, closed_only)
    pole = min((p for p in ways.poles if p in far), key=lambda p: far[p], default=None)
    return ways.shortest(node, pole, closed_only) if pole is not None else []


def why_off(simulation: Simulation, device: str) -> tuple[frozenset[Gap], ...]:
    """Return all smallest sets of contacts that bring a device in when they close: one empty set where it is fed, none where none does."""
    ways = Ways(simulation.rig, simulation.network)
    sets = {gaps for ends in feed_ends(simulation, device)[:1] for gaps in ways.what_closes(ends)}
    return tuple(sorted(sets, key=lambda gaps: (len(gaps), sorted(gap.a for gap in gaps))))


def why_off_words(simulation: Simulation, names: Names, device: str) -> str:
    """Return in words what stands in the way of a device: what is open, of one of the smallest sets."""
    gear = simulation.gears[device]
    sets = why_off(simulation, device)
    if not sets:
        return "" if not feed_ends(simulation, device) else "nothing can feed it"
    if not sets[0]:
        return _said(simulation, names, gear)
    return " and ".join(gap_words(simulation, names, gap) for gap in sorted(sets[0], key=lambda gap: gap.a))


def gap_words(simulation: Simulation, names: Names, gap: Gap) -> str:
    """Return `S1 is open between 12 and 13`."""
    a, b = (simulation.plan.number_at(terminal) or terminal.rpartition(":")[2] for terminal in (gap.a, gap.b))
    return f"{names.tag(gap.device)} is {'closed' if gap.is_closed else 'open'} between {a} and {b}"


def _said(simulation: Simulation, names: Names, gear: Gear) -> str:
    """Return why something is not on though closed contacts lead to it."""
    if gear.has_failed:
        return f"{names.tag(gear.id)} has failed"
    if "chattering" in gear.states:
        return f"{names.tag(gear.id)} chatters: it opens its own feed"
    ends = feed_ends(simulation, gear.id)
    volts = max((simulation.across(a, b, is_dc=is_dc) for a, b in ends for is_dc in (False, True)), default=0.0)
    return f"it has {volts:.3g} V"


def devices_of(gaps: Iterable[Gap]) -> frozenset[str]:
    """Return the devices that some contacts belong to."""
    return frozenset(gap.device for gap in gaps)
