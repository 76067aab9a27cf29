"""Owns what opens a circuit by itself or by hand: switches, breakers, fuses, overloads, residual current devices. Must not know loads."""

from math import inf

from riktig.catalogue.model import Element, ElementKind, Part
from riktig.live import laws
from riktig.live.gear import OF_TRIP, ActionError, Clock, Gear
from riktig.live.network import Network
from riktig.live.rig import Rig, Sensor
from riktig.live.thermal import (
    PHASE_LOSS,
    ThermalImage,
    breaker_image,
    magnetic_multiple,
    magnetic_seconds,
    melts_after_s,
    relay_image,
)
from riktig.plan.circuit.model import CircuitDevice

_AUX = frozenset({ElementKind.AUX_NO, ElementKind.AUX_NC})
_ALARM = frozenset({ElementKind.ALARM_NO, ElementKind.ALARM_NC})
_WATTS = 3.0
"""What a pole loses at its rating where its part does not say: 3 W up to 10 A (IEC 60898-1 Table 15, from memory)."""
_DEAD = 0.01
"""A current that moves by less than this share of the rating is the same as before."""
_LOST = 0.1
"""A pole with less than this share of the largest current is without its phase."""


class Switchgear(Gear):
    """A switch with poles that somebody opens and closes: a disconnect, or a link."""

    verbs = frozenset({"open", "close"})
    is_ideal = True

    def __init__(self, device: CircuitDevice, part: Part) -> None:
        super().__init__(device, part)
        self.is_open, self.has_tripped = False, False
        self.amps = part.rating("amps") or 10.0

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        marks = [e.marks for e in self.part.elements if e.kind in {ElementKind.POLE, ElementKind.THROUGH}]
        pairs = [(f"{self.id}:{first}", f"{self.id}:{second}") for first, second, *_ in marks]
        self._switches = [rig.switch(a, b) for a, b in pairs] if self.is_ideal else []
        self._poles = [] if self.is_ideal else [rig.pole(a, b) for a, b in pairs]
        self._siemens = self.amps**2 / (self.part.losses_w / max(len(pairs), 1) or _WATTS)
        for pole in self._poles:
            a, b = rig.elements[pole]
            rig.sensors.append(Sensor(owner=self.id, a=a, b=b, is_dc=False, dead=_DEAD * self.amps / self._siemens))
            rig.sensors.append(Sensor(owner=self.id, a=a, b=b, is_dc=True, dead=_DEAD * self.amps / self._siemens))

    @property
    def places(self) -> tuple[tuple[str, int], ...]:
        """Its poles in the network, as (`switch` or `element`, index)."""
        return (*(("switch", n) for n in self._switches), *(("element", n) for n in self._poles))

    @property
    def is_closed(self) -> bool:
        """Whether its poles conduct."""
        return not self.is_open and not self.has_tripped

    def apply(self, network: Network) -> None:
        for switch in self._switches:
            network.switch(switch, is_closed=self.is_closed)
        law = laws.admittance(self._siemens + 0j, self._siemens) if self.is_closed else laws.nothing(2)
        for pole in self._poles:
            network.put(pole, law)
        self.contacts.put(network, self._moved)

    def _moved(self, element: Element) -> tuple[bool, bool]:
        if element.kind in _ALARM or element.marks[0] in OF_TRIP:
            return self.has_tripped, self.has_tripped
        return self.is_closed, self.is_closed

    @property
    def probes(self) -> tuple[int, ...]:
        return tuple(self._poles)

    def currents(self, clock: Clock) -> list[complex]:
        """Return what each pole carries in A, AC and DC alike: the larger of both."""
        pairs = [(clock.amps(pole, is_dc=False), clock.amps(pole, is_dc=True)) for pole in self._poles]
        return [max(pair, key=abs) for pair in pairs]

    def act(self, verb: str, value: str, clock: Clock) -> None:
        if verb in {"open", "close"}:
            if self.has_failed:
                return
            self.is_open = verb == "open"
            self.has_tripped = False
            clock.changed(self, "opened" if self.is_open else "closed")
            return
        super().act(verb, value, clock)

    @property
    def states(self) -> frozenset[str]:
        return frozenset({"on" if self.is_closed else "off"} | ({"tripped"} if self.has_tripped else set()))


