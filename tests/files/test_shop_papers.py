"""Papers of the workshop, read back from their files: DXF circles, tiles at full size, hole schedule, cut list."""

import csv
import io
from pathlib import Path

import ezdxf
import pytest
from pypdf import PdfReader
from pypdf.generic import ContentStream

from riktig.drawings.display import Text
from riktig.drawings.shop_papers import hole_rows, shop_pages
from riktig.drawings.template import templates
from riktig.drawings.text_width import text_box
from riktig.files.documents import export_documents
from riktig.files.dxf import drawing_to_dxf
from riktig.files.tables import drill_table
from riktig.files.tiles import BAR_MM, EDGE_MM, FOOT_MM, OVERLAP_MM, PAPERS_MM, crosses, cut_tiles, write_tiles
from riktig.plan.plan import Plan
from support import plan_of, small_text

POINTS = 72 / 25.4


@pytest.fixture(params=["iec", "ul"], scope="module")
def plan(request: pytest.FixtureRequest) -> Plan:
    return plan_of(small_text(request.param))


def test_the_circles_of_the_dxf_are_the_hole_schedule(plan: Plan) -> None:
    """ezdxf reads and audits each template; circles on the layer of holes equal the schedule to 0.01 mm."""
    sheets = {"plate-template": "plate", "door-template": "door", "entry-template": "entry wall"}
    for drawing in templates(plan):
        doc = ezdxf.read(io.StringIO(drawing_to_dxf(drawing)))
        assert not doc.audit().errors and not doc.audit().fixes
        circles = doc.modelspace().query('CIRCLE[layer=="RIKTIG_HOLES"]')
        found = sorted(
            (round(c.dxf.center.x, 2), round(c.dxf.center.y, 2), round(2 * c.dxf.radius, 2)) for c in circles
        )
        wanted = sorted(
            (round(x, 2), round(y, 2), d)
            for where, x, y, d, *_ in hole_rows(plan)
            if where == sheets[drawing.name] and d
        )
        assert found == [pytest.approx(row, abs=0.01) for row in wanted] and found
        assert {e.dxf.layer for e in doc.modelspace()} >= {"RIKTIG_HOLES", "RIKTIG_OUTLINES", "RIKTIG_CENTRES"}


def test_nothing_is_forgotten_in_the_hole_schedule(plan: Plan) -> None:
    """Rails, ducts, what is screwed to the plate, earth bar and stud, door, entry wall, stations: common practice, no source."""
    what = {row[7] for row in hole_rows(plan)}
    codes = {rail.code for rail in plan.plate.rails} | {duct.code for duct in plan.plate.ducts}
    screwed = {plan.tags[i.id] for i in plan.plate.items.values() if not i.on_rail}
    on_door = {plan.tags[c.device] for c in plan.door.cutouts}
    at_stations = {plan.tags[c.device] for s in plan.stations for c in s.cutouts}
    assert (
        codes
        | screwed
        | on_door
        | at_stations
        | {c.name for c in plan.cables}
        | {plan.tags["PE.bar"], plan.tags["PE.plate"]}
        <= what
    )
    rows = list(csv.DictReader(io.StringIO(drill_table(plan).to_csv())))
    assert len(rows) == len(hole_rows(plan)) and {row["where"] for row in rows} >= {"plate", "door", "entry wall"}


def lines_of(reader: PdfReader, page: int) -> list[tuple[float, float, float, float]]:
    """Return the straight lines of a page in mm, its scales and shifts applied."""
    content = ContentStream(reader.pages[page].get_contents(), reader)
    stack, now = [], (1.0, 1.0, 0.0, 0.0)
    found, start = [], (0.0, 0.0)
    for operands, operator in content.operations:
        values = [float(v) for v in operands] if operator in {b"cm", b"m", b"l"} else []
        if operator == b"q":
            stack.append(now)
        elif operator == b"Q":
            now = stack.pop()
        elif operator == b"cm":
            now = (values[0] * now[0], values[3] * now[1], values[4] * now[0] + now[2], values[5] * now[1] + now[3])
        elif operator in {b"m", b"l"}:
            x, y = values
            at = ((x * now[0] + now[2]) / POINTS, (y * now[1] + now[3]) / POINTS)
            if operator == b"l":
                found.append((*start, *at))
            start = at
    return found


