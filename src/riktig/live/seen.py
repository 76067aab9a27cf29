"""Owns what somebody who stands before a panel sees of it, and what has changed since. Must not act."""

from collections.abc import Iterator, Mapping

from riktig.live.coils import Relay
from riktig.live.consumers import Consumer
from riktig.live.gear import Gear
from riktig.live.motors import Motor
from riktig.live.names import Names
from riktig.live.operators import Operated, Selector
from riktig.live.protection import Breaker, Overload
from riktig.live.simulation import Simulation

TOLD = frozenset({
    "on", "off", "forward", "reverse", "stopped", "star", "delta", "tripped", "healthy", "single-phasing", "running", "ready",
})  # fmt: skip
"""States that somebody who tests sees or measures."""
Sight = Mapping[str, frozenset[str]]
"""Device -> the states of it that are seen."""


def look_at(simulation: Simulation, *, has_breakers: bool = False) -> Sight:
    """Return what is seen of a panel: coils, lamps, motors, what has tripped; of breakers only where somebody looks for it."""
    kinds = (Consumer, Relay, Motor, Overload, *((Breaker,) if has_breakers else ()))
    return {name: gear.states & TOLD for name, gear in simulation.gears.items() if _is_seen(gear, kinds)}


def _is_seen(gear: Gear, kinds: tuple[type[Gear], ...]) -> bool:
    is_for_hands = isinstance(gear, Selector) or (isinstance(gear, Operated) and not gear.probes)
    return isinstance(gear, kinds) and not is_for_hands


def tell_changes(names: Names, before: Sight, after: Sight) -> Iterator[str]:
    """Yield what is seen otherwise than before, in words of scripts: `K1 on`."""
    for name, states in after.items():
        yield from (f"{names.tag(name)} {word}" for word in sorted(states - before[name]))
