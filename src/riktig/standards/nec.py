"""NEC (NFPA 70) Articles 240, 250, 310, 430 and 450: motors, conductors and transformers."""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence

from riktig.standards.tables import Source, interpolate, read_columns, read_table

SOURCE_MOTOR = Source("NEC Tables 430.248 and 430.250", ("motor_flc_nec_430_250", "motor_flc_nec_430_248"))
SOURCE_OVERLOAD = Source("NEC 430.6(A)(2), 430.32(A)(1)")
SOURCE_BRANCH = Source("NEC 430.52(C)(1), 240.6(A)", ("branch_protection_nec_430_52", "ocpd_ratings_nec_240_6"))
SOURCE_CONDUCTOR = Source(
    "NEC 430.22, 110.14(C), Table 310.16, 310.15(B)(1)", ("ampacity_nec_310_16", "ambient_nec_310_15_b")
)
SOURCE_LOAD_CONDUCTOR = Source(
    "NEC 210.19(A), 240.4(D), 110.14(C), Table 310.16, 310.15(B)(1)", ("ampacity_nec_310_16", "ambient_nec_310_15_b")
)
SOURCE_SHARED = Source("NEC 310.15(C)(1)", ("adjustment_nec_310_15_c",))
SOURCE_FEEDER = Source("NEC 430.24")
SOURCE_EARTH = Source("NEC Table 250.122", ("egc_nec_250_122",))
SOURCE_TRANSFORMER = Source("NEC 450.3(B), 430.72(C)", ("transformer_nec_450_3_b",))
SOURCE_CLASS_2 = Source("NEC 725.60, Chapter 9 Table 11(B)")
CLASS_2_VA, CLASS_2_V = 100.0, 60.0
"""Most that a Class 2 DC supply gives."""
_SMALL_LIMITS = {"14": 15.0, "12": 20.0, "10": 30.0}
_LARGEST_60_DEGC_AMPS = 100.0


def motor_current_a(hp: float, volts: float, phases: int = 3) -> float | None:
    """Return the table full-load current in A of an AC motor, None outside the table.

    Supply voltages of 480, 240, 600 and 120 V use the columns of 460, 230, 575 and 115 V.

    Source:
        NEC Tables 430.250 (three phases) and 430.248 (one phase), from memory.
    """
    table = "motor_flc_nec_430_250" if phases == 3 else "motor_flc_nec_430_248"
    columns = [int(name[1:]) for name in read_table(table)[0] if name.startswith("v")]
    column = min(columns, key=lambda v: max(v / volts, volts / v))
    if not column * 0.9 <= volts <= column * 1.1:
        return None
    return interpolate(read_columns(table, "hp", f"v{column}"), hp)


def listed_powers_hp(phases: int = 3) -> tuple[float, ...]:
    """Return the rated outputs in hp of the table, smaller first."""
    table = "motor_flc_nec_430_250" if phases == 3 else "motor_flc_nec_430_248"
    return tuple(hp for hp, _ in read_columns(table, "hp", "v230"))


def overload_trip_a(nameplate_a: float, service_factor: float) -> float:
    """Return the largest overload trip current in A: 125 % from service factor 1.15 up, else 115 %.

    Source:
        NEC 430.32(A)(1), from memory.
    """
    return nameplate_a * (1.25 if service_factor >= 1.15 else 1.15)


def _standard_ratings(*, fuses: bool) -> Sequence[float]:
    rows = read_table("ocpd_ratings_nec_240_6")
    return sorted(float(row["amps"]) for row in rows if fuses or "only" not in row["class"])


def standard_rating_a(amps: float, *, fuses: bool = False) -> float | None:
    """Return the standard rating next above or equal to `amps`, None above 6000 A.

    Args:
        amps: what is wanted.
        fuses: with the further ratings that only fuses have (1, 3, 6, 10, 601 A).

    Source:
        NEC 240.6(A), from memory.
    """
    ratings = _standard_ratings(fuses=fuses)
    place = bisect_left(ratings, amps - 1e-9)
    return ratings[place] if place < len(ratings) else None


