"""How thick a cable is, and the gland, conduit and hole that take it into an enclosure (IEC 60423, UL 514B)."""

from dataclasses import dataclass
from math import pi, sqrt

from riktig.standards.tables import Source, read_columns, read_table

SOURCE_DIAMETER = Source("IEC 60227-3 insulation, sheath after the form of IEC 60502-1", ("cable_insulation",))
SOURCE_GLAND = Source("metric glands on IEC 60423 threads, common practice", ("cable_glands",))
SOURCE_KNOCKOUT = Source("UL 514B knockouts", ("conduit_knockouts",))
_BUNDLE = (
    (1, 1.0),
    (2, 2.0),
    (3, 2.1547),
    (4, 2.4142),
    (5, 2.7013),
    (7, 3.0),
    (12, 4.0296),
    (18, 4.8637),
    (19, 4.8637),
)
"""Least circle around equal circles over the diameter of one (geometry)."""
_STRANDING = 1.15
_PACKING = 1.18
_SCREEN_MM = 0.8


@dataclass(frozen=True, slots=True, kw_only=True)
class Gland:
    """A cable gland: its thread, the cable diameters that it clamps, and its clearance hole, in mm."""

    thread: str
    clamps_min: float
    clamps_max: float
    hole_mm: float
    cable_mm: float


def cable_diameter_mm(cores: int, mm2: float, *, is_screened: bool = False) -> float:
    """Return about how thick a flexible PVC cable of equal cores is, in mm; the maker's data sheet decides.

    Args:
        cores: how many, earth and spares counted; above 19 they are taken as packed in a circle.
        mm2: section of each.
        is_screened: whether a braid lies under the sheath.

    Source:
        Insulation IEC 60227-3, from memory; sheath 0.035 D + 0.8 mm, after the form of IEC 60502-1; strands take 15 % more than
        their copper: common practice, no source.
    """
    insulation = read_columns("cable_insulation", "mm2", "thickness")
    thickness = next((t for section, t in insulation if section >= mm2 - 1e-9), insulation[-1][1])
    core = sqrt(4 * mm2 / pi) * _STRANDING + 2 * thickness
    bundle = core * next((factor for n, factor in _BUNDLE if n >= cores), sqrt(cores) * _PACKING)
    return bundle + (_SCREEN_MM if is_screened else 0.0) + 2 * (0.035 * bundle + 0.8)


def gland_for(cable_mm: float) -> Gland | None:
    """Return the smallest gland that clamps a cable of that diameter in mm, None if it is too thick for all.

    Source:
        Metric threads of IEC 60423; ranges as commonly made: common practice, no source.
    """
    for row in read_table("cable_glands"):
        if float(row["clamps_min"]) <= cable_mm <= float(row["clamps_max"]):
            return Gland(
                thread=row["thread"],
                clamps_min=float(row["clamps_min"]),
                clamps_max=float(row["clamps_max"]),
                hole_mm=float(row["hole"]),
                cable_mm=round(cable_mm, 1),
            )
    return None


def knockout_mm(trade_size: str) -> float:
    """Return the hole in mm for a conduit of a trade size in inches.

    Raises:
        KeyError: no such trade size.

    Source:
        UL 514B, from memory.
    """
    return {row["trade_size"]: float(row["hole"]) for row in read_table("conduit_knockouts")}[trade_size]
