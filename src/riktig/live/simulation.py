"""Owns time in a live circuit: what happens next, and what follows from it at once. Must not know kinds of things.

Time goes from one event to the next: a coil pulls in, a time runs out, a motor is at speed, a breaker trips. Between two events nothing
changes, so that an hour costs as much as a second. The same actions give the same events.
"""

import heapq
from collections import defaultdict, deque
from collections.abc import Callable, Iterable, Sequence
from copy import deepcopy
from dataclasses import dataclass
from math import inf

import numpy as np

from riktig.live.field import StandIn
from riktig.live.gear import ActionError, Gear
from riktig.live.laws import nothing
from riktig.live.network import Voltages
from riktig.live.panel import gears_of, ways_in
from riktig.live.rig import Rig, WiringState
from riktig.plan.plan import Plan

_AT_ONCE = 60
"""So often things may act on each other at one instant until they are said to have no rest."""
_CHATTERS, _WITHIN = 10, 3.0
"""What begins to come in so often within so many seconds, without anybody doing anything, chatters."""
_REST, _MOST_REST = 0.5, 3.0
"""After an action all is awaited that is due within so many seconds of what happened last, and no longer than so many."""
_WARM_UP = 3.0
_MOST_EVENTS = 100_000
"""So much may happen while time goes by at once; more is something that flutters."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Happening:
    """Something that happened: seconds since the start, the device (or way in) and a few words."""

    time: float
    device: str
    words: str


class Simulation:
    """A panel that is switched on: all switches and breakers closed, nobody has touched anything, everything is at rest.

    Args:
        plan: the panel.
        wiring: what is wrong with its wires.
    """

    def __init__(self, plan: Plan, wiring: WiringState | None = None) -> None:
        self.plan, self.now = plan, -_WARM_UP
        self.gears = gears_of(plan)
        self.ways_in = ways_in(plan)
        self.log: list[Happening] = []
        self.watch: Callable[[], None] | None = None
        """Called at each instant when all has come to rest there."""
        self.field: list[StandIn] = []
        self._order = {name: n for n, name in enumerate(self.gears)}
        self._queue: list[tuple[float, int, str, str]] = []
        self._due: dict[tuple[str, str], int] = {}
        self._count = 0
        self._dirty: set[str] = set()
        self._claims: dict[str, Sequence[Callable[[], bool]]] = {}
        self._pulls: defaultdict[str, deque[float]] = defaultdict(lambda: deque(maxlen=_CHATTERS))
        self.rewire(wiring or WiringState())
        self.run(_WARM_UP)
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
        self._put_off(gear.id, what, delay)

    def _put_off(self, name: str, what: str, delay: float) -> None:
        self._count += 1
        self._due[name, what] = self._count
        heapq.heappush(self._queue, (self.now + delay, self._count, name, what))

    def call_off(self, gear: Gear, *whats: str) -> None:
        for what in whats:
            self._due.pop((gear.id, what), None)

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
        self.wiring = wiring
        rig = Rig(self.plan, wiring)
        for feed in self.ways_in:
            rig.owner = feed.id
            feed.bind(rig)
        for gear in self.gears.values():
            rig.owner = gear.id
            gear.bind(rig)
        self._shorts = [rig.switch(a, b) for a, b in wiring.shorted]
        self.rig, self.network = rig, rig.network()
        for short in self._shorts:
            self.network.switch(short, is_closed=True)
        sensors = rig.sensors
        self._owners = [s.owner for s in sensors]
        self._a, self._b = (np.array([getattr(s, end) for s in sensors], dtype=np.intp) for end in "ab")
        self._is_dc = np.array([s.is_dc for s in sensors], dtype=bool)
        self._levels = np.array([s.levels for s in sensors]).reshape(-1, 2).T
        self._dead = np.array([s.dead for s in sensors])
        self._last = np.full(len(sensors), np.nan, dtype=complex)
        self._zone = np.full(len(sensors), -1)
        self._dirty.update(self.gears)
        self.feed()

    def feed(self) -> None:
        """Let the ways in feed as they are now."""
        for feed in self.ways_in:
            feed.apply(self.network)
        self.settle()

    # -- time

    def settle(self) -> None:
        """Let all that follows at once follow."""
        for _ in range(_AT_ONCE):
            for name in sorted(self._dirty, key=self._order.__getitem__):
                self.gears[name].apply(self.network)
            self._dirty.clear()
            self.volts: Voltages = self.network.solve()
            for name in self._woken():
                self.gears[name].sense(self)
            if not self._dirty:
                self._move_field()
            if not self._dirty:
                break
        else:
            self.tell(min(self._dirty, key=self._order.__getitem__), "finds no rest")
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
                self._put_off(f"field {body.name}", "threshold", left)
            else:
                self._due.pop((f"field {body.name}", "threshold"), None)

    def _woken(self) -> list[str]:
        """Return whom a change of volts wakes, in the order of the circuit."""
        apart = np.where(
            self._is_dc,
            self.volts.dc[self._a] - self.volts.dc[self._b],
            self.volts.ac[self._a] - self.volts.ac[self._b],
        )
        size = np.abs(apart)
        zone = (size >= self._levels[0] - 1e-9).astype(int) + (size >= self._levels[1] - 1e-9)
        moved = (zone != self._zone) | ~(np.abs(apart - self._last) <= self._dead)
        self._last[moved], self._zone = apart[moved], zone
        return sorted({self._owners[n] for n in np.flatnonzero(moved)}, key=self._order.__getitem__)

    @property
    def next_time(self) -> float | None:
        """When something happens next by itself, None where nothing does."""
        while self._queue and self._due.get((self._queue[0][2], self._queue[0][3])) != self._queue[0][1]:
            heapq.heappop(self._queue)
        return self._queue[0][0] if self._queue else None

    def step(self) -> bool:
        """Let the next event happen; return whether there was one."""
        if self.next_time is None:
            return False
        time, _, name, what = heapq.heappop(self._queue)
        del self._due[name, what]
        self.now = max(self.now, time)
        if name in self.gears:
            gear = self.gears[name]
            gear.happen(what, self)
            if what == gear.begins:
                self._mind_chatter(gear)
        self.settle()
        return True

    def _mind_chatter(self, gear: Gear) -> None:
        times = self._pulls[gear.id]
        times.append(self.now)
        if len(times) == _CHATTERS and times[-1] - times[0] < _WITHIN:
            gear.hold_still(self)
            times.clear()

    def run(self, seconds: float) -> None:
        """Let time go by."""
        until = self.now + seconds
        for _ in range(_MOST_EVENTS):
            if (due := self.next_time) is None or due > until:
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
        while (due := self.next_time) is not None and due <= min(self.now + _REST, latest):
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
        shared: dict[int, object] = {id(self.plan): self.plan}
        for gear in self.gears.values():
            shared |= {id(gear.part): gear.part, id(gear.device): gear.device}
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

    def has(self, device: str, word: str) -> bool:
        """Return whether a word is true of a device now."""
        return word in self.gears[device].states
