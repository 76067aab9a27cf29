"""Texts measured, fitted and wrapped; expected lines by hand."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from riktig.drawings.display import Anchor, Text
from riktig.drawings.text_width import fit_text, text_box, text_width, wrap_text


def test_a_text_that_fits_stays_and_a_longer_one_is_cut_with_an_ellipsis() -> None:
    assert fit_text("K12", 10.0, 2.5) == "K12"
    cut = fit_text("Overload relay of the apple elevator", 20.0, 2.5)
    assert cut.endswith("…") and text_width(cut, 2.5) <= 20.0


@settings(max_examples=examples(200))
@given(st.text("abc -xyz1.", min_size=1, max_size=60), st.floats(8.0, 60.0), st.integers(1, 4))
def test_wrapped_lines_fit_are_not_too_many_and_lose_no_letter_unless_cut(text: str, room: float, most: int) -> None:
    lines = wrap_text(text, room, 2.5, most)
    assert len(lines) <= most and all(text_width(line, 2.5) <= room for line in lines)
    if lines and not lines[-1].endswith("…") and text.strip():
        assert "".join("".join(lines).split()) == "".join(text.split()) or any("…" in line for line in lines)


def test_a_word_that_is_too_long_parts_at_its_hyphen_and_a_fixed_space_never() -> None:
    assert wrap_text("Phase-monitoring relay", 20.0, 2.5, 3) == ["Phase-", "monitoring", "relay"]
    assert wrap_text("D 12\u00a0A", 9.0, 2.5, 2) == ["D", "12 A"]


@pytest.mark.parametrize(
    ("anchor", "is_upright", "box"),
    [
        (Anchor.LEFT, False, (10, 20, 10, None)),
        (Anchor.RIGHT, False, (None, 20, 10, None)),
        (Anchor.LEFT, True, (None, 20, 10, None)),
    ],
)
def test_the_room_of_a_text_lies_by_its_anchor_and_turned_it_reads_upward(
    anchor: Anchor, is_upright: bool, box: tuple[float | None, ...]
) -> None:
    left, bottom, right, top = text_box(Text(x=10, y=20, text="K1", anchor=anchor, is_upright=is_upright))
    width, height = text_width("K1", 2.5), 2.5 * 1.06
    if is_upright:
        assert (right - left, top - bottom) == pytest.approx((height, width))
        assert (right, bottom) == pytest.approx((10, 20))
    else:
        assert (right - left, top - bottom) == pytest.approx((width, height))
        assert (left if anchor is Anchor.LEFT else right, bottom) == pytest.approx((10, 20))
