"""The shipped parts: marks follow the standards, sizes are whole, and a bad catalogue says where."""

import math
import re

import pytest

from riktig.catalogue.family import DEVICE_KINDS
from riktig.catalogue.loader import (
    CatalogueError,
    extensions_of,
    find_part,
    parse_parts,
    parts_of_kind,
    shipped_parts,
)
from riktig.catalogue.model import ElementKind, Mounting

_RULES = {  # EN 50005, EN 50011, EN 50012, IEC 60947-1 Annex L, from memory
    ElementKind.NO: r"(\d)3-\1(4)|97-98|107-108",
    ElementKind.NC: r"(\d)1-\1(2)|95-96|105-106",
    ElementKind.AUX_NO: r"(\d)3-\1(4)",
    ElementKind.AUX_NC: r"(\d)1-\1(2)",
    ElementKind.ALARM_NO: r"97-98",
    ElementKind.ALARM_NC: r"95-96",
    ElementKind.CO: r"(\d)1-\1(2)-\1(4)|(\d)5-\4(6)-\4(8)",
    ElementKind.TIMED_CO: r"(\d)5-\1(6)-\1(8)",
    ElementKind.COIL: r"A1-A2",
    ElementKind.LAMP: r"X1-X2",
    ElementKind.SOUNDER: r"X1-X2",
    ElementKind.WINDING: r"U1-V1-W1|([UVW])(1-\1(2)|3-\1(4))|([12])U-\5V-\5W|1U-1V-1W-2U-2V-2W",
}
_CONTACT_SORTS = {ElementKind.NO, ElementKind.NC}


def test_under_a_bolt_lies_the_thinnest_wire_for_which_rings_of_its_hole_are_made() -> None:
    """1.5 mm2 up to M10, 4 mm2 for M12: DIN 46234, from memory."""
    bolted = {p.traits["thread"]: p for p in shipped_parts() if p.kind == "contactor" and "thread" in p.traits}
    least = {thread: part.terminals[0].clamp.mm2_min for thread, part in bolted.items()}
    assert least == {"M8": 1.5, "M10": 1.5, "M12": 4.0}


def test_a_pole_has_the_odd_number_on_the_line_side_and_the_next_even_one_behind() -> None:
    """1/L1-2/T1, 3/L2-4/T2, 5/L3-6/T3: IEC 60947-1 Annex L, from memory."""
    for part in shipped_parts():
        for element in part.elements:
            if element.kind is ElementKind.POLE:
                odd, even = (mark.partition("/") for mark in element.marks)
                assert int(odd[0]) % 2 == 1 and int(even[0]) == int(odd[0]) + 1, part.code
                assert (odd[2][:1], even[2][:1], odd[2][1:]) in {("L", "T", even[2][1:]), ("", "", "")}, part.code


@pytest.mark.parametrize(
    ("code", "marks"),
    [  # EN 50012 11E, 22E; EN 50011 40E, 31E, 22E; from memory
        ("ct9-10", "13-14"),
        ("ct9-10+bf-01", "13-14 21-22"),
        ("ct9-10+bf-13", "13-14 21-22 31-32 41-42 53-54"),
        ("ct115-22", "13-14 21-22 31-32 43-44"),
        ("kr-40", "13-14 23-24 33-34 43-44"),
        ("kr-31", "13-14 21-22 33-34 43-44"),
        ("kr-22", "13-14 21-22 31-32 43-44"),
    ],
)
def test_auxiliary_contacts_carry_the_marks_of_their_distinctive_number(code: str, marks: str) -> None:
    part = find_part(code)
    assert part is not None
    assert " ".join(e.name for e in part.elements if e.kind in _CONTACT_SORTS) == marks


def test_no_two_contacts_of_a_part_share_a_place_number_and_nine_is_left_to_overloads() -> None:
    """The sequence digit counts contacts from 1; 9 belongs to overload relays: EN 50005, from memory."""
    for base in shipped_parts():
        for part in extensions_of(base.code):
            digits = [
                e.marks[0][0]
                for e in part.elements
                if e.kind in _CONTACT_SORTS and e.marks[0] not in {"95", "97", "105", "107"}
            ]
            assert len(set(digits)) == len(digits) and "9" not in digits, part.code
            marks = [m for e in part.elements if e.kind not in _SHARING for m in e.marks]
            assert len(set(marks)) == len(marks), part.code


_SHARING = {ElementKind.INPUT, ElementKind.ENABLE, ElementKind.OUTPUT, ElementKind.ANALOG_IN, ElementKind.ANALOG_OUT,
            ElementKind.THROUGH, ElementKind.SOURCE, ElementKind.EARTH, ElementKind.LOAD}  # fmt: skip


def test_every_kind_of_the_brief_has_parts_and_there_are_enough_of_them() -> None:
    assert all(parts_of_kind(kind) for kind in DEVICE_KINDS)
    assert len(shipped_parts()) >= 150


def test_a_block_extends_what_it_is_made_for_only() -> None:
    assert find_part("ct9-10+br-40") is None and find_part("ct9-10@12AC") is None and find_part("x") is None
    made = find_part("ct9-10+bf-11@230AC")
    assert made is not None and (made.code, made.rating("volts")) == ("ct9-10+bf-11@230AC", 230.0)
    assert made.codes == ("ct9-10@230AC", "bf-11")


def test_marks_follow_the_rules_of_the_standard() -> None:
    for part in shipped_parts():
        for element in part.elements:
            rule = _RULES.get(element.kind)
            assert rule is None or re.fullmatch(rule, element.name), (part.code, element.name)


def test_every_part_is_whole() -> None:
    codes = [part.code for part in shipped_parts()]
    assert len(set(codes)) == len(codes)
    for part in shipped_parts():
        assert min(part.width, part.height, part.depth) > 0
        assert {m for e in part.elements for m in e.marks} == {t.mark for t in part.terminals}
        for terminal in part.terminals:
            clamp = terminal.clamp
            assert 0 <= terminal.x_share <= 1 and clamp.capacity >= 1 and 5 <= clamp.strip_mm <= 40
            assert 0 < clamp.mm2_min < clamp.mm2_max and (clamp.torque_nm > 0) is (clamp.clamp != "spring"), part.code


def test_overload_ranges_leave_no_gap_between_them() -> None:
    ranges = sorted((p.rating("amps_min"), p.rating("amps_max")) for p in parts_of_kind("overload"))
    assert all(low <= high_before for (_, high_before), (low, _) in zip(ranges, ranges[1:], strict=False))


@pytest.mark.parametrize(("text", "words"), [("[[", "is not TOML"), ("[[family]]\ncode = 'x'\n", "family 'x'")])
def test_a_bad_catalogue_is_named(text: str, words: str) -> None:
    with pytest.raises(CatalogueError, match=words):
        parse_parts(text, "mine.toml")


def test_what_is_screwed_to_the_plate_has_holes_that_a_screw_and_its_head_find_room_in() -> None:
    """A washer of M5 is 10 mm wide (ISO 7089): 5 mm to the edge, and no two heads on each other."""
    for part in shipped_parts():
        if part.mounting is Mounting.PLATE and not part.rating("hole_mm"):
            places = [(hole.x, hole.y) for hole in part.holes]
            assert len(places) >= 2, part.code
            assert all(5 <= x <= part.width - 5 and 5 <= y <= part.height - 5 for x, y in places), part.code
            assert all(math.dist(a, b) >= 10 for k, a in enumerate(places) for b in places[:k]), part.code
