"""Owns the cross-section of every conductor. Must not know routes: grouping is a declared assumption."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace

from riktig.catalogue.model import CONTACT_KINDS, ElementKind, Part
from riktig.job.model import Job
from riktig.job.paths import refs_of
from riktig.plan.basis.conductor import Laid, choose_size, largest_size
from riktig.plan.basis.sized import SizedValue
from riktig.plan.basis.strength import PROTECTING
from riktig.plan.circuit.model import DOOR, NEXT_PANEL, PASS_THROUGH, PLATE, Circuit, bar_for
from riktig.plan.circuit.power import sharing
from riktig.plan.circuit.zones import INCOMING, device_of, is_drop, zones_of
from riktig.plan.net.numbers import Potential
from riktig.plan.net.runs import Band, zone_of_run
from riktig.plan.net.strips import SPARE, Clamp
from riktig.plan.sizes.bonds import size_jumpers
from riktig.plan.sizes.cores import CableSizer
from riktig.plan.sizes.distribution import FEEDING
from riktig.plan.sizes.fed import Fed
from riktig.plan.sizes.load import PanelLoad
from riktig.plan.sizes.sizer import MAIN, Sizer, own_rating
from riktig.plan.sizes.starter import StarterSizes
from riktig.standards import nec
from riktig.standards.colours import ConductorFunction
from riktig.units.conductor_size import ConductorSize, from_awg
from riktig.units.numbers import format_number

_LEAST_EARTH = from_awg("14")
_POWER = frozenset({ConductorFunction.POWER, ConductorFunction.NEUTRAL, ConductorFunction.EXCEPTED})


@dataclass(frozen=True, slots=True, kw_only=True)
class Sections:
    """Sizes by potential number (inside the panel) and by place (cores of its cable; "" those of control), with their reasons. `earths`
    are the numbers of earth, `frames` has the earth of each drive and soft starter, `jumpers` that over the earth link of each transformer
    in North America; `earthed` are the places outside to which an earth leads.
    """

    inside: Mapping[str, ConductorSize]
    cores: Mapping[str, ConductorSize]
    values: tuple[SizedValue, ...]
    earths: frozenset[str] = frozenset()
    frames: Mapping[str, ConductorSize] = field(default_factory=dict)
    jumpers: Mapping[str, ConductorSize] = field(default_factory=dict)
    earthed: frozenset[str] = frozenset()

    def core_of(self, run: str) -> ConductorSize:
        """Return the size of the cores of a cable run, all of them alike; one of a band of its own is as control is.

        Source:
            The least equipment grounding conductor of North America is 14 AWG: NEC Table 250.122, from memory.
        """
        size = self.cores.get(run, self.cores[""])
        is_earthed = not size.metric and zone_of_run(run) in self.earthed
        return max(size, _LEAST_EARTH, key=lambda s: s.mm2) if is_earthed else size


def size_sections(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    potentials: tuple[Potential, ...],
    fed: Fed,
    load: PanelLoad,
    laid: Laid,
) -> Sections:
    """Return the section of every potential inside the panel and of every cable."""
    sizer = Sizer(job, laid)
    values: list[SizedValue] = []
    starters = fed.starters
    read = _ReadCircuits(fed, parts, sizer)
    mains = {supply: sizer.main(supply, load, parts, starters, values) for supply in ("", *load.extra)}
    control = _control_sections(job, sizer, parts, values)
    elsewhere = {"incoming", PASS_THROUGH, *load.extra, *(control.name for control in job.controls)}
    feeders = _module_sizes(circuit, parts, potentials, read, sizer, values, but=elsewhere)
    if job.pass_through is not None:
        feeders[NEXT_PANEL] = sizer.passed_on(job.pass_through.section_mm2, load.supply, values)
    inside = {
        p.number: _plain(p, mains, control, parts)
        if _is_way_in(p, parts)
        else feeders.get(p.number) or read.inside(p, mains, values) or _plain(p, mains, control, parts)
        for p in potentials
    }
    earth = _main_earth(sizer, mains, load, parts, values)
    inside.update({p.number: earth for p in potentials if p.net.function is ConductorFunction.EARTH})
    lines = {str(t): inside[p.number] for p in potentials for t in p.net.terminals}
    jumpers, bonded = size_jumpers(job, circuit, parts, lines)
    values.extend(bonded)
    cables = CableSizer(job, circuit, parts, fed.lines)
    cores = _cable_sizes(circuit, fed, read, cables, {**feeders, "": control[""]}, values)
    zones = zones_of(circuit)
    frames: dict[str, ConductorSize] = {}
    bonds = []
    for name in starters:
        core = cores[zones[name]] if is_drop(zones[name]) else None
        own = read.earthed_of(name)
        size, value = _motor_earth(
            sizer, rating_of(parts, fed.circuits[name].protection or ""), name, own, (read.line_of(name), core)
        )
        frames.update(dict.fromkeys(own, size))
        bonds.append(value)
    values[:0] = bonds
    earths = frozenset(p.number for p in potentials if p.net.function is ConductorFunction.EARTH)
    earthed = frozenset(zones[d.id] for d in circuit.devices if is_drop(zones[d.id]) and _has_frame(parts[d.id]))
    return Sections(
        inside=inside, cores=cores, values=tuple(values), earths=earths, frames=frames, jumpers=jumpers, earthed=earthed
    )


def _motor_earth(
    sizer: Sizer, device_a: float, name: str, own: Sequence[str], lines: tuple[ConductorSize, ConductorSize | None]
) -> tuple[ConductorSize, SizedValue]:
    """Return the size and value of the earth in a motor's circuit: of the devices that have one of their own, else of the core in the
    motor's cable.

    Args:
        sizer: of conductors in the panel.
        device_a: rating of what protects the motor, in A.
        name: the motor.
        own: the devices.
        lines: the thickest conductor ahead of the motor in the panel, and what all cores of its cable are, None where it has none.
    """
    line, core = lines
    if own or core is None:
        size, value = sizer.earth(name, line, device_a, is_alone=bool(own))
        if core is not None:
            value = replace(value, formula=f"in the panel {value.formula}; in the cable {core.label()}, as its lines")
        return size, value
    size, value = sizer.earth(name, core, device_a)
    formula = f"{value.formula.removesuffix(f'; {size.label()}')}; a core of its cable, all of them {core.label()}"
    return core, replace(value, value=core.mm2, formula=formula, inputs={**value.inputs, "size": core.label()})


def _has_frame(part: Part) -> bool:
    """Return whether a part has a clamp for an earth of its own."""
    return any(element.kind is ElementKind.EARTH for element in part.elements)


def _main_earth(
    sizer: Sizer,
    mains: Mapping[str, ConductorSize],
    load: PanelLoad,
    parts: Mapping[str, Part],
    values: list[SizedValue],
) -> ConductorSize:
    """Return the section of the earth inside: of that of all supplies the largest, for they have one bar."""
    found = []
    for supply, line in mains.items():
        own = load.of(supply)
        device_a = (own_rating(parts) if not supply else 0.0) or max(own.supply, own.main_carry)
        size, value = sizer.earth(supply or MAIN, line, device_a, is_alone=True)
        values.append(value)
        found.append(size)
    return max(found, key=lambda size: size.mm2)


def main_size(
    job: Job, parts: Mapping[str, Part], starters: Mapping[str, StarterSizes], load: PanelLoad, laid: Laid, supply: str
) -> ConductorSize:
    """Return the section of the main conductors of a supply, "" the main one."""
    return Sizer(job, laid).main(supply, load, parts, starters, [])


def rating_of(parts: Mapping[str, Part], device: str) -> float:
    """Return the rated amps of a device's part, 0 where plain circuit has no such device any more."""
    part = parts.get(device)
    return (part.rating("amps") or part.rating("amps_max")) if part is not None else 0.0


