"""What leaves: the Plan as JSON, schedules as CSV, drawings as SVG and PDF."""

import csv
import io
import xml.etree.ElementTree as ET
from pathlib import Path

import openpyxl
import pytest
from pypdf import PdfReader

from riktig.drawings.labels.fitting import fit_labels
from riktig.drawings.shop_papers import hole_rows
from riktig.files import documents
from riktig.files.plan_json import plan_to_dict
from riktig.files.tables import all_tables
from riktig.plan.circuit.model import NEXT_PANEL
from riktig.plan.making.hidden import covers_of
from riktig.plan.making.lots import cut_lengths
from riktig.plan.plan import Plan
from support import GROUPS, HEAD, STARTER, plan_of, small_text


@pytest.fixture(scope="module", params=["iec", "ul", "groups"])
def plan(request: pytest.FixtureRequest) -> Plan:
    return plan_of(GROUPS if request.param == "groups" else small_text(request.param))


@pytest.fixture(scope="module")
def folder(plan: Plan, tmp_path_factory: pytest.TempPathFactory) -> Path:
    out = tmp_path_factory.mktemp("out")
    documents.export_documents(plan, out)
    return out


def test_the_json_has_the_promised_keys(plan: Plan) -> None:
    data = plan_to_dict(plan)
    assert list(data) == [
        "riktig", "job", "devices", "potentials", "conductors", "cables", "terminals", "sizing", "panel", "plate", "door",
        "labels", "findings", "spare_terminals",
    ]  # fmt: skip
    promised = {
        "devices": "id tag kind part location title starter role sheet column settings",
        "potentials": "id number name terminals",
        "conductors": "id number kind from to location section_mm2 awg colour length_mm route marker_from marker_to stage batch",
        "cables": "name from to conductors spare conduit",
        "terminals": "strip position label potential inside outside bridge",
        "sizing": "subject quantity value unit formula inputs source",
        "labels": "kind text count size",
        "findings": "rule severity subject message evidence limit source",
    }
    for key, fields in promised.items():
        assert all(set(fields.split()) <= set(row) for row in data[key]), key
    assert set(data["plate"]) >= {"width", "height", "parts", "rails", "ducts", "holes", "cuts", "stock_mm", "kerf_mm"}


def test_what_a_value_is_about_is_a_tag_or_the_panel_or_a_control_supply() -> None:
    more = '[phase_lamps]\n[pass_through]\n[extra_supply.P]\nsystem = "3ph"\nvolts = 400\n'
    plan = plan_of(HEAD + STARTER + more)
    data = plan_to_dict(plan)
    names = {"panel", *(control["name"] for control in data["job"]["controls"]), *(d["tag"] for d in data["devices"])}
    assert {value["subject"] for value in data["sizing"]} <= names
    about = {v["subject"] for v in data["sizing"] if v["quantity"] in {"conductor_section", "full_load"}}
    assert about >= {plan.tags[device] for device in ("phase_lamps.F1", NEXT_PANEL, "P.Q")}


def test_every_terminal_stands_once_and_every_conductor_ends_on_one(plan: Plan) -> None:
    data = plan_to_dict(plan)
    terminals = [t for p in data["potentials"] for t in p["terminals"]]
    assert len(terminals) == len(set(terminals))
    assert len({p["number"] for p in data["potentials"]}) == len(data["potentials"])
    number = {t: p["number"] for p in data["potentials"] for t in p["terminals"]}
    for conductor in data["conductors"]:
        assert number[conductor["from"]] == number[conductor["to"]] == conductor["number"]
    wires = {c["id"] for c in data["conductors"]}
    assert all(set(t["inside"] + t["outside"]) <= wires for t in data["terminals"])


def test_plate_pieces_are_held_and_cut_from_stock(plan: Plan) -> None:
    plate = plan_to_dict(plan)["plate"]
    codes = {p["code"] for p in plate["rails"] + plate["ducts"]}
    for code in codes:
        assert sum(h["for"] == code for h in plate["holes"]) >= 2
    known = codes | {p["tag"] for p in plate["parts"]}
    assert all(hole["for"] in known for hole in plate["holes"])
    bars: dict[tuple[str, int], list[float]] = {}
    for cut in plate["cuts"]:
        bars.setdefault((cut["profile"], cut["bar"]), []).append(cut["length"])
    assert all(sum(b) + (len(b) - 1) * plate["kerf_mm"] <= plate["stock_mm"] for b in bars.values())
    assert {c["code"] for c in plate["cuts"] if c["what"] != "lid"} == codes


