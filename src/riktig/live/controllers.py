"""Owns a controller: what its inputs see, and which outputs its program, or a person, sets. Must not know what they move."""

from riktig.catalogue.model import ElementKind, Part
from riktig.job.program import Equation, Term
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
_SCANS = 20
"""So often a program is run through at one instant until its outputs stay."""


class Controller(Consumer):
    """A controller: outputs are switched to its supply, analogue outputs give 0 to 10 V."""

    verbs = frozenset({"set"})

    def __init__(
        self, device: CircuitDevice, part: Part, feed: Coil | None = None, program: tuple[Equation, ...] = ()
    ) -> None:
        super().__init__(device, part, feed)
        self.program = program
        self.flags: dict[str, bool] = {}
        self._true_since: dict[Term, float] = {}
        self.outputs: dict[str, bool] = {}
        self.volts_out: dict[str, float] = {}

    def bind(self, rig: Rig) -> None:
        super().bind(rig)
        self._switches: dict[str, int] = {}
        self._ends_in: dict[str, tuple[int, int]] = {}
        self._pairs: dict[str, tuple[int, int]] = {}
        self._analogue: dict[str, tuple[ElementKind, int]] = {}
        for element in self.part.elements:
            first, second = (*element.marks, "")[:2]
            if element.kind is ElementKind.OUTPUT:
                self._switches[second] = rig.switch(f"{self.id}:{first}", f"{self.id}:{second}")
            elif element.kind in {ElementKind.INPUT, ElementKind.ANALOG_IN, ElementKind.ANALOG_OUT}:
                a, b = rig.node(f"{self.id}:{first}"), rig.node(f"{self.id}:{second}")
                self._analogue[first] = (element.kind, rig.element(b, a))
                self._pairs[first] = (a, b)
                if element.kind is ElementKind.ANALOG_IN:
                    rig.sensors.append(Sensor(owner=self.id, a=a, b=b, is_dc=True, dead=0.02))
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

    def sense(self, clock: Clock) -> None:
        super().sense(clock)
        if not self.program or not self.is_fed:
            return
        before = (dict(self.outputs), dict(self.volts_out))
        for _ in range(_SCANS):
            was = (dict(self.outputs), dict(self.volts_out), dict(self.flags))
            for equation in self.program:
                self._run(equation, clock)
            if was == (self.outputs, self.volts_out, self.flags):
                break
        else:
            clock.changed(self, "its program finds no rest")
        if before != (self.outputs, self.volts_out):
            clock.changed(
                self, " ".join(sorted(mark for mark, is_on in self.outputs.items() if is_on)) or "all outputs off"
            )

    def _run(self, equation: Equation, clock: Clock) -> None:
        is_so = equation.term is None or self._holds(equation.term, clock)
        if equation.value is None:
            (self.outputs if equation.target in self._switches else self.flags)[equation.target] = is_so
        else:
            given = equation.value if isinstance(equation.value, float) else self._volts(equation.value, clock)
            self.volts_out[equation.target] = round(min(max(given, 0.0), 10.0), 2) if is_so else 0.0

    def _holds(self, term: Term, clock: Clock) -> bool:
        """Return whether a term is true now; of one that has to be so for a time, when that is over is asked again then."""
        if term.sort == "name":
            name = term.name
            return (
                self.reads(name, clock)
                if name in self._ends_in
                else self.outputs.get(name, self.flags.get(name, False))
            )
        if term.sort in {"<", ">"}:
            volts = self._volts(term.name, clock)
            return volts < term.number if term.sort == "<" else volts > term.number
        if term.sort == "for":
            return self._has_lasted(term, clock)
        found = [self._holds(part, clock) for part in term.parts]
        return not found[0] if term.sort == "not" else all(found) if term.sort == "and" else any(found)

    def _has_lasted(self, term: Term, clock: Clock) -> bool:
        if not self._holds(term.parts[0], clock):
            self._true_since.pop(term, None)
            return False
        since = self._true_since.setdefault(term, clock.now)
        left = since + term.number - clock.now
        if left > 1e-9:
            clock.at(self, f"time {term}", left)
        return left <= 1e-9

    def _volts(self, mark: str, clock: Clock) -> float:
        """Return the volts at an analogue channel."""
        return clock.across(*self._pairs[mark], is_dc=True) if mark in self._pairs else 0.0

    def happen(self, what: str, clock: Clock) -> None:
        self.sense(clock)

    @property
    def digital_outputs(self) -> tuple[str, ...]:
        """The marks of its digital outputs."""
        return tuple(self._switches)

    @property
    def analogue_outputs(self) -> tuple[str, ...]:
        """The marks of its analogue outputs."""
        return tuple(mark for mark, (kind, _) in self._analogue.items() if kind is ElementKind.ANALOG_OUT)

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
            marks = ", ".join((*self.digital_outputs, *self.analogue_outputs))
            raise ActionError(f"{value} sets no output of it: {marks}; on, off or volts")
        clock.changed(self, value)
