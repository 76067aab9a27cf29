"""Owns what practising on a simulated panel needs: how a hidden fault shows, the best way to it, and how good somebody's own way was. Must
not choose faults, nor read meters.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from riktig.live.actions import perform
from riktig.live.built import Built
from riktig.live.coils import Relay
from riktig.live.gear import ActionError
from riktig.live.moves import Sort, moves_of
from riktig.live.names import Names
from riktig.live.rig import WiringState
from riktig.live.seen import Sight, look_at
from riktig.live.simulation import Simulation
from riktig.plan.circuit.zones import device_of
from riktig.plan.plan import Plan
from riktig.prove.dead import DeadPanel
from riktig.prove.faults import Fault
from riktig.prove.search import SURE, Probe, Search

_MOST_PROBES = 30
LOOK_S, PATIENCE = 15.0, 3.0
"""What it takes to see what is told, and how much longer than the hands alone somebody may take who reads the drawings too (common
practice, no source)."""
WRONG_COSTS = 10
"""Points: a wrong accusation is a wire taken off for nothing."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Effort:
    """What a way to a fault takes: measurements, and seconds."""

    measurements: int
    seconds: float


def points_of(best: Effort, own: Effort, wrong: int) -> int:
    """Return how good a way to a hidden fault was, 0 to 100: half for measurements and half for time, each against the best way, less what
    wrong accusations cost.
    """
    measured = min(1.0, best.measurements / own.measurements) if own.measurements else 1.0
    timely = min(1.0, PATIENCE * best.seconds / own.seconds) if own.seconds > 0.0 else 1.0
    return max(0, round(50.0 * (measured + timely)) - WRONG_COSTS * wrong)


@dataclass(frozen=True, slots=True, kw_only=True)
class Symptom:
    """How a fault shows in a panel that is switched on: what is done to it then, in words what is seen in place of what should be, and the
    devices that are seen and operated.
    """

    do: tuple[str, ...]
    words: str
    devices: tuple[str, ...]


class Sights:
    """What is seen of a sound panel when it has been switched on and something is done, to be held against a panel with a fault.

    Args:
        plan: the panel.
        do: what is done, in words of scripts.
    """

    def __init__(self, plan: Plan, do: Sequence[str] = ()) -> None:
        self._plan, self._do = plan, tuple(do)
        sound = Simulation(plan)
        self.names = Names(sound)
        self.moves = moves_of(sound, self.names)
        self._sight = _sight_after(sound, self._do)

    def symptom_of(self, built: Built) -> Symptom | None:
        """Return what a panel as it was built does otherwise, None where it does the same."""
        seen = _sight_after(Simulation(self._plan, WiringState(built=built)), self._do)
        return _symptom(self.names, self._do, self._sight or {}, seen)


def _sight_after(simulation: Simulation, do: Sequence[str]) -> Sight | None:
    """Return what is seen after some actions, None where one of them cannot be done."""
    names = Names(simulation)
    try:
        for action in do:
            perform(simulation, names, action)
    except ActionError:
        return None
    return look_at(simulation, has_breakers=True)


def _symptom(names: Names, do: tuple[str, ...], sound: Sight, wrong: Sight | None) -> Symptom | None:
    differs = {name: wrong[name] for name in sound if wrong is not None and wrong[name] != sound[name]}
    if not differs:
        return None
    said = []
    for name, states in differs.items():
        has, should = (" ".join(sorted(one)) or "not so" for one in (states - sound[name], sound[name] - states))
        said.append(f"{names.tag(name)} {has}, should be {should}")
    words = "; ".join(said[:_MOST_SAID]) + ("; and more" if len(said) > _MOST_SAID else "")
    operated = dict.fromkeys(names.device(action.split()[1]) for action in do if names.has_device(action.split()[1]))
    return Symptom(
        do=do, words=f"{', then '.join(_pushed(do)) or 'switched on'}: {words}", devices=(*differs, *operated)
    )


_MOST_SAID = 3


def find_symptom(plan: Plan, built: Built) -> Symptom | None:
    """Return the first thing that a panel as it was built does otherwise than planned: when it is switched on; when one thing is
    operated after that, with what must be on before anything starts on first; with all running that can. None where it does the same.
    """
    first = Sights(plan).symptom_of(built)
    if first is not None:
        return first
    return _with_on(plan, built, frozenset({"relay"})) or _with_on(plan, built, frozenset({"relay", "contactor"}))


