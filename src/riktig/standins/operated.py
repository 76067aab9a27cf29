"""Owns a simulated panel that somebody operates and measures in, dead or switched on. Must not know what is wrong with it, nor judge."""

from dataclasses import dataclass

from riktig.live.actions import perform
from riktig.live.built import AS_PLANNED, Built
from riktig.live.currents import snapshot, state_of
from riktig.live.moves import moves_of
from riktig.live.names import Names
from riktig.live.protection import Breaker, Fuse, Overload, Switchgear
from riktig.live.readings import volts_between
from riktig.live.resistance import PARTED, DeadNetwork, element_resistors, wire_resistors
from riktig.live.rig import WiringState
from riktig.live.seen import Sight, look_at, tell_changes
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan
from riktig.prove.steps import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """What a meter shows: ohm in a dead panel, infinite where nothing joins the two; volts in one that is switched on."""

    value: float
    unit: Unit


class OperatedPanel:
    """A panel as it was built, with hands at its switches.

    Args:
        plan: the panel.
        built: how it was built.
        is_on: whether it is switched on; else it is as for the dead tests: breakers open, overloads tripped, emergency stops pressed in,
            earth links out.
    """

    def __init__(self, plan: Plan, built: Built = AS_PLANNED, *, is_on: bool = False) -> None:
        self._plan, self._built = plan, built
        self._simulation = Simulation(plan, WiringState(built=built))
        self._names = Names(self._simulation)
        self._parted: list[str] = []
        self.is_on = True
        if not is_on:
            self._feed(is_on=False)
            self._part()

    @property
    def actions(self) -> tuple[str, ...]:
        """What can be done, in words of scripts."""
        names, gears = self._names, self._simulation.gears
        found = [*_WAITS]
        found += [action for move in moves_of(self._simulation, names) for action in (*move.do, *move.back)]
        for gear in gears.values():
            if isinstance(gear, Switchgear) and not isinstance(gear, Overload):
                found += [f"{verb} {names.tag(gear.id)}" for verb in ("open", "close")]
            if gear.device.kind == "contactor":
                found += [f"{verb} {names.tag(gear.id)}" for verb in ("press", "release")]
        return tuple(sorted(dict.fromkeys(found)))

    @property
    def running(self) -> tuple[str, ...]:
        """What is seen to be on: coils, lamps, motors; and what has tripped by itself or by hand."""
        sight = self._look()
        return tuple(
            f"{self._names.tag(n)} {word}" for n, states in sight.items() for word in sorted(states - _RESTING)
        )

    def _look(self) -> Sight:
        """Return what is seen, of what protects only whether it has tripped."""
        gears, sight = self._simulation.gears, look_at(self._simulation, has_breakers=True)
        return {n: s & _TRIPPED if isinstance(gears[n], Breaker | Overload) else s for n, s in sight.items()}

    def switch(self, *, is_on: bool) -> tuple[str, ...]:
        """Switch the supply on or off, and return what is seen to change; what was parted for the dead tests is put back before."""
        if is_on == self.is_on:
            return ()
        before = self._look()
        for action in self._parted if is_on else ():
            perform(self._simulation, self._names, action)
        self._parted = [] if is_on else self._parted
        self._feed(is_on=is_on)
        return tuple(tell_changes(self._names, before, self._look()))

    def operate(self, action: str) -> tuple[str, ...]:
        """Do something in words of scripts, `press S2`, and return what is seen to change.

        Raises:
            ActionError: it is no action, or cannot be done.
        """
        before = self._look()
        perform(self._simulation, self._names, action)
        return tuple(tell_changes(self._names, before, self._look()))

    def read(self, a: str, b: str) -> Measured:
        """Return what a meter shows between two terminals: AC volts where there are any, else DC; ohms where it is switched off."""
        if not self.is_on:
            closed = state_of(snapshot(self._simulation)).closed
            elements = element_resistors(self._plan, self._built, closed)
            network = DeadNetwork((*wire_resistors(self._plan, self._built), *elements))
            return Measured(value=network.between((a,), (b,)), unit=Unit.OHM)
        return Measured(value=volts_between(self._simulation, a, b), unit=Unit.VOLT)

    def _feed(self, *, is_on: bool) -> None:
        self.is_on = is_on
        for feed in self._simulation.ways_in:
            feed.lost = set() if is_on else set(feed.order.values())
        self._simulation.feed()
        self._simulation.rest()

    def _part(self) -> None:
        """Open what parts the panel for the dead tests, and note how it is put back."""
        for gear in self._simulation.gears.values():
            tag, kind = self._names.tag(gear.id), gear.device.kind
            if isinstance(gear, Overload):
                do, back = f"trip {tag}", f"reset {tag}"
            elif kind in PARTED:
                do, back = f"press {tag}", f"release {tag}"
            elif isinstance(gear, Breaker | Fuse) or kind == "disconnect":
                do, back = f"open {tag}", f"close {tag}"
            else:
                continue
            perform(self._simulation, self._names, do)
            self._parted.append(back)


_RESTING = frozenset({"off", "stopped", "healthy"})
_TRIPPED = frozenset({"tripped"})
_WAITS = ("wait 1", "wait 5", "wait 15")