def rating_not_over_a(amps: float, *, fuses: bool = False) -> float | None:
    """Return the largest standard rating that is not above `amps`, None below the smallest.

    Source:
        NEC 240.6(A), from memory; feeders take the next one down, 430.62(A).
    """
    ratings = _standard_ratings(fuses=fuses)
    place = bisect_right(ratings, amps + 1e-9)
    return ratings[place - 1] if place else None


def branch_limits(device: str, full_load_a: float) -> tuple[float, float]:
    """Return the percent of the full-load current that a motor's branch device may have, and the exception's ceiling.

    Args:
        device: `inverse-time breaker`, `instantaneous-trip breaker` (or with ` design B`), `dual-element fuse` or
            `nontime-delay fuse`.
        full_load_a: table full-load current.

    Raises:
        KeyError: no such device.

    Source:
        NEC Table 430.52(C)(1) and its Exception 2, from memory.
    """
    for row in read_table("branch_protection_nec_430_52"):
        if row["device"] == device:
            ceiling = "ceiling_percent" if full_load_a <= 100 else "ceiling_over_100_a"
            return float(row["percent"]), float(row[ceiling])
    raise KeyError(device)


def branch_device_a(device: str, full_load_a: float) -> float | None:
    """Return the largest rating in A of a motor's branch device: the percentage, next standard size up.

    An instantaneous-trip breaker has no next size up: its setting in A is the percentage itself.

    Source:
        NEC 430.52(C)(1) with Exception 1, 430.52(C)(3) and 240.6(A), from memory.
    """
    percent, _ = branch_limits(device, full_load_a)
    amps = full_load_a * percent / 100
    return amps if device.startswith("instantaneous") else standard_rating_a(amps, fuses="fuse" in device)


def branch_ceiling_a(device: str, full_load_a: float) -> float | None:
    """Return the largest standard rating in A where the motor does not start on the usual one.

    Source:
        NEC 430.52(C)(1) Exception 2, from memory.
    """
    _, ceiling = branch_limits(device, full_load_a)
    return rating_not_over_a(full_load_a * ceiling / 100, fuses="fuse" in device)


def branch_breaker_a(full_load_a: float) -> float | None:
    """Return the rating in A of an inverse-time branch breaker: 250 %, next standard size up.

    Source:
        NEC 430.52(C)(1) with Exception 1 and 240.6(A), from memory.
    """
    return branch_device_a("inverse-time breaker", full_load_a)


def feeder_ampacity_a(full_loads_a: Sequence[float], others_a: float = 0.0) -> float:
    """Return the least ampacity in A of a conductor that feeds several motors: 125 % of the largest and the rest.

    Source:
        NEC 430.24, from memory.
    """
    return 0.25 * max(full_loads_a, default=0.0) + sum(full_loads_a) + others_a


def feeder_device_a(
    branch_devices_a: Sequence[float], full_loads_a: Sequence[float], others_a: float = 0.0
) -> float | None:
    """Return the largest rating in A of a feeder's device: the largest branch device and the other motors.

    Args:
        branch_devices_a: rating of each motor's branch device.
        full_loads_a: table full-load current of each motor, in the same order.
        others_a: what is no motor.

    Source:
        NEC 430.62(A) and 430.63, from memory; the next standard size down.
    """
    if not branch_devices_a:
        return None
    largest = max(range(len(branch_devices_a)), key=lambda n: branch_devices_a[n])
    others = sum(amps for n, amps in enumerate(full_loads_a) if n != largest)
    return rating_not_over_a(branch_devices_a[largest] + others + others_a)


