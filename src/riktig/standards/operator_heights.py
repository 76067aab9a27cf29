"""How high above the floor handles, emergency stops and controls may be: IEC 60204-1, NFPA 79."""

from dataclasses import dataclass
from typing import Literal

from riktig.standards.tables import Source, read_table

Operated = Literal["main switch", "emergency stop", "control"]


@dataclass(frozen=True, slots=True)
class Reach:
    """Least and greatest height above the floor in mm, and where that is written."""

    least: float
    most: float
    source: Source


def reach_of(what: Operated, *, is_iec: bool) -> Reach:
    """Return between which heights above the floor something may be that people operate.

    Source:
        IEC 60204-1:2016 5.3.4, 10.1.1; NFPA 79:2021 5.3.4 (2.0 m, 6 ft 7 in), 10.1.1; from memory.
    """
    world = "iec" if is_iec else "na"
    row = next(row for row in read_table("operator_heights") if (row["world"], row["what"]) == (world, what))
    return Reach(float(row["least"]), float(row["most"]), Source(row["clause"], ("operator_heights",)))
