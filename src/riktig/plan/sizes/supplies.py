"""Owns what transformer, DC supply and protection of each control supply must be rated for. Must not choose parts."""

from collections.abc import Mapping

from riktig.catalogue.loader import find_part, parts_of_kind
from riktig.catalogue.model import Part
from riktig.job.model import Control, Job
from riktig.job.names import lines_of
from riktig.job.practice import Standard
from riktig.plan.basis.sized import Chosen, SizedValue
from riktig.plan.circuit.incoming import protection_of_control
from riktig.plan.circuit.model import Circuit
from riktig.plan.sizes.coils import control_volts
from riktig.plan.sizes.load import control_load_va
from riktig.plan.sizes.needs import Need
from riktig.plan.sizes.ratings import CP_CONTROL, LEAST_CONTROL_A, as_needed
from riktig.standards import nec
from riktig.units.numbers import format_number

_RESERVE = 1.25
_MOST_CONTROL_A = 16.0
"""No larger device stands ahead of control circuits unless their load asks for it: its wires fit the clamps of coils and buttons, 14 AWG
in North America (common practice, no source).
"""
_SOURCE_TRANSFORMER = f"IEC 61558-2-2, from memory; {CP_CONTROL}"


def needs_of_controls(
    job: Job, circuit: Circuit, parts: Mapping[str, Part], chosen: Chosen
) -> tuple[dict[str, Need], list[SizedValue]]:
    """Return what transformer and breakers of each control supply must be rated for, and the loads that say so; an alarm's fuse ahead of
    that of its supply guards the same transformer, so it is the same.

    Args:
        job: the Job.
        circuit: its circuit.
        parts: the parts of the devices that the supplies feed.
        chosen: sizes that people set.
    """
    needs: dict[str, Need] = {}
    values = []
    loads = {control.name: control_load_va(control, circuit, job, parts) for control in job.controls}
    for control in job.controls:
        hold, extra = loads[control.name]
        values.append(_load_value(control, hold, extra))
        if control.kind == "transformer":
            needs.update(_transformer_needs(control, job, hold, extra, chosen))
        elif control.is_dc:
            grouped = sum(loads[one.name][0] for one in job.controls if one.group_of == control.name)
            needs.update({} if control.group_of else _psu_needs(control, job, hold + grouped, chosen))
            needs[f"{control.name}.F"] = _group_need(control, job, hold)
        else:
            volts = control_volts(control, job)
            asked = _RESERVE * hold / volts
            needs[f"{control.name}.F"] = Need(
                quantity="protective_rating", amps=control.amps or max(LEAST_CONTROL_A, asked),
                curves=_curves(control, job), strength_ka=job.supply.available_ka,
                formula=f"at least {LEAST_CONTROL_A:g} A and 1.25 · {hold:.4g} VA / {volts:.4g} V = {format_number(asked)} A",
                source=CP_CONTROL, inputs={"hold_va": round(hold, 2)}, places=_places(control),
            )  # fmt: skip
        if control.kind != "direct" and f"{control.name}.F" in needs:
            alarms = (a.name for a in job.alarms if (a.supply or job.controls[0].name) == control.name)
            needs.update({f"{alarm}.F": needs[f"{control.name}.F"] for alarm in alarms})
    return as_needed(needs, chosen), values


def _places(control: Control) -> dict[str, str]:
    return {"hold_va": control.name, "volts": f"control.{control.name}.volts"}


def _load_value(control: Control, hold: float, extra: float) -> SizedValue:
    unit = "W" if control.is_dc else "VA"
    pulling = f"; the largest pulling in adds {extra:.4g} VA" if extra else ""
    return SizedValue(
        subject=control.name, quantity="control_va", value=round(hold, 2), unit=unit,
        formula=f"all coils, lamps and devices on {control.name} held at once: {hold:.4g} {unit}{pulling}",
        source="hold and inrush as the parts state", inputs={"hold": round(hold, 2), "inrush_extra": round(extra, 2)},
    )  # fmt: skip


def _curves(control: Control, job: Job) -> tuple[str, ...]:
    """Return the characteristics that may protect a control supply."""
    if protection_of_control(control, job) != "fuse":
        return ("C",)
    return ("gG",) if job.practice.standard is Standard.IEC else ("class CC", "class J")


