"""Owns the Plan: everything that follows from a settled Job, stage by stage. Must not allocate: `settle` does."""

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from riktig.catalogue.model import Clamp as ClampSpec
from riktig.catalogue.model import Part
from riktig.job.model import Job
from riktig.plan.basis.motor import MotorSize
from riktig.plan.basis.sized import SizedValue
from riktig.plan.circuit.model import DOOR, Circuit, bar_for
from riktig.plan.circuit.uses import Use
from riktig.plan.circuit.zones import INCOMING, zones_of
from riktig.plan.net.netlist import Netlist
from riktig.plan.net.numbers import Potential, read_potentials
from riktig.plan.net.runs import Runs, find_runs
from riktig.plan.net.strips import SPARE, Clamp, clamp_part, read_clamps, strip_width_mm
from riktig.plan.panel import PanelTotals, total_panel, wire_losses_w
from riktig.plan.place.door import DoorLayout, read_door
from riktig.plan.place.items import plate_items
from riktig.plan.place.layout import PlateLayout, read_layout
from riktig.plan.place.pieces import Cut, Hole, cut_pieces, drill_holes
from riktig.plan.place.routes import DuctNetwork
from riktig.plan.sheets.allocation import Place, SheetSet, device_places, read_sheets
from riktig.plan.sizes.electrical import Electrical, wire_up
from riktig.plan.sizes.parts import Need
from riktig.plan.sizes.sections import Sections
from riktig.plan.sizes.starter import StarterSizes
from riktig.plan.wiring.cables import Cable, build_cables
from riktig.plan.wiring.capacities import Bars, find_twins
from riktig.plan.wiring.chains import allocate_links
from riktig.plan.wiring.combs import Comb, find_combs, with_sections
from riktig.plan.wiring.conductors import Conductor, Geometry, build_conductors
from riktig.plan.wiring.ends import WireEnd, class_of, finish_end
from riktig.plan.wiring.entries import CableWay, Entry, lay_cables, place_entries
from riktig.plan.wiring.links import HINGE, Link
from riktig.plan.wiring.stations import Station, build_stations
from riktig.plan.wiring.taps import TapSizes
from riktig.standards.colours import ConductorFunction
from riktig.units.conductor_size import ConductorSize


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """All that follows from a Job. Device ids key `tags` and `parts`, clamp ids `clamp_parts`; `twins` are the terminals that take a
    twin ferrule, `paired` those that have one.
    """

    job: Job
    circuit: Circuit
    uses: tuple[Use, ...]
    short_uses: tuple[Use, ...]
    unmet: Mapping[str, tuple[str, ...]]
    parts: Mapping[str, Part]
    contacts: Mapping[str, str]
    tags: Mapping[str, str]
    netlist: Netlist
    potentials: tuple[Potential, ...]
    motors: Mapping[str, MotorSize]
    starters: Mapping[str, StarterSizes]
    needs: Mapping[str, Need]
    sections: Sections
    sizing: tuple[SizedValue, ...]
    panel: PanelTotals
    clamps: tuple[Clamp, ...]
    clamp_parts: Mapping[str, Part]
    plate: PlateLayout
    door: DoorLayout
    links: tuple[Link, ...]
    conductors: tuple[Conductor, ...]
    cables: tuple[Cable, ...]
    cable_ways: tuple[CableWay, ...]
    entries: tuple[Entry, ...]
    stations: tuple[Station, ...]
    runs: Runs
    combs: tuple[Comb, ...]
    twins: frozenset[str]
    paired: frozenset[str]
    cuts: tuple[Cut, ...]
    holes: tuple[Hole, ...]
    sheets: SheetSet
    sheet_places: Mapping[str, Place]

    def terminal_label(self, terminal: str) -> str:
        """Return a terminal as people read it, `TAG:MARK`."""
        device, _, mark = terminal.rpartition(":")
        return f"{self.tags.get(device, device)}:{mark}"

    def name_of(self, key: str) -> str:
        """Return what people call a device, strip, rail, duct or cut-out."""
        return self.tags.get(key, key)

    @property
    def bridges(self) -> tuple[tuple[str, ...], ...]:
        """The strip terminals that each bridge joins, from left to right."""
        strips = {clamp.id for clamp in self.clamps}
        after = {c.a: c.b for c in self.conductors if c.kind == "bridge" and c.a in strips}
        runs = []
        for start in after:
            if start not in after.values():
                run = [start]
                while run[-1] in after:
                    run.append(after[run[-1]])
                runs.append(tuple(run))
        return tuple(runs)

    def markers_of(self, conductor: Conductor) -> tuple[str, str]:
        """Return what is printed at both ends of a conductor: its number, or in the school of both ends the terminal where its
        other end is; nothing on a join without a wire.
        """
        if not conductor.is_wired:
            return "", ""
        if self.job.practice.numbering == "both-ends":
            return self.terminal_label(conductor.b), self.terminal_label(conductor.a)
        return conductor.number, conductor.number

    def ends_of(self, conductor: Conductor) -> tuple[WireEnd, WireEnd] | None:
        """Return how both ends of a conductor are finished, None of a join without a wire."""
        if not conductor.is_wired:
            return None
        sort = class_of(self.job.practice)
        first, second = (
            finish_end(conductor.size, self.clamp_at(end), sort, is_twin=end in self.paired)
            for end in (conductor.a, conductor.b)
        )
        return first, second

    def remark(self, sort: str, key: str) -> str:
        """Return what a person wrote of a wire (by the key of its link), clamp or cable (by its run); "" for nothing."""
        choice = self.job.ledger.texts.get(f"{sort}:{key}")
        return choice.value if choice is not None else ""

    def lands_outside(self, conductor: Conductor, clamp: Clamp) -> bool:
        """Return whether a conductor lands on the field side of a strip terminal: a core, or a wire to the door over the strip."""
        return conductor.kind == "core" or (conductor.location == HINGE and clamp.drop == DOOR)

    def clamp_at(self, terminal: str) -> ClampSpec:
        """Return how a terminal takes its conductors."""
        part = self.clamp_parts.get(terminal)
        if part is not None:
            return part.terminals[0].clamp
        device, _, mark = terminal.rpartition(":")
        owner = self.parts.get(device)
        spec = owner.terminal(mark) if owner is not None else None
        return spec.clamp if spec is not None else ClampSpec()

    def potential_of(self, terminal: str) -> Potential | None:
        """Return the potential of a device terminal, None if it is unused."""
        return next((p for p in self.potentials if terminal in p.net.terminals), None)


