"""Editing a path by its elements: expected texts by hand; what is put in can be taken out again."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from riktig.job.path_edits import close_gap, element_at, open_parallel, open_series, swap_sort, take_out
from riktig.job.paths import PathError, parse_path, refs_of, write_path

RUNG = "C1+ > S1:nc > (S2:no | K1:no) > K1:coil > C1-"


def column(text: str, element: str) -> int:
    return text.index(element) + 1


@pytest.mark.parametrize(
    ("element", "is_before", "expected"),
    [
        ("S1:nc", False, "C1+ > S1:nc > K9:no > (S2:no | K1:no) > K1:coil > C1-"),
        ("S1:nc", True, "C1+ > K9:no > S1:nc > (S2:no | K1:no) > K1:coil > C1-"),
        ("K1:no", False, "C1+ > S1:nc > (S2:no | K1:no > K9:no) > K1:coil > C1-"),
    ],
)
def test_an_element_is_put_in_series(element: str, is_before: bool, expected: str) -> None:
    gap = open_series(RUNG, column(RUNG, element), is_before=is_before)
    assert close_gap(gap, "K9:no") == expected


@pytest.mark.parametrize(
    ("element", "expected"),
    [
        ("S1:nc", "C1+ > (S1:nc | K9:no) > (S2:no | K1:no) > K1:coil > C1-"),
        ("K1:no", "C1+ > S1:nc > (S2:no | K1:no | K9:no) > K1:coil > C1-"),
        ("K1:coil", "C1+ > S1:nc > (S2:no | K1:no) > (K1:coil | K9:no) > C1-"),
    ],
)
def test_an_element_is_put_in_parallel(element: str, expected: str) -> None:
    assert close_gap(open_parallel(RUNG, column(RUNG, element)), "K9:no") == expected


@pytest.mark.parametrize(
    ("element", "expected"),
    [
        ("S1:nc", "C1+ > (S2:no | K1:no) > K1:coil > C1-"),
        ("K1:no", "C1+ > S1:nc > S2:no > K1:coil > C1-"),
    ],
)
def test_an_element_is_taken_out_and_a_group_of_one_opens(element: str, expected: str) -> None:
    assert take_out(RUNG, column(RUNG, element)) == expected


def test_the_last_element_of_a_path_cannot_be_taken_out() -> None:
    with pytest.raises(PathError):
        take_out("C1+ > P1 > C1-", 7)


def test_make_and_break_are_swapped_and_a_coil_stays() -> None:
    assert swap_sort(RUNG, column(RUNG, "S1:nc")).startswith("C1+ > S1:no >")
    assert swap_sort(RUNG, column(RUNG, "K1:coil")) == RUNG
    assert element_at(RUNG, column(RUNG, "K1:no")).what == "no"
    with pytest.raises(KeyError):
        element_at(RUNG, 2)


_NAMES = st.sampled_from(["K1:no", "S2:nc", "K3:13-14", "P4"])


@st.composite
def _series(draw: st.DrawFn, depth: int = 2) -> str:
    parts = []
    for _ in range(draw(st.integers(1, 3))):
        if depth and draw(st.integers(0, 2)) == 0:
            parts.append(f"({' | '.join(draw(st.lists(_series(depth=depth - 1), min_size=2, max_size=3)))})")
        else:
            parts.append(draw(_NAMES))
    return " > ".join(parts)


@settings(max_examples=examples(150))
@given(_series(), st.integers(0, 50), st.booleans(), st.booleans())
def test_what_is_put_in_anywhere_is_a_path_and_taken_out_again_leaves_the_old_one(
    body: str, pick: int, is_parallel: bool, is_before: bool
) -> None:
    text = write_path(parse_path(f"C1+ > {body} > C1-"))
    refs = refs_of(parse_path(text))
    at = refs[pick % len(refs)].column
    gap = open_parallel(text, at) if is_parallel else open_series(text, at, is_before=is_before)
    longer = close_gap(gap, "NEW:no")
    added = next(ref for ref in refs_of(parse_path(longer)) if ref.device == "NEW")
    again = take_out(longer, added.column)
    assert [(r.device, r.what) for r in refs_of(parse_path(again))] == [(r.device, r.what) for r in refs]
