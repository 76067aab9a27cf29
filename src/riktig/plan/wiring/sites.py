"""Owns what each potential is joined from: terminals by zone, clamps, and what is joined before anything is chained. Must not chain."""

from collections import defaultdict
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from riktig.catalogue.model import ElementKind, Part
from riktig.job.ids import TerminalId
from riktig.plan.circuit.incoming import WAY_IN
from riktig.plan.circuit.model import PLATE, Circuit
from riktig.plan.circuit.plugged import plugged_on
from riktig.plan.circuit.zones import INCOMING, by_zone, device_of, mark_of, zones_of
from riktig.plan.net.numbers import Potential
from riktig.plan.net.runs import Run, Runs
from riktig.plan.net.strips import Clamp
from riktig.plan.wiring.combs import Comb
from riktig.plan.wiring.links import Means
from riktig.standards.colours import ConductorFunction


@dataclass(frozen=True, slots=True, kw_only=True)
class Site:
    """What one potential is joined from: its terminals by zone, plate first where it has any, its strip terminals in the order in which
    they stand, the parts of its devices, which of its terminals take a twin ferrule, what lies side by side under a comb or bridge, the
    cable runs that it takes, and leads that are laid before all others, for they must be short or lie beside another.
    """

    potential: Potential
    zones: tuple[tuple[str, tuple[TerminalId, ...]], ...]
    clamps: tuple[Clamp, ...]
    parts: Mapping[str, Part]
    twins: frozenset[TerminalId]
    beside: tuple[tuple[TerminalId, TerminalId, Means], ...]
    runs: tuple[Run, ...]
    short: tuple[tuple[TerminalId, TerminalId], ...] = ()

    @property
    def is_earth(self) -> bool:
        """Whether it is earth, which goes to the bar wire by wire."""
        return self.potential.net.function is ConductorFunction.EARTH

    @property
    def ends(self) -> Iterator[TerminalId]:
        """All terminals zone by zone, those of strips behind the plate's."""
        zones = dict(self.zones)
        for zone, terminals in {**zones, PLATE: zones.get(PLATE, ())}.items():
            yield from terminals
            yield from (clamp.id for clamp in self.clamps if zone == PLATE)


def find_sites(
    circuit: Circuit,
    parts: Mapping[str, Part],
    potentials: tuple[Potential, ...],
    clamps: tuple[Clamp, ...],
    runs: Runs,
    combs: tuple[Comb, ...],
    twins: frozenset[TerminalId],
) -> dict[str, Site]:
    """Return by number what each potential is joined from."""
    zones = zones_of(circuit)
    own: defaultdict[str, list[Clamp]] = defaultdict(list)
    for clamp in clamps:
        own[clamp.number].append(clamp)
    number_of = {t: p.number for p in potentials for t in p.net.terminals}
    beside: defaultdict[str, list[tuple[TerminalId, TerminalId, Means]]] = defaultdict(list)
    for comb in combs:
        means = Means.BRIDGE if comb.is_bridge else Means.COMB
        for teeth in comb.bars:
            beside[number_of[teeth[0]]].extend((a, b, means) for a, b in pairwise(teeth))
    hosts = plugged_on(circuit, parts)
    surges = {device.id for device in circuit.devices if device.kind == "surge"}
    guards = {device.id for device in circuit.devices if device.owner in surges and device.role == "Q"}
    sites = {}
    for potential in potentials:
        terminals = potential.net.terminals
        beside[potential.number].extend(_plugs(by_zone(terminals, zones).get(PLATE, []), hosts))
        if potential.net.function is ConductorFunction.EARTH:
            beside[potential.number].extend(_earth_rails(terminals, parts))
        sites[potential.number] = Site(
            potential=potential, zones=tuple((zone, tuple(here)) for zone, here in by_zone(terminals, zones).items()),
            clamps=tuple(own[potential.number]), parts={device_of(t): parts[device_of(t)] for t in terminals},
            twins=twins.intersection(terminals), beside=tuple(beside[potential.number]), runs=runs.of(potential.number),
            short=(
                *_surge_leads(terminals, own[potential.number], guards, surges),
                *_bond_leads(terminals),
                *runs.signals.leads.get(potential.number, ()),
            ),
        )  # fmt: skip
    return sites


def _surge_leads(
    terminals: Sequence[TerminalId], clamps: Sequence[Clamp], guards: Collection[str], surges: Collection[str]
) -> Iterator[tuple[TerminalId, TerminalId]]:
    """Yield what leads from the main switch, or what follows it, or the terminal on which the supply lands, to what protects a surge
    arrester, or of the neutral to the arrester.

    Source:
        Its leads are as short as can be, IEC 60364-5-53 534.4.8, from memory.
    """
    landing = next((clamp.id for clamp in clamps if clamp.drop == INCOMING), None)
    main = next((terminal for terminal in terminals if device_of(terminal) in WAY_IN), landing)
    led = [t for t in terminals if device_of(t) in guards] or [t for t in terminals if device_of(t) in surges]
    if main is not None:
        yield from ((main, terminal) for terminal in led)


def _bond_leads(terminals: Sequence[TerminalId]) -> Iterator[tuple[TerminalId, TerminalId]]:
    """Yield what leads from the secondary of a transformer to its earth link: it is bonded at its source (IEC 60204-1 9.4.3.1, NEC
    250.30(A)(1), from memory).
    """
    for link in (t for t in terminals if device_of(t).endswith(".B")):
        source = f"{device_of(link).removesuffix('.B')}.T"
        yield from ((terminal, link) for terminal in terminals if device_of(terminal) == source)


def _earth_rails(
    terminals: Sequence[TerminalId], parts: Mapping[str, Part]
) -> Iterator[tuple[TerminalId, TerminalId, Means]]:
    """Yield what joins the earth terminals of one device."""
    for terminal in terminals:
        part = parts[device_of(terminal)]
        if leads_on(part, terminal):
            yield TerminalId(f"{device_of(terminal)}:in"), terminal, Means.FACTORY
        for element in part.elements:
            if element.kind is ElementKind.EARTH and element.marks[0] == mark_of(terminal):
                for mark in element.marks[1:]:
                    yield terminal, TerminalId(f"{device_of(terminal)}:{mark}"), Means.FACTORY


def leads_on(part: Part | None, terminal: TerminalId) -> bool:
    """Return whether a terminal is the clamp of an earth terminal that leads on to what stands beside it."""
    return part is not None and part.kind == "earth-terminal" and mark_of(terminal) == "out"


def _plugs(plate: Sequence[TerminalId], hosts: Mapping[str, str]) -> Iterator[tuple[TerminalId, TerminalId, Means]]:
    """Yield what joins an overload relay to the contactor that it is plugged on."""
    for terminal in plate:
        host = hosts.get(device_of(terminal)) if "/L" in terminal else None
        mate = next((t for t in plate if device_of(t) == host and "/T" in t), None)
        if mate is not None:
            yield mate, terminal, Means.FACTORY
