"""Owns a motor as its circuit sees it: what it draws from rest to speed, which way it turns. Must not know starters."""

from cmath import exp as cexp
from cmath import rect
from collections.abc import Mapping
from math import acos, pi, sqrt

from riktig.catalogue.model import ElementKind, Part
from riktig.live import laws
from riktig.live.gear import Clock, Gear, number_of
from riktig.live.network import Network
from riktig.live.rig import Rig, Sensor
from riktig.plan.circuit.model import CircuitDevice

_RUN_COS, _START_COS = 0.8, 0.35
_SLOW = 0.8
"""Below this share of its speed a motor draws its starting current (common practice, no source)."""
_RUNS_UP, _RUNS_DOWN = 2.0, 3.0
"""Seconds to speed at full volts, and to rest: a usual load (common practice, no source)."""
_UNLOADED = 0.15
"""Share of that time which it takes with nothing on its shaft (common practice, no source)."""
_TURNS_FROM = 0.2
"""Least share of its volts that turns it."""
_ON_TWO = 2.0
"""On two of three lines it slips until each of them leads √3 of its current: twice what its windings would draw as they were."""
_ALPHA = cexp(2j * pi / 3)
_COLD_OHM, _HOT_OHM = 100.0, 4000.0
"""Sensors in a winding, cold and hot: IEC 60947-8, from memory."""


