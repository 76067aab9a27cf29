"""Columns: what stands on two rails is straight where it can be, never overlaps, and is not pushed further than it must be."""

from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from riktig.plan.place.columns import Member, straight_places


@st.composite
def rails(draw: st.DrawFn) -> tuple[list[Member], list[Member]]:
    """Draw an upper and a lower rail with columns in the same order, other things between them, combs on the upper one."""
    above, below = [], []
    for n in range(draw(st.integers(0, 8))):
        for rail, is_above in ((above, True), (below, False)):
            for _ in range(draw(st.integers(0, 3))):
                column = draw(st.sampled_from([None, n, n]))
                gap = draw(st.sampled_from([0.0, 4.0])) if is_above else 4.0
                left = draw(st.sampled_from([0.0, 0.0, 4.0]))
                span = 2 * left + draw(st.sampled_from([18.0, 45.0, 54.0, 90.0]))
                rail.append(Member(column, left, span, gap if rail else 0.0, stays=is_above and bool(rail) and not gap))
    return above, below


@given(rails(), st.sampled_from([0.0, 30.0]), st.sampled_from([0.0, 30.0]))
def test_columns_are_straight_unless_a_comb_keeps_them_and_nothing_overlaps(
    drawn: tuple[list[Member], list[Member]], left: float, right: float
) -> None:
    above, below = drawn
    places = straight_places(above, below, (left, right))
    for rail, lefts, begin in zip((above, below), places, (left, right), strict=True):
        assert len(lefts) == len(rail) and (not rail or lefts[0] >= begin + rail[0].left)
        for (one, x), (other, y) in pairwise(zip(rail, lefts, strict=True)):
            assert y - other.left >= x - one.left + one.span + other.gap - 1e-9
    first = [{}, {}]
    for found, rail, lefts in zip(first, (above, below), places, strict=True):
        for place, (member, x) in enumerate(zip(rail, lefts, strict=True)):
            if member.column is not None:
                found.setdefault(member.column, (place, x))
    for column in first[0].keys() & first[1].keys():
        (place, upper), (_, lower) = first[0][column], first[1][column]
        is_joined = above[place].stays
        assert abs(upper - lower) < 1e-9 or (is_joined and lower > upper), column


def test_a_wide_column_pushes_what_is_above_aside_and_a_comb_does_not_let_go() -> None:
    """Three columns of 54 over 94, 45 and 45 mm, by hand."""
    below = [Member("a", 0, 94, 0), Member("b", 0, 45, 4), Member("c", 0, 45, 4)]
    apart = [Member("a", 0, 54, 0), Member("b", 0, 54, 4), Member("c", 0, 54, 4)]
    assert straight_places(apart, below, (0, 0)) == ([0, 98, 156], [0, 98, 156])
    joined = [Member("a", 0, 54, 0), Member("b", 0, 54, 0, stays=True), Member("c", 0, 54, 0, stays=True)]
    assert straight_places(joined, below, (0, 0)) == ([0, 54, 108], [0, 98, 147])
