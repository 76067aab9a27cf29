"""Owns what a script may do, word by word. Must not know what is expected of it."""

from riktig.live.faults import is_fault, put_fault
from riktig.live.gear import ActionError, number_of
from riktig.live.names import Names
from riktig.live.operators import Selector
from riktig.live.simulation import Simulation

_OF_DEVICES = ("press", "release", "turn", "close", "open", "trip", "reset", "set", "fail")
VERBS = (*_OF_DEVICES, "push", "level", "mend", "fault", "lose", "wait")
"""All that an action may begin with."""
DOOR = "door"
"""What moves all switches that the door of the enclosure moves; it is closed at first."""
_LONGEST_S = 1e7
_MOST_WAIT_S, MOST_LATER = 120.0, 6
"""So long something is waited for that happens by itself, and so often after one action: what goes on for ever is left."""


def perform(simulation: Simulation, names: Names, action: str) -> None:
    """Do what an action says, and let what follows from it come to rest.

    Raises:
        ActionError: it is none, or cannot be done.
    """
    verb, _, rest = action.strip().partition(" ")
    name, _, value = rest.strip().partition(" ")
    value = value.strip()
    if verb == "wait":
        simulation.run(number_of(rest, 0.0, _LONGEST_S))
        return
    if verb == "push":
        for half in ("press", "release"):
            simulation.act(names.device(name), half)
            simulation.rest()
        return
    if verb == "level":
        _set_level(simulation, names, name, number_of(value, 0.0, 1000.0))
    elif verb == "fault":
        put_fault(simulation, names, rest)
    elif verb == "lose" or (verb == "mend" and names.line(rest) is not None):
        _lose(simulation, names, rest, is_lost=verb == "lose")
    elif verb == "mend" and is_fault(rest):
        put_fault(simulation, names, rest, is_mended=True)
    elif name == DOOR and verb in {"open", "close"}:
        for device in names.door_switches:
            simulation.act(device, verb)
    elif verb in _OF_DEVICES or verb == "mend":
        _pass(simulation, names.device(name), verb, value)
        simulation.act(names.device(name), verb, value)
    else:
        raise ActionError(f"{action!r} begins with no action: {', '.join(VERBS)}")
    simulation.rest()


def wait_for(panel: Simulation) -> str:
    """Return the wait for what soon happens by itself, "" where nothing does."""
    due = panel.agenda.next_time
    return f"wait {due - panel.now + 0.5:.1f}" if due is not None and 0 < due - panel.now <= _MOST_WAIT_S else ""


def _pass(simulation: Simulation, device: str, verb: str, value: str) -> None:
    """Let a selector that is turned go through the positions in between: what holds itself over its contact drops there."""
    gear = simulation.gears[device]
    for position in gear.passed(value) if verb == "turn" and isinstance(gear, Selector) else ():
        simulation.act(device, "turn", position)
        simulation.rest()
        simulation.run(_PASSES_S)


_PASSES_S = 0.2
"""How long a hand takes over a position of a selector that it goes through (common practice, no source)."""


def _set_level(simulation: Simulation, names: Names, name: str, metres: float) -> None:
    """Let a level stand so high: its floats follow from the bottom up."""
    body = next((body for body in simulation.field if body.name == name), None)
    if body is not None:
        body.value, body.since = metres, simulation.now
        simulation.settle()
        return
    for device, height in sorted(names.floats(name), key=lambda one: one[1]):
        simulation.act(device, "close" if metres >= height else "open")


def _lose(simulation: Simulation, names: Names, name: str, *, is_lost: bool) -> None:
    found = names.line(name)
    if found is None:
        raise ActionError(f"no line comes in that is called {name or 'nothing'}")
    feed, line = found
    (feed.lost.add if is_lost else feed.lost.discard)(feed.order[line])
    simulation.tell(name, "lost" if is_lost else "back")
    simulation.feed()
