"""Owns what each part must be rated for, and why. Must not choose parts or conductors."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.model import CONSUMER_KINDS, Part
from riktig.job.model import Control, Job, Standard, Starter
from riktig.job.paths import refs_of
from riktig.plan.circuit import Circuit, canonical_id
from riktig.plan.coils import control_volts, feeds_device
from riktig.plan.modules import lines_of_ways
from riktig.plan.parts import Need
from riktig.plan.sizing import DELTA_SHARE, STAR_SHARE, MotorSize, SizedValue, overload_role, size_motor
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
        size, fault_ka = motors[starter.name], job.way_in(starter.power).fault_ka
        needs[f"{starter.name}.Q"] = Need(
            quantity="protective_rating", formula=size.protection_formula, source=size.protection_source,
            amps=size.protection, curves=("D",) if is_iec else ("inverse-time",), breaking_ka=fault_ka,
        )  # fmt: skip
        needs.update(_contactor_needs(starter, size))
        if overload_role(starter) == "F":
            needs[f"{starter.name}.F"] = Need(
                quantity="overload_range", setting=size.setting, source="IEC 60947-4-1 8.2.1.5, from memory",
                formula=f"setting {format_number(size.setting)} A inside the range",
            )  # fmt: skip
        else:
            needs[f"{starter.name}.A"] = Need(
                quantity="drive_rating", amps=size.current, source="the motor's current, IEC 60034-1",
                formula=f"output current at least {format_number(size.current)} A",
            )  # fmt: skip
        if starter.isolator:
            share = DELTA_SHARE if starter.kind == "star-delta" else 1.0
            needs[f"{starter.name}.QM"] = Need(
                quantity="isolator_rating", amps=1.15 * share * size.current, source="115 %: NEC 430.110(A), from memory",
                formula=f"115 % of {format_number(share * size.current)} A",
            )  # fmt: skip
    return needs


_SHARES = {"KR": 1.0, "KS": STAR_SHARE, "KD": DELTA_SHARE}


def _contactor_needs(starter: Starter, size: MotorSize) -> dict[str, Need]:
    """Return what each contactor of a starter carries; in star-delta main and delta carry 0.577, star a third."""
    roles = {"reversing": ("K", "KR"), "star-delta": ("K", "KD", "KS"), "drive": ()}.get(starter.kind, ("K",))
    needs = {}
    for role in roles:
        share = DELTA_SHARE if starter.kind == "star-delta" and role == "K" else _SHARES.get(role, 1.0)
        amps = share * size.current
        words = f"{share:g} · {format_number(size.current)} A = " if share != 1.0 else ""
        needs[f"{starter.name}.{role}"] = Need(
            quantity="contactor_rating", amps=amps, formula=f"AC-3 current at least {words}{format_number(amps)} A",
            source="IEC 60947-4-1 Table 1, category AC-3, from memory",
        )  # fmt: skip
    return needs


_SET_TO_AMPS = frozenset({"motor-breaker", "overload"})
"""Kinds of which `amps` is what they are set to."""


def needs_of_own(job: Job) -> dict[str, Need]:
    """Return what a person asked of their own devices."""
    return {
        device.name: Need(
            quantity="protective_rating" if device.kind in {"breaker", "fuse"} else "rating",
            amps=0.0 if device.kind in _SET_TO_AMPS | {"motor"} else device.amps or 0.0,
            va=device.va or 0.0, setting=device.amps if device.kind in _SET_TO_AMPS else None, 
            formula=f"as given: {device.amps or device.va:g}", source="given",
        )
        for device in job.devices
        if (device.amps or device.va) and "." not in device.name
    }  # fmt: skip


def needs_of_modules(job: Job, circuit: Circuit, known: Mapping[str, Need]) -> dict[str, Need]:
    """Return what the breakers of panel modules must be rated for: as given, else 2 A.

    Source:
        Common practice, no source.
    """
    needs = {}
    curves = ("B", "C") if job.practice.standard is Standard.IEC else ("C", "inverse-time")
    for device in circuit.devices:
        if device.kind != "breaker" or device.owner is None or device.id in known or device.part is not None:
            continue
        amps = device.least.get("amps", LEAST_CONTROL_A)
        given = "as given" if "amps" in device.least else "at least"
        needs[device.id] = Need(
            quantity="protective_rating", amps=amps, curves=curves, breaking_ka=_control_ka(job), source=_CP_CONTROL,
            formula=f"{given} {amps:g} A",
        )  # fmt: skip
    return needs


def control_load_va(control: Control, circuit: Circuit, job: Job, parts: Mapping[str, Part]) -> tuple[float, float]:
    """Return (hold, largest inrush beyond its hold) in VA of what hangs on a control supply."""
    users = _consumers_of(control, circuit, job, parts)
    hold = sum(parts[d].rating("hold_va") for d in users)
    extra = max((parts[d].rating("inrush_va") - parts[d].rating("hold_va") for d in users), default=0.0)
    return hold, max(extra, 0.0)


def _consumers_of(control: Control, circuit: Circuit, job: Job, parts: Mapping[str, Part]) -> list[str]:
    """Return the devices whose coil or lamp lies on a rung that begins or ends at the control supply."""
    found: dict[str, None] = {}
    for path in circuit.paths:
        if path.is_power or path.supply != control.name:
            continue
        for ref in refs_of(path.items):
            device = canonical_id(ref.device, job)
            if feeds_device(ref) and any(e.kind in CONSUMER_KINDS for e in parts[device].elements):
                found.setdefault(device)
    return list(found)


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
        elif control.kind == "psu":
            needs.update(_psu_needs(control, job, hold))
        else:
            volts = control_volts(control, job)
            amps = control.amps or max(LEAST_CONTROL_A, 1.25 * hold / volts)
            needs[f"{control.name}.F"] = Need(
                quantity="protective_rating", amps=amps, curves=_curves(control), breaking_ka=_control_ka(job),
                formula=f"at least {LEAST_CONTROL_A:g} A and 1.25 · {hold:.4g} VA / {volts:.4g} V = "
                f"{format_number(1.25 * hold / volts)} A",
                source=_CP_CONTROL,
            )  # fmt: skip
    return needs


def _curves(control: Control) -> tuple[str, ...]:
    """Return the characteristics that may protect a control supply."""
    return ("gG", "class CC") if control.protection == "fuse" else ("C",)


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
            quantity="protective_rating", amps=max(LEAST_CONTROL_A, 2.0 * va / primary), curves=_curves(control),
            breaking_ka=_control_ka(job),
            formula=f"at least {LEAST_CONTROL_A:g} A and 2 · {va:.4g} VA / {primary:g} V = {2 * va / primary:.3g} A, "
            "so that switching on does not trip it",
            source=_CP_CONTROL,
        ),
        f"{control.name}.F": Need(
            quantity="protective_rating", amps=control.amps or max(1.0, 1.25 * hold / secondary), curves=_curves(control),
            formula=f"at least 1 A and 1.25 · {hold:.4g} VA / {secondary:g} V = {1.25 * hold / secondary:.3g} A",
            source=_CP_CONTROL,
        ),
    }  # fmt: skip


def _psu_needs(control: Control, job: Job, hold: float) -> dict[str, Need]:
    """Return the needs of a DC supply: load and a quarter in reserve, and protection made for it.

    Source:
        A DC supply often cannot trip a breaker: electronic protection, common practice, no source.
    """
    volts = control_volts(control, job)
    amps = max(1.25 * hold / volts, 0.5)
    supply = control.amps or amps
    return {
        f"{control.name}.G": Need(
            quantity="supply_load", amps=supply, source=_CP_CONTROL,
            formula=f"1.25 · {hold:.4g} W / {volts:g} V = {format_number(amps)} A",
        ),
        f"{control.name}.FP": Need(
            quantity="protective_rating", amps=max(LEAST_CONTROL_A, 2.0 * supply * volts / job.supply.volts),
            curves=_curves(control), breaking_ka=_control_ka(job), source=_CP_CONTROL,
            formula=f"at least {LEAST_CONTROL_A:g} A and twice {supply * volts:.4g} W / {job.supply.volts:g} V",
        ),
        f"{control.name}.F": Need(
            quantity="protective_rating", amps=min(max(amps, 1.0), 10.0), curves=("electronic",), source=_CP_CONTROL,
            formula=f"at least 1 A and {format_number(amps)} A, electronic: it trips before the supply folds back",
        ),
    }  # fmt: skip


def panel_load(job: Job, circuit: Circuit, parts: Mapping[str, Part], motors: Mapping[str, MotorSize]) -> PanelLoad:
    """Return the panel's currents: arithmetic sum of motors and control supplies, no diversity taken."""
    control = 0.0
    for supply in job.controls:
        hold, _ = control_load_va(supply, circuit, job, parts)
        control += hold / (job.supply.volts if supply.kind == "transformer" else job.supply.line_to_neutral)
    currents = [motors[s.name].current for s in job.starters]
    here = [motors[s.name].current for s in job.starters if s.power is None]
    ways = dict.fromkeys(job.supply.lines, 0.0)
    for way, lines in zip(job.ways, lines_of_ways(job), strict=True):
        for line in lines:
            ways[line] += way.amps
    total = sum(here) + control + max(ways.values(), default=0.0)
    return PanelLoad(full_load=total, largest_motor=max(currents, default=0.0))


def needs_of_switches(job: Job, circuit: Circuit, load: PanelLoad, motors: Mapping[str, MotorSize]) -> dict[str, Need]:
    """Return what main switch, main contactor and the switches of extra supplies must carry."""
    needs = {}
    if "Q0" in circuit.index:
        needs["Q0"] = need_of_incoming(load)
    if "incoming.K" in circuit.index:
        needs["incoming.K"] = Need(
            quantity="contactor_rating", amps=load.full_load, formula=f"full load {format_number(load.full_load)} A",
            source="IEC 60947-4-1, from memory",
        )  # fmt: skip
    for extra in job.extra_supplies:
        if extra.isolated == "here":
            amps = sum(motors[s.name].current for s in job.starters if s.power == extra.name)
            needs[f"{extra.name}.Q"] = need_of_incoming(PanelLoad(full_load=max(amps, 1.0), largest_motor=amps))
    return needs


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
