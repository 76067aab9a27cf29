"""Owns conductor cross-sections in mm2 and AWG. Must not know what a conductor may carry."""

from dataclasses import dataclass
from functools import cache
from math import log

METRIC_MM2 = (
    0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0, 95.0, 120.0, 150.0, 185.0, 240.0, 300.0,
)  # fmt: skip
AWG_SIZES = (
    "18", "16", "14", "12", "10", "8", "6", "4", "3", "2", "1",
    "1/0", "2/0", "3/0", "4/0", "250", "300", "350", "400", "500",
)  # fmt: skip
_KCMIL_MM2 = 0.5067
_LARGEST_GAUGE = 4


def awg_area_mm2(awg: str) -> float:
    """Return the area in mm2 of a gauge (`14`, `1/0`) or of a size in kcmil (`250` and up).

    Raises:
        KeyError: no size of that name is used in panels.

    Source:
        ASTM B258: d = 0.127 mm * 92 ** ((36 - n) / 39); 1 kcmil = 0.5067 mm2.
    """
    if awg not in AWG_SIZES:
        raise KeyError(awg)
    if "/" in awg:
        gauge = 1 - int(awg.split("/")[0])
    elif int(awg) >= 250:
        return int(awg) * _KCMIL_MM2
    else:
        gauge = int(awg)
    diameter_mm: float = 0.127 * 92 ** ((36 - gauge) / 39)
    return 0.7853981633974483 * diameter_mm**2


@dataclass(frozen=True, slots=True, order=True)
class ConductorSize:
    """A cross-section: `mm2` and `awg` both given, one of them nominal (`metric` says which)."""

    mm2: float
    awg: str
    metric: bool

    def label(self) -> str:
        """Return the size as the trade says it: `2.5 mm²` or `14 AWG`."""
        if self.metric:
            return f"{self.mm2:g} mm²"
        return f"{self.awg} AWG" if not self.awg.isdigit() or int(self.awg) < 250 else f"{self.awg} kcmil"


@cache
def from_mm2(mm2: float) -> ConductorSize:
    """Return a metric size with the AWG size nearest to it in area (by ratio)."""
    nearest = min(AWG_SIZES, key=lambda awg: abs(log(awg_area_mm2(awg) / mm2)))
    return ConductorSize(float(mm2), nearest, True)


@cache
def from_awg(awg: str) -> ConductorSize:
    """Return a gauge size with its area in mm2, rounded to two decimals."""
    return ConductorSize(round(awg_area_mm2(awg), 2), awg, False)
