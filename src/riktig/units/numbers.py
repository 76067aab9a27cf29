"""Owns how numbers are read from and written for people. Must not know what they measure."""

import math
import re

_NUMBER = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)$")


class BadNumber(ValueError):
    """A text that is no number; the sentence says what was found and what would do."""


def parse_number(text: str) -> float:
    """Return the number that a person typed, with a decimal point or comma.

    Args:
        text: such as `4`, `0,37` or `.5`; blanks around it do not matter.

    Raises:
        BadNumber: the text is empty, holds a unit or two separators.
    """
    bare = text.strip()
    if not _NUMBER.match(bare):
        raise BadNumber(f"'{text.strip()}' is not a number: write digits with at most one point or comma")
    return float(bare.replace(",", "."))


def format_number(value: float, digits: int = 3) -> str:
    """Return the value with at most `digits` significant decimals and no trailing zeros, `-` for NaN."""
    if math.isnan(value):
        return "-"
    if value == 0:
        return "0"
    decimals = max(0, digits - 1 - math.floor(math.log10(abs(value))))
    text = f"{value:.{decimals}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def on_log_paper(low: tuple[float, float], high: tuple[float, float], at: float) -> float:
    """Return the value at `at` on the straight line between two points (x, y) of logarithmic paper, all above 0."""
    share = (math.log(at) - math.log(low[0])) / (math.log(high[0]) - math.log(low[0]))
    return math.exp(math.log(low[1]) + share * (math.log(high[1]) - math.log(low[1])))


def parse_reading(text: str) -> float:
    """Return a meter reading in ohms: a number, `k` or `M` behind it, or `OL` for an open circuit (inf).

    Raises:
        BadNumber: the text is none of these.
    """
    bare = text.strip().lower().replace("ohm", "").replace("Ω".lower(), "").strip()
    if bare in {"ol", "o.l", "o.l.", "open", "inf"}:
        return math.inf
    factor = 1.0
    if bare.endswith("k"):
        bare, factor = bare[:-1].strip(), 1e3
    elif bare.endswith("m"):
        bare, factor = bare[:-1].strip(), 1e6
    try:
        value = parse_number(bare) * factor
    except BadNumber:
        raise BadNumber(f"'{text.strip()}' is not a reading: type ohms such as 0.3, 1.2k, or OL") from None
    if value < 0:
        raise BadNumber(f"'{text.strip()}' is below zero: swap the probes or zero the meter, then read again")
    return value


def format_ohms(ohms: float) -> str:
    """Return a resistance as a meter would show it: `0.21 Ω`, `1.5 kΩ`, `OL`."""
    if math.isinf(ohms):
        return "OL"
    if ohms >= 1e6:
        return f"{format_number(ohms / 1e6)} MΩ"
    if ohms >= 1e3:
        return f"{format_number(ohms / 1e3)} kΩ"
    return f"{ohms:.2f} Ω" if ohms < 100 else f"{ohms:.0f} Ω"
