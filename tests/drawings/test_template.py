"""Templates: every text lies free of holes and of other texts, whole on its sheet."""

import pytest
from shapely import STRtree, box

from panels import roomy_panel_text
from riktig.drawings.display import Circle, Drawing, Text
from riktig.drawings.template import templates
from riktig.drawings.text_width import text_box
from riktig.plan.plan import Plan
from support import plan_of

BACK_PLATE = '[excepted.X91]\nload = "light"\n[excepted.X92]\nload = "heater"\n[excepted.X93]\nload = "heater"\n'


def covered(drawing: Drawing) -> list[str]:
    """Return texts that lie on a hole, on another text or beyond the sheet."""
    texts = [item for item in drawing.items if isinstance(item, Text)]
    rooms = [box(*text_box(item)) for item in texts]
    holes = [box(c.x - c.r, c.y - c.r, c.x + c.r, c.y + c.r) for c in drawing.items if isinstance(c, Circle)]
    hits = STRtree([*rooms, *holes]).query(rooms, predicate="intersects").T
    sheet = box(0, 0, drawing.width, drawing.height)
    return [texts[a].text for a, b in hits if a != b] + [
        text.text for text, room in zip(texts, rooms, strict=True) if not sheet.covers(room)
    ]


@pytest.fixture(scope="module", params=[3, 8, 17, 40])
def panel(request: pytest.FixtureRequest) -> Plan:
    return plan_of(roomy_panel_text(request.param) + (BACK_PLATE if request.param == 8 else ""))


def test_no_text_lies_on_a_hole_or_another_text(panel: Plan) -> None:
    """What is cut is read first: common practice, no source."""
    for drawing in templates(panel):
        assert covered(drawing) == [], drawing.name


def test_each_hole_is_named_beside_it(panel: Plan) -> None:
    """A name belongs to the hole that is nearest to it, or to one of the same part."""
    plate = templates(panel)[0]
    named = [item for item in plate.items if isinstance(item, Text) and item.text.startswith("ø")]
    assert len(named) == len(panel.holes)
    for text in named:
        left, low, right, high = text_box(text)
        nearest = min(
            panel.holes,
            key=lambda h: max(left - h.x, h.x - right, 0.0) ** 2 + max(low - h.y, h.y - high, 0.0) ** 2,
        )
        assert nearest.target == text.ref, text.text
