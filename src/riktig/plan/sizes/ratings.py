"""Owns what each part of a starter, a module or the way in must be rated for, and why. Must not choose parts."""

from collections.abc import Mapping
from dataclasses import replace
from math import sqrt
from typing import Any

from riktig.catalogue.loader import parts_of_kind
from riktig.catalogue.model import Part
from riktig.job.model import Job, Starter
from riktig.job.practice import Standard
from riktig.pipeline.rows import by_row
from riktig.plan.basis.motor import SHARES, STAR_SHARE, MotorSize, MotorWorld, motor_hp
from riktig.plan.basis.sized import Chosen, SizedValue, value_key
from riktig.plan.circuit.model import Circuit
from riktig.plan.sizes.needs import Need
from riktig.standards import iec_60269, iec_60898_1, iec_60947_4_1, nec
from riktig.units.numbers import format_number

LEAST_CONTROL_A = 2.0
CP_CONTROL = "common practice, no source"


def needs_of_motor(starter: Starter, size: MotorSize, world: MotorWorld, chosen: Chosen) -> dict[str, Need]:
    """Return what protection, contactors, overload, drive and isolator of a motor must be rated for, by device id."""
    name, fault_ka, hp = starter.name, world.way_in.available_ka, motor_hp(starter)
    protection, sets = size.protection, frozenset(world.of_role(world.overload)) if world.overload else frozenset()
    ahead = next(iter(world.of_role("Q")[-1:]), None)
    least = protection.least
    if protection.most and least == protection.most:
        least = made_rating_a(world.protection, protection.curves, protection.most)
    needs = {
        device: Need(
            quantity="protective_rating", formula=protection.formula, source=protection.source, strength_ka=fault_ka,
            amps=least, most=protection.most, top=protection.top, curves=protection.curves, motor_hp=hp,
            setting=size.setting if device in sets else size.ahead.get(device),
            inputs={"current": round(size.current, 3), "start_s": starter.start_seconds},
            places={"current": name, "start_s": f"starter.{name}.start_seconds"},
        )
        for device in world.of_role("Q")
    }  # fmt: skip
    needs |= _contactor_needs(starter, size, world, hp)
    for device in world.of_role("F"):
        needs[device] = Need(
            quantity="overload_range", setting=size.dials.get(device, size.setting), source=str(iec_60947_4_1.SOURCE_SETTING), behind=ahead,
            formula=f"setting {format_number(size.dials.get(device, size.setting))} A inside the range", strength_ka=fault_ka, motor_hp=hp,
        )  # fmt: skip
    for device in world.of_role("A"):
        needs[device] = _drive_need(size, world, name, ahead, hp)
    for device in world.of_role("T", "R"):
        needs[device] = _start_need(size, name)
    share = SHARES["K"] if size.is_star_delta else 1.0
    for device in world.of_role("QM"):
        needs[device] = switch_need(share * size.current, name, world.standard)
    return as_needed(needs, chosen)


def made_rating_a(kind: str, curves: tuple[str, ...], most: float) -> float:
    """Return the largest rating in A that is made of breakers or fuses and is not above `most`; `most` itself where none is."""
    sort = "fuse" if kind == "fuse" else "breaker"
    made = (
        p.rating("amps") for p in parts_of_kind(sort) if p.traits.get("curve") in curves and p.rating("poles") == _POLES
    )
    return max((amps for amps in made if amps <= most + 1e-9), default=most)


_POLES = 3.0


def _drive_need(size: MotorSize, world: MotorWorld, name: str, ahead: str | None, hp: float) -> Need:
    """Return what a drive or soft starter must be rated for in the air that it stands in.

    Source:
        Rated for 40 degC; 2 % less for each kelvin above, up to 60 degC: common practice, no source, the maker's own curve goes first.
    """
    share = max(1.0 - _DRIVE_PER_K * max(world.inside_c - _DRIVE_RATED_C, 0.0), 0.6)
    amps = size.current / share
    hot = f" / {share:.3g} = {format_number(amps)} A in air of {world.inside_c:g} °C" if share < 1.0 else ""
    return Need(
        quantity="drive_rating", amps=amps, source="the motor's current, IEC 60034-1; 2 % for each kelvin above 40 °C: common practice",
        behind=ahead, formula=f"output current at least {format_number(size.current)} A{hot}", strength_ka=world.way_in.available_ka,
        motor_hp=hp, inputs={"current": round(size.current, 3), "air": world.inside_c},
        places={"current": name, "air": "enclosure.inside_rise"},
    )  # fmt: skip


