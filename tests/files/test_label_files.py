"""Label files read back: pages and labels of their true size (pypdf), lists with a row a label, and codes that lead to the thing."""

import csv
from pathlib import Path

import pytest
from pypdf import PdfReader

from riktig.drawings.labels.fitting import fit_labels
from riktig.drawings.labels.pages import PAPERS_MM, by_medium, code_rows, label_pages
from riktig.files.documents import export_documents
from riktig.files.label_files import HEADINGS
from riktig.plan.answers.lookup import Lookup
from riktig.plan.plan import Plan
from support import demo_text, plan_of

MM = 72 / 25.4


@pytest.fixture(scope="module", params=["iec", "ul"])
def made(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> tuple[Plan, Path]:
    plan, folder = plan_of(demo_text(request.param)), tmp_path_factory.mktemp("labels")
    export_documents(plan, folder, ("print",))
    return plan, folder


def test_pages_and_places_of_texts_are_those_of_the_media_to_a_tenth_of_a_millimetre(made: tuple[Plan, Path]) -> None:
    plan, folder = made
    labels = fit_labels(plan)
    width, height = PAPERS_MM[plan.job.practice.template_paper]
    pages = label_pages(labels, plan.job.practice.template_paper, "x")
    for medium in by_medium(labels):
        reader = PdfReader(folder / f"labels-{medium.code}.pdf")
        mine = [page for page in pages if page.medium == medium]
        assert len(reader.pages) == len(mine)
        for read, page in zip(reader.pages, mine, strict=True):
            box = read.mediabox
            assert (float(box.width) / MM, float(box.height) / MM) == pytest.approx((width, height), abs=0.1)
            found: list[tuple[str, float, float]] = []

            def see(
                text: str, cm: list[float], tm: list[float], *_: object, found: list[tuple[str, float, float]] = found
            ) -> None:
                if text.strip():
                    found.append((text.strip(), (tm[4] * cm[0] + cm[4]) / MM, (tm[5] * cm[3] + cm[5]) / MM))

            read.extract_text(visitor_text=see)
            for one in page.placed if medium.form in {"plate", "sheet", "wrap"} else ():
                inside = [
                    text for text, x, y in found
                    if one.x - 0.1 <= x <= one.x + one.fitted.width_mm and one.y - 0.1 <= y <= one.y + one.fitted.height_mm
                ]  # fmt: skip
                assert inside, one.fitted.lines


def test_each_list_has_a_row_a_label_and_none_is_refused(made: tuple[Plan, Path]) -> None:
    plan, folder = made
    for medium, members in by_medium(fit_labels(plan)).items():
        rows = list(csv.DictReader((folder / f"labels-{medium.code}.csv").read_text().splitlines()))
        assert [row["key"] for row in rows] == [label.sticker.key for label in members] and tuple(rows[0]) == HEADINGS
        assert (folder / f"labels-{medium.code}.xlsx").stat().st_size > 1000
        if medium.form == "plate":
            assert "<svg" in (folder / f"labels-{medium.code}-1.svg").read_text()
    assert not (folder / "labels-refused.csv").exists()


def test_the_code_on_a_label_leads_to_the_thing(made: tuple[Plan, Path]) -> None:
    plan, _ = made
    words = Lookup(plan).find()
    coded = [label for label in fit_labels(plan) if label.has_code]
    assert coded and all(label.sticker.link in words for label in coded)
    assert words[coded[0].sticker.link] in {"panel", coded[0].sticker.on}
    rows = code_rows(coded[0].sticker.link)
    assert len(rows) == len(rows[0]) and rows[0][:7] == (True,) * 7, "the finder pattern of ISO/IEC 18004"
