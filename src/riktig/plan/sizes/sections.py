"""Owns the cross-section of every conductor. Must not know routes: grouping is a declared assumption."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.model import CONTACT_KINDS, ElementKind, Part
from riktig.job.model import Job, Standard
from riktig.job.paths import refs_of
from riktig.plan.basis.conductor import Laid, choose_size, laid_inside, largest_size
from riktig.plan.basis.sized import Chosen, SizedValue, chosen_values, decide
from riktig.plan.basis.strength import PROTECTING
from riktig.plan.circuit.model import DOOR, Circuit, bar_for
from riktig.plan.circuit.zones import INCOMING, device_of, zones_of
from riktig.plan.net.numbers import Potential
from riktig.plan.net.strips import SPARE, Clamp
from riktig.plan.sizes.load import PanelLoad
from riktig.plan.sizes.starter import StarterSizes, as_decided, section_value, size_of_mm2
from riktig.standards import iec_60204_1, nec
from riktig.standards.colours import ConductorFunction
from riktig.units.conductor_size import AWG_SIZES, METRIC_MM2, ConductorSize, from_awg, from_mm2
from riktig.units.numbers import format_number

_MAIN = "Q0"


@dataclass(frozen=True, slots=True, kw_only=True)
class Sections:
    """Sizes by potential number (inside the panel) and by place (cores of its cable; "" those of control), with their reasons."""

    inside: Mapping[str, ConductorSize]
    cores: Mapping[str, ConductorSize]
    values: tuple[SizedValue, ...]

    def core_of(self, run: str) -> ConductorSize:
        """Return the size of the cores of a cable run; one of a band of its own is as control is."""
        return self.cores.get(run, self.cores[""])


def size_sections(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    potentials: tuple[Potential, ...],
    starters: Mapping[str, StarterSizes],
    load: PanelLoad,
) -> Sections:
    """Return the section of every potential inside the panel and of every cable."""
    sizer = _Sizer(job)
    values: list[SizedValue] = []
    for name, sizes in starters.items():
        values.append(sizer.earth(name, sizes.line, rating_of(parts, f"{name}.Q"))[1])
    main = sizer.main(load, parts, max((s.line for s in starters.values()), key=lambda s: s.mm2, default=None), values)
    control = _control_section(job, sizer, parts, values)
    feeders = _own_feeder_sizes(job, circuit, parts, potentials, sizer, values)
    owners = {d.id: d.owner for d in circuit.devices}
    inside = {p.number: feeders.get(p.number) or _inside_of(p, owners, starters, main, control) for p in potentials}
    earth, earth_value = sizer.earth(_MAIN, main, max(rating_of(parts, "incoming.FP"), load.main_carry))
    values.append(earth_value)
    for potential in potentials:
        if potential.net.function is ConductorFunction.EARTH:
            inside[potential.number] = earth
    cores = _cable_sizes(circuit, starters, {**feeders, "": control})
    return Sections(inside=inside, cores=cores, values=tuple(values))


def main_size(
    job: Job, parts: Mapping[str, Part], starters: Mapping[str, StarterSizes], load: PanelLoad
) -> ConductorSize:
    """Return the section of the main conductors of the main supply."""
    largest = max((sizes.line for sizes in starters.values()), key=lambda s: s.mm2, default=None)
    return _Sizer(job).main(load, parts, largest, [])


def rating_of(parts: Mapping[str, Part], device: str) -> float:
    """Return the rated amps of a device's part, 0 where plain circuit has no such device any more."""
    part = parts.get(device)
    return (part.rating("amps") or part.rating("amps_max")) if part is not None else 0.0


