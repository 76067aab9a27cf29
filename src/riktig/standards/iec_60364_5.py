"""IEC 60364-5: equipment of low-voltage installations."""

from riktig.standards.tables import Source

SOURCE_ARRESTER_LEADS = Source("IEC 60364-5-53:2019 534.4.8")
SOURCE_ARRESTER_SECTIONS = Source("IEC 60364-5-53:2019 534.4.10")
LONGEST_LEADS_M = 0.5
"""Line and earth lead of an arrester together; 1 m where it cannot be otherwise."""
_LINE_MM2 = {1: 6.0, 2: 2.5, 3: 1.5}
_EARTH_MM2 = {1: 16.0, 2: 6.0, 3: 1.5}


def arrester_earth_mm2(kind: float) -> float:
    """Return the least copper section in mm2 of the earth of an arrester of type 1, 2 or 3."""
    return _EARTH_MM2[int(kind)]


def arrester_line_mm2(kind: float) -> float:
    """Return the least copper section in mm2 of the line and neutral leads of an arrester of type 1, 2 or 3."""
    return _LINE_MM2[int(kind)]
