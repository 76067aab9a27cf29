"""Owns inputs of a device that a contact closes onto the device's own supply. Must not know what follows from them."""

from riktig.catalogue.model import ElementKind, Part
from riktig.live import laws
from riktig.live.gear import Clock
from riktig.live.network import Network
from riktig.live.rig import Rig, Sensor

_LOGIC_VOLTS, _SEEN_VOLTS, _INPUT_OHM = 24.0, 15.0, 4700.0
"""What a device's own supply gives, and from where an input counts as closed (IEC 61131-2, from memory)."""


class Inputs:
    """The inputs of a device that a contact closes onto its own supply."""

    def __init__(self, rig: Rig, device: str, part: Part) -> None:
        self._ground = rig.inner()
        self._outs: dict[str, int] = {}
        self._loads: dict[str, tuple[int, int]] = {}
        for element in part.elements:
            if element.kind in {ElementKind.INPUT, ElementKind.ENABLE}:
                out, back = element.marks
                if out not in self._outs:
                    self._outs[out] = rig.element(self._ground, rig.node(f"{device}:{out}"))
                node = rig.node(f"{device}:{back}")
                self._loads[back] = (rig.element(node, self._ground), node)
                levels = (_SEEN_VOLTS, _SEEN_VOLTS)
                rig.sensors.append(Sensor(owner=device, a=node, b=self._ground, is_dc=True, levels=levels))

    def put(self, network: Network, *, is_powered: bool) -> None:
        """Let the device feed them, if it has volts itself."""
        for element in self._outs.values():
            network.put(element, laws.source(0j, _LOGIC_VOLTS, 0.02 + 0j, 0.02) if is_powered else laws.nothing(2))
        for element, _ in self._loads.values():
            network.put(element, laws.admittance(1 / _INPUT_OHM + 0j, 1 / _INPUT_OHM))

    def is_closed(self, mark: str, clock: Clock) -> bool:
        """Return whether an input is closed; one that the part does not have is not."""
        return mark in self._loads and clock.across(self._loads[mark][1], self._ground, is_dc=True) >= _SEEN_VOLTS