def test_schedules_have_the_counts_of_the_plan(plan: Plan, folder: Path) -> None:
    rows = {
        name: list(csv.DictReader(io.StringIO((folder / f"{name}.csv").read_text())))
        for name in ("wires", "terminals", "labels", "bom", "cuts", "drill")
    }
    wires = [c for c in plan.conductors if c.kind != "link"]
    assert len(rows["wires"]) == len(wires)
    assert {r["number"] for r in rows["wires"]} == {c.number for c in wires}
    assert (len(rows["terminals"]), len(rows["cuts"])) == (len(plan.clamps), len(plan.cuts))
    assert len(rows["drill"]) == len(hole_rows(plan)) >= len(plan.holes) + len(plan.door.cutouts) + len(plan.entries)
    assert sum(int(r["count"]) for r in rows["labels"] if r["kind"] == "wire") == 2 * len(wires)
    stuck = sum(float(r["quantity"]) for r in rows["bom"] if r["unit"] == "pc" and r["bought"].startswith("for "))
    assert stuck == sum(label.medium is not None and not label.medium.is_endless for label in fit_labels(plan))
    parts = sum(float(r["quantity"]) for r in rows["bom"] if r["unit"] == "pc") - stuck
    bars = {(c.profile, c.bar) for c in plan.cuts}
    devices = sum(len(p.codes) for p in plan.parts.values() if p.kind != "motor")
    devices += sum(p.kind in {"pushbutton", "beacon"} and "colour" not in p.traits for p in plan.parts.values())
    devices += sum(sum(e.kind == "pole" for e in p.elements) for p in plan.parts.values() if p.kind == "fuse")
    strips, glands = {c.strip for c in plan.clamps}, sum(c.gland is not None for c in plan.cables)
    assert parts == devices + len(plan.clamps) + 3 * len(strips) + glands + len(bars) + 2 * len(wires) + len(
        covers_of(plan)
    )
    metres = sum(float(r["quantity"]) for r in rows["bom"] if r["code"].startswith("wire-"))
    assert metres == pytest.approx(sum(cut_lengths(plan)[c.id] for c in wires if c.kind == "wire") / 1000, abs=0.05)


def test_the_pdf_can_be_read_back_with_every_number_and_tag(plan: Plan, folder: Path) -> None:
    """pypdf as reader."""
    words = " ".join(page.extract_text() for page in PdfReader(folder / "sheets.pdf").pages).split()
    drawn = {u.device for u in plan.uses}
    assert {plan.tags[d] for d in drawn} <= set(words)
    assert {p.number.removeprefix("in.") for p in plan.potentials if p.number != "PE"} <= set(words)
    plate = " ".join(page.extract_text() for page in PdfReader(folder / "plate.pdf").pages).split()
    assert {plan.tags[d] for d in plan.plate.boxes if d in plan.parts} <= set(plate)
    assert {r.code for r in plan.plate.rails} | {d.code for d in plan.plate.ducts} <= set(plate)


def test_every_svg_is_sound_and_carries_the_ids_of_what_it_shows(plan: Plan, folder: Path) -> None:
    refs = set()
    for path in folder.glob("*.svg"):
        refs |= {e.get("data-ref") for e in ET.fromstring(path.read_text()).iter()}
    assert {u.device for u in plan.uses} <= refs


def test_an_unknown_document_or_a_locked_folder_is_refused(plan: Plan, tmp_path: Path) -> None:
    with pytest.raises(documents.ExportError, match="choose from wires"):
        documents.export_documents(plan, tmp_path, ["wyres"])
    blocked = tmp_path / "file"
    blocked.write_text("")
    with pytest.raises(documents.ExportError, match="choose another folder"):
        documents.export_documents(plan, blocked)


