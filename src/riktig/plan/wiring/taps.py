"""Owns the size of each wire that may be smaller than the main conductors: taps from a block, and earth wires; and how long a tap may be.
Must not know ways.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from math import inf

from riktig.catalogue.model import ElementKind, Part
from riktig.job.model import Job
from riktig.plan.basis.conductor import Laid, choose_size, least_size
from riktig.plan.basis.sized import Chosen, SizedValue, chosen_values, decide, value_key
from riktig.plan.basis.strength import PROTECTING
from riktig.plan.basis.union import UnionFind
from riktig.plan.circuit.model import DOOR, DOOR_STUD, EARTH_BAR, PLATE_STUD, Circuit, bar_for, is_bar
from riktig.plan.circuit.zones import INCOMING, device_of, mark_of
from riktig.plan.net.numbers import Potential
from riktig.plan.net.strips import Clamp
from riktig.plan.sizes.distribution import FEEDING, feeding_of
from riktig.plan.sizes.sections import Sections, rating_of
from riktig.plan.sizes.sizer import LEAST_BOND_MM2
from riktig.plan.sizes.starter import size_of_mm2
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.links import Link
from riktig.standards import iec_60204_1, iec_60364_5
from riktig.standards.colours import ConductorFunction
from riktig.units.conductor_size import AWG_SIZES, METRIC_MM2, ConductorSize, from_awg, from_mm2

LONGEST_TAP_MM = 3000.0
"""A tap smaller than its feed ends within 3 m at its own device, laid short-circuit-proof: IEC 60364-4-43 434.2.1, and 10 ft in
NEC 240.21(B)(1); from memory.
"""
WIRE_SECTION = "wire_section"
Sizes = Mapping[str, ConductorSize]


def wire_value(link_key: str, number: str, size: ConductorSize, chosen: Chosen) -> SizedValue:
    """Return the section of one wire, as it is or as a person set it, held against what its potential asks for.

    Args:
        link_key: the unordered pair of its terminals.
        number: its number.
        size: what is computed for it.
        chosen: what people set in the ledger.
    """
    value = decide(SizedValue(
        subject=link_key, quantity=WIRE_SECTION, value=size.mm2, unit="mm2", formula=f"as number {number} asks for here: {size.label()}",
        source="section of its potential or of what it feeds", needed=size.mm2, inputs={"size": size.label()},
    ), chosen)  # fmt: skip
    return value if value.reason is not None else replace(value, needed=None)


def taps(conductors: Iterable[Conductor], potentials: Iterable[Potential], sections: Sections) -> Iterator[Conductor]:
    """Yield wires thinner than the main conductors that they hang on."""
    power = [p for p in potentials if p.net.function is ConductorFunction.POWER]
    lines = {p.number for p in power if p.net.is_line or not FEEDING.isdisjoint(map(device_of, p.net.terminals))}
    for wire in conductors:
        if wire.kind == "wire" and wire.number in lines and wire.size.mm2 < sections.inside[wire.number].mm2:
            yield wire


def long_taps(
    conductors: Iterable[Conductor], potentials: Iterable[Potential], sections: Sections
) -> Iterator[Conductor]:
    """Yield taps that are longer than one may be."""
    return (wire for wire in taps(conductors, potentials, sections) if wire.laid_mm > LONGEST_TAP_MM)


class TapSizes:
    """Sizes of wires by the key of their link; what it does not know is as its potential is."""

    def __init__(
        self,
        job: Job,
        circuit: Circuit,
        parts: Mapping[str, Part],
        potentials: tuple[Potential, ...],
        clamps: tuple[Clamp, ...],
        sections: Sections,
        laid: Laid,
    ) -> None:
        self._parts, self._feeding = parts, feeding_of(job)
        self._clamps: dict[str, Clamp] = {clamp.id: clamp for clamp in clamps}
        self._sections = sections
        self._laid = laid
        self._chosen = chosen_values(job)
        self._blocks = {p.number for p in potentials if p.bar(circuit.index) not in {None, EARTH_BAR}}
        self._bars = {d.id for d in circuit.devices if is_bar(d.id)}
        passed_on = {p.number for p in potentials if self._blocks and self._is_passed_on(p)}
        self._blocks |= passed_on
        if job.pass_through is None:
            self._blocks |= {p.number for p in potentials if p.number.startswith("in.")}
        self._earths = {p.number for p in potentials if p.net.function is ConductorFunction.EARTH}
        self._lines = {p.number for p in potentials if p.net.function is ConductorFunction.POWER}
        self._behind: dict[str, ConductorSize] = {}
        self._on_door = {d.id for d in circuit.devices if d.location == DOOR}
        for potential in potentials:
            if not potential.net.is_line and potential.number not in self._earths | passed_on:
                for terminal in potential.net.terminals:
                    self._raise(device_of(terminal), sections.inside[potential.number])
        supplied = {device_of(t) for p in potentials if p.net.is_line for t in p.net.terminals}
        for device in supplied - self._behind.keys():
            self._raise(device, sections.cores[""])

    def _is_passed_on(self, potential: Potential) -> bool:
        """Return whether a potential lies between two that lead the whole current on, and something taps it that takes no such wire."""
        poles = {end for end in potential.net.terminals if self._leads_on(end)}
        taps = [end for end in potential.net.terminals if end not in poles]
        main = self._sections.inside[potential.number].mm2
        specs = [self._parts[device_of(end)].terminal(mark_of(end)) for end in taps]
        is_thick = any(spec is not None and spec.clamp.mm2_max < main for spec in specs)
        return len(poles) > 1 and not potential.net.is_line and is_thick

    def _raise(self, device: str, size: ConductorSize) -> None:
        before = self._behind.get(device)
        if before is None or size.mm2 > before.mm2:
            self._behind[device] = size

    def of(self, links: Iterable[Link]) -> Sizes:
        """Return the sizes of taps and earth wires by the key of their link."""
        wired = [link for link in links if not link.where.startswith("cable:")]
        sizes: dict[str, ConductorSize] = {}
        for link in wired:
            if link.number in self._earths and link.is_wired:
                sizes[link.key] = self._earth_of(link)
        for number in self._blocks:
            sizes.update(self._taps([link for link in wired if link.number == number], number))
        return sizes | {link.key: jumper for link in wired if (jumper := self._jumper_of(link)) is not None}

    def _jumper_of(self, link: Link) -> ConductorSize | None:
        """Return the size of a wire between a transformer and its earth link, or from that to earth; None of any other."""
        for end, other in ((link.a, link.b), (link.b, link.a)):
            jumper = self._sections.jumpers.get(device_of(end)) if link.is_wired else None
            is_led = link.number in self._earths or device_of(other) == f"{device_of(end).removesuffix('.B')}.T"
            if jumper is not None and is_led:
                return jumper
        return None

    def by_hand(self, links: Iterable[Link], sizes: Sizes) -> dict[str, SizedValue]:
        """Return the sections that a person set for single wires by the key of their link; `sizes` are those computed."""
        found = {}
        for link in links:
            if link.is_wired and value_key(link.key, WIRE_SECTION) in self._chosen:
                computed = sizes.get(link.key, self._sections.inside[link.number])
                found[link.key] = wire_value(link.key, link.number, computed, self._chosen)
        return found

    def size_of(self, value: SizedValue) -> ConductorSize:
        """Return the size that a person meant."""
        return size_of_mm2(value.value, metric=self._laid.metric)

    def _taps(self, links: list[Link], number: str) -> dict[str, ConductorSize]:
        """Return sizes of the wires of a potential with a block: those of what hangs on one clamp together are alike."""
        has_bar = any(is_bar(device_of(end)) for link in links for end in (link.a, link.b))

        def is_source(end: str) -> bool:
            return is_bar(device_of(end)) if has_bar else self._leads_on(end)

        joined = UnionFind[str]()
        for link in links:
            if not (is_source(link.a) or is_source(link.b)):
                joined.join(link.a, link.b)
        members: dict[str, dict[str, None]] = {}
        for link in links:
            for end in (link.a, link.b):
                if not is_source(end):
                    members.setdefault(joined.find(end), {})[end] = None
        size_of = {root: self._size_for(tuple(ends), number) for root, ends in members.items()}
        ends = {link.key: link.b if is_source(link.a) else link.a for link in links}
        return {key: size_of[joined.find(end)] for key, end in ends.items() if not is_source(end)}

    def _leads_on(self, end: str) -> bool:
        """Return whether an end is a pole of what leads the whole current of the panel on."""
        device, _, mark = end.rpartition(":")
        part = self._parts.get(device) if device in self._feeding else None
        return part is not None and any(e.kind is ElementKind.POLE and mark in e.marks for e in part.elements)

    def _is_coil(self, end: str) -> bool:
        """Return whether an end is at a coil, which leads none of what the device switches."""
        device, _, mark = end.rpartition(":")
        part = self._parts.get(device)
        return part is not None and any(e.kind is ElementKind.COIL and mark in e.marks for e in part.elements)

    def _size_for(self, ends: tuple[str, ...], number: str) -> ConductorSize:
        main = self._sections.inside[number]
        devices = dict.fromkeys(device_of(end) for end in ends if not self._is_coil(end))
        clamps = [self._clamps[end] for end in ends if end in self._clamps]
        leads_on = any(self._leads_on(end) for end in ends)
        is_led = bar_for(number) in self._bars or not number.startswith("in.")
        if (leads_on and is_led) or any(clamp.drop == INCOMING for clamp in clamps):
            return main
        sizes = [self._behind[device] for device in devices if device in self._behind and device not in self._feeding]
        sizes += [self._sections.core_of(clamp.drop) for clamp in clamps if clamp.drop != DOOR]
        sizes.append(least_size(self._laid, is_power=True) if number in self._lines else self._sections.cores[""])
        amps = sum(rating_of(self._parts, d) for d in devices if d in self._parts and self._parts[d].kind in PROTECTING)
        chosen = choose_size(amps, self._laid, is_power=True) if len(devices) > 1 and amps else None
        largest = max([*sizes, chosen] if chosen is not None else sizes, key=lambda s: s.mm2)
        return largest if largest.mm2 < main.mm2 else main

    def _earth_of(self, link: Link) -> ConductorSize:
        """Return the size of an earth wire: by the conductors of what it bonds, never above the main earth.

        Source:
            IEC 60204-1 Table 1; of a surge arrester, which leads more than its own fault, IEC 60364-5-53 534.4.10;
            in North America an equipment grounding conductor need not be larger than the lines, NEC 250.122(A);
            from memory.
        """
        main = self._sections.inside[link.number]
        end = link.b if is_bar(device_of(link.a)) or link.a.endswith(".PE:out") else link.a
        device = device_of(end)
        if device in self._sections.frames:
            return self._sections.frames[device]
        clamp = self._clamps.get(end)
        if device == PLATE_STUD or clamp is not None:
            strip = [c for c in self._clamps.values() if clamp is not None and c.piece == clamp.piece and c.is_earth]
            largest = max((self._sections.core_of(c.drop) for c in strip), key=lambda s: s.mm2, default=main)
            return self._listed(LEAST_BOND_MM2, main) if largest.metric and largest.mm2 < LEAST_BOND_MM2 else largest
        part = self._parts.get(device)
        if part is not None and part.kind == "earth-terminal":  # leads on what its device gives it
            device = device.removesuffix(".PE")
            part = self._parts.get(device)
        if device == DOOR_STUD:
            lines = max((self._behind[d].mm2 for d in self._on_door if d in self._behind), default=0.0)
        else:
            lines = self._behind[device].mm2 if device in self._behind else 0.0
        if part is not None and part.kind == "surge" and main.metric:
            return from_mm2(iec_60364_5.arrester_earth_mm2(part.rating("type")))
        spec = part.terminal(end.rpartition(":")[2]) if part is not None else None
        least = max(
            iec_60204_1.protective_section_mm2(lines),
            min(LEAST_BOND_MM2, spec.clamp.mm2_max if spec is not None else inf),
        )
        return self._listed(least, main)

    def _listed(self, mm2: float, most: ConductorSize) -> ConductorSize:
        """Return the smallest size that is bought and not below `mm2`; a gauge may lie 20 % below, as 14 AWG to 2.5 mm2."""
        if most.metric:
            return min(next(from_mm2(m) for m in METRIC_MM2 if m >= mm2 - 1e-6), most, key=lambda s: s.mm2)
        gauges = sorted((from_awg(awg) for awg in AWG_SIZES), key=lambda s: s.mm2)
        return min(next(s for s in gauges if s.mm2 >= 0.8 * mm2), most, key=lambda s: s.mm2)


def wire_sizes(sizer: TapSizes, links: Iterable[Link]) -> tuple[dict[str, ConductorSize], tuple[SizedValue, ...]]:
    """Return sizes of single wires by the key of their link, and the values that people set for some."""
    computed = sizer.of(links)
    by_hand = sizer.by_hand(links, computed)
    return {**computed, **{key: sizer.size_of(value) for key, value in by_hand.items()}}, tuple(by_hand.values())
