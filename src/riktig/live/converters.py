"""Owns drives and soft starters: enabled, running up, running, running down, tripped. Must not know their motors."""

from cmath import rect
from math import acos, pi

from riktig.catalogue.model import Element, ElementKind, Part
from riktig.live import laws
from riktig.live.consumers import load_law
from riktig.live.gear import OF_TRIP, Clock, Gear
from riktig.live.inputs import Inputs
from riktig.live.laws import Law
from riktig.live.network import Network
from riktig.live.rig import Rig, Sensor
from riktig.plan.circuit.model import CircuitDevice

_ANALOGUE_OHM = 100_000.0


class _Converter(Gear):
    """What leads a motor and trips by itself; a fault of its own is a trip."""

    verbs = frozenset({"trip", "reset"})

    def __init__(self, device: CircuitDevice, part: Part) -> None:
        super().__init__(device, part)
        self.has_tripped = False

    def act(self, verb: str, value: str, clock: Clock) -> None:
        if verb in {"trip", "fail"}:
            self.has_tripped = True
            self.stop(clock)
            clock.changed(self, "tripped")
        elif verb in {"reset", "mend"}:
            self.has_tripped = False
            clock.changed(self, "reset")
            self.sense(clock)
        else:
            super().act(verb, value, clock)

    def stop(self, clock: Clock) -> None:
        """Let its motor go at once."""


