"""Owns what each part of a starter, a module or the way in must be rated for, and why. Must not choose parts."""

from collections.abc import Mapping
from dataclasses import replace
from math import sqrt
from typing import Any

from riktig.catalogue.model import Part
from riktig.job.model import Job, Standard, Starter
from riktig.job.overrides import read_override
from riktig.plan.basis.motor import SHARES, STAR_SHARE, MotorSize, MotorWorld, motor_hp
from riktig.plan.basis.sized import Chosen, SizedValue, value_key
from riktig.plan.circuit.model import Circuit
from riktig.plan.sizes.load import PanelLoad
from riktig.plan.sizes.parts import Need
from riktig.standards import iec_60269, iec_60898_1, iec_60947_4_1, nec
from riktig.units.numbers import format_number

LEAST_CONTROL_A = 2.0
CP_CONTROL = "common practice, no source"
_SOURCE_SWITCH = "115 %: NEC 430.110(A); breaking eight times its rating: IEC 60947-3 AC-23A, from memory"
_SWITCH_BREAKS = 8.0


def needs_of_motor(starter: Starter, size: MotorSize, world: MotorWorld, chosen: Chosen) -> dict[str, Need]:
    """Return what protection, contactors, overload, drive and isolator of a starter must be rated for, by device id."""
    name, fault_ka, hp = starter.name, world.way_in.fault_ka, motor_hp(starter)
    protection = size.protection
    is_set = world.overload == "Q"
    needs = {
        f"{name}.Q": Need(
            quantity="protective_rating", formula=protection.formula, source=protection.source, strength_ka=fault_ka,
            amps=protection.least, most=protection.most, top=protection.top, curves=protection.curves, motor_hp=hp,
            setting=size.setting if is_set else None, inputs={"current": round(size.current, 3), "start_s": starter.start_seconds},
            places={"current": name, "start_s": f"starter.{name}.start_seconds"},
        ),
        **_contactor_needs(starter, size, world, hp),
    }  # fmt: skip
    if world.overload == "F":
        needs[f"{name}.F"] = Need(
            quantity="overload_range", setting=size.setting, source=str(iec_60947_4_1.SOURCE_SETTING),
            formula=f"setting {format_number(size.setting)} A inside the range", behind=f"{name}.Q", strength_ka=fault_ka,
            motor_hp=hp,
        )  # fmt: skip
    elif world.overload == "A" or starter.kind in {"drive", "soft"}:
        needs[f"{name}.A"] = Need(
            quantity="drive_rating", amps=size.current, source="the motor's current, IEC 60034-1", behind=f"{name}.Q",
            formula=f"output current at least {format_number(size.current)} A", strength_ka=fault_ka, motor_hp=hp,
            inputs={"current": round(size.current, 3)}, places={"current": name},
        )  # fmt: skip
    if starter.isolator:
        share = SHARES["K"] if size.is_star_delta else 1.0
        amps = 1.15 * share * size.current
        needs[f"{name}.QM"] = Need(
            quantity="isolator_rating", amps=amps, source="115 %: NEC 430.110(A), from memory",
            formula=f"115 % of {format_number(share * size.current)} A = {format_number(amps)} A",
            inputs={"current": round(size.current, 3)}, places={"current": name},
        )  # fmt: skip
    return as_needed(needs, chosen)


def _contactor_needs(starter: Starter, size: MotorSize, world: MotorWorld, hp: float) -> dict[str, Need]:
    """Return what each contactor carries; in star-delta main and delta carry 0.577 of the motor current, star a third."""
    roles = {"reversing": ("K", "KR"), "star-delta": ("K", "KD", "KS"), "drive": ()}.get(starter.kind, ("K",))
    category = "AC-4" if starter.duty == "AC-4" else "AC-3"
    making = iec_60947_4_1.making_multiple(category)
    is_460 = not world.is_iec and 440 <= world.way_in.volts <= 480 and starter.phases == 3
    needs = {}
    for role in roles:
        share = SHARES.get(role, 1.0) if size.is_star_delta else 1.0
        amps = share * size.current
        words = f"{_share_words(share)} · {format_number(size.current)} A = " if share != 1.0 else ""
        formula = f"{category} current at least {words}{format_number(amps)} A"
        ratio = size.start / size.current / (share if size.is_star_delta else 1.0)
        if ratio > making:
            amps = amps * ratio / making
            formula += f", {format_number(amps)} A to make a start of {ratio:.3g} times (it makes {making:g} times)"
        needs[f"{starter.name}.{role}"] = Need(
            quantity="contactor_rating", amps=amps, formula=formula, behind=f"{starter.name}.Q",
            ac4=amps if category == "AC-4" else 0.0, hp=hp * share if is_460 else 0.0, motor_hp=hp,
            source=str(iec_60947_4_1.SOURCE_CATEGORY), strength_ka=world.way_in.fault_ka,
            inputs={"current": round(size.current, 3), "share": round(share, 3)},
            places={"current": starter.name, "share": f"starter.{starter.name}.kind"},
        )  # fmt: skip
    return needs


