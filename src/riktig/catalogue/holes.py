"""Owns the form of a part seen from the front: the holes by which it is screwed down, and its outline where that is odd. Must not know
plates.

Frame: mm, origin at the lower left corner of the part's outline seen from the front, x right, y up.
"""

from dataclasses import dataclass
from functools import cache

THREADS = ("M4", "M5", "M6", "M8", "10-32", "1/4-20", "5/16-18")
"""Threads that parts are screwed on with: metric, and unified."""


_LEAST_CORNERS = 3


@dataclass(frozen=True, slots=True)
class FixingHole:
    """A hole of a part: its centre in mm in the part's frame, and the thread of its screw, "" for that which the panel's practice has."""

    x: float
    y: float
    thread: str


@cache
def read_holes(text: str, width: float, height: float) -> tuple[FixingHole, ...]:
    """Return the pattern that a text means: `X Y THREAD` or `X Y`, parted by `;`; a place below 0 counts from the right or upper edge, one
    with % is a share of the outline.

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
            x, y = (_place(word, size) for word, size in zip(words[:2], (width, height), strict=True))
            (thread,) = words[2:] or ("",)
        except ValueError:
            raise ValueError(
                f"'{one}' is no hole: write `X Y THREAD`, such as `12 10 M5`, `-12 -10` or `50% 10`, several parted by `;`"
            ) from None
        if thread and thread not in THREADS:
            raise ValueError(f"hole '{one}': no thread '{thread}'; use one of {', '.join(THREADS)}")
        if not (0 <= x <= width and 0 <= y <= height):
            raise ValueError(
                f"hole '{one}' lies beyond the outline of {width:g} x {height:g} mm: give mm from its lower left corner"
            )
        found.append(FixingHole(x, y, thread))
    return tuple(found)


@cache
def read_outline(text: str, width: float, height: float) -> tuple[tuple[float, float], ...]:
    """Return the corners of an outline that a text means: `X Y`, parted by `;`, places as those of holes; none for "", a rectangle then.

    Args:
        text: the outline.
        width: of the rectangle that holds it, in mm.
        height: likewise.

    Raises:
        ValueError: it means none, or a corner lies beyond the rectangle.
    """
    corners = []
    for one in filter(None, (piece.strip() for piece in text.split(";"))):
        try:
            x, y = (_place(word, size) for word, size in zip(one.split(), (width, height), strict=True))
        except ValueError:
            raise ValueError(
                f"'{one}' is no corner: write `X Y`, such as `0 0; 100% 0; 50% 90`, parted by `;`"
            ) from None
        if not (0 <= x <= width and 0 <= y <= height):
            raise ValueError(
                f"corner '{one}' lies beyond {width:g} x {height:g} mm: give mm from the lower left corner"
            )
        corners.append((x, y))
    if 0 < len(corners) < _LEAST_CORNERS:
        raise ValueError(f"an outline has at least {_LEAST_CORNERS} corners")
    return tuple(corners)


def _place(word: str, size: float) -> float:
    if word.endswith("%"):
        return float(word[:-1]) / 100 * size
    at = float(word)
    return size + at if at < 0 else at
