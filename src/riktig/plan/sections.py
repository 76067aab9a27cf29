"""Owns the cross-section of every conductor and why. Must not know routes: grouping is a declared assumption."""

from collections.abc import Mapping
from dataclasses import dataclass
from math import sqrt

from riktig.catalogue.model import Part
from riktig.job.model import Job, Standard, Starter
from riktig.job.paths import refs_of
from riktig.plan.circuit import Circuit
from riktig.plan.numbers import Potential
from riktig.plan.ratings import PanelLoad
from riktig.plan.sizing import MotorSize, SizedValue
from riktig.plan.zones import device_of, zones_of
from riktig.standards import iec_60204_1, iec_60228, nec
from riktig.standards.colours import ConductorFunction
from riktig.units.conductor_size import AWG_SIZES, METRIC_MM2, ConductorSize, from_awg, from_mm2
from riktig.units.numbers import format_number

GROUPED_CIRCUITS = 4
"""Loaded circuits assumed to lie together in a duct; the real number is a finding."""
INSIDE_RISE_K = 10.0
"""How much warmer the air inside the enclosure is taken to be than the ambient (common practice, no source)."""
DROP_LIMIT_PERCENT = 5.0
_COS_PHI = 0.8
_LEAST_IEC = {True: 1.5, False: 1.0}
_LEAST_UL = {True: "14", False: "16"}
_PROTECTING = frozenset({"breaker", "fuse", "motor-breaker"})
_CP_LEAST = "least section by common practice"


@dataclass(frozen=True, slots=True, kw_only=True)
class Sections:
    """Sizes by potential number (inside the panel) and by drop (cores of its cable), with their reasons."""

    inside: Mapping[str, ConductorSize]
    cores: Mapping[str, ConductorSize]
    values: tuple[SizedValue, ...]


def size_sections(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    potentials: tuple[Potential, ...],
    motors: Mapping[str, MotorSize],
    load: PanelLoad,
) -> Sections:
    """Return the section of every potential inside the panel and of every cable."""
    sizer = _Sizer(job)
    values: list[SizedValue] = []
    by_motor: dict[str, ConductorSize] = {}
    for starter in job.starters:
        size = motors[starter.name]
        chosen, formula = sizer.inside(size.carry, is_power=True)
        by_motor[starter.name] = chosen
        values.append(sizer.value(starter.name, "conductor_section", chosen, formula))
        earth = sizer.earth(chosen, rating_of(parts, f"{starter.name}.Q"))
        values.append(sizer.value(starter.name, "earth_section", earth, f"goes with {chosen.label()}", earth=True))
    main, formula = sizer.inside(max(load.full_load * 1.25, 0.1), is_power=True)
    main = max([main, *by_motor.values()], key=lambda s: s.mm2)
    values.append(sizer.value("Q0", "main_section", main, f"125 % of {format_number(load.full_load)} A; {formula}"))
    control, control_values = _control_section(job, sizer, parts)
    values.extend(control_values)
    owners = {d.id: d.owner for d in circuit.devices}
    feeder_sizes, feeder_values = _own_feeder_sizes(job, circuit, parts, potentials, sizer)
    values.extend(feeder_values)
    inside: dict[str, ConductorSize] = {}
    for potential in potentials:
        inside[potential.number] = feeder_sizes.get(potential.number) or _inside_of(
            potential, owners, by_motor, main, control
        )
    earth = sizer.earth(main, 0.0 if job.practice.standard is Standard.IEC else load.full_load * 1.25)
    for potential in potentials:
        if potential.net.function is ConductorFunction.EARTH:
            inside[potential.number] = earth
    cores, core_values = _cable_sizes(job, circuit, sizer, motors, {**feeder_sizes, "": control})
    values.extend(core_values)
    return Sections(inside=inside, cores=cores, values=tuple(values))


def rating_of(parts: Mapping[str, Part], device: str) -> float:
    """Return the rated amps of a device's part, 0 where plain circuit has no such device any more."""
    return parts[device].rating("amps") if device in parts else 0.0


def _inside_of(
    potential: Potential,
    owners: Mapping[str, str | None],
    by_motor: Mapping[str, ConductorSize],
    main: ConductorSize,
    control: ConductorSize,
) -> ConductorSize:
    function = potential.net.function
    if function not in {ConductorFunction.POWER, ConductorFunction.NEUTRAL, ConductorFunction.EXCEPTED}:
        return control
    owner = {owners.get(device_of(t)) for t in potential.net.terminals}
    if potential.net.names or len(owner) != 1:
        return main
    only = owner.pop()
    return by_motor.get(only or "", control if only is not None else main)


