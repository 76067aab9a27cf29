"""Owns a controller: what its inputs see, and which outputs its program, or a person, sets. Must not know what they move."""

from riktig.catalogue.model import ElementKind, Part
from riktig.live import laws
from riktig.live.consumers import Consumer
from riktig.live.gear import ActionError, Clock, number_of
from riktig.live.network import Network
from riktig.live.rig import Rig, Sensor
from riktig.plan.circuit.model import CircuitDevice
from riktig.plan.sizes.needs import Coil

_SEEN_VOLTS, _INPUT_OHM = 15.0, 3500.0
"""An input is closed from 15 V on, at about 7 mA (IEC 61131-2 type 1, from memory)."""
_ANALOGUE_OHM = 100_000.0


class Controller(Consumer):
    """A controller: outputs are switched to its supply, analogue outputs give 0 to 10 V."""

    verbs = frozenset({"set"})

    def __init__(self, device: CircuitDevice, part: Part, feed: Coil | None = None) -> None:
        super().__init__(device, part, feed)
        self.outputs: dict[str, bool] = {}
        self.volts_out: dict[str, float] = {}

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        self._switches, self._ends_in, self._analogue = {}, {}, {}
        for element in self.part.elements:
            first, second = (*element.marks, "")[:2]
            if element.kind is ElementKind.OUTPUT:
                self._switches[second] = rig.switch(f"{self.id}:{first}", f"{self.id}:{second}")
            elif element.kind in {ElementKind.INPUT, ElementKind.ANALOG_IN, ElementKind.ANALOG_OUT}:
                a, b = rig.node(f"{self.id}:{first}"), rig.node(f"{self.id}:{second}")
                self._analogue[first] = (element.kind, rig.element(b, a))
                if element.kind is ElementKind.INPUT:
                    self._ends_in[first] = (a, b)
                    levels = (_SEEN_VOLTS, _SEEN_VOLTS)
                    rig.sensors.append(Sensor(owner=self.id, a=a, b=b, is_dc=True, levels=levels))

    def apply(self, network: Network) -> None:
        super().apply(network)
        for mark, switch in self._switches.items():
            network.switch(switch, is_closed=self.is_fed and self.outputs.get(mark, False))
        for mark, (kind, element) in self._analogue.items():
            if kind is ElementKind.ANALOG_OUT:
                volts = self.volts_out.get(mark, 0.0) if self.is_fed else 0.0
                network.put(element, laws.source(0j, volts, 0.01 + 0j, 0.01))
            else:
                ohms = _INPUT_OHM if kind is ElementKind.INPUT else _ANALOGUE_OHM
                network.put(element, laws.admittance(1 / ohms + 0j, 1 / ohms))

    def reads(self, mark: str, clock: Clock) -> bool:
        """Return whether an input is closed."""
        return clock.across(*self._ends_in[mark], is_dc=True) >= _SEEN_VOLTS

    def act(self, verb: str, value: str, clock: Clock) -> None:
        """Set an output: `Q1 on`, `Q1 off`, an analogue one in volts: `AO1 5`."""
        if verb != "set":
            super().act(verb, value, clock)
            return
        mark, _, wanted = value.partition(" ")
        if mark in self._switches and wanted in {"on", "off", "1", "0"}:
            self.outputs[mark] = wanted in {"on", "1"}
        elif self._analogue.get(mark, (None, 0))[0] is ElementKind.ANALOG_OUT:
            self.volts_out[mark] = number_of(wanted, 0.0, 10.0)
        else:
            marks = ", ".join(
                [*self._switches, *(m for m, (kind, _) in self._analogue.items() if kind is ElementKind.ANALOG_OUT)]
            )
            raise ActionError(f"{value} sets no output of it: {marks}; on, off or volts")
        clock.changed(self, value)
