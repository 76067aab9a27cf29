"""Owns the heat inside the enclosure: what is lost, what the walls and a fan carry away, how warm it gets."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.model import Part
from riktig.job.model import Enclosure, Job
from riktig.plan.basis.motor import SHARES, MotorSize
from riktig.plan.basis.sized import Chosen, SizedValue, decide
from riktig.plan.circuit.model import DOOR, PLATE, Circuit
from riktig.plan.circuit.power import PowerCircuit, roles_in_circuits
from riktig.plan.sizes.short_circuit import PANEL
from riktig.standards import iec_60890
from riktig.standards.iec_60204_1 import AMBIENT_LIMITS_C
from riktig.units.numbers import format_number

_POWER = frozenset({"breaker", "fuse", "motor-breaker", "contactor", "overload", "drive", "soft-starter", "disconnect"})
_COIL_SHARE = 0.3
"""Part of the VA that a held AC coil turns into heat (common practice, no source)."""
_IDLE_SHARE = 0.2
"""Part of its rated losses that a transformer without load has (common practice, no source)."""
_GIVES_HEAT_ON_PURPOSE = frozenset({"heater"})


Duty = tuple[MotorSize | None, str]
"""The motor whose current a device leads, and its role in that circuit."""


def duties_of(circuits: Mapping[str, PowerCircuit], motors: Mapping[str, MotorSize]) -> dict[str, Duty]:
    """Return what the devices do that lead the current of one motor alone."""
    return {device: (motors.get(name), role) for device, (name, role) in roles_in_circuits(circuits).items()}


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatBalance:
    """Heat in W by device and of all wires, the effective surface in m2, W/(m2 K) of the walls, fans that are there in
    m3/h, air inside in degC on average; what a fan (m3/h) must move and a heater (W) must give, 0 where none is needed.
    """

    by_device: Mapping[str, float]
    wires_w: float
    area_m2: float
    coefficient: float
    fans_m3h: float
    rise_k: float
    inside_c: float
    needed_air_m3h: float
    needed_heater_w: float
    values: tuple[SizedValue, ...]

    @property
    def total_w(self) -> float:
        """All heat set free inside."""
        return sum(self.by_device.values()) + self.wires_w

    def walls_w(self, rise_k: float) -> float:
        """Return what the walls carry away at a rise in K."""
        return self.coefficient * self.area_m2 * rise_k


def balance_heat(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    duties: Mapping[str, Duty],
    *,
    wires_w: float,
    diversity: float,
    chosen: Chosen,
) -> HeatBalance:
    """Return the heat balance of the enclosure.

    Args:
        job: the Job.
        circuit: its circuit.
        parts: the parts of its devices.
        duties: what devices in the circuit of one motor do there.
        wires_w: what the conductors inside lose, W at the diversity given.
        diversity: share of their current that the motors draw together.
        chosen: sizes that people set.

    Source:
        Losses fall with the square of the current: IEC 60890, from memory.
    """
    box = job.enclosure
    by_device = device_losses(circuit, parts, duties, diversity)
    area = surface_m2(box)
    coefficient = iec_60890.wall_coefficient(box.material)
    fans = sum(parts[d.id].rating("m3h") for d in circuit.devices if d.kind == "fan" and d.blows)
    fans *= iec_60890.air_factor(0) / iec_60890.air_factor(box.altitude)
    losses = decide(_losses_value(by_device, wires_w, diversity), chosen)
    total = losses.value
    rise = decide(_rise_value(job, total, area, coefficient, fans), chosen)
    allowed = max(box.inside_max - box.ambient, 1.0)
    air = iec_60890.needed_air_m3h(total, area, coefficient, allowed, box.altitude) if rise.value > allowed else 0.0
    heater = heater_w(job)
    return HeatBalance(
        by_device=by_device, wires_w=wires_w, area_m2=area, coefficient=coefficient, fans_m3h=fans, rise_k=rise.value,
        inside_c=box.ambient + rise.value, needed_air_m3h=air, needed_heater_w=heater, values=(losses, rise),
    )  # fmt: skip


def heater_w(job: Job) -> float:
    """Return the heat in W that keeps the air inside at the least that devices work in, by the walls alone; 0 if none.

    Source:
        P = k A ΔT, common practice; electrical equipment works from 5 degC: IEC 60204-1:2016 4.4.3, from memory.
    """
    box = job.enclosure
    return max(
        0.0, (AMBIENT_LIMITS_C[0] - box.ambient_min) * iec_60890.wall_coefficient(box.material) * surface_m2(box)
    )


def surface_m2(box: Enclosure) -> float:
    """Return the surface of an enclosure that gives off heat, m2.

    Source:
        VDE 0660-500 / IEC 60890, from memory.
    """
    return iec_60890.effective_area_m2(box.width / 1000, box.height / 1000, box.depth / 1000, box.mounting)


def device_losses(
    circuit: Circuit,
    parts: Mapping[str, Part],
    duties: Mapping[str, Duty],
    diversity: float,
) -> dict[str, float]:
    """Return what each device in the enclosure turns into heat, in W; those without any are left out. The transformer of a service socket
    idles: it is loaded with the door open, for minutes.
    """
    idle = {device.owner for device in circuit.devices if device.kind == "socket"} - {None}
    found = {}
    for device in circuit.devices:
        if device.location in {PLATE, DOOR} and parts[device.id].kind not in _GIVES_HEAT_ON_PURPOSE:
            size, role = duties.get(device.id, (None, ""))
            watts = _loss_w(parts[device.id], size, role, diversity)
            watts *= _IDLE_SHARE if device.kind == "transformer" and device.owner in idle else 1.0
            if watts > 0:
                found[device.id] = watts
    return found


def _loss_w(part: Part, size: MotorSize | None, role: str, diversity: float) -> float:
    """Return what a device turns into heat: power parts of a motor's circuit by the current that really flows."""
    rated = max(part.rating("amps"), part.rating("amps_max"))
    if size is None or part.kind not in _POWER or not rated:
        return part.losses_w
    share = SHARES[role] if size.is_star_delta and role in SHARES else 1.0
    if role == "KS":
        return 0.0
    coil = min(_COIL_SHARE * part.rating("hold_va"), part.losses_w) if part.kind == "contactor" else 0.0
    load = min(diversity * share * size.current / rated, 1.2)
    return coil + (part.losses_w - coil) * load**2