def _plain(
    potential: Potential,
    mains: Mapping[str, ConductorSize],
    control: Mapping[str, ConductorSize],
    parts: Mapping[str, Part],
) -> ConductorSize:
    """Return the section of a potential that no motor's, load's or module's current decides: of a way in, else of control."""
    net = potential.net
    if net.function not in _POWER:
        ends = (name for name in net.names if name in control)
        supply = net.supply or ""
        return control[next(ends, supply if supply in control else "")]
    return mains[_supply_of(potential, mains)] if potential.net.is_line or _is_way_in(potential, parts) else control[""]


def _is_way_in(potential: Potential, parts: Mapping[str, Part]) -> bool:
    """Return whether a potential leads the whole current of the panel on, whatever else is tapped there."""
    return potential.net.function in _POWER and any(_carries(t, FEEDING, parts) for t in potential.net.terminals)


def _supply_of(potential: Potential, mains: Mapping[str, ConductorSize]) -> str:
    """Return the extra supply that a line belongs to, "" for the main one."""
    ahead = (name.removeprefix("in.").rpartition(".")[0] for name in potential.net.names)
    return next((supply for supply in ahead if supply in mains and supply), "")


class _ReadCircuits:
    """The sections in the power circuits of motors, and of loads that a person drew."""

    def __init__(self, fed: Fed, parts: Mapping[str, Part], sizer: Sizer) -> None:
        circuits, starters, loads = fed.circuits, fed.starters, fed.loads
        self._circuits, self._starters, self._loads = circuits, starters, loads
        self._parts, self._sizer = parts, sizer
        self._lines = {name: sizes.line for name, sizes in starters.items()}
        self._leads = {
            device: all_fed for device, names in sharing(circuits.values()).items()
            if (all_fed := tuple(n for n in names if n in starters or n in loads))
        }  # fmt: skip

    def line_of(self, name: str) -> ConductorSize:
        """Return the thickest conductor ahead of a motor of which the section has been asked for, at least that by its current."""
        return self._lines[name]

    def earthed_of(self, name: str) -> list[str]:
        """Return the drives and soft starters of a motor that have a clamp for an earth of their own."""
        return [d for d in self._circuits[name].of_role("A") if d in self._parts and _has_frame(self._parts[d])]

    def inside(
        self, potential: Potential, mains: Mapping[str, ConductorSize], values: list[SizedValue]
    ) -> ConductorSize | None:
        """Return the section of a potential between devices of these circuits, None where it is none."""
        if potential.net.is_line or potential.net.function not in _POWER:
            return None
        carrying = [t for t in potential.net.terminals if _carries(t, self._leads.keys(), self._parts)]
        fed = tuple(dict.fromkeys(name for t in carrying for name in self._leads[device_of(t)]))
        if not fed:
            return None
        if len(fed) == 1:
            return self._alone(fed[0], {device_of(t) for t in carrying}, values)
        amps, words = self._together(fed)
        ahead = self._protection_of(fed)
        if ahead is not None and not self._has_overload(fed):
            amps, words = (
                max(amps, rating_of(self._parts, ahead)),
                f"protected by {rating_of(self._parts, ahead):g} A; ",
            )
        return self._sizer.inside(
            ahead or fed[0], amps, values, words=words, ahead=ahead or "", is_power=True, circuits=fed
        )

    def _alone(self, name: str, devices: set[str], values: list[SizedValue]) -> ConductorSize:
        if name in self._loads:
            return self._of_load(name, values)
        sizes, one = self._starters[name], self._circuits[name]
        is_ahead = bool(devices & set(one.ahead))
        size = sizes.line if is_ahead else sizes.leads
        least, words = self.least_a(name), "alone, nothing is set to the motor's current; "
        words = f"protected by {format_number(least or 0.0)} A {words}"
        drive = next((d for d in one.of_role("A") if is_ahead and not self._sizer.is_iec and d in self._parts), None)
        if drive is not None and self._parts[drive].kind == "drive":
            least = 1.25 * self._parts[drive].rating("amps")
            words = (
                f"125 % of the drive's input, taken as its {self._parts[drive].rating('amps'):g} A: NEC 430.122(A); "
            )
        if least is None or least <= sizes.motor.carry:
            return size
        chosen = self._sizer.inside(
            name, least, values, words=words, ahead=drive or one.protection or "", is_power=True
        )
        thicker = max(size, chosen, key=lambda s: s.mm2)
        if is_ahead:
            self._lines[name] = max(self._lines[name], thicker, key=lambda s: s.mm2)
        return thicker

    def leads(self, devices: set[str]) -> bool:
        """Return whether a path with these devices is part of a circuit that is sized by what it leads to."""
        return any(device in self._leads for device in devices)

    def least_a(self, name: str) -> float | None:
        """Return the rating that the conductors of a motor must carry because no overload protects them, None where one does."""
        sizes = self._starters[name]
        rating = rating_of(self._parts, self._circuits[name].protection or "")
        return rating if not sizes.world.motor.overload and rating > sizes.motor.carry else None

    def _of_load(self, name: str, values: list[SizedValue]) -> ConductorSize:
        """Return what leads to a load: for what its protection lets through, else for its current."""
        load = self._loads[name]
        protection = load.circuit.protection or ""
        rating = rating_of(self._parts, protection)
        amps = max(rating, load.amps or 0.0, 0.1)
        return self._sizer.inside(
            name, amps, values, words=f"protected by {rating:g} A; " if rating else "", ahead=protection, is_power=True
        )

    def _together(self, fed: tuple[str, ...]) -> tuple[float, str]:
        """Return what conductors carry that feed several motors and loads, with words."""
        motors = [self._starters[name].motor for name in fed if name in self._starters]
        others = sum(self._loads[name].amps or 0.0 for name in fed if name in self._loads)
        if self._sizer.is_iec:
            return sum(m.carry for m in motors) + others, f"{', '.join(fed)} together; "
        amps = nec.feeder_ampacity_a([m.table for m in motors], 1.25 * others)
        return amps, f"{', '.join(fed)} together, 125 % of the largest motor: NEC 430.24; "

    def _protection_of(self, fed: tuple[str, ...]) -> str | None:
        """Return the protective device that all of them share, the one nearest to them."""
        shared = [set(self._circuits[name].of_role("Q")) for name in fed]
        common = set.intersection(*shared)
        return next((d for d in reversed(self._circuits[fed[0]].of_role("Q")) if d in common), None)

    def _has_overload(self, fed: tuple[str, ...]) -> bool:
        return all(name in self._starters and self._starters[name].world.motor.overload for name in fed)


