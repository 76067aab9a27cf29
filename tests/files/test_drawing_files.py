"""Drawings as DXF, SVG and PDF, read back by ezdxf, an XML parser and pypdf."""

import re
import xml.etree.ElementTree as ET
from pathlib import Path

import ezdxf
import pytest
from pypdf import PdfReader

from riktig.drawings.display import Drawing, Line, Symbol, Text, bench_of
from riktig.drawings.plate import draw_plate
from riktig.drawings.sheet_set import draw_sheets, sheet_number
from riktig.drawings.text_width import text_box
from riktig.files.dxf import drawing_to_dxf
from riktig.files.pdf import write_pdf
from riktig.files.svg import drawing_to_svg
from riktig.plan.plan import Plan
from support import demo_text, plan_of

MM = 72 / 25.4


@pytest.fixture(scope="module", params=["iec", "ul"])
def made(request: pytest.FixtureRequest) -> tuple[Plan, tuple[Drawing, ...]]:
    plan = plan_of(demo_text(request.param))
    return plan, draw_sheets(plan)


def test_the_auditor_of_ezdxf_finds_nothing_in_any_sheet_or_plate(
    made: tuple[Plan, tuple[Drawing, ...]], tmp_path: Path
) -> None:
    plan, sheets = made
    for drawing in (*sheets, draw_plate(plan)):
        path = tmp_path / "d.dxf"
        path.write_text(drawing_to_dxf(drawing), encoding="utf-8")
        audit = ezdxf.readfile(path).audit()
        assert not audit.errors and not audit.fixes, drawing.name


def test_a_dxf_has_every_tag_on_its_layer_and_symbols_as_blocks_with_tag_and_terminals(
    made: tuple[Plan, tuple[Drawing, ...]], tmp_path: Path
) -> None:
    plan, sheets = made
    texts, blocks = set(), set()
    for drawing in sheets:
        path = tmp_path / "d.dxf"
        path.write_text(drawing_to_dxf(drawing), encoding="utf-8")
        space = ezdxf.readfile(path).modelspace()
        texts |= {e.dxf.text for e in space.query("TEXT[layer=='RIKTIG_TAGS']")}
        inserts = list(space.query("INSERT"))
        assert len(inserts) == sum(isinstance(item, Symbol) for item in drawing.items)
        for insert in inserts:
            values = {a.dxf.tag: a.dxf.text for a in insert.attribs}
            blocks |= {(values["TAG"], terminal) for terminal in values["TERMINALS"].split()}
        assert len(space.query("LWPOLYLINE[layer=='RIKTIG_WIRES']")) == sum(
            isinstance(item, Line) and item.layer.value == "wires" for item in drawing.items
        )
    drawn = {use.device for use in plan.uses}
    assert {plan.tags[device] for device in drawn} <= texts
    assert {(plan.tags[t.rpartition(":")[0]], t) for p in plan.potentials for t in p.net.terminals} == blocks


def test_a_dxf_is_the_same_each_time(made: tuple[Plan, tuple[Drawing, ...]]) -> None:
    assert drawing_to_dxf(made[1][3]) == drawing_to_dxf(made[1][3])


def test_a_link_of_the_pdf_lands_on_the_page_and_place_that_its_text_names(
    made: tuple[Plan, tuple[Drawing, ...]], tmp_path: Path
) -> None:
    sheets = made[1]
    write_pdf(sheets, tmp_path / "s.pdf")
    reader = PdfReader(tmp_path / "s.pdf")
    assert len(reader.pages) == len(sheets)
    place = {target.id: (n, target) for n, sheet in enumerate(sheets) for target in sheet.targets}
    count = 0
    for sheet, page in zip(sheets, reader.pages, strict=True):
        links = [
            i for i in sheet.primitives() if isinstance(i, Text) and i.link is not None and bench_of(i.link) is None
        ]
        rects = [a.get_object() for a in page.get("/Annots", [])]
        assert len(rects) == len(links)
        for text, link in zip(links, rects, strict=True):
            assert text.link is not None
            page_number, target = place[text.link]
            page_ref, fit, left, top, _ = link["/Dest"]
            assert reader.get_page_number(page_ref.get_object()) == page_number and fit == "/XYZ"
            assert abs(float(left) - (target.x - 40) * MM) < 0.1 and abs(float(top) - (target.y + 40) * MM) < 0.1
            assert [float(v) / MM for v in link["/Rect"]] == pytest.approx(text_box(text), abs=0.01)
            found = re.search(r"(?:^|[←→])(\d+)\.\d$", text.text)
            if found is not None:
                assert sheet_number(sheets[page_number]) == int(found[1])
                count += 1
    assert count > 30


def test_the_pdf_has_a_bookmark_for_each_chapter_and_each_sheet_below_it(
    made: tuple[Plan, tuple[Drawing, ...]], tmp_path: Path
) -> None:
    sheets = made[1]
    write_pdf(sheets, tmp_path / "s.pdf")
    outline = PdfReader(tmp_path / "s.pdf").outline
    chapters = [entry["/Title"] for entry in outline if not isinstance(entry, list)]
    titles = [entry["/Title"] for part in outline if isinstance(part, list) for entry in part]
    assert titles == [sheet.title for sheet in sheets]
    assert chapters[0] == "Cover and contents" and "Control circuit" in chapters and chapters[-1] == "Lists"


def test_an_svg_leads_from_file_to_file(made: tuple[Plan, tuple[Drawing, ...]]) -> None:
    sheets = made[1]
    places = {target.id: f"{sheet.name}.svg" for sheet in sheets for target in sheet.targets}
    ids, links = {}, set()
    for sheet in sheets:
        root = ET.fromstring(drawing_to_svg(sheet, places))
        ids[f"{sheet.name}.svg"] = {e.get("id") for e in root.iter() if e.get("id")}
        links |= {e.get("href") for e in root.iter() if e.tag.endswith("}a")}
    assert links
    for link in links:
        assert link is not None
        name, _, target = link.partition("#")
        assert target in ids[name]