def _rated_va(control: Control, job: Job, need: Need) -> float:
    """Return the VA of the transformer that will be taken: a person's, else the smallest that serves."""
    kept = job.ledger.parts.get(f"{control.name}.T")
    held = find_part(kept.value) if kept is not None and kept.is_held else None
    if held is not None:
        return held.rating("va")
    fitting = (p.rating("va") for p in parts_of_kind("transformer")
               if p.rating("va") >= need.va and p.rating("inrush_va") >= need.inrush_va)  # fmt: skip
    return min(fitting, default=need.va)


def _transformer_needs(control: Control, job: Job, hold: float, extra: float, chosen: Chosen) -> dict[str, Need]:
    """Return the needs of a control transformer and of the devices on both its sides.

    Source:
        A fifth in reserve, and switching on takes many times the rated current, so twice the rating on the primary: common practice. The
        secondary device guards the transformer against overload: IEC 61558-1 and IEC 60204-1:2016 7.2.7. Limits in North America:
        NEC 430.72(C)(4) below 2 A, else Table 450.3(B), 250 % with a secondary device. From memory.
    """
    name, secondary = control.name, control.volts or 230.0
    way_in = job.way_in(lines_of(control, job)[0].rpartition(".")[0])
    primary = way_in.volts
    given = f"as given {control.va:g} VA; " if control.va else ""
    transformer = as_needed({f"{name}.T": Need(
        quantity="transformer_va", va=control.va or max(_RESERVE * hold, 1.0), inrush_va=_RESERVE * (hold + extra),
        formula=f"{given}1.25 · {hold:.4g} VA held = {format_number(_RESERVE * hold)} VA; with the largest coil pulling in "
        f"1.25 · {hold + extra:.4g} VA for a moment",
        source=_SOURCE_TRANSFORMER, inputs={"hold_va": round(hold, 2)}, places=_places(control),
    )}, chosen)  # fmt: skip
    va = _rated_va(control, job, transformer[f"{name}.T"])
    second = va / secondary
    return {
        **transformer,
        f"{name}.FP": _primary_need(control, job, va, primary, way_in.available_ka),
        f"{name}.F": _secondary_need(control, job, hold, second),
    }


def _primary_need(control: Control, job: Job, va: float, volts: float, fault_ka: float) -> Need:
    first, is_ul = va / volts, job.practice.standard is Standard.UL
    is_small = first < _SMALL_PRIMARY_A
    most = (
        nec.transformer_limit_a("primary of motor control" if is_small else "primary with secondary", first)
        if is_ul
        else 0.0
    )
    factor = 2.0 if is_small or not is_ul else _LARGE_PRIMARY
    floor = "" if is_ul else f"at least {LEAST_CONTROL_A:g} A and "
    ceiling = f"; at most {format_number(most)} A" if is_ul else ""
    return Need(
        quantity="protective_rating", amps=factor * first if is_ul else max(LEAST_CONTROL_A, factor * first), most=most,
        curves=_curves(control, job), source=f"{nec.SOURCE_TRANSFORMER}; {CP_CONTROL}" if is_ul else CP_CONTROL,
        strength_ka=fault_ka, inputs={"va": va, "volts": volts}, places={"va": f"{control.name}.T", "volts": "supply.volts"},
        formula=f"{floor}{factor:g} · {va:.4g} VA / {volts:g} V = {format_number(factor * first)} A, so that switching on does not trip "
        f"it{ceiling}",
    )  # fmt: skip


_SMALL_PRIMARY_A, _LARGE_PRIMARY = 2.0, 1.67
"""Below this NEC 430.72(C)(4) lets a motor control transformer have 500 % on its primary; above, time-delay fuses of 167 % hold while it
is switched on (common practice). From memory."""


