"""Owns time in a live circuit: what happens next, and what follows from it at once. Must not know kinds of things.

Time goes from one event to the next: a coil pulls in, a time runs out, a motor is at speed, a breaker trips. Between two events nothing
changes, so that an hour costs as much as a second. The same actions give the same events.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from copy import deepcopy
from dataclasses import dataclass
from math import inf

from riktig.live.agenda import Agenda, Pulls, Sensors
from riktig.live.field import StandIn
from riktig.live.gear import ActionError, Gear
from riktig.live.laws import nothing
from riktig.live.network import Voltages
from riktig.live.panel import gears_of, ways_in
from riktig.live.rig import Rig, WiringState
from riktig.live.supplies import WayInGear
from riktig.plan.plan import Plan

_AT_ONCE = 60
"""So often things may act on each other at one instant until they are said to have no rest."""
_REST, _MOST_REST = 0.5, 3.0
"""After an action all is awaited that is due within so many seconds of what happened last, and no longer than so many."""
_WARM_UP = 3.0
_BLOCKS_OF_A_STEP = 40
_MOST_EVENTS = 100_000
"""So much may happen while time goes by at once; more is something that flutters."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Happening:
    """Something that happened: seconds since the start, the device (or way in) and a few words."""

    time: float
    device: str
    words: str

    def __deepcopy__(self, memo: object) -> "Happening":
        """Return this very one: what has happened stays as it was, in every copy of a panel."""
        return self


