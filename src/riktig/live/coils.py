"""Owns what a coil moves: contactors, relays, time relays, and those that watch a sensor or the phases. Must not know what they switch."""

from riktig.catalogue.model import Element, ElementKind, Part
from riktig.live import laws
from riktig.live.consumers import CONSUMING, Consumer, drawing, load_law
from riktig.live.gear import Clock, Gear, number_of
from riktig.live.inputs import Inputs
from riktig.live.network import Network
from riktig.live.rig import Rig, Sensor
from riktig.plan.circuit.model import CircuitDevice
from riktig.plan.sizes.needs import Coil

PICK_UP = 0.85
"""Share of its volts at which a coil has pulled in at the latest (IEC 60947-4-1 8.2.1.2, from memory)."""
DROP_OUT_AC, DROP_OUT_DC = 0.5, 0.3
"""Share at which it lets go: between 20 and 75 % on AC, 10 and 75 % on DC (IEC 60947-4-1 8.2.1.2, from memory); a usual one of each."""
_TIMES = {"contactor": (0.012, 0.020, 0.006, 0.012), "relay": (0.005, 0.010, 0.003, 0.008)}
"""Seconds after which break contacts have opened and make contacts closed, and on the way back make opened and break closed (usual)."""
_TIMED = frozenset({ElementKind.TIMED_NO, ElementKind.TIMED_NC, ElementKind.TIMED_CO})
_INRUSH_COS, _HOLD_COS = 0.7, 0.3
_OUT, _BETWEEN, _IN = 0, 1, 2


class Relay(Consumer):
    """A contactor or relay. Its armature is out, between, or in: make and break contacts are never closed together.

    It is `welded` where its make contacts stick; mirror contacts then stay open (IEC 60947-4-1 Annex F, from memory). A hand may press its
    armature in.
    """

    verbs = frozenset({"weld", "press", "release"})
    begins = "part"

    def __init__(self, device: CircuitDevice, part: Part, feed: Coil | None = None) -> None:
        super().__init__(device, part, feed)
        self.place, self.is_pulled, self.is_welded, self.is_held = _OUT, False, False, False
        self._pulled_at = 0.0
        self.has_changed_over = False
        """Of one that alternates: which way its contacts lie; they change each time it drops."""
        self._alternates = part.traits.get("action") == "alternating"
        self._times = _TIMES["contactor" if part.kind == "contactor" else "relay"]

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        self._poles = [
            rig.switch(f"{self.id}:{e.marks[0]}", f"{self.id}:{e.marks[1]}")
            for e in self.part.elements
            if e.kind is ElementKind.POLE
        ]
        (self._coil,) = [n for n, e in enumerate(_drawn(self.part)) if e.kind is ElementKind.COIL] or [0]
        a, b = self._ends[self._coil]
        drop = DROP_OUT_DC if self.is_dc else DROP_OUT_AC
        self._levels = (drop * self.volts, PICK_UP * self.volts)
        rig.sensors.append(Sensor(owner=self.id, a=a, b=b, is_dc=self.is_dc, levels=self._levels))

    @property
    def is_in(self) -> bool:
        """Whether its make contacts are closed."""
        return self.place == _IN or self.is_welded or self.is_held

    def apply(self, network: Network) -> None:
        inrush, hold = self.part.rating("inrush_va"), self.part.rating("hold_va")
        for number, (element, count) in enumerate(self._elements):
            is_rushing = number == self._coil and not self.is_dc and inrush and self.place != _IN
            law = self._law(count)
            if number == self._coil and not self.is_dc and not self.has_failed:
                va, cos_phi = (inrush, _INRUSH_COS) if is_rushing else (hold, _HOLD_COS)
                law = load_law(self.volts, va, is_dc=False, cos_phi=cos_phi)
            network.put(element, law)
        for pole in self._poles:
            network.switch(pole, is_closed=self.is_in)
        self.contacts.put(network, self._moved)

    def _moved(self, element: Element) -> tuple[bool, bool]:
        if self._alternates:
            return self.has_changed_over, self.has_changed_over
        return self.is_in, self.place != _OUT or self.is_welded or self.is_held

    def sense(self, clock: Clock) -> None:
        a, b = self._ends[self._coil]
        volts = clock.across(a, b, is_dc=self.is_dc)
        is_pulled = (
            not self.has_failed and not self.is_stuck and volts >= self._levels[0 if self.is_pulled else 1] - 1e-9
        )
        is_pulled = is_pulled and self._may_pull(clock)
        if is_pulled != self.is_pulled:
            if not is_pulled and self.place != _IN and clock.now > self._pulled_at:
                clock.changed(self, "loses a race")
            self.is_pulled, self._pulled_at = is_pulled, clock.now
            self._start(clock)

    def _may_pull(self, clock: Clock) -> bool:
        """Return whether anything but its volts lets it pull in."""
        return True

    def _start(self, clock: Clock) -> None:
        """Let the armature begin to move, or turn back."""
        opens, closes, lets_go, falls = self._times
        clock.call_off(self, "part", "close", "let go", "fall")
        if self.is_pulled and self.place == _OUT:
            clock.at(self, "part", opens)
        elif self.is_pulled and self.place == _BETWEEN:
            clock.at(self, "close", closes - opens)
        elif not self.is_pulled and self.place == _IN:
            clock.at(self, "let go", lets_go)
        elif not self.is_pulled and self.place == _BETWEEN:
            clock.at(self, "fall", falls - lets_go)

    def happen(self, what: str, clock: Clock) -> None:
        opens, closes, lets_go, falls = self._times
        if what == "part":
            self.place = _BETWEEN
            clock.changed(self)
            clock.at(self, "close", closes - opens)
        elif what == "close":
            self.place = _IN
            clock.changed(self, "in")
        elif what == "let go":
            self.place = _BETWEEN
            clock.changed(self)
            clock.at(self, "fall", falls - lets_go)
        elif what == "fall":
            self.place = _OUT
            self.has_changed_over ^= self._alternates
            clock.changed(self, "out")

    def act(self, verb: str, value: str, clock: Clock) -> None:
        if verb == "weld":
            self.is_welded = True
            clock.changed(self, "welded")
            return
        if verb in {"press", "release"}:
            self.is_held = verb == "press"
            clock.changed(self, "pressed in" if self.is_held else "let go")
            return
        if verb == "mend" and self.is_welded:
            self.is_welded = False
        super().act(verb, value, clock)

    def let_go(self, clock: Clock) -> None:
        self.place, self.is_pulled = _OUT, False
        clock.call_off(self, "part", "close", "let go", "fall")

    @property
    def states(self) -> frozenset[str]:
        words = {"on" if self.is_in else "off"}
        return frozenset(
            words | ({"welded"} if self.is_welded else set()) | ({"chattering"} if self.is_stuck else set())
        )


