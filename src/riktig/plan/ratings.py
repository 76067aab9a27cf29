"""Owns what each part must be rated for, and why. Must not choose parts or conductors."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.model import CONSUMER_KINDS, Part
from riktig.job.model import Control, Job, Standard
from riktig.job.paths import Path, nodes_of
from riktig.plan.circuit import Circuit
from riktig.plan.contacts import find_uses
from riktig.plan.parts import Need
from riktig.plan.sizing import MotorSize, SizedValue, size_motor
from riktig.units.numbers import format_number

LEAST_CONTROL_A = 2.0
_CP_CONTROL = "common practice, no source"


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelLoad:
    """Currents of the whole panel in A: all motors and control supplies together, and the largest motor."""

    full_load: float
    largest_motor: float


def size_motors(job: Job) -> dict[str, MotorSize]:
    """Return the currents of every starter's motor by starter name."""
    return {starter.name: size_motor(starter, job) for starter in job.starters}


def needs_of_motors(job: Job, motors: Mapping[str, MotorSize]) -> dict[str, Need]:
    """Return what protection, contactor and overload of each starter must be rated for."""
    is_iec = job.practice.standard is Standard.IEC
    needs: dict[str, Need] = {}
    for starter in job.starters:
        size = motors[starter.name]
        needs[f"{starter.name}.Q"] = Need(
            quantity="protective_rating", formula=size.protection_formula, source=size.protection_source,
            amps=size.protection, curves=("D",) if is_iec else ("inverse-time",), breaking_ka=job.supply.fault_ka,
        )  # fmt: skip
        needs[f"{starter.name}.K"] = Need(
            quantity="contactor_rating", amps=size.current,
            formula=f"AC-3 current at least {format_number(size.current)} A",
            source="IEC 60947-4-1 Table 1, category AC-3, from memory",
        )  # fmt: skip
        needs[f"{starter.name}.F"] = Need(
            quantity="overload_range", setting=size.setting, source="IEC 60947-4-1 8.2.1.5, from memory",
            formula=f"setting {format_number(size.setting)} A inside the range",
        )  # fmt: skip
    return needs


def needs_of_own(job: Job) -> dict[str, Need]:
    """Return what a person asked of their own devices."""
    return {
        device.name: Need(
            quantity="protective_rating" if device.kind == "breaker" else "rating", amps=device.amps or 0.0,
            va=device.va or 0.0, formula=f"as given: {device.amps or device.va:g}", source="given",
        )
        for device in job.devices
        if device.amps or device.va
    }  # fmt: skip


def control_load_va(control: Control, circuit: Circuit, job: Job, parts: Mapping[str, Part]) -> tuple[float, float]:
    """Return (hold, largest inrush beyond its hold) in VA of what hangs on a control supply."""
    users = _consumers_of(control, circuit, job, parts)
    hold = sum(parts[d].rating("hold_va") for d in users)
    extra = max((parts[d].rating("inrush_va") - parts[d].rating("hold_va") for d in users), default=0.0)
    return hold, max(extra, 0.0)


def _consumers_of(control: Control, circuit: Circuit, job: Job, parts: Mapping[str, Part]) -> list[str]:
    """Return the devices whose coil or lamp lies on a rung that begins or ends at the control supply."""
    ends = {f"{control.name}+", f"{control.name}-"}
    touching = {p.key for p in circuit.paths if not p.is_power and ends & set(_names_in(p.items))}
    found: dict[str, None] = {}
    for use in find_uses(circuit, job):
        is_fed = use.key.split("|", 1)[0] in touching and use.ref.what in {None, "coil", "lamp"}
        if is_fed and any(e.kind in CONSUMER_KINDS for e in parts[use.device].elements):
            found.setdefault(use.device)
    return list(found)


def _names_in(items: Path) -> tuple[str, ...]:
    return tuple(name for nodes in nodes_of(items) for name in nodes.names)


