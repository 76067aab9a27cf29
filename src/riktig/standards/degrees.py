"""IEC 60529 and UL 50E: what an enclosure keeps out, as it is written on it. From memory."""

import re
from dataclasses import dataclass

SOURCE = "IEC 60529, UL 50E, from memory"
TYPES = frozenset(["1", "2", "3", "3R", "3S", "3X", "3RX", "3SX", "4", "4X", "5", "6", "6P", "12", "12K", "13"])
"""The Types of UL 50E."""
OUTDOOR_TYPES = frozenset(["3", "3R", "3S", "3X", "3RX", "3SX", "4", "4X", "6", "6P"])
"""The Types of UL 50E that may stand outdoors."""
DEGREE_HINT = 'write one as IP54 (IEC 60529), or as "Type 12" (UL 50E)'
_LEAST_ANY = frozenset({"1", "5"})
_IP = re.compile(r"IP\s?([0-6X])([0-9X])(K?)([A-D]?)([HMSW]?)", re.IGNORECASE)
_TYPE = re.compile(r"(?:NEMA|UL)?\s*(?:TYPE)?\s*(\d+[A-Z]*)", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Degree:
    """A degree of protection: the two figures of an IP code, None where it is a Type; 9 stands for jets of hot water. The Type, "" where it
    is an IP code.
    """

    solids: int | None
    water: int | None
    type: str

    @property
    def is_type(self) -> bool:
        """Whether it is a Type of UL 50E."""
        return bool(self.type)

    @property
    def stands_weather(self) -> bool:
        """Whether it may stand in the weather: a Type for outdoors, or water from all sides (a second figure of 4 and more).

        Source:
            UL 50E Table 1; IEC 60529 14.2.4, common practice.
        """
        return self.type in OUTDOOR_TYPES if self.is_type else (self.water or 0) >= 4


def read_degree(text: str) -> Degree | None:
    """Return a degree of protection as it is written, None where it is none; X, not tested, counts as 0.

    Source:
        IEC 60529 4, UL 50E Table 1, from memory.
    """
    found = _IP.fullmatch(text.strip())
    if found is not None:
        solids, water = (int(figure.upper().replace("X", "0")) for figure in found.groups()[:2])
        return Degree(solids, water, "")
    found = _TYPE.fullmatch(text.strip())
    if found is not None and found[1].upper() in TYPES:
        return Degree(None, None, found[1].upper())
    return None


def keeps(degree: Degree, opening_ip: str, opening_type: str) -> bool:
    """Return whether an opening, by its own IP figures and its Types, parted by spaces, keeps as much out as an enclosure."""
    if degree.is_type:
        return degree.type in _LEAST_ANY or degree.type in opening_type.split()
    opening = read_degree(f"IP{opening_ip}")
    assert opening is not None and opening.solids is not None and opening.water is not None, opening_ip
    return (degree.solids or 0) <= opening.solids and (degree.water or 0) <= opening.water
