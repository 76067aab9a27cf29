"""What parts are made to: terminals for the field, glands, the column of ampacities that terminals allow."""

from dataclasses import replace

import pytest

from riktig.checks.run import find_all
from support import HEAD, STARTER, plan_of, small_text

UL = small_text("ul")
IEC = HEAD + STARTER


@pytest.mark.parametrize(("wiring", "severity"), [("factory", "must"), ("", "note")])
def test_cables_from_the_field_land_on_terminals_for_field_wiring(wiring: str, severity: str) -> None:
    plan = plan_of(UL)
    assert "field-wiring" not in {found.rule for found in find_all(plan)}
    parts = {name: replace(part, traits={**part.traits, "wiring": wiring}) for name, part in plan.clamp_parts.items()}
    found = {one.severity for one in find_all(replace(plan, clamp_parts=parts)) if one.rule == "field-wiring"}
    assert found == {severity}


@pytest.mark.parametrize(
    ("enclosure", "glands", "is_kept"),
    [("IP65", "IP68", True), ("IP65", "IP54", False), ("IP65", "Type 12", False), ("IP54", "tight", False), ("Type 4", "Type 4", True),
     ("Type 4", "Type 12", False)],
)  # fmt: skip
def test_glands_keep_what_the_enclosure_keeps(enclosure: str, glands: str, is_kept: bool) -> None:
    """IEC 60529 and UL 50E: a second figure or a Type that is not there is not kept."""
    text = IEC.replace("[enclosure]", f'[enclosure]\nrating = "{enclosure}"\nglands = "{glands}"')
    found = [one for one in find_all(plan_of(text)) if one.rule == "opening-rating" and one.evidence == glands]
    assert (found == []) is is_kept


@pytest.mark.parametrize(
    ("marked", "awg"), [(75, "8"), (60, "6")]
)  # UL 508A Table 28.1, from memory: 8 AWG carries 40 A at 60 and 50 A at 75 degC
def test_terminals_for_60_degrees_take_a_thicker_wire_in_north_america(marked: int, awg: str) -> None:
    text = UL.replace("hp = 10", "hp = 30").replace("[supply]", f"terminal_c = {marked}\n[supply]", 1)
    size = next(v for v in plan_of(text).sizing if (v.subject, v.quantity) == ("M1", "conductor_section"))
    assert size.needed == pytest.approx(50.0) and size.text == f"{awg} AWG"  # 125 % of 40 A: NEC Table 430.250, 430.22
