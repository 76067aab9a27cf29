"""Owns what is said of one thing of a live circuit: volts, amperes, what is in its way, what feeds it. Must not act."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from riktig.live.claims import measure, volts_of
from riktig.live.coils import Relay
from riktig.live.consumers import Consumer
from riktig.live.currents import LIVE_VOLTS, LiveState
from riktig.live.gear import Gear
from riktig.live.motors import Motor
from riktig.live.names import Names
from riktig.live.paths import Gap
from riktig.live.questions import feed_ends, floats, why_live, why_off
from riktig.live.simulation import Simulation
from riktig.plan.circuit.zones import device_of

_MOST_SETS, _DEEPEST = 3, 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Pass:
    """A contact or pole that a way goes through: its device, the name that people call it by, and the numbers on both sides, the one
    nearer to what is fed first."""

    device: str
    tag: str
    numbers: tuple[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """What a device or potential is at an instant.

    Attributes:
        name: tag or number.
        states: what is true of a device, in words of scripts; empty of a potential.
        volts: V of a potential to earth, or across what a device is fed by; None of what has none of its own.
        is_floating: nothing joins a potential to earth: its volts are to its own return.
        amps: A through a device; None of what measures none.
        in_the_way: sets of what is open or failed, each of which brings the device in once it is put right; what hands do most for first,
            relays told by what keeps them off.
        is_past: as it was, not as it is; why and by which way is told of now alone.
        way: from it on to what feeds it, by the shortest way; empty where it is dead.
    """

    name: str
    states: tuple[str, ...] = ()
    volts: float | None = None
    is_floating: bool = False
    amps: float | None = None
    in_the_way: tuple[tuple[str, ...], ...] = ()
    way: tuple[Pass, ...] = ()
    is_past: bool = False


def read_past(state: LiveState, simulation: Simulation, names: Names, ref: str) -> Reading | None:
    """Return what a device or potential (`net:16`) was in a state of the panel, None for what is neither."""
    if ref.startswith("net:"):
        number = ref.removeprefix("net:")
        potential = names.potential(number)
        if potential is None or not potential.net.terminals:
            return None
        return Reading(name=number, volts=state.volts.get(potential.net.terminals[0], 0.0), is_past=True)
    gear = simulation.gears.get(ref)
    if gear is None:
        return None
    amps = [abs(a) for terminal, a in state.amps.items() if device_of(terminal) == ref]
    return Reading(
        name=names.tag(ref),
        states=tuple(sorted(state.states[ref])),
        amps=max(amps, default=0.0) if gear.probes else None,
        is_past=True,
    )


def read_thing(simulation: Simulation, names: Names, ref: str) -> Reading | None:
    """Return what a device or potential (`net:16`) is now, None for what is neither."""
    if ref.startswith("net:"):
        return _read_potential(simulation, names, ref.removeprefix("net:"))
    gear = simulation.gears.get(ref)
    if gear is None:
        return None
    is_off = isinstance(gear, Motor | Relay | Consumer) and not is_on(gear)
    ends = feed_ends(simulation, ref)
    return Reading(
        name=names.tag(ref),
        states=tuple(sorted(gear.states)),
        volts=measure(simulation, names, ref, "V") if ends and gear.probes else None,
        amps=measure(simulation, names, ref, "A") if gear.probes else None,
        in_the_way=_in_the_way(simulation, names, ref) if is_off else (),
        way=_way(simulation, names, max(ends[0], key=lambda node: _volts(simulation, node))) if ends else (),
    )


def _read_potential(simulation: Simulation, names: Names, number: str) -> Reading | None:
    potential = names.potential(number)
    if potential is None or not potential.net.terminals:
        return None
    node = simulation.rig.node(potential.net.terminals[0])
    return Reading(
        name=number,
        volts=volts_of(simulation, names, number),
        is_floating=floats(simulation, node),
        way=_way(simulation, names, node),
    )


def volts_between(simulation: Simulation, a: str, b: str) -> float:
    """Return what a meter shows between two terminals: AC volts where there are any, else DC; 0 V at one that hangs on nothing."""
    nodes = [simulation.rig.node_of.get(terminal) for terminal in (a, b)]
    if nodes[0] is None or nodes[1] is None:
        return 0.0
    return max(simulation.across(nodes[0], nodes[1], is_dc=is_dc) for is_dc in (False, True))


def _volts(simulation: Simulation, node: int) -> float:
    return float(max(abs(simulation.volts.ac[node]), abs(simulation.volts.dc[node])))


def _way(simulation: Simulation, names: Names, node: int) -> tuple[Pass, ...]:
    if _volts(simulation, node) < LIVE_VOLTS:
        return ()
    found = []
    for gap in why_live(simulation, node):
        ends = list(zip(gap.nodes, (gap.a, gap.b), strict=True))
        (_, near), (node, far) = ends if ends[0][0] == node else reversed(ends)
        near, far = (simulation.plan.number_at(end) or "" for end in (near, far))
        found.append(Pass(device=gap.device, tag=names.tag(gap.device), numbers=(near, far)))
    return tuple(found)


def is_on(gear: Gear) -> bool:
    """Return whether a motor turns, a coil is in, a lamp burns."""
    return "stopped" not in gear.states if isinstance(gear, Motor) else gear.is_on


def _in_the_way(simulation: Simulation, names: Names, device: str) -> tuple[tuple[str, ...], ...]:
    sets = why_off(simulation, device)
    if not sets:
        return (("nothing can feed it",),) if feed_ends(simulation, device) else ()
    if not sets[0]:
        return ((_said(simulation, names, simulation.gears[device]),),)
    found = (
        tuple(dict.fromkeys(_roots(simulation, names, gaps, frozenset({device}))))
        for gaps in _by_hand(simulation, sets)
    )
    return tuple(dict.fromkeys(found))[:_MOST_SETS]


def _roots(simulation: Simulation, names: Names, gaps: Sequence[Gap], told: frozenset[str]) -> Iterator[str]:
    """Yield what is open of a set, once for each device; of a relay that is off what keeps it so."""
    for gap in {gap.device: gap for gap in gaps}.values():
        gear = simulation.gears.get(gap.device)
        is_off = isinstance(gear, Relay) and not gear.is_on
        behind = why_off(simulation, gap.device) if is_off and gap.device not in told and len(told) < _DEEPEST else ()
        if behind and behind[0]:
            yield from _roots(simulation, names, _by_hand(simulation, behind)[0], told | {gap.device})
        else:
            yield gap_words(simulation, names, gap)


def _by_hand(simulation: Simulation, sets: Sequence[frozenset[Gap]]) -> list[list[Gap]]:
    """Return sets of contacts, those that hands do most for first."""
    ordered = sorted(sets, key=lambda gaps: sum(isinstance(simulation.gears.get(gap.device), Relay) for gap in gaps))
    return [sorted(gaps, key=lambda gap: gap.a) for gaps in ordered]


def why_off_words(simulation: Simulation, names: Names, device: str, deep: int = 2) -> str:
    """Return in words what stands in the way of a device: what is open, of the set that hands do most for, once for each device; and why a
    relay of it is off; empty for what is not fed at all.
    """
    sets = why_off(simulation, device)
    if not sets:
        return "nothing can feed it" if feed_ends(simulation, device) else ""
    if not sets[0]:
        return _said(simulation, names, simulation.gears[device])
    said: dict[str, str] = {}
    for gap in _by_hand(simulation, sets)[0]:
        words = gap_words(simulation, names, gap)
        gear = simulation.gears.get(gap.device)
        if deep and isinstance(gear, Relay) and not gear.is_on and gear.id != device:
            further = why_off_words(simulation, names, gear.id, deep - 1)
            words += f" ({names.tag(gear.id)} is off: {further})" if further else ""
        said.setdefault(gap.device, words)
    return " and ".join(said.values())


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
