"""Owns what consumes and does no more: lamps, horns, sockets, heaters, valves, meters. Must not know motors."""

from cmath import rect
from math import acos

from riktig.catalogue.model import ElementKind, Part
from riktig.live import laws
from riktig.live.gear import Clock, Gear
from riktig.live.laws import Law
from riktig.live.network import Network
from riktig.live.rig import Rig, Sensor
from riktig.plan.circuit.model import CircuitDevice
from riktig.plan.sizes.needs import Coil

CONSUMING = (ElementKind.LAMP, ElementKind.SOUNDER, ElementKind.LOAD, ElementKind.COIL)
_SHINES_FROM = 0.6
"""A lamp, horn or load counts as on from this share of its volts: it is to be seen or heard (common practice, no source)."""
_LEAST_VA = 0.5
_RESISTIVE = frozenset({"lamp", "beacon", "light", "heater", "socket", "pushbutton", "load"})


def drawing(volts: float, va: float, cos_phi: float) -> complex:
    """Return the admittance in S of what draws so many VA at its volts, current behind voltage."""
    return rect(va / volts**2, -acos(cos_phi))


def load_law(volts: float, va: float, *, is_dc: bool, cos_phi: float = 1.0) -> Law:
    """Return how a load conducts; what is made for AC is a third of its impedance at DC, what is made for DC nearly all coil at AC.

    Source:
        Common practice, no source.
    """
    if is_dc:
        return laws.admittance(drawing(volts, va, 0.5), va / volts**2)
    return laws.admittance(drawing(volts, va, cos_phi), va / volts**2 * (1.0 if cos_phi == 1.0 else 3.0))


class Consumer(Gear):
    """Whatever draws a current when it has volts. `feed` is what it is fed with."""

    def __init__(self, device: CircuitDevice, part: Part, feed: Coil | None = None) -> None:
        super().__init__(device, part)
        self.is_dc = part.traits.get("current") == "dc" or (feed is not None and feed.current == "DC")
        self.volts = part.rating("volts") or (feed.volts if feed is not None else 24.0 if self.is_dc else 230.0)
        self.is_fed = False
        self._elements: list[tuple[int, int]] = []

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        self._elements, self._ends = [], []
        for element in self.part.elements:
            if element.kind not in CONSUMING:
                continue
            nodes = tuple(rig.node(f"{self.id}:{mark}") for mark in element.marks)
            self._elements.append((rig.element(*nodes), len(nodes)))
            self._ends.append((nodes[0], nodes[1]))
            level = _SHINES_FROM * self.volts
            rig.sensors.append(Sensor(owner=self.id, a=nodes[0], b=nodes[1], is_dc=self.is_dc, levels=(level, level)))

    def _law(self, count: int) -> Law:
        if self.has_failed or self.part.kind == "surge":
            return laws.nothing(count)
        va = max(self.device.held_va(self.part, self.volts), _LEAST_VA)
        cos_phi = 1.0 if self.part.kind in _RESISTIVE else 0.7
        return load_law(self.volts, va, is_dc=self.is_dc, cos_phi=cos_phi) if count == 2 else laws.star(
            drawing(self.volts, va / count, cos_phi), va / count / self.volts**2, count
        )  # fmt: skip

    def apply(self, network: Network) -> None:
        for element, count in self._elements:
            network.put(element, self._law(count))

    def sense(self, clock: Clock) -> None:
        volts = max((clock.across(a, b, is_dc=self.is_dc) for a, b in self._ends), default=0.0)
        is_fed = volts >= _SHINES_FROM * self.volts and not self.has_failed
        if is_fed != self.is_fed:
            self.is_fed = is_fed
            clock.changed(self, "on" if is_fed else "off")

    @property
    def probes(self) -> tuple[int, ...]:
        return tuple(element for element, _ in self._elements)

    @property
    def states(self) -> frozenset[str]:
        return (
            frozenset({"on" if self.is_fed else "off"}) if self._elements and self.part.kind != "surge" else frozenset()
        )