class Simulation:
    """A panel that is switched on: all switches and breakers closed, nobody has touched anything, everything is at rest.

    Args:
        plan: the panel.
        wiring: what is wrong with its wires.
        is_on: whether it is; else `switching_on` is to be gone through first.
    """

    def __init__(self, plan: Plan, wiring: WiringState | None = None, *, is_on: bool = True) -> None:
        self.plan, self.now = plan, -_WARM_UP
        self.gears: dict[str, Gear] = {}
        self.ways_in: tuple[WayInGear, ...] = ()
        self.log: list[Happening] = []
        self.watch: Callable[[], None] | None = None
        """Called at each instant when all has come to rest there."""
        self.field: list[StandIn] = []
        self._order: dict[str, int] = {}
        self.agenda = Agenda()
        """What happens by itself, and when."""
        self._dirty: set[str] = set()
        self._claims: dict[str, Sequence[Callable[[], bool]]] = {}
        self._pulls = Pulls()
        self.wiring = wiring or WiringState()
        if is_on:
            _go_through(self.switching_on())

    def switching_on(self) -> Iterator[None]:
        """Switch it on in steps of some milliseconds each."""
        self.gears = gears_of(self.plan)
        self._order = {name: n for n, name in enumerate(self.gears)}
        yield
        self.ways_in = ways_in(self.plan)
        yield from self._wire(self.wiring)
        yield from self._feeding()
        while (due := self.agenda.next_time) is not None and due <= 0.0:
            self._begin_next()
            yield from self._settling()
            yield
        self.now = 0.0
        self.log.clear()

    # -- what things ask

    def across(self, a: int, b: int, *, is_dc: bool) -> float:
        return float(abs(self.volts.dc[a] - self.volts.dc[b]) if is_dc else abs(self.volts.ac[a] - self.volts.ac[b]))

    def phasor(self, a: int, b: int) -> complex:
        return complex(self.volts.ac[a] - self.volts.ac[b])

    def amps(self, element: int, *, is_dc: bool) -> complex:
        ac, dc = self.network.amps(element)
        return complex(dc[0] if is_dc else ac[0])

    def at(self, gear: Gear, what: str, delay: float) -> None:
        self.agenda.put(gear.id, what, self.now + delay)

    def call_off(self, gear: Gear, *whats: str) -> None:
        for what in whats:
            self.agenda.call_off(gear.id, what)

    def changed(self, gear: Gear, words: str = "") -> None:
        self._dirty.add(gear.id)
        if words:
            self.tell(gear.id, words)

    def tell(self, device: str, words: str) -> None:
        """Note something that happened."""
        self.log.append(Happening(time=self.now, device=device, words=words))

    # -- wiring

    def rewire(self, wiring: WiringState) -> None:
        """Wire it otherwise: things stay as they are."""
        _go_through(self._wire(wiring))
        self.feed()

    def _wire(self, wiring: WiringState) -> Iterator[None]:
        self.wiring = wiring
        rig = Rig(self.plan, wiring)
        for feed in self.ways_in:
            rig.owner = feed.id
            feed.bind(rig)
        for gear in self.gears.values():
            rig.owner = gear.id
            gear.bind(rig)
        yield
        self._shorts = [rig.switch(a, b) for a, b in wiring.shorted]
        self.rig, self.network = rig, rig.network()
        yield
        for short in self._shorts:
            self.network.switch(short, is_closed=True)
        self._sensors = Sensors(rig.sensors)
        self._dirty.update(self.gears)

    def feed(self) -> None:
        """Let the ways in feed as they are now."""
        _go_through(self._feeding())

    def _feeding(self) -> Iterator[None]:
        for feed in self.ways_in:
            feed.apply(self.network)
        yield from self._settling()

    # -- time

    def settle(self) -> None:
        """Let all that follows at once follow."""
        _go_through(self._settling())

    def _settling(self) -> Iterator[None]:
        for _ in range(_AT_ONCE):
            for name in self._in_order(self._dirty):
                self.gears[name].apply(self.network)
            self._dirty.clear()
            while self.network.reduce_some(_BLOCKS_OF_A_STEP):
                yield
            self.volts: Voltages = self.network.solve()
            for name in self._in_order(self._sensors.woken(self.volts)):
                self.gears[name].sense(self)
            if not self._dirty:
                self._move_field()
            if not self._dirty:
                break
        else:
            self.tell(self._in_order(self._dirty)[0], "finds no rest")
            self._dirty.clear()
        if self.watch is not None:
            self.watch()

    def put_in_field(self, body: StandIn, claims: Sequence[Callable[[], bool]]) -> None:
        """Let something of the field live along, in place of what is called so: each claim tells whether what moves it acts now."""
        body.since = self.now
        self.field = [*(one for one in self.field if one.name != body.name), body]
        self._claims[body.name] = claims
        self._move_field()

    def _move_field(self) -> None:
        """Let each thing of the field go as what moves it says, and move its switches."""
        for body in self.field:
            rate = sum(speed for (_, speed), acts in zip(body.moves, self._claims[body.name], strict=True) if acts())
            if rate != body.rate:
                body.turn(self.now, rate)
            for device, is_moved in body.moved(self.now):
                self.gears[device].act("close" if is_moved else "open", "", self)
            left = body.seconds_left(self.now)
            if left < inf:
                self.agenda.put(f"field {body.name}", "threshold", self.now + left)
            else:
                self.agenda.call_off(f"field {body.name}", "threshold")

    def _in_order(self, names: Iterable[str]) -> list[str]:
        """Return devices in the order of the circuit."""
        return sorted(names, key=self._order.__getitem__)

    def step(self) -> bool:
        """Let the next event happen; return whether there was one."""
        if self.agenda.next_time is None:
            return False
        self._begin_next()
        self.settle()
        return True

    def _begin_next(self) -> None:
        time, name, what = self.agenda.take()
        self.now = max(self.now, time)
        if name in self.gears:
            gear = self.gears[name]
            gear.happen(what, self)
            if what == gear.begins and self._pulls.flutters(name, self.now):
                gear.hold_still(self)

    def run(self, seconds: float) -> None:
        """Let time go by."""
        until = self.now + seconds
        for _ in range(_MOST_EVENTS):
            if (due := self.agenda.next_time) is None or due > until:
                break
            self.step()
        else:
            raise ActionError(
                f"more than {_MOST_EVENTS} things happen in {seconds:g} s, the last of them to {self.log[-1].device}: let less time go by"
            )
        self.now = until

    def rest(self) -> None:
        """Let what was begun come to an end: relays, not delays and ramps."""
        latest = self.now + _MOST_REST
        while (due := self.agenda.next_time) is not None and due <= min(self.now + _REST, latest):
            self.step()

    def act(self, device: str, verb: str, value: str = "") -> None:
        """Let somebody do something to a device, and what follows at once follow.

        Raises:
            ActionError: that cannot be done to it.
        """
        self._pulls.clear()
        gear = self.gears[device]
        self.tell(device, f"{verb} {value}".strip())
        gear.act(verb, value, self)
        for other in self.gears.values():
            if other.is_stuck:
                other.go_on()
                other.sense(self)
        self.settle()

    def fork(self) -> "Simulation":
        """Return another panel in the same state, to try on it what is not to happen to this one."""
        unchanging = (self.plan, self.rig, *self.network.shape)
        shared: dict[int, object] = {**{id(one): one for one in unchanging}, id(self.log): list(self.log)}
        watch, self.watch = self.watch, None
        try:
            return deepcopy(self, shared)
        finally:
            self.watch = watch

    def bar(self, places: Iterable[tuple[str, int]]) -> None:
        """Hold some switches and elements of the network open from now on."""
        self.network.barred |= set(places)
        for sort, index in places:
            if sort == "switch":
                self.network.switch(index, is_closed=False)
            else:
                self.network.put(index, nothing(len(self.network.elements[index])))
        self.settle()


def _go_through(steps: Iterator[None]) -> None:
    for _ in steps:
        pass