def _control_sections(
    job: Job, sizer: Sizer, parts: Mapping[str, Part], values: list[SizedValue]
) -> dict[str, ConductorSize]:
    """Return the sections of the control circuits: by supply or group of one as its own device protects it, the largest of these by "";
    by the names of the two ends of a supply with groups, as all of them together can draw and it can give.
    """
    sizes: dict[str, ConductorSize] = {}
    for control in job.controls:
        amps = parts[f"{control.name}.F"].rating("amps")
        words = f"protected by {format_number(amps)} A; "
        sizes[control.name] = sizer.inside(
            control.name, amps, values, words=words, ahead=f"{control.name}.F", is_power=False
        )
    fallback = choose_size(0.1, sizer.laid, is_power=False) or largest_size(sizer.laid)
    sizes[""] = max(sizes.values(), key=lambda s: s.mm2, default=fallback)
    for control in job.controls:
        groups = [one.name for one in job.controls if one.group_of == control.name]
        if not groups:
            continue
        source = f"{control.name}.{'G' if control.is_dc else 'T'}"
        gives = parts[source].rating("amps") or parts[source].rating("va") / (parts[source].rating("volts") or 1.0)
        fuses = sum(parts[f"{name}.F"].rating("amps") for name in (control.name, *groups))
        words = f"its {len(groups) + 1} groups together, at most the {format_number(gives)} A that it gives; "
        whole = sizer.inside(source, min(fuses, gives), values, words=words, ahead=source, is_power=False)
        sizes |= dict.fromkeys((f"@{control.name}_hot", f"{control.name}-"), max(whole, sizes[""], key=lambda s: s.mm2))
    return sizes


