"""Drawings of plate and single-line diagram as recorded primitives."""

import pytest

from riktig.drawings.display import Circle, Drawing, Line, Rect, Symbol, Text
from riktig.drawings.palette import paper_colour
from riktig.drawings.plate import draw_plate, geometry_of, way_on_plate
from riktig.drawings.sheet_set import draw_sheets
from riktig.drawings.single_line import draw_single_line
from riktig.plan.plan import Plan
from strategies import PANEL, starter_text
from support import GROUPS, TWO_STATIONS, demo_text, plan_of, small_text

FEEDER = (
    TWO_STATIONS
    + '[device.Q7]\nkind = "breaker"\n[device.K7]\nkind = "contactor"\n[device.K8]\nkind = "contactor"\n[device.M7]\n'
    'kind = "motor"\n[[feeder]]\npath = "L1 L2 L3 > Q7 > (K7 | K8[3 2 1]) > M7"\n'
)
DEMOS = [demo_text("iec"), demo_text("ul")]


@pytest.fixture(scope="module", params=[small_text("iec"), small_text("ul"), GROUPS, FEEDER, *DEMOS])
def plan(request: pytest.FixtureRequest) -> Plan:
    return plan_of(request.param)


def points_of(drawing: Drawing) -> list[tuple[float, float]]:
    found: list[tuple[float, float]] = []
    for item in drawing.items:
        if isinstance(item, Line):
            found.extend(item.points)
        elif isinstance(item, Rect):
            found.extend([(item.x, item.y), (item.x + item.w, item.y + item.h)])
        elif isinstance(item, Circle | Text):
            found.append((item.x, item.y))
    return found


def test_the_plate_is_to_scale_and_a_wire_follows_its_ducts(plan: Plan) -> None:
    drawing = draw_plate(plan)
    outlines = [item for item in drawing.items if isinstance(item, Rect) and item.ref in plan.plate.boxes]
    boxes = {item.ref: item for item in reversed(outlines)}
    for item, box in plan.plate.boxes.items():
        assert (boxes[item].w, boxes[item].h) == (box.w, box.h)
    geometry = geometry_of(plan)
    for wire in plan.conductors:
        if wire.location == "plate" and wire.kind == "wire":
            points = way_on_plate(plan, wire, geometry)
            drawn = sum(abs(a[0] - b[0]) + abs(a[1] - b[1]) for a, b in zip(points, points[1:], strict=False))
            ends = 120 if wire.legs else 40
            assert abs(wire.length_mm - ends - drawn) <= 10, "drawn way plus 60 mm at each end in a duct, else 20 mm"


def test_every_tone_in_use_has_a_colour_on_paper(plan: Plan) -> None:
    tones = {item.tone for d in (*draw_sheets(plan), draw_plate(plan)) for item in d.primitives()}
    assert all(paper_colour(tone) is not None or tone.value == "none" for tone in tones)


@pytest.mark.parametrize(
    ("kind", "roles"),
    [
        ("dol", "QKF"), ("reversing", "QKF"), ("star-delta", "QKF"), ("drive", "QA"), ("soft", "QKA"), ("pump", "QKF"),
    ],
)  # fmt: skip
def test_the_single_line_diagram_shows_what_lies_in_the_power_path(kind: str, roles: str) -> None:
    plan = plan_of(PANEL.format(school="live") + starter_text("M1", kind) + '[way.W1]\ntitle = "Lights"\n')
    drawing = draw_single_line(plan)
    refs = {item.ref for item in drawing.items}
    assert {f"M1.{role}" for role in roles} | {"M1", "W1.F", "C1.T", "C2.G"} <= refs
    assert not {"M1.S0", "M1.T"} & refs
    assert all(0 <= x <= drawing.width for x, _ in points_of(drawing))


def test_the_two_halves_of_a_changeover_are_drawn_as_make_and_break() -> None:
    text = PANEL.format(school="live") + '[device.K9]\nkind = "relay"\n[device.P9]\nkind = "lamp"\n'
    text += '[[rung]]\npath = "C1+ > K9:no > P9 > C1-"\n[[rung]]\npath = "C1+ > K9:nc > P9 > C1-"\n'
    names = {
        i.shape.name for s in draw_sheets(plan_of(text)) for i in s.items if isinstance(i, Symbol) and i.ref == "K9"
    }
    assert {"iec-relay-co-no", "iec-relay-co-nc"} <= names