class Drive(_Converter):
    """A variable speed drive: its output turns its motor by its reference, not by the mains; its poles do not conduct.

    Args:
        volts: line to line.
        amps: of its motor.
        has_reference: whether its speed comes over an analogue input; else it runs at full speed.
    """

    begins = "charge"
    _RAMP_S, _FULL_VOLTS, _CHARGES_S = 2.0, 10.0, 0.4

    def __init__(self, device: CircuitDevice, part: Part, volts: float, amps: float, *, has_reference: bool) -> None:
        super().__init__(device, part)
        self.volts, self.amps, self.has_reference = volts, amps, has_reference
        self.is_ready, self.is_enabled, self.is_told = False, False, False
        self.speed, self._rate, self._since, self._target = 0.0, 0.0, 0.0, 0.0
        self._is_fed = False

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        lanes = [e.marks for e in self.part.elements if e.kind is ElementKind.CONVERTER]
        self._mains = [rig.node(f"{self.id}:{a}") for a, _ in lanes]
        self._input = rig.element(*self._mains)
        middle = rig.inner()
        self._outs = [rig.element(middle, rig.node(f"{self.id}:{b}")) for _, b in lanes]
        self._inputs = Inputs(rig, self.id, self.part)
        nodes = {m: rig.node(f"{self.id}:{m}") for m in ("V10", "AI1", "AO1", "AGND")}
        self._analogue = {m: rig.element(nodes["AGND"], nodes[m]) for m in ("V10", "AI1", "AO1")}
        self._reference = (nodes["AI1"], nodes["AGND"])
        levels = (0.5 * self.volts, 0.7 * self.volts)
        for a, b in zip(self._mains, self._mains[1:], strict=False):
            rig.sensors.append(Sensor(owner=self.id, a=a, b=b, is_dc=False, levels=levels))
        rig.sensors.append(Sensor(owner=self.id, a=nodes["AI1"], b=nodes["AGND"], is_dc=True, dead=0.05))

    def apply(self, network: Network) -> None:
        watts = self.amps * self.volts * 1.5 * abs(self.speed)
        siemens = rect(max(watts, 20.0) / self.volts**2, -acos(0.95))
        network.put(self._input, laws.star(siemens, 0.0, len(self._mains)))
        is_turning = self.is_ready and self.is_enabled and not self.has_tripped and self.speed != 0.0
        for number, element in enumerate(self._outs):
            volts = rect(self.volts / 3**0.5, -2 * pi / 3 * number * (1 if self.speed > 0 else -1))
            network.put(element, laws.source(volts, 0.0, 50.0 + 0j, 50.0) if is_turning else laws.nothing(2))
        self._inputs.put(network, is_powered=self.is_ready)
        network.put(self._analogue["V10"], self._give(self._FULL_VOLTS))
        network.put(self._analogue["AO1"], self._give(self._FULL_VOLTS * abs(self.speed)))
        network.put(self._analogue["AI1"], laws.admittance(1 / _ANALOGUE_OHM + 0j, 1 / _ANALOGUE_OHM))
        self.contacts.put(network, self._moved)

    def _give(self, volts: float) -> Law:
        return laws.source(0j, round(volts, 3), 0.01 + 0j, 0.01) if self.is_ready else laws.nothing(2)

    def _moved(self, element: Element) -> tuple[bool, bool]:
        is_moved = self.has_tripped if element.marks[0] in OF_TRIP else self.is_running
        return is_moved, is_moved

    @property
    def is_running(self) -> bool:
        """Whether it turns its motor, up, at speed or down."""
        return self.is_ready and self.is_enabled and not self.has_tripped and (self.is_told or self.speed != 0.0)

    def sense(self, clock: Clock) -> None:
        pairs = zip(self._mains, self._mains[1:], strict=False)
        share = 0.5 if self._is_fed else 0.7
        is_fed = not self.is_stuck and all(clock.across(a, b, is_dc=False) >= share * self.volts for a, b in pairs)
        if is_fed != self._is_fed:
            self._is_fed = is_fed
            clock.call_off(self, "charge", "discharge")
            clock.at(self, "charge" if is_fed else "discharge", self._CHARGES_S)
        is_enabled = all(self._inputs.is_closed(mark, clock) for mark in ("STO1", "STO2"))
        is_told = self._inputs.is_closed("DI1", clock) and is_enabled and self.is_ready and not self.has_tripped
        if is_enabled != self.is_enabled:
            self.is_enabled = is_enabled
            if not is_enabled:
                self.stop(clock)
                clock.changed(self, "torque off")
        self._aim(clock, is_told)

    def _aim(self, clock: Clock, is_told: bool) -> None:
        """Let it run to what it is told."""
        way = -1.0 if self._inputs.is_closed("DI2", clock) else 1.0
        share = clock.across(*self._reference, is_dc=True) / self._FULL_VOLTS if self.has_reference else 1.0
        target = way * round(min(max(share, 0.02), 1.0), 3) if is_told else 0.0
        if target == self._target and is_told == self.is_told:
            return
        self.speed = self._speed_at(clock.now)
        self._since, self._target, was_told, self.is_told = clock.now, target, self.is_told, is_told
        left = abs(target - self.speed) * self._RAMP_S
        self._rate = (target - self.speed) / left if left else 0.0
        if is_told and self.speed == 0.0:
            self.speed = 0.001 * way
        clock.at(self, "there", left)
        clock.changed(self, "runs up" if is_told and not was_told else "runs down" if was_told and not is_told else "")

    def _speed_at(self, now: float) -> float:
        return self.speed + self._rate * (now - self._since)

    def let_go(self, clock: Clock) -> None:
        self._is_fed = self.is_ready = False
        clock.call_off(self, "charge", "discharge")
        self.stop(clock)

    def stop(self, clock: Clock) -> None:
        clock.call_off(self, "there")
        self.speed = self._rate = self._target = 0.0
        self.is_told = False
        clock.changed(self)

    def happen(self, what: str, clock: Clock) -> None:
        if what == "there":
            self.speed, self._rate = self._target, 0.0
            clock.changed(self, "at speed" if self.speed else "at rest")
            return
        self.is_ready = what == "charge"
        if not self.is_ready:
            self.stop(clock)
        clock.changed(self, "ready" if self.is_ready else "off")

    @property
    def probes(self) -> tuple[int, ...]:
        return tuple(self._outs)

    @property
    def states(self) -> frozenset[str]:
        words = {"tripped"} if self.has_tripped else {"on" if self.is_running else "off"}
        return frozenset(words | ({"ready"} if self.is_ready and not self.has_tripped else set()))