def strip_sections(clamps: tuple[Clamp, ...], sections: Sections, circuit: Circuit) -> dict[str, float]:
    """Return by clamp id the larger section in mm2 of what it joins; a spare is as most of its strip are.

    What a block feeds is as thick as the core that goes on from the terminal; the first earth terminal of a strip takes the wire to
    the bar for all of them.
    """
    found: dict[str, float] = {}
    strips: dict[str, list[float]] = {}
    for clamp in clamps:
        core = sections.core_of(clamp.drop).mm2 if clamp.drop not in {INCOMING, DOOR, SPARE} else 0.0
        if clamp.is_spare and not core:
            continue
        is_tap = bool(core) and (clamp.is_earth or bar_for(clamp.number) in circuit.index)
        inside = sections.inside[clamp.number].mm2 if clamp.number and not is_tap else 0.0
        found[clamp.id] = max(inside, core)
        if not clamp.is_earth:
            strips.setdefault(clamp.strip, []).append(found[clamp.id])
    earths: dict[str, list[Clamp]] = {}
    for clamp in clamps:
        if clamp.is_earth:
            earths.setdefault(clamp.strip, []).append(clamp)
    for row in earths.values():
        found[row[0].id] = max(found[clamp.id] for clamp in row)
    for clamp in clamps:
        if clamp.id not in found:
            usual = strips.get(clamp.strip, [0.0])
            found[clamp.id] = max(sorted(set(usual)), key=usual.count)
    return found


def strip_widths(clamps: tuple[Clamp, ...], mm2: Mapping[str, float]) -> tuple[dict[str, float], float]:
    """Return the width of each strip and the height of all of them, in mm."""
    strips: dict[str, list[Clamp]] = {}
    for clamp in clamps:
        strips.setdefault(clamp.strip, []).append(clamp)
    widths = {strip: strip_width_mm(members, mm2) for strip, members in strips.items()}
    height = max((clamp_part(c, mm2[c.id]).height for c in clamps), default=48.0)
    return widths, height