class TimeRelay(Relay):
    """A time relay: its timed contacts move so many seconds after it is fed, or go back so many after it is not."""

    def __init__(self, device: CircuitDevice, part: Part, feed: Coil | None = None) -> None:
        super().__init__(device, part, feed)
        self.seconds = device.settings.get("seconds", 1.0)
        self.is_off_delay = part.traits.get("function") == "off-delay"
        self.has_run = False
        """Whether its timed contacts have moved."""

    verbs = Relay.verbs | {"set"}

    def _start(self, clock: Clock) -> None:
        super()._start(clock)
        clock.call_off(self, "time")
        if self.is_pulled and self.is_off_delay:
            self._run(clock, has_run=True)
        elif self.is_pulled != self.is_off_delay:
            clock.at(self, "time", self.seconds)
        else:
            self._run(clock, has_run=False)

    def _run(self, clock: Clock, *, has_run: bool) -> None:
        if has_run != self.has_run:
            self.has_run = has_run
            clock.changed(self, "elapsed" if has_run else "reset")

    def happen(self, what: str, clock: Clock) -> None:
        if what == "time":
            self._run(clock, has_run=not self.is_off_delay)
        else:
            super().happen(what, clock)

    def act(self, verb: str, value: str, clock: Clock) -> None:
        if verb == "set":
            self.seconds = number_of(value, 0.001, 1e6)
            return
        super().act(verb, value, clock)

    def _moved(self, element: Element) -> tuple[bool, bool]:
        return (self.has_run, self.has_run) if element.kind in _TIMED else super()._moved(element)

    @property
    def states(self) -> frozenset[str]:
        return super().states | {"elapsed" if self.has_run else "waiting"}


