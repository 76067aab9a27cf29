"""The drawn sheets: what their lines join is the circuit, nothing lies over anything, and references lead where they say."""

import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from panels import roomy_panel_text
from riktig.drawings.circuit.sheets import draw_circuit
from riktig.drawings.display import Drawing, Layer, Symbol, Text, bench_of
from riktig.drawings.sheet_set import draw_sheets
from riktig.drawings.text_width import text_box, text_width
from riktig.job.edits import change_member
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from sheet_reader import find_overlaps, label_at, read_nets
from strategies import PANEL, POWER, briefs, panels, starter_text
from support import GROUPS, HEAD, STARTER, TWO_STATIONS, demo_text, job_of, plan_of

SCHOOLS = {"columns": 'drawing = "columns"\nsymbols = "iec"', "rungs": 'drawing = "rungs"\nsymbols = "nema"'}
WHOLE = frozenset({Layer.NUMBER, Layer.REFERENCE, Layer.TERMINAL})
"""What is of no use unless it can be read whole."""
FEEDER = (
    TWO_STATIONS
    + '[device.Q7]\nkind = "breaker"\n[device.K7]\nkind = "contactor"\n[device.K8]\nkind = "contactor"\n[device.M7]\n'
    'kind = "motor"\n[[feeder]]\npath = "L1 L2 L3 > Q7 > (K7 | K8[3 2 1]) > M7"\n'
)
LONG = HEAD + "".join(f'[device.K{n}]\nkind = "relay"\n' for n in range(1, 30)) + '[device.P9]\nkind = "lamp"\n'
LONG += f'[[rung]]\npath = "C1+ > {" > ".join(f"K{n}:no" for n in range(1, 19))} > P9 > C1-"\n'
LONG += f'[[rung]]\npath = "C1+ > ({" | ".join(f"K{n}:nc > K{n + 1}:nc" for n in range(1, 28, 2))}) > K29:coil > C1-"\n'

DEEP = HEAD + "".join(f'[device.K{n}]\nkind = "relay"\n' for n in range(1, 10))
DEEP += "".join(f'[[rung]]\npath = "C1+ > {path} > C1-"\n' for path in (
    "((K2:no | K3:nc > K4:no > K5:nc) > (K6:no | K7:no > K8:no > K2:no | K3:no > K4:nc > K5:no) > "
    "(K6:nc > K7:nc > K8:nc | K2:nc > K3:no | K4:no) | K5:no > (K6:no | K7:nc > K8:no > K2:nc > K3:nc) | K4:no) > K1:coil",
    "K1:no > (K2:no > K3:no > K4:no > K5:no > K6:no > K7:no > K8:no > K2:nc > K3:nc | K4:nc) > K9:coil",
))  # fmt: skip

NAMED = HEAD + "".join(f'[device.K{n}]\nkind = "relay"\n' for n in range(1, 6)) + '[device.P1]\nkind = "lamp"\n'
NAMED += '[[rung]]\npath = "C1+ > (K1:no > @mid > (K2:no | K3:no > @deep > K4:no) | K3:no) > K1:coil > C1-"\n'
NAMED += '[[rung]]\npath = "@mid > K5:nc > P1 > C1-"\n[[rung]]\npath = "@deep > K5:no > K4:coil > C1-"\n'
"""Named points inside the branches of a fork, met by other rungs."""


def with_school(text: str, school: str) -> str:
    lines = SCHOOLS[school]
    if "[practice]" in text:
        return text.replace("[practice]", f"[practice]\n{lines}", 1)
    return text.replace("[supply]", f"[practice]\n{lines}\n[supply]", 1)


def ladders(plan: Plan) -> frozenset[str]:
    return frozenset(f"sheet-{place.sheet:03}" for place in plan.sheets.places.values() if place.is_line)


def check_reads_back(plan: Plan, sheets: tuple[Drawing, ...]) -> None:
    drawn = read_nets(sheets, ladder=ladders(plan))
    assert drawn == {frozenset(net.terminals) for net in plan.netlist.nets if net.terminals}
    faults = [f"{sheet.name}: {fault}" for sheet in sheets for fault in find_overlaps(sheet)]
    assert not faults, faults[:5]
    cut = [
        (s.name, i.text) for s in sheets for i in s.items if isinstance(i, Text) and i.layer in WHOLE and "…" in i.text
    ]
    assert not cut, cut[:5]


@pytest.fixture(scope="module", params=[(w, s) for w in ("iec", "ul") for s in SCHOOLS], ids="-".join)
def demo(request: pytest.FixtureRequest) -> tuple[Plan, tuple[Drawing, ...]]:
    world, school = request.param
    plan = plan_of(with_school(demo_text(world), school))
    return plan, draw_sheets(plan)


def test_the_lines_of_the_demos_are_their_netlist_and_nothing_overlaps(demo: tuple[Plan, tuple[Drawing, ...]]) -> None:
    check_reads_back(*demo)


@pytest.mark.parametrize("school", SCHOOLS)
@pytest.mark.parametrize("text", [GROUPS, FEEDER, LONG, DEEP, NAMED], ids=["groups", "feeder", "long", "deep", "named"])
def test_own_rungs_and_feeders_and_what_is_too_large_for_a_lane_read_back(text: str, school: str) -> None:
    plan = plan_of(with_school(text, school))
    check_reads_back(plan, draw_sheets(plan))