_DRIVE_PER_K, _DRIVE_RATED_C = 0.02, 40.0


def _start_need(size: MotorSize, name: str) -> Need:
    """Return what a starting resistor or autotransformer must be rated for: the current of the motor that it starts.

    Source:
        Both are made for motors of a current and for a number of starts in an hour: common practice, no source.
    """
    return Need(
        quantity="starting_rating", amps=size.current, formula=f"for a motor of {format_number(size.current)} A",
        source="rated by the motor that it starts; how often in an hour its maker says: common practice, no source",
        inputs={"current": round(size.current, 3)}, places={"current": name},
    )  # fmt: skip


_SOURCE_ISOLATOR = {
    Standard.IEC: "at least the current, IEC 60947-3 AC-23A; 15 % more: common practice, from memory",
    Standard.UL: "115 %: NEC 430.110(A), from memory",
}


def switch_need(amps: float, load: str, standard: Standard) -> Need:
    """Return what a switch in the circuit of a motor or load must be rated for that leads `amps`.

    Source:
        NEC 430.110(A); in the other world IEC 60947-3 with as much in hand; from memory.
    """
    return Need(
        quantity="isolator_rating", amps=1.15 * amps, source=_SOURCE_ISOLATOR[standard],
        formula=f"115 % of {format_number(amps)} A = {format_number(1.15 * amps)} A",
        inputs={"current": round(amps, 3)}, places={"current": load},
    )  # fmt: skip


def _contactor_needs(starter: Starter, size: MotorSize, world: MotorWorld, hp: float) -> dict[str, Need]:
    """Return what each contactor carries; in star-delta main and delta carry 0.577 of the motor current, star a third."""
    category = "AC-4" if starter.is_inching else "AC-3"
    making = iec_60947_4_1.making_multiple(category)
    is_460 = not world.is_iec and 440 <= world.way_in.volts <= 480 and starter.phases == 3
    behind = next(iter(world.of_role("Q")[-1:]), None)
    needs = {}
    for device, role in world.devices:
        if role not in {"K", "KR", "KD", "KS"}:
            continue
        share = SHARES.get(role, 1.0) if size.is_star_delta else 1.0
        amps = share * size.current
        words = f"{_share_words(share)} · {format_number(size.current)} A = " if share != 1.0 else ""
        formula = f"{category} current at least {words}{format_number(amps)} A"
        ratio = size.start / size.current / (share if size.is_star_delta else 1.0)
        if ratio > making:
            amps = amps * ratio / making
            formula += f", {format_number(amps)} A to make a start of {ratio:.3g} times (it makes {making:g} times)"
        needs[device] = Need(
            quantity="contactor_rating", amps=amps, formula=formula, behind=behind,
            ac4=amps if category == "AC-4" else 0.0, hp=hp * share if is_460 else 0.0, motor_hp=hp,
            source=str(iec_60947_4_1.SOURCE_CATEGORY), strength_ka=world.way_in.available_ka,
            inputs={"current": round(size.current, 3), "share": round(share, 3)},
            places={"current": starter.name, "share": f"starter.{starter.name}.kind"},
        )  # fmt: skip
    return needs


def _share_words(share: float) -> str:
    return "1/3" if share == STAR_SHARE else f"{share:g}"


def at_their_volts(
    needs: Mapping[str, Need], circuit: Circuit, job: Job, supply_of: Mapping[str, str]
) -> dict[str, Need]:
    """Return the needs with the volts between lines of the supply, for parts that its fault current flows through.

    `supply_of` names the extra supply of devices in power circuits that one feeds.

    Source:
        IEC 60947-1 4.3.1.1 (rated operational voltage), UL 508A 29.1, from memory.
    """
    made = {}
    for device, need in needs.items():
        known = circuit.index.get(device)
        extra = supply_of.get(device) or (known.owner if known is not None else None)
        made[device] = _at_volts(device, need, job.way_in(extra).volts) if need.strength_ka else need
    return made


@by_row
def _at_volts(_: str, need: Need, volts: float) -> Need:
    return replace(need, volts=volts)


