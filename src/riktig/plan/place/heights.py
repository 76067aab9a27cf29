"""Owns how high an enclosure is above the floor on which people stand. Must not choose a place."""

from riktig.job.model import Enclosure, Job
from riktig.job.practice import Standard
from riktig.plan.place.layout import EDGE_MM
from riktig.standards.operator_heights import reach_of

PLINTH_MM = 100.0
TALL_MM = 1200.0
"""From this height on an enclosure that is not hung on a wall stands on the floor."""
TOP_MM = 1800.0
"""So high above the floor the upper edge of a wall enclosure hangs, if nobody says else (common practice, no source)."""


def floor_to_bottom(box: Enclosure) -> float:
    """Return how high the lower edge of an enclosure is above the floor in mm: as said, else a plinth of 100 mm below one that stands,
    and a wall enclosure with its upper edge at 1.8 m (common practice, no source).
    """
    if box.floor_to_bottom is not None:
        return box.floor_to_bottom
    stands = (
        box.mounting == "floor"
        or box.height + PLINTH_MM >= TOP_MM
        or (box.mounting == "free" and box.height >= TALL_MM)
    )
    return PLINTH_MM if stands else TOP_MM - box.height


def handle_reach(job: Job) -> tuple[float, float]:
    """Return between which heights on the plate in mm a main switch may stand whose handle is on the door.

    Source:
        IEC 60204-1:2016 5.3.4, NFPA 79:2021 5.3.4, from memory.
    """
    reach = reach_of("main switch", is_iec=job.practice.standard is Standard.IEC)
    low = floor_to_bottom(job.enclosure) + EDGE_MM / 2
    return reach.least - low, reach.most - low
