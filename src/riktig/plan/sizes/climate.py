"""Owns what fans and heaters of the enclosure must do, before wires are routed. Must not choose them."""

from collections.abc import Mapping
from dataclasses import replace

from riktig.catalogue.model import Part
from riktig.job.model import Job
from riktig.plan.circuit.model import DOOR, PLATE, Circuit
from riktig.plan.sizes.heat import Duty, device_losses, heater_w, surface_m2
from riktig.plan.sizes.needs import Need
from riktig.standards import iec_60890
from riktig.units.numbers import format_number

COOLING = frozenset({"fan", "outlet-filter"})
"""Kinds that are chosen for the heat of all others: with what the ledger holds of them left out, so that settling again asks the same."""
WIRE_SHARE = 0.3
"""Losses of the wires as a share of those of the devices, until they are routed (common practice, no source)."""


def needs_of_climate(
    job: Job,
    circuit: Circuit,
    parts: Mapping[str, Part],
    duties: Mapping[str, Duty],
    diversity: float,
) -> dict[str, Need]:
    """Return what air each fan must move and what each heater must give; the whole is shared among those that are there.

    Source:
        VDE 0660-500 / IEC 60890 for the surface, V = f (P - k A ΔT) / ΔT: common practice, from memory. The heat balance, made
        with the wires as routed, checks it.
    """
    inside = [d for d in circuit.devices if d.location in {PLATE, DOOR} and d.part is None]
    fans = [d.id for d in inside if d.kind == "fan" and d.blows]
    outlets = [d.id for d in inside if d.kind == "outlet-filter"]
    heaters = [d.id for d in inside if d.kind == "heater"]
    box = job.enclosure
    needs = {}
    if fans:
        area = surface_m2(box)
        watts = sum(device_losses(circuit, parts, duties, diversity).values()) * (1.0 + WIRE_SHARE)
        rise = max(box.inside_max - box.ambient, 1.0)
        k = iec_60890.wall_coefficient(box.material)
        air = iec_60890.needed_air_m3h(watts, area, k, rise, box.altitude)
        formula = (
            f"{iec_60890.air_factor(box.altitude):g} · ({format_number(watts)} W - {k:g} W/(m² K) · {format_number(area)} m² · "
            f"{rise:g} K) / {rise:g} K = {format_number(air)} m³/h, wires taken as {100 * WIRE_SHARE:.0f} % of the devices"
        )
        for fan in fans:
            needs[fan] = Need(
                quantity="fan_air", air=air / len(fans), formula=formula, source=f"{iec_60890.SOURCE_AREA}; {iec_60890.SOURCE_AIR}",
                inputs={"losses": round(watts, 1), "ambient": box.ambient},
                places={"losses": "panel", "ambient": "enclosure.ambient"},
            )  # fmt: skip
        needs |= {outlet: replace(needs[fans[0]], quantity="outlet_air") for outlet in outlets}
    for heater in heaters:
        watts = heater_w(job)
        needs[heater] = Need(
            quantity="heater_power", va=watts / len(heaters), source=f"{iec_60890.SOURCE_AREA}; {iec_60890.SOURCE_K}",
            formula=f"{format_number(watts)} W keep it from getting colder than it may at {box.ambient_min:g} °C around it",
            inputs={"coldest": box.ambient_min}, places={"coldest": "enclosure.ambient_min"},
        )  # fmt: skip
    return needs