def test_the_bar_is_100_mm_on_every_tile_and_marks_meet_across_the_overlap(plan: Plan, tmp_path: Path) -> None:
    """pypdf reads the file back; a cross of one place of the plate stands on two neighbours where both show it."""
    drawing = templates(plan)[0]
    path = tmp_path / "t.pdf"
    write_tiles((drawing,), path, "a4")
    reader = PdfReader(path)
    tiles = cut_tiles(drawing.width, drawing.height, "a4")
    assert len(reader.pages) == len(tiles) + 1
    seen: dict[tuple[float, float], int] = {}
    for page, tile in enumerate(tiles, start=1):
        size = reader.pages[page].mediabox
        assert sorted((float(size.width) / POINTS, float(size.height) / POINTS)) == pytest.approx(
            sorted(PAPERS_MM["a4"])
        )
        lines = lines_of(reader, page)
        assert any(
            abs(x1 - x0 - BAR_MM) < 0.01 and abs(y1 - y0) < 0.01 and y0 < EDGE_MM + FOOT_MM for x0, y0, x1, y1 in lines
        )
        middles = {(round((a + c) / 2, 1), round((b + d) / 2, 1)) for a, b, c, d in lines}
        for x, y in crosses(tile):
            at = (round(x - tile.x + EDGE_MM, 1), round(y - tile.y + EDGE_MM + FOOT_MM, 1))
            assert at in middles, "the cross is drawn where its place of the plate lies"
            seen[x, y] = seen.get((x, y), 0) + 1
    assert max(seen.values()) == 4 and sum(n == 4 for n in seen.values()) == (max(t.column for t in tiles) - 1) * (
        max(t.row for t in tiles) - 1
    )


@pytest.mark.parametrize(
    ("width", "height", "paper"), [(150, 180, "a4"), (950, 1750, "a4"), (1200, 600, "letter"), (700, 500, "a3")]
)
def test_tiles_cover_the_drawing_and_overlap_by_ten_millimetres(width: float, height: float, paper: str) -> None:
    tiles = cut_tiles(width, height, paper)
    assert max(t.x + t.w for t in tiles) >= width and max(t.y + t.h for t in tiles) >= height
    for tile in tiles:
        right = next((t for t in tiles if (t.column, t.row) == (tile.column + 1, tile.row)), None)
        above = next((t for t in tiles if (t.column, t.row) == (tile.column, tile.row + 1)), None)
        assert right is None or tile.x + tile.w - right.x == pytest.approx(OVERLAP_MM)
        assert above is None or tile.y + tile.h - above.y == pytest.approx(OVERLAP_MM)
    assert len({t.name for t in tiles}) == len(tiles)


def test_a_tile_has_all_that_lies_on_it_and_nothing_from_elsewhere(plan: Plan, tmp_path: Path) -> None:
    """pypdf reads each page: every text whose room meets the tile is there, and none that lies beyond it."""
    drawing = templates(plan)[0]
    write_tiles((drawing,), tmp_path / "t.pdf", "a4")
    pages = PdfReader(tmp_path / "t.pdf").pages[1:]
    texts = [(item.text, text_box(item)) for item in drawing.primitives() if isinstance(item, Text)]
    tiles = cut_tiles(drawing.width, drawing.height, "a4")
    assert len(pages) == len(tiles) > 3
    for page, tile in zip(pages, tiles, strict=True):
        own = {"/".join(f"{at:g}" for at in cross) for cross in crosses(tile)}
        words = [line.strip() for line in page.extract_text().splitlines()]
        inside = {
            text
            for text, (left, low, right, high) in texts
            if right >= tile.x and left <= tile.x + tile.w and high >= tile.y and low <= tile.y + tile.h
        }
        elsewhere = {text for text, _ in texts} - inside - own
        joined = " ".join(words)
        assert all(text in joined for text in inside if len(text) > 3), inside
        assert not [text for text in elsewhere if text in words and len(text) > 6]


def test_the_cut_list_has_every_piece_with_its_code_once(plan: Plan) -> None:
    texts = [t.text for page in shop_pages(plan) for t in page.primitives() if hasattr(t, "text")]
    for cut in plan.cuts:
        assert sum(text == cut.code or text.startswith(f"{cut.code} ") for text in texts) >= 1
    codes = [cut.code for cut in plan.cuts]
    assert len(codes) == len(set(codes)) == len(plan.plate.rails) + 2 * len(plan.plate.ducts)


@pytest.mark.parametrize(
    ("words", "size"),
    [
        ('standard = "iec"', (210, 297)),
        ('standard = "ul"', (215.9, 279.4)),
        ('standard = "iec"\npaper = "a3"', (297, 420)),
        ('standard = "ul"\npaper = "tabloid"', (279.4, 431.8)),
    ],
)
def test_templates_are_printed_on_the_paper_that_a_shop_has(
    words: str, size: tuple[float, float], tmp_path: Path
) -> None:
    """ISO 216; ANSI/ASME Y14.1: tabloid is 11 x 17 in."""
    made = plan_of(small_text().replace('standard = "iec"', words))
    export_documents(made, tmp_path, ("plate",), anyway=True)
    page = PdfReader(tmp_path / "plate-template.pdf").pages[0].mediabox
    assert sorted(float(side) * 25.4 / 72 for side in (page.width, page.height)) == pytest.approx(sorted(size), abs=0.1)