class Motor(Gear):
    """A cage motor. Its speed is 1 at its rated one; `load` the share of its rated current that it draws there.

    Args:
        amps: its rated current.
        volts: of its terminals when it draws that.
        ratio: its starting current by the rated one.
        of_speed: of one with several speeds the current of each, by the mark of a terminal that feeds it then.
    """

    verbs = frozenset({"set"})

    def __init__(
        self, device: CircuitDevice, part: Part, amps: float, volts: float, ratio: float, of_speed: Mapping[str, float]
    ) -> None:
        super().__init__(device, part)
        self.amps, self.volts, self.ratio, self._of_speed = amps, volts, ratio, of_speed
        self.load, self.is_hot = 1.0, False
        self.speed, self.direction, self.words = 0.0, 0, frozenset({"stopped"})
        self._since, self._rate = 0.0, 0.0
        self._sequence = (0.0, 0.0)

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        self._windings: list[tuple[int, tuple[int, ...]]] = []
        self._amps: list[float] = []
        self._sensors: list[int] = []
        for element in self.part.elements:
            nodes = tuple(rig.node(f"{self.id}:{mark}") for mark in element.marks)
            if element.kind is ElementKind.WINDING:
                for group in [slice(0, 3), slice(3, 6)] if len(nodes) == 6 else [slice(None)]:
                    self._windings.append((rig.element(*nodes[group]), nodes[group]))
                    self._amps.append(
                        next((self._of_speed[m] for m in element.marks[group] if m in self._of_speed), self.amps)
                    )
            elif element.kind is ElementKind.SENSOR:
                self._sensors.append(rig.element(*nodes))
        dead, levels = 0.02 * self.volts, (_TURNS_FROM * self.volts, 0.75 * self.volts)
        for _, nodes in self._windings:
            ends = [*nodes, nodes[0]] if len(nodes) > 2 else nodes
            for a, b in zip(ends, ends[1:], strict=False):
                rig.sensors.append(Sensor(owner=self.id, a=a, b=b, is_dc=False, levels=levels, dead=dead))

    @property
    def _is_open_winding(self) -> bool:
        return len(self._windings) >= 3 and all(len(nodes) == 2 for _, nodes in self._windings)

    def apply(self, network: Network) -> None:
        is_starting = abs(self.speed) < _SLOW or self.has_failed
        share = (
            self.ratio if is_starting else max(self.load, 0.35) * (_ON_TWO if "single-phasing" in self.words else 1.0)
        )
        angle = -acos(_START_COS if is_starting else _RUN_COS)
        for (element, nodes), rated in zip(self._windings, self._amps, strict=True):
            amps = share * rated
            if len(nodes) == 2 and self._is_open_winding:
                law = laws.admittance(rect(amps / sqrt(3) / self.volts, angle), 3 * amps / self.volts)
            elif len(nodes) == 2:
                law = laws.admittance(rect(amps / self.volts, angle), 3 * amps / self.volts)
            else:
                law = laws.star(rect(amps * sqrt(3) / self.volts, angle), 3 * amps / self.volts, len(nodes))
            network.put(element, law)
        ohms = _HOT_OHM if self.is_hot else _COLD_OHM
        for sensor in self._sensors:
            network.put(sensor, laws.admittance(1 / ohms + 0j, 1 / ohms))

    def _fields(self, clock: Clock) -> tuple[float, float, float]:
        """Return the forward and backward part of what its windings have, and the largest of them, as shares of its volts."""
        best = (0.0, 0.0, 0.0)
        if self._is_open_winding:
            volts = [clock.phasor(*nodes) for _, nodes in self._windings[:3]]
            best = _parts(volts, self.volts)
        else:
            for _, nodes in self._windings:
                if len(nodes) == 2:
                    share = abs(clock.phasor(*nodes)) / self.volts
                    best = max(best, (share, 0.0, share))
                    continue
                ends = [*nodes, nodes[0]]
                between = [clock.phasor(a, b) for a, b in zip(ends, ends[1:], strict=False)]
                best = max(best, _parts(between, self.volts), key=lambda found: max(found))
        return best

    def sense(self, clock: Clock) -> None:
        """Find which way the field turns it and how strongly, and when it will be at speed or at rest."""
        forward, backward, most = self._fields(clock)
        is_single = most >= _TURNS_FROM and min(forward, backward) > 0.5 * max(forward, backward)
        torque = 0.0 if is_single or most < _TURNS_FROM else forward**2 - backward**2
        words = self._name(forward, backward, most, is_single=is_single)
        self.speed = self.speed_at(clock.now)
        if self.has_failed or (is_single and abs(self.speed) < _SLOW) or most < _TURNS_FROM:
            target, seconds = 0.0, _RUNS_DOWN
        elif is_single:
            target, seconds = self.speed, 1.0
        else:
            share = _UNLOADED + (1.0 - _UNLOADED) * min(self.load, 1.0)
            target, seconds = (1.0 if torque > 0 else -1.0), _RUNS_UP * share / min(1.0, max(abs(torque), 0.05))
        self._since, self._rate = (
            clock.now,
            0.0 if target == self.speed else (1.0 if target > self.speed else -1.0) / seconds,
        )
        clock.call_off(self, "speed", "there")
        for name, at in (("speed", _SLOW * (1 if target >= 0 else -1)), ("there", target)):
            left = (at - self.speed) / self._rate if self._rate else -1.0
            if left > 0:
                clock.at(self, name, left)
        if words != self.words:
            self.words = words
            clock.changed(self, " ".join(sorted(words)))

    def _name(self, forward: float, backward: float, most: float, *, is_single: bool) -> frozenset[str]:
        if most < _TURNS_FROM:
            return frozenset({"stopped"})
        if is_single:
            return frozenset({"single-phasing"})
        words = {"forward" if forward >= backward else "reverse"}
        if self._is_open_winding and self.ratio:
            words.add("delta" if most >= 0.75 else "star")
        return frozenset(words)

    def speed_at(self, now: float) -> float:
        """Return its speed as a share of the rated one, below 0 backwards."""
        speed = self.speed + self._rate * (now - self._since)
        return max(-1.0, min(1.0, speed))

    def happen(self, what: str, clock: Clock) -> None:
        self.speed = self.speed_at(clock.now)
        if what == "there":
            self.speed, self._rate = float(round(self.speed)), 0.0
        else:
            self.speed = _SLOW if self.speed > 0 else -_SLOW
        self._since = clock.now
        clock.changed(self, "at speed" if what == "speed" and self._rate * self.speed > 0 else "")

    def act(self, verb: str, value: str, clock: Clock) -> None:
        if verb == "set":
            if value in {"hot", "cold"}:
                self.is_hot = value == "hot"
            else:
                self.load = number_of(value, 0.0, 20.0)
            clock.changed(self, f"load {value}")
            return
        super().act(verb, value, clock)
        self.sense(clock)

    @property
    def probes(self) -> tuple[int, ...]:
        return tuple(element for element, _ in self._windings)

    @property
    def states(self) -> frozenset[str]:
        return self.words


def _parts(volts: list[complex], rated: float) -> tuple[float, float, float]:
    """Return the forward and backward symmetrical component of three phasors and the largest, as shares of the rated volts."""
    a, b, c = volts
    forward, backward = abs(a + _ALPHA * b + _ALPHA**2 * c) / 3, abs(a + _ALPHA**2 * b + _ALPHA * c) / 3
    return forward / rated, backward / rated, max(abs(a), abs(b), abs(c)) / rated