_SET_BY_HAND = {"transformer_va": "va", "heater_power": "va", "fan_air": "air", "outlet_air": "air"}


def as_needed(needs: Mapping[str, Need], chosen: Chosen) -> dict[str, Need]:
    """Return the needs with those ratings that a person set in place of the computed ones."""
    made = {}
    for device, need in needs.items():
        override = chosen.get(value_key(device, need.quantity))
        if override is None:
            made[device] = need
            continue
        number, reason = override.number, override.reason
        name = _SET_BY_HAND.get(need.quantity, "amps")
        free: dict[str, Any] = {"most": 0.0, "hp": 0.0, "ac4": 0.0, "top": 0.0, name: number}
        made[device] = replace(
            need, **free, reason=reason, computed=getattr(need, name),
            formula=f"set by hand to {number:g}: {reason}. Computed: {need.formula}",
        )  # fmt: skip
    return made


_USUAL_QUANTITY = {"breaker": "protective_rating", "fuse": "protective_rating", "transformer": "transformer_va"}
_SET_TO_AMPS = frozenset({"motor-breaker", "overload"})
"""Kinds of which `amps` is what they are set to."""


def needs_of_own(job: Job, circuit: Circuit, asked: Mapping[str, Need]) -> dict[str, Need]:
    """Return what a person asked of their own devices, beside what their circuit asks of them."""
    found = {}
    for device in job.devices:
        if (
            not (device.amps or device.va)
            or "." in device.name
            or device.kind == "motor"
            or circuit.index[device.name].draws
        ):
            continue
        by_circuit = asked.get(device.name)
        usual = _USUAL_QUANTITY.get(device.kind, "rating")
        given = f"as given: {device.amps or device.va:g}{' A' if device.amps else ' VA'}"
        need = by_circuit or Need(quantity=usual, formula="", source="given")
        is_set = device.kind in _SET_TO_AMPS
        found[device.name] = replace(
            need, amps=0.0 if is_set else device.amps or 0.0, va=device.va or 0.0, most=0.0, top=0.0,
            setting=device.amps if is_set else None, hp=0.0, ac4=0.0, inrush_va=0.0,
            curves=(device.curve,) if device.curve else need.curves, asked=need.amps, limit=need.most,
            formula=f"{given}; {need.formula}" if need.formula else given,
            inputs={**need.inputs, "given": device.amps or device.va or 0.0},
            places={**need.places, "given": f"device.{device.name}.{'amps' if device.amps else 'va'}"},
        )  # fmt: skip
    return found


def needs_of_modules(
    job: Job, circuit: Circuit, known: Mapping[str, Need], parts: Mapping[str, Part]
) -> dict[str, Need]:
    """Return what the breakers and isolators of panel modules must be rated for: as given, else 2 A; on both sides of a transformer by
    the VA of the part taken.

    Source:
        Common practice, no source; NEC Table 450.3(B) with a secondary device, from memory.
    """
    needs = {}
    is_ul = job.practice.standard is Standard.UL
    curves = ("C", "inverse-time") if is_ul else ("B", "C")
    secondaries = {one.name: one.volts for one in job.excepted if one.volts}  # where no part is made for it
    for device in circuit.devices:
        if (
            device.kind not in {"breaker", "disconnect"}
            or device.owner is None
            or device.id in known
            or device.part is not None
        ):
            continue
        amps = device.least.get("amps", LEAST_CONTROL_A)
        given = "as given" if "amps" in device.least else "at least"
        if device.kind == "disconnect":
            needs[device.id] = Need(
                quantity="isolator_rating", amps=amps, formula=f"{given} {amps:g} A", source=CP_CONTROL,
                strength_ka=job.supply.available_ka,
            )  # fmt: skip
            continue
        transformer = parts.get(f"{device.owner}.T")
        if transformer is not None and device.role == "FP":
            needs[device.id] = _primary_of_module(job, transformer.rating("va"), is_ul=is_ul)
            continue
        if transformer is not None and "amps" not in device.least:
            volts = transformer.rating("volts") or secondaries.get(device.owner, job.supply.volts)
            needs[device.id] = _secondary_of_module(transformer.rating("va"), volts, curves, is_ul=is_ul)
            continue
        behind = (
            0.0 if transformer is not None else job.supply.available_ka
        )  # a transformer lets no more through than its breaker breaks
        needs[device.id] = Need(
            quantity="protective_rating", amps=amps, curves=curves, strength_ka=behind, source=CP_CONTROL, formula=f"{given} {amps:g} A",
        )  # fmt: skip
    return needs


