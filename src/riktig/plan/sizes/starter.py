"""Owns all sizes of one motor's circuit that do not depend on other parts of the Job. Must not know parts.

They are kept by starter and circumstances, so that a changed motor is the only one that is sized again.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from math import sqrt
from typing import Any

from riktig.catalogue.loader import parts_of_kind
from riktig.job.entries import Override
from riktig.job.model import Job, Starter
from riktig.job.roles import protection_of
from riktig.plan.basis.conductor import (
    Laid,
    carries_a,
    carry_words,
    fitting_sizes,
    laid_outside,
    largest_size,
    source_of,
)
from riktig.plan.basis.motor import DELTA_SHARE, MotorSize, MotorWorld, size_motor
from riktig.plan.basis.sized import Chosen, SizedValue, chosen_values, decide
from riktig.plan.circuit.model import Circuit
from riktig.plan.circuit.power import PowerCircuit
from riktig.plan.sizes.needs import Need
from riktig.plan.sizes.ratings import needs_of_motor
from riktig.standards import iec_60204_1, iec_60228
from riktig.standards.tables import own_digests
from riktig.units.conductor_size import AWG_SIZES, METRIC_MM2, ConductorSize, from_awg, from_mm2
from riktig.units.numbers import format_number

DROP_LIMIT_PERCENT, START_DROP_LIMIT_PERCENT = 5.0, 15.0
COS_PHI, START_COS_PHI = 0.8, 0.35
_SOURCE_START_DROP = f"limit {START_DROP_LIMIT_PERCENT:g} % while starting, cos φ {START_COS_PHI:g}: common practice"
_KEPT = 4096


@dataclass(frozen=True, slots=True, kw_only=True)
class StarterWorld:
    """What a starter's sizes depend on beside itself: `metres` is the way to its motor."""

    motor: MotorWorld
    inside: Laid
    outside: Laid
    metres: float
    chosen: tuple[tuple[str, Override], ...]
    tables: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class StarterSizes:
    """Sizes of one motor's circuit: what its parts must be rated for by device id, `line` from the mains to it, `leads` from it to
    its terminals, `cable` to the motor. `starter` is what is stated of the motor, `world` what its sizes depend on beside.
    """

    starter: Starter
    world: "StarterWorld"
    motor: MotorSize
    needs: Mapping[str, Need]
    line: ConductorSize
    leads: ConductorSize
    cable: ConductorSize
    values: tuple[SizedValue, ...]


def size_starters(
    job: Job, circuit: Circuit, circuits: Mapping[str, PowerCircuit], inside: Laid
) -> dict[str, StarterSizes]:
    """Return the sizes of every motor's circuit by its name: of starters, and of motors that stand in plain circuit."""
    chosen, tables = chosen_values(job), own_digests()
    found = {}
    for name, one in circuits.items():
        if one.is_motor and one.supply is not None:
            starter = stated_motor(job, circuit, one)
            if starter.kw or starter.hp or starter.amps:
                world = _world(starter, one, job, circuit, inside, chosen, tables)
                found[name] = size_starter(starter, world)
    return found


def stated_motor(job: Job, circuit: Circuit, one: PowerCircuit) -> Starter:
    """Return what is stated of a motor as a starter states it; one that stands in plain circuit has what its device and paths say."""
    starter, device = job.starter(one.load), circuit.index[one.load]
    if starter is not None and not one.is_read:
        return starter
    has_drive = next((circuit.index[d].kind for d in one.of_role("A")), None)
    kind = {"drive": "drive", "soft-starter": "soft"}.get(has_drive or "", "star-delta" if one.is_star_delta else "dol")
    if starter is not None and kind == "dol" and starter.kind in {"dol", "pump", "reversing"}:
        kind = starter.kind
    lines = [line for line in one.lines if line.rpartition(".")[2] != "N"]
    stated = next((d for d in job.devices if d.name == one.load), None)
    read: dict[str, Any] = {
        "kind": kind, "power": one.supply or None, "phases": 3 if len(lines) >= 3 else 1, "motor_at": device.location,
        "isolator": bool(one.of_role("QM")),
        **({key: getattr(stated, key) for key in ("kw", "hp", "amps")} if stated is not None else {}),
    }  # fmt: skip
    if starter is not None:
        return starter.model_copy(update=read)
    own = next((d for d in job.devices if d.name == one.protection), None)
    curve = own.curve if own is not None and own.curve in _MOTOR_CURVES else None
    read |= {"name": one.load, "supply": "", "title": device.title, "curve": curve}
    return Starter.model_construct(**read)