def _share_words(share: float) -> str:
    return "1/3" if share == STAR_SHARE else f"{share:g}"


def at_their_volts(needs: Mapping[str, Need], circuit: Circuit, job: Job) -> dict[str, Need]:
    """Return the needs with the volts between lines of the supply, for parts that its fault current flows through.

    Source:
        IEC 60947-1 4.3.1.1 (rated operational voltage), UL 508A 29.1, from memory.
    """
    made = {}
    for device, need in needs.items():
        known = circuit.index.get(device)
        starter = job.starter(known.owner or "") if known is not None else None
        way_in = job.way_in(starter.power if starter is not None else None)
        made[device] = replace(need, volts=way_in.volts) if need.strength_ka else need
    return made


_SET_BY_HAND = {"transformer_va": "va", "heater_power": "va", "fan_air": "air"}


def as_needed(needs: Mapping[str, Need], chosen: Chosen) -> dict[str, Need]:
    """Return the needs with those ratings that a person set in place of the computed ones."""
    made = {}
    for device, need in needs.items():
        text = chosen.get(value_key(device, need.quantity))
        if text is None:
            made[device] = need
            continue
        number, reason = read_override(text)
        name = _SET_BY_HAND.get(need.quantity, "amps")
        free: dict[str, Any] = {"most": 0.0, "hp": 0.0, "ac4": 0.0, "top": 0.0, name: number}
        made[device] = replace(
            need, **free, reason=reason, computed=getattr(need, name),
            formula=f"set by hand to {number:g}: {reason}. Computed: {need.formula}",
        )  # fmt: skip
    return made


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
            inputs={"given": device.amps or device.va or 0.0},
            places={"given": f"device.{device.name}.{'amps' if device.amps else 'va'}"},
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
            quantity="protective_rating", amps=amps, curves=curves, strength_ka=job.supply.fault_ka, source=CP_CONTROL,
            formula=f"{given} {amps:g} A",
        )  # fmt: skip
    return needs


def needs_of_switches(
    job: Job, circuit: Circuit, load: PanelLoad, motors: Mapping[str, MotorSize], parts: Mapping[str, Part]
) -> dict[str, Need]:
    """Return what main switch, protection of the panel, main contactor and switches of extra supplies must carry.

    Args:
        job: the Job.
        circuit: its circuit.
        load: the panel's currents.
        motors: currents of the motors.
        parts: parts of a first choice, for the ratings of the branch devices.
    """
    needs = {}
    here = {s.name: motors[s.name] for s in job.starters if s.power is None}
    if "Q0" in circuit.index:
        needs["Q0"] = need_of_incoming(load.full_load, list(here.values()), job.supply.fault_ka)
    if "incoming.FP" in circuit.index:
        needs["incoming.FP"] = _panel_protection(job, load, here, parts)
    if "incoming.K" in circuit.index:
        needs["incoming.K"] = Need(
            quantity="contactor_rating", amps=load.full_load, formula=f"full load {format_number(load.full_load)} A",
            source="IEC 60947-4-1, from memory", strength_ka=job.supply.fault_ka, behind="incoming.FP",
        )  # fmt: skip
    for extra in job.extra_supplies:
        if extra.isolated == "here":
            own = [motors[s.name] for s in job.starters if s.power == extra.name]
            amps = max(sum(size.current for size in own), 1.0)
            needs[f"{extra.name}.Q"] = need_of_incoming(amps, own, extra.fault_ka)
    return needs