def _secondary_need(control: Control, job: Job, hold: float, second: float) -> Need:
    """Return the need of the device behind a transformer: for the load, and where one is made no more than the transformer's rating."""
    is_ul = job.practice.standard is Standard.UL
    volts = control.volts or 230.0
    asked = _RESERVE * hold / volts
    most = nec.transformer_limit_a("secondary", second) if is_ul else 0.0
    kind, curves = protection_of_control(control, job), _curves(control, job)
    made = sorted({p.rating("amps") for p in parts_of_kind(kind) if p.traits.get("curve") in curves})
    rated = most if is_ul else second
    guarding = [amps for amps in made if asked <= amps <= rated + 1e-9]
    least = max(_MOST_CONTROL_A, asked)
    amps = control.amps or max((a for a in guarding if a <= max(min(second, least), guarding[0]) + 1e-9), default=asked)
    words = f"1.25 · {hold:.4g} VA / {volts:g} V = {format_number(asked)} A"
    if not control.amps and second > least:
        words += f", and {format_number(least)} A at most for thin control wires"
    ceiling = (
        f"at most {format_number(most)} A"
        if is_ul
        else f"as near as is made to the transformer's {format_number(second)} A"
    )
    return Need(
        quantity="protective_rating", amps=amps, most=max(most, control.amps or 0.0) if is_ul else 0.0, curves=curves,
        source=f"{nec.SOURCE_TRANSFORMER}; {CP_CONTROL}" if is_ul else f"IEC 60204-1:2016 7.2.7, from memory; {CP_CONTROL}",
        inputs={"hold_va": round(hold, 2), "rated_a": round(second, 3)}, places=_places(control), formula=f"{words}; {ceiling}",
    )  # fmt: skip


def _psu_needs(control: Control, job: Job, hold: float, chosen: Chosen) -> dict[str, Need]:
    """Return the needs of a DC supply: load and a quarter in reserve, and protection made for it.

    Source:
        A DC supply often cannot trip a breaker: electronic protection, common practice, no source. Class 2: at most 100 VA,
        NEC Chapter 9 Table 11(B), from memory.
    """
    name, volts = control.name, control_volts(control, job)
    asked = max(_RESERVE * hold / volts, 0.5)
    limit = nec.CLASS_2_VA / volts if control.class_2 else 0.0
    words = f"; Class 2: at most {nec.CLASS_2_VA:g} VA = {format_number(limit)} A" if control.class_2 else ""
    needs = as_needed({f"{name}.G": Need(
        quantity="supply_load", amps=control.amps or asked, most=limit, formula=f"1.25 · {hold:.4g} W / {volts:g} V = "
        f"{format_number(asked)} A{words}", source=f"{nec.SOURCE_CLASS_2}; {CP_CONTROL}" if limit else CP_CONTROL,
        inputs={"hold_w": round(hold, 2), "volts": volts}, places={"hold_w": name, "volts": f"control.{name}.volts"},
    )}, chosen)  # fmt: skip
    supply = needs[f"{name}.G"].amps
    way_in = job.way_in(lines_of(control, job)[0].rpartition(".")[0])
    twice = 2.0 * supply * volts / way_in.volts
    return {
        **needs,
        f"{name}.FP": Need(
            quantity="protective_rating", amps=max(LEAST_CONTROL_A, twice), curves=_curves(control, job), source=CP_CONTROL,
            strength_ka=way_in.available_ka, inputs={"watts": round(supply * volts, 1)}, places={"watts": f"{name}.G"},
            formula=f"at least {LEAST_CONTROL_A:g} A and twice {supply * volts:.4g} W / {way_in.volts:g} V = "
            f"{format_number(twice)} A",
        ),
    }  # fmt: skip


def _group_need(control: Control, job: Job, hold: float) -> Need:
    """Return the need of the device of a DC supply's only group, or of one of several.

    Source:
        A DC supply often cannot trip a breaker: electronic protection, common practice, no source.
    """
    volts = control_volts(control, job)
    asked = max(_RESERVE * hold / volts, 1.0)
    given = control.amps if control.group_of is not None else None
    words = f"1.25 · {hold:.4g} W / {volts:g} V, at least 1 A = {format_number(asked)} A"
    return Need(
        quantity="protective_rating", amps=given or asked, curves=("electronic",), source=CP_CONTROL, asked=asked if given else 0.0,
        formula=f"{f'as given: {given:g} A; ' if given else ''}{words}, electronic: it trips before the supply folds back",
        inputs={"hold_w": round(hold, 2)}, places={"hold_w": control.name},
    )  # fmt: skip