@pytest.mark.parametrize("school", SCHOOLS)
def test_a_job_of_many_starters_of_every_kind_reads_back_with_numbers_of_three_digits(school: str) -> None:
    kinds = sorted(POWER)
    text = PANEL.format(school="live").replace("height = 2200", "height = 6000")
    text += "".join(starter_text(f"M{n}", kinds[n % len(kinds)], 'lamps = ["run", "trip"]') for n in range(1, 43))
    plan = plan_of(with_school(text, school))
    sheets = draw_sheets(plan)
    assert any(p.number == "100L1" for p in plan.potentials)
    check_reads_back(plan, sheets)
    assert check_references(plan, sheets) > 1000


PRACTICES = (
    "",
    'numbering = "line"',
    'numbering = "sheet-column"\nnumber_prefix = "SECT1-8."',
    'tags = "number-letter"',
)


@settings(max_examples=examples(50))
@given(st.one_of(briefs(), panels()), st.sampled_from(sorted(SCHOOLS)), st.sampled_from(PRACTICES))
def test_the_drawing_is_the_circuit_and_nothing_overlaps(text: str, school: str, practice: str) -> None:
    plan = plan_of(with_school(text, school).replace("[practice]", f"[practice]\n{practice}", 1))
    sheets = draw_sheets(plan)
    check_reads_back(plan, sheets)
    check_references(plan, sheets)


MAIN_CONTACTOR = "[incoming]\nmain_contactor = true\n[phase_relay.K10]\n"


@pytest.mark.parametrize(
    "text", [HEAD + MAIN_CONTACTOR + STARTER, *map(roomy_panel_text, range(3, 300, 300 // examples(40)))]
)
def test_nothing_overlaps_on_whole_panels(text: str) -> None:
    faults = [f"{sheet.name}: {fault}" for sheet in draw_sheets(plan_of(text)) for fault in find_overlaps(sheet)]
    assert not faults, faults[:5]


def test_no_writing_is_under_two_and_a_half_millimetres_and_all_is_on_the_sheet(
    demo: tuple[Plan, tuple[Drawing, ...]],
) -> None:
    for sheet in demo[1]:
        texts = [item for item in sheet.primitives() if isinstance(item, Text)]
        assert min(text.size for text in texts) >= 2.5
        for text in texts:
            left, bottom, right, top = text_box(text)
            assert left >= 10 and bottom >= 10 and right <= 410.5 and top <= 292.5, (sheet.name, text.text)


def check_references(plan: Plan, sheets: tuple[Drawing, ...]) -> int:
    """Every link has one target; sheet.column or line, as written, is where that target really lies. Return how many are written."""
    where: dict[str, str] = {}
    for sheet in sheets:
        for target in sheet.targets:
            assert target.id not in where, target.id
            where[target.id] = label_at(sheet, target.x, target.y, is_ladder=sheet.name in ladders(plan))
    checked = 0
    for sheet in sheets:
        for item in sheet.items:
            if not isinstance(item, Text | Symbol) or item.link is None:
                continue
            bench = bench_of(item.link)
            assert bench is None or bench[1] == item.ref
            assert bench is not None or item.link in where, (sheet.name, item)
            if isinstance(item, Text) and bench is None:
                found = re.search(r"(?:^|[←→])(\d+\.\d|\d{4})$", item.text)
                if found is not None:
                    assert where[item.link] == found[1], (sheet.name, item.text, item.link)
                    checked += 1
    return checked


def test_every_reference_leads_to_one_place_and_names_it(demo: tuple[Plan, tuple[Drawing, ...]]) -> None:
    """At arrows, busbars, contacts, under coils and in lists."""
    assert check_references(*demo) > 100


def test_each_device_of_the_circuit_is_drawn_with_its_tag_and_each_number_on_its_line(
    demo: tuple[Plan, tuple[Drawing, ...]],
) -> None:
    plan, sheets = demo
    tags = {(i.ref, i.text) for s in sheets if s.targets for i in s.items if isinstance(i, Text)}
    assert {(use.device, plan.tags[use.device]) for use in plan.uses} <= tags
    numbers = {
        i.text.split(" ")[0] for s in sheets for i in s.items if isinstance(i, Text) and (i.ref or "")[:4] == "net:"
    }
    bare = {p.number.removeprefix("in.") for p in plan.potentials if p.number != "PE"}
    assert bare <= {n.removeprefix("in.") for n in numbers}


def test_one_contact_more_changes_its_sheet_and_the_references_to_its_device_alone() -> None:
    """A contact is put into a rung of its own: on other sheets of the circuit only what stands at its relay may change."""
    text = (
        demo_text("iec")
        + '[[rung]]\npath = "C1+ > M1.K:no > A77:coil > C1-"\nname = "extra"\n[device.A77]\nkind = "relay"\n'
    )
    before = settle(job_of(text))
    after = settle(change_member(before, "rungs", "extra", path="C1+ > M1.K:no > M6.K:nc > A77:coil > C1-"))
    old, new = ({s.name: set(s.items) for s in draw_circuit(compute_plan(job))} for job in (before, after))
    own = f"sheet-{compute_plan(after).sheets.places['extra'].sheet:03}"
    assert set(old) == set(new) and new[own] != old[own]
    for name in set(new) - {own}:
        assert {getattr(item, "ref", None) for item in new[name] ^ old[name]} <= {"M6.K"}, name


def test_widths_of_letters_are_those_of_the_fonts() -> None:
    """Against reportlab, which reads the font files itself."""
    from reportlab.pdfbase import pdfmetrics

    from riktig.files.pdf import register_fonts

    register_fonts()
    for text in ("K12", "Überlastrelais 12,5 A", "←20.3 →31.0", "CON1 (spare)", "Wm²"):
        for font, style in (("B612", {}), ("B612-Bold", {"is_bold": True}), ("B612Mono", {"is_mono": True})):
            expected = pdfmetrics.stringWidth(text, font, 2.5 * 1.4)
            assert abs(text_width(text, 2.5, **style) - expected) < 0.02