def _inside_of(
    potential: Potential,
    owners: Mapping[str, str | None],
    starters: Mapping[str, StarterSizes],
    main: ConductorSize,
    control: ConductorSize,
) -> ConductorSize:
    function = potential.net.function
    if function not in {ConductorFunction.POWER, ConductorFunction.NEUTRAL, ConductorFunction.EXCEPTED}:
        return control
    owner = {owners.get(device_of(t)) for t in potential.net.terminals}
    if potential.net.is_line or len(owner) != 1:
        return main
    only = owner.pop()
    sizes = starters.get(only or "")
    if sizes is None:
        return control if only is not None else main
    protection = f"{only}.Q"
    is_ahead = any(device_of(t) == protection for t in potential.net.terminals)
    return sizes.line if is_ahead else sizes.leads


def _control_section(job: Job, sizer: "_Sizer", parts: Mapping[str, Part], values: list[SizedValue]) -> ConductorSize:
    sizes = []
    for control in job.controls:
        amps = parts[f"{control.name}.F"].rating("amps")
        sizes.append(sizer.inside(control.name, amps, values, ahead=f"{control.name}.F", is_power=False))
    fallback = choose_size(0.1, sizer.laid, is_power=False) or largest_size(sizer.laid)
    return max(sizes, key=lambda s: s.mm2, default=fallback)


def _own_feeder_sizes(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    potentials: tuple[Potential, ...],
    sizer: "_Sizer",
    values: list[SizedValue],
) -> dict[str, ConductorSize]:
    """Return sizes by potential and by load behind a person's own breakers and those of modules: each carries the
    rating of the breaker ahead of it.
    """
    sizes: dict[str, ConductorSize] = {}
    known = {starter.name for starter in job.starters} | {control.name for control in job.controls} | {"incoming"}
    ahead: dict[str, tuple[float, str]] = {}
    for path in circuit.paths:
        if not path.is_power or path.owner in known or path.key == "incoming":
            continue
        devices = {ref.device for ref in refs_of(path.items)}
        ratings = [(rating_of(parts, d), d) for d in sorted(devices) if d in parts and parts[d].kind in PROTECTING]
        owner = path.owner or path.key
        rating, device = min(ratings, default=ahead.get(owner, (0.1, "")))
        ahead[owner] = rating, device
        if job.pass_through is not None and owner == "pass_through":
            chosen = sizer.given(owner, job.pass_through.section_mm2, rating, values)
        else:
            chosen = sizer.inside(owner, rating, values, ahead=device, is_power=True)
        sizes.update({device: max(sizes.get(device, chosen), chosen, key=lambda s: s.mm2) for device in devices})
        for potential in potentials:
            if not potential.net.is_line and any(_carries(t, devices, parts) for t in potential.net.terminals):
                sizes[potential.number] = chosen
    return sizes


def _carries(terminal: str, devices: set[str], parts: Mapping[str, Part]) -> bool:
    """Return whether a terminal is one through which the current of a feeder goes: no contact, coil or lamp of its devices."""
    device, _, mark = terminal.rpartition(":")
    return device in devices and any(
        mark in e.marks and e.kind not in CONTACT_KINDS and e.kind not in _SMALL for e in parts[device].elements
    )


_SMALL = frozenset({ElementKind.COIL, ElementKind.LAMP, ElementKind.SOUNDER})


def _cable_sizes(
    circuit: Circuit, starters: Mapping[str, StarterSizes], others: Mapping[str, ConductorSize]
) -> dict[str, ConductorSize]:
    zones = zones_of(circuit)
    cores: dict[str, ConductorSize] = {"": others[""]}
    for device in circuit.devices:
        drop = zones[device.id]
        if device.id in starters:
            cores[drop] = starters[device.id].cable
        elif drop not in {"plate", "door"}:
            cores.setdefault(drop, others.get(device.id, others[""]))
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