def ampacity_a(awg: str, column: str = "c75") -> float | None:
    """Return the ampacity in A at 30 degC of copper in raceway, None if the size is not listed.

    Source:
        NEC Table 310.16, from memory.
    """
    for row in read_table("ampacity_nec_310_16"):
        if row["awg"] == awg:
            return float(row[column]) if row[column] else None
    return None


def terminal_column(device_a: float, marked_c: float) -> str:
    """Return the column of Table 310.16 that the terminals of a circuit allow.

    Args:
        device_a: rating of the circuit in A.
        marked_c: 75 where the terminals are marked 60/75 degC or 75 degC, else 60.

    Source:
        NEC 110.14(C)(1): up to 100 A the 60 degC column unless marked, from memory.
    """
    return "c60" if device_a <= _LARGEST_60_DEGC_AMPS and marked_c < 75 else "c75"


def ambient_factor(celsius: float) -> float | None:
    """Return the ambient correction of the 75 degC column (1 at 26 to 30 degC), None above 70 degC.

    Source:
        NEC Table 310.15(B)(1), from memory.
    """
    for row in read_table("ambient_nec_310_15_b"):
        if celsius <= float(row["ambient_c_max"]):
            return float(row["factor_75c"])
    return None


def shared_raceway_factor(conductors: int) -> float:
    """Return the adjustment for more than three current-carrying conductors in one raceway or cable.

    Source:
        NEC 310.15(C)(1), from memory.
    """
    if conductors <= 3:
        return 1.0
    rows = read_table("adjustment_nec_310_15_c")
    return next(float(r["percent"]) for r in rows if not r["n_max"] or conductors <= float(r["n_max"])) / 100


def small_conductor_limit_a(awg: str) -> float | None:
    """Return the largest overcurrent device in A for 14 to 10 AWG, None for other sizes.

    Source:
        NEC 240.4(D), from memory. Motor branch circuits follow 430.52 in its place (240.4(G)).
    """
    return _SMALL_LIMITS.get(awg)


def control_conductor_a(awg: str) -> float | None:
    """Return what a small conductor of a control cable carries in A, None for sizes from 12 AWG up.

    Source:
        NFPA 79 12.6.1 and NEC 724.43, from memory.
    """
    row = next((r for r in read_table("small_conductor_nfpa79") if r["awg"] == awg and int(awg) >= 14), None)
    return float(row["ampacity"]) if row is not None else None


def equipment_ground_awg(device_a: float) -> str:
    """Return the least copper equipment grounding conductor for an overcurrent device rating in A.

    Raises:
        KeyError: the device is over 1200 A.

    Source:
        NEC Table 250.122, from memory.
    """
    for row in read_table("egc_nec_250_122"):
        if device_a <= float(row["ocpd_a"]):
            return row["copper_awg"]
    raise KeyError(device_a)


SMALL_TRANSFORMER_VA = 1000.0
SOURCE_JUMPER = "NEC 250.30(A)(1) with its exception for 1000 VA, Table 250.102(C)(1), before Table 250.66; from memory"
_JUMPERS = ((33.63, "8"), (53.5, "6"), (85.1, "4"), (177.4, "2"), (304.1, "1/0"), (557.4, "2/0"))
"""Section of the largest line conductor in mm2, and the copper jumper that goes with it."""


def jumper_awg(va: float, line_mm2: float = 0.0) -> str:
    """Return the least copper system bonding jumper of a transformer of `va` whose lines have a section in mm2; up to 1000 VA it may be
    as thin as these, and is 14 AWG at least.

    Source:
        NEC 250.30(A)(1) with its exception for 1000 VA, Table 250.102(C)(1) (in earlier editions 250.66), from memory.
    """
    if va <= SMALL_TRANSFORMER_VA:
        return "14"
    return next((awg for most, awg in _JUMPERS if line_mm2 <= most), "3/0")