def _with_on(plan: Plan, built: Built, kinds: frozenset[str]) -> Symptom | None:
    """Return what shows when one thing after the other is operated while coils of some kinds are on, as far as hands bring them on."""
    sound, wrong = Simulation(plan), Simulation(plan, WiringState(built=built))
    enabling = _enabling(sound, kinds)
    if _sight_after(sound, enabling) != _sight_after(wrong, enabling):
        return Sights(plan, enabling).symptom_of(built)
    for move in moves_of(sound, Names(sound)):
        done: list[str] = []
        for action in (*move.do, *move.back):
            done.append(action)
            seen = [_sight_after(simulation, [action]) for simulation in (sound, wrong)]
            if seen[0] != seen[1]:  # told only if it shows without all that was done before as well
                again = Sights(plan, done).symptom_of(built) or Sights(plan, [*enabling, *done]).symptom_of(built)
                if again is not None:
                    return again
    return None


def _enabling(sound: Simulation, kinds: frozenset[str]) -> tuple[str, ...]:
    """Return what is done so that coils come on and stay: control on, emergency stop reset, what must run before something else does."""
    panel = sound.fork()
    names = Names(panel)
    coils = [gear for gear in panel.gears.values() if isinstance(gear, Relay) and gear.device.kind in kinds]
    found: list[str] = []
    moves = [move for move in moves_of(panel, names) if move.sort is Sort.START and move.do]
    for move in moves * _ROUNDS:
        was = {coil.id for coil in coils if coil.is_on}
        _sight_after(panel, (*move.do, *move.back))
        if any(coil.is_on and coil.id not in was for coil in coils):
            found += [*move.do, *move.back]
    return tuple(found)


_ROUNDS = 3
"""So often everything is tried that may start something: what one has let come on may let another start."""


def _pushed(do: Sequence[str]) -> list[str]:
    """Return actions with each press that is let go of at once as one push."""
    found: list[str] = []
    for action in do:
        if found and action.startswith("release ") and found[-1] == action.replace("release", "press"):
            found[-1] = action.replace("release", "push")
        else:
            found.append(action)
    return found


def near_faults(plan: Plan, faults: Iterable[Fault], devices: Sequence[str]) -> list[Fault]:
    """Return the faults at the potentials of some devices and of what belongs to the same starters, as one thinks of them: those at the
    first device first, and those at small potentials before those at large ones.
    """
    index = plan.circuit.index
    owners = {index[device].owner or device for device in devices if device in index}
    mine = {device.id for device in plan.circuit.devices if (device.owner or device.id) in owners}
    ranks: dict[str, tuple[bool, int]] = {}
    for potential in plan.potentials:
        at = {device_of(end) for end in potential.net.terminals}
        if not at.isdisjoint(mine):
            ranks[potential.number] = (at.isdisjoint(devices[:1]), len(potential.net.terminals))
    found = []
    for fault in faults:
        known = [ranks[number] for end in fault.at if (number := plan.number_at(end)) in ranks]
        if fault.built is not None and known:
            found.append((min(known), fault))
    return [fault for _, fault in sorted(found, key=lambda one: one[0])]


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """A way to a fault: what was measured with the ohms read, and what it took."""

    probes: tuple[tuple[Probe, float], ...]
    effort: Effort


def best_way(panel: DeadPanel, search: Search, built: Built) -> Way:
    """Return the way that a search takes to a fault, from what it knows already until it is sure."""
    network = panel.network(built)
    probes: list[tuple[Probe, float]] = []
    while len(probes) < _MOST_PROBES and search.suspects[0].share < SURE:
        probe = search.next_probe()
        if probe is None:
            break
        ohms = network.between((probe.a,), probe.b)
        search.take_reading(probe.a, probe.b, ohms)
        probes.append((probe, ohms))
    seconds = LOOK_S + sum(probe.seconds for probe, _ in probes)
    return Way(probes=tuple(probes), effort=Effort(measurements=len(probes), seconds=seconds))