def test_tables_quote_what_a_spreadsheet_would_break() -> None:
    table = next(t for t in all_tables(plan_of(small_text())) if t.name == "labels")
    rows = list(csv.reader(io.StringIO(table.to_csv())))
    assert all(len(row) == len(table.headings) for row in rows)


def test_every_schedule_is_a_workbook_that_says_the_same_as_its_text(plan: Plan, folder: Path) -> None:
    """openpyxl as reader."""
    for table in all_tables(plan):
        book = openpyxl.load_workbook(folder / f"{table.name}.xlsx")
        rows = list(book.active.iter_rows(values_only=True))  # type: ignore[union-attr]
        assert rows[0] == table.headings
        assert [tuple("" if v is None else v for v in row) for row in rows[1:]] == [tuple(row) for row in table.rows]
        assert not any(cell.data_type == "f" for row in book.active.iter_rows() for cell in row)  # type: ignore[union-attr]


def test_a_cable_knows_its_cores_and_its_conduit() -> None:
    """By hand, NEC Chapter 9 Tables 1, 4, 5: three of 12 AWG and one of 12 take 4 · 0.0133 in2 of EMT 1/2 with 0.304: 17.5 %."""
    plan = plan_of(small_text("ul"))
    rows = {row[0]: row for row in next(t for t in all_tables(plan) if t.name == "cables").rows}
    motor = next(c for c in plan.cables if c.target == "M1" or "M1" in c.drop)
    assert len(motor.numbers) == 4 and motor.conduit is not None and motor.conduit.trade_size == "1/2"
    areas = {"14 AWG": 0.0097, "12 AWG": 0.0133, "10 AWG": 0.0211}
    assert motor.conduit.fill_percent == pytest.approx(100 * 4 * areas[motor.size_label] / 0.304)
    assert rows[motor.name][3:5] == (4 + motor.spare, motor.spare)
    assert all(c.conduit is None for c in plan_of(small_text()).cables), "metric cables go through glands"


def test_an_impossible_plate_is_no_shop_paper_and_anyway_says_so_on_every_page(tmp_path: Path) -> None:
    """What does not fit is never cut and drilled by: common practice, no source."""
    wrong = plan_of(small_text("iec").replace("width = 500\nheight = 700", "width = 300\nheight = 300"))
    with pytest.raises(documents.ExportError, match=r"not written: .*--anyway"):
        documents.export_documents(wrong, tmp_path / "out")
    there = {path.stem for path in (tmp_path / "out").iterdir()}
    assert "wires" in there and not there & documents.SHOP
    documents.export_documents(wrong, tmp_path / "all", sorted(documents.SHOP), anyway=True)
    for pdf in (tmp_path / "all").glob("*.pdf"):
        assert all("IMPOSSIBLE AS DRAWN" in page.extract_text() for page in PdfReader(pdf).pages), pdf.name
    for table in (tmp_path / "all").glob("*.csv"):
        assert "IMPOSSIBLE AS DRAWN" in table.read_text(), table.name


def test_kept_scripts_are_reported_with_what_was_not_as_it_should_be_and_the_caution(tmp_path: Path) -> None:
    kept = '[[script]]\ntitle = "Starts"\n[[script.steps]]\ndo = ["push M1.S1"]\nexpect = ["M1 forward"]\n'
    kept += '[[script]]\ntitle = "Wrong"\n[[script.steps]]\ndo = ["push M1.S0"]\nexpect = ["M1 forward"]\n'
    kept += '[[script]]\ntitle = "Gone"\n[[script.steps]]\ndo = ["push M9.S0"]\n'
    documents.export_documents(plan_of(HEAD + STARTER + kept), tmp_path, ["scripts"])
    (page,) = PdfReader(tmp_path / "scripts.pdf").pages
    text = " ".join(page.extract_text().split())
    assert "1 of 3 pass" in text and "no proof" in text and "competent person" in text
    assert "M1 forward: M1 stopped" in text and "is open between" in text and "nothing is called M9.S0" in text
    documents.export_documents(plan_of(HEAD + STARTER), tmp_path / "none", ["scripts"])
    assert not list((tmp_path / "none").iterdir()), "a job that keeps none has no such paper"
