"""Owns which wires are analogue signals: led in pairs, screened, apart from all else. Must not know strips, cables or lengths."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from itertools import pairwise

from riktig.catalogue.model import ElementKind, Part
from riktig.job.ids import TerminalId
from riktig.plan.circuit.model import PLATE, Circuit
from riktig.plan.circuit.zones import device_of, is_drop, mark_of, zones_of
from riktig.plan.net.numbers import Potential
from riktig.standards.colours import ConductorFunction

_ANALOG = frozenset({ElementKind.ANALOG_IN, ElementKind.ANALOG_OUT})
OF_MAINS = frozenset({ConductorFunction.POWER, ConductorFunction.NEUTRAL, ConductorFunction.EXCEPTED})
"""What conductors of the mains are for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Signals:
    """The potentials that are signals all the way; with each place in the field the numbers that reach it in a cable of signals, which
    may be a rail of the supply of a loop; and by number the two terminals of each pair between two devices on the plate.
    """

    numbers: frozenset[str] = frozenset()
    outside: frozenset[tuple[str, str]] = frozenset()
    leads: Mapping[str, tuple[tuple[TerminalId, TerminalId], ...]] = field(default_factory=dict)

    def is_led(self, number: str, a: str, b: str) -> bool:
        """Return whether a wire of a potential between two terminals is one of a signal."""
        return number in self.numbers or any({a, b} == set(lead) for lead in self.leads.get(number, ()))


def find_signals(circuit: Circuit, parts: Mapping[str, Part], potentials: tuple[Potential, ...]) -> Signals:
    """Return what is to be led as signals.

    Source:
        An analogue pair lies together, screened, apart from power, its return not shared with coils: IEC 60204-1:2016 Annex H, from
        memory; common practice.
    """
    zones, number_at = zones_of(circuit), {str(t): p.number for p in potentials for t in p.net.terminals}
    own = [p for p in potentials if not _is_rail(p) and any(_is_analog(t, parts) for t in p.net.terminals)]
    numbers = frozenset(p.number for p in own)
    outside: set[tuple[str, str]] = set()
    for potential in own:
        for terminal in potential.net.terminals:
            zone = zones[device_of(terminal)]
            if is_drop(zone):
                beside = (number_at[t] for t in _of_one_element(terminal, parts) if t in number_at)
                outside |= {(zone, number) for number in beside}
    return Signals(numbers=numbers, outside=frozenset(outside), leads=_pairs(circuit, parts, zones, number_at))


def _is_rail(potential: Potential) -> bool:
    """Return whether a potential is an end of a supply, on which much else hangs."""
    return potential.net.function in OF_MAINS or any(name[-1] in "+-" for name in potential.net.names)


def _is_analog(terminal: str, parts: Mapping[str, Part]) -> bool:
    """Return whether an analogue element ends at a terminal; the supply of an analogue input counts as one."""
    part, mark = parts.get(device_of(terminal)), mark_of(terminal)
    if part is None:
        return False
    here = [e for e in part.elements if mark in e.marks]
    returns = {e.marks[1:] for e in here if e.kind is ElementKind.SOURCE}
    return any(e.kind in _ANALOG for e in here) or any(
        e.kind in _ANALOG and e.marks[1:] in returns for e in part.elements
    )


def _of_one_element(terminal: str, parts: Mapping[str, Part]) -> Iterator[str]:
    """Yield the terminals of the elements of a device that end at one of its terminals, that one too."""
    device, mark = device_of(terminal), mark_of(terminal)
    yield terminal
    for element in parts[device].elements if device in parts else ():
        if mark in element.marks:
            yield from (f"{device}:{other}" for other in element.marks)


def _pairs(
    circuit: Circuit, parts: Mapping[str, Part], zones: Mapping[str, str], number_at: Mapping[str, str]
) -> dict[str, tuple[tuple[TerminalId, TerminalId], ...]]:
    """Return by number what leads from one analogue element on the plate to the next that has the same two potentials."""
    ends: dict[tuple[str, str], list[tuple[TerminalId, TerminalId]]] = {}
    for device in circuit.devices:
        if zones[device.id] != PLATE or device.id not in parts:
            continue
        for element in parts[device.id].elements:
            if element.kind in _ANALOG:
                signal, back = (TerminalId(f"{device.id}:{mark}") for mark in element.marks[:2])
                if signal in number_at and back in number_at:
                    ends.setdefault((number_at[signal], number_at[back]), []).append((signal, back))
    leads: dict[str, list[tuple[TerminalId, TerminalId]]] = {}
    for numbers, elements in ends.items():
        for one, other in pairwise(elements):
            for number, a, b in zip(numbers, one, other, strict=True):
                leads.setdefault(number, []).append((a, b))
    return {number: tuple(pairs) for number, pairs in leads.items()}
