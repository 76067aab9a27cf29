"""Cover, contents, lists, terminal and earthing sheets: complete, in order, and paged."""

import pytest

from riktig.catalogue.model import ElementKind
from riktig.drawings.circuit.sheets import draw_circuit
from riktig.drawings.display import Drawing, Symbol, Text
from riktig.drawings.papers.paper import Cell, Column, table_pages, wrap_words
from riktig.drawings.sheet_set import draw_sheets, sheet_number
from riktig.plan.plan import Plan
from riktig.plan.sheets.allocation import FIRST_SHEET
from strategies import PANEL, starter_text
from support import HEAD, demo_text, plan_of


def texts_of(sheets: list[Drawing]) -> set[str]:
    return {i.text for sheet in sheets for i in sheet.primitives() if isinstance(i, Text)}


@pytest.fixture(scope="module", params=["iec", "ul"])
def made(request: pytest.FixtureRequest) -> tuple[Plan, tuple[Drawing, ...]]:
    plan = plan_of(demo_text(request.param))
    return plan, draw_sheets(plan)


def chapter(sheets: tuple[Drawing, ...], words: str) -> list[Drawing]:
    return [sheet for sheet in sheets if words in sheet.title.partition("  ")[2]]


def test_sheets_have_numbers_of_their_own_in_order_and_say_their_place_in_the_set(
    made: tuple[Plan, tuple[Drawing, ...]],
) -> None:
    plan, sheets = made
    numbers = [sheet_number(sheet) for sheet in sheets]
    assert numbers == sorted(set(numbers)) and numbers[0] == 1
    circuit = set(plan.sheets.sheets())
    assert {n for n in numbers if n in circuit} == circuit and min(circuit) == FIRST_SHEET
    for page, sheet in enumerate(sheets, start=1):
        assert f"{page} of {len(sheets)}" in texts_of([sheet])


def test_every_sheet_carries_the_caution_job_customer_and_its_number(made: tuple[Plan, tuple[Drawing, ...]]) -> None:
    plan, sheets = made
    for sheet in sheets:
        texts = texts_of([sheet])
        assert any("prove dead" in text and "competent person" in text for text in texts)
        assert plan.job.info.customer in texts and str(sheet_number(sheet)) in texts


def test_the_cover_says_supply_ratings_and_what_stays_live(made: tuple[Plan, tuple[Drawing, ...]]) -> None:
    plan, sheets = made
    texts = texts_of([sheets[0]])
    assert {plan.job.info.number, plan.job.info.title, f"{plan.panel.sccr_ka:g} kA"} <= texts
    names = ", ".join(x.name for x in plan.job.excepted)
    assert f"With the main switch off these stay live: {names}." in texts
    assert any("Insulation tests destroy electronics" in text for text in texts)


def test_the_contents_list_every_sheet_and_lead_to_it(made: tuple[Plan, tuple[Drawing, ...]]) -> None:
    sheets = made[1]
    links = {i.text: i.link for s in chapter(sheets, "Contents") for i in s.items if isinstance(i, Text) and i.link}
    assert links == {str(sheet_number(s)): f"sheet:{sheet_number(s)}" for s in sheets}


def test_contents_longer_than_a_page_count_themselves() -> None:
    text = HEAD.replace("height = 1200", "height = 6000").replace("width = 800", "width = 2400")
    sheets = draw_sheets(plan_of(text + "".join(starter_text(f"M{n}", "star-delta") for n in range(1, 61))))
    contents = chapter(sheets, "Contents")
    listed = [i for s in contents for i in s.items if isinstance(i, Text) and i.link]
    assert len(contents) == 2 and len(listed) == len(sheets)
    assert len({sheet_number(sheet) for sheet in sheets}) == len(sheets)


def test_the_device_list_has_each_device_once_with_where_it_is_drawn(made: tuple[Plan, tuple[Drawing, ...]]) -> None:
    plan, sheets = made
    rows = [i for s in chapter(sheets, "Device list") for i in s.items if isinstance(i, Text) and i.ref in plan.tags]
    assert sorted(i.ref or "" for i in rows) == sorted(plan.tags)
    assert {i.text for i in rows} == set(plan.tags.values())