def _losses_value(by_device: Mapping[str, float], wires_w: float, diversity: float) -> SizedValue:
    devices = sum(by_device.values())
    return SizedValue(
        subject=PANEL, quantity="losses", value=round(devices + wires_w, 2), unit="W",
        formula=f"{len(by_device)} devices {format_number(devices)} W at the current that flows, wires "
        f"{format_number(wires_w)} W" + (f", all at {diversity:g} of their load" if diversity != 1.0 else ""),
        source="losses of the parts, scaled by the square of the current: IEC 60890, from memory",
        inputs={"devices_w": round(devices, 2), "wires_w": round(wires_w, 2), "diversity": diversity},
        places={"diversity": "practice.diversity"},
    )  # fmt: skip


def _rise_value(job: Job, total: float, area: float, coefficient: float, fans: float) -> SizedValue:
    box = job.enclosure
    rise = iec_60890.temperature_rise_k(total, area, coefficient, fans)
    air = f" + {fans:.0f} m³/h / {iec_60890.air_factor(0):g}" if fans else ""
    return SizedValue(
        subject=PANEL, quantity="temperature_rise", value=round(rise, 2), unit="K",
        most=max(box.inside_max - box.ambient, 1.0),
        formula=f"{format_number(total)} W / ({coefficient:g} W/(m² K) · {format_number(area)} m²{air}) = "
        f"{format_number(rise)} K on average, so {format_number(box.ambient + rise)} °C inside; warmer at the top",
        source=f"{iec_60890.SOURCE_AREA}; {iec_60890.SOURCE_K}",
        inputs={"losses": round(total, 2), "area_m2": round(area, 3), "material": box.material, "mounting": box.mounting,
                "ambient": box.ambient},
        places={"area_m2": "enclosure.width", "material": "enclosure.material", "mounting": "enclosure.mounting",
                "ambient": "enclosure.ambient"},
    )  # fmt: skip