def transformer_limit_a(side: str, rated_a: float) -> float:
    """Return the largest protection in A of a transformer up to 1000 V.

    Args:
        side: `primary only`, `primary with secondary`, `secondary` or `primary of motor control` (below 2 A; above it
            that of `primary only`).
        rated_a: rated current of that side.

    Source:
        NEC Table 450.3(B), 430.72(C)(4), from memory; 125 % goes to the next standard size up.
    """
    rows = [row for row in read_table("transformer_nec_450_3_b") if row["side"] == side]
    pairs = tuple((float(row["amps_below"]), row) for row in rows)
    row = next((row for below, row in pairs if rated_a < below), None)
    if row is None and side == "primary of motor control":
        return transformer_limit_a("primary only", rated_a)
    row = row or rows[-1]  # what is beyond any transformer has the share of the largest
    amps = rated_a * float(row["percent"]) / 100
    return (standard_rating_a(amps, fuses=True) or amps) if row["next_size_up"] == "yes" else amps


def conduit_area_percent(conductors: int, *, is_nipple: bool = False) -> float:
    """Return how much of a conduit's inside area its conductors may take, in percent.

    Source:
        NEC Chapter 9 Table 1 and Note 4 (nipples up to 24 in), from memory.
    """
    rows = {row["conductors"]: float(row["fill_percent"]) for row in read_table("conduit_fill_nec_ch9_t1")}
    if is_nipple:
        return rows["nipple_le_24in"]
    return rows.get(str(conductors), rows["over_2"])


def conduit_trade_size(counts: Sequence[tuple[str, int]]) -> str | None:
    """Return the smallest trade size of EMT that holds conductors (THHN/THWN-2), None if none does.

    Args:
        counts: (AWG size, how many) of each.

    Raises:
        KeyError: a size that Table 5 does not list here.

    Source:
        NEC Chapter 9 Tables 1, 4 and 5, from memory.
    """
    areas = {row["awg"]: float(row["area_in2"]) for row in read_table("conductor_area_nec_ch9_t5")}
    needed = sum(areas[awg] * count for awg, count in counts)
    percent = conduit_area_percent(sum(count for _, count in counts))
    sizes = [(float(r["total_in2"]) * percent / 100, r["trade_size"]) for r in read_table("conduit_emt_nec_ch9_t4")]
    return next((size for area, size in sizes if needed <= area + 1e-9), None)


def conduit_fill_percent(counts: Sequence[tuple[str, int]], trade_size: str) -> float:
    """Return how much of an EMT's inside area conductors (THHN/THWN-2) take, in percent.

    Raises:
        KeyError: a size that the tables do not list here.

    Source:
        NEC Chapter 9 Tables 4 and 5, from memory.
    """
    areas = {row["awg"]: float(row["area_in2"]) for row in read_table("conductor_area_nec_ch9_t5")}
    total = {row["trade_size"]: float(row["total_in2"]) for row in read_table("conduit_emt_nec_ch9_t4")}[trade_size]
    return 100.0 * sum(areas[awg] * count for awg, count in counts) / total


def conduit_conductors() -> frozenset[str]:
    """Return the sizes of conductors whose area is listed.

    Source:
        NEC Chapter 9 Table 5, from memory.
    """
    return frozenset(row["awg"] for row in read_table("conductor_area_nec_ch9_t5"))


def most_in_conduit(awg: str, trade_size: str) -> int:
    """Return how many equal conductors (THHN/THWN-2) an EMT of a trade size takes.

    Raises:
        KeyError: a size that the tables do not list here.

    Source:
        NEC Chapter 9 Tables 1, 4 and 5 with Note 7 (a last one that takes 0.8 of its room counts), from memory.
    """
    areas = {row["awg"]: float(row["area_in2"]) for row in read_table("conductor_area_nec_ch9_t5")}
    total = {row["trade_size"]: float(row["total_in2"]) for row in read_table("conduit_emt_nec_ch9_t4")}[trade_size]
    share = total * conduit_area_percent(3) / 100 / areas[awg]
    whole = int(share)
    return whole + 1 if share - whole >= 0.8 else whole