def _control_section(job: Job, sizer: "_Sizer", parts: Mapping[str, Part]) -> tuple[ConductorSize, list[SizedValue]]:
    values, sizes = [], []
    for control in job.controls:
        amps = parts[f"{control.name}.F"].rating("amps")
        chosen, formula = sizer.inside(amps, is_power=False)
        sizes.append(chosen)
        values.append(sizer.value(control.name, "conductor_section", chosen, f"breaker {amps:g} A; {formula}"))
    fallback, _ = sizer.inside(0.1, is_power=False)
    return max(sizes, key=lambda s: s.mm2, default=fallback), values


def _own_feeder_sizes(
    job: Job, circuit: Circuit, parts: Mapping[str, Part], potentials: tuple[Potential, ...], sizer: "_Sizer"
) -> tuple[dict[str, ConductorSize], list[SizedValue]]:
    """Return sizes by potential and by load behind a person's own breakers and those of modules: each carries the
    rating of the breaker ahead of it.
    """
    sizes: dict[str, ConductorSize] = {}
    values: list[SizedValue] = []
    known = {starter.name for starter in job.starters} | {control.name for control in job.controls} | {"incoming"}
    ahead: dict[str, float] = {}
    for path in circuit.paths:
        if not path.is_power or path.owner in known or path.key == "incoming":
            continue
        devices = {ref.device for ref in refs_of(path.items)}
        ratings = [parts[d].rating("amps") for d in devices if d in parts and parts[d].kind in _PROTECTING]
        owner = path.owner or path.key
        rating = min(ratings, default=ahead.get(owner, 0.1))
        ahead[owner] = rating
        chosen, formula = sizer.inside(rating, is_power=True)
        if job.pass_through is not None and owner == "pass_through":
            chosen = max(chosen, from_mm2(job.pass_through.section_mm2), key=lambda s: s.mm2)
            formula = f"as given: {chosen.label()}"
        values.append(sizer.value(owner, "conductor_section", chosen, formula))
        sizes.update({device: max(sizes.get(device, chosen), chosen, key=lambda s: s.mm2) for device in devices})
        for potential in potentials:
            if not potential.net.names and {device_of(t) for t in potential.net.terminals} & devices:
                sizes[potential.number] = chosen
    return sizes, values


def _cable_sizes(
    job: Job, circuit: Circuit, sizer: "_Sizer", motors: Mapping[str, MotorSize], others: Mapping[str, ConductorSize]
) -> tuple[dict[str, ConductorSize], list[SizedValue]]:
    zones = zones_of(circuit)
    cores: dict[str, ConductorSize] = {}
    values: list[SizedValue] = []
    for device in circuit.devices:
        drop = zones[device.id]
        starter = job.starter(device.id)
        if starter is not None:
            place = job.location(starter.motor_at)
            metres = place.distance if place is not None else 20.0
            chosen, formula, drop_value = sizer.cable(starter, motors[starter.name], metres)
            cores[drop] = chosen
            values.append(sizer.value(starter.name, "cable_section", chosen, formula))
            values.append(drop_value)
        elif drop not in {"plate", "door"}:
            cores.setdefault(drop, others.get(device.id, others[""]))
    return cores, values


