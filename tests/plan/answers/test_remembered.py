"""What is remembered of an answer comes to the same as asking anew."""

from hypothesis import given
from hypothesis import strategies as st

from riktig.plan.answers.remembered import Sifted

# One pool of objects, so that a row that stays is the very same one.
_POOL = tuple((number, "row") for number in range(20))
_LIMITS = tuple([limit] for limit in (3, 9, 15))


@given(st.lists(st.tuples(st.lists(st.sampled_from(_POOL), unique=True), st.sampled_from(_LIMITS)), max_size=8))
def test_rows_sifted_after_changes_are_those_of_a_sieve_that_remembers_nothing(
    turns: list[tuple[list[tuple[int, str]], list[int]]],
) -> None:
    asked: list[tuple[int, str]] = []

    def is_found(row: tuple[int, str], by: list[int]) -> bool:
        asked.append(row)
        return row[0] > by[0]

    sifted = Sifted(is_found)
    before: tuple[set[tuple[int, str]], list[int] | None] = (set(), None)
    for rows, by in turns:
        asked.clear()
        assert sifted.of(rows, by) == [row for row in rows if row[0] > by[0]]
        new = set(rows) - before[0] if by is before[1] else set(rows)
        assert set(asked) == new, "only rows that are new are asked"
        before = (set(rows), by)
