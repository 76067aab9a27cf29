"""Owns reading of the CSV tables. Must not know what any of them means."""

import csv
from functools import cache
from importlib.resources import files


@cache
def read_table(name: str) -> tuple[dict[str, str], ...]:
    """Return the rows of `data/NAME.csv` as mappings from heading to text; `#` lines are left out."""
    text = files("riktig.standards").joinpath("data", f"{name}.csv").read_text(encoding="utf-8")
    lines = [line for line in text.splitlines() if line and not line.startswith("#")]
    return tuple(csv.DictReader(lines))


@cache
def read_columns(name: str, key: str, value: str) -> tuple[tuple[float, float], ...]:
    """Return (key, value) pairs of two numeric columns in table order; rows with a blank are left out."""
    rows = read_table(name)
    return tuple((float(row[key]), float(row[value])) for row in rows if row[key] and row[value])


def interpolate(pairs: tuple[tuple[float, float], ...], x: float) -> float | None:
    """Return the value at x, linear between neighbours, or None outside of the table."""
    for (x0, y0), (x1, y1) in zip(pairs, pairs[1:], strict=False):
        if x0 <= x <= x1:
            return y0 + (y1 - y0) * (x - x0) / (x1 - x0)
    return None