class _Sizer:
    """Picks the smallest listed section that carries a current, in the job's world of standards."""

    def __init__(self, job: Job) -> None:
        self._job = job
        self._is_iec = job.practice.standard is Standard.IEC
        ambient = job.enclosure.ambient
        self._ambient = ambient
        self._inside_air = ambient + INSIDE_RISE_K
        if self._is_iec:
            warm = iec_60204_1.ambient_factor(min(self._inside_air, 60.0)) or 0.58
            group = iec_60204_1.grouping_factor(GROUPED_CIRCUITS, "b1")
            self._factor = warm * group
            self._words = f"{warm:g} (air {self._inside_air:g} °C) · {group:g} ({GROUPED_CIRCUITS} circuits together)"
        else:
            warm = nec.ambient_factor(min(self._inside_air, 70.0)) or 0.33
            self._factor = warm
            self._words = f"{warm:g} (air {self._inside_air:g} °C)"

    def inside(self, amps: float, *, is_power: bool) -> tuple[ConductorSize, str]:
        """Return the section in duct for a current in A, and the formula."""
        for size, ampacity in self._listed("b1"):
            if size.mm2 < self._least(is_power).mm2 - 1e-6:
                continue
            carries = ampacity * self._factor
            if carries >= amps:
                return size, (
                    f"{size.label()}: {ampacity:g} A · {self._words} = {format_number(carries)} A, "
                    f"needed {format_number(amps)} A"
                )
        largest = self._listed("b1")[-1][0]
        return largest, f"no listed section carries {format_number(amps)} A"

    def cable(self, starter: Starter, size: MotorSize, metres: float) -> tuple[ConductorSize, str, SizedValue]:
        """Return the section of a motor cable by current and by voltage drop, the formula, and the drop."""
        factor = (
            iec_60204_1.ambient_factor(min(self._ambient, 60.0)) if self._is_iec else nec.ambient_factor(self._ambient)
        ) or 0.33
        volts = self._job.way_in(starter.power).volts
        root = sqrt(3) if starter.phases == 3 else 2.0
        chosen, ampacity, drop = *self._listed("b2")[-1], 0.0
        for chosen, ampacity in self._listed("b2"):
            if chosen.mm2 < self._least(True).mm2 - 1e-6 or ampacity * factor < size.carry:
                continue
            drop = root * size.current * metres * iec_60228.resistance_ohm_per_m(chosen.mm2) * _COS_PHI
            if 100 * drop / volts <= DROP_LIMIT_PERCENT:
                break
        percent = 100 * drop / volts
        carries = f"{chosen.label()}: {ampacity:g} A · {factor:g} = {format_number(ampacity * factor)} A"
        formula = f"{carries}, needed {format_number(size.carry)} A; drop {format_number(percent)} % over {metres:g} m"
        value = SizedValue(
            subject=starter.name, quantity="voltage_drop", value=round(percent, 3), unit="%",
            formula=f"{root:.3g} · {format_number(size.current)} A · {metres:g} m · "
            f"{iec_60228.resistance_ohm_per_m(chosen.mm2):.4g} Ω/m · {_COS_PHI:g} = {format_number(drop)} V",
            source=f"{iec_60228.SOURCE_RESISTANCE}; limit {DROP_LIMIT_PERCENT:g} %: IEC 60204-1 12.5, from memory",
            inputs={"current": size.current, "length_m": metres, "section": chosen.label()},
        )  # fmt: skip
        return chosen, formula, value

    def earth(self, line: ConductorSize, device_a: float) -> ConductorSize:
        """Return the earth conductor for a line conductor (IEC) or for a protective device in A (UL)."""
        if self._is_iec:
            wanted = iec_60204_1.protective_section_mm2(line.mm2)
            return from_mm2(next((m for m in METRIC_MM2 if m >= wanted - 1e-6), METRIC_MM2[-1]))
        return from_awg(nec.equipment_ground_awg(min(device_a, 1200.0)))

    def value(
        self, subject: str, quantity: str, size: ConductorSize, formula: str, *, earth: bool = False
    ) -> SizedValue:
        """Return a section as a sized value in mm2."""
        if earth:
            source = iec_60204_1.SOURCE_EARTH if self._is_iec else nec.SOURCE_EARTH
        else:
            source = iec_60204_1.SOURCE_AMPACITY if self._is_iec else nec.SOURCE_CONDUCTOR
        return SizedValue(
            subject=subject, quantity=quantity, value=size.mm2, unit="mm2", formula=formula,
            source=f"{source}; {_CP_LEAST}", inputs={"size": size.label()},
        )  # fmt: skip

    def _least(self, is_power: bool) -> ConductorSize:
        return from_mm2(_LEAST_IEC[is_power]) if self._is_iec else from_awg(_LEAST_UL[is_power])

    def _listed(self, method: str) -> list[tuple[ConductorSize, float]]:
        if self._is_iec:
            found = [(from_mm2(m), iec_60204_1.ampacity_a(m, method)) for m in METRIC_MM2]
        else:
            found = [(from_awg(a), nec.ampacity_a(a, "c75") or _SMALL_AWG.get(a)) for a in AWG_SIZES]
        return [(size, amps) for size, amps in found if amps is not None]


_SMALL_AWG = {"18": 7.0, "16": 10.0}
"""NFPA 79 12.6.1 for control conductors, from memory."""
