"""Owns the current of each load that stands in plain circuit, and what its devices must be rated for. Must not know motors."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.model import Part
from riktig.job.model import Device, Job
from riktig.job.practice import Standard
from riktig.plan.basis.sized import SizedValue
from riktig.plan.circuit.model import Circuit
from riktig.plan.circuit.power import PowerCircuit
from riktig.plan.sizes.coils import line_volts
from riktig.plan.sizes.needs import Need
from riktig.plan.sizes.ratings import switch_need
from riktig.units.numbers import format_number

CONTINUOUS = 1.25
_INRUSH_KINDS = frozenset({"transformer", "psu", "fan"})
_SOURCE = {
    True: "rated current at least that of the load: IEC 60364-4-43 433.1, from memory",
    False: "125 % of a continuous load, next standard size: NEC 210.20(A), 215.3, from memory",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnLoad:
    """A load of a person's own: its `amps` in each line, None where nothing tells; `value` is None then too. `volts` are those that
    it hangs on, `phases` 1 or 3.
    """

    circuit: PowerCircuit
    volts: float
    phases: int
    amps: float | None
    value: SizedValue | None


def own_loads(
    job: Job, circuit: Circuit, circuits: Mapping[str, PowerCircuit], parts: Mapping[str, Part]
) -> dict[str, OwnLoad]:
    """Return the loads that a person drew behind a way in, by the id of the load.

    Args:
        job: the Job.
        circuit: its circuit.
        circuits: the power circuits of it.
        parts: the parts of the loads and of what protects them.
    """
    stated = {device.name: device for device in job.devices}
    found = {}
    for name, one in circuits.items():
        if not one.is_motor and one.supply is not None and name in stated:
            found[name] = _own_load(stated, one, job, parts)
    return found


def _own_load(stated: Mapping[str, Device], one: PowerCircuit, job: Job, parts: Mapping[str, Part]) -> OwnLoad:
    device = stated[one.load]
    volts, root = line_volts(one, job)
    phases = 3 if root > 1.0 else 1
    part = parts.get(one.load)
    fixed = max(part.rating("hold_va"), part.rating("va")) if part is not None else 0.0
    va = device.va or (device.kw * 1000.0 if device.kw else None) or (fixed or None)
    protection = parts.get(one.protection or "")
    unit = "kW" if device.kw and not device.va else "VA"
    amps: float
    inputs: dict[str, float | str] = {"volts": volts}
    if device.amps is not None:
        amps = device.amps
        formula = f"as given: {device.amps:g} A"
    elif va is not None:
        amps = va / (root * volts)
        sign = "√3 · " if root > 1.0 else ""
        formula = (
            f"{va / 1000:g} kW / ({sign}{volts:g} V) = " if unit == "kW" else f"{va:g} VA / ({sign}{volts:g} V) = "
        )
        formula += f"{format_number(amps)} A"
        inputs["va"] = va
    elif protection is not None and stated.get(one.protection or "", device).amps:
        amps = protection.rating("amps") or protection.rating("amps_max")
        formula = f"nothing is stated: as much as its protection lets through, {amps:g} A"
    else:
        return OwnLoad(circuit=one, volts=volts, phases=phases, amps=None, value=None)
    key = "amps" if device.amps is not None else "va" if device.va else "kw"
    value = SizedValue(
        subject=one.load, quantity="load_current", value=round(amps, 3), unit="A", formula=formula, inputs=inputs,
        source="I = S / (√3 · U), with one phase S / U; a power in kW as if it were all active",
        places={"va": f"device.{one.load}.{key}", "volts": "supply.volts"},
    )  # fmt: skip
    return OwnLoad(circuit=one, volts=volts, phases=phases, amps=amps, value=value)


def needs_of_loads(loads: Mapping[str, OwnLoad], circuit: Circuit, job: Job) -> dict[str, Need]:
    """Return what the devices of each load must be rated for, by device id.

    Source:
        IEC 60364-4-43 433.1; NEC 210.20(A) and 215.3; from memory.
    """
    is_iec = job.practice.standard is Standard.IEC
    needs: dict[str, Need] = {}
    for name, load in loads.items():
        if load.amps is None:
            continue
        factor = 1.0 if is_iec else CONTINUOUS
        least = factor * load.amps
        curves = ("D", "C") if circuit.index[name].kind in _INRUSH_KINDS else ("C", "B")
        fault_ka = job.way_in(load.circuit.supply or None).available_ka
        words = f"{factor:.0%} of " if factor != 1.0 else ""
        for device, role in load.circuit.devices:
            kind = circuit.index[device].kind
            if role == "Q":
                by_kind = {
                    "breaker": curves if is_iec else ("inverse-time",),
                    "fuse": ("gG",) if is_iec else ("class CC", "class J"),
                }
                needs[device] = Need(
                    quantity="protective_rating", amps=least, curves=by_kind.get(kind, ()), strength_ka=fault_ka, source=_SOURCE[is_iec],
                    formula=f"at least {words}{format_number(load.amps)} A = {format_number(least)} A",
                    setting=load.amps if kind == "motor-breaker" else None,
                    inputs={"current": round(load.amps, 3)}, places={"current": name},
                )  # fmt: skip
            elif role == "K":
                needs[device] = Need(
                    quantity="contactor_rating", amps=load.amps, strength_ka=fault_ka, behind=load.circuit.protection,
                    formula=f"AC-3 current at least that of the load, {format_number(load.amps)} A, on the safe side for AC-1",
                    source="IEC 60947-4-1 Table 1, from memory", inputs={"current": round(load.amps, 3)}, places={"current": name},
                )  # fmt: skip
            elif kind in {"disconnect", "rcd"}:
                needs[device] = switch_need(load.amps, name, job.practice.standard)
    return needs