def need_of_incoming(full_load: float, motors: list[MotorSize], fault_ka: float) -> Need:
    """Return what the incoming switch must carry, and break: the start of the largest motor while the others run.

    Source:
        NEC 430.110(A) for 115 %, taken for both worlds on the safe side; IEC 60204-1:2016 5.3.3 with IEC 60947-3 category
        AC-23A, which breaks 8 times its rating; from memory.
    """
    largest = max(motors, key=lambda m: m.start, default=None)
    locked = full_load - largest.current + largest.start if largest is not None else full_load
    carried, broken = 1.15 * full_load, locked / _SWITCH_BREAKS
    return Need(
        quantity="incoming_rating", amps=max(carried, broken), source=_SOURCE_SWITCH, strength_ka=fault_ka,
        formula=f"115 % of {format_number(full_load)} A = {format_number(carried)} A; to break {format_number(locked)} A, an "
        f"eighth of it = {format_number(broken)} A",
        inputs={"full_load": round(full_load, 3), "locked": round(locked, 3)},
    )  # fmt: skip


def _panel_protection(job: Job, load: PanelLoad, motors: Mapping[str, MotorSize], parts: Mapping[str, Part]) -> Need:
    """Return what breaker or fuses of the whole panel must be rated for.

    Source:
        Rides through the start of the largest motor while the others run, bands as in `sizing`; NEC 430.62(A) and 430.63.
    """
    is_fuse, given = job.incoming.protection == "fuse", job.incoming.amps
    if job.practice.standard is Standard.UL:
        return _north_american_feeder(job, load, motors, parts)
    largest = max(motors.values(), key=lambda m: m.start, default=None)
    start = load.full_load - largest.current + largest.start if largest is not None else load.full_load
    holds = iec_60269.start_multiple_held("gG") if is_fuse else iec_60898_1.instantaneous_band("D")[0] / sqrt(2)
    amps = given or max(load.full_load, start / holds)
    ride = f"{format_number(start)} A while the largest motor starts, held {holds:.3g} times"
    formula = f"as given {given:g} A" if given else f"full load {format_number(load.full_load)} A and {ride}"
    return Need(
        quantity="protective_rating", amps=amps, curves=("gG",) if is_fuse else ("D",), strength_ka=job.supply.fault_ka,
        formula=f"{formula}: at least {format_number(amps)} A",
        source=f"{iec_60269.SOURCE_START if is_fuse else iec_60898_1.SOURCE_CURVES}", inputs={"full_load": round(load.full_load, 3)},
        places={"full_load": "incoming.amps"},
    )  # fmt: skip


def _north_american_feeder(
    job: Job, load: PanelLoad, motors: Mapping[str, MotorSize], parts: Mapping[str, Part]
) -> Need:
    is_fuse, given = job.incoming.protection == "fuse", job.incoming.amps
    names = [name for name in motors if f"{name}.Q" in parts]
    devices = [max(parts[f"{name}.Q"].rating("amps"), parts[f"{name}.Q"].rating("amps_max")) for name in names]
    tables = [motors[name].table for name in names]
    others = load.full_load - sum(motors[name].current for name in motors)
    limit = (
        nec.feeder_device_a(devices, tables, others_a=max(others, 0.0)) or nec.standard_rating_a(load.full_load) or 15.0
    )
    amps = given or max(limit, load.full_load)
    words = f"as given {given:g} A; " if given else ""
    formula = f"{words}largest branch device and the other motors, next size down: at most {limit:g} A"
    return Need(
        quantity="protective_rating", amps=amps, most=limit if not given or given <= limit else given, formula=formula,
        curves=("class CC", "class J") if is_fuse else ("inverse-time",), source="NEC 430.62(A), 430.63, from memory",
        strength_ka=job.supply.fault_ka, inputs={"full_load": round(load.full_load, 3)}, places={"full_load": "incoming.amps"},
    )  # fmt: skip


_RATED_BY = {
    "transformer_va": ("va", "VA"), "overload_range": ("amps_max", "A"), "fan_air": ("m3h", "m³/h"), "heater_power": ("va", "W"),
}  # fmt: skip


def rated_values(needs: Mapping[str, Need], parts: Mapping[str, Part]) -> list[SizedValue]:
    """Return the rating of each chosen part with the reason for it."""
    values = []
    for device, need in needs.items():
        if need.quantity == "overload_range" or device not in parts:
            continue
        name, unit = _RATED_BY.get(need.quantity, ("amps", "A"))
        rating = parts[device].rating(name) or parts[device].rating("amps_max")
        wanted = need.va or need.amps or need.top or need.setting or need.air
        values.append(
            SizedValue(
                subject=device, quantity=need.quantity, value=rating, unit=unit, source=need.source,
                formula=f"{need.formula}; chosen {rating:g} {unit}", inputs={"needed": round(wanted, 3), **need.inputs},
                places=need.places, needed=wanted or None, most=need.most or None, reason=need.reason, computed=need.computed,
            )
        )  # fmt: skip
    return values
