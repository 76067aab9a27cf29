"""Rows that are as they were stay the very same objects."""

from dataclasses import dataclass, field

from hypothesis import given
from hypothesis import strategies as st

from riktig.pipeline.rows import FEW, by_row, keep_rows


@dataclass(frozen=True)
class Row:
    id: str
    value: int


@dataclass(frozen=True)
class Whole:
    rows: tuple[Row, ...]
    by_name: dict[str, Row] = field(default_factory=dict)


ROWS = st.lists(st.tuples(st.integers(0, 60), st.integers(0, 3)), min_size=FEW, max_size=60, unique_by=lambda r: r[0])


def rows_of(pairs: list[tuple[int, int]]) -> tuple[Row, ...]:
    return tuple(Row(f"r{n}", value) for n, value in pairs)


@given(ROWS, ROWS)
def test_a_result_is_equal_and_has_the_old_row_wherever_that_is_equal(
    before: list[tuple[int, int]], after: list[tuple[int, int]]
) -> None:
    old, new = (
        Whole(rows_of(before), {r.id: r for r in rows_of(before)}),
        Whole(rows_of(after), {r.id: r for r in rows_of(after)}),
    )
    kept = keep_rows(new, old)
    assert kept == new and list(kept.by_name) == list(new.by_name)
    known = {row.id: row for row in old.rows}
    assert all(row is known[row.id] for row in kept.rows if known.get(row.id) == row)
    assert all(row is old.by_name[name] for name, row in kept.by_name.items() if old.by_name.get(name) == row)


def test_rows_without_a_name_are_known_by_themselves_or_by_their_place() -> None:
    old = tuple(("a", n) for n in range(1000, 1030))
    new = (("b", 1), *(("a", n) for n in range(1000, 1030)))
    assert all(row is before for row, before in zip(keep_rows(new, old)[1:], old, strict=True))
    unhashable = tuple([n] for n in range(30))
    again = keep_rows((*([n] for n in range(29)), [99], [100]), unhashable)
    assert again[0] is unhashable[0] and again[-2:] == ([99], [100])


def test_a_row_is_made_again_only_where_what_it_depends_on_differs() -> None:
    made: list[str] = []

    @by_row
    def row(name: str, parts: tuple[int, ...]) -> list[int]:
        made.append(name)
        return [sum(parts)]

    first = row("a", (1, 2))
    assert row("a", (1, 2)) is first and row("b", (1, 2)) == [3] and made == ["a", "b"]
    assert row("a", (2, 2)) == [4] and row("a", (1, 2)) == [3]
    assert made == ["a", "b", "a", "a"], "the last one of each name is remembered"
