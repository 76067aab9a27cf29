"""How the ends of conductors are finished. Ferrules on fine strands, crimps on few thick ones: common practice, no source."""

import pytest

from riktig.catalogue.model import Clamp
from riktig.files.tables import wires_table
from riktig.plan.making.bom import build_bom
from riktig.plan.wiring.ends import Finish, finish_end
from riktig.record.operations import list_operations
from riktig.units.conductor_size import from_awg, from_mm2
from support import HEAD, STARTER, plan_of, small_text


@pytest.mark.parametrize(
    ("text", "finish"),
    [
        (small_text(), Finish.FERRULE),
        (small_text("ul"), Finish.PIN),
        (small_text("ul").replace('standard = "ul"', 'standard = "ul"\nconductor_class = "5"'), Finish.FERRULE),
    ],
)
def test_the_class_of_conductor_decides_what_is_crimped_on(text: str, finish: Finish) -> None:
    plan = plan_of(text)
    wire = next(c for c in plan.conductors if c.kind == "wire" and c.location == "plate")
    ends = plan.ends_of(wire)
    assert ends is not None and {end.finish for end in ends} == {finish}
    assert all(end.size == wire.size and end.strip_mm > 0 for end in ends)


@pytest.mark.parametrize(
    ("mm2", "clamp_mm", "conductor_class", "bolt", "strip", "fit"),
    [
        (0.75, 9, "5", False, 10, "8"),
        (2.5, 12, "5", False, 14, "12"),
        (4.0, 10, "5", False, 12, "10"),
        (10.0, 16, "5", False, 14, "12"),
        (35.0, 22, "5", False, 20, "18"),
        (95.0, 30, "5", False, 27, "25"),
        (150.0, 35, "5", False, 34, "32"),
        (4.0, 12, "2", False, 6, "12"),
        (4.0, 12, "5", True, 6, "M5"),
        (16.0, 20, "5", True, 11, "M6"),
    ],
)
def test_a_wire_is_stripped_by_its_sleeve_or_barrel_never_by_the_clamp(
    mm2: float, clamp_mm: float, conductor_class: str, bolt: bool, strip: float, fit: str
) -> None:
    """Sleeves of 8, 10, 12 and 18, of thick ones to 32 mm, by section: DIN 46228-4, from memory, and 2 mm for the collar; barrels: common
    practice, no source.
    """
    clamp = Clamp(clamp="bolt" if bolt else "screw", mm2_max=70.0, strip_mm=clamp_mm)
    end = finish_end(from_mm2(mm2), clamp, conductor_class)
    assert (end.strip_mm, end.fit) == (strip, fit)


def test_every_end_is_bought_stripped_and_told() -> None:
    plan = plan_of(HEAD + STARTER)
    wires = [c for c in plan.conductors if c.kind == "wire"]
    bought = sum(line.quantity for line in build_bom(plan) if line.code.startswith(("ferrule-", "ring-", "pin-")))
    assert bought == 2 * sum(c.kind != "link" for c in plan.conductors)
    table = wires_table(plan)
    assert table.headings[-6:-2] == ("end_from", "end_to", "strip_from_mm", "strip_to_mm")
    assert all(row[-6] and row[-3] > 0 for row in table.rows)
    cut = next(op for op in list_operations(plan) if op.key == f"wire:{wires[0].id}:cut")
    assert "strip " in cut.detail and "a ferrule on each end" in cut.detail
    assert all(plan.ends_of(c) is None for c in plan.conductors if c.kind == "link")


def test_thick_stranded_conductors_go_bare_into_their_clamps_and_nothing_is_bought_for_them() -> None:
    """Pins are made up to about 16 mm2: common practice, no source."""
    clamp = Clamp(clamp="screw", mm2_max=95, strip_mm=18)
    thin, thick = (finish_end(from_awg(awg), clamp, "2") for awg in ("6", "2/0"))
    assert (thin.finish, thick.finish) == (Finish.PIN, Finish.BARE)
    assert (thick.strip_mm, thick.text, thick.code) == (25, "bare", "")
    assert finish_end(from_awg("2/0"), Clamp(clamp="bolt", mm2_max=95), "2").finish is Finish.RING
