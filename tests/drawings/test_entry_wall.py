"""The entry wall on the screen: each hole in its place and named, also where there are two rows of them."""

import pytest

from riktig.drawings.display import Circle, Text
from riktig.drawings.entry_wall import draw_entry_wall
from support import HEAD, STARTER, plan_of


@pytest.mark.parametrize(("width", "rows"), [(800, 1), (300, 2)])
def test_every_hole_is_drawn_to_scale_named_and_listed_with_its_centre(width: int, rows: int) -> None:
    text = HEAD.replace("width = 800", f"width = {width}").replace("height = 1200", "height = 1200\ndepth = 400")
    plan = plan_of(text + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 12)))
    assert len({e.z for e in plan.entries}) == rows
    drawing = draw_entry_wall(plan)
    circles = {c.ref: c for c in drawing.items if isinstance(c, Circle)}
    origin = plan.entries[0].x - circles[f"cable:{plan.entries[0].cable}"].x
    for e in plan.entries:
        ref = f"cable:{e.cable}"
        hole = circles[ref]
        assert hole.r == e.diameter / 2 and e.x - hole.x == pytest.approx(origin)
        words = {t.text for t in drawing.items if isinstance(t, Text) and t.ref == ref}
        assert {e.cable, f"{e.x:g}", f"{e.z:g}"} <= words and any(e.fitting in word for word in words)
    for item in drawing.items:
        if isinstance(item, Text):
            assert 0 <= item.x <= drawing.width and 0 <= item.y <= drawing.height
