"""SVG and PDF from recorded primitives; XML is read back, PDF by pypdf."""

import xml.etree.ElementTree as ET
from pathlib import Path

import pytest
from pypdf import PdfReader

from riktig.drawings.display import EM_PER_HEIGHT, Anchor, Drawing, Pen, Tone
from riktig.drawings.palette import CASING
from riktig.files.pdf import write_pdf
from riktig.files.svg import drawing_to_svg

NS = "{http://www.w3.org/2000/svg}"


@pytest.fixture
def drawing() -> Drawing:
    pen = Pen()
    pen.rect(10, 20, 30, 40, fill=Tone.STEEL, radius=2, ref="K1")
    pen.circle(50, 60, 5, tone=Tone.DANGER)
    pen.line((0, 0), (100, 0), (100, 50), dashed=True)
    pen.line((5, 5), (9, 5), tone=Tone.WHITE, width=2, ref="wire:a b 1")
    pen.text(10, 90, "A < B & ü", size=4, anchor=Anchor.MIDDLE, bold=True)
    pen.text(70, 20, "X1:3", size=3, upright=True, mono=True)
    pen.text(1, 1, "")
    return Drawing(name="d", title="T & t", width=200, height=100, items=tuple(pen.items))


def test_svg_turns_y_around_and_keeps_sizes_in_mm(drawing: Drawing) -> None:
    root = ET.fromstring(drawing_to_svg(drawing))
    assert (root.get("width"), root.get("viewBox")) == ("200mm", "0 0 200 100")
    rect = root.find(f"{NS}rect")
    assert rect is not None
    assert [rect.get(k) for k in ("x", "y", "width", "height", "data-ref")] == [
        "10.00",
        "40.00",
        "30.00",
        "40.00",
        "K1",
    ]


def test_a_light_wire_gets_a_casing_so_that_it_reads_on_paper(drawing: Drawing) -> None:
    lines = ET.fromstring(drawing_to_svg(drawing)).findall(f"{NS}polyline")
    casing, wire = lines[-2:]
    assert casing.get("stroke") == CASING
    assert float(casing.get("stroke-width", 0)) > float(wire.get("stroke-width", 0))


def test_texts_are_escaped_sized_by_their_letters_and_turned(drawing: Drawing) -> None:
    texts = ET.fromstring(drawing_to_svg(drawing)).findall(f"{NS}text")
    assert [t.text for t in texts] == ["A < B & ü", "X1:3"], "an empty text is left out"
    assert float(texts[0].get("font-size", 0)) == pytest.approx(4 * EM_PER_HEIGHT)
    assert (texts[0].get("text-anchor"), texts[1].get("transform")) == ("middle", "rotate(-90 70.00 80.00)")


def test_pdf_pages_have_the_size_of_their_drawing_and_a_bookmark(drawing: Drawing, tmp_path: Path) -> None:
    path = tmp_path / "a.pdf"
    write_pdf((drawing, drawing), path)
    reader = PdfReader(path)
    assert len(reader.pages) == 2
    box = reader.pages[0].mediabox
    assert float(box.width) == pytest.approx(200 * 72 / 25.4) and float(box.height) == pytest.approx(100 * 72 / 25.4)
    assert [entry.title for entry in reader.outline] == ["T & t", "T & t"]  # type: ignore[union-attr]
    assert "A < B & ü" in reader.pages[0].extract_text()


def test_the_shipped_fonts_are_embedded(drawing: Drawing, tmp_path: Path) -> None:
    path = tmp_path / "a.pdf"
    write_pdf((drawing,), path)
    fonts = PdfReader(path).pages[0]["/Resources"]["/Font"]  # type: ignore[index]
    names = {str(font.get_object()["/BaseFont"]) for font in fonts.values()}
    assert any("B612-Bold" in name for name in names) and any("B612Mono" in name for name in names)


def test_the_same_drawing_gives_the_same_bytes(drawing: Drawing, tmp_path: Path) -> None:
    one, two = tmp_path / "a.pdf", tmp_path / "b.pdf"
    write_pdf((drawing,), one)
    write_pdf((drawing,), two)
    assert one.read_bytes() == two.read_bytes()