_MOTOR_CURVES = frozenset({"B", "C", "D", "gG", "aM", "dual-element", "nontime-delay"})
_MAGNETIC = frozenset({"MA", "instantaneous"})


def _protection_sort(starter: Starter, one: PowerCircuit, job: Job, circuit: Circuit) -> str:
    """Return the sort of what protects a motor: as its starter says, else the kind of the device in its circuit."""
    stated = job.starter(one.load)
    if not one.is_read and stated is not None:
        return protection_of(starter, job)
    device = circuit.index.get(one.protection or "")
    if device is None or device.kind not in {"fuse", "motor-breaker"}:
        as_said = protection_of(stated, job) if stated is not None else "breaker"
        is_magnetic = as_said == "magnetic" or (device is not None and device.wants.get("curve") in _MAGNETIC)
        return "magnetic" if is_magnetic else "breaker"
    return device.kind


def _overload_role(one: PowerCircuit, circuit: Circuit) -> str:
    """Return the role of what is set to a motor's current: a relay, a drive or soft starter, a motor breaker; "" for none."""
    if one.of_role("F"):
        return "F"
    if one.of_role("A"):
        return "A"
    protection = circuit.index.get(one.protection or "")
    return "Q" if protection is not None and protection.kind == "motor-breaker" else ""


def _world(
    starter: Starter,
    one: PowerCircuit,
    job: Job,
    circuit: Circuit,
    inside: Laid,
    chosen: Chosen,
    tables: tuple[str, ...],
) -> StarterWorld:
    place = job.location(starter.motor_at)
    outside = laid_outside(job, starter.motor_at)
    motor = MotorWorld(
        standard=job.practice.standard, way_in=job.way_in(starter.power), devices=one.devices,
        protection=_protection_sort(starter, one, job, circuit), overload=_overload_role(one, circuit),
        is_overload_in_line=one.is_overload_in_line,
        inside_c=job.enclosure.ambient + job.enclosure.inside_rise,
        given=tuple((d.name, d.amps) for d in job.devices if d.kind == "overload" and d.amps and d.name in one.of_role("F")),
    )  # fmt: skip
    own = tuple(f"{device}|" for device, _ in one.devices) + (f"{starter.name}|",)
    return StarterWorld(
        motor=motor, inside=inside.of(starter.name), tables=tables, metres=place.distance if place is not None else 20.0,
        outside=replace(outside, grouped=2 * outside.grouped) if starter.kind == "star-delta" else outside,
        chosen=tuple((k, v) for k, v in chosen.items() if k.startswith(own)),
    )  # fmt: skip


@lru_cache(maxsize=_KEPT)
def size_starter(starter: Starter, world: StarterWorld) -> StarterSizes:
    """Return all sizes of one starter."""
    chosen = dict(world.chosen)
    motor = size_motor(starter, world.motor, chosen)
    line, line_value = _inside(starter, motor.carry, world, chosen)
    share = DELTA_SHARE if motor.is_star_delta else 1.0
    leads, lead_values = _leads(starter, share * motor.carry, world, chosen) if share != 1.0 else (line, ())
    cable, cable_values = _cable(starter, motor, share, world, chosen)
    asked = needs_of_motor(starter, motor, world.motor, chosen)
    ahead = _ahead_of_drive(starter, line, asked, world)
    needs = {
        device: replace(need, mm2=(leads if _is_behind(device, motor, world.motor) else ahead).mm2)
        for device, need in asked.items()
    }
    return StarterSizes(
        starter=starter, world=world, motor=motor, needs=needs, line=line, leads=leads, cable=cable,
        values=(*motor.values, line_value, *lead_values, *cable_values),
    )  # fmt: skip


