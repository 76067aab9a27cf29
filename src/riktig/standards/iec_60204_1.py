"""IEC 60204-1:2016 (electrical equipment of machines): conductors, isolation, residual voltage, earth currents."""

from riktig.standards.tables import Source, interpolate, read_columns, read_table

_T6, _BEYOND = "ampacity_iec_60204_1_t6", "ampacity_iec_60364_5_52"
SOURCE_AMPACITY = Source("IEC 60204-1:2016 12.4, Table 6", (_T6,))
SOURCE_BEYOND = Source("IEC 60364-5-52:2009 Table B.52.4 times 0.87 for 40 °C", (_BEYOND,))
SOURCE_FACTORS = Source("Tables D.1, D.2", ("ambient_iec_60204_1_d1", "grouping_iec_60204_1_d2"))
SOURCE_EARTH = Source("IEC 60204-1:2016 8.2.2, Table 1")
SOURCE_MINIMUM = Source("IEC 60204-1:2016 12.3, Table 5", ("min_section_iec_60204_1_t5",))
SOURCE_DROP = Source("limit 5 %: IEC 60204-1:2016 12.5")
AMBIENT_LIMITS_C = (5.0, 40.0)
"""Air temperature in degC for which electrical equipment works at least, IEC 60204-1:2016 4.4.3, from memory."""
_TO_40_DEGC = 0.87


def ampacity_a(mm2: float, method: str) -> float | None:
    """Return the current-carrying capacity in A at 40 degC of PVC-insulated copper, None if not listed.

    Args:
        mm2: nominal section.
        method: installation method `b1` (conductors in duct), `b2` (cable in conduit), `c` (on a wall), `e`.

    Source:
        IEC 60204-1:2016 Table 6 up to 120 mm2; beyond, IEC 60364-5-52:2009 Tables B.52.4 and B.52.10 times its ambient
        factor of 0.87 for 40 degC; from memory. Up to 120 mm2 the two agree to 1 A.
    """
    listed = dict(read_columns(_T6, "mm2", method)).get(mm2)
    if listed is not None:
        return listed
    beyond = dict(read_columns(_BEYOND, "mm2", method)).get(mm2)
    return None if beyond is None else round(beyond * _TO_40_DEGC, 1)


def listed_sections_mm2() -> tuple[float, ...]:
    """Return all sections in mm2 that `ampacity_a` knows, smaller first."""
    return tuple(sorted(mm2 for table in (_T6, _BEYOND) for mm2, _ in read_columns(table, "mm2", "b1")))


def ambient_factor(celsius: float) -> float | None:
    """Return the correction for an air temperature in degC (1 at 40), None above the table's 60 degC.

    Below 30 degC the factor of 30 degC is used, on the safe side.

    Source:
        IEC 60204-1:2016 Table D.1 (PVC), from memory.
    """
    return interpolate(read_columns("ambient_iec_60204_1_d1", "celsius", "factor"), max(30.0, celsius))


def grouping_factor(circuits: int, method: str) -> float:
    """Return the derating for a number of loaded circuits laid together; above nine the value for nine.

    Source:
        IEC 60204-1:2016 Table D.2, from memory; between two rows the larger number of circuits rules.
    """
    if circuits <= 1:
        return 1.0
    column = "b1_b2" if method in {"b1", "b2"} else method
    pairs = read_columns("grouping_iec_60204_1_d2", "circuits", column)
    return next((factor for count, factor in pairs if circuits <= count), pairs[-1][1])


def min_section_mm2(*, inside: bool, power: bool) -> float:
    """Return the smallest section in mm2: single flexible conductor inside, multicore cable outside.

    Source:
        IEC 60204-1:2016 Table 5, from memory.
    """
    place = "inside enclosure" if inside else "outside enclosure"
    kind = "power" if power else "control"
    for row in read_table("min_section_iec_60204_1_t5"):
        if row["location"] == place and row["application"].startswith(kind):
            return float(row["single_flex" if inside else "multi_3plus"])
    raise KeyError((place, kind))


def protective_section_mm2(line_mm2: float) -> float:
    """Return the least protective conductor in mm2 for a line conductor of `line_mm2`, both copper.

    Source:
        IEC 60204-1:2016 Table 1, from memory.
    """
    if line_mm2 <= 16:
        return line_mm2
    return 16.0 if line_mm2 <= 35 else line_mm2 / 2


ISOLATING_IEC = ("IEC 60947-3", "IEC 60947-2")
"""Standards of what may isolate a supply: switch-disconnectors, and breakers suited to isolate; 5.3.2, from memory."""
ISOLATING_UL = ("UL 98", "UL 489")
"""The same in North America: NFPA 79 5.3.2, UL 508A 30, from memory."""
TOUCH_V, RESIDUAL_S = 60.0, 5.0
"""Volts to which what holds charge must have fallen, and seconds that it may take without a warning; 6.2.4, from memory."""
LEAKAGE_A, LEAKAGE_MM2 = 0.010, 10.0
"""Earth current in A from which a protective conductor has so many mm² of copper, or a second one; 8.2.6, from memory."""
