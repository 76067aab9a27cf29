"""Owns where short texts stand beside what they name, so that none lies on a hole, an edge or another text. Must not draw shapes."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace

from riktig.drawings.display import Anchor, Point, Text
from riktig.drawings.text_width import text_box, text_width
from riktig.plan.place.layout import Box

_GAP_MM = 2.0
_AIR_MM = 0.3
"""Free room around a text."""
_CORNER_MM = 3.0
_CELL_MM = 40.0


@dataclass(slots=True)
class FreeTexts:
    """Texts that are put one after another, each at the first of its places that is free, else where it lies on least.

    `room` is what they must stay in. Frame and mm as the drawing's.
    """

    room: Box
    texts: list[Text] = field(default_factory=list)
    _cells: dict[tuple[int, int], list[tuple[Box, int]]] = field(default_factory=dict)

    def block(self, *boxes: Box) -> None:
        """Note what no text may lie on."""
        self._note(boxes, 10)

    def frame(self, *boxes: Box) -> None:
        """Note boxes of which no text should cross the edges."""
        for box in boxes:
            flat = (replace(box, h=0), replace(box, y=box.top, h=0), replace(box, w=0), replace(box, x=box.right, w=0))
            self._note(flat, 1)

    def put(self, text: Text) -> None:
        """Put a text where it says."""
        self._put(text, [(text.x, text.y)])

    def beside(self, shape: Box, text: Text) -> None:
        """Put a text right, left, above or below of a shape."""
        self._put(text, _around(shape, *_size_of(text)))

    def inside(self, box: Box, text: Text) -> None:
        """Put a text into a box: its middle, its corners, further along; beside it where it is wider."""
        width, height = _size_of(text)
        if width + 2 * _CORNER_MM > box.w or height + 2.0 > box.h:
            self._put(text, _around(box, width, height))
            return
        left, right = box.x + _CORNER_MM, box.right - _CORNER_MM - width
        middle = box.centre[0] - width / 2
        low, high = min(box.y + _CORNER_MM, box.centre[1] - height / 2), box.top - _CORNER_MM - height
        self._put(
            text,
            [(x, y) for y in (low, box.centre[1] - height / 2, high, low + 2 * height) for x in (left, middle, right)],
        )

    def _put(self, text: Text, places: Iterable[Point]) -> None:
        found = [replace(text, x=x, y=y, anchor=Anchor.LEFT) for x, y in places]
        best = min(found, key=lambda one: self._lies_on(_box_of(one)))
        self.texts.append(best)
        self.block(_box_of(best))

    def _lies_on(self, box: Box) -> int:
        """Return how much a text would lie on: most where it leaves its room, least for an edge."""
        is_out = box.x < self.room.x or box.right > self.room.right or box.y < self.room.y or box.top > self.room.top
        near = {other: weight for cell in _cells_of(box) for other, weight in self._cells.get(cell, ())}
        return 100 * is_out + sum(weight for other, weight in near.items() if _meet(box, other))

    def _note(self, boxes: Iterable[Box], weight: int) -> None:
        for box in boxes:
            for cell in _cells_of(box):
                self._cells.setdefault(cell, []).append((box, weight))


def _cells_of(box: Box) -> Iterator[tuple[int, int]]:
    """Yield the squares that a box with its air lies in."""
    for column in range(int((box.x - 1) // _CELL_MM), int((box.right + 1) // _CELL_MM) + 1):
        yield from ((column, row) for row in range(int((box.y - 1) // _CELL_MM), int((box.top + 1) // _CELL_MM) + 1))


def _size_of(text: Text) -> tuple[float, float]:
    return text_width(text.text, text.size, is_bold=text.is_bold), text.size


def _box_of(text: Text) -> Box:
    left, low, right, high = text_box(text)
    return Box(x=left, y=low, w=right - left, h=high - low)


def _around(shape: Box, width: float, height: float) -> Iterator[Point]:
    middle, right, left = shape.centre[0] - width / 2, shape.right + _GAP_MM, shape.x - _GAP_MM - width
    for off in (0.0, 1.5 * height):
        high, low = shape.top + _GAP_MM + off, shape.y - _GAP_MM - height - off
        if not off:
            yield from ((x, shape.centre[1] + 1.5) for x in (right, left))
            yield from ((x, shape.centre[1] - 1.5 - height) for x in (right, left))
        yield from ((x, y) for y in (high, low) for x in (middle, right, left))


def _meet(one: Box, other: Box) -> bool:
    return (
        one.x < other.right + _AIR_MM and other.x < one.right + _AIR_MM
        and one.y < other.top + _AIR_MM and other.y < one.top + _AIR_MM
    )  # fmt: skip