class Protector(Switchgear):
    """What opens by itself; `trip` lets it, closing it again lets go of that."""

    verbs = frozenset({"open", "close", "trip", "reset"})
    is_ideal = False

    def trip(self, clock: Clock) -> None:
        """Let it open, and its alarm contact move."""
        if not self.has_tripped and not self.has_failed:
            self.has_tripped = True
            clock.call_off(self, "heat", "magnetic")
            clock.changed(self, "tripped")

    def happen(self, what: str, clock: Clock) -> None:
        self.trip(clock)

    def act(self, verb: str, value: str, clock: Clock) -> None:
        if verb == "trip":
            self.trip(clock)
        elif verb == "reset":
            self.has_tripped = False
            clock.changed(self, "reset")
        else:
            super().act(verb, value, clock)


class Breaker(Protector):
    """A breaker: its thermal part, where it has one, and its magnetic part; `setting` is the dial of a motor breaker, None of others."""

    def __init__(self, device: CircuitDevice, part: Part, setting: float | None = None) -> None:
        super().__init__(device, part)
        curve = part.traits.get("curve", "C")
        is_motor = part.kind == "motor-breaker"
        self.rated = setting or self.amps
        self.image: ThermalImage | None = None if curve == "MA" else relay_image("10") if is_motor else breaker_image()
        top = part.rating("amps_max") or self.amps
        try:
            self.magnetic = magnetic_multiple("M" if is_motor and curve != "MA" else curve) * (
                top if is_motor else self.amps
            )
        except KeyError:
            self.magnetic = magnetic_multiple("K") * self.amps
        self._is_magnetic = False

    def sense(self, clock: Clock) -> None:
        most = max((abs(amps) for amps in self.currents(clock)), default=0.0)
        is_magnetic = most >= self.magnetic and not self.has_tripped
        if is_magnetic != self._is_magnetic:
            self._is_magnetic = is_magnetic
            clock.at(self, "magnetic", magnetic_seconds()) if is_magnetic else clock.call_off(self, "magnetic")
        if self.image is not None:
            self.image.load(clock.now, most / self.rated)
            _await_trip(self, self.image, clock)

    def act(self, verb: str, value: str, clock: Clock) -> None:
        super().act(verb, value, clock)
        if verb in {"close", "reset"} and self.image is not None and self.image.heat_at(clock.now) >= self.image.trips:
            self.image.heat, self.image.since = self.image.trips * 0.9, clock.now


def _await_trip(gear: Gear, image: ThermalImage, clock: Clock) -> None:
    left = image.seconds_left(clock.now)
    if left < inf:
        clock.at(gear, "heat", left)
    else:
        clock.call_off(gear, "heat")


class Fuse(Protector):
    """Fuses: what melts is used up by share of the time that it takes at each current. A new one is put in by closing it."""

    def __init__(self, device: CircuitDevice, part: Part) -> None:
        super().__init__(device, part)
        curve = part.traits.get("curve", "gG")
        self.sort = curve if curve in {"gG", "aM"} else "UL"
        self._used, self._since, self._rate = 0.0, 0.0, 0.0

    def sense(self, clock: Clock) -> None:
        self._used += self._rate * (clock.now - self._since)
        seconds = melts_after_s(self.sort, self.amps, max((abs(amps) for amps in self.currents(clock)), default=0.0))
        self._since, self._rate = clock.now, 1.0 / seconds if seconds < inf else 0.0
        if not self._rate:
            self._used = 0.0  # it has cooled: melting adds up only while it is overloaded
        if self._rate and not self.has_tripped:
            clock.at(self, "heat", max(0.0, (1.0 - self._used) * seconds))
        else:
            clock.call_off(self, "heat")

    def act(self, verb: str, value: str, clock: Clock) -> None:
        if verb in {"close", "reset"}:
            self._used = 0.0
        super().act(verb, value, clock)