def _module_sizes(
    circuit: Circuit,
    parts: Mapping[str, Part],
    potentials: tuple[Potential, ...],
    read: _ReadCircuits,
    sizer: Sizer,
    values: list[SizedValue],
    *,
    but: Collection[str],
) -> dict[str, ConductorSize]:
    """Return sizes by potential and by load behind the breakers of modules, and in feeders that lead to nothing that is sized: each
    carries the rating of the breaker ahead of it. What owners in `but` draw is sized elsewhere.
    """
    sizes: dict[str, ConductorSize] = {}
    ahead: dict[str, tuple[float, str]] = {}
    for path in circuit.paths:
        devices = {ref.device for ref in refs_of(path.items)}
        if not path.is_power or path.owner in but or path.key == "incoming" or read.leads(devices):
            continue
        ratings = [(rating_of(parts, d), d) for d in sorted(devices) if d in parts and parts[d].kind in PROTECTING]
        owner = path.owner or path.key
        rating, device = min(ratings, default=ahead.get(owner, (0.1, "")))
        ahead[owner] = rating, device
        words = f"protected by {format_number(rating)} A; " if device else ""
        chosen = sizer.inside(owner, rating, values, words=words, ahead=device, is_power=True)
        sizes.update({device: max(sizes.get(device, chosen), chosen, key=lambda s: s.mm2) for device in devices})
        for potential in potentials:
            if not potential.net.is_line and any(_carries(t, devices, parts) for t in potential.net.terminals):
                sizes[potential.number] = chosen
    return sizes