class SoftStarter(_Converter):
    """A soft starter: it limits the start of its motor, then leads through; it lets it run down when it is told to stop.

    Source:
        Limits at about three times the rated current: common practice, no source.
    """

    _RAMP_S, _STOP_S, _RUNNING = 6.0, 4.0, 2000.0
    _STARTS, _DROPS = 0.85, 0.6

    def __init__(self, device: CircuitDevice, part: Part, volts: float, amps: float, feed_volts: float) -> None:
        super().__init__(device, part)
        self.volts, self.amps, self.feed_volts = volts, amps, feed_volts
        self.is_dc = part.traits.get("current") == "dc"
        self.is_powered, self.phase = False, "off"

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        lanes = [e.marks for e in self.part.elements if e.kind is ElementKind.CONVERTER]
        self._poles = [rig.pole(f"{self.id}:{a}", f"{self.id}:{b}") for a, b in lanes]
        (coil,) = (e for e in self.part.elements if e.kind is ElementKind.COIL)
        self._feed = (rig.node(f"{self.id}:{coil.marks[0]}"), rig.node(f"{self.id}:{coil.marks[1]}"))
        self._coil = rig.element(*self._feed)
        self._inputs = Inputs(rig, self.id, self.part)
        levels = (self._DROPS * self.feed_volts, self._STARTS * self.feed_volts)
        rig.sensors.append(Sensor(owner=self.id, a=self._feed[0], b=self._feed[1], is_dc=self.is_dc, levels=levels))

    def apply(self, network: Network) -> None:
        network.put(
            self._coil, load_law(self.feed_volts, self.part.rating("hold_va") or 15.0, is_dc=self.is_dc, cos_phi=0.7)
        )
        limit = 3.0 * self.amps * 3**0.5 / self.volts
        law = {"off": laws.nothing(2), "running": laws.admittance(self._RUNNING + 0j, self._RUNNING)}.get(
            self.phase, laws.admittance(rect(2.0 * limit, -acos(0.35)), limit)
        )
        for pole in self._poles:
            network.put(pole, law)
        self._inputs.put(network, is_powered=self.is_powered)
        self.contacts.put(network, self._moved)

    def _moved(self, element: Element) -> tuple[bool, bool]:
        mark = element.marks[0]
        is_moved = (
            self.has_tripped if mark in OF_TRIP else self.phase == "running" if mark == "23" else self.phase != "off"
        )
        return is_moved, is_moved

    def sense(self, clock: Clock) -> None:
        share = self._DROPS if self.is_powered else self._STARTS
        is_powered = clock.across(*self._feed, is_dc=self.is_dc) >= share * self.feed_volts
        if is_powered != self.is_powered:
            self.is_powered = is_powered
            clock.changed(self, "ready" if is_powered else "off")
        is_told = is_powered and self._inputs.is_closed("ON", clock) and not self.has_tripped
        if not is_powered or self.has_tripped:
            self._go("off", clock)
        elif is_told and self.phase in {"off", "stopping"}:
            self._go("starting", clock, self._RAMP_S)
        elif not is_told and self.phase in {"starting", "running"}:
            self._go("stopping", clock, self._STOP_S)

    def _go(self, phase: str, clock: Clock, seconds: float | None = None) -> None:
        if phase != self.phase:
            self.phase = phase
            clock.call_off(self, "ramp")
            if seconds is not None:
                clock.at(self, "ramp", seconds)
            clock.changed(self, phase)

    def happen(self, what: str, clock: Clock) -> None:
        self._go("running" if self.phase == "starting" else "off", clock)

    def stop(self, clock: Clock) -> None:
        self._go("off", clock)

    @property
    def probes(self) -> tuple[int, ...]:
        return tuple(self._poles)

    @property
    def states(self) -> frozenset[str]:
        words = {"tripped"} if self.has_tripped else {"on" if self.phase != "off" else "off"}
        return frozenset(words | ({self.phase} if self.phase != "off" else set()))
