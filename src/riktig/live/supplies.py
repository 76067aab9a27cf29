"""Owns what feeds a circuit: ways in, transformers, DC supplies, sources of one's own. Must not know what they feed."""

from cmath import rect
from math import acos, pi

from riktig.catalogue.model import ElementKind, Part
from riktig.job.modules import WayIn
from riktig.live import laws
from riktig.live.gear import Clock, Gear
from riktig.live.laws import Law
from riktig.live.network import Network
from riktig.live.rig import EARTH, Rig, Sensor
from riktig.plan.circuit.model import CircuitDevice

_POWER_FACTORS = ((1.5, 0.95), (3.0, 0.9), (4.5, 0.8), (6.0, 0.7), (10.0, 0.5), (20.0, 0.3), (50.0, 0.25))
"""Power factor of a fault up to so many kA: IEC 60947-1 Table 16, from memory; 0.2 beyond."""
_EARTH_OHM = 0.1
"""What a source is earthed through where the system is TT; else nothing (common practice, no source)."""


class WayInGear:
    """A way in: its lines and neutral as they come in, behind what gives the fault current. It is no device: people lose its lines.

    Args:
        name: "supply", or that of a further way in.
        way_in: its volts and how it is earthed.
        terminals: a terminal of each conductor by its name, earth left out.
    """

    def __init__(self, name: str, way_in: WayIn, terminals: dict[str, str]) -> None:
        self.id, self.way_in, self.terminals = name, way_in, terminals
        self.lost: set[str] = set()
        self.order = {line: line for line in terminals}
        """Which conductor of the network comes in as which."""

    def bind(self, rig: Rig) -> None:
        """Put its sources into a network."""
        self._star = rig.inner()
        self._sources = {line: rig.element(self._star, rig.node(t)) for line, t in self.terminals.items()}
        rig.sources.append((self.id, tuple(rig.node(t) for t in self.terminals.values())))
        self._bond = rig.element(self._star, EARTH)
        grounded = self.way_in.grounded_line
        self._ground = rig.element(rig.node(self.terminals[grounded]), EARTH) if grounded in self.terminals else None

    @property
    def _inner(self) -> complex:
        kilo = self.way_in.available_ka
        cos_phi = next((cos for most, cos in _POWER_FACTORS if kilo <= most), 0.2)
        return rect(self.way_in.line_to_neutral / (1000.0 * kilo), acos(cos_phi))

    def volts_of(self, line: str) -> complex:
        """Return the phasor of a conductor of the network, to the star point of the source."""
        if line == "N":
            return 0j
        turns = {"L1": 0.0, "L2": -0.5 if self.way_in.system == "1ph3w" else -1 / 3, "L3": -2 / 3}[line]
        return rect(self.way_in.line_to_neutral, 2 * pi * turns)

    def apply(self, network: Network) -> None:
        """Let it feed what is not lost."""
        inner = 1.0 / self._inner
        for line, element in self._sources.items():
            volts = self.volts_of(self.order[line])
            law = laws.nothing(2) if self.order[line] in self.lost else laws.source(volts, 0.0, inner, abs(inner))
            network.put(element, law)
        is_open = self.way_in.earthing in {"it", "delta", "corner-grounded"}
        siemens = 1 / _EARTH_OHM if self.way_in.earthing == "tt" else 1e4
        network.put(self._bond, laws.nothing(2) if is_open else laws.admittance(siemens + 0j, siemens))
        if self._ground is not None:
            network.put(self._ground, laws.admittance(1e4 + 0j, 1e4))

    def exchange(self, a: str, b: str) -> None:
        """Exchange two of its conductors."""
        self.order[a], self.order[b] = self.order[b], self.order[a]


class Transformer(Gear):
    """A control transformer: what hangs on it makes it sag, by 5 % where coils draw its short-time VA. `volts` are those of both sides.

    Source:
        IEC 61558-2-2: short-time VA at 95 % of the volts and cos φ 0.5, from memory; without that 6 % of its rated impedance; idle 5 %
        of its VA, nearly all magnetising: usual, no source.
    """

    _SAG, _SHORT, _SHORT_COS, _IDLE = 0.05, 0.06, 0.5, 0.05

    def __init__(self, device: CircuitDevice, part: Part, volts: tuple[float, float]) -> None:
        super().__init__(device, part)
        self.volts = volts

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        marks = [
            m
            for kind in (ElementKind.PRIMARY, ElementKind.SECONDARY)
            for e in self.part.elements
            if e.kind is kind
            for m in e.marks
        ]
        nodes = tuple(rig.node(f"{self.id}:{mark}") for mark in marks[:4])
        self._element = rig.element(*nodes)
        rig.sources.append((self.id, nodes[2:]))

    @property
    def probes(self) -> tuple[int, ...]:
        return (self._element,)

    def apply(self, network: Network) -> None:
        network.put(self._element, laws.nothing(4) if self.has_failed else self._law())

    def _law(self) -> Law:
        first, second = self.volts
        va = self.part.rating("va") or 100.0
        short_va = self.part.rating("inrush_va")
        ohms = self._SAG * (1.0 - self._SAG) * second**2 / short_va if short_va else self._SHORT * second**2 / va
        leakage = 1.0 / rect(ohms, acos(self._SHORT_COS))
        copper = (va / (0.03 * first**2), va / (0.03 * second**2))
        return laws.transformer(first / second, leakage, rect(self._IDLE * va / first**2, -acos(0.3)), copper)