def compute_plan(job: Job) -> Plan:
    """Return the Plan of a settled Job.

    Raises:
        KeyError: the Job was not settled.
    """
    electrical: Electrical = wire_up(job)
    ledger = job.ledger
    potentials = read_potentials(electrical.netlist, ledger.numbers)
    sections = electrical.size(job, potentials)
    clamps = read_clamps(potentials, ledger.clamps)
    mm2 = strip_sections(clamps, sections, electrical.circuit)
    widths, height = strip_widths(clamps, mm2)
    circuit, parts = electrical.circuit, electrical.chosen.parts
    layout = read_layout(job, plate_items(circuit, parts, widths, height), ledger.places)
    door = read_door(job, circuit, parts, layout, ledger.places)
    clamp_parts = {clamp.id: clamp_part(clamp, mm2[clamp.id]) for clamp in clamps}
    runs = find_runs(job, circuit, parts, potentials)
    combs = find_combs(layout, parts, potentials, sections.inside)
    twins = find_twins(potentials, parts, sections.inside, class_of(job.practice))
    links = allocate_links(
        circuit, parts, potentials, clamps, Bars(circuit, ledger.clamps), ledger.links, runs, combs, twins
    )
    taps, set_by_hand = wire_sizes(TapSizes(job, circuit, parts, potentials, clamps, sections), links)
    geometry = Geometry(job, parts, layout, door, clamps, clamp_parts)
    names = {drop: choice.value for drop, choice in ledger.cables.items()}
    network = DuctNetwork(layout)
    conductors = build_conductors(job, links, potentials, sections, geometry, network, names, runs, taps)
    landed = Counter(end for c in conductors if c.is_wired for end in (c.a, c.b))
    comb_mm2 = {c.a: c.size.mm2 for c in conductors if c.kind == "comb"}
    earth = next((p.number for p in potentials if p.net.function is ConductorFunction.EARTH), "PE")
    tags = {device: choice.value for device, choice in ledger.tags.items()}
    sheets = read_sheets(job, circuit, ledger.sheets)
    wires_w = wire_losses_w(conductors, electrical.netlist, electrical.starters, electrical.load)
    panel = total_panel(job, electrical, wires_w)
    cables = build_cables(conductors, runs, names, _targets(circuit, tags), earth)
    ways = lay_cables(job, conductors, cables, potentials, clamps, sections, geometry, network)
    return Plan(
        job=job, circuit=circuit, uses=electrical.uses, short_uses=electrical.chosen.short_uses,
        unmet=electrical.chosen.unmet, parts=parts, contacts=electrical.chosen.contacts, tags=tags,
        netlist=electrical.netlist, potentials=potentials, motors=electrical.motors, sections=sections,
        starters=electrical.starters, needs=electrical.needs,
        sizing=(*electrical.values, *sections.values, *set_by_hand, *panel.values), panel=panel,
        clamps=clamps, clamp_parts=clamp_parts, plate=layout, door=door, links=tuple(links), conductors=conductors,
        cables=cables, cable_ways=ways, entries=place_entries(job, cables, ways, sections),
        stations=build_stations(circuit, parts, cables), runs=runs, twins=twins,
        paired=frozenset(t for t in twins if landed[t] > 1),
        combs=with_sections(combs, comb_mm2), cuts=cut_pieces(job, layout),
        holes=drill_holes(job, layout, parts), sheets=sheets,
        sheet_places=device_places(circuit, job, sheets, parts),
    )  # fmt: skip


def wire_sizes(sizer: TapSizes, links: Iterable[Link]) -> tuple[dict[str, ConductorSize], tuple[SizedValue, ...]]:
    """Return sizes of single wires by the key of their link, and the values that people set for some."""
    computed = sizer.of(links)
    by_hand = sizer.by_hand(links, computed)
    return {**computed, **{key: sizer.size_of(value) for key, value in by_hand.items()}}, tuple(by_hand.values())


def _targets(circuit: Circuit, tags: Mapping[str, str]) -> dict[str, str]:
    """Return what a cable goes to, by place: the location, or the tag of the one device there."""
    return {zone: tags[device] if "/" in zone else zone for device, zone in zones_of(circuit).items()}