def _ahead_of_drive(
    starter: Starter, line: ConductorSize, needs: Mapping[str, Need], world: StarterWorld
) -> ConductorSize:
    """Return the conductors that clamps ahead of a motor's drive must hold.

    Source:
        In North America 125 % of the drive's input, taken as its rating: NEC 430.122(A), from memory.
    """
    asked = max((need.amps for need in needs.values() if need.quantity == "drive_rating"), default=0.0)
    if starter.kind != "drive" or world.inside.is_iec or not asked:
        return line
    rating = min((p.rating("amps") for p in parts_of_kind("drive") if p.rating("amps") >= asked - 1e-9), default=asked)
    size = next(fitting_sizes(1.25 * rating, world.inside, is_power=True), line)
    return max(line, size, key=lambda s: s.mm2)


def _is_behind(device: str, motor: MotorSize, world: MotorWorld) -> bool:
    """Return whether only the wires of one winding of a star-delta motor land on a device."""
    behind = ("KS", "QM", "F") if world.is_overload_in_winding else ("KS", "QM")
    return motor.is_star_delta and device in world.of_role(*behind)


def size_of_mm2(mm2: float, *, metric: bool) -> ConductorSize:
    """Return the size that a person meant by an area: the nearest gauge, or the nearest metric section."""
    if metric:
        return from_mm2(min(METRIC_MM2, key=lambda m: abs(m - mm2)))
    return min((from_awg(awg) for awg in AWG_SIZES), key=lambda size: abs(size.mm2 - mm2))


def section_value(
    subject: str,
    quantity: str,
    size: ConductorSize,
    laid: Laid,
    needed: float,
    *,
    words: str = "",
    places: Mapping[str, str] | None = None,
) -> SizedValue:
    """Return a section in mm2 with what it carries and what it must carry."""
    carries = carries_a(size, laid)
    formula = carry_words(size, laid, needed)
    if carries is None or carries < needed - 1e-9:
        formula = f"no listed section carries {format_number(needed)} A; {formula}"
    return SizedValue(
        subject=subject, quantity=quantity, value=size.mm2, unit="mm2", formula=f"{words}{formula}",
        source=source_of(laid, size.mm2), needed=needed, carries=carries or 0.0,
        inputs={"size": size.label(), "current": round(needed, 3), "air": laid.air_c, "grouped": laid.grouped},
        places={
            "current": subject, "air": "enclosure.inside_rise" if laid.is_inside else "enclosure.ambient",
            "grouped": "practice.grouped", **(places or {}),
        },
    )  # fmt: skip


def as_decided(value: SizedValue, size: ConductorSize, laid: Laid, chosen: Chosen) -> tuple[ConductorSize, SizedValue]:
    """Return the size and its value as a person set it, or as they are."""
    made = decide(value, chosen)
    if made.reason is None:
        return size, value
    given = size_of_mm2(made.value, metric=laid.metric)
    again = section_value(value.subject, value.quantity, given, laid, value.needed or 0.0, places=value.places)
    formula = f"set by hand: {made.reason}. {again.formula}. Computed: {size.label()}"
    fields = {name: getattr(again, name) for name in SizedValue.__dataclass_fields__}
    return given, SizedValue(**{**fields, "formula": formula, "reason": made.reason, "computed": size.mm2})


def _inside(starter: Starter, carry: float, world: StarterWorld, chosen: Chosen) -> tuple[ConductorSize, SizedValue]:
    size = next(fitting_sizes(carry, world.inside, is_power=True), None) or largest_size(world.inside)
    words = "" if world.inside.is_iec else f"125 % of {format_number(carry / 1.25)} A; "
    value = section_value(starter.name, "conductor_section", size, world.inside, carry, words=words)
    return as_decided(value, size, world.inside, chosen)


