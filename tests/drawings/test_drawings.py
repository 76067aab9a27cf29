"""Drawings as recorded primitives: every device and conductor is there, inside the sheet, readable."""

import pytest
from hypothesis import given, settings

from riktig.drawings.circuit import draw_sheets
from riktig.drawings.display import Circle, Drawing, Line, Rect, Text
from riktig.drawings.palette import paper_colour
from riktig.drawings.plate import draw_plate, geometry_of, wire_path
from riktig.drawings.single_line import draw_single_line
from riktig.job.paths import Nodes
from riktig.plan.plan import Plan
from riktig.plan.sheets import column_of, spots_of
from strategies import PANEL, panels, starter_text
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


def test_sheets_show_every_use_and_every_number_inside_the_frame(plan: Plan) -> None:
    sheets = draw_sheets(plan)
    refs = {item.ref for sheet in sheets for item in sheet.items}
    assert {use.device for use in plan.uses} <= refs
    in_paths = {
        n for p in plan.potentials if p.net.names != ("PE",) for n in [f"net:{p.number}"] if p.number[:3] != "in."
    }
    assert in_paths - {"net:PE"} <= refs
    for sheet in sheets:
        assert all(0 <= x <= sheet.width and 0 <= y <= sheet.height for x, y in points_of(sheet))
        assert min(item.size for item in sheet.items if isinstance(item, Text)) >= 2.5


def test_a_reference_names_the_sheet_and_column_where_the_device_is(plan: Plan) -> None:
    sheets = draw_sheets(plan)
    for device, (sheet, column) in plan.sheet_places.items():
        drawing = sheets[sheet - 1]
        xs = [item.x for item in drawing.items if isinstance(item, Text) and item.text == plan.tags[device]]
        assert any(abs((x - 20) // 39 - column) <= 1 for x in xs), device


def test_the_plate_is_to_scale_and_a_wire_follows_its_ducts(plan: Plan) -> None:
    drawing = draw_plate(plan)
    boxes = {item.ref: item for item in drawing.items if isinstance(item, Rect) and item.ref in plan.plate.boxes}
    for item, box in plan.plate.boxes.items():
        assert (boxes[item].w, boxes[item].h) == (box.w, box.h)
    geometry = geometry_of(plan)
    for wire in plan.conductors:
        if wire.location == "plate" and wire.kind == "wire":
            (points,) = wire_path(plan, wire, geometry)
            drawn = sum(abs(a[0] - b[0]) + abs(a[1] - b[1]) for a, b in zip(points, points[1:], strict=False))
            assert wire.length_mm - 130 <= drawn <= wire.length_mm - 110, "drawn way plus 60 mm at each end"


def test_every_tone_in_use_has_a_colour_on_paper(plan: Plan) -> None:
    tones = {item.tone for d in (*draw_sheets(plan), draw_plate(plan)) for item in d.items}
    assert all(paper_colour(tone) is not None or tone.value == "none" for tone in tones)


def test_paths_hang_from_the_sheet_that_the_plan_gave_them(plan: Plan) -> None:
    sheets = {place.sheet for place in plan.path_places.values()}
    assert len(draw_sheets(plan)) == len(sheets)
    assert all(isinstance(path.items[0], Nodes) for path in plan.circuit.paths)


def test_the_contact_map_below_a_coil_names_where_each_contact_is_drawn(plan: Plan) -> None:
    for path in plan.circuit.paths:
        place = plan.path_places[path.key]
        for ref, x in spots_of(path, place):
            use = next(u for u in plan.uses if u.key.startswith(f"{path.key}|") and u.ref.column == ref.column)
            marks, kind = plan.contacts.get(use.key), plan.circuit.device(use.device).kind
            if marks is not None and kind in {"contactor", "relay"}:
                line = f"{marks}  {place.sheet}.{column_of(x)}"
                assert any(isinstance(i, Text) and i.text == line for d in draw_sheets(plan) for i in d.items), line


@settings(max_examples=20, deadline=None)
@given(text=panels())
def test_any_panel_is_drawn_with_every_device_of_its_circuit(text: str) -> None:
    plan = plan_of(text)
    sheets = draw_sheets(plan)
    assert {use.device for use in plan.uses} <= {item.ref for sheet in sheets for item in sheet.items}
    assert [sheet.name for sheet in sheets] == [f"sheet-{n}" for n in range(1, len(sheets) + 1)]
    draw_plate(plan)


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
    blades = {
        item.points for sheet in draw_sheets(plan_of(text)) for item in sheet.items
        if isinstance(item, Line) and item.ref == "K9" and len(item.points) == 3
    }  # fmt: skip
    shapes = {tuple((round(x - p[0][0], 1), round(y - p[0][1], 1)) for x, y in p) for p in blades}
    assert len(shapes) >= 2, "a break contact has its stop, a make contact has none"