def test_a_controller_lists_every_channel_used_or_free() -> None:
    plan = plan_of(demo_text("iec"))
    (sheet,) = chapter(draw_sheets(plan), "P1 inputs and outputs")
    texts = [i.text for i in sheet.items if isinstance(i, Text)]
    kinds = {ElementKind.INPUT, ElementKind.OUTPUT, ElementKind.ANALOG_IN, ElementKind.ANALOG_OUT}
    channels = [e.name for e in plan.parts["P1"].elements if e.kind in kinds]
    used = sum(use.device == "P1" and use.ref.what in {"di", "do", "ai", "ao"} for use in plan.uses)
    assert set(channels) <= set(texts) and texts.count("free") == len(channels) - used


def test_terminal_sheets_have_every_terminal_with_both_sides_and_draw_each_bridge(
    made: tuple[Plan, tuple[Drawing, ...]],
) -> None:
    plan, sheets = made
    drawn = [i for s in chapter(sheets, "Terminals ") for i in s.items if isinstance(i, Text) and i.is_bold]
    assert [i.ref for i in drawn if i.ref and ":" in i.ref] == [clamp.id for clamp in plan.clamps]
    words = " ".join(texts_of(chapter(sheets, "Terminals ")))
    for wire in plan.conductors:
        if wire.kind == "core" and any(end in plan.clamp_parts for end in (wire.a, wire.b)):
            far = wire.b if wire.a in plan.clamp_parts else wire.a
            assert plan.terminal_label(far) in words


def test_earthing_sheets_show_what_is_earthed_and_not_drawn_with_its_motor(
    made: tuple[Plan, tuple[Drawing, ...]],
) -> None:
    plan, sheets = made
    shown = {t for s in chapter(sheets, "Earthing") for i in s.items if isinstance(i, Symbol) for t in i.terminals}
    circuit = {t for s in draw_circuit(plan) for i in s.items if isinstance(i, Symbol) for t in i.terminals}
    earth = next(p for p in plan.potentials if p.number == "PE")
    assert shown == set(earth.net.terminals) - circuit and shown


def test_the_legend_explains_every_symbol_of_the_set(made: tuple[Plan, tuple[Drawing, ...]]) -> None:
    plan, sheets = made
    used = {i.shape.title for s in draw_circuit(plan) for i in s.items if isinstance(i, Symbol)}
    shown = {i.shape.title for s in chapter(sheets, "Symbols") for i in s.items if isinstance(i, Symbol)}
    assert used == shown and "" not in used
    words = texts_of(chapter(sheets, "Symbols"))
    assert all(wrap_words(title, 58.0, 2.8)[0] in words for title in used)


def test_a_table_fills_page_after_page_and_an_empty_one_is_a_page() -> None:
    columns = (Column(heading="A", width=40), Column(heading="B", width=40))
    rows = [(Cell(text=f"r{n}"), Cell(text="x")) for n in range(100)]
    pages = table_pages("T", "C", columns, rows, abreast=2)
    found = [i.text for page in pages for i in page.pen.items if isinstance(i, Text) and i.text.startswith("r")]
    assert found == [f"r{n}" for n in range(100)] and len(pages) == 2
    assert len(table_pages("T", "C", columns, [])) == 1


@pytest.mark.parametrize("count", [1, 6, 20, 40])
def test_the_overview_has_every_branch_once_and_parts_them_evenly(count: int) -> None:
    text = PANEL.format(school="live").replace("2200", "6000") + "".join(
        starter_text(f"M{n}", "dol") for n in range(1, count + 1)
    )
    plan = plan_of(text)
    pages = chapter(draw_sheets(plan), "Single-line diagram")
    motors = [
        i.ref for s in pages for i in s.primitives() if isinstance(i, Text) and i.text == "M" and i.ref in plan.motors
    ]
    assert motors == [f"M{n}" for n in range(1, count + 1)]
    assert len(pages) == (1 if count <= 20 else 2)
