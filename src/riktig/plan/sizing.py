"""Owns what a sized value is and how motors are sized. Must not know parts or conductors."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from math import sqrt

from riktig.job.model import Job, Standard, Starter
from riktig.standards import iec_60898_1, iec_60947_4_1, nec
from riktig.units.numbers import format_number

KW_PER_HP = 0.7457
START_RATIO = 7.2
SOURCE_START = "start current 7.2 times rated for 5 s: common practice, no source"
_ESTIMATE = (0.75, 0.78)
DELTA_SHARE, STAR_SHARE = 0.577, 0.333
"""Shares of the motor current that the delta contacts and windings, and the star contactor, carry: 1/√3 and 1/3."""


def overload_role(starter: Starter) -> str:
    """Return the part that is set to the motor's current: the overload relay, or the drive or soft starter."""
    return "A" if starter.kind in {"drive", "soft"} else "F"


@dataclass(frozen=True, slots=True, kw_only=True)
class SizedValue:
    """A value with its reason. `formula` has the numbers put in, `inputs` names them, `subject` is a device id."""

    subject: str
    quantity: str
    value: float
    unit: str
    formula: str
    source: str
    inputs: Mapping[str, float | str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class MotorSize:
    """Currents of a motor in A: `current` as the nameplate or table says, `table` as conductors are sized by,
    `setting` of the overload, `protection` the least rating of its breaker (IEC) or the largest allowed (UL),
    `carry` what the conductor must carry. `is_estimated`: no table reaches this motor.
    """

    current: float
    table: float
    setting: float
    protection: float
    carry: float
    protection_formula: str
    protection_source: str
    is_estimated: bool
    values: tuple[SizedValue, ...]


def size_motor(starter: Starter, job: Job) -> MotorSize:
    """Return the currents of a starter's motor with their reasons."""
    is_iec = job.practice.standard is Standard.IEC
    table, is_estimated = _table_current(starter, job)
    current = starter.amps if starter.amps is not None else table.value
    nameplate = SizedValue(
        subject=starter.name, quantity="motor_current", value=round(current, 3), unit="A",
        formula=f"nameplate: {current:g} A", source="nameplate, as given", inputs={"amps": current},
    )  # fmt: skip
    motor_current = nameplate if starter.amps is not None else table
    setting = _setting(starter, current, is_iec)
    whole = current if is_iec else table.value
    least, formula, source = _protection(whole, is_iec)
    carry = current if is_iec else 1.25 * table.value
    return MotorSize(
        current=current, table=table.value, setting=setting.value, carry=carry, protection=least,
        protection_formula=formula, protection_source=source, values=(motor_current, setting),
        is_estimated=is_estimated and starter.amps is None,
    )  # fmt: skip


def _table_current(starter: Starter, job: Job) -> tuple[SizedValue, bool]:
    """Return the current by table or power, and whether it is a mere estimate."""
    kw = starter.kw if starter.kw is not None else (starter.hp or 0) * KW_PER_HP
    hp = starter.hp if starter.hp is not None else kw / KW_PER_HP
    is_three = starter.phases == 3
    way_in = job.way_in(starter.power)
    volts = way_in.volts if is_three or way_in.system != "3ph+n" else way_in.line_to_neutral
    if starter.efficiency is not None and starter.cos_phi is not None:
        sized = _by_power(starter.name, kw, volts, starter.efficiency, starter.cos_phi, is_three=is_three)
        return sized, False
    if job.practice.standard is Standard.IEC and is_three:
        amps, power, source = (
            iec_60947_4_1.rated_motor_current_a(kw, volts),
            f"{kw:.4g} kW",
            iec_60947_4_1.SOURCE_CURRENT,
        )
    else:
        amps, power, source = nec.motor_current_a(hp, volts, starter.phases), f"{hp:.4g} hp", nec.SOURCE_MOTOR
    if amps is None:
        return _by_power(starter.name, kw, volts, *_ESTIMATE, is_three=is_three), True
    sized = SizedValue(
        subject=starter.name, quantity="motor_current", value=round(amps, 3), unit="A", source=source,
        formula=f"table: {power} at {volts:g} V is {format_number(amps)} A", inputs={"power": power, "volts": volts},
    )  # fmt: skip
    return sized, False


def _by_power(
    subject: str, kw: float, volts: float, efficiency: float, cos_phi: float, *, is_three: bool
) -> SizedValue:
    root = sqrt(3) if is_three else 1.0
    amps = kw * 1000 / (root * volts * efficiency * cos_phi)
    sign = "√3 · " if is_three else ""
    formula = f"{kw:g} kW / ({sign}{volts:g} V · {efficiency:g} · {cos_phi:g}) = {format_number(amps)} A"
    return SizedValue(
        subject=subject, quantity="motor_current", value=round(amps, 3), unit="A", formula=formula,
        source="P = √3 · U · I · cos φ · η, IEC 60034-1",
        inputs={"kw": kw, "volts": volts, "efficiency": efficiency, "cos_phi": cos_phi},
    )  # fmt: skip


def _setting(starter: Starter, current: float, is_iec: bool) -> SizedValue:
    is_delta = starter.kind == "star-delta"
    through = current * DELTA_SHARE if is_delta else current
    share = f"{DELTA_SHARE:g} · {format_number(current)} A" if is_delta else f"{format_number(current)} A"
    setting = through if is_iec else nec.overload_trip_a(through, starter.service_factor)
    if is_iec:
        formula = f"setting = motor current = {share}"
        formula += f" = {format_number(setting)} A, the overload lies in one winding" if is_delta else ""
        source = "IEC 60947-4-1 8.2.1.5, from memory"
    else:
        factor = setting / through
        formula = f"{factor:.0%} of {share} = {format_number(setting)} A"
        source = nec.SOURCE_OVERLOAD
    return SizedValue(
        subject=f"{starter.name}.{overload_role(starter)}", quantity="overload_setting", value=round(setting, 3), unit="A", formula=formula,
        source=source, inputs={"motor_current": current, "service_factor": starter.service_factor},
    )  # fmt: skip


def _protection(amps: float, is_iec: bool) -> tuple[float, str, str]:
    """Return the rating in A asked of the breaker, with formula and source."""
    if is_iec:
        least = max(1.6 * amps, 0.5)
        formula = (
            f"at least 1.6 · {format_number(amps)} A = {format_number(least)} A, curve D, to ride through a start of "
            f"{START_RATIO:g} · {format_number(amps)} A = {format_number(START_RATIO * amps)} A"
        )
        return least, formula, f"{iec_60898_1.SOURCE_CURVES}; {SOURCE_START}"
    rating = nec.branch_breaker_a(amps)
    least = rating if rating is not None else 2.5 * amps
    formula = f"250 % of {format_number(amps)} A = {format_number(2.5 * amps)} A, next standard rating {least:g} A"
    return least, formula, nec.SOURCE_BRANCH
