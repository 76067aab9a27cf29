"""IEC 60947-4-1 (contactors and motor starters): currents of cage motors, categories, trip classes."""

from riktig.standards.tables import Source, interpolate, read_columns, read_table, step_up

SOURCE_CURRENT = Source("IEC 60947-4-1 Annex G", ("motor_current_iec_60947_4_1_g",))
SOURCE_CLASS = Source("IEC 60947-4-1 Table 2", ("overload_classes_iec_60947_4_1",))
SOURCE_CATEGORY = Source("IEC 60947-4-1 Tables 1 and 7", ("categories_iec_60947_4_1",))
SOURCE_SETTING = Source("IEC 60947-4-1 8.2.1.5")
SOURCE_TEST = Source("IEC 60947-4-1 9.3.4.2", ("test_current_iec_60947_4_1",))
CLASS_RATIO = 7.2
"""Multiple of the setting at which trip classes are told."""
_COLUMNS = {230: "v230", 400: "v400", 500: "v500", 690: "v690"}


def rated_motor_current_a(kw: float, volts: float) -> float | None:
    """Return the guide value of the rated current in A of a three-phase cage motor, None outside the table.

    Between two rows the value is interpolated; at a voltage between two columns the column nearest in
    ratio is taken and the current scaled by the inverse of the voltage.

    Args:
        kw: rated output in kW, 0.06 to 250.
        volts: line to line voltage in V.

    Source:
        IEC 60947-4-1 Annex G (guide values at 50 Hz), from memory.
    """
    column = min(_COLUMNS, key=lambda v: max(v / volts, volts / v))
    current = interpolate(read_columns("motor_current_iec_60947_4_1_g", "kw", _COLUMNS[column]), kw)
    return None if current is None else current * column / volts


def listed_powers_kw() -> tuple[float, ...]:
    """Return the rated outputs in kW of the table, smaller first."""
    return tuple(kw for kw, _ in read_columns("motor_current_iec_60947_4_1_g", "kw", "v400"))


def trip_times_s(trip_class: str) -> tuple[float, float]:
    """Return after how many seconds at the earliest and at the latest a cold overload relay trips at 7.2 times its setting.

    Raises:
        KeyError: no such class.

    Source:
        IEC 60947-4-1 Table 2, from memory.
    """
    for row in read_table("overload_classes_iec_60947_4_1"):
        if row["class"] == trip_class:
            return float(row["holds_s"]), float(row["trips_s"])
    raise KeyError(trip_class)


def start_held_s(trip_class: str, start_ratio: float) -> float:
    """Return for how many seconds a cold overload relay surely lets a start of `start_ratio` times its setting go on.

    Source:
        IEC 60947-4-1 Table 2 at 7.2 times, from memory; at other multiples the heat I²t is the same, common practice.

    Raises:
        KeyError: no such class.
    """
    for row in read_table("overload_classes_iec_60947_4_1"):
        if row["class"] == trip_class:
            return float(row["holds_s"]) * (CLASS_RATIO / start_ratio) ** 2
    raise KeyError(trip_class)


def trip_class_for(start_s: float, start_ratio: float) -> str | None:
    """Return the fastest trip class, 10 or slower, that lets a start go on; None if class 30 does not.

    Source:
        As `start_held_s`; class 10 is the usual one, common practice.
    """
    return next((c for c in ("10", "20", "30") if start_held_s(c, start_ratio) >= start_s - 1e-9), None)


def making_multiple(category: str) -> float:
    """Return how many times its rated current a contactor of a utilization category can make.

    Raises:
        KeyError: no such category.

    Source:
        IEC 60947-4-1 Table 7, from memory.
    """
    for row in read_table("categories_iec_60947_4_1"):
        if row["category"] == category:
            return float(row["make"])
    raise KeyError(category)


def test_current_ka(rated_a: float) -> float | None:
    """Return the prospective current "r" in kA that a contactor of that rated current is tested with, None beyond 1000 A.

    Source:
        IEC 60947-4-1 9.3.4.2, from memory.
    """
    return step_up(read_columns("test_current_iec_60947_4_1", "amps_max", "r_ka"), rated_a)