class ResidualDevice(Protector):
    """A residual current device: trips where the currents of its poles do not add up to nothing.

    Source:
        Between half and all of its rating; 0.3 s at most: IEC 61008-1, from memory; the middle and 30 ms are taken.
    """

    _SHARE, _SECONDS = 0.75, 0.03
    _is_leaking = False

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        dead = 0.1 * self.part.rating("ma") / 1000.0 / self._siemens
        for pole in self._poles:
            a, b = rig.elements[pole]
            rig.sensors.append(Sensor(owner=self.id, a=a, b=b, is_dc=False, dead=dead))

    def sense(self, clock: Clock) -> None:
        left = abs(sum(clock.amps(pole, is_dc=False) for pole in self._poles))
        is_leaking = left >= self._SHARE * self.part.rating("ma") / 1000.0 and not self.has_tripped
        if is_leaking != self._is_leaking:
            self._is_leaking = is_leaking
            clock.at(self, "leak", self._SECONDS) if is_leaking else clock.call_off(self, "leak")


class Overload(Protector):
    """An overload relay: its poles lead through, tripping moves its contacts. Reset by hand, or by itself once it has cooled."""

    verbs = frozenset({"trip", "reset"})

    def __init__(self, device: CircuitDevice, part: Part, setting: float | None = None) -> None:
        super().__init__(device, part)
        self.setting = setting or part.rating("amps_max") or self.amps
        self.image = relay_image(device.wants.get("trip_class") or part.traits.get("trip_class", "10"))
        self.amps = self.setting
        self.resets_itself = part.traits.get("reset") == "auto" or device.wants.get("reset") == "auto"

    @property
    def is_closed(self) -> bool:
        return True

    def sense(self, clock: Clock) -> None:
        amps = [abs(one) for one in self.currents(clock)]
        most = max(amps, default=0.0)
        is_lost = most > 0.05 * self.setting and min(amps) < _LOST * most
        self.image.load(clock.now, most / self.setting * (PHASE_LOSS**0.5 if is_lost else 1.0))
        _await_trip(self, self.image, clock)
        if self.has_tripped and self.resets_itself:
            clock.at(self, "cool", self.image.seconds_to_cool(clock.now, 0.5))

    def happen(self, what: str, clock: Clock) -> None:
        if what == "cool":
            self.has_tripped = False
            clock.changed(self, "reset")
        else:
            self.trip(clock)

    def act(self, verb: str, value: str, clock: Clock) -> None:
        if verb in {"open", "close"}:
            raise ActionError(self.cannot(verb))
        super().act(verb, value, clock)

    @property
    def states(self) -> frozenset[str]:
        return frozenset({"tripped" if self.has_tripped else "healthy"})


class Impedance(Gear):
    """What a current passes with a drop: a starting resistor, a filter, a choke. `ohms` of each pole."""

    def __init__(self, device: CircuitDevice, part: Part, ohms: complex) -> None:
        super().__init__(device, part)
        self.ohms = ohms

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        pairs = [e.marks for e in self.part.elements if e.kind is ElementKind.POLE]
        self._poles = [rig.pole(f"{self.id}:{marks[0]}", f"{self.id}:{marks[1]}") for marks in pairs]

    def apply(self, network: Network) -> None:
        law = laws.nothing(2) if self.has_failed else laws.admittance(1.0 / self.ohms, 1.0 / abs(self.ohms))
        for pole in self._poles:
            network.put(pole, law)
        self.contacts.put(network, lambda _: (False, False))
