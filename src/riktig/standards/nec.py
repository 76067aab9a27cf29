"""NEC (NFPA 70) Articles 240, 250, 310 and 430: motors and conductors. All values from memory."""

from bisect import bisect_left

from riktig.standards.tables import interpolate, read_columns, read_table

SOURCE_MOTOR = "NEC Table 430.250 / 430.248, from memory"
SOURCE_OVERLOAD = "NEC 430.32(A)(1), from memory"
SOURCE_BRANCH = "NEC 430.52, 240.6(A), from memory"
SOURCE_CONDUCTOR = "NEC 430.22, Table 310.16 (75 degC), from memory"
SOURCE_EARTH = "NEC Table 250.122, from memory"
_SMALL_LIMITS = {"14": 15.0, "12": 20.0, "10": 30.0}


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


def overload_trip_a(nameplate_a: float, service_factor: float) -> float:
    """Return the largest overload trip current in A: 125 % from service factor 1.15 up, else 115 %.

    Source:
        NEC 430.32(A)(1), from memory.
    """
    return nameplate_a * (1.25 if service_factor >= 1.15 else 1.15)


def standard_rating_a(amps: float) -> float | None:
    """Return the standard breaker rating next above or equal to `amps`, None above 6000 A.

    Source:
        NEC 240.6(A), from memory.
    """
    ratings = sorted(float(r["amps"]) for r in read_table("ocpd_ratings_nec_240_6") if "only" not in r["class"])
    place = bisect_left(ratings, amps)
    return ratings[place] if place < len(ratings) else None


def branch_breaker_a(full_load_a: float) -> float | None:
    """Return the rating in A of an inverse-time branch breaker: 250 %, next standard size up.

    Source:
        NEC 430.52(C)(1) with Exception 1 and 240.6(A), from memory.
    """
    return standard_rating_a(full_load_a * 2.5)


def ampacity_a(awg: str, column: str = "c75") -> float | None:
    """Return the ampacity in A at 30 degC of copper in raceway, None if the size is not listed.

    Source:
        NEC Table 310.16, from memory.
    """
    for row in read_table("ampacity_nec_310_16"):
        if row["awg"] == awg:
            return float(row[column]) if row[column] else None
    return None


def ambient_factor(celsius: float) -> float | None:
    """Return the ambient correction of the 75 degC column (1 at 26 to 30 degC), None above 70 degC.

    Source:
        NEC Table 310.15(B)(1), from memory.
    """
    for row in read_table("ambient_nec_310_15_b"):
        if celsius <= float(row["ambient_c_max"]):
            return float(row["factor_75c"])
    return None


def small_conductor_limit_a(awg: str) -> float | None:
    """Return the largest overcurrent device in A for 14 to 10 AWG, None for other sizes.

    Source:
        NEC 240.4(D), from memory. Motor branch circuits follow 430.52 in its place (240.4(G)).
    """
    return _SMALL_LIMITS.get(awg)


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
