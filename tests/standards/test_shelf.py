"""The shop's shelf: what is read from it is remembered, and nothing of it is given out while it is shut."""

import pytest

from riktig.catalogue.loader import find_part, parts_of_kind
from riktig.standards.shelf import ShutShelf, from_shelf, shut_shelf
from riktig.standards.tables import read_table


def test_what_was_read_is_remembered_until_it_is_forgotten() -> None:
    asked: list[str] = []

    @from_shelf
    def read(name: str) -> str:
        asked.append(name)
        return name.upper()

    assert (read("a"), read("a"), asked) == ("A", "A", ["a"])
    read.forget()
    assert read("a") == "A" and asked == ["a", "a"]


@pytest.mark.parametrize(
    "read", [lambda: read_table("enclosure_k"), lambda: parts_of_kind("relay"), lambda: find_part("x")]
)
def test_parts_and_tables_are_refused_while_the_shelf_is_shut_also_where_they_are_known(read) -> None:  # type: ignore[no-untyped-def]
    read()
    with shut_shelf(), pytest.raises(ShutShelf, match="is no declared input"):
        read()
    read()