def needs_of_controls(job: Job, circuit: Circuit, parts: Mapping[str, Part]) -> dict[str, Need]:
    """Return what transformer and breakers of each control supply must be rated for.

    Args:
        job: the Job.
        circuit: its circuit.
        parts: the parts of the devices that the supplies feed.
    """
    needs: dict[str, Need] = {}
    for control in job.controls:
        hold, extra = control_load_va(control, circuit, job, parts)
        if control.kind == "transformer":
            needs.update(_transformer_needs(control, job, hold, extra))
        else:
            volts = control.volts or job.supply.line_to_neutral
            amps = control.amps or max(LEAST_CONTROL_A, 1.25 * hold / volts)
            needs[f"{control.name}.F"] = Need(
                quantity="protective_rating", amps=amps, curves=("C",), breaking_ka=_control_ka(job),
                formula=f"at least {LEAST_CONTROL_A:g} A and 1.25 · {hold:.4g} VA / {volts:.4g} V = "
                f"{format_number(1.25 * hold / volts)} A",
                source=_CP_CONTROL,
            )  # fmt: skip
    return needs


def _control_ka(job: Job) -> float:
    return job.supply.fault_ka if job.practice.standard is Standard.UL else min(job.supply.fault_ka, 6.0)


def _transformer_needs(control: Control, job: Job, hold: float, extra: float) -> dict[str, Need]:
    va = control.va or max(hold, 1.0)
    secondary = control.volts or 230.0
    primary = job.supply.volts
    return {
        f"{control.name}.T": Need(
            quantity="transformer_va", va=va, inrush_va=hold + extra,
            formula=f"holding {hold:.4g} VA; with the largest coil pulling in {hold + extra:.4g} VA for a moment",
            source="IEC 61558-2-2 and " + _CP_CONTROL,
        ),
        f"{control.name}.FP": Need(
            quantity="protective_rating", amps=max(LEAST_CONTROL_A, 2.0 * va / primary), curves=("C",),
            breaking_ka=_control_ka(job),
            formula=f"at least {LEAST_CONTROL_A:g} A and 2 · {va:.4g} VA / {primary:g} V = {2 * va / primary:.3g} A, "
            "so that switching on does not trip it",
            source=_CP_CONTROL,
        ),
        f"{control.name}.F": Need(
            quantity="protective_rating", amps=control.amps or max(1.0, 1.25 * hold / secondary), curves=("C",),
            formula=f"at least 1 A and 1.25 · {hold:.4g} VA / {secondary:g} V = {1.25 * hold / secondary:.3g} A",
            source=_CP_CONTROL,
        ),
    }  # fmt: skip


def panel_load(job: Job, circuit: Circuit, parts: Mapping[str, Part], motors: Mapping[str, MotorSize]) -> PanelLoad:
    """Return the panel's currents: arithmetic sum of motors and control supplies, no diversity taken."""
    control = 0.0
    for supply in job.controls:
        hold, _ = control_load_va(supply, circuit, job, parts)
        control += hold / (job.supply.volts if supply.kind == "transformer" else job.supply.line_to_neutral)
    currents = [motors[s.name].current for s in job.starters]
    return PanelLoad(full_load=sum(currents) + control, largest_motor=max(currents, default=0.0))


def need_of_incoming(load: PanelLoad) -> Need:
    """Return what the incoming switch must carry: 115 % of the full-load current.

    Source:
        NEC 430.110(A) for the 115 %, from memory; taken for both worlds on the safe side.
    """
    return Need(
        quantity="incoming_rating", amps=1.15 * load.full_load, source="115 %: NEC 430.110(A), from memory",
        formula=f"115 % of {format_number(load.full_load)} A = {format_number(1.15 * load.full_load)} A",
    )  # fmt: skip


_RATED_BY = {"transformer_va": ("va", "VA"), "overload_range": ("amps_max", "A")}


def rated_values(needs: Mapping[str, Need], parts: Mapping[str, Part]) -> list[SizedValue]:
    """Return the rating of each chosen part with the reason for it."""
    values = []
    for device, need in needs.items():
        if need.quantity == "overload_range" or device not in parts:
            continue
        name, unit = _RATED_BY.get(need.quantity, ("amps", "A"))
        rating = parts[device].rating(name)
        values.append(
            SizedValue(
                subject=device,
                quantity=need.quantity,
                value=rating,
                unit=unit,
                source=need.source,
                formula=f"{need.formula}; chosen {rating:g} {unit}",
                inputs={"needed": round(need.va or need.amps, 3)},
            )  # fmt: skip
        )
    return values
