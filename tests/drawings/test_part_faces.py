"""What parts are told apart by on the plate: within their outline, beside their tag, and each sort in its own way."""

from itertools import combinations

from riktig.catalogue.loader import shipped_parts
from riktig.catalogue.model import Mounting
from riktig.drawings.display import Circle, Item, Line, Pen, Rect
from riktig.drawings.part_faces import draw_face


def face_of(kind: str, size: tuple[float, float]) -> list[Item]:
    pen = Pen()
    draw_face(pen, kind, (10.0, 20.0), size, "K1")
    return list(pen.items)


def extent(item: Item) -> tuple[float, float, float, float]:
    if isinstance(item, Rect):
        return item.x, item.y, item.x + item.w, item.y + item.h
    if isinstance(item, Circle):
        return item.x - item.r, item.y - item.r, item.x + item.r, item.y + item.r
    assert isinstance(item, Line)
    xs, ys = zip(*item.points, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def test_a_face_lies_within_its_part_and_leaves_the_middle_to_the_tag() -> None:
    drawn = 0
    for part in shipped_parts():
        if part.mounting in {Mounting.RAIL, Mounting.PLATE}:
            for item in face_of(part.kind, (part.width, part.height)):
                left, low, right, high = extent(item)
                assert left >= 10 and right <= 10 + part.width and low >= 20 and high <= 20 + part.height, part.code
                assert high <= 20 + 0.3 * part.height or low >= 20 + 0.7 * part.height, part.code
                assert item.ref == "K1"
                drawn += 1
    assert drawn > 1000


def test_what_stands_beside_each_other_in_a_panel_looks_otherwise() -> None:
    kinds = ("breaker", "motor-breaker", "contactor", "overload", "drive", "transformer", "plc", "fuse", "timer")
    faces = {kind: [(type(item).__name__, extent(item)) for item in face_of(kind, (45.0, 90.0))] for kind in kinds}
    assert all(faces.values()) and all(faces[a] != faces[b] for a, b in combinations(kinds, 2))
    assert face_of("contactor", (12.0, 90.0)) == [], "nothing that nobody can see"