def _carries(terminal: str, devices: Collection[str], parts: Mapping[str, Part]) -> bool:
    """Return whether a terminal is one through which the current of a feeder goes: no contact, coil or lamp of its devices."""
    device, _, mark = terminal.rpartition(":")
    return device in devices and any(
        mark in e.marks and e.kind not in CONTACT_KINDS and e.kind not in _SMALL for e in parts[device].elements
    )


_SMALL = frozenset({ElementKind.COIL, ElementKind.LAMP, ElementKind.SOUNDER})


def _cable_sizes(
    circuit: Circuit,
    fed: Fed,
    read: _ReadCircuits,
    sizer: CableSizer,
    others: Mapping[str, ConductorSize],
    values: list[SizedValue],
) -> dict[str, ConductorSize]:
    zones = zones_of(circuit)
    cores: dict[str, ConductorSize] = {"": others[""]}
    for device in circuit.devices:
        drop = zones[device.id]
        if device.id in fed.starters:
            earths_motor = not read.earthed_of(device.id)
            cores[drop] = sizer.motor(
                fed.starters[device.id], read.least_a(device.id), values, earths_motor=earths_motor
            )
        elif drop not in {PLATE, DOOR} and device.id in fed.loads:
            cores.setdefault(drop, sizer.load(fed.loads[device.id], values))
        elif drop not in {PLATE, DOOR}:
            cores.setdefault(drop, others.get(device.id, others[""]))
    for name, one in fed.circuits.items():
        size = cores.get(zones[name])
        apart = {zones[device] for device, role in one.devices if role != "QM"} - {PLATE, DOOR, zones[name]}
        if size is not None:
            cores |= {drop: max(cores[drop], size, key=lambda s: s.mm2) for drop in apart}
        isolators = [zones[device] for device in one.of_role("QM") if is_drop(zones[device])]
        if size is not None and isolators and (name in fed.starters or name in fed.loads):
            cores |= dict.fromkeys((*isolators, f"{zones[name]}~{Band.LOCAL.value}"), size)
    return cores


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
