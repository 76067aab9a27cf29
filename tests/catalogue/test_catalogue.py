"""The shipped parts: marks follow the standards, sizes are whole, and a bad catalogue says where."""

import re

import pytest

from riktig.catalogue.loader import CatalogueError, parse_parts, parts_of_kind, shipped_parts
from riktig.catalogue.model import ElementKind

_RULES = {  # EN 50005, EN 50011, EN 50012, IEC 60947-1 Annex L, from memory
    ElementKind.NO: r"\d+3-\d+4|97-98",
    ElementKind.NC: r"\d+1-\d+2|95-96",
    ElementKind.CO: r"(\d+)1-\1(2)-\1(4)",
    ElementKind.COIL: r"A1-A2",
    ElementKind.LAMP: r"X1-X2",
}


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


def test_overload_ranges_leave_no_gap_between_them() -> None:
    ranges = sorted((p.rating("amps_min"), p.rating("amps_max")) for p in parts_of_kind("overload"))
    assert all(low <= high_before for (_, high_before), (low, _) in zip(ranges, ranges[1:], strict=False))


@pytest.mark.parametrize(("text", "words"), [("[[", "is not TOML"), ("[[family]]\ncode = 'x'\n", "family 'x'")])
def test_a_bad_catalogue_is_named(text: str, words: str) -> None:
    with pytest.raises(CatalogueError, match=words):
        parse_parts(text, "mine.toml")
