"""Owns texts such as `24 in` or `0.5 hp` and the units they may carry. Must not know what is measured."""

import re

from riktig.units.numbers import BadNumber, parse_number

FACTORS: dict[str, dict[str, float]] = {
    "mm": {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8},
    "m": {"m": 1.0, "mm": 0.001, "ft": 0.3048},
    "kW": {"kW": 1.0, "W": 0.001},
    "hp": {"hp": 1.0},
    "A": {"A": 1.0, "mA": 0.001},
    "V": {"V": 1.0, "kV": 1000.0},
    "kA": {"kA": 1.0, "A": 0.001},
    "Hz": {"Hz": 1.0},
    "VA": {"VA": 1.0, "kVA": 1000.0},
    "degC": {"degC": 1.0, "°C": 1.0},
}
_QUANTITY = re.compile(r"^\s*([+-]?[\d.,]+)\s*([^\d\s].*)?$")


def parse_quantity(value: object, unit: str) -> float:
    """Return a quantity in `unit`: a bare number is taken as it is, a text must carry its unit.

    Args:
        value: `600`, `"24 in"`, `"0,5 m"`.
        unit: the unit wanted, a key of FACTORS.

    Raises:
        BadNumber: no number, a text with no unit, or a unit that does not measure the same thing.
    """
    if isinstance(value, int | float) and not isinstance(value, bool):
        return float(value)
    known = FACTORS[unit]
    match = _QUANTITY.match(value) if isinstance(value, str) else None
    if match is None:
        raise BadNumber(f"'{value}' is no quantity: write a number, in {unit}")
    number, word = parse_number(match.group(1)), (match.group(2) or "").strip()
    if not word:
        raise BadNumber(f'"{value}" has no unit: write {number:g} without quotes, or "{number:g} {unit}"')
    if word not in known:
        raise BadNumber(f"'{word}' does not fit here: use one of {', '.join(known)}")
    return number * known[word]