class ThermistorRelay(Relay):
    """A relay that watches the sensors in a winding: in while it is fed and they are cold, and after they were hot only when it is reset.

    Source:
        Trips at 1.6 to 4 kilohm: IEC 60947-8, from memory.
    """

    verbs = Relay.verbs | {"reset"}
    _OPEN_VOLTS, _INNER_OHM, _TRIPS_OHM = 2.5, 2000.0, 2500.0

    def __init__(self, device: CircuitDevice, part: Part, feed: Coil | None = None) -> None:
        super().__init__(device, part, feed)
        self.has_tripped = False

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        (sensor,) = (e for e in self.part.elements if e.kind is ElementKind.SENSOR)
        self._loop = tuple(rig.node(f"{self.id}:{mark}") for mark in sensor.marks)
        self._source = rig.element(*self._loop)
        level = self._OPEN_VOLTS * self._TRIPS_OHM / (self._TRIPS_OHM + self._INNER_OHM)
        self._hot = level
        rig.sensors.append(Sensor(owner=self.id, a=self._loop[0], b=self._loop[1], is_dc=True, levels=(level, level)))

    def apply(self, network: Network) -> None:
        super().apply(network)
        network.put(self._source, laws.source(0j, self._OPEN_VOLTS, 1 / self._INNER_OHM + 0j, 1 / self._INNER_OHM))

    def _may_pull(self, clock: Clock) -> bool:
        if clock.across(*self._loop, is_dc=True) >= self._hot:
            if not self.has_tripped:
                self.has_tripped = True
                clock.changed(self, "tripped")
            return False
        return not self.has_tripped

    def act(self, verb: str, value: str, clock: Clock) -> None:
        if verb != "reset":
            super().act(verb, value, clock)
            return
        self.has_tripped = False
        self.sense(clock)

    @property
    def states(self) -> frozenset[str]:
        return super().states | {"tripped" if self.has_tripped else "healthy"}


class PhaseRelay(Gear):
    """A relay in while three lines are all there and follow each other rightly; it lives on what it watches."""

    _OPERATES, _LETS_GO = 0.3, 0.1

    def __init__(self, device: CircuitDevice, part: Part, volts: float) -> None:
        super().__init__(device, part)
        self.volts = volts
        self.is_in, self.is_right = False, False

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        (load,) = (e for e in self.part.elements if e.kind is ElementKind.LOAD)
        self._lines = [rig.node(f"{self.id}:{mark}") for mark in load.marks]
        self._element = rig.element(*self._lines)
        ends = [*self._lines, self._lines[0]]
        for a, b in zip(ends, ends[1:], strict=False):
            level = PICK_UP * self.volts
            rig.sensors.append(
                Sensor(owner=self.id, a=a, b=b, is_dc=False, levels=(level, level), dead=0.05 * self.volts)
            )

    def apply(self, network: Network) -> None:
        count = len(self._lines)
        network.put(self._element, laws.star(drawing(self.volts, self.part.rating("hold_va"), 1.0), 1e-6, count))
        self.contacts.put(network, lambda _: (self.is_in, self.is_in))

    def sense(self, clock: Clock) -> None:
        l1, l2, l3 = self._lines
        first, second, third = clock.phasor(l1, l2), clock.phasor(l2, l3), clock.phasor(l3, l1)
        are_there = min(abs(first), abs(second), abs(third)) >= PICK_UP * self.volts
        is_right = are_there and (second * first.conjugate()).imag < 0 and not self.has_failed
        if is_right != self.is_right:
            self.is_right = is_right
            clock.at(self, "move", self._OPERATES if is_right else self._LETS_GO)

    def happen(self, what: str, clock: Clock) -> None:
        if self.is_in != self.is_right:
            self.is_in = self.is_right
            clock.changed(self, "in" if self.is_in else "out")

    @property
    def states(self) -> frozenset[str]:
        return frozenset({"on" if self.is_in else "off"})


class SafetyRelay(Relay):
    """A safety relay: in while it is fed and both its loops are closed, after its reset was closed once."""

    def __init__(self, device: CircuitDevice, part: Part, feed: Coil | None = None) -> None:
        super().__init__(device, part, feed)
        self.is_started = False

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        self._inputs = Inputs(rig, self.id, self.part)
        self._marks = [e.marks[1] for e in self.part.elements if e.kind is ElementKind.INPUT]

    def apply(self, network: Network) -> None:
        super().apply(network)
        self._inputs.put(network, is_powered=True)

    def _may_pull(self, clock: Clock) -> bool:
        first, second, reset = (self._inputs.is_closed(mark, clock) for mark in self._marks)
        if not (first and second):
            self.is_started = False
        elif reset:
            self.is_started = True
        return self.is_started


def _drawn(part: Part) -> list[Element]:
    """Return the elements of a part that draw a current, as `Consumer` counts them."""
    return [element for element in part.elements if element.kind in CONSUMING]