class DcSupply(Gear):
    """A DC supply: it holds its volts up to its limit, and folds back to that current beyond; it draws what it gives and a little more.

    Source:
        Starts at 70 % of its input within 0.2 s, goes at 50 % and bridges 20 ms; limits at 1.5 times its rating; 90 % of efficiency:
        usual, no source.
    """

    _STARTS, _GOES, _RISE, _BRIDGES, _LIMIT, _EFFICIENCY = 0.7, 0.5, 0.2, 0.02, 1.5, 0.9
    _IDLE_W = 2.0
    begins = "rise"

    def __init__(self, device: CircuitDevice, part: Part, feed: float, volts: float) -> None:
        super().__init__(device, part)
        self.feed, self.volts = feed, volts
        self.is_up, self.is_fed, self.is_limiting = False, False, False
        self._drawn = self._IDLE_W

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        sides = {
            e.kind: [rig.node(f"{self.id}:{m}") for m in e.marks]
            for e in self.part.elements
            if e.kind is not ElementKind.EARTH
        }
        self._in, self._out = sides[ElementKind.PRIMARY][:2], sides[ElementKind.SECONDARY][:2]
        self._input, self._output = rig.element(*self._in), rig.element(*self._out)
        rig.sources.append((self.id, tuple(self._out)))
        self._rated = self.part.rating("amps") or 1.0
        self._siemens = self._rated / (0.01 * self.volts)
        levels = (self._GOES * self.feed, self._STARTS * self.feed)
        rig.sensors.append(Sensor(owner=self.id, a=self._in[0], b=self._in[1], is_dc=False, levels=levels))
        dead = 0.02 * self._rated / self._siemens
        rig.sensors.append(Sensor(owner=self.id, a=self._out[0], b=self._out[1], is_dc=True, dead=dead))

    def apply(self, network: Network) -> None:
        watts = self._drawn if self.is_up else self._IDLE_W
        network.put(self._input, laws.admittance(rect(watts / self.feed**2, -acos(0.65)), 0.0))
        if not self.is_up or self.has_failed:
            network.put(self._output, laws.nothing(2))
        elif self.is_limiting:
            network.put(self._output, laws.current_source(self._LIMIT * self._rated, 1e-3))
        else:
            network.put(self._output, laws.source(0j, self.volts, self._siemens + 0j, self._siemens))

    def sense(self, clock: Clock) -> None:
        share = self._GOES if self.is_fed else self._STARTS
        is_fed = clock.across(*self._in, is_dc=False) >= share * self.feed and not self.has_failed and not self.is_stuck
        if is_fed != self.is_fed:
            self.is_fed = is_fed
            clock.at(self, "rise" if is_fed else "fall", self._RISE if is_fed else self._BRIDGES)
            clock.call_off(self, "fall" if is_fed else "rise")
        if self.is_up:
            self._follow(clock)

    def _follow(self, clock: Clock) -> None:
        out = clock.across(self._out[0], self._out[1], is_dc=True)
        amps = abs(clock.amps(self._output, is_dc=True))
        is_limiting = out < self.volts if self.is_limiting else amps > self._LIMIT * self._rated * 1.001
        drawn = round(out * amps / self._EFFICIENCY + self._IDLE_W)
        if is_limiting != self.is_limiting:
            self.is_limiting = is_limiting
            clock.changed(self, "folds back" if is_limiting else "holds its volts")
        if drawn != self._drawn:
            self._drawn = drawn
            clock.changed(self)

    def let_go(self, clock: Clock) -> None:
        self.is_up = self.is_fed = self.is_limiting = False
        clock.call_off(self, "rise", "fall")

    def happen(self, what: str, clock: Clock) -> None:
        self.is_up = what == "rise"
        self.is_limiting = False
        clock.changed(self, "on" if self.is_up else "off")

    @property
    def probes(self) -> tuple[int, ...]:
        return (self._output,)

    @property
    def states(self) -> frozenset[str]:
        return frozenset(
            {"on" if self.is_up else "off"}
            | ({"folding back"} if self.is_limiting else set())
            | ({"chattering"} if self.is_stuck else set())
        )


class Source(Gear):
    """What a circuit is fed with from elsewhere: AC of some volts."""

    verbs = frozenset({"open", "close"})
    _SIEMENS = 10.0

    def __init__(self, device: CircuitDevice, part: Part, volts: float) -> None:
        super().__init__(device, part)
        self.volts, self.is_off = volts, False

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        (element,) = (e for e in self.part.elements if e.kind is ElementKind.SOURCE)
        a, b = (rig.node(f"{self.id}:{mark}") for mark in element.marks)
        self._element = rig.element(b, a)
        rig.sources.append((self.id, (a, b)))

    def apply(self, network: Network) -> None:
        law = laws.source(self.volts + 0j, 0.0, self._SIEMENS + 0j, self._SIEMENS)
        network.put(self._element, laws.nothing(2) if self.is_off or self.has_failed else law)

    def act(self, verb: str, value: str, clock: Clock) -> None:
        if verb not in {"open", "close"}:
            super().act(verb, value, clock)
            return
        self.is_off = verb == "open"
        clock.changed(self, "off" if self.is_off else "on")
