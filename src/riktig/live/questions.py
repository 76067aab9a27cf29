"""Owns what people ask of a live circuit: why is it live, why is it not in, what would drop, what comes back by itself. Must not act."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from riktig.live.consumers import Consumer
from riktig.live.laws import nothing
from riktig.live.motors import Motor
from riktig.live.network import Voltages
from riktig.live.paths import Gap, Ways, closed_only
from riktig.live.protection import Overload
from riktig.live.rig import EARTH
from riktig.live.simulation import Simulation

_SNEAKS_FROM = 0.05
_FLOATS_V = 1.0
_GONE_S = 5.0
"""So long the supply is away, or a device is off, when it is asked what comes back."""


def feed_ends(simulation: Simulation, device: str) -> tuple[tuple[int, int], ...]:
    """Return the pairs of nodes between which a device is fed; none of one that is not."""
    gear = simulation.gears[device]
    if isinstance(gear, Consumer | Motor):
        ends = [simulation.network.elements[probe] for probe in gear.probes]
        return tuple((nodes[0], nodes[1]) for nodes in ends)
    return ()


def floats(simulation: Simulation, node: int) -> bool:
    """Return whether a node has volts that nothing joins to earth: to earth they may be anything, those read are to a node beside it."""
    network = simulation.network
    beside: dict[int, list[int]] = {}
    pairs = [network.switches[n] for n, closed in enumerate(network.closed) if closed]
    pairs += [
        (nodes[a], nodes[b]) for nodes, law in zip(network.elements, network.laws, strict=True) for a, b in law.joins
    ]
    for a, b in pairs:
        beside.setdefault(a, []).append(b)
        beside.setdefault(b, []).append(a)
    seen, front = {node}, [node]
    for one in front:
        for other in beside.get(one, ()):
            if other not in seen:
                seen.add(other)
                front.append(other)
    volts = simulation.volts
    return EARTH not in seen and any(
        abs(volts.ac[n] - volts.ac[node]) + abs(volts.dc[n] - volts.dc[node]) > _FLOATS_V for n in seen
    )


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


def cut_sets(simulation: Simulation, device: str) -> tuple[frozenset[Gap], ...]:
    """Return all smallest sets of contacts that must open so that a device can by no means be fed, whatever else closes; none where it
    hangs on what feeds it with nothing between, or where more than four would have to.
    """
    ways = Ways(simulation.rig, simulation.network)
    return ways.cuts(feed_ends(simulation, device)[0]) if feed_ends(simulation, device) else ()


def redundant(simulation: Simulation) -> frozenset[Gap]:
    """Return the closed contacts that could open and nothing would change, since others are closed beside them: a start contact while the
    seal-in holds.
    """
    return Ways(simulation.rig, simulation.network).in_rings()


def what_depends(simulation: Simulation, places: Iterable[tuple[str, int]]) -> tuple[str, ...]:
    """Return the devices that are on now and drop when some contacts or poles open, with all that follows."""
    other = simulation.fork()
    before = _on(other)
    other.bar(list(places))
    other.rest()
    return tuple(name for name in before if name not in _on(other))


@dataclass(frozen=True, slots=True, kw_only=True)
class Sneak:
    """A load that is fed backwards, through another load, when a device opens: with how many volts."""

    opened: str
    load: str
    volts: float


def sneak_paths(simulation: Simulation) -> tuple[Sneak, ...]:
    """Return which loads are fed through another load or lamp after one device opens, from the state that the panel is in now.

    Source:
        From 5 % of its volts: common practice, no source.
    """
    closed: dict[str, list[tuple[str, int]]] = {}
    for gap in Ways(simulation.rig, simulation.network).gaps:
        if gap.is_closed:
            closed.setdefault(gap.device, []).append(gap.place)
    found = []
    already = dict(_fed_through_loads(simulation, simulation.volts))
    for name, places in closed.items():
        if set(_back_fed(simulation, places)) - set(already):
            other = simulation.fork()
            other.bar(places)
            other.rest()
            found += [
                Sneak(opened=name, load=load, volts=volts)
                for load, volts in _fed_through_loads(other, other.volts)
                if load not in already
            ]
    return tuple(found)


def _back_fed(simulation: Simulation, places: Sequence[tuple[str, int]]) -> list[str]:
    """Return what is fed through a load at the instant at which a device opens; the panel is left as it was."""
    network = simulation.network
    laws = {n: network.laws[n] for sort, n in places if sort == "element"}
    switches = [n for sort, n in places if sort == "switch"]
    for n in laws:
        network.put(n, nothing(len(network.elements[n])))
    for n in switches:
        network.switch(n, is_closed=False)
    found = [load for load, _ in _fed_through_loads(simulation, network.solve())]
    for n, law in laws.items():
        network.put(n, law)
    for n in switches:
        network.switch(n, is_closed=True)
    network.solve()
    return found


def _fed_through_loads(simulation: Simulation, volts_now: Voltages) -> list[tuple[str, float]]:
    """Return the loads that have volts though closed contacts do not join both their ends to what feeds, with how many."""
    ways = Ways(simulation.rig, simulation.network)
    reached = ways.reached()
    found = []
    for name, gear in simulation.gears.items():
        if isinstance(gear, Consumer) and not gear.has_failed:
            for a, b in feed_ends(simulation, name):
                volts = float(
                    abs(volts_now.dc[a] - volts_now.dc[b]) if gear.is_dc else abs(volts_now.ac[a] - volts_now.ac[b])
                )
                if volts >= _SNEAKS_FROM * gear.volts and not (a in reached and b in reached):
                    found.append((name, volts))
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class Restart:
    """What runs by itself after something was put right: `cause` is `supply`, or the device that is reset or let go."""

    cause: str
    devices: tuple[str, ...]


def restarts(simulation: Simulation) -> tuple[Restart, ...]:
    """Return what runs by itself after the supply comes back, an overload is reset, an emergency stop is let go; nothing where nothing
    does. Buttons, selectors, levels and outputs stay as they are now.
    """
    found = []
    other = simulation.fork()
    for feed in other.ways_in:
        feed.lost |= set(feed.terminals)
    other.feed()
    other.run(_GONE_S)
    for feed, was in zip(other.ways_in, simulation.ways_in, strict=True):
        feed.lost = set(was.lost)
    other.feed()
    other.run(_GONE_S)
    found.append(Restart(cause="supply", devices=tuple(_running(other))))
    for name, gear in simulation.gears.items():
        verbs = (
            ("trip", "reset")
            if isinstance(gear, Overload)
            else ("press", "release")
            if gear.device.kind == "emergency-stop"
            else ()
        )
        if not verbs or gear.states & {"tripped", "operated"}:
            continue
        other = simulation.fork()
        before = set(_running(other))
        other.act(name, verbs[0])
        other.run(_GONE_S)
        stopped = before - set(_running(other))
        other.act(name, verbs[1])
        other.run(_GONE_S)
        found.append(Restart(cause=name, devices=tuple(n for n in _running(other) if n in stopped)))
    return tuple(one for one in found if one.devices)


def _running(simulation: Simulation) -> list[str]:
    """Return the motors that turn."""
    return [name for name, gear in simulation.gears.items() if isinstance(gear, Motor) and "stopped" not in gear.states]


def _on(simulation: Simulation) -> list[str]:
    return [
        name for name, gear in simulation.gears.items()
        if (isinstance(gear, Consumer) and gear.is_on) or (isinstance(gear, Motor) and "stopped" not in gear.states)
    ]  # fmt: skip


def devices_of(gaps: Iterable[Gap]) -> frozenset[str]:
    """Return the devices that some contacts belong to."""
    return frozenset(gap.device for gap in gaps)
