"""Owns how motors are sized: current, setting, start, and what may protect them. Must not know parts or conductors."""

from collections.abc import Mapping
from dataclasses import dataclass
from math import sqrt

from riktig.job.model import Starter
from riktig.job.modules import WayIn
from riktig.job.practice import Standard
from riktig.plan.basis.sized import Chosen, SizedValue, decide
from riktig.standards import iec_60269, iec_60898_1, iec_60947_4_1, nec
from riktig.units.numbers import format_number

KW_PER_HP = 0.7457
START_RATIO = 7.2
SOURCE_START = (
    "a start of 7.2 times the rated current: IEC 60947-4-1, from memory; for 5 s on 1.6 times: common practice"
)
_ESTIMATE = (0.75, 0.78)
DELTA_SHARE, STAR_SHARE = 0.577, 1 / 3
"""Shares of the motor current that line and delta contactor and the windings, and the star contactor, carry: 1/√3 and 1/3."""
SHARES = {"K": DELTA_SHARE, "KD": DELTA_SHARE, "KS": STAR_SHARE}
"""What each contactor of a star-delta starter carries of the motor current."""
_SOFT_RATIO, _DRIVE_RATIO = 3.5, 1.5
_THERMAL_HOLD, _LEAST_HOLD, _HOLD_SECONDS = 1.6, 1.25, 5.0
_TRIP_BANDS = {"breaker": "D", "magnetic": "MA", "motor-breaker": "M"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Protection:
    """What may protect a motor: `least` and `most` rating in A (0: no limit), `top` the least upper end of a motor
    breaker's range, `curves` the characteristics, with the reason.
    """

    least: float
    most: float
    top: float
    curves: tuple[str, ...]
    formula: str
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MotorSize:
    """Currents of a motor in A: `current` as the nameplate or table says, `table` as conductors are sized by, `dials` of its
    overloads by their device and `setting`, the largest of them, `ahead` those of motor breakers that stand ahead of another overload,
    `start` while it starts as the supply sees it, `carry` what the conductor must carry. `start_multiple` is how many times its setting
    the overload sees while the motor starts, `trip_class` that of the overload, None if no class lets it start, `hp` its power, 0 where
    only its current is stated. `is_estimated`: no table reaches this motor.
    """

    current: float
    table: float
    setting: float
    dials: Mapping[str, float]
    ahead: Mapping[str, float]
    start: float
    carry: float
    start_multiple: float
    trip_class: str | None
    protection: Protection
    is_estimated: bool
    is_star_delta: bool
    hp: float
    values: tuple[SizedValue, ...]

    @property
    def settings(self) -> dict[str, float]:
        """All that somebody sets for this motor, in A by device."""
        return {**self.dials, **self.ahead}


@dataclass(frozen=True, slots=True, kw_only=True)
class MotorWorld:
    """All that a motor's size depends on beside its starter: standard, way in, the sort of `protection` and the role of what is its
    `overload`, "" where it has none. `devices` are its circuit, (id, role) from the supply on; `is_overload_in_line`: ahead of where
    star and delta part. `inside_c` is the air in the panel in degC, `given` what a person set overload relays to, in A.
    """

    standard: Standard
    way_in: WayIn
    protection: str
    overload: str
    devices: tuple[tuple[str, str], ...] = ()
    is_overload_in_line: bool = False
    inside_c: float = 40.0
    given: tuple[tuple[str, float], ...] = ()

    @property
    def is_iec(self) -> bool:
        return self.standard is Standard.IEC

    def of_role(self, *roles: str) -> tuple[str, ...]:
        """Return the devices of some roles, from the supply on."""
        return tuple(device for device, role in self.devices if role in roles)

    @property
    def is_overload_in_winding(self) -> bool:
        """Whether a star-delta motor's overload would see the current of a winding."""
        return self.overload == "F" and not self.is_overload_in_line


def size_motor(starter: Starter, world: MotorWorld, chosen: Chosen) -> MotorSize:
    """Return the currents of a starter's motor with their reasons.

    Args:
        starter: the starter.
        world: what it depends on beside.
        chosen: sizes that people set, as in the ledger.
    """
    nameplate = starter.amps
    if nameplate is not None and starter.kw is None and starter.hp is None:
        table, is_estimated = _nameplate(starter, nameplate), False
    else:
        table, is_estimated = _table_current(starter, world)
    motor_current = decide(table if nameplate is None else _nameplate(starter, nameplate), chosen)
    current = motor_current.value
    table_a = table.value if nameplate is not None or motor_current.reason is None else current
    devices = world.of_role(world.overload) or (f"{starter.name}.{world.overload}",)
    dials = tuple(decide(_setting(starter, current, world, device), chosen) for device in devices)
    setting = max(dials, key=lambda dial: dial.value)
    is_ahead = world.protection == "motor-breaker" and world.overload not in {"", "Q"}
    ahead = tuple(decide(_setting_ahead(starter, current, device), chosen) for device in world.of_role("Q") if is_ahead)
    whole = current if world.is_iec else table_a
    in_winding = world.is_overload_in_winding
    carry = (
        max(current, setting.value / _line_share(starter, in_winding=in_winding)) if world.is_iec else 1.25 * table_a
    )
    values = (motor_current, *dials, *ahead) if world.overload else (motor_current,)
    return MotorSize(
        current=current, table=table_a, setting=setting.value, start=start_ratio(starter) * current, carry=carry,
        dials={dial.subject: dial.value for dial in dials} if world.overload else {},
        ahead={dial.subject: dial.value for dial in ahead},
        start_multiple=start_multiple(starter, in_winding=in_winding), trip_class=trip_class_of(starter, in_winding=in_winding),
        protection=protect(starter, whole, world), is_star_delta=starter.kind == "star-delta", values=values, hp=motor_hp(starter),
        is_estimated=is_estimated and nameplate is None and motor_current.reason is None,
    )  # fmt: skip


def _line_share(starter: Starter, *, in_winding: bool) -> float:
    """Return what the overload sees of the current in the line ahead of the starter."""
    return DELTA_SHARE if starter.kind == "star-delta" and in_winding else 1.0


def start_ratio(starter: Starter) -> float:
    """Return the start current over the rated one, as the supply sees it; a given one is the motor's own.

    Source:
        7.2 times: IEC 60947-4-1 Table 2; a third of it in star; 3.5 times through a soft starter and 1.5 times through a
        drive: common practice, from memory.
    """
    usual = {"soft": _SOFT_RATIO, "drive": _DRIVE_RATIO}.get(starter.kind, START_RATIO)
    ratio = starter.start_ratio or usual
    return ratio / 3 if starter.kind == "star-delta" else ratio


def start_multiple(starter: Starter, *, in_winding: bool) -> float:
    """Return the multiple of its setting that an overload sees while the motor starts.

    In star it sees a third of the start current; an overload relay behind the main contactor lies in a winding and is set to 1/√3 of
    the rated one, a motor breaker lies in the line and is set to all of it.
    """
    return start_ratio(starter) / _line_share(starter, in_winding=in_winding)


def trip_class_of(starter: Starter, *, in_winding: bool = True) -> str | None:
    """Return the trip class of its overload: as given, else the fastest that lets it start; None if none does."""
    multiple = start_multiple(starter, in_winding=in_winding)
    return starter.trip_class or iec_60947_4_1.trip_class_for(starter.start_seconds, multiple)


def _nameplate(starter: Starter, amps: float) -> SizedValue:
    return SizedValue(
        subject=starter.name, quantity="motor_current", value=round(amps, 3), unit="A", source="nameplate, as given",
        formula=f"nameplate: {amps:g} A", inputs={"amps": amps}, places={"amps": f"starter.{starter.name}.amps"},
    )  # fmt: skip


def motor_hp(starter: Starter) -> float:
    """Return the motor's power in hp."""
    return starter.hp if starter.hp is not None else (starter.kw or 0.0) / KW_PER_HP


def _table_current(starter: Starter, world: MotorWorld) -> tuple[SizedValue, bool]:
    """Return the current by table or power, and whether it is a mere estimate."""
    kw = starter.kw if starter.kw is not None else (starter.hp or 0) * KW_PER_HP
    hp = motor_hp(starter)
    is_three = starter.phases == 3
    way_in = world.way_in
    volts = way_in.volts if is_three or way_in.system != "3ph+n" else way_in.line_to_neutral
    if starter.efficiency is not None and starter.cos_phi is not None:
        return _by_power(starter, kw, volts, starter.efficiency, starter.cos_phi), False
    if world.is_iec and is_three:
        amps, power = iec_60947_4_1.rated_motor_current_a(kw, volts), f"{kw:.4g} kW"
        source = str(iec_60947_4_1.SOURCE_CURRENT)
    else:
        amps, power, source = nec.motor_current_a(hp, volts, starter.phases), f"{hp:.4g} hp", str(nec.SOURCE_MOTOR)
    if amps is None:
        return _beyond_table(starter, kw, volts, is_iec=world.is_iec) or _by_power(starter, kw, volts, *_ESTIMATE), True
    sized = SizedValue(
        subject=starter.name, quantity="motor_current", value=round(amps, 3), unit="A", source=source,
        formula=f"table: {power} at {volts:g} V is {format_number(amps)} A", inputs={"power": power, "volts": volts},
        places=_places(starter),
    )  # fmt: skip
    return sized, False


def _beyond_table(starter: Starter, kw: float, volts: float, *, is_iec: bool) -> SizedValue | None:
    """Return the current of a motor larger than all of the table, as much for each kW as the largest of it draws; None for any other.

    Source:
        Efficiency and cos phi change little between large motors: common practice, no source.
    """
    largest = iec_60947_4_1.listed_powers_kw()[-1] if is_iec else nec.listed_powers_hp()[-1] * KW_PER_HP
    known = (
        iec_60947_4_1.rated_motor_current_a(largest, volts)
        if is_iec
        else nec.motor_current_a(largest / KW_PER_HP, volts)
    )
    if starter.phases != 3 or kw <= largest or known is None:
        return None
    amps = known * kw / largest
    return SizedValue(
        subject=starter.name, quantity="motor_current", value=round(amps, 3), unit="A", places=_places(starter),
        formula=f"beyond the table: {format_number(known)} A · {kw:g} kW / {largest:.4g} kW = {format_number(amps)} A",
        source="as the largest motor of its table, common practice, no source", inputs={"kw": kw, "volts": volts},
    )  # fmt: skip


def _places(starter: Starter) -> dict[str, str]:
    """Return where power and volts of a motor are decided."""
    key = f"starter.{starter.name}"
    supply = f"extra_supply.{starter.power}" if starter.power else "supply"
    power = f"{key}.kw" if starter.kw is not None else f"{key}.hp"
    return {
        "power": power, "kw": power, "volts": f"{supply}.volts", "efficiency": f"{key}.efficiency",
        "cos_phi": f"{key}.cos_phi",
    }  # fmt: skip


def _by_power(starter: Starter, kw: float, volts: float, efficiency: float, cos_phi: float) -> SizedValue:
    is_three = starter.phases == 3
    root = sqrt(3) if is_three else 1.0
    amps = kw * 1000 / (root * volts * efficiency * cos_phi)
    sign = "√3 · " if is_three else ""
    formula = f"{kw:g} kW / ({sign}{volts:g} V · {efficiency:g} · {cos_phi:g}) = {format_number(amps)} A"
    return SizedValue(
        subject=starter.name, quantity="motor_current", value=round(amps, 3), unit="A", formula=formula,
        source="P = √3 · U · I · cos φ · η, IEC 60034-1", places=_places(starter),
        inputs={"kw": kw, "volts": volts, "efficiency": efficiency, "cos_phi": cos_phi},
    )  # fmt: skip


def _setting(starter: Starter, current: float, world: MotorWorld, device: str) -> SizedValue:
    """Return where the dial of an overload stands: at the nameplate current, in both worlds, or where a person set it.

    Source:
        IEC 60947-4-1 8.2.1.5. NEC 430.32(A)(1) limits where a relay trips, 115 or 125 % of the nameplate current: relays to UL
        60947-4-1 trip above their dial by themselves, common practice.
    """
    share = _line_share(starter, in_winding=world.is_overload_in_winding)
    setting = current * share
    formula = f"dial at the motor's current, {format_number(current)} A"
    if share != 1.0:
        formula = f"dial at {share:g} · {format_number(current)} A = {format_number(setting)} A, the overload lies in one winding"
    given = dict(world.given).get(device)
    if given is not None:
        setting, formula = given, f"as given: {given:g} A; {formula}"
    inputs: dict[str, float | str] = {"motor_current": current}
    if not world.is_iec:
        limit = nec.overload_trip_a(setting, starter.service_factor)
        formula += f"; it may trip at {limit / setting:.0%} = {format_number(limit)} A at the latest"
        inputs |= {"service_factor": starter.service_factor, "trip_limit": round(limit, 3)}
    return SizedValue(
        subject=device, quantity="overload_setting", value=round(setting, 3), unit="A", formula=formula, inputs=inputs,
        source=str(iec_60947_4_1.SOURCE_SETTING if world.is_iec else nec.SOURCE_OVERLOAD),
        places={"motor_current": starter.name, "service_factor": f"starter.{starter.name}.service_factor"},
    )  # fmt: skip


def _setting_ahead(starter: Starter, current: float, device: str) -> SizedValue:
    """Return where the dial of a motor breaker stands that only protects what leads to another overload.

    Source:
        The conductors by IEC 60204-1:2016 7.2.10; what a drive draws is taken as the current of its motor, its maker's figure goes
        before: common practice, no source.
    """
    words = "what its drive draws, taken as " if starter.kind == "drive" else ""
    beyond = (
        "; the drive maker's input current goes before"
        if starter.kind == "drive"
        else "; the motor has an overload of its own"
    )
    return SizedValue(
        subject=device, quantity="overload_setting", value=round(current, 3), unit="A", source=str(iec_60947_4_1.SOURCE_SETTING),
        formula=f"dial at {words}the motor's current, {format_number(current)} A{beyond}", inputs={"motor_current": current},
        places={"motor_current": starter.name},
    )  # fmt: skip


def protect(starter: Starter, amps: float, world: MotorWorld) -> Protection:
    """Return what may protect a motor of `amps` rated (IEC) or table (North America) current."""
    kind = world.protection
    if kind == "motor-breaker":
        return _motor_breaker(starter, amps, world)
    if not world.is_iec:
        return _north_american(starter, amps, kind)
    if kind == "fuse":
        return _iec_fuse(starter, amps)
    return _iec_breaker(starter, amps, starter.curve or _TRIP_BANDS[kind])


def _start_words(starter: Starter, amps: float) -> str:
    ratio = start_ratio(starter)
    return f"a start of {ratio:.3g} · {format_number(amps)} A = {format_number(ratio * amps)} A for {starter.start_seconds:g} s"


def _iec_breaker(starter: Starter, amps: float, curve: str) -> Protection:
    """Return the least rating whose thermal release lets the start go on and whose magnetic one ignores its peak.

    Source:
        Bands of IEC 60898-1 Table 7; 1.6 times for a start of 7.2 times and 5 s, the square root of its time beyond, and
        the peak √2 times the start current: common practice.
    """
    ratio, seconds = start_ratio(starter), starter.start_seconds
    holds, _ = iec_60898_1.instantaneous_band(curve)
    slow = max(_LEAST_HOLD, _THERMAL_HOLD * ratio / START_RATIO * max(1.0, sqrt(seconds / _HOLD_SECONDS)))
    peak = sqrt(2) * (START_RATIO if starter.kind == "star-delta" else ratio)
    quick = peak / holds
    factor = max(slow, quick) if curve != "MA" else max(1.0, quick)
    least = max(factor * amps, 0.5)
    why = (
        f"so that {_start_words(starter, amps)} passes"
        if factor == slow
        else f"so that curve {curve}, which holds {holds:g} times, ignores a peak of {format_number(peak * amps)} A"
    )
    formula = (
        f"at least {format_number(factor)} · {format_number(amps)} A = {format_number(least)} A, curve {curve}, {why}"
    )
    return Protection(
        least=least, most=0.0, top=0.0, curves=(curve,), formula=formula,
        source=f"{iec_60898_1.SOURCE_CURVES}; {SOURCE_START}",
    )  # fmt: skip


def _iec_fuse(starter: Starter, amps: float) -> Protection:
    """Return the least fuse that carries the start; a gG one 5 s, an aM one a minute.

    Source:
        IEC 60269 gates, from memory.
    """
    fuse = "aM" if starter.curve == "aM" else "gG"
    held = iec_60269.start_multiple_held(fuse)
    seconds = max(1.0, sqrt(starter.start_seconds / _HOLD_SECONDS)) if fuse == "gG" else 1.0
    factor = max(1.0 if fuse == "aM" else _LEAST_HOLD, start_ratio(starter) / held * seconds)
    least = max(factor * amps, 0.5)
    formula = (
        f"at least {format_number(factor)} · {format_number(amps)} A = {format_number(least)} A, {fuse}, which holds "
        f"{held:g} times, so that {_start_words(starter, amps)} passes"
    )
    return Protection(
        least=least, most=0.0, top=0.0, curves=(fuse,), formula=formula, source=str(iec_60269.SOURCE_START)
    )


def _motor_breaker(starter: Starter, amps: float, world: MotorWorld) -> Protection:
    """Return a range that holds the setting and whose magnetic release ignores the peak of the start.

    Source:
        Motor breakers release at 10 to 16 times the upper end of their range: common practice. In North America one with
        a contactor behind it is a type F combination, alone a type E: UL 60947-4-1, from memory.
    """
    holds, _ = iec_60898_1.instantaneous_band("M")
    peak = sqrt(2) * (START_RATIO if starter.kind == "star-delta" else start_ratio(starter)) * amps
    words = "" if world.is_iec or not world.of_role("K", "KR") else "; with its contactor a type F combination"
    formula = (
        f"a range with the setting in it, its upper end at least {format_number(peak)} A / {holds:g} = "
        f"{format_number(peak / holds)} A, so that it ignores the peak of {_start_words(starter, amps)}{words}"
    )
    source = f"{iec_60898_1.SOURCE_CURVES}" + ("" if world.is_iec else "; UL 60947-4-1 types E and F, from memory")
    return Protection(least=0.0, most=0.0, top=peak / holds, curves=(), formula=formula, source=source)


_NORTH_AMERICAN = {"dual-element": "dual-element fuse", "nontime-delay": "nontime-delay fuse"}


def _north_american(starter: Starter, amps: float, kind: str) -> Protection:
    """Return the rating of a branch device by NEC 430.52: the percentage of the table current, next standard size up."""
    if kind == "fuse":
        device = _NORTH_AMERICAN.get(starter.curve or "", "dual-element fuse")
        curves: tuple[str, ...] = ("class CC", "class J")
    elif kind == "magnetic":
        device, curves = "instantaneous-trip breaker", ("instantaneous",)
    else:
        device, curves = "inverse-time breaker", ("inverse-time",)
    percent, ceiling = nec.branch_limits(device, amps)
    rating = nec.branch_device_a(device, amps)
    if device.startswith("instantaneous"):
        setting = percent / 100 * amps
        formula = (
            f"rated at least 115 % of {format_number(amps)} A = {format_number(1.15 * amps)} A, set to {percent:g} % of it = "
            f"{format_number(setting)} A; up to {ceiling:g} % where it trips on starting. Only in a listed combination"
        )
        return Protection(
            least=1.15 * amps, most=0.0, top=0.0, curves=curves, formula=formula, source=str(nec.SOURCE_BRANCH)
        )
    least = rating if rating is not None else percent / 100 * amps
    higher = nec.branch_ceiling_a(device, amps)
    beyond = f"; if it does not start, up to {higher:g} A" if higher is not None and higher > least else ""
    formula = (
        f"{device}: at most {percent:g} % of {format_number(amps)} A = {format_number(percent / 100 * amps)} A, next standard "
        f"rating {least:g} A{beyond}"
    )
    return Protection(least=least, most=least, top=0.0, curves=curves, formula=formula, source=str(nec.SOURCE_BRANCH))
