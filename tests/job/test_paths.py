"""The grammar of paths: what reads, and what is refused at which column."""

import pytest

from riktig.job.paths import PathError, nodes_of, parse_path, refs_of, write_path


def test_a_path_reads_into_its_items() -> None:
    path = parse_path("C1+ > S1 > @a > (S9:no | K9:13-14 > B3) > K9:coil > C1-")
    assert [ref.device for ref in refs_of(path)] == ["S1", "S9", "K9", "B3", "K9"]
    assert [nodes.names for nodes in nodes_of(path)] == [("C1+",), ("@a",), ("C1-",)]


def test_a_feeder_carries_several_conductors_and_an_exchange() -> None:
    path = parse_path("L1 L2 L3 > Q7 > (K7 | K8[3 2 1]) > F7 > M7", is_feeder=True)
    assert [ref.order for ref in refs_of(path)] == [None, None, (3, 2, 1), None, None]
    assert refs_of(parse_path("C1+ > M1.K:13-14 > C1-"))[0].marks == ("13", "14")


def test_brackets_round_one_branch_mean_nothing() -> None:
    assert (
        write_path(parse_path("C1+ > (S1:nc > (K2:no)) > ((S2 | (K1))) > C1-"))
        == "C1+ > S1:nc > K2:no > (S2 | K1) > C1-"
    )


@pytest.mark.parametrize(
    ("text", "column", "words"),
    [
        ("C1+", 1, "two items or more"),
        ("K1 > C1-", 1, "begins with a potential"),
        ("C1+ > K1", 7, "ends in"),
        ("C1+ > (S1 | K1 > C1-", 18, "begins and ends with an element"),
        ("C1+ > (S1 | K1", 7, "not closed"),
        ("C1+ > > C1-", 7, "missing here"),
        ("C1+ > C1-", 7, "nothing between"),
        ("C1+ N > K1 > C1-", 1, "use \\[\\[feeder\\]\\]"),
        ("C1+ > K1:1-2-3 > C1-", 7, "no pair of marks"),
        ("C1+ > K1[2 2] > C1-", 7, "no order"),
        ("C1+ > K1 ) > C1-", 10, "does not belong here"),
        ("C1+ > 1K > C1-", 7, "is no element"),
    ],
)
def test_a_bad_rung_is_refused_at_its_column(text: str, column: int, words: str) -> None:
    with pytest.raises(PathError, match=words) as caught:
        parse_path(text)
    assert caught.value.column == column


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("L1 L2 > Q1 > @a", "widths must agree"),
        ("L1 L2 > Q1[1 2 3] > M1", "3 places for 2"),
        ("L1 L2 > Q1:1-2 > M1", "one pole for 2"),
    ],
)
def test_widths_of_a_feeder_must_agree(text: str, words: str) -> None:
    with pytest.raises(PathError, match=words):
        parse_path(text, is_feeder=True)