class _Sizer:
    """Sizes conductors inside the panel in the job's world of standards, and says why."""

    def __init__(self, job: Job) -> None:
        self._is_iec = job.practice.standard is Standard.IEC
        self._chosen: Chosen = chosen_values(job)
        self.laid: Laid = laid_inside(job)

    def inside(
        self, subject: str, amps: float, values: list[SizedValue], *, ahead: str, is_power: bool
    ) -> ConductorSize:
        """Return the section for a current in A; its value, one for each subject, is added."""
        size = choose_size(amps, self.laid, is_power=is_power) or largest_size(self.laid)
        value = section_value(
            subject, "conductor_section", size, self.laid, amps, words=f"protected by {format_number(amps)} A; " if ahead else "",
            places={"current": ahead} if ahead else {},
        )  # fmt: skip
        return self._add(value, size, values)

    def given(self, subject: str, mm2: float, amps: float, values: list[SizedValue]) -> ConductorSize:
        """Return a section as it is given."""
        size = size_of_mm2(mm2, metric=self.laid.metric)
        size = max(size, choose_size(amps, self.laid, is_power=True) or size, key=lambda s: s.mm2)
        value = section_value(subject, "conductor_section", size, self.laid, amps, words=f"as given: {size.label()}; ")
        return self._add(value, size, values)

    def _add(self, value: SizedValue, size: ConductorSize, values: list[SizedValue]) -> ConductorSize:
        size, value = as_decided(value, size, self.laid, self._chosen)
        older = next((n for n, v in enumerate(values) if v.key == value.key), None)
        if older is None:
            values.append(value)
        elif (value.needed or 0.0) > (values[older].needed or 0.0):
            values[older] = value
        return size

    def main(
        self, load: PanelLoad, parts: Mapping[str, Part], largest: ConductorSize | None, values: list[SizedValue]
    ) -> ConductorSize:
        """Return the section of the main conductors: for all that can run at once, and what protects them in the panel."""
        protected = rating_of(parts, "incoming.FP")
        amps = max(load.main_carry, protected, 0.1)
        size = choose_size(amps, self.laid, is_power=True) or largest_size(self.laid)
        if largest is not None and largest.mm2 > size.mm2:
            size = largest
        why = (
            f"panel protection {format_number(protected)} A" if protected >= load.main_carry
            else f"full load {format_number(load.main_carry)} A" if self._is_iec
            else f"125 % of the largest motor and the rest = {format_number(load.main_carry)} A, NEC 430.24"
        )  # fmt: skip
        place = {"current": "incoming.FP" if protected >= load.main_carry else "panel"}
        value = section_value(_MAIN, "main_section", size, self.laid, amps, words=f"{why}; ", places=place)
        return self._add(value, size, values)

    def earth(self, subject: str, line: ConductorSize, device_a: float) -> tuple[ConductorSize, SizedValue]:
        """Return the earth conductor for a line conductor (IEC) or for a protective device in A (UL)."""
        if self._is_iec:
            least = iec_60204_1.protective_section_mm2(line.mm2)
            formula, source = f"goes with {line.label()}: at least {least:g} mm2", str(iec_60204_1.SOURCE_EARTH)
        else:
            awg = nec.equipment_ground_awg(min(device_a, 1200.0))
            least = min(from_awg(awg).mm2, line.mm2)
            formula = (
                f"device of {format_number(device_a)} A: {from_awg(awg).label()}, never above the line's {line.label()}"
            )
            source = str(nec.SOURCE_EARTH)
        metric = ((from_mm2(m)) for m in METRIC_MM2)
        gauges = sorted((from_awg(awg) for awg in AWG_SIZES), key=lambda s: s.mm2)
        size = next(
            (s for s in (metric if self.laid.metric else gauges) if s.mm2 >= least - 1e-6), largest_size(self.laid)
        )
        value = decide(SizedValue(
            subject=subject, quantity="earth_section", value=size.mm2, unit="mm2", formula=f"{formula}; {size.label()}",
            source=source, needed=round(least, 3), inputs={"size": size.label(), "line": line.label()},
            places={"line": subject},
        ), self._chosen)  # fmt: skip
        return (size if value.reason is None else size_of_mm2(value.value, metric=self.laid.metric)), value