def _primary_of_module(job: Job, va: float, *, is_ul: bool) -> Need:
    """Return what protects the primary of an excepted circuit's transformer: it rides through being switched on."""
    rated = va / job.supply.volts
    most = nec.transformer_limit_a("primary with secondary", rated) if is_ul else 0.0
    amps = 1.67 * rated if is_ul else max(LEAST_CONTROL_A, 2.0 * rated)
    ceiling = f"; at most 250 % = {format_number(most)} A" if is_ul else ""
    return Need(
        quantity="protective_rating", amps=amps, most=most, curves=("C", "D", "inverse-time") if is_ul else ("C", "D"),
        strength_ka=job.supply.available_ka, source=f"{nec.SOURCE_TRANSFORMER}; {CP_CONTROL}" if is_ul else CP_CONTROL,
        formula=f"{va:.4g} VA / {job.supply.volts:g} V = {format_number(rated)} A, switched on without a trip: at least "
        f"{format_number(amps)} A{ceiling}",
        inputs={"va": va, "volts": job.supply.volts},
    )  # fmt: skip


def _secondary_of_module(va: float, volts: float, curves: tuple[str, ...], *, is_ul: bool) -> Need:
    """Return what guards the transformer of an excepted circuit against overload: the largest that is made within its limit.

    Source:
        IEC 61558-1, IEC 60204-1:2016 7.2.7; NEC Table 450.3(B); from memory.
    """
    rated = va / volts
    most = nec.transformer_limit_a("secondary", rated) if is_ul else rated
    made = {p.rating("amps") for p in parts_of_kind("breaker") if p.traits.get("curve") in curves}
    amps = max((a for a in made if a <= most + 1e-9), default=min(made))
    return Need(
        quantity="protective_rating", amps=amps, most=most, curves=curves,
        source=str(nec.SOURCE_TRANSFORMER) if is_ul else "IEC 60204-1:2016 7.2.7, from memory",
        formula=f"{va:.4g} VA / {volts:g} V = {format_number(rated)} A of the transformer; at most {format_number(most)} A",
        inputs={"va": va, "volts": volts},
    )  # fmt: skip


def ride_through_a(full_load: float, motors: list[MotorSize], *, is_fuse: bool) -> float:
    """Return the least rating in A of fuses gG, or of a breaker D, that hold while the largest motor starts and the others run.

    Source:
        IEC 60269 gates and IEC 60898-1 Table 7, from memory.
    """
    largest = max(motors, key=lambda m: m.start, default=None)
    start = full_load - largest.current + largest.start if largest is not None else full_load
    return start / (
        iec_60269.start_multiple_held("gG") if is_fuse else iec_60898_1.instantaneous_band("D")[0] / sqrt(2)
    )


_RATED_BY = {
    "transformer_va": ("va", "VA"), "overload_range": ("amps_max", "A"), "fan_air": ("m3h", "m³/h"), "outlet_air": ("m3h", "m³/h"),
    "heater_power": ("va", "W"),
}  # fmt: skip


def rated_values(needs: Mapping[str, Need], parts: Mapping[str, Part]) -> list[SizedValue]:
    """Return the rating of each chosen part with the reason for it."""
    values = []
    for device, need in needs.items():
        if need.quantity in {"overload_range", "bond_section"} or device not in parts:
            continue
        name, unit = _RATED_BY.get(need.quantity, ("amps", "A"))
        rating = parts[device].rating(name) or parts[device].rating("amps_max")
        wanted = need.va or need.amps or need.top or need.setting or need.air
        values.append(
            SizedValue(
                subject=device, quantity=need.quantity, value=rating, unit=unit, source=need.source,
                formula=f"{need.formula}; chosen {rating:g} {unit}", inputs={"needed": round(wanted, 3), **need.inputs},
                places=need.places, needed=need.asked or wanted or None, most=need.limit or need.most or None, reason=need.reason,
                computed=need.computed,
            )
        )  # fmt: skip
    return values
