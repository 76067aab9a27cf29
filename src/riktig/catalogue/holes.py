"""Owns the form of a hole pattern: where a part is screwed to the plate. Must not know plates.

Frame: mm, origin at the lower left corner of the part's outline seen from the front, x right, y up.
"""

from dataclasses import dataclass
from functools import cache

THREADS = ("M4", "M5", "M6", "M8", "10-32", "1/4-20", "5/16-18")
"""Threads that parts are screwed on with: metric, and unified."""


@dataclass(frozen=True, slots=True)
class FixingHole:
    """A hole of a part: its centre in mm in the part's frame, and the thread of its screw."""

    x: float
    y: float
    thread: str


@cache
def read_holes(text: str, width: float, height: float) -> tuple[FixingHole, ...]:
    """Return the pattern that a text means: `X Y THREAD`, parted by `;`.

    Args:
        text: the pattern, "" for none.
        width: of the part's outline, in mm.
        height: likewise.

    Raises:
        ValueError: it means none, or a hole lies beyond the outline.
    """
    found = []
    for one in filter(None, (piece.strip() for piece in text.split(";"))):
        words = one.split()
        try:
            x, y = map(float, words[:2])
            (thread,) = words[2:]
        except ValueError:
            raise ValueError(
                f"'{one}' is no hole: write `X Y THREAD`, such as `12 10 M5`, several parted by `;`"
            ) from None
        if thread not in THREADS:
            raise ValueError(f"hole '{one}': no thread '{thread}'; use one of {', '.join(THREADS)}")
        if not (0 <= x <= width and 0 <= y <= height):
            raise ValueError(
                f"hole '{one}' lies beyond the outline of {width:g} x {height:g} mm: give mm from its lower left corner"
            )
        found.append(FixingHole(x, y, thread))
    return tuple(found)