def _leads(
    starter: Starter, carry: float, world: StarterWorld, chosen: Chosen
) -> tuple[ConductorSize, tuple[SizedValue, ...]]:
    """Return the conductors between the contactors of a star-delta starter and its terminals: each leads one winding."""
    size = next(fitting_sizes(carry, world.inside, is_power=True), None) or largest_size(world.inside)
    words = f"{DELTA_SHARE:g} of the current in each of six leads; "
    value = section_value(starter.name, "lead_section", size, world.inside, carry, words=words)
    size, value = as_decided(value, size, world.inside, chosen)
    return size, (value,)


def _cable(
    starter: Starter, motor: MotorSize, share: float, world: StarterWorld, chosen: Chosen
) -> tuple[ConductorSize, tuple[SizedValue, ...]]:
    """Return the motor cable: the smallest that carries the current and drops little enough, running and starting."""
    carry, laid = share * motor.carry, world.outside
    size = largest_size(laid)
    for candidate in fitting_sizes(carry, laid, is_power=True):
        size = candidate
        running, starting = (v.value for v in drops_of(starter, motor, candidate, world))
        if running <= DROP_LIMIT_PERCENT and starting <= START_DROP_LIMIT_PERCENT:
            break
    place = {"length_m": f"location.{starter.motor_at}.distance", "grouped": f"location.{starter.motor_at}.grouped"}
    words = f"{DELTA_SHARE:g} of the current in each of six cores; " if share != 1.0 else ""
    value = section_value(starter.name, "cable_section", size, laid, carry, words=words, places=place)
    size, value = as_decided(value, size, laid, chosen)
    return size, (value, *(decide(v, chosen) for v in drops_of(starter, motor, size, world)))


def drop_volts(starter: Starter, world: StarterWorld) -> float:
    """Return the volts that a drop is told in percent of."""
    way_in = world.motor.way_in
    return way_in.volts if starter.phases == 3 or way_in.system != "3ph+n" else way_in.line_to_neutral


def drops_of(
    starter: Starter, motor: MotorSize, size: ConductorSize, world: StarterWorld
) -> tuple[SizedValue, SizedValue]:
    """Return the voltage drop of a motor cable in percent, running and starting.

    The six cores of a star-delta motor lead each winding's current there and back: 0.577 of the motor current between lines in
    delta; all of the start current in star, of the volts of a line to the star point.
    """
    lines = drop_volts(starter, world)
    is_six = motor.is_star_delta
    found = []
    for quantity, through, volts, cos_phi, limit, source in (
        ("voltage_drop", (DELTA_SHARE if is_six else 1.0) * motor.current, lines, starter.cos_phi or COS_PHI,
         DROP_LIMIT_PERCENT, str(iec_60204_1.SOURCE_DROP)),
        ("start_drop", motor.start, lines / sqrt(3) if is_six else lines, START_COS_PHI, START_DROP_LIMIT_PERCENT,
         _SOURCE_START_DROP),
    ):  # fmt: skip
        phases = 1 if is_six else starter.phases
        drop = iec_60228.voltage_drop_v(through, world.metres, size.mm2, cos_phi, phases=phases)
        sign = "√3" if phases == 3 else "2"
        ohm = iec_60228.resistance_ohm_per_m(size.mm2, iec_60228.HOT_C)
        formula = (
            f"{sign} · {format_number(through)} A · {world.metres:g} m · ({ohm:.4g} Ω/m · {cos_phi:g} + "
            f"{iec_60228.REACTANCE_OHM_PER_M:g} Ω/m · sin φ) = {format_number(drop)} V of {format_number(volts)} V"
        )
        found.append(
            SizedValue(
                subject=starter.name, quantity=quantity, value=round(100 * drop / volts, 3), unit="%", formula=formula,
                most=limit, source=f"IEC 60364-5-52 Annex G; {iec_60228.SOURCE_RESISTANCE} at 70 °C; {source}",
                inputs={"current": round(through, 3), "length_m": world.metres, "section": size.label(), "volts": round(volts, 1)},
                places={"current": starter.name, "length_m": f"location.{starter.motor_at}.distance",
                        "volts": "supply.volts"},
            )
        )  # fmt: skip
    return found[0], found[1]
